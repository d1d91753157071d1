"""The mark that a panel of judges comes to: the median per criterion, or open where a person has to decide.

What a judge claims without evidence in the reply does not count: no points for what it quotes wrongly, no loss for an
offence that it cannot show. Where that decides the verdict, and where judges are too far apart, the mark stays open.
"""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass
from statistics import median

from dryquarry.marking.judging.verdicts import Point
from dryquarry.marking.model import SAME_SCORE, Mark, Marking, Verdict
from dryquarry.marking.options import options_of
from dryquarry.marking.rubrics import Criterion, Rubric
from dryquarry.marking.schemes.rubric import RubricOptions, pass_mark


@dataclass(frozen=True, slots=True)
class Opinion:
    """What a judge said of a reply, the `time`-th time it was asked; without points, `problem` says why."""

    judge: str
    time: int
    points: tuple[Point, ...] | None
    problem: str | None = None

    @property
    def seat(self) -> str:
        """The judge's name, with the time where it was asked more than once."""
        return self.judge if self.time == 1 else f"{self.judge} ({self.time})"


@dataclass(frozen=True, slots=True)
class Tally:
    """A criterion's points in the middle of the panel: what counts, and what they are with all claims believed."""

    criterion: Criterion
    counted: float
    claimed: float
    unsupported: tuple[str, ...]
    why: str


def counted_points(criterion: Criterion, point: Point) -> float:
    """Return the points of one judge that count: a claim without evidence does not."""
    if point.supported:
        return point.points
    return criterion.points if criterion.absence and point.points < criterion.points else 0.0


def tallies(opinions: Sequence[Opinion], rubric: Rubric) -> tuple[Tally, ...]:
    """Return the median of the opinions for each criterion."""
    found = []
    for place, criterion in enumerate(rubric.criteria):
        given = [(one.seat, one.points[place]) for one in opinions if one.points is not None]
        counted = [counted_points(criterion, point) for _, point in given]
        middle = float(median(counted))
        nearest = min(range(len(given)), key=lambda number: abs(counted[number] - middle))
        claimed = float(median(point.points for _, point in given))
        unsupported = tuple(seat for seat, point in given if not point.supported)
        found.append(Tally(criterion, middle, claimed, unsupported, given[nearest][1].why))
    return tuple(found)


def share_of(opinion: Opinion, rubric: Rubric) -> float:
    """Return the share of all points that one opinion gives, as far as it counts; 0 where a veto falls."""
    assert opinion.points is not None
    pairs = list(zip(rubric.criteria, opinion.points, strict=True))
    counted = [(criterion, counted_points(criterion, point)) for criterion, point in pairs]
    if any(criterion.veto and points <= 0 for criterion, points in counted):
        return 0.0
    return sum(points for _, points in counted) / rubric.points


def settled(opinions: Sequence[Opinion], marking: Marking, steering: Sequence[str] = ()) -> Mark:
    """Return the mark of a reply; `steering` says in which ways the reply speaks to its judge."""
    rubric = marking.rubric
    assert rubric is not None
    by = " + ".join(dict.fromkeys(one.judge for one in opinions))
    failing = next((one for one in opinions if one.points is None), None)
    if failing is not None or not opinions:
        said = f"judge {failing.seat}: {failing.problem}" if failing is not None else "no judge has marked it"
        return Mark(None, Verdict.OPEN, f"{said}; waits for a judge", by=by or "scheme")
    middle = tallies(opinions, rubric)
    found = _as_mark(opinions, middle, marking, by)
    if steering and found.verdict is not Verdict.OPEN:
        because = f"the reply speaks to the judge ({', '.join(steering)})"
        return Mark(found.score, found.verdict, found.reason, sure=False, unsure_because=because, by=by)
    return found


def _as_mark(opinions: Sequence[Opinion], middle: Sequence[Tally], marking: Marking, by: str) -> Mark:
    rubric = marking.rubric
    assert rubric is not None
    at = pass_mark(marking)
    options = options_of(RubricOptions, marking)
    score, claimed = _score(middle, rubric, "counted"), _score(middle, rubric, "claimed")
    passes = score >= at - SAME_SCORE
    doubt = _doubt(opinions, rubric, at, options.spread)
    if doubt is None and passes is not (claimed >= at - SAME_SCORE):
        names = ", ".join(one.criterion.id for one in middle if one.unsupported)
        doubt = f"what decides it is not in the reply word for word ({names})"
    said = _reason(opinions, middle, rubric)
    if doubt is not None:
        return Mark(None, Verdict.OPEN, f"{said}; waits for a person: {doubt}", by=by)
    return Mark(score, Verdict.PASS if passes else Verdict.FAIL, said, by=by)


def _score(middle: Sequence[Tally], rubric: Rubric, which: str) -> float:
    if any(one.criterion.veto and getattr(one, which) <= 0 for one in middle):
        return 0.0
    return float(sum(getattr(one, which) for one in middle) / rubric.points)


def _doubt(opinions: Sequence[Opinion], rubric: Rubric, at: float, most_spread: float) -> str | None:
    """Return why judges are too far apart to settle the mark, or None."""
    shares = [share_of(one, rubric) for one in opinions]
    spread = max(shares) - min(shares)
    if spread > most_spread + SAME_SCORE:
        return f"the judges are {spread:.0%} of the points apart, more than {most_spread:.0%}"
    passing = sum(share >= at - SAME_SCORE for share in shares)
    if len(shares) > 1 and 2 * passing == len(shares):
        return f"{passing} of {len(shares)} judgements pass it"
    return None


def _reason(opinions: Sequence[Opinion], middle: Sequence[Tally], rubric: Rubric) -> str:
    got = sum(one.counted for one in middle)
    if len(opinions) == 1:
        who = f"judge {opinions[0].judge} gave {got:g} of {rubric.points:g} points"
    else:
        shares = sorted(share_of(one, rubric) * rubric.points for one in opinions)
        names = ", ".join(one.seat for one in opinions)
        each = "/".join(f"{share:g}" for share in shares)
        who = f"{len(opinions)} judgements ({names}) gave {got:g} of {rubric.points:g} points by their medians ({each})"
    lost = [
        f"{one.criterion.id} {one.counted:g}/{one.criterion.points:g}" + (f" ({one.why})" if one.why else "")
        for one in middle
        if one.counted < one.criterion.points
    ]
    vetoed = [one.criterion.id for one in middle if one.criterion.veto and one.counted <= 0]
    unsupported = [one.criterion.id for one in middle if one.unsupported]
    parts = [who]
    parts += [f"veto: {', '.join(vetoed)}"] if vetoed else []
    parts += ["lost: " + "; ".join(lost)] if lost else []
    parts += [f"without evidence in the reply: {', '.join(unsupported)}"] if unsupported else []
    return "; ".join(parts)
