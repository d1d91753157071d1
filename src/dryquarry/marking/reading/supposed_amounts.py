"""Which numbers only would be: "seven floors would take 45.5 s", "with half tins it would be 135 euros"."""

from __future__ import annotations

import itertools
import re
from functools import lru_cache

from dryquarry.marking.reading.echo import content_of, is_echo, question_in
from dryquarry.marking.reading.stretches import Claims, Stretch
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import find_terms

_AT_TIMES = regex(r"\b(?:at\s+times|sometimes|now\s+and\s+then|occasionally|on\s+some\s+days)\b", re.IGNORECASE)
_CLAUSE = regex(
    r";\s|\s\(|,\s(?:and|while|whereas|but)\s|,\s(?=(?:the|an?|its|his|her|their)\s\w+\s+[€$£]?\d)", re.IGNORECASE
)
_WOULD = regex(r"\b(?:would|could|might)\b|\w'd\b", re.IGNORECASE)


def firm(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what only would be: "one floor takes 6.5 s, and seven floors would take 45.5 s"."""
    text, place, question = stretch.text, stretch.place, stretch.question
    if len(claims) < 2 or not _WOULD.search(text, place.start, place.end):
        return claims
    ends = [match.end() for match in _CLAUSE.finditer(text, place.start, place.end)]
    clauses = list(itertools.pairwise([place.start, *ends, place.end]))
    would = [span for span in clauses if _WOULD.search(text, *span)]
    kept = [claim for claim in claims if not any(start <= claim.start < end for start, end in would)]
    return kept if kept and not _WOULD.search(question.asked) else claims


_IF = regex(
    r"\W*(?:if\s(?!(?:we|you|one|i)\b)[^,]*?\b(?:were|was|had|[^\W\d_]{2,}ed|ran|came|went|took)\b|had\s|were\s)",
    re.IGNORECASE,
)


# "With half tins it would be 135 euros.", where half tins are not asked about
_OWN_CASE = regex(
    r"\W*(?:with|without|if|for)\s+(?P<case>[^,]{1,40}?),?\s+(?:it|that|there|you|they|we|this|he|she)(?:'d|\s+(?:would|could|might))\b",
    re.IGNORECASE,
)


def is_supposed(sentence: str, asked: str) -> bool:
    """Tell whether a sentence tells of what would be, where the question does not."""
    own = _OWN_CASE.match(sentence)
    if own and not _WOULD.search(asked) and content_of(own["case"]) - content_of(asked):
        return True
    if _asks_what_would_be(asked):
        return False
    if _IF.match(sentence):
        return True
    if not _WOULD.search(sentence):
        return False
    # "On a day with half of them out, it would be 191."
    parts = [part for part in re.split(r"[;,]\s", sentence) if any(term.value >= 1 for term in find_terms(part))]
    return all(_WOULD.search(part) for part in parts)


@lru_cache(maxsize=256)
def _asks_what_would_be(asked: str) -> bool:
    return re.search(rf"{_WOULD.pattern}|\bif\b", asked, re.IGNORECASE) is not None


_EACH = regex(r"\b(?:each|every|per)\b", re.IGNORECASE)
_EXAMPLE = regex(r"\b(?:e\.\s?g\.|for\s+(?:example|instance),?|say,)\s+[€$£]?\Z", re.IGNORECASE)


def is_example(text: str, start: int, at: int) -> bool:
    """Tell whether a number only is an example: "If one has paid a deposit, e.g. £20, subtract it"."""
    return _EXAMPLE.search(text, max(start, at - 16), at) is not None


# "Over a year, that is about 2,490 litres.", where it is asked for a week
_OVER_PERIOD = regex(
    r"\W*(?:over|in|per|for)\s+(?:an?|one|the\s+whole)\s+(?P<period>minute|hour|day|week|month|year),?\s+(?:that|this|it)\b",
    re.IGNORECASE,
)


# "In the second week it loses a bit less.", where it is asked about the first
_IN_LATER = regex(
    r"\W*(?:in|on|after|at)\s+the\s+(?P<which>second|third|fourth|next|following|last)\s+(?:minute|hour|day|week|month|year|round|step)\b",
    re.IGNORECASE,
)
_FIRST_OF = regex(r"\bfirst\b", re.IGNORECASE)


def is_only_at_times(text: str, start: int, end: int) -> bool:
    """Tell whether a sentence has no number but behind words that say that it is so only at times."""
    at_times = _AT_TIMES.search(text, start, end)
    return at_times is not None and not find_terms(text[start : at_times.start()])


# "In each class that's 15 of 25.", where it is asked of the whole school
_OF_EACH = regex(r"\W*(?:in|for|per|at|from)\s+(?:each|every)\s+(?P<what>[^\W\d_]+)\b", re.IGNORECASE)


# "Today the house is 87 years old.", where it is asked when it was built
_ASKS_WHEN = regex(r"\bwhen\b|\b(?:in\s+)?(?:which|what)\s+year\b", re.IGNORECASE)
_YEARS_OLD = regex(r"\b\d+\s+years\s+(?:old|of\s+age)\b(?!.*\b\d{4}\b)", re.IGNORECASE)


# "In eight years he'll be 16.", where it is asked how old he is
_IN_YEARS = regex(
    r"\W*(?:in|after)\s+(?:another\s+)?[^\W_]+\s+(?:more\s+)?(?P<period>year|month|week|day|hour)s?(?:['’]\s*time)?,?\s+(?:[^\W\d_]+\s+){0,3}?"
    r"[^\W\d_]+(?:['’]ll|\s+will)\s",
    re.IGNORECASE,
)
_WILL_BE = regex(r"\bwill\b|['’]ll\b", re.IGNORECASE)


def is_of_other_period(sentence: str, asked: str) -> bool:
    """Tell whether a sentence tells what the result comes to in another time, or in each part of it."""
    each = _OF_EACH.match(sentence)
    if each is not None and not _EACH.search(question_in(asked)) and not is_echo(each["what"], question_in(asked)):
        return True
    later = _IN_LATER.match(sentence)
    if later is not None and later["which"].lower() not in asked.lower() and _FIRST_OF.search(question_in(asked)):
        return True
    if _ASKS_WHEN.search(question_in(asked)) and _YEARS_OLD.search(sentence):
        return True
    ahead = _IN_YEARS.match(sentence)
    if ahead is not None and ahead["period"].lower() not in asked.lower() and not _WILL_BE.search(question_in(asked)):
        return True
    over = _OVER_PERIOD.match(sentence)
    return over is not None and over["period"].lower() not in asked.lower()
