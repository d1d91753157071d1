"""Marking again, marks set by a person, void questions, and trying a text."""

from __future__ import annotations

import json
import os
import sqlite3

import pytest

from conftest import Place, arithmetic_suite, completion
from dryquarry.marking import registry
from dryquarry.marking.model import Scheme, passed
from dryquarry.workspace import portions


@pytest.fixture
def asked(place: Place, service) -> Place:
    """Two entrants on four sums: knot gets them all right, gull says 3 to each."""

    def answer(content: dict) -> tuple[int, bytes]:
        number = int(content["messages"][-1]["content"].split()[2])
        return 200, completion(f"Answer: {number + 1 if 'knot' in content['model'] else 3}")

    one = service(answer)
    place.entrant("knot", one.url)
    place.entrant("gull", one.url)
    place.suite("sums", arithmetic_suite(4))
    assert place.run("run", "sums").exit_code == 0
    return place


def rows(place: Place) -> dict[str, dict]:
    return {row["entrant"]: row for row in place.json("board", "sums")["rows"]}  # type: ignore[index]


def test_a_corrected_key_is_planned_first_and_tells_what_it_does_to_the_standings(asked: Place) -> None:
    asked.suite("sums", arithmetic_suite(4).replace("key: 4}", "key: 3}"))
    plan = asked.json("mark", "sums", "--plan")
    assert plan["written"] is False
    changes = {
        (one["question"], one["entrant"]): (one["before"]["verdict"], one["after"]["verdict"])
        for one in plan["changes"]
    }
    assert changes == {("q3", "knot"): ("pass", "fail"), ("q3", "gull"): ("fail", "pass")}
    assert {one["entrant"]: (one["score_before"], one["score_after"]) for one in plan["standings"]} == {
        "knot": (1.0, 0.75),
        "gull": (0.25, 0.5),
    }
    assert asked.json("mark", "sums", "--plan")["changes"] == plan["changes"]  # nothing was written
    assert asked.json("mark", "sums")["changes"] == plan["changes"]
    assert asked.json("mark", "sums")["changes"] == []
    assert (rows(asked)["knot"]["passed"], rows(asked)["gull"]["passed"]) == (3, 2)


def test_two_processes_mark_as_one_does(asked: Place, monkeypatch) -> None:
    asked.suite("sums", arithmetic_suite(4).replace("key: 4}", "key: 3}"))
    alone = asked.json("mark", "sums", "--plan", "--processes", "1")
    monkeypatch.setattr(portions, "WORTH_A_PROCESS", 0)
    assert asked.json("mark", "sums", "--plan", "--processes", "2") == alone
    assert asked.json("mark", "sums", "--processes", "2")["changes"] == alone["changes"]  # type: ignore[index,call-overload]
    assert asked.json("mark", "sums", "--plan", "--processes", "1")["changes"] == []


def test_a_process_that_dies_is_told(asked: Place, monkeypatch) -> None:
    monkeypatch.setattr(portions, "WORTH_A_PROCESS", 0)
    monkeypatch.setattr(portions, "_begin", _dies)
    told = asked.run("mark", "sums", "--processes", "2")
    assert (told.exit_code, "--processes 1" in told.stderr) == (3, True)


def _dies(work: object) -> None:
    os._exit(1)


def test_a_scheme_that_reads_otherwise_flips_marks_and_the_old_ones_are_kept(asked: Place, monkeypatch) -> None:
    lenient = Scheme(
        "number", registry.SCHEMES["number"].options, lambda marking: lambda text: passed("any will do", "3")
    )
    monkeypatch.setattr(registry, "SCHEMES", {**registry.SCHEMES, "number": lenient})
    result = asked.json("mark", "sums")
    assert [one["entrant"] for one in result["changes"]] == ["gull"] * 3
    assert rows(asked)["gull"]["passed"] == 4
    raw = sqlite3.connect(asked.root / ".dryquarry" / "ledger.db")
    query = "SELECT superseded_because, count(*) FROM marks WHERE NOT current GROUP BY 1 ORDER BY 1"
    assert raw.execute(query).fetchall() == [("marked again", 3), ("told in other words", 5)]


