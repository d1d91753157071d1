"""Scores of judged replies corrected by what people say of a random sample of them.

Prediction-powered inference (Angelopoulos, Bates, Fannjiang, Jordan & Zrnic, 2023), with its weight λ tuned
(Angelopoulos, Duchi & Zrnic, 2023): the mean of λ times the judge's scores over all replies, and the mean of what
people's scores leave over it in the sample, each draw weighed by the inverse of its probability (Horvitz & Thompson,
1952) and the weights brought to sum to one (Hájek, 1971). So every reply gets a corrected value, of which a question's
mean stands in for its score; scores, intervals and paired differences are those of these values, over families.
"""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dryquarry.standing.columns import Columns, weighted_mean
from dryquarry.standing.intervals import (
    LEVEL,
    NORMAL_975,
    Codes,
    Flags,
    Floats,
    Interval,
    design_effect,
    effective_count,
    mid_p_interval,
    steadied_variance,
    student_quantile,
)
from dryquarry.standing.replies import EntrantResults

FEWEST_AUDITED = 10
# Two judge-by-entrant biases count as the same where they differ by less than this.
SAME_BIAS = 0.05
MOST_MORE = 5000
# As if so many audited replies more were judged at random: few audits may show no error of a judge that has some.
IMAGINARY = 0.5
TINY = 1e-12


@dataclass(frozen=True, slots=True)
class Audited:
    """An entrant's judged replies: question and trial of each, what a person says (or NaN), how likely it was drawn."""

    questions: tuple[str, ...]
    trials: tuple[int, ...]
    hand: tuple[float, ...]
    probability: tuple[float, ...]

    @property
    def count(self) -> int:
        """How many a person has marked."""
        return sum(one == one for one in self.hand)  # NaN is not equal to itself


def joined_audits(parts: Sequence[Audited]) -> Audited:
    """Return an entrant's judged replies to several suites as one."""
    names = ("questions", "trials", "hand", "probability")
    return Audited(*(tuple(value for part in parts for value in getattr(part, name)) for name in names))


@dataclass(frozen=True, slots=True)
class Correction:
    """What people's marks do to a board: corrected columns, intervals and how much was audited, by entrant.

    `weight` is λ, how much the judges' scores count; `bias` is by how much each entrant is marked higher by judges
    than by people, `bias_p` whether those biases differ; `pooled` that one bias serves all. `more` is about how many
    further audits would tell the best two apart; None where they are, or no number would.
    """

    columns: Columns
    intervals: Mapping[str, Interval]
    audited: Mapping[str, int]
    bias: Mapping[str, float]
    weight: float
    bias_p: float | None
    pooled: bool
    more: int | None = None


@dataclass(frozen=True, slots=True)
class _Judged:
    """One entrant's counted replies: place of the question, score, and of the judged ones hand mark and probability."""

    at: Codes
    score: Floats
    judged: Flags
    hand: Floats
    probability: Floats

    @property
    def drawn(self) -> Flags:
        drawn: Flags = self.judged & ~np.isnan(self.hand)
        return drawn


def corrected(
    columns: Columns, entrants: Sequence[EntrantResults], audits: Mapping[str, Audited], finished: Sequence[bool]
) -> Correction | None:
    """Return the corrected board of the finished entrants; None where one of them has too few audited replies."""
    judged = {
        one.entrant: _judged_of(columns, one, audits.get(one.entrant))
        for one, whole in zip(entrants, finished, strict=True)
        if whole
    }
    touched = {name: each for name, each in judged.items() if each.judged.any()}
    if not touched or any(each.drawn.sum() < min(FEWEST_AUDITED, each.judged.sum()) for each in touched.values()):
        return None
    weight = _tuned_weight(list(touched.values()))
    bias = {name: _mean_left(each, 1.0) for name, each in touched.items()}
    bias_p = biases_differ({name: _left(each, 1.0) for name, each in touched.items()})
    pooled = _are_the_same({name: _left(each, 1.0) for name, each in touched.items()})
    shared = _pooled_mean(list(touched.values()), weight) if pooled else None
    scores = columns.scores.copy()
    spread = _audited_spread(list(touched.values()))
    intervals: dict[str, Interval] = {}
    for place, name in enumerate(columns.entrants):
        if name in touched:
            values, extra = _values(touched[name], weight, shared, spread)
            scores[place] = _by_question(touched[name].at, values, len(columns.questions))
            intervals[name] = _interval(scores[place], columns, touched[name], extra)
    after = replace(columns, scores=scores)
    counts = {name: int(each.drawn.sum()) for name, each in touched.items()}
    found = Correction(after, intervals, counts, {name: -one for name, one in bias.items()}, weight, bias_p, pooled)
    return replace(found, more=_more(found, touched))


