"""Whether the ledger is whole: the file, its parts, its references, and each row by its digest or seal."""

from __future__ import annotations

import hashlib
from collections.abc import Iterator, Mapping
from dataclasses import dataclass

import sqlalchemy as sa

from dryquarry.ledger import schema
from dryquarry.ledger.connection import open_empty
from dryquarry.ledger.seals import SEALED, sealed_rows, sum_of
from dryquarry.ledger.store import Ledger

MOST_TOLD = 20

_RESTORE = "restore the ledger from a copy that was made before"
_ADVICE: Mapping[str, str] = {
    "replies": f"{_RESTORE}; or ask such questions again with 'dryquarry run SUITE --fresh'",
    "marks": f"{_RESTORE}; or 'dryquarry mark SUITE' marks again, and marks set by a person are set again by hand",
    "voids": f"{_RESTORE}; or set it right with 'dryquarry mark SUITE --question ID --set void' or '--take-back'",
    "editions": f"{_RESTORE}; 'dryquarry suite check' tells whether the edition's own file is whole",
}


@dataclass(frozen=True, slots=True)
class LedgerProblem:
    """Something that is wrong in the ledger, and what can be done about it."""

    what: str
    advice: str = _RESTORE


@dataclass(frozen=True, slots=True)
class _Shape:
    """What a database is made of: the columns of its tables, its indexes, and triggers and views."""

    columns: Mapping[str, frozenset[tuple[str, ...]]]
    indexes: Mapping[str, tuple[str, ...]]
    programs: frozenset[str]
    statements: Mapping[str, str]


def ledger_problems(ledger: Ledger) -> list[LedgerProblem]:
    """Return everything that is wrong in the ledger."""
    with ledger.connected() as connection:
        problems = [*_file_problems(connection)]
        amiss = [*_wrong_shape(connection, ledger.tool_version)]
        problems += amiss
        if not amiss:
            problems += [*_dangling(connection), *_wrong_digests(connection)]
        for table in SEALED:
            problems += _wrong_rows(connection, table)
    return problems


def _file_problems(connection: sa.Connection) -> Iterator[LedgerProblem]:
    for (said,) in connection.exec_driver_sql(f"PRAGMA integrity_check({MOST_TOLD})"):
        if said != "ok":
            yield LedgerProblem(f"the file: {said}")


def _wrong_shape(connection: sa.Connection, tool_version: str) -> Iterator[LedgerProblem]:
    """Yield what is missing, changed or added among tables, indexes, triggers and views."""
    engine = open_empty(tool_version)
    with engine.connect() as model_connection:
        model = _shape(model_connection)
    engine.dispose()
    found = _shape(connection)
    remove = "it was not made by dryquarry: look at what it does, and take it out with DROP"
    for name in sorted(model.columns.keys() - found.columns.keys()):
        yield LedgerProblem(f"the table {name} is gone")
    for name in sorted(found.columns.keys() - model.columns.keys()):
        yield LedgerProblem(f"there is a table more, {name}", remove)
    for name in sorted(model.columns.keys() & found.columns.keys()):
        if model.columns[name] != found.columns[name]:
            differing = {column[0] for column in model.columns[name] ^ found.columns[name]}
            yield LedgerProblem(f"the table {name} has other columns: {', '.join(sorted(differing))}")
    for name in sorted(model.indexes.keys() | found.indexes.keys()):
        if name not in found.indexes:
            yield LedgerProblem(f"the index {name} is gone", f"put it back: {model.statements.get(name, name)}")
        elif name not in model.indexes:
            yield LedgerProblem(f"there is an index more, {name}", remove)
        elif model.indexes[name] != found.indexes[name]:
            yield LedgerProblem(f"the index {name} is another than it should be")
    for name in sorted(found.programs):
        yield LedgerProblem(f"there is a {name}, which can change what is stored or shown", remove)


