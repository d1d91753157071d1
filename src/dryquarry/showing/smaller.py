"""A smaller suite as a view."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict

from dryquarry.showing import figures
from dryquarry.showing.view import Column, Sheet, Table, View
from dryquarry.standing.smaller import SmallerSuite

MOST_NAMED = 12


def smaller_view(found: SmallerSuite) -> View:
    """Return the drawn questions, and what they say of the entrants, as table, JSON and sheet (a row a question)."""
    sheet = Sheet(["suite", "edition", "question"], [[found.suite, found.edition, name] for name in found.questions])
    return View(asdict(found), sheet, _table(found))


def _table(found: SmallerSuite) -> Table:
    columns = [
        Column("entrant"),
        Column("score on all", right=True),
        Column("95 % interval", right=True),
        Column("on the drawn", right=True),
        Column("95 % interval of it", right=True),
    ]
    rows = [
        [
            row.entrant,
            figures.percent(row.whole),
            figures.interval(row.whole_interval.low, row.whole_interval.high),
            figures.percent(row.drawn),
            figures.interval(row.drawn_interval.low, row.drawn_interval.high),
        ]
        for row in found.rows
    ]
    edition = f"@{found.edition}" if found.edition else ""
    title = f"{found.suite}{edition}: {len(found.questions)} of {figures.plural(found.of, 'question')}, drawn by chance"
    return Table(title + figures.chosen(found.selected), columns, rows, below=list(_lines(found)))


def _lines(found: SmallerSuite) -> Iterator[str]:
    names = ", ".join(found.questions[:MOST_NAMED])
    more = len(found.questions) - MOST_NAMED
    yield f"Drawn: {names}" + (f" and {more} more; --format csv has all." if more > 0 else ".")
    if len(found.strata) > 1:
        yield (
            "Of each category its share: "
            + ", ".join(f"{name or 'none'} {count}" for name, count in found.strata)
            + "."
        )
    yield f"Another --seed than {found.seed} draws others. The intervals are as wide as so few questions make them."
