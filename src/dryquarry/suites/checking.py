"""What `suite check` finds: the faults of reading, and proofs that come out wrong."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import dataclass

from dryquarry.errors import Fault
from dryquarry.marking import registry
from dryquarry.marking.model import Verdict
from dryquarry.marking.text import shortened
from dryquarry.suites.question import Question
from dryquarry.suites.reader import SuiteRead


@dataclass(frozen=True, slots=True)
class SuiteCheck:
    """The outcome of checking one suite: faults must be mended, advice may be."""

    suite: str
    edition: str
    questions: int
    faults: tuple[Fault, ...]
    advice: tuple[Fault, ...]


def check_suite(name: str, read: SuiteRead) -> SuiteCheck:
    """Check what was read of a suite: every proof is marked as a reply would be."""
    suite = read.suite
    if suite is None:
        return SuiteCheck(name, "draft", 0, read.faults, ())
    wrong = [fault for question in suite.questions for fault in wrong_proofs(question)]
    advice = [fault for question in suite.questions for fault in _advice(question)]
    faults = sorted((*read.faults, *wrong), key=lambda fault: fault.line or 0)
    return SuiteCheck(name, suite.edition, len(suite.questions), tuple(faults), tuple(advice))


def wrong_proofs(question: Question) -> Iterator[Fault]:
    """Yield a fault for each sample reply that does not come out as its author says."""
    mark = registry.prepare(question.marking)
    for wanted, samples in ((Verdict.PASS, question.proofs.passing), (Verdict.FAIL, question.proofs.failing)):
        for sample in samples:
            got = mark(sample)
            if got.verdict is not wanted:
                said = f"should {wanted} but comes out {got.verdict}"
                message = f"the proof '{shortened(sample)}' {said}: {got.reason}"
                yield Fault("proof", message, question.file, question.line, question.id)


def _advice(question: Question) -> Iterator[Fault]:
    if not question.why:
        yield Fault(
            "no-why", "no `why`: say how the key is reached", question.file, question.line, question.id
        )
    if not question.source:
        message = "no `source`: say where the question comes from"
        yield Fault("no-source", message, question.file, question.line, question.id)
