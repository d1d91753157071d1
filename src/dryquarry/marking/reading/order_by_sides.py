"""An order from one side to the other: "Brin is in the north, Cord in the south and Abel between them"."""

from __future__ import annotations

import re

from dryquarry.marking.reading.asked_lists import things_asked
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.offers import Mention, mentions_of
from dryquarry.marking.regexes import regex

_FROM_TO = regex(
    r"\bfrom\s+(?:the\s+)?(?P<first>north|south|east|west|left|right|top|bottom|front|back|inside|outside|start|beginning)\s+to\s+(?:the\s+)?"
    r"(?P<last>[a-z]+)\b",
    re.IGNORECASE,
)
_BETWEEN = regex(
    r"\b(?:in\s+between|between(?:\s+(?:them|the\s+two|these))?|(?:in\s+the|the)\s+middle)\b", re.IGNORECASE
)
_NOT = regex(r"\b(?:not|nor|of|than|from|if)\b|n['’]t\b", re.IGNORECASE)


def ordered_by_sides(text: str, start: int, end: int, asked: str) -> tuple[Mention, ...]:
    """Return three things in the order asked for, where a stretch puts each at a side or between; none otherwise."""
    sides, things = _FROM_TO.search(question_in(asked)), things_asked(asked)
    if sides is None or len(things) != 3 or _NOT.search(text, start, end):
        return ()
    found = mentions_of(things, text, start, end)
    if sorted(name for name, *_ in found) != sorted(map(str.casefold, things)):
        return ()
    bounds = [*(one[1] for one in found[1:]), end]
    places = [
        _place(text[one[2] : bound], text[start : one[1]] if one is found[0] else "", sides["first"], sides["last"])
        for one, bound in zip(found, bounds, strict=True)
    ]
    if sorted(places) != [0, 1, 2]:
        return ()
    return tuple(found[places.index(number)] for number in range(3))


def _place(behind: str, before: str, first: str, last: str) -> int:
    """Return 0 for the first side, 2 for the last, 1 for between, -1 where nothing or several are said."""
    said = [
        number
        for number, pattern in ((0, rf"\b{first}(?:ern\w*)?\b"), (2, rf"\b{last}(?:ern\w*)?\b"))
        if re.search(pattern, behind, re.IGNORECASE)
    ]
    said += [1] if _BETWEEN.search(behind) else []
    if not said and (_BETWEEN.search(before)):
        said = [1]
    return said[0] if len(said) == 1 else -1
