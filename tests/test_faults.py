"""Runs against the stand-in, misbehaving by a plan: every question ends with exactly one reply."""

from __future__ import annotations

import json
import re
import subprocess
import urllib.request
from collections import Counter
from collections.abc import Iterator
from contextlib import contextmanager
from pathlib import Path

import pytest

from conftest import PROGRAM, Place, arithmetic_suite
from dryquarry.errors import FaultyFiles
from dryquarry.standin.faults import KINDS, FaultPlan, ServiceFault, read_fault_plan

PLAN = """\
[[fault]]
kind = "throttle"
share = 0.1
retry_after = "0"
times = 2
[[fault]]
kind = "error"
share = 0.1
[[fault]]
kind = "reset"
share = 0.1
[[fault]]
kind = "hang"
share = 0.05
seconds = 8
times = 9
[[fault]]
kind = "malformed"
share = 0.05
[[fault]]
kind = "html"
share = 0.05
[[fault]]
kind = "empty"
share = 0.05
times = 9
[[fault]]
kind = "filter"
share = 0.05
times = 9
[[fault]]
kind = "cap"
share = 0.05
times = 9
[[fault]]
kind = "drip"
share = 0.05
seconds = 0.2
[[fault]]
kind = "rename"
share = 0.05
times = 9
"""


@contextmanager
def standin(plan: Path) -> Iterator[str]:
    command = [*PROGRAM, "standin", "serve", "--port", "0", "--reply-s", "0", "--faults", str(plan)]
    with subprocess.Popen(command, stdout=subprocess.PIPE, text=True) as process:
        assert process.stdout is not None
        url = process.stdout.readline().strip()
        assert re.match("http://", url)
        try:
            yield url
        finally:
            process.kill()


def test_every_fault_is_lived_through_and_told_by_its_outcome(place: Place) -> None:
    (place.root / "faults.toml").write_text(PLAN)
    plan = read_fault_plan(PLAN.encode(), "faults.toml")
    place.suite("sums", arithmetic_suite(300))
    with standin(place.root / "faults.toml") as url:
        place.entrant("knot", url, "limits = {in_flight = 16, idle_timeout_s = 3.0}")
        first = place.program("run", "sums", "--format", "json")
        second = place.program("run", "sums")
        with urllib.request.urlopen(f"{url}/standin/count") as answer:
            requests = json.loads(answer.read())["requests"]
    line = '\n\nGive your final answer on a last line that begins with "Answer:"'
    kinds = Counter(
        fault.kind if (fault := plan.fault_for("standin-knot", f"What is {n} plus 1?{line}", 0)) else "none"
        for n in range(300)
    )
    assert set(kinds) == {*KINDS, "none"}
    (sitting,) = json.loads(first.stdout)["sittings"]
    assert (first.returncode, sitting["failed"]) == (0, 0)
    passing = kinds["error"] + kinds["reset"] + kinds["malformed"] + kinds["html"]
    assert sitting["tried_again"] == 2 * kinds["throttle"] + passing
    assert second.returncode == 0, second.stderr
    assert "300 held, 0 to ask" in second.stderr
    assert requests == 300 + sitting["tried_again"]
    later = {one["model"]: one["replies"] for one in sitting["served"]}["standin-knot-later"]
    assert later == kinds["rename"]
    assert "warning: knot: the service now answers as standin-knot" in first.stderr
    (row,) = place.json("board", "sums")["rows"]  # type: ignore[index]
    assert row["marked"] == 300
    assert row["outcomes"] == {
        "answered": 300 - kinds["hang"] - kinds["filter"] - kinds["cap"],
        "timed-out": kinds["hang"],
        "blocked": kinds["filter"],
        "cut-off": kinds["cap"],
    }
    keys = [(reply["question"], reply["trial"]) for reply in place.json("replies", "sums")]  # type: ignore[union-attr]
    assert len(keys) == len(set(keys)) == 300


def test_a_fault_befalls_its_share_of_the_questions_and_so_many_requests() -> None:
    plan = FaultPlan((ServiceFault("error", 0.25, 2), ServiceFault("hang", 0.25)))
    kinds = Counter(str((fault := plan.fault_for("m", f"q{n}", 0)) and fault.kind) for n in range(4000))
    assert all(900 <= kinds[kind] <= 1100 for kind in ("error", "hang"))
    question = next(f"q{n}" for n in range(99) if (fault := plan.fault_for("m", f"q{n}", 0)) and fault.kind == "error")
    assert [plan.fault_for("m", question, before) is None for before in range(4)] == [False, False, True, True]


@pytest.mark.parametrize(
    ("text", "words"),
    [
        ('[[fault]]\nkind = "throtle"\n', "did you mean 'throttle'"),
        ('[[fault]]\nkind = "hang"\nshre = 1\n', "did you mean 'share'"),
        ('[[fault]]\nkind = "hang"\nshare = 2\n', "from 0 to 1"),
        ('[[fault]]\nkind = "hang"\n[[fault]]\nkind = "error"\n', "more than 1"),
        ('[[fault]]\nkind = "hang"\ntimes = 0\n', "1 or more"),
        ("fault = 3", "each headed [[fault]]"),
        ("[[fault", "Expected ']]'"),
    ],
)
def test_a_faulty_plan_is_told(text: str, words: str) -> None:
    with pytest.raises(FaultyFiles, match=re.escape(words)):
        read_fault_plan(text.encode(), "faults.toml")
