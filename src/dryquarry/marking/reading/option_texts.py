"""The options of a question as texts: how they are found in a reply, and the value of one that is a number."""

from __future__ import annotations

import re
from fractions import Fraction
from functools import lru_cache

from dryquarry.marking.regexes import regex
from dryquarry.marking.values.clock import find_times
from dryquarry.marking.values.numbers import find_terms
from dryquarry.marking.values.quantities import find_ordinals


@lru_cache(maxsize=64)
def letter_pattern(letters: str) -> re.Pattern[str]:
    """Return the pattern of one of these letters that stands for itself."""
    return re.compile(rf"(?<![\w'’-])[(\[]?([{letters}])(?:[)\]](?!\w))?(?![\w'’])(?!-\w)")


@lru_cache(maxsize=256)
def first_word_shared(options: tuple[str, ...]) -> str | None:
    """Return the preposition that two options or more begin with: "on Monday", "on Friday"."""
    first = [option.split()[0].lower() for option in options if len(option.split()) > 1]
    shared = {
        word for word in first if first.count(word) > 1 and word in ("on", "in", "at", "to", "from", "by", "with")
    }
    return shared.pop() if len(shared) == 1 else None


def without_first(option: str, word: str | None) -> str:
    """Return an option without the preposition that it begins with, where others do, too."""
    words = option.split()
    return " ".join(words[1:]) if word and words[0].lower() == word and len(words) > 1 else option


# "the lantern in the hall"
_NAMED_BY_NOUN = regex(r"(?:the|an?)\s+\w+\s", re.IGNORECASE)


@lru_cache(maxsize=256)
def noun_shared(options: tuple[str, ...]) -> str | None:
    """Return the word that two options or more end with, or the second of all: "the lantern in the hall"."""
    last = [option.split()[-1] for option in options if len(option.split()) > 1]
    shared = {word for word in last if last.count(word) > 1}
    second = {_words(option)[0] for option in options if len(_words(option)) > 1}
    if not shared and len(second) == 1 and all(_NAMED_BY_NOUN.match(option) for option in options):
        return second.pop()
    return shared.pop() if len(shared) == 1 else None


@lru_cache(maxsize=1024)
def text_pattern(option: str, noun: str | None = None) -> re.Pattern[str] | None:
    """Return the pattern that finds an option's text as whole words, whatever case, articles and signs between them.

    For the `noun` that options share "one" may stand: "the gold one" of several boxes, "the one in the hall".
    """
    words = _words(option)
    if not words:
        return re.compile(re.escape(option.strip())) if option.strip() else None
    if both := _EITHER_WAY.fullmatch(option):
        swapped = f"{both['second']}{both['joint']}{both['first']}"
        return re.compile("|".join(map(_phrase, (option, swapped))), re.IGNORECASE)
    phrase = _phrase(option, noun if len(words) > 1 else None)
    if len(words) == 2 and noun is None and _TWO_NOUNS.fullmatch(option):
        phrase += rf"|(?<!\w){re.escape(words[1])}\s+of\s+(?:the\s+)?{re.escape(words[0])}(?!\w)"
    return re.compile(phrase, re.IGNORECASE)


# "air pressure" is "the pressure of the air"
_TWO_NOUNS = regex(r"(?:the\s+)?[a-z]{3,}\s[a-z]{3,}")


# "a lark or a plover" is "a plover or a lark"
_EITHER_WAY = regex(r"(?P<first>[^,;]{1,40}?)(?P<joint>\s+(?:or|and)\s+)(?P<second>[^,;]{1,40}?)")


def _words(option: str) -> list[str]:
    """Return the words of an option, without an article or pronoun before them: "a cork floats" is "It floats."."""
    words = re.findall(r"\w+(?:[.,:/]\d+)*", option)
    return words[1:] if len(words) > 1 and words[0].lower() in _BEFORE else words


_BEFORE = frozenset(("the", "a", "an", "it", "they", "he", "she"))


# "It did not rain" is "It didn't rain".
_IS_NOT = regex(
    r"\b(is|are|was|were|do|does|did|has|have|had|would|could|should)"
    + re.escape(r"\W{1,3}(?:the\s|an?\s)?")
    + r"not\b",
    re.IGNORECASE,
)


# "Ivo's canoe is heavier than Tom's"
_OWNED = regex(r"[A-Z][^\W\d_]+['’]s\s(?P<noun>[a-z]+)\s(?:is|was|has|weighs)\s")
_IT_IS = regex(r"\W*(?:it|he|she|that)\s+is\b", re.IGNORECASE)
_IT_DOES = regex(r"\W*(?:it|he|she)\s+[a-z]{3,}s\b", re.IGNORECASE)


_NAME_DOES = regex(r"[A-Z][^\W\d_]+\s(?-i:[a-z]{3,}s)")


