"""The grid as a picture."""

from __future__ import annotations

from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING, Any

from dryquarry.errors import FileFault
from dryquarry.showing import figures
from dryquarry.standing.grid import Cell, CellKind, Grid

if TYPE_CHECKING:
    from matplotlib.axes import Axes

# Fill and edge by kind of mark: a dark tide for a pass, sand for a part, an empty cell for a fail. The
# lightness alone tells them apart, and each has its own shape.
_FILLS = {
    CellKind.PASS: ("#1f5c6b", "#1f5c6b"),
    CellKind.PART: ("#d9b36c", "#8a6a2a"),
    CellKind.FAIL: ("#ffffff", "#a8442f"),
    CellKind.OPEN: ("#eef1f2", "#7c8a90"),
    CellKind.VOID: ("#eef1f2", "#c6ced1"),
    CellKind.NO_ANSWER: ("#f3dcd6", "#a8442f"),
    CellKind.NOT_ASKED: ("#ffffff", "#dde3e5"),
}
_WORDS = {CellKind.OPEN: "?", CellKind.VOID: "/", CellKind.NO_ANSWER: "~", CellKind.NOT_ASKED: "·"}
_INK = "#1c2a30"


def draw_grid(grid: Grid, path: Path, title: str) -> None:
    """Write the grid as a PNG (or another format, by the file's ending); raises FileFault."""
    title = f"{title} ({grid.suite}@{grid.edition})" if grid.edition else title
    import matplotlib

    matplotlib.use("Agg")
    matplotlib.rcParams["text.parse_math"] = False  # a name with dollar signs is a name
    from matplotlib import pyplot

    grid = replace(grid, rows=tuple(row for row in grid.rows if not row.item.pilot))
    columns, rows = len(grid.entrants), len(grid.rows)
    figure, axes = pyplot.subplots(figsize=(max(7.0, 3.6 + 1.45 * columns), 1.9 + 0.36 * (rows + 2)))
    try:
        for row_number, row in enumerate(grid.rows):
            for column, entrant in enumerate(grid.entrants):
                _draw_cell(axes, row.cells[entrant], column, row_number)
        _draw_labels(axes, grid, title)
        _draw_legend(axes, grid, columns, rows)
        figure.savefig(path, dpi=120, bbox_inches="tight", facecolor="white")
    except (OSError, ValueError) as error:
        raise FileFault(f"the picture {path} cannot be written: {error}") from None
    finally:
        pyplot.close(figure)


def _draw_cell(axes: Axes, cell: Cell, x: float, y: float) -> None:
    from matplotlib.patches import Rectangle

    fill, edge = _FILLS[cell.kind]
    left, top, width, height = x - 0.42, y - 0.36, 0.84, 0.72
    if cell.kind is CellKind.PART and cell.score is not None:
        axes.add_patch(Rectangle((left, top), width * cell.score, height, facecolor=fill, linewidth=0))
        axes.add_patch(Rectangle((left, top), width, height, fill=False, edgecolor=edge))
        axes.text(x, y, figures.percent(cell.score, 0), ha="center", va="center", fontsize=8, color=_INK)
    else:
        axes.add_patch(Rectangle((left, top), width, height, facecolor=fill, edgecolor=edge, linewidth=1.1))
    if cell.unsure or cell.corrected:
        signs = ("*" if cell.corrected else "") + ("°" if cell.unsure else "")
        ink = "#ffffff" if cell.kind is CellKind.PASS else _INK
        axes.text(x + 0.36, y - 0.16, signs, ha="right", va="center", fontsize=9, color=ink, weight="bold")
    if cell.kind in _WORDS:
        word = cell.outcome if cell.kind is CellKind.NO_ANSWER and cell.outcome else _WORDS[cell.kind]
        axes.text(x, y, word, ha="center", va="center", fontsize=7.5, color=edge)


def _draw_labels(axes: Axes, grid: Grid, title: str) -> None:
    rows = len(grid.rows)
    axes.set_xlim(-0.6, len(grid.entrants) + 0.25)
    axes.set_ylim(rows + 2.6, -0.7)
    axes.set_yticks(range(rows), [row.item.question for row in grid.rows], fontsize=9, color=_INK)
    names = [*grid.entrants, "mean"]
    places = [*range(len(grid.entrants)), len(grid.entrants) - 0.15]
    axes.set_xticks(places, names, fontsize=10, color=_INK)
    axes.xaxis.tick_top()
    axes.tick_params(length=0)
    for spine in axes.spines.values():
        spine.set_visible(False)
    small: dict[str, Any] = {"ha": "center", "va": "center", "fontsize": 9, "color": _INK}
    for row_number, row in enumerate(grid.rows):
        axes.text(len(grid.entrants) - 0.15, row_number, figures.percent(row.mean, 0), **small)
    axes.axhline(rows - 0.4, color="#7c8a90", linewidth=0.8)
    for column, entrant in enumerate(grid.entrants):
        total = grid.totals[entrant]
        axes.text(column, rows, f"{total.passed} of {total.counted}", **small)
        axes.text(column, rows + 0.75, figures.percent(total.score), **small, weight="bold")
    axes.text(-0.62, rows, "questions passed", ha="right", va="center", fontsize=9, color=_INK)
    axes.text(-0.62, rows + 0.75, "score", ha="right", va="center", fontsize=9, color=_INK, weight="bold")
    axes.set_title(title, loc="left", fontsize=12, color=_INK, pad=26)


def _draw_legend(axes: Axes, grid: Grid, columns: int, rows: int) -> None:
    shown = (CellKind.PASS, CellKind.PART, CellKind.FAIL, CellKind.OPEN, CellKind.NO_ANSWER)
    step = (columns + 0.6) / len(shown)
    for place, kind in enumerate(shown):
        x = -0.4 + place * step
        cell = Cell(kind, 0.5 if kind is CellKind.PART else None)
        _draw_small(axes, cell, x, rows + 1.9)
        axes.text(x + 0.22, rows + 1.9, str(kind), ha="left", va="center", fontsize=8.5, color=_INK)
    cells = [cell for row in grid.rows for cell in row.cells.values()]
    signs = ["* set by a person"] * any(cell.corrected for cell in cells)
    signs += ["° unsure: another reading would flip it"] * any(cell.unsure for cell in cells)
    axes.text(-0.54, rows + 2.5, "   ".join(signs), ha="left", va="center", fontsize=8.5, color=_INK)


def _draw_small(axes: Axes, cell: Cell, x: float, y: float) -> None:
    from matplotlib.patches import Rectangle

    fill, edge = _FILLS[cell.kind]
    base = "#ffffff" if cell.kind is CellKind.PART else fill
    axes.add_patch(Rectangle((x - 0.14, y - 0.25), 0.28, 0.5, facecolor=base, edgecolor=edge))
    if cell.kind is CellKind.PART:
        axes.add_patch(Rectangle((x - 0.14, y - 0.25), 0.14, 0.5, facecolor=fill, edgecolor=edge))
    if cell.kind in _WORDS:
        axes.text(x, y, _WORDS[cell.kind], ha="center", va="center", fontsize=8, color=edge)
