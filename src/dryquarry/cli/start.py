"""init and demo."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli.options import caption, examples, hint, hints, show


@examples(
    "dryquarry init my-evals",
    "dryquarry init .",
)
@click.command()
@click.argument("directory", type=click.Path(path_type=Path), default=".")
def init(directory: Path) -> None:
    """Write a new workspace with a small example suite into DIRECTORY."""
    from dryquarry.workspace.folder import write_workspace

    for path in write_workspace(directory, "example"):
        hint(f"wrote {directory / path}")
    where = "" if directory == Path(".") else f"cd {directory}\n  "
    hint(
        "",
        "Try next:",
        f"  {where}dryquarry suite check first-light",
        "  dryquarry run first-light",
        "  dryquarry board first-light",
    )


@examples(
    "dryquarry demo",
    "dryquarry demo /tmp/saltmarsh",
)
@click.command()
@click.argument("directory", type=click.Path(path_type=Path), default="dryquarry-demo")
def demo(directory: Path) -> None:
    """Write the demo workspace into DIRECTORY, ask and mark everything, and show the boards.

    Works offline: the models are simulated by the stand-in, over real HTTP on this machine. In a demo
    workspace that is already there and unchanged, only what is missing is done.
    """
    from dryquarry.showing.board_lines import board_notes
    from dryquarry.showing.boards import board_view
    from dryquarry.showing.grids import grid_view
    from dryquarry.showing.pictures.grid import draw_grid
    from dryquarry.showing.progress import RunWatcher
    from dryquarry.workspace import Workspace
    from dryquarry.workspace.folder import write_demo

    if write_demo(directory):
        hint(f"wrote the demo workspace into {directory}")
    workspace = Workspace.open(directory)
    suites = workspace.suites.names()
    for suite in suites:
        with RunWatcher() as watcher:
            workspace.run(suite, (), watcher)
    for suite in suites:
        board = workspace.board([suite])
        show(board_view(board), "table", None)
        hints(board_notes(board))
        click.echo()
    grid = workspace.grid("lamp-logic")
    show(grid_view(grid), "table", None)
    click.echo()
    show(board_view(workspace.board(suites)), "table", None)
    picture = directory / "lamp-logic-grid.png"
    draw_grid(grid, picture, caption(workspace.suites.get("lamp-logic").title))
    hint(
        "",
        f"The grid is drawn in {picture}. Try next:",
        f"  cd {directory}",
        "  dryquarry replies tide-sums --verdict fail",
        "  dryquarry replies lamp-logic --question three-lamps -e plover",
        "  dryquarry grid shore-facts",
        "  dryquarry board tide-sums --format json",
        "  dryquarry suite show lamp-logic",
    )
