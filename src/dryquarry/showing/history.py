"""One entrant over editions and time as a view."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict

from dryquarry.showing import figures
from dryquarry.showing.view import Column, Sheet, Table, View
from dryquarry.standing.history import History, HistoryRow
from dryquarry.standing.intervals import LEVEL

_FIELDS = ("edition", "digest", "model", "first", "last", "had", "questions", "score", "shared", "same_replies")


def states_view(found: History) -> View:
    """Return an entrant's states as table, JSON and sheet."""
    names = ["entrant", *_FIELDS, "low", "high", "change"]
    rows = [
        [
            found.entrant,
            *(getattr(row, name) for name in _FIELDS),
            row.interval.low,
            row.interval.high,
            row.change.difference if row.change else None,
        ]
        for row in found.rows
    ]
    return View(asdict(found), Sheet(names, rows), _table(found))


def _table(found: History) -> Table:
    columns = [
        Column("edition"),
        Column("replies of", drop=1),
        Column("settings", drop=2),
        Column("has", right=True),
        Column("score", right=True),
        Column("95 % interval", right=True),
        Column("change", right=True),
        Column("on shared", right=True),
    ]
    title = f"{found.entrant} on {found.suite}, over editions and time"
    return Table(title, columns, [_row(row) for row in found.rows], below=list(_lines(found)))


def _row(row: HistoryRow) -> list[str]:
    first, last = row.first[:10], row.last[:10]
    return [
        row.edition,
        first if first == last else f"{first} to {last}",
        f"{row.digest[:8]} {row.model}".strip(),
        f"{row.had} of {row.questions}",
        figures.percent(row.score),
        figures.interval(row.interval.low, row.interval.high),
        _change(row),
        figures.plural(row.shared, "question") if row.shared else "–",
    ]


def _change(row: HistoryRow) -> str:
    if row.same_replies:
        return "same replies"
    if row.change is None:
        return "–"
    return f"{figures.difference(row.change.difference)} ({figures.difference_interval(row.change.interval)})"


def _lines(found: History) -> Iterator[str]:
    if len(found.rows) < 2:
        yield "There is one state only; a later edition, other settings, or 'run --fresh' makes another."
        return
    yield "A change is to the row before, on the questions that ask and mark the same in both."
    changes = [row for row in found.rows if row.change and not row.same_replies]
    told = [row for row in changes if row.change and row.change.p_value < LEVEL]
    if told:
        yield f"Beyond luck (paired test, each at 5 %): {', '.join(map(_way, told))}."
    elif changes:
        yield "No change is beyond luck (paired tests, each at 5 %)."
    scale = f"'dryquarry board {found.suite} --equated' puts them on one scale"
    yield f"Scores of different editions are about different questions; {scale}."


def _way(row: HistoryRow) -> str:
    up = row.change is not None and row.change.difference > 0
    return f"{'up' if up else 'down'} to edition {row.edition} of {row.last[:10]}"