def _shape(connection: sa.Connection) -> _Shape:
    def query(text: str) -> list[tuple[str, ...]]:
        return [tuple(map(str, row)) for row in connection.exec_driver_sql(text)]

    # SQLite's own tables, which ANALYZE makes, are nobody's
    tables = [name for (name,) in query("SELECT name FROM sqlite_master WHERE type = 'table'") if name[:7] != "sqlite_"]
    made = query("SELECT name, replace(sql, char(10), ' ') FROM sqlite_master WHERE type = 'index'")
    statements = {row[0]: row[1] for row in made}
    columns, indexes = {}, {}
    for table in tables:
        quoted = table.replace('"', '""')
        # without its place in the table: columns that were added later stand at the end
        columns[table] = frozenset((row[1], row[2], row[3], row[4]) for row in query(f'PRAGMA table_xinfo("{quoted}")'))
        for _, index, unique, origin, partial in query(f'PRAGMA index_list("{quoted}")'):
            of = [row[2] for row in query(f"""PRAGMA index_info("{index.replace('"', '""')}")""")]
            # those that SQLite makes itself have numbers for names
            name = index if origin == "c" else f"of {table} ({', '.join(of)})"
            condition = statements.get(index, "").upper().partition(" WHERE ")[2]
            indexes[name] = (table, unique, partial, *of, condition)
    programs = query("SELECT type || ' ' || name FROM sqlite_master WHERE type IN ('trigger', 'view')")
    return _Shape(columns, indexes, frozenset(row[0] for row in programs), statements)


def _dangling(connection: sa.Connection) -> Iterator[LedgerProblem]:
    for table, row, parent, _ in connection.exec_driver_sql("PRAGMA foreign_key_check"):
        yield LedgerProblem(f"row {row} of {table} refers to a row of {parent} that is not there", _advice(table))


def _wrong_digests(connection: sa.Connection) -> Iterator[LedgerProblem]:
    for table in (schema.asks, schema.markings, schema.sitters):
        for row in connection.execute(sa.select(table)):
            if hashlib.sha256(str(row.content).encode("utf-8")).hexdigest() != row.digest:
                yield LedgerProblem(
                    f"row {row.id} of {table.name}: its content is not what its digest {str(row.digest)[:8]} is of"
                )


def _wrong_rows(connection: sa.Connection, table: str) -> Iterator[LedgerProblem]:
    """Yield the rows of a table that were changed, put in or taken away by hand."""
    if not {table, "seals"} <= set(sa.inspect(connection).get_table_names()):
        return
    advice, wrong, borne, expected = _advice(table), 0, [], 0
    for one in sealed_rows(connection, table):
        # rows are numbered without gaps and never deleted
        if table != "about" and one.row > expected + 1:
            wrong += 1
            yield LedgerProblem(f"{_rows(expected + 1, one.row - 1, table)} gone", advice)
        expected = one.row
        borne.append(one.borne or "")
        if one.borne != one.fitting:
            wrong += 1
            done = "was put in by hand" if one.borne is None else "was changed after it was stored"
            yield LedgerProblem(f"row {one.row} of {table}{_whose(connection, table, one.row)} {done}", advice)
    kept = connection.exec_driver_sql("SELECT rows, total FROM seals WHERE name = ?", (table,)).first()
    if kept is None:
        yield LedgerProblem(f"the seal of {table} is gone", advice)
    elif kept[0] > len(borne) and not wrong:
        yield LedgerProblem(f"of {table} the last rows are gone ({kept[0] - len(borne)})", advice)
    elif (kept[0], kept[1]) != (len(borne), sum_of(iter(borne))) and not wrong:
        changed = "what it holds is not what was stored: rows were changed together with their seals"
        yield LedgerProblem(f"{table}: {changed}", advice)


_REPLY_COLUMNS = {
    "replies": "id",
    **dict.fromkeys(("marks", "verdicts", "draws", "decisions"), "reply_id"),
    "votes": "first_id",
}


def _whose(connection: sa.Connection, table: str, row: int) -> str:
    """Return whose reply a row is, or is about, as far as that can be told."""
    reply = _REPLY_COLUMNS.get(table)
    if reply is None:
        return ""
    query = (
        "SELECT sittings.entrant, runs.suite FROM replies JOIN sittings ON sittings.id = replies.sitting_id "
        f"JOIN runs ON runs.id = sittings.run_id WHERE replies.id = (SELECT {reply} FROM {table} WHERE id = ?)"
    )
    try:
        found = connection.exec_driver_sql(query, (row,)).first()
    except sa.exc.DatabaseError:
        # what it would be told from is gone itself
        return ""
    return f" ({found[0]}, {found[1]})" if found else ""


def _rows(first: int, last: int, table: str) -> str:
    return f"row {first} of {table} is" if first == last else f"rows {first} to {last} of {table} are"


def _advice(table: str) -> str:
    return _ADVICE.get(table, _RESTORE)
