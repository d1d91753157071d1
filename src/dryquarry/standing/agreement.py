"""How far two who mark agree: chance-corrected agreement, correlations, biases, each with a 95 % interval.

Replies to one question belong together, so intervals take questions as what was sampled: of shares the interval of a
score with families, of everything else the jackknife that leaves out a question at a time (Tukey, 1958; Arvesen, 1969).
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

from dryquarry.standing.intervals import Codes, Flags, Floats, score_interval, student_quantile

FEWEST_GROUPS = 3
SAME = 1e-9


@dataclass(frozen=True, slots=True)
class Estimate:
    """A figure with the ends of its 95 % interval, over so many pairs; all None where it cannot be told."""

    value: float | None
    low: float | None
    high: float | None
    count: int

    @property
    def tells(self) -> bool:
        """Whether the interval leaves zero out."""
        return self.low is not None and self.high is not None and (self.low > 0 or self.high < 0)


def nothing(count: int = 0) -> Estimate:
    """Return the estimate of what cannot be told."""
    return Estimate(None, None, None, count)


def share(hits: Flags, groups: Codes) -> Estimate:
    """Return a share of pairs with its interval, the pairs of one group together."""
    if not len(hits):
        return nothing()
    values = hits.astype(float)
    found = score_interval(values, np.ones(len(values)), groups)
    return Estimate(float(values.mean()), found.low, found.high, len(hits))


def jackknife(
    statistic: Callable[[NDArray[np.intp]], float | None],
    groups: Codes,
    limits: tuple[float, float] = (-np.inf, np.inf),
) -> Estimate:
    """Return a statistic of pairs, given by their places, with the interval of the jackknife over groups.

    Within `limits`. Without an interval where there are fewer than three groups, or the statistic is not defined with
    one of them left out.
    """
    places = np.arange(len(groups))
    value = statistic(places)
    names = np.unique(groups)
    count = len(groups)
    if value is None:
        return nothing(count)
    if len(names) < FEWEST_GROUPS:
        return Estimate(value, None, None, count)
    without = [statistic(places[groups != name]) for name in names]
    kept = np.array([one for one in without if one is not None], dtype=float)
    if len(kept) < len(names):
        return Estimate(value, None, None, count)
    number = len(names)
    error = float(np.sqrt((number - 1) / number * ((kept - kept.mean()) ** 2).sum()))
    width = student_quantile(number - 1) * error
    return Estimate(value, max(limits[0], value - width), min(limits[1], value + width), count)


def kappa(first: Flags, second: Flags) -> float | None:
    """Return Cohen's kappa of two who say pass or fail (Cohen, 1960); None where both always say the same one word."""
    if not len(first):
        return None
    observed = float((first == second).mean())
    expected = float(first.mean() * second.mean() + (1 - first.mean()) * (1 - second.mean()))
    return None if expected > 1 - SAME else (observed - expected) / (1 - expected)


def positive_agreement(first: Flags, second: Flags) -> float | None:
    """Return the agreement on passes, 2a / (2a + b + c), which no prevalence distorts (Cicchetti & Feinstein, 1990).

    The paradoxes of kappa that it answers: Feinstein & Cicchetti (1990). None where neither ever passes anything.
    """
    both, said = int((first & second).sum()), int(first.sum() + second.sum())
    return None if not said else 2 * both / said


def negative_agreement(first: Flags, second: Flags) -> float | None:
    """Return the agreement on fails, 2d / (2d + b + c) (Cicchetti & Feinstein, 1990)."""
    return positive_agreement(~first, ~second)


def weighted_kappa(first: Floats, second: Floats) -> float | None:
    """Return kappa with quadratic weights of two scores (Cohen, 1968; Fleiss & Cohen, 1973); None without variance."""
    if not len(first):
        return None
    apart = float(((first - second) ** 2).mean())
    by_chance = float(first.var() + second.var() + (first.mean() - second.mean()) ** 2)
    return None if by_chance < SAME else 1 - apart / by_chance


def intraclass_correlation(scores: Floats) -> float | None:
    """Return ICC(A,1): absolute agreement of single scores, of replies (rows) by those who mark (columns).

    Two-way random effects (McGraw & Wong, 1996; ICC(2,1) of Shrout & Fleiss, 1979). None for fewer than two rows or
    columns, or where nothing varies.
    """
    rows, columns = scores.shape
    if rows < 2 or columns < 2:
        return None
    mean = scores.mean()
    between = columns * ((scores.mean(axis=1) - mean) ** 2).sum() / (rows - 1)
    raters = rows * ((scores.mean(axis=0) - mean) ** 2).sum() / (columns - 1)
    residual = scores - scores.mean(axis=1, keepdims=True) - scores.mean(axis=0, keepdims=True) + mean
    error = (residual**2).sum() / ((rows - 1) * (columns - 1))
    below = between + (columns - 1) * error + columns * (raters - error) / rows
    return None if abs(below) < SAME else float((between - error) / below)


def slope_beside(outcome: Floats, beside: Floats, predictor: Floats) -> float | None:
    """Return the slope of `outcome` on `predictor` at equal `beside` (least squares); None where it has no spread."""
    design = np.column_stack([np.ones(len(outcome)), beside, predictor])
    if len(outcome) < 4 or np.linalg.matrix_rank(design) < 3:
        return None
    found, *_ = np.linalg.lstsq(design, outcome, rcond=None)
    return float(found[2])


def mean_of(values: Floats, groups: Codes) -> Estimate:
    """Return a mean with its interval, the values of one group together."""
    if not len(values):
        return nothing()
    return jackknife(lambda places: float(values[places].mean()) if len(places) else None, groups)


def difference_of_means(values: Floats, which: Flags, groups: Codes) -> Estimate:
    """Return how much higher the mean is where `which` is true than where it is not."""

    def apart(places: NDArray[np.intp]) -> float | None:
        inside, outside = values[places][which[places]], values[places][~which[places]]
        return float(inside.mean() - outside.mean()) if len(inside) and len(outside) else None

    return jackknife(apart, groups)
