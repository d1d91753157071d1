"""pair: votes between two replies."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli.options import (
    entrant_option,
    examples,
    hint,
    open_workspace,
    reference_argument,
    workspace_option,
)
from dryquarry.cli.review import login_name
from dryquarry.errors import UsageFault

INSTEAD = "'dryquarry collect votes.csv' reads votes in, and '--judge NAME' has a judge vote"


@examples(
    "dryquarry pair keeper-letters -e curlew -e dunlin",
    "dryquarry pair keeper-letters -e curlew -e dunlin -e godwit --judge whimbrel --count 20",
)
@click.command()
@reference_argument
@entrant_option("Whose replies; two at least.")
@click.option("--as", "person", metavar="NAME", help="Who votes (your login name, if not said).")
@click.option("--judge", metavar="NAME", help="Have this judge vote, on each pair in both orders, instead of a person.")
@click.option("--count", type=click.IntRange(1), default=20, show_default=True, help="How many pairs a judge votes on.")
@click.option("--budget", type=click.FloatRange(min=0), help="The most that the judge may cost.")
@click.option("--seed", type=click.IntRange(0), default=1, show_default=True, help="Of the random order.")
@workspace_option
def pair(
    reference: str,
    entrants: tuple[str, ...],
    person: str | None,
    judge: str | None,
    count: int,
    budget: float | None,
    seed: int,
    workspace: Path | None,
) -> None:
    """Vote between two replies to the same question of SUITE, blind and in random order: first, second, tie, both bad.

    Which pair comes next is the one whose vote tells most. 'dryquarry board SUITE --votes' shows what votes make.
    """
    from dryquarry.showing.figures import plural
    from dryquarry.workspace.voting import Voting

    voting = Voting(open_workspace(workspace).folder)
    if judge is not None:
        if person is not None:
            raise UsageFault("a vote is by a person (--as) or by a judge (--judge)")
        stored, failed = voting.by_judge(reference, entrants, judge, count, budget=budget, seed=seed)
        unread = f"; {failed} could not be had or read" if failed else ""
        hint(f"{plural(stored, 'vote')} by {judge} stored, each pair in both orders{unread}")
        return
    from dryquarry.showing.screens.terminal import check_terminal

    check_terminal(INSTEAD)
    who = person or login_name()
    with voting.session(reference, entrants, who, seed=seed) as session:
        if session.ballot is None:
            hint(f"{who} has voted on every pair there is")
            return
        from dryquarry.showing.screens.pair import PairScreen

        PairScreen(session).show_screen()
        done = len(session.done)
    hint(f"{plural(done, 'vote')} by {who} stored; 'dryquarry board {reference} --votes' shows what they make")
