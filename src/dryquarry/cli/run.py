"""run."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli.options import (
    entrant_option,
    format_options,
    hints,
    open_workspace,
    reference_argument,
    show,
    workspace_option,
)
from dryquarry.errors import Interrupted, RepliesMissing


@click.command()
@reference_argument
@entrant_option("Whom to ask (default: all with an endpoint).")
@click.option("--trials", type=click.IntRange(1, 1000), default=1, show_default=True, help="Replies to each question.")
@click.option("--plan", is_flag=True, help="Show what would be asked and what that would take; ask nothing.")
@click.option("--budget", type=click.FloatRange(min=0), help="Stop before the run would cost more than this.")
@click.option(
    "--fresh", is_flag=True, help="Ask everything anew; stopped, the same command goes on. Earlier replies are kept."
)
@workspace_option
@format_options()
def run(
    reference: str,
    entrants: tuple[str, ...],
    trials: int,
    plan: bool,
    budget: float | None,
    fresh: bool,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Ask SUITE of entrants and mark the replies.

    Replies that are held are not asked for again; failed ones are. Ctrl-C ends it cleanly, twice at once;
    the same command goes on from there.
    """
    from dryquarry.showing.progress import RunWatcher
    from dryquarry.showing.runs import plan_view, summary_hints, summary_view

    opened = open_workspace(workspace)
    if plan:
        show(plan_view(opened.plan(reference, entrants, trials=trials, fresh=fresh)), form, out)
        hints(opened.notices([reference]))
        return
    with RunWatcher() as watcher:
        summary = opened.run(reference, entrants, watcher, trials=trials, budget=budget, fresh=fresh)
    show(summary_view(summary), form, out)
    hints([*summary_hints(summary), *opened.notices([reference])])
    if summary.interrupted:
        raise Interrupted("interrupted; what was received is stored, the same command goes on from there")
    if summary.missing:
        raise RepliesMissing(f"{summary.missing} replies could not be had; the same command asks for them again")
