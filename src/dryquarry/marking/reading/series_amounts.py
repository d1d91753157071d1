"""Which number comes next in a series, where that is asked: the first new one behind the numbers of the question."""

from __future__ import annotations

import re
from fractions import Fraction

from dryquarry.marking.reading.stretches import Claims, Stretch
from dryquarry.marking.regexes import regex

LEAST_OF_SERIES = 3
_ASKS_NEXT = regex(
    r"\b(?:next|following)\s+(?:number|term|one|in)\b|\bcomes?\s+(?:next|after)\b|\bwhat\s+follows\b|\bcontinue",
    re.IGNORECASE,
)
_SERIES = regex(r"\d+(?:\s*[,;]\s+\d+){2,}")
# "48, then 96", "After that: 96"
_FURTHER_ON = regex(
    r"(?:[,;]\s+(?:and\s+)?(?:then|next)|\bfollowed\s+by|\bafter\s+(?:that|it|this)(?:\s+(?:comes?|is|it's))?)\s*:?\s*\Z",
    re.IGNORECASE,
)


def next_of_series(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the number behind the question's own of a series that goes on: 48 of "3, 6, 12, 24, 48, 96"."""
    asked = stretch.question.asked
    series = _SERIES.search(asked) if _ASKS_NEXT.search(asked) else None
    if series is None:
        return claims
    values = [int(one) for one in re.findall(r"\d+", series.group())][-LEAST_OF_SERIES:]
    before: list[Fraction | None] = [None, *(claim.value.value for claim in claims)]
    kept = [
        claim
        for claim, last in zip(claims, before, strict=False)
        if last in values or not _FURTHER_ON.search(stretch.text, max(0, claim.start - 30), claim.start)
    ]
    for number in range(len(kept) - LEAST_OF_SERIES):
        if [claim.value.value for claim in kept[number : number + LEAST_OF_SERIES]] == values:
            return kept[number + LEAST_OF_SERIES : number + LEAST_OF_SERIES + 1]
    return kept
