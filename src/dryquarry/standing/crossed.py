"""Entrants and questions as crossed random effects: what puts scores on different questions on one scale.

The chance that entrant i passes question j is logistic in θᵢ + bⱼ, both drawn from normal distributions (De Boeck,
2008), and in the edition that the question came in with. The two spreads are not known: their joint posterior is laid
on a grid, and for each pair the rest is normal around its mode (Laplace's approximation, with the weights of each pair
from the same: Rue, Martino & Chopin, 2009).
"""

from __future__ import annotations

from dataclasses import dataclass

import numpy as np

from dryquarry.standing.intervals import Codes, Flags, Floats

# Spreads of entrants and of questions on the logistic scale, and how wide either may reasonably be.
ENTRANT_SPREADS = (0.25, 0.5, 0.8, 1.2, 1.8, 2.7)
QUESTION_SPREADS = (0.25, 0.6, 1.0, 1.5, 2.2, 3.2, 4.6)
WIDE = 2.5
# The spread of what is common to all entrants: next to nothing is supposed of it.
COMMON = 5.0
# By how much the questions of one edition may be easier or harder as a whole.
BATCHES = 1.5
_STEPS, _CLOSE = 40, 1e-7
_NEGLIGIBLE = 1e-3


@dataclass(frozen=True, eq=False)
class Mode:
    """Where entrants and questions most likely are for one pair of spreads, and how sure that is.

    `whole` has the entrants' abilities and then the batches' ease, `ease` each question's beyond its batch. `schur` is
    the precision of `whole` once the questions are integrated out, `own` that of each question by itself, `cross` what
    ties them together; `evidence` is the logarithm of the pair's weight.
    """

    whole: Floats
    ease: Floats
    schur: Floats
    own: Floats
    cross: Floats
    evidence: float


@dataclass(frozen=True, eq=False)
class Crossed:
    """The fit: the modes that matter, with their weights, which sum to 1; `member` has a row for each batch."""

    modes: tuple[Mode, ...]
    weights: Floats
    member: Floats

    def chances(self) -> Floats:
        """Return the expected chance of each entrant to pass each question, at the modes."""
        total = np.zeros(1)
        for weight, mode in zip(self.weights, self.modes, strict=True):
            count = len(mode.whole) - len(self.member)
            level = mode.whole[:count, None] + (mode.whole[count:] @ self.member + mode.ease)
            total = total + weight * _logistic(level)
        return total

    def drawn(self, draws: int, random: np.random.Generator) -> list[tuple[Floats, Floats]]:
        """Return draws of the entrants' abilities (a row each) and the questions' ease, by mode as it weighs."""
        counts = random.multinomial(draws, self.weights)
        found = []
        for mode, many in zip(self.modes, counts, strict=True):
            if many:
                count = len(mode.whole) - len(self.member)
                root = np.linalg.cholesky(mode.schur)
                moved = np.linalg.solve(root.T, random.standard_normal((len(mode.whole), many))).T
                alone = random.standard_normal((many, len(mode.ease))) / np.sqrt(mode.own)
                whole, ease = mode.whole + moved, mode.ease - (moved @ mode.cross) / mode.own + alone
                found.append((whole[:, :count], whole[:, count:] @ self.member + ease))
        return found


def fit_crossed(scores: Floats, batches: Codes) -> Crossed:
    """Fit to scores in [0, 1], entrants down and questions across, NaN where one was not asked of the other.

    `batches` number the questions by the edition that they came in with, as a later one may be harder as a whole. A
    mean over trials counts as one observation, as trials of one entrant at one question are much alike.
    """
    data = _Data(np.where(np.isnan(scores), 0.0, scores), ~np.isnan(scores), _membership(batches))
    modes, start = [], (np.zeros(len(scores) + data.member.shape[0]), np.zeros(scores.shape[1]))
    for entrants in ENTRANT_SPREADS:
        for questions in QUESTION_SPREADS:
            mode, start = _mode(data, entrants, questions, start)
            modes.append(mode)
    evidence = np.array([mode.evidence for mode in modes])
    weights = np.exp(evidence - evidence.max())
    weights /= weights.sum()
    kept = weights > _NEGLIGIBLE
    return Crossed(
        tuple(mode for mode, keep in zip(modes, kept, strict=True) if keep),
        weights[kept] / weights[kept].sum(),
        data.member,
    )


