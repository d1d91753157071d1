"""The grid as a picture: cells with figures where there is room, small signs where entrants or questions are many."""

from __future__ import annotations

import textwrap
from collections.abc import Sequence
from dataclasses import dataclass, replace
from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING, Any

from dryquarry.showing import figures
from dryquarry.showing.pictures.frame import GREY, INK, LINE, Caption, drawing, plain, said_of
from dryquarry.standing.grid import Cell, CellKind, Grid, GridRow

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
# Up to so many entrants and questions cells are wide enough for words; a page has at most so many questions.
MOST_WIDE, MOST_WIDE_NARROW, MOST_TALL, A_PAGE = 9, 5, 60, 60
LONGEST_ASLANT = 20


@dataclass(frozen=True, slots=True)
class _Size:
    """How large a cell is, in inches, and whether words fit into it."""

    width: float
    height: float
    words: bool


def draw_grid(grid: Grid, path: Path, caption: Caption) -> list[Path]:
    """Write the grid in the format of the file's ending, and return the files; raises FileFault.

    More than sixty questions go on several pages: name.png, name-2.png and so on.
    """
    rows = [row for row in grid.rows if not row.item.pilot]
    most = MOST_WIDE_NARROW if caption.narrow else MOST_WIDE
    words = len(grid.entrants) <= most and len(rows) <= MOST_TALL
    size = _Size(1.45, 0.36, True) if words else _Size(0.21, 0.21, False)
    if words and caption.narrow:
        size = _Size(0.72, 0.36, True)
    count = -(-max(1, len(rows)) // A_PAGE)
    per_page = -(-max(1, len(rows)) // count)
    pages = [rows[start : start + per_page] for start in range(0, max(1, len(rows)), per_page)]
    files = []
    for number, page in enumerate(pages, start=1):
        file = path if number == 1 else path.with_name(f"{path.stem}-{number}{path.suffix}")
        _draw_page(replace(grid, rows=tuple(page)), file, caption, size, _said(grid, rows, number, len(pages), caption))
        files.append(file)
    return files


def _said(grid: Grid, rows: Sequence[GridRow], number: int, pages: int, caption: Caption) -> str:
    said = said_of(grid.suite, grid.edition, len(rows), grid.trials, caption.day)
    return said + (f", page {number} of {pages}" if pages > 1 else "")


def _draw_page(grid: Grid, path: Path, caption: Caption, size: _Size, said: str) -> None:
    columns, rows = len(grid.entrants), len(grid.rows)
    # room for the mean, the totals and the legend
    width, height = size.width * (columns + 1.4), size.height * (rows + 3.4) if size.words else size.height * (rows + 8)
    with drawing(path, caption, max(1.6, height), [said], width=max(2.2, width)) as axes:
        if size.words:
            for row_number, row in enumerate(grid.rows):
                for column, entrant in enumerate(grid.entrants):
                    _draw_cell(axes, row.cells[entrant], column, row_number)
        else:
            _draw_signs(axes, grid)
        _draw_labels(axes, grid, size)
        _draw_legend(axes, grid, columns, rows, size)


def _draw_cell(axes: Axes, cell: Cell, x: float, y: float) -> None:
    from matplotlib.patches import Rectangle

    fill, edge = _FILLS[cell.kind]
    left, top, width, height = x - 0.42, y - 0.36, 0.84, 0.72
    if cell.kind is CellKind.PART and cell.score is not None:
        axes.add_patch(Rectangle((left, top), width * cell.score, height, facecolor=fill, linewidth=0))
        axes.add_patch(Rectangle((left, top), width, height, fill=False, edgecolor=edge))
        axes.text(x, y, figures.percent(cell.score, 0), ha="center", va="center", fontsize=8, color=INK)
    else:
        axes.add_patch(Rectangle((left, top), width, height, facecolor=fill, edgecolor=edge, linewidth=1.1))
    if cell.unsure or cell.corrected:
        signs = ("*" if cell.corrected else "") + ("°" if cell.unsure else "")
        ink = "#ffffff" if cell.kind is CellKind.PASS else INK
        axes.text(x + 0.36, y - 0.16, signs, ha="right", va="center", fontsize=9, color=ink, weight="bold")
    if cell.kind in _WORDS:
        word = cell.outcome if cell.kind is CellKind.NO_ANSWER and cell.outcome else _WORDS[cell.kind]
        axes.text(x, y, word, ha="center", va="center", fontsize=7.5, color=edge)


def _draw_signs(axes: Axes, grid: Grid) -> None:
    """Draw small cells: filled, part filled from the left, or empty, with a sign for what has no mark.

    All at once, as thousands of single shapes take minutes.
    """
    from matplotlib.collections import PatchCollection
    from matplotlib.patches import Rectangle

    filled, outlined = [], []
    for y, row in enumerate(grid.rows):
        for x, entrant in enumerate(grid.entrants):
            cell = row.cells[entrant]
            width = 0.8 * (cell.score or 0.0) if cell.kind is CellKind.PART else 0.8
            fill, edge = _FILLS[cell.kind]
            filled.append((Rectangle((x - 0.4, y - 0.4), width, 0.8), fill))
            outlined.append((Rectangle((x - 0.4, y - 0.4), 0.8, 0.8), edge))
            if cell.kind in _WORDS:
                axes.text(x, y, _WORDS[cell.kind], ha="center", va="center", fontsize=7, color=edge)
    for shapes, what in ((filled, "facecolors"), (outlined, "edgecolors")):
        colours: dict[str, Any] = {"facecolors": "none", "edgecolors": "none", what: [colour for _, colour in shapes]}
        axes.add_collection(PatchCollection([shape for shape, _ in shapes], linewidths=0.7, **colours))


def _draw_labels(axes: Axes, grid: Grid, size: _Size) -> None:
    rows, mean = len(grid.rows), len(grid.entrants) + (-0.15 if size.words else 0.3)
    # compact totals stand upright, one under each column, and need more room
    axes.set_xlim(-0.6, len(grid.entrants) + (0.25 if size.words else 0.8))
    axes.set_ylim(rows + (2.6 if size.words else 7.2), -0.7)
    plain(axes, grid="")
    axes.set_yticks(range(rows), [row.item.question for row in grid.rows], fontsize=9 if size.words else 7)
    turned: dict[str, Any] = {} if size.words else {"rotation": 55, "ha": "left", "rotation_mode": "anchor"}
    heads = [*(_title(grid, name, size) for name in grid.entrants), "mean"]
    axes.set_xticks(
        [*range(len(grid.entrants)), mean],
        heads,
        fontsize=9.5 if size.words else 7.5,
        **turned,
    )
    axes.xaxis.tick_top()
    small: dict[str, Any] = {"ha": "center", "va": "center", "fontsize": 9 if size.words else 6.5, "color": INK}
    for row_number, row in enumerate(grid.rows):
        axes.text(mean, row_number, figures.percent(row.mean, 0), **small)
    axes.axhline(rows - 0.4, color=GREY, linewidth=0.8)
    turn: dict[str, Any] = {} if size.words else {"rotation": 90}
    below, score = (rows, rows + 0.75) if size.words else (rows + 1.1, rows + 3.6)
    for column, entrant in enumerate(grid.entrants):
        total = grid.totals[entrant]
        axes.text(
            column, below, f"{total.passed} of {total.counted}" if size.words else str(total.passed), **small, **turn
        )
        axes.text(column, score, figures.percent(total.score), **small, **turn, weight="bold")
    edge: dict[str, Any] = {"ha": "right", "va": "center", "fontsize": small["fontsize"], "color": INK}
    axes.text(-0.62, below, "questions passed", **edge)
    axes.text(-0.62, score, "score", **edge, weight="bold")
    _part_categories(axes, grid)


def _title(grid: Grid, name: str, size: _Size) -> str:
    """Return an entrant's title, in lines as wide as its column, or cut where it stands aslant."""
    title = grid.titles.get(name) or name
    if not size.words:
        return title if len(title) <= LONGEST_ASLANT else f"{title[: LONGEST_ASLANT - 9]}…{title[-8:]}"
    most = int(size.width * 11)
    words = [word if len(word) <= most else f"{word[: most - 1]}…" for word in title.split()]
    lines = textwrap.wrap(" ".join(words), most)
    return "\n".join([*lines[:2], "…"] if len(lines) > 3 else lines)


def _part_categories(axes: Axes, grid: Grid) -> None:
    """Draw a line where a category ends, if the questions stand by category."""
    runs = [(name, len(list(run))) for name, run in groupby(row.item.category for row in grid.rows)]
    if len(runs) != len({name for name, _ in runs}) or len(runs) < 2:
        return
    place = 0
    for _, length in runs[:-1]:
        place += length
        axes.axhline(place - 0.5, color=LINE, linewidth=1.2, zorder=0)


def _draw_legend(axes: Axes, grid: Grid, columns: int, rows: int, size: _Size) -> None:
    from matplotlib.patches import Rectangle

    there = {cell.kind for row in grid.rows for cell in row.cells.values()}
    kinds = [kind for kind in CellKind if kind in there or kind in (CellKind.PASS, CellKind.FAIL)]
    handles = [
        Rectangle((0, 0), 1, 1, facecolor=_FILLS[kind][0], edgecolor=_FILLS[kind][1], label=_legend_word(kind))
        for kind in kinds
    ]
    cells = [cell for row in grid.rows for cell in row.cells.values()]
    signs = [
        (sign, said)
        for sign, said, there in (
            ("*", "set by a person", any(cell.corrected for cell in cells) and size.words),
            ("°", "unsure: another reading would flip it", any(cell.unsure for cell in cells) and size.words),
        )
        if there
    ]
    below = rows + (1.45 if size.words else 5.4)
    across = 1 + int(max(2.2, size.width * (columns + 1.4)) / 1.35)
    axes.legend(
        handles=handles,
        loc="upper left",
        bbox_to_anchor=(-0.6, below),
        bbox_transform=axes.transData,
        ncols=max(1, min(across, len(handles))),
        frameon=False,
        fontsize=8.5,
        borderaxespad=0,
        handlelength=1.4,
    )
    if signs:
        text = "   ".join(f"{sign} {said}" for sign, said in signs)
        axes.text(-0.54, rows + 2.5, text, ha="left", va="center", fontsize=8.5, color=INK)


def _legend_word(kind: CellKind) -> str:
    return f"{kind} {_WORDS[kind]}" if kind in _WORDS else str(kind)
