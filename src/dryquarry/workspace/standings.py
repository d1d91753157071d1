"""From the ledger to boards, grids and the replies behind them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import UsageFault
from dryquarry.ledger.decisions import Decision, decisions_on
from dryquarry.ledger.queries import (
    digests_that_sat,
    full_replies,
    sitter_id_of,
    slots_of,
)
from dryquarry.ledger.records import FullReply
from dryquarry.ledger.store import Ledger
from dryquarry.ledger.verdicts import StoredVerdict, verdicts_of
from dryquarry.marking.model import Mark
from dryquarry.standing.board import build_board, pilot_counts
from dryquarry.standing.board_model import Board, Target
from dryquarry.standing.corrected import Audited, joined_audits
from dryquarry.standing.failures import FailureTable, failure_table
from dryquarry.standing.families import FamilyTable, family_table
from dryquarry.standing.grid import Grid, build_grid
from dryquarry.standing.items import ItemTable, item_table
from dryquarry.standing.replies import EntrantResults, Replies, joined
from dryquarry.standing.results import Item
from dryquarry.standing.smaller import SmallerSuite, smaller_suite
from dryquarry.standing.versus import Versus, versus
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.audits import audits_of
from dryquarry.workspace.collecting import Collected, collect, items_of, of_trials, reply_cost
from dryquarry.workspace.snapshots import snapshot
from dryquarry.workspace.works import WorkRun, results_for, runs_of


@dataclass(frozen=True, slots=True)
class ReplyView:
    """One reply beside what it answers: the question, the entrant, the reply with its mark, its cost.

    `verdicts` and `decisions` are what judges and people said of it, where that was asked for; `runs` is
    what came of running what it holds.
    """

    suite: Suite
    question: Question
    entrant: Entrant
    reply: FullReply
    cost: float | None
    second_try: bool = False
    verdicts: tuple[StoredVerdict, ...] = ()
    decisions: tuple[Decision, ...] = ()
    runs: tuple[WorkRun, ...] = ()

    @property
    def mark(self) -> Mark | None:
        """The reply's present mark."""
        return self.reply.held.mark


@dataclass(frozen=True, slots=True)
class BoardWish:
    """How a board is to be made: what its intervals are about, on which questions, and whom to compare all with.

    `weights` are those of whole suites on a board over several; 1 for those that are not named. `as_judged` leaves
    judges' scores as they are, whatever people's audited marks say.
    """

    target: Target = Target.KIND
    shared: bool = False
    baseline: str | None = None
    weights: Mapping[str, float] = field(default_factory=dict)
    as_judged: bool = False

    @property
    def corrects(self) -> bool:
        """Whether people's marks of random replies correct the scores: not where it is about these very questions."""
        return not self.as_judged and self.target is Target.KIND


def board_of(
    ledger: Ledger,
    suites: Sequence[Suite],
    entrants: Sequence[Entrant],
    trials: Sequence[int] = (),
    wish: BoardWish = BoardWish(),
) -> Board:
    """Return the board of one suite, or the combined board of several with a score for each; `trials` only these."""
    if len(suites) > 1:
        return _combined(ledger, suites, entrants, trials, wish)
    suite = suites[0]
    collected = collect(ledger, suite, entrants, trials)
    shown = [*collected.entrants, *_sat_other_editions(ledger, suite, entrants, collected)]
    audits = audits_of(ledger, suite, entrants, trials) if wish.corrects else {}
    every = items_of(suite, pilots=True)
    pilots = [item for item in every if item.pilot]
    scored = [item for item in every if not item.pilot]
    board = _built(suite.name, suite.edition, scored, shown, collected.void, wish, audits=audits)
    return replace(
        board,
        notes=(*collected.notes, *board.notes),
        pilots=pilot_counts(pilots, collected.entrants),
        form_asked=suite.form_required,
    )


def part_board(
    ledger: Ledger,
    suite: Suite,
    collected: Collected,
    entrants: Sequence[Entrant],
    wish: BoardWish,
    names: Sequence[str],
) -> Board:
    """Return the board of some of a suite's questions, from what has been collected of all of them."""
    part = replace(suite, questions=tuple(one for one in suite.scored() if one.id in set(names)))
    ids = [question.id for question in part.questions]
    shown = [replace(one, replies=one.replies.on(ids), second=one.second.on(ids)) for one in collected.entrants]
    void = [name for name in collected.void if name in set(ids)]
    audits = audits_of(ledger, part, entrants) if wish.corrects else {}
    board = _built(suite.name, suite.edition, items_of(part), shown, void, wish, audits=audits)
    return replace(board, form_asked=suite.form_required)


