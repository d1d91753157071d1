"""Scheme `hand`: a person marks; until then the mark stays open."""

from __future__ import annotations

from dataclasses import dataclass

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, Verdict
from dryquarry.marking.options import option_types, options_of


@dataclass(frozen=True, slots=True)
class HandOptions:
    """`out_of` is how many points a person can give."""

    out_of: float = 1


def prepare(marking: Marking) -> Marker:
    """Return the marker that leaves every reply to a person; raises MarkingFault when `out_of` is not positive."""
    out_of = options_of(HandOptions, marking).out_of
    if not 0 < out_of < float("inf"):
        raise MarkingFault(f"option 'out_of' of scheme 'hand' must be more than 0, not {out_of!r}")

    def mark(text: str) -> Mark:
        points = "" if out_of == 1 else f", out of {out_of:g} points"
        return Mark(None, Verdict.OPEN, f"waits for a person{points}")

    return mark


SCHEME = Scheme(name="hand", options=option_types(HandOptions), prepare=prepare, reads_whole=True)
