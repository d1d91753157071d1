"""Entrants that sat different editions on one scale, through the questions that these share."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

import numpy as np

from dryquarry.errors import UsageFault
from dryquarry.standing.columns import weighted_mean
from dryquarry.standing.crossed import Crossed, fit_crossed
from dryquarry.standing.intervals import LEVEL, NOTHING, Codes, Flags, Floats, Interval
from dryquarry.standing.paired import holm

# A link of fewer questions, or to fewer entrants that sat the edition whole, says next to nothing.
LEAST_SHARED = 10
LEAST_WHOLE = 3
# With fewer entrants on either side no question is said to have drifted.
LEAST_ON_A_SIDE = 5
_DRAWS, _MOST_DRAWN = 2_000, 50_000_000
_SEED = 20_261_126


@dataclass(frozen=True, slots=True)
class EquatedRow:
    """One entrant: its share of the edition's questions, and what it would score on all of them.

    `had` of the edition's questions it has, with `own` as its score on those; `editions` are those it sat, `shared`
    counts its questions that those who sat the edition whole have as well. `score` and `interval` are of the expected
    score on all questions of the edition; `refused` says in a word why there are none.
    """

    entrant: str
    title: str
    editions: tuple[str, ...]
    had: int
    own: float | None
    shared: int
    score: float | None = None
    interval: Interval = NOTHING
    refused: Refused | None = None


@dataclass(frozen=True, slots=True)
class Refused:
    """Why an entrant cannot be put on the scale: it shares `shared` questions, and that takes `needed`."""

    shared: int
    needed: int


@dataclass(frozen=True, slots=True)
class Drift:
    """A shared question that later entrants pass more or less often than their abilities say, against earlier ones.

    `earlier` and `later` are by how much each side passes it more often than expected.
    """

    question: str
    earlier: float
    later: float
    p_value: float


@dataclass(frozen=True, slots=True)
class Equated:
    """All entrants of a suite on the scale of one edition.

    `whole` counts those that sat it whole; `drifted` are shared questions that do not link, as they drifted.
    """

    suite: str
    edition: str
    questions: int
    whole: int
    rows: tuple[EquatedRow, ...]
    drifted: tuple[Drift, ...]
    selected: str = ""
    trials: int = 1


@dataclass(frozen=True, eq=False)
class AllEditions:
    """Scores on the questions of all editions, of shape (entrants, questions), NaN where not asked.

    `target` says which of the questions are the edition's, `weights` what they weigh there, `batches` number the
    editions that they came in with, up to so many `trials` each; `editions` are the names of those that
    each entrant sat.
    """

    suite: str
    edition: str
    questions: tuple[str, ...]
    entrants: tuple[tuple[str, str], ...]
    editions: tuple[tuple[str, ...], ...]
    scores: Floats
    target: Flags
    weights: Floats
    batches: Codes
    trials: int = 1


def equate(data: AllEditions) -> Equated:
    """Return every entrant's expected score on the edition's questions (crossed random effects, `crossed`).

    Raises UsageFault where fewer than three entrants sat the edition whole, or no other can be linked to them.
    """
    if not data.weights.sum() > 0:
        raise UsageFault(f"no question of {data.suite}@{data.edition} counts, so there is no scale to put anybody on")
    known = ~np.isnan(data.scores)
    whole: Flags = np.asarray(known[:, data.target].all(axis=1))
    if whole.sum() < LEAST_WHOLE:
        raise UsageFault(
            f"{data.suite}@{data.edition} was sat whole by {int(whole.sum())} of the entrants; equating takes "
            f"{LEAST_WHOLE}: 'dryquarry run {data.suite}@{data.edition}' asks for what is missing"
        )
    rows = [_row(data, known, whole, number) for number in range(len(data.entrants))]
    linked = np.array([row.refused is None for row in rows], dtype=bool)
    if linked.sum() == whole.sum():
        told = "; ".join(
            f"{row.entrant} shares {row.shared} questions with them, and it takes {LEAST_SHARED}"
            for row in rows
            if row.refused
        )
        raise UsageFault(
            f"nobody can be put on the scale of {data.suite}@{data.edition} beside those that sat it whole: {told}"
            if told
            else f"all sat {data.suite}@{data.edition} whole; 'dryquarry board {data.suite}' compares them as they are"
        )
    scores, earlier = data.scores[linked], ~whole[linked]
    fit = fit_crossed(scores, data.batches)
    drifted = drifts(data.questions, scores, fit.chances(), earlier)
    if drifted:
        names = {one.question for one in drifted}
        gone = np.array([name in names for name in data.questions], dtype=bool)
        scores = np.where(np.outer(earlier, gone), np.nan, scores)
        fit = fit_crossed(scores, data.batches)
    means, intervals = _expected(fit, data.target, data.weights)
    done = list(rows)
    for place, number in enumerate(np.flatnonzero(linked)):
        done[number] = replace(rows[number], score=float(means[place]), interval=intervals[place])
    done.sort(key=lambda row: (row.score is None, -(row.score or 0.0), row.entrant))
    questions, sat = int(data.target.sum()), int(whole.sum())
    return Equated(data.suite, data.edition, questions, sat, tuple(done), drifted, trials=data.trials)


def _row(data: AllEditions, known: Flags, whole: Flags, number: int) -> EquatedRow:
    """Return what is known of an entrant, and whether it can be linked to those that sat the edition whole."""
    shared = int((known[number] & (known[whole].sum(axis=0) >= 2)).sum())
    name, title = data.entrants[number]
    own = weighted_mean(data.scores[number, data.target], data.weights[data.target])
    refused = None if whole[number] or shared >= LEAST_SHARED else Refused(shared, LEAST_SHARED)
    had = int(known[number, data.target].sum())
    return EquatedRow(name, title, data.editions[number], had, own, shared, refused=refused)


def drifts(questions: Sequence[str], scores: Floats, chances: Floats, earlier: Flags) -> tuple[Drift, ...]:
    """Return the questions whose earlier and later entrants part by more than their abilities say.

    The difference of mean residuals over its standard error, as normal, two-sided; corrected for how many shared
    questions there are (Holm, 1979).
    """
    known = ~np.isnan(scores)
    residuals = np.where(known, scores - chances, 0.0)
    spread = np.where(known, chances * (1 - chances), 0.0)
    sides = (earlier, ~earlier)
    counts = [known[side].sum(axis=0) for side in sides]
    means = [residuals[side].sum(axis=0) / np.maximum(1, count) for side, count in zip(sides, counts, strict=True)]
    errors = [spread[side].sum(axis=0) / np.maximum(1, count) ** 2 for side, count in zip(sides, counts, strict=True)]
    found = []
    for place in np.flatnonzero(np.minimum(*counts) >= LEAST_ON_A_SIDE).tolist():
        first, second = float(means[0][place]), float(means[1][place])
        z = (second - first) / float(np.sqrt(errors[0][place] + errors[1][place]))
        found.append(Drift(questions[place], first, second, _two_sided(z)))
    corrected = holm([one.p_value for one in found])
    done = [replace(one, p_value=p_value) for one, p_value in zip(found, corrected, strict=True)]
    return tuple(one for one in done if one.p_value < LEVEL)


def _two_sided(z: float) -> float:
    from scipy import special

    return 2 * float(special.ndtr(-abs(z)))


def _expected(fit: Crossed, target: Flags, weights: Floats) -> tuple[Floats, list[Interval]]:
    """Return the entrants' expected scores on the questions, and their 95 % intervals, by draws of a fixed seed."""
    places = np.flatnonzero(target)
    shares = weights[places] / weights[places].sum()
    cells = len(fit.modes[0].whole) * len(places)
    random = np.random.default_rng(_SEED)
    draws = []
    for ability, ease in fit.drawn(max(400, min(_DRAWS, _MOST_DRAWN // max(1, cells))), random):
        for one, each in zip(ability, ease[:, places], strict=True):
            draws.append((1 / (1 + np.exp(-np.clip(one[:, None] + each, -40, 40)))) @ shares)
    found = np.stack(draws)
    ends = np.quantile(found, [LEVEL / 2, 1 - LEVEL / 2], axis=0)
    return found.mean(axis=0), [Interval(float(low), float(high)) for low, high in ends.T]
