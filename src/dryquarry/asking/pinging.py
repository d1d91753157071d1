"""One tiny request to each service: does it answer, does it take the key, does it know the model?"""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable, Mapping, Sequence
from contextlib import AbstractAsyncContextManager
from dataclasses import dataclass, replace

from dryquarry.asking.calling import attempt_once
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import messages_for, request_body
from dryquarry.asking.transport import Transport, chat_url, headers_for
from dryquarry.errors import UsageFault
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Received
from dryquarry.suites.ask import Ask

PING = Ask(None, ("Say the word: ready",))
PING_TOKENS = 16
PING_TIMEOUT_S = 30.0

Endpoints = Callable[[], AbstractAsyncContextManager[Mapping[str, str]]]


@dataclass(frozen=True, slots=True)
class Ping:
    """What one request showed; a fact is None where the answer does not tell."""

    entrant: str
    endpoint: str
    model: str
    reachable: bool
    key_accepted: bool | None
    model_known: bool | None
    seconds: float | None
    problem: str | None


def ping_all(entrants: Sequence[Entrant], endpoints: Endpoints) -> list[Ping]:
    """Ping every entrant at the same time; a problem with one is told in its row."""

    async def ping_them() -> list[Ping]:
        from dryquarry.asking.http import HttpTransport

        async with endpoints() as urls, HttpTransport(max(1, len(entrants))) as http:
            return await asyncio.gather(*(_ping(entrant, urls[entrant.name], http) for entrant in entrants))

    return asyncio.run(ping_them())


async def _ping(entrant: Entrant, endpoint: str, transport: Transport) -> Ping:
    row = Ping(entrant.name, entrant.endpoint or "", entrant.model, False, None, None, None, None)
    if not endpoint:
        return replace(row, problem="no endpoint: replies are collected by hand")
    try:
        headers = headers_for(entrant)
    except UsageFault as error:
        return replace(row, problem=str(error))
    small = replace(
        entrant,
        settings={**entrant.settings, "max_tokens": PING_TOKENS},
        limits=replace(entrant.limits, timeout_s=min(PING_TIMEOUT_S, entrant.limits.timeout_s)),
    )
    started = time.perf_counter()
    body = request_body(small, messages_for(small, PING)[0])
    received = (await attempt_once(transport, small, chat_url(endpoint), headers, body)).received
    return _read(row, received, time.perf_counter() - started)


def _read(row: Ping, received: Received, seconds: float) -> Ping:
    if received.outcome is Outcome.TIMED_OUT:
        return replace(row, problem=received.cause)
    if received.outcome is not Outcome.FAILED:
        return replace(row, reachable=True, key_accepted=True, model_known=True, seconds=seconds)
    cause = received.cause or ""
    reachable = not cause.startswith(("cannot connect", "the connection broke"))
    return replace(
        row,
        reachable=reachable,
        key_accepted=False if cause.startswith(("HTTP 401", "HTTP 403")) else True if "404" in cause[:8] else None,
        model_known=False if cause.startswith("HTTP 404") else None,
        seconds=seconds if reachable else None,
        problem=cause,
    )
