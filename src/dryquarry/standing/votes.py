"""Strengths from votes between two replies: Bradley–Terry with ties and an effect of the order of showing.

Of a first and a second reply, with strengths a and b, the first is preferred with a weight of exp(a + d/2), the second
with exp(b − d/2), and neither with exp(t + (a + b)/2): Bradley & Terry (1952) with the ties of Davidson (1970) and the
order effect of Davidson & Beaver (1977), whose γ is exp(−d). A vote that both are bad prefers neither, so it counts as
a tie. Strengths are log-odds with mean 0. A normal prior around 0, so wide that it matters only where there are few
votes, keeps who won every vote finite.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from enum import StrEnum

import numpy as np
from numpy.typing import NDArray

from dryquarry.standing.intervals import Floats, Interval, student_quantile
from dryquarry.standing.paired import holm, places_of

PRIOR_SD = 3.0
RESAMPLES = 300
FEWEST_QUESTIONS = 3
STEPS = 60
STEP_LIMIT = 5.0
CLOSE_ENOUGH = 1e-9


class Choice(StrEnum):
    """What a vote says of the reply shown first and the one shown second."""

    FIRST = "first"
    SECOND = "second"
    TIE = "tie"
    BOTH_BAD = "both-bad"


@dataclass(frozen=True, slots=True)
class Vote:
    """A vote on two entrants' replies to a question; `order_known` is false where nobody says which was shown first."""

    question: str
    first: str
    second: str
    choice: Choice
    order_known: bool = True


@dataclass(frozen=True, slots=True)
class Record:
    """How two entrants came out against each other."""

    wins: int
    losses: int
    ties: int
    both_bad: int

    @property
    def votes(self) -> int:
        """How many votes there were between the two."""
        return self.wins + self.losses + self.ties + self.both_bad


@dataclass(frozen=True, slots=True)
class VoteRow:
    """One entrant's strength (log-odds against the mean of all) with its interval, its band, and what it stands on.

    `expected` is the share of votes that it would win against an entrant of mean strength, a tie as half.
    """

    entrant: str
    strength: float
    interval: Interval
    expected: float
    band: int
    votes: int
    wins: int
    losses: int
    ties: int
    both_bad: int


@dataclass(frozen=True, slots=True)
class VoteBoard:
    """The board that votes make: rows from the strongest, who met whom, and what else is to be known.

    `order_effect` is in log-odds, above 0 where the reply shown first gains; `parts` are the groups of entrants that
    no vote connects, strongest first, more than one where strengths across them mean nothing.
    """

    rows: tuple[VoteRow, ...]
    records: dict[tuple[str, str], Record]
    order_effect: float
    order_interval: Interval
    tie_share: float
    both_bad_share: float
    votes: int
    questions: int
    parts: tuple[tuple[str, ...], ...]


@dataclass(frozen=True, slots=True)
class Fit:
    """Strengths, the log weight of a tie, the order effect, and the inverse of their information."""

    strengths: Floats
    tie: float
    order: float
    covariance: Floats


@dataclass(frozen=True, slots=True)
class _Cells:
    """Votes counted: for each pairing (first, second, whether the order is known) what was chosen, by question."""

    pairings: NDArray[np.intp]
    counts: Floats
    entrants: int


def fit_votes(votes: Sequence[Vote], entrants: Sequence[str], prior_sd: float | None = PRIOR_SD) -> Fit:
    """Return the strengths that make the votes likeliest; without a prior (None) the maximum likelihood alone."""
    cells = _counted(votes, entrants)
    return _fitted(cells, cells.counts.sum(axis=0), prior_sd)


def _counted(votes: Sequence[Vote], entrants: Sequence[str]) -> _Cells:
    places = {name: place for place, name in enumerate(entrants)}
    questions = {name: place for place, name in enumerate(dict.fromkeys(one.question for one in votes))}
    keys = {(places[one.first], places[one.second], int(one.order_known)) for one in votes}
    pairings = {key: place for place, key in enumerate(sorted(keys))}
    counts = np.zeros((len(questions), len(pairings), 3))
    columns = {Choice.FIRST: 0, Choice.SECOND: 1, Choice.TIE: 2, Choice.BOTH_BAD: 2}
    for one in votes:
        cell = pairings[places[one.first], places[one.second], int(one.order_known)]
        counts[questions[one.question], cell, columns[one.choice]] += 1
    listed = np.array(sorted(keys), dtype=np.intp).reshape(-1, 3)
    return _Cells(listed, counts, len(entrants))


