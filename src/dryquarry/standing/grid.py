"""Questions down, entrants across, a mark in each cell."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from statistics import median

from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.columns import weighted_mean, weights_of
from dryquarry.standing.replies import EntrantResults, results_in
from dryquarry.standing.results import Item, Result


class CellKind(StrEnum):
    """What a cell says: a mark, or that there is none."""

    PASS = "pass"
    PART = "part"
    FAIL = "fail"
    OPEN = "open"
    VOID = "void"
    NO_ANSWER = "no answer"
    NOT_ASKED = "not asked"


@dataclass(frozen=True, slots=True)
class Cell:
    """One entrant's mark on one question: `score` is None unless a mark counts.

    `passed` is the mark's verdict, which a part score may reach too (a rubric's pass mark); `corrected` says that a
    person set a mark in it, `unsure` that a mark in it might come out otherwise. Of several trials `seconds` is the
    median, `output_tokens` and `cost` are sums, and `answer` has all that differ.
    """

    kind: CellKind
    score: float | None = None
    outcome: str | None = None
    passed: bool = False
    corrected: bool = False
    unsure: bool = False
    seconds: float | None = None
    output_tokens: int | None = None
    cost: float | None = None
    answer: str | None = None


@dataclass(frozen=True, slots=True)
class GridRow:
    """One question's cells, by entrant, and its mean score over the entrants (None where none counts)."""

    item: Item
    cells: Mapping[str, Cell]
    mean: float | None


@dataclass(frozen=True, slots=True)
class GridTotal:
    """One entrant's totals at the foot: questions passed of those that count, and the score."""

    passed: int
    counted: int
    score: float | None


@dataclass(frozen=True, slots=True)
class Grid:
    """The grid of one edition; entrants stand in the board's order; a question has up to so many `trials`.

    `selected` says in words which of the questions, entrants and trials were chosen, if not all; `titles` are the
    entrants' own.
    """

    suite: str
    edition: str | None
    entrants: tuple[str, ...]
    rows: tuple[GridRow, ...]
    totals: Mapping[str, GridTotal]
    trials: int = 1
    selected: str = ""
    titles: Mapping[str, str] = field(default_factory=dict)


def build_grid(suite: str, edition: str | None, items: Sequence[Item], entrants: Sequence[EntrantResults]) -> Grid:
    """Return the grid, the best entrant first, the questions in the suite's order, pilot questions last."""
    every = sorted(items, key=lambda item: item.pilot)
    items = [item for item in every if not item.pilot]
    names, weights = [item.question for item in items], weights_of(items)
    totals = {one.entrant: weighted_mean(one.replies.on(names).scores(), weights) for one in entrants}
    order = sorted(totals, key=lambda name: (totals[name] is None, -(totals[name] or 0.0), name))
    by_question: dict[str, dict[str, list[Result]]] = defaultdict(lambda: defaultdict(list))
    for one in entrants:
        for result in results_in(one.replies):
            by_question[result.question][one.entrant].append(result)
    rows = []
    for item in every:
        cells = {name: cell_of(by_question[item.question][name]) for name in order}
        known = [cell.score for cell in cells.values() if cell.score is not None]
        rows.append(GridRow(item, cells, sum(known) / len(known) if known else None))
    trials = max((int(one.replies.trial.max(initial=1)) for one in entrants), default=1)
    of_each = {name: _total(rows, name, totals[name]) for name in order}
    return Grid(
        suite, edition, tuple(order), tuple(rows), of_each, trials, titles={one.entrant: one.title for one in entrants}
    )


def cell_of(results: Sequence[Result]) -> Cell:
    """Return the cell for one entrant's trials of one question; a score below 1 in any trial is part."""
    corrected = any(result.corrected for result in results)
    unsure = any(not result.sure for result in results if counting(result))
    times = [result.seconds for result in results if result.seconds is not None]
    tokens = [result.output_tokens for result in results if result.output_tokens is not None]
    costs = [result.cost for result in results if result.cost is not None]
    answers = dict.fromkeys(result.answer for result in results if result.answer)
    return replace(
        _cell(results),
        corrected=corrected,
        unsure=unsure,
        seconds=median(times) if times else None,
        output_tokens=sum(tokens) if tokens else None,
        cost=sum(costs) if costs else None,
        answer=" | ".join(answers) or None,
    )


def _cell(results: Sequence[Result]) -> Cell:
    if not results:
        return Cell(CellKind.NOT_ASKED)
    counted = [result for result in results if counting(result)]
    unanswered = [result for result in results if result.outcome is not Outcome.ANSWERED]
    outcome = str((unanswered or results)[0].outcome)
    if not counted:
        verdicts = {result.verdict for result in results}
        if Verdict.VOID in verdicts:
            return Cell(CellKind.VOID, outcome=outcome)
        kind = CellKind.NO_ANSWER if len(unanswered) == len(results) else CellKind.OPEN
        return Cell(kind, outcome=outcome)
    score = sum(result.score or 0.0 for result in counted) / len(counted)
    if len(unanswered) == len(results):
        return Cell(CellKind.NO_ANSWER, score, outcome)
    passed = all(result.verdict is Verdict.PASS for result in counted)
    kind = CellKind.PART if 0 < score < 1 else CellKind.PASS if score == 1 else CellKind.FAIL
    return Cell(kind, score, outcome, passed)


def counting(result: Result) -> bool:
    """Tell whether a result counts towards a score."""
    judged = result.verdict in (Verdict.PASS, Verdict.FAIL)
    return judged and result.score is not None and result.outcome is not Outcome.FAILED


def _total(rows: Sequence[GridRow], entrant: str, score: float | None) -> GridTotal:
    cells = [row.cells[entrant] for row in rows if not row.item.pilot]
    return GridTotal(
        passed=sum(cell.passed for cell in cells),
        counted=sum(cell.score is not None for cell in cells),
        score=score,
    )
