"""What each question is worth: how hard it is, what it tells apart, and whether its key may be wrong.

Few entrants are the rule, and nothing is said that so few cannot show.
"""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from statistics import median

import numpy as np

from dryquarry.marking.model import Verdict
from dryquarry.standing.columns import columns_of
from dryquarry.standing.intervals import Floats
from dryquarry.standing.reliability import Reliability, reliability_of
from dryquarry.standing.results import EntrantResults, Item, Result

# Below so many entrants a verdict is not given.
LEAST_FOR_ALL = 3
LEAST_FOR_NEGATIVE = 15
LEAST_FOR_ANSWERS = 4
# A same other answer of so large a share, so many times the key's, and of so many entrants, makes a key suspect.
SUSPECT_SHARE, SUSPECT_TIMES, SUSPECT_GIVERS = 0.4, 2.0, 3
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
class Rival:
    """The answer that most entrants gave among those that are not the key's.

    `share` and `key_share` are of all replies, weighed by the square of the entrants' scores on the other questions.
    """

    answer: str
    entrants: int
    share: float
    key_share: float


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


def item_table(suite: str, edition: str | None, items: Sequence[Item], entrants: Sequence[EntrantResults]) -> ItemTable:
    """Return what each question is worth, in the suite's order."""
    columns = columns_of(items, entrants)
    scores = columns.scores
    sat = [bool((~np.isnan(row)).any()) for row in scores]
    scores = scores[np.array(sat, dtype=bool)]
    shown = [one for one, has in zip(entrants, sat, strict=True) if has]
    rests = rest_means(scores, columns.weights)
    parts = _parts(scores, columns.weights)
    by_question: dict[str, dict[str, list[Result]]] = defaultdict(dict)
    for one in shown:
        for result in one.results:
            by_question[result.question].setdefault(one.entrant, []).append(result)
    rows = []
    for place, item in enumerate(items):
        results = by_question[item.question]
        abilities = {one.entrant: float(rests[number, place]) for number, one in enumerate(shown)}
        part = float(parts[place]) if parts is not None else None
        row = _row(item, scores[:, place], rests[:, place], part, results, abilities)
        found = _verdict(row, abilities, results)
        rows.append(row if found is None else replace(row, worth=found[0], reason=found[1]))
    return ItemTable(suite, edition, len(shown), tuple(rows), reliability_of(scores, columns.weights, columns.families))


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


def _row(
    item: Item,
    scores: Floats,
    rests: Floats,
    part: float | None,
    results: Mapping[str, Sequence[Result]],
    abilities: Mapping[str, float],
) -> ItemRow:
    known = ~np.isnan(scores)
    times = [result.seconds for each in results.values() for result in each if result.seconds is not None]
    return ItemRow(
        question=item.question,
        category=item.category,
        entrants=int(known.sum()),
        mean=float(scores[known].mean()) if known.any() else None,
        discrimination=_correlation(scores[known], rests[known]),
        part=part,
        flips=_flips(results),
        median_s=median(times) if times else None,
        rival=_rival(results, abilities),
    )


def _correlation(first: Floats, second: Floats) -> float | None:
    """Return Pearson's correlation, or None where one side is constant or there are too few."""
    sound = ~np.isnan(second)
    first, second = first[sound], second[sound]
    if len(first) < LEAST_FOR_ALL or first.std() < 1e-12 or second.std() < 1e-12:
        return None
    return float(np.corrcoef(first, second)[0, 1])


def _flips(results: Mapping[str, Sequence[Result]]) -> float | None:
    """Return the chance that two trials of one entrant come out differently, over entrants with several."""
    chances = []
    for each in results.values():
        passed = [result.verdict is Verdict.PASS for result in each if result.counts]
        count, good = len(passed), sum(passed)
        if count > 1:
            chances.append(2 * good * (count - good) / (count * (count - 1)))
    return sum(chances) / len(chances) if chances else None


def _rival(results: Mapping[str, Sequence[Result]], abilities: Mapping[str, float]) -> Rival | None:
    """Return the commonest answer that is not the key's."""
    weights: dict[str, float] = defaultdict(float)
    givers: dict[str, set[str]] = defaultdict(set)
    total = key = 0.0
    for name, each in results.items():
        counted = [result for result in each if result.counts]
        ability = abilities[name]
        for result in counted:
            # squared: whom the other questions show to be good should know
            weight = (0.0 if np.isnan(ability) else ability**2) / len(counted)
            total += weight
            if result.verdict is Verdict.PASS:
                key += weight
            elif result.answer:
                answer = " ".join(result.answer.casefold().split())
                weights[answer] += weight
                givers[answer].add(name)
    if not weights or total <= 0:
        return None
    answer = max(weights, key=lambda one: (weights[one], one))
    return Rival(answer, len(givers[answer]), weights[answer] / total, key / total)


def _verdict(
    row: ItemRow, abilities: Mapping[str, float], results: Mapping[str, Sequence[Result]]
) -> tuple[Worth, str] | None:
    """Return what is amiss with a question, and why; the gravest first."""
    count, mean, rival = row.entrants, row.mean, row.rival
    if mean is None or count < LEAST_FOR_ALL:
        return None
    if rival is not None and count >= LEAST_FOR_ANSWERS and rival.entrants > 1:
        weighed = f"{rival.share:.0%} by ability, the key {rival.key_share:.0%}"
        shares = f"{rival.entrants} of {count} say '{rival.answer}' ({weighed})"
        wide = rival.share >= SUSPECT_SHARE and rival.share >= SUSPECT_TIMES * rival.key_share
        if wide and rival.entrants >= SUSPECT_GIVERS:
            return Worth.SUSPECT_KEY, shares
        both = rival.share + rival.key_share
        if (
            min(rival.share, rival.key_share) >= FIELD_SHARE
            and both >= FIELD_BOTH
            and _as_able(rival, abilities, results)
        ):
            return Worth.AMBIGUOUS, f"two answers share the field: {shares}"
    if row.discrimination is not None and count >= LEAST_FOR_NEGATIVE and _surely_negative(row.discrimination, count):
        return Worth.NEGATIVE, f"weaker entrants pass it more often (item-rest correlation {row.discrimination:.2f})"
    if row.flips is not None and row.flips >= NOISY:
        return Worth.NOISY, f"two trials of one entrant differ in {row.flips:.0%} of cases"
    if mean > 1 - 1e-9:
        return Worth.SATURATED, f"all {count} entrants pass it"
    if mean < 1e-9:
        return Worth.OUT_OF_REACH, f"none of {count} entrants passes it"
    return None


def _as_able(rival: Rival, abilities: Mapping[str, float], results: Mapping[str, Sequence[Result]]) -> bool:
    """Tell whether those who give the rival answer are as good on the other questions as those who give the key."""
    sides: dict[bool, list[float]] = {True: [], False: []}
    for name, each in results.items():
        for result in each:
            said = " ".join((result.answer or "").casefold().split())
            if result.counts and (result.verdict is Verdict.PASS or said == rival.answer):
                sides[result.verdict is Verdict.PASS].append(abilities[name])
    return bool(sides[True] and sides[False]) and float(np.mean(sides[False])) >= float(np.mean(sides[True])) - 0.05


def _surely_negative(correlation: float, count: int) -> bool:
    """Tell whether the upper end of a correlation's 95 % interval is below zero (Fisher's transformation, 1915)."""
    return bool(np.arctanh(max(-0.999999, correlation)) + 1.96 / np.sqrt(count - 3) < 0)
