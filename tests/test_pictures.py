"""Pictures: what stands on each of them, at any size, for a page and a phone; and a smaller suite's draw."""

from __future__ import annotations

import re
from collections.abc import Callable
from pathlib import Path

import numpy as np
import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Place, arithmetic_suite, completion
from dryquarry.errors import FileFault, UsageFault
from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.showing.pictures.board import draw_board
from dryquarry.showing.pictures.compared import draw_versus
from dryquarry.showing.pictures.frame import Caption
from dryquarry.showing.pictures.grid import draw_grid
from dryquarry.showing.pictures.items import draw_items
from dryquarry.showing.pictures.shares import draw_categories, draw_trials
from dryquarry.showing.pictures.tradeoff import draw_tradeoff, frontier
from dryquarry.standing.board import build_board
from dryquarry.standing.grid import build_grid
from dryquarry.standing.items import item_table
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item, Result
from dryquarry.standing.smaller import allotted
from dryquarry.standing.versus import versus


def marsh(entrants: int, questions: int, trials: int) -> tuple[list[Item], list[EntrantResults]]:
    """Entrants with long titles that hold signs, some part scores and refusals, drawn with a fixed seed."""
    random = np.random.default_rng(1)
    items = [Item(f"question-{n}", category=f"kind <{n * 4 // questions}>") for n in range(questions)]

    def result(name: str, trial: int) -> Result:
        score = float(random.choice([0.0, 0.5, 1.0], p=[0.3, 0.1, 0.6]))
        outcome = Outcome.REFUSED if random.random() < 0.05 else Outcome.ANSWERED
        return Result(name, trial, outcome, score, Verdict.PASS if score == 1 else Verdict.FAIL,
                      seconds=float(random.gamma(2)), cost=float(random.gamma(1)), answer=str(score))  # fmt: skip

    everyone = [
        EntrantResults.of(f"e{one}", f"Wader ${one} & co. " + "of the outer marsh " * 3,
                          [result(item.question, trial) for item in items for trial in range(1, trials + 1)])
        for one in range(entrants)
    ]  # fmt: skip
    return items, everyone


def drawn(path: Path, kind: str, entrants: int, questions: int, caption: Caption) -> list[Path]:
    items, everyone = marsh(entrants, questions, 2)
    board = build_board("marsh", "3", items, everyone)
    if kind == "grid":
        return draw_grid(build_grid("marsh", "3", items, everyone), path, caption)
    draw: dict[str, Callable[[], None]] = {
        "board": lambda: draw_board(board, path, caption),
        "cost": lambda: draw_tradeoff(board, "cost", path, caption),
        "seconds": lambda: draw_tradeoff(board, "seconds", path, caption),
        "categories": lambda: draw_categories(board, path, caption),
        "trials": lambda: draw_trials(board, path, caption),
        "items": lambda: draw_items(item_table("marsh", "3", items, everyone), path, caption),
        "versus": lambda: draw_versus(versus("marsh", "3", items, *everyone[:2], margin=0.1), path, caption),
    }
    draw[kind]()
    return [path]


KINDS = ("grid", "board", "cost", "seconds", "categories", "trials", "items", "versus")


@pytest.mark.parametrize("kind", KINDS)
@pytest.mark.parametrize(("entrants", "questions"), [(2, 5), (9, 30), (40, 70)])
def test_every_picture_says_what_it_is_of(tmp_path: Path, kind: str, entrants: int, questions: int) -> None:
    caption = Caption("The $ title", "2026-11-26", narrow=entrants == 9)
    for path in drawn(tmp_path / "x.svg", kind, entrants, questions, caption):
        texts = re.findall(r"<text[^>]*>([^<]*)", path.read_text("utf-8"))
        said = " ".join(texts)
        for wanted in ("The $ title", "marsh@3", f"{questions} questions", "2 trials", "2026-11-26"):
            assert wanted in said, (kind, wanted)
        assert kind == "items" or any(text.startswith("Wader $") for text in texts)


@pytest.mark.parametrize("kind", KINDS)
def test_a_narrow_picture_is_as_wide_as_a_phone_takes_it(tmp_path: Path, kind: str) -> None:
    from PIL import Image

    (path,) = drawn(tmp_path / "x.png", kind, 5, 20, Caption("A title that is long enough for two lines", "2026-11-26", narrow=True))  # fmt: skip
    # 9 points at 240 dots an inch are 30 high; shown 390 wide they are at least 8 high
    with Image.open(path) as picture:
        assert 30 * 390 / picture.width >= 8, picture.width


