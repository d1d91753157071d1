"""Everything that an entrant ever replied to questions, also what later replies took the place of."""

from __future__ import annotations

import json
from collections.abc import Sequence
from dataclasses import dataclass

import sqlalchemy as sa

from dryquarry.ledger import schema
from dryquarry.ledger.queries import fill_wanted, wanted
from dryquarry.ledger.records import Slot
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome


@dataclass(frozen=True, slots=True)
class Try:
    """One first try: which question at which place of the suite, when it came (UTC), and its present mark."""

    position: int
    trial: int
    reply_id: int
    received_at: str
    outcome: Outcome
    score: float | None
    verdict: Verdict | None
    seconds: float | None
    first_token_s: float | None
    input_tokens: int | None
    output_tokens: int | None


@dataclass(frozen=True, slots=True)
class PastAsking:
    """One sitting of an edition: when it began, and since when everything was asked anew, if so (UTC)."""

    edition: str
    started_at: str
    fresh_since: str | None


@dataclass(frozen=True, slots=True)
class PastSitter:
    """Settings under which an entrant's name sat a suite: their row and digest, what the model was called, and when."""

    sitter_id: int
    digest: str
    model: str
    askings: tuple[PastAsking, ...]


def past_sitters(ledger: Ledger, suite: str, entrant: str) -> list[PastSitter]:
    """Return under which settings a name sat any edition of a suite, the first first."""
    runs, sittings, sitters = schema.runs, schema.sittings, schema.sitters
    started = sa.func.coalesce(sittings.c.started_at, runs.c.started_at).label("started")
    query = (
        sa.select(sitters.c.id, sitters.c.digest, sitters.c.content, runs.c.edition, started, sittings.c.fresh_since)
        .join_from(sittings, runs, runs.c.id == sittings.c.run_id)
        .join(sitters, sitters.c.id == sittings.c.sitter_id)
        .where(runs.c.suite == suite, sittings.c.entrant == entrant)
        .order_by(sittings.c.id)
    )
    with ledger.connected() as connection:
        rows = connection.execute(query).all()
    askings: dict[int, list[PastAsking]] = {}
    for row in rows:
        askings.setdefault(row.id, []).append(PastAsking(row.edition, row.started, row.fresh_since))
    first = {row.id: row for row in reversed(rows)}
    return [
        PastSitter(one, first[one].digest, str(json.loads(first[one].content).get("model", "")), tuple(each))
        for one, each in askings.items()
    ]


def all_tries(ledger: Ledger, slots: Sequence[Slot], sitter_id: int) -> list[Try]:
    """Return all of a sitter's first tries at the questions, in the order in which they came."""
    replies, marks, sittings = schema.replies, schema.marks, schema.sittings
    present = sa.and_(marks.c.reply_id == replies.c.id, marks.c.marking_id == wanted.c.marking_id, marks.c.current)
    outcome = sa.func.coalesce(marks.c.outcome, replies.c.outcome).label("ended")
    query = (
        sa.select(wanted.c.position, replies, outcome, marks.c.score, marks.c.verdict)
        .join_from(sittings, replies, replies.c.sitting_id == sittings.c.id)
        .join(wanted, wanted.c.ask_id == replies.c.ask_id)
        .outerjoin(marks, present)
        .where(sittings.c.sitter_id == sitter_id, replies.c.follows.is_(None))
        .order_by(replies.c.id)
    )
    with ledger.connected() as connection:
        fill_wanted(connection, slots)
        return [
            Try(
                row.position,
                row.trial,
                row.id,
                row.received_at,
                Outcome(row.ended),
                row.score,
                None if row.verdict is None else Verdict(row.verdict),
                row.seconds,
                row.first_token_s,
                row.input_tokens,
                row.output_tokens,
            )
            for row in connection.execute(query)
        ]
