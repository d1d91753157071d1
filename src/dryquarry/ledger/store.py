"""Putting things into the ledger, each call one transaction."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from pathlib import Path
from typing import Any

import sqlalchemy as sa

from dryquarry.errors import FileFault
from dryquarry.ledger import connection as opening
from dryquarry.ledger import rows, schema
from dryquarry.ledger.records import MarkedReply, NewMark
from dryquarry.ledger.rows import ids_of, note, now_utc
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Judged
from dryquarry.suites.digests import canonical_json
from dryquarry.suites.question import Question


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
        return cls(opening.open_for_reading(path, tool_version), path, tool_version)

    @classmethod
    def empty(cls, path: Path, tool_version: str) -> Ledger:
        """Return a ledger in memory that holds nothing, in place of one that is not there yet."""
        return cls(opening.open_empty(tool_version), path, tool_version)

    def close(self) -> None:
        """Close all connections."""
        self.engine.dispose()

    @contextmanager
    def connected(self) -> Iterator[sa.Connection]:
        """Give a connection inside one transaction, with errors as FileFault."""
        with opening.translated(self.path), self.engine.begin() as connection:
            yield connection

    def note_asks(self, asks: Mapping[str, Mapping[str, Any]]) -> dict[str, int]:
        """Store what reaches a model, by ask digest, as far as it is not known yet; return their rows."""
        with self.connected() as connection:
            note(connection, schema.asks, {digest: canonical_json(dict(one)) for digest, one in asks.items()})
            return ids_of(connection, schema.asks, list(asks))

    def note_questions(self, questions: Sequence[Question]) -> None:
        """Store what the questions ask and how they are marked, as far as it is not known yet."""
        asked, marked = {}, {}
        for one in questions:
            ask_text, mark_text = one.canonical_texts()
            asked[one.ask_digest], marked[one.mark_digest] = ask_text, mark_text
        with self.connected() as connection:
            note(connection, schema.asks, asked)
            note(connection, schema.markings, marked)

    def note_sitter(self, digest: str, content: Mapping[str, Any]) -> int:
        """Store an entrant's or judge's settings under their digest, and return their row."""
        with self.connected() as connection:
            note(connection, schema.sitters, {digest: canonical_json(dict(content))})
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

    def begin_sitting(
        self,
        run_id: int,
        sitter_id: int,
        entrant: str,
        endpoint: str | None,
        settings: Mapping[str, Any] | None = None,
        fresh_since: str | None = None,
    ) -> int:
        """Note that an entrant takes part in a run, with all its settings; return the sitting's row.

        `fresh_since` is set where all is asked anew: only replies since then count as held for that.
        """
        row = {
            "run_id": run_id,
            "sitter_id": sitter_id,
            "entrant": entrant,
            "endpoint": endpoint,
            "settings": canonical_json(dict(settings)) if settings is not None else None,
            "started_at": now_utc(),
            "fresh_since": fresh_since,
        }
        return self._insert_one(schema.sittings, row)

    def end_sitting(self, sitting_id: int) -> None:
        """Note that an entrant's part of a run came to its end."""
        table = schema.sittings
        with self.connected() as connection:
            connection.execute(sa.update(table).where(table.c.id == sitting_id).values(ended_at=now_utc()))

    def end_run(self, run_id: int) -> None:
        """Note that a run came to its end."""
        with self.connected() as connection:
            connection.execute(sa.update(schema.runs).where(schema.runs.c.id == run_id).values(ended_at=now_utc()))

    def record_replies(
        self, sitting_id: int, sitter_id: int, marked: Sequence[MarkedReply], *, replacing: bool = True
    ) -> list[int]:
        """Store replies with their marks, all or none; return the replies' rows.

        Each takes the place of an earlier one to the same question and trial, but one that failed never that of one
        that did not; `replacing` False says that there is none.
        """
        now = now_utc()
        with self.connected() as connection:
            # From the start as the only writer: the new rows are numbered from the last one there is.
            connection.exec_driver_sql("BEGIN IMMEDIATE")
            kept = self._make_place(connection, sitter_id, marked) if replacing else frozenset()
            last = connection.execute(sa.select(sa.func.max(schema.replies.c.id))).scalar() or 0
            reply_ids = list(range(last + 1, last + 1 + len(marked)))
            numbered = list(zip(reply_ids, marked, strict=True))
            new_replies = [
                rows.reply_row(one.reply, row, sitting_id, sitter_id, current=number not in kept)
                for number, (row, one) in enumerate(numbered)
            ]
            rows.insert_rows(connection, schema.replies, new_replies)
            marks = [NewMark(row, marking_id, mark) for row, one in numbered for marking_id, mark in one.marks]
            self._insert_marks(connection, marks, now)
        return reply_ids

    def _make_place(self, connection: sa.Connection, sitter_id: int, marked: Sequence[MarkedReply]) -> frozenset[int]:
        """Make earlier replies give place to these; return the numbers of those for which none does."""
        places = [
            {"old_ask_id": one.reply.ask_id, "old_sitter_id": sitter_id, "old_trial": one.reply.trial} for one in marked
        ]
        kept = frozenset(
            number
            for number, one in enumerate(marked)
            if one.reply.received.outcome is Outcome.FAILED
            and connection.execute(rows.GOOD_REPLY, places[number]).first() is not None
        )
        places = [place for number, place in enumerate(places) if number not in kept]
        if places:
            connection.execute(rows.REPLACED_REPLY, places)
        return kept

    def record_marks(self, new_marks: Sequence[NewMark], taken_back: Sequence[tuple[int, str]] = ()) -> None:
        """Store marks; each takes the place of the current one of its reply under the same key.

        `taken_back` are replies with the reason for which a person set their mark: what was set for it is no longer
        current under any key, for it was carried from key to key.
        """
        if not new_marks:
            return
        places = [
            {"old_reply_id": mark.reply_id, "old_marking_id": mark.marking_id, "why": mark.superseding}
            for mark in new_marks
        ]
        with self.connected() as connection:
            if taken_back:
                by_reason = [{"old_reply_id": reply_id, "old_because": because} for reply_id, because in taken_back]
                connection.execute(rows.TAKEN_BACK, by_reason)
            connection.execute(rows.REPLACED_MARK, places)
            self._insert_marks(connection, new_marks, now_utc())

    def void_question(self, suite: str, question: str, marking_id: int, because: str) -> None:
        """Note that a question counts for nobody as long as it is marked in this way."""
        row = {"suite": suite, "question": question, "marking_id": marking_id, "because": because, "since": now_utc()}
        self._insert_one(schema.voids, row)

    def take_back_void(self, suite: str, question: str) -> bool:
        """Let a void question count again; tell whether it was void."""
        table = schema.voids
        void = (table.c.suite == suite, table.c.question == question, table.c.taken_back_at.is_(None))
        with self.connected() as connection:
            done = connection.execute(sa.update(table).where(*void).values(taken_back_at=now_utc()))
            return done.rowcount > 0

    def record_verdict(self, judge_id: int, judge: str, judged: Judged) -> None:
        """Store what a judge said of a reply."""
        self._insert_one(schema.verdicts, rows.verdict_row(judge_id, judge, judged))

    def _insert_marks(self, connection: sa.Connection, new_marks: Sequence[NewMark], now: str) -> None:
        rows.insert_rows(connection, schema.marks, [rows.mark_row(mark, now, self.tool_version) for mark in new_marks])

    def _insert_one(self, table: sa.Table, row: Mapping[str, Any]) -> int:
        with self.connected() as connection:
            stored = {name: rows.storable(value) for name, value in row.items()}
            key = connection.execute(sa.insert(table), stored).inserted_primary_key
            assert key is not None
            return int(key[0])
