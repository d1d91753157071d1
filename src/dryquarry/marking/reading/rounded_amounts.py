"""A number told exactly and rounded: which of the two answers, "about 400 rolls (395 to be exact)"."""

from __future__ import annotations

import itertools
import re
from fractions import Fraction

from dryquarry.marking.reading.stretches import Claims, Stretch
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import Shape
from dryquarry.marking.values.quantities import Quantity

_EXACT_BEFORE = regex(
    r"\b(?:exactly|precisely|(?:to\s+be|more)\s+(?:exact|precise)[,:]?)\s+(?:(?:it|that)(?:\s+is|['’]s)\s+)?[€$£]?\Z",
    re.IGNORECASE,
)
_EXACT_BEHIND = regex(
    r"(?:\s+[^\W\d_]+)?(?:,?\s+(?:to\s+be|if\s+you\s+want\s+to\s+be)\s+(?:more\s+)?(?:exact|precise)"
    r"|\s+(?:exactly|precisely))\b(?!\s+\d)",
    re.IGNORECASE,
)
_ROUGH = regex(
    r"\b(?:about|roughly|around|almost|nearly|approximately|some|close\s+to)\s+[€$£]?\Z|[~≈]\s?[€$£]?\Z", re.IGNORECASE
)
# "to one decimal", "rounded to the nearest ten"
_ASKS_ROUNDED = regex(
    r"\b(?:round(?:ed)?|decimals?|(?:decimal|significant)\s+\w+|nearest|approximate(?:ly)?|roughly|about)\b",
    re.IGNORECASE,
)
_DECIMALS = regex(r"\d[.,](?P<digits>\d{1,9})(?!\d)")


def exact_beside_rough(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the exact number of one that is told roughly, too: "about 400 rolls (395 to be exact)"."""
    text, start = stretch.text, stretch.place.start
    if not any(_ROUGH.search(text, max(start, claim.start - 16), claim.start) for claim in claims):
        return claims
    exact = [
        claim
        for claim in claims
        if _EXACT_BEHIND.match(text, claim.end) or _EXACT_BEFORE.search(text, max(start, claim.start - 24), claim.start)
    ]
    return exact or claims


def rounded_if_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep of "√125 ≈ 11.2" what is rounded where that is asked for, else what is exact: "1/3, about 0.33"."""
    text, start = stretch.text, stretch.place.start
    left = list(claims)
    for exact, rough in itertools.pairwise(claims):
        said_rough = rough.value.relation == "≈" or _ROUGH.search(text, max(start, rough.start - 16), rough.start)
        if said_rough and _is_rounded(exact.value, rough.value) and exact.value.text not in stretch.question.asked:
            dropped = exact if _ASKS_ROUNDED.search(stretch.question.asked) else rough
            left = [claim for claim in left if claim is not dropped]
    return left


def _is_rounded(exact: Quantity, rough: Quantity) -> bool:
    """Tell whether a decimal is what stands before it to so many digits: 0.33 of 1/3."""
    if exact.value == rough.value or exact.shape is Shape.RANGE or exact.unit != rough.unit:
        return False
    digits = _DECIMALS.search(rough.text)
    if digits is None and exact.unit is None:
        return False  # "5.8 ≈ 6" may be how many whole ones it takes
    return abs(exact.value - rough.value) <= Fraction(1, 2 * 10 ** (len(digits["digits"]) if digits else 0))
