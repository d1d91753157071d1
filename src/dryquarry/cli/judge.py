"""judge check."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli.options import (
    examples,
    format_options,
    hint,
    open_workspace,
    reference_argument,
    selection_options,
    show,
    workspace_option,
)
from dryquarry.errors import UsageFault
from dryquarry.workspace.selection import Selection


@click.group()
def judge() -> None:
    """Check the judges who mark by rubrics."""


@examples(
    "dryquarry judge check keeper-letters",
    "dryquarry judge check keeper-letters --judge heron --repeat 10",
)
@judge.command("check")
@reference_argument
@click.option("--judge", "names", multiple=True, metavar="NAME", help="Only this judge (all who marked, if not said).")
@click.option("--repeat", type=click.IntRange(1), metavar="N",
              help="First have each judge mark N fixed replies once more: does it agree with itself?")  # fmt: skip
@click.option("--budget", type=click.FloatRange(min=0), help="The most that --repeat may cost.")
@selection_options
@workspace_option
@format_options()
def check(
    reference: str,
    names: tuple[str, ...],
    repeat: int | None,
    budget: float | None,
    selection: Selection,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Show how far the judges of SUITE agree with people, with themselves and with each other.

    People's marks come from 'dryquarry review'. With intervals, and a sentence whether each judge may be trusted.
    """
    from dryquarry.showing.figures import plural
    from dryquarry.showing.judge_checks import judge_report_view
    from dryquarry.showing.progress import RunWatcher
    from dryquarry.workspace.judge_checks import JudgeChecks

    checks = JudgeChecks(open_workspace(workspace).folder)
    if budget is not None and repeat is None:
        raise UsageFault("--budget goes with --repeat: without it nothing is asked")
    if repeat is not None:
        with RunWatcher() as watcher:
            count, spent = checks.ask_again(reference, repeat, watcher, names, budget)
        hint(f"{plural(count, 'judgement')} made again" + (f", cost {spent:.4g}" if spent else ""))
    show(judge_report_view(checks.check(reference, names, selection)), form, out)
