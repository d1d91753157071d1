"""One entrant over editions and time: each state with its score, and the change on what two have in common."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dryquarry.standing.columns import family_codes, weighted_mean, weights_of
from dryquarry.standing.intervals import NOTHING, Floats, Interval, score_interval
from dryquarry.standing.paired import Comparison, compare
from dryquarry.standing.replies import Replies
from dryquarry.standing.results import Item


@dataclass(frozen=True, eq=False)
class State:
    """An entrant on an edition as it stood at some time.

    `digest` and `model` tell its settings then, `first` and `last` when its replies came (UTC). `same_as` has for each
    item what tells whether another edition asks and marks the same, `reply_ids` the replies to each such.
    """

    edition: str
    digest: str
    model: str
    first: str
    last: str
    items: tuple[Item, ...]
    same_as: tuple[str, ...]
    replies: Replies
    reply_ids: Mapping[str, frozenset[int]]


@dataclass(frozen=True, slots=True)
class HistoryRow:
    """One state: how many of the edition's questions it has, its score with interval, and the change to the row before.

    `shared` counts the questions that ask and mark the same in both rows and have a mark in both; `same_replies` says
    that on those the replies are the same ones, so that there can be no change.
    """

    edition: str
    digest: str
    model: str
    first: str
    last: str
    had: int
    questions: int
    score: float | None
    interval: Interval
    shared: int
    change: Comparison | None
    same_replies: bool
    trials: int = 1


@dataclass(frozen=True, slots=True)
class History:
    """An entrant's states on a suite, the earliest first."""

    suite: str
    entrant: str
    title: str
    rows: tuple[HistoryRow, ...]


def history(suite: str, entrant: str, title: str, states: Sequence[State]) -> History:
    """Return the states in the order in which they came about, each against the one before."""
    rows = []
    for before, state in zip([None, *states], states, strict=False):
        rows.append(_row(state, before))
    return History(suite, entrant, title, tuple(rows))


def _row(state: State, before: State | None) -> HistoryRow:
    scores, weights = _scores(state), weights_of(state.items)
    families = family_codes(state.items)
    change, shared = None, 0
    if before is not None:
        earlier = dict(zip(before.same_as, _scores(before).tolist(), strict=True))
        past = np.array([earlier.get(name, np.nan) for name in state.same_as])
        change = compare(scores, past, weights, families)
        shared = int((~np.isnan(past) & ~np.isnan(scores)).sum())
    whole = bool(len(scores)) and not np.isnan(scores).any()
    return HistoryRow(
        state.edition,
        state.digest,
        state.model,
        state.first,
        state.last,
        int((~np.isnan(scores)).sum()),
        len(scores),
        weighted_mean(scores, weights),
        score_interval(scores, weights, families) if whole else NOTHING,
        shared,
        change,
        before is not None and shared > 0 and _kept(state, before),
        int(state.replies.trial.max(initial=1)),
    )


def _scores(state: State) -> Floats:
    return state.replies.on([item.question for item in state.items]).scores()


def _kept(state: State, before: State) -> bool:
    """Tell whether the replies to what two states share are the same ones, none asked anew."""
    shared = state.reply_ids.keys() & before.reply_ids.keys()
    return all(state.reply_ids[name] == before.reply_ids[name] for name in shared)
