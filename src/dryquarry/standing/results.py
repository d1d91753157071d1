"""What the standings are computed from: one result for each reply."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from functools import cached_property
from typing import NamedTuple

from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome


class Result(NamedTuple):
    """One reply to one question, with its mark; `score` and `verdict` are None while it has no mark.

    A tuple, as a board may be made of a million of them and a dataclass takes three times as long to make.

    `seconds` is the whole time the reply took, `cost` is in the entrant's own currency. `corrected` marks were set
    by a person; `form_kept` tells whether the answer stands where it was asked for. A mark that is not `sure` might
    come out otherwise if the reply were read in another defensible way; `answer` is what was read.
    """

    question: str
    trial: int
    outcome: Outcome
    score: float | None
    verdict: Verdict | None
    seconds: float | None = None
    output_tokens: int | None = None
    cost: float | None = None
    corrected: bool = False
    form_kept: bool | None = None
    sure: bool = True
    answer: str | None = None

    @property
    def counts(self) -> bool:
        """Whether the result counts towards a score: marked, neither open nor void, and not failed."""
        return (
            self.score is not None
            and self.verdict in (Verdict.PASS, Verdict.FAIL)
            and self.outcome is not Outcome.FAILED
        )


@dataclass(frozen=True, slots=True)
class Item:
    """A question as the standings see it: its id, its weight, the groups that it belongs to.

    Scores are also shown by `category`; questions of one `family` are variants of each other, and count as one where
    it is said how sure a number is; one with a `twist` changes the original of its family in that way. `words` is how
    long its text is. A `pilot` question is shown apart and counts for nothing.
    """

    question: str
    weight: float = 1.0
    category: str | None = None
    pilot: bool = False
    family: str | None = None
    tags: tuple[str, ...] = ()
    level: str | None = None
    twist: str | None = None
    scheme: str | None = None
    words: int | None = None


@dataclass(frozen=True)
class EntrantResults:
    """All results of one entrant on the items of a board; `second` are second tries, which no score counts."""

    entrant: str
    title: str
    results: tuple[Result, ...]
    second: tuple[Result, ...] = ()

    @cached_property
    def counted(self) -> tuple[Result, ...]:
        """The results that count towards a score, looked for once."""
        return tuple(result for result in self.results if result.counts)


def question_scores(results: Iterable[Result]) -> Mapping[str, float]:
    """Return the score of each question that has one: the mean over its trials that count."""
    by_question: dict[str, list[float]] = defaultdict(list)
    for result in results:
        if result.counts and result.score is not None:
            by_question[result.question].append(result.score)
    return {question: sum(scores) / len(scores) for question, scores in by_question.items()}


def weighted_mean(items: Sequence[Item], scores: Mapping[str, float]) -> float | None:
    """Return the weighted mean over the items that have a score, or None where none has."""
    counted = [item for item in items if item.question in scores]
    total = sum(item.weight for item in counted)
    return sum(item.weight * scores[item.question] for item in counted) / total if total else None
