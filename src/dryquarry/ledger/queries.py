"""What the ledger is asked: which replies are held, how they are marked, and what they say."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any

import sqlalchemy as sa

from dryquarry.ledger import schema
from dryquarry.ledger.records import (
    EarlierSitter,
    FirstTry,
    FullReply,
    HeldReply,
    HeldTrial,
    Slot,
    StoredReply,
    TypicalReply,
    VoidQuestion,
    WaitingReply,
)
from dryquarry.ledger.rows import ids_of, insert_rows
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.suites.question import Question

# The questions that a query is about, as a table to join with; each connection has its own.
wanted = sa.Table(
    "wanted",
    sa.MetaData(),
    sa.Column("ask_id", sa.Integer, primary_key=True),
    sa.Column("position", sa.Integer, primary_key=True),
    sa.Column("marking_id", sa.Integer),
    prefixes=["TEMPORARY"],
    sqlite_with_rowid=False,
)


def slots_of(ledger: Ledger, questions: Sequence[Question]) -> list[Slot]:
    """Return, for each question in order, the rows of its digests."""
    asks = [question.ask_digest for question in questions]
    markings = [question.mark_digest for question in questions]
    with ledger.connected() as connection:
        ask_ids, marking_ids = ids_of(connection, schema.asks, asks), ids_of(connection, schema.markings, markings)
    return [
        Slot(position, ask_ids.get(ask), marking_ids.get(marking))
        for position, (ask, marking) in enumerate(zip(asks, markings, strict=True))
    ]


def sitter_id_of(ledger: Ledger, digest: str) -> int | None:
    """Return the row of an entrant digest, or None when no such entrant ever sat."""
    with ledger.connected() as connection:
        return ids_of(connection, schema.sitters, [digest]).get(digest)


def held_trials(ledger: Ledger, slots: Sequence[Slot], sitter_id: int, trials: int) -> list[HeldTrial]:
    """Return which of an entrant's replies to the questions are there, up to so many trials, and how they ended."""
    replies = schema.replies
    with ledger.connected() as connection:
        fill_wanted(connection, slots)
        query = (
            sa.select(wanted.c.position, replies.c.trial, replies.c.outcome, replies.c.received_at)
            .join_from(wanted, replies, replies.c.ask_id == wanted.c.ask_id)
            .where(replies.c.sitter_id == sitter_id, replies.c.current, replies.c.trial <= trials)
            .order_by(wanted.c.position)
        )
        return [
            HeldTrial(row.position, row.trial, Outcome(row.outcome), row.received_at)
            for row in connection.execute(query)
        ]


def held_replies(ledger: Ledger, slots: Sequence[Slot], sitter_id: int) -> list[HeldReply]:
    """Return an entrant's current first tries with their marks under the present keys, without their texts."""
    columns = (schema.replies.c.id, *_HELD_REPLY, *_MARK)
    return [_held(row) for row in _joined(ledger, slots, sitter_id, columns)]


def second_tries(ledger: Ledger, slots: Sequence[Slot], sitter_id: int) -> list[HeldReply]:
    """Return an entrant's second tries after current first ones marked a fail, with their own marks."""
    columns = (schema.replies.c.id, *_HELD_REPLY, *_MARK)
    return [_held(row) for row in _joined(ledger, slots, sitter_id, columns, second=True)]


def failed_first_tries(ledger: Ledger, slots: Sequence[Slot], sitter_id: int) -> list[FirstTry]:
    """Return the current replies that came whole, are marked a fail, and are followed by no second try yet."""
    replies, marks, second = schema.replies, schema.marks, schema.replies.alias("second")
    followed = (
        sa.select(second.c.id)
        .where(second.c.follows == replies.c.id, second.c.current, second.c.outcome != str(Outcome.FAILED))
        .exists()
    )
    columns = (replies.c.id, replies.c.trial, replies.c.text, replies.c.earlier_turns, marks.c.reason, marks.c.answer)
    ended = sa.func.coalesce(marks.c.outcome, replies.c.outcome)
    failed = (ended == str(Outcome.ANSWERED), marks.c.verdict == str(Verdict.FAIL))
    return [
        FirstTry(
            position=row.position,
            reply_id=row.id,
            trial=row.trial,
            text=row.text,
            earlier_turns=tuple(json.loads(row.earlier_turns)) if row.earlier_turns else (),
            reason=row.reason,
            answer=row.answer,
        )
        for row in _joined(ledger, slots, sitter_id, columns, *failed, ~followed)
    ]


