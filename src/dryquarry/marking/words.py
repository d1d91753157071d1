"""Numbers in English words, from "zero" to millions: "thirty-six", "two hundred and five", "half a dozen"."""

from __future__ import annotations

import re
from collections.abc import Mapping
from fractions import Fraction

_UNITS_TEXT = (
    "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen "
    "fifteen sixteen seventeen eighteen nineteen"
)
_UNITS = _UNITS_TEXT.split()
_TENS = ["twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety"]
_SMALL: Mapping[str, int] = {
    **{word: value for value, word in enumerate(_UNITS)},
    **{word: 10 * value for value, word in enumerate(_TENS, start=2)},
}
_LARGE: Mapping[str, int] = {"thousand": 1000, "million": 10**6, "billion": 10**9}
_PARTS: Mapping[str, Fraction] = {
    "half": Fraction(1, 2),
    "third": Fraction(1, 3),
    "quarter": Fraction(1, 4),
}
_WORD = "|".join(sorted([*_SMALL, *_LARGE, "hundred", "dozen"], key=len, reverse=True))
_RUN = re.compile(
    rf"(?<![\w-])(?:(?P<half>half\s+a\s+)|(?P<one>an?\s+)(?=dozen|hundred|thousand|million))?"
    rf"(?P<words>(?:{_WORD})(?:(?:[\s-]+(?:and[\s-]+)?)(?:{_WORD}))*)"
    rf"(?![\s-]+(?:half|halves|third|quarter))(?:\s+and\s+(?:a\s+|(?P<count>one|two|three)\s+)(?P<part>half|third|quarter)s?)?(?![\w-])",
    re.IGNORECASE,
)
_PART_ALONE = re.compile(
    r"(?<![\w-])(?:(?P<count>an?|one|two|three)[\s-]+)?(?P<part>half|third|quarter)s?(?![\w-])", re.IGNORECASE
)
_COUNTS = {None: 1, "a": 1, "an": 1, "one": 1, "two": 2, "three": 3}


def spelled_out(text: str) -> str:
    """Return the text with every number in words written in digits."""
    text = _RUN.sub(_digits, text)
    return _PART_ALONE.sub(_part, text)


def _digits(match: re.Match[str]) -> str:
    value = _value(match["words"].lower())
    if value is None:
        return match.group()
    if match["half"]:
        value /= 2
    if match["part"]:
        value += _COUNTS[(match["count"] or "a").lower()] * _PARTS[match["part"].lower()]
    return _said(value)


def _part(match: re.Match[str]) -> str:
    count = match["count"].lower() if match["count"] else None
    return _said(_COUNTS[count] * _PARTS[match["part"].lower()])


def _said(value: Fraction) -> str:
    return str(value.numerator) if value.denominator == 1 else f"{value.numerator}/{value.denominator}"


def _value(words: str) -> Fraction | None:
    """Return the value of number words, or None where they are no one number ("two three")."""
    total = group = 0
    room = 10**12  # below which the next group must stay
    last = 0
    for word in re.split(r"[\s-]+", words):
        if word == "and":
            continue
        if word == "dozen":
            group = (group or 1) * 12
        elif word == "hundred":
            group = (group or 1) * 100
        elif word in _LARGE:
            if _LARGE[word] >= room:
                return None
            room = _LARGE[word]
            total, group = total + (group or 1) * room, 0
        else:
            value = _SMALL[word]
            # "twenty one" is a number, "two three" and "eleven two" are two.
            if last and (last < 20 or value >= 10) and group % 100:
                return None
            group += value
            last = value
            continue
        last = 0
    return Fraction(total + group)
