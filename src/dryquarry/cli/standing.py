"""board, grid and replies."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli.options import (
    entrant_option,
    format_options,
    hint,
    hints,
    open_workspace,
    show,
    workspace_option,
)


@click.command()
@click.argument("references", nargs=-1, required=True, metavar="SUITE[@N]...")
@entrant_option
@click.option("--each-own", is_flag=True, help="Show each entrant on its own edition, without ranks.")
@workspace_option
@format_options()
def board(
    references: tuple[str, ...],
    entrants: tuple[str, ...],
    each_own: bool,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Show the leaderboard of SUITE, or one board over several suites with a score for each.

    SUITE alone is its newest edition. Entrants that sat other editions are compared on the questions that
    all of them sat.
    """
    from dryquarry.showing.boards import board_view

    opened = open_workspace(workspace)
    result = opened.board(references, entrants, each_own=each_own)
    show(board_view(result), form, out)
    hints([*result.notes, *opened.notices(references)])


@click.command()
@click.argument("reference", metavar="SUITE[@N]")
@entrant_option
@click.option("--picture", type=click.Path(path_type=Path, dir_okay=False), help="Also draw it to this PNG.")
@workspace_option
@format_options()
def grid(
    reference: str,
    entrants: tuple[str, ...],
    picture: Path | None,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Show SUITE's questions down, entrants across, a mark in each cell."""
    from dryquarry.showing.grids import grid_view

    opened = open_workspace(workspace)
    result = opened.grid(reference, entrants)
    show(grid_view(result), form, out)
    hints(opened.notices([reference]))
    if picture is not None:
        from dryquarry.showing.pictures import draw_grid

        draw_grid(result, picture, opened.suites.get(reference).title)
        hint(f"picture written to {picture}")


@click.command()
@click.argument("reference", metavar="SUITE[@N]")
@click.option("--question", "questions", multiple=True, metavar="ID", help="Only this question.")
@entrant_option
@click.option(
    "--verdict",
    "verdicts",
    multiple=True,
    type=click.Choice(["pass", "fail", "open", "void", "none"]),
    help="Only replies with this verdict ('none': not marked).",
)
@click.option("--corrected", is_flag=True, help="Only replies whose mark a person set.")
@click.option("--unsure", is_flag=True, help="Only replies that another defensible reading would mark otherwise.")
@click.option("--second-tries", is_flag=True, help="The replies to what was said after failed first tries instead.")
@workspace_option
@format_options("jsonl")
def replies(
    reference: str,
    questions: tuple[str, ...],
    entrants: tuple[str, ...],
    verdicts: tuple[str, ...],
    corrected: bool,
    unsure: bool,
    second_tries: bool,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Read the replies to SUITE, beside key, answer read and reason."""
    from dryquarry.showing.replies import replies_view

    opened = open_workspace(workspace)
    found = opened.replies(
        reference,
        names=entrants,
        questions=questions,
        verdicts=verdicts,
        second_tries=second_tries,
        corrected=corrected,
        unsure=unsure,
    )
    show(replies_view(found, unsure=unsure), form, out)
    hints(opened.notices([reference]))
