"""What a run would ask, and what that would take, from what is held and how earlier replies went.

A suite is gone through some thousand questions at a time, so that its size does not decide how much memory a
run takes.
"""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from datetime import UTC, datetime, timedelta
from typing import TypeVar

from dryquarry.asking.engine import Key, Wanted, most_cost, token_cap
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import estimated_tokens
from dryquarry.ledger.queries import asked_anew_since, held_trials, sitter_id_of, slots_of, typical_reply
from dryquarry.ledger.records import Slot, TypicalReply
from dryquarry.ledger.rows import now_utc
from dryquarry.ledger.store import Ledger
from dryquarry.marking.outcomes import Outcome
from dryquarry.suites.question import Question, Suite

T = TypeVar("T")
# Where nothing is known of an entrant yet.
UNKNOWN = TypicalReply(0, 300.0, 5.0)
AT_A_TIME = 2000
FEW_AT_FIRST = 125
# An asking anew that ended earlier than this is over: much may have changed since.
GOES_ON_WITHIN = timedelta(hours=24)


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
    """One entrant's part of a run: how many replies are held already, and how many are to ask.

    `replaces` says that some of those will take the place of earlier ones, `most_for_one` is the most that one
    reply can cost. Where all is asked anew only replies `since` then (UTC) are held; `goes_on` says that such an
    asking was begun before and is not complete.
    """

    entrant: Entrant
    held: int
    to_ask: int
    estimate: Estimate
    most_for_one: float
    replaces: bool
    since: str | None = None
    goes_on: bool = False


@dataclass(frozen=True, slots=True)
class JudgePlan:
    """What one judge would be asked: so many judgements, and what they would take."""

    judge: Entrant
    judgements: int
    estimate: Estimate


@dataclass(frozen=True, slots=True)
class RunPlan:
    """What a run would do."""

    suite: Suite
    sittings: tuple[SittingPlan, ...]
    trials: int = 1
    without_judge: int = 0
    judges: tuple[JudgePlan, ...] = ()

    @property
    def asks_everything(self) -> bool:
        """Whether each question gets a reply of its own in this run, and so its mark as the reply comes."""
        each = len(self.suite.asked()) * self.trials
        return all(one.held == 0 and one.to_ask == each for one in self.sittings)


def plan_run(
    ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], *, trials: int = 1, fresh: bool = False
) -> RunPlan:
    """Return what is held and what is to ask of each entrant: failed replies again, `fresh` everything.

    An asking anew that ended before all was there, within the last day, is gone on with.
    """
    begun = {one.name: _begun_anew(ledger, suite, one) for one in entrants} if fresh else {}
    now = now_utc()
    since = {one.name: (begun[one.name] or now) if fresh else None for one in entrants}
    planned = _tallied(ledger, suite, entrants, trials, since)
    complete = [one.entrant for one in planned if begun.get(one.entrant.name) and not one.to_ask]
    again = {
        one.entrant.name: one for one in _tallied(ledger, suite, complete, trials, {e.name: now for e in complete})
    }
    sittings = [again.get(one.entrant.name, one) for one in planned]
    goes_on = [replace(one, goes_on=one.since is not None and one.since != now) for one in sittings]
    return RunPlan(suite, tuple(goes_on), trials)


def _begun_anew(ledger: Ledger, suite: Suite, entrant: Entrant) -> str | None:
    """Return since when (UTC) the suite is being asked of an entrant anew, if that was begun within the last day."""
    sitter_id = sitter_id_of(ledger, entrant.digest)
    since = None if sitter_id is None else asked_anew_since(ledger, suite.name, suite.edition).get(sitter_id)
    if since is None:
        return None
    return since if datetime.now(UTC) - datetime.fromisoformat(since) < GOES_ON_WITHIN else None


def _tallied(
    ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: int, since: Mapping[str, str | None]
) -> list[SittingPlan]:
    tallies = [_Tally(ledger, entrant, trials, since[entrant.name]) for entrant in entrants]
    anything_held = any(tally.missing.sitter_id is not None for tally in tallies)
    for questions in in_parts(suite.asked()) if tallies else ():
        slots = slots_of(ledger, questions) if anything_held else []
        for tally in tallies:
            tally.add(questions, slots)
    return [tally.planned() for tally in tallies]


def slotted(ledger: Ledger, suite: Suite) -> Iterator[tuple[Sequence[Question], list[Slot]]]:
    """Yield the suite's asked questions so many at a time, each with its rows in the ledger."""
    for questions in in_parts(suite.asked()):
        yield questions, slots_of(ledger, questions)


def in_parts(questions: Sequence[T]) -> Iterator[Sequence[T]]:
    """Yield the questions so many at a time, few at first: the first request does not wait for the rest."""
    start, size = 0, FEW_AT_FIRST
    while start < len(questions):
        yield questions[start : start + size]
        start, size = start + size, min(AT_A_TIME, 2 * size)


