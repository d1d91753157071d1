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
from dryquarry.ledger.rows import ids_of, now_utc
from dryquarry.ledger.writing import Writing, begun
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Judged
from dryquarry.suites.digests import canonical_json
from dryquarry.suites.question import Question

_TAKEN_BACK = "taken back"


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

    @contextmanager
    def writing(self) -> Iterator[Writing]:
        """Give what changes the ledger, inside one transaction, with errors as FileFault."""
        with self.connected() as connection, begun(connection) as writing:
            yield writing

    def note_asks(self, asks: Mapping[str, Mapping[str, Any]]) -> dict[str, int]:
        """Store what reaches a model, by ask digest, as far as it is not known yet; return their rows."""
        return self._note(schema.asks, {digest: canonical_json(dict(one)) for digest, one in asks.items()})

    def note_questions(self, questions: Sequence[Question]) -> None:
        """Store what the questions ask and how they are marked, as far as it is not known yet."""
        asked, marked = {}, {}
        for one in questions:
            ask_text, mark_text = one.canonical_texts()
            asked[one.ask_digest], marked[one.mark_digest] = ask_text, mark_text
        self._note(schema.asks, asked)
        self._note(schema.markings, marked)

    def note_sitter(self, digest: str, content: Mapping[str, Any]) -> int:
        """Store an entrant's or judge's settings under their digest, and return their row."""
        return self._note(schema.sitters, {digest: canonical_json(dict(content))})[digest]

    def _note(self, table: sa.Table, contents: Mapping[str, str]) -> dict[str, int]:
        """Store the contents (canonical JSON) that a table does not know yet, by digest; return the rows of all."""
        with self.connected() as connection:
            known = ids_of(connection, table, list(contents))
        if known.keys() >= contents.keys():
            return known
        with self.writing() as writing:
            known = ids_of(writing.connection, table, list(contents))
            missing = sorted(contents.keys() - known.keys())
            numbers = writing.insert(table, [{"digest": digest, "content": contents[digest]} for digest in missing])
        return known | dict(zip(missing, numbers, strict=True))

    def note_edition(self, suite: str, number: int, digest: str, content: str) -> None:
        """Keep a copy of a sealed edition; raises FileFault when another content has run under its number."""
        row = {"suite": suite, "number": number, "digest": digest, "content": content, "noted_at": now_utc()}
        table = schema.editions
        with self.writing() as writing:
            query = sa.select(table.c.digest).where(table.c.suite == suite, table.c.number == number)
            known = writing.connection.execute(query).scalar()
            if known is None:
                writing.insert(table, [row])
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
        with self.writing() as writing:
            writing.change_where(schema.sittings, {"ended_at": now_utc()}, schema.sittings.c.id == sitting_id)

    def end_run(self, run_id: int) -> None:
        """Note that a run came to its end."""
        with self.writing() as writing:
            writing.change_where(schema.runs, {"ended_at": now_utc()}, schema.runs.c.id == run_id)

    def record_replies(
        self, sitting_id: int, sitter_id: int, marked: Sequence[MarkedReply], *, replacing: bool = True
    ) -> list[int]:
        """Store replies with their marks, all or none; return the replies' rows.

        Each takes the place of an earlier one to the same question and trial, but one that failed never that of one
        that did not; `replacing` False says that there is none.
        """
        now = now_utc()
        with self.writing() as writing:
            displaced_by_none = _make_place(writing, sitter_id, marked) if replacing else frozenset()
            new_replies = [
                rows.reply_row(one.reply, sitting_id, sitter_id, current=number not in displaced_by_none)
                for number, one in enumerate(marked)
            ]
            reply_ids = writing.insert(schema.replies, new_replies)
            marks = [
                NewMark(row, marking_id, mark)
                for row, one in zip(reply_ids, marked, strict=True)
                for marking_id, mark in one.marks
            ]
            self._insert_marks(writing, marks, now)
        return reply_ids

    def record_marks(self, new_marks: Sequence[NewMark], taken_back: Sequence[tuple[int, str]] = ()) -> None:
        """Store marks; each takes the place of the current one of its reply under the same key.

        `taken_back` are replies with the reason for which a person set their mark: what was set for it is no longer
        current under any key, for it was carried from key to key.
        """
        if not new_marks:
            return
        back_by_hand = set(taken_back)
        superseding = {(mark.reply_id, mark.marking_id): mark.superseding for mark in new_marks}
        with self.writing() as writing:
            old, changes = [], []
            for row in writing.current(schema.marks, "reply_id", [mark.reply_id for mark in new_marks]):
                place = (row["reply_id"], row["marking_id"])
                back = (row["reply_id"], row["because"]) in back_by_hand
                if back or place in superseding:
                    why = _TAKEN_BACK if back else superseding[place]
                    old.append(row)
                    changes.append({"current": False, "superseded_because": why})
            writing.change(schema.marks, old, changes)
            self._insert_marks(writing, new_marks, now_utc())

    def void_question(self, suite: str, question: str, marking_id: int, because: str) -> None:
        """Note that a question counts for nobody as long as it is marked in this way."""
        row = {"suite": suite, "question": question, "marking_id": marking_id, "because": because, "since": now_utc()}
        self._insert_one(schema.voids, row)

    def take_back_void(self, suite: str, question: str) -> bool:
        """Let a void question count again; tell whether it was void."""
        table = schema.voids
        void = (table.c.suite == suite, table.c.question == question, table.c.taken_back_at.is_(None))
        with self.writing() as writing:
            return writing.change_where(table, {"taken_back_at": now_utc()}, *void) > 0

    def record_verdict(self, judge_id: int, judge: str, judged: Judged) -> None:
        """Store what a judge said of a reply."""
        self._insert_one(schema.verdicts, rows.verdict_row(judge_id, judge, judged))

    def _insert_marks(self, writing: Writing, new_marks: Sequence[NewMark], now: str) -> None:
        writing.insert(schema.marks, [rows.mark_row(mark, now, self.tool_version) for mark in new_marks])

    def _insert_one(self, table: sa.Table, row: Mapping[str, Any]) -> int:
        with self.writing() as writing:
            return writing.insert(table, [row])[0]


def _make_place(writing: Writing, sitter_id: int, marked: Sequence[MarkedReply]) -> frozenset[int]:
    """Make earlier replies give place to these; return the numbers of those for which none does."""
    numbers = {(one.reply.ask_id, one.reply.trial): number for number, one in enumerate(marked)}
    kept, old = set(), []
    asks = [one.reply.ask_id for one in marked]
    for row in writing.current(schema.replies, "ask_id", asks, sitter_id=sitter_id):
        number = numbers.get((row["ask_id"], row["trial"]))
        if number is None:
            continue
        failed = marked[number].reply.received.outcome is Outcome.FAILED
        if failed and row["outcome"] != str(Outcome.FAILED):
            kept.add(number)
        else:
            old.append(row)
    writing.change(schema.replies, old, [{"current": False}] * len(old))
    return frozenset(kept)
