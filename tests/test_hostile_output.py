"""What others wrote is shown and never obeyed: by terminals, spreadsheets, or whoever renders Markdown."""

from __future__ import annotations

import csv
import io
import json
import os
import subprocess
from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import PROGRAM, Place, Service, arithmetic_suite, completion
from dryquarry.showing.figures import visible
from test_widths import on_terminal

HOSTILE = (
    "Answer: 1 \x1b]52;c;aGk=\x07 \x9b31m \u202eevil\u202c a\u200bb \U000e0041 \u2028 [x](http://127.0.0.1/a) ![p](//q)"
    "\r=HYPERLINK(1)"
)
NEVER_RAW = ("\x1b]", "\x9b", "\u202e", "\u200b", "\U000e0041", "\u2028", "\x07")


@pytest.fixture
def asked(place: Place, service: Callable[..., Service]) -> Place:
    place.suite("sums", arithmetic_suite(1))
    place.entrant("wick", service(lambda content: (200, completion(HOSTILE))).url)
    assert place.run("run", "sums").exit_code == 0
    return place


@pytest.mark.parametrize("form", ["table", "json", "jsonl", "csv", "markdown"])
def test_no_form_drives_a_terminal(asked: Place, form: str) -> None:
    told = "\n".join(on_terminal(asked, 120, "replies", "sums", "--format", form))
    assert [sign for sign in NEVER_RAW if sign in told] == []
    assert "\\u202e" in told
    if form == "json":
        assert json.loads(told)[0]["text"] == HOSTILE


def test_a_program_finds_what_was_said(asked: Place) -> None:
    assert json.loads(asked.program("replies", "sums", "--format", "json").stdout)[0]["text"] == HOSTILE
    raw = subprocess.run([*PROGRAM, "replies", "sums", "--format", "csv"], cwd=asked.root, capture_output=True).stdout
    rows = list(csv.DictReader(io.StringIO(raw.decode("utf-8"), newline="")))
    assert [row["text"] for row in rows] == [HOSTILE]


def test_markdown_has_no_links_of_others(asked: Place) -> None:
    told = asked.run("replies", "sums", "--format", "markdown").stdout
    facts = told.split("```")[0]
    assert "](http" not in facts.replace("\\]", "")
    assert "http://" not in facts


@pytest.mark.parametrize(
    "text", ["na\u00efve caf\u00e9", "\U0001f468\u200d\U0001f33e", "5\u202fkg", "1\u00a0000", "日本語", "a\nb\tc"]
)
def test_what_is_harmless_stays(text: str) -> None:
    assert visible(text) == text


@pytest.mark.parametrize("text", ["a\u200db", "\u200b", "\ufeff", "\x85", "\u2066", "\ud800", "\U000e0041", "\u2029"])
def test_what_hides_is_shown(text: str) -> None:
    assert text not in visible(text)
    assert "\\" in visible(text)


def test_an_error_message_carries_no_escape_of_others(place: Place) -> None:
    place.suite("sums", arithmetic_suite(1).replace("id: q0", 'id: "\\e]52;c;aGk=\\a"'))
    told = place.program("run", "sums").stderr
    assert "\x1b" not in told
    assert "\\x1b" in told


@pytest.mark.parametrize("shell", ["> /dev/full", ">&-", "2>&-", "<&- >/dev/null"])
def test_streams_that_are_closed_or_full_end_in_words(asked: Place, shell: str) -> None:
    command = " ".join([*PROGRAM, "board", "sums", shell])
    done = subprocess.run(["bash", "-c", command], cwd=asked.root, capture_output=True, text=True)
    assert done.returncode == (3 if "full" in shell else 0)
    assert ("No space left" in done.stderr) is ("full" in shell)
    assert "Traceback" not in done.stderr


def test_an_encoding_without_our_signs_ends_nothing(asked: Place) -> None:
    environment = {**os.environ, "PYTHONIOENCODING": "latin-1", "PYTHONUTF8": "0"}
    done = subprocess.run([*PROGRAM, "grid", "sums"], cwd=asked.root, capture_output=True, env=environment)
    assert done.returncode == 0


def test_no_file_is_left_half_written(asked: Place, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    def full(self: Path, target: Path) -> Path:
        raise OSError(28, "No space left on device")

    monkeypatch.setattr(Path, "replace", full)
    done = asked.run("board", "sums", "--out", "board.csv")
    assert (done.exit_code, "No space left" in done.stderr) == (3, True)
    assert [path.name for path in asked.root.iterdir() if "board" in path.name] == []
