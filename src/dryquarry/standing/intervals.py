"""Intervals for a mean score in [0, 1]: over questions of this kind, or over new trials of these very questions.

SciPy is imported where it is used: it takes longer to import than most commands take.
"""

from __future__ import annotations

from collections.abc import Callable
from dataclasses import dataclass

import numpy as np
from numpy.typing import NDArray

LEVEL = 0.05
NORMAL_975 = 1.959963984540054
# So many imaginary questions, half of them passed, keep a variance that few questions show from being too small.
IMAGINARY = 2.0

Floats = NDArray[np.float64]
Codes = NDArray[np.intp]
Flags = NDArray[np.bool_]


@dataclass(frozen=True, slots=True)
class Interval:
    """The two ends of a 95 % interval; `low` and `high` are None where nothing can be said."""

    low: float | None
    high: float | None


NOTHING = Interval(None, None)


def effective_count(weights: Floats) -> float:
    """Return the effective number of observations under unequal weights, (Σw)² / Σw² (Kish, 1965)."""
    return float(weights.sum() ** 2 / (weights**2).sum())


def student_quantile(freedom: float, share: float = 1 - LEVEL / 2) -> float:
    """Return the quantile of Student's t, by default that of a two-sided test at 5 %."""
    from scipy import special

    return float(special.stdtrit(freedom, share))


def mid_p_interval(mean: float, count: float) -> Interval:
    """Return the 95 % interval of a share of so many observations that inverts the mid-P binomial test.

    Clopper & Pearson (1934) with half of the observed outcome's probability (Lancaster, 1961); `count` may be an
    effective count and need not be whole (Korn & Graubard, 1998): the binomial tail is then the incomplete beta
    function, and the outcome's probability its difference. Raises ValueError unless count > 0 and 0 <= mean <= 1.
    """
    if not count > 0 or not -1e-9 <= mean <= 1 + 1e-9:
        raise ValueError(f"no interval for mean {mean} of {count} scores")
    mean = min(1.0, max(0.0, mean))
    passed = mean * count
    low = 0.0 if passed < 1e-9 else _limit(passed, count)
    high = 1.0 if count - passed < 1e-9 else 1.0 - _limit(count - passed, count)
    return Interval(min(low, mean), max(high, mean))


def _limit(passed: float, count: float) -> float:
    """Return the share p for which P(X > passed) + P(X = passed) / 2 is half of what an interval may miss."""
    from scipy import special

    # P(X >= passed) and P(X > passed) rise with p; their mean reaches it between where the one does and the other
    first, then = (passed, count - passed + 1), (passed + 1, count - passed)
    if passed + 1 > count:  # there is no more than what passed
        return float(special.betaincinv(*first, LEVEL))
    low, high = (float(special.betaincinv(*shape, LEVEL / 2)) for shape in (first, then))
    return _solved(lambda p: float(special.betainc(*first, p) + special.betainc(*then, p)) - LEVEL, low, high)


def _solved(rising: Callable[[float], float], low: float, high: float) -> float:
    """Return where a rising function crosses zero: the Illinois method (Dowell & Jarratt, 1971).

    Every third step halves, which ends it for any shape.
    """
    below, above = rising(low), rising(high)
    if below >= 0 or above <= 0:
        return low if below >= 0 else high
    middle, side = low, 0
    for step in range(150):
        middle = (low + high) / 2 if step % 3 == 2 else (low * above - high * below) / (above - below)
        value = rising(middle)
        if value > 0:
            high, above = middle, value
            below, side = (below / 2 if side > 0 else below), 1
        else:
            low, below = middle, value
            above, side = (above / 2 if side < 0 else above), -1
        if high - low < 1e-15 or abs(value) < 1e-15:
            break
    return middle


