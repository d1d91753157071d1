"""Queries put to fresh copies of a small database, in the sandbox."""

from __future__ import annotations

import json
from dataclasses import asdict, replace

from dryquarry.marking.schemes.query import KEY, REPLY
from dryquarry.marking.works.jobs import QueryJob
from dryquarry.marking.works.results import Ended, Ran, RunResult
from dryquarry.sandbox.box import Box, Start
from dryquarry.sandbox.languages import HARNESS, Runtime
from dryquarry.sandbox.running import run

MOST_ANSWER_KB = 8192


def run_query(box: Box, job: QueryJob, runtime: Runtime) -> RunResult:
    """Return what the reply's query gave, and the key's where there is one."""
    ran = [_put(box, job, runtime, REPLY, job.work.text)]
    if job.key_query is not None:
        ran.append(_put(box, job, runtime, KEY, job.key_query))
    return RunResult(
        runtime.version,
        tuple(ran),
        seconds=round(sum(one.seconds for one in ran), 3),
        memory_mb=max(one.memory_mb for one in ran),
    )


def _put(box: Box, job: QueryJob, runtime: Runtime, name: str, query: str) -> Ran:
    """Put one query to a fresh copy of the database."""
    wish = {"files": [asdict(one) for one in job.database], "query": query, "changes": job.changes}
    start = Start(
        (*runtime.command, f"{HARNESS}/sql_servant.py"),
        input=json.dumps(wish).encode("utf-8"),
        sees=runtime.sees,
        hides=runtime.hides,
        limits=replace(job.limits, output_kb=MOST_ANSWER_KB),
    )
    came = run(box, start)
    seconds, memory_mb = came.seconds, came.memory_mb
    if came.ended is not Ended.DONE or came.exit_code != 0:
        ended = came.ended if came.ended is not Ended.DONE else Ended.CRASHED
        return Ran(name, ended, detail=came.err_text.strip()[-300:], seconds=seconds, memory_mb=memory_mb)
    said = json.loads(came.out)
    if "value" in said:
        return Ran(name, Ended.DONE, value=said["value"], seconds=seconds, memory_mb=memory_mb)
    return Ran(
        name,
        Ended.RAISED,
        raised=tuple(said["raised"]),
        detail=said["message"][:300],
        seconds=seconds,
        memory_mb=memory_mb,
    )
