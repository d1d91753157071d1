"""Which numbers of a stretch are of something else than what was asked: of another period, or of what is saved."""

from __future__ import annotations

import itertools
import re
from fractions import Fraction

from dryquarry.marking.reading.claims import Claim
from dryquarry.marking.reading.echo import content_of, is_echo, question_in, stem
from dryquarry.marking.reading.stretches import ASKS_CHANCE, Claims, Stretch, how_many, numbers_asked
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.quantities import Quantity

# "13.80 each, 20 cents short of 14"
_SHORT = regex(r"(?:\s*[€$£%])?(?:\s+[^\W\d_]+)?\s+short\s+of\b", re.IGNORECASE)
_SHORT_OF = regex(r"\bshort\s+of\s+(?:the\s+|an?\s+)?[€$£]?\Z", re.IGNORECASE)
# "eight of the nineteen numbers"
_OF_ALL = regex(r"\s+(?:out\s+)?of\s+(?:the|all|these|those|its|their|all\s+the)\s+", re.IGNORECASE)
# "11 walk and the other 22 cycle"
_THE_OTHER = regex(r"\bthe\s+other\s+\Z", re.IGNORECASE)
# "forty-one times, and 16 bottles are left over": beside other numbers that says more than "are left", which may answer
_LEFT_OVER = regex(
    r"(?:\s+[^\W\d_]+){0,2}\s+(?:(?:is|are|were|would\s+be)\s+)?(?:left\s+over|to\s+spare|remaining)\b", re.IGNORECASE
)
# "That's 270 m, which leaves 210 m for the rest of the week."
_WHICH_LEAVES = regex(r",\s+(?:which\s+leaves|leaving)\s+(?:another\s+)?[€$£]?\Z", re.IGNORECASE)
_FOR_LATER = regex(
    r"[^,;.]{0,30}\b(?:for\s+(?:the|later|another|tomorrow|next)|over|to\s+go|to\s+do|still|until)\b", re.IGNORECASE
)
ASKS_REST = regex(r"\b(?:others?|else|remain\w*|rest|left|not)\b|n't\b", re.IGNORECASE)
# "There are eight: 2, 3, 5, …"
_COLON = regex(r"(?:\s+[^\W\d_]+){0,4}:\s")
FEWEST_LISTED = 3


