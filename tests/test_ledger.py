"""The ledger: what is stored comes back, replies and marks take each other's place, faults are told."""

from __future__ import annotations

import sqlite3
from contextlib import closing
from pathlib import Path

import pytest
import sqlalchemy as sa
from hypothesis import HealthCheck, given, settings
from hypothesis import strategies as st

from conftest import Place, arithmetic_suite, completion
from dryquarry.errors import FileFault
from dryquarry.ledger import connection as opening
from dryquarry.ledger import schema
from dryquarry.ledger.checking import ledger_problems
from dryquarry.ledger.health import ledger_info
from dryquarry.ledger.migrations import STEPS
from dryquarry.ledger.queries import full_replies, sitter_id_of, slots_of, waiting_replies
from dryquarry.ledger.records import MarkedReply, NewMark
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Received, Reply
from dryquarry.suites.reader import SuiteContent, read_suite

TEXT = b"title: t\nmark: {scheme: number}\nquestions: [{id: a, ask: A, key: 1}, {id: b, ask: B, key: 2}]"
SUITE = read_suite(SuiteContent("s", (("f", TEXT),))).suite
assert SUITE is not None
QUESTIONS = SUITE.questions
DIGEST = "e" * 64


def reply(place: int, received: Received) -> MarkedReply:
    # In a new ledger the first question noted has the row 1.
    ask_id = 1 + sorted(one.ask_digest for one in QUESTIONS).index(QUESTIONS[place].ask_digest)
    return MarkedReply(Reply(ask_id, 1, received, 0.5, "2026-11-23T08:00:00.000+00:00"))


def held_replies(ledger: Ledger, slots: list, sitter_id: int) -> list:
    return [one.held for one in full_replies(ledger, slots, sitter_id)]


def filled(path: Path) -> tuple[Ledger, int, int]:
    ledger = Ledger.write(path, "1.0")
    ledger.note_questions(QUESTIONS)
    sitter_id = ledger.note_sitter(DIGEST, {"model": "m"})
    sitting_id = ledger.begin_sitting(ledger.begin_run("s", "draft"), sitter_id, "knot", None)
    return ledger, sitter_id, sitting_id


texts = st.text(st.characters(exclude_categories=["Cs"]), max_size=60)


@settings(max_examples=25, suppress_health_check=[HealthCheck.function_scoped_fixture])
@given(texts, st.none() | texts, st.sampled_from(Outcome), st.none() | st.integers(0, 10**9))
def test_a_reply_comes_back_as_it_was(
    tmp_path_factory: pytest.TempPathFactory,
    text: str,
    reasoning: str | None,
    outcome: Outcome,
    tokens: int | None,
) -> None:
    ledger, sitter_id, sitting_id = filled(tmp_path_factory.mktemp("l") / "ledger.db")
    received = Received(outcome, text, reasoning, "stop", "why", tokens, tokens, "served")
    ledger.record_replies(sitting_id, sitter_id, [reply(1, received)])
    (got,) = full_replies(ledger, slots_of(ledger, QUESTIONS), sitter_id)
    assert (got.text, got.reasoning, got.cause, got.served_model) == (text, reasoning, "why", "served")
    assert (got.held.position, got.held.outcome, got.held.output_tokens) == (1, outcome, tokens)
    ledger.close()


def test_a_later_reply_takes_the_place_of_a_failed_one_and_both_are_kept(tmp_path: Path) -> None:
    ledger, sitter_id, sitting_id = filled(tmp_path / "ledger.db")
    ledger.record_replies(sitting_id, sitter_id, [reply(0, Received(Outcome.FAILED, cause="reset"))])
    ledger.record_replies(sitting_id, sitter_id, [reply(0, Received(Outcome.ANSWERED, "1"))])
    (held,) = held_replies(ledger, slots_of(ledger, QUESTIONS), sitter_id)
    assert held.outcome is Outcome.ANSWERED
    rows = sqlite3.connect(ledger.path).execute("SELECT outcome, current FROM replies ORDER BY id").fetchall()
    assert rows == [("failed", 0), ("answered", 1)]


