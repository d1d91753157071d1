"""Seals: what tells that the rows of the ledger are as they were put there, none taken away and none slipped in.

A row's seal is a digest of all that it holds. For each table `seals` keeps how many rows there are and the sum of
their seals, which depends on no order, so that what is added or changed is added or taken away (an additive multiset
hash: Clarke, Devadas, van Dijk, Gassend & Suh 2003). Both together find any change that was made by hand or by fault,
and mostly which row it was. Whoever also works out all seals anew is found only where the ledger's seal was noted.
"""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

import orjson
import sqlalchemy as sa

from dryquarry.ledger import schema

SEAL_BITS = 128
_MODULUS = 2**SEAL_BITS
_DIGITS = SEAL_BITS // 4
AT_A_TIME = 2_000

# Tables of what has a digest: it stands for the content.
_BY_DIGEST = frozenset({"asks", "markings", "sitters"})
SEALED = tuple(name for name in schema.metadata.tables if name != "seals")
_REAL = {
    name: frozenset(column.name for column in table.columns if isinstance(column.type, sa.Float))
    for name, table in schema.metadata.tables.items()
}


@dataclass(frozen=True, slots=True)
class SealedRow:
    """A row as it is: its number, the seal that it bears (None where it has none), and the one that fits it."""

    row: int
    borne: str | None
    fitting: str


def row_seal(table: str, values: Mapping[str, Any]) -> str:
    """Return the seal of a row: over every value that is there but the seal itself.

    What is absent is not part of it, so that a column that a later schema adds changes no seal.
    """
    if table in _BY_DIGEST:
        held: dict[str, Any] = {"id": values.get("id"), "digest": values.get("digest")}
    else:
        held = {name: value for name, value in values.items() if value is not None and name != "seal"}
        for name in _REAL[table] & held.keys():
            # as the database gives it back: a whole number in such a column, and a zero without sign
            held[name] = _as_real(held[name])
    return hashlib.sha256(orjson.dumps(held, default=repr, option=orjson.OPT_SORT_KEYS)).hexdigest()[:_DIGITS]


def _as_real(value: Any) -> Any:
    return float(value) + 0.0 if isinstance(value, int | float) else value


def with_seal(table: str, values: Mapping[str, Any]) -> dict[str, Any]:
    """Return a row's values with its seal, where its table has such a column."""
    plain = {name: int(value) if isinstance(value, bool) else value for name, value in values.items()}
    return plain if table in _BY_DIGEST else {**plain, "seal": row_seal(table, plain)}


class Sums:
    """What one transaction adds to the rows of the tables and takes from them, to be written at its end."""

    def __init__(self, connection: sa.Connection):
        self._connection = connection
        self._rows: dict[str, int] = {}
        self._sums: dict[str, int] = {}

    def add(self, table: str, seals: Sequence[str]) -> None:
        """Note that rows of these seals were added."""
        self._note(table, len(seals), sum(map(_number, seals)))

    def take(self, table: str, seals: Sequence[str | None]) -> None:
        """Note that rows of these seals are there no longer, or no longer as they were."""
        self._note(table, -len(seals), -sum(_number(seal or "") for seal in seals))

    def _note(self, table: str, rows: int, total: int) -> None:
        self._rows[table] = self._rows.get(table, 0) + rows
        self._sums[table] = self._sums.get(table, 0) + total

    def write(self) -> None:
        """Bring `seals` up to date."""
        for table, rows in self._rows.items():
            query = "SELECT rows, total FROM seals WHERE name = ?"
            found = self._connection.exec_driver_sql(query, (table,)).first()
            # Where it was taken away by hand it stays away, for the check to tell.
            if found is not None:
                total = (_number(found[1]) + self._sums[table]) % _MODULUS
                change = "UPDATE seals SET rows = ?, total = ? WHERE name = ?"
                self._connection.exec_driver_sql(change, (found[0] + rows, _text(total), table))


def sealed_rows(connection: sa.Connection, table: str) -> Iterator[SealedRow]:
    """Yield the rows of a table in the order of their numbers, each with the seal it bears and the one that fits."""
    # The schema's own number changes with each step; opening the ledger looks at it.
    condition = " WHERE name <> 'schema'" if table == "about" else ""
    cursor = connection.exec_driver_sql(f"SELECT rowid AS row_number, * FROM {table}{condition} ORDER BY rowid")
    for part in cursor.mappings().partitions(AT_A_TIME):
        for row in part:
            values = dict(row)
            number = values.pop("row_number")
            fitting = row_seal(table, values)
            yield SealedRow(number, values.get("seal") if table not in (*_BY_DIGEST, "about") else fitting, fitting)


def seal_all(connection: sa.Connection) -> None:
    """Seal every row as it is, once, when a ledger is made or brought up to the schema that has seals."""
    present = set(sa.inspect(connection).get_table_names())
    for table in (name for name in SEALED if name in present):
        rows = list(sealed_rows(connection, table))
        if table not in (*_BY_DIGEST, "about") and rows:
            change = f"UPDATE {table} SET seal = ? WHERE id = ?"
            connection.exec_driver_sql(change, [(row.fitting, row.row) for row in rows])
        total = sum_of(row.fitting for row in rows)
        insert = "INSERT OR REPLACE INTO seals (name, rows, total) VALUES (?, ?, ?)"
        connection.exec_driver_sql(insert, (table, len(rows), total))


def seal_new(connection: sa.Connection) -> None:
    """Begin the seals of the tables that a later schema adds, which are empty then."""
    for table in SEALED:
        insert = "INSERT OR IGNORE INTO seals (name, rows, total) VALUES (?, 0, ?)"
        connection.exec_driver_sql(insert, (table, _text(0)))


def sum_of(seals: Iterator[str]) -> str:
    """Return the sum of seals as it is kept."""
    return _text(sum(map(_number, seals)) % _MODULUS)


def ledger_seal(connection: sa.Connection) -> str:
    """Return one seal for the whole ledger, which changes with anything that is stored."""
    kept = connection.exec_driver_sql("SELECT name, rows, total FROM seals ORDER BY name").all()
    return hashlib.sha256(repr([tuple(row) for row in kept]).encode("utf-8")).hexdigest()[:16]


def _number(seal: object) -> int:
    """Return a seal as a number; what somebody wrote over it counts as nothing, and is found by the check."""
    try:
        return int(str(seal), 16) if seal else 0
    except ValueError:
        return 0


def _text(total: int) -> str:
    return f"{total:0{_DIGITS}x}"
