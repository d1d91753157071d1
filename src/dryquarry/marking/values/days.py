"""Days of the year in a text: "1 May", "May 1st", "the first of May"."""

from __future__ import annotations

import re

from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numerals import ORDINAL_WORDS, ordinal_value

_MONTHS = [
    "january",
    "february",
    "march",
    "april",
    "may",
    "june",
    "july",
    "august",
    "september",
    "october",
    "november",
    "december",
]
_MONTH = rf"(?P<month>{'|'.join(_MONTHS)})"
_DAY = r"(?:the\s+)?(?:(?P<day>[0-3]?\d)(?:st|nd|rd|th)?|(?P<worded>[a-z]+(?:-[a-z]+)?))"
_FORMS = (
    regex(rf"\W*(?:on\s+)?{_DAY}\.?\s+(?:of\s+)?{_MONTH}\W*", re.IGNORECASE),
    regex(rf"\W*(?:on\s+)?{_MONTH}\s+{_DAY}\W*", re.IGNORECASE),
)


_WEEKDAYS = ("mon", "tue", "wed", "thu", "fri", "sat", "sun")
_WEEKDAYS_IN_FULL = ("monday", "tuesday", "wednesday", "thursday", "friday", "saturday", "sunday")
_WEEKDAY = regex(
    r"\W*(?:on\s+)?(?:a\s+|the\s+)?(?P<day>mon|tue|wed|thu|fri|sat|sun)(?:\.|s|rs?|urs?|(?:s|nes|rs|urs|ur)?days?)?\W*",
    re.IGNORECASE,
)


_IN_SHORT = {month[:3]: month for month in _MONTHS} | {"sept": "september"}


def month_in_full(text: str) -> str:
    """Return the month that a text in small letters is short for ("apr"); any other text as it is."""
    return _IN_SHORT.get(text, text)


def weekday_in_full(text: str) -> str:
    """Return the day of the week that a text in small letters says ("thu", "on thursdays"); any other as it is."""
    number = weekday_of(text)
    return text if number is None else _WEEKDAYS_IN_FULL[number]


def weekday_of(text: str) -> int | None:
    """Return which day of the week a text is, from 0 for Monday; None of any other text."""
    match = _WEEKDAY.fullmatch(text)
    return _WEEKDAYS.index(match["day"].lower()) if match else None


def day_of(text: str) -> tuple[int, int] | None:
    """Return the month and the day that a text is: 5 and 1 of "the first of May"; None of any other text."""
    match = next(filter(None, (form.fullmatch(text) for form in _FORMS)), None)
    worded = ORDINAL_WORDS.fullmatch(match["worded"]) if match and match["worded"] else None
    if match is None or (worded is None and not match["day"]):
        return None
    day = ordinal_value(worded) if worded else int(match["day"])
    return _MONTHS.index(match["month"].lower()) + 1, day
