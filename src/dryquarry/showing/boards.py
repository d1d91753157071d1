"""The leaderboard as a view."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict, replace
from typing import Any

from dryquarry.showing import figures
from dryquarry.showing.board_lines import CORRECTED, UNSURE, lines_below
from dryquarry.showing.versus import gate_line
from dryquarry.showing.view import WHOLE, Cell, Column, Sheet, Table, View
from dryquarry.standing.board_model import Board, BoardRow
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
_SOMETIMES = ("edition", "second_tries", "corrected", "unfinished", "repeats", "against_baseline")
_MORE = ("rank_low", "rank_high", "p90_s", "seconds_per_pass", "cost_per_pass")


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
    told = {"target": str(board.target), "left_out": list(board.left_out), "baseline": board.baseline}
    return {"suite": board.suite, "edition": board.edition, "questions": board.questions, "rows": rows, **told}


def _categories(board: Board) -> list[str]:
    return list(dict.fromkeys(name for row in board.rows for name in row.categories))


def _sheet(board: Board) -> Sheet:
    categories = _categories(board)
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
    categories = _categories(board)
    own = any(row.edition for row in board.rows)
    second = any(row.second_tries for row in board.rows)
    repeats = any(row.repeats for row in board.rows)
    columns = [
        *([Column("edition")] if own else [Column("rank", right=True), Column("band", right=True, drop=7)]),
        Column("entrant"),
        Column("score", right=True),
        Column("95 % interval", right=True),
        Column("replies passed", least=WHOLE),
        *(Column(name, right=True, drop=100 - place, least=7, named=True) for place, name in enumerate(categories)),
        *([Column(f"against {board.baseline}", right=True, drop=8)] if board.baseline else []),
        *([Column("once / every trial", right=True, drop=7)] if repeats else []),
        *([Column("form kept", right=True, drop=6)] if board.form_asked else []),
        *([Column("second try", drop=5, least=WHOLE)] if second else []),
        Column("not answered", drop=4),
        Column("median s", right=True, drop=2),
        Column("tokens out", right=True, drop=1),
        Column("cost", right=True, drop=3),
    ]
    rows = [_row(board, row, categories, second, repeats=repeats) for row in board.rows]
    return Table(_title(board, own) + figures.chosen(board.selected), columns, rows, _gaps(board), lines_below(board))


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


def _place(row: BoardRow) -> list[str]:
    """Return the ranks that an entrant may have, and its band."""
    if row.edition:
        return [row.edition]
    if row.rank is None:
        return ["–", "–"]
    return [str(row.rank_low) if row.rank_low == row.rank_high else f"{row.rank_low}–{row.rank_high}", str(row.band)]


def _row(board: Board, row: BoardRow, categories: list[str], second: bool, *, repeats: bool) -> list[str | Cell]:
    again = f"{row.second_tries.passed} of {row.second_tries.marked}" if row.second_tries else "–"
    unanswered = [f"{count} {name}" for name, count in sorted(row.outcomes.items()) if name != "answered"]
    return [
        *_place(row),
        Cell(row.entrant, "bold" if row.rank == 1 else ""),
        Cell(figures.percent(row.score), "bold"),
        figures.interval(row.low, row.high),
        f"{row.passed} of {row.marked}" + (CORRECTED if row.corrected else "") + (UNSURE if row.unsure else ""),
        *(figures.percent(row.categories.get(name), 0) for name in categories),
        *([_against(board, row)] if board.baseline else []),
        *([_repeats(row)] if repeats else []),
        *([figures.percent(row.form_kept, 0)] if board.form_asked else []),
        *([again] if second else []),
        ", ".join(unanswered) or "–",
        figures.seconds(row.median_s),
        figures.count(row.output_tokens),
        figures.cost(row.cost),
    ]


def _against(board: Board, row: BoardRow) -> str:
    """Return how an entrant differs from the baseline."""
    if row.against_baseline is None:
        return "–"
    found = row.against_baseline
    return f"{figures.difference(found.difference)} ({figures.difference_interval(found.interval)})"


def _repeats(row: BoardRow) -> str:
    """Return the share of questions passed in at least one trial, and in every one."""
    if row.repeats is None:
        return "–"
    return f"{figures.percent(row.repeats.once, 0)} / {figures.percent(row.repeats.every, 0)}"
