"""1,000,000 stored replies marked again: on two cores at 1.8 times the rate of one, and linearly.

100 entrants have sat 10,000 questions; all replies are marked again by `mark --plan` in a process of its own, with
one core and with two. The same with a tenth of the questions tells whether the time grows with the replies. How much a
bare loop gains from the second core is measured beside it: where the machine's other guests leave less than two cores,
nothing gains the whole.
"""

from __future__ import annotations

import argparse
import multiprocessing
import subprocess
import tempfile
from pathlib import Path

from common import PROGRAM, jsonl_workspace, report, seconds
from holding import fill

from dryquarry.workspace import Workspace

LOOP = 20_000_000


def counted(most: int) -> int:
    """A bare loop."""
    total = 0
    for number in range(most):
        total += number * number % 7
    return total


def bare_gain() -> float:
    """How many times the rate of one process two of them have in a bare loop."""
    with multiprocessing.Pool(2) as pool:
        pool.map(counted, [1000, 1000], chunksize=1)
        one = seconds(lambda: pool.map(counted, [LOOP], chunksize=1))
        two = seconds(lambda: pool.map(counted, [LOOP, LOOP], chunksize=1))
    return 2 * one / two


def marked_again(folder: str, cores: int) -> float:
    """How long `mark --plan` takes with so many cores."""
    command = [*PROGRAM, "mark", "sums", "--plan", "--processes", str(cores), "--workspace", folder, "--format", "json"]
    return seconds(lambda: subprocess.run(command, check=True, stdout=subprocess.DEVNULL))


def main() -> None:
    given = argparse.ArgumentParser(description=__doc__)
    given.add_argument("--questions", type=int, default=10_000)
    given.add_argument("--entrants", type=int, default=100)
    arguments = given.parse_args()
    took = {}
    for questions in (arguments.questions // 10, arguments.questions):
        with tempfile.TemporaryDirectory() as folder:
            jsonl_workspace(Path(folder), "http://127.0.0.1:9/v1", questions, entrants=arguments.entrants)
            fill(Workspace.open(Path(folder)), questions)
            print(f"a bare loop gains {bare_gain():.2f} times from a second core")
            for cores in (1, 2):
                took[questions, cores] = marked_again(folder, cores)
                rate = questions * arguments.entrants / took[questions, cores]
                print(f"{questions * arguments.entrants:,} replies, {cores} core(s): {rate:,.0f} replies/s")
    many, few = arguments.questions, arguments.questions // 10
    report("two cores against one", took[many, 1] / took[many, 2], 1.8, "times", more_is_better=True)
    report("ten times the replies", took[many, 2] / took[few, 2], 11, "times")


if __name__ == "__main__":
    main()
