"""Votes between two replies, as the ledger holds them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import sqlalchemy as sa

from dryquarry.ledger import schema
from dryquarry.ledger.rows import now_utc
from dryquarry.ledger.store import Ledger


@dataclass(frozen=True, slots=True)
class StoredVote:
    """A vote on the reply shown first and the one shown second; `row` is 0 before it is stored."""

    ask_id: int
    first_id: int
    second_id: int
    choice: str
    by: str
    by_judge: bool
    order_known: bool = True
    because: str | None = None
    seconds: float | None = None
    cost: float | None = None
    row: int = 0


def record_votes(ledger: Ledger, suite: str, edition: str, votes: Sequence[StoredVote]) -> list[int]:
    """Store votes, and return their rows."""
    now = now_utc()
    rows = [
        {
            "suite": suite,
            "edition": edition,
            "ask_id": one.ask_id,
            "first_id": one.first_id,
            "second_id": one.second_id,
            "choice": one.choice,
            "by": one.by,
            "by_judge": one.by_judge,
            "order_known": one.order_known,
            "because": one.because,
            "seconds": one.seconds,
            "cost": one.cost,
            "voted_at": now,
        }
        for one in votes
    ]
    with ledger.writing() as writing:
        return writing.insert(schema.votes, rows)


def take_back_vote(ledger: Ledger, row: int) -> None:
    """Note that a vote stands no longer."""
    with ledger.writing() as writing:
        writing.change_where(schema.votes, {"taken_back_at": now_utc()}, schema.votes.c.id == row)


def votes_on(ledger: Ledger, suite: str) -> list[StoredVote]:
    """Return the standing votes of a suite, of all its editions, in the order in which they came."""
    table = schema.votes
    query = sa.select(table).where(table.c.suite == suite, table.c.taken_back_at.is_(None)).order_by(table.c.id)
    with ledger.connected() as connection:
        return [
            StoredVote(
                row.ask_id,
                row.first_id,
                row.second_id,
                row.choice,
                row.by,
                bool(row.by_judge),
                bool(row.order_known),
                row.because,
                row.seconds,
                row.cost,
                row.id,
            )
            for row in connection.execute(query)
        ]
