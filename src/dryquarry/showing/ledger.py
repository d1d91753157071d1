"""The ledger's contents and health as views."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import asdict

from dryquarry.ledger.checking import LedgerProblem
from dryquarry.ledger.health import LedgerInfo
from dryquarry.showing import figures
from dryquarry.showing.view import Column, Sheet, Table, View

MOST_TOLD = 20


def info_view(info: LedgerInfo) -> View:
    """Return how much the ledger holds."""
    data = asdict(info)
    rows = [[name, value] for name, value in data.items()]
    shown = [
        [name.replace("_", " "), figures.count(value) if isinstance(value, int) else str(value)] for name, value in rows
    ]
    return View(data, Sheet(["what", "value"], rows), Table("the ledger", [Column("what"), Column("value")], shown))


def problems_view(problems: Sequence[LedgerProblem]) -> View:
    """Return what is wrong in the ledger, and what can be done about it."""
    title = "the ledger is whole" if not problems else f"the ledger has {figures.plural(len(problems), 'problem')}"
    rows = [[one.what, one.advice] for one in problems]
    shown = [[one.what] for one in problems[:MOST_TOLD]]
    if len(problems) > MOST_TOLD:
        shown.append([f"and {len(problems) - MOST_TOLD} more: --format json tells all"])
    data = {"problems": [one.what for one in problems], "advice": [one.advice for one in problems]}
    advice = dict.fromkeys(one.advice for one in problems)
    table = Table(title, [Column("problem")], shown, below=[f"what can be done: {one}" for one in advice])
    return View(data, Sheet(["problem", "advice"], rows), table)
