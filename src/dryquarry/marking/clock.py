"""Times of day in a text: "14:15", "2.15 pm", "half past four in the afternoon", "noon"."""

from __future__ import annotations

import re
from fractions import Fraction

from dryquarry.marking.numbers import NumberFound

_TIME = re.compile(
    r"(?<![\d:.,])(?P<hour>\d{1,2})(?:(?P<colon>[:.h])(?P<minute>[0-5]\d)(?::[0-5]\d)?)?\s?"
    r"(?:(?P<half>[ap])\.?\s?m\b\.?|(?P<sharp>o'?clock)\b)?(?![\d:%])"
    r"(?:\s?(?:in\s+the|at)\s+(?P<part>morning|afternoon|evening|night)\b)?",
    re.IGNORECASE,
)
_HOURS_TEXT = "one two three four five six seven eight nine ten eleven twelve"
_HOURS = {word: hour for hour, word in enumerate(_HOURS_TEXT.split(), start=1)}
# "half past four", "a quarter to 5 in the afternoon", "10 minutes after nine"; "5 to 10" alone is no time
_PAST = re.compile(
    r"(?<![\d:.,])\b(?P<minutes>half|(?:a\s+)?quarter|five|ten|twenty|\d{1,2}(?=\s+(?:minutes?|past)\b))"
    r"(?:\s+minutes?)?\s+(?P<way>past|after|to|before)\s+"
    rf"(?P<hour>\d{{1,2}}|{'|'.join(_HOURS)})\b(?![:.]\d)"
    r"(?:\s?(?P<half>[ap])\.?\s?m\b\.?|\s+o'?clock\b)?"
    r"(?:\s+(?:in\s+the|at)\s+(?P<part>morning|afternoon|evening|night)\b)?",
    re.IGNORECASE,
)
_MINUTES = {"half": 30, "quarter": 15, "five": 5, "ten": 10, "twenty": 20}
_TIME_WORD = re.compile(r"\b(noon|midday|midnight)\b", re.IGNORECASE)
_MILITARY = re.compile(r"(?<![\d:.,])([01]\d|2[0-3])([0-5]\d)\s?(?:h|hrs|hours)\b")


def find_times(text: str) -> list[NumberFound]:
    """Return the times of day in a text, as minutes after midnight; a bare number is none."""
    found = _times_past(text)
    for match in _TIME.finditer(text):
        if not (match["minute"] or match["half"] or match["sharp"] or match["part"]):
            continue
        if any(one.start <= match.start() < one.end for one in found):
            continue
        hour, minute = _hour_of_day(int(match["hour"]), match["half"], match["part"]), int(match["minute"] or 0)
        if hour is None or hour > 24 or (match["colon"] == "." and not match["half"] and len(match["hour"]) < 2):
            continue
        found.append(_time(hour * 60 + minute, match))
    for match in _TIME_WORD.finditer(text):
        value = 0 if match[1].lower() == "midnight" else 720
        if not any(one.start <= match.start() <= one.end + 1 for one in found):
            found.append(_time(value, match))
    for match in _MILITARY.finditer(text):
        found.append(_time(int(match[1]) * 60 + int(match[2]), match))
    return sorted(found, key=lambda one: one.start)


def _times_past(text: str) -> list[NumberFound]:
    """Return the times that are said by the hour before or after: "half past four"."""
    found = []
    for match in _PAST.finditer(text):
        said = match["minutes"].lower().split()[-1]
        minutes = _MINUTES[said] if said in _MINUTES else int(said)
        named = match["hour"].lower()
        hour = _hour_of_day(_HOURS[named] if named in _HOURS else int(named), match["half"], match["part"])
        if hour is None or hour > 24 or minutes >= 60:
            continue
        after = match["way"].lower() in ("past", "after")
        found.append(_time((hour * 60 + (minutes if after else -minutes)) % 1440, match))
    return found


def _hour_of_day(hour: int, half: str | None, part: str | None) -> int | None:
    """Return the hour of 24 that an hour means, with am or pm or a part of the day beside it; None for no such hour."""
    if half is not None:
        return hour % 12 + (12 if half.lower() == "p" else 0) if 1 <= hour <= 12 else None
    if part is None or not 1 <= hour <= 12:
        return hour
    late = {"morning": False, "night": 6 <= hour < 12}.get(part.lower(), True)
    return hour % 12 + (12 if late else 0)


def _time(minutes: int, match: re.Match[str]) -> NumberFound:
    return NumberFound(Fraction(minutes), match.start(), match.end(), match.group().strip())
