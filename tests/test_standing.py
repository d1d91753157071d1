"""Intervals, paired tests, boards and grids, against published values, enumeration and simulation."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.board import build_board
from dryquarry.standing.comparing import paired_p_value
from dryquarry.standing.grid import CellKind, build_grid
from dryquarry.standing.intervals import effective_count, score_interval
from dryquarry.standing.results import EntrantResults, Item, Result

# Newcombe, Statistics in Medicine 17 (1998) 857-872, table I, method 3 (score without continuity correction).
NEWCOMBE = [
    (81, 263, 0.2553, 0.3662),
    (15, 148, 0.0624, 0.1605),
    (0, 20, 0.0, 0.1611),
    (1, 29, 0.0061, 0.1718),
]


@pytest.mark.parametrize(("passed", "count", "low", "high"), NEWCOMBE)
def test_intervals_are_those_of_the_published_table(passed: int, count: int, low: float, high: float) -> None:
    got = score_interval(passed / count, count)
    assert (got.low, got.high) == pytest.approx((low, high), abs=5e-5)


@pytest.mark.parametrize("count", [13, 20, 56, 200])
def test_intervals_cover_the_truth_in_94_to_97_of_100(count: int) -> None:
    # Exact, by enumeration: the mean coverage over entrants whose true ability lies anywhere from 5 to 95 %.
    abilities = np.linspace(0.05, 0.95, 181)
    covered = np.zeros_like(abilities)
    for passed in range(count + 1):
        interval = score_interval(passed / count, count)
        holds = (interval.low <= abilities) & (abilities <= interval.high)
        covered += holds * stats.binom.pmf(passed, count, abilities)
    assert 0.94 <= covered.mean() <= 0.97


def test_intervals_cover_with_part_marks_and_weights() -> None:
    random = np.random.default_rng(20261123)
    weights = np.array([1.0, 2.0, 1.0, 3.0] * 8)
    covered = 0
    for _ in range(4000):
        ability = random.uniform(0.2, 0.8)
        # Half marks for a third of the replies, with the same expectation as pass or fail.
        half = random.random(32) < 1 / 3
        scores = np.where(half, random.binomial(2, ability, 32) / 2, random.binomial(1, ability, 32))
        interval = score_interval(float(np.average(scores, weights=weights)), effective_count(list(weights)))
        covered += interval.low <= ability <= interval.high
    assert covered / 4000 >= 0.94


@given(st.floats(0, 1), st.floats(0.5, 1e5))
def test_an_interval_holds_its_mean_and_stays_in_bounds(mean: float, count: float) -> None:
    got = score_interval(mean, count)
    assert 0 <= got.low <= mean + 1e-9
    assert mean - 1e-9 <= got.high <= 1


@pytest.mark.parametrize(("mean", "count"), [(0.5, 0), (1.5, 3), (-0.1, 3)])
def test_no_interval_without_observations_or_beyond_bounds(mean: float, count: float) -> None:
    with pytest.raises(ValueError, match="no interval"):
        score_interval(mean, count)


@pytest.mark.parametrize(("first", "second"), [(5, 0), (6, 0), (8, 2), (7, 7), (1, 0), (12, 3)])
def test_with_pass_and_fail_the_paired_test_is_the_exact_mcnemar_test(first: int, second: int) -> None:
    differences = [1.0] * first + [-1.0] * second + [0.0] * 9
    assert paired_p_value(differences) == pytest.approx(stats.binomtest(first, first + second).pvalue)


@given(st.lists(st.integers(-6, 6), min_size=1, max_size=9))
def test_the_paired_test_counts_all_sign_patterns(values: list[int]) -> None:
    differences = [value / 4 for value in values]
    nonzero = [value for value in differences if value]
    patterns = itertools.product((1, -1), repeat=len(nonzero))
    sums = [abs(sum(sign * value for sign, value in zip(signs, nonzero, strict=True))) for signs in patterns]
    slow = sum(total >= abs(sum(nonzero)) - 1e-9 for total in sums) / len(sums)
    assert paired_p_value(differences) == pytest.approx(slow)
    assert paired_p_value([-value for value in differences]) == pytest.approx(slow)


def test_the_paired_test_rejects_a_true_null_in_about_5_of_100() -> None:
    random = np.random.default_rng(7)
    rejected = 0
    for _ in range(3000):
        first, second = random.binomial(1, 0.7, 60), random.binomial(1, 0.7, 60)
        rejected += paired_p_value(list((first - second).astype(float))) < 0.05
    assert 0.03 <= rejected / 3000 <= 0.065


def result(question: str, score: float | None, outcome: Outcome = Outcome.ANSWERED, **more: object) -> Result:
    verdict = None if score is None else Verdict.PASS if score >= 0.6 else Verdict.FAIL
    return Result(question, 1, outcome, score, verdict, **more)  # type: ignore[arg-type]


ITEMS = [Item("a", 1, "x"), Item("b", 1, "x"), Item("c", 2, "y")]


def entrant(name: str, *results: Result) -> EntrantResults:
    return EntrantResults(name, name.title(), results)


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
    (row,) = board.rows
    assert (row.score, row.low, row.rank, row.passed, row.marked, row.asked) == (None, None, None, 0, 0, 3)
    assert board.notes == ("replies missing, or without a mark that counts: one 3 of 3",)


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


@pytest.mark.parametrize(("sat", "shown"), [(10, 2), (9, 1)])
def test_who_sat_half_of_the_questions_is_compared_and_who_sat_less_is_left_out(sat: int, shown: int) -> None:
    items = [Item(f"q{number}") for number in range(20)]
    whole = entrant("whole", *(result(item.question, 1.0) for item in items))
    hasty = entrant("hasty", *(result(item.question, 1.0) for item in items[:sat]))
    assert len(build_board("s", "1", items, [whole, hasty]).rows) == shown


def test_unsure_marks_tell_between_what_they_leave_a_score() -> None:
    items = [Item(name) for name in "abcd"]
    one = entrant("one", result("a", 1.0), result("b", 1.0, sure=False), result("c", 0.0, sure=False), result("d", 0.0))
    (row,) = build_board("s", "1", items, [one]).rows
    assert row.unsure is not None
    assert (row.score, row.unsure.marks, row.unsure.low, row.unsure.high) == (0.5, 2, 0.25, 0.75)
    cells = {line.item.question: line.cells["one"].unsure for line in build_grid("s", "1", items, [one]).rows}
    assert cells == {"a": False, "b": True, "c": True, "d": False}
