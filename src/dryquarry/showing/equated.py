"""Entrants on the scale of one edition as a view."""

from __future__ import annotations

from collections.abc import Iterator
from dataclasses import asdict

from dryquarry.showing import figures
from dryquarry.showing.view import Cell, Column, Sheet, Table, View
from dryquarry.standing.equating import LEAST_ON_A_SIDE, Equated, EquatedRow


def equated_view(found: Equated) -> View:
    """Return the equated scores as table, JSON and sheet."""
    names = ["entrant", "title", "editions", "had", "own", "shared", "score", "low", "high"]
    rows = [
        [
            row.entrant,
            row.title,
            " ".join(row.editions),
            row.had,
            row.own,
            row.shared,
            row.score,
            row.interval.low,
            row.interval.high,
        ]
        for row in found.rows
    ]
    return View(asdict(found), Sheet(names, rows), _table(found))


def _table(found: Equated) -> Table:
    columns = [
        Column("entrant"),
        Column("sat whole", drop=1),
        Column("has", right=True),
        Column("own score", right=True),
        Column("shared", right=True, drop=2),
        Column("equated", right=True),
        Column("95 % interval", right=True),
    ]
    title = f"{found.suite}@{found.edition}: {figures.plural(found.questions, 'question')}, all editions on its scale"
    rows = [_row(found, row) for row in found.rows]
    return Table(title + figures.chosen(found.selected), columns, rows, below=list(_lines(found)))


def _row(found: Equated, row: EquatedRow) -> list[str | Cell]:
    return [
        row.entrant,
        ", ".join(row.editions) or "–",
        f"{row.had} of {found.questions}",
        figures.percent(row.own),
        str(row.shared),
        Cell(figures.percent(row.score), "bold"),
        figures.interval(row.interval.low, row.interval.high),
    ]


def _lines(found: Equated) -> Iterator[str]:
    yield (
        f"Equated: the score to be expected on all {found.questions} questions, from all that an entrant has of any "
        "edition; entrants and questions as crossed random effects."
    )
    yield "It is drawn towards the others' scores, and is for comparing; what an entrant scored is its own score."
    for row in found.rows:
        if row.refused:
            shared = figures.plural(row.refused.shared, "question")
            takes = f"that takes {row.refused.needed}"
            yield f"{row.entrant} is not on the scale: it shares {shared} with those that sat it whole, and {takes}."
    for one in found.drifted:
        way = "more" if one.later > one.earlier else "less"
        yield (
            f"{one.question} drifted: later entrants pass it {way} often than their other marks say "
            f"(p {figures.p_value(one.p_value)}); it links nobody."
        )
    if not found.drifted:
        yield f"No shared question is shown to have drifted (which takes {LEAST_ON_A_SIDE} entrants on either side)."
