"""A ledger that holds 1,000,000 replies: what is left to ask of one entrant is known within 3 s.

100 entrants have sat 10,000 questions; one of them is asked for what it still lacks, by `run --plan` in a process
of its own (start-up and reading the edition are taken off, measured in the same minute on an empty ledger).
"""

from __future__ import annotations

import shutil
import sqlite3
import subprocess
import tempfile
from pathlib import Path

from common import PROGRAM, jsonl_workspace, report, seconds

from dryquarry.ledger.queries import slots_of
from dryquarry.ledger.store import Ledger
from dryquarry.workspace import Workspace

ENTRANTS = 100
QUESTIONS = 10_000
LACKING = 100


def fill(opened: Workspace, questions: int = QUESTIONS) -> None:
    """Put a reply and a mark for every entrant and question into the ledger, but the last hundred of one."""
    ledger = Ledger.write(opened.folder.ledger_path, "benchmark")
    suite = opened.suites.get("sums")
    ledger.note_questions(suite.questions)
    sitters = [(one.name, ledger.note_sitter(one.digest, one.content)) for one in opened.entrants().entrants.values()]
    slots = slots_of(ledger, suite.questions)
    keys = {slot.ask_id: suite.questions[slot.position].marking.key for slot in slots}
    run_id = ledger.begin_run(suite.name, suite.edition)
    sittings = [(sitter, ledger.begin_sitting(run_id, sitter, name, None)) for name, sitter in sitters]
    ledger.close()
    raw = sqlite3.connect(ledger.path)
    raw.execute("PRAGMA synchronous = OFF")
    working = "Adding one to the number gives the next. " * 8
    for sitter, sitting in sittings:
        most = questions - (LACKING if sitter == 1 else 0)
        raw.executemany(
            "INSERT INTO replies (ask_id, sitter_id, trial, sitting_id, current, outcome, text, seconds,"
            " first_token_s, input_tokens, output_tokens, received_at)"
            " VALUES (?, ?, 1, ?, 1, 'answered', ?, ?, ?, 20, ?, '2026')",
            (
                (ask, sitter, sitting, f"{working}\n\nAnswer: {keys[ask]}", 40 / ask, 9 / ask, 60 + ask % 97)
                for ask in range(1, most + 1)
            ),
        )
    raw.execute("CREATE TEMP TABLE of_ask (ask_id INTEGER PRIMARY KEY, marking_id INTEGER)")
    raw.executemany("INSERT INTO of_ask VALUES (?, ?)", ((slot.ask_id, slot.marking_id) for slot in slots))
    raw.execute(
        "INSERT INTO marks (reply_id, marking_id, current, score, verdict, reason, marked_at, tool_version)"
        " SELECT id, marking_id, 1, 1.0, 'pass', 'read', '2026', '0' FROM replies JOIN of_ask USING (ask_id)"
    )
    raw.commit()
    raw.close()


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        jsonl_workspace(root, "http://127.0.0.1:9/v1", QUESTIONS, entrants=ENTRANTS)
        plan = [*PROGRAM, "run", "sums", "-e", "knot0", "--plan", "--workspace", folder, "--format", "json"]
        empty = seconds(lambda: subprocess.run(plan, check=True, stdout=subprocess.DEVNULL))
        shutil.rmtree(root / ".dryquarry", ignore_errors=True)
        fill(Workspace.open(root))
        took = seconds(lambda: subprocess.run(plan, check=True, stdout=subprocess.PIPE))
        said = subprocess.run(plan, check=True, capture_output=True, text=True).stdout
        assert f'"to_ask": {LACKING}' in said, said
        size_mb = (root / ".dryquarry" / "ledger.db").stat().st_size / 1e6
        print(f"{ENTRANTS * QUESTIONS - LACKING:,} replies held in {size_mb:.0f} MB; whole command {took:.2f} s")
        report("what is left to ask of one entrant", max(took - empty, 0.01), 3, "s")


if __name__ == "__main__":
    main()
