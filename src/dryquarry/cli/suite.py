"""suite list, show, check, seal, correct, history, diff, retire, restore, import, export."""

from __future__ import annotations

from pathlib import Path

import click

from dryquarry.cli import completion
from dryquarry.cli.options import (
    examples,
    format_options,
    hint,
    hints,
    open_workspace,
    reference_argument,
    show,
    workspace_option,
    write_file,
)
from dryquarry.errors import DoesNotHold, FaultyFiles, UsageFault


@click.group()
def suite() -> None:
    """Everything about suites of questions and their editions."""


@examples(
    "dryquarry suite new harbour",
    'dryquarry suite new ferry --title "Ferry times"',
)
@suite.command()
@click.argument("name", metavar="SUITE")
@click.option("--title", help="What people call it (default: its name).")
@workspace_option
def new(name: str, title: str | None, workspace: Path | None) -> None:
    """Write a new suite with comments that teach the format, and two questions to replace."""
    path = open_workspace(workspace).suites.new(name, title or name)
    hint(f"wrote {path}; edit it, then 'dryquarry suite check {name}'")


@examples(
    "dryquarry suite list",
    "dryquarry suite list --wide",
)
@suite.command("list")
@workspace_option
@format_options()
def list_suites(workspace: Path | None, form: str, out: Path | None) -> None:
    """List the suites of the workspace; one with faults is told of, and left out."""
    from dryquarry.showing.figures import plural
    from dryquarry.showing.suites import suites_view

    opened = open_workspace(workspace)
    suites = []
    for name in opened.suites.names():
        try:
            suites.append(opened.suites.get(name))
        except FaultyFiles as error:
            count = plural(len(error.faults), "fault")
            hint(f"note: {name} has {count}; 'dryquarry suite check {name}' lists them")
    show(suites_view(suites), form, out)


@examples(
    "dryquarry suite show lamp-logic",
    "dryquarry suite show tide-sums@2 --format csv",
)
@suite.command("show")
@reference_argument
@workspace_option
@format_options()
def show_suite(reference: str, workspace: Path | None, form: str, out: Path | None) -> None:
    """Show a suite's questions with their keys."""
    from dryquarry.showing.suites import suite_view

    show(suite_view(open_workspace(workspace).suites.get(reference)), form, out)


@examples(
    "dryquarry suite check tide-sums",
    "dryquarry suite check tide-sums@3 --strict",
)
@suite.command()
@click.argument("name", metavar="SUITE[@N]", shell_complete=completion.references)
@click.option("--strict", is_flag=True, help="Let advice fail the check too.")
@workspace_option
@format_options()
def check(name: str, strict: bool, workspace: Path | None, form: str, out: Path | None) -> None:
    """Check the draft of SUITE (or an edition), and prove its keys; exits with 1 if there are faults.

    Faults must be mended before the suite can be run or sealed; advice is for its author. Instances of
    templates are shown as they would be drawn.
    """
    from dryquarry.showing.suites import check_view

    found = open_workspace(workspace).suites.check(name)
    show(check_view(found), form, out)
    if found.faults:
        raise DoesNotHold(f"suite '{name}' cannot be used as it is")
    if strict and found.advice:
        raise DoesNotHold(f"suite '{name}' has advice to heed")


@examples(
    'dryquarry suite seal lamp-logic --note "the first season"',
    'dryquarry suite seal tide-sums --note "other numbers" --redraw',
)
@suite.command()
@click.argument("name", metavar="SUITE", shell_complete=completion.suites)
@click.option("--note", required=True, help="What is new in this edition, for its history.")
@click.option("--seed", type=click.IntRange(min=0), help="Draw the instances of templates with this seed.")
@click.option("--redraw", is_flag=True, help="Draw other instances of templates than the last edition has.")
@workspace_option
@format_options()
def seal(
    name: str, note: str, seed: int | None, redraw: bool, workspace: Path | None, form: str, out: Path | None
) -> None:
    """Seal the draft of SUITE as its next edition, which never changes again.

    Refused (exit 1) while the draft has faults, or when nothing has changed since the last edition.
    """
    from dryquarry.showing.editions import diff_view

    sealed = open_workspace(workspace).suites.seal(name, note, seed=seed, redraw=redraw)
    if sealed.diff is not None:
        show(diff_view(sealed.diff), form, out)
    hint(f"sealed {sealed.suite.reference} with {len(sealed.suite.asked())} questions in {sealed.path}")


