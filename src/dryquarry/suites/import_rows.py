"""The rows of a file that is imported: CSV, JSON lines, or JSON with a list of questions or a whole suite."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from typing import Any

from dryquarry.errors import Fault
from dryquarry.suites.csv_text import CsvFault, csv_rows, separator_of
from dryquarry.suites.digests import parse_json
from dryquarry.suites.located import UnreadableText

TABLES = (".csv", ".tsv")


@dataclass(frozen=True, slots=True)
class Row:
    """One question as the file has it, the line on which it begins, and which row of a table it is (0 in no table)."""

    values: Mapping[str, Any]
    line: int
    number: int = 0

    def place(self, column: str | None) -> str:
        """Return where in a table a person finds it: "row 3, column 'Answer'"; nothing in another file."""
        if not self.number:
            return f"field '{column}'" if column else ""
        return f"row {self.number}, column '{column}'" if column else f"row {self.number}"


@dataclass(frozen=True, slots=True)
class Rows:
    """All rows, what separates the cells of a table, and what the file says for all questions beside them."""

    rows: tuple[Row, ...]
    separator: str | None = None
    head: Mapping[str, Any] = field(default_factory=dict)


def rows_of(text: str, file: str, separator: str | None = None) -> Rows:
    """Return the rows of a file; raises UnreadableText where it cannot be read."""
    if file.endswith(TABLES):
        return _table(text, file, separator)
    if file.endswith(".jsonl"):
        lines = [(number, line) for number, line in enumerate(text.split("\n"), start=1) if line.strip()]
        return Rows(tuple(Row(_object(_parsed(line, file, number), file, number), number) for number, line in lines))
    data, head = _parsed(text, file, 1), {}
    if isinstance(data, dict) and isinstance(data.get("questions"), list):
        head = {name: value for name, value in data.items() if name != "questions"}
        data = data["questions"]
    if not isinstance(data, list):
        raise UnreadableText(Fault("unreadable", "the file holds no list of questions", file, 1))
    return Rows(tuple(Row(_object(entry, file, 1), 1) for entry in data), head=head)


def _table(text: str, file: str, separator: str | None) -> Rows:
    separator = separator or separator_of(text)
    header: list[str] | None = None
    rows: list[Row] = []
    try:
        for number, (line, cells) in enumerate(csv_rows(text, separator), start=1):
            if header is None:
                header = cells
            elif any(cells):
                if len(cells) != len(header):
                    said = f"row {number} has {len(cells)} cells, the header {len(header)}"
                    raise UnreadableText(Fault("unreadable", said, file, line))
                rows.append(Row(dict(zip(header, cells, strict=True)), line, number))
    except CsvFault as fault:
        raise UnreadableText(Fault("unreadable", f"not readable as CSV: {fault}", file, fault.line)) from None
    return Rows(tuple(rows), separator)


def _parsed(text: str, file: str, line: int) -> Any:
    try:
        return parse_json(text)
    except ValueError as error:
        raise UnreadableText(Fault("unreadable", f"not readable as JSON: {error}", file, line)) from None


def _object(entry: Any, file: str, line: int) -> Mapping[str, Any]:
    if not isinstance(entry, dict):
        raise UnreadableText(Fault("unreadable", "a question is an object with fields", file, line))
    return entry
