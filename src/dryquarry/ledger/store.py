"""Putting things into the ledger, each call one transaction."""

from __future__ import annotations

import json
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from datetime import UTC, datetime
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from dryquarry.errors import FileFault
from dryquarry.ledger import connection as opening
from dryquarry.ledger import schema
from dryquarry.ledger.records import Judged, NewMark, Reply
from dryquarry.suites.digests import ask_content, canonical_json, mark_content
from dryquarry.suites.question import Question

IN_ONE_QUERY = 500


class Ledger:
    """An open ledger. `Ledger.write` and `Ledger.read` open one; `close` it when done."""

    def __init__(self, engine: sa.Engine, path: Path, tool_version: str):
        self.engine = engine
        self.path = path
        self.tool_version = tool_version

    @classmethod
    def write(cls, path: Path, tool_version: str) -> Ledger:
        """Open the ledger for writing, making it if absent; raises FileFault."""
        return cls(opening.open_for_writing(path, tool_version), path, tool_version)

    @classmethod
    def read(cls, path: Path, tool_version: str) -> Ledger:
        """Open an existing ledger for reading only; raises FileFault."""
        return cls(opening.open_for_reading(path), path, tool_version)

    def close(self) -> None:
        """Close all connections."""
        self.engine.dispose()

    @contextmanager
    def connected(self) -> Iterator[sa.Connection]:
        """Give a connection inside one transaction, with errors as FileFault."""
        with opening.translated(self.path), self.engine.begin() as connection:
            yield connection

    def note_questions(self, questions: Sequence[Question]) -> None:
        """Store what the questions ask and how they are marked, as far as it is not known yet."""
        asked = {one.ask_digest: lambda one=one: ask_content(one.ask) for one in questions}
        marked = {one.mark_digest: lambda one=one: mark_content(one.marking) for one in questions}
        with self.connected() as connection:
            _note(connection, schema.asks, asked)
            _note(connection, schema.markings, marked)

    def note_sitter(self, digest: str, content: Mapping[str, Any]) -> int:
        """Store an entrant's or judge's settings under their digest, and return their row."""
        with self.connected() as connection:
            _note(connection, schema.sitters, {digest: lambda: content})
            return ids_of(connection, schema.sitters, [digest])[digest]

    def note_edition(self, suite: str, number: int, digest: str, content: str) -> None:
        """Keep a copy of a sealed edition; raises FileFault when another content has run under its number."""
        row = {"suite": suite, "number": number, "digest": digest, "content": content, "noted_at": now_utc()}
        table = schema.editions
        with self.connected() as connection:
            query = sa.select(table.c.digest).where(table.c.suite == suite, table.c.number == number)
            known = connection.execute(query).scalar()
            if known is None:
                connection.execute(sa.insert(table), row)
        if known not in (None, digest):
            raise FileFault(
                f"{suite}@{number} is not the edition that was run here under this number "
                f"(digest {digest[:8]}, in the ledger {known[:8]}); seal it under a new number"
            )

    def begin_run(self, suite: str, edition: str) -> int:
        """Note that a run begins, and return its row."""
        row = {"suite": suite, "edition": edition, "started_at": now_utc(), "tool_version": self.tool_version}
        return self._insert_one(schema.runs, row)

    def begin_sitting(self, run_id: int, sitter_id: int, entrant: str, endpoint: str | None) -> int:
        """Note that an entrant takes part in a run, and return the sitting's row."""
        row = {"run_id": run_id, "sitter_id": sitter_id, "entrant": entrant, "endpoint": endpoint}
        return self._insert_one(schema.sittings, row)

    def end_run(self, run_id: int) -> None:
        """Note that a run came to its end."""
        with self.connected() as connection:
            connection.execute(sa.update(schema.runs).where(schema.runs.c.id == run_id).values(ended_at=now_utc()))

    def record_replies(self, sitting_id: int, sitter_id: int, replies: Sequence[Reply]) -> list[int]:
        """Store replies, each in place of an earlier one to the same question and trial; returns their rows."""
        table = schema.replies
        with self.connected() as connection:
            ask_ids = ids_of(connection, schema.asks, [reply.ask_digest for reply in replies])
            rows = [_reply_row(reply, ask_ids[reply.ask_digest], sitting_id, sitter_id) for reply in replies]
            places = [{"a": row["ask_id"], "s": sitter_id, "t": row["trial"]} for row in rows]
            connection.execute(
                sa.update(table)
                .where(
                    table.c.ask_id == sa.bindparam("a"),
                    table.c.sitter_id == sa.bindparam("s"),
                    table.c.trial == sa.bindparam("t"),
                    table.c.current,
                )
                .values(current=False),
                places,
            )
            # One writer at a time, so the rows of one insert follow one another.
            last = connection.execute(sa.select(sa.func.max(table.c.id))).scalar() or 0
            for row, reply_id in zip(rows, range(last + 1, last + 1 + len(rows)), strict=True):
                row["id"] = reply_id
            connection.execute(sa.insert(table), rows)
            return [row["id"] for row in rows]

    def record_marks(self, new_marks: Sequence[NewMark], *, first: bool = False) -> None:
        """Store marks; each takes the place of the current one of its reply under the same key.

        `first` says that the replies are new, so that there is none to replace.
        """
        if not new_marks:
            return
        table, now = schema.marks, now_utc()
        rows = [
            {
                "reply_id": mark.reply_id,
                "marking_id": mark.marking_id,
                "current": True,
                "score": mark.score,
                "verdict": str(mark.verdict),
                "reason": mark.reason,
                "answer": mark.answer,
                "read_by": mark.read_by,
                "marked_at": now,
                "tool_version": self.tool_version,
            }
            for mark in new_marks
        ]
        with self.connected() as connection:
            if not first:
                connection.execute(
                    sa.update(table)
                    .where(
                        table.c.reply_id == sa.bindparam("r"),
                        table.c.marking_id == sa.bindparam("m"),
                        table.c.current,
                    )
                    .values(current=False),
                    [{"r": mark.reply_id, "m": mark.marking_id} for mark in new_marks],
                )
            connection.execute(sa.insert(table), rows)

    def record_verdict(self, judge_id: int, judge: str, judged: Judged) -> None:
        """Store what a judge said of a reply."""
        points = None
        if judged.points is not None:
            points = json.dumps([[one.criterion, one.points, one.why] for one in judged.points])
        row = {
            "reply_id": judged.reply_id,
            "marking_id": judged.marking_id,
            "judge_id": judge_id,
            "judge": judge,
            "text": judged.received.text,
            "points": points,
            "problem": judged.problem,
            "attempts": judged.attempts,
            "seconds": judged.seconds,
            "input_tokens": judged.received.input_tokens,
            "output_tokens": judged.received.output_tokens,
            "received_at": now_utc(),
        }
        self._insert_one(schema.verdicts, row)

    def _insert_one(self, table: sa.Table, row: Mapping[str, Any]) -> int:
        with self.connected() as connection:
            key = connection.execute(sa.insert(table), dict(row)).inserted_primary_key
            assert key is not None
            return int(key[0])


