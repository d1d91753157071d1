"""Whether two entrants are told apart on the questions that both sat: one pair, or all pairs of a board at once."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from functools import lru_cache

import numpy as np
from numpy.typing import NDArray

from dryquarry.standing.intervals import LEVEL, Codes, Floats, Interval, student_quantile

MOST_ENUMERATED = 14
FLIPS = 9_999
# Of entrants times questions: beyond so many fewer flips do, for each takes longer.
LARGE_BOARD, FLIPS_OF_LARGE = 300_000, 1_999
# What is left of a difference of sums that were made of the same numbers in another order.
SAME = 1e-9
_SEED = 20_261_126
# Sign patterns of so many families at most are kept, of as many lengths: 40 MB.
MOST_KEPT = 64
# So many signs are drawn at once, and so many differences taken: these stay near a core.
_AT_ONCE = 4_000_000
_IN_CACHE = 300_000


@dataclass(frozen=True, slots=True)
class Comparison:
    """The first entrant against the second on shared questions: the difference of their scores, and what it shows.

    `wins` are questions that the first scored higher on; `p_value` is of the paired test, two-sided. `standard_error`
    is that of the difference, over `families` families.
    """

    questions: int
    families: int
    difference: float
    interval: Interval
    standard_error: float
    p_value: float
    wins: int
    ties: int
    losses: int


def compare(first: Floats, second: Floats, weights: Floats, families: Codes) -> Comparison | None:
    """Compare two entrants' scores of the same questions (NaN where missing); None where they share none."""
    shared = ~np.isnan(first) & ~np.isnan(second) & (weights > 0)
    if not shared.any():
        return None
    differences, weights, families = first[shared] - second[shared], weights[shared], families[shared]
    _, members = np.unique(families, return_inverse=True)
    difference = float(np.average(differences, weights=weights))
    error, freedom = difference_error(differences, weights, members)
    half = error * student_quantile(freedom)
    return Comparison(
        questions=len(differences),
        families=int(members.max()) + 1,
        difference=difference,
        interval=Interval(max(-1.0, difference - half), min(1.0, difference + half)),
        standard_error=error,
        p_value=paired_p_value(differences, weights, members),
        wins=int((differences > SAME).sum()),
        ties=int((np.abs(differences) <= SAME).sum()),
        losses=int((differences < -SAME).sum()),
    )


def difference_error(differences: Floats, weights: Floats, members: Codes) -> tuple[float, float]:
    """Return the standard error of a weighted mean difference, and its degrees of freedom.

    Clustered by family (CR1), with two imaginary questions in families of their own, one won and one lost, so that
    few questions that all come out alike do not show a certain difference (Bonett & Price, 2012, for pass/fail).
    """
    each = float(weights.mean())
    clusters = int(members.max()) + 1
    values = np.concatenate([differences, [1.0, -1.0]])
    weighting = np.concatenate([weights, [each, each]])
    grouping = np.concatenate([members, [clusters, clusters + 1]])
    sums = np.bincount(grouping, weights=weighting * (values - np.average(values, weights=weighting)))
    squares = float((sums**2).sum()) * (clusters + 2) / (clusters + 1)
    return float(np.sqrt(squares)) / float(weighting.sum()), float(max(1, clusters - 1))


def paired_p_value(differences: Floats, weights: Floats, members: Codes) -> float:
    """Return the two-sided p-value of the paired test.

    Where each family's summed difference has the same size, as with pass and fail on questions of equal weight, the
    exact binomial test on the signs (McNemar, 1947). Else the sign-flip test on the families' sums (Fisher, 1935):
    all patterns up to 14 families that differ, above that 9,999 drawn ones, always the same.
    """
    sums = np.bincount(members, weights=weights * differences).astype(np.float64)
    sums = sums[np.abs(sums) > SAME]
    if not len(sums):
        return 1.0
    sizes = np.abs(sums)
    if sizes.max() - sizes.min() < SAME:
        wins = int((sums > 0).sum())
        return sign_test(wins, len(sums) - wins)
    observed = abs(float(sums.sum()))
    if len(sums) <= MOST_ENUMERATED:
        return float((np.abs(flipped_totals(sums)) >= observed - SAME).mean())
    flipped = np.abs(_flips(FLIPS, len(sums)) @ sums)
    return float((1 + (flipped >= observed - SAME).sum()) / (FLIPS + 1))


def flipped_totals(sums: Floats) -> Floats:
    """Return the totals of these sums under all patterns of signs: twice as many for each sum."""
    totals = np.zeros(1)
    for value in sums:
        totals = np.concatenate([totals + value, totals - value])
    return totals


def holm(p_values: Sequence[float]) -> list[float]:
    """Return p-values corrected for how many there are, in their order (Holm, 1979)."""
    corrected, reached = list(p_values), 0.0
    for rank, place in enumerate(sorted(range(len(corrected)), key=lambda place: p_values[place])):
        reached = max(reached, min(1.0, p_values[place] * (len(corrected) - rank)))
        corrected[place] = reached
    return corrected


def sign_test(wins: int, losses: int) -> float:
    """Return the two-sided exact binomial p-value of so many wins against so many losses."""
    from scipy import special

    fewer = min(wins, losses)
    return min(1.0, 2 * float(special.bdtr(fewer, wins + losses, 0.5)))


def _flips(count: int, length: int) -> Floats:
    """Return the drawn sign patterns, one a row."""
    bits = _kept_bits(count, length) if length <= MOST_KEPT else _bits(count, length)
    return bits.astype(np.float64) * 2 - 1


