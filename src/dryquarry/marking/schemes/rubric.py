"""Scheme `rubric`: judges give points for criteria; until they have, the mark stays open.

Asking the judges is not done here: `marking/judging` writes what they are asked, checks what they answer, and turns
their points into a mark.
"""

from __future__ import annotations

from dataclasses import dataclass, field
from typing import Any

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, Verdict, failed, never
from dryquarry.marking.options import option_types, options_of

DEFAULT_PASS_AT = 0.6
DEFAULT_SPREAD = 0.3
MOST_TIMES = 20
ALLOWED = "allowed"


@dataclass(frozen=True, slots=True)
class RubricOptions:
    """The `rubric` by its name or written out, who marks by it, and the share of its points that passes.

    `judge` is one judge, `panel` several; each is asked so many `times`. Beyond a `spread` (share of the points)
    between them the mark waits for a person. A judge marks no entrant of its own model or maker unless `own_family`
    is "allowed".
    """

    rubric: str | dict[str, Any] | None = None
    judge: str | None = None
    panel: list[str] = field(default_factory=list)
    times: int = 1
    spread: float = DEFAULT_SPREAD
    pass_at: float | None = None
    own_family: str | None = None

    @property
    def judges(self) -> tuple[str, ...]:
        """The names of the judges that the question asks for; none where it leaves that open."""
        return tuple(self.panel) or ((self.judge,) if self.judge is not None else ())


def prepare(marking: Marking) -> Marker:
    """Return a marker that leaves every reply with text open for the judge."""
    if marking.rubric is None:
        raise MarkingFault("scheme 'rubric' wants `rubric: NAME`, one of the suite's `rubrics`, or criteria of its own")
    if marking.key is not None and not isinstance(marking.key, str):
        raise MarkingFault("the key of scheme 'rubric' is a model answer, a text, or absent")
    _check(options_of(RubricOptions, marking))

    def mark(text: str) -> Mark:
        if not text.strip():
            return failed("the reply is empty")
        return Mark(None, Verdict.OPEN, "waits for a judge")

    return mark


def pass_mark(marking: Marking) -> float:
    """Return the share of the points that passes: the question's own, or the rubric's."""
    own = options_of(RubricOptions, marking).pass_at
    if own is not None:
        return own
    rubric = marking.rubric
    return rubric.pass_at if rubric is not None and rubric.pass_at is not None else DEFAULT_PASS_AT


def _check(options: RubricOptions) -> None:
    """Raise MarkingFault for an option with a value that it cannot have."""
    if options.pass_at is not None and not 0 < options.pass_at <= 1:
        raise MarkingFault(
            f"option 'pass_at' of scheme 'rubric' is a share above 0 and up to 1, not {options.pass_at!r}"
        )
    if not all(isinstance(name, str) for name in options.panel):
        raise MarkingFault("option 'panel' of scheme 'rubric' is a list of judges' names")
    if options.panel and options.judge is not None:
        raise MarkingFault("scheme 'rubric' takes a `judge` or a `panel`, not both")
    if len(set(options.panel)) < len(options.panel):
        raise MarkingFault("a judge stands twice in `panel` of scheme 'rubric'; `times: 2` asks each of them twice")
    if not 1 <= options.times <= MOST_TIMES:
        raise MarkingFault(f"option 'times' of scheme 'rubric' is a number from 1 to {MOST_TIMES}, not {options.times}")
    if not 0 <= options.spread <= 1:
        raise MarkingFault(f"option 'spread' of scheme 'rubric' is a share from 0 to 1, not {options.spread!r}")
    if options.own_family not in (None, ALLOWED):
        raise MarkingFault(f"option 'own_family' of scheme 'rubric' is '{ALLOWED}' or absent")


SCHEME = Scheme(
    name="rubric",
    options=option_types(RubricOptions),
    prepare=prepare,
    needs_judge=True,
    reads_whole=True,
    has_answer=never,
)
