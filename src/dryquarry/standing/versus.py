"""Two entrants on the questions that both have: by how much they differ, at what, and what could have been shown."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum

import numpy as np

from dryquarry.errors import UsageFault
from dryquarry.standing.board_rows import median_of
from dryquarry.standing.columns import Columns, columns_of
from dryquarry.standing.corrected import Audited, corrected
from dryquarry.standing.intervals import LEVEL, student_quantile
from dryquarry.standing.paired import SAME, Comparison, compare, holm, shortest_shown
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item

# Gaps, in shares, for which it is said how many questions they take: fixed, never the one just seen, which would only
# say again what the test said (Hoenig & Heisey, 2001).
GAPS = (0.02, 0.05, 0.1, 0.2)


class Finding(StrEnum):
    """What a comparison allows to say of the first entrant."""

    BETTER = "better"
    WORSE = "worse"
    WITHIN = "within the margin"
    UNDECIDED = "not decided"


class Side(StrEnum):
    """How a question came out for the first entrant."""

    WON = "won"
    LOST = "lost"
    TIED = "tied"


@dataclass(frozen=True, slots=True)
class Part:
    """The comparison on the questions of one category (None: all), with both scores; `p_value` is corrected.

    Holm's correction (1979) over the categories.
    """

    category: str | None
    first: float
    second: float
    comparison: Comparison
    p_value: float


@dataclass(frozen=True, slots=True)
class Duel:
    """One question: both scores, and which way it went."""

    question: str
    category: str | None
    first: float
    second: float
    side: Side


@dataclass(frozen=True, slots=True)
class Spent:
    """What the replies to the shared questions took: median seconds, and their whole cost; None where unknown."""

    median_s: float | None
    cost: float | None


@dataclass(frozen=True, slots=True)
class Needed:
    """So many questions like these would mostly tell a true gap of this size (80 in 100 cases, 5 % two-sided)."""

    gap: float
    questions: int


@dataclass(frozen=True, slots=True)
class Versus:
    """The first entrant against the second on a suite, on the questions that both have a counting mark for.

    `only_first` and `only_second` count questions that only one has. `shown` is the smallest true difference that these
    questions would have told in 80 of 100 cases. `audited` is how many marks of people
    corrected what judges gave, in the whole and the parts, not in single questions.
    """

    suite: str
    edition: str | None
    first: str
    second: str
    whole: Part
    parts: tuple[Part, ...]
    duels: tuple[Duel, ...]
    spent: tuple[Spent, Spent]
    only_first: int
    only_second: int
    finding: Finding
    margin: float | None
    shown: float
    needed: tuple[Needed, ...]
    selected: str = ""
    trials: int = 1
    titles: tuple[str, str] = ("", "")
    audited: int = 0


def versus(
    suite: str,
    edition: str | None,
    items: Sequence[Item],
    first: EntrantResults,
    second: EntrantResults,
    margin: float | None = None,
    audits: Mapping[str, Audited] | None = None,
) -> Versus:
    """Compare two entrants; raises UsageFault where they share no question.

    `audits` are random samples of judged replies that people marked, by entrant: they correct what judges gave.
    """
    columns = columns_of(items, [first, second])
    found = corrected(columns, [first, second], audits or {}, [True, True]) if audits else None
    scores = columns if found is None else found.columns
    has = ~np.isnan(columns.scores)
    shared = has.all(axis=0)
    if not shared.any():
        raise UsageFault(f"{first.entrant} and {second.entrant} have no question of {suite} with a mark in common")
    places = [int(place) for place in np.flatnonzero(shared)]
    whole = _part(scores, items, places, None)
    if whole is None:
        raise UsageFault(f"the questions of {suite} that {first.entrant} and {second.entrant} share have no weight")
    categories = list(dict.fromkeys(item.category for item in items if item.category))
    parts = [_part(scores, items, places, name) for name in categories] if len(categories) > 1 else []
    freedom = max(1, whole.comparison.families - 1)
    names = [items[place].question for place in places]
    return Versus(
        suite,
        edition,
        first.entrant,
        second.entrant,
        whole,
        _corrected([part for part in parts if part is not None]),
        tuple(_duel(columns, items, place) for place in places),
        (_spent(first, names), _spent(second, names)),
        int((has[0] & ~has[1]).sum()),
        int((has[1] & ~has[0]).sum()),
        finding_of(whole.comparison, margin),
        margin,
        shortest_shown(whole.comparison.standard_error, freedom),
        tuple(Needed(gap, _needed(whole.comparison, gap)) for gap in GAPS),
        titles=(first.title or first.entrant, second.title or second.entrant),
        audited=0 if found is None else sum(found.audited.values()),
        trials=max(int(one.replies.trial.max(initial=1)) for one in (first, second)),
    )


def finding_of(comparison: Comparison, margin: float | None) -> Finding:
    """Return what a comparison allows to say.

    Better or worse where the paired test tells the two apart; else within the margin where the 90 % interval lies
    inside it (two one-sided tests at 5 %: Schuirmann, 1987; the region of practical equivalence of Benavoli et al.,
    2017, by intervals).
    """
    if comparison.p_value < LEVEL and abs(comparison.difference) > SAME:
        return Finding.BETTER if comparison.difference > 0 else Finding.WORSE
    if margin is not None:
        half = comparison.standard_error * student_quantile(max(1, comparison.families - 1), 1 - LEVEL)
        if comparison.difference - half > -margin and comparison.difference + half < margin:
            return Finding.WITHIN
    return Finding.UNDECIDED


def _part(columns: Columns, items: Sequence[Item], places: Sequence[int], category: str | None) -> Part | None:
    chosen = np.array([place for place in places if category is None or items[place].category == category], dtype=int)
    weights = columns.weights[chosen]
    first, second = columns.scores[:, chosen]
    comparison = compare(first, second, weights, columns.families[chosen])
    if comparison is None:
        return None
    means = (float(np.average(first, weights=weights)), float(np.average(second, weights=weights)))
    return Part(category, *means, comparison, comparison.p_value)


def _corrected(parts: Sequence[Part]) -> tuple[Part, ...]:
    """Correct the parts' p-values for their number (Holm, 1979)."""
    corrected = holm([part.p_value for part in parts])
    return tuple(replace(part, p_value=p_value) for part, p_value in zip(parts, corrected, strict=True))


def _duel(columns: Columns, items: Sequence[Item], place: int) -> Duel:
    first, second = (float(score) for score in columns.scores[:, place])
    side = Side.TIED if abs(first - second) <= SAME else Side.WON if first > second else Side.LOST
    return Duel(items[place].question, items[place].category, first, second, side)


def _spent(entrant: EntrantResults, names: Sequence[str]) -> Spent:
    own = entrant.replies.on(names)
    costs = own.cost[~np.isnan(own.cost)]
    return Spent(median_of(own.seconds), float(costs.sum()) if len(costs) else None)


def _needed(comparison: Comparison, gap: float) -> int:
    """Return how many questions like these would tell a gap in 80 of 100 cases; their spread is what was seen."""
    shown = shortest_shown(comparison.standard_error, max(1, comparison.families - 1))
    return int(np.ceil(comparison.questions * (shown / gap) ** 2))
