"""Scheme `number`, and reading numbers out of replies."""

from __future__ import annotations

from fractions import Fraction

import pytest
from hypothesis import given
from hypothesis import strategies as st

from dryquarry.marking.model import Marking, MarkingFault, Verdict
from dryquarry.marking.registry import prepare
from dryquarry.marking.reply.view import view_of
from dryquarry.marking.values.arithmetic import ArithmeticFault, evaluate_with
from dryquarry.marking.values.numbers import find_terms

LINE = "Answer:"


def mark(key: object, reply: str, answer_line: str | None = LINE, **options: object):
    return prepare(Marking("number", key, options, answer_line=answer_line))(reply)


# (key, reply, passes, read_by): what a fair examiner says of replies as models give them.
REPLIES = [
    (50, "Answer: 50", True, "answer line"),
    (50, "**Answer:** 50.00 euros", True, "answer line"),
    (50, "**Answer: €50.00**", True, "answer line"),
    (50, "answer : 50", True, "answer line"),
    (50, "Answer: 3 × 12.50 + 2 × 6.25 = 50", True, "answer line"),
    (50, "Answer: 50 = 3 × 12.50 + 2 × 6.25", True, "answer line"),
    (50, "Answer: 62.50\n\nWait, the children pay half.\n\nAnswer: 50", True, "answer line"),
    (50, "Answer:\n\n50 euros", True, "answer line"),
    (50, "Answer: $\\boxed{50}$", True, "answer line"),
    (50, "The sum is $3 \\cdot 12.50 = 37.50$ and so on: $\\boxed{50.00}$", True, "boxed"),
    (50, "The answer is 50 euros for all 5 of them.", True, "statement"),
    (50, "They pay 37.50 and 12.50.\n\nSo the family pays **€50.00** in total. Enjoy!", True, "conclusion"),
    (62, "That's 62 minutes after noon, so you have time for lunch!", True, "conclusion"),
    (195, "That leaves 3 hours and 15 minutes, i.e. 195 minutes. Take a jacket!", True, "conclusion"),
    (107, "7 landings with 14 steps make 98 steps, plus 9 to the lamp = 107 steps.", True, "sentence"),
    (12, "Hurricane force is Beaufort force 12, with winds above 118 km/h.", True, "sentence"),
    (18, "24 - 6 = 18, so 18 metres of rope remain.", True, "sentence"),
    (1852, "Answer: 1,852 m", True, "answer line"),
    (1852, "Answer: $1\\,852$ m", True, "answer line"),
    (1852, "Answer: 1.852", False, "answer line"),
    (-5, "Answer: −5 °C", True, "answer line"),
    (5, "Answer: −5 °C", False, "answer line"),
    ("59/28", "Answer: $\\frac{59}{28}$", True, "answer line"),
    ("59/28", "Answer: 2 3/28", True, "answer line"),
    (0.25, "Answer: 25 %", True, "answer line"),
    (25, "Answer: 25 %", False, "answer line"),
    (42000, "Answer: 42 thousand", True, "answer line"),
    (2400, "The answer is 2.4 * 10^3 grams.", True, "statement"),
    (2400, "Answer: 2.4 * 10**3", True, "answer line"),
    (5, "The walker must stay on the island at least 14:05.", False, None),
    (2400, "Answer: 2.4k", True, "answer line"),
    (1.5e9, "Answer: 1.5 × 10^9", True, "answer line"),
    (1.5e9, "Answer: 1.5e9", True, "answer line"),
    # Traps: the key's digits stand in the reply, but the final answer is another.
    (50, "3 × 12.50 + 2 × 6.25 = 50, but with the fee it is more.\nAnswer: 52", False, "answer line"),
    (50, "You gave me the prices 12.50 and 50. Answer: 62.50", False, "statement"),
    (50, "Answer: 500", False, "answer line"),
    (50, "Answer: 0.50", False, "answer line"),
    (50, "Answer: 50/2", False, "answer line"),
    (6, "58 / 11 = 5.27, which is near 6.\nAnswer: 5", False, "answer line"),
    (6, "Answer: I cannot say", False, "answer line"),
    (62, "Low water is at 13:02, so 2 minutes.", False, "sentence"),
    (10, "Answer: 1,0", False, "answer line"),
]


@pytest.mark.parametrize(("key", "reply", "passes", "read_by"), REPLIES)
def test_replies_come_out_as_a_fair_examiner_says(key: object, reply: str, passes: bool, read_by: str) -> None:
    got = mark(key, reply)
    assert (got.verdict is Verdict.PASS, got.read_by) == (passes, read_by), got


