"""Votes collected elsewhere, as a table in CSV: a row a vote."""

from __future__ import annotations

import csv
import io
from collections.abc import Mapping
from dataclasses import dataclass

from dryquarry.errors import Fault, FaultyFiles, closest

COLUMNS = ("suite", "question", "first", "second", "choice", "by", "because", "order_known", "trial")
NEEDED = ("suite", "question", "first", "second", "choice", "by")
CHOICES = ("first", "second", "tie", "both-bad")
NO = ("no", "false", "0")
YES = ("", "yes", "true", "1")


@dataclass(frozen=True, slots=True)
class VoteRow:
    """A vote of a table: on two entrants' replies to a question, with its line for messages."""

    suite: str
    question: str
    first: str
    second: str
    choice: str
    by: str
    because: str | None
    order_known: bool
    trial: int
    line: int


def is_vote_table(text: str) -> bool:
    """Tell whether a table in CSV is one of votes, by its header."""
    header = next(csv.reader(io.StringIO(text[:2000].lstrip("\ufeff"))), [])
    return {"first", "second", "choice"} <= {name.strip() for name in header}


def read_votes(text: str, file: str) -> list[VoteRow]:
    """Return the votes of a table; raises FaultyFiles with every row that is none."""
    reader = csv.DictReader(io.StringIO(text.lstrip("\ufeff"), newline=""), restkey="")
    faults: list[Fault] = []
    names = [name.strip() for name in reader.fieldnames or []]
    for name in names:
        if name not in COLUMNS:
            faults.append(Fault("vote", f"unknown column '{name}'{closest(name, COLUMNS)}", file, 1))
    for name in NEEDED:
        if name not in names:
            faults.append(Fault("vote", f"there is no column '{name}'", file, 1))
    rows: list[VoteRow] = []
    for entry in reader if not faults else ():
        cells = {str(name).strip(): (value or "").strip() for name, value in entry.items() if isinstance(value, str)}
        if not any(cells.values()):
            continue
        problem = _problem(cells)
        if problem is not None:
            faults.append(Fault("vote", problem, file, reader.line_num))
        else:
            rows.append(_row(cells, reader.line_num))
    if faults:
        raise FaultyFiles(file, faults)
    return rows


def _problem(cells: Mapping[str, str]) -> str | None:
    missing = next((name for name in NEEDED if not cells.get(name)), None)
    if missing is not None:
        return f"`{missing}` is empty"
    if cells["choice"] not in CHOICES:
        return f"a choice is {', '.join(CHOICES)}, not '{cells['choice']}'"
    if cells["first"] == cells["second"]:
        return f"'{cells['first']}' stands on both sides"
    if cells.get("order_known", "").lower() not in (*YES, *NO):
        return f"`order_known` is yes or no, not '{cells['order_known']}'"
    trial = cells.get("trial") or "1"
    return None if trial.isdecimal() and 0 < int(trial) < 10**6 else f"`trial` is a number from 1, not '{trial}'"


def _row(cells: Mapping[str, str], line: int) -> VoteRow:
    return VoteRow(
        cells["suite"],
        cells["question"],
        cells["first"],
        cells["second"],
        cells["choice"],
        cells["by"],
        cells.get("because") or None,
        cells.get("order_known", "").lower() not in NO,
        int(cells.get("trial") or "1"),
        line,
    )
