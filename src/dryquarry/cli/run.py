"""run."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

import click

from dryquarry.cli import completion
from dryquarry.cli.options import (
    entrant_option,
    examples,
    format_options,
    hints,
    open_workspace,
    show,
    workspace_option,
)
from dryquarry.errors import Interrupted, RepliesMissing

if TYPE_CHECKING:
    from dryquarry.workspace.running import RunSummary


@examples(
    "dryquarry run lamp-logic -e dunlin -e curlew --plan",
    "dryquarry run tide-sums@2 --trials 3 --budget 2.50",
    "dryquarry run --all",
)
@click.command()
@click.argument("references", nargs=-1, metavar="SUITE[@N]...", shell_complete=completion.references)
@click.option("--all", "every", is_flag=True, help="Every suite of the workspace, one after the other.")
@entrant_option("Whom to ask (default: all with an endpoint).")
@click.option("--trials", type=click.IntRange(1, 1000), default=1, show_default=True, help="Replies to each question.")
@click.option("--plan", is_flag=True, help="Show what would be asked and what that would take; ask nothing.")
@click.option("--budget", type=click.FloatRange(min=0), help="Stop before all of it would cost more than this.")
@click.option(
    "--fresh", is_flag=True, help="Ask everything anew; stopped, the same command goes on. Earlier replies are kept."
)
@workspace_option
@format_options()
def run(
    references: tuple[str, ...],
    every: bool,
    entrants: tuple[str, ...],
    trials: int,
    plan: bool,
    budget: float | None,
    fresh: bool,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Ask SUITE of entrants and mark the replies; several suites one after the other.

    Replies that are held are not asked for again; failed ones are. Ctrl-C ends it cleanly, twice at once;
    the same command goes on from there. Meanwhile boards, grids and replies can be looked at.
    """
    from dryquarry.showing.progress import RunWatcher
    from dryquarry.showing.runs import plan_view, summary_hints, summary_view
    from dryquarry.showing.several import together

    opened = open_workspace(workspace)
    chosen = opened.references(references, every=every)
    if plan:
        plans = [opened.plan(reference, entrants, trials=trials, fresh=fresh) for reference in chosen]
        show(together([plan_view(one) for one in plans], chosen), form, out)
        hints(opened.notices(chosen))
        return
    summaries: list[RunSummary] = []
    for reference in chosen:
        left = None if budget is None else max(0.0, budget - sum(one.spent for one in summaries))
        with RunWatcher() as watcher:
            summaries.append(opened.run(reference, entrants, watcher, trials=trials, budget=left, fresh=fresh))
        if summaries[-1].interrupted:
            break
    show(together([summary_view(one) for one in summaries], chosen[: len(summaries)]), form, out)
    hints([*(line for one in summaries for line in summary_hints(one)), *opened.notices(chosen)])
    if summaries[-1].interrupted:
        raise Interrupted("interrupted; what was received is stored, the same command goes on from there")
    missing = sum(one.missing for one in summaries)
    if missing:
        raise RepliesMissing(f"{missing} replies could not be had; the same command asks for them again")
