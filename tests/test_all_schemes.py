"""What holds for every scheme, the keys and options that each refuses, and rules one by one."""

from __future__ import annotations

from fractions import Fraction
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dryquarry.marking.model import Marking, MarkingFault, Verdict
from dryquarry.marking.registry import SCHEMES, prepare
from dryquarry.marking.values.formulas import FormulaFault
from dryquarry.marking.values.numbers import find_terms
from dryquarry.marking.values.quantities import unit_for
from dryquarry.marking.values.written import formula_in

LINE = "Answer:"
EXAMPLES = [
    Marking("exact", ["red"], {}, (), LINE),
    Marking("number", 5, {"unit": "EUR"}, (), LINE),
    Marking("number", 5, {"unit": "min", "places": 1}, (), LINE),
    Marking("number", "14:15", {"unit": "clock"}, (), LINE),
    Marking("number", 25, {"unit": "%"}, (), LINE),
    Marking("expression", "x^2 + 1", {}, (), LINE),
    Marking("choice", "B", {"partial": True}, (("A", "red"), ("B", "green")), LINE),
    Marking("set", ["a", "b"], {"partial": True}, (), LINE),
    Marking("sequence", ["a", "b"], {"partial": True}, (), LINE),
    Marking("fields", {"a": {"b": 1}}, {"partial": True}),
    Marking("pattern", "a+b", {}, (), LINE),
    Marking("rules", None, {"rules": [{"words": 2}, {"has": "sea"}], "partial": True}),
    Marking("self_count", None, {"of": "letters"}),
    Marking("declines", None, {"phrases": ["no thanks"]}, (), LINE),
    Marking("abstain", None, {"phrases": ["who knows"]}, (), LINE),
    Marking("hand", None, {"out_of": 3}),
    Marking("program", None, {"language": "python", "calls": [{"call": "f", "with": [1], "gives": 2}]}),
    Marking("query", [["Tern", 1]], {"database": {"path": "boats.csv", "text": "name,seats\nTern,1\n"}}),
    Marking("page", None, {"kind": "svg", "contains": ["rect"]}),
    Marking("all", None, {"parts": [{"scheme": "exact", "key": "red"}, {"scheme": "hand"}]}, (), LINE),
    Marking("any", None, {"parts": [{"scheme": "number", "key": 5}, {"scheme": "exact", "key": "red"}]}, (), LINE),
]
MARKERS = [prepare(marking) for marking in EXAMPLES]

pieces = st.sampled_from(
    ["Answer: ", "5", "€5", "2 h ", "14:15 pm", "x^2", "{", "}", '{"a": {"b": 1}}', "\\boxed{", "or maybe ", "- a\n", "B) ",
     "not ", "cannot be determined", "\n", "**", "√", "red", "1e999", "9^9^9^9", "(", "½", "\u202e", "İ"]
)  # fmt: skip
replies = st.lists(pieces | st.text(max_size=6), max_size=12).map("".join)


@given(st.sampled_from(range(len(MARKERS))), replies)
def test_every_scheme_gives_every_text_a_mark_with_a_reason(which: int, text: str) -> None:
    mark = MARKERS[which](text)
    assert mark.reason
    assert (mark.score is None) == (mark.verdict is Verdict.OPEN)
    assert mark.score is None or 0 <= mark.score <= 1
    assert mark.verdict is not Verdict.PASS or mark.score == 1
    assert mark.start is None or 0 <= mark.start <= len(text)


@given(st.sampled_from(range(len(MARKERS))), replies)
def test_a_mark_depends_on_nothing_but_the_text(which: int, text: str) -> None:
    assert MARKERS[which](text) == prepare(EXAMPLES[which])(text)


