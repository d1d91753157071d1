"""What outputs tell: the cap in a plan, bands outside of terminals, signs in pictures, judges that are missing."""

from __future__ import annotations

from collections.abc import Callable
from pathlib import Path

import pytest

from conftest import Place, Service, arithmetic_suite, completion
from dryquarry.marking.registry import prepare
from dryquarry.showing.pictures.frame import Caption
from dryquarry.showing.pictures.grid import draw_grid
from dryquarry.standing.grid import Cell, CellKind, Grid, GridRow, GridTotal
from dryquarry.standing.results import Item

RUBRIC = """\
title: Letters
mark: {scheme: rubric, rubric: letter}
rubrics: {letter: {criteria: [{id: warm, asks: Warm?}]}}
questions:
  - {id: dear, ask: Write.}
  - {id: named, ask: Write more., mark: {judge: JUDGE}}
"""


@pytest.mark.parametrize(("cap", "tokens"), [("", 900), ("settings = {max_tokens = 40}", 120)])
def test_a_plan_heeds_the_cap_on_tokens(place: Place, cap: str, tokens: int) -> None:
    place.suite("sums", arithmetic_suite(3))
    place.entrant("wick", "standin:", cap)
    (sitting,) = place.json("run", "sums", "--plan")["sittings"]  # type: ignore[index]
    assert (sitting["output_tokens"], sitting["from_replies"]) == (tokens, 0)
    assert "estimate from" in place.run("run", "sums", "--plan").stdout


def test_bands_are_in_markdown_and_csv_too(place: Place, service: Callable[..., Service]) -> None:
    place.suite("sums", arithmetic_suite(12))
    for name, right in (("good", 1), ("bad", 2)):

        def answer(content: dict, right: int = right) -> tuple[int, bytes]:
            return 200, completion(f"Answer: {int(content['messages'][-1]['content'].split()[2]) + right}")

        place.entrant(name, service(answer).url)
    assert place.run("run", "sums").exit_code == 0
    rows = [row.split("|")[1:4] for row in place.run("board", "sums", "--format", "markdown").stdout.splitlines()[2:]]
    assert [cell.strip() for cell in rows[0]] == ["rank", "band", "entrant"]
    assert [[cell.strip() for cell in row] for row in rows[2:4]] == [["1", "1", "good"], ["2", "2", "bad"]]
    header, *lines = place.run("board", "sums", "--format", "csv").stdout.splitlines()
    assert [line.split(",")[header.split(",").index("band")] for line in lines] == ["1", "2"]


@pytest.mark.parametrize("kind", [CellKind.PASS, CellKind.PART, CellKind.FAIL])
def test_the_picture_shows_the_sign_of_a_persons_mark(
    kind: CellKind, tmp_path: Path, monkeypatch: pytest.MonkeyPatch
) -> None:
    from matplotlib.axes import Axes

    drawn: list[str] = []
    text = Axes.text
    monkeypatch.setattr(Axes, "text", lambda self, x, y, s, **more: drawn.append(s) or text(self, x, y, s, **more))
    cell = Cell(kind, 0.5, corrected=True)
    grid = Grid("s", "1", ("e",), (GridRow(Item("q"), {"e": cell}, 0.5),), {"e": GridTotal(0, 1, 0.5)})
    draw_grid(grid, tmp_path / "grid.png", Caption("Sums", "2026-11-26"))
    assert "*" in drawn


@pytest.mark.parametrize(
    ("judges", "exit_code", "check", "plan"),
    [
        ("", 1, ["there is no judge 'fair'", "1 question has no judge"], None),
        ("[judge.fair]\nendpoint = 'standin:'\nmodel = 'judge'\n", 0, [], "what a run would ask"),
        (
            "[judge.fair]\nendpoint = 'standin:'\nmodel = 'judge'\n[judge.other]\nendpoint = 'standin:'\nmodel = 'j'\n",
            0, ["1 question has no judge"], "1 question has no judge",
        ),
    ],
)  # fmt: skip
def test_a_missing_judge_is_found_before_a_run(
    place: Place, judges: str, exit_code: int, check: list[str], plan: str | None
) -> None:
    place.suite("letters", RUBRIC.replace("JUDGE", "fair"))
    place.entrants("[entrant.wick]\nendpoint = 'standin:'\nmodel = 'm'\n" + judges)
    checked = place.run("suite", "check", "letters")
    assert checked.exit_code == exit_code
    assert all(words in checked.stdout for words in check)
    assert ("judge" in checked.stdout) is bool(check)
    planned = place.run("run", "letters", "--plan")
    assert (planned.exit_code, plan is None or plan in planned.stdout) == (2 if plan is None else 0, True)


def test_a_verdict_that_stays_unreadable_is_one_mark(place: Place, service: Callable[..., Service]) -> None:
    def answer(content: dict) -> tuple[int, bytes]:
        return 200, completion("no verdict" if content["model"] == "standin-fair" else "I will not say.")

    one = service(answer)
    suite = RUBRIC.replace("  - {id: named, ask: Write more., mark: {judge: JUDGE}}\n", "")
    again = '  - {id: sum, ask: What is 1 plus 1?, key: 2, mark: {scheme: number}, second_try: "Sure?"}\n'
    place.suite("letters", suite + again)
    place.entrant("wick", one.url)
    path = place.root / "entrants.toml"
    path.write_text(path.read_text() + f'[judge.fair]\nendpoint = "{one.url}"\nmodel = "standin-fair"\n')
    told = place.run("run", "letters").stderr
    assert "1 mark open: what the judge said could not be read" in told


@pytest.mark.parametrize(
    ("reply", "told"),
    [
        ('Here you are:\n{"a": 1,}', "cannot be read: expecting property name enclosed in double quotes in line 2"),
        ("{'a': 1}", "expecting property name enclosed in double quotes in line 1"),
        ('{"a": 1', "in line 1"),
        ("none at all", "there is no JSON object in the reply"),
    ],
)
def test_malformed_json_is_told_as_such_with_its_place(reply: str, told: str) -> None:
    from dryquarry.marking.model import Marking

    assert told in prepare(Marking("fields", {"a": 1}))(reply).reason
