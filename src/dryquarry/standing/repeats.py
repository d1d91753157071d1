"""What several trials of the same questions show: at least one passed, all passed, and how often two come out apart."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from math import comb


@dataclass(frozen=True, slots=True)
class Repeats:
    """Of `trials` trials of a question: the share of questions passed at least once, and in all; and the chance that
    two trials of one question come out differently.
    """

    trials: int
    once: float
    every: float
    apart: float


def repeats_of(passes: Sequence[tuple[int, int, float]]) -> Repeats | None:
    """Return what repeated trials show, from (passed, trials, weight) of each question; None where all had one.

    Taken over the smallest number of trials, at least two, that any question had, without bias where others had more:
    1 - C(n - c, k) / C(n, k) and C(c, k) / C(n, k) for c of n passed (Chen et al., 2021).
    """
    known = [(passed, trials, weight) for passed, trials, weight in passes if trials > 1 and weight > 0]
    if not known:
        return None
    drawn = min(trials for _, trials, _ in known)
    total = sum(weight for _, _, weight in known)
    once = sum(weight * (1 - comb(n - c, drawn) / comb(n, drawn)) for c, n, weight in known) / total
    every = sum(weight * comb(c, drawn) / comb(n, drawn) for c, n, weight in known) / total
    apart = sum(weight * 2 * c * (n - c) / (n * (n - 1)) for c, n, weight in known) / total
    return Repeats(drawn, once, every, apart)
