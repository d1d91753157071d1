"""The works in replies: which of them wait to be run, what came of them, and the marks that this comes to."""

from __future__ import annotations

import time
from collections import Counter
from collections.abc import Generator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from dryquarry.asking.entrants import Entrant
from dryquarry.ledger.queries import stored_replies
from dryquarry.ledger.records import NewMark
from dryquarry.ledger.results import picture_of, record_results, results_of
from dryquarry.ledger.store import Ledger
from dryquarry.marking import registry
from dryquarry.marking.model import WAITS_TO_BE_RUN, Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.works.jobs import Job, job_digest
from dryquarry.marking.works.model import Work
from dryquarry.marking.works.results import Checked, RunResult
from dryquarry.sandbox.languages import Missing
from dryquarry.sandbox.performing import CannotRun, Sandbox
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.marking import sitter_rows, waiting_of
from dryquarry.workspace.planning import slotted
from dryquarry.workspace.runners import Runners

STORE_EVERY_S = 0.5


@dataclass(slots=True)
class Performed:
    """What running works did: how many were run, how many had a result already, and why others could not be run."""

    ran: int = 0
    kept: int = 0
    lacking: Counter[str] = field(default_factory=Counter)


def waiting_works(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant]) -> dict[str, Job]:
    """Return what the open replies of a suite wait for, by the digests of jobs."""
    runners, found = Runners(), {}
    for questions, slots in slotted(ledger, suite):
        own = [slot for slot in slots if registry.needs_run(questions[slot.position].marking)]
        for _, sitter_id in sitter_rows(ledger, entrants) if own else ():
            for reply in waiting_of(ledger, questions, own, sitter_id, Verdict.OPEN):
                found.update(runners.jobs(questions[reply.position], reply.text))
    return found


def all_works(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant]) -> dict[str, Job]:
    """Return what all stored replies of a suite are run for, first and second tries, by the digests of jobs."""
    runners, found = Runners(), {}
    for questions, slots in slotted(ledger, suite):
        own = [slot for slot in slots if registry.needs_run(questions[slot.position].marking)]
        again = [slot for slot in own if questions[slot.position].second_try]
        for _, sitter_id in sitter_rows(ledger, entrants) if own else ():
            replies = stored_replies(ledger, own, sitter_id)
            replies += stored_replies(ledger, again, sitter_id, second=True) if again else []
            for reply in replies:
                question = questions[reply.position]
                mark = question.mark(reply.outcome, reply.text)
                if mark is not None and mark.verdict is Verdict.OPEN:
                    found.update(runners.jobs(question, reply.text))
    return found


def perform(ledger: Ledger, jobs: Mapping[str, Job], sandbox: Sandbox) -> Generator[Performed, None, None]:
    """Run what has no result yet, store what comes, and yield how far it is, now and then also when nothing is new.

    What is stored when somebody stops taking stays stored.
    """
    done = Performed()
    runtimes = {digest: sandbox.runtime(job) for digest, job in jobs.items()}
    versions = {digest: one.version for digest, one in runtimes.items() if not isinstance(one, Missing)}
    done.lacking = Counter(one.said for one in runtimes.values() if isinstance(one, Missing))
    known = results_of(ledger, versions, versions)
    done.kept = len(known)
    yield done
    new: dict[str, RunResult] = {}
    stored_at = time.monotonic()
    coming = sandbox.perform_all({digest: jobs[digest] for digest in versions if digest not in known})
    try:
        for one in coming:
            if one is not None and isinstance(one[1], RunResult):
                new[one[0]] = one[1]
                done.ran += 1
            elif one is not None:
                done.lacking[str(one[1])] += 1
            if new and time.monotonic() - stored_at > STORE_EVERY_S:
                record_results(ledger, new)
                new, stored_at = {}, time.monotonic()
            yield done
    finally:
        coming.close()
        record_results(ledger, new)


