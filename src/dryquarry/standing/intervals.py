"""Confidence intervals for a mean score in [0, 1]."""

from __future__ import annotations

import math
from collections.abc import Sequence
from dataclasses import dataclass

NORMAL_975 = 1.959963984540054


@dataclass(frozen=True, slots=True)
class Interval:
    """The two ends of a 95 % confidence interval for a score."""

    low: float
    high: float


def effective_count(weights: Sequence[float]) -> float:
    """Return the effective number of observations under unequal weights, (Σw)² / Σw² (Kish, 1965)."""
    return sum(weights) ** 2 / sum(weight * weight for weight in weights)


def score_interval(mean: float, count: float) -> Interval:
    """Return the 95 % interval of a mean of `count` scores in [0, 1], by Wilson's score method (1927).

    Wilson's interval inverts the test that uses the variance p(1-p) of pass/fail scores. No score in [0, 1]
    with mean p varies more than that, so with part marks the interval is on the safe side. `count` may be
    an effective count and need not be whole. Raises ValueError unless count > 0 and 0 <= mean <= 1.
    """
    if count <= 0 or not -1e-12 <= mean <= 1 + 1e-12:
        raise ValueError(f"no interval for mean {mean} of {count} scores")
    mean = min(1.0, max(0.0, mean))
    z_squared = NORMAL_975**2
    centre = (mean + z_squared / (2 * count)) / (1 + z_squared / count)
    spread = mean * (1 - mean) / count + z_squared / (4 * count * count)
    half = NORMAL_975 * math.sqrt(spread) / (1 + z_squared / count)
    low = 0.0 if mean == 0 else max(0.0, centre - half)
    high = 1.0 if mean == 1 else min(1.0, centre + half)
    return Interval(low, high)
