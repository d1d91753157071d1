"""Intervals and paired tests against published values, enumeration, independent formulas and simulated truth."""

from __future__ import annotations

import itertools

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from dryquarry.standing import paired
from dryquarry.standing.intervals import (
    design_effect,
    effective_count,
    mid_p_interval,
    score_interval,
    trials_interval,
    variance_ratio,
)
from dryquarry.standing.paired import adjusted_p_values, compare, paired_p_value, places_of
from dryquarry.standing.repeats import repeats_of

# Newcombe, Statistics in Medicine 17 (1998) 857-872, table I, method 6 (mid-P).
MID_P = [(81, 263, 0.2544, 0.3658), (15, 148, 0.0601, 0.1581), (0, 20, 0.0, 0.1391), (1, 29, 0.0017, 0.1585)]


def apart(count: int) -> np.ndarray:
    return np.arange(count)


@pytest.mark.parametrize(("passed", "count", "low", "high"), MID_P)
def test_intervals_are_those_of_the_published_table(passed: int, count: int, low: float, high: float) -> None:
    got = mid_p_interval(passed / count, count)
    assert (got.low, got.high) == pytest.approx((low, high), abs=5e-5)


@pytest.mark.parametrize(("passed", "count"), [(0, 5), (1, 7), (9, 13), (13, 13), (150, 200)])
def test_the_ends_are_where_the_mid_p_test_is_at_5_in_100(passed: int, count: int) -> None:
    got = mid_p_interval(passed / count, count)
    for end, tail in ((got.low, 1 - passed / count < 2), (got.high, False)):
        if end in (0.0, 1.0):
            continue
        exactly = stats.binom.pmf(passed, count, end)
        beyond = stats.binom.sf(passed, count, end) if tail else stats.binom.cdf(passed - 1, count, end)
        assert beyond + exactly / 2 == pytest.approx(0.025, abs=1e-6)


@pytest.mark.parametrize("count", [13, 20, 56, 200])
def test_intervals_cover_95_of_100_by_enumeration(count: int) -> None:
    abilities = np.linspace(0.05, 0.95, 181)
    covered = np.zeros_like(abilities)
    for passed in range(count + 1):
        got = mid_p_interval(passed / count, count)
        covered += ((got.low <= abilities) & (abilities <= got.high)) * stats.binom.pmf(passed, count, abilities)
    assert 0.945 <= covered.mean() <= 0.97
    assert covered.min() >= 0.90


@given(st.floats(0, 1), st.floats(0.01, 1e5))
def test_an_interval_holds_its_mean_and_stays_in_bounds(mean: float, count: float) -> None:
    got = mid_p_interval(mean, count)
    assert 0 <= got.low <= mean + 1e-9
    assert mean - 1e-9 <= got.high <= 1


@pytest.mark.parametrize(("mean", "count"), [(0.5, 0), (1.5, 3), (-0.1, 3), (0.5, float("nan"))])
def test_no_interval_without_observations_or_beyond_bounds(mean: float, count: float) -> None:
    with pytest.raises(ValueError, match="no interval"):
        mid_p_interval(mean, count)


def test_pass_and_fail_need_no_estimated_variance() -> None:
    scores, ones = np.array([1.0, 0, 1, 1, 0, 1, 1]), np.ones(7)
    assert variance_ratio(scores, ones) == (1.0, False)
    assert score_interval(scores, ones, apart(7)) == mid_p_interval(5 / 7, 7)
    assert effective_count(np.array([1.0, 1, 2])) == pytest.approx(16 / 6)


def test_families_that_wholly_agree_count_as_one_question_each() -> None:
    families = np.repeat(np.arange(10), 4)
    agreeing = np.repeat(np.array([1.0, 0, 1, 1, 1, 0, 1, 1, 0, 1]), 4)
    assert design_effect(agreeing, np.ones(40), families)[0] == pytest.approx(4, rel=0.1)
    assert design_effect(agreeing, np.ones(40), apart(40)) == (1.0, 40)
    wide, narrow = (score_interval(agreeing, np.ones(40), one) for one in (families, apart(40)))
    assert wide.high - wide.low > 1.8 * (narrow.high - narrow.low)


