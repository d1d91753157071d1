"""A run killed at ten random moments and then finished: what is lost, and what is asked twice.

The stand-in counts the requests. What was in flight at a kill, or had come and was not stored yet (and so not
reported), has to be asked again, nothing else.
"""

from __future__ import annotations

import json
import random
import subprocess
import tempfile
import time
import urllib.request
from pathlib import Path

from common import PROGRAM, jsonl_workspace, standin

QUESTIONS = 6000
IN_FLIGHT = 8
KILLS = 10


def main() -> None:
    chance = random.Random(20261123)
    with standin(0.02) as url, tempfile.TemporaryDirectory() as folder:
        jsonl_workspace(Path(folder), url, QUESTIONS, in_flight=IN_FLIGHT)
        here = ["--workspace", folder]
        before = 0
        for kill in range(1, KILLS + 1):
            run = subprocess.Popen(
                [*PROGRAM, "run", "sums", *here], stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL
            )
            time.sleep(chance.uniform(1.5, 4.0))
            run.kill()
            run.wait()
            held, requests = held_replies(folder), requested(url)
            assert held >= before, "a reply that was stored is gone"
            print(f"kill {kill}: {held} held, {requests} requests, {requests - held} of them not in the ledger")
            before = held
        done = subprocess.run([*PROGRAM, "run", "sums", *here], capture_output=True, text=True)
        rows = json.loads(output("replies", "sums", "--format", "json", *here))
        keys = {(row["question"], row["trial"]) for row in rows}
        requests = requested(url)
        print(f"finished with exit {done.returncode}: {len(rows)} replies to {len(keys)} of {QUESTIONS} questions")
        print(
            f"{requests} requests, {requests - QUESTIONS} more than needed; at the kills {KILLS * IN_FLIGHT} were in flight"
        )
        print(output("ledger", "check", *here).strip())
        assert len(rows) == len(keys) == QUESTIONS
        assert requests - QUESTIONS <= 2 * KILLS * IN_FLIGHT


def held_replies(folder: str) -> int:
    """Return how many replies the ledger holds."""
    if not (Path(folder) / ".dryquarry" / "ledger.db").exists():
        return 0
    return int(json.loads(output("ledger", "info", "--format", "json", "--workspace", folder))["current_replies"])


def output(*arguments: str) -> str:
    return subprocess.run([*PROGRAM, *arguments], check=True, capture_output=True, text=True).stdout


def requested(url: str) -> int:
    with urllib.request.urlopen(f"{url}/standin/count") as answer:
        return int(json.loads(answer.read())["requests"])


if __name__ == "__main__":
    main()
