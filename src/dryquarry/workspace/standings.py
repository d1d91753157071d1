"""From the ledger to boards: of a suite, of a part of it, of several together."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

import numpy as np

from dryquarry.asking.entrants import Entrant
from dryquarry.ledger.queries import (
    digests_that_sat,
)
from dryquarry.ledger.store import Ledger
from dryquarry.standing.board import build_board, pilot_counts
from dryquarry.standing.board_model import Board, Target
from dryquarry.standing.corrected import Audited, joined_audits
from dryquarry.standing.replies import EntrantResults, Replies, joined
from dryquarry.standing.results import Item
from dryquarry.suites.question import Suite
from dryquarry.workspace.audits import audits_of
from dryquarry.workspace.collecting import Collected, collect, items_of


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
