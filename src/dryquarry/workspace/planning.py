"""What a run would ask, and what that would take, from what is held and how earlier replies went."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass

from dryquarry.asking.engine import most_cost
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import estimated_tokens
from dryquarry.ledger.queries import held_replies, sitter_id_of, slots_of, typical_reply
from dryquarry.ledger.records import TypicalReply
from dryquarry.ledger.store import Ledger
from dryquarry.marking.outcomes import Outcome
from dryquarry.suites.question import Question, Suite

# Where nothing is known of an entrant yet.
UNKNOWN = TypicalReply(0, 300.0, 5.0)


@dataclass(frozen=True, slots=True)
class ToAsk:
    """One reply to be had: the trial-th to a question."""

    question: Question
    trial: int


@dataclass(frozen=True, slots=True)
class Estimate:
    """What an entrant's part of a run would take: tokens, cost in its own currency (None without a price), seconds.

    `from_replies` is how many earlier replies the figures stand on; with none they are a guess.
    """

    input_tokens: int
    output_tokens: int
    cost: float | None
    seconds: float
    from_replies: int


@dataclass(frozen=True, slots=True)
class SittingPlan:
    """One entrant's part of a run: how many replies are held already, and what is still to ask."""

    entrant: Entrant
    held: int
    to_ask: tuple[ToAsk, ...]
    estimate: Estimate
    most_for_one: float


@dataclass(frozen=True, slots=True)
class RunPlan:
    """What a run would do."""

    suite: Suite
    sittings: tuple[SittingPlan, ...]


def plan_run(
    ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], *, trials: int = 1, fresh: bool = False
) -> RunPlan:
    """Return what is held and what is to ask of each entrant: failed replies again, `fresh` everything."""
    questions = suite.asked()
    slots = slots_of(ledger, questions)
    sittings = []
    for entrant in entrants:
        sitter_id = sitter_id_of(ledger, entrant.digest)
        replies = [] if sitter_id is None else held_replies(ledger, slots, sitter_id)
        held = {
            (reply.position, reply.trial)
            for reply in replies
            if reply.outcome is not Outcome.FAILED and reply.trial <= trials
        }
        to_ask = tuple(
            ToAsk(question, trial)
            for trial in range(1, trials + 1)
            for place, question in enumerate(questions)
            if fresh or (place, trial) not in held
        )
        typical = UNKNOWN if sitter_id is None else typical_reply(ledger, sitter_id) or UNKNOWN
        most = max((_most(entrant, one.question, typical) for one in to_ask), default=0.0)
        sittings.append(SittingPlan(entrant, len(held), to_ask, _estimate(entrant, to_ask, typical), most))
    return RunPlan(suite, tuple(sittings))


def _estimate(entrant: Entrant, to_ask: Sequence[ToAsk], typical: TypicalReply) -> Estimate:
    input_tokens = sum(_input_tokens(entrant, one.question) for one in to_ask)
    output_tokens = round(len(to_ask) * typical.output_tokens)
    seconds = len(to_ask) * typical.seconds / min(entrant.limits.in_flight, max(1, len(to_ask)))
    if entrant.limits.per_minute is not None:
        seconds = max(seconds, len(to_ask) * 60.0 / entrant.limits.per_minute)
    cost = entrant.price.cost(input_tokens, output_tokens) if entrant.price else None
    return Estimate(input_tokens, output_tokens, cost, seconds, typical.replies)


def _input_tokens(entrant: Entrant, question: Question) -> int:
    return sum(
        estimated_tokens(text) for text in (entrant.system or "", question.ask.system or "", *question.ask.turns)
    )


def _most(entrant: Entrant, question: Question, typical: TypicalReply) -> float:
    return most_cost(entrant, _input_tokens(entrant, question), typical.output_tokens)
