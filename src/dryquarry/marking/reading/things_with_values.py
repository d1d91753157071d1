"""Things that a reply gives a value each, where it is asked which have one of them: "Ada: blue; Bo: red"."""

from __future__ import annotations

from dryquarry.marking.reading.asked_lists import things_asked
from dryquarry.marking.reading.echo import content_of, question_in
from dryquarry.marking.reading.members_named import NamedMember, member_at
from dryquarry.marking.regexes import regex

FEWEST_ENTRIES = 2
MOST_ENTRIES = 40
_PART = regex(r"[^\n;,.]+")
_LETTER = regex(r"[^\W_]")
_ENTRY = regex(
    r"[^\w(]{0,12}(?:\d{1,2}[.)]\s+)?(?P<one>[^\W_][^:=→|()–—]{0,40}?)\W{0,4}?(?:\s*[:→|]\s*|\s+[–—-]\s+|\s*\()\W{0,4}"
    r"(?P<value>(?:[^\W_][\w'’-]*\s*){1,4})[^\w]{0,6}"
)
# "Ada has a blue one, Bo a red one and Cleo a blue one."
_GAPPED = regex(
    r"(?:,\s+(?:and\s+|while\s+|but\s+)?|\s+(?:and|while|but)\s+)(?=(?:the\s+[^\W\d_]+|[A-Z][^\W\d_]+)\s+(?:[a-z]+\s+)?(?:an?|the)\s)"
)
_HAS_ONE = regex(
    r"\W*(?P<one>(?:[Tt]he\s+)?[^\W\d_]+)\s+(?:(?P<verb>[a-z]{2,})\s+)?"
    r"(?:an?|the)\s+(?P<value>[^\W\d_]+)(?:\s+(?:ones?|[^\W\d_]+))?\W*"
)
_NOT = regex(r"\b(?:not?|never|none|without)\b|n['’]t\b")


def with_value_asked(text: str, start: int, end: int, asked: str) -> tuple[NamedMember, ...]:
    """Return the things whose value is one that the question names, where others have other values; none else."""
    parts = [part for part in _PART.finditer(text, start, end) if _LETTER.search(part.group())]
    if not FEWEST_ENTRIES <= len(parts) <= MOST_ENTRIES or _NOT.search(question_in(asked).lower()):
        return ()
    entries = [_ENTRY.fullmatch(text, *part.span()) for part in parts]
    if None in entries:
        ends = [(one.start(), one.end()) for one in _GAPPED.finditer(text, start, end)]
        begins = [start, *(last for _, last in ends)]
        stops = [*(first for first, _ in ends), end]
        entries = [_HAS_ONE.fullmatch(text, *span) for span in zip(begins, stops, strict=True)]
        if len(entries) < FEWEST_ENTRIES or entries[0] is None or not entries[0]["verb"]:
            return ()
    if None in entries or any(one and _NOT.search(one["value"].lower()) for one in entries):
        return ()
    listed = {word for thing in things_asked(asked) for word in content_of(thing)}
    wanted = content_of(question_in(asked)) - listed
    # the values of all that have none of it may not be named, either: "Which is redder, the blue or the green one?"
    right = [one for one in entries if one and (content := content_of(one["value"])) and content <= wanted]
    others = [one for one in entries if one and (content := content_of(one["value"])) and not content & wanted]
    if not right or not others or len(right) + len(others) < len(entries):
        return ()
    if any(content_of(one["one"]) & wanted for one in right):
        return ()  # the label itself may be what is asked about
    return tuple(member_at(text, *one.span("one")) for one in right)
