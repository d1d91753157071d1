"""What is in the ledger."""

from __future__ import annotations

from dataclasses import dataclass

import sqlalchemy as sa

from dryquarry.ledger import schema
from dryquarry.ledger.seals import ledger_seal
from dryquarry.ledger.store import Ledger


@dataclass(frozen=True, slots=True)
class LedgerInfo:
    """How much a ledger holds; `unfinished_runs` were killed, or are still going on.

    `seal` changes with anything that is stored: where it was noted, it tells later whether the ledger is the same.
    """

    path: str
    schema_number: str
    made_by: str
    size_bytes: int
    runs: int
    unfinished_runs: int
    entrants: int
    replies: int
    current_replies: int
    marks: int
    current_marks: int
    verdicts: int
    editions: int
    seal: str


def ledger_info(ledger: Ledger) -> LedgerInfo:
    """Return how much the ledger holds."""
    with ledger.connected() as connection:

        def count(table: sa.Table, *conditions: sa.ColumnElement[bool]) -> int:
            query = sa.select(sa.func.count()).select_from(table).where(*conditions)
            return int(connection.execute(query).scalar() or 0)

        facts = {row.name: row.value for row in connection.execute(sa.select(schema.about))}
        return LedgerInfo(
            path=str(ledger.path),
            schema_number=facts.get("schema", ""),
            made_by=facts.get("made_by", ""),
            size_bytes=ledger.path.stat().st_size,
            runs=count(schema.runs),
            unfinished_runs=count(schema.runs, schema.runs.c.ended_at.is_(None)),
            entrants=count(schema.sitters),
            replies=count(schema.replies),
            current_replies=count(schema.replies, schema.replies.c.current),
            marks=count(schema.marks),
            current_marks=count(schema.marks, schema.marks.c.current),
            verdicts=count(schema.verdicts),
            editions=count(schema.editions),
            seal=ledger_seal(connection),
        )
