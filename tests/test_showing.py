"""How results are shown: figures, hostile text, formats, pictures; and the stand-in's judge and made-up replies."""

from __future__ import annotations

import json
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st

from conftest import Place, arithmetic_suite, completion
from dryquarry.errors import FaultyFiles, FileFault
from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.showing import figures
from dryquarry.showing.pictures.frame import Caption
from dryquarry.showing.pictures.grid import draw_grid
from dryquarry.showing.view import Column, Fit, Sheet, Table, View, rendered
from dryquarry.standin.bank import made_up_reply, read_bank
from dryquarry.standing.grid import build_grid
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item, Result


@pytest.mark.parametrize(
    ("share", "places", "shown"),
    [(1.0, 1, "100.0"), (0.9999, 1, "99.9"), (0.9999, 0, "99"), (0.0, 1, "0.0"), (0.0001, 1, "0.1"), (0.5, 0, "50"),
     (None, 1, "–"), (2 / 3, 1, "66.7")],
)  # fmt: skip
def test_what_is_not_all_or_nothing_is_never_rounded_to_it(share: float | None, places: int, shown: str) -> None:
    assert figures.percent(share, places) == shown


@pytest.mark.parametrize(
    ("value", "shown"),
    [
        (None, "–"),
        (0.0, "0.00"),
        (12.3456, "12.35"),
        (0.0123456, "0.0123"),
        (0.000012345, "0.000012"),
        (1e-9, "0.0000000010"),
    ],
)
def test_costs_have_two_significant_digits_and_no_power_of_ten(value: float | None, shown: str) -> None:
    assert figures.cost(value) == shown


@pytest.mark.parametrize(
    ("number", "noun", "shown"),
    [(1, "reply", "1 reply"), (2, "reply", "2 replies"), (0, "question", "0 questions"), (2, "day", "2 days")],
)
def test_plurals(number: int, noun: str, shown: str) -> None:
    assert figures.plural(number, noun) == shown


@given(st.text(max_size=50))
def test_no_control_character_comes_through(text: str) -> None:
    shown = figures.visible(text)
    assert all(char in "\n\t" or not (ord(char) < 0x20 or 0x7F <= ord(char) < 0xA0) for char in shown)
    assert figures.visible(shown) == shown


HOSTILE = "=HYPERLINK(1)\x1b[31m|<b>\n-x"


def view() -> View:
    table = Table(
        "t|itle", [Column("name"), Column("n", right=True)], [[HOSTILE, "1"], ["b", "2"]], gaps=[0], below=["end"]
    )
    return View([{"name": HOSTILE, "n": 1}], Sheet(["name", "n"], [[HOSTILE, 1], [None, -2.5]]), table)


def test_every_format_defuses_hostile_text() -> None:
    table = rendered(view(), "table")
    assert "\x1b" not in table
    assert "\\x1b[31m" in table
    markdown = rendered(view(), "markdown")
    assert "\\|&lt;b><br>-x | 1 |" in markdown
    assert rendered(view(), "csv").splitlines()[-1] == ",-2.5"  # a number stays a number, nothing stays empty
    assert rendered(view(), "csv").startswith("name,n\n\"'=HYPERLINK(1)")
    assert json.loads(rendered(view(), "json"))[0]["name"] == HOSTILE
    assert json.loads(rendered(view(), "jsonl"))["n"] == 1


def test_colour_is_only_there_when_asked_for_and_nothing_is_cut() -> None:
    assert "\x1b[" in rendered(view(), "table", colour=True)
    wide = View([], Sheet(["x"], []), Table("", [Column("x")], [["word " * 100]]))
    assert rendered(wide, "table").count("word") == 100
    assert max(len(line) for line in rendered(wide, "table", fit=Fit(60)).splitlines()) <= 60


def test_a_grid_is_drawn_with_names_that_mean_something_to_the_drawer(tmp_path: Path) -> None:
    results = (
        Result("$x^2$", 1, Outcome.ANSWERED, 0.5, Verdict.FAIL),
        Result("b_<b>", 1, Outcome.TIMED_OUT, 0.0, Verdict.FAIL),
        Result("c", 1, Outcome.ANSWERED, None, Verdict.OPEN),
    )
    items = [Item("$x^2$"), Item("b_<b>"), Item("c"), Item("p", pilot=True)]
    grid = build_grid("s", "1", items, [EntrantResults.of("en$trant", "E", results)])
    draw_grid(grid, tmp_path / "grid.png", Caption("A $ title", "2026-11-26"))
    assert (tmp_path / "grid.png").read_bytes().startswith(b"\x89PNG")
    with pytest.raises(FileFault, match="cannot be written"):
        draw_grid(grid, tmp_path / "no" / "grid.png", Caption("t", "2026-11-26"))


def test_a_made_up_reply_keeps_to_the_question_and_to_itself() -> None:
    asked = "Which?\n\nA) one\nB) two\n\nGive your final answer"
    assert made_up_reply("x", asked) == made_up_reply("x", asked)
    assert made_up_reply("x", asked).text.rsplit(" ", 1)[1] in "AB"
    replies = {made_up_reply(f"voice {number}", "What is 7 plus 5?").text for number in range(30)}
    assert len(replies) > 3


@pytest.mark.parametrize(
    "content", [b"[[question]]\n", b"\xff", b"[[cue]]\ncriterion='x'\nfound=['(']\n", b"[[model]]\nnme='x'\n"]
)
def test_a_faulty_bank_is_told_by_its_file(content: bytes) -> None:
    with pytest.raises(FaultyFiles, match=r"mine\.toml"):
        read_bank([("mine.toml", content)])


@pytest.mark.parametrize(
    ("per_second", "said"),
    [(1234.0, "1\u202f234/s"), (9.84, "9.8/s"), (0.0345, "2.1/min"), (1 / 1200, "3.0/h")],
)
def test_a_rate_is_told_in_a_unit_in_which_it_can_be_read(per_second: float, said: str) -> None:
    assert figures.rate(per_second) == said


@pytest.mark.parametrize(
    ("arguments", "begins", "fault"),
    [
        (("--out", "b.csv"), "suite,", None),
        (("--out", "b.json"), "{", None),
        (("--out", "b.md"), "**sums@draft", None),
        (("--out", "b.txt"), "sums@draft", None),
        (("--out", "b.png"), None, "--picture"),
        (("--out", "b.html"), None, "--out writes text"),
        (("--out", "b.csv", "--format", "json"), None, "do not go together"),
    ],
)
def test_a_file_is_written_as_its_ending_says_or_refused(
    place: Place, service, arguments: tuple[str, ...], begins: str | None, fault: str | None
) -> None:
    place.entrant("knot", service(lambda content: (200, completion("Answer: 1"))).url)
    place.suite("sums", arithmetic_suite(1))
    assert place.run("run", "sums").exit_code == 0
    done = place.run("board", "sums", *arguments)
    assert done.exit_code == (2 if fault else 0)
    assert (fault or "written to") in done.stderr
    assert (place.root / arguments[1]).exists() is (fault is None)
    if begins is not None:
        assert (place.root / arguments[1]).read_text("utf-8").startswith(begins)
