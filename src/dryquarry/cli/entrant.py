"""entrant list, show, ping."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli import completion
from dryquarry.cli.options import examples, format_options, open_workspace, show, workspace_option
from dryquarry.errors import UsageFault, closest


@click.group()
def entrant() -> None:
    """List, show and ping the models that are asked."""


@examples(
    "dryquarry entrant list",
    "dryquarry entrant list --format csv",
)
@entrant.command("list")
@workspace_option
@format_options()
def list_entrants(workspace: Path | None, form: str, out: Path | None) -> None:
    """List the entrants and judges of entrants.toml."""
    from dryquarry.showing.entrants import entrants_view

    show(entrants_view(open_workspace(workspace).entrants()), form, out)


@examples(
    "dryquarry entrant show dunlin",
    "dryquarry entrant show heron",
)
@entrant.command("show")
@click.argument("name", shell_complete=completion.people)
@workspace_option
@format_options()
def show_entrant(name: str, workspace: Path | None, form: str, out: Path | None) -> None:
    """Show all that is set of one entrant or judge, and what was run under its name with which settings when."""
    from dryquarry.showing.entrants import entrant_view

    opened = open_workspace(workspace)
    known = opened.entrants()
    everyone = {**known.judges, **known.entrants}
    if name not in everyone:
        raise UsageFault(f"there is no entrant '{name}' in entrants.toml{closest(name, everyone)}")
    role = "entrant" if name in known.entrants else "judge"
    show(entrant_view(everyone[name], role, opened.past.sittings(name)), form, out)


@examples(
    "dryquarry entrant ping",
    "dryquarry entrant ping dunlin heron",
)
@entrant.command()
@click.argument("names", nargs=-1, metavar="[NAME]...", shell_complete=completion.people)
@workspace_option
@format_options()
@click.pass_context
def ping(ctx: click.Context, names: tuple[str, ...], workspace: Path | None, form: str, out: Path | None) -> None:
    """Send each one tiny request: is it reachable, the key accepted, the model known? Exits with 4 if not."""
    from dryquarry.showing.entrants import pings_view

    pings = open_workspace(workspace).ping(names)
    show(pings_view(pings), form, out)
    ctx.exit(4 if any(one.problem for one in pings) else 0)
