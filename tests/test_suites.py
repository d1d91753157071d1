"""Reading suites, their faults with file and line, checks, and digests."""

from __future__ import annotations

import hashlib
import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Place
from dryquarry.suites.checking import check_suite
from dryquarry.suites.digests import canonical_json, digest
from dryquarry.suites.question import State
from dryquarry.suites.reader import SuiteContent, read_suite

GOOD = """\
title: Sums
about: Small ones.
ask:
  system: Be brief.
  answer_line: "Answer:"
mark: {scheme: number, rel: 0.001}
questions:
  - id: fares
    category: money
    tags: [a, b]
    ask: |
      What do they pay?
    key: 50.00
    weight: 2
    why: because
    source: here
    family: ferry
  - id: word
    ask: Which word is no?
    key: no
    mark: {scheme: exact}
    state: pilot
  - id: door
    ask: Which door?
    options: {A: left, B: right}
    key: right
    mark: {scheme: choice}
  - id: old
    ask: Old?
    key: 1
    state: retired
    retired_because: too easy
"""


def read(text: str):
    return read_suite(SuiteContent("sums", (("suites/sums/suite.yaml", text.encode()),)))


def suite_of(text: str = GOOD):
    got = read(text)
    assert not got.faults, got.faults
    assert got.suite is not None
    return got.suite


def test_a_good_suite_is_read_whole() -> None:
    suite = suite_of()
    fares, word, door, old = suite.questions
    assert (suite.title, suite.about, suite.reference) == ("Sums", "Small ones.", "sums@draft")
    assert (fares.weight, fares.tags, fares.family, fares.line) == (2.0, ("a", "b"), "ferry", 8)
    assert fares.marking.options == {"rel": 0.001}
    assert fares.ask.system == "Be brief."
    assert fares.ask.turns[0].startswith("What do they pay?\n\n")
    assert '"Answer:"' in fares.ask.turns[0]
    assert word.marking.key == "no"  # YAML 1.2: a word, no boolean
    assert "A) left\nB) right" in door.ask.turns[0]
    assert [one.id for one in suite.asked()] == ["fares", "word", "door"]
    assert [one.id for one in suite.scored()] == ["fares", "door"]
    assert (old.state, old.retired_because) == (State.RETIRED, "too easy")


QUESTION = "title: t\nquestions:\n  - id: q\n    ask: x\n    key: 1\n"

# (text, line, words of the message)
FAULTY = [
    ("", 1, "empty"),
    ("- a\n", 1, "holds a list"),
    ("title: t\nquestions: []\n", 2, "at least one question"),
    ("title: t\nquestions:\n\t- id: a\n", 3, "a tab stands"),
    ("title: t\ntitle: u\n", 2, "'title' stands twice"),
    ("title: [\n", 2, "not readable as YAML"),
    ("questions:\n  - {id: q, ask: x, key: x, mark: {scheme: exact}}\n", 1, "'title' is missing"),
    ("tilte: t\n" + QUESTION + "    mark: {scheme: number}\n", 1, "did you mean 'title'"),
    (QUESTION, 3, "no scheme"),
    (QUESTION + "    mark: {scheme: numbr}\n", 6, "did you mean 'number'"),
    (QUESTION + "    mark: {scheme: number, absolute: 1}\n", 6, "no option 'absolute'"),
    (QUESTION + "    mark: {scheme: number, abs: x}\n", 6, "wants a number, not"),
    (QUESTION + "    mark: {scheme: number, places: -1}\n", 6, "must be 0 or more"),
    (QUESTION + "    mark: {scheme: number}\n    kye: 2\n", 7, "did you mean 'key'"),
    (QUESTION + "    mark: {scheme: number}\n    state: lve\n", 7, "did you mean 'live'"),
    (QUESTION + "    mark: {scheme: number}\n    weight: -1\n", 7, "a number above 0"),
    (QUESTION + "    mark: {scheme: number}\n    tags: {a: 1}\n", 7, "a list of texts"),
    (QUESTION + "    mark: {scheme: number}\n    proofs: {pas: [x]}\n", 7, "did you mean 'pass'"),
    (QUESTION + "    mark: number\n", 6, "wants a mapping"),
    (QUESTION.replace("key: 1", "key: abc") + "    mark: {scheme: number}\n", 5, "not readable as a number"),
    (QUESTION.replace("    key: 1\n", "") + "    mark: {scheme: number}\n", 3, "the key is missing"),
    (QUESTION.replace("id: q", "id: q q") + "    mark: {scheme: number}\n", 3, "letters, digits"),
    (QUESTION.replace("ask: x", "ask: ''") + "    mark: {scheme: number}\n", 4, "missing or empty"),
    (QUESTION + "    mark: {scheme: choice}\n    options: [x]\n", 7, "2 to 26 options"),
    (QUESTION + "    mark: {scheme: choice}\n    options: {a: x, b: y}\n", 7, "one capital letter"),
    (QUESTION + "    mark: {scheme: rubric, rubric: letter}\n", 6, "no rubric 'letter'"),
    (QUESTION + "    mark: {scheme: number}\nrubrics: {r: {criteria: []}}\n", 7, "has no criteria"),
]


