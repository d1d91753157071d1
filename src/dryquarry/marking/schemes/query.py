"""Scheme `query`: the query in the reply gives the key's result on a fresh copy of a small database."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from typing import Any

from dryquarry.marking.model import (
    Mark,
    Marker,
    Marking,
    MarkingFault,
    Runner,
    Scheme,
    Verdict,
    failed,
    never,
    passed,
    waits,
)
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.schemes.nested import Prepare
from dryquarry.marking.values.texts import shortened
from dryquarry.marking.works.jobs import DataFile, Job, Limits, QueryJob
from dryquarry.marking.works.model import NoWork
from dryquarry.marking.works.results import Ended, Ran, RunResult
from dryquarry.marking.works.statements import is_query, statements_in
from dryquarry.marking.works.taking import text_in
from dryquarry.marking.works.values import Tolerance, same_value, told

NOT_POSSIBLE = "not possible"
KEY_BREAKS = "the key's query breaks"
REPLY, KEY = "the reply's query", "the key's query"
MOST_SECONDS = 300


@dataclass(frozen=True, slots=True)
class QueryOptions:
    """The `database`: a file beside the suite (.sql, .csv, .sqlite), or a list of them.

    `order` and `columns` say that the order of rows and the names of columns count; `abs` and `rel` how far numbers
    may be off; `changes` that the query is to change data, so that what the tables then hold is compared.
    """

    database: str | dict[str, Any] | list[Any] | None = None
    order: bool = False
    columns: bool = False
    abs: float | None = None
    rel: float | None = None
    changes: bool = False
    seconds: float = 10


@dataclass(frozen=True, slots=True)
class Table:
    """What a query gave: the names of its columns, and its rows."""

    columns: tuple[str, ...]
    rows: tuple[tuple[Any, ...], ...]


def runner(marking: Marking, prepare: Prepare) -> Runner:
    """Return what runs a query question; raises MarkingFault for a key or option that cannot be used."""
    options = options_of(QueryOptions, marking)
    files = _database(options.database)
    if not 0 < options.seconds <= MOST_SECONDS:
        raise MarkingFault(f"option 'seconds' of scheme 'query' is above 0 and up to {MOST_SECONDS}")
    possible = marking.key != NOT_POSSIBLE
    key_query, key_rows = _key(marking.key, options.changes) if possible else (None, None)
    from dryquarry.marking.schemes import abstain  # with all that reads replies

    says_not = abstain.prepare(replace(marking, scheme="abstain", key=None, options={}))
    limits = Limits(options.seconds)

    def job(text: str) -> Job | Mark:
        said = says_not(text)
        work = text_in(text, "sql")
        if not possible:
            return _not_possible(said, work)
        if isinstance(work, NoWork):
            return _no_query(said, work)
        count = len(statements_in(work.text))
        if count != 1 and not options.changes:
            why = f"{count} statements where one query was asked for" if count else "the query is empty"
            return replace(failed(why), start=work.start, end=work.end)
        return QueryJob(work, files, key_query, options.changes, limits)

    def settle(text: str, result: RunResult) -> Mark:
        asked = job(text)
        if isinstance(asked, Mark):
            return asked
        mark = _marked(result, key_rows, options)
        answer = shortened(" ".join(asked.work.text.split()), 200)
        how = asked.work.how or "its only query"
        return replace(mark, answer=answer, read_by=how, start=asked.work.start, end=asked.work.end)

    return Runner(job, settle, lambda text, result: ())


def prepare(marking: Marking, prepare_part: Prepare) -> Marker:
    """Return the marker that settles replies without a query, and leaves every other open until it is run."""
    return waits(runner(marking, prepare_part))


def _database(given: Any) -> tuple[DataFile, ...]:
    """Return the files of the database; raises MarkingFault."""
    if given is None:
        raise MarkingFault(
            "scheme 'query' wants a `database`: a file beside the suite (.sql, .csv or .sqlite), or a list"
        )
    files = []
    for one in given if isinstance(given, list) else [given]:
        if not isinstance(one, Mapping) or not {"path"} < set(one) <= {"path", "text", "base64"}:
            raise MarkingFault(
                f"the database {one!r} is not at hand: `database` is the path of a file beside the suite"
            )
        path = str(one["path"])
        if not path.casefold().endswith((".sql", ".csv", ".sqlite", ".sqlite3", ".db")):
            raise MarkingFault(f"the database '{path}' is no script (.sql), table (.csv) or SQLite file (.sqlite)")
        files.append(DataFile(path.rpartition("/")[2], str(one.get("text", "")), str(one.get("base64", ""))))
    return tuple(files)


def _key(key: Any, changes: bool) -> tuple[str | None, Table | None]:
    """Return the key's query, or the rows that the key writes out; raises MarkingFault."""
    if isinstance(key, str) and key.strip() and (is_query(key) or changes):
        return key, None
    if changes:
        raise MarkingFault("the key of scheme 'query' that `changes` data is the statement that changes them rightly")
    if isinstance(key, list) and key and all(isinstance(row, Mapping) for row in key):
        columns = tuple(map(str, key[0]))
        if any(tuple(map(str, row)) != columns for row in key):
            raise MarkingFault("the rows of the key of scheme 'query' have different columns")
        return None, Table(columns, tuple(tuple(row.values()) for row in key))
    if isinstance(key, list):
        rows = tuple(tuple(row) if isinstance(row, list) else (row,) for row in key)
        if len({len(row) for row in rows}) > 1:
            raise MarkingFault("the rows of the key of scheme 'query' have different numbers of columns")
        return None, Table((), rows)
    if isinstance(key, int | float) and not isinstance(key, bool):
        return None, Table((), ((key,),))
    raise MarkingFault(f"the key of scheme 'query' is a query, a list of rows, or '{NOT_POSSIBLE}', not {key!r}")


