"""Agreement of those who mark: published tables, known results, and judges with planted habits."""

import numpy as np
import pytest

from dryquarry.standing.agreement import (
    intraclass_correlation,
    jackknife,
    kappa,
    mean_of,
    negative_agreement,
    positive_agreement,
    slope_beside,
    weighted_kappa,
)
from dryquarry.standing.audits import Auditable, draw_audit
from dryquarry.standing.judge_checks import Pair, Trust, agreement_of, biases_by, family_favour, length_slope, trust_in

# Six targets, four judges: Shrout & Fleiss (1979), table 2; ICC(2,1) is .29 there.
SHROUT_FLEISS = np.array([[9, 2, 5, 8], [6, 1, 3, 2], [8, 4, 6, 8], [7, 1, 2, 6], [10, 5, 6, 9], [6, 2, 4, 7]], float)


def flags(both: int, first: int, second: int, neither: int) -> tuple[np.ndarray, np.ndarray]:
    one = [True] * (both + first) + [False] * (second + neither)
    other = [True] * both + [False] * first + [True] * second + [False] * neither
    return np.array(one), np.array(other)


def test_the_intraclass_correlation_is_that_of_the_published_table() -> None:
    assert intraclass_correlation(SHROUT_FLEISS) == pytest.approx(0.29, abs=0.005)
    assert intraclass_correlation(np.column_stack([SHROUT_FLEISS[:, 0]] * 2)) == pytest.approx(1.0)
    assert intraclass_correlation(np.ones((3, 2))) is None


def test_kappa_and_what_prevalence_does_to_it_are_as_published() -> None:
    # Feinstein & Cicchetti (1990): the same agreement of .85, with kappas of .70 and .32 as prevalence goes.
    even, lopsided = flags(40, 9, 6, 45), flags(80, 10, 5, 5)
    assert kappa(*even) == pytest.approx(0.70, abs=0.005)
    assert kappa(*lopsided) == pytest.approx(0.32, abs=0.005)
    # Cicchetti & Feinstein (1990): positive .84 and negative .86 for the first, .91 and .40 for the second.
    assert positive_agreement(*even) == pytest.approx(0.842, abs=0.005)
    assert negative_agreement(*even) == pytest.approx(0.857, abs=0.005)
    assert positive_agreement(*lopsided) == pytest.approx(0.914, abs=0.005)
    assert negative_agreement(*lopsided) == pytest.approx(0.40, abs=0.005)
    assert kappa(np.ones(5, bool), np.ones(5, bool)) is None


def test_quadratic_kappa_of_two_levels_is_kappa_and_sees_a_shift() -> None:
    one, other = flags(40, 9, 6, 45)
    assert weighted_kappa(one.astype(float), other.astype(float)) == pytest.approx(kappa(one, other))
    scores = np.linspace(0, 1, 11)
    assert weighted_kappa(scores, scores) == pytest.approx(1.0)
    assert weighted_kappa(scores, scores + 0.3) < 0.8


def test_the_jackknife_of_a_mean_is_the_t_interval_of_the_groups() -> None:
    from scipy import stats

    values, groups = np.random.default_rng(1).normal(size=12), np.arange(12)
    found = mean_of(values, groups)
    low, high = stats.t.interval(0.95, 11, values.mean(), stats.sem(values))
    assert (found.low, found.high) == (pytest.approx(low), pytest.approx(high))
    assert jackknife(lambda at: 1.0, np.array([0, 0, 1])).low is None
    assert slope_beside(np.ones(5), np.ones(5), np.arange(5.0)) is None


def pairs(
    seed: int, *, lenient: float = 0.0, by_length: float = 0.0, own: float = 0.0, noise: float = 0.1
) -> list[Pair]:
    """Forty replies to ten questions, marked by a judge with these habits."""
    chance, made = np.random.default_rng(seed), []
    for number in range(40):
        words, family = int(chance.integers(20, 220)), number % 4 == 0
        hand = round(float(chance.uniform(0, 1)), 1)
        judge = hand + lenient + by_length * (words - 120) / 100 + own * family + chance.normal(0, noise)
        judge = float(np.clip(judge, 0, 1))
        made.append(Pair(f"q{number % 10}", judge, judge >= 0.6, hand, hand >= 0.6, words, "letters", family, {"fact": (judge, hand)}))  # fmt: skip
    return made