@pytest.mark.parametrize(
    ("key", "options", "answer", "passes"),
    [
        (30.6, {"abs": 0.005}, "30.604", True),
        (30.6, {"abs": 0.005}, "30.606", False),
        (1000, {"rel": 0.001}, "1001", True),
        (1000, {"rel": 0.001}, "1001.1", False),
        (-1000, {"rel": 0.001}, "-999", True),
        (2.675, {"places": 2}, "2.68", True),
        (2.675, {"places": 2}, "2.67", False),
        ("64*2/sqrt(3)", {"places": 2}, "73.90", True),
        ("64*2/sqrt(3)", {}, "73.90", False),
        ([2, 3], {}, "3", True),
        ([2, 3], {}, "5", False),
        (0, {}, "0", True),
        (0, {"rel": 0.1}, "0.0001", False),
    ],
)
def test_tolerances(key: object, options: dict, answer: str, passes: bool) -> None:
    assert (mark(key, f"Answer: {answer}", **options).verdict is Verdict.PASS) is passes


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("1,234.5", Fraction(2469, 2)),
        ("1 234,5", Fraction(2469, 2)),
        ("1'234.5", Fraction(2469, 2)),
        ("1.234,5", Fraction(2469, 2)),
        ("1,234", Fraction(1234)),
        ("1.234", Fraction(617, 500)),
        ("0,125", Fraction(1, 8)),
        ("1,234,567", Fraction(1234567)),
        (".5", Fraction(1, 2)),
        ("-$3.20", Fraction(-16, 5)),
        ("€ 12", Fraction(12)),
        ("3 million", Fraction(3_000_000)),
        ("6.02×10²³".replace("²³", "^23"), Fraction(602) * 10**21),
        ("$12{,}345$", Fraction(12345)),
    ],
)
def test_numbers_are_read_in_the_usual_styles(text: str, value: Fraction) -> None:
    assert [found.value for found in find_terms(view_of(text).text)] == [value]


@pytest.mark.parametrize("text", ["route66x", "1" * 80, "1e999999", "5/0", "no number", "", "B12"])
def test_what_is_no_readable_number_is_none(text: str) -> None:
    assert find_terms(view_of(text).text) == []


@given(st.integers(-(10**15), 10**15), st.integers(0, 6))
def test_a_decimal_is_read_as_itself(digits: int, places: int) -> None:
    value = Fraction(digits, 10**places)
    text = f"{abs(digits) // 10**places}"
    if places:
        text += f".{abs(digits) % 10**places:0{places}}"
    sign = "-" if digits < 0 else ""
    assert [one.value for one in find_terms(f"{sign}{text}")] == [value]


@given(st.integers(-(10**9), 10**9), st.sampled_from([",", " ", "'"]))
def test_a_key_passes_in_every_thousands_style(key: int, separator: str) -> None:
    said = f"{key:,}".replace(",", separator)
    assert mark(key, f"Answer: {said}").verdict is Verdict.PASS


@given(st.text(max_size=300))
def test_no_reply_breaks_the_scheme(reply: str) -> None:
    got = mark(7, reply)
    assert got.verdict in (Verdict.PASS, Verdict.FAIL)
    assert got.reason


@pytest.mark.parametrize(
    ("text", "value"),
    [
        ("59/28", Fraction(59, 28)),
        ("2^10", Fraction(1024)),
        ("-(3 + 4) * 2", Fraction(-14)),
        ("0.1 + 0.2", Fraction(3, 10)),
        ("sqrt(2)^2", 2.0),
        ("2 * pi", 6.283185307179586),
    ],
)
def test_key_expressions_are_worked_out(text: str, value: Fraction | float) -> None:
    assert float(evaluate_with(text, {})) == pytest.approx(float(value), rel=1e-12)


@pytest.mark.parametrize(
    "text",
    ["9**9**9", "1/0", "__import__('os')", "a", "x" * 300, "(" * 150, "2 **", "1 if 2", "(-8)**0.5",
     "'a'*9", "sqrt(-1)", "10**400 * 10**400", "True + 1", ""],
)  # fmt: skip
def test_other_expressions_end_in_a_clear_fault(text: str) -> None:
    with pytest.raises(ArithmeticFault):
        evaluate_with(text, {})


@pytest.mark.parametrize("key", [None, True, [], "abc", float("inf"), {"a": 1}, "9**9**9"])
def test_a_key_that_is_no_number_is_a_fault_of_the_suite(key: object) -> None:
    with pytest.raises(MarkingFault, match="key"):
        mark(key, "")


@given(
    st.fractions(-1000, 1000, max_denominator=500),
    st.fractions(-1000, 1000, max_denominator=500),
    st.none() | st.sampled_from([0, 0.5, 2]),
    st.none() | st.sampled_from([0, 0.01, 0.5]),
)
def test_a_value_passes_just_where_its_distance_is_within_a_limit(
    key: Fraction, value: Fraction, absolute: float | None, relative: float | None
) -> None:
    given_limits = {"abs": absolute, "rel": relative}
    options = {name: limit for name, limit in given_limits.items() if limit is not None}
    limits = [Fraction(str(absolute))] if absolute is not None else []
    limits += [Fraction(str(relative)) * abs(key)] if relative is not None else []
    limits += [] if options else [abs(key) / 10**6]
    wanted = abs(value - key) <= max(limits)
    mark = prepare(Marking("number", f"{key.numerator}/{key.denominator}", options, answer_line="Answer:"))
    assert (mark(f"Answer: {value.numerator}/{value.denominator}").verdict is Verdict.PASS) is wanted
