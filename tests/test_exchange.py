"""Import and export: round trips, guessed columns, faults with their lines."""

from __future__ import annotations

import json

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import Place
from dryquarry.suites.exporting import export_csv, export_jsonl, export_markdown
from dryquarry.suites.importing import guessed_columns, import_questions
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
    lines = "".join(json.dumps(record.fields) + "\n" for record in imported.records)
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
    assert "2 questions read: 2 new" in done.stderr
    assert "written to suites/birds/suite.yaml, suites/birds/questions/birds.yaml" in done.stderr
    rows = place.json("suite", "show", "birds")["questions"]  # type: ignore[index]
    assert [(row["ask"], row["key"], row["scheme"]) for row in rows] == [
        ('How many "gulls"\nsit, then?', 12, "number"), ("Which bird?", "dunlin", "exact")
    ]  # fmt: skip
    assert place.run("run", "birds").exit_code == 0
    again = place.run("suite", "import", "birds.csv", "--into", "birds")
    assert (again.exit_code, "nothing has changed" in again.stderr) == (0, True)
    (place.root / "birds.csv").write_text(CSV.replace("Which bird", "What bird"))
    refused = place.run("suite", "import", "birds.csv", "--into", "birds")
    assert (refused.exit_code, "has no ids" in refused.stderr) == (2, True)