def settle_works(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], sandbox: Sandbox) -> int:
    """Store the marks of open replies whose works were run, and why others are open; return how many are settled."""
    settled = 0
    for questions, slots in slotted(ledger, suite):
        own = [slot for slot in slots if registry.needs_run(questions[slot.position].marking)]
        for _, sitter_id in sitter_rows(ledger, entrants) if own else ():
            waiting = waiting_of(ledger, questions, own, sitter_id, Verdict.OPEN)
            results, lacking = _found(ledger, questions, [(one.position, one.text) for one in waiting], sandbox)
            marks = []
            for reply in waiting:
                mark = mark_by_results(questions[reply.position], reply.text, results)
                if mark.verdict is Verdict.OPEN and mark.reason == WAITS_TO_BE_RUN and lacking:
                    mark = replace(mark, reason=f"{WAITS_TO_BE_RUN}: {lacking}")
                marking_id = slots[reply.position].marking_id
                if marking_id is not None and (mark.verdict is not Verdict.OPEN or mark.reason != reply.reason):
                    marks.append(NewMark(reply.reply_id, marking_id, mark, "run"))
                    settled += mark.verdict is not Verdict.OPEN
            ledger.record_marks(marks)
    return settled


def _found(
    ledger: Ledger, questions: Sequence[Question], waiting: Sequence[tuple[int, str]], sandbox: Sandbox
) -> tuple[dict[str, RunResult], str]:
    """Return what came of the works of replies, and why those without a result cannot be run here, if so."""
    runners = Runners()
    jobs: dict[str, Job] = {}
    for position, text in waiting:
        jobs.update(runners.jobs(questions[position], text))
    results = results_of(ledger, jobs)
    missing = (sandbox.runtime(job) for digest, job in jobs.items() if digest not in results)
    return results, next((one.said for one in missing if isinstance(one, Missing)), "")


def mark_by_results(question: Question, text: str, results: Mapping[str, RunResult]) -> Mark:
    """Return the mark of a reply that was answered, with what came of running its works."""
    whole = registry.prepare_with(question.marking, None, results)(text)
    return replace(whole, outcome=str(Outcome.ANSWERED))


def results_for(ledger: Ledger, question: Question, text: str) -> dict[str, RunResult]:
    """Return the latest results of a reply's works, by the digests of jobs."""
    if not registry.needs_run(question.marking):
        return {}
    return results_of(ledger, Runners().jobs(question, text))


@dataclass(frozen=True, slots=True)
class WorkRun:
    """A work in a reply, what came of running it, and how each of its tests came out."""

    work: Work
    result: RunResult
    checks: tuple[Checked, ...]


def runs_of(question: Question, text: str, results: Mapping[str, RunResult]) -> tuple[WorkRun, ...]:
    """Return the works in a reply that were run, with what came of them."""
    found = []
    for runner in registry.runners_of(question.marking):
        job = runner.job(text)
        result = None if isinstance(job, Mark) else results.get(job_digest(job))
        if not isinstance(job, Mark) and result is not None:
            found.append(WorkRun(job.work, result, runner.checks(text, result)))
    return tuple(found)


def pictures_of(ledger: Ledger, question: Question, text: str) -> tuple[bytes, ...]:
    """Return the last picture of what a reply made, for a judge to look at; none where there is no picture."""
    results = results_for(ledger, question, text)
    taken = [digest for result in results.values() for one in result.tests for digest in one.pictures]
    png = picture_of(ledger, taken[-1]) if taken else None
    return () if png is None else (png,)


def run_once(question: Question, text: str, sandbox: Sandbox) -> tuple[Mark, tuple[WorkRun, ...]]:
    """Return the mark of a text as a reply that was answered, its works run now, and what came of them."""
    results, lacking = {}, ""
    for digest, job in Runners().jobs(question, text).items():
        try:
            results[digest] = sandbox.perform(job)
        except CannotRun as why:
            lacking = f": {why}"
    sandbox.close()
    mark = mark_by_results(question, text, results)
    if mark.verdict is Verdict.OPEN and mark.reason == WAITS_TO_BE_RUN:
        mark = replace(mark, reason=WAITS_TO_BE_RUN + lacking)
    return mark, runs_of(question, text, results)
