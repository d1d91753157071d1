"""Templates: what is drawn, that it is the same everywhere, and the faults of their authors."""

from __future__ import annotations

import subprocess
import sys
from contextlib import suppress
from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Place
from dryquarry.marking.values.arithmetic import ArithmeticFault, evaluate_with, said
from dryquarry.suites.reader import SuiteContent, read_suite
from dryquarry.suites.templates import TemplateFault, draw, fill, read_template

SUITE = """\
title: Sums
ask: {answer_line: "Answer:"}
mark: {scheme: number}
questions:
  - id: fuel
    template:
      count: 4
      parameters:
        boats: {from: 2, to: 9}
        litres: [12, 15.5, 18]
        name: [Ada, Bram]
      require: ["boats * litres > 40", "boats != 7"]
    ask: "{name} fills {boats} boats with {litres} litres each. {{How much?}}"
    key: boats * litres
    why: "{boats} times {litres}"
    proofs: {pass: ["It is {boats * litres} litres."], fail: ["Answer: {boats}"]}
"""


def read(text: str, seed: int = 1):
    return read_suite(SuiteContent("sums", (("f.yaml", text.encode()),)), seed)


def test_instances_are_questions_of_one_family_that_meet_the_conditions() -> None:
    suite = read(SUITE).suite
    assert suite is not None
    assert [one.id for one in suite.questions] == ["fuel.1", "fuel.2", "fuel.3", "fuel.4"]
    assert {one.family for one in suite.questions} == {"fuel"}
    assert len({one.text for one in suite.questions}) == 4
    for one in suite.questions:
        assert one.drawn is not None
        boats, litres = Fraction(str(one.drawn.values["boats"])), Fraction(str(one.drawn.values["litres"]))
        assert boats * litres > 40
        assert boats != 7
        assert (
            one.text == f"{one.drawn.values['name']} fills {boats} boats with {said(litres)} litres each. {{How much?}}"
        )
        assert Fraction(str(one.marking.key)) == boats * litres
        assert one.marker(f"It is {said(boats * litres)} litres.").score == 1.0


def test_the_seed_alone_decides_and_the_order_of_parameters_does_not() -> None:
    def values(text: str, seed: int) -> list[object]:
        suite = read(text, seed).suite
        assert suite is not None
        return [one.drawn.values for one in suite.questions if one.drawn]

    line = "        boats: {from: 2, to: 9}\n"
    turned = SUITE.replace(line, "").replace("        name: [Ada, Bram]\n", "        name: [Ada, Bram]\n" + line)
    assert turned != SUITE
    assert values(SUITE, 1) == values(SUITE, 1) == values(turned, 1)
    assert values(SUITE, 1) != values(SUITE, 2)


def test_what_is_drawn_is_the_same_in_another_process() -> None:
    # Guards against anything that depends on hashes that differ from process to process.
    code = f"""
from dryquarry.suites.reader import SuiteContent, read_suite
suite = read_suite(SuiteContent("sums", (("f.yaml", {SUITE.encode()!r}),)), 5).suite
print([one.text for one in suite.questions])
"""
    own = read(SUITE, 5).suite
    assert own is not None
    done = subprocess.run([sys.executable, "-c", code], capture_output=True, text=True, timeout=60, check=True)
    assert done.stdout.strip() == str([one.text for one in own.questions])


FAULTY = [
    ('require: ["boats * litres > 40", "boats != 7"]', 'require: ["boats > 99"]', "can never be met (48 of 48"),
    ('require: ["boats * litres > 40", "boats != 7"]', 'require: ["boats == 3"]', None),
    ('require: ["boats * litres > 40", "boats != 7"]', 'require: ["boats == 3", "litres == 12"]', "leave 2 of the 4"),
    ('"boats != 7"', '"boots != 7"', "nothing named 'boots'"),
    ("key: boats * litres", "key: 9**9**9", "the exponent is beyond"),
    ("key: boats * litres", "key: __import__('os')", "in the key"),
    ("key: boats * litres", "key: boats * bots", "nothing named 'bots'"),
    ("{from: 2, to: 9}", "{from: 9, to: 2}", "wants a list of numbers or texts"),
    ("{from: 2, to: 9}", "{from: 1, to: 999999999}", "wants a list of numbers or texts"),
    ("count: 4", "count: 0", "a whole number from 1"),
    ("count: 4", "cuont: 4", "no field 'cuont'"),
    ("{boats} boats", "{boats / 0} boats", "divides by zero"),
    ("boats: {from", "Boats: {from", "a name of small letters"),
]


@pytest.mark.parametrize(("old", "new", "words"), FAULTY)
def test_a_faulty_template_is_told_once_with_its_line(old: str, new: str, words: str | None) -> None:
    faults = read(SUITE.replace(old, new)).faults
    if words is None:
        assert not faults
        return
    assert len(faults) == 1
    assert words in faults[0].message
    assert (faults[0].question, faults[0].line) == ("fuel", 6)