def _not_possible(said: Mark, work: object) -> Mark:
    if said.verdict is Verdict.PASS:
        return said
    if isinstance(work, NoWork):
        return said
    return failed("gives a query, though the tables do not hold what was asked for")


def _no_query(said: Mark, work: NoWork) -> Mark:
    if said.verdict is Verdict.PASS:
        return replace(
            said, score=0.0, verdict=Verdict.FAIL, reason="says that it cannot be answered; the tables hold it"
        )
    text = work.reason.replace("no query in the reply", "text, and no query")
    return replace(failed(text), start=work.start)


def _marked(result: RunResult, key_rows: Table | None, options: QueryOptions) -> Mark:
    ours = result.test(KEY)
    if ours is not None and ours.ended is not Ended.DONE:
        return Mark(None, Verdict.OPEN, f"{KEY_BREAKS}: {ours.detail or ours.ended}")
    theirs = result.test(REPLY)
    if theirs is None or theirs.ended is not Ended.DONE:
        return failed(_broken(theirs))
    tolerance = Tolerance(options.abs, options.rel)
    if options.changes:
        return _same_tables(ours.value if ours else None, theirs.value, tolerance)
    wanted = _table(ours.value) if ours is not None else key_rows
    assert wanted is not None
    return _compared(wanted, _table(theirs.value), options, tolerance)


def _broken(ran: Ran | None) -> str:
    if ran is None:
        return "the query was not run"
    if ran.ended is Ended.TIME:
        return "the query did not end in time"
    if ran.ended is Ended.RAISED and ran.raised[:1] == ("Changes",):
        return f"it changes data, where a question about them was asked: {ran.detail}"
    if ran.ended is Ended.RAISED and ran.raised[:1] == ("Reaches",):
        return f"it reaches for more than the tables: {ran.detail}"
    return f"the query breaks: {ran.detail}" if ran.detail else f"the query ended otherwise: {ran.ended}"


def _table(value: Any) -> Table:
    rows = tuple(tuple(row) for row in value.get("rows", ())) if isinstance(value, dict) else ()
    return Table(tuple(value.get("columns", ())) if isinstance(value, dict) else (), rows)


def _compared(wanted: Table, got: Table, options: QueryOptions, tolerance: Tolerance) -> Mark:
    width = len(wanted.columns) or (len(wanted.rows[0]) if wanted.rows else len(got.columns))
    if options.columns and wanted.columns:
        places = _places(wanted.columns, got.columns)
        if isinstance(places, str):
            return failed(places)
        got = Table(wanted.columns, tuple(tuple(row[place] for place in places) for row in got.rows))
    if len(got.columns) != width:
        return failed(f"{_columns(len(got.columns))} ({', '.join(got.columns)[:80]}), {width} wanted")
    if options.order:
        return _in_order(wanted, got, tolerance)
    extra, missing = unmatched(wanted.rows, got.rows, tolerance)
    if not extra and not missing:
        return passed(f"gives the {_rows(len(wanted.rows))} wanted")
    count = "" if len(got.rows) == len(wanted.rows) else f"{_rows(len(got.rows))}, {len(wanted.rows)} wanted; "
    more = [f"{row_told(missing[0])} is missing"] if missing else []
    more += (
        [f"{row_told(extra[0])} is too many" if not missing else f"{row_told(extra[0])} stands there"] if extra else []
    )
    return failed(count + ", ".join(more))


