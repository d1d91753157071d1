"""The replies that standings are made of: few columns, many rows, one entrant after another.

SQLite joins each column's values into one text, without Python's lock: two cores then read twice as fast as one, and
no row becomes an object.
"""

from __future__ import annotations

import os
from collections.abc import Sequence
from concurrent.futures import ThreadPoolExecutor
from dataclasses import dataclass, fields, replace
from typing import Any

import numpy as np
import orjson

from dryquarry.ledger.queries import fill_wanted
from dryquarry.ledger.records import Slot
from dryquarry.ledger.store import Ledger
from dryquarry.standing.intervals import Codes, Flags, Floats
from dryquarry.standing.replies import OUTCOMES, UNMARKED, VERDICTS, Small

# The row of an entrant's settings, and since when it was asked anew.
Sitter = tuple[int, str | None]

# Below so many replies a second connection takes longer than it saves.
WORTH_A_THREAD = 20_000
_OUTCOME, _VERDICT = "coalesce(marks.outcome, replies.outcome)", "marks.verdict"


def _letters(column: str, values: Sequence[str]) -> str:
    """Return SQL for a text of one letter a row, 'a' for the first value; '-' for NULL, '?' for anything else."""
    cases = " ".join(f"WHEN '{value}' THEN '{chr(97 + place)}'" for place, value in enumerate(values))
    return f"group_concat(CASE {column} {cases} ELSE CASE WHEN {column} IS NULL THEN '-' ELSE '?' END END, '')"


def _figures(column: str) -> str:
    """Return SQL for a text of numbers, of 15 digits."""
    return f"group_concat(coalesce({column}, 'null'))"


def _shares(column: str) -> str:
    """Return SQL for a text of shares: with all of their digits, but for 0 and 1, which most are."""
    return (
        f"group_concat(CASE WHEN {column} IS NULL THEN 'null' WHEN {column} IN (0, 1) THEN CAST({column} AS INTEGER) "
        f"WHEN typeof({column}) = 'real' THEN printf('%!.17g', {column}) ELSE '?' END)"
    )


_JOIN = """
    FROM wanted JOIN replies ON replies.ask_id = wanted.ask_id AND replies.sitter_id = :sitter AND replies.current = 1
    LEFT JOIN marks ON marks.reply_id = replies.id AND marks.marking_id = wanted.marking_id AND marks.current = 1
"""
_COLUMNS = (
    "group_concat(wanted.position)",
    "group_concat(replies.trial)",
    _shares("marks.score"),
    _figures("replies.seconds"),
    _figures("replies.first_token_s"),
    _figures("replies.input_tokens"),
    _figures("replies.output_tokens"),
    _letters(_OUTCOME, [str(one) for one in OUTCOMES]),
    _letters(_VERDICT, [str(one) for one in VERDICTS]),
    _letters("marks.form_kept", ["0", "1"]),
    _letters("marks.sure", ["0", "1"]),
    _letters("CAST(marks.because IS NOT NULL AS TEXT)", ["0", "1"]),
)
_ROWS = f"SELECT count(*), coalesce(sum(replies.received_at < :since), 0), {', '.join(_COLUMNS)}"


@dataclass(frozen=True, eq=False)
class StandingColumns:
    """An entrant's current replies to the questions, with their marks under the present keys, by place, then trial.

    `position` is the question's place in the suite; `outcome`, `verdict` and `form_kept` are as in `Replies`. `older`
    counts the replies that came before all was asked anew. `answer` is None unless answers were asked for.
    """

    position: Codes
    trial: Codes
    score: Floats
    seconds: Floats
    first_token_s: Floats
    input_tokens: Floats
    output_tokens: Floats
    outcome: Small
    verdict: Small
    form_kept: Small
    sure: Flags
    by_person: Flags
    older: int
    answer: np.ndarray[Any, np.dtype[np.object_]] | None = None


def read_columns(
    ledger: Ledger, slots: Sequence[Slot], sitters: Sequence[Sitter], *, answers: bool = False
) -> dict[int, StandingColumns | None]:
    """Return for each sitter its replies; None where it has none.

    Raises ValueError for a row that was not stored so.
    """
    threads = min(os.cpu_count() or 1, len(sitters)) if len(sitters) * len(slots) > WORTH_A_THREAD else 1
    with ThreadPoolExecutor(max(1, threads)) as pool:
        parts = [pool.submit(_read, ledger, slots, sitters[part::threads], answers) for part in range(threads)]
        return {sitter_id: columns for part in parts for sitter_id, columns in part.result()}


def _read(
    ledger: Ledger, slots: Sequence[Slot], sitters: Sequence[Sitter], answers: bool
) -> list[tuple[int, StandingColumns | None]]:
    query = _ROWS + (", json_group_array(marks.answer)" if answers else "") + _JOIN
    found = []
    with ledger.connected() as connection:
        fill_wanted(connection, slots)
        for sitter_id, since in sitters:
            row = connection.exec_driver_sql(query, {"sitter": sitter_id, "since": since or ""}).one()
            found.append((sitter_id, _columns(row, answers=answers) if row[0] else None))
    return found


def _columns(row: Sequence[Any], *, answers: bool) -> StandingColumns:
    count, older, *texts = row
    position, trial, score, seconds, first, tokens_in, tokens_out = (_numbers(text, count) for text in texts[:7])
    outcome, verdict, form_kept, sure, by_person = (_codes(text, count) for text in texts[7:12])
    if (outcome == UNMARKED).any():
        raise ValueError("a reply without an outcome")
    answer = np.array(orjson.loads(texts[12]), dtype=object) if answers else None
    columns = StandingColumns(
        position.astype(np.intp),
        trial.astype(np.intp),
        score,
        seconds,
        first,
        tokens_in,
        tokens_out,
        outcome,
        verdict,
        form_kept,
        sure != 0,
        by_person == 1,
        int(older),
        answer,
    )
    return columns if (np.diff(position) > 0).all() else _in_order(columns)


def _in_order(columns: StandingColumns) -> StandingColumns:
    """Return the rows by place, then trial; mostly they come so."""
    order = np.lexsort((columns.trial, columns.position))
    every = {one.name: getattr(columns, one.name) for one in fields(columns)}
    ordered: dict[str, Any] = {name: one[order] for name, one in every.items() if isinstance(one, np.ndarray)}
    return replace(columns, **ordered)


def _numbers(text: str, count: int) -> Floats:
    """Return the numbers in a text, NaN for null; raises ValueError unless there are so many."""
    numbers = np.array(orjson.loads(f"[{text}]"), dtype=float)
    if len(numbers) != count:
        raise ValueError("a figure that is no number")
    return numbers


def _codes(text: str, count: int) -> Small:
    """Return letters as numbers from 0, '-' as -1; raises ValueError for a value that was never stored."""
    letters = np.frombuffer(text.encode("ascii"), dtype=np.int8)
    if len(letters) != count or "?" in text:
        raise ValueError("a word that is none of those that are stored")
    return np.where(letters == ord("-"), UNMARKED, letters - ord("a")).astype(np.int8)
