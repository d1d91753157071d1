"""What all pictures share: colours, sizes, the lines above, and writing them to a file."""

from __future__ import annotations

import textwrap
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import TYPE_CHECKING, Any

from dryquarry.errors import FileFault
from dryquarry.showing import figures

if TYPE_CHECKING:
    from matplotlib.axes import Axes

# Dark to light, so that grey print keeps them apart; what they mean is told by shapes and words as well.
INK, TIDE, RUST, SAND, GREY, LINE = "#1c2a30", "#1f5c6b", "#a8442f", "#f4ead7", "#7c8a90", "#dde3e5"
# Inches: for a page or a screen, and for a post read on a phone.
WIDE, NARROW = 8.4, 4.3
_DOTS, _DOTS_NARROW = 120, 240
LONGEST_NAME, LONGEST_NARROW_NAME = 34, 20


@dataclass(frozen=True, slots=True)
class Caption:
    """What stands above a picture: its `title`, and below it what it is of, and when (`day`) it was drawn.

    A `narrow` picture is for a phone's width.
    """

    title: str
    day: str
    narrow: bool = False

    @property
    def width(self) -> float:
        """The picture's width in inches."""
        return NARROW if self.narrow else WIDE

    def name(self, title: str) -> str:
        """Return a title, cut in the middle where it is long."""
        most = LONGEST_NARROW_NAME if self.narrow else LONGEST_NAME
        return title if len(title) <= most else f"{title[: most - 13]}…{title[-12:]}"


def said_of(suite: str, edition: str | None, questions: int, trials: int, day: str) -> str:
    """Return what a picture is of: suite, edition, questions, trials and date."""
    of = f"{suite}@{edition}" if edition else suite
    return f"{of}, {figures.plural(questions, 'question')}, {figures.plural(trials, 'trial')}, {day}"


@contextmanager
def drawing(
    path: Path, caption: Caption, height: float, said: Sequence[str], *, width: float | None = None
) -> Iterator[Axes]:
    """Give axes to draw on, so many inches high (and wide, if not as usual); writes the file at the end.

    Raises FileFault where it cannot be written.
    """
    import matplotlib

    matplotlib.use("Agg")
    matplotlib.rcParams["text.parse_math"] = False  # a name with dollar signs is a name
    matplotlib.rcParams["svg.fonttype"] = "none"
    matplotlib.rcParams["svg.hashsalt"] = "dryquarry"  # the same picture has the same bytes
    from matplotlib import pyplot

    figure, axes = pyplot.subplots(figsize=(width or caption.width, height))
    try:
        yield axes
        if width is None:
            _fit(axes, caption.width)
        _head(axes, caption, said)
        dots = _DOTS_NARROW if caption.narrow else _DOTS
        same: dict[str, Any] = {"metadata": {"Date": None}} if path.suffix.casefold() == ".svg" else {}
        figure.savefig(path, dpi=dots, bbox_inches="tight", facecolor="white", pad_inches=0.15, **same)
    except (OSError, ValueError) as error:
        raise FileFault(f"the picture {path} cannot be written: {error}") from None
    finally:
        pyplot.close(figure)


def _fit(axes: Axes, width: float) -> None:
    """Narrow the axes so that they and all that stands beside them take so many inches; a third of it they keep."""
    figure = axes.get_figure()
    assert figure is not None
    renderer = figure.canvas.get_renderer()  # type: ignore[attr-defined]
    box, inner = axes.get_tightbbox(renderer), axes.get_window_extent(renderer)
    if box is None:
        return
    left, right = max(0.0, inner.x0 - box.x0) / figure.dpi, max(0.0, box.x1 - inner.x1) / figure.dpi
    kept = max(width / 3, width - left - right)
    place = axes.get_position()
    axes.set_position((left / width, place.y0, kept / width, place.height))


def _head(axes: Axes, caption: Caption, said: Sequence[str]) -> None:
    """Write the title and what the picture is of above it, in lines that fit its width."""
    most = 54 if caption.narrow else 110
    lines = [line for one in said for line in textwrap.wrap(one, most)]
    title = "\n".join(textwrap.wrap(caption.title, 34 if caption.narrow else 70)) or caption.title
    left, top = _room(axes)
    small: dict[str, Any] = {
        "textcoords": "offset points",
        "ha": "left",
        "va": "bottom",
        "color": INK,
        "annotation_clip": False,
    }
    above = 10 + top
    axes.annotate(
        "\n".join(lines), (left, 1), xycoords="axes fraction", xytext=(0, above), fontsize=9, linespacing=1.4, **small
    )
    above += 13.5 * len(lines) + 5
    axes.annotate(title, (left, 1), xycoords="axes fraction", xytext=(0, above), fontsize=13, weight="bold", **small)


def _room(axes: Axes) -> tuple[float, float]:
    """Return where labels begin to the left, in widths of the axes, and how far they reach above, in points."""
    figure = axes.get_figure()
    assert figure is not None
    renderer = figure.canvas.get_renderer()  # type: ignore[attr-defined]
    box, inner = axes.get_tightbbox(renderer), axes.get_window_extent(renderer)
    if box is None:
        return 0.0, 0.0
    return min(0.0, (box.x0 - inner.x0) / inner.width), max(0.0, (box.y1 - inner.y1) * 72 / figure.dpi)


def beside(axes: Axes, text: str, y: float, *, x: float = 1.0, size: float = 9, bold: bool = False) -> None:
    """Write a text to the right of the axes, whose right end is `x`, at the height of a row."""
    axes.annotate(
        text,
        (x, y),
        xytext=(9, 0),
        textcoords="offset points",
        ha="left",
        va="center",
        fontsize=size,
        color=INK,
        weight="bold" if bold else "normal",
        annotation_clip=False,
    )


def plain(axes: Axes, *, grid: str = "x") -> None:
    """Take away the frame and the ticks; leave a light grid."""
    if grid:
        axes.grid(axis=grid, color=LINE, linewidth=0.8)  # type: ignore[arg-type]
        axes.set_axisbelow(True)
    axes.tick_params(length=0, labelsize=9, labelcolor=INK)
    for spine in axes.spines.values():
        spine.set_visible(False)


def shares_across(axes: Axes, beyond: float = 0.0) -> None:
    """Let the x axis be shares in per cent, with room `beyond` its ends."""
    axes.set_xlim(-beyond, 1 + beyond)
    axes.set_xticks([0, 0.25, 0.5, 0.75, 1], ["0", "25", "50", "75", "100 %"])
