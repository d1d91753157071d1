"""ledger info and check."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli.options import examples, format_options, open_workspace, show, workspace_option
from dryquarry.errors import FileFault


@click.group()
def ledger() -> None:
    """What the ledger holds, and whether it is whole."""


@examples(
    "dryquarry ledger info",
    "dryquarry ledger info --format json",
)
@ledger.command()
@workspace_option
@format_options()
def info(workspace: Path | None, form: str, out: Path | None) -> None:
    """Show how much the ledger holds."""
    from dryquarry.showing.ledger import info_view

    show(info_view(open_workspace(workspace).past.info()), form, out)


@examples(
    "dryquarry ledger check",
    "dryquarry ledger check --workspace .",
)
@ledger.command()
@workspace_option
@format_options()
def check(workspace: Path | None, form: str, out: Path | None) -> None:
    """Verify the whole ledger: the file, its tables, each row by its seal or digest.

    Finds what was changed, put in or taken away by hand or by fault, says what can be done, and exits with 3. The seal
    of the whole that 'ledger info' shows, noted elsewhere, tells later whether the ledger is still the same.
    """
    from dryquarry.showing.ledger import problems_view

    problems = open_workspace(workspace).past.problems()
    show(problems_view(problems), form, out)
    if problems:
        raise FileFault("the ledger is damaged; keep the file, and restore a copy of it")