def _judged_of(columns: Columns, one: EntrantResults, audited: Audited | None) -> _Judged:
    replies = one.replies.on(columns.questions)
    replies = replies.taken(replies.counts)
    count = len(replies)
    hand, probability, judged = np.full(count, np.nan), np.ones(count), np.zeros(count, dtype=bool)
    if audited is not None:
        places = {
            (columns.questions[question], trial): place
            for place, (question, trial) in enumerate(
                zip(replies.question.tolist(), replies.trial.tolist(), strict=True)
            )
        }
        for question, trial, said, chance in zip(
            audited.questions, audited.trials, audited.hand, audited.probability, strict=True
        ):
            found = places.get((question, trial))
            if found is not None:
                judged[found], hand[found], probability[found] = True, said, chance
    return _Judged(replies.question, replies.score, judged, hand, probability)


def _left(each: _Judged, weight: float) -> tuple[Floats, Floats]:
    """Return what people's scores leave over the weighted judge's, of the drawn replies, and the draws' weights."""
    drawn = each.drawn
    return each.hand[drawn] - weight * each.score[drawn], 1 / each.probability[drawn]


def _mean_left(each: _Judged, weight: float) -> float:
    left, weights = _left(each, weight)
    return float((left * weights).sum() / weights.sum())


def _pooled_mean(judged: Sequence[_Judged], weight: float) -> float:
    parts = [_left(each, weight) for each in judged]
    total = sum(float(weights.sum()) for _, weights in parts)
    return sum(float((left * weights).sum()) for left, weights in parts) / total


def _tuned_weight(judged: Sequence[_Judged]) -> float:
    """Return λ: the slope of people's scores on judges' within entrants, from 0 (worthless) to 1."""
    above = below = 0.0
    for each in judged:
        score, hand = each.score[each.drawn], each.hand[each.drawn]
        above += float(((score - score.mean()) * (hand - hand.mean())).sum())
        below += float(((score - score.mean()) ** 2).sum())
    return min(1.0, max(0.0, above / below)) if below > TINY else 0.0


def _audited_spread(judged: Sequence[_Judged]) -> float:
    """Return the variance of people's scores: the squared error of a judge that tells nothing."""
    return float(np.concatenate([each.hand[each.drawn] for each in judged]).var())


def _values(each: _Judged, weight: float, shared: float | None, spread: float) -> tuple[Floats, float]:
    """Return the corrected value of each reply, and the variance that few audits may hide, for the mean of all."""
    values = each.score.copy()
    drawn, count = each.drawn, int(each.drawn.sum())
    mean = _mean_left(each, weight) if shared is None else shared
    values[each.judged] = weight * each.score[each.judged] + mean
    left = each.hand[drawn] - weight * each.score[drawn] - mean
    weights = 1 / each.probability[drawn]
    weights *= each.judged.sum() / weights.sum()
    unseen = max(0.0, 1 - count / each.judged.sum())
    # The mean itself is taken from these: what is left over has one degree of freedom less, unless all were drawn.
    values[drawn] += left * weights * np.sqrt(1 + unseen / max(1, count - 1))
    share = each.judged.mean()
    return values, float(unseen * share**2 * IMAGINARY * spread / (count + IMAGINARY) / count)


def _by_question(at: Codes, values: Floats, questions: int) -> Floats:
    counts = np.bincount(at, minlength=questions)
    sums = np.bincount(at, weights=values, minlength=questions)
    with np.errstate(invalid="ignore", divide="ignore"):
        means: Floats = np.where(counts > 0, sums / counts, np.nan)
    return means