def _membership(batches: Codes) -> Floats:
    """Return a row for each batch, 1 at its questions."""
    return np.asarray(np.unique(batches)[:, None] == batches, dtype=np.float64)


@dataclass(frozen=True, eq=False)
class _Data:
    """The scores with 0 where not known, which are known, and which questions came in which batch."""

    passed: Floats
    known: Flags
    member: Floats

    def level(self, whole: Floats, ease: Floats) -> Floats:
        """Return the level of each entrant at each question; `whole` has the abilities, then the batches' ease."""
        count = len(self.passed)
        return whole[:count, None] + (whole[count:] @ self.member + ease)

    def log_posterior(self, whole: Floats, ease: Floats, prior: Floats, questions: float) -> float:
        """Return the logarithm of the posterior, but for what is constant in the levels."""
        level = self.level(whole, ease)
        likely = float(np.where(self.known, self.passed * level - np.logaddexp(0, level), 0.0).sum())
        return likely - float(whole @ prior @ whole) / 2 - float((ease**2).sum()) / (2 * questions**2)


def _mode(
    data: _Data, entrants: float, questions: float, start: tuple[Floats, Floats]
) -> tuple[Mode, tuple[Floats, Floats]]:
    """Find the mode by Newton's steps, and where the next may start; the posterior is log-concave, so there is one."""
    count, batches = len(data.passed), len(data.member)
    prior = np.zeros((count + batches, count + batches))
    prior[:count, :count] = np.linalg.inv(entrants**2 * np.eye(count) + COMMON**2)
    prior[count:, count:] = np.eye(batches) / BATCHES**2
    whole, ease = start
    reached = data.log_posterior(whole, ease, prior, questions)
    for _ in range(_STEPS):
        chance = np.where(data.known, _logistic(data.level(whole, ease)), 0.0)
        spread, residual = chance * (1 - chance), data.passed - chance
        cross = np.vstack([spread, data.member * spread.sum(axis=0)])
        own = spread.sum(axis=0) + questions**-2
        schur = _information(spread, data.member) + prior - (cross / own) @ cross.T
        up = np.concatenate([residual.sum(axis=1), data.member @ residual.sum(axis=0)]) - prior @ whole
        across = residual.sum(axis=0) - ease / questions**2
        step = np.linalg.solve(schur, up - (cross / own) @ across)
        steps = (step, (across - step @ cross) / own)
        length = 1.0
        while True:
            value = data.log_posterior(whole + length * steps[0], ease + length * steps[1], prior, questions)
            if value >= reached - 1e-9 or length < 1e-3:
                break
            length /= 2
        whole, ease = whole + length * steps[0], ease + length * steps[1]
        if abs(value - reached) < _CLOSE:
            break
        reached = value
    log_schur, log_prior = np.linalg.slogdet(schur)[1], np.linalg.slogdet(prior)[1]
    evidence = value + (log_prior - log_schur - np.log(own).sum()) / 2 - len(ease) * np.log(questions)
    # half-normal priors of both spreads, on a grid that is even in their logarithms
    evidence += np.log(entrants) + np.log(questions) - (entrants**2 + questions**2) / (2 * WIDE**2)
    return Mode(whole, ease, schur, own, cross, float(evidence)), (whole, ease)


def _information(spread: Floats, member: Floats) -> Floats:
    """Return the information on entrants and batches, questions apart."""
    both = spread @ member.T
    return np.block([[np.diag(spread.sum(axis=1)), both], [both.T, np.diag(member @ spread.sum(axis=0))]])


def _logistic(level: Floats) -> Floats:
    chance: Floats = 1 / (1 + np.exp(-np.clip(level, -40, 40)))
    return chance
