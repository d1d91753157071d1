"""Marks from a table: what `replies` writes is filled in and read, all rows or none; a run is waited for."""

from __future__ import annotations

import csv
import io
import time
from collections.abc import Callable

import pytest

from conftest import Place, Service, arithmetic_suite, completion


@pytest.fixture
def asked(place: Place, service: Callable[..., Service]) -> Place:
    place.suite(
        "sums",
        arithmetic_suite(3) + "  - {id: taste, ask: How is it?, mark: {scheme: hand, out_of: 5, pass_at: 0.6}}\n",
    )
    for name in ("wick", "flint"):
        place.entrant(name, service(lambda content: (200, completion("Answer: 2"))).url)
    assert place.run("run", "sums", "--trials", "2").exit_code == 0
    return place


def filled(place: Place, values: dict[tuple[str, str, str], tuple[str, str]], separator: str = ",") -> None:
    """Fill the table of all replies in for some (question, entrant, trial)."""
    rows = list(csv.DictReader(io.StringIO(place.run("replies", "sums", "--format", "csv").stdout)))
    for row in rows:
        assert (row["set"], row["because"]) == ("", "")
        row["set"], row["because"] = values.get((row["question"], row["entrant"], row["trial"]), ("", ""))
    out = io.StringIO()
    writer = csv.DictWriter(out, rows[0], delimiter=separator)
    writer.writeheader()
    writer.writerows(rows)
    (place.root / "marks.csv").write_text(out.getvalue(), "utf-8")


def marks(place: Place) -> dict[tuple[str, str, int], tuple[str, float | None]]:
    found = place.json("replies", "sums")
    return {(one["question"], one["entrant"], one["trial"]): (one["verdict"], one["score"]) for one in found}  # type: ignore[union-attr]


SET = {
    ("q0", "wick", "1"): ("Pass", "meant 1"),
    ("q1", "flint", "2"): ("0.5", "half of it"),
    ("taste", "wick", "1"): ("4/5", "good"),
    ("taste", "wick", "2"): ("2", "flat"),
}


@pytest.mark.parametrize("separator", [",", ";"])
def test_a_table_of_replies_is_filled_in_and_read(asked: Place, separator: str) -> None:
    filled(asked, SET, separator)
    before = marks(asked)
    planned = asked.run("mark", "--from", "marks.csv", "--plan")
    assert "4 marks would be set by a person" in planned.stdout
    assert marks(asked) == before
    assert asked.run("mark", "--from", "marks.csv").exit_code == 0
    after = marks(asked)
    assert {place: after[place] for place in after if after[place] != before[place]} == {
        ("q0", "wick", 1): ("pass", 1.0), ("q1", "flint", 2): ("fail", 0.5),
        ("taste", "wick", 1): ("pass", 0.8), ("taste", "wick", 2): ("fail", 0.4),
    }  # fmt: skip
    assert "meant 1" in asked.run("replies", "sums", "--corrected").stdout


def test_a_table_of_ones_own_has_verdicts_or_points_and_reasons(asked: Place) -> None:
    table = "suite,question,entrant,trial,verdict,points,reason\nsums,q0,wick,,pass,,both trials\nsums@draft,taste,flint,1,,3,so so\n"
    (asked.root / "own.csv").write_text(table)
    assert "3 marks set by a person" in asked.run("mark", "--from", "own.csv").stdout
    assert marks(asked)["q0", "wick", 2] == ("pass", 1.0)
    assert marks(asked)["taste", "flint", 1] == ("pass", 0.6)


@pytest.mark.parametrize(
    ("row", "said"),
    [
        ("sums,q9,wick,1,pass,x", "row 3: suite 'sums' asks no question 'q9'"),
        ("sums,q0,wik,1,pass,x", "row 3: there is no entrant 'wik' in entrants.toml; did you mean 'wick'"),
        ("smus,q0,wick,1,pass,x", "row 3: there is no suite 'smus'"),
        ("sums,q0,wick,7,pass,x", "row 3: there is no stored reply of wick to sums@draft, q0, trial 7"),
        ("sums,q0,wick,one,pass,x", "row 3: the trial 'one'"),
        ("sums,q0,wick,1,maybe,x", "row 3: a mark of q0 is set to pass, fail, void"),
        ("sums,taste,wick,1,7,x", "points from 0 to 5"),
        ("sums,q0,wick,1,pass,", "row 3: say why"),
        (",q0,wick,1,pass,x", "row 3: no suite"),
    ],
)
def test_a_row_that_cannot_be_done_is_told_and_none_is(asked: Place, row: str, said: str) -> None:
    before = marks(asked)
    (asked.root / "own.csv").write_text(f"suite,question,entrant,trial,set,because\nsums,q0,wick,1,pass,right\n{row}\n")
    told = asked.run("mark", "--from", "own.csv")
    assert (told.exit_code, said in told.stderr) == (3, True), told.output
    assert marks(asked) == before


@pytest.mark.parametrize(
    ("table", "said"),
    [
        ("suite,question\nsums,q0\n", "no column 'entrant'"),
        ("suite,question,entrant\nsums,q0,wick\n", "no column 'set'"),
        ("suite,question,entrant,set\nsums,q0,wick,\n", "nothing is filled in"),
        ('suite,question,entrant,set\n"sums\n', "not readable as CSV"),
    ],
)
def test_a_table_that_is_none_is_told(asked: Place, table: str, said: str) -> None:
    (asked.root / "own.csv").write_text(table)
    told = asked.run("mark", "--from", "own.csv")
    assert (told.exit_code, said in told.stderr) == (3, True), told.output


def test_while_a_run_goes_on_results_are_shown_and_marks_wait(place: Place, service: Callable[..., Service]) -> None:
    place.suite("sums", arithmetic_suite(20))
    place.entrant("wick", service(lambda content: (200, completion("Answer: 2")), 0.4).url, "limits = {in_flight = 1}")
    running = place.started("run", "sums")
    ledger = place.root / ".dryquarry" / "ledger.db"
    for _ in range(100):
        if ledger.exists() and "1 reply" in place.run("replies", "sums", "--question", "q0").stdout:
            break
        time.sleep(0.05)
    (place.root / "reply.txt").write_text("Answer: 1")
    for command in (["board", "sums"], ["grid", "sums"], ["replies", "sums"], ["suite", "list"], ["suite", "check", "sums"],
                    ["try", "sums", "q0", "reply.txt"]):  # fmt: skip
        assert place.run(*command).exit_code == 0, command
    assert running.poll() is None
    waited = place.program("mark", "sums", "--question", "q0", "-e", "wick", "--set", "pass", "--because", "meant 1")
    assert running.wait(30) == 0
    assert (waited.returncode, "waiting for its end" in waited.stderr) == (0, True), waited.stderr
    assert marks(place)["q0", "wick", 1] == ("pass", 1.0)
