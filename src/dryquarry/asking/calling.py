"""One line to one service: requests at the pace it takes, tried again after faults that may pass."""

from __future__ import annotations

import asyncio
import random
import time
from collections import Counter
from collections.abc import Callable
from contextlib import suppress
from dataclasses import dataclass
from datetime import UTC, datetime

from dryquarry.asking.door import whole_text, without_secrets
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.pacing import Pace
from dryquarry.asking.protocol import read_response
from dryquarry.asking.retrying import THROTTLED, backoff_s, is_transient, retry_after_s
from dryquarry.asking.transport import NoResponse, Transport, chat_url, headers_for, secrets_of
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Received

GRACE_S = 5.0


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


@dataclass(frozen=True, slots=True)
class Attempt:
    """One request: what came back, and whether it may be worth trying again, at once or later."""

    received: Received
    transient: bool = False
    throttled: bool = False
    retry_after_s: float | None = None
    first_token_s: float | None = None


@dataclass(frozen=True, slots=True)
class Turn:
    """What came of one turn: the reply, the seconds of its last try, and how many tries it took."""

    received: Received
    seconds: float
    first_token_s: float | None
    tries: int


class Line:
    """The line to an entrant's or a judge's service, shared by all who ask it.

    `given_up` tells whether trying again has become pointless. Raises UsageFault when the key is not set.
    """

    def __init__(
        self,
        person: Entrant,
        endpoint: str,
        transport: Transport,
        stop: Stop,
        given_up: Callable[[], bool] = lambda: False,
    ):
        self.person = person
        self.url = chat_url(endpoint)
        self.headers = headers_for(person)
        self.transport = transport
        self.stop = stop
        self.given_up = given_up
        self.pace = Pace(person.limits)
        self.retried: Counter[str] = Counter()
        self._uniform = random.Random().uniform

    async def post(self, body: bytes, *, first: bool = True) -> Turn | None:
        """Return what came of a request, after as many tries as a fault wants.

        None when a stop was asked for before the `first` request of a question was sent.
        """
        tries = 0
        while True:
            await self.pace.enter()
            try:
                if self.stop.asked and first and not tries:
                    return None
                tries += 1
                started = time.perf_counter()
                attempt = await attempt_once(self.transport, self.person, self.url, self.headers, body)
                seconds = time.perf_counter() - started
            finally:
                self.pace.leave()
            if not attempt.transient or tries > self.person.limits.retries or self.stop.asked or self.given_up():
                return Turn(attempt.received, seconds, attempt.first_token_s, tries)
            await self._wait(attempt, tries)

    async def _wait(self, attempt: Attempt, tries: int) -> None:
        self.retried[attempt.received.cause or "unknown"] += 1
        wait_s = backoff_s(tries, attempt.retry_after_s, self._uniform)
        if attempt.throttled:
            self.pace.throttled(attempt.retry_after_s or 0.0)
        await self.stop.sleep(wait_s)


async def attempt_once(
    transport: Transport, person: Entrant, url: str, headers: dict[str, str], body: bytes
) -> Attempt:
    """Return what came back for one request; a network that gives nothing is an outcome, not an error."""
    try:
        response = await transport.post(url, headers, body, person.limits)
    except NoResponse as error:
        outcome = Outcome.TIMED_OUT if error.timed_out else Outcome.FAILED
        cause = without_secrets(whole_text(str(error)), secrets_of(person))
        return Attempt(Received(outcome, cause=cause), transient=not (error.timed_out or error.lasting))
    received = read_response(response, secrets_of(person))
    if response.status == 200:
        # A stream that broke, or an answer that is no chat completion: often a gateway's passing trouble.
        broken = received.outcome is Outcome.FAILED
        return Attempt(received, transient=broken, first_token_s=response.first_token_s)
    return Attempt(
        received,
        transient=is_transient(response.status),
        throttled=response.status in THROTTLED,
        retry_after_s=retry_after_s(response.retry_after, datetime.now(UTC)),
    )
