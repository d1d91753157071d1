"""Whom to compare on which questions, when entrants sat different ones."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dryquarry.standing.results import EntrantResults, Item

LEAST_SHARE = 0.5


@dataclass(frozen=True, slots=True)
class Shared:
    """The questions that all of the entrants sat; `left_out` names the others with how many they sat."""

    items: tuple[Item, ...]
    entrants: tuple[EntrantResults, ...]
    left_out: tuple[tuple[str, int], ...] = ()


def share(items: Sequence[Item], entrants: Sequence[EntrantResults]) -> Shared:
    """Return the entrants that can be compared, with their results on the questions that all of them sat.

    An entrant that sat less than half of the items is left out. While those that remain share less than half,
    the one that sat fewest is left out, so that one hasty entrant does not shrink the board for all.
    """
    names = {item.question for item in items}
    sat = {one.entrant: {result.question for result in one.results} & names for one in entrants}
    kept = sorted(sat, key=lambda name: (-len(sat[name]), name))
    while kept and len(sat[kept[-1]]) < LEAST_SHARE * len(names):
        kept.pop()
    common = _common(sat, kept, names)
    while len(kept) > 1 and len(common) < LEAST_SHARE * len(names):
        kept.pop()
        common = _common(sat, kept, names)
    shown = [
        replace(
            one,
            results=tuple(result for result in one.results if result.question in common),
            second=tuple(result for result in one.second if result.question in common),
        )
        for one in entrants
        if one.entrant in kept
    ]
    left_out = tuple((one.entrant, len(sat[one.entrant])) for one in entrants if one.entrant not in kept)
    return Shared(tuple(item for item in items if item.question in common), tuple(shown), left_out)


def _common(sat: dict[str, set[str]], kept: Sequence[str], names: set[str]) -> set[str]:
    return names.intersection(*(sat[name] for name in kept))