def full_replies(ledger: Ledger, slots: Sequence[Slot], sitter_id: int, *, second: bool = False) -> list[FullReply]:
    """Return an entrant's current replies with everything that is known of them; with `second` its second tries."""
    columns = (schema.replies.c.id, *_HELD_REPLY, *_MARK, *_FULL)
    return [
        FullReply(
            held=_held(row),
            text=row.text,
            reasoning=row.reasoning,
            finish=row.finish,
            cause=row.cause,
            first_token_s=row.first_token_s,
            served_model=row.served_model,
        )
        for row in _joined(ledger, slots, sitter_id, columns, second=second)
    ]


def waiting_replies(
    ledger: Ledger, slots: Sequence[Slot], sitter_id: int, *, verdict: Verdict | None, second: bool = False
) -> list[WaitingReply]:
    """Return the replies that wait: for their first mark (verdict None), or as `open` for a judge.

    With `second` they are second tries.
    """
    marks, replies = schema.marks, schema.replies
    wanted = marks.c.id.is_(None) if verdict is None else marks.c.verdict == str(verdict)
    columns = (replies.c.id, replies.c.outcome, replies.c.text, marks.c.reason)
    conditions = (wanted, replies.c.outcome != str(Outcome.FAILED))
    rows = _joined(ledger, slots, sitter_id, columns, *conditions, second=second)
    return [WaitingReply(row.position, row.id, Outcome(row.outcome), row.text, row.reason) for row in rows]


def stored_replies(ledger: Ledger, slots: Sequence[Slot], sitter_id: int, *, second: bool = False) -> list[StoredReply]:
    """Return an entrant's replies that did not fail, with their marks under the present and under earlier keys."""
    replies, marks = schema.replies, schema.marks
    columns = (replies.c.id, replies.c.trial, replies.c.outcome, replies.c.text, *_MARK)
    rows = _joined(ledger, slots, sitter_id, columns, replies.c.outcome != str(Outcome.FAILED), second=second)
    earlier: dict[tuple[int, int], Mark] = {}
    if not second:
        with ledger.connected() as connection:
            fill_wanted(connection, slots)
            another = sa.or_(wanted.c.marking_id.is_(None), marks.c.marking_id != wanted.c.marking_id)
            other = sa.and_(marks.c.reply_id == replies.c.id, marks.c.current, another)
            query = (
                sa.select(wanted.c.position, replies.c.id, *_MARK)
                .join_from(wanted, replies, replies.c.ask_id == wanted.c.ask_id)
                .join(marks, other)
                .where(replies.c.sitter_id == sitter_id, replies.c.current)
                .order_by(wanted.c.position, marks.c.id)
            )
            # The last one in order is the latest.
            earlier = {(row.position, row.id): mark for row in connection.execute(query) if (mark := _mark(row))}
    return [
        StoredReply(
            position=row.position,
            reply_id=row.id,
            trial=row.trial,
            outcome=Outcome(row.outcome),
            text=row.text,
            present=_mark(row),
            earlier=earlier.get((row.position, row.id)),
        )
        for row in rows
    ]


def count_replies(ledger: Ledger) -> int:
    """Return how many replies the ledger holds, whoever gave them."""
    with ledger.connected() as connection:
        return int(connection.execute(sa.select(sa.func.count()).select_from(schema.replies)).scalar_one())


