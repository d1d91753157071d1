"""What a sheet held, as a view."""

from __future__ import annotations

from dryquarry.showing import figures
from dryquarry.showing.view import Column, Sheet, Table, View
from dryquarry.workspace.by_hand import Collected, Collection


def collection_view(collection: Collection) -> View:
    """Return what became of the replies in a sheet: counts of each kind, and each that is not simply new."""
    first = collection.replies[0].entry
    counts = {str(status): collection.count(status) for status in Collected}
    data = {
        "suite": first.suite,
        "edition": first.edition,
        "entrant": first.entrant,
        **counts,
        "judged": collection.judged,
        "replies": [
            {
                "question": one.entry.question,
                "trial": one.entry.trial,
                "status": str(one.status),
                "why": one.why or None,
            }
            for one in collection.replies
        ],
    }
    names = ["question", "trial", "status", "why"]
    rows = [[one.entry.question, one.entry.trial, str(one.status), one.why] for one in collection.replies]
    told = [
        [one.entry.question, str(one.entry.trial), str(one.status), one.why or "–"]
        for one in collection.replies
        if one.status in (Collected.CHANGED, Collected.UNKNOWN, Collected.EMPTY)
    ]
    said = ", ".join(f"{count} {name}" for name, count in counts.items() if count)
    title = f"{first.suite}@{first.edition}, {first.entrant} by hand: {said}"
    stored = collection.count(Collected.NEW) + collection.count(Collected.CHANGED)
    below = [
        f"{figures.plural(stored, 'reply')} stored and marked"
        + (", earlier texts are kept" if counts["changed"] else "")
    ]
    columns = [Column("question"), Column("trial", right=True), Column("status"), Column("why")]
    return View(data, Sheet(names, rows), Table(title, columns, told, below=below))
