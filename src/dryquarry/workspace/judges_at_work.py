"""Judges working through what waits for them, each at its own pace, every verdict stored as it comes."""

from __future__ import annotations

import asyncio
from collections.abc import Callable, Sequence
from contextlib import AsyncExitStack
from functools import partial

from dryquarry.asking.budget import Purse
from dryquarry.asking.calling import Stop
from dryquarry.asking.engine import Setting
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.judging import ToJudge, judge_all
from dryquarry.asking.protocol import Load
from dryquarry.ledger.store import Ledger
from dryquarry.marking.judging.panel import Opinion
from dryquarry.marking.received import Judged
from dryquarry.standin.bank import Bank
from dryquarry.workspace.around_runs import endpoints, interruptible
from dryquarry.workspace.judging import JudgeWork, store_verdict


class JudgesAtWork:
    """The judges of one run: how many verdicts were `readable`, which were not, and what the budget left."""

    def __init__(
        self,
        ledger: Ledger,
        bank: Bank,
        load: Load,
        stop: Stop,
        purse: Purse,
        on_progress: Callable[[int, int], None],
    ):
        self.ledger = ledger
        self.bank = bank
        self.load = load
        self.stop = stop
        self.purse = purse
        self.on_progress = on_progress
        self.readable = self.too_dear = 0
        self.unreadable: set[tuple[str, int, int]] = set()

    async def all(self, work: Sequence[JudgeWork]) -> dict[int, list[Opinion]]:
        """Have every judge work through what waits for it; return what was unreadable, by reply."""
        total, done = sum(len(one.waiting) for one in work), 0
        failing: dict[int, list[Opinion]] = {}

        def on_judged(judge: Entrant, judge_id: int, one: ToJudge, judged: Judged) -> None:
            nonlocal done
            opinion = store_verdict(self.ledger, judge_id, judge, judged)
            if opinion.points is None:
                failing.setdefault(judged.reply_id, []).append(opinion)
            done += 1
            self.readable += judged.points is not None
            # A reply may be judged once more after the second tries; it is one judgement.
            place = {(judge.name, judged.reply_id, judged.time)}
            self.unreadable = self.unreadable | place if judged.points is None else self.unreadable - place
            self.on_progress(done, total)

        from dryquarry.asking.http import HttpTransport

        with interruptible(self.stop):
            async with AsyncExitStack() as stack:
                judges = [one.judge for one in work if one.judge is not None]
                urls = await stack.enter_async_context(endpoints(judges, self.bank))
                asking = []
                for one, judge in zip(work, judges, strict=True):
                    http = await stack.enter_async_context(HttpTransport(judge.limits.in_flight))
                    judge_id = self.ledger.note_sitter(judge.digest, judge.content)
                    setting = Setting(urls[judge.name], http, self.stop, self.purse, self.load)
                    asking.append(judge_all(judge, one.waiting, setting, partial(on_judged, judge, judge_id)))
                self.too_dear += sum(await asyncio.gather(*asking))
        return failing
