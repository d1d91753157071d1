"""Which judgements replies wait for, by whom, and the marks that judges' verdicts come to."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, replace
from typing import TypeVar

from dryquarry.asking.entrants import Entrant
from dryquarry.asking.judging import ToJudge
from dryquarry.asking.protocol import Load
from dryquarry.ledger.records import NewMark, Slot, WaitingReply
from dryquarry.ledger.store import Ledger
from dryquarry.ledger.verdicts import StoredVerdict, verdicts_of
from dryquarry.marking.judging.panel import Opinion
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Judged
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.judge_requests import mark_of_panel, to_judge
from dryquarry.workspace.marking import sitter_rows, waiting_of
from dryquarry.workspace.panels import Seat, judges_for, needs_judge, seats_of
from dryquarry.workspace.planning import slotted
from dryquarry.workspace.works import pictures_of, results_for

AT_A_TIME = 500
T = TypeVar("T")


@dataclass(frozen=True, slots=True)
class JudgeWork:
    """What waits for one judge; `judge` is None where no judge may mark it, or none is named and there is not one."""

    judge: Entrant | None
    waiting: tuple[ToJudge, ...]


@dataclass(frozen=True, slots=True)
class Waiting:
    """An open reply, and the seats of the panel that is to mark it; `barred` are judges of the entrant's own kind."""

    reply: WaitingReply
    question: Question
    marking_id: int
    entrant: Entrant
    seats: tuple[Seat, ...]
    request: ToJudge
    barred: tuple[str, ...] = ()

    def lacking(self, stored: Sequence[StoredVerdict]) -> list[Seat]:
        """Return the seats from which no readable verdict is stored."""
        return [seat for seat in self.seats if _opinion_of(seat, self.request, stored) is None]


def waiting_for_judges(
    ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], judges: Mapping[str, Entrant], load: Load
) -> Iterator[Waiting]:
    """Yield every open reply to a question that is marked by rubric, with the panel that it waits for."""
    for questions, slots in slotted(ledger, suite):
        judged = [slot for slot in slots if needs_judge(questions[slot.position]) and slot.marking_id is not None]
        for entrant, sitter_id in sitter_rows(ledger, entrants) if judged else ():
            for reply in waiting_of(ledger, questions, judged, sitter_id, Verdict.OPEN):
                question = questions[reply.position]
                one = _waiting(reply, question, slots[reply.position], entrant, judges, load)
                pictures = pictures_of(ledger, question, reply.text)
                yield replace(one, request=replace(one.request, pictures=pictures)) if pictures else one


def _waiting(
    reply: WaitingReply,
    question: Question,
    slot: Slot,
    entrant: Entrant,
    judges: Mapping[str, Entrant],
    load: Load,
) -> Waiting:
    assert slot.marking_id is not None
    request = to_judge(reply.reply_id, slot.marking_id, question, reply.text, load)
    seats = seats_of(question, entrant, judges)
    kept = {seat.judge.name for seat in seats}
    barred = tuple(one.name for one in judges_for(question, judges) if one.name not in kept)
    return Waiting(reply, question, slot.marking_id, entrant, seats, request, barred)


def judge_work(ledger: Ledger, waiting: Sequence[Waiting]) -> list[JudgeWork]:
    """Return what is to ask of which judge, without what is stored already."""
    by_judge: dict[str | None, list[ToJudge]] = {}
    people: dict[str | None, Entrant | None] = {None: None}
    for part in batched(waiting, AT_A_TIME):
        stored = _by_reply(ledger, part)
        for one in part:
            if not one.seats:
                by_judge.setdefault(None, []).extend([] if one.barred else [one.request])
            for seat in one.lacking(stored.get(one.reply.reply_id, ())):
                people[seat.judge.name] = seat.judge
                by_judge.setdefault(seat.judge.name, []).append(replace(one.request, time=seat.time))
    return [JudgeWork(people[name], tuple(asked)) for name, asked in by_judge.items()]


def settle(ledger: Ledger, waiting: Sequence[Waiting], failing: Mapping[int, Sequence[Opinion]] | None = None) -> int:
    """Store the marks of replies for which every judge has spoken, and why others stay open; return how many closed.

    `failing` are the opinions of this run without points, by reply.
    """
    return sum(_settle_part(ledger, part, failing or {}) for part in batched(waiting, AT_A_TIME))


def _settle_part(ledger: Ledger, waiting: Sequence[Waiting], failing: Mapping[int, Sequence[Opinion]]) -> int:
    stored = _by_reply(ledger, waiting)
    marks: list[NewMark] = []
    for one in waiting:
        verdicts = stored.get(one.reply.reply_id, ())
        opinions = [opinion for seat in one.seats if (opinion := _opinion_of(seat, one.request, verdicts)) is not None]
        problems = [] if len(opinions) == len(one.seats) else list(failing.get(one.reply.reply_id, ()))
        if not one.seats and one.barred:
            marks += _newly(one, _barred_mark(one))
        if not one.seats or (len(opinions) < len(one.seats) and not problems):
            continue
        steering = next((verdict.steering for verdict in verdicts if verdict.steering), ())
        results = results_for(ledger, one.question, one.reply.text)
        mark = mark_of_panel(one.question, one.reply.text, [*opinions, *problems], steering, results)
        marks += _newly(one, mark)
    ledger.record_marks(marks)
    return sum(new.mark.verdict is not Verdict.OPEN for new in marks)


def _newly(one: Waiting, mark: Mark) -> list[NewMark]:
    """Return the mark as it is to be stored; nothing where it stays open for the reason it is open for."""
    same = mark.verdict is Verdict.OPEN and mark.reason == one.reply.reason
    return [] if same else [NewMark(one.reply.reply_id, one.marking_id, mark, "judged")]


def _barred_mark(one: Waiting) -> Mark:
    names = ", ".join(one.barred)
    said = (
        f"waits for a person: {names} would mark its own kind (the model or maker of {one.entrant.name}); "
        "another judge, or `own_family: allowed` in the question's mark"
    )
    return Mark(None, Verdict.OPEN, said, outcome=str(Outcome.ANSWERED))


def store_verdict(ledger: Ledger, judge_id: int, judge: Entrant, judged: Judged) -> Opinion:
    """Store what a judge said of a reply, and return it as an opinion."""
    ledger.record_verdict(judge_id, judge.name, judged)
    asked = f"{judged.problem} (asked {judged.attempts} times)" if judged.problem else None
    return Opinion(judge.name, judged.time, judged.points, asked)


def _by_reply(ledger: Ledger, waiting: Sequence[Waiting]) -> dict[int, list[StoredVerdict]]:
    found: dict[int, list[StoredVerdict]] = {}
    for verdict in verdicts_of(ledger, [one.reply.reply_id for one in waiting]):
        found.setdefault(verdict.reply_id, []).append(verdict)
    return found


def _opinion_of(seat: Seat, request: ToJudge, stored: Sequence[StoredVerdict]) -> Opinion | None:
    """Return what a seat said by this very rubric, or None where it has not spoken readably."""
    for verdict in reversed(stored):
        fits = verdict.request_digest == request.request_digest and verdict.judge_digest == seat.judge.digest
        if fits and verdict.time == seat.time and not verdict.again and verdict.points is not None:
            return Opinion(seat.judge.name, seat.time, verdict.points)
    return None


def batched(things: Sequence[T], size: int) -> Iterator[Sequence[T]]:
    """Yield the things so many at a time."""
    for start in range(0, len(things), size):
        yield things[start : start + size]
