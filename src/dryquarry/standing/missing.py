"""Who is compared on what: questions that entrants lack, and what may be said of entrants that lack some."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass

from dryquarry.standing.results import EntrantResults, Item


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
    live = [item for item in items if item.question not in set(void)]
    has = {one.entrant: {result.question for result in one.counted} for one in entrants}
    sat = [name for name, questions in has.items() if questions]
    left_out = []
    for item in live:
        lacking = sum(item.question not in has[name] for name in sat)
        if (lacking and shared) or (lacking > 1 and 2 * lacking >= len(sat)):
            left_out.append(item.question)
    gone = set(left_out)
    counting = tuple(item for item in live if item.question not in gone)
    missing = {
        name: tuple(item.question for item in counting if item.question not in questions)
        for name, questions in has.items()
    }
    return Field(counting, missing, tuple(left_out), shared)


@dataclass(frozen=True, slots=True)
class Bounds:
    """The least and the greatest score that an unfinished entrant may still have."""

    low: float
    high: float


def bounds_of(items: Sequence[Item], scores: Mapping[str, float]) -> Bounds:
    """Return the score if all missing questions were failed, and if all were passed (Horowitz & Manski, 2000)."""
    total = sum(item.weight for item in items)
    had = sum(item.weight * scores[item.question] for item in items if item.question in scores)
    lacking = sum(item.weight for item in items if item.question not in scores)
    return Bounds(had / total, (had + lacking) / total) if total else Bounds(0.0, 1.0)
