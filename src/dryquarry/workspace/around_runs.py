"""What holds while a run lasts: its lock on the ledger, its endpoints, its event loop, Ctrl-C as a wish to stop."""

from __future__ import annotations

import asyncio
import gc
import signal
from collections.abc import AsyncIterator, Callable, Coroutine, Iterator, Mapping, Sequence
from contextlib import AsyncExitStack, asynccontextmanager, contextmanager
from typing import Any, TypeVar

from filelock import FileLock, Timeout

from dryquarry.asking.calling import Stop
from dryquarry.asking.entrants import STANDIN, Entrant
from dryquarry.errors import FileFault
from dryquarry.ledger.store import Ledger
from dryquarry.standin.bank import Bank

Result = TypeVar("Result")


@asynccontextmanager
async def endpoints(people: Sequence[Entrant], bank: Bank) -> AsyncIterator[Mapping[str, str]]:
    """Give each person's endpoint by name, with the stand-in serving while the context lasts if needed."""
    async with AsyncExitStack() as stack:
        address = ""
        if any(person.endpoint == STANDIN for person in people):
            from dryquarry.standin.server import Standin, serving

            address = await stack.enter_async_context(serving(Standin(bank)))
        yield {person.name: address if person.endpoint == STANDIN else person.endpoint or "" for person in people}


@contextmanager
def alone(ledger: Ledger, on_waiting: Callable[[], None] | None = None) -> Iterator[None]:
    """Hold the lock that one run at a time has; raises FileFault when another one has it.

    With `on_waiting` the end of the other one is waited for, and that is called first. The system lets go of the lock
    when its holder ends, however it ends.
    """
    path = ledger.path.with_name("run.lock")
    lock = FileLock(path)
    try:
        lock.acquire(timeout=0)
    except Timeout:
        if on_waiting is None:
            raise FileFault(
                f"another run is using the ledger {ledger.path}; wait until it has ended, "
                "then run again: replies it has stored will not be asked for twice"
            ) from None
        on_waiting()
        lock.acquire(timeout=-1, poll_interval=0.2)
    except OSError as error:
        raise FileFault(
            f"the lock {path} cannot be written: {error.strerror}; "
            "make the folder writable, or work in a copy of the workspace"
        ) from None
    try:
        yield
    finally:
        lock.release()


@contextmanager
def lasting_objects_left_alone() -> Iterator[None]:
    """Keep the garbage collector from going through the suite, which stays, again and again while replies come."""
    gc.freeze()
    try:
        yield
    finally:
        gc.unfreeze()


def in_loop(work: Coroutine[Any, Any, Result]) -> Result:
    """Run a coroutine in an event loop of its own, the fast one where there is one."""
    try:
        import uvloop
    except ImportError:  # not made for every system
        return asyncio.run(work)
    try:
        with asyncio.Runner(loop_factory=uvloop.new_event_loop) as runner:
            return runner.run(work)
    finally:
        work.close()  # where not even a loop could be had; done with otherwise


@contextmanager
def interruptible(stop: Stop) -> Iterator[None]:
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
