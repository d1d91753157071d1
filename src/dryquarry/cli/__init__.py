"""The command line: reads arguments, calls Workspace, shows. No rules of the job stand here."""

from __future__ import annotations

import atexit
import gc
import io
import os
import sys
from importlib import import_module
from typing import Any

import click

from dryquarry import __version__
from dryquarry.errors import DryQuarryError, FileFault

UNFORESEEN = 70
# Python looks for circles of objects after so many new ones: its own number takes a tenth of a large board's time.
OBJECTS_BETWEEN_LOOKS = 200_000

# name → (module, attribute, help). The modules are imported when a command of theirs is called, and
# not for the list of commands, so that help comes at once.
COMMANDS: dict[str, tuple[str, str, str]] = {
    "init": ("start", "init", "Write a new workspace with a small example suite."),
    "demo": ("start", "demo", "Write the demo workspace and run everything in it, offline."),
    "suite": ("suite", "suite", "Suites of questions: list, check, seal, compare, retire, import, export."),
    "entrant": ("entrant", "entrant", "List, show and ping the models that are asked."),
    "run": ("run", "run", "Ask a suite of entrants and mark the replies; only what is missing is asked."),
    "mark": ("mark", "mark", "Mark stored replies again with the present keys, or set marks by hand."),
    "try": ("mark", "try_text", "Mark a text as a reply to a question, and explain every step."),
    "sheet": ("by_hand", "sheet", "Write questions out for asking by hand."),
    "collect": ("by_hand", "collect", "Read the replies of a sheet in, and mark them."),
    "review": ("review", "review", "Mark replies by hand, blind: what waits, what is unsure, or a random sample."),
    "judge": ("judge", "judge", "Check judges against people, against themselves and each other."),
    "pair": ("pair", "pair", "Vote between two replies to the same question, blind."),
    "board": ("board", "board", "Show the leaderboard of a suite, or of several together."),
    "grid": ("standing", "grid", "Show questions down, entrants across, a mark in each cell."),
    "versus": ("versus", "versus", "Compare two entrants on the questions that both have; gates for scripts."),
    "history": ("history", "history", "Show one entrant over editions and time, and each change."),
    "items": ("items", "items", "Show what each question is worth, and which key may be wrong."),
    "replies": ("standing", "replies", "Read the replies behind the numbers."),
    "gallery": ("gallery", "gallery", "Write what entrants made into a folder, side by side."),
    "report": ("report", "report", "Write a report of static pages to hand over; every number leads to its reply."),
    "ledger": ("ledger", "ledger", "Show what the ledger holds, and verify it."),
    "completion": ("shell", "completion", "Print the script with which a shell completes names of the workspace."),
    "standin": ("standin", "standin", "Serve the simulated model service on a port."),
}


class CommandFailed(click.ClickException):
    """An expected failure on its way to the terminal, with the exit code of its class."""

    def __init__(self, message: str, exit_code: int):
        super().__init__(message)
        self.exit_code = exit_code  # type: ignore[misc]

    def show(self, file: Any = None) -> None:
        """Print the message to standard error."""
        from dryquarry.showing.figures import visible

        click.echo(f"dryquarry: {visible(self.message)}", file=file, err=file is None)


class Commands(click.Group):
    """The root group: finds commands by name, and is the one place where errors become text."""

    def list_commands(self, ctx: click.Context) -> list[str]:
        """Return the names in the order of use."""
        return list(COMMANDS)

    def get_command(self, ctx: click.Context, cmd_name: str) -> click.Command | None:
        """Return the command, importing its module."""
        if cmd_name not in COMMANDS:
            return None
        module, attribute, _ = COMMANDS[cmd_name]
        command: click.Command = getattr(import_module(f"dryquarry.cli.{module}"), attribute)
        return command

    def format_commands(self, ctx: click.Context, formatter: click.HelpFormatter) -> None:
        """Write the list of commands without importing them."""
        with formatter.section("Commands"):
            formatter.write_dl([(name, help_text) for name, (_, _, help_text) in COMMANDS.items()])

    def invoke(self, ctx: click.Context) -> Any:
        """Run the command, turning every failure into a message and an exit code."""
        try:
            result = super().invoke(ctx)
            sys.stdout.flush()  # here, where a full disk can still be told of
            return result
        except (click.ClickException, click.exceptions.Exit, click.Abort):
            raise
        except DryQuarryError as error:
            if ctx.params.get("debug"):
                raise
            raise CommandFailed(str(error), error.exit_code) from error
        except KeyboardInterrupt:
            raise CommandFailed("interrupted; what was received is stored", 130) from None
        except BrokenPipeError:
            sys.stderr.close()
            raise click.exceptions.Exit(0) from None
        except OSError as error:
            if ctx.params.get("debug"):
                raise
            where = f" ({error.filename})" if error.filename else ""
            raise CommandFailed(f"the system refused: {error.strerror or error}{where}", FileFault.exit_code) from error
        except Exception as error:
            if ctx.params.get("debug"):
                raise
            message = f"unforeseen: {type(error).__name__}: {error}; 'dryquarry --debug …' shows where"
            raise CommandFailed(message, UNFORESEEN) from error


@click.group(cls=Commands, context_settings={"help_option_names": ["-h", "--help"]})
@click.version_option(__version__, prog_name="dryquarry")
@click.option("--debug", is_flag=True, help="Show the whole traceback of an error.")
def cli(debug: bool) -> None:
    """Ask versioned suites of questions of language models, mark the replies, show who is better."""


def main() -> None:
    """Run the command line."""
    gc.set_threshold(OBJECTS_BETWEEN_LOOKS)
    atexit.register(gc.freeze)  # at the end there is nothing to look for: everything goes with the process
    for name, mode in (("stdin", "r"), ("stdout", "w"), ("stderr", "w")):
        if getattr(sys, name) is None:  # closed by whoever started the program
            setattr(sys, name, open(os.devnull, mode, encoding="utf-8"))  # noqa: SIM115 - for as long as it runs
    for stream in (sys.stdout, sys.stderr):
        # What a terminal's encoding does not have is shown as an escape, and ends nothing.
        if isinstance(stream, io.TextIOWrapper):
            stream.reconfigure(errors="backslashreplace")
    cli(prog_name="dryquarry")
