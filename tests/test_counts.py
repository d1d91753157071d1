"""A count means the same wherever it is shown, and its name says what it counts."""

from __future__ import annotations

from collections.abc import Callable

from conftest import ARITHMETIC, Place, Service, completion

QUESTIONS = """\
  - {id: q1, ask: What is 1 plus 1?, key: 2}
  - {id: q2, ask: What is 2 plus 1?, key: 3, state: pilot}
  - {id: q3, ask: What is 3 plus 1?, key: 4, state: retired, retired_because: too easy}
"""


def test_retired_questions_are_counted_apart_everywhere(place: Place) -> None:
    place.suite("sums", ARITHMETIC + QUESTIONS)
    (listed,) = place.json("suite", "list")  # type: ignore[misc]
    assert (listed["questions"], listed["retired"]) == (2, 1)
    assert "2 questions, 1 retired" in place.run("suite", "show", "sums").stdout
    assert place.json("suite", "check", "sums")["questions"] == 2  # type: ignore[index]
    assert place.json("suite", "history", "sums")["editions"][0]["questions"] == 2  # type: ignore[index]
    exported = place.run("suite", "export", "sums", "--out", "out.jsonl").stderr
    assert "2 questions, 1 retired" in exported
    assert (place.root / "out.jsonl").read_text().count("\n") == 3


def test_replies_and_questions_passed_are_told_apart(place: Place, service: Callable[..., Service]) -> None:
    replies = iter(["Answer: 2", "Answer: 2", "Answer: 3"])
    place.suite("sums", ARITHMETIC + QUESTIONS.splitlines()[0] + "\n")
    place.entrant("wick", service(lambda content: (200, completion(next(replies)))).url)
    assert place.run("run", "sums", "--trials", "3").exit_code == 0
    board, grid = place.run("board", "sums").stdout, place.run("grid", "sums").stdout
    assert "replies passed" in board
    assert "2 of 3" in board
    assert "questions passed   " in grid
    assert "0/1" in grid
    assert "passed where each trial is" in grid
