"""Which number ends a chain of sums told in words: it comes of the two that stand before it."""

from __future__ import annotations

import re
from fractions import Fraction

from dryquarry.marking.reading.claims import Place, PlaceKind
from dryquarry.marking.reading.stretches import Claims, Stretch
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.numbers import find_terms

# "of the 84", "from 84", "would be 125": what a number is set beside, and no result
_BESIDE = regex(
    r"\b(?:(?:of|from|for|per|by|than|with|since|until|after|before)\s+(?:\w+\s+)?|(?:would|could)\s+be\s+)[€$£]?\Z",
    re.IGNORECASE,
)

_ONLY_WOULD = regex(r"\b(?:would|could|might|if)\b", re.IGNORECASE)


def end_of_chain(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the last number where it comes of the two before it: 1233 of "46 years from 1187 bring us to 1233"."""
    text, place = stretch.text, stretch.place
    if len(claims) < 3 or place.telling or place.kind is not PlaceKind.SENTENCE:
        return claims
    first, second, last = claims[-3:]
    values = [claim.value.value for claim in (first, second, last)]
    if any(not isinstance(value, Fraction) for value in values) or text[last.end : place.end].strip(" .!*"):
        return claims
    given = not {values[2], -values[2]}.isdisjoint(stretch.given)
    apart = ";" in text[first.end : last.start] or _BESIDE.search(text[place.start : last.start])
    comes_of_them = values[2] in (values[0] + values[1], values[1] - values[0], values[0] - values[1])
    return [last] if comes_of_them and not given and not apart else claims


def is_step(reply: Reply, place: Place, last: Fraction, given: frozenset[object]) -> bool:
    """Tell whether the next sentence with numbers ends with a new one that comes of this one and one beside it.

    "There are 84 in all. 9 of them are bad, and 75 are good."; "14 × 18 = 252", "5 × 26 = 130", "Takings: 382".
    """
    for sentence in reply.sentences[place.sentence + 1 : place.sentence + 3]:
        terms = [term.value for term in find_terms(reply.text, sentence.start, sentence.end)]
        beside = [value for value in terms[:-1] if isinstance(value, Fraction)]
        if not terms:
            continue
        if len(terms) == 1 and place.sentence:
            before = reply.sentences[place.sentence - 1]
            beside = [term.value for term in find_terms(reply.text, before.start, before.end)][-1:]
        result = terms[-1]
        said = reply.text[sentence.start : sentence.end]
        if not isinstance(result, Fraction) or result in given or _BESIDE.search(said) or _ONLY_WOULD.search(said):
            return False
        used = [one for one in beside if isinstance(one, Fraction) and result in (last + one, last - one)]
        return bool(used) and all(value in given or value in (last, used[0]) for value in terms[:-1])
    return False