def covering(count: int, kind: str, boards: int = 400) -> float:
    """How often the interval covers the truth, where questions are drawn anew each time."""
    random = np.random.default_rng(20261126)
    levels = np.linspace(-8, 8, 2001)
    density = np.exp(-(levels**2) / 2)
    truth = float(np.average(1 / (1 + np.exp(-(1.2 + 1.5 * levels))), weights=density))
    covered = 0
    for _ in range(boards):
        families = apart(count) // 4 if kind.startswith("families") else apart(count)
        hard = (
            random.standard_normal(families.max() + 1)[families]
            if kind == "families alike"
            else random.standard_normal(count)
        )
        chance = 1 / (1 + np.exp(-(1.2 + 1.5 * hard)))
        if kind == "families agree":
            each = 1 / (1 + np.exp(-(1.2 + 1.5 * random.standard_normal(families.max() + 1))))
            scores = (random.random(len(each)) < each)[families].astype(float)
        elif kind == "five trials":
            scores = random.binomial(5, chance) / 5
        else:
            scores = (random.random(count) < chance).astype(float)
        weights = random.choice([1.0, 1.0, 2.0, 4.0], count) if kind == "weights" else np.ones(count)
        got = score_interval(scores, weights, families)
        covered += got.low <= truth <= got.high
    return covered / boards


@pytest.mark.parametrize("count", [13, 50])
@pytest.mark.parametrize("kind", ["plain", "five trials", "weights", "families alike", "families agree"])
def test_intervals_cover_the_truth(count: int, kind: str) -> None:
    # 400 boards: a coverage of 0.92 shows as less than 0.89 in 1 of 100 such tests
    assert covering(count, kind) >= 0.92


def test_intervals_over_new_trials_cover_the_truth() -> None:
    random = np.random.default_rng(7)
    for trials in (2, 5):
        covered = 0
        for _ in range(400):
            chance = 1 / (1 + np.exp(-(1.5 + 1.5 * random.standard_normal(27))))
            passed = random.random((trials, 27)) < chance
            got = trials_interval(passed.mean(0), np.ones(27), passed.var(0, ddof=1), np.full(27, float(trials)))
            covered += got.low <= chance.mean() <= got.high
        assert covered / 400 >= 0.92


def p_value(differences: list[float]) -> float:
    values = np.array(differences, dtype=float)
    return paired_p_value(values, np.ones(len(values)), apart(len(values)))


@pytest.mark.parametrize(("first", "second"), [(5, 0), (6, 0), (8, 2), (7, 7), (1, 0), (12, 3), (40, 20), (300, 250)])
def test_with_pass_and_fail_the_paired_test_is_the_exact_mcnemar_test(first: int, second: int) -> None:
    differences = [1.0] * first + [-1.0] * second + [0.0] * 9
    assert p_value(differences) == pytest.approx(stats.binomtest(first, first + second).pvalue)


@given(st.lists(st.integers(-6, 6), min_size=1, max_size=9))
def test_the_paired_test_counts_all_sign_patterns(values: list[int]) -> None:
    differences = [value / 4 for value in values]
    nonzero = [value for value in differences if value]
    patterns = itertools.product((1, -1), repeat=len(nonzero))
    sums = [abs(sum(sign * value for sign, value in zip(signs, nonzero, strict=True))) for signs in patterns]
    slow = sum(total >= abs(sum(nonzero)) - 1e-9 for total in sums) / len(sums)
    assert p_value(differences) == pytest.approx(slow)
    assert p_value([-value for value in differences]) == pytest.approx(slow)


def test_drawn_sign_patterns_come_near_all_of_them() -> None:
    random = np.random.default_rng(3)
    differences = random.normal(0.25, 1, 18)
    signs = np.array(list(itertools.product((1, -1), repeat=18)))
    exact = float((np.abs(signs @ differences) >= abs(differences.sum()) - 1e-9).mean())
    assert p_value(list(differences)) == pytest.approx(exact, abs=0.012)


def test_a_family_counts_once() -> None:
    # six families of four that all speak for the first: as six questions would, not as twenty-four
    differences, families = np.ones(24), np.repeat(np.arange(6), 4)
    assert paired_p_value(differences, np.ones(24), families) == pytest.approx(2 / 2**6)


def test_equal_entrants_are_seldom_told_apart() -> None:
    random = np.random.default_rng(11)
    false = 0
    for _ in range(200):
        chance = 1 / (1 + np.exp(-(0.8 + 1.5 * random.standard_normal(60))))
        scores = (random.random((5, 60)) < chance).astype(float)
        false += bool((adjusted_p_values(scores, np.ones(60), apart(60)) < 0.05).any())
    assert false / 200 <= 0.085  # of a true 0.05 more than that comes in 1 of 100