def test_a_large_grid_goes_on_pages_that_hold_all_questions(tmp_path: Path) -> None:
    files = drawn(tmp_path / "grid.svg", "grid", 6, 130, Caption("t", "2026-11-26"))
    assert [file.name for file in files] == ["grid.svg", "grid-2.svg", "grid-3.svg"]
    found = re.findall(r"question-\d+", "".join(file.read_text("utf-8") for file in files))
    assert sorted(set(found)) == sorted(f"question-{n}" for n in range(130))


def test_what_cannot_be_drawn_is_said(tmp_path: Path) -> None:
    items = [Item("a"), Item("b")]
    one = EntrantResults.of("e", "E", [Result("a", 1, Outcome.ANSWERED, 1.0, Verdict.PASS)])
    board, caption = build_board("s", "1", items, [one]), Caption("t", "2026-11-26")
    for draw, said in (
        (lambda path: draw_tradeoff(board, "cost", path, caption), "nothing to draw a score against"),
        (lambda path: draw_categories(board, path, caption), "no categories"),
        (lambda path: draw_trials(board, path, caption), "several trials"),
    ):
        with pytest.raises(UsageFault, match=said):
            draw(tmp_path / "x.png")
    for kind in KINDS:
        with pytest.raises(FileFault, match="cannot be written"):
            drawn(tmp_path / "no" / "x.png", kind, 3, 6, caption)


@given(st.lists(st.tuples(st.integers(0, 4), st.integers(0, 4)), min_size=1, max_size=12))
def test_the_frontier_is_what_no_other_beats(points: list[tuple[int, int]]) -> None:
    efficient = frontier([score for score, _ in points], [amount for _, amount in points])
    for place, (score, amount) in enumerate(points):
        beaten = any(s >= score and a <= amount and (s > score or a < amount) for s, a in points)
        assert (place in efficient) is not beaten


@given(st.lists(st.integers(1, 60), min_size=1, max_size=9), st.data())
def test_a_draw_takes_of_each_category_its_share(sizes: list[int], data: st.DataObject) -> None:
    count = data.draw(st.integers(0, sum(sizes)))
    numbers = allotted(sizes, count)
    assert sum(numbers) == count
    assert all(abs(number - size * count / sum(sizes)) < 1 and number <= size for number, size in zip(numbers, sizes, strict=True))  # fmt: skip


def test_each_command_draws_and_draws_a_smaller_suite(place: Place, service: Callable) -> None:
    rows = arithmetic_suite(12)
    for number in range(12):
        rows = rows.replace(f"{{id: q{number},", f"{{id: q{number}, category: {'odd' if number % 2 else 'even'},")
    place.suite("sums", rows)
    for name, right in (("wick", 9), ("knot", 6)):
        place.entrant(name, service(lambda content, right=right: (200, completion(
            f"Answer: {(n := int(content['messages'][-1]['content'].split()[2])) + (1 if n < right else 5)}"))).url,
            "price = {input = 1.0, output = 2.0}")  # fmt: skip
    place.run("run", "sums", "--trials", "2")
    for typed in (
        ["board", "sums"], ["board", "sums", "--picture-of", "cost"], ["board", "sums", "--picture-of", "seconds"],
        ["board", "sums", "--picture-of", "categories"], ["board", "sums", "--picture-of", "trials"],
        ["versus", "wick", "knot", "--on", "sums"], ["items", "sums"], ["grid", "sums", "--narrow"],
        ["history", "sums", "-e", "wick"],
    ):  # fmt: skip
        told = place.run(*typed, "--picture", "x.png")
        assert (told.exit_code, "drawn to x.png" in told.stderr) == (0, True), (typed, told.output)
        assert (place.root / "x.png").read_bytes().startswith(b"\x89PNG")
        (place.root / "x.png").unlink()
    found = place.json("items", "sums", "--smaller", "5", "--seed", "3")
    assert found == place.json("items", "sums", "--smaller", "5", "--seed", "3")
    assert len(found["questions"]) == 5  # type: ignore[index]
    assert sorted(count for _, count in found["strata"]) == [2, 3]  # type: ignore[index]
    assert found["questions"] != place.json("items", "sums", "--smaller", "5", "--seed", "4")["questions"]  # type: ignore[index]  # fmt: skip
    for wrong in (["--smaller", "12"], ["--smaller", "5", "--families"], ["--families", "--picture", "x.png"]):
        assert place.run("items", "sums", *wrong).exit_code == 2
    assert place.run("board", "sums", "--picture", "x.tiff.zip").exit_code == 3
    for wrong in (["board", "sums", "--narrow"], ["board", "sums", "--picture-of", "cost"], ["items", "sums", "--seed", "2"]):  # fmt: skip
        assert place.run(*wrong).exit_code == 2, wrong
