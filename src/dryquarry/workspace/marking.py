"""Giving stored replies the marks they lack."""

from __future__ import annotations

from collections.abc import Sequence

from dryquarry.asking.engine import Key, Wanted
from dryquarry.asking.entrants import Entrant
from dryquarry.ledger.queries import sitter_id_of, stored_replies, waiting_replies
from dryquarry.ledger.records import MarkedReply, NewMark, Slot, StoredReply, WaitingReply
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.received import Reply
from dryquarry.marking.values.texts import shortened
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.marks import as_new_mark, mark_again
from dryquarry.workspace.planning import slotted


def mark_waiting(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant]) -> int:
    """Mark every held reply, first and second tries, that has no mark under its question's present key."""
    sitters = [row for _, row in sitter_rows(ledger, entrants)]
    marked = 0
    for questions, slots in slotted(ledger, suite):
        for sitter_id in sitters:
            waiting = {reply.reply_id for reply in waiting_of(ledger, questions, slots, sitter_id, None)}
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


def waiting_of(
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


def sitter_rows(ledger: Ledger, entrants: Sequence[Entrant]) -> list[tuple[Entrant, int]]:
    """Return the entrants that the ledger knows, each with the row of its settings."""
    rows = ((entrant, sitter_id_of(ledger, entrant.digest)) for entrant in entrants)
    return [(entrant, row) for entrant, row in rows if row is not None]
