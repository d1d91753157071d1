"""Marking stored replies again, by a person or with the present keys and schemes, and what that changes.

A mark is never deleted: another takes its place, and the ledger keeps when, by which version and why.
"""

from __future__ import annotations

from collections import Counter
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import UsageFault, closest
from dryquarry.ledger.queries import sitter_id_of, slots_of, stored_replies, void_questions
from dryquarry.ledger.records import NewMark, StoredReply
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Mark
from dryquarry.standing.board import build_board
from dryquarry.standing.board_model import BoardRow
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Result
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.collecting import items_of
from dryquarry.workspace.portions import MarkChange, Portion, Work, portions

# Stands for a key by which nothing was marked yet; a plan notes none, and writes no mark by it.
UNNOTED = 0


@dataclass(frozen=True, slots=True)
class StandingChange:
    """What marking again does to one entrant."""

    entrant: str
    score_before: float | None
    score_after: float | None
    rank_before: int | None
    rank_after: int | None


@dataclass(frozen=True, slots=True)
class Remarking:
    """What marking a suite again did, or would do when it is not `written`.

    `first` marks were given to replies that had none, `same` came out as before, `kept` were set by a person or a
    judge; `changes` are the others. `not_run` says why works could not be run, and how many.
    """

    reference: str
    first: int
    same: int
    kept: int
    changes: tuple[MarkChange, ...]
    standings: tuple[StandingChange, ...]
    written: bool
    not_run: Mapping[str, int] = field(default_factory=dict)


def remark(
    ledger: Ledger, work: Work, suite: Suite, entrants: Sequence[Entrant], processes: int | None = None
) -> Remarking:
    """Mark all stored replies to a suite again, first and second tries; a person's mark stands until taken back."""
    kinds: Counter[str] = Counter()
    changes: list[MarkChange] = []
    done: dict[str, list[Portion]] = {entrant.name: [] for entrant in entrants}
    for portion in portions(ledger, work, suite, entrants, processes):
        kinds += portion.kinds
        changes += portion.changes
        done[portion.entrant].append(portion)
        if work.write:
            ledger.record_marks(portion.new_marks)
            portion.new_marks.clear()
    # where nothing is another, neither are the standings
    standings = _standings(suite, entrants, done) if changes or kinds["first"] else ()
    changes.sort(key=lambda change: (change.entrant, change.question, change.trial))
    return Remarking(
        suite.reference, kinds["first"], kinds["same"], kinds["kept"], tuple(changes), standings, work.write
    )


def correct(
    ledger: Ledger,
    suite: Suite,
    entrants: Sequence[Entrant],
    question_id: str,
    correction: Mark | None,
    trials: Sequence[int] = (),
    *,
    write: bool = True,
) -> int:
    """Set the marks of one question's replies by hand, or (None) take such marks back; return how many.

    With `trials` only of those; without `write` they are only counted. Raises UsageFault when there is no such
    question or reply.
    """
    question = question_named(suite, question_id)
    slots = slots_of(ledger, [question])
    marking_id = slots[0].marking_id or UNNOTED
    new_marks: list[NewMark] = []
    taken_back: list[tuple[int, str]] = []
    for entrant in entrants:
        sitter_id = sitter_id_of(ledger, entrant.digest)
        for reply in stored_replies(ledger, slots, sitter_id) if sitter_id is not None else []:
            if trials and reply.trial not in trials:
                continue
            if correction is not None:
                new_marks.append(_set_by_hand(reply, marking_id, correction))
            elif reply.present is not None and reply.present.because is not None:
                mark = question.mark(reply.outcome, reply.text)
                assert mark is not None
                new_marks.append(NewMark(reply.reply_id, marking_id, mark, "taken back"))
                taken_back.append((reply.reply_id, reply.present.because))
    if not new_marks:
        said = "no stored reply to set a mark of" if correction else "no mark set by a person to take back"
        names = ", ".join(entrant.name for entrant in entrants)
        raise UsageFault(f"there is {said}: {suite.reference}, question {question_id}, {names}")
    if write:
        ledger.record_marks(new_marks, taken_back)
    return len(new_marks)


