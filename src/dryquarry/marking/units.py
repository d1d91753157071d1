"""Units: what stands beside a number, whether it is of the key's kind, and how it converts.

Physical units are Pint's. A currency is a unit that converts to no other but its own minor unit; a time of day and
a percentage are read by rules of their own.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cache, lru_cache
from typing import Any

from dryquarry.marking.clock import find_times
from dryquarry.marking.model import MarkingFault
from dryquarry.marking.numbers import NumberFound, find_numbers

CLOCK = "clock"
PERCENT = "%"
LONGEST_UNIT = 40
MOST_UNIT_WORDS = 3

_CURRENCY_NAMES: Mapping[str, str] = {
    "€": "EUR", "euro": "EUR", "euros": "EUR",
    "$": "USD", "dollar": "USD", "dollars": "USD", "bucks": "USD",
    "£": "GBP", "pound": "GBP", "pounds": "GBP", "quid": "GBP",
    "¥": "JPY", "yen": "JPY",
    "franc": "CHF", "francs": "CHF", "krona": "SEK", "kronor": "SEK", "kroner": "NOK", "zloty": "PLN",
}  # fmt: skip
_CODES_TEXT = "EUR USD GBP JPY CHF SEK NOK DKK PLN CZK CAD AUD NZD CNY INR BRL ZAR MXN KRW TRY"
_CODES = frozenset(_CODES_TEXT.split())
_MINOR: Mapping[str, frozenset[str]] = {
    "cent": frozenset({"EUR", "USD", "CAD", "AUD", "NZD", "ZAR"}),
    "cents": frozenset({"EUR", "USD", "CAD", "AUD", "NZD", "ZAR"}),
    "ct": frozenset({"EUR"}),
    "¢": frozenset({"USD", "CAD"}),
    "penny": frozenset({"GBP"}),
    "pence": frozenset({"GBP"}),
    "p": frozenset({"GBP"}),
}
# Words after a number that Pint would take for a unit (inch, year, attosecond), and people do not.
_NO_UNITS_TEXT = "a an and are as at be by in is no of on or per so the to us was we am pm i it if do go"
_NO_UNITS = frozenset(_NO_UNITS_TEXT.split())
# All that is handed on to Pint, which works powers out whatever their size: names, and powers of one small digit.
_NAME = r"[A-Za-zµμΩ°Å]+(?:_[A-Za-z]+)*(?:\*\*[1-4])?"
_UNIT = re.compile(rf"{_NAME}(?:[*/]{_NAME}){{0,3}}")
_WORDS_AFTER = re.compile(r"\s?-?\s?((?:[^\s,;:!?()=≈]+\s?){1,3})")
# "2h15min": nothing parts the numbers from the units.
_TIGHT = re.compile(r"(?<=\d)(h|hr|hrs|min|m|s)(?=\d)")
_LENGTH_OF_TIME = re.compile(
    r"(?<![\d:.,])(\d{1,4}):([0-5]\d)(?::([0-5]\d))?(?![\d:])\s?(?P<unit>h|hrs?|hours?|min|minutes?)?\b"
)

Find = Callable[[str], list[NumberFound]]


@dataclass(frozen=True, slots=True)
class Unit:
    """A key's unit: how numbers with units beside them are found in a text, and what the unit is called."""

    name: str
    find: Find


def unit_for(name: str) -> Unit:
    """Return the unit of a key by its name; raises MarkingFault for one that is not known."""
    if name == CLOCK:
        return Unit(name, find_times)
    if name == PERCENT:
        return Unit(name, find_percentages)
    code = _currency(name)
    if code is not None:
        return Unit(code, lambda text: _find(text, lambda words, value: _money(words, value, code), _CURRENCY_BEFORE))
    dimension = _pint(name)
    if dimension is None:
        raise MarkingFault(f"the unit '{name}' is not known; give a physical unit, a currency, clock or %")
    is_time = dimension == _pint("second")

    def find(text: str) -> list[NumberFound]:
        text = _TIGHT.sub(r" \1 ", text)
        found = _find(text, lambda words, value: _converted(words, value, name))
        return sorted([*found, *_lengths_of_time(text, name)], key=lambda one: one.start) if is_time else found

    return Unit(name, find)


def find_percentages(text: str) -> list[NumberFound]:
    """Return numbers as percentages: "25 %" and a bare 25 are 25."""
    return [
        replace(one, value=one.value * 100, unit="%") if one.text.endswith(("%", "‰")) else one
        for one in find_numbers(text)
    ]


_CURRENCY_BEFORE = re.compile(r"(?:([€$£¥])|\b([A-Z]{3}))\s?-?$")

# What the words after a number mean for it: the value in the key's unit and the words used, or why there is none.
Meant = tuple[Fraction, str, str | None]


def _find(
    text: str, meaning: Callable[[str, Fraction], Meant | None], before: re.Pattern[str] | None = None
) -> list[NumberFound]:
    found: list[NumberFound] = []
    joined = None
    for one in find_numbers(text):
        after = _WORDS_AFTER.match(text, one.end)
        words = after[1].rstrip().rstrip(".") if after else ""
        # A currency sign before a number is in its text; a code stands before it.
        near = text[max(0, one.start - 8) : one.start] + one.text[:2].rstrip("0123456789., ")
        sign = before.search(near) if before else None
        meant = meaning(next(part for part in sign.groups() if part), one.value) if sign else None
        meant = meant or meaning(words, one.value)
        if meant is None:
            found.append(one)
            joined = None
            continue
        value, unit, fault = meant
        end = one.end + (after.start(1) - one.end + len(unit) if after and words.startswith(unit) else 0)
        quantity = NumberFound(value, one.start, end, text[one.start : end].strip(), unit, fault)
        # "2 h 15 min", "12 euros and 50 cents" are one quantity.
        if joined is not None and fault is None and re.fullmatch(r",?\s*(?:and\s+)?", text[joined.end : one.start]):
            whole = joined.value + (value if joined.value >= 0 else -value)
            if abs(value) < abs(joined.value) or not joined.value:
                found[-1] = replace(joined, value=whole, end=end, text=text[joined.start : end].strip())
                joined = None
                continue
        found.append(quantity)
        joined = quantity if fault is None else None
    return found