@examples(
    "dryquarry suite correct tide-sums --plan",
    'dryquarry suite correct tide-sums --because "typing error in the key of lamp-oil"',
)
@suite.command()
@click.argument("name", metavar="SUITE", shell_complete=completion.suites)
@click.option("--because", metavar="TEXT", help="What was wrong; the note of the new edition.")
@click.option("--plan", is_flag=True, help="Show what would change; write nothing.")
@workspace_option
@format_options()
def correct(name: str, because: str | None, plan: bool, workspace: Path | None, form: str, out: Path | None) -> None:
    """Put corrected keys into use: seal the draft as the next edition, mark the stored replies by it, ask nothing.

    Only where the draft differs in keys and ways of marking alone; the edition before stays as it was published.
    """
    from dryquarry.showing.editions import key_hints
    from dryquarry.showing.remarking import remarking_view

    if not plan and not (because and because.strip()):
        raise UsageFault('say what was wrong: --because "…" (or look first, with --plan)')
    diff, remarking = open_workspace(workspace).marks.correct(name, (because or "").strip(), write=not plan)
    hints(key_hints(diff))
    show(remarking_view(remarking), form, out)
    hint(f"{diff.before} stays as it was" if plan else f"sealed {diff.after}; {diff.before} stays as it was")


@examples(
    "dryquarry suite history tide-sums",
    "dryquarry suite history tide-sums --format json",
)
@suite.command()
@click.argument("name", metavar="SUITE", shell_complete=completion.suites)
@workspace_option
@format_options()
def history(name: str, workspace: Path | None, form: str, out: Path | None) -> None:
    """Show the editions of SUITE: when, why, and how many questions each added, reworded, re-keyed, retired."""
    from dryquarry.showing.editions import history_view

    show(history_view(name, open_workspace(workspace).suites.history(name)), form, out)


@examples(
    "dryquarry suite diff tide-sums@1 tide-sums@3",
    "dryquarry suite diff tide-sums@3 tide-sums@draft",
)
@suite.command()
@click.argument("before", metavar="A", shell_complete=completion.references)
@click.argument("after", metavar="B", shell_complete=completion.references)
@workspace_option
@format_options()
def diff(before: str, after: str, workspace: Path | None, form: str, out: Path | None) -> None:
    """Show what changed from A to B, question by question; each is SUITE@N, SUITE@draft or SUITE."""
    from dryquarry.showing.editions import diff_view

    show(diff_view(open_workspace(workspace).suites.diff(before, after)), form, out)


@examples(
    'dryquarry suite retire shore-facts sea-mile --because "everybody passes it"',
    'dryquarry suite retire lamp-logic fog-horn log-shelf --because "too easy"',
)
@suite.command()
@click.argument("name", metavar="SUITE", shell_complete=completion.suites)
@click.argument("ids", nargs=-1, required=True, metavar="ID...", shell_complete=completion.questions)
@click.option("--because", required=True, help="Why, for the question's file.")
@workspace_option
def retire(name: str, ids: tuple[str, ...], because: str, workspace: Path | None) -> None:
    """Retire questions of SUITE in its files, whose comments and layout stay as they are."""
    paths = open_workspace(workspace).suites.retire(name, ids, because)
    hint(f"retired {', '.join(ids)} in {', '.join(paths)}" if paths else "nothing to change")


