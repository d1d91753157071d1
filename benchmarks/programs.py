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

from common import report, seconds

from dryquarry.ledger.results import record_results, results_of
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Mark, Marking
from dryquarry.marking.registry import runners_of
from dryquarry.marking.works.jobs import Job, job_digest
from dryquarry.marking.works.results import Ended, Ran, RunResult
from dryquarry.sandbox import bubblewrap
from dryquarry.sandbox.box import Box, GivenFile, Start
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


def programs_a_second(sandbox: Sandbox, bare: list[str], count: int) -> None:
    """Mark trivial programs on both cores, and start the bare interpreter as often."""
    options = {"language": "python", "sessions": [{"output": ""}]}
    replies = [f"```python\nx = {number}\n```" for number in range(count)]
    asked, settle = jobs("program", options, replies)
    began = time.perf_counter()
    came = [one for one in sandbox.perform_all(asked, CORES) if one is not None]
    results = {digest: result for digest, result in came if isinstance(result, RunResult)}
    marks = [settle(reply, results[digest]) for reply, digest in zip(replies, asked, strict=True)]
    marked_s = time.perf_counter() - began
    assert all(mark.score == 1.0 for mark in marks)
    began = time.perf_counter()
    with ThreadPoolExecutor(CORES) as pool:
        list(pool.map(lambda _: started(bare), range(count)))
    bare_s = time.perf_counter() - began
    print(
        f"{count} programs marked in {marked_s:.2f} s, {count / marked_s:.0f} a second; bare starts {count / bare_s:.0f} a second"
    )
    report("programs marked, against as many bare starts", bare_s / marked_s, 0.5, "of them", more_is_better=True)


def started(command: list[str]) -> None:
    subprocess.run(command, check=True, capture_output=True, stdin=subprocess.DEVNULL)


def above_a_bare_start(box: Box, python: Runtime, bare: list[str]) -> None:
    """Time single starts, in the sandbox and bare, in turns."""
    files = {"program.py": GivenFile(b"pass\n")}
    start = Start((*python.command, "program.py"), files=files, sees=python.sees, hides=python.hides)
    times = [(seconds(lambda: run(box, start)), seconds(lambda: started(bare))) for _ in range(40)]
    boxed, alone = (statistics.median(side) for side in zip(*times, strict=True))
    report("a program in the sandbox, above a bare start", max(boxed - alone, 0.0) * 1000, 40, "ms")


def kept_results() -> None:
    """Look up 1,000 results in a ledger."""
    names = [f"{number:064x}" for number in range(1000)]
    with tempfile.TemporaryDirectory() as folder:
        ledger = Ledger.write(Path(folder) / "ledger.db", "bench")
        record_results(
            ledger, dict.fromkeys(names, RunResult("Python", (Ran("session 1", Ended.DONE, out="x" * 200),)))
        )
        report("1,000 kept results looked up", seconds(lambda: results_of(ledger, names)), 1, "s")
        ledger.close()


def pages_a_second(sandbox: Sandbox) -> None:
    """Open pages in one browser, each with a click and a picture."""
    steps = [{"click": "#b"}, {"picture": "after"}]
    pages, _ = jobs(
        "page", {"size": [800, 600], "steps": steps}, [PAGE.replace("{0}", str(number)) for number in range(12)]
    )
    sandbox.perform(next(iter(pages.values())))  # the browser is open now
    began = time.perf_counter()
    for job in pages.values():
        assert sandbox.perform(job).tests[-1].name == "no error in the console"
    report(
        "pages with a click and pictures",
        len(pages) / (time.perf_counter() - began),
        2,
        "a second",
        more_is_better=True,
    )


def main() -> None:
    box, python = bubblewrap.found(), runtime_of("python", {})
    if isinstance(box, str):
        sys.exit(box)
    assert isinstance(python, Runtime)
    sandbox = Sandbox()
    with tempfile.TemporaryDirectory() as empty:
        # in an environment without packages: a program in the sandbox does not see those of this machine either
        started([python.command[0], "-m", "venv", "--without-pip", empty])
        bare = [f"{empty}/bin/python", "-s", "-c", "pass"]
        programs_a_second(sandbox, bare, int(sys.argv[1]) if len(sys.argv) > 1 else 200)
        above_a_bare_start(box, python, bare)
    kept_results()
    pages_a_second(sandbox)
    sandbox.close()


if __name__ == "__main__":
    main()
