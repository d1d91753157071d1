"""Numbers beside others that they are set against: of those that are so, of what it was before, of a difference."""

from __future__ import annotations

import itertools
import re
from functools import lru_cache

from dryquarry.marking.reading.amounts_drawn import unless_only_given
from dryquarry.marking.reading.asked_amounts import ASKS_DIFFERENCE, IS_DIFFERENCE
from dryquarry.marking.reading.echo import is_echo, question_in, stem
from dryquarry.marking.reading.stretches import ASKS_CHANCE, Claims, Stretch, counted_in
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import Shape

_ARE = r"(?:is|are|was|were)"
# "How many eggs are whole?"
_ASKED = regex(
    rf"\b(?:how\s+many\s+(?:of\s+(?:the|them)\s+)?|what\s+(?:share|part|fraction|percentage)\s+)(?:[^\W\d_]+\s+){{0,3}}?{_ARE}\s+(?P<so>[^\W\d_]{{3,}})\s*\?",
    re.IGNORECASE,
)
# "How many good plums are there?"
ASKED_SUCH = regex(
    r"\bhow\s+many\s+(?P<so>good|bad|ripe|broken|whole|empty|full|free|new|old|red|blue|green|white|black)\s+[^\W\d_]{3,}\s",
    re.IGNORECASE,
)
# "…, and 9 eggs are broken."
_GIVEN = regex(
    rf"\d+\s+(?:of\s+(?:the|them)\s+)?(?:[^\W\d_]+\s+){{0,2}}?{_ARE}\s+(?P<so>[^\W\d_]{{3,}})\b", re.IGNORECASE
)
_NO_PREDICATE_TEXT = "left there given added not the all now needed that this those these they"
_NO_PREDICATE = frozenset(_NO_PREDICATE_TEXT.split())


@lru_cache(maxsize=256)
def _predicates(asked: str) -> tuple[str, frozenset[str]] | None:
    """Return how those are that a question asks the number of, and how others are of whom it tells."""
    own = _ASKED.search(question_in(asked))
    if own is None or own["so"].lower() in _NO_PREDICATE:
        return None
    others = {match["so"].lower() for match in _GIVEN.finditer(asked)} - {own["so"].lower()} - _NO_PREDICATE
    return own["so"].lower(), frozenset(others)


_OF = regex(r"\bof\s+(?:the\s+|these\s+|all\s+)?\Z", re.IGNORECASE)


def _is_so(text: str, end: int, word: str) -> bool:
    behind = rf"\s+(?:of\s+(?:the|them)\s+)?(?:[^\W\d_]+\s+){{0,2}}?(?:{_ARE}\s+)?{re.escape(word)}\b"
    return re.compile(behind, re.IGNORECASE).match(text, end) is not None


def of_predicate_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the number of those that are as asked: "360 eggs in all, 9 broken, 351 whole"; none of the others."""
    asked = _predicates(stretch.question.asked)
    if asked is None:
        return claims
    own = [claim for claim in claims if _is_so(stretch.text, claim.end, asked[0])]
    if len(own) == 1 and own[0].value.value > 1 and ASKS_CHANCE.search(question_in(stretch.question.asked)):
        return claims  # "36 of the 48 are whole, that's three quarters", where the share is asked for
    if len(own) == 1:
        at = claims.index(own[0])
        of_all = _OF.search(stretch.text, max(0, own[0].start - 12), own[0].start)
        return [claims[at - 1]] if of_all and at else own  # "351 of the 360 eggs are whole"
    return [claim for claim in claims if not any(_is_so(stretch.text, claim.end, other) for other in asked[1])]


# "How many are not altos?"
_ASKS_NOT = regex(
    r"\bhow\s+many\s+(?:of\s+them\s+)?(?:are|were)\s+not\s+(?:an?\s+)?(?P<what>[^\W\d_]{3,})", re.IGNORECASE
)


@lru_cache(maxsize=256)
def _of_others(asked: str) -> re.Pattern[str] | None:
    """Return the pattern of what stands behind the number of others than those that are to be counted."""
    question = question_in(asked)
    if (asks_not := _ASKS_NOT.search(question)) is not None:
        return re.compile(rf"\s+(?:of\s+them\s+)?(?:{_ARE}\s+)?(?:an?\s+)?{asks_not['what']}\b(?!\s*=)", re.IGNORECASE)
    if (asks_so := _ASKED.search(question)) is not None and asks_so["so"].lower() not in _NO_PREDICATE:
        # "55 are not stamped.", where it is asked how many are
        return re.compile(rf"\s+(?:[^\W\d_]+\s+)?{_ARE}(?:\s+not|n['’]t)\s+{asks_so['so']}\b", re.IGNORECASE)
    such = ASKED_SUCH.search(question)
    others = {one["so"].lower() for one in _GIVEN.finditer(asked)} - _NO_PREDICATE if such else set()
    others -= {such["so"].lower()} if such else set()
    return re.compile(rf"\s+(?:{'|'.join(sorted(others))})\s+(?:ones|[^\W\d_]+s)\b", re.IGNORECASE) if others else None


# "It leaves at 15:55.", where it is asked when it arrives
_ASKS_ARRIVES = regex(r"\bwhen\b[^?]*\b(?:arrive|end|finish|stop|get\s+there)", re.IGNORECASE)
_LEAVES_AT = regex(r"\b(?:leaves?|departs?|starts?|begins?|sets?\s+off)\s+at\s+\Z", re.IGNORECASE)


def without_departures(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out when something begins, where it is asked when it ends; none may be left."""
    if not _ASKS_ARRIVES.search(question_in(stretch.question.asked)):
        return list(claims)
    text = stretch.text
    return [claim for claim in claims if not _LEAVES_AT.search(text, max(0, claim.start - 20), claim.start)]


