"""One picture of what all entrants made of a question, side by side, each named and with its mark."""

from __future__ import annotations

import io
from collections.abc import Sequence
from functools import lru_cache
from typing import TYPE_CHECKING

from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.values.texts import shortened
from dryquarry.showing import figures
from dryquarry.showing.pictures.frame import GREY, INK, LINE, RUST, TIDE
from dryquarry.workspace.gallery import Made, Shelf

if TYPE_CHECKING:
    from PIL.Image import Image
    from PIL.ImageDraw import ImageDraw
    from PIL.ImageFont import FreeTypeFont

WIDTH, MARGIN, GAP = 1280, 32, 24
PAPER = "#ffffff"
TALLEST = 460
LABEL_HEIGHT = 96
MOST_REASON_LINES = 2
MOST_ACROSS = 4
SIGNS = {Verdict.PASS: "■ pass", Verdict.FAIL: "□ fail", Verdict.OPEN: "? open", Verdict.VOID: "/ void"}


def contact_sheet(shelf: Shelf) -> bytes | None:
    """Return the sheet as a PNG, or None where no reply to the question has a picture."""
    from PIL import Image, ImageDraw

    if not any(one.shown for one in shelf.made):
        return None
    across = -(-len(shelf.made) // -(-len(shelf.made) // MOST_ACROSS))  # as many in each row, as far as it goes
    wide = (WIDTH - 2 * MARGIN - (across - 1) * GAP) // across
    pictures = [_thumb(one, wide) for one in shelf.made]
    rows = [range(first, min(first + across, len(pictures))) for first in range(0, len(pictures), across)]
    heights = [max((pictures[place].height for place in row if pictures[place]), default=80) for row in rows]  # type: ignore[union-attr]
    head = 92
    sheet = Image.new("RGB", (WIDTH, head + sum(one + LABEL_HEIGHT + GAP for one in heights) + MARGIN // 2), PAPER)
    drawing = ImageDraw.Draw(sheet)
    drawing.text((MARGIN, 24), f"{shelf.suite.name} · {shelf.question.id}", font=_font(26, bold=True), fill=INK)
    drawing.text((MARGIN, 60), _asked(shelf), font=_font(15), fill=GREY)
    top = head
    for row, height in zip(rows, heights, strict=True):
        for column, place in enumerate(row):
            left = MARGIN + column * (wide + GAP)
            _put(sheet, drawing, shelf.made[place], pictures[place], (left, top, wide, height))
        top += height + LABEL_HEIGHT + GAP
    content = io.BytesIO()
    sheet.save(content, "PNG", optimize=True)
    return content.getvalue()


def _asked(shelf: Shelf) -> str:
    return shortened(" ".join(shelf.question.text.split()), 150)


def _thumb(made: Made, wide: int) -> Image | None:
    from PIL import Image

    if made.shown is None:
        return None
    image = Image.open(io.BytesIO(made.shown.png)).convert("RGB")
    scale = min(wide / image.width, TALLEST / image.height, 2.0)
    return image.resize(
        (max(1, round(image.width * scale)), max(1, round(image.height * scale))), Image.Resampling.LANCZOS
    )


def _put(sheet: Image, drawing: ImageDraw, made: Made, picture: Image | None, place: tuple[int, int, int, int]) -> None:
    """Put one entrant's picture into its place, with name, mark and reason below it."""
    left, top, wide, height = place
    if picture is not None:
        sheet.paste(picture, (left, top))
        drawing.rectangle((left, top, left + picture.width - 1, top + picture.height - 1), outline=LINE)
    else:
        drawing.rectangle((left, top, left + wide - 1, top + height - 1), outline=LINE)
        drawing.text((left + 16, top + 16), "no picture", font=_font(15), fill=GREY)
    mark = made.view.mark
    below = top + height + 8
    trial = made.view.reply.held.trial
    name = made.view.entrant.title + (f", trial {trial}" if trial > 1 else "")
    drawing.text((left, below), _fitted(name, wide, _font(17, bold=True)), font=_font(17, bold=True), fill=INK)
    drawing.text((left, below + 23), verdict_sign(mark), font=_font(15), fill=_colour(mark))
    reason = mark.reason if mark is not None else ""
    for number, line in enumerate(_wrapped(figures.visible(reason), wide, _font(13))):
        drawing.text((left, below + 43 + 17 * number), line, font=_font(13), fill=GREY)


def verdict_sign(mark: Mark | None) -> str:
    """Return a mark in a sign and a word, with its score where that is a part."""
    if mark is None:
        return "· no mark"
    part = f" {figures.percent(mark.score, 0)}" if mark.score not in (None, 0.0, 1.0) else ""
    return ("◧ part" if part else SIGNS[mark.verdict]) + part


def _colour(mark: Mark | None) -> str:
    if mark is None or mark.verdict in (Verdict.OPEN, Verdict.VOID):
        return GREY
    return TIDE if mark.verdict is Verdict.PASS else RUST


def _fitted(text: str, wide: int, font: FreeTypeFont) -> str:
    """Return as much of a text as there is room for."""
    if font.getlength(text) <= wide:
        return text
    while text and font.getlength(text + "…") > wide:
        text = text[:-1]
    return text + "…"


def _wrapped(text: str, wide: int, font: FreeTypeFont) -> list[str]:
    """Return a text in as many lines as there is room for."""
    lines, line = [], ""
    for word in text.split():
        if line and font.getlength(f"{line} {word}") > wide:
            lines.append(line)
            line = word
        else:
            line = f"{line} {word}".strip()
    lines.append(line)
    kept = lines[:MOST_REASON_LINES]
    if len(lines) > len(kept):
        kept[-1] += " …"
    return [_fitted(one, wide, font) for one in kept]


@lru_cache
def _font(size: int, *, bold: bool = False) -> FreeTypeFont:
    import matplotlib
    from PIL import ImageFont

    name = "DejaVuSans-Bold.ttf" if bold else "DejaVuSans.ttf"
    return ImageFont.truetype(f"{matplotlib.get_data_path()}/fonts/ttf/{name}", size)


def sheets_of(shelves: Sequence[Shelf]) -> dict[str, bytes]:
    """Return the contact sheet of each question that has one, by the question's id."""
    found = ((shelf.question.id, contact_sheet(shelf)) for shelf in shelves)
    return {name: sheet for name, sheet in found if sheet is not None}
