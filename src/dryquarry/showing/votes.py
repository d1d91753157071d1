"""The board that votes make, as a view."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict
from typing import Any

from dryquarry.showing import figures
from dryquarry.showing.view import Cell, Column, Sheet, Table, View, columns_of
from dryquarry.standing.intervals import Interval
from dryquarry.standing.votes import VoteBoard, VoteRow

_NAMES = ("band", "entrant", "strength", "low", "high", "expected", "votes", "wins", "losses", "ties", "both_bad")


def vote_board_view(reference: str, board: VoteBoard) -> View:
    """Return strengths with intervals and bands, and who beat whom, as tables, JSON and sheet."""
    rows = [_plain(row) for row in board.rows]
    suite, _, edition = reference.partition("@")
    data: dict[str, Any] = {
        "suite": suite,
        "edition": edition,
        "votes": board.votes,
        "questions": board.questions,
        "rows": [dict(zip(_NAMES, row, strict=True)) for row in rows],
        "order_effect": {"value": board.order_effect, **asdict(board.order_interval)},
        "tie_share": board.tie_share,
        "both_bad_share": board.both_bad_share,
        "parts": [list(part) for part in board.parts],
        "records": [
            {"entrant": one, "against": other, **asdict(record)} for (one, other), record in board.records.items()
        ],
    }
    title = f"{reference}: {figures.plural(board.votes, 'vote')} on {figures.plural(board.questions, 'question')}"
    names = ["band", "entrant", "strength", "95 % interval", "wins against the mean", "votes", "won", "lost", "tie",
             "both bad"]  # fmt: skip
    columns = columns_of(names, [name for name in names if name != "entrant"], ("both bad", "tie", "lost", "won"))
    table = Table(title, columns, [_row(row) for row in board.rows], _gaps(board), list(_lines(board)))
    return View(data, Sheet(_NAMES, rows), table, more=(_met(board),))


def _plain(row: VoteRow) -> list[Any]:
    ends = (row.interval.low, row.interval.high)
    counts = (row.votes, row.wins, row.losses, row.ties, row.both_bad)
    return [row.band, row.entrant, row.strength, *ends, row.expected, *counts]


def _row(row: VoteRow) -> list[str | Cell]:
    counts = (row.votes, row.wins, row.losses, row.ties, row.both_bad)
    return [
        str(row.band),
        Cell(row.entrant, "bold" if row.band == 1 else ""),
        _signed(row.strength),
        _ends(row.interval),
        figures.percent(row.expected, 0),
        *map(str, counts),
    ]


def _signed(value: float) -> str:
    return f"{value:+.2f}".replace("-", "−")


def _ends(interval: Interval) -> str:
    if interval.low is None or interval.high is None:
        return "–"
    return f"{_signed(interval.low)} to {_signed(interval.high)}"


def _gaps(board: VoteBoard) -> list[int]:
    pairs = zip(board.rows, board.rows[1:], strict=False)
    return [place for place, (row, after) in enumerate(pairs) if row.band < after.band]


def _lines(board: VoteBoard) -> Iterator[str]:
    if len(board.parts) > 1:
        groups = "; ".join(", ".join(part) for part in board.parts)
        yield (
            f"No vote connects these groups: {groups}. Strengths across them say nothing: vote on a pair from two of "
            "them with 'dryquarry pair'."
        )
    yield (
        "Strength: log-odds against the mean of all, by Bradley and Terry with ties; intervals (95 %) by drawing "
        "questions anew."
        if board.questions >= 3
        else "Strength: log-odds against the mean of all; votes on fewer than three questions give no intervals."
    )
    yield (
        f"Ties are {figures.percent(board.tie_share, 0)} % of the votes, both bad "
        f"{figures.percent(board.both_bad_share, 0)} %; "
        "both count as neither preferred."
    )
    order = board.order_interval
    if order.low is not None and order.high is not None:
        tells = "more than chance" if order.low > 0 or order.high < 0 else "which may be chance"
        yield f"The reply shown first gains {_signed(board.order_effect)} log-odds ({_ends(order)}), {tells}."


def _met(board: VoteBoard) -> Table:
    """Return who beat whom: rows against columns, wins, losses and neither."""
    names = [row.entrant for row in board.rows]
    columns = [Column("won–lost–neither against"), *(Column(name, right=True, named=True) for name in names)]
    rows = []
    for name in names:
        cells = []
        for other in names:
            record = board.records.get((name, other))
            neither = record.ties + record.both_bad if record else 0
            cells.append(f"{record.wins}–{record.losses}–{neither}" if record else "·")
        rows.append([name, *cells])
    return Table("who beat whom", columns, rows)
