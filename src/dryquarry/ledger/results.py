"""What came of running the works in replies, and pictures of it, as the ledger holds them."""

from __future__ import annotations

import base64
import json
from collections.abc import Iterable, Mapping

import sqlalchemy as sa

from dryquarry.ledger import schema
from dryquarry.ledger.rows import in_groups, now_utc
from dryquarry.ledger.store import Ledger
from dryquarry.marking.works.results import RunResult, result_content, result_of


def record_results(ledger: Ledger, results: Mapping[str, RunResult]) -> None:
    """Store what came of jobs, by their digests."""
    now = now_utc()
    rows = [
        {
            "job": digest,
            "runtime": result.runtime,
            "content": json.dumps(result_content(result), ensure_ascii=False, separators=(",", ":")),
            "ran_at": now,
        }
        for digest, result in results.items()
    ]
    record_pictures(ledger, {name: png for result in results.values() for name, png in result.images.items()})
    if rows:
        with ledger.writing() as writing:
            writing.insert(schema.results, rows)


def results_of(ledger: Ledger, jobs: Iterable[str], runtimes: Mapping[str, str] | None = None) -> dict[str, RunResult]:
    """Return the latest result of each job that has one, by its digest.

    With `runtimes`, which give the runtime that a job would be run with now, only what was run with just that.
    """
    found: dict[str, RunResult] = {}
    with ledger.connected() as connection:
        for places, part in in_groups(list(dict.fromkeys(jobs))):
            query = f"SELECT job, runtime, content FROM results WHERE job IN ({places}) ORDER BY id"
            for job, runtime, content in connection.exec_driver_sql(query, part):
                if runtimes is None or runtimes.get(job) == runtime:
                    found[job] = result_of(json.loads(content))
    return found


def record_pictures(ledger: Ledger, pictures: Mapping[str, bytes]) -> None:
    """Store pictures by their digests, as far as they are not stored yet."""
    if not pictures:
        return
    with ledger.writing() as writing:
        table = schema.pictures
        known = set(
            writing.connection.execute(sa.select(table.c.digest).where(table.c.digest.in_(list(pictures)))).scalars()
        )
        new = [
            {"digest": digest, "png": base64.b64encode(png).decode("ascii")}
            for digest, png in pictures.items()
            if digest not in known
        ]
        if new:
            writing.insert(table, new)


def picture_of(ledger: Ledger, digest: str) -> bytes | None:
    """Return a picture by its digest, or None."""
    with ledger.connected() as connection:
        png = connection.exec_driver_sql("SELECT png FROM pictures WHERE digest = ?", (digest,)).scalar()
    return None if png is None else base64.b64decode(str(png))