def _phrase(option: str, noun: str | None = None) -> str:
    """Return the pattern of an option's words, of which the `noun` may be "one"."""
    words = [f"(?:{re.escape(word)}|one)" if word == noun else re.escape(word) for word in _words(option)]
    if (owned := _OWNED.match(option)) is not None and len(words) > 3:
        words[1:3] = [f"{words[1]}(?:\\W{{1,3}}(?:{re.escape(owned['noun'])}|one))?"]  # "Ivo's is heavier than Tom's"
        if owned["noun"] == words[-1]:
            words[-2:] = [f"{words[-2]}(?:\\W{{1,3}}(?:{re.escape(owned['noun'])}|one))?"]
    if words[-1].isalpha() and len(words[-1]) > 2 and not words[-1].endswith("s"):
        words[-1] += "(?:e?s)?"  # "penguins can't fly"
    if words[0] == "is" and _IT_IS.match(option):
        words[0] = "(?:is|s)"  # "It's half full."
    if _IT_DOES.match(option):
        words[0] = f"{words[0][:-1]}s?"  # "It will float" is "It floats."
    sign = r"[-−]\s?" if re.match(r"\s*[-−]\d", option) else ""
    between = r"\W{1,3}(?:the\s|an?\s)?"
    if _NAME_DOES.fullmatch(option):
        between = r"\W{1,3}(?:(?:is\s+the\s+one\s+)?(?:who|that)\s+)?"  # "It's Bo who lies" is "Bo lies"
    joined = between.join(words)
    joined = _IS_NOT.sub(r"(?:\1\\W{1,3}(?:the\\s|an?\\s)?not?|\1n['’]t|can(?:not|['’]t)\\sbe)", joined)
    return rf"(?<![\w.,/])(?<![-−](?=\d)){sign}{joined}(?![\w/]|[.,]\d)"


# "day 3"
_NUMBERED = regex(
    r"(?:day|week|month|floor|row|berth|room|lap|step|place|year|page|gate|number|no\.)\s+\d{1,4}", re.IGNORECASE
)


# "exactly two"
_EXACTLY = regex(r"(?:exactly|just|only)\s+", re.IGNORECASE)


@lru_cache(maxsize=256)
def option_value(option: str) -> Fraction | None:
    """Return the value of an option that is nothing but a number, in digits or words."""
    option = _EXACTLY.sub("", option.strip())
    terms = find_terms(option)
    numbered = _NUMBERED.fullmatch(option.strip())
    alone = len(terms) == 1 and (terms[0].text == option.strip() or numbered is not None)
    return terms[0].value if alone else None


FEWEST_NUMBERS = 2


@lru_cache(maxsize=256)
def _unit_shared(options: tuple[str, ...]) -> str:
    """Return the unit that all options have behind their number, with its blank: " hours" of "2 hours", "4 hours"."""
    parted = [re.fullmatch(r"\d[\d.,]*(?P<unit>\s[^\W\d_]+)", option.strip()) for option in options]
    units = {one["unit"] for one in parted if one is not None}
    return units.pop() if None not in parted and len(units) == 1 else ""


_CLOCK = regex(r"\d{1,2}:[0-5]\d(?:\s?[ap]\.?m\.?)?", re.IGNORECASE)


def _timed(options: tuple[tuple[str, str], ...], text: str, start: int, end: int) -> list[tuple[str, tuple[int, int]]]:
    """Return the letters of options that are times of day, and where a stretch tells them: "half past eleven"."""
    if not all(_CLOCK.fullmatch(option.strip()) for _, option in options):
        return []
    times = {find_times(option)[0].minutes: letter for letter, option in options if find_times(option)}
    stretch = _POINT.sub(":", text[start:end])
    said = [(one, times.get(one.minutes, times.get(one.minutes + 720))) for one in find_times(stretch)]
    return [(letter, (start + one.start, start + one.end)) for one, letter in said if letter is not None]


_POINT = regex(r"(?<=\b\d)[.h](?=[0-5]\d\b(?!\s?%))|(?<=\b\d\d)[.h](?=[0-5]\d\b(?!\s?%))")


def numbered(
    options: tuple[tuple[str, str], ...], text: str, start: int, end: int
) -> list[tuple[str, tuple[int, int]]]:
    """Return the letters of the options of which a stretch says the number in another way, and where it says it."""
    if timed := _timed(options, text, start, end):
        return timed
    unit = _unit_shared(tuple(option for _, option in options))
    told = [(option_value(option.removesuffix(unit)), letter) for letter, option in options]
    values = {value: letter for value, letter in told if value is not None}
    if len(values) < FEWEST_NUMBERS or len(values) < sum(value is not None for value, _ in told):
        return []
    said = [(one.value, one.start, one.end) for one in find_terms(text, start, end) if one.text.lower() != "one"]
    if not all(option[0].isdigit() for _, option in options):
        said += [(one.value, one.start, one.end) for one in find_ordinals(text, start, end)]
    behind = re.compile(rf"{re.escape(unit)}\b|\s+it\s+is\b|\W*\Z", re.IGNORECASE)
    return [
        (values[value], (first, last))
        for value, first, last in said
        if value in values and (not unit or behind.match(text, last, end))
    ]
