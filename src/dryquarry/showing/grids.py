"""The grid as a view: a sign for each mark, so that it reads without colour."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from dryquarry.showing import figures
from dryquarry.showing.view import Cell as ViewCell
from dryquarry.showing.view import Column, Sheet, Table, View
from dryquarry.standing.grid import Cell, CellKind, Grid, GridRow

SIGNS: Mapping[CellKind, str] = {
    CellKind.PASS: "■",
    CellKind.PART: "◧",
    CellKind.FAIL: "□",
    CellKind.OPEN: "?",
    CellKind.VOID: "/",
    CellKind.NO_ANSWER: "~",
    CellKind.NOT_ASKED: "·",
}
_STYLES: Mapping[CellKind, str] = {
    CellKind.PASS: "color(30)",
    CellKind.PART: "color(136)",
    CellKind.FAIL: "color(131)",
    CellKind.OPEN: "bold",
    CellKind.VOID: "dim",
    CellKind.NO_ANSWER: "bold color(131)",
    CellKind.NOT_ASKED: "dim",
}
LEGEND = "■ pass   ◧ part, with its score   □ fail   ? open   / void   ~ no answer   · not asked"


def grid_view(grid: Grid) -> View:
    """Return the grid as table, JSON and sheet."""
    return View(data=_data(grid), sheet=_sheet(grid), table=_table(grid))


def sign(cell: Cell) -> str:
    """Return what stands in a cell: its sign, and the score of a part mark."""
    if cell.kind is CellKind.PART and cell.score is not None:
        return f"{SIGNS[cell.kind]} {figures.percent(cell.score, 0)}"
    return SIGNS[cell.kind]


def _data(grid: Grid) -> dict[str, Any]:
    return {
        "suite": grid.suite,
        "edition": grid.edition,
        "entrants": list(grid.entrants),
        "questions": [
            {
                "id": row.item.question,
                "category": row.item.category,
                "weight": row.item.weight,
                "pilot": row.item.pilot,
                "mean": row.mean,
                "cells": {
                    name: {"kind": str(cell.kind), "score": cell.score, "outcome": cell.outcome, **_unsure(cell)}
                    for name, cell in row.cells.items()
                },
            }
            for row in grid.rows
        ],
        "totals": {
            name: {"passed": total.passed, "counted": total.counted, "score": total.score}
            for name, total in grid.totals.items()
        },
    }


def _unsure(cell: Cell) -> dict[str, bool]:
    return {"unsure": True} if cell.unsure else {}


def _sheet(grid: Grid) -> Sheet:
    names = ["question", "category", "weight", "pilot", "mean"]
    for entrant in grid.entrants:
        names += [entrant, f"{entrant}: score"]
    rows: list[list[Any]] = []
    for row in grid.rows:
        cells: list[Any] = [row.item.question, row.item.category, row.item.weight, row.item.pilot, row.mean]
        for entrant in grid.entrants:
            cells += [str(row.cells[entrant].kind), row.cells[entrant].score]
        rows.append(cells)
    return Sheet(names, rows)


def _table(grid: Grid) -> Table:
    columns = [
        Column("question", least=16),
        Column("category", drop=1),
        *(Column(entrant, drop=100 - place, least=6, named=True) for place, entrant in enumerate(grid.entrants)),
        Column("mean", right=True, drop=2),
    ]
    scored = [_table_row(grid, row) for row in grid.rows if not row.item.pilot]
    pilots = [_table_row(grid, row) for row in grid.rows if row.item.pilot]
    totals = [grid.totals[name] for name in grid.entrants]
    foot: list[list[str | ViewCell]] = [
        ["questions passed", "", *(f"{total.passed}/{total.counted}" for total in totals), ""],
        ["score", "", *(ViewCell(figures.percent(total.score), "bold") for total in totals), ""],
    ]
    rows = [*scored, *foot, *pilots]
    gaps = [len(scored) - 1, len(scored) + 1]
    edition = f"@{grid.edition}" if grid.edition else ""
    title = f"{grid.suite}{edition}: {figures.plural(len(scored), 'question')}"
    corrected = any(cell.corrected for row in grid.rows for cell in row.cells.values())
    unsure = any(cell.unsure for row in grid.rows for cell in row.cells.values())
    below = [LEGEND] + ["* a mark set by a person"] * corrected + ["° unsure: another reading would flip it"] * unsure
    below += ["A question of several trials is passed where each trial is."] * (grid.trials > 1)
    return Table(title, columns, rows, gaps, below)


def _table_row(grid: Grid, row: GridRow) -> list[str | ViewCell]:
    cells = [
        ViewCell(sign(cell) + ("*" if cell.corrected else "") + ("°" if cell.unsure else ""), _STYLES[cell.kind])
        for cell in (row.cells[name] for name in grid.entrants)
    ]
    name = f"{row.item.question} (pilot)" if row.item.pilot else row.item.question
    return [name, row.item.category or "", *cells, figures.percent(row.mean, 0)]