def _in_order(wanted: Table, got: Table, tolerance: Tolerance) -> Mark:
    for place, (one, other) in enumerate(zip(wanted.rows, got.rows, strict=False), start=1):
        if not _same_row(one, other, tolerance):
            return failed(f"row {place} is {row_told(other)}, {row_told(one)} was wanted")
    if len(wanted.rows) != len(got.rows):
        return failed(f"{_rows(len(got.rows))}, {len(wanted.rows)} wanted")
    return passed(f"gives the {_rows(len(wanted.rows))} wanted, in their order")


def _places(wanted: Sequence[str], got: Sequence[str]) -> list[int] | str:
    """Return where the wanted columns stand, by their names, or why they do not."""
    folded = [name.casefold() for name in got]
    missing = [name for name in wanted if name.casefold() not in folded]
    if missing:
        return f"no column '{missing[0]}'; it has {', '.join(got)[:80]}"
    if len(got) != len(wanted):
        return f"{_columns(len(got))} ({', '.join(got)[:80]}), {len(wanted)} wanted"
    return [folded.index(name.casefold()) for name in wanted]


def unmatched(
    wanted: Sequence[Sequence[Any]], got: Sequence[Sequence[Any]], tolerance: Tolerance
) -> tuple[list[Sequence[Any]], list[Sequence[Any]]]:
    """Return the rows too many and the rows missing, each row as often as it stands there."""
    left: dict[str, list[Sequence[Any]]] = {}
    for row in got:
        left.setdefault(_exact(row), []).append(row)
    missing = []
    for row in wanted:
        same = left.get(_exact(row))
        if same:
            same.pop()
        else:
            missing.append(row)
    extra = [row for rows in left.values() for row in rows]
    for row in list(missing):  # numbers that are near, and no more
        near = next((other for other in extra if _same_row(row, other, tolerance)), None)
        if near is not None:
            extra.remove(near)
            missing.remove(row)
    return extra, missing


def _exact(row: Sequence[Any]) -> str:
    return repr([float(one) if isinstance(one, int | float) and not isinstance(one, bool) else one for one in row])


def _same_row(wanted: Sequence[Any], got: Sequence[Any], tolerance: Tolerance) -> bool:
    return len(wanted) == len(got) and all(
        same_value(one, other, tolerance) for one, other in zip(wanted, got, strict=True)
    )


def _same_tables(wanted: Any, got: Any, tolerance: Tolerance) -> Mark:
    """Return the mark of what all tables hold after a change."""
    if set(wanted) != set(got):
        odd = sorted(set(wanted) ^ set(got))[0]
        return failed(f"the table '{odd}' is {'missing' if odd in wanted else 'new'} afterwards")
    for name in sorted(wanted):
        extra, missing = unmatched(_table(wanted[name]).rows, _table(got[name]).rows, tolerance)
        if missing or extra:
            row, how = (missing[0], "is missing") if missing else (extra[0], "is too many")
            return failed(f"afterwards {row_told(row)} {how} in '{name}'")
    return passed("leaves the tables as wanted")


def row_told(row: Sequence[Any]) -> str:
    """Return a row in brackets, as a person reads it."""
    text = ", ".join("NULL" if one is None else told(one) for one in row)
    return f"({shortened(text, 120)})"


def _columns(count: int) -> str:
    return "1 column" if count == 1 else f"{count} columns"


def _rows(count: int) -> str:
    return "1 row" if count == 1 else f"{count} rows"


def way(marking: Marking) -> str:
    """Return in few words how a query question marks."""
    options = options_of(QueryOptions, marking)
    given = options.database if isinstance(options.database, list) else [options.database]
    names = ", ".join(str(one.get("path")) for one in given if isinstance(one, Mapping))
    counts = [f"{name} counts" for name, on in (("order", options.order), ("names of columns", options.columns)) if on]
    return f"query ({'; '.join([f'on {names}', *counts, *(['changes data'] if options.changes else [])])})"


SCHEME = Scheme(
    name="query",
    options=option_types(QueryOptions),
    prepare=prepare,
    nests=True,
    runs=runner,
    files=("database",),
    way=way,
    marks_refusals=True,
    reads_whole=True,
    has_answer=never,
)
