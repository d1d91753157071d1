"""Import and export: round trips, guessed columns, faults with their lines."""

from __future__ import annotations

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import Place
from dryquarry.suites.exchange import export_csv, export_jsonl, export_markdown, guessed_columns, import_questions
from dryquarry.suites.reader import SuiteContent, read_suite
from dryquarry.suites.records import question_record

SUITE = """\
title: Sums
ask: {answer_line: "Answer:"}
mark: {scheme: number}
questions:
  - {id: fares, ask: "Say, what \\"they\\" pay;\\nin all?", key: 50.5, category: money, tags: [a, b], why: "=cmd", weight: 2.5}
  - {id: year, ask: When?, key: "1902", mark: {scheme: exact, case: true}, state: pilot}
  - {id: yes, ask: No?, key: [no, "[1]", "{x}"], mark: {scheme: exact}}
  - {id: many, ask: Pick?, options: {A: "x; y", B: "z|w", C: "q"}, key: [A, C], mark: {scheme: choice}, family: f, level: 3}
  - {id: turns, ask: [One., Two?], key: 7, second_try: Again., proofs: {pass: ["7"], fail: ["8"]}}
  - {id: old, ask: Old?, key: 1, state: retired, retired_because: easy}
"""


def read(files: list[tuple[str, bytes]]):
    got = read_suite(SuiteContent("sums", tuple(files)))
    assert not got.faults, got.faults
    assert got.suite is not None
    return got.suite


HEAD = b'title: Sums\nask: {answer_line: "Answer:"}\nmark: {scheme: number}\n'


def round_trip(suite, form: str):
    text = export_csv(suite) if form == "csv" else export_jsonl(suite)
    imported = import_questions(text.encode(), f"q.{form}", {}, None, "row")
    assert not imported.faults
    lines = "".join(json.dumps(record) + "\n" for record in imported.records)
    return read([("suite.yaml", HEAD), ("q.jsonl", lines.encode())])


@pytest.mark.parametrize("form", ["csv", "jsonl"])
def test_a_round_trip_loses_nothing(form: str) -> None:
    before = read([("suite.yaml", SUITE.encode())])
    after = round_trip(before, form)
    assert [question_record(one) for one in after.questions] == [question_record(one) for one in before.questions]
    assert [one.mark_digest for one in after.questions] == [one.mark_digest for one in before.questions]


texts = st.text(
    st.characters(exclude_categories=["Cs", "Cc"], include_characters="\n"), min_size=1, max_size=30
).filter(lambda text: text.strip() == text and text.strip())


@settings(max_examples=60)
@given(texts, texts.filter(lambda text: text.strip()), texts)
def test_any_text_survives_a_csv_round_trip(ask: str, key: str, why: str) -> None:
    record = {"id": "q", "ask": ask, "key": key, "why": why, "mark": {"scheme": "exact"}}
    before = read([("suite.yaml", HEAD), ("q.jsonl", json.dumps(record).encode())])
    after = round_trip(before, "csv")
    assert question_record(after.questions[0]) == question_record(before.questions[0])


def test_columns_are_guessed_from_their_names() -> None:
    names = ["No", "Question", "A", "B", "Correct Answer", "Topic", "Remarks"]
    assert guessed_columns(names, {}) == {
        "No": "id", "Question": "ask", "A": "option A", "B": "option B", "Correct Answer": "key", "Topic": "category"
    }  # fmt: skip
    assert guessed_columns(names, {"Remarks": "why", "Topic": ""})["Remarks"] == "why"
    assert "Topic" not in guessed_columns(names, {"Topic": ""})


CSV = 'Question,Answer,Topic,Notes\n"How many ""gulls""\nsit, then?",12,birds,x\nWhich bird?,dunlin,birds,\n'


