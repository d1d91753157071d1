"""Numerals: digits with separators of every style, and numbers in words, as exact values with their places."""

from __future__ import annotations

import re
from collections.abc import Mapping
from fractions import Fraction

from dryquarry.marking.regexes import regex
from dryquarry.marking.values.texts import plain_letters

MOST_DIGITS = 60

DIGITS = r"""
      (?:\d{1,3}(?:[ ]\d{3})+|\d{1,3}(?:'\d{3})+)(?:[.,]\d+)?(?!\d)   # 1 234.5 · 1'234,5
    | \d{1,3}(?:,\d{2,3})*,\d{3}(?:\.\d+)?(?![\d,]*\d)                # 1,234.5 · 12,34,567
    | \d{1,3}(?:\.\d{3})+,\d+(?!\d)                                   # 1.234,5
    | \d{1,3}(?:\.\d{3}){2,}(?!\d)                                    # 1.212.500
    | \d+(?:[.,]\d+)?
    | [.]\d+
    | (?<=:[ ]),\d+                                                  # "Answer: ,375"
"""
VULGAR: Mapping[str, Fraction] = {
    "½": Fraction(1, 2), "⅓": Fraction(1, 3), "⅔": Fraction(2, 3), "¼": Fraction(1, 4), "¾": Fraction(3, 4),
    "⅕": Fraction(1, 5), "⅖": Fraction(2, 5), "⅗": Fraction(3, 5), "⅘": Fraction(4, 5), "⅙": Fraction(1, 6),
    "⅚": Fraction(5, 6), "⅐": Fraction(1, 7), "⅛": Fraction(1, 8), "⅜": Fraction(3, 8), "⅝": Fraction(5, 8),
    "⅞": Fraction(7, 8), "⅑": Fraction(1, 9), "⅒": Fraction(1, 10), "↉": Fraction(0),
}  # fmt: skip
SCALES: Mapping[str, int] = {
    "dozen": 12, "hundred": 100, "k": 1000, "thousand": 1000, "tsd": 1000, "mille": 1000,
    "million": 10**6, "millions": 10**6, "millionen": 10**6, "mio": 10**6, "mn": 10**6, "millones": 10**6,
    "billion": 10**9, "billions": 10**9, "bn": 10**9, "milliarden": 10**9, "trillion": 10**12,
    "thousands": 1000, "hundreds": 100, "tausend": 1000,
}  # fmt: skip

_UNITS_TEXT = (
    "zero one two three four five six seven eight nine ten eleven twelve thirteen fourteen "
    "fifteen sixteen seventeen eighteen nineteen"
)
_TENS_TEXT = "twenty thirty forty fifty sixty seventy eighty ninety"
_SMALL: Mapping[str, int] = {
    **{word: value for value, word in enumerate(_UNITS_TEXT.split())},
    **{word: 10 * value for value, word in enumerate(_TENS_TEXT.split(), start=2)},
}
_LARGE: Mapping[str, int] = {"thousand": 1000, "million": 10**6, "billion": 10**9, "trillion": 10**12}
_ORDINAL_UNITS_TEXT = (
    "third fourth fifth sixth seventh eighth ninth tenth eleventh twelfth thirteenth fourteenth "
    "fifteenth sixteenth seventeenth eighteenth nineteenth"
)
_PARTS: Mapping[str, int] = {
    "half": 2,
    "halve": 2,
    "quarter": 4,
    **{word: value for value, word in enumerate(_ORDINAL_UNITS_TEXT.split(), start=3)},
    **{word[:-1] + "ieth": value for word, value in _SMALL.items() if word.endswith("ty")},
    "hundredth": 100,
    "thousandth": 1000,
    "millionth": 10**6,
}
_CARDINAL = "|".join(sorted([*_SMALL, *_LARGE, "hundred", "dozen"], key=len, reverse=True))
_PART = "|".join(sorted(_PARTS, key=len, reverse=True))
_TENS = "|".join(_TENS_TEXT.split())
_UNIT = "|".join(_UNITS_TEXT.split()[1:10])
WORDS = regex(
    rf"""(?<![\w-])(?:
      (?P<halfof>half\s+an?|half-an?|half\s+(?=dozen|million|billion))\s*(?P<halved>dozen|hundred|thousand|million|billion)
    | (?P<count>an?|(?:{_TENS})-(?:{_UNIT})|{_CARDINAL}|\d{{1,3}})
      [\s-]+(?P<tens>(?:{_TENS})-)?(?P<part>{_PART})(?P<plural>s)?(?![\w-])
      (?:\s+(?:of\s+)?(?:an?\s+)(?P<partscale>dozen|hundred|thousand|million|billion))?
    | (?P<an>an?\s+)?(?P<words>(?:{_CARDINAL})
        (?:(?:[\s-]+|[\s-]+and[\s-]+(?!(?:{_CARDINAL})[\s-]+(?:{_PART})s?(?![\w-])))(?:{_CARDINAL}))*)
      (?:\s+point(?P<decimals>(?:\s+(?:{_UNIT}|zero))+))?
      (?P<mixed>\s+and\s+(?P<mixedcount>an?\s+|one[\s-]|two[\s-]|three[\s-]|five[\s-]|seven[\s-])?(?P<mixedpart>{_PART})s?(?![\w-]))?
      (?:\s+(?P<scale>thousand|million|billion|dozen))?
    | (?P<alone>half|quarter)(?=\s+(?:of|an?|the)\b|\s*[.,;!?)]|\s*\Z)
    )(?![\w])(?!-(?:{_CARDINAL})\b)""",
    re.IGNORECASE | re.VERBOSE,
)
_ORDINALS: Mapping[str, int] = {
    "first": 1,
    "second": 2,
    **{word: value for word, value in _PARTS.items() if word.endswith("th") or word == "third"},
}
_ORDINAL = "|".join(sorted(_ORDINALS, key=len, reverse=True))
ORDINAL_WORDS = regex(rf"(?<![\w-])(?:(?P<tens>{_TENS})-)?(?P<ordinal>{_ORDINAL})(?![\w-])", re.IGNORECASE)
_SIZES = frozenset((*_LARGE, "hundred"))
NUMBER_WORDS = frozenset((*_SMALL, *_LARGE, *_PARTS, *(f"{word}s" for word in _PARTS), "hundred", "dozen"))
# One of these is in every number in words, and the regular expression of all of them takes its time.
_A_WORD_OF_ONE = regex(
    rf"(?<![^\W\d_])(?:{'|'.join(sorted({*_SMALL, *_LARGE, *_PARTS, 'hundred', 'dozen'}, key=len, reverse=True))})",
    re.IGNORECASE,
)


