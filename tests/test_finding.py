"""Finding one's way: the same filters everywhere, sorting, what the grid shows, replies side by side."""

from __future__ import annotations

import csv
import io
from collections.abc import Callable

import pytest

from conftest import Place, Service, completion

SUITE = """\
title: Sums
mark: {scheme: number}
questions:
  - {id: sum-one, ask: What is 1 plus 1?, key: 2, category: sums, tags: [short, easy], level: a}
  - {id: sum-two, ask: What is 2 plus 1?, key: 3, category: sums, tags: [long], level: b}
  - {id: pick, ask: "Which is 3 plus 1?", options: [three, four], key: B, category: choice, tags: [short]}
"""
RIGHT = {"1": "Answer: 2", "2": "Answer: 3", "3": "Answer: B"}


@pytest.fixture
def asked(place: Place, service: Callable[..., Service]) -> Place:
    """Three entrants, two trials: `good` is right, `half` on what is picked, `slow` as good but slower."""

    def answering(right: tuple[str, ...]) -> Callable[[dict], tuple[int, bytes]]:
        def answer(content: dict) -> tuple[int, bytes]:
            number = content["messages"][-1]["content"].split()[2]
            return 200, completion(RIGHT[number] if number in right else "Answer: 17")

        return answer

    place.suite("sums", SUITE)
    place.entrant("good", service(answering(("1", "2", "3"))).url, "traits = {reasoning = true, size_b = 9}")
    place.entrant("half", service(answering(("3",))).url, "traits = {reasoning = false}")
    place.entrant("slow", service(answering(("1", "2", "3")), 0.3).url, "traits = {reasoning = true}")
    assert place.run("run", "sums", "--trials", "2").exit_code == 0
    return place


FILTERS = [
    (["--category", "sums"], {"sum-one", "sum-two"}, {"good", "half", "slow"}),
    (["--category", "sums", "--category", "choice"], {"sum-one", "sum-two", "pick"}, {"good", "half", "slow"}),
    (["--tag", "short"], {"sum-one", "pick"}, {"good", "half", "slow"}),
    (["--tag", "short", "--category", "sums"], {"sum-one"}, {"good", "half", "slow"}),
    (["--level", "b"], {"sum-two"}, {"good", "half", "slow"}),
    (["--question", "sum-*"], {"sum-one", "sum-two"}, {"good", "half", "slow"}),
    (["--question", "pick", "-e", "half"], {"pick"}, {"half"}),
    (["--where", "reasoning=true"], {"sum-one", "sum-two", "pick"}, {"good", "slow"}),
    (["--where", "reasoning=True", "--where", "size_b=9"], {"sum-one", "sum-two", "pick"}, {"good"}),
]


@pytest.mark.parametrize(("filters", "questions", "entrants"), FILTERS)
def test_a_filter_means_the_same_everywhere(
    asked: Place, filters: list[str], questions: set[str], entrants: set[str]
) -> None:
    board = asked.json("board", "sums", *filters)
    assert {row["entrant"] for row in board["rows"]} == entrants  # type: ignore[index]
    assert board["questions"] == len(questions)  # type: ignore[index]
    grid = asked.json("grid", "sums", *filters)
    assert {row["id"] for row in grid["questions"]} == questions  # type: ignore[index]
    assert set(grid["entrants"]) == entrants  # type: ignore[index]
    replies = asked.json("replies", "sums", *filters)
    assert {(one["question"], one["entrant"]) for one in replies} == {(q, e) for q in questions for e in entrants}  # type: ignore[index,union-attr]


def test_a_trial_can_be_looked_at_alone_and_what_was_chosen_is_said(asked: Place) -> None:
    assert {one["trial"] for one in asked.json("replies", "sums", "--trial", "2")} == {2}  # type: ignore[index,union-attr]
    assert asked.json("board", "sums", "--trial", "2")["rows"][0]["marked"] == 3  # type: ignore[index]
    assert "(category sums, trial 2)" in asked.run("board", "sums", "--trial", "2", "--category", "sums").stdout
    assert "(tag long)" in asked.run("grid", "sums", "--tag", "long").stdout


