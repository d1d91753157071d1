"""Originals against twists as a view."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict

from dryquarry.showing import figures
from dryquarry.showing.view import Cell, Column, Sheet, Table, View
from dryquarry.standing.families import LEAST_FAMILIES, LEAST_OTHERS, FamilyRow, FamilyTable

_FIELDS = ("entrant", "families", "originals", "twists", "gap", "others", "p_value", "recites")


def families_view(table: FamilyTable) -> View:
    """Return originals against twists, by entrant, as table, JSON and sheet."""
    rows = [[getattr(row, name) for name in _FIELDS] for row in table.rows]
    return View(asdict(table), Sheet(list(_FIELDS), rows), _table(table))


def _table(table: FamilyTable) -> Table:
    columns = [
        Column("entrant"),
        Column("families", right=True),
        Column("originals", right=True),
        Column("twists", right=True),
        Column("loses", right=True),
        Column("others lose", right=True),
        Column("p", right=True),
    ]
    edition = f"@{table.edition}" if table.edition else ""
    title = f"{table.suite}{edition}: originals and twists of {table.families} families"
    return Table(
        title + figures.chosen(table.selected), columns, [_row(row) for row in table.rows], below=list(_lines(table))
    )


def _row(row: FamilyRow) -> list[str | Cell]:
    return [
        Cell(row.entrant, "bold" if row.recites else ""),
        str(row.families),
        figures.percent(row.originals),
        figures.percent(row.twists),
        figures.difference(row.gap),
        "–" if row.others is None else figures.difference(row.others),
        "–" if row.p_value is None else figures.p_value(row.p_value),
    ]


def _lines(table: FamilyTable) -> Iterator[str]:
    if not table.families:
        yield "No family has an original and a twist: `twist` in the suite says what a variant does to the original."
        return
    for row in table.rows:
        if row.recites:
            yield (
                f"{row.entrant} passes {figures.percent(row.originals, 0)} % of the originals and "
                f"{figures.percent(row.twists, 0)} % of their twists; others lose {figures.points(row.others)}: "
                "it probably recites."
            )
    if not any(row.recites for row in table.rows):
        few = f"; it takes {LEAST_FAMILIES} families and {LEAST_OTHERS} other entrants to show that"
        yield "Nobody is shown to recite" + ("." if any(row.p_value is not None for row in table.rows) else few + ".")
    yield "Twists are often simply harder: each is compared with what the others lose on the same families."
    for one in table.twists:
        asked = figures.plural(one.questions, "question")
        yield f"Twist '{one.twist}': {asked}, passed {figures.points(one.gap)} less often."