# "for a pentagon 540°", "a hexagon has 9"
_FOR_A = regex(
    r"\b(?:an?|the)\s+(?P<what>[^\W\d_]{3,})\s+(?:it(?:['’]s|\s+is)\s+|(?:is|are|has|have|gives|makes|needs|costs|weighs)\s+)?[€$£]?\Z",
    re.IGNORECASE,
)
_LONGEST_LABEL = 40


def of_kind_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what is told of the thing asked about, where others have theirs: "for a triangle 180°, for a pentagon …"."""
    text, start, asked = stretch.text, stretch.place.start, question_in(stretch.question.asked)
    labels = [_FOR_A.search(text, max(start, claim.start - _LONGEST_LABEL), claim.start) for claim in claims]
    if len(claims) < 2 or None in labels[:1]:
        return list(claims)
    # what stands behind a label goes on with it: "a week seven times as many: 604,800"
    told, so = [], False
    for label in labels:
        so = is_echo(label["what"], asked) if label else so
        told.append(so)
    return [claim for claim, so in zip(claims, told, strict=True) if so] if any(told) else list(claims)


_OF_EACH = regex(r"\b(?:each|every)\b", re.IGNORECASE)
_CLAUSE_JOINT = regex(r"[,;]\s")


def not_of_each(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what is told of each one, where all are asked about: "it's 540°, so each one has 108°"."""
    text, place, asked = stretch.text, stretch.place, question_in(stretch.question.asked)
    if len(claims) < 2 or _OF_EACH.search(text, place.start, place.end) is None or not _ASKS_SUM.search(asked):
        return list(claims)
    if _OF_EACH.search(asked):
        return list(claims)
    ends = [joint.end() for joint in _CLAUSE_JOINT.finditer(text, place.start, place.end)]
    clauses = list(itertools.pairwise([place.start, *ends, place.end]))
    firm = [
        claim
        for claim in claims
        if not any(start <= claim.start < end and _OF_EACH.search(text, start, claim.start) for start, end in clauses)
    ]
    return unless_only_given(firm, claims, stretch.given)


_ASKS_SUM = regex(r"\b(?:sum|total|in\s+all|altogether|together)\b", re.IGNORECASE)


# "…, and the remaining 215 are 86 per cent"
_OF_THE_REST = regex(r"[,;]\s+(?:and\s+|while\s+|so\s+)?the\s+(?:remaining|other|rest)\b", re.IGNORECASE)
_ASKS_PER_CENT = regex(r"\bper\s?cent(?:age)?\b", re.IGNORECASE)
_ASKS_REST = regex(r"\b(?:others?|remain\w*|rest|left|else|not|keep|keeps|kept|over)\b|n['’]t\b", re.IGNORECASE)


