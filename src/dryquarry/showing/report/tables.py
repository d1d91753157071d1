"""Tables of the terminal as tables of a page: the same cells, with where they lead."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass, field

from dryquarry.showing.view import Cell, Table

# Longer texts are broken into lines.
LONG = 40
# What a cell leads to: of which row and column, with which text; "" for nothing.
Leads = Callable[[int, str, str], str]


@dataclass(frozen=True, slots=True)
class PageCell:
    """A cell: its text, the link it is, and its class."""

    text: str
    link: str = ""
    kind: str = ""


@dataclass(frozen=True, slots=True)
class PageColumn:
    """A column: its name, whether it holds figures, whether its cells head their rows, the link of its heading."""

    name: str
    right: bool = False
    heads: bool = False
    link: str = ""


@dataclass(frozen=True, slots=True)
class PageRow:
    """A row; `parted` tells that a line stands below it, `data` what it is filtered by."""

    cells: tuple[PageCell, ...]
    parted: bool = False
    data: Mapping[str, str] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class PageTable:
    """A table of a page, with its name, and the lines below it."""

    id: str
    title: str
    columns: tuple[PageColumn, ...]
    rows: tuple[PageRow, ...]
    below: tuple[str, ...] = ()


def page_table(
    table: Table,
    id: str,
    heads: str,
    leads: Leads = lambda row, column, text: "",
    headings: Mapping[str, str] | None = None,
) -> PageTable:
    """Return a table for a page; the column `heads` names the rows, `headings` are links of columns' names.

    Columns shown only where asked for are left out.
    """
    places = [place for place, column in enumerate(table.columns) if not column.extra]
    columns = tuple(
        PageColumn(one.name, one.right, one.name == heads, (headings or {}).get(one.name, ""))
        for one in (table.columns[place] for place in places)
    )
    rows = []
    for number, row in enumerate(table.rows):
        cells = []
        for place in places:
            column, given = table.columns[place], row[place]
            text = given.text if isinstance(given, Cell) else given
            strong = "strong" if isinstance(given, Cell) and given.style == "bold" else ""
            kind = "wide" if len(text) > LONG and not column.right else strong
            cells.append(PageCell(text, leads(number, column.name, text), kind))
        rows.append(PageRow(tuple(cells), number in table.gaps))
    return PageTable(id, table.title, columns, tuple(rows), tuple(table.below))