def score_interval(scores: Floats, weights: Floats, families: Codes) -> Interval:
    """Return the 95 % interval of an entrant's score on questions of this kind.

    `scores` are one for each question, the mean over its trials, in [0, 1]; `families` number what the questions
    belong to. The interval is `mid_p_interval` on an effective count: Kish's, over the ratio of the questions' own
    variance to that of pass/fail (below 1 with part scores or trials), over the design effect of the families, and
    smaller by the square of normal over Student quantile where a variance was estimated (Korn & Graubard, 1998;
    Franco, Little, Louis & Slud, 2019).
    """
    count = len(scores)
    if count == 0 or weights.sum() <= 0:
        return NOTHING
    used = weights > 0
    scores, weights, families = scores[used], weights[used], families[used]
    mean = float(np.average(scores, weights=weights))
    ratio, estimated = variance_ratio(scores, weights)
    effect, clusters = design_effect(scores, weights, families)
    effective = effective_count(weights) / (ratio * effect)
    grouped = clusters < len(scores) and scores.min() < scores.max()
    if (estimated or grouped) and clusters > 1:
        effective *= (NORMAL_975 / student_quantile(clusters - 1)) ** 2
    return mid_p_interval(mean, max(effective, 1e-3))


def variance_ratio(scores: Floats, weights: Floats) -> tuple[float, bool]:
    """Return the scores' variance over that of pass/fail with the same mean, and whether it had to be estimated.

    Both with two imaginary questions among them, one passed and one failed: for pass/fail the ratio is 1 exactly,
    and few questions that happen to agree show none that is near 0.
    """
    if np.all((scores < 1e-9) | (scores > 1 - 1e-9)):
        return 1.0, False
    variance, mean = steadied_variance(scores, weights)
    return variance / (mean * (1 - mean)), True


def steadied_variance(scores: Floats, weights: Floats) -> tuple[float, float]:
    """Return the variance and the mean of scores with two imaginary questions among them, one passed, one failed."""
    each = float(weights.mean()) * IMAGINARY / 2
    values = np.concatenate([scores, [0.0, 1.0]])
    weighting = np.concatenate([weights, [each, each]])
    mean = float(np.average(values, weights=weighting))
    return float(np.average((values - mean) ** 2, weights=weighting)), mean


def design_effect(scores: Floats, weights: Floats, families: Codes) -> tuple[float, int]:
    """Return how much the families widen the variance of the mean, at least 1, and how many families there are.

    The linearised variance between families (F / (F - 1) of the summed squares of their sums) over that of questions
    by themselves; what is seen of it is drawn towards that of families that wholly agree as if by two families more.
    """
    _, members = np.unique(families, return_inverse=True)
    clusters = int(members.max()) + 1
    if clusters == len(scores):
        return 1.0, clusters
    sizes = np.bincount(members, weights=weights)
    worst = float((sizes**2).sum() / (weights**2).sum())
    centred = weights * (scores - np.average(scores, weights=weights))
    alone = float((centred**2).sum()) * len(scores) / max(1, len(scores) - 1)
    if alone < 1e-12 or clusters == 1:
        return worst, clusters
    together = float((np.bincount(members, weights=centred) ** 2).sum()) * clusters / (clusters - 1)
    seen = together / alone
    drawn = (clusters * seen + IMAGINARY * worst) / (clusters + IMAGINARY)
    return max(1.0, drawn), clusters


def trials_interval(scores: Floats, weights: Floats, within: Floats, trials: Floats) -> Interval:
    """Return the 95 % interval of an entrant's score on these very questions over new trials.

    `within` is the variance of each question's scores between its trials (unbiased; NaN with one trial), `trials`
    how many it had. Two imaginary questions that vary as pass/fail do are among them. Where every question has one
    trial their variance cannot be seen; that of pass/fail of one mean is at least as large (Hoeffding, 1956), so the
    interval is rather too wide than too narrow.
    """
    used = weights > 0
    scores, weights, within, trials = scores[used], weights[used], within[used], trials[used]
    if not len(scores):
        return NOTHING
    mean = float(np.average(scores, weights=weights))
    squares = weights**2
    replies = float(weights.sum()) ** 2 / float((squares / trials).sum())
    seen = ~np.isnan(within)
    varying = int((within[seen] > 1e-12).sum())
    alike = (mean * len(scores) + 1) / (len(scores) + 2)
    if not varying:
        return mid_p_interval(mean, replies)
    own = float((squares[seen] * within[seen]).sum() / squares[seen].sum())
    # Only questions whose trials differ tell how much they vary; few of them leave most to be feared.
    ratio = (varying * min(1.0, own / (alike * (1 - alike))) + IMAGINARY) / (varying + IMAGINARY)
    freedom = varying * float((trials[seen] - 1).mean())
    shorter = (NORMAL_975 / student_quantile(max(1.0, freedom))) ** 2
    return mid_p_interval(mean, max(replies, replies / ratio * shorter))