def test_a_persons_mark_outlives_marking_again_until_taken_back(asked: Place) -> None:
    because = "says three, which the picture shows"
    done = asked.run("mark", "sums", "--question", "q0", "-e", "gull", "--set", "0.5", "--because", because)
    assert done.exit_code == 0, done.stderr
    assert rows(asked)["gull"]["score"] == 0.375
    assert rows(asked)["gull"]["corrected"] == 1
    assert "1 kept as a person or judge gave them" in asked.run("mark", "sums").stdout
    # A new key does not undo it either, by `mark` or by the next run.
    asked.suite("sums", arithmetic_suite(4).replace("key: 1}", "key: 9}"))
    assert asked.run("run", "sums").exit_code == 0
    assert rows(asked)["gull"]["score"] == 0.375
    (reply,) = asked.json("replies", "sums", "--corrected")
    assert (reply["question"], reply["entrant"], reply["reason"]) == ("q0", "gull", f"set by a person: {because}")
    assert "1 of 4*" in asked.run("board", "sums").stdout
    assert "* a mark set by a person" in asked.run("grid", "sums").stdout
    assert asked.run("mark", "sums", "--question", "q0", "-e", "gull", "--take-back").exit_code == 0
    assert rows(asked)["gull"]["score"] == 0.25
    # Nor does it come back with the key that it was first set under.
    asked.suite("sums", arithmetic_suite(4))
    assert asked.run("mark", "sums").exit_code == 0
    assert (rows(asked)["gull"]["score"], asked.json("replies", "sums", "--corrected")) == (0.25, [])
    again = asked.run("mark", "sums", "--question", "q0", "-e", "gull", "--take-back")
    assert (again.exit_code, "no mark set by a person" in again.stderr) == (2, True)


def test_a_question_is_void_for_all_until_its_key_changes(asked: Place) -> None:
    assert asked.run("mark", "sums", "--question", "q2", "--set", "void", "--because", "under review").exit_code == 0
    assert (rows(asked)["gull"]["passed"], rows(asked)["gull"]["marked"]) == (0, 3)
    assert "void for all: q2 (under review)" in asked.run("board", "sums").stderr
    asked.suite("sums", arithmetic_suite(4).replace("key: 3}", "key: 3.0, mark: {abs: 0.1}}"))
    assert asked.run("mark", "sums").exit_code == 0
    assert rows(asked)["gull"]["marked"] == 4
    asked.suite("sums", arithmetic_suite(4))
    assert rows(asked)["gull"]["marked"] == 3
    assert asked.run("mark", "sums", "--question", "q2", "--take-back").exit_code == 0
    assert rows(asked)["gull"]["marked"] == 4


@pytest.mark.parametrize(
    ("arguments", "words"),
    [
        (("--set", "pass", "--because", "x", "-e", "knot"), "--question ID"),
        (("--question", "q0", "--set", "pass", "-e", "knot"), "--because"),
        (("--question", "q0", "--set", "2", "--because", "x", "-e", "knot"), "from 0 to 1"),
        (("--question", "q9", "--set", "pass", "--because", "x", "-e", "knot"), "known are q0, q1"),
        (("--question", "q0", "--set", "pass", "--because", "x", "-e", "knott"), "did you mean 'knot'"),
        (("--question", "q0", "--set", "pass", "--because", "x"), "-e NAME"),
        (("--question", "q0", "--take-back"), "is not void"),
        (("--because", "x"), "go with --set"),
    ],
)
def test_a_mark_that_cannot_be_set_is_told(asked: Place, arguments: tuple[str, ...], words: str) -> None:
    refused = asked.run("mark", "sums", *arguments)
    assert (refused.exit_code, words in refused.stderr) == (2, True), refused.stderr


def test_a_text_is_tried_and_nothing_is_stored(asked: Place) -> None:
    (asked.root / "reply.txt").write_text("First 0.\n\n**Answer:** 1.\nThat was easy!\n", encoding="utf-8")
    before = asked.json("ledger", "info")
    tried = asked.json("try", "sums", "q0", "reply.txt")
    assert (tried["verdict"], tried["answer"], tried["read_by"], tried["form_kept"]) == (
        "pass",
        "1",
        "answer line",
        True,
    )
    text = asked.run("try", "sums", "q0", "reply.txt").stdout
    assert "▸ **Answer:** 1." in text
    assert "▸ asserted" in text
    assert "'1'  [answer line, line 3]" in text
    assert "3: the answer line is taken at its word" in text
    assert asked.json("ledger", "info") == before


@pytest.mark.parametrize("said", ["Answer: 1\n\n{}", "{}\n\nAnswer: 1"])
def test_the_claim_that_stands_is_shown_also_among_very_many(asked: Place, said: str) -> None:
    many = " ".join(f"Lamp {number} burns {number + 20} hours." for number in range(2, 20))
    (asked.root / "reply.txt").write_text(said.format(many), encoding="utf-8")
    tried = asked.json("try", "sums", "q0", "reply.txt")
    assert [one["text"] for one in tried["claims"] if one["stands"]] == ["1"]
    assert len(tried["claims"]) <= 13
    program = asked.program("try", "sums", "q77", "reply.txt")
    assert (program.returncode, "known are q0" in program.stderr) == (2, True)


