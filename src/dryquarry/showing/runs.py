"""How a run goes on, and what became of it."""

from __future__ import annotations

import sys
import time
from types import TracebackType
from typing import Any, Self

from rich.console import Console
from rich.progress import BarColumn, Progress, TaskID, TextColumn, TimeRemainingColumn

from dryquarry.asking.engine import Asked
from dryquarry.showing import figures
from dryquarry.showing.view import Column, Sheet, Table, View
from dryquarry.workspace.planning import RunPlan
from dryquarry.workspace.running import RunSummary

PLAIN_LINE_EVERY_S = 10.0


class RunWatcher:
    """Tells on standard error how a run goes: bars on a terminal, else a plain line every ten seconds."""

    def __init__(self) -> None:
        self.console = Console(stderr=True, highlight=False)
        self.bars: Progress | None = None
        self.tasks: dict[str, TaskID] = {}
        self.wanted: dict[str, int] = {}
        self.last_line = time.monotonic()

    def __enter__(self) -> Self:
        if self.console.is_terminal:
            self.bars = Progress(
                TextColumn("{task.description:<14}"),
                BarColumn(bar_width=30, style="color(245)", complete_style="color(30)", finished_style="color(30)"),
                TextColumn("{task.completed} of {task.total}"),
                TimeRemainingColumn(compact=True),
                TextColumn("left"),
                TextColumn("{task.fields[failed]}"),
                console=self.console,
            )
            self.bars.start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self.bars is not None:
            self.bars.stop()

    def planned(self, plan: RunPlan) -> None:
        """Say what is held and what will be asked."""
        for sitting in plan.sittings:
            self.console.print(
                f"{plan.suite.reference} · {sitting.entrant.name}: {sitting.held} held, {len(sitting.to_ask)} to ask",
                markup=False,
            )
            self.wanted[sitting.entrant.name] = len(sitting.to_ask)
            if self.bars is not None and sitting.to_ask:
                task = self.bars.add_task(sitting.entrant.name, total=len(sitting.to_ask), failed="")
                self.tasks[sitting.entrant.name] = task

    def received(self, asked: Asked) -> None:
        """Move the entrant's bar on."""
        failed = f"{asked.failed} failed" if asked.failed else ""
        self._show(asked.entrant, asked.received, asked.wanted, failed)

    def judging(self, done: int, of: int) -> None:
        """Move the judges' bar on."""
        self._show("judging", done, of, "")

    def _show(self, name: str, done: int, of: int, failed: str) -> None:
        if self.bars is not None:
            if name not in self.tasks:
                self.tasks[name] = self.bars.add_task(name, total=of, failed="")
            self.bars.update(self.tasks[name], completed=done, total=of, failed=failed)
        elif time.monotonic() - self.last_line >= PLAIN_LINE_EVERY_S:
            self.last_line = time.monotonic()
            print(f"{name}: {done} of {of}" + (f", {failed}" if failed else ""), file=sys.stderr, flush=True)


def plan_view(plan: RunPlan) -> View:
    """Return what a run would ask, and what that would take."""
    names = ["entrant", "held", "to_ask", "input_tokens", "output_tokens", "cost", "seconds", "from_replies"]
    rows: list[list[Any]] = [
        [
            one.entrant.name,
            one.held,
            len(one.to_ask),
            one.estimate.input_tokens,
            one.estimate.output_tokens,
            one.estimate.cost,
            one.estimate.seconds,
            one.estimate.from_replies,
        ]
        for one in plan.sittings
    ]
    shown = [
        [
            str(row[0]),
            *(figures.count(value) for value in row[1:5]),
            figures.cost(row[5]),
            figures.seconds(row[6]),
            f"{row[7]} earlier replies" if row[7] else "a guess",
        ]
        for row in rows
    ]
    columns = [
        Column("entrant"),
        *(Column(name.replace("_", " "), right=True) for name in names[1:7]),
        Column("judged from"),
    ]
    data = {"plan": plan.suite.reference, "sittings": [dict(zip(names, row, strict=True)) for row in rows]}
    title = f"{plan.suite.reference}: what a run would ask; nothing has been asked"
    return View(data, Sheet(names, rows), Table(title, columns, shown))


def summary_view(summary: RunSummary) -> View:
    """Return what a run did."""
    rows: list[list[Any]] = [
        [one.entrant, one.wanted, one.received - one.failed, one.failed, one.wanted - one.received]
        for one in summary.asked
    ]
    names = ["entrant", "to_ask", "received", "failed", "not_asked"]
    data = {
        "run": summary.reference,
        "sittings": [
            {
                **dict(zip(names, row, strict=True)),
                "tried_again": one.retried,
                "cost": one.cost,
                "causes": one.causes,
                "gave_up": one.gave_up,
            }
            for row, one in zip(rows, summary.asked, strict=True)
        ],
        "marked": summary.marked,
        "judged": summary.judged,
        "unreadable_verdicts": summary.unreadable_verdicts,
        "open_without_judge": summary.open_without_judge,
        "interrupted": summary.interrupted,
        "missing": summary.missing,
    }
    columns = [Column(name.replace("_", " "), right=name != "entrant") for name in names]
    title = f"{summary.reference}: {summary.marked} marked" + (f", {summary.judged} judged" if summary.judged else "")
    shown = [[str(value) for value in row] for row in rows] or [["nothing to ask", "0", "0", "0", "0"]]
    return View(data, Sheet(names, rows), Table(title, columns, shown))


def summary_hints(summary: RunSummary) -> list[str]:
    """Return what a person should know of a run beyond its figures."""
    hints = []
    for one in summary.asked:
        hints += [
            f"{one.entrant}: {figures.plural(count, 'request')} failed: {cause}" for cause, count in one.causes.items()
        ]
        if one.retried:
            hints.append(f"{one.entrant}: {figures.plural(one.retried, 'request')} tried again")
        if one.gave_up:
            left = one.wanted - one.received
            hints.append(f"{one.entrant}: {left} not asked: {one.gave_up}")
    if summary.unreadable_verdicts:
        hints.append(f"{figures.plural(summary.unreadable_verdicts, 'verdict')} unreadable; those marks stay open")
    if summary.open_without_judge:
        hints.append(
            f"{figures.plural(summary.open_without_judge, 'mark')} open: no judge to ask; "
            "add one [judge.NAME] to entrants.toml, or name one with `judge:` in the question's mark"
        )
    return hints
