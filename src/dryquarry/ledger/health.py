"""What is in the ledger, and whether it is whole."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator
from dataclasses import dataclass

import sqlalchemy as sa

from dryquarry.ledger import schema
from dryquarry.ledger.store import Ledger

MOST_TOLD = 20


@dataclass(frozen=True, slots=True)
class LedgerInfo:
    """How much a ledger holds; `unfinished_runs` were killed, or are still going on."""

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


def ledger_info(ledger: Ledger) -> LedgerInfo:
    """Return how much the ledger holds."""
    with ledger.connected() as connection:

        def count(table: sa.Table, *conditions: sa.ColumnElement[bool]) -> int:
            query = sa.select(sa.func.count()).select_from(table).where(*conditions)
            return int(connection.execute(query).scalar() or 0)

        facts = {row.name: row.value for row in connection.execute(sa.select(schema.about))}
        has_editions = sa.inspect(connection).has_table("editions")
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
            editions=count(schema.editions) if has_editions else 0,
        )


def ledger_problems(ledger: Ledger) -> list[str]:
    """Return everything that is wrong in the ledger: the file itself, its references, its digests."""
    with ledger.connected() as connection:
        problems = [*_file_problems(connection), *_dangling(connection), *_wrong_digests(connection)]
    return problems[:MOST_TOLD] + ([f"and {len(problems) - MOST_TOLD} more"] if len(problems) > MOST_TOLD else [])


def _file_problems(connection: sa.Connection) -> Iterator[str]:
    for (said,) in connection.exec_driver_sql(f"PRAGMA integrity_check({MOST_TOLD})"):
        if said != "ok":
            yield f"the file: {said}"


def _dangling(connection: sa.Connection) -> Iterator[str]:
    for table, row, parent, _ in connection.exec_driver_sql("PRAGMA foreign_key_check"):
        yield f"row {row} of {table} refers to a row of {parent} that is not there"


def _wrong_digests(connection: sa.Connection) -> Iterator[str]:
    for table in (schema.asks, schema.markings, schema.sitters):
        for row in connection.execute(sa.select(table)):
            if hashlib.sha256(row.content.encode("utf-8")).hexdigest() != row.digest:
                yield f"row {row.id} of {table.name}: its content is not what its digest {row.digest[:8]} is of"
