"""How an asking ended, and the conservative rules by which a reply counts as a refusal.

What reads replies is imported when one is read: most commands read none.
"""

from __future__ import annotations

from collections.abc import Mapping
from enum import StrEnum

from dryquarry.marking.model import Mark, Marker, Verdict, failed
from dryquarry.marking.values.texts import shortened


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


def outcome_of(outcome: Outcome, text: str, answer_line: str | None = None) -> Outcome:
    """Return how an asking ended once its text is read: one that came whole and declines to answer is `refused`.

    The one place where this is judged, whether a reply was received, collected by hand or only tried.
    """
    from dryquarry.marking.reading.courtesies import heard
    from dryquarry.marking.reading.declining import refusal_in
    from dryquarry.marking.reading.short_way import answer_line_at_end

    if outcome not in (Outcome.ANSWERED, Outcome.REFUSED) or not text.strip():
        return outcome
    if answer_line_at_end(text, answer_line) is not None:
        return Outcome.ANSWERED
    return Outcome.REFUSED if refusal_in(heard(text), answer_line) is not None else Outcome.ANSWERED


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
