"""Which numbers of a stretch stand beside its result as further answers: "7 or 8", "40 to 50"."""

from __future__ import annotations

import re
from collections.abc import Container, Sequence
from fractions import Fraction

from dryquarry.marking.reading.claims import Claim, Found, Stance
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.equations import close
from dryquarry.marking.reading.stretches import MORE_OR_LESS, Claims, Stretch
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.numbers import Shape
from dryquarry.marking.values.quantities import Quantity
from dryquarry.marking.values.units import dimension_of

MOST_BETWEEN = 40
_OR = regex(
    r"\s*(?:[^\W\d]+\s?){0,2},?\s*(?:\b(?:or|oder|ou|o)\b)\s*(?:(?:at|on|by)\s+)?(?P<same>(?:so|about|roughly|"
    r"approximately|around|equivalently|simply|in|more|less|exactly|better|nearly|almost|just|"
    r"rather)\b)?",
    re.IGNORECASE,
)
_AND = regex(r"\s*(?:and|&|und|et|y|,)\s*(?:also\s+|x\s*=\s*|=\s*)?$", re.IGNORECASE)
_ENDS_THERE = regex(r"\s*(?:[.,;)]|\Z|\n|and\b)", re.IGNORECASE)
_TO = regex(r"\bto\b|\bbis\b", re.IGNORECASE)
_FROM = regex(r"\b(?:between|from|zwischen|von|entre|de)\s+[€$£]?$", re.IGNORECASE)
_SPAN = regex(r"\s*(?:(?!(?:comes?|amounts?|adds?)\b)[^\W\d]+\.?\s?)?(?:to|bis|à|and|und|–|-)\s*[€$£]?$", re.IGNORECASE)
# "it falls from 4 °C to −5 °C"
_CHANGES = regex(
    r"\b(?:fall|fell|drop|rise|rose|sink|sank|climb|go|goes|went|mov|chang|shrink|shrank|grow|grew|increas|decreas)[a-z]*"
    r"(?:\s\w+,?){0,4}\s+from\s+(?:about\s+)?[€$£+−-]?\s*\Z",
    re.IGNORECASE,
)
# "from 3 °C down to −8 °C"
_DOWN_TO = regex(r"\s*(?:[^\W\d_]{1,3}\s)?(?:down|up)\s+to\s+(?:about\s+)?[€$£]?")
# "1,470, if it sails on Sundays, too; otherwise 1,260"
_OTHERWISE = regex(
    r"[^.;]{0,20}\b(?:if|provided|unless|when)\b[^.;]{1,80}[;,.]\s+(?:and\s+)?(?:otherwise|else|if\s+not),?\s+(?:it(?:'s|\s+is)\s+)?[€$£]?",
    re.IGNORECASE,
)
_MORE_OR_LESS = regex(rf"(?:\s*[€$£%])?(?:\s+[^\W\d_]+)?\s+{MORE_OR_LESS}", re.IGNORECASE)


def alternatives(
    reply: Reply, final: Claim[Quantity], claims: Sequence[Claim[Quantity]], given: Container[object]
) -> list[Claim[Quantity]]:
    """Return the numbers that stand beside the final one as further answers: "7 or 8", "40 to 50"."""
    text = reply.text
    others = []
    for claim in claims:
        overlaps = claim.end > final.start and claim.start < final.end
        if claim is final or overlaps or close(claim.value, final.value):
            continue
        if claim.start > final.start and _MORE_OR_LESS.match(text, claim.end):
            continue  # "1,250 pounds, or £50 less if one pays in advance"
        if claim.start < final.start and _DOWN_TO.fullmatch(text, claim.end, final.start):
            continue
        if claim.value.value in given and _CHANGES.search(text, max(0, claim.start - 60), claim.start):
            continue
        if per_cent(text, claim) != per_cent(text, final):
            continue  # "450 l, or 50 % of the capacity"
        if claim.value.value in given and _PART_OF.search(text, max(0, claim.start - 24), claim.start):
            continue  # "a quarter of 26 s, or 6.5 s"
        if _is_the_same_in(text, claim, final):
            continue  # "58,800, or 58.8 m³"
        if (
            (claim.start > final.start and _OTHERWISE.fullmatch(text, final.end, claim.start))
            or claim.stance is Stance.HEDGED
            or _ends_with(text, claim, final)
            or _beside(text, claim, final)
        ):
            others.append(claim)
    return others


