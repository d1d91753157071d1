"""Tables fit the terminal: columns give way in a stated order, names are cut in the middle, figures never."""

from __future__ import annotations

import fcntl
import os
import pty
import re
import shutil
import struct
import termios
from pathlib import Path

import pytest
from hypothesis import given
from hypothesis import strategies as st
from rich.cells import cell_len

from conftest import PROGRAM, Place
from dryquarry.showing.fitting import Extent, cut_in_the_middle, fitted
from dryquarry.showing.view import Column, Fit, Sheet, Table, View, rendered

WIDTHS = (60, 80, 100, 120, 200)
SHOWN = (
    ("board", "lamp-logic"), ("board", "keeper-letters", "lamp-logic", "shore-facts", "tide-sums"),
    ("grid", "shore-facts"), ("suite", "list"), ("suite", "show", "lamp-logic"), ("suite", "history", "tide-sums"),
    ("suite", "diff", "tide-sums@1", "tide-sums@3"), ("entrant", "list"), ("entrant", "show", "dunlin"),
    ("run", "lamp-logic", "--plan"), ("suite", "check", "tide-sums"), ("replies", "lamp-logic", "-e", "dunlin"),
)  # fmt: skip


@pytest.fixture(scope="module")
def demo(demo_made: tuple[Path, str], tmp_path_factory: pytest.TempPathFactory) -> Place:
    """The demo's workspace, everything asked and marked."""
    return Place(Path(shutil.copytree(demo_made[0], tmp_path_factory.mktemp("demo") / "shop")))


def on_terminal(place: Place, width: int, *arguments: str) -> list[str]:
    """The lines that the installed program prints on a terminal of a width."""
    child, terminal = pty.fork()
    if child == 0:
        os.chdir(place.root)
        environment = {name: value for name, value in os.environ.items() if name not in ("COLUMNS", "LINES")}
        os.execve(PROGRAM[0], [*PROGRAM, *arguments], {**environment, "NO_COLOR": "1", "TERM": "xterm"})
    fcntl.ioctl(terminal, termios.TIOCSWINSZ, struct.pack("HHHH", 40, width, 0, 0))
    said = b""
    while True:
        try:
            part = os.read(terminal, 65536)
        except OSError:
            break
        if not part:
            break
        said += part
    os.waitpid(child, 0)
    os.close(terminal)
    return said.decode("utf-8").replace("\r\n", "\n").split("\n")


@pytest.mark.parametrize("width", WIDTHS)
def test_what_is_shown_fits_the_width(demo: Place, width: int, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("shutil.get_terminal_size", lambda fallback=(80, 24): os.terminal_size((width, 40)))
    monkeypatch.setenv("NO_COLOR", "1")
    for arguments in SHOWN:
        monkeypatch.setattr("click.testing._NamedTextIOWrapper.isatty", lambda self: True, raising=False)
        lines = demo.run(*arguments).stdout.splitlines()
        assert max(map(cell_len, lines)) <= width, (arguments, max(lines, key=cell_len))


@pytest.mark.parametrize("width", [60, 100])
def test_the_program_on_a_terminal_fits_its_width(demo: Place, width: int) -> None:
    lines = on_terminal(demo, width, "board", "lamp-logic")
    assert max(map(cell_len, lines)) <= width
    assert any("24 of 25" in line for line in lines)
    assert any("Not shown at a width of" in line for line in lines)


def test_piped_nothing_is_left_out(demo: Place) -> None:
    piped = demo.program("board", "lamp-logic").stdout
    assert "Not shown" not in piped
    assert all(name in piped.splitlines()[2] for name in ("95 % interval", "tokens out", "median s", "cost"))


def test_columns_are_brought_back(demo: Place) -> None:
    narrow = on_terminal(demo, 60, "board", "lamp-logic")
    assert not any("cost" in line and "rank" in line for line in narrow)
    kept = on_terminal(demo, 60, "board", "lamp-logic", "--columns", "cost")
    assert any("cost" in line and "rank" in line for line in kept)
    assert max(map(cell_len, kept)) <= 60
    wide = on_terminal(demo, 60, "board", "lamp-logic", "--wide")
    assert any("tokens out" in line and "cost" in line for line in wide)
    refused = demo.run("board", "lamp-logic", "--columns", "costs")
    assert (refused.exit_code, "did you mean 'cost'" in refused.stderr) == (2, True)


def test_columns_give_way_in_the_stated_order() -> None:
    columns = [Column("name"), Column("first", right=True, drop=1), Column("second", right=True, drop=2)]
    table = Table("", columns, [["x" * 10, "1" * 12, "2" * 12]])
    shown = {width: rendered(View(None, Sheet((), ()), table), "table", fit=Fit(width)) for width in (40, 30, 20)}
    heads = {width: re.findall(r"\w+", text.splitlines()[0]) for width, text in shown.items()}
    assert heads == {40: ["name", "first", "second"], 30: ["name", "second"], 20: ["name"]}
    assert "Not shown at a width of 20: first, second" in " ".join(shown[20].split())


@given(st.text(st.characters(exclude_categories=["Cs", "Cc"]), max_size=60), st.integers(3, 40))
def test_a_cut_keeps_both_ends_and_the_width(text: str, width: int) -> None:
    cut = cut_in_the_middle(text, width)
    assert cell_len(cut) <= width
    assert cut == text if cell_len(text) <= width else "…" in cut


extents = st.builds(
    Extent, st.sampled_from(["a", "two words", "entrant"]), st.integers(0, 40), st.integers(1, 50), st.integers(0, 5),
    st.booleans(), st.booleans(),
)  # fmt: skip


@given(st.lists(extents, min_size=1, max_size=12), st.integers(20, 200))
def test_a_fit_is_no_wider_than_it_must_be(columns: list[Extent], width: int) -> None:
    shape = fitted(columns, width)
    total = sum(shape.widths) + shape.gap * (len(shape.widths) - 1)
    smallest = [columns[place].smallest for place in shape.shown]
    assert all(own >= least for own, least in zip(shape.widths, smallest, strict=True))
    if total > width:  # then nothing more could give way
        assert list(shape.widths) == smallest
        assert all(columns[place].drop == 0 for place in shape.shown)
    assert set(range(len(columns))) - set(shape.shown) <= {place for place, one in enumerate(columns) if one.drop}


@pytest.mark.parametrize("width", [60, None])
def test_replies_are_broken_at_words_where_the_width_is_known(place: Place, width: int | None) -> None:
    from dryquarry.showing.text import quoted

    text = "A long line of many words. " * 6 + "\n\n    code = 1"
    lines = quoted(text, width)
    assert (max(map(len, lines)) <= 60) is (width == 60)
    assert "".join(line[4:] for line in lines if line[2] in "¦·").replace(" ", "") == text.replace(" ", "").replace(
        "\n", ""
    )
    assert "  ¦     code = 1" in lines
