"""What entrants made, side by side: the works in their replies, with their pictures and marks."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dryquarry.ledger.results import picture_of
from dryquarry.ledger.store import Ledger
from dryquarry.marking.registry import needs_run
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.reply_views import ReplyView

AS_IT_OPENS, AT_THE_END = "as it opens", "at the end"


@dataclass(frozen=True, slots=True)
class Picture:
    """A picture taken while a work was run: when, and the PNG."""

    label: str
    png: bytes


@dataclass(frozen=True, slots=True)
class Made:
    """What one reply made, with its pictures in the order in which they were taken."""

    view: ReplyView
    pictures: tuple[Picture, ...]

    @property
    def shown(self) -> Picture | None:
        """The picture that stands for the work: of a page the last, of a program the last that the author asked for."""
        if not self.pictures:
            return None
        page = any(run.work.language in ("html", "svg") for run in self.view.runs)
        asked = [one for one in self.pictures if one.label != AT_THE_END]
        return self.pictures[-1] if page or not asked else asked[-1]


@dataclass(frozen=True, slots=True)
class Shelf:
    """One question, and what each entrant made of it."""

    suite: Suite
    question: Question
    made: tuple[Made, ...]


def shelves_of(ledger: Ledger, views: Sequence[ReplyView]) -> list[Shelf]:
    """Return what replies made, by question, of the questions whose replies are run."""
    by_question: dict[str, list[ReplyView]] = {}
    for view in views:
        if needs_run(view.question.marking):
            by_question.setdefault(view.question.id, []).append(view)
    return [
        Shelf(own[0].suite, own[0].question, tuple(Made(view, _pictures(ledger, view)) for view in own))
        for own in by_question.values()
    ]


def _pictures(ledger: Ledger, view: ReplyView) -> tuple[Picture, ...]:
    """Return the pictures of a reply's works that differ from the one before, each with when it was taken."""
    found: list[Picture] = []
    for run in view.runs:
        taken = [(one.name, digest) for one in run.result.tests for digest in one.pictures]
        for number, (name, digest) in enumerate(taken):
            png = picture_of(ledger, digest)
            if png is None or (found and found[-1].png == png and number < len(taken) - 1):
                continue
            label = AS_IT_OPENS if name == "opens" else name.partition(". picture ")[2] or name
            found.append(Picture(AT_THE_END if number == len(taken) - 1 and number else label, png))
    return tuple(found)
