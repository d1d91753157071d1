"""What a run would do, and what became of it."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from dryquarry.asking.engine import Asked
from dryquarry.showing import figures
from dryquarry.showing.view import Column, Sheet, Table, View, columns_of
from dryquarry.workspace.panels import no_judge
from dryquarry.workspace.planning import JudgePlan, RunPlan
from dryquarry.workspace.running import RunSummary


def plan_view(plan: RunPlan) -> View:
    """Return what a run would ask, and what that would take."""
    names = ["entrant", "held", "to_ask", "input_tokens", "output_tokens", "cost", "seconds", "from_replies"]
    rows: list[list[Any]] = [
        [
            one.entrant.name,
            one.held,
            one.to_ask,
            one.estimate.input_tokens,
            one.estimate.output_tokens,
            one.estimate.cost,
            one.estimate.seconds,
            one.estimate.from_replies,
        ]
        for one in plan.sittings
    ]
    judges = [_judge_row(one) for one in plan.judges]
    shown = [
        [
            str(row[0]),
            *(figures.count(value) for value in row[1:5]),
            figures.cost(row[5]),
            figures.seconds(row[6]),
            f"{row[7]} earlier replies" if row[7] else "a guess",
        ]
        for row in [*rows, *([f"judge {row[0]}", *row[1:]] for row in judges)]
    ]
    columns = [
        Column("entrant"),
        *columns_of(names[1:7], names, ("input_tokens", "output_tokens")),
        Column("estimate from", drop=3),
    ]
    data: dict[str, Any] = {
        "plan": plan.suite.reference,
        "sittings": [dict(zip(names, row, strict=True)) for row in rows],
    }
    data["judges"] = [dict(zip(names, row, strict=True)) for row in judges]
    title = f"{plan.suite.reference}: what a run would ask; nothing has been asked"
    below = [f"{one.entrant.name}{figures.going_on(one.goes_on, one.since)}" for one in plan.sittings if one.goes_on]
    below += [no_judge(plan.without_judge)] if plan.without_judge else []
    return View(data, Sheet(names, rows), Table(title, columns, shown, below=below))


def _judge_row(one: JudgePlan) -> list[Any]:
    estimate = one.estimate
    tokens = [estimate.input_tokens, estimate.output_tokens]
    return [one.judge.name, None, one.judgements, *tokens, estimate.cost, estimate.seconds, 0]


def summary_view(summary: RunSummary) -> View:
    """Return what a run did."""
    names = ["entrant", "to_ask", "received", "failed", "not_asked", "tried_again", "cost"]
    rows = [_asked_row(one) for one in summary.asked]
    second = [_asked_row(one) for one in summary.second]
    data = {
        "run": summary.reference,
        "sittings": [
            {
                **dict(zip(names, row, strict=True)),
                "causes": one.causes,
                "tried_again_for": one.retried,
                "gave_up": one.gave_up,
                "served": _served(one),
            }
            for row, one in zip(rows, summary.asked, strict=True)
        ],
        "second_tries": [dict(zip(names, row, strict=True)) for row in second],
        "marked": summary.marked,
        "judged": summary.judged,
        "unreadable_verdicts": summary.unreadable_verdicts,
        "open_without_judge": summary.open_without_judge,
        "interrupted": summary.interrupted,
        "missing": summary.missing,
    }
    columns = columns_of(names, names[1:], ("cost", "tried_again"))
    title = f"{summary.reference}: {summary.marked} marked" + (f", {summary.judged} judged" if summary.judged else "")
    again = [[f"{row[0]}, second tries", *row[1:]] for row in second]
    shown = [[*(str(value) for value in row[:-1]), figures.cost(row[-1])] for row in [*rows, *again]]
    return View(data, Sheet(names, rows), Table(title, columns, shown or [["nothing to ask", *["0"] * 5, "–"]]))


def _asked_row(one: Asked) -> list[Any]:
    received = one.received - one.failed
    return [
        one.entrant,
        one.wanted,
        received,
        one.failed,
        one.wanted - one.received,
        sum(one.retried.values()),
        one.cost or None,
    ]


def _served(one: Asked) -> list[dict[str, Any]]:
    return [
        {"model": served.model, "fingerprint": served.fingerprint, "replies": count}
        for served, count in one.served.items()
    ]


def summary_hints(summary: RunSummary) -> list[str]:
    """Return what a person should know of a run beyond its figures."""
    hints = []
    for one in (*summary.asked, *summary.second):
        hints += [
            f"{one.entrant}: {figures.plural(count, 'request')} failed: {cause}" for cause, count in one.causes.items()
        ]
        hints += [
            f"{one.entrant}: {figures.plural(count, 'request')} tried again: {cause}"
            for cause, count in one.retried.items()
        ]
        if one.gave_up:
            left = one.wanted - one.received
            hints.append(f"{one.entrant}: {left} not asked: {one.gave_up}")
        if len(one.served) > 1:
            parts = ", ".join(f"{served} {count} times" for served, count in one.served.items())
            hints.append(f"{one.entrant}: the service answered under several names within this run: {parts}")
        if one.entrant in summary.changed and one in summary.asked:
            now = list(one.served)[-1]
            hints.append(
                f"{one.entrant}: the service now answers as {now}, in earlier runs as {summary.changed[one.entrant]}; "
                f"'dryquarry entrant show {one.entrant}' lists what was run when"
            )
    if summary.unreadable_verdicts:
        count = figures.plural(summary.unreadable_verdicts, "mark")
        hints.append(f"{count} open: what the judge said could not be read; the next run asks again")
    hints += not_run_hints(summary.not_run)
    if summary.not_judged:
        hints.append(f"{figures.plural(summary.not_judged, 'mark')} open: the budget left no room for a judge")
    if summary.open_without_judge:
        hints.append(
            f"{figures.plural(summary.open_without_judge, 'mark')} open: no judge to ask; "
            "add one [judge.NAME] to entrants.toml, or name one with `judge:` in the question's mark"
        )
    return hints


def not_run_hints(not_run: Mapping[str, int]) -> list[str]:
    """Return what a person should know of programs and queries that could not be run, by the reason."""
    return [
        f"{count} {'program or query' if count == 1 else 'programs and queries'} not run: {why}; "
        "until then their marks are open, and 'dryquarry mark SUITE' goes on"
        for why, count in not_run.items()
    ]
