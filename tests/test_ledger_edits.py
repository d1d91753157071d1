"""What somebody changes in the ledger by hand is found by `ledger check`, whatever it is, and told with its place."""

from __future__ import annotations

import re
import shutil
import sqlite3
import subprocess
from contextlib import closing
from pathlib import Path

import pytest

from conftest import PROGRAM, Place
from dryquarry.ledger import schema

REPLY = "(SELECT max(id) FROM replies WHERE outcome = 'answered' AND id < 100)"
MARK = "(SELECT max(id) FROM marks WHERE current = 1 AND verdict = 'fail' AND id < 100)"

# What is done by hand, and what the check says of it.
EDITS = [
    ("a reply's text", f"UPDATE replies SET text = 'Answer: 7' WHERE id = {REPLY}", "of replies was changed"),
    ("a space more in a reply", f"UPDATE replies SET text = text || ' ' WHERE id = {REPLY}", "of replies was changed"),
    ("how an asking ended", f"UPDATE replies SET outcome = 'failed' WHERE id = {REPLY}", "of replies was changed"),
    ("the tokens of a reply", f"UPDATE replies SET output_tokens = 1 WHERE id = {REPLY}", "of replies was changed"),
    ("the seconds of all replies", "UPDATE replies SET seconds = seconds / 2", "of replies was changed"),
    ("when a reply came", f"UPDATE replies SET received_at = '2020-01-01' WHERE id = {REPLY}", "of replies was changed"),
    ("the model served", "UPDATE replies SET served_model = 'another'", "of replies was changed"),
    ("the reasoning", f"UPDATE replies SET reasoning = 'so' WHERE id = {REPLY}", "of replies was changed"),
    ("whose reply it is", f"UPDATE replies SET sitter_id = 6 WHERE id = {REPLY}", "of replies was changed"),
    ("what a reply is to", f"UPDATE replies SET ask_id = 70, trial = 8 WHERE id = {REPLY}", "of replies was changed"),
    ("which trial it was", f"UPDATE replies SET trial = 9 WHERE id = {REPLY}", "of replies was changed"),
    ("a reply put aside", f"UPDATE replies SET current = 0 WHERE id = {REPLY}", "of replies was changed"),
    ("a reply and its marks gone", "DELETE FROM marks WHERE reply_id = 9; DELETE FROM replies WHERE id = 9", "row 9 of replies is gone"),
    ("the last reply gone", "DELETE FROM marks WHERE reply_id = (SELECT max(id) FROM replies); DELETE FROM replies WHERE id = (SELECT max(id) FROM replies)", "of replies the last rows are gone (1)"),
    ("a reply twice", "INSERT INTO replies (ask_id, sitter_id, trial, sitting_id, current, outcome, text, received_at) SELECT ask_id, sitter_id, 7, sitting_id, 1, outcome, text, received_at FROM replies WHERE id = 5", "of replies was put in by hand"),
    ("a reply twice, seal and all", "INSERT INTO replies (ask_id, sitter_id, trial, sitting_id, current, outcome, text, received_at, seal) SELECT ask_id, sitter_id, 7, sitting_id, 1, outcome, text, received_at, seal FROM replies WHERE id = 5", "of replies was changed"),
    ("a score", f"UPDATE marks SET score = 1.0 WHERE id = {MARK}", "of marks was changed"),
    ("a verdict with its score", f"UPDATE marks SET score = 1.0, verdict = 'pass' WHERE id = {MARK}", "of marks was changed"),
    ("a reason", f"UPDATE marks SET reason = 'read well' WHERE id = {MARK}", "of marks was changed"),
    ("an unsure mark made sure", "UPDATE marks SET sure = 1, unsure_because = NULL WHERE sure = 0", "of marks was changed"),
    ("who gave it", f"UPDATE marks SET marked_by = 'Ebba' WHERE id = {MARK}", "of marks was changed"),
    ("a mark put aside", f"UPDATE marks SET current = 0 WHERE id = {MARK}", "of marks was changed"),
    ("the mark before a correction as the one that counts", "UPDATE marks SET current = 0 WHERE because = 'meant otherwise'; UPDATE marks SET current = 1 WHERE superseded_because = 'a person set another mark' AND reply_id IN (SELECT reply_id FROM marks WHERE because = 'meant otherwise')", "of marks was changed"),
    ("why a mark gave place", "UPDATE marks SET superseded_because = NULL WHERE current = 0", "of marks was changed"),
    ("a mark gone", f"DELETE FROM marks WHERE id = {MARK}", "of marks is gone"),
    ("marks gone in a row", "DELETE FROM marks WHERE id BETWEEN 20 AND 25", "rows 20 to 25 of marks are gone"),
    ("the history of marks gone", "DELETE FROM marks WHERE current = 0", "of marks is gone"),
    ("all marks gone", "DELETE FROM marks", "of marks the last rows are gone"),
    ("a person's mark forged", "UPDATE marks SET current = 0 WHERE id = (SELECT min(id) FROM marks WHERE verdict = 'fail'); INSERT INTO marks (reply_id, marking_id, current, score, verdict, reason, marked_by, because, marked_at, tool_version) SELECT reply_id, marking_id, 1, 1.0, 'pass', 'by hand', 'a person', 'checked', marked_at, tool_version FROM marks WHERE id = (SELECT min(id) FROM marks WHERE verdict = 'fail')", "of marks was put in by hand"),
    ("a judge's text", "UPDATE verdicts SET text = 'full points' WHERE id = 3", "row 3 of verdicts was changed"),
    ("a judge's points", "UPDATE verdicts SET points = '[]' WHERE id = 3", "row 3 of verdicts was changed"),
    ("a judge's verdict gone", "DELETE FROM verdicts WHERE id = 3", "row 3 of verdicts is gone"),
    ("an edition's content", "UPDATE editions SET content = replace(content, 'lamp', 'lump')", "row 1 of editions was changed"),
    ("an edition's digest", f"UPDATE editions SET digest = '{'0' * 64}'", "row 1 of editions was changed"),
    ("the settings of a sitting", "UPDATE sittings SET settings = '{}' WHERE id = 2", "row 2 of sittings was changed"),
    ("the name of an entrant", "UPDATE sittings SET entrant = 'ruff' WHERE id = 2", "row 2 of sittings was changed"),
    ("the content of settings", "UPDATE sitters SET content = replace(content, 'model', 'modal') WHERE id = 1", "row 1 of sitters: its content"),
    ("which run it was", "UPDATE runs SET started_at = '2020-01-01' WHERE id = 1", "row 1 of runs was changed"),
    ("which edition was run", "UPDATE runs SET edition = '1' WHERE id = 1", "row 1 of runs was changed"),
    ("what was asked", "UPDATE asks SET content = '{}' WHERE id = 1", "row 1 of asks: its content"),
    ("what was asked, with its digest", "UPDATE asks SET content = '{}', digest = '44136fa355b3678a1146ad16f7e8649e94fb4fc21fe77e8310c060f61caaff8a' WHERE id = 1", "asks: what it holds is not what was stored"),
    ("two questions exchanged", "UPDATE asks SET id = 9999 WHERE id = 1; UPDATE asks SET id = 1 WHERE id = 2; UPDATE asks SET id = 2 WHERE id = 9999", "asks: what it holds is not what was stored"),
    ("a key", "UPDATE markings SET content = content || ' ' WHERE id = 1", "row 1 of markings: its content"),
    ("a key not used any more", "INSERT INTO markings (digest, content) VALUES ('44136fa355b3678a1146ad16f7e8649e94fb4fc21fe77e8310c060f61caaff8a', '{}')", "markings: what it holds is not what was stored"),
    ("a void taken back", "UPDATE voids SET taken_back_at = NULL", "row 1 of voids was changed"),
    ("a void gone", "DELETE FROM voids", "of voids the last rows are gone (1)"),
    ("an index gone", "DROP INDEX one_current_mark", "the index one_current_mark is gone"),
    ("an index that lets more in", "DROP INDEX one_current_reply; CREATE INDEX one_current_reply ON replies (sitter_id)", "the index one_current_reply is another"),
    ("an index of other rows", "DROP INDEX one_current_mark; CREATE UNIQUE INDEX one_current_mark ON marks (reply_id, marking_id) WHERE current = 2", "the index one_current_mark is another"),
    ("a table gone", "DROP TABLE verdicts", "the table verdicts is gone"),
    ("the seals gone", "DROP TABLE seals", "the table seals is gone"),
    ("one seal gone", "DELETE FROM seals WHERE name = 'marks'", "the seal of marks is gone"),
    ("a seal overwritten", "UPDATE seals SET total = 'x' WHERE name = 'marks'", "marks: what it holds is not what was stored"),
    ("the seals of all marks gone", "UPDATE marks SET seal = NULL", "of marks was put in by hand"),
    ("a table more", "CREATE TABLE notes (text TEXT)", "there is a table more, notes"),
    ("a column gone", "ALTER TABLE replies DROP COLUMN tries", "the table replies has other columns: tries"),
    ("a column renamed", "ALTER TABLE marks RENAME COLUMN rule TO rules", "the table marks has other columns: rule, rules"),
    ("a trigger", "CREATE TRIGGER kind AFTER INSERT ON marks BEGIN UPDATE marks SET score = 1.0 WHERE id = new.id; END", "there is a trigger kind"),
    ("a view in the place of a table", "ALTER TABLE verdicts RENAME TO said; CREATE VIEW verdicts AS SELECT * FROM said", "there is a view verdicts"),
    ("who made the ledger", "UPDATE about SET value = 'dryquarry 9' WHERE name = 'made_by'", "about: what it holds is not what was stored"),
    ("a text that is none", f"UPDATE replies SET text = CAST(x'ff80' AS TEXT) WHERE id = {REPLY}", "a text in it is not what was stored"),
]  # fmt: skip