@pytest.mark.parametrize(
    ("scheme", "key", "options", "words"),
    [
        ("number", 5, {"unit": "furlongz"}, "is not known"),
        ("number", 5, {"unit_required": True}, "wants a 'unit'"),
        ("number", "25:99", {"unit": "clock"}, "no time of day"),
        ("number", None, {"range": [5, 1]}, "down to"),
        ("number", None, {"range": [1]}, "[low, high]"),
        ("number", 5, {"decimal": ";"}, "decimal"),
        ("expression", "2 +", {}, "breaks off"),
        ("expression", "x" * 2000, {}, "longer than"),
        ("expression", 5, {"variables": ["1x"]}, "list of names"),
        ("set", "red", {}, "list of members"),
        ("set", [], {}, "list of members"),
        ("set", ["a"], {"extras": "some"}, "can only be allowed"),
        ("set", ["a"], {"member": {"scheme": "nubmer"}}, "did you mean 'number'"),
        ("fields", [1], {}, "wants a mapping"),
        ("fields", {"a": 1}, {"field": {"b": {"scheme": "number"}}}, "does not have"),
        ("pattern", "(", {}, "RE2"),
        ("pattern", "(?=a)", {}, "RE2"),
        ("pattern", "", {}, "regular expression"),
        ("rules", None, {}, "wants `rules`"),
        ("rules", None, {"rules": [{"wrods": 5}]}, "did you mean 'words'"),
        ("rules", None, {"rules": [{"words": {"about": 5}}]}, "at_least"),
        ("rules", None, {"rules": [{"words": -1}]}, "wants a count"),
        ("rules", None, {"rules": [{"begins": "s", "each": "chapter"}]}, "each: sentence"),
        ("rules", None, {"rules": [{"palindrome": False}]}, "only be true"),
        ("rules", None, {"rules": [{"capitals": "some"}]}, "all or none"),
        ("rules", None, {"rules": [{"words": 5}], "on": "title"}, "only be answer"),
        ("self_count", None, {"of": "dots"}, "is one of"),
        ("abstain", None, {"phrases": [3]}, "list of texts"),
        ("hand", None, {"out_of": 0}, "more than 0"),
        ("all", None, {}, "wants `parts`"),
        ("any", None, {"parts": [{"key": 5}]}, "part 1"),
        ("any", None, {"parts": [{"scheme": "number"}]}, "part 1: the key is missing"),
    ],
)
def test_a_key_or_option_that_does_not_fit_is_told(scheme: str, key: object, options: dict, words: str) -> None:
    with pytest.raises(MarkingFault) as fault:
        prepare(Marking(scheme, key, options))
    assert words in str(fault.value)


@pytest.mark.parametrize(
    ("rule", "holds", "fails"),
    [
        ({"characters": {"at_most": 5}}, ["café!", "cafe\u0301!"], ["coffee"]),
        ({"letters": 4}, ["T-i d 3 e"], ["tides"]),
        ({"list_items": {"between": [2, 3]}}, ["- a\n- b", "1. a\n2. b\n3. c"], ["- a", "a\nb"]),
        ({"list_items": 2}, ["1. a\n   - of a\n2. b", " 9. a\n10. b", "- a\n  - b"], ["1. a\n   - of a"]),
        ({"ends": "!", "each": "line"}, ["a!\nb!"], ["a!\nb"]),
        ({"begins": "The"}, ["The sea", "the sea", "**The** sea"], ["A sea"]),
        ({"spells": "sea", "of": "words", "letter": 2}, ["As he saw"], ["sea", "as get"]),
        ({"spells": "eat", "of": "words", "letter": -1}, ["The sea, right?"], ["eat"]),
        ({"same_ends": True}, ["Level noon", "Ada"], ["sea", ""]),
        ({"vowels_in_order": True}, ["almost", "facetious"], ["ocean"]),
        ({"palindrome": True}, ["Never odd or even."], ["Even never", ""]),
        ({"anagram_of": "listen"}, ["silent", "Tinsel!"], ["listens", "listen"]),
        ({"has": ["!", "tide"]}, ["The tide!"], ["The tide."]),
        ({"ends": "sea", "each": "sentence"}, ["By the sea. To the sea!"], ["By the sea. To the pier."]),
        ({"has": "tide"}, ["The tide."], ["The tides.", "betide"]),
        ({"each_once": ["sea", "sky"]}, ["Sea and sky"], ["sea sea sky", "sea"]),
        ({"json": True}, ['{"a": 1}', "```json\n[1]\n```"], ["{a: 1}", ""]),
        ({"one_of": ["gull", "tern"]}, ["Tern.", "the gull"], ["gulls"]),
        ({"sentences": 2}, ["It is low. Dr. Ada waits, e.g. here.", "One\nTwo"], ["One. Two. Three."]),
    ],
)
def test_rules_hold_and_fail(rule: dict, holds: list[str], fails: list[str]) -> None:
    mark = prepare(Marking("rules", None, {"rules": [rule]}))
    for text in holds:
        assert mark(text).verdict is Verdict.PASS, (text, mark(text).reason)
    for text in fails:
        assert mark(text).verdict is Verdict.FAIL, (text, mark(text).reason)


