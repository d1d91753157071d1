"""Which numbers of a stretch are of something else than what was asked: of another period, or of what is saved."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from fractions import Fraction

from dryquarry.marking.reading.asked_amounts import ASKS_CHANCE, how_many, numbers_asked
from dryquarry.marking.reading.claims import Claim, Found, Place
from dryquarry.marking.reading.echo import content_of, question_in, stem
from dryquarry.marking.reading.settling import Question
from dryquarry.marking.values.numbers import find_terms
from dryquarry.marking.values.quantities import Quantity
from dryquarry.marking.values.units import dimension_of, scale_to

# "13.80 each, 20 cents short of 14"
_SHORT = re.compile(r"(?:\s*[€$£%])?(?:\s+[^\W\d_]+)?\s+short\s+of\b", re.IGNORECASE)
_SHORT_OF = re.compile(r"\bshort\s+of\s+(?:the\s+|an?\s+)?[€$£]?\Z", re.IGNORECASE)
# "eight of the nineteen numbers"
_OF_ALL = re.compile(r"\s+(?:out\s+)?of\s+(?:the|all|these|those|its|their|all\s+the)\s+", re.IGNORECASE)
# "11 walk and the other 22 cycle"
_THE_OTHER = re.compile(r"\bthe\s+other\s+\Z", re.IGNORECASE)
# "forty-one times, and 16 bottles are left over": beside other numbers that says more than "are left", which may answer
_LEFT_OVER = re.compile(
    r"(?:\s+[^\W\d_]+){0,2}\s+(?:(?:is|are|were|would\s+be)\s+)?(?:left\s+over|to\s+spare|remaining)\b", re.IGNORECASE
)
_LEFT = re.compile(r"(?:\s+[^\W\d_]+){0,2}\s+(?:(?:is|are|were)\s+)?(?:left|remain)\b", re.IGNORECASE)
_ASKS_REST = re.compile(r"\b(?:others?|remain\w*|rest|left|not)\b|n't\b", re.IGNORECASE)
# "There are eight: 2, 3, 5, …"
_COLON = re.compile(r"(?:\s+[^\W\d_]+){0,4}:\s")
FEWEST_LISTED = 3


def without_measures(text: str, claims: list[Claim[Quantity]], question: Question) -> list[Claim[Quantity]]:
    """Leave out what a number is short of, and the whole that it is a part of, unless a share is asked for."""
    if len(claims) < 2:
        return claims
    kept = [
        claim
        for claim in claims
        if not _SHORT.match(text, claim.end) and not _SHORT_OF.search(text, max(0, claim.start - 20), claim.start)
    ]
    if not _ASKS_REST.search(question.asked):
        kept = [claim for claim in kept if not _THE_OTHER.search(text, max(0, claim.start - 20), claim.start)]
        kept = [claim for claim in kept if not _LEFT_OVER.match(text, claim.end)] or kept
    if not ASKS_CHANCE.search(question.asked):
        wholes = [after for one, after in itertools.pairwise(kept) if _OF_ALL.fullmatch(text, one.end, after.start)]
        kept = [claim for claim in kept if claim not in wholes]
    return kept or claims


_SO_MANY_OF = re.compile(r"\s+(?P<noun>[^\W\d_]+)\s+of\s+")


def the_count(text: str, claims: list[Claim[Quantity]], question: Question) -> list[Claim[Quantity]]:
    """Keep the number that says how many are listed behind its colon, where that is asked for."""
    listed = len(claims) - 1
    counts = listed >= FEWEST_LISTED and claims[0].value.value == listed and _COLON.match(text, claims[0].end)
    noun = how_many(question.asked)
    so_many_of = _SO_MANY_OF.match(text, claims[0].end) if len(claims) == 2 and noun is not None else None
    if so_many_of and stem(so_many_of["noun"].lower()) == noun and so_many_of.end() == claims[1].start:
        return claims[:1]  # "3 groups of 9", where the groups are counted
    return claims[:1] if counts and noun is not None else claims


_SAVED = re.compile(
    r"\b(?:sav(?:e|es|ed)|(?:savings?|discount|reduction)\s+(?:of|is|was|comes?\s+to|amounts?\s+to))\b[^,;.:\d]{0,12}?[€$£]?\Z",
    re.IGNORECASE,
)
_ASKS_SAVED = re.compile(r"\b(?:sav|discount|reduc|off\b)", re.IGNORECASE)


def without_saved(text: str, claims: list[Claim[Quantity]], question: Question) -> list[Claim[Quantity]]:
    """Keep what is paid, where it is not asked for what is saved: "132.93 €, so you save 56.97 €"."""
    if len(claims) < 2 or _ASKS_SAVED.search(question_in(question.asked)):
        return claims
    return [claim for claim in claims if not _SAVED.search(text, max(0, claim.start - 40), claim.start)] or claims


_EACH = re.compile(r"\s*(?:[^\W\d_]{1,12}\s+){0,2}?(?:an?|per|each|every)\s+(?P<each>[^\W\d_]{3,})", re.IGNORECASE)
_ASKS_EACH = re.compile(r"\b(?:in|an?|per|each|every|one)\s+(?P<each>[^\W\d_]{3,})", re.IGNORECASE)


def of_each_asked(text: str, claims: list[Claim[Quantity]], question: Question) -> list[Claim[Quantity]]:
    """Keep what is told for each week where that is asked for, and not for each day: "48 l a week, or 8 l a day"."""
    if len(claims) < 2:
        return claims
    asked = {stem(match["each"].lower()) for match in _ASKS_EACH.finditer(question_in(question.asked))}
    told = [_EACH.match(text, claim.end) for claim in claims]
    each = [stem(match["each"].lower()) if match else None for match in told]
    if not any(one in asked for one in each if one):
        return claims
    return [claim for claim, one in zip(claims, each, strict=True) if one is None or one in asked]


# "After selling 5/8, three eighths remain."
_SUBJECT = re.compile(r"\b(?:he|she|it|they|we|you|i|there)\b", re.IGNORECASE)
_BEFORE_MAIN = re.compile(
    r"\W*(?:so\s+|and\s+|but\s+)?(?:after|before|having|with|without|given|since|because|as|from|of|out\s+of|besides|apart\s+from)\s[^,;:.]*,\s(?!of\s|which\s|so\s|and\s|where\s|leaving\s)",
    re.IGNORECASE,
)


def of_main_clause(text: str, place: Place, claims: list[Claim[Quantity]], question: Question) -> list[Claim[Quantity]]:
    """Keep what the main clause of a sentence says, where it says anything that the question does not give."""
    lead = _BEFORE_MAIN.match(text, place.start, place.end)
    if lead is None or _SUBJECT.search(lead.group()):
        return claims
    main = [claim for claim in claims if claim.start >= lead.end()]
    new = [claim for claim in main if claim.value.value not in numbers_asked(question.asked)]
    return main if new and len(main) < len(claims) else claims


# "You save 2.50 €, as 10 · 1.20 € = 12 €", "It's 15: add 12 and you get 27"
_REASON = re.compile(r",\s+(?:as|since|because)\s", re.IGNORECASE)
_IT_IS_SO = re.compile(
    r"\W*(?:so\s+)?(?:it|that|this)(?:'s|\s+is|\s+was|\s+must\s+be)\s[^:;,\s]{1,12}(?:\s[^:;,\s]{1,12})?:\s",
    re.IGNORECASE,
)


def before_reason(text: str, place: Place, claims: list[Claim[Quantity]], question: Question) -> list[Claim[Quantity]]:
    """Keep what stands before its reason, where anything new does."""
    given = numbers_asked(question.asked)
    so = _IT_IS_SO.match(text, place.start, place.end)
    reason = _REASON.search(text, claims[0].end, place.end) if claims and so is None else None
    end = so.end() if so else reason.start() if reason else place.end
    before = [claim for claim in claims if claim.end <= end]
    return before if any(claim.value.value not in given for claim in before) else claims


# "5/8 sold, 3/8 left", where it is asked what part is left
_ASKS_PART = re.compile(
    r"\b(?:what|which)\s+(?:part|share|fraction|proportion|percentage)\b(?!.*(?:\bnot\b|n't\b))", re.IGNORECASE
)
_HOW_MANY_ARE = re.compile(
    r"\bhow\s+many\s+(?:of\s+(?:them|these|the\s+\w+)\s+)?(?:are|were|is|was)\s+(?!left\b|there\b|in\b)(?!.*(?:\bnot\b|n't\b))",
    re.IGNORECASE,
)
_BEHIND = re.compile(r"\s+(?:(?:are|is|were|was)\s+)?(?P<word>[^\W\d_]{3,})")


def behind_which_is_asked(text: str, claims: list[Claim[Quantity]], question: Question) -> list[Claim[Quantity]]:
    """Keep the one number behind which a word of the question stands, where there is a word of its own behind each."""
    asked = content_of(question_in(question.asked))
    behind = [_BEHIND.match(text, claim.end) for claim in claims]
    asks = question_in(question.asked)
    if len(claims) < 2 or None in behind or not (_ASKS_PART.search(asks) or _HOW_MANY_ARE.search(asks)):
        return claims
    meant = [claim for claim, word in zip(claims, behind, strict=True) if word and stem(word["word"].lower()) in asked]
    return meant if len(meant) == 1 else claims


_ASKED_UNIT = re.compile(r"\bhow\s+many\s+(?P<unit>[a-z]{4,})\b", re.IGNORECASE)
_UNIT_BEHIND = re.compile(r"\s?(?P<unit>[a-zA-Z]{1,12})\b(?!/)")


def in_other_unit(text: str, found: Sequence[Found[Quantity]], asked: str) -> bool:
    """Tell whether numbers have a unit of the kind asked for, and none that unit itself: tonnes for kilograms."""
    wanted = _ASKED_UNIT.search(question_in(asked))
    if wanted is None or dimension_of(wanted["unit"]) is None:
        return False
    behind = [_UNIT_BEHIND.match(text, one.end) for one in found]
    scales = [scale_to(unit["unit"], wanted["unit"]) if unit else None for unit in behind]
    factors = {scale[1] for scale in scales if scale is not None}
    return bool(factors) and 1 not in factors


_ASKS_WHOLE = re.compile(r"\bhow\s+many\s+(?:whole|full|complete)\b", re.IGNORECASE)
_OTHERS = re.compile(r"\bthe\s+other\s+\Z", re.IGNORECASE)


def is_of_others(text: str, place: Place, found: Sequence[Found[Quantity]], asked: str) -> bool:
    """Tell whether a sentence tells of the others, or of parts where whole ones are asked for.

    "February has fewer and the other seven have 31"; "1,000 : 24 = 41.67, so …".
    """
    question = question_in(asked)
    others = _OTHERS.search(text, max(place.start, found[0].start - 20), found[0].start) is not None
    if others and not re.search(r"\b(?:others?|not|rest|left)\b|n't\b", question):
        return True
    parts = [one.value.value.denominator > 1 for one in found]
    return _ASKS_WHOLE.search(question) is not None and any(parts)


# "It sank by 16.1 m, from +12.4 m to −3.7 m."
_BY = re.compile(r"\bby\s+(?:about\s+|exactly\s+)?[€$£]?\Z", re.IGNORECASE)
_FROM = re.compile(r"\s*,?\s+from\s+(?:about\s+)?[€$£+]?\Z", re.IGNORECASE)


def by_how_much(text: str, claims: list[Claim[Quantity]]) -> list[Claim[Quantity]]:
    """Keep by how much something changed, where it is told from what to what, too."""
    if len(claims) != 3 or not _BY.search(text, max(0, claims[0].start - 20), claims[0].start):
        return claims
    return claims[:1] if _FROM.match(text[claims[0].end : claims[1].start]) else claims


# "3/8 are missing, 5/8 are there"
_LACKS = re.compile(r"\s+(?:are|is)\s+(?:missing|empty|lacking|absent|gone)\b", re.IGNORECASE)


def without_lacking(text: str, claims: list[Claim[Quantity]], question: Question) -> list[Claim[Quantity]]:
    """Leave out what is said to be missing, where that is not asked for."""
    if len(claims) < 2 or _ASKS_LACK.search(question_in(question.asked)):
        return claims
    return [claim for claim in claims if not _LACKS.match(text, claim.end)] or claims


_ASKS_LACK = re.compile(r"\b(?:missing|empty|lacking|absent|gone)\b", re.IGNORECASE)
# "before that", "today … are left"
_ASKS_BEFORE = re.compile(
    r"\b(?:before|originally|at\s+first|initially|in\s+the\s+beginning|to\s+begin\s+with)\b", re.IGNORECASE
)
_AFTER_IT = re.compile(r"\b(?:now|today|left|remain\w*|afterwards|still)\b", re.IGNORECASE)
_CLAUSE = re.compile(r"[^,;.]+")


def of_time_asked(text: str, place: Place, claims: list[Claim[Quantity]], question: Question) -> list[Claim[Quantity]]:
    """Leave out what is so afterwards, where it is asked what was so before: "seven books, now there are six"."""
    if len(claims) < 2 or place.telling or not _ASKS_BEFORE.search(question_in(question.asked)):
        return claims
    later = [part.span() for part in _CLAUSE.finditer(text, place.start, place.end) if _AFTER_IT.search(part.group())]
    # "today, with one lent out, 6 are left": what follows belongs to it
    first = min((start for start, _ in later), default=place.end)
    return [claim for claim in claims if claim.start < first] or claims


FARTHEST_AHEAD = 400
# "35 % of 840 = 294 novels. A seventh of 294 is 42."
_PART_OF_IT = re.compile(
    r"\b(?:half|third|quarter|fourth|fifth|sixth|seventh|eighth|ninth|tenth|%|per\s+cent|twice|times)\s+(?:of\s+)?(?:these\s+|the\s+|those\s+)?"
    r"(?P<operand>\d+(?:[.,]\d+)*)(?:\s+[^\W\d_]+){0,2}\s*(?:is|are|=|makes?|gives?)\s*(?P<result>\d[\d.,]*)(?<![.,])(?!\s*%)",
    re.IGNORECASE,
)
_WORKS_ON = re.compile(
    r"(?<![\w.,])(?P<operand>\d+(?:[.,]\d+)*)(?=(?:\s+[^\W\d_]+){0,2}\s*[-−–×·*/÷+:]\s*\d[\d.,]*"
    r"(?:\s+[^\W\d_]+){0,2}\s*=\s*(?P<result>\d[\d.,]*)(?<![.,])(?!\s*%))"
)


def is_left_over(text: str, found: Sequence[Found[Quantity]], asked: str) -> bool:
    """Tell whether a sentence only says what is left, where that is not asked for: "There are 16 bottles left"."""
    return not _ASKS_REST.search(asked) and all(_LEFT.match(text, one.end) for one in found)


def is_worked_on(text: str, place: Place, found: Found[Quantity], given: frozenset[object]) -> bool:
    """Tell whether a later sentence works on with a number to a new one: "There are 84. … 84 − 9 = 75 are good."."""
    said = text[found.start : found.end].strip()
    if not said.replace(",", "").replace(".", "").isdecimal():
        return False
    bounds = (place.end, place.end + FARTHEST_AHEAD)
    ahead = itertools.chain(_WORKS_ON.finditer(text, *bounds), _PART_OF_IT.finditer(text, *bounds))
    works = next((one for one in ahead if one["operand"] == said), None)
    results = find_terms(works["result"]) if works else []
    return bool(results) and results[0].value not in given


_ABOUT = re.compile(
    r"\b(?:almost|nearly|about|around|roughly|approximately|some|close\s+to|just\s+(?:under|over|short\s+of)|"
    r"(?:a\s+little|slightly)\s+(?:under|over|less\s+than|more\s+than))\s+[€$£]?\Z",
    re.IGNORECASE,
)
NEAR = Fraction(1, 20)
FARTHEST_BACK = 600


def is_rounded_again(text: str, place: Place, found: Sequence[Found[Quantity]]) -> bool:
    """Tell whether a sentence only says about what was said before to the unit: "= 58,800. That is nearly 60,000"."""
    if not all(_ABOUT.search(text, max(place.start, one.start - 30), one.start) for one in found):
        return False
    before = [one.value for one in find_terms(text, max(0, place.start - FARTHEST_BACK), place.start)]
    last = found[-1].value.value
    return any(value != last and abs(value - last) <= NEAR * abs(last) for value in before)
