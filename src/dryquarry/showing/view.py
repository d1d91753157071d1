"""What a command shows: one View, that can be rendered as table, JSON, CSV or Markdown."""

from __future__ import annotations

import io
import json
import re
from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, replace
from typing import Any

from rich import box
from rich.cells import cell_len
from rich.console import Console
from rich.table import Table as RichTable
from rich.text import Text

from dryquarry.errors import UsageFault, closest
from dryquarry.showing.figures import visible
from dryquarry.showing.fitting import LEAST_NAME, LEAST_TEXT, ROOMY, Extent, Fitted, cut_in_the_middle, fitted
from dryquarry.suites.csv_text import csv_lines


@dataclass(frozen=True, slots=True)
class Cell:
    """A text in a table, with a style for terminals."""

    text: str
    style: str = ""


# The least width of a column that is never cut: more than any has.
WHOLE = 100_000


@dataclass(frozen=True, slots=True)
class Column:
    """A table's column; `drop` says when it gives way in a narrow terminal, the lowest first, 0 never.

    An `extra` column is shown only where it is asked for, by its name or by that of its `group`.
    Columns to the `right` hold figures, which are never cut. Of others `least` is how far names are cut in the middle,
    or texts broken, where it is not the usual. A `named` column has a name at its head, which is cut, and its cells
    are whole.
    """

    name: str
    right: bool = False
    drop: int = 0
    least: int | None = None
    named: bool = False
    extra: bool = False
    group: str = ""

    def among(self, names: Collection[str]) -> bool:
        """Tell whether these names name this column, or its group."""
        return self.name in names or bool(self.group and self.group in names)


def columns_of(
    names: Sequence[str], right: Collection[str] = (), drops: Sequence[str] = (), whole: Collection[str] = ()
) -> list[Column]:
    """Return columns of these names.

    Those of figures stand to the right, those in `drops` give way in that order, those in `whole` are never cut.
    """
    order = {name: place for place, name in enumerate(drops, start=1)}
    return [
        Column(name.replace("_", " "), name in right, order.get(name, 0), WHOLE if name in whole else None)
        for name in names
    ]


@dataclass(frozen=True, slots=True)
class Fit:
    """Into which width tables are fitted (None: any), which columns never give way, and whether none does."""

    width: int | None = None
    kept: frozenset[str] = frozenset()
    wide: bool = False


@dataclass(frozen=True, slots=True)
class Table:
    """Rows for people: `gaps` are the numbers of the rows after which a gap is left.

    Where there are no gaps to be seen, as in Markdown, a column of the name `grouped` numbers what they part.
    """

    title: str
    columns: Sequence[Column]
    rows: Sequence[Sequence[str | Cell]]
    gaps: Sequence[int] = ()
    below: Sequence[str] = ()
    grouped: str = ""


@dataclass(frozen=True, slots=True)
class Sheet:
    """Rows for programs: plain values under plain names."""

    names: Sequence[str]
    rows: Sequence[Sequence[Any]]


@dataclass(frozen=True, slots=True)
class View:
    """One result in all its forms; `text` (for a width) and `markdown` stand in where a table is not the right form.

    `more` are tables to stand below the first.
    """

    data: Any
    sheet: Sheet
    table: Table | None = None
    text: Callable[[int | None], str] | None = None
    markdown: Callable[[], str] | None = None
    more: Sequence[Table] = ()


def rendered(view: View, form: str, *, colour: bool = False, fit: Fit | None = None) -> str:
    """Return the view as table, json, jsonl (of a list), csv or markdown; a table is as wide as needed unless fitted.

    Raises UsageFault where a column to be kept is none of the table's.
    """
    fit = fit or Fit()
    if form == "json":
        return json.dumps(view.data, ensure_ascii=False, indent=2, allow_nan=False) + "\n"
    if form == "jsonl":
        return "".join(json.dumps(one, ensure_ascii=False, allow_nan=False) + "\n" for one in view.data)
    if form == "csv":
        return _csv(view.sheet)
    if form == "markdown":
        if view.markdown is not None:
            return view.markdown()
        tables = _tables(view)
        _check_columns(tables, fit)
        return "\n".join(_markdown(_chosen(table, fit)) for table in tables)
    if view.text is not None:
        return view.text(fit.width)
    tables = _tables(view)
    _check_columns(tables, fit)
    tables = [_chosen(table, fit) for table in tables]
    return "\n".join(_terminal(table, colour, fit) for table in tables)


def _tables(view: View) -> list[Table]:
    return [view.table or _as_table(view.sheet), *view.more]


def _as_table(sheet: Sheet) -> Table:
    rows = [["" if value is None else str(value) for value in row] for row in sheet.rows]
    return Table("", [Column(name) for name in sheet.names], rows)


def _check_columns(tables: Sequence[Table], fit: Fit) -> None:
    known = [name for table in tables for column in table.columns for name in (column.name, column.group) if name]
    for name in fit.kept:
        if name not in known:
            raise UsageFault(f"there is no column '{name}'{closest(name, known)}")


def _chosen(table: Table, fit: Fit) -> Table:
    """Return the table without its extra columns, but for those asked for."""
    shown = [place for place, column in enumerate(table.columns) if not column.extra or column.among(fit.kept)]
    if len(shown) == len(table.columns):
        return table
    return replace(
        table,
        columns=[table.columns[place] for place in shown],
        rows=[[row[place] for place in shown] for row in table.rows],
    )


