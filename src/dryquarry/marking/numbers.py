r"""Reading numbers out of text: separators, fractions, powers of ten, per cent, scale words, simple LaTeX."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from fractions import Fraction

from dryquarry.marking.text import uniform

MOST_DIGITS = 60
LARGEST_EXPONENT = 400
CURRENCY_SIGNS = "€$£¥"

_SCALES: Mapping[str, int] = {
    "dozen": 12,
    "hundred": 100,
    "k": 1000,
    "thousand": 1000,
    "million": 10**6,
    "billion": 10**9,
}

_NUMBER = re.compile(
    rf"""
    (?<![\w.,/^])(?<!\d:)                              # the 05 of 14:05 is no number of its own
    (?P<sign>[-+]\s?)?
    (?:[{CURRENCY_SIGNS}]\s?(?P<sign_after>-)?)?
    (?P<digits>
        \d{{1,3}}(?:[ ']\d{{3}})+(?:[.,]\d+)?(?![\d])   # 1 234.5 · 1'234,5
      | \d{{1,3}}(?:,\d{{3}})+(?:\.\d+)?(?![\d,])       # 1,234.5
      | \d{{1,3}}(?:\.\d{{3}})+,\d+(?!\d)               # 1.234,5
      | \d+(?:[.,]\d+)?
      | \.\d+
    )
    (?:
        \s?/\s?(?P<denominator>\d+)(?![\d.,/]*\d)
      | (?:\s?[x×·]\s?10\s?\^\s?[{{(]?(?P<power>[-+]?\d{{1,4}})[}})]?)
      | [eE](?P<exponent>[-+]?\d{{1,4}})
    )?
    (?:\s?(?P<percent>[%‰])|[ -]?(?P<scale>k|dozen|hundred|thousand|million|billion)(?![^\W\d_]))?
    (?!\w*\d)(?!:\d\d)
    """,
    re.VERBOSE,
)
_FRACTION = re.compile(r"\\[dt]?frac\s*\{([^{}]*)\}\s*\{([^{}]*)\}")
_MIXED = re.compile(r"(?<![\d.,/])(\d+) (\d+)/(\d+)(?!\d)")
_PERCENT_WORD = re.compile(r"\bper\s?cent(?:age\s+points?)?\b", re.IGNORECASE)
_PER_MILLE_WORD = re.compile(r"\bper\s?mille?\b", re.IGNORECASE)
_ROOT = re.compile(r"\\sqrt\s*\{([^{}]*)\}")
# A star between numbers is a sign of arithmetic; any other is markup.
_POWER_SIGN = re.compile(r"(?<=\d)\*\*(?=[-+(\d])")
_TIMES_SIGN = re.compile(r"(?<=[\d)])\s*\*\s*(?=[\d(])")
_TEXT_COMMAND = re.compile(r"\\(?:text|mathrm|mathbf|textbf|operatorname)\s*\{([^{}]*)\}")
_LATEX_WORDS = (
    (re.compile(r"\\(?:times|cdot)(?![a-z])"), "×"),
    (re.compile(r"\\(?:approx|simeq)(?![a-z])"), "≈"),
    (re.compile(r"\\(?:left|right|displaystyle|,|;|:|!|quad|qquad| )"), " "),
    (re.compile(r"\{,\}"), ","),
    (re.compile(r"\\([%$€£&_#])"), r"\1"),
    (re.compile(r"\\euro(?:\{\})?"), "€"),
)


@dataclass(frozen=True, slots=True)
class NumberFound:
    """A number in a text: its exact value and the stretch in which it stands.

    `unit` is what stands beside it where that was looked for, `fault` why it is not of the key's kind.
    """

    value: Fraction
    start: int
    end: int
    text: str
    unit: str | None = None
    fault: str | None = None


def plain_math(text: str) -> str:
    """Return the text with uniform characters and simple LaTeX written out (\\frac{1}{2} as 1/2)."""
    text = uniform(text)
    if "\\" in text or "{,}" in text:
        text = _ROOT.sub(r"√(\1)", text).replace("\\pi", "π")
        text = _FRACTION.sub(_plain_fraction, text)
        text = _TEXT_COMMAND.sub(r" \1", text)
        for pattern, plain in _LATEX_WORDS:
            text = pattern.sub(plain, text)
    if "er" in text and ("cent" in text or "mille" in text):
        text = _PERCENT_WORD.sub("%", text)
        text = _PER_MILLE_WORD.sub("‰", text)
    if "*" in text:
        text = _POWER_SIGN.sub("^", text)
        text = _TIMES_SIGN.sub("×", text)
    return _MIXED.sub(_improper, text).replace("*", " ").replace("_", " ")


def find_numbers(text: str, decimal: str | None = None) -> list[NumberFound]:
    """Return the numbers in a text that has been through `plain_math`, in order.

    `decimal` is the decimal mark where the suite says so ("," or "."); without it what is unambiguous decides, and
    1,234 is more than a thousand. A number beyond the bounds of this module (more digits or a larger power of ten)
    is passed over.
    """
    found = []
    for match in _NUMBER.finditer(text):
        value = _value(match, decimal)
        if value is not None:
            found.append(NumberFound(value, match.start(), match.end(), match.group().strip()))
    return found


def _plain_fraction(match: re.Match[str]) -> str:
    top, bottom = (part if re.fullmatch(r"[\w.,]+", part) else f"({part})" for part in match.groups())
    return f"{top}/{bottom}"


def _improper(match: re.Match[str]) -> str:
    whole, top, bottom = match.groups()
    if max(len(whole), len(top), len(bottom)) > MOST_DIGITS:
        return match.group()
    return f"{int(whole) * int(bottom) + int(top)}/{bottom}"


def _value(match: re.Match[str], decimal: str | None) -> Fraction | None:
    sign, sign_after, said_digits, denominator, power, e_power, percent, scale = match.groups()
    digits = _decimal_text(said_digits, decimal)
    if len(digits) > MOST_DIGITS or len(denominator or "") > MOST_DIGITS or digits.count(".") > 1:
        return None
    value = _plain_value(digits)
    if denominator:
        if not int(denominator):
            return None
        value /= int(denominator)
    exponent = int(power or e_power or 0)
    if abs(exponent) > LARGEST_EXPONENT:
        return None
    if exponent:
        value *= Fraction(10) ** exponent
    if percent:
        value /= 100 if percent == "%" else 1000
    if scale:
        value *= _SCALES[scale]
    return -value if "-" in (sign or "") or sign_after else value


def _plain_value(digits: str) -> Fraction:
    """Return the value of digits with at most one point; Fraction's own reading of a text takes four times as long."""
    whole, _, after = digits.partition(".")
    return Fraction(int(whole + after), 10 ** len(after)) if after.strip("0") else Fraction(int(whole or "0"))


def _decimal_text(digits: str, decimal: str | None) -> str:
    """Return the digits with a point as the decimal mark and no thousands separators."""
    if digits.isdecimal():
        return digits
    digits = digits.replace(" ", "").replace("'", "")
    if decimal is not None:
        return digits.replace("." if decimal == "," else ",", "").replace(decimal, ".")
    if "," in digits and "." in digits:
        point = max(digits.rfind(","), digits.rfind("."))
        whole = digits[:point].replace(",", "").replace(".", "")
        return f"{whole}.{digits[point + 1 :]}"
    if "," in digits:
        groups = digits.split(",")
        thousands = all(len(group) == 3 for group in groups[1:]) and groups[0] not in ("", "0")
        return "".join(groups) if thousands else digits.replace(",", ".", 1)
    return digits
