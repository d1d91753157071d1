"""Every command of the README and the guide works, one after the other."""

from __future__ import annotations

import re
import shutil
from collections.abc import Callable
from pathlib import Path

from conftest import Service, completion
from scripts import run_script

ROOT = Path(__file__).parent.parent


def blocks(text: str) -> list[str]:
    return re.findall(r"^```sh\n(.*?)^```", text, re.DOTALL | re.MULTILINE)


def test_the_readme_leads_from_init_to_a_board_of_ones_own_model(
    tmp_path: Path, service: Callable[..., Service]
) -> None:
    text = (ROOT / "README.md").read_text("utf-8")
    section = text[text.index("## Your own") : text.index("| command |")]
    own = service(lambda content: (200, completion("Answer: 11.5 hours")))
    script = "".join(blocks(section))
    assert script.count("dryquarry ") >= 9
    assert "http://127.0.0.1:8080/v1" in script
    folder = tmp_path / "fresh"
    folder.mkdir()
    done = run_script(script.replace("http://127.0.0.1:8080/v1", own.url), folder, tmp_path)
    assert done.returncode == 0, done.stderr
    board = done.stdout[done.stdout.rindex("harbour@draft") :]
    assert "mine" in board
    assert "1 of 2" in board


def test_every_command_of_the_guide_works_in_the_demo(demo_made: tuple[Path, str], tmp_path: Path) -> None:
    shutil.copytree(demo_made[0], tmp_path / "demo")
    script = "".join(blocks((ROOT / "docs" / "guide.md").read_text("utf-8")))
    assert script.count("dryquarry ") > 30
    done = run_script(script, tmp_path / "demo", tmp_path)
    assert done.returncode == 0, done.stderr[-2000:]
