"""The board as a picture: scores with their intervals, in bands; and all editions on one scale."""

from __future__ import annotations

from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING

from dryquarry.showing import figures
from dryquarry.showing.pictures.frame import (
    INK,
    RUST,
    SAND,
    TIDE,
    Caption,
    beside,
    drawing,
    plain,
    said_of,
    shares_across,
)
from dryquarry.standing.board_model import Board, BoardRow
from dryquarry.standing.equating import Equated

if TYPE_CHECKING:
    from matplotlib.axes import Axes

# A row's height and what stands around the rows, in inches.
_ROW, _AROUND = 0.42, 0.9


def draw_board(board: Board, path: Path, caption: Caption) -> None:
    """Write the board as a picture in the format of the file's ending (PNG, SVG, PDF); raises FileFault.

    A dot is a score, a bar its 95 % interval; of who lacks questions a dashed line shows the bounds.
    """
    rows = [row for row in board.rows if row.score is not None]
    about = f"95 % intervals about {board.target}; beside each name the ranks that the tests leave"
    with drawing(path, caption, _AROUND + _ROW * max(3, len(rows)), [board_said(board, caption), about]) as axes:
        _draw_bands(axes, rows)
        for place, row in enumerate(rows):
            _draw_row(axes, row, place)
        _name_rows(axes, [_label(row, caption) for row in rows])


def board_said(board: Board, caption: Caption) -> str:
    """Return what a picture of a board is of."""
    trials = max((row.trials for row in board.rows), default=1)
    return said_of(board.suite, board.edition, board.questions, trials, caption.day)


def draw_equated(found: Equated, path: Path, caption: Caption) -> None:
    """Write the equated scores with their intervals as a picture; a hollow diamond is an entrant's own score."""
    rows = [row for row in found.rows if row.score is not None]
    said = said_of(found.suite, found.edition, found.questions, found.trials, caption.day)
    about = "expected scores on this edition from all editions, 95 % intervals; hollow: the score on what each has"
    with drawing(path, caption, _AROUND + _ROW * max(3, len(rows)), [said, about]) as axes:
        for place, row in enumerate(rows):
            _draw_interval(axes, row.interval.low, row.interval.high, place)
            axes.plot([row.score or 0.0], [place], marker="o", markersize=8, color=TIDE, clip_on=False)
            if row.own is not None:
                axes.plot(
                    [row.own],
                    [place],
                    marker="D",
                    markersize=6,
                    markerfacecolor="none",
                    markeredgecolor=RUST,
                    clip_on=False,
                )
            beside(axes, f"{figures.percent(row.score)}, has {row.had} of {found.questions}", place, bold=True)
        _name_rows(axes, [caption.name(row.title) for row in rows])


def _draw_bands(axes: Axes, rows: list[BoardRow]) -> None:
    """Shade every other band, and number each where its rows stand together."""
    for number, (band, run) in enumerate(groupby(enumerate(rows), key=lambda one: one[1].band)):
        places = [place for place, _ in run]
        if band is None:
            continue
        if number % 2:
            axes.axhspan(places[0] - 0.5, places[-1] + 0.5, color=SAND, zorder=0, linewidth=0)
        axes.annotate(
            f"band {band}",
            (1, (places[0] + places[-1]) / 2),
            xytext=(52, 0),
            textcoords="offset points",
            ha="left",
            va="center",
            fontsize=9,
            color=INK,
            annotation_clip=False,
        )


def _draw_row(axes: Axes, row: BoardRow, place: int) -> None:
    score = row.score or 0.0
    said = figures.percent(score)
    if row.unfinished is not None:
        bounds = row.unfinished.bounds
        axes.plot([bounds.low, bounds.high], [place, place], color=RUST, linewidth=1.6, linestyle=(0, (3, 2)))
        axes.plot(
            [score], [place], marker="D", markersize=7, markerfacecolor="white", markeredgecolor=RUST, clip_on=False
        )
        said += f", lacks {row.unfinished.missing}"
    else:
        _draw_interval(axes, row.low, row.high, place)
        axes.plot([score], [place], marker="o", markersize=8, color=TIDE, clip_on=False)
    beside(axes, said, place, size=9.5, bold=True)


def _draw_interval(axes: Axes, low: float | None, high: float | None, place: int) -> None:
    if low is None or high is None:
        return
    axes.plot([low, high], [place, place], color=TIDE, linewidth=3.2, solid_capstyle="butt", alpha=0.55)
    for end in (low, high):
        axes.plot([end, end], [place - 0.16, place + 0.16], color=TIDE, linewidth=1.6)


def _name_rows(axes: Axes, names: list[str]) -> None:
    axes.set_ylim(max(3, len(names)) - 0.5, -0.5)
    plain(axes)
    axes.set_yticks(range(len(names)), names, fontsize=10, color=INK)
    shares_across(axes)


def _label(row: BoardRow, caption: Caption) -> str:
    """Return an entrant's title, and the ranks that it may have."""
    name = caption.name(row.title)
    if row.rank_low is None:
        return name
    ranks = str(row.rank_low) if row.rank_low == row.rank_high else f"{row.rank_low}–{row.rank_high}"
    return f"{name}   {ranks:>5}"
