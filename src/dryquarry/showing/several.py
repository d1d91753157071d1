"""Views of the same kind for several suites, as one."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dryquarry.showing.view import Sheet, View


def together(views: Sequence[View], suites: Sequence[str]) -> View:
    """Return the views below each other; in a sheet each row begins with its suite, in JSON they are a list."""
    if len(views) == 1:
        return views[0]
    rows = [[suite, *row] for view, suite in zip(views, suites, strict=True) for row in view.sheet.rows]
    sheet = Sheet(["suite", *views[0].sheet.names], rows)
    tables = [table for view in views if view.table for table in (view.table, *view.more)]
    return replace(views[0], data=[view.data for view in views], sheet=sheet, table=tables[0], more=tables[1:])
