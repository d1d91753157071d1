"""Boards that hardly are any: every command of the standings says so, and none breaks."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from conftest import Place, arithmetic_suite, completion

# How many questions, how many entrants, and whether an entrant passes a question.
ODD: dict[str, tuple[int, int, Callable[[int, int], bool]]] = {
    "one question": (1, 3, lambda entrant, number: entrant == 0),
    "one entrant": (5, 1, lambda entrant, number: number < 3),
    "all pass": (6, 4, lambda entrant, number: True),
    "all fail": (6, 4, lambda entrant, number: False),
    "two questions, two entrants": (2, 2, lambda entrant, number: entrant == number),
}
COMMANDS = (
    ["board", "sums", "--baseline", "wader-0"],
    ["board", "sums", "--these-questions", "--picture", "x.png"],
    ["board", "sums", "--picture-of", "cost", "--picture", "x.png"],
    ["board", "sums", "--picture-of", "seconds", "--picture", "x.png"],
    ["board", "sums", "--picture-of", "categories", "--picture", "x.png"],
    ["board", "sums", "--picture-of", "trials", "--picture", "x.png"],
    ["board", "sums", "--failures"],
    ["board", "sums", "--equated"],
    ["items", "sums", "--picture", "x.png"],
    ["items", "sums", "--families"],
    ["items", "sums", "--smaller", "2"],
    ["grid", "sums", "--picture", "x.png"],
    ["versus", "wader-0", "wader-1", "--on", "sums", "--picture", "x.png", "--gate", "no worse than 0.1"],
    ["history", "sums", "-e", "wader-0", "--picture", "x.png"],
)


def tried(place: Place, expected: tuple[int, ...] = (0, 1, 2)) -> None:
    for command in COMMANDS:
        told = place.run(*command)
        assert told.exit_code in expected, (command, told.output)
        assert told.exit_code != 2 or "dryquarry: " in told.stderr, command
        assert "nan" not in told.stdout.lower(), (command, told.stdout)


@pytest.mark.parametrize("odd", ODD)
def test_odd_boards_are_borne(place: Place, service: Callable, odd: str) -> None:
    questions, entrants, passes = ODD[odd]
    place.suite("sums", arithmetic_suite(questions))
    for one in range(entrants):

        def answer(content: dict, one: int = one) -> tuple[int, bytes]:
            number = int(content["messages"][-1]["content"].split()[2])
            return 200, completion(f"Answer: {number + 1 if passes(one, number) else 99}")

        place.entrant(
            f"wader-{one}", service(answer).url, f'title = "{"Wader of the outer saltmarsh, long winged " * 2}"'
        )
    assert place.run("run", "sums").exit_code == 0
    tried(place)


@pytest.mark.parametrize("how", ["void", "open"])
def test_nothing_that_counts_is_borne(place: Place, service: Callable, how: str) -> None:
    rows = arithmetic_suite(3)
    if how == "open":
        rows = rows.replace("mark: {scheme: number}", "mark: {scheme: hand}")
    place.suite("sums", rows)
    for one in range(2):
        place.entrant(f"wader-{one}", service(lambda content: (200, completion("Answer: 1"))).url)
    assert place.run("run", "sums").exit_code == 0
    for number in range(3) if how == "void" else ():
        done = place.run(
            "mark", "sums", "--question", f"q{number}", "--set", "void", "--because", "the premise is wrong"
        )
        assert done.exit_code == 0, done.output
    tried(place)
