"""Who recites, and what failing goes with: against simulated truth, an independent test, and from outside."""

from __future__ import annotations

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st
from scipy import stats

from conftest import Place, arithmetic_suite, completion
from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.failures import failure_table, fisher_p_value
from dryquarry.standing.families import FamilyTable, family_table
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item, Result


def mark(name: str, passed: bool, **more: object) -> Result:
    return Result(name, 1, Outcome.ANSWERED, float(passed), Verdict.PASS if passed else Verdict.FAIL, **more)  # type: ignore[arg-type]


def puzzles(random: np.random.Generator, entrants: int, families: int, reciter: bool) -> FamilyTable:
    """Entrants on puzzles and harder twists; a reciter knows the originals by heart and reads badly."""
    items = []
    for number in range(families):
        items += [Item(f"o{number}", family=f"f{number}"), Item(f"t{number}", family=f"f{number}", twist="turned")]
    hard = random.standard_normal(families)
    harder = hard + 0.6 + 0.5 * random.standard_normal(families)
    everyone = []
    for number in range(entrants):
        ability = random.normal(1.0, 1.0)
        originals, twists = 1 / (1 + np.exp(hard - ability)), 1 / (1 + np.exp(harder - ability))
        if reciter and number == 0:
            originals, twists = np.full(families, 0.95), 1 / (1 + np.exp(harder - 0.3))
        results = [mark(f"o{place}", random.random() < originals[place]) for place in range(families)]
        results += [mark(f"t{place}", random.random() < twists[place]) for place in range(families)]
        everyone.append(EntrantResults.of(f"e{number}", "", tuple(results)))
    return family_table("s", "1", items, everyone)


def test_reciters_are_found_and_honest_entrants_are_not_called_so() -> None:
    random = np.random.default_rng(31)
    honest = found = 0
    for _ in range(60):
        honest += sum(row.recites for row in puzzles(random, 8, 40, reciter=False).rows)
        found += puzzles(random, 8, 40, reciter=True).rows[0].recites
    assert honest / (60 * 8) <= 0.02
    assert found >= 50


def test_few_families_show_nobody_to_recite() -> None:
    table = puzzles(np.random.default_rng(1), 6, 4, reciter=True)
    assert {row.p_value for row in table.rows} == {None}
    assert not any(row.recites for row in table.rows)


def test_gaps_are_over_families_that_have_both() -> None:
    items = [Item("a", family="f"), Item("b", family="f", twist="turned"), Item("c", family="g"), Item("d", family="g")]
    one = EntrantResults.of("one", "", (mark("a", True), mark("b", False), mark("c", True), mark("d", True)))
    two = EntrantResults.of("two", "", (mark("a", True), mark("c", True)))
    table = family_table("s", "1", items, [one, two])
    assert (table.families, [(row.entrant, row.families, row.gap) for row in table.rows]) == (1, [("one", 1, 1.0)])
    assert [(row.twist, row.questions, row.gap) for row in table.twists] == [("turned", 1, 1.0)]


@given(st.integers(0, 12), st.integers(1, 12), st.integers(0, 12), st.integers(1, 12))
def test_fishers_test_is_that_of_another_library(own: int, count: int, rest: int, others: int) -> None:
    own, rest = min(own, count), min(rest, others)
    expected = stats.fisher_exact([[own, count - own], [rest, others - rest]]).pvalue
    assert fisher_p_value(own, count, rest, others) == pytest.approx(expected)


def test_what_failing_goes_with_is_found_and_what_it_does_not_is_not() -> None:
    random = np.random.default_rng(2)
    items = [
        Item(
            f"q{place}",
            category="hard" if place % 4 == 0 else "easy",
            tags=("odd",) if place % 2 else (),
            scheme="exact",
        )
        for place in range(60)
    ]
    everyone = [
        EntrantResults.of(name, "", tuple(mark(item.question, random.random() > (0.8 if item.category == "hard" else 0.15)) for item in items))
        for name in ("one", "two", "three")
    ]  # fmt: skip
    table = failure_table("s", "1", items, everyone)
    assert [(row.kind, row.value) for row in table.rows if row.told and row.ratio > 1] == [("category", "hard")]
    assert table.rows[0].replies == 45
    # "odd" questions are never "hard", so failing is rarer with them; all have the one scheme, which so tells nothing
    assert ("scheme", "exact") not in {(row.kind, row.value) for row in table.rows}


def test_no_feature_is_told_where_failing_is_luck() -> None:
    random = np.random.default_rng(3)
    told = 0
    for _ in range(100):
        items = [Item(f"q{place}", category=f"c{place % 5}", tags=(f"t{place % 3}",)) for place in range(60)]
        one = EntrantResults.of("one", "", tuple(mark(item.question, random.random() < 0.6) for item in items))
        told += any(row.told for row in failure_table("s", "1", items, [one]).rows)
    assert told <= 11  # of a true 5 in 100 more than that comes in 1 of 200


def test_both_are_shown_from_outside_with_commands_that_list_the_replies(place: Place, service) -> None:
    rows = arithmetic_suite(24)
    for number in range(0, 24, 2):
        rows = rows.replace(f"{{id: q{number},", f"{{id: q{number}, category: even, family: f{number},")
        rows = rows.replace(
            f"{{id: q{number + 1},", f"{{id: q{number + 1}, category: odd, family: f{number}, twist: one more,"
        )
    place.suite("sums", rows)

    def answer(content: dict) -> tuple[int, bytes]:
        number = int(content["messages"][-1]["content"].split()[2])
        return 200, completion(f"Answer: {number + 1 if number % 2 == 0 else 0}")

    def right(content: dict) -> tuple[int, bytes]:
        return 200, completion(f"Answer: {int(content['messages'][-1]['content'].split()[2]) + 1}")

    for name, voice in (("parrot", answer), ("knot", right), ("ruff", right)):
        place.entrant(name, (one := service(voice)).url)
        assert one.url
    assert place.run("run", "sums").exit_code == 0
    assert (
        "parrot passes 100 % of the originals and 0 % of their twists"
        in place.run("items", "sums", "--families").stdout
    )
    found = place.json("board", "sums", "-e", "parrot", "--failures")
    assert (found["failed"], found["replies"]) == (12, 24)  # type: ignore[index]
    (command,) = {row["command"] for row in found["rows"] if row["value"] == "odd"}  # type: ignore[index]
    listed = place.json(*command.split()[1:])
    assert [reply["question"] for reply in listed] == [f"q{number}" for number in range(1, 24, 2)]  # type: ignore[union-attr,index]


def test_a_twist_is_kept_in_editions_and_asks_nothing_anew(place: Place, service) -> None:
    one = service(lambda content: (200, completion("Answer: 1")))
    path = place.suite("sums", arithmetic_suite(2))
    place.entrant("knot", one.url)
    place.run("suite", "seal", "sums", "--note", "first")
    place.run("run", "sums")
    path.write_text(
        path.read_text()
        .replace("{id: q1,", "{id: q1, family: f, twist: turned,")
        .replace("{id: q0,", "{id: q0, family: f,")
    )
    assert place.run("suite", "seal", "sums", "--note", "second").exit_code == 0
    place.run("run", "sums")
    assert len(one.requests) == 2
    assert place.json("items", "sums", "--families")["families"] == 1  # type: ignore[index]
