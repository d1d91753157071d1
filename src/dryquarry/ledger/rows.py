"""From records to the rows of the ledger's tables, and putting many rows in at once."""

from __future__ import annotations

import json
import math
from collections.abc import Iterator, Mapping, Sequence
from datetime import UTC, datetime
from functools import lru_cache
from typing import Any

import sqlalchemy as sa

from dryquarry.ledger.records import NewMark
from dryquarry.marking.received import Judged, Reply
from dryquarry.marking.values.texts import storable_text

IN_ONE_QUERY = 500
# So many digests are quicker found by reading the whole table, where it has not many times as many rows.
READ_WHOLE_FROM, MOST_ROWS_FOR_ONE = 2_000, 5


def now_utc() -> str:
    """Return the time as ISO 8601 in UTC."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def in_groups(values: Sequence[Any]) -> Iterator[tuple[str, tuple[Any, ...]]]:
    """Yield values in groups small enough for one statement, each with its placeholders.

    Written out for the driver: a list of values in a statement of SQLAlchemy takes ten times as long.
    """
    for start in range(0, len(values), IN_ONE_QUERY):
        part = tuple(values[start : start + IN_ONE_QUERY])
        yield ", ".join("?" * len(part)), part


def ids_of(connection: sa.Connection, table: sa.Table, digests: Sequence[str]) -> dict[str, int]:
    """Return the row of each digest that the table knows."""
    found: dict[str, int] = {}
    wanted = dict.fromkeys(digests)
    if len(wanted) > READ_WHOLE_FROM and _rows_at_most(connection, table) < MOST_ROWS_FOR_ONE * len(wanted):
        every = connection.exec_driver_sql(f"SELECT digest, id FROM {table.name}").all()
        return {digest: row for digest, row in every if digest in wanted}
    for places, part in in_groups(list(wanted)):
        text = f"SELECT digest, id FROM {table.name} WHERE digest IN ({places})"
        found.update((digest, row) for digest, row in connection.exec_driver_sql(text, part).all())
    return found


def _rows_at_most(connection: sa.Connection, table: sa.Table) -> int:
    return int(connection.exec_driver_sql(f"SELECT max(id) FROM {table.name}").scalar() or 0)


def insert_rows(connection: sa.Connection, table: sa.Table, rows: Sequence[Mapping[str, Any]]) -> None:
    """Insert rows that have the same columns and are storable.

    Past the statement itself the driver is used directly, for speed.
    """
    if not rows:
        return
    text, names = _insert_text(table, tuple(rows[0]), connection.dialect)
    connection.exec_driver_sql(text, [tuple(row[name] for name in names) for row in rows])


def storable(value: Any) -> Any:
    """Return a value as the database can hold it: the one door for what came from outside.

    Halves of characters (lone surrogates) become visible escapes, a number that is beyond 64 bits or none is left out.
    """
    if isinstance(value, str):
        return storable_text(value)
    if isinstance(value, int) and not -(2**63) <= value < 2**63:
        return None
    return None if isinstance(value, float) and not math.isfinite(value) else value


@lru_cache(maxsize=64)
def _insert_text(table: sa.Table, names: tuple[str, ...], dialect: sa.Dialect) -> tuple[str, tuple[str, ...]]:
    compiled = sa.insert(table).compile(dialect=dialect, column_keys=list(names))
    return str(compiled), tuple(getattr(compiled, "positiontup", None) or names)


def reply_row(reply: Reply, sitting_id: int, sitter_id: int, *, current: bool = True) -> dict[str, Any]:
    """Return a reply's row."""
    received = reply.received
    return {
        "ask_id": reply.ask_id,
        "sitter_id": sitter_id,
        "trial": reply.trial,
        "sitting_id": sitting_id,
        "current": current,
        "outcome": str(received.outcome),
        "text": received.text,
        "reasoning": received.reasoning,
        "finish": received.finish,
        "cause": received.cause,
        "seconds": reply.seconds,
        "input_tokens": received.input_tokens,
        "output_tokens": received.output_tokens,
        "served_model": received.served_model,
        "tokens_estimated": received.tokens_estimated,
        "fingerprint": received.fingerprint,
        "tries": reply.tries,
        "earlier_turns": json.dumps(received.earlier_turns) if received.earlier_turns else None,
        "first_token_s": reply.first_token_s,
        "received_at": reply.received_at,
        "follows": reply.follows,
    }


def mark_row(new: NewMark, marked_at: str, tool_version: str) -> dict[str, Any]:
    """Return a current mark's row."""
    mark = new.mark
    return {
        "reply_id": new.reply_id,
        "marking_id": new.marking_id,
        "current": True,
        "score": mark.score,
        "verdict": str(mark.verdict),
        "reason": mark.reason,
        "answer": mark.answer,
        "read_by": mark.read_by,
        "answer_start": mark.start,
        "answer_end": mark.end,
        "rule": mark.rule,
        "form_kept": mark.form_kept,
        "sure": mark.sure,
        "unsure_because": mark.unsure_because,
        "marked_by": mark.by,
        "because": mark.because,
        "outcome": mark.outcome,
        "marked_at": marked_at,
        "tool_version": tool_version,
    }


def verdict_row(judge_id: int, judge: str, judged: Judged) -> dict[str, Any]:
    """Return the row of what a judge said of a reply."""
    points = None
    if judged.points is not None:
        points = json.dumps(
            [[one.criterion, one.points, one.why, one.evidence, one.supported] for one in judged.points],
            ensure_ascii=False,
        )
    return {
        "reply_id": judged.reply_id,
        "marking_id": judged.marking_id,
        "judge_id": judge_id,
        "judge": judge,
        "text": judged.text,
        "points": points,
        "problem": judged.problem,
        "attempts": judged.attempts,
        "seconds": judged.seconds,
        "input_tokens": judged.input_tokens,
        "output_tokens": judged.output_tokens,
        "received_at": now_utc(),
        "time": judged.time,
        "request_digest": judged.request_digest,
        "request": judged.request or None,
        "steering": json.dumps(judged.steering) if judged.steering else None,
        "again": judged.again,
    }
