"""When a request is tried again, and after how long."""

from __future__ import annotations

from collections.abc import Callable
from datetime import UTC, datetime
from email.utils import parsedate_to_datetime

FIRST_DELAY_S = 0.25
LONGEST_DELAY_S = 60.0
LONGEST_RETRY_AFTER_S = 600.0

THROTTLED = frozenset({429, 503})


def is_transient(status: int) -> bool:
    """Tell whether a status is one that may be gone at the next try."""
    return status in (408, 409, 429) or status >= 500


def retry_after_s(value: str | None, now: datetime) -> float | None:
    """Return the seconds that a Retry-After header asks to wait, in either of its forms, or None."""
    if not value:
        return None
    try:
        seconds = float(value)
    except ValueError:
        try:
            moment = parsedate_to_datetime(value)
            moment = moment if moment.tzinfo else moment.replace(tzinfo=UTC)
            seconds = (moment - now).total_seconds()
        except (ValueError, OverflowError, TypeError, IndexError):  # a date beyond all calendars
            return None
    return min(max(0.0, seconds), LONGEST_RETRY_AFTER_S) if seconds == seconds else None


def backoff_s(tries: int, asked_s: float | None, uniform: Callable[[float, float], float]) -> float:
    """Return how long to wait after so many failed tries: exponential with jitter, at least what was asked for.

    `uniform` draws a number between two others.
    """
    longest = min(LONGEST_DELAY_S, FIRST_DELAY_S * 2.0 ** (tries - 1))
    delay = uniform(longest / 2, longest)
    return delay if asked_s is None else max(asked_s, 0.0) + uniform(0.0, FIRST_DELAY_S)
