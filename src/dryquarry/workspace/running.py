"""Asking a suite of entrants: the plan, the run, and what became of it."""

from __future__ import annotations

import asyncio
from collections import Counter
from collections.abc import Callable, Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass, field
from functools import partial
from typing import Protocol

from dryquarry.asking.budget import Purse
from dryquarry.asking.calling import Stop
from dryquarry.asking.engine import Asked, Setting, Wanted, ask_entrant
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import Load, no_files
from dryquarry.asking.transport import headers_for
from dryquarry.errors import UsageFault
from dryquarry.ledger.history import last_served
from dryquarry.ledger.store import Ledger
from dryquarry.marking.received import ServedAs
from dryquarry.sandbox.performing import Sandbox
from dryquarry.standin.bank import Bank
from dryquarry.suites.question import Suite
from dryquarry.workspace.around_runs import alone, endpoints, in_loop, interruptible, lasting_objects_left_alone
from dryquarry.workspace.judges_at_work import JudgesAtWork
from dryquarry.workspace.judging import judge_work, settle, waiting_for_judges
from dryquarry.workspace.marking import mark_waiting, record_and_mark
from dryquarry.workspace.panels import check_priced, judges_for, needs_judge
from dryquarry.workspace.planning import RunPlan, in_parts, plan_run, wanted_of
from dryquarry.workspace.runners import has_works
from dryquarry.workspace.second_tries import second_tries_wanted
from dryquarry.workspace.works import perform, settle_works, waiting_works


@dataclass(frozen=True, slots=True)
class RunSummary:
    """What a run did: per entrant what was asked, the marks given, and what is still open or missing.

    `second` are the second tries; `changed` maps entrants to what their service answered as before this run, where
    it answers as something else now. `not_judged` counts the marks for which the budget left no judge; `spent` is
    what all of it cost, judges included, in the entrants' currency.
    """

    reference: str
    asked: tuple[Asked, ...]
    marked: int
    judged: int
    unreadable_verdicts: int
    open_without_judge: int
    interrupted: bool
    second: tuple[Asked, ...] = ()
    changed: Mapping[str, ServedAs] = field(default_factory=dict)
    not_judged: int = 0
    spent: float = 0.0
    ran: int = 0
    not_run: Mapping[str, int] = field(default_factory=dict)

    @property
    def missing(self) -> int:
        """How many of the wanted replies could not be had."""
        return sum(one.wanted - one.received + one.failed for one in (*self.asked, *self.second))


class Watcher(Protocol):
    """Who is told how a run goes on."""

    def planned(self, plan: RunPlan) -> None:
        """Tell what will be asked."""
        ...

    def received(self, asked: Asked) -> None:
        """Tell that replies of an entrant came and are stored."""
        ...

    def judging(self, done: int, of: int) -> None:
        """Tell how many verdicts are in."""
        ...

    def running(self, done: int, of: int) -> None:
        """Tell how many programs and queries have been run."""
        ...

    def trying_again(self, entrant: str, wanted: int) -> None:
        """Tell that an entrant gets so many second tries."""
        ...


@dataclass(frozen=True, slots=True)
class Means:
    """What a run is done with: who may judge, the stand-in's bank, the files of questions, the budget, the sandbox."""

    judges: Mapping[str, Entrant]
    bank: Bank
    load: Load = no_files
    budget: float | None = None
    sandbox: Sandbox = field(default_factory=Sandbox)


