"""items: what each question is worth."""

from __future__ import annotations

from pathlib import Path
from typing import TYPE_CHECKING

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
    "dryquarry items tide-sums",
    "dryquarry items lamp-logic --families",
    "dryquarry items tide-sums --smaller 12",
    "dryquarry items lamp-logic --retire-saturated --plan",
)
@click.command()
@reference_argument
@selection_options
@click.option("--families", is_flag=True, help="Originals against their twists instead: who probably recites.")
@click.option("--smaller", type=click.IntRange(2), metavar="N", help="Draw N of the questions by chance instead.")
@click.option("--seed", type=click.IntRange(0), help="With --smaller: which draw (1 if not said).")
@click.option("--retire-saturated", is_flag=True, help="Retire the questions that all entrants pass, in the files.")
@click.option("--plan", is_flag=True, help="With --retire-saturated: only list them; write nothing.")
@picture_options
@workspace_option
@format_options()
def items(
    reference: str,
    selection: Selection,
    families: bool,
    smaller: int | None,
    seed: int | None,
    retire_saturated: bool,
    plan: bool,
    picture: Path | None,
    narrow: bool,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Show what each question of SUITE is worth: how hard it is, what it tells apart, whether its key may be wrong."""
    from dryquarry.showing.items import items_view
    from dryquarry.standing.items import Worth

    if plan and not retire_saturated:
        raise UsageFault("--plan goes with --retire-saturated; 'items' alone writes nothing")
    if seed is not None and smaller is None:
        raise UsageFault("--seed goes with --smaller N")
    opened = open_workspace(workspace)
    if families or smaller is not None:
        if retire_saturated or picture is not None or (families and smaller is not None):
            raise UsageFault("--families and --smaller are tables of their own, one at a time; leave the others out")
        if families:
            from dryquarry.showing.families import families_view

            show(families_view(opened.families(reference, selection=selection)), form, out)
        else:
            from dryquarry.showing.smaller import smaller_view

            drawn = opened.smaller(reference, smaller or 0, 1 if seed is None else seed, selection=selection)
            show(smaller_view(drawn), form, out)
        hints(opened.notices([reference]))
        return
    table = opened.items(reference, selection=selection)
    show(items_view(table), form, out)
    hints(opened.notices([reference]))
    if picture is not None:
        from dryquarry.showing.pictures.items import draw_items

        draw_items(table, picture, caption(opened.suites.get(reference).title, narrow=narrow))
        hint(f"drawn to {picture}")
    if not retire_saturated:
        return
    saturated = [row.question for row in table.rows if row.worth is Worth.SATURATED]
    if not saturated:
        hint("no question is saturated; nothing to retire")
    elif plan:
        hint(f"would retire {', '.join(saturated)}")
    else:
        because = f"saturated: all {table.entrants} entrants pass it"
        paths = opened.suites.retire(table.suite, saturated, because)
        hint(f"retired {', '.join(saturated)} in {', '.join(paths)}")