def test_a_template_whose_instances_are_faulty_is_told_once() -> None:
    faults = read(SUITE.replace("mark: {scheme: number}", "mark: {scheme: choice}")).faults
    assert [fault.question for fault in faults] == ["fuel.1"]


@given(st.integers(0, 10**6), st.integers(1, 30))
def test_a_very_large_space_is_drawn_from_without_repeats(seed: int, count: int) -> None:
    parameters = {name: {"from": 1, "to": 5000} for name in "abc"}
    template = read_template(
        "t", {"id": "t", "template": {"count": count, "parameters": parameters}, "ask": "{a} {b} {c}"}
    )
    texts = [fields["ask"] for _, fields in draw(template, seed)]
    assert len(set(texts)) == count


def test_seeds_spread_over_all_combinations() -> None:
    template = read_template("t", {"id": "t", "template": {"parameters": {"a": {"from": 1, "to": 8}}}, "ask": "{a}"})
    drawn = [int(draw(template, seed)[0][1]["ask"]) for seed in range(800)]
    assert all(60 <= drawn.count(value) <= 140 for value in range(1, 9))  # 100 each, ± 4 standard deviations


@pytest.mark.parametrize(
    ("expression", "value"),
    [
        ("gcd(12, 18)", Fraction(6)),
        ("round(2.675, 2)", Fraction(268, 100)),
        ("round(-2.5)", Fraction(-3)),
        ("floor(-2.5) + ceil(2.1)", Fraction(0)),
        ("min(3, 1, 2) + max(3, 1)", Fraction(4)),
        ("fixed(8.4, 2)", "8.40"),
        ("fixed(-0.005, 2)", "-0.01"),
        ("fixed(12, 0)", "12"),
        ("'half past ' + text(4)", "half past 4"),
        ("upper('ab') + lower('CD')", "ABcd"),
        ("1 if 3 > 2 and not 2 > 3 else 0", Fraction(1)),
        ("7 // 2 + 7 % 2", Fraction(4)),
        ("x * 2", Fraction(10)),
        ("1 < 2 < 3", True),
        ("abs(-3)", Fraction(3)),
    ],
)
def test_the_small_language(expression: str, value: object) -> None:
    assert evaluate_with(expression, {"x": Fraction(5)}) == value


@pytest.mark.parametrize(
    "expression",
    ["'a' * 9", "'a' + 1", "x.real", "[1]", "lambda: 1", "x if", "gcd(1.5, 2)", "gcd()", "open('x')", "'" + "a" * 500 + "'",
     "round(1, 2, 3)", "not_known", "1 in 2", "fixed('a', 1)"],
)  # fmt: skip
def test_anything_else_is_refused(expression: str) -> None:
    with pytest.raises(ArithmeticFault):
        evaluate_with(expression, {"x": Fraction(5)})


@given(st.text(max_size=60))
def test_no_text_breaks_filling(text: str) -> None:
    with suppress(TemplateFault):
        assert isinstance(fill(text, {"x": Fraction(1)}), str)


@given(st.fractions(max_denominator=1000))
def test_a_value_is_said_so_that_it_reads_back(value: Fraction) -> None:
    assert Fraction(said(value)) == pytest.approx(value, rel=1e-11)


def test_check_shows_instances_and_sealing_keeps_or_redraws_them(place: Place) -> None:
    path = place.suite("sums", SUITE)
    assert "drawn  fuel.1: " in place.run("suite", "check", "sums").stdout
    place.run("suite", "seal", "sums", "--note", "first")
    path.write_text(SUITE.replace("title: Sums", "title: More sums"))
    kept = place.run("suite", "seal", "sums", "--note", "title")
    assert "4 questions the same in both" in kept.stdout
    redrawn = place.run("suite", "seal", "sums", "--note", "fresh", "--redraw")
    assert "questions redrawn" in redrawn.stdout
    editions = place.json("suite", "history", "sums")["editions"]  # type: ignore[index]
    assert [(row["edition"], row["seed"]) for row in editions] == [("1", 1), ("2", 1), ("3", 3)]
    seeded = place.run("suite", "seal", "sums", "--note", "as before", "--seed", "1")
    assert seeded.exit_code == 0
    assert place.json("suite", "diff", "sums@2", "sums@4")["changes"] == []  # type: ignore[index]
    assert place.run("suite", "retire", "sums", "fuel", "--because", "leaked").exit_code == 0
    states = {row["state"] for row in place.json("suite", "show", "sums@draft")["questions"]}  # type: ignore[index]
    assert states == {"retired"}
    assert place.run("suite", "restore", "sums", "fuel").exit_code == 0
    assert path.read_text() == SUITE.replace("title: Sums", "title: More sums")
