"""Bringing an earlier ledger up to date: numbered steps, each with its record in one transaction.

A step is written once and never changed; a ledger of each earlier schema is kept with the tests.
"""

from __future__ import annotations

from collections.abc import Callable, Mapping

import sqlalchemy as sa

from dryquarry.ledger.seals import seal_all, seal_new

STEPS: Mapping[int, tuple[str, ...]] = {
    2: (
        "CREATE TABLE IF NOT EXISTS editions (id INTEGER NOT NULL PRIMARY KEY, suite TEXT NOT NULL, "
        "number INTEGER NOT NULL, "
        "digest VARCHAR(64) NOT NULL, content TEXT NOT NULL, noted_at VARCHAR(32) NOT NULL)",
        "CREATE UNIQUE INDEX IF NOT EXISTS one_content_per_edition ON editions (suite, number)",
    ),
    3: (
        "ALTER TABLE replies ADD COLUMN tokens_estimated BOOLEAN",
        "ALTER TABLE replies ADD COLUMN tries INTEGER",
        "ALTER TABLE replies ADD COLUMN earlier_turns TEXT",
    ),
    4: (
        "ALTER TABLE replies ADD COLUMN fingerprint TEXT",
        "ALTER TABLE replies ADD COLUMN follows INTEGER REFERENCES replies (id)",
        "ALTER TABLE sittings ADD COLUMN settings TEXT",
        "ALTER TABLE sittings ADD COLUMN started_at VARCHAR(32)",
        "ALTER TABLE sittings ADD COLUMN ended_at VARCHAR(32)",
        "CREATE INDEX IF NOT EXISTS second_tries ON replies (follows) WHERE follows IS NOT NULL",
    ),
    5: (
        "ALTER TABLE marks ADD COLUMN answer_start INTEGER",
        "ALTER TABLE marks ADD COLUMN form_kept BOOLEAN",
        "ALTER TABLE marks ADD COLUMN because TEXT",
        "ALTER TABLE marks ADD COLUMN superseded_because TEXT",
        "CREATE TABLE IF NOT EXISTS voids (id INTEGER NOT NULL PRIMARY KEY, suite TEXT NOT NULL, "
        "question TEXT NOT NULL, "
        "marking_id INTEGER NOT NULL REFERENCES markings (id), because TEXT NOT NULL, since VARCHAR(32) NOT NULL, "
        "taken_back_at VARCHAR(32))",
    ),
    6: (
        "ALTER TABLE marks ADD COLUMN answer_end INTEGER",
        "ALTER TABLE marks ADD COLUMN rule TEXT",
        "ALTER TABLE marks ADD COLUMN sure BOOLEAN",
        "ALTER TABLE marks ADD COLUMN unsure_because TEXT",
        "ALTER TABLE marks ADD COLUMN marked_by TEXT",
        "ALTER TABLE marks ADD COLUMN outcome VARCHAR(12)",
    ),
    7: ("ALTER TABLE sittings ADD COLUMN fresh_since VARCHAR(32)",),
    8: (
        *(
            f"ALTER TABLE {table} ADD COLUMN seal VARCHAR(32)"
            for table in ("runs", "sittings", "editions", "replies", "marks", "voids", "verdicts")
        ),
        "CREATE TABLE IF NOT EXISTS seals (name VARCHAR(40) NOT NULL PRIMARY KEY, rows INTEGER NOT NULL, "
        "total VARCHAR(32) NOT NULL)",
    ),
    9: (
        "ALTER TABLE verdicts ADD COLUMN time INTEGER",
        "ALTER TABLE verdicts ADD COLUMN request_digest VARCHAR(64)",
        "ALTER TABLE verdicts ADD COLUMN request TEXT",
        "ALTER TABLE verdicts ADD COLUMN steering TEXT",
        "ALTER TABLE verdicts ADD COLUMN again BOOLEAN",
        "CREATE TABLE IF NOT EXISTS audits (id INTEGER NOT NULL PRIMARY KEY, suite TEXT NOT NULL, "
        "edition TEXT NOT NULL, seed INTEGER NOT NULL, drawn_at VARCHAR(32) NOT NULL, seal VARCHAR(32))",
        "CREATE TABLE IF NOT EXISTS draws (id INTEGER NOT NULL PRIMARY KEY, "
        "audit_id INTEGER NOT NULL REFERENCES audits (id), reply_id INTEGER NOT NULL REFERENCES replies (id), "
        "marking_id INTEGER NOT NULL REFERENCES markings (id), stratum TEXT NOT NULL, stratum_size INTEGER NOT NULL, "
        "probability FLOAT NOT NULL, seal VARCHAR(32))",
        "CREATE INDEX IF NOT EXISTS draws_of_reply ON draws (reply_id)",
        "CREATE TABLE IF NOT EXISTS decisions (id INTEGER NOT NULL PRIMARY KEY, "
        "reply_id INTEGER NOT NULL REFERENCES replies (id), marking_id INTEGER NOT NULL REFERENCES markings (id), "
        "person TEXT NOT NULL, verdict VARCHAR(8) NOT NULL, score FLOAT, points TEXT, note TEXT, "
        "why_asked VARCHAR(12) NOT NULL, seconds FLOAT, decided_at VARCHAR(32) NOT NULL, taken_back_at VARCHAR(32), "
        "seal VARCHAR(32))",
        "CREATE INDEX IF NOT EXISTS decisions_of_reply ON decisions (reply_id, marking_id)",
        "CREATE TABLE IF NOT EXISTS votes (id INTEGER NOT NULL PRIMARY KEY, suite TEXT NOT NULL, "
        "edition TEXT NOT NULL, ask_id INTEGER NOT NULL REFERENCES asks (id), "
        "first_id INTEGER NOT NULL REFERENCES replies (id), second_id INTEGER NOT NULL REFERENCES replies (id), "
        "choice VARCHAR(8) NOT NULL, by TEXT NOT NULL, by_judge BOOLEAN NOT NULL, order_known BOOLEAN NOT NULL, "
        "because TEXT, seconds FLOAT, cost FLOAT, voted_at VARCHAR(32) NOT NULL, taken_back_at VARCHAR(32), "
        "seal VARCHAR(32))",
        "CREATE INDEX IF NOT EXISTS votes_of_ask ON votes (ask_id)",
    ),
    10: (
        "CREATE TABLE IF NOT EXISTS results (id INTEGER NOT NULL PRIMARY KEY, job VARCHAR(64) NOT NULL, "
        "runtime TEXT NOT NULL, content TEXT NOT NULL, ran_at VARCHAR(32) NOT NULL, seal VARCHAR(32))",
        "CREATE INDEX IF NOT EXISTS results_of_job ON results (job)",
        "CREATE TABLE IF NOT EXISTS pictures (id INTEGER NOT NULL PRIMARY KEY, digest VARCHAR(64) NOT NULL UNIQUE, "
        "png TEXT NOT NULL, seal VARCHAR(32))",
    ),
}
# What a step does beyond its statements, once they are done.
_THEN: Mapping[int, Callable[[sa.Connection], None]] = {8: seal_all, 9: seal_new, 10: seal_new}
# Some ledgers of schemas 3 and 4 were made before these, others with them.
_INDEXES = ("CREATE INDEX IF NOT EXISTS replies_of_sitting ON replies (sitting_id)",)


