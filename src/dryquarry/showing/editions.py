"""History and differences of editions as views."""

from __future__ import annotations

from collections.abc import Sequence
from typing import Any

from dryquarry.marking.values.texts import shortened
from dryquarry.showing import figures
from dryquarry.showing.view import WHOLE, Cell, Column, Sheet, Table, View, columns_of
from dryquarry.suites.diffing import Change, ChangeKind, SuiteDiff
from dryquarry.suites.question import DRAFT
from dryquarry.workspace.editing import HistoryRow

_COUNTED = {
    "added": (ChangeKind.ADDED, ChangeKind.RESTORED),
    "reworded": (ChangeKind.REWORDED,),
    "re-keyed": (ChangeKind.KEY, ChangeKind.SCHEME),
    "redrawn": (ChangeKind.REDRAWN,),
    "retired": (ChangeKind.RETIRED,),
}
_STYLES = {
    ChangeKind.ADDED: "color(30)",
    ChangeKind.RESTORED: "color(30)",
    ChangeKind.RETIRED: "color(131)",
    ChangeKind.REWORDED: "color(136)",
    ChangeKind.REDRAWN: "color(136)",
    ChangeKind.KEY: "bold color(136)",
    ChangeKind.SCHEME: "bold color(136)",
}


def history_view(name: str, rows: Sequence[HistoryRow]) -> View:
    """Return a suite's editions, the oldest first."""
    names = ["edition", "sealed_at", "questions", *_COUNTED, "seed", "digest", "note"]
    values = [_history_row(row) for row in rows]
    drops = ("seed", "digest", "sealed_at", "redrawn", "retired", "added")
    columns = columns_of(names, ("questions", *_COUNTED, "seed"), drops)
    shown = [
        [
            str(one["edition"]),
            (one["sealed_at"] or "–")[:16].replace("T", " "),
            str(one["questions"]),
            *("–" if one[count] is None else str(one[count]) for count in _COUNTED),
            str(one["seed"]),
            (one["digest"] or "–")[:8],
            one["note"] or "–",
        ]
        for one in values
    ]
    sheet = Sheet(names, [[one[title] for title in names] for one in values])
    return View({"suite": name, "editions": values}, sheet, Table(f"{name}: its editions", columns, shown))


def key_hints(diff: SuiteDiff) -> list[str]:
    """Return each changed key, or way of marking, in a line."""
    kinds = (ChangeKind.KEY, ChangeKind.SCHEME)
    changes = [change for change in diff.changes if change.kind in kinds]
    return [f"{one.question}: {one.kind}, {shortened(one.before, 60)} → {shortened(one.after, 60)}" for one in changes]


def diff_view(diff: SuiteDiff) -> View:
    """Return what changed, a row a change."""
    changes = [
        {
            "question": change.question,
            "kind": str(change.kind),
            "before": change.before,
            "after": change.after,
            "words": change.words,
        }
        for change in diff.changes
    ]
    data = {"before": diff.before, "after": diff.after, "same": diff.same, "changes": changes}
    rows: list[list[str | Cell]] = [
        [change.question, Cell(str(change.kind), _STYLES.get(change.kind, "")), _told(change)]
        for change in diff.changes
    ]
    found = {title: diff.count(*kinds) for title, kinds in _COUNTED.items()}
    counts = [f"{figures.plural(count, 'question')} {title}" for title, count in found.items() if count]
    title = f"{diff.before} → {diff.after}: " + (", ".join(counts) or "no question changed")
    below = [f"{figures.plural(diff.same, 'question')} the same in both, asked and marked alike."]
    columns = [Column("question"), Column("change", least=WHOLE), Column("from → to")]
    names = ["question", "kind", "before", "after", "words"]
    sheet = Sheet(names, [[change[name] for name in names] for change in changes])
    return View(data, sheet, Table(title, columns, rows, below=below))


def _history_row(row: HistoryRow) -> dict[str, Any]:
    seal = row.suite.seal
    return {
        "edition": row.suite.edition,
        "sealed_at": seal.sealed_at if seal else None,
        "questions": len(row.suite.asked()),
        **{name: row.diff.count(*kinds) if row.diff else None for name, kinds in _COUNTED.items()},
        "seed": row.suite.seed,
        "digest": seal.digest if seal else None,
        "note": seal.note if seal else ("not sealed yet" if row.suite.edition == DRAFT else ""),
    }


def _told(change: Change) -> str:
    match change.kind:
        case ChangeKind.REWORDED:
            return change.words
        case ChangeKind.KEY | ChangeKind.SCHEME | ChangeKind.REDRAWN:
            return f"{shortened(change.before, 50)} → {shortened(change.after, 50)}"
        case _:
            return shortened(change.after, 90)
