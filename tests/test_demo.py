"""The installed program on the demo data: what a newcomer types, and the documented shapes."""

from __future__ import annotations

import csv
import io
import json
import shlex
import shutil
import subprocess
import sys
from pathlib import Path

import pytest

from conftest import Place
from dryquarry.standin.bank import demo_bank, one_line
from dryquarry.workspace import Workspace

SUITES = ["keeper-letters", "lamp-logic", "shore-facts", "station-board", "tide-sums"]
ENTRANTS = {"dunlin", "curlew", "godwit", "plover", "turnstone"}


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory, demo_made: tuple[Path, str]) -> tuple[Place, str]:
    """The demo workspace after `dryquarry demo`, and what that printed."""
    folder, printed = demo_made
    return Place(Path(shutil.copytree(folder, tmp_path_factory.mktemp("demo") / "light"))), printed


def test_the_demo_shows_the_boards_a_grid_and_a_combined_board(demo: tuple[Place, str]) -> None:
    place, printed = demo
    for suite, edition in zip(SUITES, ["draft", "draft", "draft", "draft", "3"], strict=True):
        assert f"{suite}@{edition}: " in printed
    assert " + ".join(SUITES) + ": 96 questions" in printed
    assert "■ pass" in printed
    assert (place.root / "lamp-logic-grid.png").read_bytes().startswith(b"\x89PNG")


def test_board_json_has_the_documented_shape(demo: tuple[Place, str]) -> None:
    board = json.loads(demo[0].program("board", "tide-sums", "--format", "json").stdout)
    assert list(board)[:4] == ["suite", "edition", "questions", "rows"]
    assert (board["suite"], board["edition"], board["questions"]) == ("tide-sums", "3", 27)
    assert {row["entrant"] for row in board["rows"]} == ENTRANTS
    for row in board["rows"]:
        assert list(row)[:16] == [
            "rank", "band", "entrant", "title", "score", "low", "high", "passed", "marked", "asked", "trials",
            "categories", "outcomes", "median_s", "output_tokens", "cost",
        ]  # fmt: skip
        assert 0 <= row["low"] <= row["score"] <= row["high"] <= 1
        assert row["score"] == pytest.approx(row["passed"] / 27)
        assert sum(row["outcomes"].values()) == row["marked"] == row["asked"] == 27


def test_replies_lead_every_number_back_to_its_text(demo: tuple[Place, str]) -> None:
    place = demo[0]
    lines = place.run("replies", "tide-sums", "--format", "jsonl").stdout.splitlines()
    replies = [json.loads(line) for line in lines]
    assert len(replies) == 27 * 5
    assert list(replies[0]) == [
        "suite", "edition", "question", "entrant", "trial", "outcome", "text", "reasoning", "answer", "read_by",
        "score", "verdict", "reason", "scheme", "seconds", "first_token_s", "input_tokens", "output_tokens",
        "cost", "finish", "asked", "options", "key",
    ]  # fmt: skip
    board = place.json("board", "tide-sums")
    for row in board["rows"]:  # type: ignore[index]
        own = [reply for reply in replies if reply["entrant"] == row["entrant"]]
        assert sum(reply["verdict"] == "pass" for reply in own) == row["passed"]
        assert sum(reply["output_tokens"] for reply in own) == row["output_tokens"]
    for reply in replies:
        assert reply["reason"]
        assert reply["answer"] is None or reply["outcome"] == "answered"


def test_the_strong_entrant_leads_and_the_reciter_loses_the_twists(demo: tuple[Place, str]) -> None:
    place = demo[0]
    rows = place.json("board", *SUITES)["rows"]  # type: ignore[index]
    assert rows[0]["entrant"] == "curlew"
    assert {row["entrant"]: row["band"] for row in rows}["plover"] > 1
    grid = place.json("grid", "lamp-logic")
    cells = {row["id"]: row["cells"]["dunlin"]["kind"] for row in grid["questions"]}  # type: ignore[index]
    assert (cells["three-lamps"], cells["three-lamps-end"]) == ("pass", "fail")
    assert (cells["log-shelf"], cells["log-shelf-right"]) == ("pass", "fail")


def test_the_grid_agrees_with_the_board(demo: tuple[Place, str]) -> None:
    place = demo[0]
    for suite in SUITES:
        totals = place.json("grid", suite)["totals"]  # type: ignore[index]
        for row in place.json("board", suite)["rows"]:  # type: ignore[index]
            assert totals[row["entrant"]]["score"] == pytest.approx(row["score"])
            assert totals[row["entrant"]]["passed"] == row["passed"]


@pytest.mark.parametrize("command", [["board", "tide-sums"], ["grid", "lamp-logic"], ["replies", "shore-facts"]])
def test_every_format_comes_out_and_goes_to_a_file(demo: tuple[Place, str], command: list[str]) -> None:
    place = demo[0]
    for form in ("table", "json", "csv", "markdown"):
        shown = place.run(*command, "--format", form)
        assert shown.exit_code == 0
        written = place.run(*command, "--format", form, "--out", "shown.txt")
        assert (written.exit_code, written.stdout) == (0, "")
        assert (place.root / "shown.txt").read_text("utf-8") == shown.stdout
    rows = list(csv.DictReader(io.StringIO(place.run(*command, "--format", "csv").stdout)))
    assert len(rows) == {"board": 5, "grid": 25, "replies": 100}[command[0]]


