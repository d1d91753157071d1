"""Opening the ledger's database, and turning its errors into messages for a person."""

from __future__ import annotations

import os
import sqlite3
from collections.abc import Iterator
from contextlib import contextmanager, suppress
from functools import partial
from pathlib import Path
from typing import Any
from urllib.parse import quote
from uuid import uuid4

import sqlalchemy as sa
from sqlalchemy.exc import DatabaseError, SQLAlchemyError

from dryquarry.errors import FileFault
from dryquarry.ledger import schema
from dryquarry.ledger.migrations import migrate
from dryquarry.ledger.seals import seal_all

BUSY_TIMEOUT_S = 30

# What is brought up to date when opened.
EARLIER_SCHEMAS = tuple(map(str, range(1, schema.SCHEMA_NUMBER)))


def open_for_writing(path: Path, tool_version: str) -> sa.Engine:
    """Return an engine on the ledger, made if absent; raises FileFault when that cannot be."""
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
    except OSError as error:
        raise FileFault(f"the ledger's folder {path.parent} cannot be made: {error.strerror}") from None
    _refuse_what_is_no_file(path)
    if path.exists():
        # before anything is written to it
        looking = _read_only(path)
        _refuse_what_is_no_ledger(looking, path)
        looking.dispose()
    else:
        _make(path, tool_version)
    engine = _engine_for_writing(path)
    with translated(path):
        with engine.connect() as connection:
            number = _schema_number(connection)
        if number in EARLIER_SCHEMAS:
            migrate(engine, int(number))
    _check_number(engine, path)
    return engine


def _engine_for_writing(path: Path) -> sa.Engine:
    # From its parts: in a text a path with "?", "#" or "%" would name another file.
    url = sa.URL.create("sqlite", database=str(path))
    engine = sa.create_engine(url, connect_args={"timeout": BUSY_TIMEOUT_S})
    sa.event.listen(engine, "connect", _prepare_for_writing)
    return engine


def _make(path: Path, tool_version: str) -> None:
    """Make a ledger beside its place and put it there whole, so that a file without tables is never a new one."""
    beside = path.with_name(f"{path.name}.{uuid4().hex[:8]}.part")
    try:
        with translated(path):
            engine = sa.create_engine(sa.URL.create("sqlite", database=str(beside)), poolclass=sa.pool.NullPool)
            with engine.begin() as connection:
                _create(connection, tool_version)
        # Another program may have made it in the meantime; then that one is used.
        with suppress(FileExistsError):
            _put(beside, path)
    except OSError as error:
        raise FileFault(f"the ledger {path} cannot be made: {error.strerror}") from None
    finally:
        for part in path.parent.glob(f"{beside.name}*"):
            part.unlink(missing_ok=True)


def _put(beside: Path, path: Path) -> None:
    """Give a file its name, unless there is one of that name; raises FileExistsError then."""
    try:
        os.link(beside, path)
    except FileExistsError:
        raise
    except OSError:
        # a file system without links
        if path.exists():
            raise FileExistsError from None
        beside.rename(path)


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
    connection.execute(sa.insert(schema.about), rows)
    seal_all(connection)


def _schema_number(connection: sa.Connection) -> str | None:
    query = sa.select(schema.about.c.value).where(schema.about.c.name == "schema")
    return connection.execute(query).scalar()


def open_for_reading(path: Path, tool_version: str) -> sa.Engine:
    """Return a read-only engine on an existing ledger, also where the folder cannot be written.

    A ledger of an earlier version is brought up to date first.
    """
    _refuse_what_is_no_file(path)
    engine = _read_only(path)
    _refuse_what_is_no_ledger(engine, path)
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
                connection.exec_driver_sql("SELECT name FROM sqlite_master LIMIT 1")
            break
        except SQLAlchemyError as error:
            # A write-ahead log needs its folder writable unless the file is taken as unchanging.
            if query != "mode=ro" or "unable to open" not in str(error):
                with translated(path):
                    raise
            _refuse_what_is_not_merged(path)
    return engine


def _refuse_what_is_not_merged(path: Path) -> None:
    """Raise FileFault where what was stored last is in a log that cannot be read here.

    Without it the rest would seem to be all.
    """
    log = path.with_name(f"{path.name}-wal")
    if log.exists() and log.stat().st_size:
        raise FileFault(
            f"the ledger {path} cannot be read whole here: {log.name} beside it holds what was stored last, and is "
            "only read where the folder can be written; copy the whole folder to such a place and look there"
        )


def _refuse_what_is_no_file(path: Path) -> None:
    """Raise FileFault for a folder, a pipe, a device, or a link to one."""
    if (path.exists() or path.is_symlink()) and not path.is_file():
        raise FileFault(f"{path} is no ledger: it is not a file; move it away, or restore the ledger from a copy")


def _refuse_what_is_no_ledger(engine: sa.Engine, path: Path) -> None:
    """Raise FileFault for a database that is empty or somebody else's."""
    with translated(path), engine.connect() as connection:
        names = set(connection.exec_driver_sql("SELECT name FROM sqlite_master WHERE type = 'table'").scalars())
        facts = connection.exec_driver_sql("PRAGMA table_info(about)").all()
    if {column[1] for column in facts} >= {"name", "value"}:
        return
    found = f"it holds other tables ({', '.join(sorted(names)[:3])})" if names else "it is empty"
    step = "move it away, or restore the ledger from a copy"
    raise FileFault(f"{path} is no ledger: {found}; {step}")


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
            "no such": "a part of it is gone: restore it from a copy; 'dryquarry ledger check' tells all that is amiss",
            "UTF-8": "a text in it is not what was stored: restore it from a copy",
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
