"""Which of several is the first, the second or the last, as a sentence tells it: "Skye comes first, then Mull"."""

from __future__ import annotations

import re

from dryquarry.marking.reading.constructions import Construction, Span
from dryquarry.marking.reading.echo import echo
from dryquarry.marking.reading.ranks_said import ASKS_SECOND
from dryquarry.marking.regexes import regex

_NAME = (
    r"(?:the\s+)?(?!(?:It|This|That|He|She|They|What|Which|There)\b)[A-Z][\w'’-]*"
    r"(?:\s+(?:of\s+(?:the\s+)?)?[A-Z][\w'’-]*)*"
)
_ASKS_FIRST = regex(r"\A(?!.*\b(?:second|third|last|least|fewest)\b).*\b(?:[a-z]{3,}est|most|first)\b", re.DOTALL)
# "Skye comes first (1,656 km²), then Mull (875 km²)."
_COMES_FIRST = regex(
    rf"(?:\A|[:;,]\s)\W*(?P<one>{_NAME})\s+(?:(?:comes|is|ranks|stands)\s+(?:clearly\s+|easily\s+)?(?:first|at\s+the\s+top|in\s+first\s+place|number\s+one)|"
    r"takes\s+(?:the\s+)?first\s+place|leads(?=\W*\Z|,|\s\(|\s+the\b|\s+with\b)|tops\s+(?:the|this)\b|heads\s+(?:the|this)\b|beats\s+(?:them\s+)?all\b)"
)
# "Kilimanjaro is the highest, Mount Kenya comes next."
_COMES_SECOND = regex(
    rf"(?:\A|[;,]\s|\band\s)\W*(?P<one>{_NAME})\s+(?:(?:comes|is|ranks|follows|stands)\s+(?:next|second|after\s+(?:it|that)|in\s+second\s+place|number\s+two|behind\s+it)\b|"
    r"follows(?=\W*\Z|[,;(])|takes\s+(?:the\s+)?second\s+place)"
)
# "The next one, Mount Kenya, reaches 5,199 m."
_NEXT_ONE = regex(rf"\A\W*[Tt]he\s+(?:next|second)(?:\s+[a-z]+)?(?:,|\s+is|:)\s+(?P<one>{_NAME})")
# "…, the runner-up Mount Kenya."
_RUNNER_UP = regex(rf"\b[Tt]he\s+runner-?up(?:,|\s+is|:)?\s+(?P<one>{_NAME})")
# "Second to Kilimanjaro: Mount Kenya"
_SECOND_TO = regex(rf"\A\W*second\s+to\s+{_NAME}\s*[:,]\s+(?P<one>{_NAME})", re.IGNORECASE)

RANKS = (
    Construction(_COMES_FIRST, _ASKS_FIRST, words=("first", "top", "one", "leads", "heads", "beats")),
    Construction(_COMES_SECOND, ASKS_SECOND, words=("next", "second", "after", "two", "behind", "follows")),
    Construction(_NEXT_ONE, ASKS_SECOND, words=("next", "second")),
    Construction(_RUNNER_UP, ASKS_SECOND, words=("runner",)),
    Construction(_SECOND_TO, ASKS_SECOND, words=("econd to",)),
)

_PLACES = {"first": 0, "second": 1, "third": 2, "fourth": 3, "fifth": 4, "last": -1}
# "Of Skye, Mull, Islay and Jura, the first is the largest."
_OF_THESE = regex(
    r"\W*(?:of|among|between)\s+(?P<row>[^;:.\n]+?),?\s+(?:only\s+)?the\s+(?P<place>first|second|third|fourth|fifth|last)"
    r"(?:\s+one|\s+named)?\s+(?:is|was|has|had|does|did|can|wins|fits|[a-z]+s)\b",
    re.IGNORECASE,
)
_MEMBER = regex(r"(?<![^\s,])(?:the\s+)?(?!and\b)[^\s,]+(?:\s(?!and\b)[^\s,]+)*", re.IGNORECASE)


def of_those_named(text: str, start: int, end: int, asked: str) -> Span | None:
    """Return the one of a row that a clause picks by its place and says to be as asked; None where it does not."""
    said = _OF_THESE.match(text, start, end)
    if said is not None and not echo(text[said.end("place") : end], asked):
        return None  # "Of Tarn and Rona, the first is smaller", where the largest is asked for
    members = list(_MEMBER.finditer(text, *said.span("row"))) if said else []
    number = _PLACES[said["place"].lower()] if said else 0
    return members[number].span() if len(members) > max(1, number) else None
