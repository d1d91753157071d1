"""From the ledger's rows to the results that standings are computed from."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

import numpy as np

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import FileFault
from dryquarry.ledger.kept_columns import standing_columns
from dryquarry.ledger.queries import (
    asked_anew_since,
    earlier_sitters,
    second_tries,
    sitter_id_of,
    slots_of,
    void_questions,
)
from dryquarry.ledger.records import HeldReply, Slot
from dryquarry.ledger.standing_rows import StandingColumns
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.intervals import Flags
from dryquarry.standing.replies import OUTCOMES, UNMARKED, VERDICTS, EntrantResults, Replies, replies_of
from dryquarry.standing.results import Item, Result
from dryquarry.suites.question import Question, State, Suite


@dataclass(frozen=True, slots=True)
class Collected:
    """The results of entrants on a suite, what is to be known of them, and the questions that are void for all."""

    entrants: list[EntrantResults]
    notes: list[str]
    void: list[str]


def items_of(suite: Suite, *, pilots: bool = False) -> list[Item]:
    """Return the suite's scored questions (and its pilots)."""
    return [
        Item(
            question.id,
            question.weight,
            question.category,
            question.state is State.PILOT,
            question.family,
            question.tags,
            question.level,
            question.twist,
            question.marking.scheme,
            words_of(question),
            language=question.language,
        )
        for question in suite.asked()
        if pilots or question.state is not State.PILOT
    ]


def of_trials(replies: Replies, trials: Sequence[int]) -> Replies:
    """Return the replies of these trials, all where none is named."""
    return replies.taken(np.isin(replies.trial, trials)) if trials else replies


def words_of(question: Question) -> int:
    """Return how many words a question has, as its author wrote it."""
    return sum(len(text.split()) for text in question.texts)


def collect(
    ledger: Ledger,
    suite: Suite,
    entrants: Sequence[Entrant],
    trials: Sequence[int] = (),
    *,
    answers: bool = False,
) -> Collected:
    """Return the replies of entrants to a suite's questions; with `trials` of these only.

    With `answers` also what was read as each reply's answer.
    """
    try:
        return _collected(ledger, suite, entrants, trials, answers=answers)
    except (KeyError, TypeError, ValueError, IndexError):
        raise FileFault(
            f"the ledger {ledger.path} holds a reply or a mark that is not as it was stored; "
            "'dryquarry ledger check' tells which"
        ) from None


def _collected(
    ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int], *, answers: bool
) -> Collected:
    questions = suite.asked()
    slots = slots_of(ledger, questions)
    names = tuple(question.id for question in questions)
    out = voided(ledger, suite, questions, slots)
    notes = [f"void for all: {names[place]} ({because})" for place, because in out.items()]
    void = np.zeros(len(names), dtype=bool)
    void[list(out)] = True
    with_second = [slot for slot in slots if questions[slot.position].second_try]
    sitter_ids = [sitter_id_of(ledger, entrant.digest) for entrant in entrants]
    anew = asked_anew_since(ledger, suite.name, suite.edition)
    sitters = [(one, None if one is None else anew.get(one)) for one in sitter_ids]
    collected: list[EntrantResults] = []
    unmarked = 0
    for entrant, (sitter_id, since), columns in zip(
        entrants, sitters, standing_columns(ledger, slots, sitters, answers=answers), strict=True
    ):
        if columns is None or sitter_id is None:
            continue
        replies = _replies(columns, names, entrant, void)
        again = second_tries(ledger, with_second, sitter_id) if with_second else []
        second = replies_of([_result(names[reply.position], entrant, reply, void[reply.position]) for reply in again])
        replies, second = of_trials(replies, trials), of_trials(second, trials)
        if len(replies):
            collected.append(EntrantResults(entrant.name, entrant.title, replies, second))
        notes += _two_askings(suite, entrant, since, columns.older, len(columns.position))
        came = replies.outcome != OUTCOMES.index(Outcome.FAILED)
        unmarked += int(((replies.verdict == UNMARKED) & came).sum())
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
    return Collected(collected, notes, [names[place] for place in out])


def voided(ledger: Ledger, suite: Suite, questions: Sequence[Question], slots: Sequence[Slot]) -> dict[int, str]:
    """Return the places of the questions that are void for all, and why."""
    because = {(one.question, one.marking_id): one.because for one in void_questions(ledger, suite.name)}
    if not because:
        return {}
    return {
        slot.position: because[questions[slot.position].id, slot.marking_id]
        for slot in slots
        if slot.marking_id is not None and (questions[slot.position].id, slot.marking_id) in because
    }


def _two_askings(suite: Suite, entrant: Entrant, since: str | None, older: int, replies: int) -> list[str]:
    """Tell of an asking anew that did not get to all questions, so that older replies stand beside its own."""
    if since is None or not 0 < older < replies:
        return []
    goes_on = f"'dryquarry run {suite.reference} --fresh -e {entrant.name}' asks for the rest"
    return [
        f"{entrant.name}: replies of two askings: {replies - older} since {since[:16].replace('T', ' ')} UTC, "
        f"when all was asked anew, and {older} older ones; {goes_on}"
    ]


def _replies(columns: StandingColumns, names: tuple[str, ...], entrant: Entrant, void: Flags) -> Replies:
    """Return an entrant's columns as standings take them: with their cost, and void where that is for all."""
    if not ((columns.score >= 0) & (columns.score <= 1) | np.isnan(columns.score)).all():
        raise ValueError("a score is no share")
    price = entrant.price
    out = void[columns.position]
    cost = np.full(len(columns.position), np.nan)
    if price is not None:
        cost = (columns.input_tokens * price.input + columns.output_tokens * price.output) / 1e6
    return Replies(
        names,
        columns.position,
        columns.trial,
        columns.outcome,
        np.where(out, VERDICTS.index(Verdict.VOID), columns.verdict).astype(np.int8),
        np.where(out, np.nan, columns.score),
        columns.seconds,
        columns.first_token_s,
        columns.output_tokens,
        cost,
        columns.by_person,
        columns.form_kept,
        columns.sure,
        columns.answer,
    )


def _result(question: str, entrant: Entrant, reply: HeldReply, void: bool) -> Result:
    """Return a second try as a result."""
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
