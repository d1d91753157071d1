"""The run engine: asks what is wanted, so many at a time, and hands on every reply as it arrives.

Workers take questions from one iterator and put replies in a queue. One recorder takes what has gathered there,
stores it in one transaction, and only then reports it as received. So what was reported is in the ledger
whatever happens next, a fast service is met with large transactions and a slow one with small ones, and what is
wanted need not fit in memory.
"""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Iterable, Iterator, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime
from typing import Any

from dryquarry.asking.budget import Purse
from dryquarry.asking.calling import Line, Stop, Turn
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import Load, Message, messages_for, no_files, request_body
from dryquarry.asking.transport import Transport
from dryquarry.errors import DryQuarryError
from dryquarry.marking.model import Mark
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Received, Reply, ServedAs
from dryquarry.suites.ask import Ask

FAILURES_TO_GIVE_UP = 8
MOST_IN_ONE_BATCH = 500
GATHERING_S = 0.02
MOST_CAUSES = 20


@dataclass(frozen=True, slots=True)
class Key:
    """How a reply is marked as soon as it is there, by its outcome and text, and the ledger's row of the marking."""

    mark: Callable[[Outcome, str], Mark | None]
    marking_id: int


@dataclass(frozen=True, slots=True)
class Wanted:
    """One reply to be had: the trial-th to an ask, which stands in the ledger's row `ask_id`.

    `said` are the replies to the ask's first turns where those are known already: a second try is the first
    one's turns and reply with one more turn, and `follows` is then the first try's reply in the ledger.
    `most_cost` is the most that the reply can cost.
    """

    ask: Ask
    ask_id: int
    trial: int = 1
    most_cost: float = 0.0
    keys: tuple[Key, ...] = ()
    said: tuple[str, ...] = ()
    follows: int | None = None


@dataclass
class Asked:
    """What became of one entrant's part of a run; `gave_up` says why when questions were left unasked.

    `causes` are those of requests that failed for good, `retried` those of requests that were made again, with how
    often each. `served` is what the service said that it is, in the order of first appearance, with how often.
    """

    entrant: str
    wanted: int
    received: int = 0
    failed: int = 0
    retried: dict[str, int] = field(default_factory=dict)
    cost: float = 0.0
    causes: dict[str, int] = field(default_factory=dict)
    served: dict[ServedAs, int] = field(default_factory=dict)
    gave_up: str | None = None


Record = Callable[[Sequence[tuple[Wanted, Reply]]], None]
OnReceived = Callable[[Asked], None]


@dataclass(frozen=True, slots=True)
class Setting:
    """Where and how an entrant is asked: its endpoint, the network, the wish to stop, the budget, the files."""

    endpoint: str
    transport: Transport
    stop: Stop
    purse: Purse = field(default_factory=Purse)
    load: Load = no_files


async def ask_entrant(
    entrant: Entrant,
    wanted: Iterable[Wanted],
    total: int,
    setting: Setting,
    record: Record,
    on_received: OnReceived = lambda asked: None,
) -> Asked:
    """Ask one entrant everything wanted, `total` replies; return what became of it.

    `record` stores a batch of replies and is called in a thread; `on_received` is told after it returned.
    Raises UsageFault when the entrant's key is not in the environment.
    """
    sitting = _Sitting(entrant, setting, Asked(entrant.name, total))
    recorder = asyncio.create_task(_record_all(sitting.queue, record, sitting.asked, on_received))
    remaining = iter(wanted)
    workers = [asyncio.create_task(sitting.work(remaining)) for _ in range(min(entrant.limits.in_flight, total))]
    ending = asyncio.create_task(setting.stop.final())
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
    for cause, count in sitting.line.retried.items():
        _count(sitting.asked.retried, cause, count)
    return sitting.asked