def test_a_new_mark_supersedes_the_old_one_and_never_deletes_it(tmp_path: Path) -> None:
    ledger, sitter_id, sitting_id = filled(tmp_path / "ledger.db")
    ledger.record_replies(sitting_id, sitter_id, [reply(0, Received(Outcome.ANSWERED, "1"))])
    slots = slots_of(ledger, QUESTIONS)
    (waiting,) = waiting_replies(ledger, slots, sitter_id, verdict=None)
    marking_id = slots[0].marking_id or 0
    for score, verdict in ((0.0, Verdict.FAIL), (1.0, Verdict.PASS)):
        ledger.record_marks([NewMark(waiting.reply_id, marking_id, Mark(score, verdict, "reason", "1", "statement"))])
    (held,) = held_replies(ledger, slots, sitter_id)
    assert held.mark == Mark(1.0, Verdict.PASS, "reason", "1", "statement")
    assert waiting_replies(ledger, slots, sitter_id, verdict=None) == []
    assert sqlite3.connect(ledger.path).execute("SELECT count(*) FROM marks").fetchone() == (2,)


def test_two_replies_to_the_same_trial_cannot_both_be_current(tmp_path: Path) -> None:
    ledger, sitter_id, sitting_id = filled(tmp_path / "ledger.db")
    ledger.record_replies(sitting_id, sitter_id, [reply(0, Received(Outcome.ANSWERED, "1"))])
    raw = sqlite3.connect(ledger.path)
    columns = "ask_id, sitter_id, trial, sitting_id, current, outcome, text, received_at"
    with pytest.raises(sqlite3.IntegrityError):
        raw.execute(f"INSERT INTO replies ({columns}) SELECT {columns} FROM replies")


def test_an_unknown_entrant_has_no_replies(tmp_path: Path) -> None:
    ledger, _, _ = filled(tmp_path / "ledger.db")
    assert sitter_id_of(ledger, "f" * 64) is None


def test_a_ledger_is_read_while_nothing_can_be_written(tmp_path: Path) -> None:
    path = tmp_path / "ledger.db"
    ledger, sitter_id, sitting_id = filled(path)
    ledger.record_replies(sitting_id, sitter_id, [reply(0, Received(Outcome.ANSWERED, "1"))])
    ledger.close()
    before = sorted(place.name for place in tmp_path.iterdir())
    reading = Ledger.read(path, "1.0")
    assert len(held_replies(reading, slots_of(reading, QUESTIONS), sitter_id)) == 1
    with pytest.raises(FileFault, match="readonly"):
        reading.note_sitter("a" * 64, {})
    reading.close()
    assert "ledger.db" in before


@pytest.mark.parametrize(
    "content", [b"this is no database at all, but it is long enough to look at" * 20, b"\0" * 4096]
)
def test_a_file_that_is_no_ledger_is_told(tmp_path: Path, content: bytes) -> None:
    path = tmp_path / "ledger.db"
    path.write_bytes(content)
    for way in (Ledger.write, Ledger.read):
        with pytest.raises(FileFault, match="ledger"):
            way(path, "1.0").note_sitter("a" * 64, {})
        assert path.read_bytes() == content


def test_a_ledger_of_another_schema_is_told(tmp_path: Path) -> None:
    path = tmp_path / "ledger.db"
    Ledger.write(path, "1.0").close()
    raw = sqlite3.connect(path)
    raw.execute("UPDATE about SET value = '99' WHERE name = 'schema'")
    raw.commit()
    raw.close()
    with pytest.raises(FileFault, match="has schema 99"):
        Ledger.write(path, "1.0")


def test_a_whole_ledger_is_told_from_a_damaged_one(tmp_path: Path) -> None:
    path = tmp_path / "ledger.db"
    ledger, sitter_id, sitting_id = filled(path)
    ledger.record_replies(sitting_id, sitter_id, [reply(0, Received(Outcome.ANSWERED, "1"))])
    assert [one.what for one in ledger_problems(ledger)] == [
        "row 1 of sitters: its content is not what its digest eeeeeeee is of"
    ]
    info = ledger_info(ledger)
    assert (info.replies, info.runs, info.unfinished_runs, info.schema_number) == (1, 1, 1, str(schema.SCHEMA_NUMBER))
    raw = sqlite3.connect(path)
    raw.execute("UPDATE asks SET content = '{}' WHERE id = 1")
    raw.execute("UPDATE replies SET sitting_id = 99")
    raw.commit()
    raw.close()
    found = [one.what for one in ledger_problems(ledger)]
    assert any("of asks: its content is not" in problem for problem in found)
    assert any("of replies refers to a row of sittings" in problem for problem in found)
    ledger.close()
    content = bytearray(path.read_bytes())
    content[4096 * 3 : 4096 * 3 + 200] = b"\xff" * 200
    path.write_bytes(content)
    for name in ("ledger.db-wal", "ledger.db-shm"):
        (tmp_path / name).unlink(missing_ok=True)
    reading = Ledger.read(path, "1.0")
    try:
        assert ledger_problems(reading)
    except FileFault as fault:
        assert "ledger" in str(fault)  # noqa: PT017 (either way the damage is told)
    reading.close()


