"""What the benchmarks share: a stand-in in a process of its own, a workspace, and one way to report."""

from __future__ import annotations

import json
import re
import subprocess
import sys
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from pathlib import Path

PROGRAM = [sys.executable, "-m", "dryquarry"]


def report(what: str, measured: float, limit: float, unit: str, *, more_is_better: bool = False) -> None:
    """Print a figure beside its limit, and their ratio; a ratio of 1 or less keeps the limit."""
    ratio = limit / measured if more_is_better else measured / limit
    said = "within" if ratio <= 1 else "BEYOND"
    print(f"{what}: {measured:.3g} {unit}, limit {limit:.3g} {unit}, ratio {ratio:.2f} ({said})")


def seconds(call: Callable[[], object]) -> float:
    """Return how long a call takes."""
    started = time.perf_counter()
    call()
    return time.perf_counter() - started


@contextmanager
def standin(reply_s: float) -> Iterator[str]:
    """Serve the stand-in in a process of its own; gives its base URL."""
    process = subprocess.Popen(
        [*PROGRAM, "standin", "serve", "--port", "0", "--reply-s", str(reply_s)],
        stdout=subprocess.PIPE,
        text=True,
    )
    assert process.stdout is not None
    try:
        url = process.stdout.readline().strip()
        assert re.match(r"http://", url), url
        yield url
    finally:
        process.terminate()
        process.wait()


def workspace(root: Path, url: str, questions: int, in_flight: int) -> None:
    """Write a workspace of one entrant and one suite of numbered sums."""
    (root / "dryquarry.toml").write_text("")
    (root / "entrants.toml").write_text(
        f'[entrant.knot]\nendpoint = "{url}"\nmodel = "standin-knot"\nlimits = {{in_flight = {in_flight}}}\n'
    )
    folder = root / "suites" / "sums"
    folder.mkdir(parents=True)
    rows = "".join(f"  - {{id: q{n}, ask: What is {n} plus 1?, key: {n + 1}}}\n" for n in range(questions))
    head = 'title: Sums\nask: {answer_line: "Answer:"}\nmark: {scheme: number}\nquestions:\n'
    (folder / "suite.yaml").write_text(head + rows)


def jsonl_workspace(root: Path, url: str, questions: int, entrants: int = 1, in_flight: int = 64) -> None:
    """Write a workspace with a sealed edition of numbered sums, kept in JSON lines."""
    (root / "dryquarry.toml").write_text("")
    (root / "entrants.toml").write_text(
        "".join(
            f'[entrant.knot{n}]\nendpoint = "{url}"\nmodel = "standin-knot{n}"\nlimits = {{in_flight = {in_flight}}}\n'
            for n in range(entrants)
        )
    )
    folder = root / "suites" / "sums" / "questions"
    folder.mkdir(parents=True)
    head = 'title: Sums\nask: {answer_line: "Answer:"}\nmark: {scheme: number}\n'
    (folder.parent / "suite.yaml").write_text(head)
    rows = ({"id": f"q{n}", "ask": f"What is {n} plus 1, says the desk?", "key": n + 1} for n in range(questions))
    (folder / "all.jsonl").write_text("".join(json.dumps(row) + "\n" for row in rows))
    seal = [*PROGRAM, "suite", "seal", "sums", "--note", "benchmark", "--workspace", str(root)]
    subprocess.run(seal, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
