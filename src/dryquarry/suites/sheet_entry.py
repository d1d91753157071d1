"""One place of a sheet: what to ask whom, and the reply that came back."""

from __future__ import annotations

from dataclasses import dataclass


@dataclass(frozen=True, slots=True)
class SheetEntry:
    """One reply to be had by hand, or had: `text` is what to ask, `reply` what came back, empty if nothing did."""

    suite: str
    edition: str
    entrant: str
    question: str
    trial: int
    ask_digest: str
    text: str = ""
    reply: str = ""
