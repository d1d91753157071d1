"""How an asking ended, and the conservative rules by which a reply counts as a refusal."""

from __future__ import annotations

import re
from enum import StrEnum

from dryquarry.marking.model import Mark, Marker, failed
from dryquarry.marking.text import uniform


class Outcome(StrEnum):
    """How the asking of one question ended."""

    ANSWERED = "answered"
    REFUSED = "refused"
    BLOCKED = "blocked"
    CUT_OFF = "cut-off"
    TIMED_OUT = "timed-out"
    FAILED = "failed"


WHY_NOT_PASSED = {
    Outcome.REFUSED: "the model declined to answer",
    Outcome.BLOCKED: "the service's filter blocked the reply",
    Outcome.CUT_OFF: "the reply was cut off at the token cap before it was finished",
    Outcome.TIMED_OUT: "no complete reply came in time",
}

LONGEST_REFUSAL_WORDS = 80
_DECLINES = re.compile(
    r"^\W*(?:(?:i'?m|i\s+am)\s+(?:very\s+|really\s+)?(?:sorry|afraid)\b[^.!?]{0,60}?|sorry\b[^.!?]{0,20}?"
    r"|unfortunately,?\s+|i\s+apologi[sz]e\b[^.!?]{0,40}?|)"
    r"\bi\s*(?:'m|\s+am)?\s*(?:cannot|can't|can\s+not|won't|will\s+not|(?:not\s+able|unable)\s+to|must\s+decline)"
    r"\s*(?:to\s+)?(?:help|assist|answer|provide|give|discuss|comply|do\s+that|offer|advise|share|comment)\b",
    re.IGNORECASE,
)


def is_refusal(text: str, answer_line: str | None = None) -> bool:
    """Tell whether a reply declines to answer.

    Conservative: the reply is short, opens by saying "I can't help / answer / provide …" (perhaps after an
    apology), and has no answer line.
    """
    text = uniform(text).strip()
    if len(text.split()) > LONGEST_REFUSAL_WORDS or not _DECLINES.match(text):
        return False
    label = (answer_line or "").rstrip(":").strip().casefold()
    return not label or f"{label}:" not in text.casefold()


def mark_reply(marker: Marker, outcome: Outcome, text: str) -> Mark | None:
    """Return the mark of a reply: by the marker if it was answered, none if it failed, else not passed."""
    if outcome is Outcome.FAILED:
        return None
    if outcome is Outcome.ANSWERED:
        return marker(text)
    return failed(WHY_NOT_PASSED[outcome])
