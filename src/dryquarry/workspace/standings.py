"""From the ledger to boards, grids and the replies behind them."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import UsageFault
from dryquarry.ledger.queries import (
    asked_anew_since,
    digests_that_sat,
    earlier_sitters,
    full_replies,
    second_tries,
    sitter_id_of,
    slots_of,
    void_questions,
)
from dryquarry.ledger.records import FullReply, HeldReply
from dryquarry.ledger.standing_rows import StandingRow, standing_rows
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.board import build_board, pilot_counts
from dryquarry.standing.board_model import Board, Target
from dryquarry.standing.failures import FailureTable, failure_table
from dryquarry.standing.families import FamilyTable, family_table
from dryquarry.standing.grid import Grid, build_grid
from dryquarry.standing.items import ItemTable, item_table
from dryquarry.standing.results import EntrantResults, Item, Result
from dryquarry.standing.versus import Versus, versus
from dryquarry.suites.question import Question, State, Suite
from dryquarry.workspace.folder import no_garbage_collection


@dataclass(frozen=True, slots=True)
class ReplyView:
    """One reply beside what it answers: the question, the entrant, the reply with its mark, its cost."""

    suite: Suite
    question: Question
    entrant: Entrant
    reply: FullReply
    cost: float | None
    second_try: bool = False

    @property
    def mark(self) -> Mark | None:
        """The reply's present mark."""
        return self.reply.held.mark


@dataclass(frozen=True, slots=True)
class _Collected:
    entrants: list[EntrantResults]
    notes: list[str]
    void: list[str]


@dataclass(frozen=True, slots=True)
class BoardWish:
    """How a board is to be made: what its intervals are about, on which questions, and whom to compare all with."""

    target: Target = Target.KIND
    shared: bool = False
    baseline: str | None = None


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
    collected = _collect(ledger, suite, entrants, trials)
    shown = [*collected.entrants, *_sat_other_editions(ledger, suite, entrants, collected)]
    board = _built(suite.name, suite.edition, items_of(suite), shown, collected.void, wish)
    pilots = [item for item in items_of(suite, pilots=True) if item.pilot]
    return replace(
        board,
        notes=(*collected.notes, *board.notes),
        pilots=pilot_counts(pilots, collected.entrants),
        form_asked=suite.form_required,
    )


def each_own_board(ledger: Ledger, editions: Sequence[Suite], entrants: Sequence[Entrant]) -> Board:
    """Return each entrant on the newest of the editions (given newest first) that it sat whole.

    An entrant that sat none whole stands on the one it sat most of. Rows on different editions have neither
    rank nor band, as they are about different questions.
    """
    rows = []
    for entrant in entrants:
        boards = [(suite, _collect(ledger, suite, [entrant])) for suite in editions]
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


def _sat(suite: Suite, collected: _Collected) -> int:
    """Return how many of a suite's scored questions its one collected entrant sat."""
    asked = {result.question for result in collected.entrants[0].results}
    return sum(question.id in asked for question in suite.scored())


def versus_of(
    ledger: Ledger,
    suite: Suite,
    first: Entrant,
    second: Entrant,
    trials: Sequence[int] = (),
    margin: float | None = None,
) -> Versus:
    """Return two entrants compared on a suite; raises UsageFault where one has no reply or they share no question."""
    collected = _collect(ledger, suite, [first, second], trials)
    by_name = {one.entrant: one for one in collected.entrants}
    for entrant in (first, second):
        if entrant.name not in by_name:
            raise UsageFault(f"{entrant.name} has no reply to {suite.reference}: 'dryquarry run' asks for them")
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return versus(suite.name, suite.edition, items, by_name[first.name], by_name[second.name], margin)


def items_table_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> ItemTable:
    """Return what each question of a suite is worth."""
    collected = _collect(ledger, suite, entrants, trials)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return item_table(suite.name, suite.edition, items, collected.entrants)


def families_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> FamilyTable:
    """Return how the originals of a suite's families came out, and how their twists."""
    collected = _collect(ledger, suite, entrants, trials)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return family_table(suite.name, suite.edition, items, collected.entrants)


