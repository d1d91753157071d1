"""Units: what a word means as a unit, and how it converts to the unit of a key. Physical units are Pint's."""

from __future__ import annotations

import re
from collections.abc import Mapping
from fractions import Fraction
from functools import cache, lru_cache
from typing import Any

from dryquarry.marking.regexes import regex

LONGEST_UNIT = 40

_CURRENCY_NAMES: Mapping[str, str] = {
    "€": "EUR", "euro": "EUR", "euros": "EUR",
    "$": "USD", "us": "USD", "us$": "USD", "dollar": "USD", "dollars": "USD", "bucks": "USD",
    "£": "GBP", "pound": "GBP", "pounds": "GBP", "quid": "GBP",
    "¥": "JPY", "yen": "JPY",
    "franc": "CHF", "francs": "CHF", "krona": "SEK", "kronor": "SEK", "kroner": "NOK", "zloty": "PLN",
}  # fmt: skip
_CODES_TEXT = "EUR USD GBP JPY CHF SEK NOK DKK PLN CZK CAD AUD NZD CNY INR BRL ZAR MXN KRW TRY"
_CODES = frozenset(_CODES_TEXT.split())
_OF_A_HUNDRED = frozenset({"EUR", "USD", "CAD", "AUD", "NZD", "ZAR"})
_MINOR: Mapping[str, frozenset[str]] = {
    "cent": _OF_A_HUNDRED,
    "cents": _OF_A_HUNDRED,
    "ct": frozenset({"EUR"}),
    "¢": frozenset({"USD", "CAD"}),
    "penny": frozenset({"GBP"}),
    "pence": frozenset({"GBP"}),
    "p": frozenset({"GBP"}),
}
# Words after a number that Pint would take for a unit (inch, year, attosecond), and people do not.
_NO_UNITS_TEXT = (
    "a an and are as at be by in is no of on or per so the to us was we am pm i it if do go all off out up down left "
    "each day's bar bit bits point points count counts dot dots turn turns cycle member pair ton's b e d"
)
_NO_UNITS = frozenset(_NO_UNITS_TEXT.split())
_SPELLED: Mapping[str, str] = {
    "hrs": "hour", "hr": "hour", "std": "hour", "stunden": "hour", "stunde": "hour", "heures": "hour", "heure": "hour",
    "horas": "hour", "hora": "hour", "minuten": "minute", "minuto": "minute", "minutos": "minute", "mins": "minute",
    "sekunden": "second", "sekunde": "second", "secondes": "second",
    "segundos": "second", "secs": "second", "sec": "second",
    "tage": "day", "tag": "day", "jours": "day", "jour": "day",
    "días": "day", "dias": "day", "wochen": "week", "woche": "week",
    "kilos": "kilogram", "kilo": "kilogram", "kgs": "kilogram",
    "gramm": "gram", "kilogramm": "kilogram", "tonnen": "tonne",
    "meter": "metre", "kmh": "km/hour", "km/h": "km/hour",
    "kph": "km/hour", "mph": "mile/hour", "knots": "knot", "kn": "knot",
    "sq": "square", "yrs": "year", "litros": "litre", "metros": "metre", "mètres": "metre", "kilometer": "kilometre",
    "tons": "tonne", "sea_miles": "nautical_mile", "sea_mile": "nautical_mile", "cc": "cm**3", "dag": "day",
}  # fmt: skip
# All that is handed on to Pint, which works powers out whatever their size: names, and powers of one small digit.
_NAME = r"[A-Za-zµμΩ°Å]+(?:_[A-Za-z]+)*(?:\*\*-?[1-4])?"
_UNIT = regex(rf"{_NAME}(?:[*/]{_NAME}){{0,3}}")
# "seven degrees": of temperature, they are those that were asked for
_DEGREES = regex(r"°|degrees?|grad|degrés?|grados?", re.IGNORECASE)
_RAISED = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻", "0123456789-")
_RAISED_RUN = regex("[⁻]?[¹²³⁴]")