def test_replies_are_found_by_question_entrant_and_verdict(demo: tuple[Place, str]) -> None:
    place = demo[0]
    one = place.run("replies", "tide-sums", "--question", "lamp-oil", "-e", "plover")
    assert "key       178.5" in one.stdout
    assert "¦ Answer: 107.1" in one.stdout
    fails = place.json("replies", "tide-sums", "--verdict", "fail")
    assert {reply["verdict"] for reply in fails} == {"fail"}  # type: ignore[union-attr]
    wrong = place.run("replies", "tide-sums", "--question", "lamp-oli")
    assert wrong.exit_code == 2
    assert "did you mean 'lamp-oil'" in wrong.stderr


def test_the_demo_runs_again_without_asking_and_never_overwrites(demo: tuple[Place, str], tmp_path: Path) -> None:
    place = demo[0]
    again = place.program("demo", str(place.root))
    assert again.returncode == 0
    assert "tide-sums@3 · curlew: 27 held, 0 to ask" in again.stderr
    other = tmp_path / "other"
    other.mkdir()
    (other / "notes.txt").write_text("mine")
    refused = place.program("demo", str(other))
    assert refused.returncode == 2
    assert "notes.txt" in refused.stderr
    assert [path.name for path in other.iterdir()] == ["notes.txt"]


def test_every_demo_suite_is_proved_and_every_question_has_all_replies(demo: tuple[Place, str]) -> None:
    workspace = Workspace.open(demo[0].root)
    whens, patterns = demo_bank().replies, demo_bank().patterns
    for name in SUITES:
        check = workspace.suites.check(name)
        assert not check.faults
        assert {one.kind for one in check.advice} <= {"key-in-question"}  # a puzzle names its answers
        for question in workspace.suites.get(name).questions:
            matching = [replies for when, replies in whens.items() if when in one_line(question.text)]
            matching += [replies for pattern, replies in patterns if pattern.search(one_line(question.text))]
            assert len(matching) == 1, question.id
            assert set(matching[0]) == ENTRANTS


def test_a_python_user_gets_the_same_numbers(demo: tuple[Place, str]) -> None:
    board = Workspace.open(demo[0].root).board(["shore-facts"])
    rows = demo[0].json("board", "shore-facts")["rows"]  # type: ignore[index]
    assert [(row.entrant, row.score) for row in board.rows] == [(row["entrant"], row["score"]) for row in rows]


def test_entrants_are_listed_shown_and_pinged(demo: tuple[Place, str]) -> None:
    place = demo[0]
    assert len(place.json("entrant", "list")) == 9  # type: ignore[arg-type]
    shown = place.json("entrant", "show", "curlew")
    assert shown["settings"] == {"temperature": 0.0, "max_tokens": 1024}  # type: ignore[index]
    pings = place.json("entrant", "ping")
    assert all(ping["reachable"] and ping["key_accepted"] and ping["model_known"] for ping in pings)  # type: ignore[union-attr]


def test_help_names_every_command_and_imports_nothing_heavy() -> None:
    code = (
        "import sys; sys.argv = ['dryquarry', '--help']\n"
        "from dryquarry.__main__ import main\n"
        "try: main()\n"
        "except SystemExit: pass\n"
        "heavy = {'numpy', 'scipy', 'matplotlib', 'pandas', 'sqlalchemy', 'aiohttp', 'ruamel', 'rich', 'orjson'}\n"
        "print('HEAVY', sorted(heavy & set(sys.modules)))\n"
    )
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60)
    assert "HEAVY []" in done.stdout
    for command in ("init", "demo", "suite", "entrant", "run", "mark", "board", "grid", "replies", "ledger", "standin"):
        assert f"\n  {command}" in done.stdout


def test_init_writes_a_workspace_that_works_at_once(tmp_path: Path) -> None:
    place = Place(tmp_path)
    assert place.run("init", "new").exit_code == 0
    new = Place(tmp_path / "new")
    assert new.run("suite", "check", "first-light").exit_code == 0
    assert new.run("run", "first-light").exit_code == 0
    rows = new.json("board", "first-light")["rows"]  # type: ignore[index]
    assert [(row["entrant"], row["passed"]) for row in rows] == [("standin-one", 3), ("standin-two", 2)]
    again = place.run("init", "new")
    assert again.exit_code == 2
    assert "nothing was written" in again.stderr


@pytest.mark.parametrize("suite", ["tide-sums", "lamp-logic"])
def test_every_feature_of_failures_comes_with_a_command_that_lists_just_them(
    demo: tuple[Place, str], suite: str
) -> None:
    place, _ = demo
    rows = place.json("board", suite, "--failures")["rows"]  # type: ignore[index]
    assert len(rows) > 5
    for row in rows:
        listed = place.json(*shlex.split(row["command"])[1:])
        assert len(listed) == row["failed"], row["command"]


def test_a_limit_of_nothing_is_a_limit(demo: tuple[Place, str]) -> None:
    place, _ = demo
    everything = place.json("replies", "tide-sums")
    over = place.json("replies", "tide-sums", "--tokens-over", "0")
    assert [reply for reply in everything if reply["output_tokens"]] == over  # type: ignore[union-attr]
    assert place.json("replies", "tide-sums", "--words-over", "100000") == []