FAULTY = [
    ("q.csv", "Text here,Answer\nx,1\n", ":1: no column holds the question"),
    ("q.csv", "ask,key\nx,1\ny\n", ":3: row 3 has 1 cells, the header 2"),
    ("q.csv", 'ask,key\n"x,1\n', "not readable as CSV"),
    ("q.csv", "ask,key,weight\nx,1,heavy\n", ":2: row 2, column 'weight': the weight 'heavy' is not a number"),
    ("q.csv", "id,ask,key\na,x,1\na,y,2\n", ":3: row 3, column 'id': the id 'a' stands twice, first in row 2"),
    ("q.csv", "ask,A,B,key\nx,one,two,C\n", ":2: question q-001: row 2, column 'key': the key 'C' is no option"),
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


KEYS = [
    ("25%", {"key": 25, "mark": {"scheme": "number", "unit": "%"}}, False),
    ("$1,250.50", {"key": 1250.5, "mark": {"scheme": "number", "unit": "USD"}}, True),
    ("1.250,50 €", {"key": 1250.5, "mark": {"scheme": "number", "unit": "EUR"}}, False),
    ("1,234", {"key": 1234, "mark": {"scheme": "number"}}, True),
    ("1/2", {"key": "1/2", "mark": {"scheme": "number"}}, True),
    ("3 kg", {"key": 3, "mark": {"scheme": "number", "unit": "kg"}}, False),
    ("-4.5", {"key": -4.5, "mark": {"scheme": "number"}}, False),
    ("1 234", {"key": 1234, "mark": {"scheme": "number"}}, False),
    ("17:30", {"key": "17:30", "mark": {"scheme": "number", "unit": "clock"}}, False),
    ("007", {"key": "007", "mark": {"scheme": "exact"}}, False),
    ("7th", {"key": "7th", "mark": {"scheme": "exact"}}, False),
    ("3 gulls", {"key": "3 gulls", "mark": {"scheme": "exact"}}, False),
    ("3 to 5", {"key": "3 to 5", "mark": {"scheme": "exact"}}, False),
    ('"1902"', {"key": "1902", "mark": {"scheme": "exact"}}, False),
    ("31.02.2024", {"key": "31.02.2024", "mark": {"scheme": "exact"}}, False),
]


@pytest.mark.parametrize(("cell", "record", "guess"), KEYS)
def test_a_cell_is_a_key_of_the_scheme_that_it_is(cell: str, record: dict, guess: bool) -> None:
    table = f'id,ask,key\nq,Say?,"{cell.replace(chr(34), chr(34) * 2)}"\n'
    imported = import_questions(table.encode(), "q.csv", {}, None, "row")
    assert not imported.faults
    fields = imported.records[0].fields
    assert {name: fields[name] for name in ("key", "mark")} == record
    assert bool(imported.advice) is guess
    if guess:
        assert "row 2, column 'key'" in imported.advice[0].message
    plain = import_questions(table.encode(), "q.csv", {}, "exact", "row").records[0].fields
    assert plain["mark"] == {"scheme": "exact"}
    assert str(plain["key"]) == cell.strip('"')


@pytest.mark.parametrize(
    "reply", ["It was on 17 May 2024.", "Answer: 2024-05-17", "May 17, 2024", "Answer: the 17th of May 2024"]
)
def test_a_day_in_a_cell_is_known_in_its_usual_spellings(reply: str) -> None:
    imported = import_questions(b"id,ask,key\nq,When?,2024-05-17\n", "q.csv", {}, None, "row")
    (question,) = read([("suite.yaml", HEAD), ("q.jsonl", json.dumps(imported.records[0].fields).encode())]).questions
    assert question.marker(reply).verdict == "pass"
    assert question.marker(reply.replace("17", "18")).verdict == "fail"


@pytest.mark.parametrize(("separator", "decimal"), [(";", ","), ("\t", ".")])
def test_what_parts_the_cells_is_seen_or_set(place: Place, separator: str, decimal: str) -> None:
    rows = [["id", "ask", "key"], ["q", "How much, or; little?", f"1{decimal}234"]]
    text = "\n".join(separator.join(f'"{cell}"' for cell in row) for row in rows)
    (place.root / "q.csv").write_text(text, "utf-8")
    imported = import_questions(text.encode(), "q.csv", {}, None, "row")
    assert imported.records[0].fields["key"] == 1.234
    assert place.run("suite", "import", "q.csv", "--into", "new", "--separator", "comma").exit_code == 3
    name = "semicolon" if separator == ";" else "tab"
    assert place.run("suite", "import", "q.csv", "--into", "new", "--separator", name).exit_code == 0


def test_a_plan_shows_what_could_be_read_beside_the_faults(place: Place) -> None:
    (place.root / "q.csv").write_text("id,ask,key,weight\ngood,x,1,2\nbad,y,2,heavy\n")
    done = place.run("suite", "import", "q.csv", "--into", "new", "--plan")
    assert (done.exit_code, "id: good" in done.stdout, "row 3" in done.stderr) == (3, True, True)


RUBRICS = (
    "rubrics:\n  letter: {about: Letters., criteria: [{id: warm, asks: Warm?, points: 2}]}\noutcomes: {refused: void}\n"
)
MORE = (
    "  - {id: dear, ask: Write., mark: {scheme: rubric, rubric: letter}}\n"
    "  - {id: drawn, template: {parameters: {n: [1, 2]}, count: 2}, ask: 'What is {n} plus 1?', key: 'n + 1'}\n"
)


def test_a_whole_suite_comes_back_from_json(place: Place) -> None:
    place.suite("sums", SUITE.replace("questions:", RUBRICS + "questions:") + MORE)
    assert place.run("suite", "check", "sums").exit_code == 0, place.run("suite", "check", "sums").output
    assert place.run("suite", "export", "sums", "--format", "json", "--out", "whole.json").exit_code == 0
    assert place.run("suite", "import", "whole.json", "--into", "again").exit_code == 0
    first, second = (place.run("suite", "export", name, "--format", "json").stdout for name in ("sums", "again"))
    assert first == second
    assert '"again' not in second.split("questions")[0]


COMMENTED = """\
title: Sums
mark: {scheme: number}
questions:
  # the first
  - id: q1
    ask: What is 1 plus 1?
    key: 2  # sure
    why: count

  # the second
  - {id: q2, ask: What is 2 plus 1?, key: 4}
  - id: q3
    ask: |
      What is
      3 plus 1?
    key: 4
# the end
"""


def test_an_edited_file_updates_the_suite_by_id_and_leaves_all_else(place: Place) -> None:
    path = place.suite("sums", COMMENTED)
    assert place.run("suite", "export", "sums", "--format", "csv", "--out", "sums.csv").exit_code == 0
    table = (place.root / "sums.csv").read_text()
    same = place.run("suite", "import", "sums.csv", "--into", "sums")
    assert "3 as the suite has it" in same.stderr
    assert path.read_text() == COMMENTED
    edited = table.replace("What is 2 plus 1?,4", "So what is 2 plus 1?,3").replace("count", "")
    edited += table.splitlines()[2].replace("q2", "q4").replace("What is 2", "What is 5") + "\n"
    (place.root / "sums.csv").write_text(edited)
    planned = place.run("suite", "import", "sums.csv", "--into", "sums", "--plan")
    assert "1 new, 2 changed, 1 as the suite has it" in planned.stderr
    assert "q2: ask, key" in planned.stderr
    assert path.read_text() == COMMENTED
    assert place.run("suite", "import", "sums.csv", "--into", "sums").exit_code == 0
    written = path.read_text()
    for kept in ("# the first", "# the second", "# the end", "What is\n      3 plus 1?", "mark: {scheme: number}"):
        assert kept in written
    rows = {row["id"]: row for row in place.json("suite", "show", "sums")["questions"]}  # type: ignore[index]
    assert (rows["q2"]["ask"], rows["q2"]["key"], list(rows)) == ("So what is 2 plus 1?", 3, ["q1", "q2", "q3", "q4"])
    assert "why" not in written.split("q2")[0]


def test_what_an_edited_file_says_wrongly_is_told_at_its_own_place(place: Place) -> None:
    path = place.suite("sums", COMMENTED)
    (place.root / "sums.csv").write_text("id,ask,key\nq1,What is 1 plus 1?,2\nq2,What is 2 plus 1?,three apples\n")
    done = place.run("suite", "import", "sums.csv", "--into", "sums")
    assert (done.exit_code, path.read_text()) == (3, COMMENTED)
    assert "sums.csv:3: question q2: row 3, column 'key'" in done.stderr
