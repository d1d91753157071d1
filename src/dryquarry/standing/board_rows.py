"""One entrant's figures on a board."""

from __future__ import annotations

from collections.abc import Callable, Iterable, Mapping, Sequence

import numpy as np

from dryquarry.marking.model import Verdict
from dryquarry.standing.board_model import BoardRow, SecondTries, Target, Unsure
from dryquarry.standing.columns import Columns, weighted_mean
from dryquarry.standing.intervals import NOTHING, Codes, Floats, Interval, score_interval, trials_interval
from dryquarry.standing.repeats import Repeats, repeats_of
from dryquarry.standing.replies import OUTCOMES, VERDICTS, EntrantResults, Replies
from dryquarry.standing.results import Item


class Groups:
    """The questions by what they belong to: the places of each category, tag, level and suite, in their order."""

    def __init__(self, items: Sequence[Item]):
        self.categories = _places(items, lambda item: [item.category])
        self.tags = _places(items, lambda item: item.tags)
        self.levels = _places(items, lambda item: [item.level])
        self.suites = _places(items, lambda item: [item.suite])


def _places(items: Sequence[Item], names: Callable[[Item], Iterable[str | None]]) -> dict[str, Codes]:
    places: dict[str, list[int]] = {}
    for place, item in enumerate(items):
        for name in names(item):
            if name:
                places.setdefault(name, []).append(place)
    return {name: np.array(each, dtype=np.intp) for name, each in places.items()}


def row_of(groups: Groups, entrant: EntrantResults, columns: Columns, number: int, target: Target | None) -> BoardRow:
    """Return an entrant's row on the questions of `columns`; without a `target` it has no interval."""
    names = columns.questions
    replies, second = entrant.replies.on(names), entrant.second.on(names)
    scores, weights = columns.scores[number], columns.weights
    trials = int(replies.trial.max(initial=1))
    interval = _interval(columns, number, target)
    passed = int(replies.passed.sum())
    times, cost = _known(replies.seconds), _sum(replies.cost)
    median_s, p90_s = map(float, np.quantile(times, [0.5, 0.9])) if len(times) else (None, None)
    return BoardRow(
        entrant=entrant.entrant,
        title=entrant.title,
        score=weighted_mean(scores, weights),
        low=interval.low,
        high=interval.high,
        passed=passed,
        marked=int(replies.counts.sum()),
        asked=len(names) * trials,
        trials=trials,
        categories=_by_group(groups.suites or groups.categories, scores, weights),
        outcomes=_outcomes(replies),
        median_s=median_s,
        output_tokens=None if (tokens := _sum(replies.output_tokens)) is None else int(tokens),
        cost=cost,
        p90_s=p90_s,
        first_token_s=median_of(replies.first_token_s),
        seconds_per_pass=float(times.sum()) / passed if len(times) and passed else None,
        cost_per_pass=cost / passed if cost is not None and passed else None,
        repeats=_repeats(replies, weights) if trials > 1 else None,
        second_tries=SecondTries(int(second.passed.sum()), int(second.counts.sum())) if second.counts.any() else None,
        corrected=int(replies.corrected.sum()),
        form_kept=_form_kept(replies),
        unsure=_unsure(replies, weights),
        tags=_by_group(groups.tags, scores, weights),
        levels=_by_group(groups.levels, scores, weights),
        over_suites=_by_group(groups.categories, scores, weights) if groups.suites else {},
    )


def median_of(values: Floats) -> float | None:
    """Return the median of what is known, or None where nothing is."""
    known = _known(values)
    return float(np.median(known)) if len(known) else None


def _known(values: Floats) -> Floats:
    return values[~np.isnan(values)]


def _sum(values: Floats) -> float | None:
    known = _known(values)
    return float(known.sum()) if len(known) else None


def _outcomes(replies: Replies) -> dict[str, int]:
    counts = np.bincount(replies.outcome, minlength=len(OUTCOMES)) if len(replies) else np.zeros(len(OUTCOMES))
    return {str(outcome): int(count) for outcome, count in zip(OUTCOMES, counts, strict=True) if count}


def _interval(columns: Columns, number: int, target: Target | None) -> Interval:
    scores = columns.scores[number]
    if target is None or not len(scores) or np.isnan(scores).any():
        return NOTHING
    if target is Target.THESE:
        return trials_interval(scores, columns.weights, columns.within[number], columns.trials[number])
    return score_interval(scores, columns.weights, columns.families)


def _repeats(replies: Replies, weights: Floats) -> Repeats | None:
    count = len(replies.names)
    passed = np.bincount(replies.question[replies.passed], minlength=count)
    trials = np.bincount(replies.question[replies.counts], minlength=count)
    return repeats_of(passed, trials, weights)


def _unsure(replies: Replies, weights: Floats) -> Unsure | None:
    """Return what the marks that are not sure could change, were each of them to come out the other way."""
    unsure = replies.counts & ~replies.sure
    if not unsure.any():
        return None
    ends = []
    for verdict, flipped in ((Verdict.PASS, 0.0), (Verdict.FAIL, 1.0)):
        turned = replies.taken(np.arange(len(replies)))
        turned.score[unsure & (replies.verdict == VERDICTS.index(verdict))] = flipped
        ends.append(weighted_mean(turned.scores(), weights) or 0.0)
    return Unsure(int(unsure.sum()), *ends)


def _form_kept(replies: Replies) -> float | None:
    known = replies.form_kept[replies.counts & (replies.form_kept >= 0)]
    return float(known.mean()) if len(known) else None


def _by_group(groups: Mapping[str, Codes], scores: Floats, weights: Floats) -> dict[str, float | None]:
    return {name: weighted_mean(scores[places], weights[places]) for name, places in groups.items()}
