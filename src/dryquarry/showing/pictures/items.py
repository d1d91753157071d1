"""What questions are worth: difficulty against discrimination."""

from __future__ import annotations

from collections import Counter
from pathlib import Path
from typing import TYPE_CHECKING

from dryquarry.showing.pictures.frame import GREY, INK, RUST, TIDE, Caption, drawing, plain, said_of, shares_across
from dryquarry.standing.items import ItemTable, Worth

if TYPE_CHECKING:
    from matplotlib.axes import Axes
    from matplotlib.transforms import Bbox

_SHAPES = {
    Worth.SUSPECT_KEY: "X",
    Worth.AMBIGUOUS: "P",
    Worth.NEGATIVE: "v",
    Worth.NOISY: "s",
    Worth.SATURATED: "^",
    Worth.OUT_OF_REACH: "v",
    None: "o",
}
MOST_NAMED = 10
# Where questions stand that have no discrimination, as all entrants came out alike.
_NONE = -1.28


def draw_items(table: ItemTable, path: Path, caption: Caption) -> None:
    """Write the questions by share passed and discrimination; what is amiss with some has a shape and their names."""
    said = [
        said_of(table.suite, table.edition, len(table.rows), table.trials, caption.day)
        + f", {table.entrants} entrants",
        "across: share passed; up: item-rest correlation; larger: several questions; below: all came out alike",
    ]
    spots: dict[tuple[float, float, Worth | None], list[str]] = {}
    for row in table.rows:
        if row.mean is not None:
            up = _NONE if row.discrimination is None else row.discrimination
            spots.setdefault((round(row.mean, 2), round(up, 1), row.worth), []).append(row.question)
    with drawing(path, caption, 5.2, said) as axes:
        for (x, y, worth), names in spots.items():
            bad = worth in (Worth.SUSPECT_KEY, Worth.AMBIGUOUS, Worth.NEGATIVE, Worth.NOISY)
            axes.plot(
                [x],
                [y],
                marker=_SHAPES[worth],
                markersize=6 + 2.2 * len(names) ** 0.5,
                color=RUST if bad else TIDE,
                markerfacecolor=RUST if bad else TIDE if worth else "white",
                linestyle="none",
                alpha=0.9,
            )
        axes.axhline(0, color=GREY, linewidth=0.8)
        plain(axes, grid="both")
        shares_across(axes, beyond=0.06)
        axes.set_ylim(-1.55, 1.15)
        axes.set_yticks([_NONE, -1, -0.5, 0, 0.5, 1], ["none", "−1", "−0.5", "0", "0.5", "1"])
        _names(axes, spots)
        _legend(axes, spots)


def _names(axes: Axes, spots: dict[tuple[float, float, Worth | None], list[str]]) -> None:
    """Name the questions that something is amiss with, where there is room."""
    figure = axes.get_figure()
    assert figure is not None
    renderer = figure.canvas.get_renderer()  # type: ignore[attr-defined]
    taken: list[Bbox] = []
    gravest = list(Worth)
    for (x, y, worth), names in sorted(spots.items(), key=lambda one: gravest.index(one[0][2]) if one[0][2] else 99):
        # the table names them all; here too many would hide the rest
        if worth is None or (len(taken) >= MOST_NAMED and worth not in (Worth.SUSPECT_KEY, Worth.AMBIGUOUS)):
            continue
        text = ", ".join(names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")
        side = "left" if x < 0.6 else "right"
        for rise in (0, 12, -12, 24, -24, 36, 48):
            label = axes.annotate(
                text,
                (x, y),
                xytext=(11 if side == "left" else -11, rise),
                textcoords="offset points",
                ha=side,
                va="center",
                fontsize=8.5,
                color=INK,
            )
            box = label.get_window_extent(renderer)
            if not any(box.overlaps(other) for other in taken):
                taken.append(box)
                break
            label.remove()


def _legend(axes: Axes, spots: dict[tuple[float, float, Worth | None], list[str]]) -> None:
    from matplotlib.lines import Line2D

    counts: Counter[Worth | None] = Counter()
    for (_, _, worth), names in spots.items():
        counts[worth] += len(names)
    handles = [
        Line2D(
            [],
            [],
            linestyle="none",
            marker=_SHAPES[worth],
            color=RUST if worth in list(Worth)[:4] else TIDE,
            markerfacecolor="white" if worth is None else None,
            label=f"{worth or 'nothing amiss'}: {counts[worth]}",
        )
        for worth in [*Worth, None]
        if counts[worth]
    ]
    axes.legend(handles=handles, loc="upper center", bbox_to_anchor=(0.5, -0.07), ncols=3, frameon=False, fontsize=8.5)
