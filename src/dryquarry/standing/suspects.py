"""How much likelier the answers to a question are if another answer than the key's were right.

Two accounts of one question are compared by their likelihoods, as a Bayes factor (Kass & Raftery, 1995): the key is
right and many fell for one other answer, or that answer is right and the key is one that some fell for. Who answers
right does so by ability, as the other questions show it, and by how hard the question is; how hard it is, and how many
of those who err give one same answer, is not known and is averaged over.
"""

from __future__ import annotations

import numpy as np

from dryquarry.standing.intervals import Codes, Flags, Floats

# How hard questions are, in log-odds around that of the others, with what weight each.
_HARD = np.linspace(-3.0, 3.0, 9)
_HARD_WEIGHTS = np.exp(-((_HARD / 1.5) ** 2) / 2)
# The share of those who err that give one same answer, and how firmly the suite's own share of it is believed.
_SAME = np.linspace(0.05, 0.95, 10)
_FIRMNESS = 3.0


def likelier(
    question: Codes, ability: Floats, weight: Floats, key: Flags, rival: Flags, count: int, piled: tuple[float, float]
) -> Floats:
    """Return for each of `count` questions how many times likelier its answers are if the rival answer were right.

    Each reply has its `question`, its entrant's share of the other questions (`ability`, strictly between 0 and 1) and
    its `weight` (1 over the trials that the entrant had); `key` and `rival` tell which answer it gives, if either.
    `piled` is the share of those who err that give the commonest wrong answer in this suite, and the chance that two of
    them give the same.
    """
    odds = np.log(ability / (1 - ability))
    other = ~key & ~rival

    def sums(which: Flags, values: Floats) -> Floats:
        return np.asarray(np.bincount(question[which], (weight * values)[which], count), dtype=np.float64)

    if_key, if_rival = np.empty((len(_HARD), count)), np.empty((len(_HARD), count))
    for place, hard in enumerate(_HARD):
        right = -np.logaddexp(0.0, -(odds + hard))
        wrong = right - (odds + hard)
        off = sums(other, wrong)
        if_key[place] = sums(key, right) + sums(rival, wrong) + off
        if_rival[place] = sums(rival, right) + sums(key, wrong) + off
    ones = np.ones_like(weight)
    on_key, on_rival, on_others = sums(key, ones), sums(rival, ones), sums(other, ones)
    commonest, same = piled
    found = _averaged(if_rival, _HARD_WEIGHTS) + _given_same(on_key, on_others, same)
    found -= _averaged(if_key, _HARD_WEIGHTS) + _given_same(on_rival, on_others, commonest)
    ratios: Floats = np.exp(np.clip(found, -50, 50))
    return ratios


def _given_same(named: Floats, others: Floats, share: float) -> Floats:
    """Return the log-likelihood of so many who err giving one answer and so many another one, averaged over shares."""
    prior = _SAME ** (share * _FIRMNESS - 1) * (1 - _SAME) ** ((1 - share) * _FIRMNESS - 1)
    return _averaged(named * np.log(_SAME)[:, None] + others * np.log(1 - _SAME)[:, None], prior)


def _averaged(logs: Floats, weights: Floats) -> Floats:
    """Return the log of the weighted mean of likelihoods that are given as logs, one case a row."""
    most = logs.max(axis=0)
    means: Floats = most + np.log(weights / weights.sum() @ np.exp(logs - most))
    return means


def piled_up(counts: Codes, questions: Codes) -> tuple[float, float]:
    """Return how wrong answers pile up: the share of each question's commonest, and the chance that two are the same.

    `counts` are how many entrants gave a wrong answer, of the question in `questions`; only questions with two or more
    of them tell. Drawn a little towards 1/2 and 1/3, as a suite with few wrong answers tells little.
    """
    total = np.bincount(questions, weights=counts)
    several = total >= 2
    if not several.any():
        return 0.5, 1 / 3
    commonest = np.zeros(len(total))
    np.maximum.at(commonest, questions, counts)
    same = np.bincount(questions, weights=counts * (counts - 1.0))
    pairs = (total * (total - 1))[several].sum()
    return (
        float((commonest[several].sum() + 1) / (total[several].sum() + 2)),
        float((same[several].sum() + 1) / (pairs + 3)),
    )
