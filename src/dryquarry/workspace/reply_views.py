"""The replies behind the numbers, each with its mark and all that was said of it."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import TYPE_CHECKING

from dryquarry.asking.entrants import Entrant
from dryquarry.ledger.decisions import Decision, decisions_on
from dryquarry.ledger.queries import (
    full_replies,
    sitter_id_of,
    slots_of,
)
from dryquarry.ledger.records import FullReply
from dryquarry.ledger.store import Ledger
from dryquarry.ledger.verdicts import StoredVerdict, verdicts_of
from dryquarry.marking.model import Mark
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.collecting import reply_cost

if TYPE_CHECKING:
    from dryquarry.workspace.works import WorkRun


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
    from dryquarry.workspace.works import results_for, runs_of

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
