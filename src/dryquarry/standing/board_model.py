"""What a board is: its rows in order, and what may be said of each."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from dryquarry.standing.missing import Bounds
from dryquarry.standing.paired import Comparison
from dryquarry.standing.repeats import Repeats


class Target(StrEnum):
    """What the intervals are about: questions of this kind, or these very questions over new trials."""

    KIND = "questions of this kind"
    THESE = "these very questions over new trials"


@dataclass(frozen=True, slots=True)
class SecondTries:
    """Of so many marked second tries, made after failed first ones, so many passed."""

    passed: int
    marked: int


@dataclass(frozen=True, slots=True)
class Unsure:
    """Of an entrant's marks so many are unsure: were they to flip, its score would lie between `low` and `high`."""

    marks: int
    low: float
    high: float


@dataclass(frozen=True, slots=True)
class Unfinished:
    """What may be said of an entrant that lacks questions: so many, and the bounds of its score.

    `against` names the entrant that it is compared with, on the questions that both have. `decided` is "below" or
    "above" where even the bounds tell it apart from that one: with all that it lacks passed, or failed.
    """

    missing: int
    bounds: Bounds
    against: str | None = None
    comparison: Comparison | None = None
    decided: str | None = None


@dataclass(frozen=True, slots=True)
class BoardRow:
    """One entrant's line: `score` in [0, 1] with its 95 % interval, counts of replies, and what they took.

    `marked` counts the replies that the score stands on, `asked` those it should stand on. `band` numbers
    the groups that the data cannot tell apart, 1 the best; its rank may be anything from `rank_low` to `rank_high`.
    Rows of entrants that lack questions are `unfinished`, without interval, rank and band. `edition` is set where each
    row stands on its own edition, `second_tries` where there are any; they are in no other figure. `corrected` counts
    the marks that a person set, `form_kept` is the share of answers that stand where they were asked for, `unsure`
    tells what another reading could change, `against_baseline` compares with a chosen entrant. `as_judged` is
    the score before it was corrected by `audited` marks of people, where it was. On a
    board over several suites `categories` are the suites, and `over_suites` the categories of all of them. Absent
    figures are None.
    """

    entrant: str
    title: str
    score: float | None
    low: float | None
    high: float | None
    passed: int
    marked: int
    asked: int
    trials: int
    categories: Mapping[str, float | None]
    outcomes: Mapping[str, int]
    median_s: float | None
    output_tokens: int | None
    cost: float | None
    rank: int | None = None
    band: int | None = None
    rank_low: int | None = None
    rank_high: int | None = None
    unfinished: Unfinished | None = None
    p90_s: float | None = None
    seconds_per_pass: float | None = None
    cost_per_pass: float | None = None
    repeats: Repeats | None = None
    edition: str | None = None
    second_tries: SecondTries | None = None
    corrected: int = 0
    form_kept: float | None = None
    unsure: Unsure | None = None
    against_baseline: Comparison | None = None
    first_token_s: float | None = None
    tags: Mapping[str, float | None] = field(default_factory=dict)
    levels: Mapping[str, float | None] = field(default_factory=dict)
    over_suites: Mapping[str, float | None] = field(default_factory=dict)
    as_judged: float | None = None
    audited: int = 0


@dataclass(frozen=True, slots=True)
class AuditNote:
    """How people's marks of random replies bear on a board: what was done with them, or why nothing was.

    `corrected` tells whether scores are corrected; without it some entrant has too few audited replies, `lacking` names
    each with how many more it needs. `bias` is by how many points of one judges mark each entrant higher than people,
    `bias_p` the p-value that it is the same for all, `pooled` that one bias serves all, `weight` how much the judges'
    scores count. `more` is about how many further audits would tell the best two apart.
    """

    corrected: bool
    lacking: Mapping[str, int] = field(default_factory=dict)
    bias: Mapping[str, float] = field(default_factory=dict)
    bias_p: float | None = None
    pooled: bool = False
    weight: float = 1.0
    more: int | None = None


@dataclass(frozen=True, slots=True)
class PilotCount:
    """How a pilot question, which does not count, came out: passed by so many of those that sat it."""

    question: str
    passed: int
    sat: int


@dataclass(frozen=True, slots=True)
class Board:
    """The rows in order, on so many questions; `notes` say what else is to be known.

    `selected` says in words which of the questions, entrants and trials were chosen, if not all; `sorted_by` is set
    where the rows stand in another order than that of their scores. `questions` of the edition's `of_questions` count;
    `left_out` are those that too many entrants lack, or with `only_shared` any. `families` is how many families the
    questions make; `form_asked` says that the suite requires the form of answers, `suite_weights` what each of
    several suites weighs.
    """

    suite: str
    edition: str | None
    questions: int
    rows: tuple[BoardRow, ...]
    notes: tuple[str, ...] = ()
    of_questions: int = 0
    form_asked: bool = False
    pilots: tuple[PilotCount, ...] = ()
    selected: str = ""
    sorted_by: str | None = None
    left_out: tuple[str, ...] = ()
    only_shared: bool = False
    families: int = 0
    target: Target = Target.KIND
    baseline: str | None = None
    suite_weights: Mapping[str, float] = field(default_factory=dict)
    audit: AuditNote | None = None
