"""What people decided at the marking desk, and the random samples that they were asked about."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dryquarry.ledger import schema
from dryquarry.ledger.rows import in_groups, now_utc
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Verdict

AUDIT, OPEN, UNSURE, DISPUTED, SECOND, REPEAT, AMENDED = (
    "audit",
    "open",
    "unsure",
    "disputed",
    "second",
    "repeat",
    "amended",
)
WHYS = (OPEN, UNSURE, DISPUTED, AUDIT, SECOND, REPEAT, AMENDED)


@dataclass(frozen=True, slots=True)
class Decision:
    """A person's mark of a reply, with why it was asked for; `points` by criterion where the question has a rubric.

    `seconds` is how long it took, `decided_at` UTC, `row` its row in the ledger (0 before it is stored).
    """

    reply_id: int
    marking_id: int
    person: str
    verdict: Verdict
    score: float | None
    points: Mapping[str, float] | None
    note: str | None
    why_asked: str
    seconds: float | None = None
    decided_at: str = ""
    row: int = 0


@dataclass(frozen=True, slots=True)
class Draw:
    """A reply drawn for an audit: from a stratum of so many, with this probability."""

    reply_id: int
    marking_id: int
    stratum: str
    stratum_size: int
    probability: float


def record_decision(ledger: Ledger, decision: Decision) -> int:
    """Store a decision at once, and return its row."""
    row = {
        "reply_id": decision.reply_id,
        "marking_id": decision.marking_id,
        "person": decision.person,
        "verdict": str(decision.verdict),
        "score": decision.score,
        "points": None if decision.points is None else json.dumps(dict(decision.points)),
        "note": decision.note,
        "why_asked": decision.why_asked,
        "seconds": decision.seconds,
        "decided_at": now_utc(),
    }
    with ledger.writing() as writing:
        return writing.insert(schema.decisions, [row])[0]


def take_back_decision(ledger: Ledger, row: int) -> None:
    """Note that a decision stands no longer."""
    with ledger.writing() as writing:
        writing.change_where(schema.decisions, {"taken_back_at": now_utc()}, schema.decisions.c.id == row)


def decisions_on(ledger: Ledger, reply_ids: Sequence[int]) -> list[Decision]:
    """Return the standing decisions on these replies, in the order in which they were made."""
    table = schema.decisions
    names = ", ".join(name for name in table.columns.keys() if name != "seal")  # noqa: SIM118
    found: list[Decision] = []
    with ledger.connected() as connection:
        for places, part in in_groups(list(dict.fromkeys(reply_ids))):
            query = f"SELECT {names} FROM decisions WHERE reply_id IN ({places}) AND taken_back_at IS NULL ORDER BY id"
            found += [_decision(row) for row in connection.exec_driver_sql(query, part).mappings()]
    return sorted(found, key=lambda one: one.row)


def record_audit(ledger: Ledger, suite: str, edition: str, seed: int, draws: Sequence[Draw]) -> None:
    """Store a random sample with the probabilities of its draws."""
    with ledger.writing() as writing:
        audit = {"suite": suite, "edition": edition, "seed": seed, "drawn_at": now_utc()}
        (audit_id,) = writing.insert(schema.audits, [audit])
        rows = [
            {
                "audit_id": audit_id,
                "reply_id": one.reply_id,
                "marking_id": one.marking_id,
                "stratum": one.stratum,
                "stratum_size": one.stratum_size,
                "probability": one.probability,
            }
            for one in draws
        ]
        writing.insert(schema.draws, rows)


def draws_of(ledger: Ledger, reply_ids: Sequence[int]) -> list[Draw]:
    """Return the draws of these replies, in the order in which they were drawn."""
    found: list[tuple[int, Draw]] = []
    with ledger.connected() as connection:
        for places, part in in_groups(list(dict.fromkeys(reply_ids))):
            query = (
                "SELECT id, reply_id, marking_id, stratum, stratum_size, probability FROM draws "
                f"WHERE reply_id IN ({places})"
            )
            found += [(row[0], Draw(*row[1:])) for row in connection.exec_driver_sql(query, part)]
    return [one for _, one in sorted(found, key=lambda pair: pair[0])]


def has_draws(ledger: Ledger, suite: str) -> bool:
    """Tell whether replies to a suite were ever drawn for an audit."""
    with ledger.connected() as connection:
        found = connection.exec_driver_sql("SELECT 1 FROM audits WHERE suite = ? LIMIT 1", (suite,)).first()
    return found is not None


def replaced_decisions(ledger: Ledger, suite: str, person: str) -> int:
    """Return how many of a person's standing decisions are about replies that others have taken the place of."""
    query = (
        "SELECT count(*) FROM decisions JOIN replies ON replies.id = decisions.reply_id "
        "JOIN sittings ON sittings.id = replies.sitting_id JOIN runs ON runs.id = sittings.run_id "
        "WHERE runs.suite = ? AND decisions.person = ? AND decisions.taken_back_at IS NULL AND NOT replies.current"
    )
    with ledger.connected() as connection:
        return int(connection.exec_driver_sql(query, (suite, person)).scalar() or 0)


def _decision(row: Mapping[Any, Any]) -> Decision:
    return Decision(
        row["reply_id"],
        row["marking_id"],
        row["person"],
        Verdict(row["verdict"]),
        row["score"],
        None if row["points"] is None else json.loads(row["points"]),
        row["note"],
        row["why_asked"],
        row["seconds"],
        row["decided_at"],
        row["id"],
    )