def failures_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> FailureTable:
    """Return what failing goes with in a suite."""
    collected = _collect(ledger, suite, entrants, trials)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return failure_table(suite.name, suite.edition, items, collected.entrants)


def grid_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> Grid:
    """Return the grid of a suite; with `trials` of these only."""
    collected = _collect(ledger, suite, entrants, trials)
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
            cost = _cost(entrant, reply.held)
            views.append(ReplyView(suite, questions[reply.held.position], entrant, reply, cost, second))
    places = {question.id: place for place, question in enumerate(questions)}
    return sorted(views, key=lambda view: places[view.question.id])


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


def items_of(suite: Suite, category: str | None = None, *, pilots: bool = False) -> list[Item]:
    """Return the suite's scored questions (and its pilots); with `category` given all stand in that one."""
    return [
        Item(
            question.id,
            question.weight,
            category or question.category,
            question.state is State.PILOT,
            question.family,
            question.tags,
            question.level,
            question.twist,
            question.marking.scheme,
            sum(len(text.split()) for text in question.texts),
        )
        for question in suite.asked()
        if pilots or question.state is not State.PILOT
    ]


def _collect(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> _Collected:
    with no_garbage_collection():
        return _collected(ledger, suite, entrants, trials)


def _collected(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int]) -> _Collected:
    questions = suite.asked()
    slots = slots_of(ledger, questions)
    collected: list[EntrantResults] = []
    notes: list[str] = []
    unmarked = 0
    voided = {(one.question, one.marking_id): one.because for one in void_questions(ledger, suite.name)}
    void = {
        slot.position: voided[questions[slot.position].id, slot.marking_id]
        for slot in slots
        if slot.marking_id is not None and (questions[slot.position].id, slot.marking_id) in voided
    }
    notes += [f"void for all: {questions[place].id} ({because})" for place, because in void.items()]
    with_second = [slot for slot in slots if questions[slot.position].second_try]
    sitter_ids = [sitter_id_of(ledger, entrant.digest) for entrant in entrants]
    each = zip(entrants, sitter_ids, standing_rows(ledger, slots, sitter_ids), strict=True)
    for entrant, sitter_id, rows in each:
        replies = [row for row in rows if row.trial in trials] if trials else rows
        if replies:
            results = tuple(
                _result_of(questions[row.position].id, entrant, row, row.position in void) for row in replies
            )
            again = second_tries(ledger, with_second, sitter_id) if with_second and sitter_id is not None else []
            again = [reply for reply in again if reply.trial in trials] if trials else again
            second = tuple(
                _result(questions[reply.position].id, entrant, reply, reply.position in void) for reply in again
            )
            collected.append(EntrantResults(entrant.name, entrant.title, results, second))
        notes += _two_askings(ledger, suite, entrant, sitter_id, replies)
        unmarked += sum(row.verdict is None and row.outcome != Outcome.FAILED for row in replies)
    if unmarked:
        notes.append(
            f"not marked under the present keys: {unmarked} stored replies; "
            f"'dryquarry mark {suite.reference}' marks them"
        )
    for earlier in earlier_sitters(ledger, slots, [entrant.digest for entrant in entrants]):
        if earlier.entrant in {entrant.name for entrant in entrants}:
            notes.append(
                f"not shown: {earlier.replies} replies of {earlier.entrant} under other settings "
                f"than today's (entrant digest {earlier.digest[:8]})"
            )
    return _Collected(collected, notes, [questions[place].id for place in void])


def _two_askings(
    ledger: Ledger, suite: Suite, entrant: Entrant, sitter_id: int | None, replies: Sequence[StandingRow]
) -> list[str]:
    """Tell of an asking anew that did not get to all questions, so that older replies stand beside its own."""
    since = None if sitter_id is None else asked_anew_since(ledger, suite.name, suite.edition, sitter_id)
    older = sum(reply.received_at < since for reply in replies) if since else 0
    if since is None or not 0 < older < len(replies):
        return []
    goes_on = f"'dryquarry run {suite.reference} --fresh -e {entrant.name}' asks for the rest"
    return [
        f"{entrant.name}: replies of two askings: {len(replies) - older} since {since[:16].replace('T', ' ')} UTC, "
        f"when all was asked anew, and {older} older ones; {goes_on}"
    ]


