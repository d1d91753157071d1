"""Runs inside the sandbox: makes a fresh database, puts one query to it, and says what it gave.

Without `changes` the query may only read: an authorizer refuses everything else, other files above all.
"""

import base64
import csv
import io
import json
import os
import sqlite3
import sys

MOST_ROWS = 20_000
READS = {
    sqlite3.SQLITE_SELECT,
    sqlite3.SQLITE_READ,
    sqlite3.SQLITE_FUNCTION,
    getattr(sqlite3, "SQLITE_RECURSIVE", 33),
    sqlite3.SQLITE_TRANSACTION,
}
NEVER = {sqlite3.SQLITE_ATTACH, sqlite3.SQLITE_DETACH, sqlite3.SQLITE_PRAGMA}
NAMES = {
    sqlite3.SQLITE_INSERT: "INSERT",
    sqlite3.SQLITE_UPDATE: "UPDATE",
    sqlite3.SQLITE_DELETE: "DELETE",
    sqlite3.SQLITE_CREATE_TABLE: "CREATE TABLE",
    sqlite3.SQLITE_CREATE_VIEW: "CREATE VIEW",
    sqlite3.SQLITE_DROP_TABLE: "DROP TABLE",
    sqlite3.SQLITE_ALTER_TABLE: "ALTER TABLE",
    sqlite3.SQLITE_ATTACH: "ATTACH",
    sqlite3.SQLITE_PRAGMA: "PRAGMA",
}
BEYOND = ("ATTACH", "PRAGMA", "load_extension")


def cell(text):
    """Return a cell of a table: nothing, a number, or a text."""
    if text == "":
        return None
    for kind in (int, float):
        try:
            return (
                kind(text)
                if text.strip() == text and not (len(text) > 1 and text[0] == "0" and text[1] != ".")
                else text
            )
        except ValueError:
            pass
    return text


def database(files):
    db = sqlite3.connect(":memory:")
    for one in files:
        name = one["path"].rpartition("/")[2]
        if one["base64"]:
            with open("given.sqlite", "wb") as file:
                file.write(base64.b64decode(one["base64"]))
            given = sqlite3.connect("file:given.sqlite?mode=ro", uri=True)
            given.backup(db)
            given.close()
            os.remove("given.sqlite")
        elif name.endswith(".csv"):
            rows = list(csv.reader(io.StringIO(one["text"])))
            heads = ", ".join('"' + head.replace('"', '""') + '"' for head in rows[0])
            table = '"' + name.rpartition(".")[0].replace('"', '""') + '"'
            db.execute(f"CREATE TABLE {table} ({heads})")
            marks = ", ".join("?" * len(rows[0]))
            db.executemany(
                f"INSERT INTO {table} VALUES ({marks})", [[cell(text) for text in row] for row in rows[1:] if row]
            )
        else:
            db.executescript(one["text"])
    db.commit()
    return db


def plain(value):
    if isinstance(value, bytes):
        return {"~": "bytes", "v": value[:100_000].hex()}
    if (isinstance(value, float) and value != value) or value in (float("inf"), float("-inf")):
        return {"~": "number", "v": repr(value)}
    if isinstance(value, str):
        return value[:100_000].encode("utf-8", "backslashreplace").decode("utf-8")
    return value


def table_of(cursor):
    rows = [[plain(one) for one in row] for row in cursor.fetchmany(MOST_ROWS + 1)]
    if len(rows) > MOST_ROWS:
        raise ValueError(f"it gives more than {MOST_ROWS} rows")
    return {"columns": [one[0] for one in cursor.description or ()], "rows": rows}


def tables(db):
    names = [name for (name,) in db.execute("SELECT name FROM sqlite_master WHERE type = 'table' ORDER BY name")]
    quoted = {name: '"' + name.replace('"', '""') + '"' for name in names if not name.startswith("sqlite_")}
    return {name: table_of(db.execute(f"SELECT * FROM {table}")) for name, table in quoted.items()}


def main():
    wish = json.load(sys.stdin)
    refused = []

    def allowed(action, *about):
        if action in NEVER or (action == sqlite3.SQLITE_FUNCTION and about[1] == "load_extension"):
            refused.append(NAMES.get(action, "load_extension"))
            return sqlite3.SQLITE_DENY
        if wish["changes"] or action in READS:
            return sqlite3.SQLITE_OK
        refused.append(NAMES.get(action, "a change"))
        return sqlite3.SQLITE_DENY

    try:
        db = database(wish["files"])
    except Exception as error:
        said = {"raised": ["Database"], "message": f"the database cannot be made: {error}"}
    else:
        db.set_authorizer(allowed)
        try:
            if wish["changes"]:
                db.executescript(wish["query"])
                db.commit()
                db.set_authorizer(None)
                said = {"value": tables(db)}
            else:
                said = {"value": table_of(db.execute(wish["query"]))}
        except Exception as error:
            kind = type(error).__name__ if not refused else "Reaches" if refused[0] in BEYOND else "Changes"
            said = {"raised": [kind], "message": refused[0] if refused else str(error)}
    json.dump(said, sys.stdout)


if __name__ == "__main__":
    main()