def words_in(text: str) -> bool:
    """Tell quickly whether a text may hold a number in words."""
    return _A_WORD_OF_ONE.search(text) is not None


def recurring_value(before: str, cycle: str) -> Fraction:
    """Return the value of a decimal fraction of which the last digits recur without end: "0." and "3" are 1/3."""
    whole, _, fixed = before.replace(",", ".").partition(".")
    part = Fraction(int(fixed or "0")) + Fraction(int(cycle), 10 ** len(cycle) - 1)
    return int(whole or "0") + part * Fraction(1, 10 ** len(fixed))


def digits_value(said: str, decimal: str | None = None) -> Fraction | None:
    """Return the value of digits with separators; None beyond bounds.

    `decimal` is the decimal mark where it is known; without it what is unambiguous decides, and 1,234 is more than a
    thousand, while 1.234 is little more than one.
    """
    plain = _with_point(said, decimal)
    if len(plain) > MOST_DIGITS or plain.count(".") > 1:
        return None
    whole, _, after = plain.partition(".")
    if not (whole + after).isdecimal():
        return None
    return Fraction(int(whole + after), 10 ** len(after)) if after.strip("0") else Fraction(int(whole or "0"))


def _with_point(said: str, decimal: str | None) -> str:
    """Return digits with a point as the decimal mark and without thousands separators."""
    if said.isdecimal():
        return said
    said = said.replace(" ", "").replace("'", "")
    if decimal is not None:
        return said.replace("." if decimal == "," else ",", "").replace(decimal, ".")
    if "," in said and "." in said:
        point = max(said.rfind(","), said.rfind("."))
        return f"{said[:point].replace(',', '').replace('.', '')}.{said[point + 1 :]}"
    if "," in said:
        groups = said.split(",")
        thousands = len(groups[-1]) == 3 and groups[0] not in ("", "0")
        return "".join(groups) if thousands else said.replace(",", ".", 1)
    return said.replace(".", "") if said.count(".") > 1 else said


def in_digits(text: str) -> str:
    """Return a text that is a whole number in words in digits, "6" for "six"; any other as it is."""
    plain = plain_letters(text.strip())
    worded = WORDS.fullmatch(plain) if words_in(plain) else None
    value = words_value(worded) if worded else None
    return str(value.numerator) if value is not None and value.denominator == 1 else text


def words_value(match: re.Match[str]) -> Fraction | None:
    """Return the value of a match of WORDS; None where the words are no one number ("two three")."""
    if match["halfof"]:
        return Fraction(SCALES[plain_letters(match["halved"]).lower()], 2)
    if match["part"]:
        return _part_value(match)
    if match["alone"]:
        return Fraction(1, _PARTS[plain_letters(match["alone"]).lower()])
    said = match["words"].lower()
    value = cardinal(said)
    if value is None or (said in _SIZES and not match["an"]):
        return None  # "million" is the size of the number before it
    total = Fraction(value)
    for place, word in enumerate((match["decimals"] or "").split(), start=1):
        total += Fraction(_SMALL[plain_letters(word).lower()], 10**place)
    if match["mixed"]:
        count = (match["mixedcount"] or "a").strip(" -\t\n").lower()
        total += Fraction(
            1 if count in ("a", "an") else _SMALL[count], _PARTS[plain_letters(match["mixedpart"]).lower()]
        )
    return total * SCALES[plain_letters(match["scale"]).lower()] if match["scale"] else total


def _part_value(match: re.Match[str]) -> Fraction | None:
    said, part = match["count"].lower(), match["part"].lower()
    several = match["plural"] is not None
    if said in ("a", "an", "one"):
        count: int | None = 1
    else:
        count = int(said) if said.isdecimal() else cardinal(said)
        # "three quarters" is 3/4; "twenty third" is the 23rd, and "three third" nothing.
        if not several and part not in ("half", "quarter"):
            return None
    if count is None:
        return None
    bottom = _PARTS[part] + (_SMALL[match["tens"].lower().rstrip("-")] if match["tens"] else 0)
    value = Fraction(count, bottom)
    return value * SCALES[plain_letters(match["partscale"]).lower()] if match["partscale"] else value


def ordinal_value(match: re.Match[str]) -> int:
    """Return the number that a match of ORDINAL_WORDS stands for: 23 of "twenty-third"."""
    tens = _SMALL[plain_letters(match["tens"]).lower()] if match["tens"] else 0
    return tens + _ORDINALS[plain_letters(match["ordinal"]).lower()]


def cardinal(words: str) -> int | None:
    """Return the value of number words in lower case, or None where they are no one number."""
    total = group = last = 0
    room = 10**15  # below which the next group must stay
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
    return total + group