def _sat_other_editions(
    ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], collected: _Collected
) -> list[EntrantResults]:
    """Return, without results, the entrants that sat the suite but none of these questions."""
    sat = digests_that_sat(ledger, suite.name)
    have = {one.entrant for one in collected.entrants}
    return [EntrantResults(one.name, one.title, ()) for one in entrants if one.digest in sat and one.name not in have]


def _built(
    suite: str,
    edition: str | None,
    items: Sequence[Item],
    entrants: Sequence[EntrantResults],
    void: Sequence[str],
    wish: BoardWish,
) -> Board:
    return build_board(
        suite, edition, items, entrants, void=void, shared=wish.shared, target=wish.target, baseline=wish.baseline
    )


def _combined(
    ledger: Ledger, suites: Sequence[Suite], entrants: Sequence[Entrant], trials: Sequence[int], wish: BoardWish
) -> Board:
    """Rank the entrants that sat every one of the suites; the others are named in a note."""
    items: list[Item] = []
    results: dict[str, list[Result]] = {entrant.name: [] for entrant in entrants}
    second: dict[str, list[Result]] = {entrant.name: [] for entrant in entrants}
    sat: dict[str, int] = dict.fromkeys(results, 0)
    notes: list[str] = []
    void: list[str] = []
    for suite in suites:
        collected = _collect(ledger, suite, entrants, trials)
        notes += collected.notes
        void += [f"{suite.name}/{question}" for question in collected.void]
        for item in items_of(suite, suite.name):
            family = f"{suite.name}/{item.family}" if item.family else None
            items.append(replace(item, question=f"{suite.name}/{item.question}", family=family))
        for one in collected.entrants:
            sat[one.entrant] += 1
            for found, into in ((one.results, results), (one.second, second)):
                into[one.entrant] += [replace(result, question=f"{suite.name}/{result.question}") for result in found]
    complete = [entrant for entrant in entrants if sat[entrant.name] == len(suites)]
    left_out = [name for name, count in sat.items() if 0 < count < len(suites)]
    if left_out:
        notes.append(f"left out, as they did not sit all {len(suites)} suites: {', '.join(left_out)}")
    everyone = [
        EntrantResults(one.name, one.title, tuple(results[one.name]), tuple(second[one.name])) for one in complete
    ]
    board = _built(" + ".join(suite.name for suite in suites), None, items, everyone, void, wish)
    return replace(board, notes=(*notes, *board.notes))


_OUTCOMES = {str(one): one for one in Outcome}
_VERDICTS: dict[str | None, Verdict | None] = {None: None, **{str(one): one for one in Verdict}}


def _result_of(question: str, entrant: Entrant, row: StandingRow, void: bool) -> Result:
    return Result(
        question,
        row.trial,
        _OUTCOMES[row.outcome],
        None if void else row.score,
        Verdict.VOID if void else _VERDICTS[row.verdict],
        row.seconds,
        row.output_tokens,
        entrant.price.cost(row.input_tokens, row.output_tokens) if entrant.price else None,
        bool(row.by_person),
        None if row.form_kept is None else bool(row.form_kept),
        row.sure != 0,
        row.answer,
    )


def _result(question: str, entrant: Entrant, reply: HeldReply, void: bool) -> Result:
    mark = reply.mark
    return Result(
        question=question,
        trial=reply.trial,
        outcome=reply.outcome,
        score=None if void or mark is None else mark.score,
        verdict=Verdict.VOID if void else mark.verdict if mark else None,
        seconds=reply.seconds,
        output_tokens=reply.output_tokens,
        cost=_cost(entrant, reply),
        corrected=mark is not None and mark.by_person,
        form_kept=mark.form_kept if mark else None,
        sure=mark is None or mark.sure,
        answer=mark.answer if mark else None,
    )


def _cost(entrant: Entrant, reply: HeldReply) -> float | None:
    return entrant.price.cost(reply.input_tokens, reply.output_tokens) if entrant.price else None
