"""Times of day in a text: "14:15", "2.15 pm", "half past four in the afternoon", "two twenty-five", "noon"."""

from __future__ import annotations

import re
from dataclasses import dataclass

from dryquarry.marking.regexes import regex
from dryquarry.marking.values.texts import plain_letters

_HOURS_TEXT = "one two three four five six seven eight nine ten eleven twelve"
_HOURS = {word: hour for hour, word in enumerate(_HOURS_TEXT.split(), start=1)}
_TEENS_TEXT = "ten eleven twelve thirteen fourteen fifteen sixteen seventeen eighteen nineteen"
_UNITS_TEXT = "one two three four five six seven eight nine"
_MINUTES: dict[str, int] = {
    "half": 30,
    "quarter": 15,
    **{word: value for value, word in enumerate(_UNITS_TEXT.split(), start=1)},
    **{word: value for value, word in enumerate(_TEENS_TEXT.split(), start=10)},
    **{
        f"{tens}{f'-{unit}' if unit else ''}": value * 10 + number
        for value, tens in enumerate(("twenty", "thirty", "forty", "fifty"), start=2)
        for number, unit in enumerate(("", *_UNITS_TEXT.split()))
    },
}
_HOUR_WORD = "|".join(_HOURS)
_MINUTE_WORD = "|".join(
    sorted((word.replace("-", r"[\s-]") for word in _MINUTES if word not in ("half", "quarter")), key=len, reverse=True)
)
_PART = (
    r"(?:,?\s?(?:in\s+the|at|(?:on\s+)?the\s+(?:next|following)|(?=tonight))\s*"
    r"(?P<part>morning|afternoon|evening|night|tonight|day)\b)?"
)
# "half past ten" is said of the morning and of the evening.
_SPOKEN_HOURS = frozenset((*_HOURS, *map(str, range(1, 13))))
_HALF = r"(?:(?P<half>[ap])\.?\s?m\b\.?|(?P<sharp>o'?clock|uhr)\b)"

_TIME = regex(
    rf"(?<![\d:.,])(?P<hour>\d{{1,2}})(?:(?P<colon>[:.h])(?P<minute>[0-5]\d)(?::[0-5]\d)?)?\s?{_HALF}?(?![\d:%]){_PART}",
    re.IGNORECASE,
)
# "half past four", "a quarter to 5 in the afternoon", "10 minutes after nine"; "5 to 10" alone is no time
_TO_OR_PAST = regex(
    rf"(?<![\d:.,])\b(?P<off>(?:{_MINUTE_WORD}|\d{{1,2}})\s+minutes?\s+(?P<side>before|after|to|past)\s+(?=half|(?:an?\s+)?quarter))?(?P<minutes>half|(?:an?\s+)?quarter|{_MINUTE_WORD}|\d{{1,2}}(?=\s+(?:minutes?|past)\b))"
    rf"(?:\s+minutes?)?\s+(?P<way>past|after|to|before)\s+(?P<hour>\d{{1,2}}|{_HOUR_WORD}|noon|"
    rf"midnight)\b(?![:.]\d)(?:\s?{_HALF})?{_PART}",
    re.IGNORECASE,
)
_SPOKEN = regex(
    rf"(?<![\w-])(?P<hour>{_HOUR_WORD})(?:\s+(?P<minute>oh[\s-](?:{_UNITS_TEXT.replace(' ', '|')})|{_MINUTE_WORD}))?"
    rf"(?![\w-])(?:\s?{_HALF})?{_PART}",
    re.IGNORECASE,
)
_TIME_WORD = regex(r"\b(?:12\s+)?(noon|midday|midnight|mittag|mitternacht)\b", re.IGNORECASE)
_MILITARY = regex(r"(?<![\d:.,])([01]\d|2[0-3])([0-5]\d)\s?(?:h|hrs|hours)\b")


@dataclass(frozen=True, slots=True)
class TimeOfDay:
    """A time of day in a text, as minutes after midnight; `either_half` where it may be in the morning or later."""

    minutes: int
    start: int
    end: int
    text: str
    either_half: bool = False


