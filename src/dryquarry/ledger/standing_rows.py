"""The replies that standings are made of: few columns, many rows, one entrant after another."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from typing import NamedTuple

from dryquarry.ledger.queries import fill_wanted
from dryquarry.ledger.records import Slot
from dryquarry.ledger.store import Ledger

_ROWS = """
    SELECT wanted.position, replies.trial, coalesce(marks.outcome, replies.outcome), marks.score, marks.verdict,
        replies.seconds, replies.input_tokens, replies.output_tokens, marks.because IS NOT NULL, marks.form_kept,
        marks.sure, marks.answer, replies.received_at
    FROM wanted JOIN replies ON replies.ask_id = wanted.ask_id AND replies.sitter_id = ? AND replies.current = 1
    LEFT JOIN marks ON marks.reply_id = replies.id AND marks.marking_id = wanted.marking_id AND marks.current = 1
"""


class StandingRow(NamedTuple):
    """A current reply as standings see it, with its mark under the present key; `verdict` is None without one.

    A tuple, as a board may be made of a million of them. `position` is the question's place in the suite.
    """

    position: int
    trial: int
    outcome: str
    score: float | None
    verdict: str | None
    seconds: float | None
    input_tokens: int | None
    output_tokens: int | None
    by_person: int
    form_kept: int | None
    sure: int | None
    answer: str | None
    received_at: str


def standing_rows(
    ledger: Ledger, slots: Sequence[Slot], sitter_ids: Sequence[int | None]
) -> Iterator[list[StandingRow]]:
    """Yield for each entrant its current replies to the questions, trials in order; none for one never seen."""
    with ledger.connected() as connection:
        fill_wanted(connection, slots)
        for sitter_id in sitter_ids:
            if sitter_id is None:
                yield []
            else:
                cursor = connection.exec_driver_sql(_ROWS, (sitter_id,)).cursor
                # past SQLAlchemy, whose rows take twice as long to make
                yield [StandingRow._make(row) for row in cursor.fetchall()] if cursor is not None else []
