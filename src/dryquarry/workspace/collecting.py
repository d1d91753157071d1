"""From the ledger's rows to the results that standings are computed from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import FileFault
from dryquarry.ledger.queries import (
    asked_anew_since,
    earlier_sitters,
    second_tries,
    sitter_id_of,
    slots_of,
    void_questions,
)
from dryquarry.ledger.records import HeldReply
from dryquarry.ledger.standing_rows import StandingRow, standing_rows
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.results import EntrantResults, Item, Result
from dryquarry.suites.question import State, Suite
from dryquarry.workspace.folder import no_garbage_collection


@dataclass(frozen=True, slots=True)
class Collected:
    """The results of entrants on a suite, what is to be known of them, and the questions that are void for all."""

    entrants: list[EntrantResults]
    notes: list[str]
    void: list[str]


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


def collect(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> Collected:
    """Return the results of entrants on a suite's questions; with `trials` of these only."""
    with no_garbage_collection():
        try:
            return _collected(ledger, suite, entrants, trials)
        except (KeyError, TypeError, ValueError):
            raise FileFault(
                f"the ledger {ledger.path} holds a reply or a mark that is not as it was stored; "
                "'dryquarry ledger check' tells which"
            ) from None


def _collected(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int]) -> Collected:
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
        if not all(0.0 <= row.score <= 1.0 for row in rows if row.score is not None):
            raise ValueError("a score is no share")
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
    for earlier in earlier_sitters(ledger, slots, {entrant.name: entrant.digest for entrant in entrants}):
        notes.append(
            f"not shown: {earlier.replies} replies of {earlier.entrant} under other settings "
            f"than today's (entrant digest {earlier.digest[:8]})"
        )
    return Collected(collected, notes, [questions[place].id for place in void])


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
        cost=reply_cost(entrant, reply),
        corrected=mark is not None and mark.by_person,
        form_kept=mark.form_kept if mark else None,
        sure=mark is None or mark.sure,
        answer=mark.answer if mark else None,
    )


def reply_cost(entrant: Entrant, reply: HeldReply) -> float | None:
    """Return what a reply cost in the entrant's currency, None where that is not known."""
    return entrant.price.cost(reply.input_tokens, reply.output_tokens) if entrant.price else None
