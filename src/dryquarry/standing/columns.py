"""Results as columns: entrants down, questions across."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dryquarry.standing.intervals import Codes, Floats
from dryquarry.standing.results import EntrantResults, Item


@dataclass(frozen=True, slots=True)
class Columns:
    """Scores of shape (entrants, questions), NaN where missing, the mean over the trials that count.

    `within` is the variance between a question's trials (unbiased; NaN with fewer than two), `trials` how many count.
    `weights` and `families` are of shape (questions,); a question without a family is one by itself.
    """

    entrants: tuple[str, ...]
    scores: Floats
    within: Floats
    trials: Floats
    weights: Floats
    families: Codes


def columns_of(items: Sequence[Item], entrants: Sequence[EntrantResults]) -> Columns:
    """Return the entrants' results on these items as columns."""
    places = {item.question: place for place, item in enumerate(items)}
    shape = (len(entrants), len(items))
    counts, sums, squares = np.zeros(shape), np.zeros(shape), np.zeros(shape)
    for number, one in enumerate(entrants):
        at = np.array([places.get(result.question, -1) for result in one.counted], dtype=np.intp)
        got = np.array([result.score for result in one.counted], dtype=float)
        at, got = at[at >= 0], got[at >= 0]
        for into, values in ((counts, np.ones(len(at))), (sums, got), (squares, got**2)):
            into[number] = np.bincount(at, weights=values, minlength=len(items))
    with np.errstate(invalid="ignore", divide="ignore"):
        scores = np.where(counts > 0, sums / counts, np.nan)
        within = np.where(counts > 1, np.maximum(0.0, squares - counts * scores**2) / (counts - 1), np.nan)
    weights = np.array([item.weight for item in items], dtype=float)
    return Columns(tuple(one.entrant for one in entrants), scores, within, counts, weights, family_codes(items))


def family_codes(items: Sequence[Item]) -> Codes:
    """Return a number for each item's family; an item without one is a family by itself."""
    names = [item.family or f"\0{place}" for place, item in enumerate(items)]
    codes = {name: code for code, name in enumerate(dict.fromkeys(names))}
    return np.array([codes[name] for name in names], dtype=np.intp)
