"""What every scheme takes and gives: Marking in, Mark out, and Scheme as the way to add one."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any


class Verdict(StrEnum):
    """How a mark counts; `OPEN` waits for a judge or a person, `VOID` does not count."""

    PASS = "pass"
    FAIL = "fail"
    OPEN = "open"
    VOID = "void"


@dataclass(frozen=True, slots=True)
class Mark:
    """A score in [0, 1] (None while open or void) with its verdict and the reason in a sentence.

    `answer` is the part of the reply that was taken as its final answer, `read_by` the way in which it
    was found, and `start` where in the text it stands; all are None when the scheme looks at the whole reply or
    found nothing. `form_kept` tells whether the answer stands where the question asked for it, if it asked.
    """

    score: float | None
    verdict: Verdict
    reason: str
    answer: str | None = None
    read_by: str | None = None
    start: int | None = None
    form_kept: bool | None = None


@dataclass(frozen=True, slots=True)
class Criterion:
    """One thing a rubric asks for, worth up to `points`."""

    id: str
    asks: str
    points: float = 1.0


@dataclass(frozen=True, slots=True)
class Rubric:
    """A named list of criteria that a judge gives points for."""

    name: str
    criteria: tuple[Criterion, ...]
    about: str = ""

    @property
    def points(self) -> float:
        """The most points a reply can get."""
        return sum(criterion.points for criterion in self.criteria)


@dataclass(frozen=True, slots=True)
class Marking:
    """All that decides how a reply to one question is marked; the mark digest covers exactly this.

    `choices` are the (letter, text) pairs of a choice question, `answer_line` the label after which the
    final answer stands, `form_required` whether a right answer elsewhere fails, `outcomes` what the suite says of
    replies that are not answers.
    """

    scheme: str
    key: Any = None
    options: Mapping[str, Any] = field(default_factory=dict)
    choices: tuple[tuple[str, str], ...] = ()
    answer_line: str | None = None
    rubric: Rubric | None = None
    outcomes: Mapping[str, str] = field(default_factory=dict)
    form_required: bool = False


class MarkingFault(ValueError):
    """A key or option that the scheme cannot use; the message is for the suite's author."""


Marker = Callable[[str], Mark]


@dataclass(frozen=True, slots=True)
class Scheme:
    """A way of marking.

    `options` maps the name of each option to the types it may have. `prepare` takes a Marking, checks its
    key and options (raising MarkingFault) and returns the function that marks one reply text, so that
    what depends on the key alone is worked out once and not for every reply. A scheme that `needs_judge`
    returns open marks, which the judge's verdict then settles. One that `marks_refusals` is shown replies that
    decline to answer, too; for all others those are no answers. One that `reads_whole` looks at the whole reply and
    not for an answer in it.
    """

    name: str
    options: Mapping[str, tuple[type, ...]]
    prepare: Callable[[Marking], Marker]
    needs_judge: bool = False
    marks_refusals: bool = False
    reads_whole: bool = False


def unmarked(text: str) -> Mark:
    """Leave a reply open: the marker of a question whose key has not been prepared."""
    return Mark(None, Verdict.OPEN, "the key is not prepared")


def passed(reason: str, answer: str | None = None, read_by: str | None = None, start: int | None = None) -> Mark:
    """Return a full mark."""
    return Mark(1.0, Verdict.PASS, reason, answer, read_by, start)


def failed(reason: str, answer: str | None = None, read_by: str | None = None, start: int | None = None) -> Mark:
    """Return a mark of nothing."""
    return Mark(0.0, Verdict.FAIL, reason, answer, read_by, start)


def scored(
    score: float, reason: str, answer: str | None = None, read_by: str | None = None, start: int | None = None
) -> Mark:
    """Return a mark with a share of the score; it counts as passed when nothing is missing."""
    verdict = Verdict.PASS if score >= 1.0 else Verdict.FAIL
    return Mark(max(0.0, min(1.0, score)), verdict, reason, answer, read_by, start)
