"""The run engine: asks what is wanted, so many at a time, and hands on every reply as it arrives.

Workers take questions from one list and put replies in a queue. One recorder takes what has gathered there,
stores it in one transaction, and only then reports it as received. So what was reported is in the ledger
whatever happens next, and a fast service is met with large transactions, a slow one with small ones.
"""

from __future__ import annotations

import asyncio
import random
import time
from collections.abc import Callable, Iterator, Sequence
from contextlib import suppress
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from typing import Any

from dryquarry.asking.budget import Purse
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.pacing import Pace
from dryquarry.asking.protocol import Load, Message, messages_for, no_files, read_response, request_body
from dryquarry.asking.retrying import THROTTLED, backoff_s, is_transient, retry_after_s
from dryquarry.asking.transport import NoResponse, Transport, chat_url, headers_for
from dryquarry.ledger.records import Received, Reply
from dryquarry.marking.outcomes import Outcome
from dryquarry.suites.ask import Ask

FAILURES_TO_GIVE_UP = 8
GRACE_S = 5.0
MOST_IN_ONE_BATCH = 500


@dataclass(frozen=True, slots=True)
class Wanted:
    """One reply to be had: the trial-th to an ask; `most_cost` is the most that it can cost."""

    ask: Ask
    ask_digest: str
    trial: int = 1
    most_cost: float = 0.0


@dataclass
class Asked:
    """What became of one entrant's part of a run; `gave_up` says why when questions were left unasked."""

    entrant: str
    wanted: int
    received: int = 0
    failed: int = 0
    retried: int = 0
    cost: float = 0.0
    causes: dict[str, int] = field(default_factory=dict)
    gave_up: str | None = None


class Stop:
    """A person's wish to stop: once, no new questions and a few seconds for those in flight; twice, now."""

    def __init__(self) -> None:
        self.times = 0
        self._asked = asyncio.Event()
        self._now = asyncio.Event()

    def ask(self) -> None:
        """Note the wish once more."""
        self.times += 1
        self._asked.set()
        if self.times > 1:
            self._now.set()

    @property
    def asked(self) -> bool:
        """Whether a stop was asked for."""
        return self._asked.is_set()

    async def sleep(self, seconds: float) -> None:
        """Sleep, but no longer than until a stop is asked for."""
        with suppress(TimeoutError):
            await asyncio.wait_for(self._asked.wait(), seconds)

    async def final(self) -> None:
        """Return when waiting is over: a few seconds after the first wish, or at the second."""
        await self._asked.wait()
        with suppress(TimeoutError):
            await asyncio.wait_for(self._now.wait(), GRACE_S)


Record = Callable[[Sequence[Reply]], None]
OnReceived = Callable[[Asked], None]


async def ask_entrant(
    entrant: Entrant,
    endpoint: str,
    wanted: Sequence[Wanted],
    transport: Transport,
    record: Record,
    stop: Stop,
    purse: Purse | None = None,
    on_received: OnReceived = lambda asked: None,
    load: Load = no_files,
) -> Asked:
    """Ask one entrant everything wanted; return what became of it.

    `record` stores a batch of replies and is called in a thread; `on_received` is told after it returned; `load`
    gives the bytes of a file that goes with a question.
    Raises UsageFault when the entrant's key is not in the environment.
    """
    asked = Asked(entrant.name, len(wanted))
    sitting = _Sitting(
        entrant, chat_url(endpoint), headers_for(entrant), transport, asked, stop, purse or Purse(), load
    )
    recorder = asyncio.create_task(_record_all(sitting.queue, record, asked, on_received))
    remaining = iter(wanted)
    workers = [asyncio.create_task(sitting.work(remaining)) for _ in range(min(entrant.limits.in_flight, len(wanted)))]
    ending = asyncio.create_task(stop.final())
    everyone = asyncio.gather(*workers)
    try:
        waited: list[asyncio.Future[Any]] = [everyone, ending, recorder]
        await asyncio.wait(waited, return_when=asyncio.FIRST_COMPLETED)
    finally:
        for worker in workers:
            worker.cancel()
        ending.cancel()
        results = await asyncio.gather(everyone, return_exceptions=True)
        if not recorder.done():
            await sitting.queue.put(None)
        await recorder  # a failure to store ends the run here
    for result in results:
        if isinstance(result, Exception):
            raise result
    return asked


