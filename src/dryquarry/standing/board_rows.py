"""One entrant's figures on a board."""

from __future__ import annotations

from collections import Counter, defaultdict
from collections.abc import Mapping, Sequence
from statistics import median
from typing import TypeVar

import numpy as np

from dryquarry.marking.model import Verdict
from dryquarry.standing.board_model import BoardRow, SecondTries, Target, Unsure
from dryquarry.standing.columns import Columns
from dryquarry.standing.intervals import NOTHING, Interval, score_interval, trials_interval
from dryquarry.standing.repeats import Repeats, repeats_of
from dryquarry.standing.results import EntrantResults, Item, Result, question_scores, weighted_mean

Amount = TypeVar("Amount", int, float)


def row_of(
    items: Sequence[Item], entrant: EntrantResults, columns: Columns, number: int, target: Target | None
) -> BoardRow:
    """Return an entrant's row; without a `target` it has no interval."""
    names = {item.question for item in items}
    results = [result for result in entrant.results if result.question in names]
    counted = [result for result in entrant.counted if result.question in names]
    own = columns.scores[number]
    scores = {
        item.question: score for item, score in zip(items, own.tolist(), strict=True) if score == score
    }  # not NaN
    trials = max((result.trial for result in results), default=1)
    interval = _interval(columns, number, target)
    times = [result.seconds for result in results if result.seconds is not None]
    passed = sum(result.verdict is Verdict.PASS for result in counted)
    cost = _sum_of_known([result.cost for result in results])
    return BoardRow(
        entrant=entrant.entrant,
        title=entrant.title,
        score=weighted_mean(items, scores),
        low=interval.low,
        high=interval.high,
        passed=passed,
        marked=len(counted),
        asked=len(items) * trials,
        trials=trials,
        categories=category_scores(items, scores),
        outcomes=dict(Counter(str(result.outcome) for result in results)),
        median_s=median(times) if times else None,
        output_tokens=_sum_of_known([result.output_tokens for result in results]),
        cost=cost,
        p90_s=float(np.quantile(times, 0.9)) if times else None,
        seconds_per_pass=sum(times) / passed if times and passed else None,
        cost_per_pass=cost / passed if cost is not None and passed else None,
        repeats=_repeats(items, counted) if trials > 1 else None,
        second_tries=_second_tries(entrant, names),
        corrected=sum(result.corrected for result in results),
        form_kept=_share([result.form_kept for result in counted]),
        unsure=_unsure(items, counted),
    )


def _interval(columns: Columns, number: int, target: Target | None) -> Interval:
    scores = columns.scores[number]
    if target is None or not len(scores) or np.isnan(scores).any():
        return NOTHING
    if target is Target.THESE:
        return trials_interval(scores, columns.weights, columns.within[number], columns.trials[number])
    return score_interval(scores, columns.weights, columns.families)


def _repeats(items: Sequence[Item], counted: Sequence[Result]) -> Repeats | None:
    weights = {item.question: item.weight for item in items}
    passed: dict[str, list[bool]] = defaultdict(list)
    for result in counted:
        passed[result.question].append(result.verdict is Verdict.PASS)
    return repeats_of([(sum(each), len(each), weights[question]) for question, each in passed.items()])


def _unsure(items: Sequence[Item], counted: Sequence[Result]) -> Unsure | None:
    """Return what the marks that are not sure could change, were each of them to come out the other way."""
    marks = sum(not result.sure for result in counted)
    if not marks:
        return None
    ends = []
    for verdict, flipped in ((Verdict.PASS, 0.0), (Verdict.FAIL, 1.0)):
        turned = [
            result._replace(score=flipped) if not result.sure and result.verdict is verdict else result
            for result in counted
        ]
        ends.append(weighted_mean(items, question_scores(turned)) or 0.0)
    return Unsure(marks, *ends)


def _share(facts: Sequence[bool | None]) -> float | None:
    known = [fact for fact in facts if fact is not None]
    return sum(known) / len(known) if known else None


def _second_tries(entrant: EntrantResults, names: set[str]) -> SecondTries | None:
    counted = [result for result in entrant.second if result.counts and result.question in names]
    if not counted:
        return None
    return SecondTries(sum(result.verdict is Verdict.PASS for result in counted), len(counted))


def category_scores(items: Sequence[Item], scores: Mapping[str, float]) -> dict[str, float | None]:
    """Return the score in each category, in the order in which the items name them."""
    names = dict.fromkeys(item.category for item in items if item.category)
    return {name: weighted_mean([item for item in items if item.category == name], scores) for name in names}


def _sum_of_known(values: Sequence[Amount | None]) -> Amount | None:
    known = [value for value in values if value is not None]
    return sum(known[1:], known[0]) if known else None
