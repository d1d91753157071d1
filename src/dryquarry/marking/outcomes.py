"""How an asking ended, and the conservative rules by which a reply counts as a refusal."""

from __future__ import annotations

import re
from collections.abc import Mapping
from enum import StrEnum

from dryquarry.marking.model import Mark, Marker, Verdict, failed
from dryquarry.marking.text import shortened, uniform


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
OPENING_CHARACTERS = 400
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
    text = text.strip()
    if not _DECLINES.match(uniform(text[:OPENING_CHARACTERS])) or len(text.split()) > LONGEST_REFUSAL_WORDS:
        return False
    label = (answer_line or "").rstrip(":").strip().casefold()
    return not label or f"{label}:" not in uniform(text).casefold()


class Treatment(StrEnum):
    """What an outcome other than `answered` does to the score, as a suite may set it."""

    FAIL = "fail"
    VOID = "void"
    MARK = "mark"


def mark_reply(marker: Marker, outcome: Outcome, text: str, treatments: Mapping[str, str] | None = None) -> Mark | None:
    """Return the mark of a reply: by the marker if it was answered, none if it failed, else as the suite treats it.

    `treatments` maps outcomes to treatments; without one an outcome counts as not passed.
    """
    if outcome is Outcome.FAILED:
        return None
    if outcome is not Outcome.ANSWERED:
        treatment = (treatments or {}).get(outcome, Treatment.FAIL)
        if treatment == Treatment.VOID:
            return Mark(None, Verdict.VOID, f"{WHY_NOT_PASSED[outcome]}; the suite leaves such replies out")
        if treatment == Treatment.FAIL:
            return failed(WHY_NOT_PASSED[outcome])
    try:
        return marker(text)
    except Exception as error:  # a fault of one scheme on one reply must not stop a run, nor lose the reply
        fault = f"{type(error).__name__}: {shortened(str(error))}"
        return Mark(None, Verdict.OPEN, f"marking broke, which is a fault of the program ({fault})")