def _designs(pairings: NDArray[np.intp], entrants: int) -> Floats:
    """Return for each pairing and choice what the log weight is made of: strengths, then tie, then order."""
    design = np.zeros((len(pairings), 3, entrants + 2))
    at = np.arange(len(pairings))
    first, second, known = pairings.T
    design[at, 0, first] = 1.0
    design[at, 1, second] = 1.0
    design[at, 2, first] += 0.5
    design[at, 2, second] += 0.5
    design[:, 2, entrants] = 1.0
    design[:, 0, entrants + 1] = known / 2
    design[:, 1, entrants + 1] = -known / 2
    return design


def _fitted(cells: _Cells, counts: Floats, prior_sd: float | None, start: Floats | None = None) -> Fit:
    """Return the fit by Newton's method, from a `start` if there is one; the likelihood is concave."""
    entrants = cells.entrants
    design = _designs(cells.pairings, entrants)
    # Without a prior the mean of the strengths is pinned all the same: the votes say nothing of it.
    precision = np.full(entrants + 2, 0.0 if prior_sd is None else prior_sd**-2)
    pin = np.zeros((entrants + 2, entrants + 2))
    pin[:entrants, :entrants] = 1.0 / entrants
    found = np.zeros(entrants + 2) if start is None else start
    information = pin + np.diag(precision)
    for _ in range(STEPS):
        chances = _chances(design @ found)
        slope = np.einsum("cvp,cv->p", design, counts - counts.sum(axis=1, keepdims=True) * chances)
        slope -= precision * found + pin @ found
        information = _information(design, chances, counts.sum(axis=1)) + np.diag(precision) + pin
        step = np.linalg.lstsq(information, slope, rcond=None)[0]
        step *= min(1.0, STEP_LIMIT / max(CLOSE_ENOUGH, float(np.abs(step).max())))
        found = found + step
        if float(np.abs(step).max()) < CLOSE_ENOUGH:
            break
    strengths = found[:entrants] - found[:entrants].mean()
    covariance: Floats = np.asarray(np.linalg.pinv(information), dtype=float)
    return Fit(strengths, float(found[entrants]), float(found[entrants + 1]), covariance)


def _chances(weights: Floats) -> Floats:
    raised = np.exp(weights - weights.max(axis=1, keepdims=True))
    shares: Floats = raised / raised.sum(axis=1, keepdims=True)
    return shares


def _information(design: Floats, chances: Floats, votes: Floats) -> Floats:
    """Return the information on all parameters of so many votes in each pairing."""
    mean = np.einsum("cv,cvp->cp", chances, design)
    second = np.einsum("c,cv,cvp,cvq->pq", votes, chances, design, design, optimize=True)
    information: Floats = second - np.einsum("c,cp,cq->pq", votes, mean, mean, optimize=True)
    return information


def vote_board(votes: Sequence[Vote], entrants: Sequence[str], seed: int = 1) -> VoteBoard:
    """Return the board of those entrants that were voted on, with intervals by resampling questions."""
    voted = [name for name in entrants if any(name in (one.first, one.second) for one in votes)]
    cells = _counted(votes, voted)
    fit = _fitted(cells, cells.counts.sum(axis=0), PRIOR_SD)
    questions = cells.counts.shape[0]
    drawn = _resampled(cells, fit, seed)
    *intervals, order = (
        [Interval(None, None)] * (len(voted) + 1)
        if drawn is None
        else [_interval(*pair, questions) for pair in zip([*fit.strengths, fit.order], drawn.T, strict=True)]
    )
    bands = _bands(fit, drawn, questions)
    records = _records(votes)
    rows = [
        _row(name, float(fit.strengths[place]), intervals[place], fit.tie, bands[place], records)
        for place, name in enumerate(voted)
    ]
    rows.sort(key=lambda row: (-row.strength, row.entrant))
    ties = sum(one.choice is Choice.TIE for one in votes)
    bad = sum(one.choice is Choice.BOTH_BAD for one in votes)
    strength = {row.entrant: row.strength for row in rows}
    parts = sorted(_parts(votes, voted), key=lambda part: -max(strength[name] for name in part))
    return VoteBoard(
        tuple(rows),
        records,
        fit.order,
        order,
        ties / len(votes),
        bad / len(votes),
        len(votes),
        questions,
        tuple(tuple(sorted(part)) for part in parts),
    )


