"""Scheme `hand`: a person marks; until then the mark stays open."""

from __future__ import annotations

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, Verdict


def prepare(marking: Marking) -> Marker:
    """Return the marker that leaves every reply to a person; raises MarkingFault when `out_of` is not positive."""
    out_of = marking.options.get("out_of", 1)
    if not 0 < out_of < float("inf"):
        raise MarkingFault(f"option 'out_of' of scheme 'hand' must be more than 0, not {out_of!r}")

    def mark(text: str) -> Mark:
        points = "" if out_of == 1 else f", out of {out_of:g} points"
        return Mark(None, Verdict.OPEN, f"waits for a person{points}")

    return mark


SCHEME = Scheme(name="hand", options={"out_of": (int, float)}, prepare=prepare, reads_whole=True)
