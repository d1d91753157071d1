"""The memory of a run does not grow with the suite: at most 250 MB at 100,000 questions of a sealed edition."""

from __future__ import annotations

import os
import subprocess
import tempfile
from pathlib import Path

from common import PROGRAM, jsonl_workspace, report, seconds, standin


def peak_mb(questions: int) -> float:
    """Run a suite of so many questions against the stand-in, and return the run's peak memory."""
    with standin(0.0) as url, tempfile.TemporaryDirectory() as folder:
        jsonl_workspace(Path(folder), url, questions)
        command = [*PROGRAM, "run", "sums", "--workspace", folder]
        process = subprocess.Popen(command, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)
        took = seconds(lambda: usage.append(os.wait4(process.pid, 0)))
        _, status, used = usage.pop()
        assert status == 0, status
        print(f"{questions:,} questions: {took:.0f} s, peak {used.ru_maxrss / 1024:.0f} MB")
        return used.ru_maxrss / 1024


usage: list = []


def main() -> None:
    small = peak_mb(1000)
    large = peak_mb(100_000)
    report("memory at 100,000 questions", large, 250, "MB")
    print(f"that is {large / small:.2f} × the memory at 1,000")


if __name__ == "__main__":
    main()
