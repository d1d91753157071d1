"""What runs the questions of a suite, and what a reply has to be run for."""

from __future__ import annotations

from dryquarry.marking import registry
from dryquarry.marking.model import Mark, Runner
from dryquarry.marking.works.jobs import Job, job_digest
from dryquarry.suites.question import Question, Suite


class Runners:
    """What runs the questions of a suite, worked out once for each way of marking."""

    def __init__(self) -> None:
        self._known: dict[str, tuple[Runner, ...]] = {}

    def jobs(self, question: Question, text: str) -> dict[str, Job]:
        """Return what a reply to a question has to be run for, by the digests of jobs."""
        if question.mark_digest not in self._known:
            self._known[question.mark_digest] = registry.runners_of(question.marking)
        asked = (runner.job(text) for runner in self._known[question.mark_digest])
        return {job_digest(job): job for job in asked if not isinstance(job, Mark)}


def has_works(suite: Suite) -> bool:
    """Tell whether any question of a suite has what its replies hold run."""
    return any(registry.needs_run(question.marking) for question in suite.asked())
