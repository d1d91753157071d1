"""The ledger's contents and health as views."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

from dryquarry.ledger.health import LedgerInfo
from dryquarry.showing import figures
from dryquarry.showing.view import Column, Sheet, Table, View


def info_view(info: LedgerInfo) -> View:
    """Return how much the ledger holds."""
    data = asdict(info)
    rows = [[name, value] for name, value in data.items()]
    shown = [
        [name.replace("_", " "), figures.count(value) if isinstance(value, int) else str(value)] for name, value in rows
    ]
    return View(data, Sheet(["what", "value"], rows), Table("the ledger", [Column("what"), Column("value")], shown))


def problems_view(problems: Sequence[str]) -> View:
    """Return what is wrong in the ledger."""
    title = "the ledger is whole" if not problems else f"the ledger has {figures.plural(len(problems), 'problem')}"
    rows = [[problem] for problem in problems]
    return View({"problems": list(problems)}, Sheet(["problem"], rows), Table(title, [Column("problem")], rows))
