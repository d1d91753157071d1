"""Paired comparison of two entrants on the questions that both have a score for."""

from __future__ import annotations

import math
from collections.abc import Sequence

MOST_ENUMERATED = 16


def paired_p_value(differences: Sequence[float]) -> float:
    """Return the two-sided p-value of the sign-flip test (Fisher, 1935) on paired differences.

    Under the null hypothesis each difference is as likely to have the other sign. Questions on which the
    two agree say nothing and drop out. Up to 16 differences all sign patterns are counted; beyond that the
    statistic's normal approximation is used, whose variance is exactly the sum of squares. With pass/fail
    scores the exact form is McNemar's test in its exact binomial version.
    """
    nonzero = [difference for difference in differences if abs(difference) > 1e-12]
    if not nonzero:
        return 1.0
    observed = abs(sum(nonzero))
    if len(nonzero) > MOST_ENUMERATED:
        return math.erfc(observed / math.sqrt(2 * sum(value * value for value in nonzero)))
    sums = [0.0]
    for value in nonzero:
        sums = [total + sign for total in sums for sign in (value, -value)]
    return sum(abs(total) >= observed - 1e-9 for total in sums) / len(sums)