def found(of: str, **habits: float) -> int:
    """In how many of 40 checks a habit is told, of a judge that has it (or none)."""
    told = 0
    for seed in range(40):
        made = pairs(seed, **habits)
        estimate = {
            "bias": agreement_of(made).bias,
            "length": length_slope(made),
            "own": family_favour(made),
            "criterion": biases_by(made)[0]["fact"],
        }[of]
        told += estimate.tells
    return told


@pytest.mark.parametrize(
    ("habit", "planted"), [("bias", {"lenient": 0.12}), ("length", {"by_length": 0.15}), ("own", {"own": 0.25})]
)
def test_a_planted_habit_is_found_at_forty_hand_marks_and_few_others_are(habit: str, planted: dict) -> None:
    assert found(habit, **planted) >= 34
    others = {"bias", "length", "own"} - {habit, "bias"}
    assert all(found(other) <= 6 for other in others)  # at 5 %, two are expected; six or more in 0.4 of 100
    assert found(habit) <= 6


def test_a_judge_is_trusted_distrusted_or_not_settled() -> None:
    good = [Pair(f"q{n}", (n % 10) / 10, n % 10 >= 6, (n % 10) / 10, n % 10 >= 6) for n in range(60)]
    strict = [Pair(one.question, max(0, one.judge_score - 0.4), one.judge_score >= 1, one.other_score, one.other_passes) for one in good]  # fmt: skip
    assert trust_in(agreement_of(good)) == (Trust.YES, 0)
    assert trust_in(agreement_of(strict))[0] is Trust.NO
    few = trust_in(agreement_of(good[:8]))
    assert few[0] is Trust.UNDECIDED
    assert few[1] >= 2
    assert trust_in(agreement_of([]))[0] is Trust.UNDECIDED


def test_an_audit_draws_ten_of_every_entrant_more_of_the_disputed_with_true_probabilities() -> None:
    pool = [Auditable(n, f"e{n % 3}", "pass" if n % 4 else "fail", n % 5 == 0) for n in range(600)]
    drawn = draw_audit(pool, 60, 1)
    by_entrant = [sum(pool[one.key].entrant == f"e{e}" for one in drawn) for e in range(3)]
    assert all(20 <= count <= 24 for count in by_entrant)
    disputed = [one.probability for one in drawn if pool[one.key].disputed]
    agreed = [one.probability for one in drawn if not pool[one.key].disputed]
    assert np.mean(disputed) > 1.5 * np.mean(agreed)
    assert all(0 < one.probability <= 1 for one in drawn)
    few = draw_audit(pool[:45], 3, 1)
    assert len(few) >= 30
    assert len({one.key for one in few}) == len(few)
    # each reply of a stratum is drawn as often as its probability says
    counts, said = np.zeros(600), np.zeros(600)
    for seed in range(300):
        for one in draw_audit(pool, 60, seed):
            counts[one.key] += 1
            said[one.key] = one.probability
    strata = [pool[n].stratum for n in range(600)]
    for name in set(strata):
        of = [n for n in range(600) if strata[n] == name]
        assert counts[of].mean() / 300 == pytest.approx(max(said[of]), rel=0.02)


def test_a_second_audit_goes_on_from_the_first() -> None:
    pool = [Auditable(n, "e", "pass", False) for n in range(100)]
    first = {one.key for one in draw_audit(pool, 20, 1)}
    later = [Auditable(n, "e", "pass", False, n in first) for n in range(100)]
    second = draw_audit(later, 15, 2)
    assert not first & {one.key for one in second}
    assert (len(second), second[0].probability) == (15, 0.35)
