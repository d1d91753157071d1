"""What becomes of a stored reply's mark when it is marked again: whose mark stands, and what is new about it."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace
from types import MappingProxyType

from dryquarry.ledger.records import NewMark, StoredReply
from dryquarry.ledger.verdicts import StoredVerdict
from dryquarry.marking import registry
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.registry import SCHEMES, parts_of
from dryquarry.marking.works.results import RunResult
from dryquarry.suites.question import Question
from dryquarry.workspace.judge_requests import mark_from_stored

NO_RESULTS: Mapping[str, RunResult] = MappingProxyType({})


def mark_again(
    question: Question,
    reply: StoredReply,
    verdicts: Sequence[StoredVerdict] = (),
    results: Mapping[str, RunResult] = NO_RESULTS,
) -> tuple[str, Mark]:
    """Return what becomes of a reply's mark (first, same, kept or changed), and the mark it has then.

    `verdicts` of judges settle it where they are by what the judges would be shown now, `results` of running its works
    (by the digests of jobs) where those were run.
    """
    person = next((one for one in (reply.present, reply.earlier) if one is not None and one.by_person), None)
    if reply.present is not None and not reply.present.by_person:
        person = None
    if person is not None:
        return "kept", person
    mark = question.mark(reply.outcome, reply.text)
    assert mark is not None
    if mark.verdict is Verdict.OPEN and results:
        outcome = mark.outcome
        mark = replace(registry.prepare_with(question.marking, None, results)(reply.text), outcome=outcome)
    settled = reply.present is not None and reply.present.verdict is not Verdict.OPEN
    if mark.verdict is Verdict.OPEN and settled and _waits_for_others(question):
        assert reply.present is not None
        return "kept", reply.present
    if mark.verdict is Verdict.OPEN and verdicts:
        mark = mark_from_stored(question, reply.text, verdicts, results) or mark
    before = reply.present or reply.earlier
    if before is None:
        return "first", mark
    return ("same" if before.comes_to(mark) else "changed"), mark


def _waits_for_others(question: Question) -> bool:
    """Tell whether a mark may come from a judge or a person, which marking again must not undo."""
    return any(SCHEMES[part.scheme].needs_judge or part.scheme == "hand" for part in parts_of(question.marking))


def as_new_mark(reply: StoredReply, marking_id: int, mark: Mark) -> NewMark:
    """Return a mark as it is stored in place of the reply's present one."""
    changed = reply.present is None or not reply.present.comes_to(mark)
    return NewMark(reply.reply_id, marking_id, mark, "marked again" if changed else "told in other words")