def test_differences_are_taken_in_parts_that_change_nothing(monkeypatch: pytest.MonkeyPatch) -> None:
    scores = (np.random.default_rng(4).random((6, 40)) < 0.7).astype(float)
    at_once = adjusted_p_values(scores, np.ones(40), apart(40))
    assert ((at_once > 0.05) & (at_once < 0.95)).any()
    monkeypatch.setattr(paired, "_IN_CACHE", 15 * 700)  # of 15 pairs, 700 of the flips at a time
    assert np.array_equal(adjusted_p_values(scores, np.ones(40), apart(40)), at_once)


def test_all_pairs_at_once_are_never_told_apart_more_readily_than_one_pair() -> None:
    random = np.random.default_rng(5)
    scores = (random.random((6, 40)) < np.linspace(0.3, 0.9, 6)[:, None]).astype(float)
    adjusted = adjusted_p_values(scores, np.ones(40), apart(40))
    for one, other in itertools.combinations(range(6), 2):
        alone = paired_p_value(scores[one] - scores[other], np.ones(40), apart(40))
        assert (adjusted[one, other] >= 0.05) or alone < 0.05
        assert adjusted[one, other] == adjusted[other, one]
    assert adjusted[0, 5] < 0.05


def test_bands_and_ranks_follow_from_what_is_told_apart() -> None:
    # a above c and d, b above d, c above nobody
    means = np.array([0.9, 0.8, 0.6, 0.5])
    p_values = np.ones((4, 4))
    for one, other in ((0, 2), (0, 3), (1, 3)):
        p_values[one, other] = p_values[other, one] = 0.01
    got = places_of(means, p_values)
    assert got.bands == (1, 1, 2, 2)
    assert (got.lowest, got.highest) == ((1, 1, 2, 3), (2, 3, 4, 4))


def test_a_comparison_has_the_clustered_error_of_an_independent_formula() -> None:
    random = np.random.default_rng(9)
    first, second, families = random.random(40), random.random(40), np.repeat(np.arange(10), 4)
    got = compare(first, second, np.ones(40), families)
    assert got is not None
    # CR1 by hand, over the families and two imaginary ones, one won and one lost
    differences = np.append(first - second, [1.0, -1.0])
    residuals = differences - differences.mean()
    sums = [residuals[4 * number : 4 * number + 4].sum() for number in range(10)] + list(residuals[40:])
    error = (sum(value**2 for value in sums) * 12 / 11) ** 0.5 / 42
    assert got.standard_error == pytest.approx(error)
    assert got.interval.high - got.difference == pytest.approx(error * stats.t.ppf(0.975, 9))


def test_entrants_that_share_nothing_are_not_compared() -> None:
    nothing = np.array([np.nan, 1.0])
    assert compare(nothing, np.array([1.0, np.nan]), np.ones(2), apart(2)) is None


def test_at_least_once_and_every_time_by_enumeration() -> None:
    passes = [(2, 5, 1.0), (5, 5, 2.0), (0, 4, 1.0)]
    got = repeats_of(*(np.array(column) for column in zip(*passes, strict=True)))
    assert got is not None
    once = every = total = 0.0
    for passed, trials, weight in passes:
        drawn = list(itertools.combinations([1] * passed + [0] * (trials - passed), 4))
        once += weight * sum(any(one) for one in drawn) / len(drawn)
        every += weight * sum(all(one) for one in drawn) / len(drawn)
        total += weight
    assert (got.trials, got.once, got.every) == pytest.approx((4, once / total, every / total))
    assert repeats_of(np.array([1]), np.array([1]), np.ones(1)) is None


def test_trials_and_part_scores_narrow_the_interval() -> None:
    scores = np.tile([0.8, 0.6, 1.0, 0.6, 0.8, 0.4], 9)
    wide = mid_p_interval(float(scores.mean()), len(scores))
    narrow = score_interval(scores, np.ones(54), apart(54))
    assert narrow.high - narrow.low < 0.6 * (wide.high - wide.low)


def test_who_is_below_somebody_of_band_2_is_in_band_3() -> None:
    p_values = np.full((3, 3), 0.01)
    assert places_of(np.array([0.9, 0.6, 0.3]), p_values).bands == (1, 2, 3)
