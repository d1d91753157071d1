"""Two entrants compared, and gates for scripts: on files and services, and against independent formulas."""

from __future__ import annotations

import subprocess
from collections.abc import Callable

import numpy as np
import pytest
from scipy import stats

from conftest import PROGRAM, Place, Service, arithmetic_suite, completion
from dryquarry.errors import UsageFault
from dryquarry.showing.versus import versus_view
from dryquarry.standing.board import build_board
from dryquarry.standing.gates import gate_board, gate_versus
from dryquarry.standing.paired import compare
from dryquarry.standing.results import Item
from dryquarry.standing.versus import Finding, finding_of, versus
from test_standing import names

PASSING = {"good": 18, "fair": 12, "poor": 2}


@pytest.fixture
def asked(place: Place, service: Callable[..., Service]) -> Place:
    """Three entrants of which each passes its first so many of twenty questions, in two categories."""
    rows = arithmetic_suite(20).replace(", ask: What", ", category: odd, ask: What")
    place.suite("sums", rows.replace("id: q0, category: odd", "id: q0, category: even"))
    for name, passed in PASSING.items():

        def answer(content: dict, passed: int = passed) -> tuple[int, bytes]:
            number = int(content["messages"][-1]["content"].split()[2])
            return 200, completion(f"So it is. Answer: {number + 1 if number < passed else -1}")

        place.entrant(name, service(answer).url)
    assert place.run("run", "sums").exit_code == 0
    return place


def test_two_entrants_are_compared_question_by_question(asked: Place) -> None:
    found = asked.json("versus", "good", "fair", "--on", "sums")
    own = found["whole"]["comparison"]  # type: ignore[index]
    assert (own["questions"], own["wins"], own["ties"], own["losses"]) == (20, 6, 14, 0)
    assert own["difference"] == pytest.approx(0.3)
    assert own["p_value"] == pytest.approx(2 / 2**6)
    assert found["finding"] == "better"  # type: ignore[index]
    assert [duel["question"] for duel in found["duels"] if duel["side"] == "won"] == [f"q{n}" for n in range(12, 18)]  # type: ignore[index]
    assert [part["category"] for part in found["parts"]] == ["even", "odd"]  # type: ignore[index]
    turned = asked.json("versus", "fair", "good", "--on", "sums")
    assert (turned["finding"], turned["whole"]["comparison"]["difference"]) == ("worse", pytest.approx(-0.3))  # type: ignore[index]


def test_what_was_lost_is_read_side_by_side(asked: Place) -> None:
    told = asked.run("versus", "fair", "good", "--on", "sums", "--show", "lost").stdout
    assert "fair is worse than good: the paired test tells them apart." in told
    assert [line for line in told.splitlines() if line.startswith("sums/")] == [f"sums/q{n}" for n in range(12, 18)]
    assert "lost no question" in asked.run("versus", "good", "fair", "--on", "sums", "--show", "lost").stdout


@pytest.mark.parametrize(
    ("command", "code"),
    [
        ('board sums --gate "good >= 0.9"', 0),
        ('board sums --gate "good > 90%"', 1),
        ('board sums --gate "good low >= 0.9"', 1),
        ('board sums --gate "fair >= 0.9" --gate "good >= 0.1"', 1),
        ('versus good fair --on sums --gate "no worse than 0.02"', 0),
        ('versus poor good --on sums --gate "no worse than 0.02"', 1),
        ('board sums --gate "nobody >= 0.9"', 2),
        ('board sums --gate "good is fine"', 2),
        ('board sums --gate "good >= 90"', 2),
        ('versus good fair --on sums --gate "better"', 2),
        ("versus good good --on sums", 2),
        ("versus good nobody --on sums", 2),
    ],
)
def test_gates_decide_in_a_shell(asked: Place, command: str, code: int) -> None:
    script = f"if {' '.join(PROGRAM)} {command} > /dev/null; then exit 0; else exit $?; fi"
    done = subprocess.run(["bash", "-c", script], cwd=asked.root, capture_output=True, text=True)
    assert done.returncode == code, done.stderr
    assert "Traceback" not in done.stderr


