"""Which number a stretch draws from the others: what it ends with, and what a sum in words comes to."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from dataclasses import replace

from dryquarry.marking.reading.claims import Claim
from dryquarry.marking.reading.further_amounts import ASKS_SHARE, per_cent
from dryquarry.marking.reading.stretches import Claims, Stretch
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import find_terms
from dryquarry.marking.values.quantities import Quantity

# "…, so 42.", "…, and eighteen times that is 423"
_ENDS_SO = regex(
    r"(?:[,;:]\s(?:and\s)?(?:so|therefore|thus|hence)\s(?:(?:it's|it\s+is|that's|the\s+answer\s+is|(?:they|you|we|I)\s(?:need|get|have|pay|use|want|take|sell|buy)\s)?)?|"
    r"\b(?:half|thirds?|quarters?|fifths?|eighths?|tenths?)\s+of\s+(?:which|that|this|it)\s+(?:is|are|makes?|gives?)\s|"
    r"[,;]\s(?:and\s)?so\s+the\s+(?:other|remaining)\s|"
    r"\b(?:times|half\s+of|twice|thrice|a\s+\w+\s+of|double|plus|minus|less)\s+(?:that|this|it)\s+(?:is|makes|gives|comes\s+to|equals)\s)"
    r"(?:exactly\s|about\s)?[€$£]?\Z",
    re.IGNORECASE,
)
# "120 singers less 18 altos leaves 102", "48,500 a day makes 1,212,500"
_YIELDS = regex(r"[^,;:.]*\b(?:leaves?|makes?|gives?|yields?|equals?)\s+(?:us\s+)?[€$£]?", re.IGNORECASE)
# "120 in all and 18 altos: 102 others"
_COLON = regex(r"[^,;:.]*:\s+[€$£]?")


# "2x = 26 → x = 13"
_SOLVED = regex(r"(?:→|⇒|->|=>|\bso|\bhence|\bthus|\btherefore|,)\s+[a-z]\s*=\s*\Z", re.IGNORECASE)


# "Finn is an eighth of her age: 8 years."
_PART_OF_IT = regex(r"\s+of\s+[^\d:;,.]{2,40}[:=]\s*[€$£]?", re.IGNORECASE)
# "Subtracting the two known ones, 60 + 72 = 132, leaves 72 for the third."
_TAKING = regex(r"\W*(?:so\s+|then\s+|now\s+)?(?:subtract|tak|remov|deduct|divid|multiply|add)ing\b", re.IGNORECASE)
_LEAVES = regex(r"[^;:.],?\s+(?:leaves|gives|makes|yields)\s+(?:us\s+)?(?:with\s+)?[€$£]?\Z", re.IGNORECASE)


def drawn_at_end(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the last number of a sentence, where it says that this is drawn from what stands before it."""
    text, place, given = stretch.text, stretch.place, stretch.given
    if len(claims) < 2 or place.telling:
        return claims
    if _TAKING.match(text, place.start) and _LEAVES.search(text, place.start, claims[-1].start):
        return claims[-1:]
    if 0 < claims[0].value.value < 1 and _PART_OF_IT.fullmatch(text, claims[0].end, claims[-1].start):
        return claims[-1:]
    if claims[-1].value.value in given:
        return claims
    if _SOLVED.search(text, place.start, claims[-1].start) and not text[claims[-1].end : place.end].strip(" .*$"):
        return claims[-1:]
    if ASKS_SHARE.search(stretch.question.asked) and claims[-1].value.value > 1 and 0 < claims[0].value.value < 1:
        return claims  # "One bottle fills 25 %, so four fill it.", where the share is asked for
    return claims[-1:] if _ENDS_SO.search(text[max(place.start, claims[-1].start - 60) : claims[-1].start]) else claims


def worked_out(text: str, claims: Sequence[Claim[Quantity]], given: frozenset[object]) -> Claim[Quantity] | None:
    """Return the first new number to which a sum in words comes, where all before it are given; None without a sum."""
    for before, claim in itertools.pairwise(claims):
        earlier = [one for one in claims if one.start < claim.start]
        if claim.value.value not in given and all(one.value.value in given for one in earlier):
            between = text[before.end : claim.start]
            return claim if _YIELDS.fullmatch(between) or _COLON.fullmatch(between) else None
    return None


_SUM = regex(r"(?P<first>\d+(?:[.,]\d+)?)\s*[×*·x+]\s*(?P<second>\d+(?:[.,]\d+)?)")


def operand_sought(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the one new number of a sum whose result the question gives: 16 of "16 × 15 = 240", of 240 litres."""
    given = stretch.given
    if len(claims) < 2 or stretch.place.telling:
        return claims
    *others, sum_of, result = claims
    parts = _SUM.fullmatch(sum_of.value.text) if result.value.relation == "=" and result.value.value in given else None
    if parts is None or any(one.value.value not in given for one in others):
        return claims
    new = [name for name in ("first", "second") if find_terms(parts[name])[0].value not in given]
    if len(new) != 1:
        return claims
    start = sum_of.start + parts.start(new[0])
    operand = Quantity(find_terms(parts[new[0]])[0].value, start, start + len(parts[new[0]]), parts[new[0]])
    return [replace(sum_of, value=operand, start=start, end=operand.end)]


def unless_only_given(
    kept: list[Claim[Quantity]], claims: list[Claim[Quantity]], given: frozenset[object]
) -> list[Claim[Quantity]]:
    """Return what was kept of claims, and all of them where only the kept ones repeat the question."""
    repeats = all(claim.value.value in given for claim in kept)
    return claims if repeats and any(claim.value.value not in given for claim in claims) else kept


# "114 of the 126 crates": a part, and the whole that it is of
_OF_WHOLE = regex(r"\s+(?:\w+\s+)?(?:out\s+)?of\s+(?:the|all|these|those|its|their|all\s+the)\s+", re.IGNORECASE)


def before_whole(text: str, pool: Sequence[Claim[Quantity]], results: Sequence[Claim[Quantity]]) -> Claim[Quantity]:
    """Return the last candidate, but not the rough one of "588, or about 600", nor the whole of "11 of the 12"."""
    last = pool[-1]
    if len(pool) > 1 and _OF_WHOLE.fullmatch(text, pool[-2].end, last.start):
        return pool[-2]
    if (
        len(pool) > 1
        and per_cent(text, last) > per_cent(text, pool[-2])
        and re.search(r"\bor\s+\W*\Z", text[pool[-2].end : last.start])
    ):
        return pool[-2]
    rough = re.search(
        r"(?:,|\()\s*(?:about|roughly|around|approximately|nearly)\s+[€$£]?\Z",
        text[max(0, last.start - 24) : last.start],
    )
    if len(pool) > 1 and rough and abs(pool[-2].value.value - last.value.value) * 50 <= abs(last.value.value):
        return pool[-2]  # "12π cm, about 37.7 cm"
    if len(pool) > 1 and re.search(
        r"\bor\s+(?:about|roughly|around|approximately|nearly)\s+[€$£]?$", text[max(0, last.start - 24) : last.start]
    ):
        return pool[-2]
    return last
