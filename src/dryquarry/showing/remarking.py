"""What marking again changed, as a view."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

from dryquarry.marking.model import Mark
from dryquarry.showing import figures
from dryquarry.showing.runs import not_run_hints
from dryquarry.showing.view import Cell, Sheet, Table, View, columns_of
from dryquarry.workspace.mark_book import SetMark
from dryquarry.workspace.remarking import Remarking


def remarking_view(result: Remarking) -> View:
    """Return the marks that flipped, and what that does to each entrant's score and rank."""
    changes = [
        {
            "question": change.question,
            "entrant": change.entrant,
            "trial": change.trial,
            "before": _data(change.before),
            "after": _data(change.after),
        }
        for change in result.changes
    ]
    data = {
        "suite": result.reference,
        "written": result.written,
        "first": result.first,
        "same": result.same,
        "kept": result.kept,
        "changes": changes,
        "standings": [asdict(one) for one in result.standings],
    }
    names = ["question", "entrant", "trial", "before", "after", "reason"]
    rows = [
        [one.question, one.entrant, one.trial, _said(one.before), _said(one.after), one.after.reason]
        for one in result.changes
    ]
    shown: list[list[str | Cell]] = [
        [one.question, one.entrant, str(one.trial), _said(one.before), Cell(_said(one.after), "bold"), one.after.reason]
        for one in result.changes
    ]
    columns = columns_of(names, ("trial",), ("trial",))
    verb = "changed" if result.written else "would change"
    parts = [f"{figures.plural(len(result.changes), 'mark')} {verb}", f"{result.same} the same"]
    parts += [f"{result.kept} kept as a person or judge gave them"] if result.kept else []
    parts += [f"{result.first} first marks"] if result.first else []
    title = f"{result.reference}: {', '.join(parts)}"
    below = [] if result.written or not (result.changes or result.first) else ["Nothing was written."]
    more = [_standings_table(result)] if result.standings else []
    return View(data, Sheet(names, rows), Table(title, columns, shown, below=below), more=more)


def set_marks_view(marks: Sequence[SetMark], *, written: bool) -> View:
    """Return the marks that a person sets with a table, beside those before them."""
    names = ["suite", "question", "entrant", "trial", "before", "after", "because"]
    rows = [
        [
            one.suite,
            one.question,
            one.entrant.name,
            one.trial,
            _said(one.before) if one.before else None,
            _said(one.after),
            one.after.because,
        ]
        for one in marks
    ]
    changed = sum(one.before is None or not one.after.comes_to(one.before) for one in marks)
    verb = "set by a person" if written else "would be set by a person"
    title = f"{figures.plural(len(marks), 'mark')} {verb}, {changed} of them otherwise than before"
    below = (
        ["'dryquarry mark SUITE --question ID -e NAME --take-back' undoes one."]
        if written
        else ["Nothing was written."]
    )
    shown = [["–" if value is None else str(value) for value in row] for row in rows]
    data = {"written": written, "marks": [dict(zip(names, row, strict=True)) for row in rows]}
    return View(
        data, Sheet(names, rows), Table(title, columns_of(names, ("trial",), ("suite", "trial")), shown, below=below)
    )


def _standings_table(result: Remarking) -> Table:
    rows = [
        [
            one.entrant,
            figures.percent(one.score_before),
            figures.percent(one.score_after),
            "–" if one.rank_before is None else str(one.rank_before),
            "–" if one.rank_after is None else str(one.rank_after),
        ]
        for one in result.standings
    ]
    names = ["entrant", "score before", "score after", "rank before", "rank after"]
    columns = columns_of(names, names[1:])
    return Table("What that does to the standings", columns, rows)


def _data(mark: Mark) -> dict[str, object]:
    return {"score": mark.score, "verdict": str(mark.verdict), "reason": mark.reason}


def _said(mark: Mark) -> str:
    part = mark.score is not None and 0 < mark.score < 1
    return f"{mark.verdict} {figures.percent(mark.score, 0)}" if part else str(mark.verdict)


def remarking_hints(done: Remarking) -> list[str]:
    """Return what a person should know of marking again beyond what changed."""
    return not_run_hints(done.not_run)
