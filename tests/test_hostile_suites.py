"""Suites that would hang, fill the memory or crash are faults; files are read through one door."""

from __future__ import annotations

import os
from itertools import pairwise
from pathlib import Path

import pytest

from conftest import Place, arithmetic_suite
from dryquarry.suites.checking import check_suite
from dryquarry.suites.reader import SuiteContent, read_suite

HEAD = "title: a\nmark: {scheme: number}\nquestions:\n"
NAMES = "abcdefghi"
BOMB = 'a: &a ["x","x","x","x","x","x","x","x","x"]\n' + "".join(
    f"{after}: &{after} [{','.join([f'*{before}'] * 9)}]\n" for before, after in pairwise(NAMES)
)
FAULTY = {
    "aliases": BOMB + HEAD + "  - {id: q, ask: x, key: 1}\n",
    "brackets": "title: a\nquestions: " + "[" * 3000 + "]" * 3000 + "\n",
    "alias of itself": "title: a\nquestions: &q [*q]\n",
    "omap": HEAD + "  - {id: q, ask: !!omap [a: 1], key: 1}\n",
    "python": HEAD + "  - {id: q, ask: !!python/object:os.system x, key: 1}\n",
    "tag": HEAD + "  - {id: q, ask: !important what?, key: 1}\n",
    "surrogate": HEAD + '  - {id: q, ask: "\\ud83d", key: 1}\n',
    "list as name": HEAD + "  - {? [a, b] : c, id: q, ask: x, key: 1}\n",
    "huge number": HEAD + "  - {id: q, ask: x, key: 0x" + "f" * 20000 + "}\n",
    "nan": HEAD + "  - {id: q, ask: x, key: {a: .nan}, mark: {scheme: fields}}\n",
    "nul": HEAD + '  - {id: q, ask: x, key: 1, files: ["a\\0b"]}\n',
    "scheme list": HEAD + "  - {id: q, ask: x, key: 1, mark: {scheme: [x]}}\n",
    "suite scheme list": "title: a\nmark: {scheme: [x]}\nquestions: [{id: q, ask: x, key: 1}]\n",
    "range": HEAD + "  - {id: q, ask: x, mark: {range: [.inf, .nan]}}\n",
    "template nan": HEAD + '  - {id: q, template: {parameters: {n: [.nan]}}, ask: "{n}", key: n}\n',
    "template span": HEAD
    + '  - {id: q, template: {parameters: {n: {from: 1, to: 10000000000}}}, ask: "{n}", key: n}\n',
    "template count": HEAD + '  - {id: q, template: {count: 100000000, parameters: {n: [1]}}, ask: "{n}", key: n}\n',
    "round": HEAD + '  - {id: q, template: {parameters: {n: [1]}}, ask: "{round(n, -10^9)}", key: n}\n',
    "fixed": HEAD + '  - {id: q, template: {parameters: {n: [1]}}, ask: "{fixed(n, 10^9)}", key: n}\n',
    "power": HEAD + '  - {id: q, template: {parameters: {n: [1]}, require: ["9^9^9^9 > n"]}, ask: "{n}", key: n}\n',
    "between": HEAD + "  - {id: q, ask: x, mark: {scheme: rules, rules: [{words: {between: 5}}]}}\n",
    "of": HEAD + "  - {id: q, ask: x, mark: {scheme: rules, rules: [{spells: x, of: [1]}]}}\n",
    "each": HEAD + "  - {id: q, ask: x, mark: {scheme: rules, rules: [{words: 3, each: [x]}]}}\n",
    "parts": HEAD + "  - {id: q, ask: x, mark: {scheme: all, parts: [1]}}\n",
    "large key": HEAD + "  - {id: q, ask: x, key: 10^1000000}\n",
}


@pytest.mark.parametrize("name", FAULTY)
def test_what_cannot_be_read_is_a_fault_at_once(name: str) -> None:
    read = read_suite(SuiteContent("a", (("suite.yaml", FAULTY[name].encode()),)))
    assert read.faults, read.suite
    assert all(len(str(fault)) < 1000 for fault in read.faults)
    check_suite("a", read)


