"""Boards and grids: what stands on them, and who is ranked."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dryquarry.errors import FileFault
from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.showing.pictures.board import draw_board
from dryquarry.showing.pictures.frame import Caption
from dryquarry.standing.board import build_board
from dryquarry.standing.grid import CellKind, build_grid
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item, Result


def result(question: str, score: float | None, outcome: Outcome = Outcome.ANSWERED, **more: object) -> Result:
    verdict = None if score is None else Verdict.PASS if score >= 0.6 else Verdict.FAIL
    return Result(question, 1, outcome, score, verdict, **more)  # type: ignore[arg-type]


ITEMS = [Item("a", 1, "x"), Item("b", 1, "x"), Item("c", 2, "y")]


def entrant(name: str, *results: Result) -> EntrantResults:
    return EntrantResults.of(name, name.title(), results)


def test_a_board_row_says_what_it_stands_on() -> None:
    one = entrant(
        "one",
        result("a", 1.0, seconds=1.0, output_tokens=10, cost=0.5),
        result("b", 0.0, Outcome.REFUSED, seconds=3.0, output_tokens=20, cost=0.25),
        result("c", 0.5, seconds=2.0, output_tokens=30, cost=0.25),
    )
    (row,) = build_board("s", "draft", ITEMS, [one]).rows
    assert row.score == pytest.approx((1 + 0 + 2 * 0.5) / 4)
    assert (row.passed, row.marked, row.asked) == (1, 3, 3)
    assert row.categories == {"x": 0.5, "y": 0.5}
    assert row.outcomes == {"answered": 2, "refused": 1}
    assert (row.median_s, row.output_tokens, row.cost) == (2.0, 60, 1.0)


def test_a_failed_open_or_void_reply_never_counts_as_wrong() -> None:
    opened = Result("b", 1, Outcome.ANSWERED, None, Verdict.OPEN)
    void = Result("c", 1, Outcome.ANSWERED, None, Verdict.VOID)
    board = build_board("s", "draft", ITEMS, [entrant("one", result("a", None, Outcome.FAILED), opened, void)])
    marked = Result("a", 1, Outcome.FAILED, 1.0, Verdict.PASS)
    assert build_board("s", "draft", ITEMS, [entrant("one", marked)]).rows[0].marked == 0
    (row,) = board.rows
    assert (row.score, row.low, row.rank, row.passed, row.marked, row.asked) == (None, None, None, 0, 0, 3)
    assert row.unfinished is not None
    assert (row.unfinished.missing, row.unfinished.bounds.low, row.unfinished.bounds.high) == (3, 0.0, 1.0)


def test_ranks_are_shared_and_bands_part_what_the_data_can_tell_apart() -> None:
    items = [Item(f"q{n}") for n in range(20)]

    def scored(name: str, passes: int) -> EntrantResults:
        return entrant(name, *(result(item.question, float(place < passes)) for place, item in enumerate(items)))

    board = build_board("s", "1", items, [scored("low", 5), scored("mid", 18), scored("top", 20), scored("too", 20)])
    assert [(row.entrant, row.rank, row.band) for row in board.rows] == [
        ("too", 1, 1), ("top", 1, 1), ("mid", 3, 1), ("low", 4, 2)
    ]  # fmt: skip


def test_a_grid_tells_every_kind_of_cell_apart() -> None:
    items = [Item(name) for name in "abcdefg"]
    one = entrant(
        "one",
        result("a", 1.0),
        result("b", 0.7),
        result("c", 0.0),
        Result("d", 1, Outcome.ANSWERED, None, Verdict.OPEN),
        Result("e", 1, Outcome.ANSWERED, None, Verdict.VOID),
        result("f", 0.0, Outcome.TIMED_OUT),
    )
    grid = build_grid("s", "draft", items, [one])
    kinds = [row.cells["one"].kind for row in grid.rows]
    assert kinds == [CellKind.PASS, CellKind.PART, CellKind.FAIL, CellKind.OPEN, CellKind.VOID,
                     CellKind.NO_ANSWER, CellKind.NOT_ASKED]  # fmt: skip
    assert (grid.totals["one"].passed, grid.totals["one"].counted) == (2, 4)
    assert grid.rows[1].mean == 0.7
    assert grid.rows[6].mean is None


@pytest.mark.parametrize(("differing", "band"), [(5, 1), (6, 2)])
def test_a_band_opens_at_a_paired_test_of_5_in_100_and_not_before(differing: int, band: int) -> None:
    # all on one side: p = 2 / 2^5 = 0.0625 tells nothing apart, 2 / 2^6 = 0.03125 does
    items = [Item(f"q{number}") for number in range(12)]
    top = entrant("top", *(result(item.question, 1.0) for item in items))
    low = entrant("low", *(result(item.question, float(place >= differing)) for place, item in enumerate(items)))
    assert [row.band for row in build_board("s", "1", items, [top, low]).rows] == [1, band]


def names(*rows: str) -> list[EntrantResults]:
    """Entrants from their marks in words, one sign a question: 1 passed, 0 failed, x failed to come, ? open, - never sent."""
    marks = {
        "1": lambda name: [result(name, 1.0)],
        "0": lambda name: [result(name, 0.0)],
        "x": lambda name: [result(name, None, Outcome.FAILED)],
        "?": lambda name: [Result(name, 1, Outcome.ANSWERED, None, Verdict.OPEN)],
        "-": lambda name: [],
    }
    return [
        entrant(f"e{number}", *(one for place, sign in enumerate(row) for one in marks[sign](f"q{place}")))
        for number, row in enumerate(rows)
    ]


# Marks by entrant; which questions count; each one's rank (None below the line) and the score on what it has.
CASES = {
    "all have all": (["1110", "1100"], 4, [1, 2], [0.75, 0.5]),
    "one failed request takes one out of the ranks, and nobody else's row changes": (
        ["1110", "110x", "1000"], 4, [1, None, 2], [0.75, 2 / 3, 0.25],
    ),
    "one passed question and the rest failed is no first place": (["1110", "1xxx", "1100"], 4, [1, None, 2], [0.75, 1.0, 0.5]),
    "never sent is as missing as failed": (["1110", "1---", "1100"], 4, [1, None, 2], [0.75, 1.0, 0.5]),
    "so is what nobody has marked": (["1110", "1?00", "1100"], 4, [1, None, 2], [0.75, 1 / 3, 0.5]),
    "of two, one that lacks some changes nothing for the other": (["1110", "1xxx"], 4, [1, None], [0.75, 1.0]),
    "alone, who lacks some has no rank": (["11x0"], 4, [None], [2 / 3]),
    "what half of the entrants and more than one lack is left out for all": (["1110", "111x", "110-", "1000"], 3, [1, 1, 3, 4], [1.0, 1.0, 2 / 3, 1 / 3]),
    "what less than half lack stays": (["1110", "111x", "1101", "1000", "1111"], 4, [2, None, 2, 4, 1], [0.75, 1.0, 0.75, 0.25, 1.0]),
    "open for all is left out for all": (["111?", "110?", "100?"], 3, [1, 2, 3], [1.0, 2 / 3, 1 / 3]),
    "who has nothing at all counts as nobody": (["1110", "1100", "----", "xxxx"], 4, [1, 2, None, None], [0.75, 0.5, None, None]),
    "where nobody has anything nobody is ranked": (["xx", "??"], 2, [None, None], [None, None]),
}  # fmt: skip


@pytest.mark.parametrize("case", CASES)
def test_who_is_compared_on_what(case: str) -> None:
    rows, questions, ranks, scores = CASES[case]
    items = [Item(f"q{place}") for place in range(len(rows[0]))]
    board = build_board("s", "1", items, names(*rows))
    by_name = {row.entrant: row for row in board.rows}
    got = [by_name[f"e{number}"] for number in range(len(rows))]
    assert (board.questions, [row.rank for row in got]) == (questions, ranks)
    assert [row.score for row in got] == pytest.approx(scores)
    for row in got:
        assert (row.rank is None) == (row.band is None) == (row.low is None) == (row.unfinished is not None)
    assert [row.unfinished is None for row in board.rows] == sorted((rank is not None for rank in ranks), reverse=True)


@given(
    st.lists(st.text("01", min_size=8, max_size=8), min_size=2, max_size=5), st.text("01x?-", min_size=8, max_size=8)
)
def test_an_unfinished_entrant_changes_nobodys_row(whole: list[str], more: str) -> None:
    items = [Item(f"q{place}") for place in range(8)]
    before = build_board("s", "1", items, names(*whole)).rows
    after = build_board("s", "1", items, names(*whole, more + "")).rows
    if "x" in more or "?" in more or "-" in more:
        assert [row for row in after if row.unfinished is None] == list(before)


def test_voided_for_all_counts_for_nobody_and_voided_for_one_is_missing_for_it() -> None:
    items = [Item(f"q{place}") for place in range(3)]
    assert build_board("s", "1", items, names("110", "100"), void=["q0"]).questions == 2
    one = entrant("one", result("q0", 1.0), result("q1", 1.0), Result("q2", 1, Outcome.ANSWERED, None, Verdict.VOID))
    board = build_board("s", "1", items, [one, *names("111")])
    assert [(row.entrant, row.rank) for row in board.rows] == [("e0", 1), ("one", None)]


def test_on_request_only_what_all_have_counts() -> None:
    items = [Item(f"q{place}") for place in range(4)]
    board = build_board("s", "1", items, names("1110", "11-0", "1x00"), shared=True)
    assert (board.questions, board.left_out, [row.rank for row in board.rows]) == (2, ("q1", "q2"), [1, 1, 1])


def test_an_unfinished_entrant_has_bounds_and_a_comparison_on_what_both_have() -> None:
    items = [Item(f"q{place}") for place in range(20)]
    board = build_board("s", "1", items, names("1" * 20, "0" * 12 + "1" * 4 + "x" * 4, "1" * 6 + "x" * 4 + "1" * 10))
    low, part = (next(row for row in board.rows if row.entrant == name).unfinished for name in ("e1", "e2"))
    assert low is not None
    assert part is not None
    assert (low.missing, low.bounds.low, low.bounds.high) == (4, 0.2, 0.4)
    assert low.comparison is not None
    assert (low.against, low.comparison.questions, low.comparison.difference) == ("e0", 16, -0.75)
    assert (low.decided, part.decided) == ("below", None)


def test_a_baseline_is_compared_on_what_each_pair_shares() -> None:
    items = [Item(f"q{place}") for place in range(4)]
    board = build_board("s", "1", items, names("1110", "1100", "10x1"), baseline="e1")
    found = {row.entrant: row.against_baseline for row in board.rows}
    assert found["e1"] is None
    assert found["e0"] is not None
    assert (found["e0"].questions, found["e0"].difference) == (4, 0.25)
    assert found["e2"] is not None
    assert (found["e2"].questions, found["e2"].difference) == (3, 0.0)


def test_repeated_trials_tell_what_passes_once_always_and_differs() -> None:
    # q0 1 of 3, q1 3 of 3, q2 0 of 3: Chen et al.'s estimators at k = 3, and pairs of trials that differ
    scores = {"q0": (1, 0, 0), "q1": (1, 1, 1), "q2": (0, 0, 0)}
    results = [
        Result(name, trial, Outcome.ANSWERED, float(score), Verdict.PASS if score else Verdict.FAIL)
        for name, each in scores.items()
        for trial, score in enumerate(each, start=1)
    ]
    (row,) = build_board("s", "1", [Item(name) for name in scores], [entrant("one", *results)]).rows
    assert row.repeats is not None
    assert (row.repeats.trials, row.repeats.once, row.repeats.every) == pytest.approx((3, 2 / 3, 1 / 3))
    assert row.repeats.apart == pytest.approx((2 / 3) / 3)


def test_unsure_marks_tell_between_what_they_leave_a_score() -> None:
    items = [Item(name) for name in "abcd"]
    one = entrant("one", result("a", 1.0), result("b", 1.0, sure=False), result("c", 0.0, sure=False), result("d", 0.0))
    (row,) = build_board("s", "1", items, [one]).rows
    assert row.unsure is not None
    assert (row.score, row.unsure.marks, row.unsure.low, row.unsure.high) == (0.5, 2, 0.25, 0.75)
    cells = {line.item.question: line.cells["one"].unsure for line in build_grid("s", "1", items, [one]).rows}
    assert cells == {"a": False, "b": True, "c": True, "d": False}


@pytest.mark.parametrize("ending", ["png", "svg", "pdf"])
def test_a_board_of_any_size_is_drawn_in_each_format(tmp_path: Path, ending: str) -> None:
    items = [Item(f"q{place}") for place in range(12)]
    rows = ["1" * (12 - number % 12) + "0" * (number % 12) for number in range(40)] + ["1" * 6 + "x" * 6]
    everyone = [replace(one, title=f"$5 {one.entrant} " + "long " * 12) for one in names(*rows)]
    for shown in (everyone, everyone[:1], names("xxxx")):
        path = tmp_path / f"board-{len(shown)}.{ending}"
        draw_board(
            build_board("s", "1", items, shown), path, Caption("A title with $", "2026-11-26", narrow=ending == "png")
        )
        assert path.stat().st_size > 3000
    with pytest.raises(FileFault, match="cannot be written"):
        draw_board(
            build_board("s", "1", items, everyone[:2]), tmp_path / "no" / "where.png", Caption("t", "2026-11-26")
        )


@pytest.mark.parametrize("weights", [[0.0] * 4, [0.0, 1000.0, 1.0, 0.0], [1000.0] * 4])
def test_weights_of_nothing_and_of_much_are_borne(weights: list[float]) -> None:
    items = [Item(f"q{place}", weight) for place, weight in enumerate(weights)]
    rows = build_board("s", "1", items, names("1110", "0011", "1x00")).rows
    for row in rows:
        assert row.score is None or 0 <= row.score <= 1
        assert row.low is None or 0 <= row.low <= (row.score or 0) <= (row.high or 0) <= 1


def test_one_family_of_all_questions_shows_next_to_nothing() -> None:
    items = [Item(f"q{place}", family="one") for place in range(20)]
    top, low = build_board("s", "1", items, names("1" * 20, "0" * 10 + "1" * 10)).rows
    assert (top.band, low.band) == (1, 1)
    assert low.low is not None
    assert low.high is not None
    assert low.high - low.low > 0.9