@pytest.mark.parametrize(("text", "line", "words"), FAULTY)
def test_a_fault_names_file_and_line_and_what_to_do(text: str, line: int, words: str) -> None:
    faults = read(text).faults
    assert any(words in fault.message for fault in faults), faults
    fault = next(fault for fault in faults if words in fault.message)
    assert (fault.file, fault.line) == ("suites/sums/suite.yaml", line)


def test_all_faults_are_told_at_once_and_good_questions_stay() -> None:
    text = (
        GOOD.replace("key: 50.00", "key: abc").replace("state: pilot", "state: pilt").replace("weight: 2", "wieght: 2")
    )
    text += "  - id: fares\n    ask: again\n    key: 2\n"
    got = read(text)
    assert [fault.kind for fault in got.faults] == ["bad-key", "unknown-field", "wrong-shape", "duplicate-id"]
    assert {fault.question for fault in got.faults} == {"fares", "word"}
    assert got.suite is not None
    assert [one.id for one in got.suite.questions] == ["door", "old"]


@pytest.mark.parametrize("content", [b"\x80\x81 title", b"\xff\xfe\x00t", bytes(range(256))])
def test_a_binary_file_is_told_as_such(content: bytes) -> None:
    got = read_suite(SuiteContent("s", (("f.yaml", content),)))
    assert got.suite is None
    assert "not a text in UTF-8" in got.faults[0].message


@given(st.binary(max_size=200))
def test_no_content_breaks_the_reader(content: bytes) -> None:
    got = read_suite(SuiteContent("s", (("f.yaml", content),)))
    assert got.faults


@given(st.recursive(st.none() | st.booleans() | st.integers() | st.text(max_size=8),
                    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=8), inner, max_size=4)))  # fmt: skip
def test_no_shape_of_data_breaks_the_reader(data: object) -> None:
    assert read_suite(SuiteContent("s", (("f.yaml", json.dumps(data).encode()),))).faults
    question = {
        "title": "t",
        "questions": [{"id": "q", "ask": "x", "key": data, "mark": data, "options": data}],
    }
    assert read_suite(SuiteContent("s", (("f.yaml", json.dumps(question).encode()),))).faults


def test_proofs_prove_the_key() -> None:
    proofs = '    proofs: {pass: ["Answer: 50", "Answer: 51"], fail: ["Answer: 50 euros", "Answer: 7"]}\n'
    found = check_suite("sums", read(GOOD.replace("    family: ferry\n", proofs)))
    assert [fault.kind for fault in found.faults] == ["proof", "proof"]
    assert "should pass but comes out fail: read '51'" in found.faults[0].message
    assert "should fail but comes out pass" in found.faults[1].message
    assert {(one.question, one.kind) for one in found.advice} >= {("word", "no-why"), ("door", "no-source")}


