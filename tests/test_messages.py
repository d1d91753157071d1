"""Messages say what is meant: slips of YAML, fields in the wrong place, keys with units, types in plain words."""

from __future__ import annotations

import pytest

from conftest import Place
from dryquarry.asking.entrants import read_entrants
from dryquarry.asking.transport import chat_url
from dryquarry.errors import FaultyFiles
from dryquarry.suites.reader import SuiteContent, read_suite

ASK = "title: a\nmark: {{scheme: number}}\nquestions:\n  - id: q\n    ask: {}\n    key: 1\n"


def told(text: str) -> list[tuple[int | None, str]]:
    return [
        (fault.line, fault.message) for fault in read_suite(SuiteContent("a", (("suite.yaml", text.encode()),))).faults
    ]


@pytest.mark.parametrize(
    ("ask", "words"),
    [
        ("What is this: a lamp?", "a colon with a space"),
        ('"Who said "no" to it?"', r"write a quote inside it as \""),
        ("'It's late?'", "an apostrophe inside it twice"),
        ('"Who said it?', "a quote is opened here and never closed"),
        ("@home, who?", "cannot begin with '@'"),
        ("`x` is?", "cannot begin with '`'"),
        ("*bold* what?", "cannot begin with '*'"),
        ("{n} boats?", "begins with '{' wants quotes"),
        ("[x] boats?", "begins with '[' wants quotes"),
        ("> 5 is?", "begins with '>' or '|'"),
        ("- 5 is?", "begins with '- ' wants quotes"),
    ],
)
def test_a_slip_of_yaml_says_what_to_quote_and_where(ask: str, words: str) -> None:
    ((line, message),) = told(ASK.format(ask))
    assert (line, words in message) == (5, True), message


def test_texts_that_need_no_quotes_are_left_alone() -> None:
    for ask in ("What is 1:2?", "It's late, isn't it?", "Who said no? #1", "5 - 3 is?", "a {n} b"):
        assert told(ASK.format(ask)) == []


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ("questions:\n  - {id: q, ask: Well, what is it?, key: 1}\n", "a comma ends a text inside { }"),
        ("questions:\n  - {id: q, ask: What: this?, key: 1}\n", "inside { } a text with a colon"),
        ("questions:\n  - {id: q, prompt: x, key: 1}\n", "the text of a question is `ask`"),
        ("questions:\n  - {id: q, ask: x, answer: 1}\n", "the right answer is `key`"),
        ("questions:\n  - {id: q, ask: x, expected: 1}\n", "the right answer is `key`"),
        ("questions:\n  - {id: q, ask: x, key: 1, tolerance: 0.1}\n", "`{scheme: number, abs: 0.01}`"),
        ("questions:\n  - {id: q, ask: x, key: 1, epsilon: 0.1}\n", "`rel: 0.01` for a share"),
        ("questions:\n  - {id: q, ask: x, key: 1, mark: {tolerance: 0.1}}\n", "`abs` (a distance)"),
        ("questions:\n  - {id: q, ask: x, key: 1, mark: {epsilon: 0.1}}\n", "`abs` (a distance)"),
        ("questions:\n  - {id: q, ask: x, key: 1, model: m}\n", "stands in entrants.toml"),
        ("temperature: 0\nquestions:\n  - {id: q, ask: x, key: 1}\n", "stands in entrants.toml"),
        ("system: s\nquestions:\n  - {id: q, ask: x, key: 1}\n", "`ask: {system: …}`"),
        ("questions:\n  - {id: q, ask: x, key: 5 kg}\n", "write `key: 5` and `unit: kg` in `mark`"),
        ("questions:\n  - {id: q, ask: x, key: $5}\n", "write `key: 5` and `unit: USD` in `mark`"),
        (
            "questions:\n  - {id: q, ask: x, mark: {scheme: hand, out_of: five}}\n",
            "'out_of' of scheme 'hand' wants a number",
        ),
        ("questions:\n  - {id: q, ask: x, key: 1, mark: {unit_required: maybe}}\n", "wants true or false, not 'maybe'"),
        ("questions:\n  - {id: q, ask: x, key: 1, mark: {places: 1.5}}\n", "wants a whole number, not 1.5"),
    ],
)
def test_a_field_in_the_wrong_place_is_told_by_what_is_meant(text: str, words: str) -> None:
    messages = [message for _, message in told("title: a\nmark: {scheme: number}\n" + text)]
    assert any(words in message for message in messages), messages


@pytest.mark.parametrize(
    ("field", "words"),
    [
        ("temperature = 0.5", "`settings = {temperature"),
        ('api_key = "x"', "`key_env` is the NAME"),
        ('url = "http://x"', "is `endpoint`"),
        ("timeout = 3", "`limits = {"),
        ('prompt = "x"', "is `system`"),
    ],
)
def test_fields_of_entrants_are_told_by_what_is_meant(field: str, words: str) -> None:
    with pytest.raises(FaultyFiles) as fault:
        read_entrants(f'[entrant.a]\nmodel = "m"\n{field}\n'.encode(), "entrants.toml")
    assert words in str(fault.value)
    assert "entrants.toml:3" in str(fault.value)


@pytest.mark.parametrize("end", ["", "/", "/chat/completions", "/chat/completions/"])
def test_an_endpoint_is_understood_however_much_of_it_is_given(end: str, place: Place) -> None:
    content = f'[entrant.a]\nmodel = "m"\nendpoint = "http://127.0.0.1:9/v1{end}"\n'.encode()
    entrant = read_entrants(content, "entrants.toml").entrants["a"]
    assert chat_url(entrant.endpoint or "") == "http://127.0.0.1:9/v1/chat/completions"