def test_a_spreadsheet_becomes_a_suite_that_can_be_run(place: Place) -> None:
    place.entrants('[entrant.one]\nendpoint = "standin:"\nmodel = "standin-one"\n')
    (place.root / "birds.csv").write_text("\ufeff" + CSV.replace("\n", "\r\n").replace('gulls""\r\n', 'gulls""\n'))
    dry = place.run("suite", "import", "birds.csv", "--into", "birds", "--dry-run")
    assert dry.exit_code == 0, dry.stderr
    assert "column 'Question' is taken as ask" in dry.stderr
    assert "column 'Notes' is left out" in dry.stderr
    assert "id: birds-001" in dry.stdout
    assert not (place.root / "suites").exists()
    done = place.run("suite", "import", "birds.csv", "--into", "birds")
    assert "2 questions written to suites/birds/questions/birds.yaml" in done.stderr
    rows = place.json("suite", "show", "birds")["questions"]  # type: ignore[index]
    assert [(row["ask"], row["key"], row["scheme"]) for row in rows] == [
        ('How many "gulls"\nsit, then?', 12, "number"), ("Which bird?", "dunlin", "exact")
    ]  # fmt: skip
    assert place.run("run", "birds").exit_code == 0
    again = place.run("suite", "import", "birds.csv", "--into", "birds")
    assert again.exit_code == 3
    assert "is there already" in again.stderr


FAULTY = [
    ("q.csv", "Text here,Answer\nx,1\n", ":1: no column holds the question"),
    ("q.csv", "ask,key\nx,1\ny\n", ":3: the row has 1 cells, the header 2"),
    ("q.csv", 'ask,key\n"x,1\n', "not readable as CSV"),
    ("q.csv", "ask,key,weight\nx,1,heavy\n", ":2: the weight 'heavy' is not a number"),
    ("q.csv", "id,ask,key\na,x,1\na,y,2\n", "the id stands twice"),
    ("q.csv", "ask,A,B,key\nx,one,two,C\n", "the key 'C' is no option"),
    ("q.json", "{}", "the file holds no list of questions"),
    ("q.jsonl", '{"ask": "x", "key": 1}\n{oops\n', ":2: not readable as JSON"),
    ("q.jsonl", "[1]\n", ":1: a question is an object"),
]


@pytest.mark.parametrize(("name", "text", "words"), FAULTY)
def test_a_faulty_file_is_told_and_nothing_is_written(place: Place, name: str, text: str, words: str) -> None:
    (place.root / name).write_text(text)
    done = place.run("suite", "import", name, "--into", "new")
    assert (done.exit_code, words in done.stderr) == (3, True), done.output
    assert not (place.root / "suites").exists()


def test_columns_and_scheme_are_settable(place: Place) -> None:
    (place.root / "q.csv").write_text("What,Reply\nWhich year?,1902\n")
    options = ["--column", "What=ask", "--column", "Reply=key", "--scheme", "exact"]
    assert place.run("suite", "import", "q.csv", "--into", "new", *options).exit_code == 0
    wrong = place.run("suite", "import", "q.csv", "--into", "new", "--column", "Whta=ask", "--column", "Reply=kye")
    assert "there is no column 'Whta'" in wrong.stderr
    assert "there is no field 'kye'" in wrong.stderr
    assert place.run("suite", "import", "q.txt", "--into", "new").exit_code == 2
    assert place.run("suite", "import", "q.csv", "--into", "new", "--column", "What").exit_code == 2


def test_a_question_sheet_comes_with_or_without_keys(place: Place) -> None:
    suite = read([("suite.yaml", SUITE.encode())])
    with_keys, without = export_markdown(suite, keys=True), export_markdown(suite, keys=False)
    assert "*Key*: 50.5" in with_keys
    assert "*Key*" not in without
    assert "## 4. many" in without
    assert "Old?" not in without
    place.suite("sums", SUITE)
    done = place.run("suite", "export", "sums", "--format", "csv", "--out", "sums.csv")
    assert "not held by csv: what the suite says for all questions" in done.stderr
    assert (place.root / "sums.csv").read_text().startswith("id,ask,key")
    assert place.run("suite", "export", "sums", "--no-keys").exit_code == 2
