"""How reliably a suite as a whole tells these entrants apart, and how many questions a wanted precision takes."""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dryquarry.standing.intervals import LEVEL, Codes, Floats, Interval, score_interval

# Half widths of an interval, in shares, for which it is said how many questions they take.
HALF_WIDTHS = (0.1, 0.05, 0.03)
LEAST_ENTRANTS = 3


@dataclass(frozen=True, slots=True)
class Precision:
    """So many questions like these give intervals of this half width, on average over the entrants."""

    half_width: float
    questions: int


@dataclass(frozen=True, slots=True)
class Reliability:
    """Cronbach's alpha with Feldt's 95 % interval; with pass/fail marks of one trial it is KR-20.

    `standard_error` is that of measurement, in shares of the whole score: the standard deviation of the entrants'
    scores times the root of one less alpha.
    """

    alpha: float
    interval: Interval
    pass_fail: bool
    standard_error: float
    entrants: int
    questions: int
    needed: tuple[Precision, ...]


def reliability_of(scores: Floats, weights: Floats, families: Codes) -> Reliability | None:
    """Return the reliability over entrants (rows) that have all questions; None for too few, or where all are equal.

    Cronbach (1951), Kuder & Richardson (1937), the interval by Feldt (1965).
    """
    whole = scores[~np.isnan(scores).any(axis=1)] if scores.size else scores
    count, questions = whole.shape if whole.size else (0, 0)
    if count < LEAST_ENTRANTS or questions < 2:
        return None
    weighted = whole * weights
    totals = weighted.sum(axis=1)
    variance = float(totals.var(ddof=1))
    if variance < 1e-12:
        return None
    alpha = questions / (questions - 1) * (1 - float(weighted.var(axis=0, ddof=1).sum()) / variance)
    error = float(np.sqrt(variance)) / float(weights.sum()) * float(np.sqrt(max(0.0, 1 - alpha)))
    pass_fail = bool(((whole < 1e-9) | (whole > 1 - 1e-9)).all())
    needed = tuple(Precision(half, _needed(whole, weights, families, half)) for half in HALF_WIDTHS)
    return Reliability(alpha, feldt_interval(alpha, count, questions), pass_fail, error, count, questions, needed)


def feldt_interval(alpha: float, entrants: int, questions: int) -> Interval:
    """Return the 95 % interval of alpha: (1 - α) / (1 - estimate) is distributed as F (Feldt, 1965)."""
    from scipy import special

    first, second = entrants - 1, (entrants - 1) * (questions - 1)
    high = float(special.fdtri(first, second, 1 - LEVEL / 2))
    low = float(special.fdtri(first, second, LEVEL / 2))
    return Interval(1 - (1 - alpha) * high, 1 - (1 - alpha) * low)


def _needed(scores: Floats, weights: Floats, families: Codes, half_width: float) -> int:
    """Return the questions that it takes: an interval's width falls with the root of their number."""
    widths = []
    for row in scores:
        got = score_interval(row, weights, families)
        if got.low is not None and got.high is not None:
            widths.append((got.high - got.low) / 2)
    return int(np.ceil(scores.shape[1] * float(np.mean(np.square(widths))) / half_width**2))
