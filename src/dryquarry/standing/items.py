"""What each question is worth: how hard it is, what it tells apart, and whether its key may be wrong.

Few entrants are the rule, and nothing is said that so few cannot show.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from dryquarry.standing.answers import Asked, Rival
from dryquarry.standing.columns import columns_of
from dryquarry.standing.intervals import Floats
from dryquarry.standing.reliability import Reliability, reliability_of
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item

# Below so many entrants a verdict is not given.
LEAST_FOR_ALL = 3
LEAST_FOR_NEGATIVE = 15
LEAST_FOR_ANSWERS = 4
# A same other answer of so large a share, so many times the key's, and of so many entrants, makes a key suspect.
SUSPECT_SHARE, SUSPECT_TIMES, SUSPECT_GIVERS = 0.4, 2.0, 3
# And the answers so many times likelier if it were right.
SUSPECT_LIKELIER = 12.0
FIELD_SHARE, FIELD_BOTH = 0.35, 0.85
NOISY = 0.3


class Worth(StrEnum):
    """What is amiss with a question, as far as can be told."""

    SUSPECT_KEY = "suspect key"
    AMBIGUOUS = "ambiguous"
    NEGATIVE = "negative"
    NOISY = "noisy"
    SATURATED = "saturated"
    OUT_OF_REACH = "out of reach"


@dataclass(frozen=True, slots=True)
class ItemRow:
    """One question: the mean score over `entrants` that have it, and the corrected item-rest correlation.

    `part` is its part of the spread of whole scores (its covariance with them over their variance; all sum to 1),
    `flips` the chance that two trials of one entrant come out differently. `worth` says what is amiss, with a reason.
    Absent figures are None: they cannot be told.
    """

    question: str
    category: str | None
    entrants: int
    mean: float | None
    discrimination: float | None
    part: float | None
    flips: float | None
    median_s: float | None
    rival: Rival | None
    worth: Worth | None = None
    reason: str = ""


@dataclass(frozen=True, slots=True)
class ItemTable:
    """All questions of a suite, over so many `entrants`, and what the suite as a whole is worth."""

    suite: str
    edition: str | None
    entrants: int
    rows: tuple[ItemRow, ...]
    reliability: Reliability | None
    selected: str = ""
    trials: int = 1


def item_table(suite: str, edition: str | None, items: Sequence[Item], entrants: Sequence[EntrantResults]) -> ItemTable:
    """Return what each question is worth, in the suite's order."""
    names = [item.question for item in items]
    shown = [replace(one, replies=one.replies.on(names)) for one in entrants]
    shown = [one for one in shown if one.replies.counts.any()]
    columns = columns_of(items, shown)
    scores, weights = columns.scores, columns.weights
    rests = rest_means(scores, weights)
    asked = Asked.of([one.replies for one in shown], rests)
    known = (~np.isnan(scores)).sum(axis=0)
    means = np.where(known > 0, np.nansum(scores, axis=0) / np.maximum(1, known), np.nan)
    correlations = _correlations(scores, rests)
    parts, flips, medians = _parts(scores, weights), asked.flips(), asked.median_seconds()
    rivals = asked.rivals()
    trials = max((int(one.replies.trial.max(initial=1)) for one in shown), default=1)
    rows = []
    for place, item in enumerate(items):
        row = ItemRow(
            question=item.question,
            category=item.category,
            entrants=int(known[place]),
            mean=_figure(means[place]),
            discrimination=_figure(correlations[place]),
            part=None if parts is None else float(parts[place]),
            flips=_figure(flips[place]),
            median_s=_figure(medians[place]),
            rival=rivals.get(place),
        )
        found = _verdict(row)
        rows.append(row if found is None else replace(row, worth=found[0], reason=found[1]))
    return ItemTable(
        suite, edition, len(shown), tuple(rows), reliability_of(scores, weights, columns.families), trials=trials
    )


def _figure(value: float) -> float | None:
    return None if np.isnan(value) else float(value)


