"""What a command shows: one View, that can be rendered as table, JSON, CSV or Markdown."""

from __future__ import annotations

import csv
import io
import json
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from rich import box
from rich.console import Console
from rich.table import Table as RichTable
from rich.text import Text

from dryquarry.showing.figures import visible


@dataclass(frozen=True, slots=True)
class Cell:
    """A text in a table, with a style for terminals."""

    text: str
    style: str = ""


@dataclass(frozen=True, slots=True)
class Column:
    """A table's column."""

    name: str
    right: bool = False


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
    """One result in all its forms; `text` and `markdown` stand in where a table is not the right form.

    `more` are tables to stand below the first.
    """

    data: Any
    sheet: Sheet
    table: Table | None = None
    text: Callable[[], str] | None = None
    markdown: Callable[[], str] | None = None
    more: Sequence[Table] = ()


def rendered(view: View, form: str, *, colour: bool = False, width: int | None = None) -> str:
    """Return the view as table, json, jsonl (of a list), csv or markdown; `width` None: as wide as needed."""
    if form == "json":
        return json.dumps(view.data, ensure_ascii=False, indent=2, allow_nan=False) + "\n"
    if form == "jsonl":
        return "".join(json.dumps(one, ensure_ascii=False, allow_nan=False) + "\n" for one in view.data)
    if form == "csv":
        return _csv(view.sheet)
    if form == "markdown":
        if view.markdown is not None:
            return view.markdown()
        return "\n".join(_markdown(table) for table in _tables(view))
    if view.text is not None:
        return view.text()
    return "\n".join(_terminal(table, colour, width) for table in _tables(view))


def _tables(view: View) -> list[Table]:
    return [view.table or _as_table(view.sheet), *view.more]


def _as_table(sheet: Sheet) -> Table:
    rows = [["" if value is None else str(value) for value in row] for row in sheet.rows]
    return Table("", [Column(name) for name in sheet.names], rows)


def _terminal(table: Table, colour: bool, width: int | None) -> str:
    rich_table = RichTable(box=box.SIMPLE_HEAD, pad_edge=False, show_edge=False, header_style="bold")
    for column in table.columns:
        rich_table.add_column(Text(visible(column.name)), justify="right" if column.right else "left")
    for number, row in enumerate(table.rows):
        cells = [cell if isinstance(cell, Cell) else Cell(cell) for cell in row]
        texts = [Text(visible(cell.text), style=cell.style) for cell in cells]
        rich_table.add_row(*texts, end_section=number in table.gaps)
    out = io.StringIO()
    console = Console(
        file=out,
        force_terminal=colour,
        no_color=not colour,
        color_system="256" if colour else None,
        width=width or 10_000,
        legacy_windows=False,
    )
    if table.title:
        console.print(Text(visible(table.title), style="bold"), soft_wrap=True)
        console.print() if table.rows else None
    if table.rows:
        console.print(rich_table, no_wrap=width is None)
    if table.below:
        console.print()
    for line in table.below:
        console.print(Text(visible(line), style="dim"), soft_wrap=True)
    return "\n".join(line.rstrip() for line in out.getvalue().splitlines()) + "\n"


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
    escaped = visible(text).replace("\\", "\\\\").replace("|", "\\|").replace("<", "&lt;")
    return escaped.replace("\n", "<br>")


def _csv(sheet: Sheet) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(sheet.names)
    for row in sheet.rows:
        writer.writerow([_defused(value) for value in row])
    return out.getvalue()


def _defused(value: Any) -> Any:
    """Return a cell that no spreadsheet takes for a formula."""
    if isinstance(value, str) and value[:1] in ("=", "+", "-", "@", "\t", "\r"):
        return "'" + value
    return value