def _resampled(cells: _Cells, fit: Fit, seed: int) -> Floats | None:
    """Return strengths and order effect over resamples of the questions; None where there are too few questions."""
    questions = cells.counts.shape[0]
    if questions < FEWEST_QUESTIONS:
        return None
    chance = np.random.default_rng(seed)
    weights = chance.multinomial(questions, np.full(questions, 1 / questions), size=RESAMPLES)
    start = np.array([*fit.strengths, fit.tie, fit.order])
    drawn = []
    for row in weights:
        found = _fitted(cells, np.tensordot(row, cells.counts, axes=1), PRIOR_SD, start)
        drawn.append([*found.strengths, found.order])
    return np.array(drawn)


def _interval(value: float, drawn: Floats, questions: int) -> Interval:
    """Return a value with so many of its errors on either side as Student's t of the questions asks for."""
    width = student_quantile(questions - 1) * _error(drawn, questions)
    return Interval(value - width, value + width)


def _error(drawn: Floats, questions: int) -> float:
    """Return the standard error over resamples, which with few questions are too much alike."""
    return float(drawn.std(ddof=1)) * float(np.sqrt(questions / (questions - 1)))


def _bands(fit: Fit, drawn: Floats | None, questions: int) -> list[int]:
    """Return the bands of entrants that the votes do not tell apart, all pairs tested at once (Holm, 1979)."""
    from scipy import special

    count = len(fit.strengths)
    if drawn is None or count < 2:
        return [1] * count
    pairs = [(one, other) for one in range(count) for other in range(one + 1, count)]
    p_values = []
    for one, other in pairs:
        spread = _error(drawn[:, one] - drawn[:, other], questions)
        apart = abs(float(fit.strengths[one] - fit.strengths[other]))
        p_values.append(float(2 * special.stdtr(questions - 1, -apart / max(spread, CLOSE_ENOUGH))))
    matrix = np.ones((count, count))
    for (one, other), p_value in zip(pairs, holm(p_values), strict=True):
        matrix[one, other] = matrix[other, one] = p_value
    return list(places_of(fit.strengths, matrix).bands)


def _records(votes: Sequence[Vote]) -> dict[tuple[str, str], Record]:
    """Return each two entrants' record, from the side of each."""
    counts: dict[tuple[str, str], list[int]] = {}
    columns = {Choice.FIRST: (0, 1), Choice.SECOND: (1, 0), Choice.TIE: (2, 2), Choice.BOTH_BAD: (3, 3)}
    for one in votes:
        for pair, column in zip(((one.first, one.second), (one.second, one.first)), columns[one.choice], strict=True):
            counts.setdefault(pair, [0, 0, 0, 0])[column] += 1
    return {pair: Record(*row) for pair, row in counts.items()}


def _row(
    name: str,
    strength: float,
    interval: Interval,
    tie: float,
    band: int,
    records: dict[tuple[str, str], Record],
) -> VoteRow:
    own = [record for (one, _), record in records.items() if one == name]
    totals = [sum(getattr(one, what) for one in own) for what in ("wins", "losses", "ties", "both_bad")]
    win, _, neither = _chances(np.array([[strength, 0.0, tie + strength / 2]]))[0]
    return VoteRow(name, strength, interval, float(win + neither / 2), band, sum(totals), *totals)


def _parts(votes: Sequence[Vote], entrants: Sequence[str]) -> list[set[str]]:
    """Return the groups of entrants that votes connect."""
    parts = [{name} for name in entrants]
    for one in votes:
        joined = [part for part in parts if one.first in part or one.second in part]
        parts = [part for part in parts if part not in joined] + [set().union(*joined)]
    return parts


def most_telling_pairs(votes: Sequence[Vote], entrants: Sequence[str]) -> list[tuple[str, str]]:
    """Return the pairs of entrants, first the one whose next vote would make the strengths most certain.

    That is the pair that lowers the total variance of all differences between strengths most (A-optimality), by the
    information of a vote as it is expected now.
    """
    fit = fit_votes(votes, entrants)
    count = len(entrants)
    information = np.linalg.inv(fit.covariance + 1e-12 * np.eye(count + 2))
    parameters = np.array([*fit.strengths, fit.tie, fit.order])
    centre = np.eye(count) - 1 / count
    scored = []
    for one in range(count):
        for other in range(one + 1, count):
            # Which of the two is shown first is left to chance.
            both_orders = np.array([[one, other, 1], [other, one, 1]], dtype=np.intp)
            design = _designs(both_orders, count)
            gained = _information(design, _chances(design @ parameters), np.full(2, 0.5))
            after = np.linalg.inv(information + gained)[:count, :count]
            scored.append((float(np.trace(centre @ after @ centre)), one, other))
    return [(entrants[one], entrants[other]) for _, one, other in sorted(scored)]