def void_questions(ledger: Ledger, suite: str) -> list[VoidQuestion]:
    """Return the questions of a suite that are void for everybody."""
    table = schema.voids
    query = sa.select(table).where(table.c.suite == suite, table.c.taken_back_at.is_(None)).order_by(table.c.id)
    with ledger.connected() as connection:
        return [VoidQuestion(row.question, row.marking_id, row.because) for row in connection.execute(query)]


def _mark(row: Any) -> Mark | None:
    """Return the mark in a row of `_MARK`; None where there is none."""
    if row.verdict is None:
        return None
    return Mark(
        score=row.score,
        verdict=Verdict(row.verdict),
        reason=row.reason,
        answer=row.answer,
        read_by=row.read_by,
        start=row.answer_start,
        end=row.answer_end,
        rule=row.rule,
        form_kept=row.form_kept,
        sure=row.sure is not False,
        unsure_because=row.unsure_because,
        by=row.marked_by or ("a person" if row.because is not None else "scheme"),
        because=row.because,
        outcome=row.mark_outcome,
    )


def typical_reply(ledger: Ledger, sitter_id: int) -> TypicalReply | None:
    """Return the means over an entrant's replies so far, or None when it has none that came whole."""
    replies = schema.replies
    columns = (sa.func.count(), sa.func.avg(replies.c.output_tokens), sa.func.avg(replies.c.seconds))
    with ledger.connected() as connection:
        query = sa.select(*columns).where(
            replies.c.sitter_id == sitter_id,
            replies.c.current,
            replies.c.outcome.in_([str(Outcome.ANSWERED), str(Outcome.CUT_OFF), str(Outcome.REFUSED)]),
        )
        count, output_tokens, seconds = connection.execute(query).one()
    return TypicalReply(count, float(output_tokens or 0), float(seconds or 0)) if count else None


def asked_anew_since(ledger: Ledger, suite: str, edition: str) -> dict[int, str]:
    """Return since when (UTC) an edition was last asked of each entrant anew, of whom it ever was."""
    runs, sittings = schema.runs, schema.sittings
    query = (
        sa.select(sittings.c.sitter_id, sittings.c.fresh_since)
        .join_from(sittings, runs, runs.c.id == sittings.c.run_id)
        .where(runs.c.suite == suite, runs.c.edition == edition, sittings.c.fresh_since.is_not(None))
        .order_by(sittings.c.id)
    )
    with ledger.connected() as connection:
        return {row.sitter_id: row.fresh_since for row in connection.execute(query)}


def digests_that_sat(ledger: Ledger, suite: str) -> set[str]:
    """Return the digests of all entrants that took part in a run of the suite, whatever its edition."""
    runs, sittings, sitters = schema.runs, schema.sittings, schema.sitters
    with ledger.connected() as connection:
        query = (
            sa.select(sitters.c.digest)
            .join_from(sittings, runs, runs.c.id == sittings.c.run_id)
            .join(sitters, sitters.c.id == sittings.c.sitter_id)
            .where(runs.c.suite == suite)
        )
        return set(connection.execute(query).scalars())


def earlier_sitters(ledger: Ledger, slots: Sequence[Slot], present: Mapping[str, str]) -> list[EarlierSitter]:
    """Return which of the entrants (name to digest) have replies to these questions under other settings too."""
    replies, sittings, sitters = schema.replies, schema.sittings, schema.sitters
    others = (
        sa.select(sitters.c.id)
        .distinct()
        .join_from(sitters, sittings, sittings.c.sitter_id == sitters.c.id)
        .where(sitters.c.digest.not_in(list(present.values())), sittings.c.entrant.in_(list(present)))
    )
    with ledger.connected() as connection:
        other_ids = connection.execute(others).scalars().all()
        if not other_ids:
            return []
        fill_wanted(connection, slots)
        query = (
            sa.select(
                sittings.c.entrant,
                sitters.c.digest,
                sa.func.count(sa.distinct(replies.c.id)).label("replies"),
            )
            .join_from(wanted, replies, replies.c.ask_id == wanted.c.ask_id)
            .join(sitters, sitters.c.id == replies.c.sitter_id)
            .join(sittings, sittings.c.id == replies.c.sitting_id)
            .where(replies.c.current, replies.c.sitter_id.in_(other_ids), sittings.c.entrant.in_(list(present)))
            .group_by(sittings.c.entrant, sitters.c.digest)
            .order_by(sittings.c.entrant, sitters.c.digest)
        )
        return [EarlierSitter(row.entrant, row.digest, row.replies) for row in connection.execute(query)]