class _Sitting:
    """The state that one entrant's workers share."""

    def __init__(
        self,
        entrant: Entrant,
        url: str,
        headers: dict[str, str],
        transport: Transport,
        asked: Asked,
        stop: Stop,
        purse: Purse,
        load: Load,
    ):
        self.entrant = entrant
        self.url = url
        self.headers = headers
        self.transport = transport
        self.asked = asked
        self.stop = stop
        self.purse = purse
        self.load = load
        self.uniform = random.Random().uniform
        self.queue: asyncio.Queue[Reply | None] = asyncio.Queue(maxsize=4 * MOST_IN_ONE_BATCH)
        self.failures_in_a_row = 0
        self.pace = Pace(entrant.limits)

    async def work(self, remaining: Iterator[Wanted]) -> None:
        """Ask one question after another until none is left, a stop is wished, or the service is down."""
        for wanted in remaining:
            if self.stop.asked or self.asked.gave_up:
                return
            if not await self.purse.take(wanted.most_cost):
                self.asked.gave_up = self.asked.gave_up or "the budget left no room for another reply"
                return
            reply = await self._ask(wanted)
            self.purse.settle(wanted.most_cost, self._cost(reply))
            if reply is not None:
                await self.queue.put(reply)

    async def _ask(self, wanted: Wanted) -> Reply | None:
        """Return the reply to one question, the last of its turns; None when stopped before it was asked."""
        messages: list[Message] = []
        turns: list[Turn] = []
        for added in messages_for(self.entrant, wanted.ask, self.load):
            messages += added
            turn = await self._ask_turn(request_body(self.entrant, messages), first=not turns)
            if turn is None:
                return None
            turns.append(turn)
            if turn.received.outcome is not Outcome.ANSWERED:
                break
            messages.append({"role": "assistant", "content": turn.received.text})
        self._note(turns[-1].received)
        return _reply(wanted, turns)

    async def _ask_turn(self, body: bytes, *, first: bool) -> Turn | None:
        """Return what came of one turn, after as many tries as a fault wants; None when stopped before the first."""
        tries = 0
        while True:
            await self.pace.enter()
            try:
                if self.stop.asked and first and not tries:
                    return None
                tries += 1
                started = time.perf_counter()
                attempt = await attempt_once(self.transport, self.entrant, self.url, self.headers, body)
                seconds = time.perf_counter() - started
            finally:
                self.pace.leave()
            if not attempt.transient or tries > self.entrant.limits.retries or self.stop.asked or self.asked.gave_up:
                return Turn(attempt.received, seconds, attempt.first_token_s, tries)
            await self._wait(attempt, tries)

    def _cost(self, reply: Reply | None) -> float:
        if reply is None or self.entrant.price is None:
            return 0.0
        received = reply.received
        cost = self.entrant.price.cost(received.input_tokens or 0, received.output_tokens or 0) or 0.0
        self.asked.cost += cost
        return cost

    async def _wait(self, attempt: Attempt, tries: int) -> None:
        self.asked.retried += 1
        wait_s = backoff_s(tries, attempt.retry_after_s, self.uniform)
        if attempt.throttled:
            self.pace.throttled(attempt.retry_after_s or 0.0)
        await self.stop.sleep(wait_s)

    def _note(self, received: Received) -> None:
        if received.outcome is not Outcome.FAILED:
            self.failures_in_a_row = 0
            self.pace.went_well((received.input_tokens or 0) + (received.output_tokens or 0))
            return
        self.failures_in_a_row += 1
        if self.failures_in_a_row >= FAILURES_TO_GIVE_UP:
            self.asked.gave_up = f"{self.failures_in_a_row} requests in a row failed, the last: {received.cause}"