def each_own_board(ledger: Ledger, editions: Sequence[Suite], entrants: Sequence[Entrant]) -> Board:
    """Return each entrant on the newest of the editions (given newest first) that it sat whole.

    An entrant that sat none whole stands on the one it sat most of. Rows on different editions have neither
    rank nor band, as they are about different questions.
    """
    rows = []
    for entrant in entrants:
        boards = [(suite, collect(ledger, suite, [entrant])) for suite in editions]
        sat = [(_sat(suite, collected), suite, collected) for suite, collected in boards if collected.entrants]
        if not sat:
            continue
        whole = [one for one in sat if one[0] == len(one[1].scored())]
        _, suite, collected = whole[0] if whole else max(sat, key=lambda one: one[0] / len(one[1].scored()))
        board = build_board(suite.name, suite.edition, items_of(suite), collected.entrants, void=collected.void)
        rows += [
            replace(row, edition=suite.edition, rank=None, band=None, rank_low=None, rank_high=None)
            for row in board.rows
        ]
    order = {suite.edition: place for place, suite in enumerate(editions)}
    rows.sort(key=lambda row: (order[row.edition or ""], -(row.score or 0.0), row.entrant))
    notes = ("each on its own edition: rows on different editions are about different questions",)
    return Board(editions[0].name, None, 0, tuple(rows), notes)


def _sat(suite: Suite, collected: Collected) -> int:
    """Return how many of a suite's scored questions its one collected entrant sat."""
    replies = collected.entrants[0].replies.on([question.id for question in suite.scored()])
    return len(np.unique(replies.question))


def versus_of(
    ledger: Ledger,
    suite: Suite,
    sides: Sequence[tuple[Entrant, str]],
    trials: Sequence[int] = (),
    margin: float | None = None,
    *,
    as_judged: bool = False,
) -> Versus:
    """Return two entrants compared on a suite, each as it stands or as it stood `when` (a day, earlier settings).

    People's audited marks correct what judges gave, unless it is wanted `as_judged` or of an earlier day.
    Raises UsageFault where one has no reply or they share no question.
    """
    collected = collect(ledger, suite, [entrant for entrant, when in sides if not when], trials)
    present = {one.entrant: one for one in collected.entrants}
    found = []
    for entrant, when in sides:
        if when:
            past = snapshot(ledger, suite, entrant, when)
            found.append(replace(past, replies=of_trials(past.replies, trials)))
        elif entrant.name in present:
            found.append(present[entrant.name])
        else:
            raise UsageFault(f"{entrant.name} has no reply to {suite.reference}: 'dryquarry run' asks for them")
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    present_only = not any(when for _, when in sides)
    people = [entrant for entrant, _ in sides]
    audits = audits_of(ledger, suite, people, trials) if present_only and not as_judged else {}
    return versus(suite.name, suite.edition, items, found[0], found[1], margin, audits)


def items_table_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> ItemTable:
    """Return what each question of a suite is worth."""
    collected = collect(ledger, suite, entrants, trials, answers=True)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return item_table(suite.name, suite.edition, items, collected.entrants)


def smaller_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], count: int, seed: int) -> SmallerSuite:
    """Return so many of a suite's questions, drawn by chance, and what they say of the entrants."""
    collected = collect(ledger, suite, entrants)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return smaller_suite(suite.name, suite.edition, items, collected.entrants, count, seed)


def families_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> FamilyTable:
    """Return how the originals of a suite's families came out, and how their twists."""
    collected = collect(ledger, suite, entrants, trials)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return family_table(suite.name, suite.edition, items, collected.entrants)


def failures_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> FailureTable:
    """Return what failing goes with in a suite."""
    collected = collect(ledger, suite, entrants, trials)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return failure_table(suite.name, suite.edition, items, collected.entrants)


def grid_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> Grid:
    """Return the grid of a suite; with `trials` of these only."""
    collected = collect(ledger, suite, entrants, trials, answers=True)
    return build_grid(suite.name, suite.edition, items_of(suite, pilots=True), collected.entrants)


def replies_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], *, second: bool = False) -> list[ReplyView]:
    """Return every current reply to the suite's questions, by question, then entrant, then trial.

    With `second` they are the second tries.
    """
    questions = suite.asked()
    slots = slots_of(ledger, questions)
    views = []
    for entrant in entrants:
        sitter_id = sitter_id_of(ledger, entrant.digest)
        for reply in full_replies(ledger, slots, sitter_id, second=second) if sitter_id is not None else []:
            cost = reply_cost(entrant, reply.held)
            views.append(ReplyView(suite, questions[reply.held.position], entrant, reply, cost, second))
    places = {question.id: place for place, question in enumerate(questions)}
    return sorted(views, key=lambda view: places[view.question.id])


