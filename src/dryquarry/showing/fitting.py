"""Fitting a table into the width of a terminal: which columns are shown, and how wide each is.

Headings are broken before anything is lost; then texts are broken and names cut in the middle, down to the least
width of their column; then whole columns give way, in the order that the table states. Figures are never cut.
"""

from __future__ import annotations

from collections.abc import Collection, Sequence
from dataclasses import dataclass

from rich.cells import cell_len, set_cell_size

ROOMY, NARROW = 3, 2
LEAST_NAME = 10
LEAST_TEXT = 20
CUT = "…"


@dataclass(frozen=True, slots=True)
class Extent:
    """How much room a column wants: its `heading` and `cells` with the most, its `least`, and when it is dropped.

    A column of `drop` 0 is never dropped; of the others the one with the lowest number first. `wraps` says that its
    cells are broken into lines and not cut, `named` that its heading is a name, which is cut, above cells that are not.
    """

    heading: str
    cells: int
    least: int
    drop: int = 0
    wraps: bool = False
    named: bool = False

    @property
    def content(self) -> int:
        """The width at which only the heading is broken."""
        return max(self.cells, self._longest_word, 1)

    @property
    def natural(self) -> int:
        """The width at which nothing is broken."""
        return max(self.cells, cell_len(self.heading), 1)

    @property
    def smallest(self) -> int:
        """The width below which the column is better dropped."""
        if self.named:
            return min(self.content, max(self.least, self.cells, 1))
        return min(self.content, max(self.least, self._longest_word, 1))

    @property
    def _longest_word(self) -> int:
        return max((cell_len(word) for word in self.heading.split()), default=1)


@dataclass(frozen=True, slots=True)
class Fitted:
    """The numbers of the columns that are shown with their widths, and the gap between two."""

    shown: tuple[int, ...]
    widths: tuple[int, ...]
    gap: int


def fitted(
    extents: Sequence[Extent], width: int | None, kept: Collection[str] = (), *, all_of_it: bool = False
) -> Fitted:
    """Return how columns fit into a width (None: any); those named in `kept` are not dropped, nor any with all_of_it.

    Where even the columns that stay want more, the lines are longer than the terminal: a figure is never cut.
    """
    shown = list(range(len(extents)))
    natural = [extents[place].natural for place in shown]
    if width is None or all_of_it or _total(natural, ROOMY) <= width:
        return Fitted(tuple(shown), tuple(natural), ROOMY)
    droppable = sorted(
        (place for place in shown if extents[place].drop and extents[place].heading not in kept),
        key=lambda place: extents[place].drop,
    )
    while droppable and _total([extents[place].smallest for place in shown], NARROW) > width:
        shown.remove(droppable.pop(0))
    here = [extents[place] for place in shown]
    widths = [one.smallest for one in here]
    left = width - _total(widths, NARROW)
    left = _grown(widths, [one.smallest if one.wraps else one.content for one in here], left)
    left = _grown(widths, [one.content for one in here], left)
    _grown(widths, [one.natural for one in here], left)
    return Fitted(tuple(shown), tuple(widths), NARROW)


def cut_in_the_middle(text: str, width: int) -> str:
    """Return a text of one line with its middle left out where it is too wide."""
    if cell_len(text) <= width:
        return text
    if width < 3:
        return set_cell_size(text, width)
    head = (width - 1 + 1) // 2
    tail = width - 1 - head
    end = len(text)
    while end > 0 and cell_len(text[end - 1 :]) <= tail:
        end -= 1
    return set_cell_size(text, head).rstrip() + CUT + text[end:]


def _total(widths: Sequence[int], gap: int) -> int:
    return sum(widths) + gap * max(0, len(widths) - 1)


def _grown(widths: list[int], wanted: Sequence[int], left: int) -> int:
    """Widen columns up to what they want, the narrowest first, so that none takes all; return what is left."""
    while left > 0:
        lacking = [place for place, width in enumerate(widths) if width < wanted[place]]
        if not lacking:
            break
        widths[min(lacking, key=lambda place: widths[place])] += 1
        left -= 1
    return left
