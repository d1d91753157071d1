"""Things that a reply gives a value each, where it is asked which have one of them: "Ada: blue; Bo: red"."""

from __future__ import annotations

import re

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
    r"(?:,\s{1,4}(?:and\s+|while\s+|but\s+)?|\s(?:and|while|but)\s{1,4})"
    r"(?=(?:the\s+[^\W\d_]+|[A-Z][^\W\d_]+)\s+(?:[a-z]+\s+)?(?:an?|the)\s)"
)
_HAS_ONE = regex(
    r"\W*(?P<one>(?:[Tt]he\s+)?[^\W\d_]+)\s+(?:(?P<verb>[a-z]{2,})\s+)?"
    r"(?:an?|the)\s+(?P<value>[^\W\d_]+)(?:\s+(?:ones?|[^\W\d_]+))?\W*"
)
_NOT = regex(r"\b(?:not?|never|none|without)\b|n['’]t\b")


def _entries(text: str, start: int, end: int) -> list[re.Match[str]]:
    """Return the things and values that a stretch is made of; nothing where it has anything else."""
    parts = [part.span() for part in _PART.finditer(text, start, end) if _LETTER.search(part.group())]
    entries = [one for part in parts if (one := _ENTRY.fullmatch(text, *part)) is not None]
    if len(entries) < len(parts):
        ends = [(one.start(), one.end()) for one in _GAPPED.finditer(text, start, end)]
        parts = list(zip([start, *(last for _, last in ends)], [*(first for first, _ in ends), end], strict=True))
        entries = [one for part in parts if (one := _HAS_ONE.fullmatch(text, *part)) is not None]
        if not entries or not entries[0]["verb"]:
            return []
    return entries if len(entries) == len(parts) and FEWEST_ENTRIES <= len(parts) <= MOST_ENTRIES else []


def with_value_asked(text: str, start: int, end: int, asked: str) -> tuple[NamedMember, ...]:
    """Return the things whose value is one that the question names, where others have other values; none else."""
    entries = _entries(text, start, end) if not _NOT.search(question_in(asked).lower()) else []
    listed = {word for thing in things_asked(asked) for word in content_of(thing)}
    wanted = content_of(question_in(asked)) - listed
    values = [(one, content_of(one["value"]), _NOT.search(one["value"].lower())) for one in entries]
    right = [one for one, value, denied in values if value and value <= wanted and not denied]
    others = [one for one, value, denied in values if denied or (value and not value & wanted)]
    if not right or not others or len(right) + len(others) < len(entries):
        return ()
    if any(content_of(one["one"]) & wanted for one in right):
        return ()  # the label itself may be what is asked about
    return tuple(member_at(text, *one.span("one")) for one in right)
