"""A board over 1,000,000 marks (100 entrants × 10,000 questions), what its questions are worth, and one pair of entrants."""

from __future__ import annotations

import resource
import sqlite3
import subprocess
import tempfile
from pathlib import Path

import numpy as np
from common import PROGRAM, jsonl_workspace, report, seconds
from holding import ENTRANTS, QUESTIONS, fill

from dryquarry.workspace import Workspace

# What is typed, and within how many seconds it should be done.
COMMANDS = (
    ("board", ("board", "sums"), 5.0),
    ("the same board again", ("board", "sums"), 2.0),
    ("items", ("items", "sums"), 10.0),
    ("versus", ("versus", "knot1", "knot2", "--on", "sums"), 3.0),
)
MOST_MB = 1000.0


def spread(path: Path) -> None:
    """Let some of the marks be fails, the more the later an entrant comes, with some other answer."""
    raw = sqlite3.connect(path)
    entrant = "(SELECT sitter_id FROM replies WHERE replies.id = reply_id)"
    raw.execute(
        f"UPDATE marks SET score = 0.0, verdict = 'fail', answer = 'answer ' || reply_id % 7 WHERE abs(random()) % 1000 < 200 + 3 * {entrant}"
    )
    raw.commit()
    raw.close()


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        jsonl_workspace(root, "http://127.0.0.1:9/v1", QUESTIONS, entrants=ENTRANTS)
        fill(Workspace.open(root))
        spread(root / ".dryquarry" / "ledger.db")
        scores = (np.random.default_rng(1).random((ENTRANTS, QUESTIONS)) < 0.7).astype(float)
        once = seconds(lambda: scores @ scores.T)
        for name, typed, limit in COMMANDS:
            command = [*PROGRAM, *typed, "--workspace", folder]
            took = seconds(lambda command=command: subprocess.run(command, check=True, capture_output=True))  # type: ignore[misc]
            report(f"{name} over {ENTRANTS * QUESTIONS:,} marks", took, limit, "s")
            print(f"  {took / once:,.0f} times one pass of NumPy over the same scores")
        most = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
        report("most memory of these", most, MOST_MB, "MB")


if __name__ == "__main__":
    main()