def test_mappings_are_merged_as_yaml_says() -> None:
    text = "title: a\nquestions:\n  - &one {id: q, ask: x, key: 1, mark: {scheme: number}}\n  - {<<: *one, id: r}\n"
    read = read_suite(SuiteContent("a", (("suite.yaml", text.encode()),)))
    assert read.suite is not None
    assert [question.id for question in read.suite.questions] == ["q", "r"]


@pytest.mark.parametrize("target", ["/dev/zero", "/etc/passwd", "../outside.yaml", "pipe"])
def test_a_file_is_read_only_where_it_is_one_and_lies_within(place: Place, target: str) -> None:
    path = place.suite("sums", arithmetic_suite(1))
    (place.root / "suites" / "outside.yaml").write_text("[]")
    questions = path.parent / "questions"
    questions.mkdir()
    if target == "pipe":
        os.mkfifo(questions / "a.yaml")
    else:
        (questions / "a.yaml").symlink_to(target if target.startswith("/") else f"../{target}")
    told = place.program("suite", "check", "sums")
    assert told.returncode == 3
    assert "suites/sums/questions/a.yaml cannot be read" in told.stderr
    assert "outside of sums" in told.stderr or "pipe" in told.stderr


def test_a_link_within_the_suite_is_followed(place: Place) -> None:
    path = place.suite("sums", arithmetic_suite(1))
    (path.parent / "questions").mkdir()
    (path.parent / "more.txt").write_text("- {id: more, ask: What is 1 plus 1?, key: 2}\n")
    (path.parent / "questions" / "more.yaml").symlink_to("../more.txt")
    assert place.json("suite", "check", "sums")["questions"] == 2  # type: ignore[index]


@pytest.mark.parametrize("command", [["suite", "import", "pipe.csv", "--into", "x"], ["mark", "--from", "pipe.csv"]])
def test_a_pipe_is_not_waited_for(place: Place, command: list[str]) -> None:
    os.mkfifo(place.root / "pipe.csv")
    told = place.program(*command)
    assert (told.returncode, "a pipe or a device" in told.stderr) == (3, True)


@pytest.mark.parametrize("header", ["{}", "[]", "null", '{"dryquarry": 1, "questions": [1], "digest": "x", "form": 1}'])
def test_a_malformed_edition_is_told_as_such(place: Place, header: str) -> None:
    editions = place.suite("sums", arithmetic_suite(1)).parent / "editions"
    editions.mkdir()
    (editions / "1.jsonl").write_text(header + "\n")
    told = place.run("board", "sums@1")
    assert (told.exit_code, "editions/1.jsonl" in told.stderr) == (3, True)


def test_a_forged_edition_sends_no_file_of_others(place: Place) -> None:
    """Digests hold, as whoever forges an edition can work them out too."""
    from dryquarry.suites.ask import Attachment
    from dryquarry.suites.editions import write_edition

    path = place.suite("sums", arithmetic_suite(1).replace(", ask: W", ", files: [a.txt], ask: W"))
    (path.parent / "a.txt").write_text("mine")
    secret = place.root / "secret.txt"
    secret.write_text("theirs")
    from hashlib import sha256

    forged = Attachment("../../secret.txt", sha256(b"theirs").hexdigest(), "text/plain")
    read = read_suite(SuiteContent("sums", (("suite.yaml", path.read_bytes()),), lambda name: forged))
    assert read.suite is not None
    editions = path.parent / "editions"
    editions.mkdir()
    (editions / "1.jsonl").write_bytes(write_edition(read.suite, 1, "2026-01-01T00:00:00Z", "forged"))
    place.entrant("wick", "standin:")
    told = place.run("run", "sums@1")
    assert told.exit_code == 4
    assert "outside of sums" in told.stderr
    assert b"theirs" not in b"".join(one.read_bytes() for one in Path(place.root, ".dryquarry").iterdir())


def test_a_folder_that_is_no_suite_breaks_none(place: Place) -> None:
    place.suite("sums", arithmetic_suite(1))
    place.suite("sums@1", arithmetic_suite(1))
    assert [row["suite"] for row in place.json("suite", "list")] == ["sums"]  # type: ignore[union-attr,index]
