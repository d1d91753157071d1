"""The leaderboard of a suite: scores with intervals, ranks and bands."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import median
from typing import TypeVar

from dryquarry.marking.model import Verdict
from dryquarry.standing.comparing import paired_p_value
from dryquarry.standing.intervals import effective_count, score_interval
from dryquarry.standing.results import EntrantResults, Item, Result, question_scores, weighted_mean
from dryquarry.standing.sharing import Shared, share

BAND_LEVEL = 0.05

Amount = TypeVar("Amount", int, float)


@dataclass(frozen=True, slots=True)
class SecondTries:
    """Of so many marked second tries, made after failed first ones, so many passed."""

    passed: int
    marked: int


@dataclass(frozen=True, slots=True)
class Unsure:
    """Of an entrant's marks so many are unsure: were they to flip, its score would lie between `low` and `high`."""

    marks: int
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class BoardRow:
    """One entrant's line: `score` in [0, 1] with its 95 % interval, counts of replies, and what they took.

    `marked` counts the replies that the score stands on, `asked` those it should stand on. `band` numbers
    the groups that the data cannot tell apart, 1 the best. `edition` is set where each row stands on its own
    edition, `second_tries` where there are any; they are in no other figure. `corrected` counts the marks that a
    person set, `form_kept` is the share of answers that stand where they were asked for, `unsure` tells what
    another reading could change. Absent figures are None.
    """

    entrant: str
    title: str
    score: float | None
    low: float | None
    high: float | None
    passed: int
    marked: int
    asked: int
    trials: int
    categories: Mapping[str, float | None]
    outcomes: Mapping[str, int]
    median_s: float | None
    output_tokens: int | None
    cost: float | None
    rank: int | None = None
    band: int | None = None
    edition: str | None = None
    second_tries: SecondTries | None = None
    corrected: int = 0
    form_kept: float | None = None
    unsure: Unsure | None = None


@dataclass(frozen=True, slots=True)
class PilotCount:
    """How a pilot question, which does not count, came out: passed by so many of those that sat it."""

    question: str
    passed: int
    sat: int


@dataclass(frozen=True, slots=True)
class Board:
    """The rows in order, on so many questions; `notes` say what was left out or is missing.

    `selected` says in words which of the questions, entrants and trials were chosen, if not all; `sorted_by` is set
    where the rows stand in another order than that of their scores.
    `questions` of the edition's `of_questions` are those that every entrant shown sat; `form_asked` says that the
    suite requires the form of answers.
    """

    suite: str
    edition: str | None
    questions: int
    rows: tuple[BoardRow, ...]
    notes: tuple[str, ...] = ()
    of_questions: int = 0
    form_asked: bool = False
    pilots: tuple[PilotCount, ...] = ()
    selected: str = ""
    sorted_by: str | None = None


def build_board(suite: str, edition: str | None, items: Sequence[Item], entrants: Sequence[EntrantResults]) -> Board:
    """Return the board on the items that the entrants share, best first; those without a score stand last."""
    of_questions = len(items)
    shared = share(items, entrants)
    items, entrants = shared.items, shared.entrants
    scores = {one.entrant: question_scores(one.results) for one in entrants}
    rows = [_row(items, one, scores[one.entrant]) for one in entrants]
    rows.sort(key=lambda row: (row.score is None, -(row.score or 0.0), row.entrant))
    short = [f"{row.entrant} {row.asked - row.marked} of {row.asked}" for row in rows if row.marked < row.asked]
    notes = [f"replies missing, or without a mark that counts: {', '.join(short)}"] if short else []
    banded = _with_bands(_with_ranks(rows), items, scores)
    return Board(suite, edition, len(items), banded, (*_sharing_notes(shared, of_questions), *notes), of_questions)


def _sharing_notes(shared: Shared, of_questions: int) -> list[str]:
    notes = []
    if shared.entrants and len(shared.items) < of_questions:
        notes.append(f"compared on the {len(shared.items)} of {of_questions} questions that all shown entrants sat")
    if shared.left_out:
        names = ", ".join(f"{name} ({count} of {of_questions})" for name, count in shared.left_out)
        notes.append(f"left out, as they sat too few of these questions: {names}")
    return notes


def pilot_counts(pilots: Sequence[Item], entrants: Sequence[EntrantResults]) -> tuple[PilotCount, ...]:
    """Return how each pilot question came out over the entrants that sat it."""
    counts = []
    for item in pilots:
        own = [result for one in entrants for result in one.results if result.question == item.question]
        counts.append(PilotCount(item.question, sum(one.verdict is Verdict.PASS for one in own), len(own)))
    return tuple(counts)