def run(
    ledger: Ledger,
    suite: Suite,
    entrants: Sequence[Entrant],
    means: Means,
    watcher: Watcher,
    *,
    trials: int = 1,
    fresh: bool = False,
) -> RunSummary:
    """Ask what is missing, then mark what is unmarked; returns also when a person or the budget stopped it.

    `trials` is how many replies each question is to have. The budget is the most that the run may cost, judges
    included, in the entrants' currency. With `fresh` everything is asked anew, or what is missing of an asking anew
    that was stopped; the earlier replies are kept, and no longer count once there is another in their place.

    Raises UsageFault before anything is asked when an entrant has no endpoint, a key is not set or a
    named judge is unknown, and FileFault when another run is using the ledger.
    """
    _check_ready(entrants, means.budget)
    with alone(ledger), lasting_objects_left_alone():
        judged, second = note_and_survey(ledger, suite, means)
        plan = plan_run(ledger, suite, entrants, trials=trials, fresh=fresh)
        watcher.planned(plan)
        return in_loop(RunInProgress(ledger, suite, entrants, means, watcher).whole(plan, judged, second))


class RunInProgress:
    """One run on its way."""

    def __init__(self, ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], means: Means, watcher: Watcher):
        self.ledger = ledger
        self.suite = suite
        self.entrants = entrants
        self.means = means
        self.watcher = watcher
        self.stop = Stop()
        self.purse = Purse(means.budget)
        self.run_id = ledger.begin_run(suite.name, suite.edition)
        self.sitting_ids: dict[str, tuple[int, int]] = {}
        self.since: dict[str, str | None] = {}
        self.served_before = {one.name: last_served(ledger, one.digest) for one in entrants}
        self.without_judge = 0
        self.ran = 0
        self.not_run: Counter[str] = Counter()
        self.judges = JudgesAtWork(ledger, means.bank, means.load, self.stop, self.purse, watcher.judging)

    async def whole(self, plan: RunPlan, judged: bool, second: bool) -> RunSummary:
        """Ask, mark, have judged what needs a judge, and make second tries, from beginning to end."""
        self.since = {one.entrant.name: one.since for one in plan.sittings}
        asked = await self.ask(plan)
        marked = sum(part.received - part.failed for part in asked)
        if not plan.asks_everything:
            marked += mark_waiting(self.ledger, self.suite, self.entrants)
        await self.perform()
        if judged:
            await self.judge()
        tried_again = await self.ask_again() if second else []
        marked += sum(part.received - part.failed for part in tried_again)
        if tried_again:
            await self.perform()
        if judged and tried_again:
            await self.judge()
        return self.ended(asked, tried_again, marked)

    async def ask(self, plan: RunPlan) -> list[Asked]:
        """Ask every entrant what the plan says."""
        parts = [
            _Part(one.entrant, partial(wanted_of, self.ledger, plan, one), one.to_ask, one.replaces)
            for one in plan.sittings
            if one.to_ask
        ]
        return await self._ask_parts(parts)

    async def ask_again(self) -> list[Asked]:
        """Make the second tries that the marks ask for."""
        parts = []
        for entrant in self.entrants if not self.stop.asked and not self.purse.empty else ():
            wanted = list(second_tries_wanted(self.ledger, self.suite, entrant))
            if wanted:
                self.watcher.trying_again(entrant.name, len(wanted))
                parts.append(_Part(entrant, partial(iter, wanted), len(wanted), replaces=True))
        return await self._ask_parts(parts)

    async def perform(self) -> None:
        """Run what replies hold and what waits for that, and settle the marks that it comes to."""
        if self.stop.asked or not has_works(self.suite):
            return
        jobs = waiting_works(self.ledger, self.suite, self.entrants)
        with interruptible(self.stop):
            coming = perform(self.ledger, jobs, self.means.sandbox)
            for done in coming:
                self.watcher.running(done.ran, len(jobs) - done.kept - done.lacking.total())
                await asyncio.sleep(0)  # a wish to stop comes in here
                if self.stop.asked:
                    coming.close()
        self.not_run = done.lacking
        self.ran += done.ran
        settle_works(self.ledger, self.suite, self.entrants, self.means.sandbox)

    async def judge(self) -> None:
        """Have judges mark what waits for them, and settle the marks for which all have spoken."""
        if not self.stop.asked:
            means = self.means
            waiting = list(waiting_for_judges(self.ledger, self.suite, self.entrants, means.judges, means.load))
            work = judge_work(self.ledger, waiting)
            self.without_judge = sum(len(one.waiting) for one in work if one.judge is None)
            failing = await self.judges.all([one for one in work if one.judge is not None])
            settle(self.ledger, waiting, failing)

    def ended(self, asked: list[Asked], tried_again: list[Asked], marked: int) -> RunSummary:
        """Note the end in the ledger, and return what was done."""
        for sitting_id, _ in self.sitting_ids.values():
            self.ledger.end_sitting(sitting_id)
        self.ledger.end_run(self.run_id)
        before = self.served_before
        changed = {
            one.entrant: known
            for one in asked
            if one.served and (known := before[one.entrant]) is not None and set(one.served) != {known}
        }
        return RunSummary(
            self.suite.reference,
            tuple(asked),
            marked,
            self.judges.readable,
            len(self.judges.unreadable),
            self.without_judge,
            self.stop.asked,
            tuple(tried_again),
            changed,
            self.judges.too_dear,
            self.purse.spent,
            self.ran,
            self.not_run,
        )

    async def _ask_parts(self, parts: Sequence[_Part]) -> list[Asked]:
        from dryquarry.asking.http import HttpTransport

        if not parts:
            return []
        with interruptible(self.stop):
            async with (
                endpoints([part.entrant for part in parts], self.means.bank) as urls,
                HttpTransport(sum(part.entrant.limits.in_flight for part in parts)) as http,
            ):
                tasks = []
                for part in parts:
                    setting = Setting(urls[part.entrant.name], http, self.stop, self.purse, self.means.load)
                    sitting_id, sitter_id = self._sitting(part.entrant)
                    record = partial(record_and_mark, self.ledger, sitting_id, sitter_id, part.replaces)
                    tasks.append(
                        ask_entrant(part.entrant, part.wanted(), part.count, setting, record, self.watcher.received)
                    )
                return await asyncio.gather(*tasks)

    def _sitting(self, entrant: Entrant) -> tuple[int, int]:
        """Return the rows of an entrant's sitting and of its settings, noted when it is first asked."""
        if entrant.name not in self.sitting_ids:
            sitter_id = self.ledger.note_sitter(entrant.digest, entrant.content)
            settings = {**asdict(entrant), "suite_system": self.suite.system}
            since = self.since.get(entrant.name)
            sitting_id = self.ledger.begin_sitting(
                self.run_id, sitter_id, entrant.name, entrant.endpoint, settings, since
            )
            self.sitting_ids[entrant.name] = sitting_id, sitter_id
        return self.sitting_ids[entrant.name]


