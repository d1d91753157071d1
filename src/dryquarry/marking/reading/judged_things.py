"""The things of a question's list, judged one after another: "Apples do. Eggs don't.", "Oak? No. Spruce? Yes."."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.reading.asked_lists import things_asked
from dryquarry.marking.reading.echo import content_of, question_in
from dryquarry.marking.reading.list_exceptions import ASKS_WHICH_NOT
from dryquarry.marking.reading.offers import Mention, mentions_of
from dryquarry.marking.reading.order_put_together import direction_asked
from dryquarry.marking.reading.things_told_apart import told_apart
from dryquarry.marking.regexes import regex

_SAID = r"(?P<said>[^.!?;:→\n]{2,60}?)"
_END = r"(?:[.!;\n]+|\Z)"
_DOES = r"(?:do|does|are|is|was|were|can|have|has)"
# Each says of one or some things that they are so or not; what it says beside that has the question's words only.
_UNITS = tuple(
    regex(rf"\s*(?:[-*•]\s+)?{unit}", re.IGNORECASE)
    for unit in (
        # "Oak? No, it has leaves."
        rf"{_SAID}\?\s*(?:(?P<yes>yes|yep|right|it\s+(?:is|does))|(?P<no>no|nope|wrong|not))\b[^.!;\n]{{0,60}}{_END}",
        # "So is larch.", "Nor are the oaks."
        rf"(?:(?P<yes>so)|(?P<no>neither|nor))\s+{_DOES}\s+(?P<said>[^.!?;:→\n]{{2,60}}?){_END}",
        # "Spruce is a conifer.", "Eggs don't.", "Larch is, too."
        rf"(?:and\s+|but\s+|also\s+)?{_SAID}\s+{_DOES}(?P<no>n['’]t|\s+not)?(?P<rest>\s+[^.!?;:,→\n]{{1,60}}?)?(?:,?\s+(?:as\s+well|too|also|so|either|(?:though|but)\s+(?:only\s+)?[^\W\d_]+))?{_END}",
        # "oak → not; beech → no conifer"
        rf"{_SAID}\s*(?:→|->|=>)\s*(?:(?P<no>no|not|✗|✘|❌)\b)?(?P<rest>[^.!?;:,→\n]{{0,40}}?)(?:[.!;,\n]+|\Z)",
        # "And larch.", "Larch, too."
        rf"(?:(?:and|also|plus|then)\s+(?P<said>[^.!?;:→\n]{{2,40}}?)){_END}",
        rf"{_SAID},?\s+(?:too|as\s+well){_END}",
        # "First, spruce."
        rf"(?:first|second|third|fourth|fifth|last)(?:ly)?[,:]\s+{_SAID}{_END}",
        # "Spruce and pine.", which others follow
        rf"{_SAID}{_END}",
    )
)
_NEGATION = regex(
    r"\b(?:not?|never|none|neither|nor|perhaps|possibly|maybe|might|may|only|but|except|or|if)\b|n['’]t\b",
    re.IGNORECASE,
)
_HAS_SOME = regex(r"\A\s*(?:one|two|three|four|five|six|many|some|several|dozens|\d+)\b", re.IGNORECASE)
_NO_WORD = regex(r"\A\s*(?:no|not)\b", re.IGNORECASE)


_DIGITS = regex(r"\d+")


def has_other_number(said: str, numbers: frozenset[str]) -> bool:
    """Tell whether something said has a number that is none of these, where there are any: "30 days" of 31."""
    return bool(numbers) and bool(set(_DIGITS.findall(said)) - numbers)


@lru_cache(maxsize=16)
def affirmed_in(text: str, start: int, end: int, asked: str) -> tuple[Mention, ...]:
    """Return the things of a question's list that a stretch affirms one after another; nothing for one alone.

    Every sentence of the stretch has to judge some of them, and in words of the question.
    """
    things, place = things_asked(asked), start
    if not things:
        return ()
    about, numbers = content_of(question_in(asked)), frozenset(_DIGITS.findall(question_in(asked)))
    judged: dict[str, tuple[Mention, bool]] = {}
    units = 0
    while place < end and text[place:end].strip():
        unit = _judges(things, about, text, place, end, numbers)
        if unit is None:
            return told_apart(text, start, end, asked)  # "The hen lays eggs. The cow doesn't."
        for one in unit[0]:
            judged[one[0]] = (one, unit[1])
        place, units = unit[2], units + 1
    wanted = ASKS_WHICH_NOT.search(asked) is None
    return tuple(one for one, right in judged.values() if right == wanted) if units > 1 else ()


_COPULA = regex(r"\s(?:are|is|have|has)\s+(?!not\b)", re.IGNORECASE)
_HOW_MANY = regex(r"\b(?:more|fewer|less)\b", re.IGNORECASE)


def by_predicate(text: str, start: int, end: int, asked: str) -> tuple[Mention, ...]:
    """Return of a stretch that parts the question's list in two what it says to be as asked.

    "Oak and beech are broad-leaved, spruce, larch and pine are conifers."
    """
    things, copulas = things_asked(asked), list(_COPULA.finditer(text, start, end))
    if direction_asked(asked) is not None or not things or len(copulas) != 2 or _NEGATION.search(text, start, end):
        return ()
    subjects = [
        mentions_of(things, text, first, copula.start())
        for first, copula in zip((start, copulas[0].end()), copulas, strict=True)
    ]
    if not all(subjects) or len({one for found in subjects for one, _, _ in found}) != len(things):
        return ()
    about = content_of(question_in(asked)) - {word for thing in things for word in content_of(thing)}
    says = [content_of(text[copulas[0].end() : subjects[1][0][1]]), content_of(text[copulas[1].end() : end])]
    told = [bool(about & words) for words in says]
    asks = {word.lower() for word in _HOW_MANY.findall(question_in(asked))}
    if not any(told) and len(asks) == 1:  # "Arle and Dunn have fewer; Birk and Corr have more."
        said = (text[copulas[0].end() : subjects[1][0][1]], text[copulas[1].end() : end])
        told = [asks == {word.lower() for word in _HOW_MANY.findall(part)} for part in said]
    return tuple(subjects[told.index(True)]) if told.count(True) == 1 else ()


def _judges(
    things: tuple[str, ...], about: frozenset[str], text: str, place: int, end: int, numbers: frozenset[str]
) -> tuple[list[Mention], bool, int] | None:
    """Return what the next sentence judges, whether it affirms that, and where it ends; None where it judges none."""
    for pattern in _UNITS:
        unit = pattern.match(text, place, end)
        if unit is None:
            continue
        found, given = mentions_of(things, text, *unit.span("said")), unit.groupdict()
        rest = given.get("rest") or ""
        denied = bool(given.get("no")) or _NO_WORD.match(rest) is not None or has_other_number(rest, numbers)
        own = content_of(unit["said"]) - {word for thing, _, _ in found for word in content_of(thing)}
        own_words = frozenset() if "no" not in given else about  # a bare name has no words beside it
        rest = _HAS_SOME.sub("", rest)  # "Mars has two."
        if found and not _NEGATION.search(unit["said"]) and own <= own_words and content_of(rest) - {"not"} <= about:
            return found, not denied, unit.end()
    return None


_LABEL = regex(r"\W*(?P<what>[^\W\d_]+(?:\s[^\W\d_]+){0,3}):\s")
_HAS_SO_MANY = regex(
    r"\b(?:has|have)\s+(?:at\s+least\s+|more\s+than\s+)?(?:one|two|three|four|five|six|many|some|several|more|\d+)\b",
    re.IGNORECASE,
)
_DENIES = regex(r"\b(?:not?|none|never|neither|nor|only|but|except)\b|n['’]t\b", re.IGNORECASE)


def has_what_is_denied(sentence: str, asked: str) -> bool:
    """Tell whether a sentence says of some that they have what it is asked which have not: "Mars has two"."""
    wanted = ASKS_WHICH_NOT.search(question_in(asked)) is not None
    if wanted and (label := _LABEL.match(sentence)) is not None and _DENIES.search(label["what"]) is None:
        return bool(content_of(label["what"]) & content_of(question_in(asked)))  # "Moons: Mars, Saturn."
    return wanted and _HAS_SO_MANY.search(sentence) is not None and _DENIES.search(sentence) is None


_LACKS = regex(r"\b(?:lacks?|lacked|miss(?:es)?|fails?|(?:has|have|had)\s+none)\b", re.IGNORECASE)


def lacks_what_is_asked(sentence: str, asked: str) -> bool:
    """Tell whether a sentence says what some lack, where it is asked which have it: "The Brent lacks a motor"."""
    question = question_in(asked)
    return _LACKS.search(sentence) is not None and not _LACKS.search(question) and not ASKS_WHICH_NOT.search(question)


_NUMBER_LABEL = regex(r"\W*(?P<number>\d+)\b[^:.;]{0,20}:\s")


def is_labelled_otherwise(sentence: str, asked: str) -> bool:
    """Tell whether a sentence has a number that is not asked about as its label: "30 days: April", of 31."""
    label = _NUMBER_LABEL.match(sentence)
    return label is not None and has_other_number(label["number"], frozenset(_DIGITS.findall(question_in(asked))))


def told_of_others(sentence: str, asked: str) -> int:
    """Return in how many ways a sentence says that what it lists is not as asked."""
    ways = (has_what_is_denied, lacks_what_is_asked, is_labelled_otherwise)
    return sum(way(sentence, asked) for way in ways)