@given(st.integers(0, 999_999))
def test_numbers_in_words_are_read_back(number: int) -> None:
    assert [term.value for term in find_terms(in_words(number))] == [number]


def in_words(number: int) -> str:
    """English number words, by rules written for this test alone."""
    small = [
        "zero",
        "one",
        "two",
        "three",
        "four",
        "five",
        "six",
        "seven",
        "eight",
        "nine",
        "ten",
        "eleven",
        "twelve",
        "thirteen",
        "fourteen",
        "fifteen",
        "sixteen",
        "seventeen",
        "eighteen",
        "nineteen",
    ]
    tens = ["twenty", "thirty", "forty", "fifty", "sixty", "seventy", "eighty", "ninety"]
    if number < 20:
        return small[number]
    if number < 100:
        return tens[number // 10 - 2] + (f"-{small[number % 10]}" if number % 10 else "")
    for size, name in ((1000, "thousand"), (100, "hundred")):
        if number >= size:
            rest = number % size
            joined = " and " if rest < 100 else " "
            return f"{in_words(number // size)} {name}" + (f"{joined}{in_words(rest)}" if rest else "")
    raise AssertionError


@pytest.mark.parametrize(
    ("unit", "text", "value"),
    [
        ("m", "3 ft", Fraction("0.9144")),
        ("km", "1 nautical mile", Fraction("1.852")),
        ("degC", "212 °F", Fraction(100)),
        ("kg", "500 grams", Fraction(1, 2)),
        ("h", "90 minutes", Fraction(3, 2)),
        ("GBP", "250 pence", Fraction(5, 2)),
        ("m**2", "2 square kilometres", Fraction(2_000_000)),
    ],
)
def test_units_convert_as_the_tables_say(unit: str, text: str, value: Fraction) -> None:
    (found,) = unit_for(unit).find(text, 0, len(text))
    assert abs(found.value - value) < Fraction(1, 10**6)


def test_a_unit_that_is_a_power_tower_is_no_unit() -> None:
    # Found by fuzzing: Pint would work 9**387420489 out.
    mark = prepare(Marking("number", 2, {"unit": "m/s"}, (), LINE))
    assert mark("Answer: 2 E^9^9^9Answer").verdict is Verdict.PASS  # a number without a unit
    with pytest.raises(MarkingFault, match="not known"):
        unit_for("m**9**9**9")


@given(st.text(st.sampled_from("x12+-*/^()√π{}\\ fracsqrt!|."), max_size=60))
def test_the_formula_parser_ends_in_a_formula_or_a_fault(text: str) -> None:
    try:
        formula_in(text)
    except FormulaFault:
        return  # the one error that it may end in


def test_every_scheme_has_an_example_here_and_a_row_in_the_docs() -> None:
    assert {marking.scheme for marking in EXAMPLES} == set(SCHEMES) - {"rubric"}
    docs = (Path(__file__).parents[1] / "docs" / "file-formats.md").read_text("utf-8")
    rows = "\n".join(line.split("|")[1] for line in docs.split("\n") if line.startswith("| `"))
    assert [name for name in SCHEMES if f"`{name}`" not in rows] == []


@pytest.mark.parametrize(
    ("scheme", "key", "said", "score"),
    [
        ("sequence", ["a", "b", "c", "d"], "Answer: a, b, x, d", 3 / 4),
        ("sequence", ["a", "b", "c", "d"], "Answer: a, b", 2 / 4),
        ("sequence", ["a", "b"], "Answer: a, b, c", 2 / 3),
        ("sequence", ["a", "b", "c"], "Answer: b, c, a", 0.0),
        ("set", ["a", "b", "c", "d"], "Answer: d, a, b", 3 / 4),
        ("set", ["a", "b", "c", "d"], "Answer: d, a, b, x", 2 / 4),
        ("choice", ["A", "C", "D"], "Answer: A and C", 2 / 3),
        ("choice", ["A", "C", "D"], "Answer: A, B and C", 1 / 3),
        ("choice", ["A", "C"], "Answer: B", 0.0),
        ("fields", {"a": 1, "b": 2, "c": 3}, '{"a": 1, "b": 2, "c": 4}', 2 / 3),
        ("fields", {"a": 1, "b": {"c": 2, "d": 3}}, '{"a": 1, "b": {"c": 2}}', 2 / 3),
        ("fields", {"a": 1, "b": 2}, '{"a": 1, "b": 2, "z": 4}', 1 / 2),
    ],
)
def test_part_credit_is_the_share_that_is_right(scheme: str, key: object, said: str, score: float) -> None:
    choices = (("A", "red"), ("B", "green"), ("C", "white"), ("D", "blue")) if scheme == "choice" else ()
    mark = prepare(Marking(scheme, key, {"partial": True}, choices, LINE))(said)
    assert (mark.score, mark.verdict) == (pytest.approx(score), Verdict.FAIL)
    assert prepare(Marking(scheme, key, {}, choices, LINE))(said).score == 0


@pytest.mark.parametrize(
    ("rule", "holds", "fails"),
    [
        ({"ends": "tide", "each": "sentence"}, ["The tide. A tide!"], ["The tide. A riptide."]),
        ({"ends": "tide", "part": True}, ["A riptide."], ["A tidal wave."]),
        ({"begins": "S", "each": "word"}, ["She sells"], ["She tells"]),
        ({"words": 3, "each": "line"}, ["one two three\na b c"], ["one two three\na b"]),
        (
            {"sentences": {"at_least": 2}, "each": "paragraph"},
            ["Low tide. High tide.\n\nEbb now. Flow then."],
            ["Low tide. High tide.\n\nEbb now."],
        ),
        ({"has": "sea", "times": {"between": [2, 3]}}, ["sea, sea"], ["sea", "sea sea sea sea"]),
        ({"has_not": "sea", "inside": True}, ["the tide"], ["the seal"]),
        ({"alphabetical": True}, ["anchor buoy chain"], ["buoy anchor", ""]),
        ({"letters_once": "all"}, ["tide"], ["tidal wave"]),
        ({"letters_once": "vowels"}, ["education"], ["tide", "seafood"]),
        ({"markdown": "none"}, ["plain text, 2 * 3"], ["**bold**", "- item", "# Head", "`code`"]),
        ({"paragraphs": 2}, ["a\n\nb"], ["a\nb"]),
        ({"words": 2}, ["left—right", "1. left right", "```\nleft right\n```"], ["left-right"]),
    ],
)
def test_rules_go_by_words_and_by_parts(rule: dict, holds: list[str], fails: list[str]) -> None:
    test_rules_hold_and_fail(rule, holds, fails)
