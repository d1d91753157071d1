"""Which numbers a sentence only adds to its result: what is left over, what it is compared with, said by the way."""

from __future__ import annotations

import re

from dryquarry.marking.reading.amounts_apart import ASKS_REST
from dryquarry.marking.reading.claims import Claim, PlaceKind
from dryquarry.marking.reading.echo import content_of, question_in
from dryquarry.marking.reading.stretches import Claims, Stretch
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.quantities import Quantity

_BY_THE_WAY = regex(
    r"\b(?:by\s+the\s+way|incidentally|just\s+for\s+comparison|for\s+what\s+it['’]s\s+worth)\b", re.IGNORECASE
)
# "40.5 l. That's about a twentieth of 810 litres."
_COMPARES = regex(
    r"[.;(]\s*(?:that|this|it)(?:['’]s|\s+is)\s+(?:(?:nearly|almost|about|roughly|(?:more|less)\s+than)\s+)?"
    r"(?:an?|the|one)\s+(?!(?:[^\W\d_]+\s+)?(?:total|sum|number|amount|distance|length|weight|height|speed|cost|price|average|"
    r"mean|rate|profit|value|result)\b)(?:[^\W\d_]+\s+){1,4}of\s",
    re.IGNORECASE,
)


def without_added(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what is said by the way or is left over, where that is not asked for and anything else is told."""
    text, place = stretch.text, stretch.place
    for aside in filter(None, (words.search(text, place.start, place.end) for words in (_BY_THE_WAY, _COMPARES))):
        claims = [claim for claim in claims if claim.start < aside.start()] or claims
    if len(claims) < 2 or ASKS_REST.search(question_in(stretch.question.asked)):
        return claims
    return [claims[0], *(claim for claim in claims[1:] if not _is_rest_of(text, claims[0], claim))]


# "7/12 of it, so that 5/12 are left"
_LEFT_OVER = regex(r"(?:\s+[^\W\d_]+){0,2}\s+(?:is|are|was|were)\s+(?:still\s+)?left\b", re.IGNORECASE)


def _is_rest_of(text: str, first: Claim[Quantity], claim: Claim[Quantity]) -> bool:
    """Tell whether a share is what another leaves of the whole."""
    return first.value.value + claim.value.value == 1 and _LEFT_OVER.match(text, claim.end) is not None


def only_tells_of_rest(stretch: Stretch) -> bool:
    """Tell whether a sentence only tells of the rest, where that is not asked for.

    "The rest, five twelfths, went to the dog."
    """
    text, place, asked = stretch.text, stretch.place, question_in(stretch.question.asked)
    rest = place.kind is PlaceKind.SENTENCE and _REST_FIRST.match(text, place.start, place.end) is not None
    return (
        rest
        and not ASKS_REST.search(stretch.question.asked)
        and not content_of(text[place.start : place.end]) & content_of(asked)
    )


_REST_FIRST = regex(
    r"\W*(?:the\s+(?:rest|remainder|other\s+[^\W\d_]+)|what\s+(?:is\s+left|remains)),?\s", re.IGNORECASE
)
