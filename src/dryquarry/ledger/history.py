"""What the ledger knows of an entrant's past: its sittings, their settings, and what the service said it was."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import sqlalchemy as sa

from dryquarry.ledger import schema
from dryquarry.ledger.store import Ledger
from dryquarry.marking.received import ServedAs


@dataclass(frozen=True, slots=True)
class PastSitting:
    """One entrant's part of one run; times in UTC, absent where an earlier version or a kill left none.

    `settings` is all that entrants.toml said of the entrant then, `served` what the service said that it is.
    """

    suite: str
    edition: str
    started_at: str | None
    ended_at: str | None
    tool_version: str
    digest: str
    settings: Mapping[str, Any]
    replies: int
    served: tuple[ServedAs, ...]


def last_served(ledger: Ledger, digest: str) -> ServedAs | None:
    """Return what the service said that it is in the entrant's latest reply that says so."""
    replies, sitters = schema.replies, schema.sitters
    query = (
        sa.select(replies.c.served_model, replies.c.fingerprint)
        .join_from(sitters, replies, replies.c.sitter_id == sitters.c.id)
        .where(sitters.c.digest == digest, replies.c.served_model.is_not(None), replies.c.current)
        .order_by(replies.c.id.desc())
        .limit(1)
    )
    with ledger.connected() as connection:
        row = connection.execute(query).first()
    return ServedAs(row.served_model, row.fingerprint) if row else None


def past_sittings(ledger: Ledger, entrant: str) -> list[PastSitting]:
    """Return the sittings of everything that was ever run under an entrant's name, the latest first."""
    runs, sittings, sitters = schema.runs, schema.sittings, schema.sitters
    query = (
        sa.select(
            sittings.c.id,
            runs.c.suite,
            runs.c.edition,
            sa.func.coalesce(sittings.c.started_at, runs.c.started_at).label("started_at"),
            sittings.c.ended_at,
            runs.c.tool_version,
            sitters.c.digest,
            sa.func.coalesce(sittings.c.settings, sitters.c.content).label("settings"),
        )
        .join_from(sittings, runs, runs.c.id == sittings.c.run_id)
        .join(sitters, sitters.c.id == sittings.c.sitter_id)
        .where(sittings.c.entrant == entrant)
        .order_by(sittings.c.id.desc())
    )
    with ledger.connected() as connection:
        rows = [(row, _served(connection, row.id)) for row in connection.execute(query).all()]
        return [
            PastSitting(
                suite=row.suite,
                edition=row.edition,
                started_at=row.started_at,
                ended_at=row.ended_at,
                tool_version=row.tool_version,
                digest=row.digest,
                settings=json.loads(row.settings),
                replies=sum(count for _, count in served),
                served=tuple(one for one, _ in served if one is not None),
            )
            for row, served in rows
        ]


def _served(connection: sa.Connection, sitting_id: int) -> Sequence[tuple[ServedAs | None, int]]:
    replies = schema.replies
    columns = (replies.c.served_model, replies.c.fingerprint)
    query = sa.select(*columns, sa.func.count(), sa.func.min(replies.c.id)).where(replies.c.sitting_id == sitting_id)
    rows = connection.execute(query.group_by(*columns).order_by(sa.func.min(replies.c.id))).all()
    return [(ServedAs(model, fingerprint) if model else None, count) for model, fingerprint, count, _ in rows]
