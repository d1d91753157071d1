"""history: one entrant over editions and time."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli import completion
from dryquarry.cli.options import examples, format_options, open_workspace, show, workspace_option


@examples("dryquarry history tide-sums -e curlew", "dryquarry history tide-sums -e curlew --picture curlew.png")
@click.command()
@click.argument("suite", shell_complete=completion.references)
@click.option("-e", "--entrant", required=True, metavar="NAME", shell_complete=completion.entrants, help="The entrant.")
@workspace_option
@format_options()
def history(suite: str, entrant: str, workspace: Path | None, form: str, out: Path | None) -> None:
    """Show an entrant's scores on every edition of SUITE, under all settings that it had, and each change.

    Where everything was asked anew, what stood before is a row of its own.
    """
    from dryquarry.showing.history import states_view

    show(states_view(open_workspace(workspace).history(suite, entrant)), form, out)
