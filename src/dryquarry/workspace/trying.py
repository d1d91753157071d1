"""Marking a text as if it were a reply, to see how it is read; nothing is stored."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from dryquarry.errors import UsageFault, closest
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.registry import SCHEMES, needs_run
from dryquarry.sandbox.performing import Sandbox
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.works import WorkRun, run_once

if TYPE_CHECKING:
    from dryquarry.marking.schemes.reading_marker import Reading

MOST_READINGS = 12


@dataclass(frozen=True, slots=True)
class Tried:
    """How a text is read and marked: what it claims, with the stance of each claim and which of them stands.

    `runs` are what came of running what it holds.
    """

    suite: Suite
    question: Question
    text: str
    outcome: Outcome
    readings: tuple[Reading, ...]
    mark: Mark
    runs: tuple[WorkRun, ...] = ()


def try_text(suite: Suite, question_id: str, text: str, sandbox: Sandbox) -> Tried:
    """Return how a text is marked as a reply to a question; raises UsageFault when there is no such question."""
    from dryquarry.marking.schemes.reading_marker import readings_in  # with all that reads replies

    known = {question.id: question for question in suite.questions}
    if question_id not in known:
        raise UsageFault(f"suite '{suite.name}' has no question '{question_id}'{closest(question_id, known)}")
    question = known[question_id]
    mark = question.mark(Outcome.ANSWERED, text)
    assert mark is not None  # only a failed reply has none
    runs: tuple[WorkRun, ...] = ()
    if mark.verdict is Verdict.OPEN and needs_run(question.marking):
        mark, runs = run_once(question, text, sandbox)
    outcome = Outcome(mark.outcome or Outcome.ANSWERED)
    kind = SCHEMES[question.marking.scheme].kind
    readings = (
        readings_in(text, question.marking, kind(question.marking)) if kind and outcome is Outcome.ANSWERED else ()
    )
    return Tried(suite, question, text, outcome, _most_telling(_as_counted(readings, mark)), mark, runs)


def _as_counted(readings: Sequence[Reading], mark: Mark) -> Sequence[Reading]:
    """Return the readings, of the one that stands the words that counted: a clause can be read in several ways."""
    standing = [one for one in readings if one.stands]
    if len(standing) != 1 or mark.start is None or mark.answer is None:
        return readings
    return [replace(one, text=mark.answer, start=mark.start) if one.stands else one for one in readings]


def _most_telling(readings: Sequence[Reading]) -> tuple[Reading, ...]:
    """Return the last of many readings, and the ones that stand wherever they are, in the order of the text."""
    shown = {one for one in readings if one.stands} | set(readings[-MOST_READINGS:])
    return tuple(one for one in readings if one in shown)
