"""Giving stored replies the marks they lack, and taking judges' verdicts over."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from dryquarry.asking.engine import Key, Wanted
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.judging import ToJudge
from dryquarry.errors import UsageFault, closest
from dryquarry.ledger.queries import sitter_id_of, stored_replies, waiting_replies
from dryquarry.ledger.records import MarkedReply, NewMark, Slot, StoredReply, WaitingReply
from dryquarry.ledger.store import Ledger
from dryquarry.marking import registry
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Judged, Reply
from dryquarry.marking.schemes.rubric import mark_from_points
from dryquarry.marking.values.texts import shortened
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.marks import as_new_mark, mark_again
from dryquarry.workspace.planning import slotted


@dataclass(frozen=True, slots=True)
class JudgeWork:
    """What waits for one judge; `judge` is None where none is named and entrants.toml has not just one."""

    judge: Entrant | None
    waiting: tuple[ToJudge, ...]


def mark_waiting(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant]) -> int:
    """Mark every held reply, first and second tries, that has no mark under its question's present key."""
    sitters = _sitters(ledger, entrants)
    marked = 0
    for questions, slots in slotted(ledger, suite):
        for sitter_id in sitters:
            waiting = {reply.reply_id for reply in _waiting(ledger, questions, slots, sitter_id, None)}
            new_marks: list[NewMark] = []
            for reply in _stored(ledger, questions, slots, sitter_id) if waiting else ():
                marking_id = slots[reply.position].marking_id
                if reply.reply_id in waiting and reply.present is None and marking_id is not None:
                    _, mark = mark_again(questions[reply.position], reply)
                    new_marks.append(as_new_mark(reply, marking_id, mark))
            ledger.record_marks(new_marks)
            marked += len(new_marks)
    return marked


def record_and_mark(
    ledger: Ledger, sitting_id: int, sitter_id: int, replacing: bool, arrived: Sequence[tuple[Wanted, Reply]]
) -> None:
    """Store replies with their marks, so that little is left to do once all have come."""
    marked = []
    for wanted, reply in arrived:
        given = ((key.marking_id, _marked(key, reply)) for key in wanted.keys)
        marks = tuple((marking_id, mark) for marking_id, mark in given if mark is not None)
        marked.append(MarkedReply(reply, marks))
    ledger.record_replies(sitting_id, sitter_id, marked, replacing=replacing)


def _marked(key: Key, reply: Reply) -> Mark | None:
    """Return a reply's mark; one that cannot be marked stays open with the reason, and keeps no other from it."""
    try:
        return key.mark(reply.received.outcome, reply.received.text)
    except Exception as error:
        said = f"could not be marked ({type(error).__name__}: {error}); 'dryquarry mark' tries again"
        return Mark(None, Verdict.OPEN, shortened(said, 300), outcome=str(reply.received.outcome))


def judge_work(
    ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], judges: Mapping[str, Entrant]
) -> list[JudgeWork]:
    """Return what waits for which judge."""
    sitters = _sitters(ledger, entrants)
    by_judge: dict[str | None, list[ToJudge]] = {}
    for questions, slots in slotted(ledger, suite):
        judged = [slot for slot in slots if needs_judge(questions[slot.position])]
        for sitter_id in sitters if judged else ():
            for reply in _waiting(ledger, questions, judged, sitter_id, Verdict.OPEN):
                question, marking_id = questions[reply.position], slots[reply.position].marking_id
                if marking_id is None:
                    continue
                judge = judge_for(question, judges)
                one = ToJudge(reply.reply_id, marking_id, question.text, reply.text, question.marking)
                by_judge.setdefault(judge.name if judge else None, []).append(one)
    return [JudgeWork(judges[name] if name is not None else None, tuple(waiting)) for name, waiting in by_judge.items()]


def _waiting(
    ledger: Ledger, questions: Sequence[Question], slots: Sequence[Slot], sitter_id: int, verdict: Verdict | None
) -> list[WaitingReply]:
    """Return the first and the second tries that wait for a mark, or for a judge."""
    again = [slot for slot in slots if questions[slot.position].second_try]
    first = waiting_replies(ledger, slots, sitter_id, verdict=verdict)
    return first + (waiting_replies(ledger, again, sitter_id, verdict=verdict, second=True) if again else [])


def _stored(ledger: Ledger, questions: Sequence[Question], slots: Sequence[Slot], sitter_id: int) -> list[StoredReply]:
    """Return the first and the second tries with the marks that they have."""
    again = [slot for slot in slots if questions[slot.position].second_try]
    first = stored_replies(ledger, slots, sitter_id)
    return first + (stored_replies(ledger, again, sitter_id, second=True) if again else [])


def needs_judge(question: Question) -> bool:
    """Tell whether the question is marked by a judge."""
    return registry.rubric_part(question.marking) is not None


def judge_for(question: Question, judges: Mapping[str, Entrant]) -> Entrant | None:
    """Return the judge that the question names, or else the only one there is; raises UsageFault."""
    part = registry.rubric_part(question.marking)
    named = part.options.get("judge") if part is not None else None
    if named is None:
        return next(iter(judges.values())) if len(judges) == 1 else None
    if named not in judges:
        raise UsageFault(
            f"{question.file}:{question.line}: question {question.id}: there is no judge '{named}' "
            f"in entrants.toml{closest(named, judges)}"
        )
    return judges[named]


def no_judge(count: int) -> str:
    """Return that so many questions have no judge, and what to do, in a sentence."""
    who = "question has" if count == 1 else "questions have"
    return (
        f"{count} {who} no judge to ask, so marks will stay open: add one [judge.NAME] to entrants.toml, "
        "or name one of several with `judge:` in the question's mark"
    )


def settle(ledger: Ledger, judge_id: int, judge: Entrant, waiting: ToJudge, judged: Judged) -> None:
    """Store a judge's verdict and the mark it comes to; an unreadable verdict leaves the mark open."""
    ledger.record_verdict(judge_id, judge.name, judged)
    part = registry.rubric_part(waiting.marking)
    assert part is not None
    if judged.points is not None:
        mark = mark_from_points(judged.points, part, judge.name)
    else:
        reason = f"judge {judge.name}: {judged.problem} (asked {judged.attempts} times); waits for a judge"
        mark = Mark(None, Verdict.OPEN, reason, by=judge.name)
    whole = registry.prepare_judged(waiting.marking, mark)(waiting.text)
    outcome = str(Outcome.ANSWERED)
    ledger.record_marks([NewMark(judged.reply_id, judged.marking_id, replace(whole, by=judge.name, outcome=outcome))])


def _sitters(ledger: Ledger, entrants: Sequence[Entrant]) -> list[int]:
    rows = (sitter_id_of(ledger, entrant.digest) for entrant in entrants)
    return [row for row in rows if row is not None]