def test_gates_on_the_same_replies_are_counted(asked: Place) -> None:
    gate = ("versus", "good", "fair", "--on", "sums", "--gate", "no worse than 0.02")
    assert "gates were tried" not in asked.run(*gate).stderr
    assert "2 gates were tried on these very replies" in asked.run(*gate).stderr
    assert "gates were tried" not in asked.run("versus", "poor", "fair", "--on", "sums", *gate[-2:]).stderr


def test_a_suite_too_small_for_a_gate_says_so(asked: Place) -> None:
    told = asked.run("versus", "fair", "good", "--on", "sums", "--gate", "no worse than 0.01").stdout
    assert "these questions are too few to show it" in told


def test_who_shares_no_question_is_not_compared() -> None:
    items = [Item(f"q{place}") for place in range(4)]
    with pytest.raises(UsageFault, match="in common"):
        versus("s", "1", items, *names("11--", "--11"))
    found = versus("s", "1", items, *names("110-", "1001"))
    assert (found.whole.comparison.questions, found.only_first, found.only_second) == (3, 0, 1)


def test_within_the_margin_is_said_only_where_the_interval_lies_inside() -> None:
    random = np.random.default_rng(4)
    first = random.random(400) * 0.2 + 0.4
    found = compare(first, first + random.normal(0, 0.01, 400), np.ones(400), np.arange(400))
    assert found is not None
    # two imaginary questions, one won and one lost, are among four hundred
    assert (finding_of(found, 0.02), finding_of(found, 0.002)) == (Finding.WITHIN, Finding.UNDECIDED)
    assert finding_of(found, None) is Finding.UNDECIDED


def test_a_gate_stands_on_the_one_sided_limit() -> None:
    found = compare(
        np.array([1.0, 0, 1, 1, 0, 1] * 10), np.array([1.0, 1, 0, 1, 0, 1] * 10), np.ones(60), np.arange(60)
    )
    assert found is not None
    limit = found.difference - stats.t.ppf(0.95, 59) * found.standard_error
    got = gate_versus("no worse than 20 %", found)
    assert (got.limit, got.holds, got.wanted) == (pytest.approx(limit), limit > -0.2, 0.2)
    assert got.chance == pytest.approx(stats.norm.cdf(0.2 / found.standard_error - stats.t.ppf(0.95, 59)))


def test_who_lacks_questions_passes_a_gate_only_if_it_would_with_all_of_them_failed() -> None:
    items = [Item(f"q{place}") for place in range(10)]
    board = build_board("s", "1", items, names("1111111111", "111111111x"))
    assert gate_board("e1 >= 0.9", board).holds
    assert not gate_board("e1 >= 0.95", board).holds
    assert not gate_board("e1 low >= 0.1", board).holds


def test_a_gate_does_not_hold_by_the_difference_alone() -> None:
    found = compare(np.array([1.0, 0, 1, 0] * 5), np.array([0, 1.0, 1, 0] * 5), np.ones(20), np.arange(20))
    assert found is not None
    assert (found.difference, gate_versus("no worse than 0.02", found).holds) == (0.0, False)


def test_the_p_of_categories_are_corrected_for_how_many_there_are() -> None:
    items = [Item(f"q{place}", category="ab"[place // 10]) for place in range(20)]
    found = versus("s", "1", items, *names("1" * 20, "0" * 8 + "1" * 2 + "0" * 6 + "1" * 4))
    raw = [2 / 2**8, 2 / 2**6]
    assert [part.comparison.p_value for part in found.parts] == pytest.approx(raw)
    assert [part.p_value for part in found.parts] == pytest.approx([2 * raw[0], max(2 * raw[0], raw[1])])


def test_where_interval_and_test_disagree_it_is_said_which_decides() -> None:
    items = [Item(f"q{place}") for place in range(19)]
    found = versus("s", "1", items, *names("1" * 19, "0" * 5 + "1" * 14))
    assert (found.finding, found.whole.comparison.interval.low > 0) == (Finding.UNDECIDED, True)
    assert any("the exact test decides" in line for line in versus_view(found).table.below)
    clear = versus("s", "1", items, *names("1" * 19, "0" * 12 + "1" * 7))
    assert not any("the exact test decides" in line for line in versus_view(clear).table.below)