@dataclass(frozen=True, slots=True)
class Turn:
    """What came of one turn: the reply, the seconds of its last try, and how many tries it took."""

    received: Received
    seconds: float
    first_token_s: float | None
    tries: int


def _reply(wanted: Wanted, turns: Sequence[Turn]) -> Reply:
    """Return the reply of a question's turns: the last one's text and end, the times and tokens of all."""
    last = turns[-1].received
    if len(turns) > 1:
        last = replace(
            last,
            earlier_turns=tuple(turn.received.text for turn in turns[:-1]),
            input_tokens=sum(turn.received.input_tokens or 0 for turn in turns),
            output_tokens=sum(turn.received.output_tokens or 0 for turn in turns),
        )
    now = datetime.now(UTC).isoformat(timespec="milliseconds")
    seconds, tries = sum(turn.seconds for turn in turns), sum(turn.tries for turn in turns)
    return Reply(wanted.ask_digest, wanted.trial, last, seconds, now, turns[0].first_token_s, tries)


@dataclass(frozen=True, slots=True)
class Attempt:
    """One request: what came back, and whether it may be worth trying again, at once or later."""

    received: Received
    transient: bool = False
    throttled: bool = False
    retry_after_s: float | None = None
    first_token_s: float | None = None


def most_cost(entrant: Entrant, input_tokens: int, typical_output_tokens: float) -> float:
    """Return the most that one reply should cost: up to its token cap, or four times a typical one without a cap."""
    if entrant.price is None:
        return 0.0
    cap = entrant.settings.get("max_tokens", entrant.settings.get("max_completion_tokens"))
    output_tokens = cap if isinstance(cap, int) and cap > 0 else round(4 * typical_output_tokens)
    # Services count input tokens in their own ways; half as many again is on the safe side.
    return entrant.price.cost(round(1.5 * input_tokens) + 20, output_tokens) or 0.0


async def attempt_once(
    transport: Transport, entrant: Entrant, url: str, headers: dict[str, str], body: bytes
) -> Attempt:
    """Return what came back for one request; a network that gives nothing is an outcome, not an error."""
    try:
        response = await transport.post(url, headers, body, entrant.limits)
    except NoResponse as error:
        outcome = Outcome.TIMED_OUT if error.timed_out else Outcome.FAILED
        return Attempt(Received(outcome, cause=str(error)), transient=not error.timed_out)
    received = read_response(response)
    if response.status == 200:
        broken = received.outcome is Outcome.FAILED and response.streamed
        return Attempt(received, transient=broken, first_token_s=response.first_token_s)
    return Attempt(
        received,
        transient=is_transient(response.status),
        throttled=response.status in THROTTLED,
        retry_after_s=retry_after_s(response.retry_after, datetime.now(UTC)),
    )


async def post_once(transport: Transport, entrant: Entrant, url: str, headers: dict[str, str], body: bytes) -> Received:
    """Return what came back for one request that is not tried again."""
    return (await attempt_once(transport, entrant, url, headers, body)).received


async def _record_all(
    queue: asyncio.Queue[Reply | None], record: Record, asked: Asked, on_received: OnReceived
) -> None:
    """Store what gathers in the queue until None comes, telling of replies only once they are stored."""
    ended = False
    while not ended:
        batch = [await queue.get()]
        while len(batch) < MOST_IN_ONE_BATCH and not queue.empty():
            batch.append(queue.get_nowait())
        ended = batch[-1] is None
        replies = [reply for reply in batch if reply is not None]
        if not replies:
            continue
        await asyncio.to_thread(record, replies)
        for reply in replies:
            asked.received += 1
            if reply.received.outcome is Outcome.FAILED:
                asked.failed += 1
                cause = reply.received.cause or "unknown"
                asked.causes[cause] = asked.causes.get(cause, 0) + 1
        on_received(asked)
