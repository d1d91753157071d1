"""A terminal of a given size, by pyte, with a program of a reply in it."""

from __future__ import annotations

import fcntl
import io
import os
import struct
import termios
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import lru_cache
from typing import TYPE_CHECKING, Any

from dryquarry.marking.works.jobs import Screen, Step
from dryquarry.marking.works.results import Ended
from dryquarry.sandbox.box import Box
from dryquarry.sandbox.programs import Ready
from dryquarry.sandbox.running import Running

if TYPE_CHECKING:
    from PIL.ImageFont import FreeTypeFont

MOST_BYTES = 4_000_000
FONT_SIZE = 16
F_CODES = (11, 12, 13, 14, 15, 17, 18, 19, 20, 21, 23, 24)
PRESSED = {
    "Enter": b"\r", "Escape": b"\x1b", "Tab": b"\t", "Space": b" ", "Backspace": b"\x7f", "Delete": b"\x1b[3~",
    "Up": b"\x1b[A", "Down": b"\x1b[B", "Right": b"\x1b[C", "Left": b"\x1b[D", "Home": b"\x1b[1~", "End": b"\x1b[4~",
    "PageUp": b"\x1b[5~", "PageDown": b"\x1b[6~",
    **{f"Ctrl-{letter}": bytes([ord(letter) - 64]) for letter in "ABCDEFGHIJKLMNOPQRSTUVWXYZ"},
    **{f"F{number}": f"\x1b[{code}~".encode() for number, code in enumerate(F_CODES, start=1)},
}  # fmt: skip
# Colours as most terminals have them, a little softer.
COLOURS = {
    "black": "#16181c", "red": "#c4453d", "green": "#3f8f4f", "brown": "#b5892b", "blue": "#3465a4",
    "magenta": "#8a4f8f",
    "cyan": "#2b8a8a", "white": "#d6d6d0", "brightblack": "#6b6f76", "brightred": "#e5655c", "brightgreen": "#63b573",
    "brightbrown": "#d9b04c", "brightblue": "#6b9bd2", "brightmagenta": "#b27ab6", "brightcyan": "#57b5b5",
    "brightwhite": "#f5f5f0",
}  # fmt: skip
INK, PAPER = "#e6e6e0", "#16181c"


@contextmanager
def in_terminal(box: Box, ready: Ready, screen: Screen) -> Iterator[Terminal]:
    """Give a terminal with the program in it."""
    columns, lines = screen.size
    ours, theirs = os.openpty()
    try:
        fcntl.ioctl(theirs, termios.TIOCSWINSZ, struct.pack("HHHH", lines, columns, 0, 0))
        command = (*ready.command, *screen.arguments)
        with box.started(ready.start(command, {}, terminal=theirs, environment={"TERM": "linux"})) as process:
            os.close(theirs)
            theirs = -1
            running = Running(box, process, ready.job.limits)
            try:
                yield Terminal(running, ours, columns, lines)
            finally:
                running.end(Ended.DONE)
                running.close()
    finally:
        os.close(ours)
        if theirs >= 0:
            os.close(theirs)


class Terminal:
    """A terminal: what was written so far, as a screen."""

    def __init__(self, running: Running, ours: int, columns: int, lines: int):
        import pyte

        self.running = running
        self.ours = ours
        self.screen = pyte.Screen(columns, lines)
        self.stream = pyte.ByteStream(self.screen)
        self.written = running.take_in(ours, MOST_BYTES)
        self.fed = 0

    @property
    def over(self) -> Ended | None:
        """How the program ended, None while it goes on."""
        if self.running.exit_code is None:
            return None
        return self.running.ended or (Ended.CRASHED if self.running.crashed else Ended.DONE)

    @property
    def memory_mb(self) -> float:
        """The most memory that the program had."""
        return self.running.memory_mb

    def do(self, step: Step) -> None:
        """Type letters or press a key."""
        content = PRESSED[step.text] if step.act == "press" else step.text.encode("utf-8")
        os.write(self.ours, content)

    def wait(self, until: Callable[[], bool], seconds: float) -> bool:
        """Let the program go on until something is so, or so long."""
        end = time.monotonic() + seconds
        found = False

        def enough() -> bool:
            nonlocal found
            self._feed()
            found = until()
            return found or time.monotonic() >= end

        self.running.pump(enough, self.running.limits.seconds)
        self._feed()
        return found or until()

    def look(self) -> object:
        """Return what is on the screen, with its colours."""
        return tuple(
            tuple((cell.data, cell.fg, cell.bg, cell.reverse, cell.bold) for cell in self._line(number))
            for number in range(self.screen.lines)
        )

    def text(self) -> str:
        """Return the screen as text."""
        return "\n".join(line.rstrip() for line in self.screen.display).rstrip("\n")

    def picture(self) -> bytes:
        """Return the screen as a PNG."""
        from PIL import Image, ImageDraw

        font, (wide, high) = _font(), _cell()
        image = Image.new("RGB", (self.screen.columns * wide + 16, self.screen.lines * high + 16), PAPER)
        drawing = ImageDraw.Draw(image)
        for row in range(self.screen.lines):
            for column, cell in enumerate(self._line(row)):
                bright = f"bright{cell.fg}" if cell.bold and f"bright{cell.fg}" in COLOURS else cell.fg
                ink, paper = _colour(bright, INK), _colour(cell.bg, PAPER)
                ink, paper = (paper, ink) if cell.reverse else (ink, paper)
                left, top = 8 + column * wide, 8 + row * high
                if paper != PAPER:
                    drawing.rectangle((left, top, left + wide - 1, top + high - 1), fill=paper)
                if cell.data.strip():
                    drawing.text((left, top), cell.data, font=font, fill=ink)
        content = io.BytesIO()
        image.save(content, "PNG")
        return content.getvalue()

    def streams(self) -> tuple[str, str]:
        """Return nothing: all that it wrote is on the screen."""
        return "", ""

    def _line(self, number: int) -> list[Any]:
        line = self.screen.buffer[number]
        return [line[column] for column in range(self.screen.columns)]

    def _feed(self) -> None:
        new = bytes(self.written[self.fed :])
        self.fed = len(self.written)
        if new:
            try:
                self.stream.feed(new)
            except (ValueError, IndexError, TypeError, AttributeError, KeyError, OverflowError):
                self.running.end(Ended.OUTPUT)  # what no terminal reads


def _colour(name: str, normal: str) -> str:
    if name == "default":
        return normal
    return COLOURS.get(name, f"#{name}" if len(name) == 6 else normal)


@lru_cache
def _font() -> FreeTypeFont:
    import matplotlib
    from PIL import ImageFont

    return ImageFont.truetype(f"{matplotlib.get_data_path()}/fonts/ttf/DejaVuSansMono.ttf", FONT_SIZE)


def _cell() -> tuple[int, int]:
    """Return the width and height of a letter in pixels."""
    return round(_font().getlength("M")), FONT_SIZE + 4
