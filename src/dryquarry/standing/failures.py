"""What failing goes with: categories, tags, levels, schemes, length, how the asking ended, form and unsureness."""

from __future__ import annotations

import math
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from statistics import median

from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.intervals import LEVEL, NORMAL_975, Interval
from dryquarry.standing.paired import holm
from dryquarry.standing.results import EntrantResults, Item, Result

# A feature of fewer replies than this tells nothing.
LEAST_REPLIES = 4
_OF_QUESTIONS = frozenset({"category", "level", "scheme", "twist", "tag", "question"})


@dataclass(frozen=True, slots=True)
class FailureRow:
    """Replies that have a feature against those that have it not: how many of each failed.

    `ratio` is the share of failures among the former over that among the latter, with its 95 % interval (Katz et al.,
    1978, with half a reply added to each count); `p_value` is Fisher's exact one, corrected for the number of features
    (Holm, 1979). `kind` and `value` name the feature, such as ("category", "money"); `questions` are those that have
    it, where it is one of questions.
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
    by_question = {item.question: item for item in items}
    marked = [
        (by_question[result.question], result)
        for one in entrants
        for result in one.results
        if result.counts and result.question in by_question
    ]
    lengths = [item.words for item in items if item.words is not None]
    tokens = [result.output_tokens for _, result in marked if result.output_tokens is not None]
    halves = (median(lengths) if lengths else None, median(tokens) if tokens else None)
    having: dict[tuple[str, str], list[bool]] = {}
    of_questions: dict[tuple[str, str], list[str]] = {}
    failed = [result.verdict is not Verdict.PASS for _, result in marked]
    for place, (item, result) in enumerate(marked):
        for feature in _features(item, result, halves):
            having.setdefault(feature, []).append(failed[place])
            if feature[0] in _OF_QUESTIONS:
                of_questions.setdefault(feature, []).append(item.question)
    rows = [
        replace(_row(kind, value, each, failed), questions=tuple(dict.fromkeys(of_questions.get((kind, value), ()))))
        for (kind, value), each in having.items()
        if _tells(each, failed)
    ]
    return FailureTable(suite, edition, sum(failed), len(failed), tuple(_corrected(rows)))


def _features(item: Item, result: Result, halves: tuple[float | None, float | None]) -> Iterator[tuple[str, str]]:
    """Yield what a reply and its question are like."""
    for kind, value in (
        ("category", item.category),
        ("level", item.level),
        ("scheme", item.scheme),
        ("twist", item.twist),
    ):
        if value:
            yield kind, value
    yield from (("tag", tag) for tag in item.tags)
    if item.words is not None and halves[0] is not None and item.words > halves[0]:
        yield "question", "longer than half of the others"
    if result.output_tokens is not None and halves[1] is not None and result.output_tokens > halves[1]:
        yield "reply", "longer than half of the others"
    if result.outcome is not Outcome.ANSWERED:
        yield "outcome", str(result.outcome)
    if result.form_kept is False:
        yield "form", "not kept"
    if not result.sure:
        yield "mark", "unsure"


def _tells(each: Sequence[bool], failed: Sequence[bool]) -> bool:
    return len(each) >= LEAST_REPLIES and len(failed) - len(each) >= LEAST_REPLIES


def _row(kind: str, value: str, each: Sequence[bool], failed: Sequence[bool]) -> FailureRow:
    own, count = sum(each), len(each)
    rest, others = sum(failed) - own, len(failed) - count
    first, second = (own + 0.5) / (count + 0.5), (rest + 0.5) / (others + 0.5)
    spread = math.sqrt(1 / (own + 0.5) - 1 / (count + 0.5) + 1 / (rest + 0.5) - 1 / (others + 0.5))
    ratio = first / second
    ends = Interval(ratio * math.exp(-NORMAL_975 * spread), ratio * math.exp(NORMAL_975 * spread))
    return FailureRow(kind, value, own, count, rest, others, ratio, ends, fisher_p_value(own, count, rest, others))


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
