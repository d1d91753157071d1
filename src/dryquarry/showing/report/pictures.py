"""The pictures of a report, drawn by the same code as `--picture`, as SVG."""

from __future__ import annotations

import tempfile
from collections.abc import Callable
from pathlib import Path

from dryquarry.showing.pictures.board import draw_board
from dryquarry.showing.pictures.frame import Caption
from dryquarry.showing.pictures.items import draw_items
from dryquarry.showing.pictures.shares import draw_categories, draw_trials
from dryquarry.showing.pictures.tradeoff import draw_tradeoff
from dryquarry.standing.board_model import Board
from dryquarry.standing.items import ItemTable

Draw = Callable[[Path, Caption], None]


def pictures_of(board: Board) -> dict[str, tuple[str, Draw]]:
    """Return what is drawn of a board, by name: what each shows, and how it is drawn."""
    rows = [row for row in board.rows if row.score is not None]
    found: dict[str, tuple[str, Draw]] = {}
    if rows:
        found["board"] = ("Scores with their intervals, in bands", lambda path, above: draw_board(board, path, above))
    if len(rows) > 1 and len({name for row in rows for name in row.categories}) > 1:
        found["categories"] = (
            "Scores by category",
            lambda path, above: draw_categories(board, path, above),
        )
    finished = [row for row in rows if row.unfinished is None]
    if len(finished) > 1 and any(row.cost for row in finished):
        found["cost"] = ("Scores against cost", lambda path, above: draw_tradeoff(board, "cost", path, above))
    if len(finished) > 1 and any(row.median_s for row in finished):
        found["seconds"] = ("Scores against seconds", lambda path, above: draw_tradeoff(board, "seconds", path, above))
    if any(row.repeats for row in rows):
        found["trials"] = ("How trials differ", lambda path, above: draw_trials(board, path, above))
    return found


def items_picture(table: ItemTable) -> Draw:
    """Return how the picture of a suite's questions is drawn."""
    return lambda path, above: draw_items(table, path, above)


def drawn(draw: Draw, title: str, day: str) -> bytes:
    """Return a picture as SVG."""
    with tempfile.TemporaryDirectory(prefix="dryquarry-") as folder:
        path = Path(folder, "picture.svg")
        draw(path, Caption(title, day))
        return path.read_bytes()
