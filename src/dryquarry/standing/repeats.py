"""What several trials of the same questions show: at least one passed, all passed, and how often two come out apart."""

from __future__ import annotations

from dataclasses import dataclass
from math import comb

import numpy as np

from dryquarry.standing.intervals import Codes, Floats


@dataclass(frozen=True, slots=True)
class Repeats:
    """Of `trials` trials of a question: the share of questions passed at least once, and in all; and the chance that
    two trials of one question come out differently.
    """

    trials: int
    once: float
    every: float
    apart: float


def repeats_of(passed: Codes, trials: Codes, weights: Floats) -> Repeats | None:
    """Return what repeated trials show, from how many of each question's trials passed; None where all had one.

    Taken over the smallest number of trials, at least two, that any question had, without bias where others had more:
    1 - C(n - c, k) / C(n, k) and C(c, k) / C(n, k) for c of n passed (Chen et al., 2021).
    """
    known = (trials > 1) & (weights > 0)
    if not known.any():
        return None
    drawn = int(trials[known].min())
    # questions with as many passes of as many trials come out alike
    kinds, members = np.unique(np.stack([passed[known], trials[known]]), axis=1, return_inverse=True)
    shares = np.bincount(members.ravel(), weights=weights[known]) / weights[known].sum()
    each = [(int(c), int(n), float(share)) for c, n, share in zip(*kinds, shares, strict=True)]
    once = sum(share * (1 - comb(n - c, drawn) / comb(n, drawn)) for c, n, share in each)
    every = sum(share * comb(c, drawn) / comb(n, drawn) for c, n, share in each)
    apart = sum(share * 2 * c * (n - c) / (n * (n - 1)) for c, n, share in each)
    return Repeats(drawn, once, every, apart)
