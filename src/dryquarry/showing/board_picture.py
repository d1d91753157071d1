"""The board as a picture: scores with their intervals, in bands."""

from __future__ import annotations

from itertools import groupby
from pathlib import Path
from typing import TYPE_CHECKING

from dryquarry.errors import FileFault
from dryquarry.showing import figures
from dryquarry.standing.board_model import Board, BoardRow

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_TIDE, _SAND, _RUST, _INK, _GREY = "#1f5c6b", "#f4ead7", "#a8442f", "#1c2a30", "#7c8a90"
# A row's height and what stands around the rows, in inches.
_ROW, _AROUND, _WIDTH = 0.42, 2.1, 8.4
LONGEST_NAME = 34


def draw_board(board: Board, path: Path, title: str, day: str) -> None:
    """Write the board as a picture in the format of the file's ending (PNG, SVG, PDF); raises FileFault.

    A dot is a score, a bar its 95 % interval; of who lacks questions a dashed line shows the bounds. `day` is when it
    was drawn.
    """
    import matplotlib

    matplotlib.use("Agg")
    matplotlib.rcParams["text.parse_math"] = False  # a name with dollar signs is a name
    from matplotlib import pyplot

    rows = [row for row in board.rows if row.score is not None]
    figure, axes = pyplot.subplots(figsize=(_WIDTH, _AROUND + _ROW * max(3, len(rows))))
    try:
        _draw_bands(axes, rows)
        for place, row in enumerate(rows):
            _draw_row(axes, row, place)
        _draw_frame(axes, rows)
        axes.set_title(title, loc="left", fontsize=13, color=_INK, weight="bold", pad=36)
        axes.text(
            0, 1, _said(board, day), transform=axes.transAxes, fontsize=9, color=_INK, va="bottom", linespacing=1.4
        )
        figure.savefig(path, dpi=120, bbox_inches="tight", facecolor="white")
    except (OSError, ValueError) as error:
        raise FileFault(f"the picture {path} cannot be written: {error}") from None
    finally:
        pyplot.close(figure)


def _said(board: Board, day: str) -> str:
    """Return what the picture is of, in a line."""
    edition = f"@{board.edition}" if board.edition else ""
    trials = max((row.trials for row in board.rows), default=1)
    parts = [f"{board.suite}{edition}", figures.plural(board.questions, "question"), figures.plural(trials, "trial")]
    about = f"95 % intervals about {board.target}; beside each name the ranks that the tests leave"
    return f"{', '.join(parts)}, {day}\n{about}"


def _draw_bands(axes: Axes, rows: list[BoardRow]) -> None:
    """Shade every other band, and number each where its rows stand together."""
    for number, (band, run) in enumerate(groupby(enumerate(rows), key=lambda one: one[1].band)):
        places = [place for place, _ in run]
        if band is None:
            continue
        if number % 2:
            axes.axhspan(places[0] - 0.5, places[-1] + 0.5, color=_SAND, zorder=0, linewidth=0)
        middle = (places[0] + places[-1]) / 2
        axes.text(1.135, middle, f"band {band}", ha="left", va="center", fontsize=9, color=_INK)


def _draw_row(axes: Axes, row: BoardRow, place: int) -> None:
    score = row.score or 0.0
    if row.unfinished is not None:
        bounds = row.unfinished.bounds
        axes.plot([bounds.low, bounds.high], [place, place], color=_RUST, linewidth=1.6, linestyle=(0, (3, 2)))
        axes.plot([score], [place], marker="D", markersize=7, markerfacecolor="white", markeredgecolor=_RUST)
        said = f"{figures.percent(score)}, lacks {row.unfinished.missing}"
    else:
        if row.low is not None and row.high is not None:
            axes.plot(
                [row.low, row.high], [place, place], color=_TIDE, linewidth=3.2, solid_capstyle="butt", alpha=0.55
            )
            for end in (row.low, row.high):
                axes.plot([end, end], [place - 0.16, place + 0.16], color=_TIDE, linewidth=1.6)
        axes.plot([score], [place], marker="o", markersize=8, color=_TIDE)
        said = figures.percent(score)
    axes.text(1.02, place, said, ha="left", va="center", fontsize=9.5, color=_INK, weight="bold")


def _draw_frame(axes: Axes, rows: list[BoardRow]) -> None:
    axes.set_xlim(0, 1)
    axes.set_ylim(max(3, len(rows)) - 0.5, -0.5)
    axes.set_xticks([0, 0.25, 0.5, 0.75, 1], ["0", "25", "50", "75", "100 %"], fontsize=9, color=_INK)
    axes.set_yticks(range(len(rows)), [_label(row) for row in rows], fontsize=10, color=_INK)
    axes.grid(axis="x", color="#dde3e5", linewidth=0.8)
    axes.set_axisbelow(True)
    axes.tick_params(length=0)
    for spine in axes.spines.values():
        spine.set_visible(False)


def _label(row: BoardRow) -> str:
    """Return an entrant's title, cut in the middle where it is long, after the ranks that it may have."""
    name = row.title if len(row.title) <= LONGEST_NAME else f"{row.title[:20]}…{row.title[-12:]}"
    if row.rank_low is None:
        return name
    ranks = str(row.rank_low) if row.rank_low == row.rank_high else f"{row.rank_low}–{row.rank_high}"
    return f"{name}   {ranks:>5}"
