"""versus, and the gates of boards and comparisons."""

from __future__ import annotations

from collections.abc import Sequence
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
    workspace_option,
)
from dryquarry.errors import DoesNotHold, UsageFault

if TYPE_CHECKING:
    from dryquarry.standing.gates import GateResult
    from dryquarry.standing.versus import Versus
    from dryquarry.workspace import Workspace
    from dryquarry.workspace.selection import Selection


@examples(
    "dryquarry versus curlew godwit --on tide-sums",
    "dryquarry versus godwit curlew --on lamp-logic --show lost",
    'dryquarry versus curlew godwit --on tide-sums --gate "no worse than 0.2"',
)
@click.command()
@click.argument("first", shell_complete=completion.entrants)
@click.argument("second", shell_complete=completion.entrants)
@click.option("--on", "reference", required=True, metavar="SUITE[@N]", shell_complete=completion.references,
              help="The suite to compare them on.")  # fmt: skip
@selection_options
@click.option("--as-judged", is_flag=True, help="Judges' scores as they are, not corrected by people's marks.")
@click.option("--margin", type=click.FloatRange(0, 1), metavar="SHARE", help="Say also whether they differ by less.")
@click.option("--gate", "gates", multiple=True, metavar="TEXT",
              help='Exit with 1 unless it holds: "no worse than 0.02".')  # fmt: skip
@click.option("--show", "shown", type=click.Choice(["lost", "won", "both"]),
              help="Show the replies to what FIRST lost, won, or both, side by side.")  # fmt: skip
@picture_options
@workspace_option
@format_options()
def versus(
    first: str,
    second: str,
    reference: str,
    selection: Selection,
    as_judged: bool,
    margin: float | None,
    gates: tuple[str, ...],
    shown: str | None,
    picture: Path | None,
    narrow: bool,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Compare FIRST with SECOND, question by question, on what both have a mark for.

    NAME:2026-11-26 is an entrant as it stood at the end of that day (UTC), NAME:3ca33dd3 one under earlier settings, by
    their digest; 'dryquarry history' shows both.

    Says how large the difference is, whether it could be luck, and how small a difference these questions could have
    shown at all.
    """
    from dryquarry.showing.versus import versus_view
    from dryquarry.standing.gates import gate_versus

    if first == second:
        raise UsageFault("an entrant is compared with another one; name two")
    if shown and (":" in first or ":" in second):
        raise UsageFault("--show has the replies of entrants as they stand now; leave it out with an earlier state")
    if selection.entrants:
        raise UsageFault("the two entrants are named already; leave -e out")
    opened = open_workspace(workspace)
    found = opened.versus((first, second), reference, selection=selection, margin=margin, as_judged=as_judged)
    results = [gate_versus(gate, found.whole.comparison) for gate in gates]
    show(versus_view(found, results), form, out)
    if picture is not None:
        from dryquarry.showing.pictures.compared import draw_versus

        draw_versus(found, picture, caption(f"{found.titles[0]} against {found.titles[1]}", narrow=narrow))
        hint(f"drawn to {picture}")
    if shown:
        _show_replies(opened, found, reference, shown)
    hints(opened.notices([reference]))
    pair = [first, second, reference, [[duel.question, duel.first, duel.second] for duel in found.duels]]
    hold(opened, results, pair)


def _show_replies(opened: Workspace, found: Versus, reference: str, shown: str) -> None:
    from dryquarry.showing.beside import beside_view
    from dryquarry.showing.replies import replies_view
    from dryquarry.workspace.selection import Selection

    sides = {"lost", "won"} if shown == "both" else {shown}
    questions = tuple(duel.question for duel in found.duels if str(duel.side) in sides)
    click.echo()
    if not questions:
        click.echo(f"{found.first} {' or '.join(sorted(sides))} no question.")
        return
    replies = opened.replies(reference, selection=Selection((found.first, found.second), questions=questions))
    show(beside_view(replies, replies_view(replies)), "table", None)


def hold(opened: Workspace, results: Sequence[GateResult], data: Sequence[object]) -> None:
    """Say how often gates were tried on these data, and raise DoesNotHold for one that does not hold."""
    from dryquarry.standing.gates import failing

    tries = [opened.gate_tries(result.gate, data) for result in results]
    if tries and tries[-1] > 1:
        hints(
            [f"{tries[-1]} gates were tried on these very replies by now; the more, the likelier one holds by chance"]
        )
    if broken := failing(results):
        raise DoesNotHold("; ".join(f'the gate "{result.gate}" does not hold' for result in broken))
