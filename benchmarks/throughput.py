"""A run against the stand-in, everything recorded and marked, beside a bare aiohttp loop in the same minute.

Limits: at least half of the bare loop's rate when replies come at once, and 1.15 × the ideal time when each
takes 50 ms; 5,000 questions, 64 in flight. Reading the suite's YAML is left out: it is timed apart.
"""

from __future__ import annotations

import asyncio
import tempfile
from pathlib import Path

import aiohttp
from common import report, seconds, standin, workspace

from dryquarry.asking.protocol import messages_for, request_body
from dryquarry.ledger.store import Ledger
from dryquarry.standin.bank import demo_bank
from dryquarry.workspace import Workspace, running

QUESTIONS = 5000
IN_FLIGHT = 64


class Silent:
    """A watcher that shows nothing."""

    def planned(self, plan: object) -> None:
        """Ignore the plan."""

    def received(self, asked: object) -> None:
        """Ignore replies."""

    def judging(self, done: int, of: int) -> None:
        """Ignore verdicts."""

    def running(self, done: int, of: int) -> None:
        """Ignore programs."""

    def trying_again(self, entrant: str, wanted: int) -> None:
        """Ignore second tries."""


async def bare_loop(url: str, bodies: list[bytes]) -> None:
    remaining = iter(bodies)
    connector = aiohttp.TCPConnector(limit=IN_FLIGHT)
    async with aiohttp.ClientSession(connector=connector) as session:

        async def work() -> None:
            for body in remaining:
                async with session.post(f"{url}/chat/completions", data=body) as response:
                    await response.read()

        await asyncio.gather(*(work() for _ in range(IN_FLIGHT)))


def measured_run(opened: Workspace) -> float:
    suite, known = opened.suites.get("sums"), opened.entrants()
    ledger = Ledger.write(opened.folder.ledger_path, "benchmark")
    everyone = list(known.entrants.values())
    took = seconds(lambda: running.run(ledger, suite, everyone, running.Means({}, demo_bank()), Silent()))
    ledger.close()
    return took


def main() -> None:
    for reply_s in (0.0, 0.05):
        with standin(reply_s) as url, tempfile.TemporaryDirectory() as folder:
            workspace(Path(folder), url, QUESTIONS, IN_FLIGHT)
            opened = Workspace.open(Path(folder))
            entrant = opened.entrants().entrants["knot"]
            questions = opened.suites.get("sums").asked()
            bodies = [request_body(entrant, messages_for(entrant, one.ask)[0]) for one in questions]
            asyncio.run(bare_loop(url, bodies))  # so that the stand-in knows the questions when it counts
            bare = seconds(lambda: asyncio.run(bare_loop(url, bodies)))
            took = measured_run(opened)
            if reply_s == 0:
                print(f"bare aiohttp loop: {QUESTIONS / bare:.0f} replies/s")
                report(
                    "run, replies at once",
                    QUESTIONS / took,
                    QUESTIONS / bare / 2,
                    "replies/s",
                    more_is_better=True,
                )
            else:
                ideal = QUESTIONS / IN_FLIGHT * reply_s
                print(f"bare aiohttp loop: {bare / ideal:.2f} × the ideal time")
                report("run, 50 ms a reply", took, 1.15 * ideal, "s")


if __name__ == "__main__":
    main()
