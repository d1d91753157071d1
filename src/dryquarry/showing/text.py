"""Texts beside labels, and texts that somebody else wrote, in the width there is."""

from __future__ import annotations

import textwrap

from dryquarry.showing.figures import visible

PLAIN_WIDTH = 104
WIDEST = 140
LABEL = 10


def labelled(name: str, value: str, width: int | None) -> list[str]:
    """Return a value beside its name, broken at words; as wide as is good to read where the width is not known."""
    room = max(20, min(width or PLAIN_WIDTH, WIDEST) - LABEL - 2)
    wrapped = textwrap.wrap(visible(value), room) or [""]
    return [f"  {name:<{LABEL}}{wrapped[0]}", *(f"  {'':<{LABEL}}{line}" for line in wrapped[1:])]


def quoted(text: str, width: int | None, at: int | None = None) -> list[str]:
    """Return a text line by line behind a bar, the line `at` set off; longer ones are broken where a width is known.

    A line that goes on from the one above has a dot in place of the bar, so that what was written stays to be seen.
    """
    lines = []
    for number, line in enumerate(visible(text).split("\n")):
        sign = "▸" if number == at else "¦"
        room = None if width is None else max(20, min(width, WIDEST) - 4)
        parts = [line] if room is None or len(line) <= room else _broken(line, room)
        lines += [f"  {sign if not place else '·'} {part}".rstrip() for place, part in enumerate(parts)]
    return lines


def _broken(line: str, room: int) -> list[str]:
    indent = line[: len(line) - len(line.lstrip())][: room // 2]
    return textwrap.wrap(
        line, room, subsequent_indent=indent, drop_whitespace=True, break_on_hyphens=False, replace_whitespace=False
    ) or [""]
