"""Where an answer line is asked for: only where a reply has an answer apart from the rest, or where a question says so."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import Place, Service, completion
from dryquarry.suites.editions import read_edition, write_edition
from dryquarry.suites.reader import SuiteContent, read_suite

SUITE = """\
title: Lamps
ask: {answer_line: "Answer:"}
mark: {scheme: number}
rubrics: {kind: {criteria: [{id: warm, asks: Is it warm?}]}}
questions:
  - {id: sum, ask: What is 1 plus 1?, key: 2}
  - {id: poem, ask: Three lines., mark: {scheme: rules, rules: [{lines: 3}]}}
  - {id: counted, ask: How many words has your reply?, mark: {scheme: self_count, of: words}}
  - {id: letter, ask: A letter., mark: {scheme: rubric, rubric: kind}}
  - {id: taste, ask: A menu., mark: {scheme: hand}}
  - {id: table, ask: As JSON., key: {a: 1}, mark: {scheme: fields}}
  - {id: word, ask: A word., mark: {scheme: rules, on: answer, rules: [{letters: 3}]}}
  - {id: own, ask: What is 2 plus 2?, key: 4, answer_line: "Total:"}
  - {id: plain, ask: What is 3 plus 3?, key: 6, answer_line: none}
  - id: both
    ask: What is 4 plus 4?
    mark: {scheme: all, parts: [{scheme: number, key: 8}, {scheme: rules, rules: [{lines: 1}]}]}
"""
ASKED = {"sum": "Answer:", "word": "Answer:", "own": "Total:", "both": "Answer:"}


def test_the_line_is_asked_for_where_an_answer_is_read(place: Place, service: Callable[..., Service]) -> None:
    one = service(lambda content: (200, completion("x")))
    place.suite("lamps", SUITE)
    place.entrant("wick", one.url)
    assert place.run("run", "lamps@draft").exit_code == 0
    put = {content["messages"][-1]["content"] for content in one.requests}
    asked = {question: next(text for text in put if text.startswith(start)) for question, start in STARTS.items()}
    for question, text in asked.items():
        label = ASKED.get(question)
        assert ("begins with" in text) is (label is not None), question
        assert label is None or f'"{label}"' in text


STARTS = {
    "sum": "What is 1", "poem": "Three", "counted": "How", "letter": "A letter", "taste": "A menu", "table": "As JSON",
    "word": "A word", "own": "What is 2", "plain": "What is 3", "both": "What is 4",
}  # fmt: skip


@pytest.mark.parametrize(
    ("question", "reply", "verdict"),
    [
        ("poem", "a\nb\nc", "pass"),
        ("own", "Sum: 5\n\nTotal: 4", "pass"),
        ("own", "Answer: 4\n\nTotal: 5", "fail"),
        ("plain", "It makes 6.", "pass"),
    ],
)
def test_marking_agrees_with_what_is_asked(place: Place, question: str, reply: str, verdict: str) -> None:
    place.suite("lamps", SUITE.replace('"Answer:"}', '"Answer:", form: required}'))
    (place.root / "reply.txt").write_text(reply, encoding="utf-8")
    assert place.json("try", "lamps@draft", question, "reply.txt")["verdict"] == verdict  # type: ignore[index]


def test_check_says_where_the_two_cannot_agree(place: Place) -> None:
    more = '  - {id: odd, ask: Two lines., answer_line: "End:", mark: {scheme: rules, rules: [{lines: 2}]}}\n'
    place.suite("lamps", SUITE + more)
    told = [row for row in place.run("suite", "check", "lamps").stdout.splitlines() if "is asked for" in row]
    assert len(told) == 2
    assert any("both" in row and '"Answer:"' in row for row in told)
    assert any("odd" in row and '"End:"' in row for row in told)


def test_a_sealed_edition_says_where_none_is_asked_and_an_earlier_one_keeps_its_asks() -> None:
    suite = read_suite(SuiteContent("lamps", (("suite.yaml", SUITE.encode()),))).suite
    assert suite is not None
    again = read_edition("lamps", "1.jsonl", write_edition(suite, 1, "2026-01-01T00:00:00Z", "first"))
    assert [one.ask_digest for one in again.questions] == [one.ask_digest for one in suite.questions]
    assert [one.mark_digest for one in again.questions] == [one.mark_digest for one in suite.questions]
    earlier = Path(__file__).parent / "data" / "editions" / "answer-line-for-all.jsonl"
    poem = read_edition("lamps", earlier.name, earlier.read_bytes()).questions[0]
    assert '"Answer:"' in poem.ask.turns[0]
