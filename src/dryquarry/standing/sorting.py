"""Boards and grids in another order than their own; ranks and bands stay what they are."""

from __future__ import annotations

from collections.abc import Callable, Collection, Mapping, Sequence
from dataclasses import replace
from typing import Any, TypeVar

from dryquarry.errors import UsageFault, closest
from dryquarry.standing.board_model import Board, BoardRow
from dryquarry.standing.grid import Grid, GridRow

Row = TypeVar("Row")

BOARD_ORDERS: Mapping[str, Callable[[BoardRow], Any]] = {
    "entrant": lambda row: row.entrant,
    "score": lambda row: row.score,
    "passed": lambda row: row.passed,
    "seconds": lambda row: row.median_s,
    "tokens": lambda row: row.output_tokens,
    "cost": lambda row: row.cost,
}
GRID_ORDERS: Mapping[str, Callable[[GridRow], Any]] = {
    "question": lambda row: row.item.question,
    "category": lambda row: row.item.category,
    "mean": lambda row: row.mean,
}


def sorted_board(board: Board, order: str) -> Board:
    """Return the board sorted by a figure, or by the score in a category; with "-" before it the greatest first."""
    categories = {name for row in board.rows for name in row.categories}
    name, falling = parsed(order, [*BOARD_ORDERS, *categories])
    value = BOARD_ORDERS.get(name, lambda row: row.categories.get(name))
    return replace(board, rows=tuple(in_order(board.rows, value, falling=falling)), sorted_by=order)


def sorted_grid(grid: Grid, order: str) -> Grid:
    """Return the grid with its questions sorted by id, category, mean, or the score of an entrant; pilots stay last."""
    name, falling = parsed(order, [*GRID_ORDERS, *grid.entrants])
    value = GRID_ORDERS.get(name, lambda row: row.cells[name].score)
    rows = in_order(grid.rows, value, falling=falling)
    return replace(grid, rows=tuple(sorted(rows, key=lambda row: row.item.pilot)))


def parsed(order: str, known: Collection[str]) -> tuple[str, bool]:
    """Return the name in an order, and whether the greatest comes first; raises UsageFault for an unknown name."""
    name = order.removeprefix("-")
    if name not in known:
        raise UsageFault(f"nothing to sort by is called '{name}'{closest(name, known)}")
    return name, order.startswith("-")


def in_order(rows: Sequence[Row], value: Callable[[Row], Any], *, falling: bool) -> list[Row]:
    """Return rows by a value, those without one last; equal ones stay in their order."""
    having = [row for row in rows if value(row) is not None]
    without = [row for row in rows if value(row) is None]
    return sorted(having, key=value, reverse=falling) + without