def rest_means(scores: Floats, weights: Floats) -> Floats:
    """Return for each entrant and question the weighted mean over its other questions (NaN where it has none)."""
    known = ~np.isnan(scores)
    weighted = np.where(known, scores, 0.0) * weights
    each = known * weights
    with np.errstate(invalid="ignore", divide="ignore"):
        rests: Floats = (weighted.sum(axis=1, keepdims=True) - weighted) / (each.sum(axis=1, keepdims=True) - each)
    return rests


def _parts(scores: Floats, weights: Floats) -> Floats | None:
    """Return each question's part of the variance of whole scores, where all have all and they differ."""
    if len(scores) < LEAST_FOR_ALL or np.isnan(scores).any():
        return None
    weighted = scores * weights
    whole = weighted.sum(axis=1)
    variance = float(whole.var())
    if variance < 1e-12:
        return None
    parts: Floats = ((weighted - weighted.mean(axis=0)) * (whole - whole.mean())[:, None]).mean(axis=0) / variance
    return parts


def _correlations(scores: Floats, rests: Floats) -> Floats:
    """Return each question's correlation (Pearson) with the rest; NaN where one side is constant or too few have it."""
    known = ~np.isnan(scores) & ~np.isnan(rests)
    count = known.sum(axis=0)
    if not len(scores):
        return np.full(scores.shape[1], np.nan)
    with np.errstate(invalid="ignore", divide="ignore"):
        first, second = (
            np.where(known, values - np.where(known, values, 0.0).sum(axis=0) / count, 0.0)
            for values in (scores, rests)
        )
        spreads = np.sqrt((first**2).mean(axis=0)), np.sqrt((second**2).mean(axis=0))
        found: Floats = (first * second).mean(axis=0) / (spreads[0] * spreads[1])
    found[(count < LEAST_FOR_ALL) | (np.minimum(*spreads) < 1e-12)] = np.nan
    return found


def _verdict(row: ItemRow) -> tuple[Worth, str] | None:
    """Return what is amiss with a question, and why; the gravest first."""
    count, mean = row.entrants, row.mean
    if mean is None or count < LEAST_FOR_ALL:
        return None
    found = _about_the_key(row)
    if found is not None:
        return found
    if row.discrimination is not None and count >= LEAST_FOR_NEGATIVE and _surely_negative(row.discrimination, count):
        return Worth.NEGATIVE, f"weaker entrants pass it more often (item-rest correlation {row.discrimination:.2f})"
    if row.flips is not None and row.flips >= NOISY:
        return Worth.NOISY, f"two trials of one entrant differ in {row.flips:.0%} of cases"
    if mean > 1 - 1e-9:
        return Worth.SATURATED, f"all {count} entrants pass it"
    if mean < 1e-9:
        return Worth.OUT_OF_REACH, f"none of {count} entrants passes it"
    return None


def _about_the_key(row: ItemRow) -> tuple[Worth, str] | None:
    """Return whether the answers speak against the key, or for a second one."""
    rival = row.rival
    if rival is None or row.entrants < LEAST_FOR_ANSWERS or rival.entrants < 2:
        return None
    weighed = f"{rival.share:.0%} by ability, the key {rival.key_share:.0%}"
    shares = f"{rival.entrants} of {row.entrants} say '{rival.answer}' ({weighed})"
    wide = rival.share >= SUSPECT_SHARE and rival.share >= SUSPECT_TIMES * rival.key_share
    if wide and rival.entrants >= SUSPECT_GIVERS and rival.likelier >= SUSPECT_LIKELIER:
        return (
            Worth.SUSPECT_KEY,
            f"{shares}; {_times(rival.likelier)} likelier as the key",
        )
    both = rival.share + rival.key_share
    if min(rival.share, rival.key_share) >= FIELD_SHARE and both >= FIELD_BOTH and rival.as_able:
        return Worth.AMBIGUOUS, f"two answers share the field: {shares}"
    return None


def _times(ratio: float) -> str:
    return f"{ratio:.0f} times" if ratio < 1000 else "over 1,000 times"


def _surely_negative(correlation: float, count: int) -> bool:
    """Tell whether the upper end of a correlation's 95 % interval is below zero (Fisher's transformation, 1915)."""
    return bool(np.arctanh(max(-0.999999, correlation)) + 1.96 / np.sqrt(count - 3) < 0)