def find_times(text: str) -> list[TimeOfDay]:
    """Return the times of day in a text, in order; a bare number is none."""
    text = plain_letters(text)
    found: list[TimeOfDay] = []
    for pattern, reading in ((_TO_OR_PAST, _to_or_past), (_TIME, _in_digits), (_SPOKEN, _spoken)):
        for match in pattern.finditer(text):
            minutes = None if _covered(found, match) else reading(match)
            if minutes is not None:
                told = pattern is _TIME or match["half"] or match["part"] or match["hour"].lower() not in _SPOKEN_HOURS
                found.append(_time(minutes, match, either_half=not told))
    for match in _TIME_WORD.finditer(text):
        if not any(one.start <= match.start() <= one.end + 1 for one in found):
            found.append(_time(0 if match[1].lower() in ("midnight", "mitternacht") else 720, match))
    found += [_time(int(match[1]) * 60 + int(match[2]), match) for match in _MILITARY.finditer(text)]
    return sorted(found, key=lambda one: one.start)


def _covered(found: list[TimeOfDay], match: re.Match[str]) -> bool:
    return any(one.start <= match.start() < one.end for one in found)


def _in_digits(match: re.Match[str]) -> int | None:
    if not (match["minute"] or match["half"] or match["sharp"] or match["part"]):
        return None
    hour, minute = _hour_of_day(int(match["hour"]), match["half"], match["part"]), int(match["minute"] or 0)
    bare_point = (
        match["colon"] == "." and not (match["half"] or match["sharp"] or match["part"]) and len(match["hour"]) < 2
    )
    return None if hour is None or hour > 24 or bare_point else hour * 60 + minute


def _spoken(match: re.Match[str]) -> int | None:
    """Read "two twenty-five in the morning", "seven o'clock"; a number word alone is no time."""
    minute = match["minute"]
    if not (match["half"] or match["sharp"] or match["part"]) and not (minute and len(minute) > 3):
        return None
    hour = _hour_of_day(_HOURS[plain_letters(match["hour"]).lower()], match["half"], match["part"])
    said = re.sub(r"^oh[\s-]", "", (minute or "").lower())
    minutes = _MINUTES.get(re.sub(r"\s", "-", said), 0)
    return None if hour is None else hour * 60 + minutes


def _to_or_past(match: re.Match[str]) -> int | None:
    said = re.sub(r"^an?\s+", "", match["minutes"].lower())
    minutes = int(said) if said.isdecimal() else _MINUTES[re.sub(r"\s", "-", said)]
    named = match["hour"].lower()
    if named in ("noon", "midnight"):
        hour: int | None = 12 if named == "noon" else 24
    else:
        hour = _hour_of_day(_HOURS[named] if named in _HOURS else int(named), match["half"], match["part"])
    if hour is None or hour > 24 or minutes >= 60:
        return None
    after = match["way"].lower() in ("past", "after")
    return (hour * 60 + (minutes if after else -minutes) + _off(match)) % 1440


def _off(match: re.Match[str]) -> int:
    """Return the minutes before or after what is told of half an hour or a quarter: "five minutes before half past"."""
    if not match["off"]:
        return 0
    said = re.sub(r"\s", "-", match["off"].lower().split(" minute")[0].strip())
    minutes = int(said) if said.isdecimal() else _MINUTES.get(said, 0)
    return minutes if match["side"].lower() in ("after", "past") else -minutes


def _hour_of_day(hour: int, half: str | None, part: str | None) -> int | None:
    """Return the hour of 24 that an hour means, with am or pm or a part of the day beside it; None for no such hour."""
    if half is not None:
        return hour % 12 + (12 if half.lower() == "p" else 0) if 1 <= hour <= 12 else None
    if part is None or part.lower() == "day" or not 1 <= hour <= 12:
        return hour
    late = {"morning": False, "night": 6 <= hour < 12, "tonight": 6 <= hour < 12}.get(part.lower(), True)
    return hour % 12 + (12 if late else 0)


def _time(minutes: int, match: re.Match[str], *, either_half: bool = False) -> TimeOfDay:
    return TimeOfDay(minutes, match.start(), match.end(), match.group().strip(), either_half)
