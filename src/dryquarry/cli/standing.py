"""board, grid and replies."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from dryquarry.cli import completion
from dryquarry.cli.options import (
    examples,
    format_options,
    hint,
    hints,
    open_workspace,
    reference_argument,
    selection_options,
    show,
    workspace_option,
)
from dryquarry.cli.versus import hold
from dryquarry.errors import UsageFault

if TYPE_CHECKING:
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
@click.option(
    "--picture", type=click.Path(path_type=Path, dir_okay=False), help="Also draw it to this PNG, SVG or PDF."
)
@click.option("--failures", is_flag=True, help="Show what failing goes with instead, with how to list those replies.")
@click.option("--equated", is_flag=True, help="Put entrants of all editions on this one's scale instead.")
@click.option("--shared", is_flag=True, help="Count only the questions that every shown entrant has.")
@click.option("--weight", "weights", multiple=True, metavar="SUITE=NUMBER",
              help="What a whole suite weighs on a board over several (1 where not said).")  # fmt: skip
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
    failures: bool,
    equated: bool,
    shared: bool,
    weights: tuple[str, ...],
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

    opened = open_workspace(workspace)
    if failures:
        _show_failures(opened, references, selection, form, out)
        return
    if equated:
        _show_equated(opened, references, selection, form, out)
        return
    wish = BoardWish(Target.THESE if these_questions else Target.KIND, shared, baseline, _suite_weights(weights))
    result = opened.board(references, each_own=each_own, selection=selection, wish=wish)
    results = [gate_board(gate, result) for gate in gates]
    show(board_view(sorted_board(result, order) if order else result, results), form, out)
    hints([*board_notes(result), *opened.notices(references)])
    if picture is not None:
        _draw(opened, references, result, picture)
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


def _draw(opened: Workspace, references: tuple[str, ...], result: Board, picture: Path) -> None:
    from datetime import date

    from dryquarry.showing.board_picture import draw_board

    titles = [opened.suites.get(reference).title for reference in references]
    draw_board(result, picture, " + ".join(titles), date.today().isoformat())
    hint(f"drawn to {picture}")


def _show_failures(
    opened: Workspace, references: tuple[str, ...], selection: Selection, form: str, out: Path | None
) -> None:
    from dryquarry.showing.failures import failures_view

    if len(references) != 1:
        raise UsageFault("--failures is about one suite at a time")
    show(failures_view(opened.failures(references[0], selection=selection)), form, out)
    hints(opened.notices(references))


def _show_equated(
    opened: Workspace, references: tuple[str, ...], selection: Selection, form: str, out: Path | None
) -> None:
    from dryquarry.showing.equated import equated_view

    if len(references) != 1:
        raise UsageFault("--equated is about the editions of one suite")
    show(equated_view(opened.equated(references[0], selection=selection)), form, out)


@examples(
    "dryquarry grid lamp-logic --show answer",
    "dryquarry grid shore-facts --sort mean --picture grid.png",
)
@click.command()
@reference_argument
@selection_options
@click.option(
    "--show",
    "shown",
    type=click.Choice(["answer", "score", "seconds", "tokens", "cost"]),
    help="Show this of each reply: what was read, what it took.",
)
@click.option(
    "--sort", "order", metavar="NAME", help="By question, category, mean, or an entrant's score; -NAME falls."
)
@click.option("--picture", type=click.Path(path_type=Path, dir_okay=False), help="Also draw it to this PNG.")
@workspace_option
@format_options()
def grid(
    reference: str,
    selection: Selection,
    shown: str | None,
    order: str | None,
    picture: Path | None,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Show SUITE's questions down, entrants across, a mark in each cell."""
    from dryquarry.showing.grids import grid_view
    from dryquarry.standing.sorting import sorted_grid

    opened = open_workspace(workspace)
    result = opened.grid(reference, selection=selection)
    result = sorted_grid(result, order) if order else result
    show(grid_view(result, shown), form, out)
    hints(opened.notices([reference]))
    if picture is not None:
        from dryquarry.showing.pictures import draw_grid

        draw_grid(result, picture, opened.suites.get(reference).title)
        hint(f"picture written to {picture}")


@examples(
    "dryquarry replies tide-sums --verdict fail -e curlew",
    "dryquarry replies lamp-logic -e dunlin -e curlew --differ --beside",
    "dryquarry replies tide-sums --unsure --format csv --out marks.csv",
)
@click.command()
@reference_argument
@selection_options
@click.option(
    "--verdict",
    "verdicts",
    multiple=True,
    type=click.Choice(["pass", "fail", "open", "void", "none"]),
    help="Only replies with this verdict ('none': not marked).",
)
@click.option("--corrected", is_flag=True, help="Only replies whose mark a person set.")
@click.option("--unsure", is_flag=True, help="Only replies that another defensible reading would mark otherwise.")
@click.option("--differ", is_flag=True, help="Only questions on which the entrants shown came out differently.")
@click.option(
    "--outcome",
    "outcomes",
    multiple=True,
    type=click.Choice(["answered", "refused", "blocked", "cut-off", "timed-out", "failed"]),
    help="Only replies that ended so.",
)
@click.option("--form-lost", is_flag=True, help="Only replies whose answer does not stand where it was asked for.")
@click.option("--scheme", "schemes", multiple=True, metavar="NAME", help="Only questions marked by this scheme.")
@click.option("--twist", "twists", multiple=True, metavar="TEXT", help="Only questions with this twist.")
@click.option("--language", "languages", multiple=True, metavar="NAME", help="Only questions in this language.")
@click.option("--words-over", type=click.IntRange(0), metavar="N", help="Only questions of more words.")
@click.option("--tokens-over", type=click.IntRange(0), metavar="N", help="Only replies of more output tokens.")
@click.option("--second-tries", is_flag=True, help="The replies to what was said after failed first tries instead.")
@click.option("--beside", "side_by_side", is_flag=True, help="Two or three entrants' replies side by side.")
@click.option(
    "--sort", "order", metavar="NAME", help="By question, entrant, trial, score, seconds, tokens, cost; -NAME falls."
)
@workspace_option
@format_options("jsonl")
def replies(
    reference: str,
    selection: Selection,
    second_tries: bool,
    side_by_side: bool,
    order: str | None,
    workspace: Path | None,
    form: str,
    out: Path | None,
    **wanted: Any,
) -> None:
    """Read the replies to SUITE, beside question, key, answer read and reason.

    --format csv has two empty columns, `set` and `because`; filled in, 'dryquarry mark --from FILE' reads them.
    """
    from dryquarry.showing.replies import replies_view, sorted_replies
    from dryquarry.workspace.listing import ReplyFilter

    opened = open_workspace(workspace)
    found = opened.replies(reference, wanted=ReplyFilter(**wanted), selection=selection, second_tries=second_tries)
    found = sorted_replies(found, order) if order else found
    view = replies_view(found, unsure=bool(wanted["unsure"]))
    if side_by_side:
        from dryquarry.showing.beside import beside_view

        if order:
            raise UsageFault("--beside goes by the suite's questions; leave --sort out")
        view = beside_view(found, view)
    show(view, form, out)
    hints(opened.notices([reference]))
