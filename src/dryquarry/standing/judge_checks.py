"""What a judge is worth against people: agreement, biases, itself on repeats, and whether it may be trusted."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from dryquarry.standing.agreement import (
    Estimate,
    difference_of_means,
    intraclass_correlation,
    jackknife,
    kappa,
    mean_of,
    negative_agreement,
    nothing,
    positive_agreement,
    share,
    slope_beside,
    weighted_kappa,
)
from dryquarry.standing.intervals import NORMAL_975, Codes, Flags, Floats

# A judge is trusted that agrees with people on at least so many verdicts, and whose scores are off by at most this.
ENOUGH_AGREEMENT = 0.8
MOST_BIAS = 0.1
WORDS_A_STEP = 100
FEWEST_MARKS = 10
MOST_MORE = 2000
MOST_UNREADABLE = 0.5


@dataclass(frozen=True, slots=True)
class Pair:
    """One reply as two marked it: the judge (or a first marking) and a person (or a second one).

    Scores are shares of the points; `points` maps criteria to both shares. `own_family` is None where it is not known.
    """

    question: str
    judge_score: float
    judge_passes: bool
    other_score: float
    other_passes: bool
    words: int = 0
    category: str | None = None
    own_family: bool | None = None
    points: Mapping[str, tuple[float, float]] = field(default_factory=dict)


class Trust(StrEnum):
    """Whether a judge may be trusted on a suite, as far as the hand marks tell."""

    YES = "yes"
    NO = "no"
    UNDECIDED = "undecided"


@dataclass(frozen=True, slots=True)
class Agreement:
    """How two agree in verdicts and in scores."""

    verdicts: Estimate
    kappa: Estimate
    on_passes: Estimate
    on_fails: Estimate
    weighted_kappa: Estimate
    intraclass: Estimate
    bias: Estimate


@dataclass(frozen=True, slots=True)
class JudgeCheck:
    """All that is known of one judge on a suite.

    `bias` figures are mean differences, judge minus people, in shares of the points: above 0 it is generous.
    `length` is how much 100 words more earn at equal hand marks, `own_family` how much more generous it is to its own
    kind, `first_shown` how much more often a reply wins by being shown first, `drift` how much higher it marks fixed
    replies now than at first. `with_itself` is over its own repeats. `more` is how many further hand marks would
    about settle whether it may be trusted, `unmarked` how many of its marks nobody has looked at.
    """

    judge: str
    marks: int
    with_people: Agreement
    by_criterion: Mapping[str, Estimate]
    by_category: Mapping[str, Estimate]
    with_itself: Agreement | None
    with_others: Mapping[str, Agreement]
    length: Estimate
    own_family: Estimate
    first_shown: Estimate
    drift: Estimate
    trust: Trust
    more: int
    unmarked: int = 0
    unsupported: float | None = None
    unreadable: float | None = None
    seconds: float | None = None
    cost_a_mark: float | None = None


@dataclass(frozen=True, slots=True)
class Columns:
    """Pairs as columns, with the number of each one's question."""

    groups: Codes
    judge: Floats
    other: Floats
    judge_passes: Flags
    other_passes: Flags

    @classmethod
    def of(cls, pairs: Sequence[Pair]) -> Columns:
        """Return them from pairs."""
        _, groups = np.unique([one.question for one in pairs], return_inverse=True)
        return cls(
            groups.astype(np.intp),
            np.array([one.judge_score for one in pairs], dtype=float),
            np.array([one.other_score for one in pairs], dtype=float),
            np.array([one.judge_passes for one in pairs], dtype=bool),
            np.array([one.other_passes for one in pairs], dtype=bool),
        )


def agreement_of(pairs: Sequence[Pair]) -> Agreement:
    """Return how the two of each pair agree."""
    if not pairs:
        none = nothing()
        return Agreement(none, none, none, none, none, none, none)
    have = Columns.of(pairs)
    first, second = have.judge_passes, have.other_passes
    both = np.column_stack([have.judge, have.other])
    return Agreement(
        share(first == second, have.groups),
        jackknife(lambda at: kappa(first[at], second[at]), have.groups, (-1, 1)),
        jackknife(lambda at: positive_agreement(first[at], second[at]), have.groups, (0, 1)),
        jackknife(lambda at: negative_agreement(first[at], second[at]), have.groups, (0, 1)),
        jackknife(lambda at: weighted_kappa(have.judge[at], have.other[at]), have.groups, (-1, 1)),
        jackknife(lambda at: intraclass_correlation(both[at]), have.groups, (-1, 1)),
        mean_of(have.judge - have.other, have.groups),
    )