def wanted_of(ledger: Ledger, plan: RunPlan, sitting: SittingPlan) -> Iterator[Wanted]:
    """Yield what is to ask of an entrant; the questions must be noted in the ledger.

    Two questions that ask the same share one reply.
    """
    missing = _Missing(ledger, sitting.entrant, plan.trials, sitting.since)
    for questions, slots in slotted(ledger, plan.suite):
        for place, trial in missing.among(questions, slots):
            question, slot = questions[place], slots[place]
            assert slot.ask_id is not None
            assert slot.marking_id is not None
            keys = (Key(question.mark, slot.marking_id),)
            yield Wanted(question.ask, slot.ask_id, trial, sitting.most_for_one, keys)


def missing_of(
    ledger: Ledger, suite: Suite, entrant: Entrant, trials: int, since: str | None = None
) -> Iterator[tuple[Question, int]]:
    """Yield the questions, with the trial, to which an entrant has no reply yet; with `since` (UTC) none since then."""
    missing = _Missing(ledger, entrant, trials, since)
    for questions, slots in slotted(ledger, suite):
        for place, trial in missing.among(questions, slots):
            yield questions[place], trial


class _Missing:
    """Which replies of one entrant are missing, part of the suite by part; with `since` (UTC) earlier ones too."""

    def __init__(self, ledger: Ledger, entrant: Entrant, trials: int, since: str | None = None):
        self.ledger = ledger
        self.sitter_id = sitter_id_of(ledger, entrant.digest)
        self.trials = trials
        self.since = since
        self.held = 0
        self.replaces = since is not None
        self._met: set[int] = set()

    def among(self, questions: Sequence[Question], slots: Sequence[Slot]) -> Iterator[tuple[int, int]]:
        """Yield the place and trial of each reply that is missing."""
        rows = [] if self.sitter_id is None else held_trials(self.ledger, slots, self.sitter_id, self.trials)
        since = self.since or ""
        good = [row for row in rows if row.outcome is not Outcome.FAILED and row.received_at >= since]
        held = {(row.position, row.trial) for row in good}
        self.held += len(held)
        self.replaces = self.replaces or len(held) < len(rows)
        once = [place for place, question in enumerate(questions) if self._is_first(question)]
        for trial in range(1, self.trials + 1):
            for place in once:
                if (place, trial) not in held:
                    yield place, trial

    def _is_first(self, question: Question) -> bool:
        # A part of the digest as a number: the whole text would take far more room, and this is as unlikely to clash.
        short = int(question.ask_digest[:15], 16)
        if short in self._met:
            return False
        self._met.add(short)
        return True


@dataclass
class _Tally:
    """What one entrant's part of a run comes to, added up part by part."""

    ledger: Ledger
    entrant: Entrant
    trials: int
    since: str | None
    to_ask: int = 0
    input_tokens: int = 0
    most: float = 0.0
    missing: _Missing = field(init=False)
    typical: TypicalReply = field(init=False)

    def __post_init__(self) -> None:
        self.missing = _Missing(self.ledger, self.entrant, self.trials, self.since)
        sitter_id = self.missing.sitter_id
        self.typical = (typical_reply(self.ledger, sitter_id) if sitter_id is not None else None) or UNKNOWN

    def add(self, questions: Sequence[Question], slots: Sequence[Slot]) -> None:
        for place, _ in self.missing.among(questions, slots):
            tokens = _input_tokens(self.entrant, questions[place])
            self.to_ask += 1
            self.input_tokens += tokens
            self.most = max(self.most, most_cost(self.entrant, tokens, self.typical.output_tokens))

    def planned(self) -> SittingPlan:
        missing = self.missing
        estimate = self._estimate()
        return SittingPlan(
            self.entrant, missing.held, self.to_ask, estimate, self.most, missing.replaces, missing.since
        )

    def _estimate(self) -> Estimate:
        limits, typical, to_ask = self.entrant.limits, self.typical, self.to_ask
        each, seconds_each = self._typical_reply()
        output_tokens = round(to_ask * each)
        seconds = to_ask * seconds_each / min(limits.in_flight, max(1, to_ask))
        if limits.per_minute is not None:
            seconds = max(seconds, to_ask * 60.0 / limits.per_minute)
        if limits.tokens_per_minute is not None:
            seconds = max(seconds, (self.input_tokens + output_tokens) * 60.0 / limits.tokens_per_minute)
        cost = self.entrant.price.cost(self.input_tokens, output_tokens) if self.entrant.price else None
        return Estimate(self.input_tokens, output_tokens, cost, seconds, typical.replies)

    def _typical_reply(self) -> tuple[float, float]:
        """Return the tokens and the seconds of a reply, no more than the entrant's cap lets it have."""
        typical, cap = self.typical, token_cap(self.entrant)
        if cap is None or typical.output_tokens <= cap:
            return typical.output_tokens, typical.seconds
        return float(cap), typical.seconds * cap / typical.output_tokens


def _input_tokens(entrant: Entrant, question: Question) -> int:
    return sum(
        estimated_tokens(text) for text in (entrant.system or "", question.ask.system or "", *question.ask.turns)
    )
