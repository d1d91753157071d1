"""Columns kept beside the ledger: a copy that saves reading, and never tells of another state of the ledger."""

from __future__ import annotations

import os
import shutil
import sqlite3
from collections.abc import Callable
from dataclasses import fields
from pathlib import Path

import numpy as np
import pytest

from conftest import Place, Service, arithmetic_suite, completion
from dryquarry.ledger import kept_columns, rows
from dryquarry.ledger.kept_columns import MOST_KEPT, standing_columns
from dryquarry.ledger.queries import sitter_id_of, slots_of
from dryquarry.ledger.standing_rows import StandingColumns, read_columns
from dryquarry.workspace import Workspace
from dryquarry.workspace.opening import ledger_for_reading

BOARD = ("board", "sums", "--format", "json")


@pytest.fixture
def asked(place: Place, service: Callable[..., Service], monkeypatch: pytest.MonkeyPatch) -> Place:
    """Two entrants, one asked twice, of whom the second fails at times; even a small board is kept."""
    monkeypatch.setattr(kept_columns, "WORTH_KEEPING", 1)
    place.suite("sums", arithmetic_suite(6))
    one = service(lambda content: (200, completion("Answer: 2")))
    two = service(lambda content: (500, b"no") if "4" in str(content) else (200, completion("perhaps 3, or 4")))
    place.entrant("wick", one.url)
    place.entrant("lamp", two.url)
    place.run("run", "sums", "-e", "wick", "--trials", "2")
    place.run("run", "sums", "-e", "lamp")
    return place


def test_questions_are_found_alike_one_by_one_and_in_the_whole_table(asked: Place, monkeypatch) -> None:
    opened = Workspace.open(asked.root)
    questions = opened.suites.get("sums").asked()
    with ledger_for_reading(opened.folder) as ledger:
        singly = slots_of(ledger, questions[:4])
        monkeypatch.setattr(rows, "READ_WHOLE_FROM", 1)
        assert slots_of(ledger, questions[:4]) == singly
    assert None not in [slot.ask_id for slot in singly]
    assert len({slot.ask_id for slot in singly}) == len(singly) == 4


def kept(place: Place) -> list[Path]:
    return sorted((place.root / ".dryquarry" / "columns").glob("*"))


def board(place: Place) -> str:
    told = place.run(*BOARD)
    assert told.exit_code == 0, told.output
    return told.stdout


def anew(place: Place) -> str:
    """The board as it is read from the ledger itself."""
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(kept_columns, "WORTH_KEEPING", 10**9)
        return board(place)


def columns(place: Place, *, answers: bool = False) -> list[StandingColumns | None]:
    opened = Workspace.open(place.root)
    with ledger_for_reading(opened.folder) as ledger:
        slots = slots_of(ledger, opened.folder.suite("sums").asked())
        sitters = [sitter_id_of(ledger, one.digest) for one in opened.entrants().entrants.values()]
        return list(standing_columns(ledger, slots, [(one, "2099") for one in sitters], answers=answers))


def test_what_is_kept_is_what_was_read(asked: Place, monkeypatch: pytest.MonkeyPatch) -> None:
    asked.entrant("mist", "http://127.0.0.1:9/v1")
    read = columns(asked)
    assert [one is None for one in read] == [False, False, True]
    monkeypatch.setattr(kept_columns, "read_columns", lambda *_, **__: pytest.fail("read again"))
    for before, after in zip(read, columns(asked), strict=True):
        assert (before is None) == (after is None)
        for one in fields(StandingColumns) if before is not None else ():
            was, now = getattr(before, one.name), getattr(after, one.name)
            if isinstance(was, np.ndarray):
                assert was.dtype == now.dtype, one.name
                np.testing.assert_array_equal(was, now, err_msg=one.name)
            else:
                assert was == now, one.name
    assert [one.older for one in columns(asked) if one is not None] == [12, 6]


def test_the_second_board_is_the_first_and_reads_no_rows(asked: Place, monkeypatch: pytest.MonkeyPatch) -> None:
    first = board(asked)
    assert first == anew(asked)
    monkeypatch.setattr(kept_columns, "read_columns", lambda *_, **__: pytest.fail("read again"))
    assert board(asked) == first
    assert len(kept(asked)) == 1


