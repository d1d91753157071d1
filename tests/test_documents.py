"""What the documents say is so: every command is in the README, every help has examples that work."""

from __future__ import annotations

import shlex
import shutil
import subprocess
from collections.abc import Iterator
from pathlib import Path

import click
import pytest

from conftest import Place
from dryquarry.cli import COMMANDS, cli
from scripts import run_script

ROOT = Path(__file__).parent.parent


def test_the_readme_is_short_enough_to_be_read() -> None:
    assert len((ROOT / "README.md").read_text("utf-8").splitlines()) < 200


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory, demo_made: tuple[Path, str]) -> Path:
    return Path(shutil.copytree(demo_made[0], tmp_path_factory.mktemp("documents") / "shop"))


def commands(group: click.Group, names: tuple[str, ...] = ()) -> Iterator[tuple[tuple[str, ...], click.Command]]:
    context = click.Context(group)
    for name in group.list_commands(context):
        command = group.get_command(context, name)
        assert command is not None
        if isinstance(command, click.Group):
            yield from commands(command, (*names, name))
        else:
            yield (*names, name), command


ALL = list(commands(cli))  # type: ignore[arg-type]
LASTING = ("standin", "completion", "init", "demo")


@pytest.mark.parametrize(("names", "command"), ALL, ids=[" ".join(names) for names, _ in ALL])
def test_each_help_has_examples_that_work(
    names: tuple[str, ...], command: click.Command, demo: Path, tmp_path: Path
) -> None:
    examples = [line.strip() for line in (command.epilog or "").splitlines() if "dryquarry" in line]
    assert len(examples) >= 2
    assert all(" ".join(names) in example for example in examples)
    if names[0] in LASTING:
        return
    folder = tmp_path / "demo"
    shutil.copytree(demo, folder)
    (folder / "reply.txt").write_text("Answer: 178.5")
    (folder / "questions.csv").write_text("id;ask;Answer\none;What is 1 plus 1?;2\n")
    (folder / "marks.csv").write_text("suite,question,entrant,trial,set,because\ntide-sums,lamp-oil,curlew,1,pass,x\n")
    for example in examples:
        if names == ("collect",):
            (folder / "ruff.md").unlink(missing_ok=True)
            run_script("dryquarry sheet lamp-logic -e ruff --out ruff.md", folder, tmp_path)
        code, said = done_as_typed(example, folder, tmp_path)
        # 1: done, and what was asked to hold does not (nothing has changed, advice to heed)
        told = ("nothing to correct", "needs a terminal")
        assert code in (0, 1) or any(one in said for one in told), (example, said)
        assert "unforeseen" not in said


def done_as_typed(line: str, folder: Path, tmp_path: Path) -> tuple[int, str]:
    """Run a line, in this process unless it needs a shell; returns the exit code and what was said beside the result."""
    if line.startswith("dryquarry ") and not set(line) & set("|&;<>$`*"):
        here = Place(folder).run(*shlex.split(line)[1:])
        return here.exit_code, here.stderr
    done = run_script(line, folder, tmp_path)
    return done.returncode, done.stderr


def test_every_command_is_in_the_readme() -> None:
    text = (ROOT / "README.md").read_text("utf-8")
    assert [name for name in COMMANDS if f"`{name}" not in text] == []


@pytest.mark.parametrize("shell", ["bash", "zsh", "fish"])
def test_each_shell_has_its_script(place: Place, shell: str) -> None:
    script = place.run("completion", shell).stdout
    assert "_DRYQUARRY_COMPLETE" in script
    if program := shutil.which(shell):
        assert subprocess.run([program, "-n"], input=script, text=True, capture_output=True).returncode == 0


@pytest.mark.parametrize(
    ("line", "offered"),
    [
        ("dryquarry board sum", {"sums", "sums@1", "sums@draft"}),
        ("dryquarry run sums -e w", {"wick"}),
        ("dryquarry replies sums --question q", {"q1", "q2"}),
        ("dryquarry grid sums --category ", {"adding", "taking"}),
        ("dryquarry board sums --where reas", {"reasoning=true"}),
        ("dryquarry suite seal s", {"sums"}),
        ("dryquarry entrant show ", {"wick", "fair"}),
        ("dryquarry rep", {"replies", "report"}),
    ],
)
def test_a_shell_is_offered_the_names_of_the_workspace(place: Place, line: str, offered: set[str]) -> None:
    question = "  - {{id: q{0}, ask: What is {0} plus 1?, key: 2, category: {1}}}\n"
    place.suite(
        "sums",
        "title: s\nmark: {scheme: number}\nquestions:\n" + question.format(1, "adding") + question.format(2, "taking"),
    )
    place.entrants('[entrant.wick]\nmodel = "m"\ntraits = {reasoning = true}\n[judge.fair]\nmodel = "j"\n')
    assert place.run("suite", "seal", "sums", "--note", "x").exit_code == 0
    words = line.split(" ")
    environment = {"_DRYQUARRY_COMPLETE": "bash_complete", "COMP_WORDS": line, "COMP_CWORD": str(len(words) - 1)}
    done = place.program(env={"PATH": "/usr/bin:/bin", "HOME": "/", **environment})
    assert {row.partition(",")[2] for row in done.stdout.splitlines()} == offered


def test_where_there_is_no_workspace_nothing_is_offered(tmp_path: Path) -> None:
    environment = {"_DRYQUARRY_COMPLETE": "bash_complete", "COMP_WORDS": "dryquarry board ", "COMP_CWORD": "2"}
    done = Place(tmp_path).program(env={"PATH": "/usr/bin:/bin", "HOME": "/", **environment})
    assert (done.returncode, done.stdout.strip(), done.stderr) == (0, "", "")