@pytest.mark.parametrize(
    ("filters", "said"),
    [
        (["--category", "sms"], "did you mean 'sums'"),
        (["--tag", "sort"], "did you mean 'short'"),
        (["--level", "c"], "the level 'c'"),
        (["--question", "sum-thr*"], "asks no question 'sum-thr*'"),
        (["--category", "choice", "--level", "b"], "fits all of"),
        (["--where", "reasning=true"], "did you mean 'reasoning'"),
        (["--where", "reasoning"], "TRAIT=VALUE"),
        (["--where", "reasoning=perhaps"], "no entrant fits"),
        (["-e", "goo"], "did you mean 'good'"),
    ],
)
@pytest.mark.parametrize("command", ["board", "grid", "replies"])
def test_a_filter_that_fits_nothing_is_told(place: Place, command: str, filters: list[str], said: str) -> None:
    place.suite("sums", SUITE)
    place.entrant("good", "standin:", "traits = {reasoning = true}")
    place.run("run", "sums")
    told = place.run(command, "sums", *filters)
    assert (told.exit_code, said in told.stderr) == (2, True), told.output


def test_rows_are_sorted_as_asked(asked: Place) -> None:
    slowest = [row["entrant"] for row in asked.json("board", "sums", "--sort", "-seconds")["rows"]]  # type: ignore[index]
    assert slowest[0] == "slow"
    named = [row["entrant"] for row in asked.json("board", "sums", "--sort", "entrant")["rows"]]  # type: ignore[index]
    assert named == ["good", "half", "slow"]
    worst = asked.json("board", "sums", "--sort", "sums")["rows"]  # type: ignore[index]
    assert (worst[0]["entrant"], worst[0]["rank"]) == ("half", 3)
    assert "Sorted by sums" in asked.run("board", "sums", "--sort", "sums").stdout
    hardest = [row["id"] for row in asked.json("grid", "sums", "--sort", "-mean")["questions"]]  # type: ignore[index]
    assert hardest[0] == "pick"
    first = asked.json("replies", "sums", "--sort", "-seconds")[0]  # type: ignore[index]
    assert first["entrant"] == "slow"
    assert "did you mean 'seconds'" in asked.run("replies", "sums", "--sort", "second").stderr


def test_the_grid_shows_what_is_compared(asked: Place) -> None:
    answers = asked.run("grid", "sums", "--show", "answer").stdout
    row = next(line for line in answers.splitlines() if line.startswith("sum-one"))
    assert [word for word in row.split() if word in ("■", "□", "2", "17")] == ["■", "2", "■", "2", "□", "17"]
    seconds = asked.json("grid", "sums", "--show", "seconds")["questions"][0]["cells"]  # type: ignore[index]
    assert seconds["slow"]["seconds"] > 0.3 > seconds["good"]["seconds"]
    tokens = asked.run("grid", "sums", "--show", "tokens", "--format", "csv").stdout
    (first, *_) = csv.DictReader(io.StringIO(tokens))
    assert first["good: tokens"] == "10"  # of two trials
    assert "Of several trials the sum." in asked.run("grid", "sums", "--show", "tokens").stdout


def test_replies_show_question_options_and_key_in_all_forms(asked: Place) -> None:
    chosen = ["replies", "sums", "--question", "pick", "-e", "good", "--trial", "1"]
    for form in ("table", "json", "jsonl", "csv", "markdown"):
        told = asked.run(*chosen, "--format", form).stdout
        assert "Which is 3 plus 1?" in told, form
        assert "three" in told, form
        assert "four" in told, form
    (one,) = asked.json(*chosen)  # type: ignore[misc]
    assert (one["asked"], one["options"], one["key"]) == ("Which is 3 plus 1?", {"A": "three", "B": "four"}, "B")


def test_only_where_they_came_out_differently(asked: Place) -> None:
    apart = asked.json("replies", "sums", "--differ")
    assert {one["question"] for one in apart} == {"sum-one", "sum-two"}  # type: ignore[index,union-attr]
    assert asked.json("replies", "sums", "--differ", "-e", "good", "-e", "slow") == []


def test_replies_stand_side_by_side(asked: Place) -> None:
    told = asked.run("replies", "sums", "--beside", "-e", "good", "-e", "half", "--question", "sum-one").stdout
    assert any("Answer: 2" in line and "│ Answer: 17" in line for line in told.splitlines())
    assert told.count("What is 1 plus 1?") == 2  # a block for each trial
    refused = asked.run("replies", "sums", "--beside", "-e", "good")
    assert (refused.exit_code, "two or three" in refused.stderr) == (2, True)


def test_each_on_its_own_edition_is_about_whole_editions(asked: Place) -> None:
    assert asked.run("suite", "seal", "sums", "--note", "first").exit_code == 0
    assert asked.run("board", "sums", "--each-own", "-e", "good").exit_code == 0
    refused = asked.run("board", "sums", "--each-own", "--category", "sums")
    assert (refused.exit_code, "whole editions" in refused.stderr) == (2, True)
