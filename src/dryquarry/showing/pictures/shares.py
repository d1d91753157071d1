"""Shares by entrant: scores in each category, and how trials of the same questions differ."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from dryquarry.errors import UsageFault
from dryquarry.showing import figures
from dryquarry.showing.pictures.board import board_said
from dryquarry.showing.pictures.frame import INK, LINE, TIDE, Caption, beside, drawing, plain, shares_across
from dryquarry.standing.board_model import Board, BoardRow

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_ROW, _AROUND = 0.36, 1.2
# From so dark a fill on, what is written on it is white.
_DARK = 0.55


def draw_categories(board: Board, path: Path, caption: Caption) -> None:
    """Write each entrant's score in each category: the darker the higher, with the figure in it.

    Raises UsageFault where the questions have no categories.
    """
    names = list(dict.fromkeys(name for row in board.rows for name in row.categories))
    rows = [row for row in board.rows if row.score is not None]
    if not names or not rows:
        raise UsageFault(f"the questions of {board.suite} have no categories, so there is nothing to draw")
    said = [board_said(board, caption), "score in each category, in per cent; entrants in the board's order"]
    columns = ["all", *names]
    # a phone's width has room for few columns: then the entrants stand across if they are fewer
    across = not (caption.narrow and len(rows) < len(columns))
    entrants = [caption.name(row.title) for row in rows]
    height = _AROUND + _ROW * max(3, len(rows) if across else len(columns))
    with drawing(path, caption, height, said) as axes:
        for number, row in enumerate(rows):
            for place, name in enumerate(columns):
                share = row.score if name == "all" else row.categories.get(name)
                _cell(axes, share, *((place, number) if across else (number, place)))
        _name(axes, columns if across else entrants, entrants if across else columns)


def _cell(axes: Axes, share: float | None, x: int, y: int) -> None:
    from matplotlib.patches import Rectangle

    shade = share or 0.0
    axes.add_patch(Rectangle((x - 0.47, y - 0.44), 0.94, 0.88, facecolor=_mixed(shade), edgecolor=LINE, linewidth=0.8))
    axes.text(
        x, y, figures.percent(share, 0), ha="center", va="center", fontsize=8.5, color="white" if shade > _DARK else INK
    )


def _mixed(share: float) -> tuple[float, float, float]:
    """Return a colour between white and the tide's."""
    tide = [int(TIDE[place : place + 2], 16) / 255 for place in (1, 3, 5)]
    red, green, blue = (1 - share * (1 - part) for part in tide)
    return red, green, blue


def _name(axes: Axes, across: list[str], down: list[str]) -> None:
    axes.set_xlim(-0.5, len(across) - 0.5)
    axes.set_ylim(max(3, len(down)) - 0.5, -0.5)
    plain(axes, grid="")
    axes.xaxis.tick_top()
    axes.set_xticks(range(len(across)), across, fontsize=8.5, rotation=40, ha="left", rotation_mode="anchor")
    axes.set_yticks(range(len(down)), down, fontsize=9)


def draw_trials(board: Board, path: Path, caption: Caption) -> None:
    """Write which shares of the questions each entrant passed in every trial, in some, and in none.

    Raises UsageFault where nobody has several trials.
    """
    rows = [row for row in board.rows if row.repeats is not None]
    if not rows:
        raise UsageFault(f"nobody has several trials of {board.suite}; 'dryquarry run --trials 5' asks for them")
    trials = min(row.repeats.trials for row in rows if row.repeats)
    said = [
        board_said(board, caption),
        f"of {figures.plural(trials, 'trial')} of a question: dark, all passed; hatched, some; light, none",
    ]
    with drawing(path, caption, _AROUND + 0.42 * max(3, len(rows)), said) as axes:
        for place, row in enumerate(rows):
            _bar(axes, row, place)
        axes.set_ylim(max(3, len(rows)) - 0.5, -0.5)
        plain(axes)
        shares_across(axes)
        axes.set_yticks(range(len(rows)), [caption.name(row.title) for row in rows], fontsize=10)


def _bar(axes: Axes, row: BoardRow, place: int) -> None:
    assert row.repeats is not None
    every, once = row.repeats.every, row.repeats.once
    axes.barh(place, every, height=0.62, color=TIDE, edgecolor=TIDE)
    axes.barh(place, once - every, left=every, height=0.62, color="white", edgecolor=TIDE, hatch="////", linewidth=1)
    axes.barh(place, 1 - once, left=once, height=0.62, color="white", edgecolor=LINE, linewidth=1)
    text = f"{figures.percent(every, 0)} every, {figures.percent(once, 0)} once"
    beside(axes, text, place)
