"""Asking a suite of entrants: the plan, the run, and what became of it."""

from __future__ import annotations

import asyncio
import signal
from collections.abc import AsyncIterator, Coroutine, Iterator, Mapping, Sequence
from contextlib import AsyncExitStack, asynccontextmanager, contextmanager
from dataclasses import dataclass
from functools import partial
from typing import Any, Protocol, TypeVar

from filelock import FileLock, Timeout

from dryquarry.asking.budget import Purse
from dryquarry.asking.engine import Asked, Stop, Wanted, ask_entrant
from dryquarry.asking.entrants import STANDIN, Entrant
from dryquarry.asking.judging import ToJudge, judge_all
from dryquarry.asking.protocol import Load, no_files
from dryquarry.asking.transport import HttpTransport, headers_for
from dryquarry.errors import FileFault, UsageFault
from dryquarry.ledger.records import Judged
from dryquarry.ledger.store import Ledger
from dryquarry.standin.bank import Bank
from dryquarry.standin.server import Standin, serving
from dryquarry.suites.question import Suite
from dryquarry.workspace.marking import (
    JudgeWork,
    judge_for,
    judge_work,
    mark_waiting,
    marks_by_ask,
    record_and_mark,
    settle,
)
from dryquarry.workspace.planning import RunPlan, SittingPlan, plan_run

Result = TypeVar("Result")


@dataclass(frozen=True, slots=True)
class RunSummary:
    """What a run did: per entrant what was asked, the marks given, and what is still open or missing."""

    reference: str
    asked: tuple[Asked, ...]
    marked: int
    judged: int
    unreadable_verdicts: int
    open_without_judge: int
    interrupted: bool

    @property
    def missing(self) -> int:
        """How many of the wanted replies could not be had."""
        return sum(one.wanted - one.received + one.failed for one in self.asked)


class Watcher(Protocol):
    """Who is told how a run goes on."""

    def planned(self, plan: RunPlan) -> None:
        """Tell what will be asked."""
        ...

    def received(self, asked: Asked) -> None:
        """Tell that replies of an entrant came and are stored."""
        ...

    def judging(self, done: int, of: int) -> None:
        """Tell how many verdicts are in."""
        ...


def run(
    ledger: Ledger,
    suite: Suite,
    entrants: Sequence[Entrant],
    judges: Mapping[str, Entrant],
    bank: Bank,
    watcher: Watcher,
    *,
    load: Load = no_files,
    trials: int = 1,
    budget: float | None = None,
    fresh: bool = False,
) -> RunSummary:
    """Ask what is missing, then mark what is unmarked; returns also when a person or the budget stopped it.

    `trials` is how many replies each question is to have. `budget` is the most that the run may cost, in the
    entrants' currency. `load` gives the bytes of a file. With `fresh` everything is asked anew; the earlier
    replies are kept, and no longer count.

    Raises UsageFault before anything is asked when an entrant has no endpoint, a key is not set or a
    named judge is unknown, and FileFault when another run is using the ledger.
    """
    _check_ready(suite, entrants, judges, budget)
    with alone(ledger):
        ledger.note_questions(suite.asked())
        plan = plan_run(ledger, suite, entrants, trials=trials, fresh=fresh)
        watcher.planned(plan)
        run_id = ledger.begin_run(suite.name, suite.edition)
        stop = Stop()
        asked = in_loop(_ask_all(ledger, run_id, plan, bank, watcher, stop, Purse(budget), load))
        marked = sum(one.received - one.failed for one in asked) + mark_waiting(ledger, suite, entrants)
        work = [] if stop.asked else judge_work(ledger, suite, entrants, judges)
        judged, unreadable = in_loop(_judge_all(ledger, work, bank, watcher, stop))
        ledger.end_run(run_id)
    without = sum(len(one.waiting) for one in work if one.judge is None)
    return RunSummary(suite.reference, tuple(asked), marked, judged, unreadable, without, stop.asked)


@asynccontextmanager
async def endpoints(people: Sequence[Entrant], bank: Bank) -> AsyncIterator[Mapping[str, str]]:
    """Give each person's endpoint by name, with the stand-in serving while the context lasts if needed."""
    async with AsyncExitStack() as stack:
        address = ""
        if any(person.endpoint == STANDIN for person in people):
            address = await stack.enter_async_context(serving(Standin(bank)))
        yield {person.name: address if person.endpoint == STANDIN else person.endpoint or "" for person in people}


