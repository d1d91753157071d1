"""Asking a judge: one request per open mark, once more when the verdict is unreadable, then left open."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from dryquarry.asking.calling import Line
from dryquarry.asking.door import whole_text
from dryquarry.asking.engine import Setting, most_cost
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import Message, estimated_tokens, request_body
from dryquarry.marking.model import Marking
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Judged
from dryquarry.marking.registry import rubric_part
from dryquarry.marking.schemes.rubric import JUDGE_SYSTEM, UnreadableVerdict, judge_request, read_verdict

MOST_ATTEMPTS = 2
TYPICAL_VERDICT_TOKENS = 150


@dataclass(frozen=True, slots=True)
class ToJudge:
    """One reply that waits for a judge; of `all` and `any` the rubric is one part of the marking."""

    reply_id: int
    marking_id: int
    ask: str
    text: str
    marking: Marking

    @property
    def rubric_marking(self) -> Marking:
        """The part of the marking that the judge marks."""
        return rubric_part(self.marking) or self.marking


async def judge_all(
    judge: Entrant, waiting: Sequence[ToJudge], setting: Setting, on_judged: Callable[[ToJudge, Judged], None]
) -> int:
    """Have the judge mark what waits; `on_judged` is told each verdict as it comes.

    Returns how many were left because the budget had no room for them.
    """
    line = Line(judge, setting.endpoint, setting.transport, setting.stop)
    remaining = iter(waiting)
    too_dear = 0

    async def work() -> None:
        nonlocal too_dear
        for one in remaining:
            if setting.stop.asked:
                return
            messages = _messages(judge, one)
            most = MOST_ATTEMPTS * most_cost(judge, _input_tokens(messages), TYPICAL_VERDICT_TOKENS)
            if not await setting.purse.take(most):
                too_dear += 1
                continue
            judged = await _judge(line, one, messages)
            setting.purse.settle(most, 0.0 if judged is None else _cost(judge, judged))
            if judged is not None:
                on_judged(one, judged)

    await asyncio.gather(*(work() for _ in range(min(judge.limits.in_flight, len(waiting)))))
    return too_dear


def _messages(judge: Entrant, one: ToJudge) -> list[Message]:
    system = "\n\n".join(text for text in (judge.system, JUDGE_SYSTEM) if text)
    return [
        {"role": "system", "content": system},
        {"role": "user", "content": judge_request(one.ask, one.text, one.rubric_marking)},
    ]


async def _judge(line: Line, one: ToJudge, messages: list[Message]) -> Judged | None:
    """Return what the judge said of one reply; None when stopped before it was asked."""
    rubric = one.rubric_marking.rubric
    assert rubric is not None
    started = time.perf_counter()
    input_tokens = output_tokens = 0
    points = None
    for attempt in range(1, MOST_ATTEMPTS + 1):
        turn = await line.post(request_body(line.person, messages), first=attempt == 1)
        if turn is None:
            return None
        received = turn.received
        input_tokens += received.input_tokens or 0
        output_tokens += received.output_tokens or 0
        if received.outcome in (Outcome.FAILED, Outcome.TIMED_OUT):
            problem: str | None = received.cause
            break
        try:
            points, problem = read_verdict(received.text, rubric), None
            break
        except UnreadableVerdict as error:
            problem = whole_text(str(error))
            again = f"That cannot be read: {problem}. Answer with the JSON object only."
            messages = [
                *messages,
                {"role": "assistant", "content": received.text},
                {"role": "user", "content": again},
            ]
    seconds = time.perf_counter() - started
    return Judged(
        one.reply_id, one.marking_id, points, problem, received.text, attempt, seconds, input_tokens, output_tokens
    )


def _input_tokens(messages: Sequence[Message]) -> int:
    return sum(estimated_tokens(str(message["content"])) for message in messages)


def _cost(judge: Entrant, judged: Judged) -> float:
    return (judge.price.cost(judged.input_tokens, judged.output_tokens) or 0.0) if judge.price else 0.0
