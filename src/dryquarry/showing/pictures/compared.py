"""Two entrants compared, in all and by category; one entrant over editions and time."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

from dryquarry.showing import figures
from dryquarry.showing.pictures.frame import (
    GREY,
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
from dryquarry.standing.history import History
from dryquarry.standing.intervals import LEVEL
from dryquarry.standing.versus import Part, Versus

if TYPE_CHECKING:
    from matplotlib.axes import Axes

_ROW, _AROUND = 0.5, 1.0
_SHAPES = "osD^vP*X"


def draw_versus(found: Versus, path: Path, caption: Caption) -> None:
    """Write the differences with their 95 % intervals, in all and by category; raises FileFault."""
    parts = [found.whole, *found.parts]
    who = f"{caption.name(found.titles[0])} less {caption.name(found.titles[1])}"
    said = [
        said_of(found.suite, found.edition, found.whole.comparison.questions, found.trials, caption.day),
        f"{who}, in points, with 95 % intervals; beside: questions won, tied, lost",
    ]
    ends = [abs(end or 0.0) for part in parts for end in (part.comparison.interval.low, part.comparison.interval.high)]
    reach = min(1.0, max(0.1, *ends) * 1.05)
    with drawing(path, caption, _AROUND + _ROW * max(3, len(parts)), said) as axes:
        if found.margin:
            axes.axvspan(-found.margin, found.margin, color=SAND, zorder=0, linewidth=0)
        axes.axvline(0, color=INK, linewidth=1.2)
        for place, part in enumerate(parts):
            _draw_part(axes, part, place)
            got = part.comparison
            text = f"{got.wins} / {got.ties} / {got.losses}" + ("  told apart" if part.p_value < LEVEL else "")
            beside(axes, text, place, x=reach)
        axes.set_ylim(max(3, len(parts)) - 0.5, -0.5)
        axes.set_xlim(-reach, reach)
        plain(axes)
        axes.set_yticks(range(len(parts)), [part.category or "all" for part in parts], fontsize=10)
        axes.locator_params(axis="x", nbins=4 if caption.narrow else 9)
        axes.set_xticks(axes.get_xticks(), [_points(tick) for tick in axes.get_xticks()])
        axes.set_xlim(-reach, reach)
        for text, side in ((f"{found.second} better", "left"), (f"{found.first} better", "right")):
            axes.text(
                0.01 if side == "left" else 0.99,
                0.0,
                text,
                transform=axes.transAxes,
                ha=side,
                va="bottom",
                fontsize=8.5,
                color=GREY,
            )


def _draw_part(axes: Axes, part: Part, place: int) -> None:
    got = part.comparison
    colour = TIDE if got.difference >= 0 else RUST
    axes.plot([got.interval.low or 0.0, got.interval.high or 0.0], [place, place], color=colour, linewidth=3, alpha=0.5)
    axes.plot(
        [got.difference],
        [place],
        marker="o" if got.difference >= 0 else "D",
        markersize=9,
        color=colour,
        markerfacecolor=colour if part.p_value < LEVEL else "white",
        clip_on=False,
    )


def _points(share: float) -> str:
    """Return a difference on the axis in whole points, with its sign."""
    return f"{share * 100:+.0f}".replace("-", "−") if abs(share) > 1e-9 else "0"


def draw_history(found: History, path: Path, caption: Caption) -> None:
    """Write an entrant's scores over editions and time, with their intervals; raises FileFault.

    A shape is a set of settings. Filled are states that are told apart from the one before, on what both share.
    """
    shapes = {
        digest: _SHAPES[place % len(_SHAPES)]
        for place, digest in enumerate(dict.fromkeys(row.digest for row in found.rows))
    }
    asked = figures.plural(max(row.questions for row in found.rows), "question")
    trials = max(row.trials for row in found.rows)
    said = [
        f"{found.suite}, all editions, up to {asked}, {figures.plural(trials, 'trial')}, {caption.day}",
        "score with its 95 % interval; another shape, other settings; filled: changed beyond luck on shared questions",
    ]
    with drawing(path, caption, _AROUND + 0.5 * max(3, len(found.rows)), said) as axes:
        for place, row in enumerate(found.rows):
            if row.score is None:
                continue
            changed = row.change is not None and not row.same_replies and row.change.p_value < LEVEL
            if row.interval.low is not None and row.interval.high is not None:
                axes.plot([row.interval.low, row.interval.high], [place, place], color=TIDE, linewidth=3, alpha=0.5)
            axes.plot(
                [row.score],
                [place],
                marker=shapes[row.digest],
                markersize=9,
                color=TIDE,
                markerfacecolor=TIDE if changed else "white",
                clip_on=False,
            )
            beside(axes, f"{figures.percent(row.score)}, {row.had} of {row.questions}", place)
        axes.set_ylim(max(3, len(found.rows)) - 0.5, -0.5)
        plain(axes)
        shares_across(axes)
        labels = [f"edition {row.edition}, {row.last[:10]}, {row.digest[:6]}" for row in found.rows]
        axes.set_yticks(range(len(found.rows)), labels, fontsize=9)
