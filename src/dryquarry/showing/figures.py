"""Numbers as people read them."""

from __future__ import annotations

import math

from dryquarry.standing.intervals import Interval


def percent(share: float | None, places: int = 1) -> str:
    """Return a share in [0, 1] as per cent; what is not all or nothing is never rounded to it."""
    if share is None:
        return "–"
    rounded = round(share * 100, places)
    step = 10**-places
    if rounded >= 100 and share < 1 - 1e-9:
        rounded = 100 - step
    if rounded <= 0 and share > 1e-9:
        rounded = step
    return f"{rounded:.{places}f}"


def interval(low: float | None, high: float | None) -> str:
    """Return the two ends of an interval in per cent."""
    if low is None or high is None:
        return "–"
    return f"{low * 100:.0f}–{high * 100:.0f}"


def difference(value: float) -> str:
    """Return a difference of two shares in points of a hundred, with its sign."""
    return f"{value * 100:+.1f}".replace("-", "−")


def points(value: float | None) -> str:
    """Return a difference of two shares as points of a hundred, without sign."""
    return "–" if value is None else f"{value * 100:.3g} points"


def p_value(value: float) -> str:
    """Return a p-value with as many places as matter."""
    return "< 0.001" if value < 0.001 else f"{value:.3f}" if value < 0.1 else f"{value:.2f}"


def difference_interval(interval: Interval) -> str:
    """Return the two ends of a difference's interval in points of a hundred."""
    ends = [f"{end * 100:+.0f}".replace("-", "−") for end in (interval.low, interval.high) if end is not None]
    return " to ".join(ends) or "–"


def seconds(value: float | None) -> str:
    """Return seconds with as many places as matter."""
    return "–" if value is None else f"{value:.2f}" if value < 10 else f"{value:.0f}"


def duration(seconds: float) -> str:
    """Return a time to wait, in the unit that says enough: 12 s, 3 min, 2.5 h."""
    if seconds < 100:
        return f"{seconds:.0f} s"
    return f"{seconds / 60:.0f} min" if seconds < 6000 else f"{seconds / 3600:.1f} h"


def count(value: int | None) -> str:
    """Return a count with thousands apart."""
    return "–" if value is None else f"{value:,}".replace(",", "\u202f")


def cost(value: float | None) -> str:
    """Return a cost to at least two significant digits, never with a power of ten."""
    if value is None:
        return "–"
    if value >= 1 or value == 0:
        return f"{value:.2f}"
    return f"{value:.{max(4, 1 - math.floor(math.log10(value)))}f}"


def plural(number: int, noun: str) -> str:
    """Return the number with its noun, in the plural where there is not just one."""
    if number == 1:
        return f"1 {noun}"
    many = noun[:-1] + "ies" if noun.endswith("y") and noun[-2] not in "aeou" else noun + "s"
    return f"{number} {many}"


def visible(text: str) -> str:
    """Return the text with control and hidden characters as visible escapes: a reply is not to drive a terminal."""
    if text.replace("\n", "").replace("\t", "").isprintable():
        return text
    return "".join(
        char if char in "\n\t" or char.isprintable() or _joins(text, place) else _escape(char)
        for place, char in enumerate(text)
    )


def _joins(text: str, place: int) -> bool:
    """Tell whether a zero-width joiner stands where one belongs, between signs that are no letters of ASCII."""
    if text[place] != "\u200d" or not 0 < place < len(text) - 1:
        return text[place] == "\u00a0" or text[place] in _SPACES
    return not (text[place - 1].isascii() or text[place + 1].isascii())


# Spaces that typesetters use, and the hyphen that shows only at the end of a line.
_SPACES = "\u00a0\u2002\u2003\u2007\u2008\u2009\u200a\u202f\u205f\u3000"


def _escape(char: str) -> str:
    code = ord(char)
    return f"\\x{code:02x}" if code < 0x100 else f"\\u{code:04x}" if code < 0x10000 else f"\\U{code:08x}"


def going_on(goes_on: bool, since: str | None) -> str:
    """Return that an asking anew, begun then, is gone on with, as the end of a sentence; nothing where none is."""
    return f"; goes on with the asking anew begun {moment(since)}" if goes_on and since else ""


def moment(utc: str) -> str:
    """Return a moment (ISO 8601) to the minute, with UTC said."""
    return f"{utc[:16].replace('T', ' ')} UTC"


def chosen(selected: str) -> str:
    """Return what was selected, as the end of a title; nothing where all is shown."""
    return f" ({selected})" if selected else ""


def rate(per_second: float) -> str:
    """Return a rate in the unit in which it can be read: 1 200/s, 9.8/s, 2.1/min, 3.0/h."""
    if per_second >= 100:
        return f"{per_second:,.0f}/s".replace(",", "\u202f")
    for unit, seconds in (("s", 1), ("min", 60)):
        if per_second * seconds >= 1:
            return f"{per_second * seconds:.1f}/{unit}"
    return f"{per_second * 3600:.1f}/h"