_PART_OF = regex(
    r"\b(?:half|thirds?|quarters?|fifths?|sixths?|eighths?|tenths?|%|per\s+cent)\s+of\s+[€$£]?\Z", re.IGNORECASE
)
_UNIT_BEHIND = regex(r"\s?(?P<unit>[a-zA-Z]{1,12}[²³]?)(?!\w|/)")


def _is_the_same_in(text: str, claim: Claim[Quantity], final: Claim[Quantity]) -> bool:
    """Tell whether a number with a unit is a thousand times less or more than a bare one: the same in another unit."""
    unit = _UNIT_BEHIND.match(text, claim.end)
    ratio = claim.value.value / final.value.value if final.value.value else 0
    return unit is not None and dimension_of(unit["unit"]) is not None and ratio in (1000, Fraction(1, 1000))


ASKS_SHARE = regex(
    r"(?<!\d)(?<!\d\s)(?:%|\bper\s?cent)|\bpercentage|\bshare\b|\bfraction\b|\bproportion\b|\bprobab|\bchance\b|\brate\b",
    re.IGNORECASE,
)


_ASKS_PART = regex(r"\b(?:what|which)\s+(?:share|fraction|proportion|part|percentage)\b", re.IGNORECASE)


def without_per_cent(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what is in per cent where no share is asked for, and what is beside it where one is.

    "673, roughly 88 % of the hall"; "25 % per bottle, and 4 bottles for the jug".
    """
    text, question = stretch.text, stretch.question
    if _ASKS_PART.search(question_in(question.asked)) and any(per_cent(text, claim) for claim in claims):
        return [claim for claim in claims if per_cent(text, claim) or 0 <= claim.value.value <= 1]
    if ASKS_SHARE.search(question.asked) or any(claim.value.unit is not None for claim in claims):
        return claims
    if _IS_SHARE_OF.match(text, stretch.place.start):
        return []  # "42 stayed empty. That's 5 % of 840."
    return [claim for claim in claims if not per_cent(text, claim)] or claims


_IS_SHARE_OF = regex(
    r"\W*(?:that(?:['’]s|\s+is|\s+makes)|this\s+is|which\s+is)\s+(?:about\s+|roughly\s+|exactly\s+)?\d[\d.,]*\s?(?:%|per\s?cent)\s+of\b",
    re.IGNORECASE,
)


def per_cent(text: str, claim: Claim[Quantity] | Found[Quantity]) -> bool:
    """Tell whether a number is one of per cent."""
    return "%" in text[claim.start : claim.end + 2] or claim.value.text.lower().endswith("cent")


# "it starts with 13 m/s and ends with 11 m/s"
_AND_ENDS = regex(
    r"\s*,?\s*\b(?:and|but)\s+(?:ends|stops|finishes|drops|rises|falls|slows)\s+(?:with|at|to|down to|up to)\s+",
    re.IGNORECASE,
)


def _ends_with(text: str, claim: Claim[Quantity], final: Claim[Quantity]) -> bool:
    """Tell whether an answer line goes on to another value of the same: both are its answer then."""
    return claim.place.telling and _AND_ENDS.fullmatch(text, final.end, claim.start) is not None


def _beside(text: str, claim: Claim[Quantity], final: Claim[Quantity]) -> bool:
    """Tell whether a number stands right beside the final one as another answer or as the other end of a range."""
    first, second = (claim, final) if claim.start < final.start else (final, claim)
    between = text[first.end : second.start]
    if len(between) > MOST_BETWEEN:
        return False
    either = _OR.fullmatch(between) or _OR.fullmatch(re.sub(r"[a-z]\s*=\s*$", "", between))
    if either and not either["same"]:
        return True
    if Shape.RANGE in (claim.value.shape, final.value.shape) and len(between) <= 3:
        return True
    if _SPAN.fullmatch(between) and "=" not in between:
        spans = _TO.search(between) or _FROM.search(text, max(0, first.start - 12), first.start)
        if spans or not _AND.fullmatch(between):
            return spans is not None
    alike = (claim.value.unit, claim.value.relation) == (final.value.unit, final.value.relation)
    listed = claim.place.telling and _AND.fullmatch(between) and _ENDS_THERE.match(text, second.end)
    return alike and bool(listed)
