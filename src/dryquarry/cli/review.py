"""review: the marking desk."""

from __future__ import annotations

import getpass
import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from dryquarry.cli.options import (
    examples,
    hint,
    open_workspace,
    read_given,
    reference_argument,
    selection_options,
    workspace_option,
    write_file,
)
from dryquarry.errors import UsageFault
from dryquarry.workspace.selection import Selection

if TYPE_CHECKING:
    from dryquarry.workspace.desk import DeskWish
    from dryquarry.workspace.marking_desk import MarkingDesk


@examples(
    "dryquarry review keeper-letters",
    "dryquarry review keeper-letters --audit 40 --as kim",
    "dryquarry review keeper-letters --audit 40 --format jsonl --out papers.jsonl",
    "dryquarry review keeper-letters --from papers.jsonl --as kim",
)
@click.command()
@reference_argument
@click.option("--as", "person", metavar="NAME", help="Who marks (your login name, if not said).")
@click.option("--audit", type=click.IntRange(1), metavar="N",
              help="A random sample of what judges marked: N replies, ten at least of each entrant.")  # fmt: skip
@click.option("--disputed", is_flag=True, help="What the judges are apart about.")
@click.option("--second", is_flag=True, help="What others have marked, for a second opinion; theirs stay hidden.")
@click.option("--seed", type=click.IntRange(0), default=1, show_default=True, help="Of the random order and draws.")
@click.option("--format", "form", type=click.Choice(["screen", "jsonl"]), default="screen",
              help="The screen, or the papers as lines of JSON to fill in.")  # fmt: skip
@click.option("--out", type=click.Path(path_type=Path, dir_okay=False), help="Write the papers to a file.")
@click.option("--from", "decisions", type=click.Path(path_type=Path, dir_okay=False, allow_dash=True),
              help="Read decisions in: papers with `points` or `verdict` filled in ('-': standard input).")  # fmt: skip
@selection_options
@workspace_option
def review(
    reference: str,
    person: str | None,
    audit: int | None,
    disputed: bool,
    second: bool,
    seed: int,
    form: str,
    out: Path | None,
    decisions: Path | None,
    selection: Selection,
    workspace: Path | None,
) -> None:
    """Mark replies to SUITE by hand, blind: whose a reply is stays hidden, all replies to one question in a row.

    Without more, what waits for a person: questions marked by hand, open marks, and marks that are unsure. A decision
    is stored at once; whoever quits goes on later. An audit's decisions stand beside the judges' marks and correct
    scores; all others become the marks of their replies.
    """
    from dryquarry.workspace.desk import DeskWish
    from dryquarry.workspace.marking_desk import MarkingDesk

    desk = MarkingDesk(open_workspace(workspace).folder)
    person = person or login_name()
    wish = DeskWish(audit, disputed, second, seed)
    if decisions is not None:
        if audit or disputed or second or out or form != "screen":
            raise UsageFault("--from reads decisions in; what they are about stands in the file")
        _read_in(desk, reference, person, decisions)
    elif form == "jsonl" or out is not None:
        _write_out(desk, reference, person, wish, selection, out)
    else:
        _on_screen(desk, reference, person, wish, selection)


def login_name() -> str:
    """Return the name of who is logged in; raises UsageFault where there is none."""
    try:
        return getpass.getuser()
    except (KeyError, OSError):
        raise UsageFault("say who marks: --as NAME") from None


def _standard_input() -> bytes:
    if sys.stdin is None or sys.stdin.closed:
        raise UsageFault("standard input is closed; name a file: --from FILE")
    return sys.stdin.buffer.read()


def _read_in(desk: MarkingDesk, reference: str, person: str, file: Path) -> None:
    from dryquarry.errors import FileFault
    from dryquarry.showing.figures import plural
    from dryquarry.suites.decision_rows import read_decisions

    content = _standard_input() if str(file) == "-" else read_given(file)
    try:
        text = content.decode("utf-8")
    except UnicodeDecodeError:
        raise FileFault(f"{file} is not UTF-8 text") from None
    done = desk.decide_all(reference, person, read_decisions(text, str(file)), str(file))
    left = f"; {plural(done.undecided, 'paper')} not filled in" if done.undecided else ""
    hint(f"{plural(done.decided, 'decision')} by {person} stored{left}")


def _write_out(
    desk: MarkingDesk, reference: str, person: str, wish: DeskWish, selection: Selection, out: Path | None
) -> None:
    from dryquarry.errors import FileFault
    from dryquarry.showing.figures import plural
    from dryquarry.showing.papers import paper_line

    papers = desk.papers(reference, person, wish, selection)
    text = "".join(f"{paper_line(paper, person)}\n" for paper in papers)
    if out is None:
        click.echo(text, nl=False)
    else:
        if out.exists():
            raise FileFault(f"{out} is there already, perhaps with decisions in it; read it in, or name another file")
        write_file(out, text)
    where = f" --from {out}" if out else " --from FILE"
    hint(
        f"{plural(len(papers), 'paper')} for {person}; fill in `points` or `verdict`, then "
        f"'dryquarry review {reference}{where} --as {person}'"
    )


def _on_screen(desk: MarkingDesk, reference: str, person: str, wish: DeskWish, selection: Selection) -> None:
    from dryquarry.showing.figures import plural
    from dryquarry.showing.screens.terminal import check_terminal

    check_terminal("'--format jsonl' writes the papers out, and '--from FILE' reads decisions in")
    with desk.session(reference, person, wish, selection) as session:
        if session.paper is None:
            hint(f"nothing in {reference} waits for {person}" + ("" if wish.audit else "; --audit 40 draws a sample"))
            return
        from dryquarry.showing.screens.review import ReviewScreen

        ReviewScreen(session, lambda file: desk.load(session.suite.name, file)).show_screen()
        replaced = session.replaced
        decided = len(session.done)
        left = session.undecided
    hint(f"{plural(decided, 'decision')} by {person} stored; {left} left: the same command goes on")
    if replaced:
        hint(f"{plural(replaced, 'decision')} by {person} are of replies that were replaced since, and count no more")