@pytest.fixture(scope="module")
def used(tmp_path_factory: pytest.TempPathFactory, demo_made: tuple[Path, str]) -> Place:
    """A workspace with replies, judges, an edition, a mark by a person and one taken back, and a void taken back."""
    place = Place(Path(shutil.copytree(demo_made[0], tmp_path_factory.mktemp("edits") / "light")))
    for arguments in (
        ["--question", "lamp-oil", "-e", "curlew", "--set", "fail", "--because", "meant otherwise"],
        ["--question", "lamp-oil", "-e", "dunlin", "--set", "fail", "--because", "misread"],
        ["--question", "lamp-oil", "-e", "dunlin", "--take-back"],
        ["--question", "lamp-oil", "--set", "void", "--because", "two readings"],
        ["--question", "lamp-oil", "--take-back"],
    ):
        assert place.run("mark", "tide-sums", *arguments).exit_code == 0
    return place


def edited(used: Place, root: Path, statements: str) -> Place:
    """A copy of the workspace in whose ledger these statements were carried out by hand."""
    shutil.copytree(used.root, root)
    with closing(sqlite3.connect(root / ".dryquarry" / "ledger.db", isolation_level=None)) as by_hand:
        by_hand.execute("PRAGMA foreign_keys = OFF")
        before = by_hand.total_changes
        by_hand.executescript(statements)
        structural = any(word in statements for word in ("DROP", "CREATE", "ALTER"))
        assert structural or by_hand.total_changes > before, "an edit that changes nothing shows nothing"
    return Place(root)