def _row(items: Sequence[Item], entrant: EntrantResults, scores: Mapping[str, float]) -> BoardRow:
    results = entrant.results
    counted = [result for result in results if result.counts]
    score = weighted_mean(items, scores)
    interval = None
    if score is not None:
        weights = [item.weight for item in items if item.question in scores]
        interval = score_interval(score, effective_count(weights))
    trials = max((result.trial for result in results), default=1)
    times = [result.seconds for result in results if result.seconds is not None]
    return BoardRow(
        entrant=entrant.entrant,
        title=entrant.title,
        score=score,
        low=interval.low if interval else None,
        high=interval.high if interval else None,
        passed=sum(result.verdict is Verdict.PASS for result in counted),
        marked=len(counted),
        asked=len(items) * trials,
        trials=trials,
        categories=category_scores(items, scores),
        outcomes=dict(Counter(str(result.outcome) for result in results)),
        median_s=median(times) if times else None,
        output_tokens=_sum_of_known([result.output_tokens for result in results]),
        cost=_sum_of_known([result.cost for result in results]),
        second_tries=_second_tries(entrant),
        corrected=sum(result.corrected for result in results),
        form_kept=_share([result.form_kept for result in counted]),
        unsure=_unsure(items, counted),
    )


def _unsure(items: Sequence[Item], counted: Sequence[Result]) -> Unsure | None:
    """Return what the marks that are not sure could change, were each of them to come out the other way."""
    marks = sum(not result.sure for result in counted)
    if not marks:
        return None
    ends = []
    for verdict, flipped in ((Verdict.PASS, 0.0), (Verdict.FAIL, 1.0)):
        turned = [
            replace(result, score=flipped) if not result.sure and result.verdict is verdict else result
            for result in counted
        ]
        ends.append(weighted_mean(items, question_scores(turned)) or 0.0)
    return Unsure(marks, *ends)


def _share(facts: Sequence[bool | None]) -> float | None:
    known = [fact for fact in facts if fact is not None]
    return sum(known) / len(known) if known else None


def _second_tries(entrant: EntrantResults) -> SecondTries | None:
    counted = [result for result in entrant.second if result.counts]
    if not counted:
        return None
    return SecondTries(sum(result.verdict is Verdict.PASS for result in counted), len(counted))


def category_scores(items: Sequence[Item], scores: Mapping[str, float]) -> dict[str, float | None]:
    """Return the score in each category, in the order in which the items name them."""
    names = dict.fromkeys(item.category for item in items if item.category)
    return {name: weighted_mean([item for item in items if item.category == name], scores) for name in names}


def _sum_of_known(values: Sequence[Amount | None]) -> Amount | None:
    known = [value for value in values if value is not None]
    return sum(known[1:], known[0]) if known else None


def _with_ranks(rows: Sequence[BoardRow]) -> list[BoardRow]:
    """Give equal scores the same rank, and the next one its place in the order."""
    ranked: list[BoardRow] = []
    for place, row in enumerate(rows, start=1):
        if row.score is None:
            ranked.append(row)
            continue
        before = ranked[-1] if ranked else None
        same = before is not None and before.score is not None and abs(before.score - row.score) < 1e-9
        ranked.append(replace(row, rank=before.rank if same and before else place))
    return ranked


def _with_bands(
    rows: Sequence[BoardRow], items: Sequence[Item], scores: Mapping[str, Mapping[str, float]]
) -> tuple[BoardRow, ...]:
    """Open a new band at each entrant that a paired test tells apart from the best of the band before."""
    banded: list[BoardRow] = []
    band, leader = 0, None
    for row in rows:
        if row.score is None:
            banded.append(row)
            continue
        if leader is None or told_apart(items, scores[leader], scores[row.entrant]):
            band, leader = band + 1, row.entrant
        banded.append(replace(row, band=band))
    return tuple(banded)


def told_apart(items: Sequence[Item], first: Mapping[str, float], second: Mapping[str, float]) -> bool:
    """Tell whether the shared questions show a difference beyond luck (paired test, two-sided, 5 %)."""
    differences = [
        item.weight * (first[item.question] - second[item.question])
        for item in items
        if item.question in first and item.question in second
    ]
    return paired_p_value(differences) < BAND_LEVEL
