"""Options that commands share, and the one way in which they show a view."""

from __future__ import annotations

import os
import shutil
import sys
from collections.abc import Callable, Sequence
from contextlib import suppress
from functools import wraps
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

import click

from dryquarry.cli import completion
from dryquarry.errors import FileFault, UsageFault
from dryquarry.marking.values.texts import storable_text

if TYPE_CHECKING:
    from dryquarry.showing.pictures.frame import Caption
    from dryquarry.showing.view import View
    from dryquarry.workspace import Workspace

Command = TypeVar("Command", bound=Callable[..., Any])

LEAST_WIDTH = 40
FORMATS = ("table", "json", "csv", "markdown")


def workspace_option(command: Command) -> Command:
    """Add --workspace."""
    return click.option(
        "--workspace",
        type=click.Path(path_type=Path),
        help="The workspace folder (default: the nearest one upwards).",
    )(command)


def format_options(*more: str) -> Callable[[Command], Command]:
    """Add --format (with `more` formats than the usual four) and --out."""

    def add(command: Command) -> Command:
        command = click.option(
            "--columns",
            metavar="NAME,…",
            expose_value=False,
            callback=_noted("columns"),
            help="Columns to show that are not by default, and to keep where the terminal is too narrow for all.",
        )(command)
        command = click.option(
            "--wide",
            is_flag=True,
            expose_value=False,
            callback=_noted("wide"),
            help="Keep all columns, however narrow the terminal.",
        )(command)
        command = click.option(
            "--out", type=click.Path(path_type=Path, dir_okay=False), help="Write to this file instead."
        )(command)
        return click.option(
            "--format",
            "form",
            type=click.Choice([*FORMATS, *more]),
            default="table",
            show_default=True,
            help="How to show it.",
        )(command)

    return add


def _noted(name: str) -> Callable[[click.Context, click.Parameter, Any], Any]:
    """Return the callback that keeps an option for `show`, which no command needs to hand on."""

    def note(context: click.Context, parameter: click.Parameter, value: Any) -> Any:
        context.meta[f"dryquarry.{name}"] = value
        return value

    return note


def examples(*lines: str) -> Callable[[click.Command], click.Command]:
    """Add real command lines to a command's help."""

    def add(command: click.Command) -> click.Command:
        command.epilog = "\b\n" + "\n".join(["Examples:", *(f"  {line}" for line in lines)])
        return command

    return add


def reference_argument(command: Command) -> Command:
    """Add SUITE[@N]."""
    return click.argument("reference", metavar="SUITE[@N]", shell_complete=completion.references)(command)


def entrant_option(text: str, **more: Any) -> Callable[[Command], Command]:
    """Add -e NAME, as often as wanted."""
    given: dict[str, Any] = {"multiple": True, "metavar": "NAME", "shell_complete": completion.entrants, **more}
    names = ("-e", "--entrant", "entrants") if given["multiple"] else ("-e", "--entrant")
    return click.option(*names, help=text, **given)


_FILTERS = (
    click.option("--question", "questions", multiple=True, metavar="ID", shell_complete=completion.questions,
                 help="Only this question; also a pattern such as 'tide-*'."),
    entrant_option("Only this entrant."),
    click.option("--category", "categories", multiple=True, metavar="NAME", shell_complete=completion.categories,
                 help="Only questions of this category."),
    click.option("--tag", "tags", multiple=True, metavar="NAME", shell_complete=completion.tags,
                 help="Only questions with this tag."),
    click.option("--level", "levels", multiple=True, metavar="NAME", shell_complete=completion.levels,
                 help="Only questions of this level."),
    click.option("--trial", "trials", multiple=True, type=click.IntRange(1), metavar="N", help="Only this trial."),
    click.option("--where", multiple=True, metavar="TRAIT=VALUE", shell_complete=completion.traits,
                 help="Only entrants with this trait, such as reasoning=true."),
)  # fmt: skip


def selection_options(command: Callable[..., Any]) -> Callable[..., Any]:
    """Add the filters on questions, entrants and trials, and hand them on as one `selection`."""

    @wraps(command)
    def selecting(**given: Any) -> Any:
        from dryquarry.workspace.selection import Selection

        where = []
        for trait in given.pop("where"):
            name, equals, value = trait.partition("=")
            if not equals or not name.strip():
                raise UsageFault(f"--where wants TRAIT=VALUE, such as reasoning=true, not '{trait}'")
            where.append((name.strip(), value.strip()))
        names = ("questions", "entrants", "categories", "tags", "levels", "trials")
        return command(selection=Selection(where=tuple(where), **{name: given.pop(name) for name in names}), **given)

    for option in reversed(_FILTERS):
        selecting = option(selecting)
    return selecting