@examples(
    "dryquarry suite restore shore-facts sea-mile",
    "dryquarry suite restore lamp-logic fog-horn log-shelf",
)
@suite.command()
@click.argument("name", metavar="SUITE", shell_complete=completion.suites)
@click.argument("ids", nargs=-1, required=True, metavar="ID...", shell_complete=completion.questions)
@workspace_option
def restore(name: str, ids: tuple[str, ...], workspace: Path | None) -> None:
    """Take retired questions of SUITE back."""
    paths = open_workspace(workspace).suites.restore(name, ids)
    hint(f"restored {', '.join(ids)} in {', '.join(paths)}" if paths else "nothing to change")


@examples(
    "dryquarry suite import questions.csv --into harbour --plan",
    'dryquarry suite import questions.csv --into harbour --column "Answer=key" --separator semicolon',
)
@suite.command("import")
@click.argument("file", type=click.Path(path_type=Path, dir_okay=False))
@click.option(
    "--into",
    "name",
    required=True,
    metavar="SUITE",
    shell_complete=completion.suites,
    help="The suite to add to; made if there is none.",
)
@click.option(
    "--column",
    "columns",
    multiple=True,
    metavar="NAME=FIELD",
    help="Take a column as this field; an empty FIELD leaves it out.",
)
@click.option("--scheme", help="The scheme of questions that do not say.")
@click.option(
    "--separator",
    type=click.Choice(["comma", "semicolon", "tab"]),
    help="What parts the cells of a table (default: what the first line shows).",
)
@click.option("--plan", "--dry-run", "plan", is_flag=True, help="Show what would come of it, and all faults.")
@workspace_option
def import_command(
    file: Path,
    name: str,
    columns: tuple[str, ...],
    scheme: str | None,
    separator: str | None,
    plan: bool,
    workspace: Path | None,
) -> None:
    """Add the questions of a CSV, JSON or JSONL FILE to a suite, or change those whose ids it has already."""
    from dryquarry.showing.importing import import_hints
    from dryquarry.workspace.exchanging import Source

    given = {}
    for column in columns:
        title, equals, field = column.rpartition("=")
        if not equals:
            raise UsageFault(f"--column wants NAME=FIELD, not '{column}'")
        given[title] = field
    done = open_workspace(workspace).suites.import_file(Source(file, given, scheme, separator), name, write=not plan)
    if plan:
        click.echo(done.sample(), nl=False)
    hints(import_hints(done))
    if done.faults:
        raise FaultyFiles(str(file), done.faults)
    files = f"written to {', '.join(done.paths)}" if done.paths else "nothing was written"
    hint(files if done.paths or plan else "nothing has changed")


@examples(
    "dryquarry suite export tide-sums --format csv --out tide-sums.csv",
    "dryquarry suite export keeper-letters --format json --out letters.json",
)
@suite.command()
@reference_argument
@click.option(
    "--format", "form", type=click.Choice(["csv", "jsonl", "json", "markdown"]), default="jsonl", show_default=True
)
@click.option("--no-keys", is_flag=True, help="Leave the keys out of a Markdown sheet.")
@click.option("--out", type=click.Path(path_type=Path, dir_okay=False), help="Write to this file.")
@workspace_option
def export(reference: str, form: str, no_keys: bool, out: Path | None, workspace: Path | None) -> None:
    """Write the questions of SUITE as CSV or JSONL, the whole suite as JSON, or a Markdown sheet."""
    from dryquarry.suites import exporting

    exported = open_workspace(workspace).suites.get(reference)
    if no_keys and form != "markdown":
        raise UsageFault("--no-keys goes with --format markdown")
    if form == "markdown":
        text = exporting.export_markdown(exported, keys=not no_keys)
    else:
        writers = {"csv": exporting.export_csv, "jsonl": exporting.export_jsonl, "json": exporting.export_json}
        text = writers[form](exported)
    if out is None:
        click.echo(text, nl=False)
    else:
        write_file(out, text)
        from dryquarry.showing.suites import counted_questions

        hint(f"{counted_questions(exported)} of {exported.reference} written to {out}")
    hints([f"not held by {form}: {what}" for what in exporting.not_held(exported, form, keys=not no_keys)])
