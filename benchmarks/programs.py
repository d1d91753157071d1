"""Programs and pages run: how many a second, and how far above a bare start, each against its limit in the same run.

python benchmarks/programs.py [N]      N programs (200 if not said)
"""

from __future__ import annotations

import statistics
import subprocess
import sys
import tempfile
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from pathlib import Path

from common import report

from dryquarry.ledger.results import record_results, results_of
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Mark, Marking
from dryquarry.marking.registry import runners_of
from dryquarry.marking.works.jobs import Job, Limits, job_digest
from dryquarry.marking.works.results import RunResult
from dryquarry.sandbox import bubblewrap
from dryquarry.sandbox.box import GivenFile, Start
from dryquarry.sandbox.languages import Runtime, runtime_of
from dryquarry.sandbox.performing import Sandbox
from dryquarry.sandbox.running import run

CORES = 2
PAGE = "```html\n<!DOCTYPE html><html><head><title>x</title></head><body><p id=t>1</p><button id=b onclick='t.textContent={0}'>b</button></body></html>\n```"


def jobs(
    scheme: str, options: dict[str, object], replies: list[str]
) -> tuple[dict[str, Job], Callable[[str, object], Mark]]:
    (runner,) = runners_of(Marking(scheme, options=options))
    found = {}
    for reply in replies:
        job = runner.job(reply)
        assert not isinstance(job, Mark)
        found[job_digest(job)] = job
    return found, runner.settle  # type: ignore[return-value]


def main() -> None:
    count = int(sys.argv[1]) if len(sys.argv) > 1 else 200
    box, python = bubblewrap.found(), runtime_of("python", {})
    if isinstance(box, str):
        sys.exit(box)
    assert isinstance(python, Runtime)
    # in an environment without packages: a program in the sandbox does not see those of this machine either
    empty = tempfile.TemporaryDirectory()
    subprocess.run([python.command[0], "-m", "venv", "--without-pip", empty.name], check=True)
    bare = [f"{empty.name}/bin/python", "-s", "-c", "pass"]
    options = {"language": "python", "sessions": [{"output": ""}]}
    replies = [f"```python\nx = {number}\n```" for number in range(count)]
    asked, settle = jobs("program", options, replies)
    sandbox = Sandbox()
    began = time.perf_counter()
    results = {
        one[0]: one[1] for one in sandbox.perform_all(asked, CORES) if one is not None and isinstance(one[1], RunResult)
    }
    marks = [settle(reply, result) for reply, result in zip(replies, results.values(), strict=True)]
    marked_s = time.perf_counter() - began
    assert all(mark.score == 1.0 for mark in marks)
    began = time.perf_counter()
    with ThreadPoolExecutor(CORES) as pool:
        list(
            pool.map(
                lambda _: subprocess.run(bare, check=True, capture_output=True, stdin=subprocess.DEVNULL), range(count)
            )
        )
    bare_s = time.perf_counter() - began
    print(
        f"{count} programs marked in {marked_s:.2f} s, {count / marked_s:.0f} a second; bare starts {count / bare_s:.0f} a second"
    )
    report("programs marked, against as many bare starts", bare_s / marked_s, 0.5, "of them", more_is_better=True)

    start = Start(
        (*python.command, "program.py"),
        files={"program.py": GivenFile(b"pass\n")},
        sees=python.sees,
        hides=python.hides,
        limits=Limits(),
    )
    boxed, alone = [], []
    for _ in range(40):
        began = time.perf_counter()
        run(box, start)
        boxed.append(time.perf_counter() - began)
        began = time.perf_counter()
        subprocess.run(bare, check=True, capture_output=True, stdin=subprocess.DEVNULL)
        alone.append(time.perf_counter() - began)
    over_ms = (statistics.median(boxed) - statistics.median(alone)) * 1000
    report("a program in the sandbox, above a bare start", max(over_ms, 0.0), 40, "ms")

    with tempfile.TemporaryDirectory() as folder:
        ledger = Ledger.write(Path(folder) / "ledger.db", "bench")
        result = next(iter(results.values()))
        record_results(ledger, {f"{number:064x}": result for number in range(1000)})
        began = time.perf_counter()
        assert len(results_of(ledger, [f"{number:064x}" for number in range(1000)])) == 1000
        report("1,000 kept results looked up", time.perf_counter() - began, 1, "s")
        ledger.close()

    steps = [{"click": "#b"}, {"picture": "after"}]
    pages, _ = jobs(
        "page", {"size": [800, 600], "steps": steps}, [PAGE.replace("{0}", str(number)) for number in range(12)]
    )
    first = next(iter(pages.values()))
    sandbox.perform(first)  # the browser is open now
    began = time.perf_counter()
    for job in pages.values():
        assert sandbox.perform(job).tests[-1].name == "no error in the console"
    rate = len(pages) / (time.perf_counter() - began)
    sandbox.close()
    report("pages with a click and pictures", rate, 2, "a second", more_is_better=True)


if __name__ == "__main__":
    main()
