"""How a run goes on: one line for each entrant, moving on a terminal, else printed every ten seconds."""

from __future__ import annotations

import sys
import time
from collections.abc import Callable
from dataclasses import dataclass
from types import TracebackType
from typing import Any, Self

from rich.console import Console
from rich.progress import BarColumn, Progress, TaskID, TextColumn

from dryquarry.asking.engine import Asked
from dryquarry.marking.received import ServedAs
from dryquarry.showing import figures
from dryquarry.workspace.planning import RunPlan

PLAIN_LINES_EVERY_S = 10.0


@dataclass
class _Line:
    """One entrant's progress; `began` is when its first reply could come, by the watcher's clock."""

    name: str
    wanted: int
    began: float
    done: int = 0
    cost: float | None = None
    failed: int = 0
    told: int = 0
    task: TaskID | None = None

    def parts(self, now: float) -> dict[str, Any]:
        """Return what is told beside the count: rate, time left, cost so far, failures."""
        rate = self.done / max(now - self.began, 1e-3)
        left_s = (self.wanted - self.done) / rate if self.done else None
        return {
            "rate": figures.rate(rate) if self.done else "",
            "left": f"{figures.duration(left_s)} left" if left_s else "",
            "cost": f"cost {figures.cost(self.cost)}" if self.cost else "",
            "failed": f"{self.failed} failed" if self.failed else "",
        }


class RunWatcher:
    """Tells on standard error how a run goes; use it as a context manager."""

    def __init__(self, clock: Callable[[], float] = time.monotonic) -> None:
        self.console = Console(stderr=True, highlight=False)
        self.clock = clock
        self.bars: Progress | None = None
        self.lines: dict[str, _Line] = {}
        self.served: dict[str, set[ServedAs]] = {}
        self.last_told = clock()

    def __enter__(self) -> Self:
        if self.console.is_terminal:
            self.bars = Progress(
                TextColumn("{task.description:<14}"),
                BarColumn(bar_width=24, style="color(245)", complete_style="color(30)", finished_style="color(30)"),
                TextColumn("{task.completed} of {task.total}"),
                *(TextColumn(f"{{task.fields[{name}]}}") for name in ("rate", "left", "cost", "failed")),
                console=self.console,
            )
            self.bars.start()
        return self

    def __exit__(
        self, kind: type[BaseException] | None, error: BaseException | None, trace: TracebackType | None
    ) -> None:
        if self.bars is not None:
            self.bars.stop()
        elif any(line.told for line in self.lines.values()):
            self._tell_all()

    def planned(self, plan: RunPlan) -> None:
        """Say what is held and what will be asked."""
        for sitting in plan.sittings:
            said = f"{sitting.held} held, {sitting.to_ask} to ask{figures.going_on(sitting.goes_on, sitting.since)}"
            self.console.print(f"{plan.suite.reference} · {sitting.entrant.name}: {said}", markup=False)
            if sitting.to_ask:
                self._begin(sitting.entrant.name, sitting.to_ask)

    def trying_again(self, entrant: str, wanted: int) -> None:
        """Say that second tries begin."""
        self._begin(entrant, wanted, f"{entrant}, again")

    def received(self, asked: Asked) -> None:
        """Move the entrant's line on, and warn when its service answers as something else than at first."""
        line = self.lines[asked.entrant]
        line.done, line.cost, line.failed = asked.received, asked.cost, asked.failed
        known = self.served.setdefault(asked.entrant, set(list(asked.served)[:1]))
        for served in asked.served:
            if served not in known:
                known.add(served)
                said = figures.visible(str(served))
                self.console.print(f"warning: {asked.entrant}: the service now answers as {said}", markup=False)
        self._moved(line)

    def judging(self, done: int, of: int) -> None:
        """Move the judges' line on."""
        self._at_work("judging", done, of)

    def running(self, done: int, of: int) -> None:
        """Move the line of the programs that are run on."""
        if of:
            self._at_work("running", done, of)

    def _at_work(self, name: str, done: int, of: int) -> None:
        if name not in self.lines or self.lines[name].wanted != of:
            self._begin(name, of)
        self.lines[name].done = done
        self._moved(self.lines[name])

    def _begin(self, key: str, wanted: int, name: str | None = None) -> None:
        line = self.lines[key] = _Line(name or key, wanted, self.clock())
        if self.bars is not None:
            line.task = self.bars.add_task(line.name, total=wanted, **line.parts(line.began))

    def _moved(self, line: _Line) -> None:
        now = self.clock()
        if self.bars is not None and line.task is not None:
            self.bars.update(line.task, completed=line.done, **line.parts(now))
        elif now - self.last_told >= PLAIN_LINES_EVERY_S:
            self.last_told = now
            self._tell_all()

    def _tell_all(self) -> None:
        for line in self.lines.values():
            if line.told != line.done:
                line.told = line.done
                more = [part for part in line.parts(self.clock()).values() if part]
                print(", ".join([f"{line.name}: {line.done} of {line.wanted}", *more]), file=sys.stderr, flush=True)
