"""Who is compared on what: questions that entrants lack, and what may be said of entrants that lack some."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

import numpy as np

from dryquarry.standing.intervals import Floats
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item


@dataclass(frozen=True, slots=True)
class Field:
    """The questions that count on a board, and for each entrant those of them that it lacks.

    `left_out` are live questions that count for nobody because at least half of the entrants, and more than one,
    lack them; `only_shared` says that on request the questions are those that every entrant has.
    """

    items: tuple[Item, ...]
    missing: Mapping[str, tuple[str, ...]]
    left_out: tuple[str, ...] = ()
    only_shared: bool = False

    def finished(self, entrant: str) -> bool:
        """Tell whether an entrant lacks none of the questions, so that it is ranked."""
        return not self.missing[entrant] and bool(self.items)


def field_of(
    items: Sequence[Item],
    entrants: Sequence[EntrantResults],
    void: Collection[str] = (),
    *,
    shared: bool = False,
) -> Field:
    """Return which questions count, and who lacks which.

    A question is missing for an entrant that has no counting trial of it, whatever the reason: never sent, failed,
    without a mark, or void for it alone. What is `void` for all is out for all; so is what at least half of the
    entrants lack, of those that have any question at all, if they are more than one. An entrant that lacks less
    common questions stays unfinished, and changes nobody's row. With `shared` the questions are those that every
    entrant with any has.
    """
    gone = set(void)
    live = tuple(item for item in items if item.question not in gone)
    names = tuple(item.question for item in live)
    lacks = np.ones((len(entrants), len(live)), dtype=bool)
    for number, one in enumerate(entrants):
        replies = one.replies.on(names)
        lacks[number, replies.question[replies.counts]] = False
    sat = ~lacks.all(axis=1)
    lacking = lacks[sat].sum(axis=0)
    out = lacking > 0 if shared else (lacking > 1) & (2 * lacking >= sat.sum())
    counting = tuple(item for item, left in zip(live, out, strict=True) if not left)
    missing = {
        one.entrant: tuple(counting[place].question for place in np.flatnonzero(lacks[number, ~out]))
        for number, one in enumerate(entrants)
    }
    return Field(counting, missing, tuple(names[place] for place in np.flatnonzero(out)), shared)


@dataclass(frozen=True, slots=True)
class Bounds:
    """The least and the greatest score that an unfinished entrant may still have."""

    low: float
    high: float


def bounds_of(scores: Floats, weights: Floats) -> Bounds:
    """Return the score if all missing questions were failed, and if all were passed (Horowitz & Manski, 2000)."""
    total = float(weights.sum())
    lacking = float(weights[np.isnan(scores)].sum())
    had = float(np.nansum(scores * weights))
    return Bounds(had / total, (had + lacking) / total) if total else Bounds(0.0, 1.0)
