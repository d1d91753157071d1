"""Score against price or time: which entrants no other beats in both."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from pathlib import Path
from typing import TYPE_CHECKING

from dryquarry.errors import UsageFault
from dryquarry.showing.pictures.board import board_said
from dryquarry.showing.pictures.frame import GREY, INK, RUST, TIDE, Caption, drawing, plain
from dryquarry.standing.board_model import Board, BoardRow

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_HEIGHT, _HEIGHT_NARROW = 4.9, 5.2
# Where a label may stand beside its point, in points, the likeliest first.
_PLACES = [(9, -8), (9, 8), (-9, -8), (-9, 8), (0, -13), (0, 13), (11, -20), (11, 20), (-11, -20), (-11, 20)]


def draw_tradeoff(board: Board, by: str, path: Path, caption: Caption) -> None:
    """Write the scores against what the replies took, `by` "cost" or "seconds"; raises UsageFault where none is known.

    Filled dots, joined by a line, are the efficient ones: no other is both better and cheaper (or faster).
    """
    of: Callable[[BoardRow], float | None] = (lambda row: row.cost) if by == "cost" else (lambda row: row.median_s)
    rows = [row for row in board.rows if row.score is not None and of(row) is not None and row.unfinished is None]
    if not rows:
        raise UsageFault(f"no finished entrant's {by} is known, so there is nothing to draw a score against")
    amounts = [of(row) or 0.0 for row in rows]
    efficient = frontier([row.score or 0.0 for row in rows], amounts)
    axis = "whole cost, each in its own currency" if by == "cost" else "median seconds a reply"
    said = [
        board_said(board, caption),
        f"up: score with its 95 % interval; across: {axis}; filled: none is as good for less",
    ]
    if unknown := [row.entrant for row in board.rows if row not in rows]:
        said.append(f"not drawn, as not finished or without {by}: {', '.join(unknown)}")
    with drawing(path, caption, _HEIGHT_NARROW if caption.narrow else _HEIGHT, said) as axes:
        line = sorted((amounts[place], rows[place].score or 0.0) for place in efficient)
        axes.plot(*zip(*line, strict=True), color=TIDE, linewidth=1.4, alpha=0.6, zorder=1)
        for place, (row, amount) in enumerate(zip(rows, amounts, strict=True)):
            _point(axes, row, amount, filled=place in efficient)
        _frame(axes, amounts, by)
        _labels(axes, rows, amounts, efficient, caption)


def frontier(scores: Sequence[float], amounts: Sequence[float]) -> set[int]:
    """Return which points no other one beats: at least as good for less, or better for as much."""
    return {
        place
        for place in range(len(scores))
        if not any(
            scores[other] >= scores[place]
            and amounts[other] <= amounts[place]
            and (scores[other], amounts[other]) != (scores[place], amounts[place])
            for other in range(len(scores))
        )
    }


def _point(axes: Axes, row: BoardRow, amount: float, *, filled: bool) -> None:
    colour = TIDE if filled else RUST
    if row.low is not None and row.high is not None:
        axes.plot([amount, amount], [row.low, row.high], color=colour, linewidth=1.2, alpha=0.45, zorder=2)
    axes.plot(
        [amount],
        [row.score or 0.0],
        marker="o" if filled else "D",
        markersize=9 if filled else 7,
        color=colour,
        markerfacecolor=colour if filled else "white",
        zorder=3,
    )


def _frame(axes: Axes, amounts: Sequence[float], by: str) -> None:
    from matplotlib.ticker import FuncFormatter, NullFormatter

    plain(axes, grid="both")
    positive = [amount for amount in amounts if amount > 0]
    if len(positive) == len(amounts) and max(positive) > 20 * min(positive):
        axes.set_xscale("log")
        axes.set_xlim(min(positive) / 2, max(positive) * 2)
        axes.xaxis.set_minor_formatter(NullFormatter())
    else:
        axes.set_xlim(0, (max(amounts) or 1.0) * 1.15)
    axes.xaxis.set_major_formatter(FuncFormatter(lambda value, _: f"{value:g}"))
    axes.tick_params(which="both", length=0)
    axes.set_ylim(-0.02, 1.04)
    axes.set_yticks([0, 0.25, 0.5, 0.75, 1], ["0", "25", "50", "75", "100 %"])
    axes.set_xlabel("cost" if by == "cost" else "median seconds", fontsize=9, color=INK, loc="right")


def _labels(
    axes: Axes, rows: Sequence[BoardRow], amounts: Sequence[float], efficient: set[int], caption: Caption
) -> None:
    """Name the points where there is room, the efficient ones first; the others keep their mark alone."""
    from matplotlib.transforms import Bbox

    figure = axes.get_figure()
    assert figure is not None
    renderer = figure.canvas.get_renderer()  # type: ignore[attr-defined]
    inner = axes.get_window_extent(renderer)
    unnamed = 0
    # no name over another's mark
    marks = axes.transData.transform([(amount, row.score or 0.0) for row, amount in zip(rows, amounts, strict=True)])
    taken = [Bbox.from_extents(x - 6, y - 6, x + 6, y + 6) for x, y in marks]
    for place in sorted(range(len(rows)), key=lambda place: place not in efficient):
        row = rows[place]
        for x, y in _PLACES:
            text = axes.annotate(
                caption.name(row.title),
                (amounts[place], row.score or 0.0),
                xytext=(x, y),
                textcoords="offset points",
                ha="left" if x > 0 else "right" if x < 0 else "center",
                va="center",
                fontsize=8.5,
                color=INK,
            )
            box = text.get_window_extent(renderer)
            inside = box.x0 >= inner.x0 - 40 and box.x1 <= inner.x1 + 60
            if inside and not any(box.overlaps(other) for other in taken):
                taken.append(box)
                break
            text.remove()
        else:
            unnamed += 1
    if unnamed:
        axes.text(
            1,
            0.01,
            f"{unnamed} without room for a name",
            transform=axes.transAxes,
            ha="right",
            va="bottom",
            fontsize=8,
            color=GREY,
        )
