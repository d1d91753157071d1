"""A person's decision on a reply: the verdict and score that points, or a plain pass or fail, come to."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dryquarry.marking.model import SAME_SCORE, Marking, Verdict
from dryquarry.marking.registry import rubric_part
from dryquarry.marking.rubrics import Criterion
from dryquarry.marking.schemes.hand import pass_mark as hand_pass_mark
from dryquarry.marking.schemes.rubric import pass_mark


class NoDecision(ValueError):
    """What a person gave is no decision on this question; the message says what is amiss."""


@dataclass(frozen=True, slots=True)
class Decided:
    """A verdict and a score in [0, 1], with the points by criterion where a rubric was marked by."""

    verdict: Verdict
    score: float | None
    points: Mapping[str, float] | None = None


def criteria_of(marking: Marking) -> tuple[Criterion, ...]:
    """Return what a person gives points for: a rubric's criteria, the points of `hand`, or nothing."""
    part = rubric_part(marking)
    if part is not None and part.rubric is not None:
        return part.rubric.criteria
    if marking.scheme == "hand" and marking.options.get("out_of", 1) != 1:
        return (Criterion("points", "What is it worth?", float(marking.options["out_of"])),)
    return ()


def decided(marking: Marking, setting: str | None, points: Mapping[str, float] | None) -> Decided:
    """Return what a person's points, or `pass`, `fail` or `void`, come to; raises NoDecision.

    Points are on each criterion's own scale. A plain pass of a question with criteria gives them all, a plain fail
    none.
    """
    criteria = criteria_of(marking)
    if setting == "void":
        return Decided(Verdict.VOID, None)
    if points is None and criteria and setting in ("pass", "fail"):
        points = {one.id: one.most if setting == "pass" else 0.0 for one in criteria}
    if points is None:
        if setting not in ("pass", "fail"):
            raise NoDecision(f"a decision is pass, fail, void{' or points' if criteria else ''}, not {setting!r}")
        return Decided(Verdict(setting), float(setting == "pass"))
    return _from_points(marking, criteria, points)


def _from_points(marking: Marking, criteria: tuple[Criterion, ...], points: Mapping[str, float]) -> Decided:
    known = {one.id: one for one in criteria}
    if not known:
        raise NoDecision("this question has no criteria to give points for; decide pass or fail")
    for name, value in points.items():
        if name not in known:
            raise NoDecision(f"there is no criterion '{name}'; there are {', '.join(known)}")
        most = known[name].most
        if isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value <= most:
            raise NoDecision(f"the points for '{name}' go from 0 to {most:g}, not {value!r}")
        if known[name].whole and not float(value).is_integer():
            raise NoDecision(f"the points for '{name}' are whole numbers, not {value!r}")
    missing = [name for name in known if name not in points]
    if missing:
        raise NoDecision(f"there are no points for '{missing[0]}'")
    earned = {name: one.earned(points[name]) for name, one in known.items()}
    vetoed = any(one.veto and earned[one.id] <= 0 for one in criteria)
    score = 0.0 if vetoed else sum(earned.values()) / sum(one.points for one in criteria)
    part = rubric_part(marking)
    at = pass_mark(part) if part is not None else hand_pass_mark(marking)
    verdict = Verdict.PASS if score >= at - SAME_SCORE and not vetoed else Verdict.FAIL
    return Decided(verdict, score, dict(points))
