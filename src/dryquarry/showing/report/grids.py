"""The page of a grid: every cell leads to the reply that made it, every row can be filtered by."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dryquarry.showing import figures
from dryquarry.showing.grids import grid_view, sign
from dryquarry.showing.report.sections import entrant_id, question_id, way_to
from dryquarry.showing.report.site import Site
from dryquarry.standing.grid import CellKind
from dryquarry.workspace.reporting import ReportContent, SuiteReport

# One letter a cell, by which rows are filtered; also the class of a cell.
CODES: Mapping[CellKind, str] = {
    CellKind.PASS: "p",
    CellKind.PART: "a",
    CellKind.FAIL: "f",
    CellKind.OPEN: "o",
    CellKind.VOID: "v",
    CellKind.NO_ANSWER: "n",
    CellKind.NOT_ASKED: "x",
}


@dataclass(frozen=True, slots=True)
class GridCell:
    """A cell: its sign, its code, the anchor of its reply on the question's page ("" without one), what it means."""

    sign: str
    code: str
    anchor: str
    said: str


@dataclass(frozen=True, slots=True)
class GridLine:
    """A question's row; `codes` has the code of every entrant, `score` its mean, by which rows are sorted."""

    question: str
    link: str
    category: str
    tags: str
    pilot: bool
    codes: str
    cells: tuple[GridCell, ...]
    mean: str
    score: float | None


@dataclass(frozen=True, slots=True)
class GridPage:
    """A grid: entrants as (name, title, page), rows, the last rows, and what there is to filter by."""

    id: str
    title: str
    entrants: tuple[tuple[str, str, str], ...]
    lines: tuple[GridLine, ...]
    foot: tuple[tuple[str, ...], ...]
    below: tuple[str, ...]
    categories: tuple[str, ...]
    tags: tuple[str, ...]


def grid_id(report: SuiteReport) -> str:
    """Return the id of the page of a suite's grid."""
    return f"grid:{report.suite.name}"


def add_grid(site: Site, content: ReportContent, report: SuiteReport) -> None:
    """Add the page of a suite's grid."""
    path = f"{site.name('suite', report.suite.name)}/grid.html"
    title = f"Grid of {report.suite.title}"
    site.add(grid_id(report), path, title, "grid.html", {"grid": _page(report)}, way=way_to(content, report.suite))


def _page(report: SuiteReport) -> GridPage:
    grid = report.grid
    table = grid_view(grid).table
    assert table is not None
    first = {
        (view.question.id, view.entrant.name): view.reply.held.trial
        for view in reversed(report.replies)
        if not view.second_try
    }
    tags = {question.id: question.tags for question in report.suite.asked()}
    lines = []
    for row in grid.rows:
        page = question_id(report.suite, row.item.question)
        cells = []
        for name in grid.entrants:
            cell, trial = row.cells[name], first.get((row.item.question, name))
            shown = sign(cell) + ("*" if cell.corrected else "") + ("°" if cell.unsure else "")
            anchor = "" if trial is None else f"{page}#{page}:{name}:{trial}"
            said = (
                str(cell.kind) + (", set by a person" if cell.corrected else "") + (", unsure" if cell.unsure else "")
            )
            cells.append(GridCell(shown, CODES[cell.kind], anchor, said))
        lines.append(
            GridLine(
                row.item.question,
                page if row.item.question in report.by_question else "",
                row.item.category or "",
                "|".join(tags.get(row.item.question, ())),
                row.item.pilot,
                "".join(one.code for one in cells),
                tuple(cells),
                figures.percent(row.mean, 0),
                row.mean,
            )
        )
    foot = (
        ("questions passed", *(f"{grid.totals[name].passed}/{grid.totals[name].counted}" for name in grid.entrants)),
        ("score", *(figures.percent(grid.totals[name].score) for name in grid.entrants)),
    )
    return GridPage(
        grid_id(report),
        table.title,
        tuple((name, grid.titles.get(name, name), entrant_id(name)) for name in grid.entrants),
        tuple(lines),
        foot,
        tuple(table.below),
        tuple(dict.fromkeys(line.category for line in lines if line.category)),
        tuple(dict.fromkeys(tag for line in lines for tag in line.tags.split("|") if tag)),
    )
