"""grid and replies."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING, Any

import click

from dryquarry.cli.options import (
    caption,
    examples,
    format_options,
    hint,
    hints,
    open_workspace,
    picture_options,
    reference_argument,
    selection_options,
    show,
    workspace_option,
)
from dryquarry.errors import UsageFault

if TYPE_CHECKING:
    from dryquarry.workspace.selection import Selection


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
@picture_options
@workspace_option
@format_options()
def grid(
    reference: str,
    selection: Selection,
    shown: str | None,
    order: str | None,
    picture: Path | None,
    narrow: bool,
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
        from dryquarry.showing.pictures.grid import draw_grid

        files = draw_grid(result, picture, caption(opened.suites.get(reference).title, narrow=narrow))
        hint(f"drawn to {', '.join(map(str, files))}")


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
@click.option("--judged", is_flag=True, help="With what each judge was asked and answered, and what people decided.")
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
    judged: bool,
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
    filtered = ReplyFilter(**wanted)
    found = opened.replies(reference, wanted=filtered, selection=selection, second_tries=second_tries, judged=judged)
    found = sorted_replies(found, order) if order else found
    view = replies_view(found, unsure=bool(wanted["unsure"]), judged=judged)
    if side_by_side:
        from dryquarry.showing.beside import beside_view

        if order:
            raise UsageFault("--beside goes by the suite's questions; leave --sort out")
        view = beside_view(found, view)
    show(view, form, out)
    hints(opened.notices([reference]))
