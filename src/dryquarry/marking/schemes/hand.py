"""Scheme `hand`: a person marks; until then the mark stays open."""

from __future__ import annotations

from dataclasses import dataclass

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, Verdict, never
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.regexes import regex

_POINTS = regex(r"(?P<points>\d+(?:\.\d+)?|\.\d+)(?:\s*/\s*(?P<of>\d+(?:\.\d+)?))?")


@dataclass(frozen=True, slots=True)
class HandOptions:
    """`out_of` is how many points a person can give, `pass_at` the share of them that passes."""

    out_of: float = 1
    pass_at: float = 1


def prepare(marking: Marking) -> Marker:
    """Return the marker that leaves every reply to a person; raises MarkingFault when `out_of` is not positive."""
    options = options_of(HandOptions, marking)
    out_of = options.out_of
    if not 0 < out_of < float("inf"):
        raise MarkingFault(f"option 'out_of' of scheme 'hand' must be more than 0, not {out_of!r}")
    if not 0 < options.pass_at <= 1:
        raise MarkingFault(f"option 'pass_at' of scheme 'hand' is a share above 0 and up to 1, not {options.pass_at!r}")

    def mark(text: str) -> Mark:
        points = "" if out_of == 1 else f", out of {out_of:g} points"
        return Mark(None, Verdict.OPEN, f"waits for a person{points}")

    return mark


def points_given(setting: str, marking: Marking) -> tuple[float, str] | None:
    """Return the score that a person's points come to, and the points in words; None where they are none.

    Points are "4" or "4/5" of a question marked by hand out of 5; of any other question "0.8" or "4/5" of the score.
    """
    match = _POINTS.fullmatch(setting.strip())
    by_hand = marking.scheme == "hand"
    out_of = options_of(HandOptions, marking).out_of if by_hand else 1
    if match is None or (by_hand and match["of"] and float(match["of"]) != out_of):
        return None
    points, most = float(match["points"]), float(match["of"] or out_of)
    if not most > 0 or points > most:
        return None
    return points / most, f"{points:g} of {most:g} points" if most != 1 else ""


def pass_mark(marking: Marking) -> float:
    """Return the share of the score that passes when a person gives it."""
    return options_of(HandOptions, marking).pass_at if marking.scheme == "hand" else 1.0


SCHEME = Scheme(name="hand", options=option_types(HandOptions), prepare=prepare, reads_whole=True, has_answer=never)
