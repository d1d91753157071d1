"""Keys as people type them into a cell: what number, in which unit, or what day, a short text stands for."""

from __future__ import annotations

import calendar
import re
from dataclasses import dataclass

from dryquarry.marking.regexes import regex
from dryquarry.marking.values.clock import find_times
from dryquarry.marking.values.quantities import CLOCK, PERCENT
from dryquarry.marking.values.units import currency_of, dimension_of, is_unit_word

_SPACES = " \u00a0\u2009\u202f'’"
_DIGITS = (
    rf"\d{{1,3}}(?:[{_SPACES}]\d{{3}})+(?:[.,]\d+)?|\d{{1,3}}(?:,\d{{3}})+(?:\.\d+)?"
    r"|\d{1,3}(?:\.\d{3})+(?:,\d+)?|\d+(?:[.,]\d+)?"
)
_NUMBER = rf"(?P<sign>[-+−]?)(?P<digits>{_DIGITS})"
_AMOUNT = regex(rf"(?P<before>[€$£¥]|[A-Z]{{3}}(?=[\d ]))?\s?{_NUMBER}\s?(?P<unit>\S.{{0,30}})?")
_FRACTION = regex(r"[-+−]?\d{1,9}\s?/\s?[1-9]\d{0,8}")
_EITHER_MARK = regex(r"[1-9]\d{0,2}[.,]\d{3}")
_LEADING_ZERO = regex(r"0\d")
_MONTHS = (
    "January", "February", "March", "April", "May", "June", "July", "August", "September", "October", "November",
    "December",
)  # fmt: skip
_MONTH = "|".join(f"{name}|{name[:3]}" for name in _MONTHS)
_DATES = (
    regex(r"(?P<year>\d{4})-(?P<month>\d{1,2})-(?P<day>\d{1,2})"),
    regex(r"(?P<day>\d{1,2})\.(?P<month>\d{1,2})\.(?P<year>\d{4})"),
    regex(rf"(?P<day>\d{{1,2}})(?:st|nd|rd|th)?\.? (?P<month>{_MONTH})\.?,? (?P<year>\d{{4}})", re.IGNORECASE),
    regex(rf"(?P<month>{_MONTH})\.? (?P<day>\d{{1,2}})(?:st|nd|rd|th)?,? (?P<year>\d{{4}})", re.IGNORECASE),
)


@dataclass(frozen=True, slots=True)
class WrittenKey:
    """What a text stands for: a key of scheme `number` in a `unit` (or without), or spellings of one day.

    `guess` says what was decided where the text could be meant otherwise.
    """

    key: int | float | str | list[str]
    unit: str | None = None
    guess: str | None = None
    is_day: bool = False


@dataclass(frozen=True, slots=True)
class Day:
    """A day of the calendar."""

    year: int
    month: int
    day: int


def key_written(text: str, *, decimal_comma: bool = False) -> WrittenKey | None:
    """Return what a text stands for as a key, or None where it is a word like others.

    `decimal_comma` says that a comma before three digits parts decimals and not thousands, as where cells are parted
    by semicolons.
    """
    text = text.strip()
    if _FRACTION.fullmatch(text):
        plain = re.sub(r"\s", "", text).replace("−", "-")
        return WrittenKey(plain, guess=f"'{text}' is taken as a fraction; of a ratio or a day, name the scheme exact")
    day = _day(text)
    if day is not None:
        said = f"'{text}' is taken as a day, in the spellings {', '.join(spellings_of(day))}; other spellings fail"
        return WrittenKey(list(dict.fromkeys((text, *spellings_of(day)))), guess=said, is_day=True)
    times = find_times(text)
    if len(times) == 1 and (times[0].start, times[0].end) == (0, len(text)) and any(char.isdigit() for char in text):
        return WrittenKey(text, CLOCK)
    return _amount(text, decimal_comma)


def spellings_of(day: Day) -> list[str]:
    """Return the usual spellings of a day in English, and in figures with the year first or last."""
    month, ordinal = _MONTHS[day.month - 1], f"{day.day}{_ordinal_end(day.day)}"
    return [
        f"{day.year:04d}-{day.month:02d}-{day.day:02d}",
        f"{day.day} {month} {day.year}",
        f"{month} {day.day}, {day.year}",
        f"{ordinal} {month} {day.year}",
        f"{ordinal} of {month} {day.year}",
        f"{month} {ordinal}, {day.year}",
        f"{day.day:02d}.{day.month:02d}.{day.year}",
    ]


def _amount(text: str, decimal_comma: bool) -> WrittenKey | None:
    match = _AMOUNT.fullmatch(text)
    if match is None or _LEADING_ZERO.match(match["digits"]):
        return None
    unit = _unit(match["before"], match["unit"])
    if unit is None and (match["before"] or match["unit"]):
        return None
    digits = match["digits"]
    plain, guess = _plain(digits, decimal_comma)
    if guess is None and "$" in (match["before"] or "", match["unit"] or ""):
        guess = f"'{text}' is taken as USD; write the code of another currency"
    value = float(plain) if "." in plain else int(plain)
    if match["sign"] in ("-", "−"):
        value = -value
    return WrittenKey(value, unit, guess)


def _plain(digits: str, decimal_comma: bool) -> tuple[str, str | None]:
    """Return digits as a program reads them, and what was decided about a mark that could be either."""
    bare = re.sub(f"[{_SPACES}]", "", digits)
    if "," in bare and "." in bare:
        mark = max(bare.rfind(","), bare.rfind("."))
        return re.sub(r"[.,]", "", bare[:mark]) + "." + bare[mark + 1 :], None
    if "," not in bare:
        thousands = bare.count(".") > 1 or (decimal_comma and _EITHER_MARK.fullmatch(bare) is not None)
        if not thousands or bare.count(".") > 1:
            return (bare.replace(".", "") if thousands else bare), None
        return bare.replace(
            ".", ""
        ), f"'{digits}' is taken as {bare.replace('.', '')}; write {bare.replace('.', ',')} if not"
    if bare.count(",") > 1:
        return bare.replace(",", ""), None
    decimals = bare.replace(",", ".")
    if not _EITHER_MARK.fullmatch(bare):
        return decimals, f"'{digits}' is taken as {decimals}, its comma as the decimal mark"
    chosen, other = (decimals, bare.replace(",", "")) if decimal_comma else (bare.replace(",", ""), decimals)
    return chosen, f"'{digits}' is taken as {chosen}; write {other} if that is meant"


def _unit(before: str | None, after: str | None) -> str | None:
    """Return the unit in what stands before or after a number, as scheme `number` names it; None for none."""
    if before and after:
        return None
    if before:
        return currency_of(before)
    if not after:
        return None
    if after in ("st", "nd", "rd", "th"):
        return None
    if after == PERCENT:
        return PERCENT
    if currency := currency_of(after):
        return currency
    return after if is_unit_word(after) and dimension_of(after) is not None else None


def _day(text: str) -> Day | None:
    match = next((match for pattern in _DATES if (match := pattern.fullmatch(text))), None)
    if match is None:
        return None
    month = match["month"]
    number = int(month) if month.isdigit() else [name[:3].lower() for name in _MONTHS].index(month[:3].lower()) + 1
    day = Day(int(match["year"]), number, int(match["day"]))
    known = day.year > 0 and 0 < number <= 12 and 0 < day.day <= calendar.monthrange(day.year, number)[1]
    return day if known else None


def _ordinal_end(day: int) -> str:
    return "th" if 10 < day < 14 else {1: "st", 2: "nd", 3: "rd"}.get(day % 10, "th")