def open_workspace(directory: Path | None) -> Workspace:
    """Open the workspace that the options name."""
    from dryquarry.workspace import Workspace

    return Workspace.open(directory, _say_waiting)


def show(view: View, form: str, out: Path | None) -> None:
    """Write the view to standard output or a file."""
    from dryquarry.showing.view import Fit, rendered, shown_safely

    if out is not None:
        write_file(out, rendered(view, _form_of(out, form), fit=Fit(None, _kept())))
        hint(f"written to {out}")
        return
    terminal = sys.stdout.isatty()
    width = max(LEAST_WIDTH, shutil.get_terminal_size().columns) if terminal else None
    colour = terminal and not os.environ.get("NO_COLOR")
    fit = Fit(width, _kept(), bool(click.get_current_context().meta.get("dryquarry.wide")))
    text = storable_text(rendered(view, form, colour=colour, fit=fit))
    # A table is made for terminals; in the other forms a program is to find what was said, and a terminal is not.
    text = shown_safely(text, form) if terminal and form != "table" else text
    click.echo(text, nl=False, color=colour)


def picture_options(command: Command) -> Command:
    """Add --picture and --narrow."""
    command = click.option(
        "--narrow", is_flag=True, callback=with_picture, help="With --picture: for a phone's width."
    )(command)
    return click.option(
        "--picture",
        type=click.Path(path_type=Path, dir_okay=False),
        is_eager=True,
        help="Also draw it to this PNG, SVG or PDF.",
    )(command)


def with_picture(context: click.Context, option: click.Parameter, value: Any) -> Any:
    """Raise UsageFault for an option that says how to draw where nothing is drawn."""
    if value and context.params.get("picture") is None:
        raise UsageFault(f"{option.opts[0]} says how to draw; name the file with --picture FILE")
    return value


def caption(title: str, *, narrow: bool = False) -> Caption:
    """Return what stands above a picture that is drawn today."""
    from datetime import date

    from dryquarry.showing.pictures.frame import Caption

    return Caption(title, date.today().isoformat(), narrow)


def _kept() -> frozenset[str]:
    """Return the columns that --columns names."""
    given = click.get_current_context().meta.get("dryquarry.columns") or ""
    return frozenset(name.strip() for name in given.split(",") if name.strip())


# What the ending of a file says about how to write it, and what --out cannot write.
_ENDINGS = {".csv": "csv", ".json": "json", ".md": "markdown", ".jsonl": "jsonl", ".txt": "table"}
_PICTURES = frozenset((".png", ".svg", ".jpg", ".jpeg", ".gif", ".webp"))
_DOCUMENTS = frozenset((".html", ".htm", ".pdf", ".xlsx", ".ods", ".docx"))


def _form_of(out: Path, form: str) -> str:
    """Return the form to write a file in: what its ending says, unless another was named; raises UsageFault."""
    ending = out.suffix.lower()
    if ending in _PICTURES | _DOCUMENTS:
        kind = "a picture ('grid --picture FILE' draws one)" if ending in _PICTURES else "a document"
        raise UsageFault(f"--out writes text, and {out.name} names {kind}; name a .txt, .csv, .json or .md file")
    context = click.get_current_context()
    meant = _ENDINGS.get(ending, form)
    if context.get_parameter_source("form") is click.core.ParameterSource.COMMANDLINE:
        if meant not in (form, "table"):
            raise UsageFault(f"--format {form} and {out.name} do not go together; leave one of them out")
        return form
    option = next(one for one in context.command.params if one.name == "form")
    return meant if isinstance(option.type, click.Choice) and meant in option.type.choices else form


def read_given(path: Path) -> bytes:
    """Return the content of a file that the command line names; raises FileFault."""
    from dryquarry.workspace.file_door import Refused, read_file

    try:
        return read_file(path)
    except Refused as why:
        raise FileFault(f"{path} cannot be read: {why}") from None


def write_file(path: Path, text: str) -> None:
    """Write a file whole or not at all."""
    partial = path.with_name(f".{path.name}.part")
    try:
        partial.write_text(storable_text(text), encoding="utf-8", newline="")
        partial.replace(path)
    except OSError as error:
        with suppress(OSError):
            partial.unlink(missing_ok=True)
        raise FileFault(f"{path} cannot be written: {error.strerror}") from None


def hint(*lines: str) -> None:
    """Tell something beside the data, on standard error."""
    from dryquarry.showing.figures import visible

    for line in lines:
        click.echo(visible(line), err=True)


def _say_waiting() -> None:
    """Tell that a run has to end first."""
    hint("a run is using the ledger; waiting for its end (Ctrl-C leaves everything as it is)")


def hints(lines: Sequence[str]) -> None:
    """Tell each line of a list as a note."""
    from dryquarry.showing.figures import visible

    hint(*(f"note: {visible(line)}" for line in lines))
