"""Queries in replies: put to a fresh copy of a small database, and compared with the key's."""

from __future__ import annotations

import base64
import sqlite3
from pathlib import Path
from typing import Any

import pytest

from conftest import Place
from dryquarry.marking.model import Mark, Marking, MarkingFault, Verdict
from dryquarry.marking.registry import prepare, runners_of
from dryquarry.marking.works.statements import is_query, statements_in
from dryquarry.sandbox.performing import Sandbox
from sandboxed import needs_sandbox

SCRIPT = {
    "path": "boats.sql",
    "text": "CREATE TABLE boats (name TEXT, seats INTEGER, fare REAL); INSERT INTO boats VALUES "
    "('Tern', 40, 12.5), ('Eider', 12, NULL), ('Gull', 60, 7.25), ('Tern', 8, 12.5);",
}
BIG = "SELECT name, seats FROM boats WHERE seats > 20 ORDER BY seats"


def mark_of(key: Any, query: str, database: Any = SCRIPT, **options: Any) -> Mark:
    (runner,) = runners_of(Marking("query", key=key, options={"database": database, **options}))
    reply = query if query.startswith(("I ", "The ")) else f"```sql\n{query}\n```"
    job = runner.job(reply)
    return job if isinstance(job, Mark) else runner.settle(reply, Sandbox().perform(job))


@needs_sandbox
@pytest.mark.parametrize(
    "key, query, options, said",
    [
        (BIG, "SELECT name, seats FROM boats WHERE seats >= 40", {}, None),
        (BIG, "SELECT name, seats FROM boats WHERE seats >= 40 ORDER BY seats DESC", {}, None),
        (BIG, "SELECT name, seats FROM boats WHERE seats >= 40 ORDER BY seats DESC", {"order": True}, "row 1 is"),
        (BIG, "SELECT seats, name FROM boats WHERE seats >= 40", {}, "is missing"),
        (BIG, "SELECT seats, name FROM boats WHERE seats >= 40", {"columns": True}, None),
        (BIG, "SELECT seats, name AS boat FROM boats WHERE seats >= 40", {"columns": True}, "no column 'name'"),
        (BIG, "SELECT name FROM boats", {}, "1 column (name), 2 wanted"),
        (BIG, "SELECT name, seats FROM boats", {}, "4 rows, 2 wanted"),
        (BIG, "SELECT name, seats FROM ships", {}, "the query breaks: no such table: ships"),
        (BIG, "SELECT 1; SELECT 2", {}, "2 statements where one query was asked for"),
        (BIG, "UPDATE boats SET seats = 9", {}, "changes data, where a question about them was asked: UPDATE"),
        (BIG, "I would filter by the seats.", {}, "text, and no query"),
        (BIG, "The tables do not hold that, so it cannot be answered from them.", {}, "the tables hold it"),
        ("SELECT name FROM boats", "SELECT DISTINCT name FROM boats", {}, "3 rows, 4 wanted"),
        ([["Eider", None]], "SELECT name, fare FROM boats WHERE fare IS NULL", {}, None),
        ([["Eider", 0]], "SELECT name, fare FROM boats WHERE fare IS NULL", {}, "is missing"),
        ([{"n": 4}], "SELECT count(*) AS n FROM boats", {"columns": True}, None),
        (10.75, "SELECT avg(fare) FROM boats", {}, None),
        (10.7, "SELECT avg(fare) FROM boats", {"abs": 0.1}, None),
        (10.7, "SELECT avg(fare) FROM boats", {}, "stands there"),
        ("not possible", "The tables do not hold captains, so this cannot be answered from them.", {}, None),
        ("not possible", "SELECT captain FROM boats", {}, "gives a query"),
        ("not possible", "I think it is the old keeper.", {}, "does not say"),
        ("UPDATE boats SET seats = seats + 1 WHERE name = 'Gull'", "UPDATE boats SET seats = 61 WHERE name = 'Gull';", {"changes": True}, None),
        ("UPDATE boats SET seats = seats + 1 WHERE name = 'Gull'", "UPDATE boats SET seats = 61", {"changes": True}, "afterwards"),
        ("DELETE FROM boats WHERE name = 'Tern'", "DROP TABLE boats", {"changes": True}, "the table 'boats' is missing afterwards"),
    ],
)  # fmt: skip
def test_a_query_is_what_it_gives(key: Any, query: str, options: dict[str, Any], said: str | None) -> None:
    mark = mark_of(key, query, **options)
    if said is None:
        assert mark.score == 1.0, mark.reason
    else:
        assert mark.verdict is Verdict.FAIL
        assert said in mark.reason


@needs_sandbox
def test_a_database_comes_as_script_tables_or_file(tmp_path: Path) -> None:
    table = {"path": "boats.csv", "text": "name,seats,fare\nTern,40,12.5\nEider,12,\n"}
    assert mark_of([["Eider", None]], "SELECT name, fare FROM boats WHERE seats < 20", table).score == 1.0
    with sqlite3.connect(tmp_path / "b.sqlite") as made:
        made.execute("CREATE TABLE boats (name TEXT)")
        made.execute("INSERT INTO boats VALUES ('Auk')")
    content = base64.b64encode((tmp_path / "b.sqlite").read_bytes()).decode("ascii")
    both = [{"path": "b.sqlite", "base64": content}, {"path": "seats.csv", "text": "boat,n\nAuk,7\n"}]
    assert mark_of(7, "SELECT n FROM seats JOIN boats ON boat = name", both).score == 1.0


@needs_sandbox
def test_a_key_that_breaks_leaves_the_mark_open_and_is_told_by_the_check(place: Place) -> None:
    mark = mark_of("SELECT missing FROM boats", "SELECT 1")
    assert mark.verdict is Verdict.OPEN
    assert "the key's query breaks: no such column: missing" in mark.reason
    text = "title: B\nquestions:\n  - {id: b, ask: Which?, key: SELECT missing FROM boats, mark: {scheme: query, database: boats.sql}}\n"
    path = place.suite("boats", text)
    (path.parent / "boats.sql").write_text(SCRIPT["text"])
    checked = place.run("suite", "check", "boats")
    assert checked.exit_code == 1
    assert "no such column: missing" in " ".join(checked.stdout.split())
    path.write_text(text.replace("missing", "name"))
    assert place.run("suite", "check", "boats").exit_code == 0


@pytest.mark.parametrize(
    "key, options, said",
    [
        (BIG, {}, "wants a `database`"),
        (BIG, {"database": "boats.sql"}, "is not at hand"),
        (BIG, {"database": {"path": "boats.txt", "text": ""}}, "no script"),
        ("the big boats", {"database": SCRIPT}, "is a query, a list of rows"),
        ([[1], [1, 2]], {"database": SCRIPT}, "different numbers of columns"),
        ([[1]], {"database": SCRIPT, "changes": True}, "the statement that changes them rightly"),
    ],
)
def test_a_faulty_query_question_is_told_of(key: Any, options: dict[str, Any], said: str) -> None:
    with pytest.raises(MarkingFault, match=said):
        prepare(Marking("query", key=key, options=options))


def test_statements_end_at_semicolons_outside_texts_and_comments() -> None:
    assert statements_in("SELECT ';' -- no; end\n, \"a;b\" /* ; */ FROM t; ;") == ["SELECT ';' \n, \"a;b\"  FROM t"]
    assert is_query("-- the boats\nWITH x AS (SELECT 1) SELECT * FROM x")
    assert not is_query("the big boats")
