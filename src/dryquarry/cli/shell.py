"""completion."""

from __future__ import annotations

import click

from dryquarry.cli.options import examples

SHELLS = ("bash", "zsh", "fish")


@examples(
    'eval "$(dryquarry completion bash)"    # in ~/.bashrc',
    "dryquarry completion fish > ~/.config/fish/completions/dryquarry.fish",
)
@click.command()
@click.argument("shell", type=click.Choice(SHELLS))
def completion(shell: str) -> None:
    """Print the script that lets a shell complete commands, suites, editions, entrants, questions and categories."""
    from click.shell_completion import get_completion_class

    from dryquarry.cli import cli

    kind = get_completion_class(shell)
    assert kind is not None  # Click knows these three
    click.echo(kind(cli, {}, "dryquarry", "_DRYQUARRY_COMPLETE").source())
