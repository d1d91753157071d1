"""Which number ends a chain of sums told in words: it comes of the two that stand before it."""

from __future__ import annotations

import re
from fractions import Fraction

from dryquarry.marking.reading.claims import Place, PlaceKind
from dryquarry.marking.reading.stretches import Claims, Stretch
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.numbers import find_terms

# So many sentences further a number may be worked on.
FARTHEST_STEP = 4
# "of the 84", "from 84", "would be 125": what a number is set beside, and no result
_BESIDE = regex(
    r"\b(?:(?:of|from|for|per|by|than|with|since|until|after|before)\s+(?:\w+\s+)?|(?:would|could)\s+be\s+)[€$£]?\Z",
    re.IGNORECASE,
)

_ENDS = regex(r"(?:st|nd|rd|th)?[\s.!*]*")
_OF_THESE = regex(r"\s+(?:of\s+(?:these|them|those)|such)\s", re.IGNORECASE)
# "Takings: 382", "Both take 382."
_IN_ALL = regex(
    r"\A\W*[^\W\d_]+(?:\s[^\W\d_]+){0,2}\W*:|\b(?:total|sum|together|altogether|both|in\s+all)\b", re.IGNORECASE
)
# "As June has 30 days, …", "With 2 more it would be 50."
_NO_RESULT = regex(r"\b(?:would|could|might|if)\b|\A\W*as\b", re.IGNORECASE)


def end_of_chain(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the last number where it comes of the two before it: 1233 of "46 years from 1187 bring us to 1233"."""
    text, place = stretch.text, stretch.place
    if len(claims) < 3 or place.telling or place.kind is not PlaceKind.SENTENCE:
        return claims
    first, second, last = claims[-3:]
    values = [claim.value.value for claim in (first, second, last)]
    if any(not isinstance(value, Fraction) for value in values) or not _ENDS.fullmatch(text, last.end, place.end):
        return claims
    given = not {values[2], -values[2]}.isdisjoint(stretch.given)
    apart = ";" in text[first.end : last.start] or _BESIDE.search(text[place.start : last.start])
    comes_of_them = values[2] in (values[0] + values[1], values[1] - values[0], values[0] - values[1])
    # "An eighth of 56 is 7, and seven of these are 49."
    many = _OF_THESE.match(text, second.end) is not None
    comes_of_them = comes_of_them or (many and values[2] == values[0] * values[1])
    return [last] if comes_of_them and not given and not apart else claims


def is_step(reply: Reply, place: Place, last: Fraction, given: frozenset[object]) -> bool:
    """Tell whether a later sentence ends with a new number that comes of this one and one beside it.

    "There are 84 in all. 9 of them are bad, and 75 are good."; "14 × 18 = 252", "5 × 26 = 130", "Takings: 382".
    """
    if not isinstance(last, Fraction):
        return False
    between: list[Fraction] = []
    before = reply.sentences[place.sentence - 1] if place.sentence else None
    summand = _numbers(reply.text, before.start, before.end)[-1:] if before else []
    for sentence in reply.sentences[place.sentence + 1 : place.sentence + 1 + FARTHEST_STEP]:
        said = reply.text[sentence.start : sentence.end]
        numbers = _numbers(reply.text, sentence.start, sentence.end)
        if _BESIDE.search(said) or _NO_RESULT.search(said):
            return False
        beside = [*between, *summand] if _IN_ALL.search(said) else between
        new = bool(numbers) and numbers[-1] not in given and numbers[-1] != last
        if new and (_comes_of(numbers, last, beside, given) or _is_divided(said, numbers, last)):
            return True
        between += numbers
    return False


# "The sum is 40. Divided by 4, this gives 10."
_DIVIDED = regex(r"\A\W*(?:this\s+|that\s+|it\s+)?(?:is\s+)?(?P<how>divided|multiplied)\s+by\b", re.IGNORECASE)


def _is_divided(said: str, numbers: list[Fraction], last: Fraction) -> bool:
    """Tell whether a sentence divides or multiplies what was told before it by the first of its two numbers."""
    how = _DIVIDED.match(said)
    if how is None or len(numbers) != 2 or not numbers[0]:
        return False
    return numbers[1] == (last / numbers[0] if how["how"].lower() == "divided" else last * numbers[0])


def _numbers(text: str, start: int, end: int) -> list[Fraction]:
    """Return the numbers of a stretch; a "one" stands for somebody."""
    terms = find_terms(text, start, end)
    return [one.value for one in terms if isinstance(one.value, Fraction) and one.text.lower() != "one"]


def _comes_of(numbers: list[Fraction], operand: Fraction, between: list[Fraction], given: frozenset[object]) -> bool:
    """Tell whether the last of a sentence's numbers is worked out of an operand, and the others are known."""
    *beside, result = numbers
    if operand in beside:
        others = [one for one in beside if one != operand]
        if any(result in (operand * one, one and operand / one) for one in others):
            return True
    used = [one for one in (*beside, *between) if one != operand and result in (operand + one, operand - one)]
    used += [one for one in between if one == operand and result == operand + one]  # two lines may come to the same
    return bool(used) and all(value in given or value in (operand, *used) for value in beside)