def without_measures(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what a number is short of, and the whole that it is a part of, unless a share is asked for."""
    text, question = stretch.text, stretch.question
    if len(claims) < 2:
        return claims
    kept = [
        claim
        for claim in claims
        if not _SHORT.match(text, claim.end) and not _SHORT_OF.search(text, max(0, claim.start - 20), claim.start)
    ]
    if not ASKS_REST.search(question.asked):
        kept = [claim for claim in kept if not _THE_OTHER.search(text, max(0, claim.start - 20), claim.start)]
        kept = [claim for claim in kept if not _LEFT_OVER.match(text, claim.end)] or kept
        kept = [claim for claim in kept if not _is_left_for_later(text, claim)] or kept
    if not ASKS_CHANCE.search(question.asked):
        wholes = [after for one, after in itertools.pairwise(kept) if _OF_ALL.fullmatch(text, one.end, after.start)]
        kept = [claim for claim in kept if claim not in wholes]
    return kept or claims


def _is_left_for_later(text: str, claim: Claim[Quantity]) -> bool:
    leaves = _WHICH_LEAVES.search(text, max(0, claim.start - 30), claim.start)
    return leaves is not None and _FOR_LATER.match(text, claim.end) is not None


ASKS_WHOLE = regex(r"\bhow\s+many\s+(?:whole|full|complete)\b", re.IGNORECASE)


def without_parts(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out parts where whole ones are asked for, the remainder of a division, and wholes where a share is asked.

    "41 are full and the 42nd is two thirds full", "41, remainder 16", "a quarter; four bottles fill it".
    """
    asked, text = question_in(stretch.question.asked), stretch.text
    if len(claims) < 2:
        return claims
    if ASKS_WHOLE.search(asked):
        claims = [claim for claim in claims if claim.value.value.denominator == 1] or claims
    if not ASKS_REST.search(asked) and "remainder" not in asked:
        kept = [
            claim
            for claim in claims
            if not text[max(0, claim.start - 12) : claim.start].rstrip().endswith(("remainder", "rest"))
        ]
        claims = kept or claims
    if not ASKS_CHANCE.search(asked):
        claims = [claim for claim in claims if not _HALF_OF_THEM.match(text, claim.start)] or claims
    parts = [claim for claim in claims if 0 < claim.value.value < 1]
    wholes = [claim for claim in claims if claim.value.value > 1 and claim.value.value.denominator == 1]
    shares = ASKS_CHANCE.search(asked) and len(parts) == 1 and len(parts) + len(wholes) == len(claims)
    return parts if shares and all(claim.value.relation is None for claim in claims) else claims


# "64 fields, half of them white"
_HALF_OF_THEM = regex(
    r"(?:half|(?:a|one|two|three)[\s-](?:third|quarter|fifth)s?)\s+of\s+(?:them|these|those|which)\b", re.IGNORECASE
)
_SO_MANY_OF = regex(r"\s+(?P<noun>[^\W\d_]+)\s+of\s+")


def the_count(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the number that says how many are listed behind its colon, where that is asked for."""
    text, question = stretch.text, stretch.question
    listed = len(claims) - 1
    counts = listed >= FEWEST_LISTED and claims[0].value.value == listed and _COLON.match(text, claims[0].end)
    noun = how_many(question.asked)
    so_many_of = _SO_MANY_OF.match(text, claims[0].end) if len(claims) == 2 and noun is not None else None
    if so_many_of and stem(so_many_of["noun"].lower()) == noun and so_many_of.end() == claims[1].start:
        return claims[:1]  # "3 groups of 9", where the groups are counted
    return claims[:1] if counts and noun is not None else claims


_ASKED_HEAD = regex(r"\bwhat(?:'s|\s+is|\s+was)\s+(?:the|its|their)\s+(?P<head>[^\W\d_]{4,})\b", re.IGNORECASE)
_OF = regex(r"\s+(?:of|for)\s+(?:an?\s+|the\s+)?(?P<what>[^\W\d_]+)", re.IGNORECASE)
_IS = regex(r"\b(?:is|was|be)\b|[=:]", re.IGNORECASE)


def behind_head(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the number behind what is asked for, where others stand before: "the mean is 7.4, and the median 8"."""
    text, question = stretch.text, stretch.question
    head = _ASKED_HEAD.search(question_in(question.asked))
    if head is None or len(claims) < 2:
        return claims
    heads = list(re.finditer(rf"\b{head['head']}\b", text[claims[0].start : claims[-1].start], re.IGNORECASE))
    if len(heads) != 1 or text[claims[0].end : claims[0].start + heads[0].start()].count(":"):
        return claims
    start = claims[0].start + heads[0].end()
    of = _OF.match(text, start)
    if of is not None and not is_echo(of["what"], question.asked):
        return claims  # "one quarter, while the chance of losing is three quarters"
    verb = _IS.search(text, start, claims[-1].start)
    return [claim for claim in claims if claim.start >= (verb.end() if verb else start)] or claims


# "3 · 1¾ = 5¼ cups, so buy 6 cups of stock"
_ADVICE = regex(
    r"[,;(–—]\s*(?:so|thus|hence|then|better)?,?\s*(?:you\s+should\s+|you'd\s+better\s+|better\s+)?(?P<verb>buy|order|bring|prepare|plan|stock\s+up\s+on)\s+"
    r"(?:for\s+|with\s+)?(?:at\s+least\s+|about\s+)?\Z|"
    r"[,;(–—]\s*(?:or\s+|but\s+)?(?P<better>better|ideally|preferably)\s+(?:still\s+)?(?:at\s+|by\s+)?\Z",
    re.IGNORECASE,
)


def without_advice(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what one is told to buy, where that is not asked for and a result stands before it."""
    kept = []
    for claim in claims:
        advice = _ADVICE.search(stretch.text, max(stretch.place.start, claim.start - 50), claim.start)
        if advice is None or re.search(
            rf"\b{advice['verb'] or advice['better']}", stretch.question.asked, re.IGNORECASE
        ):
            kept.append(claim)
    return kept or claims


# "90 minutes of lessons, 110 with the break", where the break is asked for, too
_WITH_IT = regex(
    r"\s+(?:[^\W\d_]+\s+)?(?:with|including|counting)\s+(?:the\s+|an?\s+)?(?P<what>[^\W\d_]{3,})", re.IGNORECASE
)


def with_all_parts(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the one number that is told with what the question adds: "90 minutes of lessons, 110 with the break"."""
    behind = [_WITH_IT.match(stretch.text, claim.end) for claim in claims]
    whole = [
        claim
        for claim, one in zip(claims, behind, strict=True)
        if one and _is_added(one["what"], stretch.question.asked)
    ]
    return whole if len(claims) > 1 and len(whole) == 1 else claims


def _is_added(what: str, asked: str) -> bool:
    return (
        re.search(rf"\b(?:plus|and|with|including)\s+(?:the\s+|an?\s+)?{re.escape(what)}\b", asked, re.IGNORECASE)
        is not None
    )


_SAVED = regex(
    r"\b(?:sav(?:e|es|ed)|(?:savings?|discount|reduction)\s+(?:of|is|was|comes?\s+to|amounts?\s+to))\b[^,;.:\d]{0,12}?[€$£]?\Z|\b(?:savings?|discount|reduction):?\s+[€$£]?\Z",
    re.IGNORECASE,
)
_ASKS_SAVED = regex(r"\b(?:sav|discount|reduc|off\b)", re.IGNORECASE)


def without_saved(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what is paid, where it is not asked for what is saved: "132.93 €, so you save 56.97 €"."""
    text, question = stretch.text, stretch.question
    if _ASKS_SAVED.search(question_in(question.asked)):
        return claims
    kept = [claim for claim in claims if not _SAVED.search(text, max(0, claim.start - 40), claim.start)]
    return kept if kept or all(claim.value.value in stretch.given for claim in claims) else []


_EACH = regex(r"\s*(?:[^\W\d_]{1,12}\s+){0,2}?(?:an?|per|each|every)\s+(?P<each>[^\W\d_]{3,})", re.IGNORECASE)
_ASKS_EACH = regex(
    r"\b(?:in|an?|per|each|every|one)\s+(?:(?:whole|full|single|entire)\s+)?(?P<each>[^\W\d_]{3,})", re.IGNORECASE
)


def of_each_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what is told for each week where that is asked for, and not for each day: "48 l a week, or 8 l a day"."""
    text, question = stretch.text, stretch.question
    if len(claims) < 2:
        return claims
    asked = {stem(match["each"].lower()) for match in _ASKS_EACH.finditer(question_in(question.asked))}
    told = [_EACH.match(text, claim.end) for claim in claims]
    each = [stem(match["each"].lower()) if match else None for match in told]
    if not any(one in asked for one in each if one):
        return claims
    return [claim for claim, one in zip(claims, each, strict=True) if one is None or one in asked]


_PERIODS = frozenset(("second", "minut", "hour", "day", "week", "month", "year"))
_ASKS_PERIOD = regex(
    r"\b(?:in|an?|per|each|every|one|over|during)\s+(?:an?\s+)?(?:whole\s+|full\s+)?(?P<each>[^\W\d_]{3,})",
    re.IGNORECASE,
)
_OVER = regex(
    r"\b(?:in|over|during|each|every|per)\s+(?:an?\s+|the\s+)?(?P<each>[^\W\d_]{3,})\b[^,;.]*\Z", re.IGNORECASE
)


def of_period_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what is told of another period than the one asked about: "1,344, i.e. 192 a day"."""
    text, place = stretch.text, stretch.place
    asked = {
        stem(match["each"].lower()) for match in _ASKS_PERIOD.finditer(question_in(stretch.question.asked))
    } & _PERIODS
    if len(asked) != 1:
        return claims
    kept = []
    for claim in claims:
        clause = max(place.start, *(text.rfind(sign, place.start, claim.start) for sign in (", ", "; ", ". ")))
        told = _EACH.match(text, claim.end) or _OVER.search(text, clause, claim.start)
        period = stem(told["each"].lower()) if told else None
        if period not in _PERIODS or period in asked:
            kept.append(claim)
    return kept if kept or any(claim.value.value in stretch.given for claim in claims) else []


# "17 km; that's about 10.6 miles": nearly the same in another unit
ABOUT_THE_SAME = Fraction(1, 100)
_ROUGHLY = regex(r"\b(?:about|roughly|around|approximately|some|nearly)\s+\Z", re.IGNORECASE)


def _without_rough_again(text: str, claims: Claims) -> Claims:
    """Leave out what is told again roughly in another unit, before or behind the exact amount."""
    if len(claims) != 2 or claims[0].value.unit == claims[1].value.unit or None in (one.value.unit for one in claims):
        return claims
    values = [claim.value.value for claim in claims]
    rough = [claim for claim in claims if _ROUGHLY.search(text, max(0, claim.start - 16), claim.start)]
    near = 0 < abs(values[0] - values[1]) <= ABOUT_THE_SAME * abs(values[0])
    return [claim for claim in claims if claim not in rough] if near and len(rough) == 1 else claims


# "360 nautical miles, which is 666.7 km"
_CONVERTED = regex(r"(?:,\s+(?:which\s+is|that\s+is|i\.e\.)|\bor|[=≈(])\s+(?:about\s+|roughly\s+)?\Z", re.IGNORECASE)
_SHORT_UNIT = regex(r"\s?(?:km|kg|cm|mm|mi|lbs?|ft|m|l|ml|g|h|min|s)\b")


def not_converted(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what is told again in another unit, where the first number has the noun that is asked for."""
    claims = _without_rough_again(stretch.text, claims)
    noun = how_many(stretch.question.asked)
    own = claims and noun and _OWN_NOUN.match(stretch.text, claims[0].end)
    if not own or stem(own["noun"].lower()) != noun or _SHORT_UNIT.fullmatch(noun):
        return claims
    again = [
        claim
        for claim in claims[1:]
        if _CONVERTED.search(stretch.text, max(0, claim.start - 24), claim.start)
        and _SHORT_UNIT.match(stretch.text, claim.end)
    ]
    return [claim for claim in claims if claim not in again]


_OWN_NOUN = regex(r"\s(?P<noun>[^\W\d_]{3,})")
# "After selling 5/8, three eighths remain."
_SUBJECT = regex(r"\b(?:he|she|it|they|we|you|i|there)\b", re.IGNORECASE)
_BEFORE_MAIN = regex(
    r"\W*(?:so\s+|and\s+|but\s+)?(?:after|before|having|with|without|given|since|because|as|from|of|out\s+of|besides|apart\s+from)\s[^,;:.]*,\s(?!of\s|which\s|so\s|and\s|where\s|leaving\s)",
    re.IGNORECASE,
)


def of_main_clause(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what the main clause of a sentence says, where it says anything that the question does not give."""
    text, place, question = stretch.text, stretch.place, stretch.question
    if place.telling:
        return claims
    lead = _BEFORE_MAIN.match(text, place.start, place.end)
    if lead is None or _SUBJECT.search(lead.group()):
        return claims
    main = [claim for claim in claims if claim.start >= lead.end()]
    new = [claim for claim in main if claim.value.value not in numbers_asked(question.asked)]
    return main if new and len(main) < len(claims) else claims


# "You save 2.50 €, as 10 · 1.20 € = 12 €", "It's 15: add 12 and you get 27"
_REASON = regex(r",\s+(?:as|since|because)\s", re.IGNORECASE)
_IT_IS_SO = regex(
    r"\W*(?:so\s+)?(?:it|that|this)(?:'s|\s+is|\s+was|\s+must\s+be)\s[^:;,\s]{1,12}(?:\s[^:;,\s]{1,12})?:\s",
    re.IGNORECASE,
)


def before_reason(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what stands before its reason, where anything new does."""
    text, place, question = stretch.text, stretch.place, stretch.question
    if place.telling:
        return claims
    given = numbers_asked(question.asked)
    so = _IT_IS_SO.match(text, place.start, place.end)
    reason = _REASON.search(text, claims[0].end, place.end) if claims and so is None else None
    end = so.end() if so else reason.start() if reason else place.end
    before = [claim for claim in claims if claim.end <= end]
    return before if any(claim.value.value not in given for claim in before) else claims


# "5/8 sold, 3/8 left", where it is asked what part is left
_ASKS_PART = regex(
    r"\b(?:what|which)\s+(?:part|share|fraction|proportion|percentage)\b(?!.*(?:\bnot\b|n't\b))", re.IGNORECASE
)
_HOW_MANY_ARE = regex(
    r"\bhow\s+many\s+(?:of\s+(?:them|these|the\s+\w+)\s+)?(?:are|were|is|was)\s+(?!left\b|there\b|in\b)(?!.*(?:\bnot\b|n't\b))",
    re.IGNORECASE,
)
_BEHIND = regex(r"\s+(?:of\s+(?:them|these|those)\s+)?(?:(?:are|is|were|was|stay|remain)s?\s+)?(?P<word>[^\W\d_]{3,})")


def behind_which_is_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the one number behind which a word of the question stands, where there is a word of its own behind each."""
    text, question = stretch.text, stretch.question
    asked = content_of(question_in(question.asked))
    behind = [_BEHIND.match(text, claim.end) for claim in claims]
    asks = question_in(question.asked)
    if len(claims) < 2 or None in behind or not (_ASKS_PART.search(asks) or _HOW_MANY_ARE.search(asks)):
        return claims
    meant = [claim for claim, word in zip(claims, behind, strict=True) if word and stem(word["word"].lower()) in asked]
    return meant if len(meant) == 1 else claims


# "It sank by 16.1 m, from +12.4 m to −3.7 m."
_BY = regex(r"\bby\s+(?:about\s+|exactly\s+)?[€$£]?\Z", re.IGNORECASE)
_FROM = regex(r"\s*,?\s+from\s+(?:about\s+)?[€$£+]?\Z", re.IGNORECASE)


def by_how_much(stretch: Stretch, claims: Claims) -> Claims:
    """Keep by how much something changed, where it is told from what to what, too."""
    text = stretch.text
    if len(claims) != 3 or not _BY.search(text, max(0, claims[0].start - 20), claims[0].start):
        return claims
    return claims[:1] if _FROM.match(text[claims[0].end : claims[1].start]) else claims


# "3/8 are missing, 5/8 are there"
_LACKS = regex(r"\s+(?:are|is)\s+(?:missing|empty|lacking|absent|gone)\b", re.IGNORECASE)


def without_lacking(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what is said to be missing, where that is not asked for."""
    text, question = stretch.text, stretch.question
    if len(claims) < 2 or _ASKS_LACK.search(question_in(question.asked)):
        return claims
    return [claim for claim in claims if not _LACKS.match(text, claim.end)] or claims


# "19 of them leak. How many are sound?": "233 leak" is no answer to that
_GIVEN_DOES = regex(
    r"(?:\d|\b(?:half|third|quarter|fifth|sixth|tenth|rest))\s+(?:of\s+(?:them|these|those|(?:the|\d[\d.,]*)\s+[^\W\d_]+)\s+(?:(?:are|were|is|was|have|had)\s+)?|"
    r"(?:[^\W\d_]+\s+)?(?:are|were|have|had)\s+)(?P<word>[^\W\d_]{3,})",
    re.IGNORECASE,
)
_DOES = regex(
    r"\s+(?:of\s+(?:them|these|those|the\s+[^\W\d_]+)\s+)?(?:[^\W\d_]+\s+)?(?:(?:are|were|is|was|have|had)\s+)?"
    r"(?P<word>[^\W\d_]{3,})",
    re.IGNORECASE,
)
_NOT_SO = regex(r"\b(?:not|none|never|without)\b|n['’]t\b", re.IGNORECASE)


def not_as_given(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out the numbers of which a sentence says what the question says of a number that it gives."""
    text, question = stretch.text, stretch.question
    asking = question_in(question.asked)
    given = {stem(match["word"].lower()) for match in _GIVEN_DOES.finditer(question.asked)} - content_of(asking)
    if not given or how_many(question.asked) is None:
        return claims
    behind = [_DOES.match(text, claim.end) for claim in claims]
    return [
        claim
        for claim, does in zip(claims, behind, strict=True)
        if does is None or stem(does["word"].lower()) not in given or _NOT_SO.search(does.group())
    ]


_ASKS_LACK = regex(r"\b(?:missing|empty|lacking|absent|gone)\b", re.IGNORECASE)
# "before that", "today … are left"
_ASKS_BEFORE = regex(
    r"\b(?:before|originally|at\s+first|initially|in\s+the\s+beginning|to\s+begin\s+with)\b", re.IGNORECASE
)
_AFTER_IT = regex(r"\b(?:now|today|left|remain\w*|afterwards|still)\b", re.IGNORECASE)
_CLAUSE = regex(r"[^,;.]+")


def of_time_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Leave out what is so afterwards, where it is asked what was so before: "seven books, now there are six"."""
    text, place, question = stretch.text, stretch.place, stretch.question
    if len(claims) < 2 or place.telling or not _ASKS_BEFORE.search(question_in(question.asked)):
        return claims
    later = [part.span() for part in _CLAUSE.finditer(text, place.start, place.end) if _AFTER_IT.search(part.group())]
    # "today, with one lent out, 6 are left": what follows belongs to it
    first = min((start for start, _ in later), default=place.end)
    return [claim for claim in claims if claim.start < first] or claims