def now_utc() -> str:
    """Return the time as ISO 8601 in UTC."""
    return datetime.now(UTC).isoformat(timespec="milliseconds")


def ids_of(connection: sa.Connection, table: sa.Table, digests: Sequence[str]) -> dict[str, int]:
    """Return the row of each digest that the table knows."""
    found: dict[str, int] = {}
    wanted = list(dict.fromkeys(digests))
    for start in range(0, len(wanted), IN_ONE_QUERY):
        part = wanted[start : start + IN_ONE_QUERY]
        query = sa.select(table.c.digest, table.c.id).where(table.c.digest.in_(part))
        found.update((digest, row) for digest, row in connection.execute(query))
    return found


def _note(connection: sa.Connection, table: sa.Table, contents: Mapping[str, Callable[[], Mapping[str, Any]]]) -> None:
    missing = contents.keys() - ids_of(connection, table, list(contents)).keys()
    rows = [{"digest": digest, "content": canonical_json(contents[digest]())} for digest in sorted(missing)]
    if rows:
        connection.execute(sa.insert(table).prefix_with("OR IGNORE"), rows)


def _reply_row(reply: Reply, ask_id: int, sitting_id: int, sitter_id: int) -> dict[str, Any]:
    received = reply.received
    return {
        "ask_id": ask_id,
        "sitter_id": sitter_id,
        "trial": reply.trial,
        "sitting_id": sitting_id,
        "current": True,
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
        "tries": reply.tries,
        "earlier_turns": json.dumps(received.earlier_turns) if received.earlier_turns else None,
        "first_token_s": reply.first_token_s,
        "received_at": reply.received_at,
    }
