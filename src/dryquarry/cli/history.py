"""history: one entrant over editions and time."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli import completion
from dryquarry.cli.options import (
    caption,
    examples,
    format_options,
    hint,
    open_workspace,
    picture_options,
    show,
    workspace_option,
)


@examples("dryquarry history tide-sums -e curlew", "dryquarry history tide-sums -e curlew --picture curlew.png")
@click.command()
@click.argument("suite", shell_complete=completion.references)
@click.option("-e", "--entrant", required=True, metavar="NAME", shell_complete=completion.entrants, help="The entrant.")
@picture_options
@workspace_option
@format_options()
def history(
    suite: str, entrant: str, picture: Path | None, narrow: bool, workspace: Path | None, form: str, out: Path | None
) -> None:
    """Show an entrant's scores on every edition of SUITE, under all settings that it had, and each change.

    Where everything was asked anew, what stood before is a row of its own.
    """
    from dryquarry.showing.history import states_view

    found = open_workspace(workspace).history(suite, entrant)
    show(states_view(found), form, out)
    if picture is not None:
        from dryquarry.showing.pictures.compared import draw_history

        draw_history(found, picture, caption(f"{found.title} over editions and time", narrow=narrow))
        hint(f"drawn to {picture}")
