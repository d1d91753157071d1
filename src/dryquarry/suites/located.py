"""What was read from a file: plain data, and the line on which each part of it stands."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from dryquarry.errors import Fault

Path = tuple[str | int, ...]


@dataclass(frozen=True, slots=True)
class Document:
    """Plain data, and the line on which the thing at a path (("questions", 2, "key")) stands."""

    data: Any
    lines: Mapping[Path, int]

    def line(self, *path: str | int) -> int | None:
        """Return the line at the path, or at its nearest parent that has one."""
        for length in range(len(path), -1, -1):
            line = self.lines.get(path[:length])
            if line is not None:
                return line
        return None

    def line_of(self, *prefix: str | int) -> Callable[..., int | None]:
        """Return the function that gives the lines of what stands below the prefix."""
        return lambda *path: self.line(*prefix, *path)


class UnreadableText(ValueError):
    """The content is not UTF-8, or not written as it should be; `fault` says what and where."""

    def __init__(self, fault: Fault):
        super().__init__(str(fault))
        self.fault = fault


def decoded(content: bytes, file: str) -> str:
    """Return the text of a file's bytes without byte-order mark; raises UnreadableText when not UTF-8."""
    try:
        text = content.decode("utf-8-sig")
    except UnicodeDecodeError as error:
        line = content[: error.start].count(b"\n") + 1
        message = f"not a text in UTF-8 (byte 0x{content[error.start]:02x} at position {error.start})"
        raise UnreadableText(Fault("unreadable", message, file, line)) from None
    return text.replace("\r\n", "\n")
