"""Rubrics: what a judge or a person looks for in a reply, and what each thing is worth."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

CREDITS = ("full", "part", "none")
SHOWN = ("key", "documents", "images")


@dataclass(frozen=True, slots=True)
class Criterion:
    """One thing a rubric asks for, worth up to `points`.

    It is marked from 0 to `points`, on a `scale` of whole numbers from 0 to that, or by how many of a `checklist`
    hold. `examples` show full, part or no credit. A reply that earns nothing for a criterion with a `veto` fails
    whatever else it earns. A criterion of `absence` asks that something is not there: then it is the loss of points,
    not their gain, that wants evidence.
    """

    id: str
    asks: str
    points: float = 1.0
    scale: int | None = None
    checklist: tuple[str, ...] = ()
    examples: Mapping[str, str] = field(default_factory=dict)
    veto: bool = False
    absence: bool = False

    @property
    def most(self) -> float:
        """The highest number that a judge may give."""
        return self.scale or len(self.checklist) or self.points

    @property
    def whole(self) -> bool:
        """Whether only whole numbers may be given."""
        return self.scale is not None or bool(self.checklist)

    def earned(self, given: float) -> float:
        """Return the points that a number on the criterion's own scale earns."""
        return given * self.points / self.most


@dataclass(frozen=True, slots=True)
class Rubric:
    """A named list of criteria; `show` is what a judge sees beside them: the key, the question's documents, images."""

    name: str
    criteria: tuple[Criterion, ...]
    about: str = ""
    pass_at: float | None = None
    show: tuple[str, ...] = SHOWN

    @property
    def points(self) -> float:
        """The most points a reply can get."""
        return sum(criterion.points for criterion in self.criteria)
