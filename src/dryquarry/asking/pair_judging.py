"""Asking a judge which of two replies is better."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable, Sequence
from dataclasses import dataclass

from dryquarry.asking.calling import Line
from dryquarry.asking.engine import Setting, most_cost
from dryquarry.asking.judging import MOST_ATTEMPTS, VERDICT_TOKENS, input_tokens_of, once_more
from dryquarry.asking.protocol import Message, request_body
from dryquarry.marking.judging.pairs import PAIR_SYSTEM, pair_request, read_choice
from dryquarry.marking.judging.request import Paper
from dryquarry.marking.judging.verdicts import UnreadableVerdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.rubrics import Rubric

# Told of each pair: its place, the choice or None, why, the seconds it took and what it cost.
OnVoted = Callable[[int, str | None, str, float, float], None]


@dataclass(frozen=True, slots=True)
class PairToJudge:
    """Two replies in the order in which they are shown, with what they are compared by."""

    paper: Paper
    replies: tuple[str, str]
    rubric: Rubric | None = None
    key: str | None = None


async def judge_pairs(
    line: Line, pairs: Sequence[PairToJudge], setting: Setting, draw: Callable[[], str], on_voted: OnVoted
) -> None:
    """Have a judge choose in each pair; `draw` gives a token at random. Stops where the budget has no room."""
    judge = line.person
    remaining = iter(enumerate(pairs))

    async def work() -> None:
        for place, one in remaining:
            if setting.stop.asked:
                return
            request = pair_request(one.paper, one.replies, one.rubric, one.key, draw)
            system = "\n\n".join(text for text in (judge.system, PAIR_SYSTEM) if text)
            messages: list[Message] = [{"role": "system", "content": system}, {"role": "user", "content": request}]
            most = MOST_ATTEMPTS * most_cost(judge, input_tokens_of(messages), 2 * VERDICT_TOKENS)
            if not await setting.purse.take(most):
                on_voted(place, None, "the budget has no room", 0.0, 0.0)
                continue
            started = time.perf_counter()
            choice, why, cost = await _choice(line, messages)
            setting.purse.settle(most, cost)
            on_voted(place, choice, why, time.perf_counter() - started, cost)

    await asyncio.gather(*(work() for _ in range(min(judge.limits.in_flight, max(1, len(pairs))))))


async def _choice(line: Line, messages: list[Message]) -> tuple[str | None, str, float]:
    """Return the judge's choice (None where it cannot be read after a second asking), why, and what it cost."""
    cost, problem = 0.0, "stopped"
    for attempt in range(MOST_ATTEMPTS):
        turn = await line.post(request_body(line.person, messages), first=attempt == 0)
        if turn is None:
            break
        received = turn.received
        if line.person.price is not None:
            cost += line.person.price.cost(received.input_tokens, received.output_tokens) or 0.0
        if received.outcome in (Outcome.FAILED, Outcome.TIMED_OUT):
            problem = received.cause or "failed"
            break
        try:
            choice, why = read_choice(received.text)
        except UnreadableVerdict as error:
            problem = str(error)
            messages = [*messages, *once_more(received.text, problem)]
            continue
        return choice, why, cost
    return None, problem, cost
