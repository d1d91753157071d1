"""The grid as a view: a sign for each mark, so that it reads without colour."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from statistics import median
from typing import Any

from dryquarry.marking.values.texts import shortened
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
LONGEST_ANSWER = 60
LEAST_ANSWER = 10
LEGEND = "■ pass   ◧ part, with its score   □ fail   ? open   / void   ~ no answer   · not asked"


# What can stand in the cells in place of marks: the value, and how it is told.
SHOWN: Mapping[str, tuple[Callable[[Cell], Any], Callable[[Any], str]]] = {
    "answer": (lambda cell: cell.answer, lambda value: "" if value is None else shortened(value, LONGEST_ANSWER)),
    "score": (lambda cell: cell.score, lambda value: figures.percent(value, 0)),
    "seconds": (lambda cell: cell.seconds, figures.seconds),
    "tokens": (lambda cell: cell.output_tokens, figures.count),
    "cost": (lambda cell: cell.cost, figures.cost),
}


def grid_view(grid: Grid, show: str | None = None) -> View:
    """Return the grid as table, JSON and sheet; with `show` its cells have one of `SHOWN` beside or for the marks."""
    return View(data=_data(grid, show), sheet=_sheet(grid, show), table=_table(grid, show))


def sign(cell: Cell) -> str:
    """Return what stands in a cell: its sign, and the score of a part mark."""
    if cell.kind is CellKind.PART and cell.score is not None:
        return f"{SIGNS[cell.kind]} {figures.percent(cell.score, 0)}"
    return SIGNS[cell.kind]


def _data(grid: Grid, show: str | None) -> dict[str, Any]:
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
                    name: {
                        "kind": str(cell.kind),
                        "score": cell.score,
                        "outcome": cell.outcome,
                        **_unsure(cell),
                        **({show: SHOWN[show][0](cell)} if show else {}),
                    }
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


def _sheet(grid: Grid, show: str | None) -> Sheet:
    names = ["question", "category", "weight", "pilot", "mean"]
    for entrant in grid.entrants:
        names += [entrant, f"{entrant}: score"]
        names += [f"{entrant}: {show}"] if show not in (None, "score") else []
    rows: list[list[Any]] = []
    for row in grid.rows:
        cells: list[Any] = [row.item.question, row.item.category, row.item.weight, row.item.pilot, row.mean]
        for entrant in grid.entrants:
            cells += [str(row.cells[entrant].kind), row.cells[entrant].score]
            cells += [SHOWN[show][0](row.cells[entrant])] if show not in (None, "score") and show else []
        rows.append(cells)
    return Sheet(names, rows)


def _table(grid: Grid, show: str | None) -> Table:
    figures_shown = show not in (None, "answer")
    least = LEAST_ANSWER if show == "answer" else 6
    columns = [
        Column("question", least=16),
        Column("category", drop=1),
        *(
            Column(name, figures_shown, drop=100 - place, least=least, named=show != "answer")
            for place, name in enumerate(grid.entrants)
        ),
        Column("mean score" if show else "mean", right=True, drop=2),
    ]
    scored = [_table_row(grid, row, show) for row in grid.rows if not row.item.pilot]
    pilots = [_table_row(grid, row, show) for row in grid.rows if row.item.pilot]
    foot = _foot(grid, show)
    gaps = [len(scored) - 1, len(scored) + len(foot) - 1]
    edition = f"@{grid.edition}" if grid.edition else ""
    what = f"{show} of each reply, " if show else ""
    title = f"{grid.suite}{edition}: {what}{figures.plural(len(scored), 'question')}{figures.chosen(grid.selected)}"
    return Table(title, columns, [*scored, *foot, *pilots], gaps, _below(grid, show))


def _foot(grid: Grid, show: str | None) -> list[list[str | ViewCell]]:
    """Return the last rows: how many passed and the score, or the sum (of seconds the median) of what is shown."""
    if show in ("seconds", "tokens", "cost"):
        each = {name: [SHOWN[show][0](row.cells[name]) for row in grid.rows] for name in grid.entrants}
        known = {name: [value for value in values if value is not None] for name, values in each.items()}
        whole = median if show == "seconds" else sum
        told = [SHOWN[show][1](whole(known[name]) if known[name] else None) for name in grid.entrants]
        return [["median" if show == "seconds" else "sum", "", *(ViewCell(one, "bold") for one in told), ""]]
    totals = [grid.totals[name] for name in grid.entrants]
    return [
        ["questions passed", "", *(f"{total.passed}/{total.counted}" for total in totals), ""],
        ["score", "", *(ViewCell(figures.percent(total.score), "bold") for total in totals), ""],
    ]


def _below(grid: Grid, show: str | None) -> list[str]:
    cells = [cell for row in grid.rows for cell in row.cells.values()]
    several = grid.trials > 1
    if show not in (None, "answer"):
        how = {"seconds": "the median", "score": "the mean"}.get(show or "", "the sum")
        return [f"Of several trials {how}."] if several else []
    below = [LEGEND] + ["* a mark set by a person"] * any(cell.corrected for cell in cells)
    below += ["° unsure: another reading would flip it"] * any(cell.unsure for cell in cells)
    return below + ["A question of several trials is passed where each trial is."] * several


def _table_row(grid: Grid, row: GridRow, show: str | None) -> list[str | ViewCell]:
    marked = show in (None, "answer")  # figures alone have no sign, and a colour alone says nothing
    cells = [
        ViewCell(_said(row.cells[name], show), _STYLES[row.cells[name].kind] if marked else "")
        for name in grid.entrants
    ]
    name = f"{row.item.question} (pilot)" if row.item.pilot else row.item.question
    return [name, row.item.category or "", *cells, figures.percent(row.mean, 0)]


def _said(cell: Cell, show: str | None) -> str:
    marked = sign(cell) + ("*" if cell.corrected else "") + ("°" if cell.unsure else "")
    if show is None:
        return marked
    value, told = SHOWN[show]
    said = told(value(cell))
    if show != "answer":
        return said
    answer = " ".join(said.split())
    return f"{marked} {answer or (cell.outcome if cell.kind is CellKind.NO_ANSWER else '–')}"