@pytest.mark.parametrize("done, statements, said", EDITS, ids=[edit[0] for edit in EDITS])
def test_an_edit_by_hand_is_found(used: Place, tmp_path: Path, done: str, statements: str, said: str) -> None:
    place = edited(used, tmp_path / "light", statements)
    checked = place.run("ledger", "check", "--format", "json")
    assert checked.exit_code == 3
    # without whose reply it is
    assert said in re.sub(r" \(\w+, [\w-]+\)", "", checked.output + checked.stderr)
    table = place.run("ledger", "check").output
    assert "what can be done: " in table or "restore it from a copy" in table


def test_what_the_program_itself_does_is_no_edit(used: Place) -> None:
    for arguments in (["mark", "tide-sums"], ["run", "tide-sums", "--fresh", "--yes"], ["run", "--all", "--yes"]):
        used.run(*arguments)
        assert used.run("ledger", "check").stdout.strip() == "the ledger is whole"


def test_statistics_of_the_database_are_no_edit(used: Place, tmp_path: Path) -> None:
    place = edited(used, tmp_path / "light", "ANALYZE; CREATE TABLE t (a); DROP TABLE t")
    assert place.run("ledger", "check").stdout.strip() == "the ledger is whole"


def test_the_ledgers_seal_changes_with_what_is_stored_and_with_nothing_else(used: Place, tmp_path: Path) -> None:
    def seal(place: Place) -> object:
        return place.json("ledger", "info")["seal"]

    before = seal(used)
    used.run("board", "tide-sums")
    assert seal(used) == before
    shutil.copytree(used.root, tmp_path / "copy")
    assert seal(Place(tmp_path / "copy")) == before
    used.run("mark", "tide-sums", "--question", "lamp-oil", "-e", "curlew", "--take-back")
    assert seal(used) != before


