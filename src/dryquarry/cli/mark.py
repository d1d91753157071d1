"""mark and try."""

from __future__ import annotations

import sys
from pathlib import Path
from typing import TYPE_CHECKING

import click

from dryquarry.cli import completion
from dryquarry.cli.options import (
    entrant_option,
    examples,
    format_options,
    hint,
    hints,
    open_workspace,
    read_given,
    reference_argument,
    show,
    workspace_option,
)
from dryquarry.errors import FileFault, UsageFault

if TYPE_CHECKING:
    from dryquarry.workspace.mark_book import MarkBook


@examples(
    "dryquarry mark tide-sums --plan",
    'dryquarry mark tide-sums --question lamp-oil -e curlew --set pass --because "meant per night"',
    "dryquarry mark --from marks.csv --plan",
)
@click.command()
@click.argument("reference", metavar="[SUITE[@N]]", required=False, shell_complete=completion.references)
@click.option("--plan", is_flag=True, help="Show what would change; write nothing.")
@click.option(
    "--from",
    "table",
    type=click.Path(path_type=Path, dir_okay=False),
    help="Set marks by hand from a table: what 'replies --format csv' writes, with `set` and `because` filled in.",
)
@click.option("--question", metavar="ID", shell_complete=completion.questions, help="The question whose marks to set.")
@entrant_option("Only this entrant.")
@click.option("--trial", "trials", type=click.IntRange(1), multiple=True, help="Only this trial.")
@click.option("--set", "setting", metavar="pass|fail|0.8|4/5|void", help="Set marks by hand; void without -e: for all.")
@click.option("--because", metavar="TEXT", help="Why; kept with the mark, and shown.")
@click.option("--processes", type=click.IntRange(1), help="Use so many processes (default: one a core).")
@click.option("--take-back", is_flag=True, help="Let marks set by hand, or a void question, be as if never set.")
@workspace_option
@format_options()
def mark(
    reference: str | None,
    plan: bool,
    table: Path | None,
    question: str | None,
    entrants: tuple[str, ...],
    trials: tuple[int, ...],
    setting: str | None,
    because: str | None,
    processes: int | None,
    take_back: bool,
    workspace: Path | None,
    form: str,
    out: Path | None,
) -> None:
    """Mark the stored replies to SUITE again with the present keys and schemes; asks no entrant anything.

    Prints which marks changed and what that does to the standings. With --set, --from or --take-back, a person's mark;
    while a run uses the ledger that waits for its end.
    """
    opened = open_workspace(workspace)
    marks = opened.marks
    if table is not None:
        if reference or question or entrants or trials or setting or take_back:
            raise UsageFault("--from goes with --because and --plan alone; suites and questions stand in the table")
        _set_from(marks, table, because, form, out, write=not plan)
        return
    if reference is None:
        raise UsageFault("name the suite whose replies to mark, or a table with --from FILE")
    if setting is None and not take_back:
        if question or because or trials:
            raise UsageFault("--question, --trial and --because go with --set or --take-back")
        from dryquarry.showing.progress import RunWatcher
        from dryquarry.showing.remarking import remarking_hints, remarking_view

        with RunWatcher() as watcher:
            done = marks.again(reference, entrants, write=not plan, processes=processes, on_running=watcher.running)
        show(remarking_view(done), form, out)
        hints([*remarking_hints(done), *opened.notices([reference])])
        return
    if question is None:
        raise UsageFault("name the question whose marks to set: --question ID")
    from dryquarry.workspace.mark_book import RepliesNamed

    chosen = RepliesNamed(reference, question, entrants, trials)
    if take_back:
        hint(marks.take_back(chosen, write=not plan))
        return
    if not because or not because.strip():
        raise UsageFault('say why the mark is set: --because "…"')
    hint(marks.set(chosen, setting or "", because.strip(), write=not plan))


def _set_from(marks: MarkBook, table: Path, because: str | None, form: str, out: Path | None, *, write: bool) -> None:
    from dryquarry.showing.remarking import set_marks_view
    from dryquarry.suites.mark_tables import read_marks

    rows = read_marks(read_given(table), table.name, because)
    show(set_marks_view(marks.set_from(rows, table.name, write=write), written=write), form, out)


@examples(
    "dryquarry try tide-sums lamp-oil reply.txt",
    'echo "Answer: 178.5" | dryquarry try tide-sums lamp-oil',
)
@click.command("try")
@reference_argument
@click.argument("question", shell_complete=completion.questions)
@click.argument("file", type=click.Path(path_type=Path, dir_okay=False), required=False)
@workspace_option
@format_options()
def try_text(
    reference: str, question: str, file: Path | None, workspace: Path | None, form: str, out: Path | None
) -> None:
    """Mark the text in FILE, or on standard input, as a reply to QUESTION; explain every step, store nothing."""
    from dryquarry.showing.trying import tried_view

    try:
        if file is None and sys.stdin is None:
            raise UsageFault("there is no standard input; name a file")
        content = read_given(file) if file is not None else sys.stdin.buffer.read()
        text = content.decode("utf-8")
    except UnicodeDecodeError as error:
        raise FileFault(f"{file or 'standard input'} is not a text in UTF-8 (byte {error.start})") from None
    opened = open_workspace(workspace)
    show(tried_view(opened.suites.try_text(reference, question, text)), form, out)
    hints(opened.notices([reference]))
