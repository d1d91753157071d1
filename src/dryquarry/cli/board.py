"""board."""

from __future__ import annotations

from functools import partial
from pathlib import Path
from typing import TYPE_CHECKING

import click

from dryquarry.cli import completion
from dryquarry.cli.options import (
    caption,
    examples,
    format_options,
    hint,
    hints,
    open_workspace,
    picture_options,
    selection_options,
    show,
    with_picture,
    workspace_option,
)
from dryquarry.cli.versus import hold
from dryquarry.errors import UsageFault

if TYPE_CHECKING:
    from dryquarry.showing.pictures.frame import Caption
    from dryquarry.standing.board_model import Board
    from dryquarry.workspace import Workspace
    from dryquarry.workspace.selection import Selection


@examples(
    "dryquarry board tide-sums",
    "dryquarry board lamp-logic --category order --sort cost",
    "dryquarry board tide-sums --baseline godwit --picture board.png",
    "dryquarry board tide-sums --failures",
    "dryquarry board tide-sums lamp-logic --where reasoning=true --out board.md",
)
@click.command()
@click.argument("references", nargs=-1, required=True, metavar="SUITE[@N]...", shell_complete=completion.references)
@selection_options
@click.option("--each-own", is_flag=True, help="Show each entrant on its own edition, without ranks.")
@click.option("--baseline", metavar="NAME", help="Compare every other entrant with this one.")
@click.option("--gate", "gates", multiple=True, metavar="TEXT",
              help='Exit with 1 unless it holds: "NAME >= 0.8", or "NAME low >= 0.8" of the interval.')  # fmt: skip
@picture_options
@click.option(
    "--picture-of",
    type=click.Choice(["board", "cost", "seconds", "categories", "trials"]),
    callback=with_picture,
    help="What to draw: the board (if not said), scores against cost or seconds, by category, or how trials differ.",
)
@click.option("--failures", is_flag=True, help="Show what failing goes with instead, with how to list those replies.")
@click.option("--equated", is_flag=True, help="Put entrants of all editions on this one's scale instead.")
@click.option("--shared", is_flag=True, help="Count only the questions that every shown entrant has.")
@click.option("--weight", "weights", multiple=True, metavar="SUITE=NUMBER",
              help="What a whole suite weighs on a board over several (1 where not said).")  # fmt: skip
@click.option("--as-judged", is_flag=True, help="Judges' scores as they are, not corrected by people's marks.")
@click.option("--votes", is_flag=True, help="Strengths from votes between two replies instead.")
@click.option(
    "--these-questions", is_flag=True, help="Intervals about these very questions over new trials, not their kind."
)
@click.option(
    "--sort", "order", metavar="NAME", help="By entrant, score, passed, seconds, tokens, cost, a category; -NAME falls."
)
@workspace_option
@format_options()
def board(
    references: tuple[str, ...],
    selection: Selection,
    each_own: bool,
    baseline: str | None,
    gates: tuple[str, ...],
    picture: Path | None,
    narrow: bool,
    picture_of: str | None,
    failures: bool,
    equated: bool,
    shared: bool,
    weights: tuple[str, ...],
    as_judged: bool,
    votes: bool,
    these_questions: bool,
    order: str | None,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Show the leaderboard of SUITE, or one board over several suites with a score for each.

    SUITE alone is its newest edition. Ranked is who has a mark on every question that counts; who lacks some stands
    below, and changes nobody's row. What at least half of the entrants, and more than one, lack counts for nobody.
    """
    from dryquarry.showing.board_lines import board_notes
    from dryquarry.showing.boards import board_view
    from dryquarry.standing.board_model import Target
    from dryquarry.standing.gates import gate_board
    from dryquarry.standing.sorting import sorted_board
    from dryquarry.workspace.standings import BoardWish

    others = (each_own, baseline, gates, shared, weights, as_judged, these_questions, order, picture_of)
    opened = open_workspace(workspace)
    if failures or equated or votes:
        if failures + equated + votes > 1 or any(others) or (picture is not None and not equated):
            raise UsageFault(
                "--failures, --equated and --votes are tables of their own; leave what is about the board out"
            )
        table = _show_votes if votes else _show_failures if failures else partial(_show_equated, picture, narrow)
        table(opened, references, selection, form, out)
        return
    wish = BoardWish(
        Target.THESE if these_questions else Target.KIND, shared, baseline, _suite_weights(weights), as_judged
    )
    result = opened.board(references, each_own=each_own, selection=selection, wish=wish)
    results = [gate_board(gate, result) for gate in gates]
    show(board_view(sorted_board(result, order) if order else result, results), form, out)
    hints([*board_notes(result), *opened.notices(references)])
    if picture is not None:
        _draw(result, picture_of or "board", picture, caption(_title(opened, references), narrow=narrow))
    hold(opened, results, [list(references), [[row.entrant, row.score, row.marked] for row in result.rows]])


def _suite_weights(given: tuple[str, ...]) -> dict[str, float]:
    """Return weights by suite; raises UsageFault for what is none."""
    weights = {}
    for one in given:
        name, sign, number = one.partition("=")
        try:
            weights[name] = float(number)
        except ValueError:
            sign = ""
        if not sign or not 0 <= weights[name] <= 1e6:
            raise UsageFault(f"the weight '{one}' is not understood; write SUITE=2, from 0 to 1,000,000")
    return weights


def _title(opened: Workspace, references: tuple[str, ...]) -> str:
    return " + ".join(opened.suites.get(reference).title for reference in references)


def _draw(result: Board, what: str, picture: Path, above: Caption) -> None:
    from dryquarry.showing.pictures.board import draw_board
    from dryquarry.showing.pictures.shares import draw_categories, draw_trials
    from dryquarry.showing.pictures.tradeoff import draw_tradeoff

    if what in ("cost", "seconds"):
        draw_tradeoff(result, what, picture, above)
    else:
        {"board": draw_board, "categories": draw_categories, "trials": draw_trials}[what](result, picture, above)
    hint(f"drawn to {picture}")


def _show_failures(
    opened: Workspace, references: tuple[str, ...], selection: Selection, form: str, out: Path | None
) -> None:
    from dryquarry.showing.failures import failures_view

    if len(references) != 1:
        raise UsageFault("--failures is about one suite at a time")
    show(failures_view(opened.failures(references[0], selection=selection)), form, out)
    hints(opened.notices(references))


def _show_votes(
    opened: Workspace, references: tuple[str, ...], selection: Selection, form: str, out: Path | None
) -> None:
    from dryquarry.showing.votes import vote_board_view
    from dryquarry.workspace.voting import Voting

    if len(references) != 1:
        raise UsageFault("--votes is about one suite at a time")
    suite, found = Voting(opened.folder).board(references[0], selection)
    show(vote_board_view(suite.reference, found), form, out)


def _show_equated(
    picture: Path | None,
    narrow: bool,
    opened: Workspace,
    references: tuple[str, ...],
    selection: Selection,
    form: str,
    out: Path | None,
) -> None:
    from dryquarry.showing.equated import equated_view

    if len(references) != 1:
        raise UsageFault("--equated is about the editions of one suite")
    found = opened.equated(references[0], selection=selection)
    show(equated_view(found), form, out)
    hints(opened.notices(references))
    if picture is not None:
        from dryquarry.showing.pictures.board import draw_equated

        draw_equated(found, picture, caption(_title(opened, references), narrow=narrow))
        hint(f"drawn to {picture}")