def digests(text: str) -> dict[str, tuple[str, str]]:
    return {one.id: (one.ask_digest, one.mark_digest) for one in suite_of(text).questions}


@pytest.mark.parametrize(
    "same",
    [
        GOOD.replace("\n", "\r\n"),
        "\ufeff" + GOOD,
        GOOD.replace("key: 50.00", "key: 50  # euros"),
        GOOD.replace("ask: |\n      What do they pay?\n", 'ask: "What do they pay?"\n'),
        GOOD.replace("{A: left, B: right}", "[left, right]"),
        GOOD.replace("weight: 2", "weight: 3").replace("category: money", "category: x").replace("why: because", ""),
        GOOD.replace("title: Sums\nabout: Small ones.\n", "about: Small ones.\ntitle: Other\n"),
    ],
)
def test_digests_do_not_see_style_order_or_notes(same: str) -> None:
    assert digests(same) == digests(GOOD)


@pytest.mark.parametrize(
    ("old", "new", "changed"),
    [
        ("What do they pay?", "What do they pay? ", (False, False)),
        ("What do they pay?", "What do you pay?", (True, False)),
        ("key: 50.00", "key: 50.01", (False, True)),
        ("rel: 0.001", "rel: 0.01", (False, True)),
        ("system: Be brief.", "system: Be long.", (True, False)),
        ('answer_line: "Answer:"', 'answer_line: "Result:"', (True, True)),
    ],
)
def test_digests_see_what_reaches_the_model_and_how_it_is_marked(
    old: str, new: str, changed: tuple[bool, bool]
) -> None:
    before, after = digests(GOOD)["fares"], digests(GOOD.replace(old, new))["fares"]
    assert (before[0] != after[0], before[1] != after[1]) == changed


def test_a_digest_is_the_sha256_of_canonical_json() -> None:
    fares = suite_of().questions[0]
    by_hand = json.dumps({"system": "Be brief.", "turns": [fares.ask.turns[0]]}, separators=(",", ":"), sort_keys=True)
    assert fares.ask_digest == hashlib.sha256(by_hand.encode()).hexdigest()
    assert canonical_json({"b": 1.0, "a": [0.5, "é", None]}) == '{"a":[0.5,"é",null],"b":1}'


@given(st.dictionaries(st.text(max_size=5), st.integers() | st.text(max_size=5), max_size=6))
def test_a_digest_does_not_depend_on_key_order(data: dict) -> None:
    assert digest(data) == digest(dict(reversed(list(data.items()))))
    assert json.loads(canonical_json(data)) == data


@pytest.mark.parametrize(
    ("mark", "scheme"),
    [("", "choice"), ("    mark: {partial: true}\n", "choice"), ("    mark: {scheme: exact}\n", "exact")],
)
def test_options_are_chosen_from_unless_the_question_says_otherwise(place: Place, mark: str, scheme: str) -> None:
    question = f"  - id: lamp\n    ask: Which?\n    options: [red, green]\n    key: green\n{mark}"
    place.suite("lamps", f"title: l\nmark: {{scheme: exact, case: true}}\nquestions:\n{question}")
    (place.root / "entrants.toml").write_text("")
    shown = place.run("try", "lamps", "lamp", str(_written(place, "Answer: B")))
    assert f"scheme    {scheme}" in shown.stdout
    assert ("pass" in shown.stdout) is (scheme == "choice")


def _written(place: Place, text: str) -> Path:
    (place.root / "reply.txt").write_text(text, encoding="utf-8")
    return place.root / "reply.txt"


def test_options_are_chosen_from_where_neither_suite_nor_question_name_a_scheme(place: Place) -> None:
    place.suite("lamps", "title: l\nquestions:\n  - {id: lamp, ask: Which?, options: [red, green], key: green}\n")
    assert "scheme    choice" in place.run("try", "lamps", "lamp", str(_written(place, "B"))).stdout
