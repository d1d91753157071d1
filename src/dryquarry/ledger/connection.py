"""Opening the ledger's database, and turning its errors into messages for a person."""

from __future__ import annotations

import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager
from functools import partial
from pathlib import Path
from typing import Any
from urllib.parse import quote

import sqlalchemy as sa
from sqlalchemy.exc import DatabaseError, SQLAlchemyError

from dryquarry.errors import FileFault
from dryquarry.ledger import schema
from dryquarry.ledger.migrations import migrate

BUSY_TIMEOUT_S = 30

# What is brought up to date when opened.
EARLIER_SCHEMAS = tuple(map(str, range(1, schema.SCHEMA_NUMBER)))


def open_for_writing(path: Path, tool_version: str) -> sa.Engine:
    """Return an engine on the ledger, made if absent; raises FileFault when that cannot be."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileFault(f"the ledger's folder {path.parent} cannot be made: {error.strerror}") from None
    # From its parts: in a text a path with "?", "#" or "%" would name another file.
    url = sa.URL.create("sqlite", database=str(path))
    engine = sa.create_engine(url, connect_args={"timeout": BUSY_TIMEOUT_S})
    sa.event.listen(engine, "connect", _prepare_for_writing)
    with translated(path), engine.begin() as connection:
        if not sa.inspect(connection).has_table("about"):
            _create(connection, tool_version)
        number = _schema_number(connection)
    with translated(path):
        if number in EARLIER_SCHEMAS:
            migrate(engine, int(number))
    _check_number(engine, path)
    return engine


def open_empty(tool_version: str) -> sa.Engine:
    """Return an engine on a ledger in memory that holds nothing, for plans made before anything was asked."""
    engine = sa.create_engine("sqlite://", poolclass=sa.pool.StaticPool)
    with engine.begin() as connection:
        _create(connection, tool_version)
    return engine


def _create(connection: sa.Connection, tool_version: str) -> None:
    schema.metadata.create_all(connection)
    facts = {"schema": str(schema.SCHEMA_NUMBER), "made_by": f"dryquarry {tool_version}"}
    rows = [{"name": name, "value": value} for name, value in facts.items()]
    # Two programs may make the ledger at the same moment; the second finds its facts there.
    connection.execute(sa.insert(schema.about).prefix_with("OR IGNORE"), rows)


def _schema_number(connection: sa.Connection) -> str | None:
    query = sa.select(schema.about.c.value).where(schema.about.c.name == "schema")
    return connection.execute(query).scalar()


def open_for_reading(path: Path, tool_version: str) -> sa.Engine:
    """Return a read-only engine on an existing ledger, also where the folder cannot be written.

    A ledger of an earlier version is brought up to date first.
    """
    engine = _read_only(path)
    _check_number(engine, path)
    with translated(path), engine.connect() as connection:
        earlier = _schema_number(connection) in EARLIER_SCHEMAS
    if earlier:
        engine.dispose()
        open_for_writing(path, tool_version).dispose()
        engine = _read_only(path)
    return engine


def _read_only(path: Path) -> sa.Engine:
    for query in ("mode=ro", "mode=ro&immutable=1"):
        engine = sa.create_engine("sqlite://", creator=partial(_connect, path, query), poolclass=sa.pool.QueuePool)
        sa.event.listen(engine, "connect", _prepare_for_reading)
        try:
            with engine.connect() as connection:
                connection.execute(sa.select(schema.about.c.name))
            break
        except SQLAlchemyError as error:
            # A write-ahead log needs its folder writable unless the file is taken as unchanging.
            if query != "mode=ro" or "unable to open" not in str(error):
                with translated(path):
                    raise
    return engine


def _connect(path: Path, query: str) -> sqlite3.Connection:
    address = f"file:{quote(str(path))}?{query}"
    return sqlite3.connect(address, uri=True, timeout=BUSY_TIMEOUT_S, check_same_thread=False)


@contextmanager
def translated(path: Path) -> Iterator[None]:
    """Turn the database's errors into a FileFault that names the file and what to do."""
    try:
        yield
    except (DatabaseError, sqlite3.Error) as error:
        said = str(getattr(error, "orig", error))
        advice = {
            "readonly": "make the folder writable, or work in a copy",
            "unable to open": "check that the folder exists and is writable",
            "locked": "another program is writing to it; try again when that has ended",
            "full": "make room on the disk; what was stored before is safe",
            "not a database": "move the file away, or restore it from a copy",
            "malformed": "move the file away, or restore it from a copy",
        }
        step = next((step for sign, step in advice.items() if sign in said), "see --debug for the whole error")
        raise FileFault(f"the ledger {path} cannot be used: {said}; {step}") from error


def _check_number(engine: sa.Engine, path: Path) -> None:
    with translated(path), engine.connect() as connection:
        number = _schema_number(connection)
    if number not in (str(schema.SCHEMA_NUMBER), *EARLIER_SCHEMAS):
        raise FileFault(
            f"the ledger {path} has schema {number}, this version knows {schema.SCHEMA_NUMBER}; "
            "use the version of dryquarry that made it, or a newer one"
        )


def _prepare_for_writing(connection: Any, _: object) -> None:
    cursor = connection.cursor()
    cursor.execute("PRAGMA journal_mode = WAL")
    # A reply counts as received only when it would survive a power cut.
    cursor.execute("PRAGMA synchronous = FULL")
    cursor.execute("PRAGMA foreign_keys = ON")
    cursor.execute("PRAGMA temp_store = MEMORY")
    cursor.close()


def _prepare_for_reading(connection: Any, _: object) -> None:
    connection.execute("PRAGMA temp_store = MEMORY")
