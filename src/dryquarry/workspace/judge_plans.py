"""What judges would be asked in a run, before it: how many judgements, and what they would take."""

from __future__ import annotations

from collections import Counter
from collections.abc import Mapping

from dryquarry.asking.entrants import Entrant
from dryquarry.asking.judging import input_tokens_of, judge_messages, verdict_tokens
from dryquarry.asking.protocol import Load
from dryquarry.ledger.store import Ledger
from dryquarry.suites.question import Question
from dryquarry.workspace.judge_requests import to_judge
from dryquarry.workspace.judging import judge_work, waiting_for_judges
from dryquarry.workspace.panels import needs_judge, seats_of
from dryquarry.workspace.planning import UNKNOWN, Estimate, JudgePlan, RunPlan, missing_of

# A reply that is not there yet is as long as this text, in characters: of four to a token.
TYPICAL_REPLY = "word " * round(UNKNOWN.output_tokens * 4 / 5)


def judge_plans(ledger: Ledger, plan: RunPlan, judges: Mapping[str, Entrant], load: Load) -> tuple[JudgePlan, ...]:
    """Return what each judge would be asked: of replies that wait, and of those that the run would bring."""
    judgements: Counter[str] = Counter()
    input_tokens: Counter[str] = Counter()
    output_tokens: Counter[str] = Counter()
    entrants = [one.entrant for one in plan.sittings]
    for work in judge_work(ledger, list(waiting_for_judges(ledger, plan.suite, entrants, judges, load))):
        for one in work.waiting if work.judge is not None else ():
            assert work.judge is not None
            judgements[work.judge.name] += 1
            input_tokens[work.judge.name] += input_tokens_of(judge_messages(work.judge, one))
            output_tokens[work.judge.name] += verdict_tokens(one.rubric)
    sizes: dict[tuple[str, str], tuple[int, int]] = {}
    for sitting in plan.sittings:
        for question, _ in missing_of(ledger, plan.suite, sitting.entrant, plan.trials, sitting.since):
            for seat in seats_of(question, sitting.entrant, judges) if needs_judge(question) else ():
                place = (seat.judge.name, question.id)
                if place not in sizes:
                    sizes[place] = _size(question, seat.judge, load)
                judgements[seat.judge.name] += 1
                input_tokens[seat.judge.name] += sizes[place][0]
                output_tokens[seat.judge.name] += sizes[place][1]
    return tuple(
        JudgePlan(judges[name], count, _estimate(judges[name], count, input_tokens[name], output_tokens[name]))
        for name, count in judgements.items()
    )


def _size(question: Question, judge: Entrant, load: Load) -> tuple[int, int]:
    one = to_judge(0, 0, question, TYPICAL_REPLY, load)
    return input_tokens_of(judge_messages(judge, one)), verdict_tokens(one.rubric)


def _estimate(judge: Entrant, count: int, input_tokens: int, output_tokens: int) -> Estimate:
    limits = judge.limits
    seconds = count * UNKNOWN.seconds / min(limits.in_flight, max(1, count))
    if limits.per_minute is not None:
        seconds = max(seconds, count * 60.0 / limits.per_minute)
    if limits.tokens_per_minute is not None:
        seconds = max(seconds, (input_tokens + output_tokens) * 60.0 / limits.tokens_per_minute)
    cost = judge.price.cost(input_tokens, output_tokens) if judge.price else None
    return Estimate(input_tokens, output_tokens, cost, seconds, 0)
