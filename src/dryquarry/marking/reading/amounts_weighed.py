"""How far a sentence with numbers takes up what was asked, and what makes it weigh less: a total, another unit."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence
from fractions import Fraction

from dryquarry.marking.reading.amounts_added import only_tells_of_rest
from dryquarry.marking.reading.amounts_apart import ASKS_REST, ASKS_WHOLE
from dryquarry.marking.reading.amounts_results import DRAWN
from dryquarry.marking.reading.chains import is_step
from dryquarry.marking.reading.claims import Found, Place, PlaceKind, Question
from dryquarry.marking.reading.echo import (
    content_of,
    echo,
    echo_of_it,
    names_in,
    question_in,
    stem,
    without_supposed,
)
from dryquarry.marking.reading.further_amounts import ASKS_SHARE, per_cent
from dryquarry.marking.reading.kinds import Weight
from dryquarry.marking.reading.stretches import Stretch, how_many
from dryquarry.marking.reading.supposed_amounts import is_example, is_of_other_period, is_supposed
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.numbers import find_terms
from dryquarry.marking.values.quantities import Quantity
from dryquarry.marking.values.units import dimension_of, scale_to

EQUATION = 0.8
# How much a sentence takes up at least that gives a number of the one name asked about.
OF_NAME = 1.2
# How much more a sentence weighs that says what it comes to in all.
IN_ALL = 1.3
LONGEST_LABEL = 40
OF_THESE = 0.8
# How much less one weighs on which a later sentence works on.
STEP = 1.2
# How much less one weighs that only tells what would be, or what it comes to in another time.
WOULD_BE = 1.4
IS_REST = 0.4
# How much more a sentence weighs that gives the letter asked for a value.
SOLVED = 0.5
# So many numbers one after another are given, and none of them is the answer.
MANY = 4
_LISTS = regex(r"(?:\d+,\s+){2}\d+")
# How much more a sentence weighs that has the key's unit.
IN_UNIT = 0.3
# "4x = 36", from which x is to be drawn
_WITH_FACTOR = regex(r"\d\s?[a-z]\s*=\s*\Z")
# "The canoes bring 130 on top of that, i.e. 382 overall."
COMES_TO_IN_ALL = regex(
    r"\b(?:i\.\s?e\.,?|that\s+is,?|which\s+makes|making|so|that's)\s+[€$£]?\d[\d.,]*(?:\s[^\W\d_]+)?\s+"
    r"(?:overall|in\s+all|all\s+told|altogether|in\s+total)\b",
    re.IGNORECASE,
)
# "It's eight."
_IT_IS = regex(
    r"[*_\s]*(?:so\s+)?(?:it|that|this|the\s+(?:answer|result))(?:['’]s|\s+is|\s+makes)\s+[*_$€£]{0,2}", re.IGNORECASE
)
# "x = 12"
_ISOLATED = regex(r"[\W_]*[^\W\d_]\w{0,3}\s*=\s*[€$£]?[-−]?")
# "42 of these are lent out": they stand for what the question names
OF_THESE_NAMED = regex(r"\W*(?:[\w,.]+\s+)?of\s+(?:these|those|them)\b", re.IGNORECASE)
# "seven times a hundred and eighty is one thousand two hundred and sixty"
_IN_WORDS = regex(r"\w\s+(?:times|plus|minus|less|divided\s+by)\s[^.;]*\b(?:is|are|makes?|gives?)\s+\Z", re.IGNORECASE)
_LEFT = regex(r"(?:\s+[^\W\d_]+){0,2}\s+(?:(?:is|are|were)\s+)?(?:left|remain|missing|lacking)\b", re.IGNORECASE)


def weight_of(stretch: Stretch, found: Sequence[Found[Quantity]]) -> Weight:
    """Return how far a sentence takes up what was asked; less where all its numbers are those of the question."""
    reply, place, question = stretch.reply, stretch.place, stretch.question
    given = stretch.given
    restated = all(one.value.value in given for one in found)
    share = echo(reply.text[place.start : place.end], question.asked)
    before = reply.sentences[place.sentence - 1].text if place.sentence else ""
    share += echo_of_it(reply.text[place.start : place.end], before, question.asked)
    # a number of the question that is drawn from something is no repetition of it
    restated = restated and DRAWN.search(reply.text, place.start, found[-1].start) is None
    begins = found[0].start <= place.start + 2 or _ISOLATED.fullmatch(reply.text, place.start, found[0].start)
    bare = begins and found[-1].end >= place.end - 3
    works_out = found[-1].value.relation == "=" or _IN_WORDS.search(reply.text, found[0].start, found[-1].start)
    if bare and place.sentence and works_out and found[-1].value.value not in given:
        share = max(share, EQUATION)  # nothing but an equation, which takes up what was asked in its own way
    bare = bare or (len(found) == 1 and _IT_IS.fullmatch(reply.text, place.start, found[0].start) is not None)
    if bare and len(found) == 1 and 0 < place.sentence == len(reply.sentences) - 1 and not restated:
        share = max(share, EQUATION)  # "£28.20.": the reply ends with it
    if not restated and concludes_numbers(reply, place):
        share = max(share, EQUATION)  # "…, that's 382. On a rainy day it would be less."
    if not restated and is_of_name_asked(reply.text, place.start, found[0].start, question.asked):
        share = max(share, OF_NAME)  # "Ida is 17."
    share -= 0.5 * (restated and len(found) >= MANY and _LISTS.search(reply.text, place.start, place.end) is not None)
    share -= _is_total_not_asked(reply.text, place, question)
    labelled = _is_labelled(reply.text, place, question)
    share += labelled
    share += SOLVED * _is_solved_for(reply.text, place, question_in(question.asked))
    share -= 2 * (all(per_cent(reply.text, one) for one in found) and not ASKS_SHARE.search(question.asked))
    share -= 2 * (how_many(question.asked) is not None and all(_is_part(reply.text, one, given) for one in found))
    share -= place.kind is PlaceKind.SENTENCE and is_left_over(reply.text, found, question.asked)
    share -= is_worked_on(reply.text, place, found[-1], given)
    worked = not (restated or labelled)
    share -= STEP * (worked and is_step(reply, place, found[-1].value.value, given))
    share -= 2 * is_rounded_again(reply.text, place, found)
    share -= place.kind is PlaceKind.SENTENCE and is_of_others(reply.text, place, found, question.asked)
    share -= 2 * only_tells_of_rest(stretch)
    share -= is_of_another(reply.text, place, question.asked)
    share -= in_other_unit(reply.text, found, question.asked)
    share += IS_REST * (not restated and is_rest_asked(reply.text, place, found[-1], question.asked))
    ends = 0 < place.sentence == len(reply.sentences) - 1
    share += 2 * IS_REST * (ends and not restated and _LEFT_WITH.search(reply.text, place.start, place.end) is not None)
    share += OF_THESE * (not restated and OF_THESE_NAMED.match(reply.text, place.start, place.end) is not None)
    share += IN_ALL * (len(found) > 1 and COMES_TO_IN_ALL.search(reply.text, place.start, place.end) is not None)
    share -= WOULD_BE * is_supposed(reply.text[place.start : place.end], question.asked)
    share -= WOULD_BE * is_of_other_period(reply.text[place.start : place.end], question.asked)
    share -= all(is_example(reply.text, place.start, one.start) for one in found)
    share -= 2 * says_in_another_unit(reply.text[place.start : place.end], question.asked)
    share -= 2 * (_NOT_ASKED.search(reply.text, place.start, place.end) is not None)
    share -= 0.6 * (_WITH_FACTOR.search(reply.text, place.start, found[-1].start) is not None)
    new = [one for one in found if one.value.value not in given]
    share -= WOULD_BE * (bool(new) and all(one.value.fault is not None for one in new))
    share += IN_UNIT * any(one.value.unit is not None and one.value.fault is None for one in found)
    return Weight(share - 0.8 * restated, any(reply.is_bold(one.start, one.end) for one in found), len(found) == 1)


SAYS_OF_NAME = regex(
    r"\W*(?:(?:so|thus|hence|then|and)\s+)?(?P<name>[A-Z][^\W\d_]+)(?:['’]s\s+[^\W\d_]+)?(?:['’]s|\s+(?:is|was|has|gets|pays|weighs|needs|must\s+be))\s+"
    r"(?:therefore\s+|thus\s+|now\s+)?[€$£]?"
)


def is_of_name_asked(text: str, start: int, at: int, asked: str) -> bool:
    """Tell whether a sentence gives a number right behind the one name that is asked about: "Ida is 17."."""
    said = SAYS_OF_NAME.fullmatch(text, start, at)
    names = names_in(without_supposed(asked)) if said else frozenset()
    return said is not None and len(names) == 1 and stem(said["name"]) in names


def concludes_numbers(reply: Reply, place: Place) -> bool:
    """Tell whether a sentence draws a number from what stands before it, and no later one has any."""
    if not place.sentence or _GOES_ON.match(reply.text, place.start, place.end):
        return False
    drawn = DRAWN.search(reply.text, place.start, place.end) is not None
    return drawn and _DIGIT.search(reply.text, place.end) is None


_DIGIT = regex(r"\d")
# "That is nearly sixty thousand a day.", "If each has 6 seats, that makes 432.": told beside the result
_GOES_ON = regex(r"\W*(?:that|this|these|which|if|for|per|in|on|with|by|at|had|were)\b", re.IGNORECASE)


def _is_labelled(text: str, place: Place, question: Question) -> bool:
    """Tell whether a line has what is to be counted as its label: "Boys: 9", "Both days: 270 m"."""
    total = _TOTAL_LABEL.match(text, place.start, place.end)
    if total is not None and _ASKS_TOTAL.search(question_in(question.asked)):
        return True
    label = _NOUN_LABEL.match(text, place.start, place.end)
    return label is not None and (
        stem(label["noun"].lower()) == how_many(question.asked) or _is_predicate(label["noun"], question.asked)
    )


def _is_solved_for(text: str, place: Place, asked: str) -> bool:
    """Tell whether a sentence ends with the value of the letter that is asked for: "Divide by five: x = 7."."""
    letter = _ASKS_LETTER.search(asked)
    says = rf"(?<![\w)])\s{letter[1]}\s*=\s*[-−]?\d[\d.,/]*[\s.!*$]*\Z" if letter else None
    return says is not None and re.search(says, f" {text[place.start : place.end]}") is not None


_OF_THEM = regex(r"\s+of\s+(?:the|these|those|them|all|its|their)\b", re.IGNORECASE)


def _is_part(text: str, found: Found[Quantity], given: frozenset[object]) -> bool:
    """Tell whether a number is a part of what is counted: "nearly nine tenths of the plums are fine"."""
    return 0 < found.value.value < 1 and found.value.value not in given and _OF_THEM.match(text, found.end) is not None


# "y is 3, but that isn't what was asked."
_NOT_ASKED = regex(
    r"\b(?:that|this|it|which)(?:['’]s|\s+is|\s+was)?(?:\s+not|n['’]t)\s+(?:what\s+(?:is|was|we\s+were|you)\s+ask(?:ed)?|asked|wanted|needed)\b",
    re.IGNORECASE,
)
_ASKS_LETTER = regex(r"\b(?:what\s+is|find|value\s+of|solve\s+for)\s+([a-z])\b(?!\s[a-z])", re.IGNORECASE)


def _is_predicate(word: str, asked: str) -> bool:
    """Tell whether it is asked how many are so: "whole" of "How many are whole?"."""
    return re.search(rf"\bhow\s+many\b[^?]*\b(?:are|were)\s+{re.escape(word)}\b", asked, re.IGNORECASE) is not None


def _is_total_not_asked(text: str, place: Place, question: Question) -> bool:
    """Tell whether a line gives a total and another one what is asked for: "Whole: 780. Torn: 60. Together: 840."."""
    if _THEN.match(text, place.start, place.end) and _NOW_LABEL.search(text):
        return re.search(r"\b(?:now|today)\b", question_in(question.asked), re.IGNORECASE) is not None
    if _REST_LABEL.match(text, place.start, place.end) and not ASKS_REST.search(question.asked):
        return True
    if _TOTAL_LABEL.match(text, place.start, place.end) is None or _ASKS_TOTAL.search(question_in(question.asked)):
        return False
    near = max(0, place.start - FARTHEST_BACK), place.end + FARTHEST_AHEAD
    labels = [match["noun"] for match in _NOUN_LABEL_BEFORE.finditer(text, *near)]
    return any(_is_predicate(noun, question.asked) for noun in labels)


# "Then: Brage 8, Tove 16.", where it is asked how old he is today
_THEN = regex(
    r"\W*(?:then|before|earlier|at\s+that\s+time|(?:[^\W\d_]+\s+)?years?\s+ago|back\s+then)\s*:\s", re.IGNORECASE
)
_NOW_LABEL = regex(r"(?:\A|[.;\n]\s*)\W*(?:now|today)\s*:\s", re.IGNORECASE)
_NOUN_LABEL_BEFORE = regex(r"(?:\A|[.;\n]\s*)\W*(?P<noun>[^\W\d_]+)\W{0,3}:\s")


_REST_LABEL = regex(r"\W*(?:remaining|remainder|rest|left(?:\s+over)?|kept)(?:\s+\w+)?\W{0,3}:\s", re.IGNORECASE)
_TOTAL_LABEL = regex(
    r"\W*(?:(?:grand\s+)?total|sum|both(?:\s+\w+)?|all(?:\s+\w+){0,2}|together|altogether|in\s+(?:all|total))\W{0,3}(?:[:=]\s|\s(?=[€$£]?\d))",
    re.IGNORECASE,
)
_ASKS_TOTAL = regex(r"\b(?:together|altogether|total|in\s+all|sum|both|all)\b", re.IGNORECASE)
# "Boys: 9"
_NOUN_LABEL = regex(r"\W*(?P<noun>[^\W\d_]+)\W{0,3}:\s")


_ASKED_UNIT = regex(r"\bhow\s+many\s+(?P<unit>[a-z]{4,})\b", re.IGNORECASE)
_UNIT_BEHIND = regex(r"\s?(?P<unit>[a-zA-Z]{1,12})\b(?!/)")


def in_other_unit(text: str, found: Sequence[Found[Quantity]], asked: str) -> bool:
    """Tell whether numbers have a unit of the kind asked for, and none that unit itself: tonnes for kilograms."""
    wanted = _ASKED_UNIT.search(question_in(asked))
    if wanted is None or dimension_of(wanted["unit"]) is None:
        return False
    behind = [_UNIT_BEHIND.match(text, one.end) for one in found]
    scales = [scale_to(unit["unit"], wanted["unit"]) if unit else None for unit in behind]
    factors = {scale[1] for scale in scales if scale is not None}
    return bool(factors) and 1 not in factors


_OTHERS = regex(r"\bthe\s+other\s+\Z", re.IGNORECASE)


def is_of_others(text: str, place: Place, found: Sequence[Found[Quantity]], asked: str) -> bool:
    """Tell whether a sentence tells of the others, or of parts where whole ones are asked for.

    "February has fewer and the other seven have 31"; "1,000 : 24 = 41.67, so …".
    """
    question = question_in(asked)
    others = _OTHERS.search(text, max(place.start, found[0].start - 20), found[0].start) is not None
    if others and not re.search(r"\b(?:others?|not|rest|left)\b|n't\b", question):
        return True
    parts = [one.value.value.denominator > 1 for one in found]
    return ASKS_WHOLE.search(question) is not None and any(parts)


_ASKED_SUBJECT = regex(r"\b(?:does|do|did|can|has|have)\s+(?:an?|the)\s+(?P<one>[^\W\d_]{3,})\b", re.IGNORECASE)
_SUBJECT_HAS = regex(
    r"\W*(?:an?|the)\s+(?P<one>[^\W\d_]{3,})\s+(?:would\s+|only\s+|already\s+)?(?:has|have|had|needs?|costs?|weighs?|takes?|gives?)\s",
    re.IGNORECASE,
)


def is_of_another(text: str, place: Place, asked: str) -> bool:
    """Tell whether a sentence tells of another thing than the one asked about: "A hexagon has 9", of a heptagon."""
    subject, says = _ASKED_SUBJECT.search(question_in(asked)), _SUBJECT_HAS.match(text, place.start, place.end)
    return subject is not None and says is not None and stem(says["one"].lower()) not in content_of(asked)


FARTHEST_AHEAD = 400
# "35 % of 840 = 294 novels. A seventh of 294 is 42."
_PART_OF_IT = regex(
    r"\b(?:half|third|quarter|fourth|fifth|sixth|seventh|eighth|ninth|tenth|%|per\s+cent|twice|times)\s+(?:of\s+)?(?:these\s+|the\s+|those\s+)?"
    r"(?P<operand>\d+(?:[.,]\d+)*)(?:\s+[^\W\d_]+){0,2}\s*(?:is|are|=|makes?|gives?)\s*(?P<result>\d[\d.,]*)(?<![.,])(?!\s*%)",
    re.IGNORECASE,
)
_WORKS_ON = regex(
    r"(?<![\w.,])(?P<operand>\d+(?:[.,]\d+)*)(?=(?:\s+[^\W\d_]+){0,2}\s*[-−–×·*/÷+:]\s*\d[\d.,]*"
    r"(?:\s+[^\W\d_]+){0,2}\s*=\s*(?P<result>\d[\d.,]*)(?<![.,])(?!\s*%))"
)


# "28 in all. Each is counted twice there, so it's half of that: 14."
_WORKS_ON_THAT = regex(
    r"\s*(?:[^.;:\n]{1,60}\b(?:so|hence|thus|therefore)\s+(?:it(?:'s|\s+is)|that(?:'s|\s+is)|the\s+\w+\s+is)|[^.;:\n]{0,60}\bcounted\s+twice)\b"
    r"[^.;:\n]{0,40}\b(?:half|a\s+third|a\s+quarter|twice|double|three\s+times)\s+(?:of\s+)?(?:that|this|it|them|as\s+much|as\s+many)\b[^.;\n]{0,20}?\d",
    re.IGNORECASE,
)


def is_left_over(text: str, found: Sequence[Found[Quantity]], asked: str) -> bool:
    """Tell whether a sentence only says what is left, where that is not asked for: "There are 16 bottles left"."""
    return not ASKS_REST.search(asked) and all(_LEFT.match(text, one.end) for one in found)


# "In dozens, that is 29 dozen and 3."
_IN_OTHER = regex(
    r"\W*in\s+(?P<unit>[^\W\d_]+s|per\s?cent),?\s+(?:that|this|it)(?:['’]s|\s+(?:is|would\s+be|makes|are))\b",
    re.IGNORECASE,
)


def says_in_another_unit(sentence: str, asked: str) -> bool:
    """Tell whether a sentence only says the result over again in a unit that is not asked for."""
    said = _IN_OTHER.match(sentence)
    return said is not None and stem(said["unit"].lower()) not in content_of(asked)


_LEFT_WITH = regex(r"\b(?:left\s+with|end\s+up\s+with|arrive\s+at)\b", re.IGNORECASE)
REST = regex(r"\b(?:remain(?:s|ed|ing)?|leav(?:es?|ing)|left)\b", re.IGNORECASE)


_ASKS_LEFT = regex(r"\b(?:left|remain\w*)\b[^?]*\?|\bhow\s+many\b[^.?]*(?:\bnot\b|n['’]t\b)[^.?]*\?", re.IGNORECASE)
# "132.93 remain to be paid.", where it is asked what something costs now
_REDUCED = regex(r"\b(?:reduced|reduction|discount|rebate|price|cut|off)\b", re.IGNORECASE)
_TO_PAY = regex(r"\b(?:remains?|leaves?|left)\s+to\s+(?:be\s+paid|pay)\b", re.IGNORECASE)


def is_rest_asked(text: str, place: Place, found: Found[Quantity], asked: str) -> bool:
    """Tell whether a sentence says what remains, and that is asked for in another word: "There remain 395."."""
    to_pay = _REDUCED.search(asked) is not None and _TO_PAY.search(text, place.start, place.end) is not None
    if to_pay or _ASKS_LEFT.search(asked) is None:
        return to_pay
    return found.value.value.denominator == 1 and REST.search(text, place.start, place.end) is not None


def is_worked_on(text: str, place: Place, found: Found[Quantity], given: frozenset[object]) -> bool:
    """Tell whether a later sentence works on with a number to a new one: "There are 84. … 84 − 9 = 75 are good."."""
    if _WORKS_ON_THAT.match(text, place.end):
        return True
    said = text[found.start : found.end].strip()
    if not said.replace(",", "").replace(".", "").isdecimal():
        return False
    bounds = (place.end, place.end + FARTHEST_AHEAD)
    ahead = itertools.chain(_WORKS_ON.finditer(text, *bounds), _PART_OF_IT.finditer(text, *bounds))
    works = next((one for one in ahead if one["operand"] == said), None)
    results = find_terms(works["result"]) if works else []
    return bool(results) and results[0].value not in given


_ABOUT = regex(
    r"\b(?:almost|nearly|about|around|roughly|approximately|some|close\s+to|just\s+(?:under|over|short\s+of)|"
    r"(?:a\s+little|slightly)\s+(?:under|over|less\s+than|more\s+than))\s+[€$£]?\Z",
    re.IGNORECASE,
)
NEAR = Fraction(1, 20)
FARTHEST_BACK = 600


_ROUNDED_LABEL = regex(r"\W*(?:rounded|approximately|roughly|about|approx\.?)\s*:", re.IGNORECASE)


def is_rounded_again(text: str, place: Place, found: Sequence[Found[Quantity]]) -> bool:
    """Tell whether a sentence only says about what was said before to the unit: "= 58,800. That is nearly 60,000"."""
    about = _ROUNDED_LABEL.match(text, place.start, place.end) is not None
    if not about and not all(_ABOUT.search(text, max(place.start, one.start - 30), one.start) for one in found):
        return False
    before = [one.value for one in find_terms(text, max(0, place.start - FARTHEST_BACK), place.start)]
    last = found[-1].value.value
    return any(value != last and abs(value - last) <= NEAR * abs(last) for value in before)