def not_of_rest(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out which share the rest is, told at the end of a sentence, where the share of others is asked for."""
    rest = _OF_THE_REST.search(stretch.text, stretch.place.start, stretch.place.end)
    shares = _ASKS_PER_CENT.search(stretch.question.asked) is not None
    if rest is None or not shares or len(claims) < 2 or _ASKS_REST.search(stretch.question.asked):
        return list(claims)
    return unless_only_given([claim for claim in claims if claim.start < rest.start()], claims, stretch.given)


def without_others(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out how many others there are: "75 bad ones", where the good ones are to be counted; none may be left."""
    others = _of_others(stretch.question.asked)
    if others is None:
        return list(claims)
    sums = [claim for claim in claims if claim.value.shape is Shape.SUM]  # "120 singers less 18 altos"
    return [claim for claim in claims if claim in sums or not others.match(stretch.text, claim.end)]


_OF_WHICH = regex(r"\bof\s+(?:which|these|those|them),?\s+(?:only\s+)?\Z", re.IGNORECASE)


def of_those_such(stretch: Stretch, claims: Claims) -> Claims:
    """Keep how many of all are such as are asked for: "84, of which 75 are good"."""
    such, last = ASKED_SUCH.search(question_in(stretch.question.asked)), claims[-1]
    if such is None or len(claims) < 2:
        return claims
    are_so = re.compile(rf"\s+(?:[^\W\d_]+\s+)?{_ARE}\s+{such['so']}\W*", re.IGNORECASE)
    of_all = _OF_WHICH.search(stretch.text, claims[-2].end, last.start)
    return [last] if of_all and are_so.fullmatch(stretch.text, last.end, stretch.place.end) else claims


# "It was 80 and is 68 now."
_WAS = regex(r"\b(?:was|were|used\s+to\s+(?:be|cost)|had\s+been|had)\s+[€$£]?\Z", re.IGNORECASE)
_IS_NOW = regex(r"\b(?:is|are|costs?|has|have)\s+(?:now\s+|only\s+)*[€$£]?\Z|\bnow\s+[€$£]?\Z", re.IGNORECASE)
_ASKS_BEFORE = regex(r"\b(?:was|were|did|had|before|originally|at\s+first)\b", re.IGNORECASE)


def not_as_it_was(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what is now of what was before: "It was 80 and is 68 now"."""
    text, start = stretch.text, stretch.place.start
    if len(claims) < 2 or _ASKS_BEFORE.search(question_in(stretch.question.asked)):
        return claims
    was = [claim for claim in claims if _WAS.search(text, max(start, claim.start - 20), claim.start)]
    now = [claim for claim in claims if _IS_NOW.search(text, max(start, claim.start - 20), claim.start)]
    return [claim for claim in claims if claim not in was] if was and now else claims


# "28, which is twice 14; minus 7 is 21."
_WORKED_ON = regex(
    r"[;,.]\s+(?:then\s+|and\s+)?(?:minus|plus|less|times|add|divided\s+by)\s+(?:the\s+)?[€$£]?\d[\d.,]*(?:\s[^\W\d_]+){0,2}\s*"
    r"(?:is|are|makes?|gives?|leaves?|=|:)\s+[€$£]?\Z",
    re.IGNORECASE,
)


# "…, so 24 rows and 20 cabbages are left: 24 · 35 + 20 = 860."
_COLON_BEFORE = regex(r"(?<!check)(?<!verify)(?<!test)(?<!proof)(?<!verification):\s+\Z", re.IGNORECASE)


def worked_on_last(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what a stretch comes to in the end by a further step: "28, which is twice 14; minus 7 is 21"."""
    start = stretch.place.start
    if len(claims) > 2 and claims[-1].value.relation == "=" and claims[-2].value.shape is Shape.SUM:
        ends = not stretch.text[claims[-1].end : stretch.place.end].strip(" .*!$")
        goes_on = any(
            claims[-2].value.text.startswith(f"{one.value.text.split()[0]} ")
            for one in claims[:-2]
            if one.value.relation
        )
        if ends and (
            goes_on or _COLON_BEFORE.search(stretch.text, max(start, claims[-2].start - 24), claims[-2].start)
        ):
            return claims[-2:]  # "1.2 ha = 12,000 m²; 12,000 / 8 = 1,500"
    if len(claims) > 1 and _WORKED_ON.search(stretch.text, max(start, claims[-1].start - 48), claims[-1].start):
        return claims[-1:]
    return claims


_ASKS_VERB = regex(
    r"\b(?:does|do|did|will)\s+[^?]{2,60}?\s(?P<verb>cost|weigh|measure|lose|keep|gain|save|earn|spend|sell|win)\b[^?]{0,30}\?",
    re.IGNORECASE,
)


def behind_asked_verb(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what stands behind the question's verb: "It measures 9 m² and costs 37.80", of what it costs."""
    asks = _ASKS_VERB.search(question_in(stretch.question.asked))
    if asks is None or len(claims) < 2:
        return claims
    verb = re.compile(rf"\b{asks['verb']}(?:s|ed)?\s+(?:about\s+)?[€$£]?\Z", re.IGNORECASE)
    own = [claim for claim in claims if verb.search(stretch.text, max(0, claim.start - 20), claim.start)]
    new = [claim for claim in own if claim.value.value not in stretch.given]
    return new if len(new) == 1 else claims


_RATE_BEHIND = regex(
    r"(?:\s?[^\W\d_€$£%]{1,12}|\s?[€$£])?"
    r"(?:\s+[^\W\d_]{3,})?\s+(?:an?|per|each|every)\s+(?P<each>[^\W\d_]{3,})",
    re.IGNORECASE,
)
_RATE_BEFORE = regex(r"\b(?:each|every)\s+(?P<each>[^\W\d_]{3,})\s+[a-z]+\s+[€$£]?\Z", re.IGNORECASE)
_ASKS_RATE = regex(
    r"\b(?:an?|per|each|every|one|apiece|average|rate|speed|price|fast|share)\b(?!\s+(?:and|or)\b)", re.IGNORECASE
)


# "22.1 litres, that is 65 ml a kilometre"
_SAID_AGAIN = regex(r",\s+(?:that\s+is|i\.\s?e\.|or|which\s+is)\s+(?:about\s+|some\s+)?[€$£]?\Z", re.IGNORECASE)


def without_rates(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what each of several has, where all of them are asked for: "288 l in all, i.e. 6.4 l a barrel"."""
    text, start, given = stretch.text, stretch.place.start, stretch.given
    if len(claims) < 2 or _ASKS_RATE.search(question_in(stretch.question.asked)):
        return claims
    rates = [
        _RATE_BEHIND.match(text, claim.end) or _RATE_BEFORE.search(text, max(start, claim.start - 40), claim.start)
        for claim in claims
    ]
    counted = counted_in(stretch.question.asked)
    kept = [
        claim
        for claim, rate in zip(claims, rates, strict=True)
        if rate is None
        or not (
            stem(rate["each"].lower()) in counted or _SAID_AGAIN.search(text, max(start, claim.start - 20), claim.start)
        )
    ]
    return kept if any(claim.value.value not in given for claim in kept) else claims


# "63 against 21"
_AGAINST = regex(
    r"(?:\s?[^\W\d_]+){0,2}\s+(?:against|versus|vs\.?|as\s+opposed\s+to|compared\s+(?:to|with))\s+(?:only\s+|just\s+)?[€$£]?",
    re.IGNORECASE,
)


def not_what_it_is_set_against(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what the number asked for is compared with: "63 against 21"."""
    against = {
        id(second)
        for first, second in itertools.pairwise(claims)
        if _AGAINST.fullmatch(stretch.text, first.end, second.start)
    }
    return [claim for claim in claims if id(claim) not in against]


_ASKS_SAVED = regex(r"\b(?:sav|discount|reduc|cheaper|less|fewer|more)", re.IGNORECASE)
_BY = regex(r"\bby\s+(?:about\s+)?[€$£]?\Z", re.IGNORECASE)
_TO = regex(
    r"(?:\s?[^\W\d_€$£%]+|\s?[€$£%])?(?:,?\s+from\s+\S+(?:\s[^\W\d_]+)?)?,?\s+to\s+(?:minus\s+)?[€$£]?[-−–+]?\d",
    re.IGNORECASE,
)


def without_differences(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out by how much it changed beside what it came to: "drops by 12 to 68", "12 cheaper: 68"."""
    text, start, given = stretch.text, stretch.place.start, stretch.given
    asked = stretch.question.asked
    if len(claims) < 2 or ASKS_DIFFERENCE.search(asked) or _ASKS_SAVED.search(question_in(asked)):
        return claims
    apart = [
        claim
        for claim in claims
        if IS_DIFFERENCE.match(text, claim.end)
        or (_BY.search(text, max(start, claim.start - 12), claim.start) and _TO.match(text, claim.end))
    ]
    kept = [claim for claim in claims if claim not in apart]
    return kept if any(claim.value.value not in given for claim in kept) else claims
