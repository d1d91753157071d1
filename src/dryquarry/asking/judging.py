"""Asking a judge: one request per open mark, once more when the verdict is unreadable, then left open."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from dryquarry.asking.engine import Stop, post_once
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import request_body
from dryquarry.asking.transport import Transport, chat_url, headers_for
from dryquarry.ledger.records import Judged
from dryquarry.marking.model import Marking
from dryquarry.marking.rubric import JUDGE_SYSTEM, UnreadableVerdict, judge_request, read_verdict

MOST_ATTEMPTS = 2


@dataclass(frozen=True, slots=True)
class ToJudge:
    """One reply that waits for a judge."""

    reply_id: int
    marking_id: int
    ask: str
    text: str
    marking: Marking


async def judge_all(
    judge: Entrant,
    endpoint: str,
    waiting: Sequence[ToJudge],
    transport: Transport,
    on_judged: Callable[[ToJudge, Judged], None],
    stop: Stop,
) -> None:
    """Have the judge mark everything that waits; `on_judged` is told each verdict as it comes."""
    headers = headers_for(judge)
    url = chat_url(endpoint)
    remaining = iter(waiting)

    async def work() -> None:
        for one in remaining:
            if stop.asked:
                return
            on_judged(one, await _judge(judge, url, headers, one, transport))

    await asyncio.gather(*(work() for _ in range(min(judge.limits.in_flight, len(waiting)))))


async def _judge(judge: Entrant, url: str, headers: dict[str, str], one: ToJudge, transport: Transport) -> Judged:
    system = "\n\n".join(text for text in (judge.system, JUDGE_SYSTEM) if text)
    messages = [
        {"role": "system", "content": system},
        {"role": "user", "content": judge_request(one.ask, one.text, one.marking)},
    ]
    assert one.marking.rubric is not None
    started = time.perf_counter()
    for attempt in range(1, MOST_ATTEMPTS + 1):
        received = await post_once(transport, judge, url, headers, request_body(judge, messages))
        seconds = time.perf_counter() - started
        if received.cause and not received.text:
            problem = received.cause
            continue
        try:
            points = read_verdict(received.text, one.marking.rubric)
        except UnreadableVerdict as error:
            problem = str(error)
            messages += [
                {"role": "assistant", "content": received.text},
                {
                    "role": "user",
                    "content": f"That cannot be read: {problem}. Answer with the JSON object only.",
                },
            ]
            continue
        return Judged(one.reply_id, one.marking_id, points, None, received, attempt, seconds)
    return Judged(one.reply_id, one.marking_id, None, problem, received, attempt, seconds)
