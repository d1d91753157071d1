"""What reaches the model from a suite."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class Attachment:
    """A file beside the suite that goes with a question; `sha256` is of its bytes, in hexadecimal."""

    path: str
    sha256: str
    media_type: str


@dataclass(frozen=True, slots=True)
class Ask:
    """What reaches the model from the suite: system text (or None), the user's turns, and files."""

    system: str | None
    turns: tuple[str, ...]
    files: tuple[Attachment, ...] = ()
