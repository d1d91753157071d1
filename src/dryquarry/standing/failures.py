"""What failing goes with: what questions belong to, lengths, how the asking ended, form and unsureness."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace

import numpy as np

from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.board_rows import median_of
from dryquarry.standing.intervals import LEVEL, NORMAL_975, Codes, Flags, Interval
from dryquarry.standing.paired import holm
from dryquarry.standing.replies import OUTCOMES, EntrantResults, Replies, of_everyone
from dryquarry.standing.results import Item

# A feature of fewer replies than this tells nothing.
LEAST_REPLIES = 4


@dataclass(frozen=True, slots=True)
class FailureRow:
    """Replies that have a feature against those that have it not: how many of each failed.

    `ratio` is the share of failures among the former over that among the latter, with its 95 % interval (Katz et al.,
    1978, with half a reply added to each count); `p_value` is Fisher's exact one, corrected for the number of features
    (Holm, 1979). `kind` and `value` name the feature, such as ("category", "money"); `questions` are those that have
    it, where it is one of questions; a length is `over` so many words of the question, or tokens of the reply.
    """

    kind: str
    value: str
    failed: int
    replies: int
    others_failed: int
    others: int
    ratio: float
    interval: Interval
    p_value: float
    questions: tuple[str, ...] = ()
    over: int | None = None

    @property
    def told(self) -> bool:
        """Whether failing goes with it beyond luck."""
        return self.p_value < LEVEL


@dataclass(frozen=True, slots=True)
class FailureTable:
    """Features of replies, what failing goes with most surely first, over so many marked replies."""

    suite: str
    edition: str | None
    failed: int
    replies: int
    rows: tuple[FailureRow, ...]
    selected: str = ""
    entrants: tuple[str, ...] = ()


def failure_table(
    suite: str, edition: str | None, items: Sequence[Item], entrants: Sequence[EntrantResults]
) -> FailureTable:
    """Return what failing goes with."""
    names = [item.question for item in items]
    each = [one.replies.on(names) for one in entrants]
    each = [replies.taken(replies.counts) for replies in each]
    marked = of_everyone(each)
    question = marked.question
    failed = ~marked.passed
    rows = []
    for feature in (*_of_questions(items, question), *_of_replies(marked)):
        count = int(feature.having.sum())
        if LEAST_REPLIES <= count <= len(failed) - LEAST_REPLIES:
            asked = tuple(names[place] for place in np.unique(question[feature.having])) if feature.asked else ()
            own = int((failed & feature.having).sum())
            rows.append(_row(feature, own, count, int(failed.sum()) - own, len(failed) - count, asked))
    return FailureTable(suite, edition, int(failed.sum()), len(failed), tuple(_corrected(rows)))


@dataclass(frozen=True, slots=True, eq=False)
class _Feature:
    """Which replies have a feature; with `asked` it is one of their questions; `over` is what a length is beyond."""

    kind: str
    value: str
    having: Flags
    asked: bool = False
    over: int | None = None


LONGER = "longer than half of the others"


def _of_questions(items: Sequence[Item], question: Codes) -> Iterator[_Feature]:
    """Yield what the questions of replies are like, `question` being the place of each reply's."""
    having: dict[tuple[str, str], list[int]] = {}
    for place, item in enumerate(items):
        for kind in ("category", "level", "scheme", "twist", "language"):
            if value := getattr(item, kind):
                having.setdefault((kind, value), []).append(place)
        for tag in item.tags:
            having.setdefault(("tag", tag), []).append(place)
    for (kind, value), places in having.items():
        yield _Feature(kind, value, np.isin(question, places), asked=True)
    words = np.array([np.nan if item.words is None else item.words for item in items], dtype=float)
    middle = median_of(words)
    if middle is not None:
        yield _Feature("question", LONGER, (words > middle)[question], asked=True, over=int(middle))


def _of_replies(marked: Replies) -> Iterator[_Feature]:
    """Yield what replies are like."""
    middle = median_of(marked.output_tokens)
    if middle is not None:
        yield _Feature("reply", LONGER, marked.output_tokens > middle, over=int(middle))
    for code, outcome in enumerate(OUTCOMES):
        if outcome is not Outcome.ANSWERED:
            yield _Feature("outcome", str(outcome), marked.outcome == code)
    yield _Feature("form", "not kept", marked.form_kept == 0)
    yield _Feature("mark", "unsure", ~marked.sure)


def _row(feature: _Feature, own: int, count: int, rest: int, others: int, asked: tuple[str, ...]) -> FailureRow:
    first, second = (own + 0.5) / (count + 0.5), (rest + 0.5) / (others + 0.5)
    spread = math.sqrt(1 / (own + 0.5) - 1 / (count + 0.5) + 1 / (rest + 0.5) - 1 / (others + 0.5))
    ratio = first / second
    ends = Interval(ratio * math.exp(-NORMAL_975 * spread), ratio * math.exp(NORMAL_975 * spread))
    p_value = fisher_p_value(own, count, rest, others)
    return FailureRow(feature.kind, feature.value, own, count, rest, others, ratio, ends, p_value, asked, feature.over)


def fisher_p_value(own: int, count: int, rest: int, others: int) -> float:
    """Return the two-sided p-value of Fisher's exact test (1922): the tables that are no likelier than the one seen."""

    def log_chance(first: int) -> float:
        return (
            math.lgamma(count + 1) - math.lgamma(first + 1) - math.lgamma(count - first + 1)
            + math.lgamma(others + 1) - math.lgamma(whole - first + 1) - math.lgamma(others - whole + first + 1)
        )  # fmt: skip

    whole = own + rest
    chances = [log_chance(first) for first in range(max(0, whole - others), min(count, whole) + 1)]
    seen = log_chance(own)
    most = max(chances)
    total = sum(math.exp(one - most) for one in chances)
    return min(1.0, sum(math.exp(one - most) for one in chances if one <= seen + 1e-7) / total)


def _corrected(rows: Sequence[FailureRow]) -> list[FailureRow]:
    """Correct for the number of features, and put the surest first."""
    ordered = sorted(rows, key=lambda row: (row.p_value, -row.ratio))
    corrected = holm([row.p_value for row in ordered])
    return [replace(row, p_value=p_value) for row, p_value in zip(ordered, corrected, strict=True)]
