"""Which of two is more so: "The Ash is shorter", "Elm > Ash", "the Elm has 40 km, the Ash 38", for the longer."""

from __future__ import annotations

import re
from fractions import Fraction
from functools import lru_cache

from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.offers import Mention, mentions_of, offered_by
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import find_terms

# Of each pair the first is so with the larger number.
_PAIRS = (
    ("longer", "shorter"), ("taller", "shorter"), ("taller", "smaller"), ("bigger", "smaller"), ("larger", "smaller"),
    ("greater", "smaller"), ("greater", "less"), ("heavier", "lighter"), ("older", "younger"), ("older", "newer"),
    ("higher", "lower"), ("faster", "slower"), ("quicker", "slower"), ("warmer", "colder"), ("warmer", "cooler"),
    ("hotter", "colder"), ("hotter", "cooler"), ("wider", "narrower"), ("deeper", "shallower"), ("more", "fewer"),
    ("more", "less"), ("later", "earlier"), ("farther", "nearer"), ("farther", "closer"), ("further", "nearer"),
    ("further", "closer"), ("dearer", "cheaper"), ("thicker", "thinner"), ("stronger", "weaker"),
    ("brighter", "darker"),    ("harder", "softer"), ("better", "worse"), ("richer", "poorer"),
)  # fmt: skip
_MORE = frozenset(more for more, _ in _PAIRS)
_LESS = frozenset(less for _, less in _PAIRS)
_COMPARATIVE = regex(rf"\b(?:{'|'.join(sorted(_MORE | _LESS, key=len, reverse=True))})\b", re.IGNORECASE)
_IS = (
    r"(?:is|are|was|were|weighs|runs|['’]s)\s+"
    r"(?:(?:much|far|still|even|slightly|a\s+(?:bit|little)|\d[\d.,]*\s?[^\W\d_]{1,8})\s+)?"
)
_IS_MORE = regex(rf"(?<![^\s])(?:{_IS})(?:the\s+)?\Z|['’]s\s+\Z", re.IGNORECASE)
# "the longer one is the Elm", "the shorter of the two: the Ash"
_THE_MORE = regex(r"\s*(?:one|of\s+(?:the\s+two|both|them)|[^\W\d_]+)?\s*(?:is|was|:)\s+(?:the\s+)?\Z", re.IGNORECASE)
_ASIDE = regex(r"\b(?:compared\s+(?:with|to)|unlike|than|next\s+to|like)\s+(?:the\s+|an?\s+)?\Z", re.IGNORECASE)
_SIGN = regex(r"\W*(?:\([^()<>]{1,20}\)\s*)?(?P<sign>[<>])\s*(?:the\s+)?\Z", re.IGNORECASE)
_UNCERTAIN = regex(
    r"\b(?:not|no|nor|never|neither|but|once|used\s+to|if|would|might|may|perhaps|maybe|look(?:s|ed)?|seem(?:s|ed)?|think|than\s+i)\b|n['’]t\b|\?",
    re.IGNORECASE,
)
_THAN = regex(
    r"\b(?:is|are|was|were|does|do|did)\s+(?:an?\s+|the\s+)?(?P<one>[^?,;]{2,40}?)\s+(?:[a-z]+\s+)?(?P<more>[a-z]+er|more|less|fewer)\s+than\s+"
    r"(?:an?\s+|the\s+)?(?P<other>[^?,;]{2,40}?)(?:,\s+if\s[^?]*)?\s*\?",
    re.IGNORECASE,
)
# "The mill is not as old as the church."
_NOT_AS = regex(
    r"(?P<one>[^,;:.]{2,40}?)\s+(?:is|are|was|were)(?:n['’]t|\s+not)\s+(?:as|so)\s+(?P<so>[^\W\d_]{3,})\s+as\s+(?P<other>[^,;:.]{2,40})",
    re.IGNORECASE,
)
_CONDITION = regex(r"(?P<than>\sthan\s[^?]*?),?\s+(?:when|if|while)\s[^?]*\?", re.IGNORECASE)
_BUT = regex(r"\W*(?:but|yet|still|in\s+fact),?\s+", re.IGNORECASE)
_PRONOUN = regex(r"\b(?:it|he|she|they)(?=\s|['’])", re.IGNORECASE)


def _agree(said: str, asked: str) -> int:
    """Return 1 where two comparatives go the same way, -1 where they are opposite, 0 where neither is known."""
    if said == asked:
        return 1
    pair = {said, asked}
    return -1 if any(pair == {more, less} for more, less in _PAIRS) else 0


def _without_condition(question: str) -> str:
    """Return a question without when or on what condition: "Was Lotte taller than Hanno when both were ten?"."""
    return _CONDITION.sub(r"\g<than>?", question)


