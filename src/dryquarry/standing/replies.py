"""Replies with their marks as columns: what a board may be made of a million of."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, fields, replace
from functools import cached_property
from typing import Any

import numpy as np
from numpy.typing import NDArray

from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.intervals import Codes, Flags, Floats
from dryquarry.standing.results import Result

# What the numbers in the columns of outcomes and verdicts mean; a verdict of -1 is none.
OUTCOMES = tuple(Outcome)
VERDICTS = tuple(Verdict)
UNMARKED = -1

Small = NDArray[np.int8]


@dataclass(frozen=True, eq=False)
class Replies:
    """An entrant's replies, a place in each column for each: `question` numbers `names`, the others as in `Result`.

    `outcome` and `verdict` number OUTCOMES and VERDICTS; `form_kept` is 1, 0, or -1 where nothing was asked. Figures
    that are not known are NaN. `answer` is None where no answers were read from the ledger.
    """

    names: tuple[str, ...]
    question: Codes
    trial: Codes
    outcome: Small
    verdict: Small
    score: Floats
    seconds: Floats
    first_token_s: Floats
    output_tokens: Floats
    cost: Floats
    corrected: Flags
    form_kept: Small
    sure: Flags
    answer: NDArray[np.object_] | None = None

    def __len__(self) -> int:
        return len(self.question)

    @cached_property
    def counts(self) -> Flags:
        """Which replies count towards a score: marked, neither open nor void, and not failed."""
        judged = (self.verdict == VERDICTS.index(Verdict.PASS)) | (self.verdict == VERDICTS.index(Verdict.FAIL))
        counted: Flags = judged & ~np.isnan(self.score) & (self.outcome != OUTCOMES.index(Outcome.FAILED))
        return counted

    @cached_property
    def passed(self) -> Flags:
        """Which replies count and pass."""
        passing: Flags = self.counts & (self.verdict == VERDICTS.index(Verdict.PASS))
        return passing

    def taken(self, which: Flags | Codes) -> Replies:
        """Return these of the replies only."""
        columns = {name: getattr(self, name) for name in _COLUMNS}
        return replace(self, **{name: column[which] for name, column in columns.items() if column is not None})

    def on(self, names: Sequence[str]) -> Replies:
        """Return the replies to these questions only, whose places then number them."""
        wanted = tuple(names)
        if wanted == self.names:
            return self
        if not len(self):
            return replace(self, names=wanted)
        places = {name: place for place, name in enumerate(wanted)}
        numbers = np.array([places.get(name, -1) for name in self.names], dtype=np.intp)
        renumbered = numbers[self.question]
        return replace(self, names=wanted, question=renumbered).taken(renumbered >= 0)

    def scores(self) -> Floats:
        """Return the score of each question, the mean over its trials that count; NaN where none does."""
        counted = self.question[self.counts]
        counts = np.bincount(counted, minlength=len(self.names))
        sums = np.bincount(counted, weights=self.score[self.counts], minlength=len(self.names))
        with np.errstate(invalid="ignore", divide="ignore"):
            means: Floats = np.where(counts > 0, sums / counts, np.nan)
        return means


_COLUMNS = tuple(one.name for one in fields(Replies) if one.name != "names")


def replies_of(results: Sequence[Result]) -> Replies:
    """Return results as columns, their questions numbered as they come."""
    names = tuple(dict.fromkeys(result.question for result in results))
    places = {name: place for place, name in enumerate(names)}

    def figures(name: str) -> Floats:
        values = [getattr(result, name) for result in results]
        return np.array([np.nan if value is None else value for value in values], dtype=float)

    return Replies(
        names,
        np.array([places[result.question] for result in results], dtype=np.intp),
        np.array([result.trial for result in results], dtype=np.intp),
        np.array([OUTCOMES.index(result.outcome) for result in results], dtype=np.int8),
        np.array(
            [UNMARKED if result.verdict is None else VERDICTS.index(result.verdict) for result in results],
            dtype=np.int8,
        ),
        figures("score"),
        figures("seconds"),
        figures("first_token_s"),
        figures("output_tokens"),
        figures("cost"),
        np.array([result.corrected for result in results], dtype=bool),
        np.array([-1 if result.form_kept is None else int(result.form_kept) for result in results], dtype=np.int8),
        np.array([result.sure for result in results], dtype=bool),
        np.array([result.answer for result in results], dtype=object),
    )


def results_in(replies: Replies) -> list[Result]:
    """Return replies as single results, for where few are looked at one by one."""
    count = len(replies)
    amounts: list[list[Any]] = [
        [None if value != value else value for value in column.tolist()]  # NaN is not equal to itself
        for column in (replies.score, replies.seconds, replies.first_token_s, replies.output_tokens, replies.cost)
    ]
    answers = [None] * count if replies.answer is None else replies.answer.tolist()
    score, seconds, first, tokens, cost = amounts
    return [
        Result(
            replies.names[question],
            trial,
            OUTCOMES[outcome],
            score[place],
            None if verdict == UNMARKED else VERDICTS[verdict],
            seconds[place],
            first[place],
            None if tokens[place] is None else int(tokens[place]),
            cost[place],
            corrected,
            None if form_kept < 0 else bool(form_kept),
            sure,
            answers[place],
        )
        for place, (question, trial, outcome, verdict, corrected, form_kept, sure) in enumerate(
            zip(
                replies.question.tolist(),
                replies.trial.tolist(),
                replies.outcome.tolist(),
                replies.verdict.tolist(),
                replies.corrected.tolist(),
                replies.form_kept.tolist(),
                replies.sure.tolist(),
                strict=True,
            )
        )
    ]


def joined(parts: Sequence[tuple[str, Replies]]) -> Replies:
    """Return an entrant's replies to several suites as one, each question's name after its suite's and a slash."""
    names = tuple(f"{prefix}/{name}" for prefix, each in parts for name in each.names)
    offsets = np.cumsum([0, *(len(each.names) for _, each in parts)]).tolist()
    return _one_after_another(
        [replace(each, names=names, question=each.question + offsets[part]) for part, (_, each) in enumerate(parts)]
    )


def of_everyone(parts: Sequence[Replies]) -> Replies:
    """Return the replies of several entrants to the same questions, one entrant's after another's."""
    return _one_after_another(parts) if parts else replies_of([])


def _one_after_another(parts: Sequence[Replies]) -> Replies:
    known = [name for name in _COLUMNS if all(getattr(each, name) is not None for each in parts)]
    columns: dict[str, Any] = {name: np.concatenate([getattr(each, name) for each in parts]) for name in known}
    return replace(parts[0], **{"answer": None, **columns})


@dataclass(frozen=True, eq=False)
class EntrantResults:
    """All replies of one entrant on the items of a board; `second` are second tries, which no score counts."""

    entrant: str
    title: str
    replies: Replies
    second: Replies

    @classmethod
    def of(
        cls, entrant: str, title: str, results: Sequence[Result] = (), second: Sequence[Result] = ()
    ) -> EntrantResults:
        """Return them from single results, as where there are few."""
        return cls(entrant, title, replies_of(results), replies_of(second))
