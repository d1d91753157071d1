"""All entrants' replies by question: which answers were given, how trials differ, and how long they took."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dryquarry.standing.intervals import Codes, Flags, Floats
from dryquarry.standing.replies import Replies
from dryquarry.standing.suspects import likelier, piled_up

# An answer that was not read.
UNREAD = -1
# By so much may those who give another answer be worse on the other questions, and still be as able.
AS_ABLE = 0.05


@dataclass(frozen=True, slots=True)
class Rival:
    """The answer that most entrants gave among those that are not the key's.

    `share` and `key_share` are of all replies, weighed by the square of the entrants' scores on the other questions;
    `as_able` says that those who give it are as good on the other questions as those who give the key's. The answers
    to the question are `likelier` by that factor if this one were right instead of the key (see `suspects`).
    """

    answer: str
    entrants: int
    share: float
    key_share: float
    as_able: bool
    likelier: float


@dataclass(frozen=True, eq=False)
class Asked:
    """Replies of all entrants as columns, with whose they are, and that entrant's score on the other questions.

    `answer` numbers `answers`, whose letter case and spaces do not count; `count` is how many questions there are.
    """

    count: int
    question: Codes
    entrant: Codes
    counts: Flags
    passed: Flags
    seconds: Floats
    ability: Floats
    answer: Codes
    answers: tuple[str, ...]

    @classmethod
    def of(cls, everyone: Sequence[Replies], rests: Floats) -> Asked:
        """Return the entrants' replies to the same questions; `rests` has each one's score on the others."""
        numbers: dict[str, int] = {}
        answer = [_numbered(replies, numbers) for replies in everyone]
        ability = [rests[number, replies.question] for number, replies in enumerate(everyone)]
        entrant = [np.full(len(replies), number) for number, replies in enumerate(everyone)]
        return cls(
            rests.shape[1],
            _one([replies.question for replies in everyone], np.intp),
            _one(entrant, np.intp),
            _one([replies.counts for replies in everyone], np.bool_),
            _one([replies.passed for replies in everyone], np.bool_),
            _one([replies.seconds for replies in everyone], np.float64),
            _one(ability, np.float64),
            _one(answer, np.intp),
            tuple(numbers),
        )

    def flips(self) -> Floats:
        """Return for each question the chance that two trials of one entrant come out differently (NaN: one trial)."""
        pair = (self.question * (int(self.entrant.max(initial=0)) + 1) + self.entrant)[self.counts]
        pairs, members = np.unique(pair, return_inverse=True)
        trials = np.bincount(members, minlength=len(pairs)).astype(float)
        good = np.bincount(members, weights=self.passed[self.counts], minlength=len(pairs))
        several = trials > 1
        trials, good = trials[several], good[several]
        of = pairs[several] // (int(self.entrant.max(initial=0)) + 1)
        chances = 2 * good * (trials - good) / (trials * (trials - 1))
        with np.errstate(invalid="ignore"):
            means: Floats = np.bincount(of, weights=chances, minlength=self.count) / np.bincount(
                of, minlength=self.count
            )
        return means

    def median_seconds(self) -> Floats:
        """Return each question's median over all replies that tell their time; NaN where none does."""
        timed = ~np.isnan(self.seconds)
        order = np.lexsort((self.seconds[timed], self.question[timed]))
        seconds, counts = self.seconds[timed][order], np.bincount(self.question[timed], minlength=self.count)
        starts = np.cumsum(counts) - counts
        medians = np.full(self.count, np.nan)
        some = counts > 0
        low, high = (starts + (counts - 1) // 2)[some], (starts + counts // 2)[some]
        medians[some] = (seconds[low] + seconds[high]) / 2
        return medians

    def rivals(self) -> dict[int, Rival]:
        """Return, by the question's place, the commonest answer that is not the key's, where one was given."""
        counted = self.counts
        # of several trials each weighs less; squared: whom the other questions show to be good should know
        pair = self.question * (int(self.entrant.max(initial=0)) + 1) + self.entrant
        _, members = np.unique(pair[counted], return_inverse=True)
        trials = np.bincount(members)[members]
        weight = np.zeros(len(pair))
        weight[counted] = np.nan_to_num(self.ability[counted]) ** 2 / trials
        total = np.bincount(self.question, weights=weight, minlength=self.count)
        key = np.bincount(self.question, weights=weight * self.passed, minlength=self.count)
        other = counted & ~self.passed & (self.answer != UNREAD)
        given = self.question[other] * max(1, len(self.answers)) + self.answer[other]
        kinds, members = np.unique(given, return_inverse=True)
        if not len(kinds):
            return {}
        weights = np.bincount(members, weights=weight[other])
        givers = np.bincount(np.unique(np.stack([members, self.entrant[other]]), axis=1)[0], minlength=len(kinds))
        questions, answers = kinds // len(self.answers), kinds % len(self.answers)
        able = self._means(members, other, len(kinds))
        key_able = self._means(self.question[self.passed], self.passed, self.count)[questions]
        as_able = able >= key_able - AS_ABLE
        order = np.lexsort((self._alphabetical()[answers], weights, questions))
        last = np.append(questions[order][1:] != questions[order][:-1], True)
        ratios = self._likelier(counted, 1 / trials, kinds[order[last]], piled_up(givers, questions))
        return {
            int(questions[kind]): Rival(
                self.answers[answers[kind]],
                int(givers[kind]),
                float(weights[kind] / total[questions[kind]]),
                float(key[questions[kind]] / total[questions[kind]]),
                bool(as_able[kind]),
                float(ratios[questions[kind]]),
            )
            for kind in order[last]
            if total[questions[kind]] > 0
        }

    def _likelier(self, counted: Flags, weight: Floats, rivals: Codes, piled: tuple[float, float]) -> Floats:
        """Return by question how much likelier its answers are if its rival, as a kind of answer, were right."""
        rival_of = np.full(self.count, UNREAD, dtype=np.intp)
        rival_of[rivals // max(1, len(self.answers))] = rivals % max(1, len(self.answers))
        question, passed = self.question[counted], self.passed[counted]
        # never wholly sure of an ability that so many questions show
        others = max(1, self.count - 1)
        ability = (np.nan_to_num(self.ability[counted], nan=0.5) * others + 1) / (others + 2)
        gives_rival = ~passed & (self.answer[counted] == rival_of[question]) & (self.answer[counted] != UNREAD)
        return likelier(question, ability, weight, passed, gives_rival, self.count, piled)

    def _means(self, groups: Codes, which: Flags, count: int) -> Floats:
        """Return the mean ability by group of those who gave these replies; NaN for a group of none."""
        with np.errstate(invalid="ignore"):
            means: Floats = np.bincount(groups, weights=self.ability[which], minlength=count) / np.bincount(
                groups, minlength=count
            )
        return means

    def _alphabetical(self) -> Codes:
        """Return each answer's place in the alphabet's order."""
        places = np.empty(len(self.answers), dtype=np.intp)
        places[sorted(range(len(self.answers)), key=self.answers.__getitem__)] = np.arange(len(self.answers))
        return places


def _one(parts: Sequence[np.ndarray], kind: type) -> np.ndarray:
    return np.concatenate([np.asarray(part, dtype=kind) for part in parts]) if parts else np.zeros(0, dtype=kind)


def _numbered(replies: Replies, numbers: dict[str, int]) -> Codes:
    """Return the answers as numbers, new ones noted in `numbers`."""
    if replies.answer is None:
        return np.full(len(replies), UNREAD, dtype=np.intp)
    found = np.full(len(replies), UNREAD, dtype=np.intp)
    for place, answer in enumerate(replies.answer.tolist()):
        if answer:
            found[place] = numbers.setdefault(" ".join(answer.casefold().split()), len(numbers))
    return found
