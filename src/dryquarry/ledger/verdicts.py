"""What judges said of replies, as the ledger holds it."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dryquarry.ledger import schema
from dryquarry.ledger.rows import in_groups
from dryquarry.ledger.store import Ledger
from dryquarry.marking.judging.verdicts import Point


@dataclass(frozen=True, slots=True)
class StoredVerdict:
    """One judgement: who, of which reply, the `time`-th, by which digests, with what it came to and what it took."""

    reply_id: int
    marking_id: int
    judge: str
    judge_digest: str
    time: int
    request_digest: str | None
    points: tuple[Point, ...] | None
    problem: str | None
    text: str
    request: str | None
    steering: tuple[str, ...]
    again: bool
    seconds: float
    input_tokens: int | None
    output_tokens: int | None
    received_at: str


def verdicts_of(ledger: Ledger, reply_ids: Sequence[int]) -> list[StoredVerdict]:
    """Return all judgements of these replies, in the order in which they came."""
    names = [name for name in schema.verdicts.columns.keys() if name not in ("seal", "judge_id")]  # noqa: SIM118
    columns = ", ".join(f"verdicts.{name}" for name in names)
    found: list[StoredVerdict] = []
    with ledger.connected() as connection:
        for places, part in in_groups(list(dict.fromkeys(reply_ids))):
            query = (
                f"SELECT {columns}, sitters.digest AS judge_digest FROM verdicts "
                f"JOIN sitters ON sitters.id = verdicts.judge_id WHERE reply_id IN ({places}) ORDER BY verdicts.id"
            )
            found += [_verdict(row) for row in connection.exec_driver_sql(query, part).mappings()]
    return found


def _verdict(row: Mapping[Any, Any]) -> StoredVerdict:
    return StoredVerdict(
        reply_id=row["reply_id"],
        marking_id=row["marking_id"],
        judge=row["judge"],
        judge_digest=row["judge_digest"],
        time=row["time"] or 1,
        request_digest=row["request_digest"],
        points=None if row["points"] is None else tuple(Point(*one) for one in json.loads(row["points"])),
        problem=row["problem"],
        text=row["text"],
        request=row["request"],
        steering=tuple(json.loads(row["steering"])) if row["steering"] else (),
        again=bool(row["again"]),
        seconds=row["seconds"],
        input_tokens=row["input_tokens"],
        output_tokens=row["output_tokens"],
        received_at=row["received_at"],
    )
