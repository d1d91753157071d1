"""Giving stored replies the marks they lack, and taking judges' verdicts over."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dryquarry.asking.entrants import Entrant
from dryquarry.asking.judging import ToJudge
from dryquarry.errors import UsageFault, closest
from dryquarry.ledger.queries import sitter_id_of, slots_of, waiting_replies
from dryquarry.ledger.records import Judged, NewMark, Reply
from dryquarry.ledger.store import Ledger
from dryquarry.marking import registry
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.outcomes import mark_reply
from dryquarry.marking.rubric import mark_from_points
from dryquarry.suites.question import Question, Suite

IN_ONE_TRANSACTION = 2000


@dataclass(frozen=True, slots=True)
class JudgeWork:
    """What waits for one judge; `judge` is None where none is named and entrants.toml has not just one."""

    judge: Entrant | None
    waiting: tuple[ToJudge, ...]


def mark_waiting(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant]) -> int:
    """Mark every held reply that has no mark under its question's present key; return how many."""
    questions = suite.asked()
    slots = slots_of(ledger, questions)
    marked = 0
    for entrant in entrants:
        sitter_id = sitter_id_of(ledger, entrant.digest)
        if sitter_id is None:
            continue
        waiting = waiting_replies(ledger, slots, sitter_id, verdict=None)
        for start in range(0, len(waiting), IN_ONE_TRANSACTION):
            new_marks = []
            for reply in waiting[start : start + IN_ONE_TRANSACTION]:
                mark = mark_reply(questions[reply.position].marker, reply.outcome, reply.text)
                marking_id = slots[reply.position].marking_id
                if mark is not None and marking_id is not None:
                    new_marks.append(new_mark(reply.reply_id, marking_id, mark))
            ledger.record_marks(new_marks)
            marked += len(new_marks)
    return marked


# The questions that ask the same, with the rows of their keys, by ask digest.
MarksByAsk = Mapping[str, Sequence[tuple[Question, int]]]


def marks_by_ask(ledger: Ledger, suite: Suite) -> MarksByAsk:
    """Return by which keys a reply is marked as soon as it comes."""
    questions = suite.asked()
    found: dict[str, list[tuple[Question, int]]] = {}
    for question, slot in zip(questions, slots_of(ledger, questions), strict=True):
        if slot.marking_id is not None:
            found.setdefault(question.ask_digest, []).append((question, slot.marking_id))
    return found


def record_and_mark(
    ledger: Ledger, sitting_id: int, sitter_id: int, by_ask: MarksByAsk, replies: Sequence[Reply]
) -> None:
    """Store replies, and then their marks, so that little is left to do once all have come."""
    reply_ids = ledger.record_replies(sitting_id, sitter_id, replies)
    new_marks = []
    for reply_id, reply in zip(reply_ids, replies, strict=True):
        for question, marking_id in by_ask.get(reply.ask_digest, ()):
            mark = mark_reply(question.marker, reply.received.outcome, reply.received.text)
            if mark is not None:
                new_marks.append(new_mark(reply_id, marking_id, mark))
    ledger.record_marks(new_marks, first=True)


def new_mark(reply_id: int, marking_id: int, mark: Mark) -> NewMark:
    """Return the mark as it is stored for a reply."""
    return NewMark(reply_id, marking_id, mark.score, mark.verdict, mark.reason, mark.answer, mark.read_by)


def judge_work(
    ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], judges: Mapping[str, Entrant]
) -> list[JudgeWork]:
    """Return what waits for which judge."""
    questions = suite.asked()
    if not any(registry.SCHEMES[question.marking.scheme].needs_judge for question in questions):
        return []
    slots = slots_of(ledger, questions)
    by_judge: dict[str | None, list[ToJudge]] = {}
    for entrant in entrants:
        sitter_id = sitter_id_of(ledger, entrant.digest)
        if sitter_id is None:
            continue
        for reply in waiting_replies(ledger, slots, sitter_id, verdict=Verdict.OPEN):
            question, marking_id = questions[reply.position], slots[reply.position].marking_id
            if not registry.SCHEMES[question.marking.scheme].needs_judge or marking_id is None:
                continue
            judge = judge_for(question, judges)
            one = ToJudge(reply.reply_id, marking_id, question.text, reply.text, question.marking)
            by_judge.setdefault(judge.name if judge else None, []).append(one)
    return [JudgeWork(judges[name] if name is not None else None, tuple(waiting)) for name, waiting in by_judge.items()]


def judge_for(question: Question, judges: Mapping[str, Entrant]) -> Entrant | None:
    """Return the judge that the question names, or else the only one there is; raises UsageFault."""
    named = question.marking.options.get("judge")
    if named is None:
        return next(iter(judges.values())) if len(judges) == 1 else None
    if named not in judges:
        raise UsageFault(
            f"{question.file}:{question.line}: question {question.id}: there is no judge '{named}' "
            f"in entrants.toml{closest(named, judges)}"
        )
    return judges[named]


def settle(ledger: Ledger, judge_id: int, judge: Entrant, waiting: ToJudge, judged: Judged) -> None:
    """Store a judge's verdict and the mark it comes to; an unreadable verdict leaves the mark open."""
    ledger.record_verdict(judge_id, judge.name, judged)
    if judged.points is not None:
        mark = mark_from_points(judged.points, waiting.marking, judge.name)
    else:
        reason = f"judge {judge.name}: {judged.problem} (asked {judged.attempts} times); waits for a judge"
        mark = Mark(None, Verdict.OPEN, reason)
    ledger.record_marks([new_mark(judged.reply_id, judged.marking_id, mark)])
