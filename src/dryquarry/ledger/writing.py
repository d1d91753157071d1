"""One transaction that changes the ledger: rows put in and rows that give place, each with its seal."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from typing import Any

import sqlalchemy as sa

from dryquarry.ledger.rows import in_groups, insert_rows, storable
from dryquarry.ledger.seals import Sums, row_seal, with_seal


class Writing:
    """What is done to the tables within one transaction; `begun` gives one."""

    def __init__(self, connection: sa.Connection):
        self.connection = connection
        self.sums = Sums(connection)

    def insert(self, table: sa.Table, rows: Sequence[Mapping[str, Any]]) -> list[int]:
        """Put in rows that have the same columns, numbered from the last one on; return their numbers."""
        if not rows:
            return []
        last = self.connection.exec_driver_sql(f"SELECT max(id) FROM {table.name}").scalar() or 0
        numbers = list(range(last + 1, last + 1 + len(rows)))
        stored = [
            with_seal(table.name, {"id": number, **{name: storable(value) for name, value in row.items()}})
            for number, row in zip(numbers, rows, strict=True)
        ]
        insert_rows(self.connection, table, stored)
        self.sums.add(table.name, [row.get("seal") or row_seal(table.name, row) for row in stored])
        return numbers

    def current(self, table: sa.Table, among: str, values: Sequence[int], **also: int) -> Iterator[Mapping[str, Any]]:
        """Yield the current rows of a table that have one of these values in a column, and `also` these in others."""
        conditions = "".join(f" AND {name} = ?" for name in also)
        for places, part in in_groups(list(dict.fromkeys(values))):
            query = f"SELECT * FROM {table.name} WHERE {among} IN ({places}) AND current = 1{conditions}"
            yield from map(dict, self.connection.exec_driver_sql(query, (*part, *also.values())).mappings())

    def change(self, table: sa.Table, rows: Sequence[Mapping[str, Any]], changes: Sequence[Mapping[str, Any]]) -> None:
        """Change stored rows, given whole as they are, each by the values beside it (the same columns for all)."""
        if not rows:
            return
        names = tuple(changes[0])
        changed = [
            with_seal(table.name, {**row, **{name: storable(value) for name, value in change.items()}})
            for row, change in zip(rows, changes, strict=True)
        ]
        settings = ", ".join(f"{name} = ?" for name in (*names, "seal"))
        statement = f"UPDATE {table.name} SET {settings} WHERE id = ?"
        self.connection.exec_driver_sql(
            statement, [tuple(row[name] for name in (*names, "seal", "id")) for row in changed]
        )
        self.sums.take(table.name, [row["seal"] for row in rows])
        self.sums.add(table.name, [row["seal"] for row in changed])

    def change_where(self, table: sa.Table, change: Mapping[str, Any], *conditions: sa.ColumnElement[bool]) -> int:
        """Change all rows that meet the conditions in the same way; return how many there were."""
        found = [
            {str(name): value for name, value in row.items()}
            for row in self.connection.execute(sa.select(table).where(*conditions)).mappings()
        ]
        self.change(table, found, [change] * len(found))
        return len(found)


@contextmanager
def begun(connection: sa.Connection) -> Iterator[Writing]:
    """Begin to write, as the only writer from the start: what is read is still so when it is changed."""
    connection.exec_driver_sql("BEGIN IMMEDIATE")
    writing = Writing(connection)
    yield writing
    writing.sums.write()
