"""The leaderboard as a view."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, replace
from typing import Any

from dryquarry.showing import figures
from dryquarry.showing.board_columns import board_columns, names_of
from dryquarry.showing.board_lines import lines_below
from dryquarry.showing.versus import gate_line
from dryquarry.showing.view import Sheet, Table, View
from dryquarry.standing.board_model import Board
from dryquarry.standing.gates import GateResult

_FIELDS = (
    "rank",
    "band",
    "entrant",
    "title",
    "score",
    "low",
    "high",
    "passed",
    "marked",
    "asked",
    "trials",
    "categories",
    "outcomes",
    "median_s",
    "output_tokens",
    "cost",
)


# Only where a board has them.
_SOMETIMES = ("over_suites", "edition", "second_tries", "corrected", "unfinished", "repeats", "against_baseline",
              "as_judged", "audited")  # fmt: skip
_MORE = ("rank_low", "rank_high", "p90_s", "seconds_per_pass", "cost_per_pass", "first_token_s", "tags", "levels")


def board_view(board: Board, gates: Sequence[GateResult] = ()) -> View:
    """Return the board as table, JSON (the documented shape) and sheet, with the gates asked of it."""
    data = _data(board) | ({"gates": [asdict(gate) for gate in gates]} if gates else {})
    table = _table(board)
    return View(data, _sheet(board), replace(table, below=[*table.below, *map(gate_line, gates)]))


def _data(board: Board) -> dict[str, Any]:
    fields = [*_FIELDS, *_MORE, *(name for name in _SOMETIMES if any(getattr(row, name) for row in board.rows))]
    fields += ["form_kept"] if board.form_asked else []
    whole = [asdict(row) for row in board.rows]
    rows = [{name: row[name] for name in fields} for row in whole]
    told: dict[str, Any] = {"target": str(board.target), "left_out": list(board.left_out), "baseline": board.baseline}
    told |= {"audit": asdict(board.audit)} if board.audit is not None else {}
    told |= {"suite_weights": dict(board.suite_weights)} if board.suite_weights else {}
    return {"suite": board.suite, "edition": board.edition, "questions": board.questions, "rows": rows, **told}


def _sheet(board: Board) -> Sheet:
    categories = names_of(board, lambda row: row.categories)
    plain = [name for name in _FIELDS if name not in ("categories", "outcomes")]
    outcomes = sorted({name for row in board.rows for name in row.outcomes})
    tries = ["second_tries_passed", "second_tries_marked"] if any(row.second_tries for row in board.rows) else []
    names = ["suite", "edition", *plain, *(f"score: {name}" for name in categories), *outcomes, *tries]
    rows = [
        [
            board.suite,
            row.edition or board.edition,
            *(getattr(row, name) for name in plain),
            *(row.categories.get(name) for name in categories),
            *(row.outcomes.get(name, 0) for name in outcomes),
            *((row.second_tries.passed, row.second_tries.marked) if row.second_tries else [None] * len(tries)),
        ]
        for row in board.rows
    ]
    return Sheet(names, rows)


def _table(board: Board) -> Table:
    columns = board_columns(board)
    rows = [[one.shows(row) for one in columns] for row in board.rows]
    title = _title(board, any(row.edition for row in board.rows)) + figures.chosen(board.selected)
    return Table(title, [one.column for one in columns], rows, _gaps(board), lines_below(board))


def _gaps(board: Board) -> list[int]:
    """Return the rows after which a gap is left: between bands that follow each other, and before who is unfinished."""
    bands = [row.band for row in board.rows if row.band is not None]
    parted = bands == sorted(bands) and not board.sorted_by
    return [
        place
        for place, (row, after) in enumerate(zip(board.rows, board.rows[1:], strict=False))
        if (row.edition != after.edition and not board.sorted_by)
        or (parted and row.band != after.band)
        or (row.unfinished is None) is not (after.unfinished is None)
    ]


def _title(board: Board, own: bool) -> str:
    if own:
        return f"{board.suite}, each on its own edition"
    edition = f"@{board.edition}" if board.edition else ""
    if board.questions < board.of_questions:
        shared = f"{board.questions} of {figures.plural(board.of_questions, 'question')}"
        return f"{board.suite}{edition}: {shared}"
    return f"{board.suite}{edition}: {figures.plural(board.questions, 'question')}"