def _interval(values: Floats, columns: Columns, each: _Judged, extra: float) -> Interval:
    """Return the interval of the mean of corrected values, as of a score: by the mid-P test on an effective count.

    `extra` is variance of the mean beyond what the values show. The degrees of freedom are those of the families that
    hold an audited reply.
    """
    known = ~np.isnan(values) & (columns.weights > 0)
    if not known.any():
        return Interval(None, None)
    values, weights = values[known], columns.weights[known]
    variance, steadied = steadied_variance(values, weights)
    effect, families = design_effect(values, weights, columns.families[known])
    of_mean = variance * effect / effective_count(weights) + extra
    _, members = np.unique(columns.families, return_inverse=True)
    seen = len(np.unique(members[np.unique(each.at[each.drawn])]))
    quantile = student_quantile(max(1, min(families, seen) - 1))
    steadied = min(1 - TINY, max(TINY, steadied))
    effective = steadied * (1 - steadied) / of_mean * (NORMAL_975 / quantile) ** 2
    mean = min(1.0, max(0.0, float(np.average(values, weights=weights))))
    return mid_p_interval(mean, max(effective, 1e-3))


def biases_differ(left: Mapping[str, tuple[Floats, Floats]]) -> float | None:
    """Return the p-value that judges are off by the same for every entrant (Welch, 1951); None where it has no test."""
    from scipy import special

    groups = [values for values, _ in left.values() if len(values) > 1]
    if len(groups) < 2:
        return None
    means = np.array([values.mean() for values in groups])
    variances = np.array([max(float(values.var(ddof=1)), TINY) for values in groups])
    counts = np.array([len(values) for values in groups], dtype=float)
    weights = counts / variances
    total, groups_count = weights.sum(), len(groups)
    grand = float((weights * means).sum() / total)
    spread = float((weights * (means - grand) ** 2).sum()) / (groups_count - 1)
    lost = float(((1 - weights / total) ** 2 / (counts - 1)).sum())
    statistic = spread / (1 + 2 * (groups_count - 2) / (groups_count**2 - 1) * lost)
    freedom = (groups_count**2 - 1) / (3 * lost) if lost > 0 else np.inf
    return float(special.fdtrc(groups_count - 1, freedom, statistic))


def _are_the_same(left: Mapping[str, tuple[Floats, Floats]]) -> bool:
    """Tell whether every two entrants' biases are shown to differ by less than a twentieth (two one-sided tests)."""
    groups = [values for values, _ in left.values()]
    if len(groups) < 2 or any(len(values) < 2 for values in groups):
        return False
    for place, one in enumerate(groups):
        for other in groups[place + 1 :]:
            error = float(np.sqrt(one.var(ddof=1) / len(one) + other.var(ddof=1) / len(other)))
            width = student_quantile(min(len(one), len(other)) - 1, 1 - LEVEL) * error
            if abs(float(one.mean() - other.mean())) + width >= SAME_BIAS:
                return False
    return True


def _more(found: Correction, judged: Mapping[str, _Judged]) -> int | None:
    """Return about how many more audits would tell the two best apart; None where they are, or audits cannot."""
    columns = found.columns
    means = {
        name: weighted_mean(columns.scores[place], columns.weights)
        for place, name in enumerate(columns.entrants)
        if name in judged
    }
    best = sorted((name for name in means if means[name] is not None), key=lambda name: -(means[name] or 0.0))[:2]
    if len(best) < 2:
        return None
    first, second = (columns.entrants.index(name) for name in best)
    differences = (columns.scores[first] - columns.scores[second]) * columns.weights / columns.weights.sum()
    _, members = np.unique(columns.families, return_inverse=True)
    sums = np.bincount(members, weights=np.nan_to_num(differences))
    whole = float(((sums - sums.mean()) ** 2).sum())
    apart = abs(float(sums.sum()))
    if apart > NORMAL_975 * np.sqrt(whole):
        return None
    from_audits = sum(_audit_variance(judged[name], found.weight) for name in best)
    room = (apart / NORMAL_975) ** 2 - max(0.0, whole - from_audits)
    count = sum(found.audited[name] for name in best)
    if room <= 0 or from_audits <= TINY:
        return None
    return min(MOST_MORE, max(1, round(count * (from_audits / room - 1))))


def _audit_variance(each: _Judged, weight: float) -> float:
    """Return the part of a mean's variance that more audits would take away."""
    left, _ = _left(each, weight)
    unseen = max(0.0, 1 - len(left) / each.judged.sum())
    return float(left.var(ddof=1) / len(left) * unseen * each.judged.mean() ** 2) if len(left) > 1 else 0.0