_HELD_REPLY = (
    schema.replies.c.trial,
    schema.replies.c.outcome,
    schema.replies.c.seconds,
    schema.replies.c.input_tokens,
    schema.replies.c.output_tokens,
    schema.replies.c.received_at,
)
_MARK = (
    schema.marks.c.score,
    schema.marks.c.verdict,
    schema.marks.c.reason,
    schema.marks.c.answer,
    schema.marks.c.read_by,
    schema.marks.c.answer_start,
    schema.marks.c.answer_end,
    schema.marks.c.rule,
    schema.marks.c.form_kept,
    schema.marks.c.sure,
    schema.marks.c.unsure_because,
    schema.marks.c.marked_by,
    schema.marks.c.because,
    schema.marks.c.outcome.label("mark_outcome"),
)
_FULL = (
    schema.replies.c.text,
    schema.replies.c.reasoning,
    schema.replies.c.finish,
    schema.replies.c.cause,
    schema.replies.c.first_token_s,
    schema.replies.c.served_model,
)


def _joined(
    ledger: Ledger,
    slots: Sequence[Slot],
    sitter_id: int,
    columns: Sequence[Any],
    *conditions: Any,
    second: bool = False,
) -> Sequence[sa.Row[Any]]:
    """Return columns of the current replies to the questions and of their present marks.

    With `second` they are those of second tries, after current first tries that are marked a fail.
    """
    replies, marks = schema.replies, schema.marks
    with ledger.connected() as connection:
        fill_wanted(connection, slots)
        query = sa.select(wanted.c.position, *columns)
        if second:
            first, first_mark = replies.alias("first"), marks.alias("first_mark")
            failed = _present(first_mark, first) & (first_mark.c.verdict == str(Verdict.FAIL))
            query = (
                query.join_from(wanted, first, first.c.ask_id == wanted.c.ask_id)
                .join(first_mark, failed)
                .join(replies, replies.c.follows == first.c.id)
                .where(first.c.sitter_id == sitter_id, first.c.current)
            )
        else:
            query = query.join_from(wanted, replies, replies.c.ask_id == wanted.c.ask_id)
        query = (
            query.outerjoin(marks, _present(marks, replies))
            .where(replies.c.sitter_id == sitter_id, replies.c.current, *conditions)
            .order_by(wanted.c.position, replies.c.trial)
        )
        return connection.execute(query).all()


def _present(marks: Any, replies: Any) -> sa.ColumnElement[bool]:
    """Return the condition that joins replies with their marks under the questions' present keys."""
    return sa.and_(marks.c.reply_id == replies.c.id, marks.c.marking_id == wanted.c.marking_id, marks.c.current)


def fill_wanted(connection: sa.Connection, slots: Sequence[Slot]) -> None:
    """Put the questions that the next query of this connection is about into its table `wanted`."""
    wanted.create(connection, checkfirst=True)
    connection.execute(sa.delete(wanted))
    rows = [
        {"position": slot.position, "ask_id": slot.ask_id, "marking_id": slot.marking_id}
        for slot in slots
        if slot.ask_id is not None
    ]
    insert_rows(connection, wanted, rows)


def _held(row: Any) -> HeldReply:
    return HeldReply(
        position=row.position,
        reply_id=row.id,
        trial=row.trial,
        # how the asking ended once the text was read, where it has been
        outcome=Outcome(row.mark_outcome or row.outcome),
        mark=_mark(row),
        seconds=row.seconds,
        input_tokens=row.input_tokens,
        output_tokens=row.output_tokens,
        received_at=row.received_at,
    )
