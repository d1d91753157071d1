"""CSV as spreadsheets write it: with commas, semicolons or tabs."""

from __future__ import annotations

import csv
import io
from collections.abc import Iterable, Iterator, Sequence
from typing import Any

SEPARATORS = {"comma": ",", "semicolon": ";", "tab": "\t"}
LONGEST_CELL = 10_000_000
# How much of a table is looked at to see what parts its cells.
LONGEST_HEAD = 100_000


def separator_of(text: str) -> str:
    """Return what separates the cells of the first line: the sign of the three that makes most cells of it."""
    first = next(iter(text.removeprefix("\ufeff")[:LONGEST_HEAD].splitlines()), "")
    cells = {sign: len(next(csv.reader([first], delimiter=sign), [])) for sign in SEPARATORS.values()}
    return max(cells, key=lambda sign: cells[sign])


def csv_rows(text: str, separator: str | None = None) -> Iterator[tuple[int, list[str]]]:
    """Yield each row with the line on which it begins; raises CsvFault."""
    csv.field_size_limit(LONGEST_CELL)
    text = text.removeprefix("\ufeff")
    reader = csv.reader(io.StringIO(text, newline=""), strict=True, delimiter=separator or separator_of(text))
    line = 1
    try:
        for cells in reader:
            yield line, cells
            line = reader.line_num + 1
    except csv.Error as error:
        raise CsvFault(str(error), reader.line_num) from None


def csv_lines(rows: Iterable[Sequence[Any]]) -> str:
    """Return rows as CSV with commas; a row with a bare carriage return is quoted, which would part it otherwise."""
    out = io.StringIO()
    plain = csv.writer(out, lineterminator="\n")
    quoted = csv.writer(out, lineterminator="\n", quoting=csv.QUOTE_ALL)
    for row in rows:
        parted = any(isinstance(cell, str) and "\r" in cell for cell in row)
        (quoted if parted else plain).writerow(row)
    return out.getvalue()


class CsvFault(ValueError):
    """A line that is not readable as CSV."""

    def __init__(self, message: str, line: int):
        super().__init__(message)
        self.line = line
