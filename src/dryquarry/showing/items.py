"""What each question is worth, as a view."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict

from dryquarry.showing import figures
from dryquarry.showing.view import Cell, Column, Sheet, Table, View
from dryquarry.standing.items import LEAST_FOR_ALL, LEAST_FOR_NEGATIVE, ItemRow, ItemTable, Worth

# Of more questions than this a person is shown those that something is amiss with.
MOST_SHOWN = 200
_FIELDS = ("question", "category", "entrants", "mean", "discrimination", "part", "flips", "median_s", "worth", "reason")


def items_view(table: ItemTable) -> View:
    """Return the questions with what they are worth as table, JSON and sheet."""
    data = asdict(table)
    rows = [[getattr(row, name) for name in _FIELDS] for row in table.rows]
    return View(data, Sheet(list(_FIELDS), rows), _table(table))


def _table(table: ItemTable) -> Table:
    flips = any(row.flips is not None for row in table.rows)
    columns = [
        Column("question"),
        Column("category", drop=3),
        Column("entrants", right=True, drop=4),
        Column("passed", right=True),
        Column("discrimination", right=True, drop=5),
        Column("part", right=True, drop=2),
        *([Column("flips", right=True, drop=6)] if flips else []),
        Column("median s", right=True, drop=1),
        Column("worth"),
    ]
    edition = f"@{table.edition}" if table.edition else ""
    over = f"{figures.plural(len(table.rows), 'question')} over {figures.plural(table.entrants, 'entrant')}"
    title = f"{table.suite}{edition}: {over}"
    shown = [_row(row, flips=flips) for row in _shown(table)]
    return Table(title + figures.chosen(table.selected), columns, shown, below=list(_lines(table)))


def _shown(table: ItemTable) -> list[ItemRow]:
    """Return the questions that a table shows: all of few; of many those that something is amiss with."""
    if len(table.rows) <= MOST_SHOWN:
        return list(table.rows)
    return [row for row in table.rows if row.worth][:MOST_SHOWN]


def _row(row: ItemRow, *, flips: bool) -> list[str | Cell]:
    worth = f"{row.worth}: {row.reason}" if row.worth else ""
    return [
        row.question,
        row.category or "–",
        str(row.entrants),
        figures.percent(row.mean, 0),
        "–" if row.discrimination is None else f"{row.discrimination:.2f}".replace("-", "−"),
        figures.percent(row.part) if row.part is None or row.part >= 0 else f"−{figures.percent(-row.part)}",
        *([figures.percent(row.flips, 0)] if flips else []),
        figures.seconds(row.median_s),
        Cell(worth, "bold" if row.worth in (Worth.SUSPECT_KEY, Worth.AMBIGUOUS) else ""),
    ]


def _lines(table: ItemTable) -> Iterator[str]:
    """Yield what can be said of the suite, and what so few entrants cannot show."""
    if table.entrants < LEAST_FOR_ALL:
        yield f"With fewer than {LEAST_FOR_ALL} entrants nothing can be said of what questions are worth."
        return
    if table.entrants < LEAST_FOR_NEGATIVE:
        yield (
            f"Discrimination over {table.entrants} entrants is a rough guess; no question is called negative with "
            f"fewer than {LEAST_FOR_NEGATIVE}."
        )
    if len(table.rows) > MOST_SHOWN:
        amiss = sum(row.worth is not None for row in table.rows)
        yield (
            f"Shown are {figures.count(min(amiss, MOST_SHOWN))} of the {figures.plural(amiss, 'question')} that "
            "something is amiss with; --format csv has all."
        )
    saturated = [row.question for row in table.rows if row.worth is Worth.SATURATED]
    if saturated:
        command = f"'dryquarry items {table.suite} --retire-saturated --plan'"
        yield f"Saturated: {len(saturated)}; {command} lists what would go."
    found = table.reliability
    if found is None:
        yield "Reliability cannot be told: it takes three entrants with all questions that differ in their scores."
        return
    name = "KR-20" if found.pass_fail else "alpha"
    low, high = found.interval.low or 0.0, found.interval.high or 0.0
    yield (
        f"Reliability over these entrants ({name}): {found.alpha:.2f} ({low:.2f} to {high:.2f}); standard error of "
        f"measurement {figures.points(found.standard_error)}."
    )
    told = ", ".join(f"{figures.count(one.questions)} for ±{figures.points(one.half_width)}" for one in found.needed)
    yield f"Questions like these that it takes for intervals so narrow: {told}."
