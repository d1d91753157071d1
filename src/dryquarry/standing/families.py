"""Originals against their twists: who passes a puzzle but not the same puzzle with one detail changed."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dryquarry.standing.columns import columns_of
from dryquarry.standing.intervals import LEVEL, Floats
from dryquarry.standing.paired import MOST_ENUMERATED, SAME, flipped_totals, holm, paired_p_value
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item

# Fewer families cannot show it: all on one side they come to 1 in 2^4 at best.
LEAST_FAMILIES = 5
LEAST_OTHERS = 2


@dataclass(frozen=True, slots=True)
class FamilyRow:
    """One entrant: its mean over originals and over their twists, in `families` where it has both.

    `gap` is by how much it passes originals more often than their twists, `others` the same of the other entrants on
    the same families. `p_value` is of the one-sided test that its gap is the larger one, corrected for the number of
    entrants (Holm, 1979); None where too few families or other entrants can show it. `recites` says that it is.
    """

    entrant: str
    families: int
    originals: float
    twists: float
    gap: float
    others: float | None
    p_value: float | None
    recites: bool = False


@dataclass(frozen=True, slots=True)
class TwistRow:
    """One kind of twist: how many questions, and by how much the entrants pass the originals more often, on average."""

    twist: str
    questions: int
    gap: float


@dataclass(frozen=True, slots=True)
class FamilyTable:
    """Originals against twists, by entrant and by kind of twist, over so many families that have both."""

    suite: str
    edition: str | None
    families: int
    rows: tuple[FamilyRow, ...]
    twists: tuple[TwistRow, ...]
    selected: str = ""


def family_table(
    suite: str, edition: str | None, items: Sequence[Item], entrants: Sequence[EntrantResults]
) -> FamilyTable:
    """Return how originals and twists came out; a family counts where it has both."""
    columns = columns_of(items, entrants)
    families: dict[str, tuple[list[int], list[int]]] = defaultdict(lambda: ([], []))
    for place, item in enumerate(items):
        if item.family:
            families[item.family][item.twist is not None].append(place)
    both = [pair for pair in families.values() if pair[0] and pair[1]]
    originals = _means(columns.scores, [pair[0] for pair in both])
    twists = _means(columns.scores, [pair[1] for pair in both])
    rows = []
    for number, name in enumerate(columns.entrants):
        known = ~np.isnan(originals[number] - twists[number])
        if known.any():
            rows.append(_row(name, number, originals, twists, known))
    kinds = _by_twist(items, columns.scores, both)
    return FamilyTable(suite, edition, len(both), tuple(_corrected(rows)), kinds)


def _means(scores: Floats, groups: Sequence[Sequence[int]]) -> Floats:
    """Return the mean of each group of questions, one row an entrant; NaN where it has none of them all."""
    if not groups:
        return np.empty((len(scores), 0))
    means: Floats = np.stack([scores[:, list(group)].mean(axis=1) for group in groups], axis=1)
    return means


def _row(name: str, number: int, originals: Floats, twists: Floats, known: np.ndarray) -> FamilyRow:
    gaps = originals - twists
    own = gaps[number, known]
    rest = np.delete(gaps, number, axis=0)[:, known]
    sat = ~np.isnan(rest).any(axis=1)
    rest = rest[sat]
    p_value = None
    if len(rest) >= LEAST_OTHERS and known.sum() >= LEAST_FAMILIES:
        p_value = _larger(own - rest.mean(axis=0))
    return FamilyRow(
        name,
        int(known.sum()),
        float(originals[number, known].mean()),
        float(twists[number, known].mean()),
        float(own.mean()),
        float(rest.mean()) if len(rest) else None,
        p_value,
    )


def _larger(differences: Floats) -> float:
    """Return the one-sided p-value of the sign-flip test that differences are positive (Fisher, 1935)."""
    nonzero = differences[np.abs(differences) > SAME]
    if not len(nonzero):
        return 1.0
    if len(nonzero) <= MOST_ENUMERATED:
        return float((flipped_totals(nonzero) >= nonzero.sum() - SAME).mean())
    two_sided = paired_p_value(nonzero, np.ones(len(nonzero)), np.arange(len(nonzero)))
    return two_sided / 2 if nonzero.sum() > 0 else 1 - two_sided / 2


def _corrected(rows: Sequence[FamilyRow]) -> list[FamilyRow]:
    """Correct for the number of entrants tested, and say who probably recites."""
    corrected = iter(holm([row.p_value for row in rows if row.p_value is not None]))
    done = []
    for row in rows:
        p_value = None if row.p_value is None else next(corrected)
        done.append(replace(row, p_value=p_value, recites=p_value is not None and p_value < LEVEL))
    return done


def _by_twist(
    items: Sequence[Item], scores: Floats, both: Sequence[tuple[list[int], list[int]]]
) -> tuple[TwistRow, ...]:
    """Return the gaps by kind of twist, in the suite's order."""
    gaps: dict[str, list[float]] = defaultdict(list)
    for originals, twisted in both:
        first = scores[:, originals].mean(axis=1)
        for place in twisted:
            difference = first - scores[:, place]
            if (~np.isnan(difference)).any():
                gaps[items[place].twist or ""].append(float(np.nanmean(difference)))
    return tuple(TwistRow(twist, len(each), float(np.mean(each))) for twist, each in gaps.items())
