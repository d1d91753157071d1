"""What every scheme takes and gives: Marking in, Mark out, and Scheme as the way to add one."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field
from enum import StrEnum
from typing import Any

from dryquarry.marking.rubrics import Rubric
from dryquarry.marking.works.jobs import Job, job_digest
from dryquarry.marking.works.results import Checked, RunResult


class Verdict(StrEnum):
    """How a mark counts; `OPEN` waits for a judge or a person, `VOID` does not count."""

    PASS = "pass"
    FAIL = "fail"
    OPEN = "open"
    VOID = "void"


@dataclass(frozen=True, slots=True)
class Mark:
    """A score in [0, 1] (None while open or void) with its verdict and the reason in a sentence.

    `answer` is the part of the reply that was taken as its final answer, `read_by` the place at which it was found,
    `start` and `end` where in the text it stands, `rule` the rule by which it stands; all are None when the scheme
    looks at the whole reply or found nothing. `form_kept` tells whether the answer stands where the question asked
    for it, if it asked. A mark that is not `sure` might come out otherwise if the reply were read in another
    defensible way; `unsure_because` says which. `by` is who gave it (`scheme`, a judge's or a person's name), and
    `because` why a person did.
    """

    score: float | None
    verdict: Verdict
    reason: str
    answer: str | None = None
    read_by: str | None = None
    start: int | None = None
    end: int | None = None
    rule: str | None = None
    form_kept: bool | None = None
    sure: bool = True
    unsure_because: str | None = None
    by: str = "scheme"
    because: str | None = None
    outcome: str | None = None

    @property
    def by_person(self) -> bool:
        """Whether a person gave the mark."""
        return self.because is not None

    def comes_to(self, other: Mark) -> bool:
        """Tell whether two marks have the same verdict and score."""
        return self.verdict == other.verdict and abs((self.score or 0.0) - (other.score or 0.0)) < SAME_SCORE

    def says(self, other: Mark) -> bool:
        """Tell whether nothing about a mark is new, its reason included."""
        return self.comes_to(other) and all(getattr(self, name) == getattr(other, name) for name in _TOLD)


SAME_SCORE = 1e-9
_TOLD = ("reason", "answer", "read_by", "start", "end", "rule", "form_kept", "sure", "unsure_because", "outcome")


@dataclass(frozen=True, slots=True)
class Marking:
    """All that decides how a reply to one question is marked; the mark digest covers exactly this.

    `choices` are the (letter, text) pairs of a choice question, `answer_line` the label after which the
    final answer stands, `form_required` whether a right answer elsewhere fails, `outcomes` what the suite says of
    replies that are not answers. `asked` is the question's text, which the readers may look at; it is no part of the
    mark digest, for a reply belongs to what was asked.
    """

    scheme: str
    key: Any = None
    options: Mapping[str, Any] = field(default_factory=dict)
    choices: tuple[tuple[str, str], ...] = ()
    answer_line: str | None = None
    rubric: Rubric | None = None
    outcomes: Mapping[str, str] = field(default_factory=dict)
    form_required: bool = False
    asked: str = ""


class MarkingFault(ValueError):
    """A key or option that the scheme cannot use; the message is for the suite's author."""


Marker = Callable[[str], Mark]


def always(marking: Marking) -> bool:
    """Tell that it is so for every question of a scheme."""
    return True


def never(marking: Marking) -> bool:
    """Tell that it is so for no question of a scheme."""
    return False


@dataclass(frozen=True, slots=True)
class Runner:
    """How a scheme has a reply's work run: `job` is what is to be run (or a mark where there is nothing to run),
    `settle` the mark that what came of it comes to, `checks` how each test came out.
    """

    job: Callable[[str], Job | Mark]
    settle: Callable[[str, RunResult], Mark]
    checks: Callable[[str, RunResult], tuple[Checked, ...]]


@dataclass(frozen=True, slots=True)
class Scheme:
    """A way of marking.

    `options` maps the name of each option to the types it may have. `prepare` takes a Marking, checks its
    key and options (raising MarkingFault) and returns the function that marks one reply text, so that
    what depends on the key alone is worked out once and not for every reply; one that `nests` others is given the
    function that prepares those, too. A scheme that `needs_judge`
    returns open marks, which the judge's verdict then settles; one that `runs` what replies hold, those that what came
    of it settles. `files` are the options that name a file beside the suite, `way` tells in few words how it marks
    where its options are long. One that `marks_refusals` is shown replies that
    decline to answer, too; for all others those are no answers. One that `reads_whole` looks at the whole reply and
    not for an answer in it; of the others `kind` gives the kind of value that they read. `has_answer` tells whether
    a reply has an answer apart from the rest of it, for which an answer line may be asked.
    """

    name: str
    options: Mapping[str, tuple[type, ...]]
    prepare: Callable[..., Marker]
    nests: bool = False
    kind: Callable[[Marking], Any] | None = None
    needs_judge: bool = False
    runs: Callable[..., Runner] | None = None
    files: tuple[str, ...] = ()
    way: Callable[[Marking], str] | None = None
    marks_refusals: bool = False
    reads_whole: bool = False
    has_answer: Callable[[Marking], bool] = always


def unmarked(text: str) -> Mark:
    """Leave a reply open: the marker of a question whose key has not been prepared."""
    return Mark(None, Verdict.OPEN, "the key is not prepared")


WAITS_TO_BE_RUN = "waits to be run"


def waits(runner: Runner) -> Marker:
    """Return the marker that leaves a reply open until its work is run."""

    def mark(text: str) -> Mark:
        asked = runner.job(text)
        return asked if isinstance(asked, Mark) else Mark(None, Verdict.OPEN, WAITS_TO_BE_RUN)

    return mark


def settled_by(runner: Runner, results: Mapping[str, RunResult]) -> Marker:
    """Return the marker that takes what came of a reply's work from `results`, by the digests of jobs."""

    def mark(text: str) -> Mark:
        asked = runner.job(text)
        if isinstance(asked, Mark):
            return asked
        result = results.get(job_digest(asked))
        return Mark(None, Verdict.OPEN, WAITS_TO_BE_RUN) if result is None else runner.settle(text, result)

    return mark


def passed(reason: str, answer: str | None = None, read_by: str | None = None, start: int | None = None) -> Mark:
    """Return a full mark."""
    return Mark(1.0, Verdict.PASS, reason, answer, read_by, start)


def failed(reason: str, answer: str | None = None, read_by: str | None = None, start: int | None = None) -> Mark:
    """Return a mark of nothing."""
    return Mark(0.0, Verdict.FAIL, reason, answer, read_by, start)


def scored(score: float, reason: str) -> Mark:
    """Return a mark with a share of the score; it counts as passed when nothing is missing."""
    verdict = Verdict.PASS if score >= 1.0 else Verdict.FAIL
    return Mark(max(0.0, min(1.0, score)), verdict, reason)