def migrate(engine: sa.Engine, number: int) -> None:
    """Take a ledger of an earlier schema through the steps that it lacks; each is done whole or not at all."""
    for step in sorted(one for one in STEPS if one > number):
        with engine.begin() as connection:
            # from the start as the only writer, so that two programs do not take the same step
            connection.exec_driver_sql("BEGIN IMMEDIATE")
            if _number(connection) >= step:
                continue
            present = _columns(connection)
            for statement in (*STEPS[step], *_INDEXES):
                if not _is_done(statement, present):
                    connection.exec_driver_sql(statement)
            if step in _THEN:
                _THEN[step](connection)
            connection.exec_driver_sql("UPDATE about SET value = ? WHERE name = 'schema'", (str(step),))


def _number(connection: sa.Connection) -> int:
    return int(str(connection.exec_driver_sql("SELECT value FROM about WHERE name = 'schema'").scalar()))


def _columns(connection: sa.Connection) -> set[tuple[str, str]]:
    tables = connection.exec_driver_sql("SELECT name FROM sqlite_master WHERE type = 'table'").scalars().all()
    return {(table, row[1]) for table in tables for row in connection.exec_driver_sql(f"PRAGMA table_info({table})")}


def _is_done(statement: str, present: set[tuple[str, str]]) -> bool:
    """Tell whether a column is there already: one program may have been ended between two steps of an early version."""
    words = statement.split()
    return words[:2] == ["ALTER", "TABLE"] and (words[2], words[5]) in present
