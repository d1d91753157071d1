"""The leaderboard as a view."""

from __future__ import annotations

from dataclasses import asdict
from typing import Any

from dryquarry.showing import figures
from dryquarry.showing.view import WHOLE, Cell, Column, Sheet, Table, View
from dryquarry.standing.board import Board, BoardRow

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


CORRECTED = "*"
UNSURE = "°"

# Only where a board has them.
_SOMETIMES = ("edition", "second_tries", "corrected")


def board_view(board: Board) -> View:
    """Return the board as table, JSON (the documented shape) and sheet."""
    return View(data=_data(board), sheet=_sheet(board), table=_table(board))


def _data(board: Board) -> dict[str, Any]:
    fields = [*_FIELDS, *(name for name in _SOMETIMES if any(getattr(row, name) for row in board.rows))]
    fields += ["form_kept"] if board.form_asked else []
    rows = [{name: asdict(row)[name] for name in fields} for row in board.rows]
    return {"suite": board.suite, "edition": board.edition, "questions": board.questions, "rows": rows}


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
    columns = [
        Column("edition" if own else "rank", right=True),
        Column("entrant"),
        Column("score", right=True),
        Column("95 % interval", right=True),
        Column("replies passed", least=WHOLE),
        *(Column(name, right=True, drop=100 - place, least=7, named=True) for place, name in enumerate(categories)),
        *([Column("form kept", right=True, drop=6)] if board.form_asked else []),
        *([Column("second try", drop=5, least=WHOLE)] if second else []),
        Column("not answered", drop=4),
        Column("median s", right=True, drop=2),
        Column("tokens out", right=True, drop=1),
        Column("cost", right=True, drop=3),
    ]
    rows = [_row(row, categories, second, board.form_asked) for row in board.rows]
    gaps = [
        place
        for place, (row, after) in enumerate(zip(board.rows, board.rows[1:], strict=False))
        if (row.band, row.edition) != (after.band, after.edition) and not board.sorted_by
    ]
    below = [f"Pilot, not scored: {pilot.question}, passed by {pilot.passed} of {pilot.sat}." for pilot in board.pilots]
    corrected = sum(row.corrected for row in board.rows)
    if corrected:
        said = f"{CORRECTED} with marks set by a person, {corrected} in all"
        reference = f"{board.suite}@{board.edition}" if board.edition else "SUITE"
        below.append(f"{said}: 'dryquarry replies {reference} --corrected' lists them.")
    below += [_unsure_line(board, row) for row in board.rows if row.unsure]
    if second:
        below.append("Second try: after a failed first one, how many passed; no score counts them.")
    if own:
        below.append("Each on its own edition: compare only rows of the same edition.")
    elif board.sorted_by:
        below.append(f"Sorted by {board.sorted_by.removeprefix('-')}; ranks are by score, and bands are not parted.")
    elif gaps:
        below.append("A gap parts bands: entrants that a paired test tells apart (5 %).")
    elif len(board.rows) > 1:
        below.append("One band: these questions do not tell the entrants apart (paired test, 5 %).")
    grouped = "" if own or board.sorted_by else "band"
    return Table(_title(board, own) + figures.chosen(board.selected), columns, rows, gaps, below, grouped)


def _unsure_line(board: Board, row: BoardRow) -> str:
    """Return what an entrant's unsure marks could change, in a sentence."""
    assert row.unsure is not None
    marks = "1 mark is unsure" if row.unsure.marks == 1 else f"{row.unsure.marks} marks are unsure"
    reference = f"{board.suite}@{board.edition}" if board.edition else "SUITE"
    between = f"the score lies between {figures.percent(row.unsure.low)} and {figures.percent(row.unsure.high)}"
    return f"{UNSURE} {row.entrant}: {marks}; {between}: 'dryquarry replies {reference} -e {row.entrant} --unsure'."


def _title(board: Board, own: bool) -> str:
    if own:
        return f"{board.suite}, each on its own edition"
    edition = f"@{board.edition}" if board.edition else ""
    if board.questions < board.of_questions:
        shared = f"{board.questions} of {figures.plural(board.of_questions, 'question')}, those that all shown sat"
        return f"{board.suite}{edition}: {shared}"
    return f"{board.suite}{edition}: {figures.plural(board.questions, 'question')}"


def _row(row: BoardRow, categories: list[str], second: bool, form: bool) -> list[str | Cell]:
    again = f"{row.second_tries.passed} of {row.second_tries.marked}" if row.second_tries else "–"
    unanswered = [f"{count} {name}" for name, count in sorted(row.outcomes.items()) if name != "answered"]
    return [
        row.edition or ("–" if row.rank is None else str(row.rank)),
        Cell(row.entrant, "bold" if row.rank == 1 else ""),
        Cell(figures.percent(row.score), "bold"),
        figures.interval(row.low, row.high),
        f"{row.passed} of {row.marked}" + (CORRECTED if row.corrected else "") + (UNSURE if row.unsure else ""),
        *(figures.percent(row.categories.get(name), 0) for name in categories),
        *([figures.percent(row.form_kept, 0)] if form else []),
        *([again] if second else []),
        ", ".join(unanswered) or "–",
        figures.seconds(row.median_s),
        figures.count(row.output_tokens),
        figures.cost(row.cost),
    ]