def by_hand(place: Place) -> None:
    raw = sqlite3.connect(place.root / ".dryquarry" / "ledger.db")
    raw.execute("UPDATE marks SET score = 1.0, verdict = 'pass'")
    raw.commit()
    raw.close()


def by_hand_and_its_time_set_back(place: Place) -> None:
    path = place.root / ".dryquarry" / "ledger.db"
    before = path.stat()
    by_hand(place)
    os.utime(path, ns=(before.st_atime_ns, before.st_mtime_ns))
    assert path.stat().st_size == before.st_size


CHANGES: dict[str, Callable[[Place], object]] = {
    "another trial": lambda place: place.run("run", "sums", "-e", "lamp", "--trials", "2"),
    "a mark set": lambda place: place.run(
        "mark", "sums", "-e", "wick", "--question", "q5", "--set", "pass", "--because", "so"
    ),
    "a question void": lambda place: place.run("mark", "sums", "--question", "q1", "--set", "void", "--because", "so"),
    "an edit by hand": by_hand,
    "an edit by hand and its time set back": by_hand_and_its_time_set_back,
    "another key": lambda place: place.suite("sums", arithmetic_suite(6).replace("key: 2", "key: 7")),
}


@pytest.mark.parametrize("change", CHANGES)
def test_after_a_change_the_board_is_another(asked: Place, change: str) -> None:
    before = board(asked)
    CHANGES[change](asked)
    after = board(asked)
    assert after != before
    assert after == anew(asked)
    assert board(asked) == after


def test_each_selection_has_its_own(asked: Place) -> None:
    narrowed = (*BOARD, "-e", "wick"), (*BOARD, "-e", "lamp")
    told = [asked.run(*arguments).stdout for arguments in narrowed]
    assert [asked.run(*arguments).stdout for arguments in narrowed] == told
    assert ['"lamp"' in one for one in told] == [False, True]
    assert ['"wick"' in one for one in told] == [True, False]


def test_answers_are_read_each_time(asked: Place) -> None:
    board(asked)
    first = asked.run("grid", "sums", "--format", "json").stdout
    assert asked.run("grid", "sums", "--format", "json").stdout == first
    assert [one.answer is not None for one in columns(asked, answers=True) if one is not None] == [True, True]


def test_a_copy_of_the_folder_is_read_anew(asked: Place, tmp_path_factory: pytest.TempPathFactory) -> None:
    board(asked)
    copied = tmp_path_factory.mktemp("elsewhere") / "copy"
    shutil.copytree(asked.root, copied)
    reads: list[int] = []
    with pytest.MonkeyPatch.context() as patch:
        patch.setattr(kept_columns, "read_columns", lambda *a, **k: reads.append(1) or read_columns(*a, **k))
        board(Place(copied))
    assert reads == [1]


@pytest.mark.parametrize("damage", ["last", "first", "heading", "cut", "empty", "longer", "other"])
def test_what_is_damaged_is_read_anew(asked: Place, damage: str) -> None:
    first = board(asked)
    (path,) = kept(asked)
    content = bytearray(path.read_bytes())
    spot = {"last": -1, "first": 40, "heading": 34}.get(damage)
    if spot is not None:
        content[spot] ^= 1
    content = {"cut": content[:-9], "empty": b"", "longer": content + b"\0", "other": os.urandom(400)}.get(
        damage, content
    )
    path.write_bytes(content)
    assert board(asked) == first
    assert kept(asked) == [path]
    assert path.read_bytes() != content


def test_what_a_sudden_end_left_half_written_is_written_over(asked: Place) -> None:
    board(asked)
    (path,) = kept(asked)
    path.rename(path.with_suffix(".part"))
    assert board(asked) == anew(asked)
    assert kept(asked) == [path]


def test_a_folder_that_cannot_be_written_costs_nothing_but_time(asked: Place) -> None:
    (asked.root / ".dryquarry" / "columns").write_text("a file")
    assert board(asked) == anew(asked)


def test_the_last_few_are_kept(asked: Place) -> None:
    for count in range(2, MOST_KEPT + 4):
        asked.suite("sums", arithmetic_suite(count))
        board(asked)
    assert len(kept(asked)) == MOST_KEPT
    assert {path.suffix for path in kept(asked)} == {".columns"}


def test_of_a_small_board_nothing_is_kept(asked: Place) -> None:
    anew(asked)
    assert kept(asked) == []