def by_hand_of(
    ledger: Ledger, suite: Suite, question_id: str, entrant: Entrant, trial: int, correction: Mark
) -> NewMark:
    """Return a person's mark of one reply, to be stored; the question must be noted in the ledger."""
    question = question_named(suite, question_id)
    (slot,) = slots_of(ledger, [question])
    (reply,) = replies_to(ledger, suite, entrant, question, (trial,))
    assert slot.marking_id is not None
    return _set_by_hand(reply, slot.marking_id, correction)


def replies_to(
    ledger: Ledger, suite: Suite, entrant: Entrant, question: Question, trials: Sequence[int] = ()
) -> list[StoredReply]:
    """Return an entrant's stored replies to a question; raises UsageFault when there is none."""
    sitter_id = sitter_id_of(ledger, entrant.digest)
    held = [] if sitter_id is None else stored_replies(ledger, slots_of(ledger, [question]), sitter_id)
    found = [reply for reply in held if not trials or reply.trial in trials]
    if not found:
        which = f", trial {trials[0]}" if trials else ""
        raise UsageFault(f"there is no stored reply of {entrant.name} to {suite.reference}, {question.id}{which}")
    return found


def void_for_all(ledger: Ledger, suite: Suite, question_id: str, because: str | None, *, write: bool = True) -> None:
    """Let a question count for nobody until its key changes, or (None) let it count again; not without `write`."""
    question = question_named(suite, question_id)
    (slot,) = slots_of(ledger, [question])
    if because is None:
        void = any(one.question == question_id for one in void_questions(ledger, suite.name))
        if not void or (write and not ledger.take_back_void(suite.name, question_id)):
            raise UsageFault(f"question {question_id} of {suite.name} is not void")
        return
    if not write:
        return
    assert slot.marking_id is not None
    ledger.void_question(suite.name, question_id, slot.marking_id, because)


def question_named(suite: Suite, question_id: str) -> Question:
    """Return a question that a suite asks; raises UsageFault when there is none of that name."""
    found = {question.id: question for question in suite.asked()}
    if question_id not in found:
        raise UsageFault(f"suite '{suite.name}' asks no question '{question_id}'{closest(question_id, found)}")
    return found[question_id]


def _set_by_hand(reply: StoredReply, marking_id: int, correction: Mark) -> NewMark:
    """Return a person's mark, with the answer that was read where one was."""
    read = reply.present or correction
    mark = replace(
        read, **{name: getattr(correction, name) for name in ("score", "verdict", "reason", "by", "because")}
    )
    settled = replace(mark, sure=True, unsure_because=None)
    return NewMark(reply.reply_id, marking_id, settled, "a person set another mark")


def _standings(
    suite: Suite, entrants: Sequence[Entrant], done: Mapping[str, Sequence[Portion]]
) -> tuple[StandingChange, ...]:
    """Return the entrants whose score or rank is another than before."""
    sides: list[dict[str, BoardRow]] = []
    for side in ("before", "after"):
        results = [EntrantResults.of(one.name, one.title, list(_results(done[one.name], side))) for one in entrants]
        shown = [one for one in results if len(one.replies)]
        board = build_board(suite.name, suite.edition, items_of(suite), shown)
        sides.append({row.entrant: row for row in board.rows})
    before, after = sides
    return tuple(
        StandingChange(name, before[name].score, after[name].score, before[name].rank, after[name].rank)
        for name in after
        if name in before and (before[name].score, before[name].rank) != (after[name].score, after[name].rank)
    )


def _results(done: Sequence[Portion], side: str) -> Iterator[Result]:
    """Yield the results of an entrant's portions, as they were `before` or are `after`."""
    for portion in done:
        marks = portion.before if side == "before" else portion.after
        for question, trial, outcome, (score, verdict) in zip(
            portion.questions, portion.trials, portion.outcomes, marks, strict=True
        ):
            yield Result(question, trial, outcome, score, verdict)
