"""A smaller suite, drawn by chance within categories, and what it would say of the entrants."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dryquarry.errors import UsageFault
from dryquarry.standing.columns import columns_of, weighted_mean
from dryquarry.standing.intervals import NOTHING, Interval, score_interval
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item


@dataclass(frozen=True, slots=True)
class SmallerRow:
    """One entrant's score on all questions, and on the drawn ones, with the 95 % intervals of both."""

    entrant: str
    whole: float | None
    whole_interval: Interval
    drawn: float | None
    drawn_interval: Interval


@dataclass(frozen=True, slots=True)
class SmallerSuite:
    """So many of a suite's `of` questions, drawn with `seed`, in the suite's order; `strata` are how many of each
    category (None: without one)."""

    suite: str
    edition: str | None
    of: int
    seed: int
    questions: tuple[str, ...]
    strata: tuple[tuple[str | None, int], ...]
    rows: tuple[SmallerRow, ...]
    selected: str = ""


def smaller_suite(
    suite: str, edition: str | None, items: Sequence[Item], entrants: Sequence[EntrantResults], count: int, seed: int
) -> SmallerSuite:
    """Draw so many questions, of each category its share (proportional allocation: Neyman, 1934).

    By chance, not the best: a subset picked for telling these entrants apart does no better than chance on the next
    ones, and its interval would promise too much. Raises UsageFault unless 2 <= count < all.
    """
    if not 2 <= count < len(items):
        raise UsageFault(f"a smaller suite has from 2 to {len(items) - 1} of the {len(items)} questions, not {count}")
    strata: dict[str | None, list[int]] = {}
    for place, item in enumerate(items):
        strata.setdefault(item.category, []).append(place)
    numbers = allotted([len(each) for each in strata.values()], count)
    random = np.random.default_rng(seed)
    places = sorted(
        int(place)
        for each, number in zip(strata.values(), numbers, strict=True)
        for place in random.choice(each, number, replace=False)
    )
    drawn = [items[place] for place in places]
    return SmallerSuite(
        suite,
        edition,
        len(items),
        seed,
        tuple(item.question for item in drawn),
        tuple(zip(strata, numbers, strict=True)),
        tuple(_rows(items, places, entrants)),
    )


def allotted(sizes: Sequence[int], count: int) -> list[int]:
    """Return how many to draw of each stratum: its share, rounded so that all come to `count` (largest remainders)."""
    exact = [size * count / sum(sizes) for size in sizes]
    numbers = [int(one) for one in exact]
    left = sorted(range(len(sizes)), key=lambda place: (numbers[place] - exact[place], place))
    for place in left[: count - sum(numbers)]:
        numbers[place] += 1
    return numbers


def _rows(items: Sequence[Item], places: Sequence[int], entrants: Sequence[EntrantResults]) -> list[SmallerRow]:
    columns = columns_of(items, entrants)
    chosen = np.array(places, dtype=np.intp)
    rows = []
    for number, name in enumerate(columns.entrants):
        sides: list[tuple[float | None, Interval]] = []
        for which in (np.arange(len(items)), chosen):
            scores, weights = columns.scores[number, which], columns.weights[which]
            whole = not np.isnan(scores).any()
            interval = score_interval(scores, weights, columns.families[which]) if whole else NOTHING
            sides.append((weighted_mean(scores, weights), interval))
        rows.append(SmallerRow(name, *sides[0], *sides[1]))
    return sorted(rows, key=lambda row: (row.whole is None, -(row.whole or 0.0), row.entrant))
