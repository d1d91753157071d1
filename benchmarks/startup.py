"""`dryquarry --help` against `python -c "import click"`: at most 3 times as long."""

from __future__ import annotations

import subprocess
import sys
from statistics import median

from common import report, seconds

ROUNDS = 15


def main() -> None:
    program = str(sys.executable).replace("python3", "dryquarry").replace("python", "dryquarry")
    commands = {"bare": [sys.executable, "-c", "import click"], "help": [program, "--help"]}
    times: dict[str, list[float]] = {"bare": [], "help": []}
    for _ in range(ROUNDS):
        for name, command in commands.items():
            times[name].append(seconds(lambda: subprocess.run(command, stdout=subprocess.DEVNULL, check=True)))
    report("dryquarry --help", median(times["help"]), 3 * median(times["bare"]), "s")


if __name__ == "__main__":
    main()