def test_a_required_form_that_is_not_kept_fails_a_right_answer_and_says_so(place: Place, service) -> None:
    one = service(lambda content: (200, completion("It makes 1." if "0 plus" in str(content) else "Answer: 2")))
    place.entrant("knot", one.url)
    place.suite("sums", arithmetic_suite(2).replace('"Answer:"}', '"Answer:", form: required}'))
    assert place.run("run", "sums").exit_code == 0
    right, kept = place.json("replies", "sums")
    assert (right["verdict"], kept["verdict"]) == ("fail", "pass")
    assert right["reason"].startswith("right, but not on the answer line")
    assert "not on the answer line" in place.run("replies", "sums", "--question", "q0").stdout
    board = json.loads(place.run("board", "sums", "--format", "json").stdout)
    assert board["rows"][0]["form_kept"] == 0.5
    assert "form kept" in place.run("board", "sums").stdout


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        (("--set", "pass", "--because", "shown", "-e", "gull"), "a person would set: 1 of sums/q1"),
        (("--set", "void", "--because", "shown"), "sums/q1 would count for nobody"),
        (("--take-back", "-e", "knot"), "would be taken back: 1 of sums/q1"),
        ((), None),
    ],
)
def test_with_plan_nothing_is_written(asked: Place, arguments: tuple[str, ...], said: str | None) -> None:
    asked.run("mark", "sums", "--question", "q1", "-e", "knot", "--set", "fail", "--because", "first")
    before, marks = asked.json("board", "sums"), asked.json("replies", "sums")
    files = {path: path.read_bytes() for path in asked.root.rglob("*") if path.is_file()}
    chosen = ("--question", "q1") if arguments else ()
    done = asked.run("mark", "sums", "--plan", *chosen, *arguments)
    assert (done.exit_code, said is None or said in done.stderr) == (0, True), done.output
    assert {path: path.read_bytes() for path in asked.root.rglob("*") if path.is_file()} == files
    assert (asked.json("board", "sums"), asked.json("replies", "sums")) == (before, marks)


def test_a_plan_before_the_first_run_makes_no_ledger(place: Place) -> None:
    place.entrant("knot", "http://127.0.0.1:9/v1")
    place.suite("sums", arithmetic_suite(4))
    assert '"to_ask": 4' in place.run("run", "sums", "--plan", "--format", "json").stdout
    assert not (place.root / ".dryquarry").exists()


@pytest.mark.parametrize(
    ("setting", "verdict", "score", "said"),
    [
        ("4", "pass", 0.8, "4 of 5 points"),
        ("4/5", "pass", 0.8, "4 of 5 points"),
        ("2.5", "fail", 0.5, "2.5 of 5 points"),
        ("6", None, None, "points from 0 to 5"),
        ("2/4", None, None, "points from 0 to 5"),
    ],
)
def test_points_of_a_question_marked_by_hand(
    place: Place, service, setting: str, verdict: str | None, score: float | None, said: str
) -> None:
    place.entrant("knot", service(lambda content: (200, completion("Dear visitor"))).url)
    question = "{id: letter, ask: Write a letter., mark: {scheme: hand, out_of: 5, pass_at: 0.6}}"
    place.suite("letters", f"title: l\nquestions: [{question}]")
    assert place.run("run", "letters").exit_code == 0
    arguments = ("--question", "letter", "-e", "knot", "--set", setting, "--because", "kind")
    done = place.run("mark", "letters", *arguments)
    assert done.exit_code == (0 if verdict else 2)
    if verdict is None:
        assert said in done.stderr
        return
    (reply,) = place.json("replies", "letters")  # type: ignore[misc]
    assert (reply["verdict"], reply["score"], reply["reason"]) == (
        verdict,
        score,
        f"set by a person, {said}: kind",
    )


def test_a_plan_counts_the_replies_to_a_question_whose_key_was_just_changed(asked: Place) -> None:
    asked.suite("sums", arithmetic_suite(4).replace("key: 4}", "key: 3}"))
    arguments = ("--question", "q3", "-e", "gull", "--set", "pass", "--because", "shown")
    planned, done = (asked.run("mark", "sums", *arguments, *plan) for plan in (("--plan",), ()))
    assert (planned.exit_code, done.exit_code) == (0, 0), planned.output
    assert "1 of sums/q3" in planned.stderr
    assert "1 of sums/q3" in done.stderr
