"""How a stretch is parted into the members that it names, and what of each is the member itself."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from dryquarry.marking.reading.claims import Found
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.texts import trimmed

# The text of a member, and where it stands.
NamedMember = tuple[str, int, int]
MOST_MEMBERS = 500


@dataclass(frozen=True, slots=True)
class Members:
    """The members that a stretch names, each with its place; `readings` are other ways to part them, if there are."""

    members: tuple[NamedMember, ...]
    others: tuple[tuple[NamedMember, ...], ...] = ()
    tied: bool = False

    @property
    def texts(self) -> tuple[str, ...]:
        """The members without their places."""
        return tuple(text for text, _, _ in self.members)

    def backwards(self) -> Members:
        """Return the members in the opposite order."""
        return replace(self, members=self.members[::-1], others=tuple(other[::-1] for other in self.others))

    @property
    def ways(self) -> tuple[tuple[str, ...], ...]:
        """All ways in which the stretch can be parted, the likeliest first."""
        return (self.texts, *(tuple(text for text, _, _ in other) for other in self.others))


def in_order(members: tuple[NamedMember, ...]) -> Found[Members]:
    """Return a list whose members may stand in another order than they are named in."""
    return Found(Members(members), min(start for _, start, _ in members), max(end for _, _, end in members))


STRONG = regex(r"[,;]\s*(?=\S)")
_LEAD = regex(
    r"\W*(?:(?:so|therefore|thus|hence|these|they|it|the (?:\w+ )?(?:answer|order|list|sequence|"
    r"members|result|solutions?)|(?:the )?(?:letters|numbers|words|months|planets)(?= \S+,)|"
    r"both|all of|either|just|only|first(?:ly)?|namely|i\.e\.|also|"
    r"none(?: of (?:them|these|those|the \w+))? (?:but|except|other than|save)|"
    r"in order|x|one|"
    r"comes?|1st|2nd|3rd|\d+th|second(?:ly)?|third(?:ly)?|fourth|fifth|last(?:ly)?|finally|next|then|"
    r"and|of course|place \d+|\d{1,2}[.):](?=\s)|\(\w\)|the (?=\S))\b[:,]?\s*|[a-z]\s*=\s*)",
    re.IGNORECASE,
)
_MEMBER_LEAD = regex(
    r"\W*(?:(?:first(?:ly)?|second(?:ly)?|third(?:ly)?|fourth(?:ly)?|fifth|last(?:ly)?|final(?:ly)?|"
    r"(?:mainly|mostly|chiefly|largely|every|each)|(?:an?\s+(?:bit|little|touch|pinch|dash)\s+of|a\s+little|some)(?=\s+[a-z]+\W*\Z)|next|then|at\s+last|at\s+the\s+end|in\s+the\s+end|last\s+of\s+all|(?:[^\W_]+\s+){1,2}(?:later|afterwards|after\s+(?:that|it|them|which))|"
    r"comes?(?=\s+[A-Z\d])|after\s+(?:it|that|them|which)|"
    r"and|also|of course|only|just|both|either|1st|2nd|3rd|\d{1,2}th|"
    r"(?:it\s+)?(?:starts|begins)\s+(?:out\s+)?(?:as|with)|becomes?|turns\s+into|grows\s+into|develops\s+into|ends\s+(?:up\s+)?(?:as|with))(?:\s+comes?|\s+is|"
    r"\s+the(?=\s+\w+\s*$))?[:,]?\s+|\d{1,2}[.)]\s+|\d\ufe0f?\u20e3\s*|\d{1,4}:\s+|[a-z]_?\d?\s*=\s*|[=∈]\s*\{?)",
    re.IGNORECASE,
)
_REMARK = regex(
    r"\s+(?:do|does|did|are|is|can|have|has|only)\W*$|"
    r"\s+(?:first|second|third|fourth|fifth|last)\s*$|"
    r"\s+in\s+the\s+(?:first|second|third|fourth|fifth|last|middle|other)(?:\s+one)?\s*$|"
    r"\s*(?:\([^()]*\)|\[[^\[\]]*\])\s*$|\s+[–—-]\s.*$|\s*—.*$|:\s.*$|(?<=[^\W_]{2})\s*[=≈]\s.*$|"
    r"(?<=\d)\s*[=≈]\s.*$|\s+(?:comes|came|goes|went|is|are|was|were)\s+(?:\w+ed\s+)?(?:first|second|third|fourth|fifth|last|"
    r"next|at the (?:top|bottom|start|end|front)|in (?:first|second|third|last) place).*$",
    re.DOTALL | re.IGNORECASE,
)
# "red and, thickest of all, blue"
_AND_AT_END = regex(r"\s+and\Z")
_ITSELF = regex(r"\s+(?:itself|himself|herself|themselves)\Z", re.IGNORECASE)
ADDED = regex(
    r"\s(?:(?:comes?|came|arrives?|arrived)\s+)?(?:with|at|to|having|from|because|who|which|on|in|of(?=\s+\d))\s.*$",
    re.IGNORECASE,
)
COUNTED = regex(
    r"(?<=[^\W\d_])(?<!first)(?<!second)(?<!third)(?<!fourth)(?<!fifth)(?<!last)\s+\d[\d.,]*(?:\s?[^\W\d_]+)?$"
)


def hide_brackets(stretch: str) -> str:
    """Return a stretch with dots for what stands in brackets, of the same length."""
    hidden = _IN_BRACKETS.sub(lambda match: "·" * len(match.group()), stretch)
    return _THOUSANDS.sub("·", hidden)


# "Birk with 11,400": the comma parts no members
_THOUSANDS = regex(
    r"(?<=[^\W\d_]\s[1-9]),(?=\d{3}(?!\d))|(?<=[^\W\d_]\s[1-9]\d),(?=\d{3}(?!\d))|(?<=[^\W\d_]\s[1-9]\d\d),(?=\d{3}(?!\d))"
)


_IN_BRACKETS = regex(
    r"\((?!\d{1,2}\)\s)[^()]*\)|\s[–—-]\s(?:in\s+a\s+way|so\s+to\s+speak|as\s+it\s+were|of\s+course|if\s+you\s+like|strictly\s+speaking|I\s+think|"
    r"(?:even\s+)?(?:though|although)\s[^–—;.]{1,60}?)\s[–—-](?=\s)"
)


def members_of(text: str, start: int, end: int, pattern: re.Pattern[str]) -> tuple[NamedMember, ...]:
    """Return the members of a stretch, parted by what a pattern finds outside of brackets."""
    lead = _LEAD.match(text, start, end)
    while lead and start < lead.end() < end:
        start = lead.end()
        lead = _LEAD.match(text, start, end)
    hidden = hide_brackets(text[start:end])
    members = []
    place = 0
    for match in [*pattern.finditer(hidden), None]:
        stop = match.start() if match else len(hidden)
        said = member_at(text, start + place, start + stop)
        if said[0] and not _DOTS.fullmatch(said[0]):
            members.append(said)
        place = match.end() if match else stop
        if len(members) == MOST_MEMBERS:
            break
    return tuple(members)


# "5, -10, 20, -40, \dots"
_DOTS = regex(
    r"[.…\s]+|\\[clv]?dots|(?:and\s+)?so\s+(?:on|forth)|etc\.?|of\s+course|naturally|as\s+well|in\s+(?:this|that|exactly\s+this)\s+order|"
    r"(?:the\s+)?(?:[^\W\d_]+est|first|last)\s+of\s+all|the\s+(?:only|first|last)\s+(?:[a-z]+\s+)?ones?|nothing\s+else|no\s+others?|that's\s+(?:all|it)|"
    r"(?:two|three|four|five|six|seven|eight|nine|ten|\d+)\s+(?:[^\W\d_]+\s+)?(?:in\s+all|in\s+total|altogether|of\s+them)",
    re.IGNORECASE,
)
WAY_THERE = regex(
    r".*\b(?:at|past|by|through|to|into|over|along|across|from|with|on|in|under)\s+(?=\S)", re.IGNORECASE | re.DOTALL
)


_STRONG_OR_AND = regex(r"[,;]\s*(?:and\s+)?(?=\S)|\s+and\s+")


def results_of(text: str, start: int, end: int) -> tuple[NamedMember, ...] | None:
    """Return the right sides where members are equations: "2¹ = 2, 2² = 4", "14 and 2·14 = 28"; None where none is."""
    ends = [match.span() for match in _STRONG_OR_AND.finditer(text, start, end)]
    bounds = [start, *(bound for span in ends for bound in span), end]
    sides = [text.rfind("=", first, last) for first, last in zip(bounds[::2], bounds[1::2], strict=True)]
    spans = list(zip(bounds[::2], bounds[1::2], strict=True))
    plain = [
        side >= 0 or _PLAIN_NUMBER.fullmatch(text, *span) is not None for side, span in zip(sides, spans, strict=True)
    ]
    if len(sides) < 2 or max(sides) < 0 or not all(plain):
        return None
    return tuple(
        member_at(text, side + 1 if side >= 0 else first, last)
        for side, (first, last) in zip(sides, spans, strict=True)
    )


_PLAIN_NUMBER = regex(r"\W*\d[\d.,]*\W*")


def after_preposition(text: str, member: NamedMember) -> NamedMember:
    """Return what stands last in a member with a verb of its own: "you go past the creek"."""
    _, start, end = member
    way = WAY_THERE.match(text, start, end)
    start = way.end() if way else start
    return " ".join(text[start:end].split()), start, end


def without_ways(text: str, members: tuple[NamedMember, ...]) -> tuple[NamedMember, ...]:
    """Return members without the way to each: "It calls at the Green first, then at the Mill"."""
    led = len(members) > 1 and all(WAY_THERE.search(member) for member, _, _ in members)
    return tuple(after_preposition(text, member) for member in members) if led else members


def stripped_of(member: NamedMember, what: re.Pattern[str]) -> NamedMember:
    """Return a member without what is added to it: "the gull with two legs", "Corr 90 days"."""
    said, start, end = member
    added = what.search(said)
    return (said[: added.start()], start, end) if added else member


# "first you knot, then you must cut"
_ONE_DOES = regex(
    r"\W*(?:you|we|i|he|she|they|one)\s+(?:(?:must|should|can|have\s+to|has\s+to|needs?\s+to)\s+)?(?=[a-z]+\W*\Z)",
    re.IGNORECASE,
)


def member_at(text: str, start: int, end: int) -> NamedMember:
    """Return a member without a place number, quotes and what is said about it."""
    lead = _MEMBER_LEAD.match(text, start, end)
    if lead and lead.end() < end:
        start = lead.end()
    if (does := _ONE_DOES.match(text, start, end)) is not None:
        start = does.end()
    start, end = trimmed(text, start, end)
    joint = _AND_AT_END.search(text, start, end)
    end = joint.start() if joint else end
    itself = _ITSELF.search(text, start, end)
    end = itself.start() if itself else end
    remark = _REMARK.search(text, start + 1, end)
    if remark and text[start : remark.start()].strip():
        start, end = trimmed(text, start, remark.start())
    return " ".join(text[start:end].split()), start, end


def without_shared(members: tuple[NamedMember, ...]) -> tuple[NamedMember, ...]:
    """Return members without what all of them end with: "Cole tower, Bern tower", "Corr's, Brin's"."""
    if len(members) > 1 and all(member.endswith(("'s", "’s")) for member, _, _ in members):
        return tuple((member[:-2], start, end - 2) for member, start, end in members)
    last = {member.split()[-1].casefold() for member, _, _ in members if len(member.split()) > 1}
    if len(members) < 2 or len(last) != 1 or any(len(member.split()) < 2 for member, _, _ in members):
        return members
    return tuple((member.rsplit(None, 1)[0], start, end) for member, start, end in members)