class _Sitting:
    """The state that one entrant's workers share."""

    def __init__(self, entrant: Entrant, setting: Setting, asked: Asked):
        self.entrant = entrant
        self.asked = asked
        self.stop = setting.stop
        self.purse = setting.purse
        self.load = setting.load
        self.line = Line(
            entrant, setting.endpoint, setting.transport, setting.stop, lambda: self.asked.gave_up is not None
        )
        self.queue: asyncio.Queue[tuple[Wanted, Reply] | None] = asyncio.Queue(maxsize=4 * MOST_IN_ONE_BATCH)
        self.failures_in_a_row = 0

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
                await self.queue.put((wanted, reply))

    async def _ask(self, wanted: Wanted) -> Reply | None:
        """Return the reply to one question, the last of its turns; None when stopped before it was asked."""
        try:
            added_by_turn = messages_for(self.entrant, wanted.ask, self.load)
        except DryQuarryError as fault:  # a file that has changed or gone is this question's trouble alone
            return _reply(wanted, [Turn(Received(Outcome.FAILED, cause=str(fault)), 0.0, None, 0)])
        messages: list[Message] = []
        turns: list[Turn] = []
        for number, added in enumerate(added_by_turn):
            messages += added
            if number < len(wanted.said):
                messages.append({"role": "assistant", "content": wanted.said[number]})
                continue
            turn = await self.line.post(request_body(self.entrant, messages), first=not turns)
            if turn is None:
                return None
            turns.append(turn)
            if turn.received.outcome is not Outcome.ANSWERED:
                break
            messages.append({"role": "assistant", "content": turn.received.text})
        self._note(turns[-1].received)
        return _reply(wanted, turns)

    def _cost(self, reply: Reply | None) -> float:
        if reply is None or self.entrant.price is None:
            return 0.0
        received = reply.received
        cost = self.entrant.price.cost(received.input_tokens or 0, received.output_tokens or 0) or 0.0
        self.asked.cost += cost
        return cost

    def _note(self, received: Received) -> None:
        if received.outcome is not Outcome.FAILED:
            self.failures_in_a_row = 0
            self.line.pace.went_well((received.input_tokens or 0) + (received.output_tokens or 0))
            return
        self.failures_in_a_row += 1
        if self.failures_in_a_row >= FAILURES_TO_GIVE_UP:
            self.asked.gave_up = f"{self.failures_in_a_row} requests in a row failed, the last: {received.cause}"


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
    return Reply(
        ask_id=wanted.ask_id,
        trial=wanted.trial,
        received=last,
        seconds=sum(turn.seconds for turn in turns),
        received_at=datetime.now(UTC).isoformat(timespec="milliseconds"),
        first_token_s=turns[0].first_token_s,
        tries=sum(turn.tries for turn in turns),
        follows=wanted.follows,
    )


def most_cost(entrant: Entrant, input_tokens: int, typical_output_tokens: float) -> float:
    """Return the most that one reply should cost: up to its token cap, or four times a typical one without a cap."""
    if entrant.price is None:
        return 0.0
    output_tokens = token_cap(entrant) or round(4 * typical_output_tokens)
    # Services count input tokens in their own ways; half as many again is on the safe side.
    return entrant.price.cost(round(1.5 * input_tokens) + 20, output_tokens) or 0.0


def token_cap(entrant: Entrant) -> int | None:
    """Return how many tokens a reply may have by the entrant's settings, or None."""
    cap = entrant.settings.get("max_tokens", entrant.settings.get("max_completion_tokens"))
    return cap if isinstance(cap, int) and cap > 0 else None


async def _record_all(
    queue: asyncio.Queue[tuple[Wanted, Reply] | None], record: Record, asked: Asked, on_received: OnReceived
) -> None:
    """Store what gathers in the queue until None comes, telling of replies only once they are stored."""
    ended = False
    while not ended:
        batch = [await queue.get()]
        if batch[0] is not None and queue.qsize() < MOST_IN_ONE_BATCH:
            # A transaction costs as much for one reply as for a hundred; the last word of a run is not waited for.
            await asyncio.sleep(GATHERING_S)
        while len(batch) < MOST_IN_ONE_BATCH and not queue.empty():
            batch.append(queue.get_nowait())
        ended = batch[-1] is None
        arrived = [one for one in batch if one is not None]
        if not arrived:
            continue
        await asyncio.to_thread(record, arrived)
        for _, reply in arrived:
            _tally(asked, reply.received)
        on_received(asked)


def _tally(asked: Asked, received: Received) -> None:
    asked.received += 1
    if received.outcome is Outcome.FAILED:
        asked.failed += 1
        _count(asked.causes, received.cause or "unknown", 1)
    elif received.served_model is not None:
        served = ServedAs(received.served_model, received.fingerprint)
        asked.served[served] = asked.served.get(served, 0) + 1


def _count(causes: dict[str, int], cause: str, count: int) -> None:
    if cause not in causes and len(causes) >= MOST_CAUSES:
        cause = "other causes"
    causes[cause] = causes.get(cause, 0) + count