def _terminal(table: Table, colour: bool, fit: Fit) -> str:
    extents = [_extent(table, place) for place in range(len(table.columns))]
    kept = frozenset(column.name for column in table.columns if column.among(fit.kept))
    shape = fitted(extents, fit.width, kept, all_of_it=fit.wide)
    rich_table = RichTable(
        box=box.SIMPLE_HEAD,
        pad_edge=False,
        show_edge=False,
        header_style="bold",
        padding=(0, 1) if shape.gap == ROOMY else (0, 1, 0, 0),
    )
    for place, width in zip(shape.shown, shape.widths, strict=True):
        column = table.columns[place]
        heading = visible(column.name)
        heading = cut_in_the_middle(heading, width) if column.named else heading
        rich_table.add_column(Text(heading), justify="right" if column.right else "left", width=width)
    for number, row in enumerate(table.rows):
        texts = [
            _fitted_cell(row[place], width, extents[place].wraps)
            for place, width in zip(shape.shown, shape.widths, strict=True)
        ]
        rich_table.add_row(*texts, end_section=number in table.gaps)
    out = io.StringIO()
    longest = sum(shape.widths) + shape.gap * len(shape.widths)
    console = Console(
        file=out,
        force_terminal=colour,
        no_color=not colour,
        color_system="256" if colour else None,
        width=max(fit.width or 10_000, longest),
        legacy_windows=False,
    )
    if table.title:
        console.print(Text(visible(table.title), style="bold"), width=fit.width)
        console.print() if table.rows else None
    if table.rows:
        console.print(rich_table)
    below = [*table.below, *_not_shown(table, shape, fit)]
    if below:
        console.print()
    for line in below:
        console.print(Text(visible(line), style="dim"), width=fit.width)
    return "\n".join(line.rstrip() for line in out.getvalue().splitlines()) + "\n"


def _cells(table: Table, place: int) -> list[str]:
    return [visible(cell.text if isinstance(cell, Cell) else cell) for cell in (row[place] for row in table.rows)]


def _extent(table: Table, place: int) -> Extent:
    column, cells = table.columns[place], _cells(table, place)
    widest = max((cell_len(line) for cell in cells for line in cell.split("\n")), default=0)
    # Texts are broken into lines; names, which have no spaces or are short, are cut.
    wraps = not column.right and any(" " in cell and cell_len(cell) > LEAST_TEXT for cell in cells)
    usual = widest if column.right else LEAST_TEXT if wraps else LEAST_NAME
    return Extent(
        visible(column.name), widest, usual if column.least is None else column.least, column.drop, wraps, column.named
    )


def _fitted_cell(given: str | Cell, width: int, wraps: bool) -> Text:
    cell = given if isinstance(given, Cell) else Cell(given)
    text = visible(cell.text)
    if not wraps:
        text = "\n".join(cut_in_the_middle(line, width) for line in text.split("\n"))
    return Text(text, style=cell.style)


def _not_shown(table: Table, shape: Fitted, fit: Fit) -> list[str]:
    """Return which columns gave way, and how to see them."""
    names = [column.name for place, column in enumerate(table.columns) if place not in shape.shown]
    if not names:
        return []
    return [f"Not shown at a width of {fit.width}: {', '.join(names)}; --columns NAME,… keeps some, --wide all."]


def _markdown(table: Table) -> str:
    lines = [f"**{_markdown_cell(table.title)}**", ""] if table.title else []
    columns = [*([Column(table.grouped, right=True)] if table.grouped else []), *table.columns]
    lines.append("| " + " | ".join(_markdown_cell(column.name) for column in columns) + " |")
    lines.append("|" + "|".join("---:" if column.right else "---" for column in columns) + "|")
    for number, row in enumerate(table.rows):
        group = [str(1 + sum(gap < number for gap in table.gaps))] if table.grouped else []
        texts = [*group, *(cell.text if isinstance(cell, Cell) else cell for cell in row)]
        lines.append("| " + " | ".join(_markdown_cell(text) for text in texts) + " |")
    if table.below:
        lines += ["", *(f"{_markdown_cell(line)}  " for line in table.below)]
    return "\n".join(lines) + "\n"


def _markdown_cell(text: str) -> str:
    return markdown_text(text).replace("|", "\\|").replace("\n", "<br>")


def markdown_text(text: str) -> str:
    """Return a text in which Markdown finds neither tags nor links, nor pictures to load."""
    escaped = visible(text).replace("\\", "\\\\").replace("<", "&lt;")
    return re.sub(r"([\[\]`])|(?<=:)//", lambda match: f"\\{match[0]}" if match[1] else "/\u200b/", escaped)


def shown_safely(text: str, form: str) -> str:
    """Return JSON, CSV or Markdown as a terminal may show it: with what would drive the terminal as escapes."""
    if form in ("json", "jsonl"):  # the escapes of JSON, so that it stays what it is
        return "".join(char if char == "\n" or visible(char) == char else json.dumps(char)[1:-1] for char in text)
    return visible(text)


def _csv(sheet: Sheet) -> str:
    return csv_lines([sheet.names, *([_defused(value) for value in row] for row in sheet.rows)])


def _defused(value: Any) -> Any:
    """Return a cell that no spreadsheet takes for a formula."""
    if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r"):
        return "'" + value
    return value