def currency_of(name: str) -> str | None:
    """Return the code of a currency by its sign, name or code; None for what is none."""
    if name in _CODES:
        return name
    return _CURRENCY_NAMES.get(name.lower()) or (name.upper() if name.upper() in _CODES and len(name) == 3 else None)


def is_minor_unit(name: str, code: str) -> bool:
    """Tell whether a word is the hundredth part of a currency: "cents" of EUR."""
    return code in _MINOR.get(name.lower(), ())


def is_unit_word(word: str) -> bool:
    """Tell whether a word after a number may be a unit at all."""
    return word.lower() not in _NO_UNITS


@cache
def _registry() -> Any:
    import pint

    return pint.UnitRegistry(autoconvert_offset_to_baseunit=True)


@lru_cache(maxsize=4096)
def dimension_of(name: str) -> Any:
    """Return what a unit measures, by Pint's dimensions, or None for what is no unit."""
    spelled = spelled_for_pint(name)
    if spelled is None:
        return None
    for attempt in (spelled, spelled.lower()):
        try:
            return _registry().Unit(attempt).dimensionality
        except Exception:  # Pint raises many kinds for words it does not know
            continue
    return None


@lru_cache(maxsize=4096)
def scale_to(name: str, wanted: str) -> tuple[Fraction, Fraction] | None:
    """Return offset and factor from one unit to another, or None when they are of other kinds."""
    registry = _registry()
    if _DEGREES.fullmatch(name) and dimension_of(wanted) == dimension_of("kelvin"):
        return Fraction(0), Fraction(1)
    for spelled in (spelled_for_pint(name) or "", (spelled_for_pint(name) or "").lower()):
        try:
            zero, one = (
                registry.Quantity(at, registry.Unit(spelled)).to(spelled_for_pint(wanted)).magnitude
                for at in (0.0, 1.0)
            )
        except Exception:  # of another kind, or no unit in this spelling
            continue
        offset, factor = (Fraction(part).limit_denominator(10**12) for part in (zero, one - zero))
        return offset, (Fraction(one - zero) if factor == 0 else factor)
    return None


@lru_cache(maxsize=4096)
def spelled_for_pint(name: str) -> str | None:
    """Return a unit as Pint spells it: "square metres" as metres**2, "m²" as m**2, "°C" as degC, "m·s⁻¹" as m*s**-1."""
    name = name.strip()
    squared = re.fullmatch(r"(square|sq\.?|cubic)\s+(\w+)|(\w+)\s+(squared|cubed)", name, re.IGNORECASE)
    if squared:
        word = (squared[1] or squared[4]).lower()
        inner = squared[2] or squared[3]
        return f"{_SPELLED.get(inner.lower(), inner)}**{2 if word.startswith('sq') else 3}"
    name = name.replace("℃", "°C").replace("℉", "°F").replace("° ", "°").replace("°C", "degC").replace("°F", "degF")
    name = re.sub(r"\b(?:degrees?|grad)\s+(?:C\b|Celsius)|°\s?Celsius", "degC", name, flags=re.IGNORECASE)
    name = re.sub(r"\bdegrees?\s+(?:F\b|Fahrenheit)|°\s?Fahrenheit", "degF", name, flags=re.IGNORECASE)
    name = _RAISED_RUN.sub(lambda power: "**" + power.group().translate(_RAISED), name)
    name = (
        re.sub(r"\s+(?:per|an?|pro|every|each|in\s+(?:an?|one|each|every))\s+", "/", name)
        .replace("·", "*")
        .replace("\\cdot", "*")
    )
    name = re.sub(r"(?<=[A-Za-z])\^?\{?(-?[1234])\}?(?![\w.])", r"**\1", name)
    name = re.sub(r"\s*([*/])\s*", r"\1", name)
    name = re.sub(r"(?<=[A-Za-z])\s+(?=[A-Za-z]{1,3}\*\*-)", "*", name)  # "m s⁻¹"
    name = re.sub(r"\s+", "_", name)
    name = _SPELLED.get(name.lower(), name)
    if "/" in name:
        name = "/".join(_SPELLED.get(part.lower(), part) for part in name.split("/"))
    return name if len(name) <= LONGEST_UNIT and _UNIT.fullmatch(name) else None