def with_runs(ledger: Ledger, views: Sequence[ReplyView]) -> list[ReplyView]:
    """Return the replies with what came of running what they hold, those to questions of which that is run."""
    found = []
    for view in views:
        results = results_for(ledger, view.question, view.reply.text)
        found.append(replace(view, runs=runs_of(view.question, view.reply.text, results)) if results else view)
    return found


def with_judgements(ledger: Ledger, views: Sequence[ReplyView]) -> list[ReplyView]:
    """Return the replies with all that judges and people said of them under the present questions."""
    ids = [view.reply.held.reply_id for view in views]
    verdicts: dict[int, list[StoredVerdict]] = {}
    decisions: dict[int, list[Decision]] = {}
    for verdict in verdicts_of(ledger, ids):
        verdicts.setdefault(verdict.reply_id, []).append(verdict)
    for decision in decisions_on(ledger, ids):
        decisions.setdefault(decision.reply_id, []).append(decision)
    return [
        replace(view, verdicts=tuple(verdicts.get(row, ())), decisions=tuple(decisions.get(row, ())))
        for view, row in zip(views, ids, strict=True)
    ]


def questions_apart(views: Sequence[ReplyView]) -> frozenset[str]:
    """Return the questions on which the entrants came out differently: not all with the same marks."""
    marks: dict[str, dict[str, list[tuple[int, str, float | None]]]] = {}
    names = {view.entrant.name for view in views}
    for view in views:
        mark = view.mark
        told = (view.reply.held.trial, str(mark.verdict) if mark else "none", mark.score if mark else None)
        marks.setdefault(view.question.id, {}).setdefault(view.entrant.name, []).append(told)
    return frozenset(
        question
        for question, each in marks.items()
        if len(each) < len(names) or len({tuple(sorted(one, key=str)) for one in each.values()}) > 1
    )


def _sat_other_editions(
    ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], collected: Collected
) -> list[EntrantResults]:
    """Return, without results, the entrants that sat the suite but none of these questions."""
    sat = digests_that_sat(ledger, suite.name)
    have = {one.entrant for one in collected.entrants}
    return [EntrantResults.of(one.name, one.title) for one in entrants if one.digest in sat and one.name not in have]


def _built(
    suite: str,
    edition: str | None,
    items: Sequence[Item],
    entrants: Sequence[EntrantResults],
    void: Sequence[str],
    wish: BoardWish,
    suite_weights: Mapping[str, float] | None = None,
    audits: Mapping[str, Audited] | None = None,
) -> Board:
    return build_board(
        suite,
        edition,
        items,
        entrants,
        void=void,
        shared=wish.shared,
        target=wish.target,
        baseline=wish.baseline,
        suite_weights=suite_weights,
        audits=audits,
    )


def _combined(
    ledger: Ledger, suites: Sequence[Suite], entrants: Sequence[Entrant], trials: Sequence[int], wish: BoardWish
) -> Board:
    """Rank the entrants that sat every one of the suites; the others are named in a note."""
    items: list[Item] = []
    results: dict[str, list[tuple[str, Replies]]] = {entrant.name: [] for entrant in entrants}
    second: dict[str, list[tuple[str, Replies]]] = {entrant.name: [] for entrant in entrants}
    notes: list[str] = []
    void: list[str] = []
    audits: dict[str, list[Audited]] = {}
    for suite in suites:
        collected = collect(ledger, suite, entrants, trials)
        notes += collected.notes
        void += [f"{suite.name}/{question}" for question in collected.void]
        for item in items_of(suite):
            family = f"{suite.name}/{item.family}" if item.family else None
            items.append(replace(item, question=f"{suite.name}/{item.question}", family=family, suite=suite.name))
        if wish.corrects:
            for name, audited in audits_of(ledger, suite, entrants, trials, f"{suite.name}/").items():
                audits.setdefault(name, []).append(audited)
        for one in collected.entrants:
            results[one.entrant].append((suite.name, one.replies))
            second[one.entrant].append((suite.name, one.second))
    complete = [entrant for entrant in entrants if len(results[entrant.name]) == len(suites)]
    left_out = [name for name, each in results.items() if 0 < len(each) < len(suites)]
    if left_out:
        notes.append(f"left out, as they did not sit all {len(suites)} suites: {', '.join(left_out)}")
    everyone = [
        EntrantResults(one.name, one.title, joined(results[one.name]), joined(second[one.name])) for one in complete
    ]
    weights = {suite.name: wish.weights.get(suite.name, 1.0) for suite in suites}
    board = _built(
        " + ".join(weights),
        None,
        items,
        everyone,
        void,
        wish,
        weights,
        {name: joined_audits(each) for name, each in audits.items()},
    )
    return replace(board, notes=(*notes, *board.notes))