@contextmanager
def alone(ledger: Ledger) -> Iterator[None]:
    """Hold the lock that one run at a time has; raises FileFault when another one has it.

    The system lets go of the lock when its holder ends, however it ends.
    """
    path = ledger.path.with_name("run.lock")
    lock = FileLock(path)
    try:
        lock.acquire(timeout=0)
    except Timeout:
        raise FileFault(
            f"another run is using the ledger {ledger.path}; wait until it has ended, "
            "then run again: replies it has stored will not be asked for twice"
        ) from None
    except OSError as error:
        raise FileFault(
            f"the lock {path} cannot be written: {error.strerror}; "
            "make the folder writable, or work in a copy of the workspace"
        ) from None
    try:
        yield
    finally:
        lock.release()


def in_loop(work: Coroutine[Any, Any, Result]) -> Result:
    """Run a coroutine in an event loop of its own, the fast one where there is one."""
    try:
        import uvloop
    except ImportError:  # not made for every system
        return asyncio.run(work)
    with asyncio.Runner(loop_factory=uvloop.new_event_loop) as runner:
        return runner.run(work)


def _check_ready(
    suite: Suite, entrants: Sequence[Entrant], judges: Mapping[str, Entrant], budget: float | None
) -> None:
    for question in suite.asked():
        judge_for(question, judges)
    for entrant in entrants:
        if entrant.endpoint is None:
            raise UsageFault(
                f"entrant '{entrant.name}' has no endpoint, so its replies must be collected by hand; "
                "give it one in entrants.toml, or leave it out of this run"
            )
        headers_for(entrant)
        if budget is not None and entrant.price is None:
            raise UsageFault(
                f"entrant '{entrant.name}' has no price, so no budget can be kept; "
                "give it one in entrants.toml, or leave it out of this run"
            )


async def _ask_all(
    ledger: Ledger,
    run_id: int,
    plan: RunPlan,
    bank: Bank,
    watcher: Watcher,
    stop: Stop,
    purse: Purse,
    load: Load,
) -> list[Asked]:
    sittings = [sitting for sitting in plan.sittings if sitting.to_ask]
    if not sittings:
        return []
    in_flight = sum(sitting.entrant.limits.in_flight for sitting in sittings)
    by_ask = marks_by_ask(ledger, plan.suite)
    with _interruptible(stop):
        async with (
            endpoints([one.entrant for one in sittings], bank) as urls,
            HttpTransport(in_flight) as http,
        ):
            tasks = []
            for sitting in sittings:
                entrant = sitting.entrant
                sitter_id = ledger.note_sitter(entrant.digest, entrant.content)
                sitting_id = ledger.begin_sitting(run_id, sitter_id, entrant.name, entrant.endpoint)
                wanted = _distinct(sitting)
                record = partial(record_and_mark, ledger, sitting_id, sitter_id, by_ask)
                tasks.append(
                    ask_entrant(entrant, urls[entrant.name], wanted, http, record, stop, purse, watcher.received, load)
                )
            return await asyncio.gather(*tasks)


async def _judge_all(
    ledger: Ledger, work: Sequence[JudgeWork], bank: Bank, watcher: Watcher, stop: Stop
) -> tuple[int, int]:
    """Have every judge work through what waits for it; return the readable and unreadable verdicts."""
    work = [one for one in work if one.judge is not None]
    total = sum(len(one.waiting) for one in work)
    done: list[Judged] = []
    with _interruptible(stop):
        async with AsyncExitStack() as stack:
            judges = [one.judge for one in work if one.judge is not None]
            urls = await stack.enter_async_context(endpoints(judges, bank))
            for one, judge in zip(work, judges, strict=True):
                http = await stack.enter_async_context(HttpTransport(judge.limits.in_flight))
                judge_id = ledger.note_sitter(judge.digest, judge.content)

                def on_judged(one: ToJudge, judged: Judged, judge: Entrant = judge, judge_id: int = judge_id) -> None:
                    settle(ledger, judge_id, judge, one, judged)
                    done.append(judged)
                    watcher.judging(len(done), total)

                await judge_all(judge, urls[judge.name], one.waiting, http, on_judged, stop)
    readable = sum(judged.points is not None for judged in done)
    return readable, len(done) - readable


def _distinct(sitting: SittingPlan) -> list[Wanted]:
    """Two questions that ask the same thing share one reply."""
    wanted = (
        Wanted(one.question.ask, one.question.ask_digest, one.trial, sitting.most_for_one) for one in sitting.to_ask
    )
    return list({(one.ask_digest, one.trial): one for one in wanted}.values())


@contextmanager
def _interruptible(stop: Stop) -> Iterator[None]:
    """While the context lasts, Ctrl-C is a wish to stop and not an exception."""
    loop = asyncio.get_running_loop()
    try:
        loop.add_signal_handler(signal.SIGINT, stop.ask)
    except (NotImplementedError, RuntimeError, ValueError):
        # Not the main thread, or a system without signals for loops: Ctrl-C stays an exception.
        yield
        return
    try:
        yield
    finally:
        loop.remove_signal_handler(signal.SIGINT)
