"""Proofs of questions whose replies are run: they are run, too, so that a check can tell how they come out."""

from __future__ import annotations

from dataclasses import replace

from dryquarry.errors import Fault
from dryquarry.marking import registry
from dryquarry.marking.works.jobs import Job
from dryquarry.marking.works.results import RunResult
from dryquarry.sandbox.languages import Missing
from dryquarry.sandbox.performing import Sandbox
from dryquarry.suites.checking import key_replies
from dryquarry.suites.question import Question
from dryquarry.suites.reader import SuiteRead
from dryquarry.workspace.runners import Runners


def with_proofs_run(read: SuiteRead, sandbox: Sandbox) -> tuple[SuiteRead, list[Fault]]:
    """Return a suite whose markers know what came of its proofs, and advice where some could not be run here."""
    if read.suite is None or not any(_has_proofs(question) for question in read.suite.questions):
        return read, []
    jobs: dict[str, Job] = {}
    missing: dict[str, Question] = {}
    runners = Runners()
    for question in filter(_has_proofs, read.suite.questions):
        for text in (*question.proofs.passing, *question.proofs.failing, *key_replies(question)):
            for digest, job in runners.jobs(question, text).items():
                runtime = sandbox.runtime(job)
                if isinstance(runtime, Missing):
                    missing.setdefault(runtime.said, question)
                else:
                    jobs[digest] = job
    came = [one for one in sandbox.perform_all(jobs) if one is not None]
    results = {digest: result for digest, result in came if isinstance(result, RunResult)}
    questions = tuple(
        replace(one, marker=registry.prepare_with(one.marking, None, results)) if _has_proofs(one) else one
        for one in read.suite.questions
    )
    advice = [
        Fault("not-run", f"its proofs could not be run: {said}", question.file, question.line, question.id)
        for said, question in missing.items()
    ]
    return replace(read, suite=replace(read.suite, questions=questions)), advice


def _has_proofs(question: Question) -> bool:
    if not registry.needs_run(question.marking):
        return False
    return bool(question.proofs.passing or question.proofs.failing or key_replies(question))
