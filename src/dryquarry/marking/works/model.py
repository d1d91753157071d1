"""A work taken out of a reply, and why there is none."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class WorkFile:
    """One file of a work; `start` and `end` are the stretch of the reply that it was taken from."""

    path: str
    text: str
    start: int
    end: int


@dataclass(frozen=True, slots=True)
class Work:
    """What a reply made, of one language; `main` is the path of the file that is run or shown.

    `how` says in words how it was found: "the second of 2 versions", "without a fence".
    """

    language: str
    main: str
    files: tuple[WorkFile, ...]
    how: str = ""

    @property
    def start(self) -> int:
        """Where in the reply the work begins."""
        return min(one.start for one in self.files)

    @property
    def end(self) -> int:
        """Where in the reply the work ends."""
        return max(one.end for one in self.files)

    @property
    def text(self) -> str:
        """The text of the main file."""
        return next(one.text for one in self.files if one.path == self.main)


@dataclass(frozen=True, slots=True)
class NoWork:
    """There is no work in a reply; `reason` says why, in words for a person."""

    reason: str
    start: int | None = None