def biases_by(pairs: Sequence[Pair]) -> tuple[dict[str, Estimate], dict[str, Estimate]]:
    """Return the mean differences by criterion, and by category."""
    criteria: dict[str, list[tuple[str, float]]] = {}
    categories: dict[str, list[tuple[str, float]]] = {}
    for one in pairs:
        for name, (judge, other) in one.points.items():
            criteria.setdefault(name, []).append((one.question, judge - other))
        if one.category is not None:
            categories.setdefault(one.category, []).append((one.question, one.judge_score - one.other_score))
    return _means(criteria), _means(categories)


def _means(groups: Mapping[str, Sequence[tuple[str, float]]]) -> dict[str, Estimate]:
    return {name: _mean(rows) for name, rows in groups.items()}


def _mean(rows: Sequence[tuple[str, float]]) -> Estimate:
    _, groups = np.unique([question for question, _ in rows], return_inverse=True)
    return mean_of(np.array([value for _, value in rows]), groups.astype(np.intp))


def length_slope(pairs: Sequence[Pair]) -> Estimate:
    """Return how much 100 words more earn at equal hand marks."""
    if not pairs:
        return nothing()
    have = Columns.of(pairs)
    words = np.array([one.words for one in pairs], dtype=float) / WORDS_A_STEP

    def slope(at: NDArray[np.intp]) -> float | None:
        return slope_beside(have.judge[at], have.other[at], words[at])

    return jackknife(slope, have.groups)


def family_favour(pairs: Sequence[Pair]) -> Estimate:
    """Return how much more generous a judge is to its own kind than to others."""
    known = [one for one in pairs if one.own_family is not None]
    own = np.array([bool(one.own_family) for one in known], dtype=bool)
    if not known or own.all() or not own.any():
        return nothing(len(known))
    have = Columns.of(known)
    return difference_of_means(have.judge - have.other, own, have.groups)


def drift_of(pairs: Sequence[Pair]) -> Estimate:
    """Return how much higher fixed replies are marked the last time (`judge_score`) than at first (`other_score`)."""
    if not pairs:
        return nothing()
    have = Columns.of(pairs)
    return mean_of(have.judge - have.other, have.groups)


def trust_in(agreement: Agreement, unreadable: float | None = None) -> tuple[Trust, int]:
    """Return whether a judge may be trusted, and about how many more hand marks would settle it.

    It may where even the lower end of its agreement reaches four fifths and its bias lies within a tenth of the
    points; it may not where the upper end does not, or the whole interval of its bias lies beyond a tenth, or most of
    its answers are `unreadable`.
    """
    if unreadable is not None and unreadable > MOST_UNREADABLE:
        return Trust.NO, 0
    verdicts, bias = agreement.verdicts, agreement.bias
    if verdicts.value is None or verdicts.low is None or verdicts.high is None or verdicts.count < FEWEST_MARKS:
        return Trust.UNDECIDED, max(FEWEST_MARKS - verdicts.count, FEWEST_MARKS)
    low, high = (bias.low, bias.high) if bias.low is not None and bias.high is not None else (-1.0, 1.0)
    if verdicts.high < ENOUGH_AGREEMENT or low > MOST_BIAS or high < -MOST_BIAS:
        return Trust.NO, 0
    if verdicts.low >= ENOUGH_AGREEMENT and low >= -MOST_BIAS and high <= MOST_BIAS:
        return Trust.YES, 0
    return Trust.UNDECIDED, _more_marks(agreement)


def _more_marks(agreement: Agreement) -> int:
    """Return about how many more marks narrow both intervals until they lie on one side of what is asked."""
    verdicts, bias = agreement.verdicts, agreement.bias
    assert verdicts.value is not None
    count = verdicts.count
    wanted = [count + FEWEST_MARKS]
    distance = abs(verdicts.value - ENOUGH_AGREEMENT)
    wanted.append(_count_for(math.sqrt(max(verdicts.value * (1 - verdicts.value), 0.05)), distance))
    if bias.value is not None and bias.low is not None and bias.high is not None:
        spread = (bias.high - bias.low) / 2 / NORMAL_975 * math.sqrt(count)
        wanted.append(_count_for(spread, abs(abs(bias.value) - MOST_BIAS)))
    return min(MOST_MORE, max(wanted) - count)


def _count_for(spread: float, distance: float) -> int:
    """Return how many marks make the half width of an interval this small."""
    return MOST_MORE * 2 if distance < 1e-3 else math.ceil((NORMAL_975 * spread / distance) ** 2)
