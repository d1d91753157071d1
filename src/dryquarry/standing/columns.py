"""Results as columns: entrants down, questions across."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dryquarry.standing.intervals import Codes, Floats
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item


@dataclass(frozen=True, slots=True)
class Columns:
    """Scores of shape (entrants, questions), NaN where missing, the mean over the trials that count.

    `within` is the variance between a question's trials (unbiased; NaN with fewer than two), `trials` how many count.
    `weights` and `families` are of shape (questions,); a question without a family is one by itself.
    """

    entrants: tuple[str, ...]
    questions: tuple[str, ...]
    scores: Floats
    within: Floats
    trials: Floats
    weights: Floats
    families: Codes


def columns_of(items: Sequence[Item], entrants: Sequence[EntrantResults]) -> Columns:
    """Return the entrants' results on these items as columns."""
    names = tuple(item.question for item in items)
    shape = (len(entrants), len(items))
    counts, sums, squares = np.zeros(shape), np.zeros(shape), np.zeros(shape)
    for number, one in enumerate(entrants):
        replies = one.replies.on(names)
        at, got = replies.question[replies.counts], replies.score[replies.counts]
        for into, values in ((counts, None), (sums, got), (squares, got**2)):
            into[number] = np.bincount(at, weights=values, minlength=len(items))
    with np.errstate(invalid="ignore", divide="ignore"):
        scores = np.where(counts > 0, sums / counts, np.nan)
        within = np.where(counts > 1, np.maximum(0.0, squares - counts * scores**2) / (counts - 1), np.nan)
    who = tuple(one.entrant for one in entrants)
    return Columns(who, names, scores, within, counts, weights_of(items), family_codes(items))


def weights_of(items: Sequence[Item]) -> Floats:
    """Return the items' weights."""
    return np.array([item.weight for item in items], dtype=float)


def balanced(items: Sequence[Item], suite_weights: Mapping[str, float]) -> list[Item]:
    """Return items of several suites with weights such that each suite as a whole weighs what is stated."""
    totals: dict[str | None, float] = {}
    for item in items:
        totals[item.suite] = totals.get(item.suite, 0.0) + item.weight
    return [
        replace(item, weight=item.weight * suite_weights.get(item.suite or "", 1.0) / totals[item.suite])
        if totals[item.suite]
        else item
        for item in items
    ]


def weighted_means(scores: Floats, weights: Floats) -> Floats:
    """Return for each row the weighted mean over the scores that it has; NaN where they weigh nothing."""
    known = ~np.isnan(scores)
    each = known @ weights
    sums = np.where(known, scores, 0.0) @ weights
    with np.errstate(invalid="ignore", divide="ignore"):
        means: Floats = np.where(each > 0, sums / each, np.nan)
    return means


def weighted_mean(scores: Floats, weights: Floats) -> float | None:
    """Return the weighted mean over the scores that are not missing, or None where none is."""
    mean = float(weighted_means(scores[None, :], weights)[0])
    return None if np.isnan(mean) else mean


def family_codes(items: Sequence[Item]) -> Codes:
    """Return a number for each item's family; an item without one is a family by itself."""
    names = [item.family or f"\0{place}" for place, item in enumerate(items)]
    codes = {name: code for code, name in enumerate(dict.fromkeys(names))}
    return np.array([codes[name] for name in names], dtype=np.intp)
