"""suite list, show, check."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli.options import format_options, hint, open_workspace, show, workspace_option
from dryquarry.errors import DoesNotHold, FaultyFiles


@click.group()
def suite() -> None:
    """List, show and check suites of questions."""


@suite.command("list")
@workspace_option
@format_options()
def list_suites(workspace: Path | None, form: str, out: Path | None) -> None:
    """List the suites of the workspace; one with faults is told of, and left out."""
    from dryquarry.showing.figures import plural
    from dryquarry.showing.suites import suites_view

    opened = open_workspace(workspace)
    suites = []
    for name in opened.suite_names():
        try:
            suites.append(opened.suite(name))
        except FaultyFiles as error:
            count = plural(len(error.faults), "fault")
            hint(f"note: {name} has {count}; 'dryquarry suite check {name}' lists them")
    show(suites_view(suites), form, out)


@suite.command("show")
@click.argument("reference", metavar="SUITE")
@workspace_option
@format_options()
def show_suite(reference: str, workspace: Path | None, form: str, out: Path | None) -> None:
    """Show a suite's questions with their keys."""
    from dryquarry.showing.suites import suite_view

    show(suite_view(open_workspace(workspace).suite(reference)), form, out)


@suite.command()
@click.argument("name", metavar="SUITE")
@workspace_option
@format_options()
def check(name: str, workspace: Path | None, form: str, out: Path | None) -> None:
    """List all that is wrong in a suite's files, and prove its keys; exits with 1 if there are faults."""
    from dryquarry.showing.suites import check_view

    found = open_workspace(workspace).check(name)
    show(check_view(found), form, out)
    if found.faults:
        raise DoesNotHold(f"suite '{name}' cannot be used as it is")
