"""Equations among the numbers of a sentence: which belong to one, what its result is, and which values are the same."""

from __future__ import annotations

import re
from collections.abc import Container, Sequence
from fractions import Fraction

from dryquarry.marking.reading.claims import Claim
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import Shape
from dryquarry.marking.values.quantities import Quantity

FAR = 1e-6
_DECIMALS = regex(r"\d[.,](\d{1,12})(?!\d)")
SAME = Fraction(1, 10**9)
# "= 96 posts, minus the 4 counted twice = 92"
_WORKS_ON = regex(r"(?:\s+[^\W\d_]+){0,2},?\s+(?:minus|less|plus|times|divided\s+by|[-+−×*/])\s")
_SUMMED = regex(r"(?:\s+[^\W\d_]+){0,2}\s+[-+−–×*·/:]\s+[€$£]?")


def close(first: Quantity, second: Quantity) -> bool:
    """Tell whether two values are the same, or one is the other rounded as it is written."""
    if first.value == second.value:
        return True
    rough = "≈" in (first.relation, second.relation)
    if not rough and _far(first.value, second.value):
        return False
    distance = abs(first.value - second.value)
    if distance <= SAME * max(abs(first.value), abs(second.value)):
        return True
    rounded = [one for one in (first, second) if one.relation == "≈"]
    return bool(rounded) and distance <= abs(rounded[0].value) / 100


def _far(first: Fraction, second: Fraction) -> bool:
    """Tell quickly, as fractions take their time, whether two values are far apart."""
    try:
        return abs(float(first) - float(second)) > FAR * max(abs(float(first)), abs(float(second)))
    except OverflowError:
        return False


def chained(text: str, first: Claim[Quantity], second: Claim[Quantity]) -> bool:
    """Tell whether the second number stands after a sign of equality behind the first."""
    return second.value.relation is not None and not re.search(r"[;\n]|,\s|\.\s", text[first.end : second.start])


def end_of_equation(text: str, claims: Sequence[Claim[Quantity]]) -> Claim[Quantity]:
    """Return the result of the equation that claims begin with; of a claim that is in none, itself."""
    chain = [claims[0]]
    for claim in claims[1:]:
        # "126 crates - 12 crates = 114 crates": the terms of a sum that its nouns part
        summed = claim.value.relation is None and _SUMMED.fullmatch(text, chain[-1].end, claim.start)
        if summed or chained(text, chain[-1], claim):
            chain.append(claim)
            continue
        if chain[-1].value.relation is None or not _WORKS_ON.match(text, chain[-1].end):
            break
        if claim.value.relation == "=":
            chain.append(claim)
    while len(chain) > 1 and chain[-1].value.relation is None:
        chain = chain[:-1]
    return result_of(chain)


def _is_rough(exact: Quantity, written: Quantity) -> bool:
    return written.relation in ("≈", "~") and close(exact, written)


def _is_rounded(exact: Quantity, written: Quantity) -> bool:
    """Tell whether a decimal is what stands before its "=" to so many digits: "36π = 113.1"."""
    digits = _DECIMALS.search(written.text)
    if exact.shape is not Shape.EXACT or digits is None or exact.value == written.value:
        return False
    return abs(exact.value - written.value) <= Fraction(1, 2 * 10 ** len(digits[1]))


def result_of(chain: Sequence[Claim[Quantity]], given: Container[object] = frozenset()) -> Claim[Quantity]:
    """Return the result of an equation: its last side, or the first where the others are how it comes about.

    An exact side stands before one that is only about the same, unless it is a number that was `given`.
    """
    if (
        len(chain) > 1
        and chain[0].value.shape in (Shape.NUMBER, Shape.EXACT)
        and all(one.value.shape is Shape.SUM for one in chain[1:])
    ):
        return chain[0]
    last = chain[-1]
    while (
        len(chain) > 1
        and chain[-2].value.shape is not Shape.SUM
        and chain[-2].value.value not in given
        and (_is_rough(chain[-2].value, chain[-1].value) or _is_rounded(chain[-2].value, chain[-1].value))
    ):
        chain = chain[:-1]
        last = chain[-1]
    return last