def test_it_is_told_whose_reply_was_changed(used: Place, tmp_path: Path) -> None:
    of_plover = (
        "(SELECT min(replies.id) FROM replies JOIN sittings ON sittings.id = sitting_id WHERE entrant = 'plover')"
    )
    place = edited(used, tmp_path / "light", f"UPDATE replies SET text = 'x' WHERE id = {of_plover}")
    assert "of replies (plover, keeper-letters) was changed" in place.run("ledger", "check").stdout


def test_an_edit_stays_found_when_the_ledger_is_used_after_it(used: Place, tmp_path: Path) -> None:
    place = edited(used, tmp_path / "light", "DELETE FROM marks WHERE id = 20")
    place.run("mark", "tide-sums")
    assert "row 20 of marks is gone" in place.run("ledger", "check").stdout


@pytest.mark.parametrize("content", [b"", "foreign"], ids=["empty", "foreign"])
def test_a_database_that_is_no_ledger_is_never_taken_as_a_new_one(place: Place, content: bytes | str) -> None:
    path = place.root / ".dryquarry" / "ledger.db"
    path.parent.mkdir()
    if isinstance(content, bytes):
        path.write_bytes(content)
    else:
        with closing(sqlite3.connect(path)) as other:
            other.execute("CREATE TABLE birds (name TEXT)")
    before = path.read_bytes()
    place.suite("sums", "title: t\nmark: {scheme: number}\nquestions: [{id: a, ask: A, key: 1}]\n")
    place.entrant("knot", "http://127.0.0.1:9/v1")
    for arguments in (["run", "sums"], ["board", "sums"], ["ledger", "check"], ["ledger", "info"]):
        told = place.run(*arguments)
        assert (told.exit_code, "is no ledger" in told.stderr) == (3, True), arguments
    assert path.read_bytes() == before
    assert sorted(one.name for one in path.parent.iterdir() if not one.name.endswith(".lock")) == ["ledger.db"]


@pytest.mark.parametrize(
    "edit",
    [
        "score = 'much'",
        "score = 7.5",
        "score = -1e300",
        "verdict = 'fine'",
        "outcome = 'lost'",
        "sure = 'maybe'",
        "score = 9e999",
    ],
)
def test_standings_refuse_what_was_never_stored(used: Place, tmp_path: Path, edit: str) -> None:
    place = edited(used, tmp_path / "light", f"UPDATE marks SET {edit} WHERE current = 1")
    for command in (
        ["board", "tide-sums"],
        ["items", "tide-sums"],
        ["grid", "tide-sums"],
        ["versus", "curlew", "dunlin", "--on", "tide-sums"],
    ):
        told = place.run(*command)
        assert told.exit_code == 3, command
        assert "'dryquarry ledger check' tells which" in told.stderr


def test_every_table_with_rows_of_its_own_is_sealed(used: Place) -> None:
    with closing(sqlite3.connect(used.root / ".dryquarry" / "ledger.db")) as raw:
        sealed = {name for (name,) in raw.execute("SELECT name FROM seals")}
    assert sealed == set(schema.metadata.tables) - {"seals"}


def test_what_is_not_merged_is_not_hidden_where_nothing_can_be_written(used: Place, tmp_path: Path) -> None:
    root = tmp_path / "light"
    shutil.copytree(used.root, root)
    path = root / ".dryquarry" / "ledger.db"
    with closing(sqlite3.connect(path, isolation_level=None)) as running:
        running.execute("PRAGMA journal_mode = WAL")
        running.execute("UPDATE replies SET text = text || ' '")
        shutil.copytree(root, tmp_path / "copy", ignore=shutil.ignore_patterns("*-shm"))
    copy = tmp_path / "copy"
    read_only = f'mount --bind "{copy}" "{copy}" && mount -o remount,ro,bind "{copy}" && cd "{copy}" && exec "$@"'
    in_own_place = ["unshare", "--mount", "--map-root-user", "sh", "-c", read_only, "sh"]
    if shutil.which("unshare") is None or subprocess.run([*in_own_place, "true"], capture_output=True).returncode:
        pytest.skip("this machine lets no program mount a folder read-only for itself")
    told = subprocess.run([*in_own_place, *PROGRAM, "board", "tide-sums"], capture_output=True, text=True, timeout=60)
    assert told.returncode == 3
    assert "ledger.db-wal beside it holds what was stored last" in told.stderr
    (copy / ".dryquarry" / "ledger.db-wal").unlink()
    assert subprocess.run([*in_own_place, *PROGRAM, "board", "tide-sums"], capture_output=True).returncode == 0