def _money(words: str, value: Fraction, code: str) -> Meant | None:
    for phrase in _phrases(words):
        if code in _MINOR.get(phrase.lower(), ()):
            return value / 100, phrase, None
        other = _currency(phrase)
        if other is not None:
            return value, phrase, None if other == code else f"{phrase} is {other}, not {code}"
        if phrase not in _NO_UNITS and len(phrase) > 1 and _pint(phrase) is not None:
            return value, phrase, f"{phrase} is no amount in {code}"
    return None


def _converted(words: str, value: Fraction, wanted: str) -> Meant | None:
    for phrase in _phrases(words):
        if (phrase.lower() in _NO_UNITS and phrase != wanted) or phrase.isdigit():
            continue
        if _currency(phrase) is not None and _pint(phrase) is None:
            return value, phrase, f"{phrase} is money, not {wanted}"
        if _pint(phrase) is None:
            continue
        scale = _scale(phrase, wanted)
        if scale is None:
            return value, phrase, f"{phrase} does not convert to {wanted}"
        return scale[0] + scale[1] * value, phrase, None
    return None


def _phrases(words: str) -> list[str]:
    """Return the first words, all of them, then fewer: "nautical miles an" → that, "nautical miles", "nautical"."""
    parts = words.split()
    phrases = [" ".join(parts[:count]).rstrip(".") for count in range(min(len(parts), MOST_UNIT_WORDS), 0, -1)]
    return [phrase for phrase in phrases if phrase and len(phrase) <= LONGEST_UNIT]


def _currency(name: str) -> str | None:
    if name in _CODES:
        return name
    return _CURRENCY_NAMES.get(name.lower()) or (name.upper() if name.upper() in _CODES and len(name) == 3 else None)


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


@lru_cache(maxsize=4096)
def _pint(name: str) -> Any:
    """Return what a unit measures, by Pint's dimensions, or None for what is no unit."""
    spelled = _spelled_for_pint(name)
    if spelled is None:
        return None
    for attempt in (spelled, spelled.lower()):
        try:
            return _registry().Unit(attempt).dimensionality
        except Exception:  # Pint raises many kinds for words it does not know
            continue
    return None


@lru_cache(maxsize=4096)
def _scale(name: str, wanted: str) -> tuple[Fraction, Fraction] | None:
    """Return offset and factor from one unit to another, or None when they are of other kinds."""
    registry = _registry()
    for spelled in (_spelled_for_pint(name) or "", (_spelled_for_pint(name) or "").lower()):
        try:
            zero, one = (
                registry.Quantity(at, registry.Unit(spelled)).to(_spelled_for_pint(wanted)).magnitude
                for at in (0.0, 1.0)
            )
        except Exception:  # of another kind, or no unit in this spelling
            continue
        offset, factor = (Fraction(part).limit_denominator(10**12) for part in (zero, one - zero))
        return offset, (Fraction(one - zero) if factor == 0 else factor)
    return None


def _spelled_for_pint(name: str) -> str | None:
    """Return a unit as Pint spells it: "square metres" as metres**2, "m²" as m**2, "°C" as degC."""
    name = name.strip()
    squared = re.fullmatch(r"(square|cubic)\s+(\w+)|(\w+)\s+(squared|cubed)", name)
    if squared:
        word = (squared[1] or squared[4]).lower()
        return f"{squared[2] or squared[3]}**{2 if word.startswith('squ') else 3}"
    name = name.replace("℃", "°C").replace("℉", "°F").replace("°C", "degC").replace("°F", "degF")
    name = re.sub(r"\bdegrees?\s+(?:C|Celsius)\b", "degC", name)
    name = re.sub(r"\bdegrees?\s+(?:F|Fahrenheit)\b", "degF", name)
    name = re.sub(r"\s+(?:per|an?)\s+", "/", name).replace("²", "**2").replace("³", "**3").replace("·", "*")
    name = re.sub(r"(?<=[A-Za-z])\^?([23])\b", r"**\1", name).replace("^", "**")
    name = re.sub(r"\s+", "_", name)
    return name if len(name) <= LONGEST_UNIT and _UNIT.fullmatch(name) else None


def _lengths_of_time(text: str, wanted: str) -> list[NumberFound]:
    """Return what is written as 2:15 (hours and minutes) or 2:15:30, in the key's unit of time."""
    scale = _scale("second", wanted)
    assert scale is not None
    found = []
    for match in _LENGTH_OF_TIME.finditer(text):
        first, second, third = int(match[1]), int(match[2]), int(match[3] or 0)
        in_minutes = (match["unit"] or "").startswith("min")
        seconds = first * 60 + second if in_minutes and not match[3] else first * 3600 + second * 60 + third
        said = match.group().strip()
        found.append(NumberFound(scale[1] * seconds, match.start(), match.end(), said, "h:mm"))
    return found