@dataclass(frozen=True, slots=True)
class _Part:
    """What one entrant is asked: so many, the first of which may be wanted long before the last is worked out."""

    entrant: Entrant
    wanted: Callable[[], Iterable[Wanted]]
    count: int
    replaces: bool


def note_and_survey(ledger: Ledger, suite: Suite, means: Means) -> tuple[bool, bool]:
    """Note all questions in the ledger; tell whether any needs a judge, and whether any has a second try."""
    judged = second = False
    for questions in in_parts(suite.asked()):
        for question in questions:
            second = second or question.second_try is not None
            if needs_judge(question):
                judged = True
                for judge in judges_for(question, means.judges):
                    check_priced(judge, means.budget)
        ledger.note_questions(questions)
    return judged, second


def _check_ready(entrants: Sequence[Entrant], budget: float | None) -> None:
    for entrant in entrants:
        if entrant.endpoint is None:
            raise UsageFault(
                f"entrant '{entrant.name}' has no endpoint, so its replies must be collected by hand; "
                f"'dryquarry sheet SUITE -e {entrant.name} --out FILE' writes the questions out for that"
            )
        headers_for(entrant)
        if budget is not None and entrant.price is None:
            raise UsageFault(
                f"entrant '{entrant.name}' has no price, so no budget can be kept; "
                "give it one in entrants.toml, or leave it out of this run"
            )
