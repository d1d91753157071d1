"""Tables of a person's marks: a row for each reply, or for all of an entrant's replies to a question."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass

from dryquarry.errors import Fault, FaultyFiles, closest
from dryquarry.suites.csv_text import CsvFault, csv_rows
from dryquarry.suites.located import UnreadableText, decoded

_NEEDED = ("suite", "question", "entrant")
_SETTINGS = ("set", "verdict", "points")
_REASONS = {"set": "because", "verdict": "reason", "points": "reason"}


@dataclass(frozen=True, slots=True)
class MarkRow:
    """One mark to set: `trial` None means all trials, `setting` is pass, fail, void or points, as typed."""

    row: int
    line: int
    suite: str
    question: str
    entrant: str
    trial: int | None
    setting: str
    because: str

    @property
    def place(self) -> str:
        """Where in the table it stands."""
        return f"row {self.row}"


def read_marks(content: bytes, file: str, because: str | None = None) -> list[MarkRow]:
    """Return the marks in a CSV file; a row in which nothing is filled in is passed over.

    What to set stands in `set`, with the reason in `because`, as `replies --format csv` leaves room for; in a table
    without a column `set` in `verdict` or `points`, with the reason in `reason`. `because` is the reason of rows
    without one. Raises FaultyFiles with every fault.
    """
    faults: list[Fault] = []
    try:
        rows = list(csv_rows(decoded(content, file)))
    except UnreadableText as error:
        raise FaultyFiles(file, [error.fault]) from None
    except CsvFault as fault:
        said = f"not readable as CSV: {fault}"
        raise FaultyFiles(file, [Fault("unreadable", said, file, fault.line)]) from None
    header = [name.strip().casefold() for name in rows[0][1]] if rows else []
    columns = ["set"] if "set" in header else [name for name in _SETTINGS if name in header]
    for name in _NEEDED:
        if name not in header:
            faults.append(Fault("unreadable", f"no column '{name}'{closest(name, header)}", file, 1))
    if not columns:
        faults.append(Fault("unreadable", "no column 'set' (or 'verdict', or 'points') with what to set", file, 1))
    if faults:
        raise FaultyFiles(file, faults)
    found = []
    for number, (line, cells) in enumerate(rows[1:], start=2):
        row = dict(zip(header, (cell.strip() for cell in cells), strict=False))
        try:
            one = _row(row, columns, number, line, because)
        except ValueError as fault:
            faults.append(Fault("mark", f"row {number}: {fault}", file, line, row.get("question")))
            continue
        found += [] if one is None else [one]
    if not found and not faults:
        faults.append(Fault("mark", f"nothing is filled in in the column '{columns[0]}'", file))
    if faults:
        raise FaultyFiles(file, faults)
    return found


def _row(row: Mapping[str, str], columns: list[str], number: int, line: int, because: str | None) -> MarkRow | None:
    filled = [name for name in columns if row.get(name)]
    if not filled:
        return None
    if len(filled) > 1:
        raise ValueError(f"both {' and '.join(filled)} are filled in; leave one of them empty")
    lacking = [name for name in _NEEDED if not row.get(name)]
    if lacking:
        raise ValueError(f"no {lacking[0]}")
    reason = row.get(_REASONS[filled[0]]) or because
    if not reason:
        raise ValueError(
            f"say why the mark is set, in the column '{_REASONS[filled[0]]}' or for all with --because \"…\""
        )
    trial = row.get("trial", "")
    if trial and not (trial.isascii() and trial.isdigit() and 0 < int(trial) < 10**6):
        raise ValueError(f"the trial '{trial}' is not a whole number above 0")
    edition = row.get("edition", "")
    suite = row["suite"] if "@" in row["suite"] or not edition else f"{row['suite']}@{edition}"
    setting = row[filled[0]].casefold() if row[filled[0]].isalpha() else row[filled[0]]
    return MarkRow(number, line, suite, row["question"], row["entrant"], int(trial) if trial else None, setting, reason)
