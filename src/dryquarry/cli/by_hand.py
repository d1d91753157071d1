"""sheet and collect."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli.options import (
    entrant_option,
    examples,
    format_options,
    hint,
    open_workspace,
    read_given,
    reference_argument,
    show,
    workspace_option,
    write_file,
)
from dryquarry.errors import FileFault


@examples(
    "dryquarry sheet lamp-logic -e ruff --out ruff.md",
    "dryquarry sheet lamp-logic -e ruff --trials 2 --out ruff.csv",
)
@click.command()
@reference_argument
@entrant_option("Whom the questions are for.", multiple=False, required=True)
@click.option(
    "--out",
    required=True,
    type=click.Path(path_type=Path, dir_okay=False),
    help="The file to write: .md to paste replies into, .csv or .jsonl.",
)
@click.option("--trials", type=click.IntRange(1, 1000), default=1, show_default=True, help="Replies to each question.")
@workspace_option
def sheet(reference: str, entrant: str, out: Path, trials: int, workspace: Path | None) -> None:
    """Write out the questions that an entrant without endpoint has not answered, for asking by hand."""
    from dryquarry.showing.figures import plural
    from dryquarry.workspace.by_hand import form_of

    form = form_of(out.name)
    written = open_workspace(workspace).by_hand.sheet(reference, entrant, form, trials=trials)
    if not written.questions:
        hint(f"{entrant} has answered every question of {reference}; nothing was written")
        return
    if out.exists():
        raise FileFault(f"{out} is there already, perhaps with replies in it; collect it, or name another file")
    write_file(out, written.text)
    hint(f"{plural(written.questions, 'question')} written to {out}; 'dryquarry collect {out}' reads the replies in")


@examples(
    "dryquarry collect ruff.md",
    "dryquarry collect ruff.md --format json",
)
@click.command()
@click.argument("file", type=click.Path(path_type=Path, dir_okay=False, exists=True))
@workspace_option
@format_options()
def collect(file: Path, workspace: Path | None, form: str, out: Path | None) -> None:
    """Read the replies of a sheet in and mark them; says which are new, changed, unknown or empty.

    A table (.csv) with the columns suite, question, first, second, choice and by holds votes, and is read as such.
    """
    from dryquarry.showing.by_hand import collection_view
    from dryquarry.showing.progress import RunWatcher
    from dryquarry.suites.vote_rows import is_vote_table
    from dryquarry.workspace.by_hand import form_of

    try:
        # Read without translating line ends: a reply is kept exactly as it was pasted.
        text = read_given(file).decode("utf-8")
    except UnicodeDecodeError as error:
        raise FileFault(f"{file} is not a text in UTF-8 (byte {error.start}); save it as UTF-8 and try again") from None
    if file.suffix.lower() == ".csv" and is_vote_table(text):
        _collect_votes(text, file, workspace)
        return
    with RunWatcher() as watcher:
        collection = open_workspace(workspace).by_hand.collect(text, form_of(file.name), file.name, watcher)
    show(collection_view(collection), form, out)


def _collect_votes(text: str, file: Path, workspace: Path | None) -> None:
    from dryquarry.showing.figures import plural
    from dryquarry.suites.vote_rows import read_votes
    from dryquarry.workspace.voting import Voting

    count = Voting(open_workspace(workspace).folder).collect(read_votes(text, file.name), file.name)
    hint(f"{plural(count, 'vote')} stored; 'dryquarry board SUITE --votes' shows what they make")