def test_a_full_disk_ends_a_run_clearly_and_keeps_what_was_stored(place: Place, service, monkeypatch) -> None:
    one = service(lambda content: (200, completion("word " * 400 + "Answer: 1")))
    place.suite("sums", arithmetic_suite(800))
    place.entrant("knot", one.url)
    limited = opening._prepare_for_writing

    def small(connection, record) -> None:
        limited(connection, record)
        connection.execute("PRAGMA max_page_count = 300")

    monkeypatch.setattr(opening, "_prepare_for_writing", small)
    full = place.run("run", "sums")
    assert (full.exit_code, "make room on the disk; what was stored before is safe" in full.stderr) == (3, True)
    monkeypatch.undo()
    asked = len(one.requests)
    held = len(place.json("replies", "sums"))
    assert 0 < held < 800
    assert "the ledger is whole" in place.run("ledger", "check").stdout
    assert place.run("run", "sums").exit_code == 0
    assert len(one.requests) == asked + 800 - held
    assert len(place.json("replies", "sums")) == 800


def test_a_ledger_of_the_first_schema_is_brought_up_to_date_when_it_is_read(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    place.suite("sums", arithmetic_suite(3))
    place.entrant("knot", one.url)
    assert place.run("run", "sums").exit_code == 0
    before = place.json("board", "sums")
    raw = sqlite3.connect(place.root / ".dryquarry" / "ledger.db")
    raw.executescript(
        "DROP INDEX second_tries; DROP INDEX replies_of_sitting; DROP TABLE editions;"
        "ALTER TABLE sittings DROP COLUMN settings; ALTER TABLE sittings DROP COLUMN started_at;"
        "ALTER TABLE sittings DROP COLUMN ended_at;"
    )
    # `follows` refers to its own table, so it cannot be dropped; the others can.
    for column in ("tokens_estimated", "tries", "earlier_turns", "fingerprint"):
        raw.execute(f"ALTER TABLE replies DROP COLUMN {column}")
    raw.execute("UPDATE about SET value = '1' WHERE name = 'schema'")
    raw.commit()
    raw.close()
    assert place.json("board", "sums") == before
    assert "the ledger is whole" in place.run("ledger", "check").stdout
    (sitting,) = place.json("entrant", "show", "knot")["sittings"]
    assert sitting["replies"] == 3
    assert sitting["started_at"] is not None


@pytest.mark.parametrize("number", range(1, schema.SCHEMA_NUMBER))
def test_a_ledger_of_each_earlier_schema_is_brought_up_to_date_and_loses_nothing(tmp_path: Path, number: int) -> None:
    frozen = Path(__file__).with_name("data") / "ledgers" / f"schema-{number}.sql"
    path = tmp_path / "ledger.db"
    with closing(sqlite3.connect(path)) as old:
        old.executescript(frozen.read_text("utf-8"))
        before = {name: old.execute(f"SELECT count(*) FROM {name}").fetchone() for name in ("replies", "marks", "runs")}
    ledger = Ledger.write(path, "0.0")
    with ledger.connected() as connection:
        marks = connection.execute(sa.select(schema.marks)).all()
    assert [(row.reply_id, row.score, row.answer, row.sure, row.rule) for row in marks] == [
        (1, 1.0, "1", None, None),
        (2, 0.0, "2", None, None),
    ]
    with closing(sqlite3.connect(path)) as new:
        assert before == {name: new.execute(f"SELECT count(*) FROM {name}").fetchone() for name in before}
        columns = {row[1] for row in new.execute("PRAGMA table_info(marks)")}
        indexes = {row[0] for row in new.execute("SELECT name FROM sqlite_master WHERE type = 'index'")}
    assert {column.name for column in schema.marks.columns} == columns
    assert {index.name for table in schema.metadata.tables.values() for index in table.indexes} <= indexes
    assert ledger_problems(ledger) == []


def test_there_is_a_frozen_ledger_of_each_earlier_schema_and_a_step_to_each_later_one() -> None:
    assert sorted(STEPS) == list(range(2, schema.SCHEMA_NUMBER + 1))