def _bits(count: int, length: int) -> NDArray[np.int8]:
    return np.random.default_rng(_SEED).integers(0, 2, (count, length), dtype=np.int8)


# Parts of suites are compared again and again, and have few families.
_kept_bits = lru_cache(maxsize=MOST_KEPT)(_bits)


def adjusted_p_values(scores: Floats, weights: Floats, families: Codes) -> Floats:
    """Return for each pair of entrants (rows of `scores`, none missing) the p-value with all pairs tested at once.

    Step-down maxima over common sign flips of the families' summed differences (Westfall & Young, 1993; Romano & Wolf,
    2005), each difference over the root of its summed squares; never below the pair's own `paired_p_value`. With so
    adjusted values below 0.05, any false difference on the board is told in at most about 5 of 100 boards.
    """
    count = len(scores)
    result = np.ones((count, count))
    first, second = np.triu_indices(count, 1)
    if not len(first):
        return result
    _, members = np.unique(families, return_inverse=True)
    if len(first) == 1:
        adjusted = np.array([paired_p_value(scores[0] - scores[1], weights, members)])
    else:
        adjusted = _step_down(_family_sums(scores * weights, members), first, second)
        # only there could the pair's own test, which is exact, come out on the other side
        for pair in np.flatnonzero((adjusted >= LEVEL * 0.6) & (adjusted < LEVEL)):
            difference = scores[first[pair]] - scores[second[pair]]
            adjusted[pair] = max(adjusted[pair], paired_p_value(difference, weights, members))
    result[first, second] = result[second, first] = adjusted
    return result


def _family_sums(values: Floats, members: Codes) -> Floats:
    """Return the sums of the columns that belong together, one row for each row."""
    clusters = int(members.max()) + 1
    if clusters == values.shape[1]:
        return values
    sums = np.zeros((clusters, len(values)))
    np.add.at(sums, members, values.T)
    return sums.T


def _step_down(sums: Floats, first: Codes, second: Codes) -> Floats:
    """Return step-down adjusted p-values of the pairs' differences."""
    centred = sums - sums.mean(axis=0)
    gram = centred @ centred.T
    squares = np.diag(gram)[first] + np.diag(gram)[second] - 2 * gram[first, second]
    scale = np.sqrt(np.maximum(squares, 0))
    differing = squares > SAME * np.maximum(1.0, np.diag(gram)[first])
    scale = np.where(differing, scale, 1.0)
    totals = centred.sum(axis=1)
    observed = np.where(differing, np.abs(totals[first] - totals[second]) / scale, 0.0)
    # ascending, so that for each hypothesis the running maximum is over those that are not rejected before it
    order = np.argsort(observed, kind="stable")
    first, second, observed = first[order], second[order], observed[order]
    scale = np.where(differing, scale, np.inf)[order]
    random = np.random.default_rng(_SEED)
    flips = FLIPS if centred.size <= LARGE_BOARD else FLIPS_OF_LARGE
    reached = np.ones(len(first))
    block = max(1, min(flips, _AT_ONCE // centred.shape[1]))
    inner = max(1, _IN_CACHE // len(first))
    for start in range(0, flips, block):
        bits = random.integers(0, 256, (min(block, flips - start), -(-centred.shape[1] // 8)), dtype=np.uint8)
        kept = np.unpackbits(bits, axis=1, count=centred.shape[1])
        # with the others turned round: the sum of those kept less the sum of the others
        flipped = 2 * (centred @ kept.astype(np.float64).T) - totals[:, None]
        for at in range(0, flipped.shape[1], inner):
            some = np.ascontiguousarray(flipped[:, at : at + inner])
            each = some[first]
            each -= some[second]
            np.abs(each, out=each)
            each /= scale[:, None]
            np.maximum.accumulate(each, axis=0, out=each)
            reached += np.count_nonzero(each >= observed[:, None] - SAME, axis=1)
    stepped = np.maximum.accumulate((reached / (flips + 1))[::-1])[::-1]
    result = np.empty(len(first))
    result[order] = stepped
    return np.where(differing, result, 1.0)


@dataclass(frozen=True, slots=True)
class Places:
    """Where each entrant stands by what is told apart: its band, and the ranks that it may have."""

    bands: tuple[int, ...]
    lowest: tuple[int, ...]
    highest: tuple[int, ...]


def places_of(means: Floats, p_values: NDArray[np.float64], level: float = LEVEL) -> Places:
    """Return bands and ranks from adjusted p-values.

    Band 1 is everyone whom nobody is told apart above, band k + 1 everyone whom somebody in band k is, and nobody in a
    later band; so no two of one band are told apart. The ranks go from 1 + how many are told apart above to the
    number of entrants less how many are told apart below (Mogstad, Romano, Shaikh & Wilhelm, 2024).
    """
    above = (p_values < level) & (means[None, :] > means[:, None])
    count = len(means)
    bands = [0] * count
    for one in sorted(range(count), key=lambda place: -means[place]):
        bands[one] = 1 + max((bands[other] for other in np.flatnonzero(above[one])), default=0)
    return Places(
        tuple(bands),
        tuple(int(1 + above[one].sum()) for one in range(count)),
        tuple(int(count - above[:, one].sum()) for one in range(count)),
    )


def shortest_shown(error: float, freedom: float, power: float = 0.8) -> float:
    """Return the smallest true difference that a comparison with this standard error would mostly have told apart.

    In `power` of all cases, at the two-sided level of 5 % (Cohen, 1988).
    """
    from scipy import special

    return error * (student_quantile(freedom) + float(special.ndtri(power)))
