"""Several suites in one command: one after the other, a budget for all, faults told before anything is asked."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from conftest import Place, Service, arithmetic_suite, completion
from dryquarry.ledger.kept_columns import standing_columns
from dryquarry.ledger.queries import sitter_id_of, slots_of
from dryquarry.workspace import Workspace
from dryquarry.workspace.opening import ledger_for_reading


@pytest.fixture
def three(place: Place, service: Callable[..., Service]) -> tuple[Place, Service]:
    for place_in_order, name in enumerate(("one", "three", "two")):
        place.suite(name, arithmetic_suite(3).replace("What is", f"In {place_in_order} what is"))
    one = service(lambda content: (200, completion("Answer: 2")))
    place.entrant("wick", one.url, "limits = {retries = 0, in_flight = 1}\nprice = {input = 0.0, output = 200000.0}")
    return place, one


def test_suites_are_run_one_after_the_other(three: tuple[Place, Service]) -> None:
    place, service = three
    ran = place.run("run", "two", "one", "--format", "json")
    assert ran.exit_code == 0
    assert len(service.requests) == 6
    asked = [content["messages"][-1]["content"][:4] for content in service.requests]
    assert asked == ["In 2"] * 3 + ["In 0"] * 3
    assert [one["run"] for one in place.json("run", "two", "one")] == ["two@draft", "one@draft"]  # type: ignore[union-attr]
    table = place.run("run", "one", "two").stdout
    assert "one@draft" in table
    assert "two@draft" in table


def test_all_are_run(three: tuple[Place, Service]) -> None:
    place, service = three
    planned = place.run("run", "--all", "--plan", "--format", "csv").stdout.splitlines()
    assert [line.split(",")[0] for line in planned] == ["suite", "one", "three", "two"]
    assert place.run("run", "--all").exit_code == 0
    assert len(service.requests) == 9


@pytest.mark.parametrize(
    ("arguments", "said"),
    [
        ([], "name the suites"),
        (["--all", "one"], "--all goes without"),
        (["one", "one@draft"], "each suite is run once"),
        (["one", "tow"], "did you mean 'two'"),
    ],
)
def test_what_does_not_go_together_is_told_first(three: tuple[Place, Service], arguments: list[str], said: str) -> None:
    place, service = three
    told = place.run("run", *arguments)
    assert (told.exit_code, said in told.stderr, service.requests) == (2, True, []), told.output


def test_a_fault_in_the_last_suite_is_told_before_the_first_is_asked(three: tuple[Place, Service]) -> None:
    place, service = three
    place.suite("two", arithmetic_suite(1).replace("key: 1", "kay: 1"))
    told = place.run("run", "one", "two")
    assert (told.exit_code, service.requests) == (3, [])


def test_a_budget_is_for_all_of_it(three: tuple[Place, Service]) -> None:
    place, service = three
    # each reply of 5 tokens costs 1; at most four typical ones are set aside, of which nothing is known yet
    path = place.root / "entrants.toml"
    path.write_text(path.read_text().replace("price", "settings = {max_tokens = 5}\nprice"))
    ran = place.run("run", "one", "two", "--budget", "4.5")
    assert ran.exit_code == 4
    assert len(service.requests) == 4


def test_a_board_over_several_suites_weighs_them_alike_or_as_stated(
    place: Place, service: Callable[..., Service]
) -> None:
    # 4 of 8 of the one and 2 of 2 of the other: 0.75 weighed alike, (3 * 0.5 + 1) / 4 with 3 to 1
    for name, count in (("one", 8), ("two", 2)):
        rows = (
            arithmetic_suite(count)
            .replace("What is", f"For {name} what is")
            .replace("{id: q1,", "{id: q1, category: odd, tags: [t],")
        )
        place.suite(name, rows)

    def answer(content: dict) -> tuple[int, bytes]:
        said = content["messages"][-1]["content"].split()
        return 200, completion(f"Answer: {int(said[4]) + 1 if said[1] == 'two' or int(said[4]) < 4 else 99}")

    place.entrant("wick", service(answer).url)
    place.run("run", "one", "two")
    (row,) = place.json("board", "one", "two")["rows"]  # type: ignore[index]
    assert row["score"] == pytest.approx(0.75)
    assert row["categories"] == {"one": 0.5, "two": 1.0}
    assert row["over_suites"] == {"odd": 1.0}
    (row,) = place.json("board", "one", "two", "--weight", "one=3")["rows"]  # type: ignore[index]
    assert row["score"] == pytest.approx(0.625)
    told = place.run("board", "one", "two", "--columns", "categories,tag t").stdout
    assert "category odd" in told
    assert "tag t" in told
    assert "category odd" not in place.run("board", "one", "two").stdout
    for wrong in (["one", "--weight", "one=2"], ["one", "two", "--weight", "three=2"], ["one", "two", "--weight", "one=nan"],
                  ["one", "two", "--weight", "one=0", "--weight", "two=0"], ["one", "--columns", "tag x"]):  # fmt: skip
        assert place.run("board", *wrong).exit_code == 2, wrong


def test_replies_come_in_the_order_of_the_suite_and_then_of_trials(three: tuple[Place, Service]) -> None:
    place, _ = three
    place.run("run", "one", "--trials", "2")
    path = place.root / "suites" / "one" / "suite.yaml"
    for _ in range(2):  # whichever order they are stored in, one of these is another
        head, *rows = path.read_text().split("  - ")
        path.write_text("  - ".join([head, *reversed(rows)]))
        opened = Workspace.open(place.root)
        suite = opened.folder.suite("one")
        with ledger_for_reading(opened.folder) as ledger:
            slots = slots_of(ledger, suite.asked())
            sitter = sitter_id_of(ledger, opened.entrants().entrants["wick"].digest)
            (found,) = standing_columns(ledger, slots, [(sitter, None)], answers=True)
        assert found is not None
        assert (found.position.tolist(), found.trial.tolist()) == ([0, 0, 1, 1, 2, 2], [1, 2] * 3)
        assert found.answer is not None
        assert found.answer.tolist() == ["2"] * 6