def same_way(said: str, question: str) -> bool | None:
    """Tell whether a comparative goes the way of the one in a question; None where either is none, or not known."""
    asked = _COMPARATIVE.search(question)
    way = _agree(said, asked.group().lower()) if asked and _COMPARATIVE.fullmatch(said) else 0
    return way > 0 if way else None


@lru_cache(maxsize=256)
def _compared(asked: str) -> tuple[str, tuple[str, ...]] | None:
    """Return the comparative of a question that compares two things, and the two; None for any other question."""
    question = question_in(asked)
    than = _THAN.search(_without_condition(question))
    if than is not None and _COMPARATIVE.fullmatch(than["more"]) and " than " not in than["one"]:
        return than["more"].lower(), (than["one"].strip(), than["other"].strip())
    more, two = _COMPARATIVE.search(question), offered_by(asked)
    return (more.group().lower(), two) if more and len(two) == 2 else None


def more_of_two(text: str, start: int, end: int, asked: str) -> Mention | None:
    """Return which of the two that a question compares is said to be more so; None where nothing is said for sure."""
    compared = _compared(asked)
    if compared is not None and (more_so := _not_as(text, start, end, *compared)) is not None:
        return more_so
    if compared is None or _UNCERTAIN.search(text, start, end):
        return None
    more, two = compared
    found = mentions_of(two, text, start, end)
    if len({thing for thing, _, _ in found}) > 2 or not (found or _THAN.search(_without_condition(question_in(asked)))):
        return None
    best = (
        _by_word(text, start, end, found, compared) or _by_sign(text, found, more) or _by_number(text, end, found, more)
    )
    if best is None:
        return None
    mention = next((one for one in found if one[0] == best.casefold()), None)
    return mention or (best, start, end)


def _not_as(text: str, start: int, end: int, more: str, two: tuple[str, ...]) -> Mention | None:
    """Return which of two is more so by "the mill is not as old as the church"; None where nothing is put so."""
    said = _NOT_AS.search(text, start, end)
    if said is None:
        return None
    ways = (_agree(said["so"].lower() + ending, more) for ending in ("er", "r"))
    way = next(filter(None, ways), 0)
    found = mentions_of(two, text, *said.span("other" if way > 0 else "one")) if way else []
    return found[0] if len(found) == 1 else None


def says_more(text: str, start: int, end: int, asked: str) -> str | None:
    """Return "yes" or "no" to "Is the lamp heavier than the bell?" by a clause that compares the two."""
    compared = _compared(asked)
    start = next((but.end() for but in [_BUT.match(text, start, end)] if but), start)
    best = (
        more_of_two(text, start, end, asked)
        if compared and _THAN.search(_without_condition(question_in(asked)))
        else None
    )
    return (
        None if best is None or compared is None else "yes" if best[0].casefold() == compared[1][0].casefold() else "no"
    )


def _by_word(
    text: str, start: int, end: int, found: list[Mention], compared: tuple[str, tuple[str, ...]]
) -> str | None:
    """Return the one that the last comparative of a stretch makes more so."""
    asked, two = compared
    for said in reversed(list(_COMPARATIVE.finditer(text, start, end))):
        way = _agree(said.group().lower(), asked)
        before = [one for one in found if one[2] <= said.start() and not _ASIDE.search(text, start, one[1])]
        behind = [one for one in found if one[1] >= said.end() and _THE_MORE.fullmatch(text, said.end(), one[1])]
        if not way:
            continue
        if behind and re.search(r"\bthe\s+\Z", text[start : said.start()], re.IGNORECASE):
            subject = behind[0][0]
        elif _IS_MORE.search(text, start, said.start()) is None:
            continue
        elif before:
            subject = before[-1][0]
        elif _PRONOUN.search(text, start, said.start()):
            subject = two[0].casefold()
        else:
            continue
        return _which(subject, two, way)
    return None


def _which(subject: str, two: tuple[str, ...], way: int) -> str:
    first = two[0].casefold() == subject.casefold()
    return two[0] if first == (way > 0) else two[1]


def _by_sign(text: str, found: list[Mention], more: str) -> str | None:
    """Return the larger of "Elm > Ash", the smaller where that is asked for."""
    if len(found) != 2:
        return None
    sign = _SIGN.fullmatch(text, found[0][2], found[1][1])
    if sign is None:
        return None
    return found[(sign["sign"] == ">") is not (more in _MORE)][0]


def _by_number(text: str, end: int, found: list[Mention], more: str) -> str | None:
    """Return the one with the larger number of two that each have one behind them, the smaller where that is asked."""
    if len(found) != 2 or found[0][0] == found[1][0]:
        return None
    stretches = ((found[0][2], found[1][1]), (found[1][2], end))
    values: list[Fraction] = []
    for first, last in stretches:
        terms = find_terms(text, first, last)
        if len(terms) != 1:
            return None
        values.append(terms[0].value)
    if values[0] == values[1]:
        return None
    return found[(values[0] > values[1]) is not (more in _MORE)][0]
