"""What failing goes with, as a view: each with the command that lists those replies."""

from __future__ import annotations

import shlex
from dataclasses import asdict

from dryquarry.showing import figures
from dryquarry.showing.view import Cell, Column, Sheet, Table, View
from dryquarry.standing.failures import FailureRow, FailureTable

_FIELDS = ("kind", "value", "failed", "replies", "others_failed", "others", "ratio", "p_value")
MOST = 20


def failures_view(table: FailureTable) -> View:
    """Return what failing goes with as table, JSON and sheet."""
    data = asdict(table)
    for row, told in zip(data["rows"], table.rows, strict=True):
        row["command"] = command(table, told)
    rows = [[getattr(row, name) for name in _FIELDS] for row in table.rows]
    return View(data, Sheet(list(_FIELDS), rows), _table(table))


def command(table: FailureTable, row: FailureRow) -> str:
    """Return the command that lists the failed replies with a feature."""
    reference = f"{table.suite}@{table.edition}" if table.edition else table.suite
    who = "".join(f" -e {name}" for name in table.entrants)
    return f"dryquarry replies {reference}{who} --verdict fail {_filter(row)}"


def _filter(row: FailureRow) -> str:
    """Return the options that list the replies with a feature."""
    if row.kind in ("question", "reply"):
        return f"--{'words' if row.kind == 'question' else 'tokens'}-over {row.over}"
    if row.kind == "form":
        return "--form-lost"
    return "--unsure" if row.kind == "mark" else f"--{row.kind} {shlex.quote(row.value)}"


def _table(table: FailureTable) -> Table:
    columns = [
        Column("goes with"),
        Column("failed", right=True),
        Column("others", right=True),
        Column("times as often", right=True),
        Column("95 % interval", right=True, drop=2),
        Column("p", right=True),
        Column("lists them", drop=1),
    ]
    rows = [_row(table, row) for row in table.rows[:MOST]]
    edition = f"@{table.edition}" if table.edition else ""
    title = f"{table.suite}{edition}: {table.failed} of {figures.plural(table.replies, 'reply')} failed"
    told = [f"{row.kind} {row.value}" for row in table.rows if row.told and row.ratio > 1]
    rarer = [f"{row.kind} {row.value}" for row in table.rows if row.told and row.ratio < 1]
    below = [
        f"Failing goes with {', '.join(told)} beyond luck; what goes together need not be the cause."
        if told
        else "Nothing that failing goes with is beyond luck, with so many looked at."
    ]
    if rarer:
        below.append(f"Failing is rarer than luck would have it with {', '.join(rarer)}.")
    if len(table.rows) > MOST:
        below.append(f"{len(table.rows) - MOST} more, less sure: --format json has all.")
    below.append("The p are corrected for how many features there are; replies count one by one.")
    return Table(title + figures.chosen(table.selected), columns, rows, below=below)


def _row(table: FailureTable, row: FailureRow) -> list[str | Cell]:
    low, high = row.interval.low or 0.0, row.interval.high or 0.0
    return [
        Cell(f"{row.kind}: {row.value}", "bold" if row.told and row.ratio > 1 else ""),
        f"{row.failed} of {row.replies}",
        f"{row.others_failed} of {row.others}",
        f"{row.ratio:.1f}",
        f"{low:.1f}–{high:.1f}",
        figures.p_value(row.p_value),
        command(table, row),
    ]
