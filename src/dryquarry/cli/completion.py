"""What a shell can complete: the names that the workspace at hand knows. A workspace that cannot be read has none."""

from __future__ import annotations

import os
from collections.abc import Callable, Iterable, Iterator
from pathlib import Path
from typing import TYPE_CHECKING

import click

if TYPE_CHECKING:
    from dryquarry.suites.question import Question
    from dryquarry.workspace import Workspace

Complete = Callable[[click.Context, click.Parameter, str], list[str]]


def _completing(names: Callable[[Workspace, click.Context], Iterable[str]]) -> Complete:
    """Return the function that Click calls, from one that yields all names."""

    def complete(context: click.Context, parameter: click.Parameter, begun: str) -> list[str]:
        from dryquarry.errors import DryQuarryError
        from dryquarry.workspace import Workspace

        try:
            directory = context.params.get("workspace")
            opened = Workspace.open(Path(directory) if directory else None)
            return sorted({name for name in names(opened, context) if name.startswith(begun)})
        except (DryQuarryError, OSError):
            return []

    return complete


def _references(opened: Workspace, context: click.Context) -> Iterator[str]:
    for name in opened.suites.names():
        yield name
        yield f"{name}@draft"
        yield from (f"{name}@{number}" for number in opened.folder.files(name).edition_numbers())


def _questions_of(opened: Workspace, context: click.Context) -> Iterator[Question]:
    """Yield the questions of the suites that the command line names already, or else of all.

    The words of the line are looked at: an option that still wants its value keeps Click from taking them apart.
    """
    known = opened.suites.names()
    words = os.environ.get("COMP_WORDS", "").split()[1:]
    named = [word for word in words if word.partition("@")[0] in known]
    for reference in named or known:
        yield from opened.suites.get(reference).asked()


suites = _completing(lambda opened, context: opened.suites.names())
references = _completing(_references)
entrants = _completing(lambda opened, context: opened.entrants().entrants)
people = _completing(lambda opened, context: {**opened.entrants().entrants, **opened.entrants().judges})
questions = _completing(lambda opened, context: (one.id for one in _questions_of(opened, context)))
categories = _completing(lambda opened, context: (one.category or "" for one in _questions_of(opened, context)))
tags = _completing(lambda opened, context: (tag for one in _questions_of(opened, context) for tag in one.tags))
levels = _completing(lambda opened, context: (one.level or "" for one in _questions_of(opened, context)))
traits = _completing(
    lambda opened, context: (
        f"{name}={str(value).lower()}"
        for one in opened.entrants().entrants.values()
        for name, value in one.traits.items()
    )
)
