"""A ledger for measuring reports: so many entrants, questions and trials, with replies as long as real ones."""

from __future__ import annotations

import json
import random
import sqlite3
import subprocess
from pathlib import Path

from common import PROGRAM

from dryquarry.ledger.queries import slots_of
from dryquarry.ledger.store import Ledger
from dryquarry.workspace import Workspace

CATEGORIES = ("sums", "shares", "fares", "tides", "dates", "lamps", "money", "logic")
TAGS = ("one-step", "two-step", "table")
STEPS = (
    "First, **{a}** boats leave at dawn and {b} follow when the tide turns.\n\n",
    "- The first pier takes {a} of them.\n- The second takes {b}.\n- Nobody waits at the third.\n\n",
    "1. Add {a} and {b}.\n2. Take away those that turned back.\n3. Check the harbour's list once more.\n\n",
    "So we have $x = {a} + {b}$, which the keeper's book confirms for that morning. ",
    "The rest of the flotilla stays in the marsh, and the lamps are lit as ever along the causeway. ",
)


def write(root: Path, entrants: int, questions: int) -> None:
    """Write the files of a workspace with one sealed suite."""
    (root / "dryquarry.toml").write_text("")
    people = [
        f'[entrant.bird{n}]\ntitle = "Bird {n} (large)"\nendpoint = "http://127.0.0.1:9/v1"\nmodel = "standin-{n}"\n'
        f"settings = {{temperature = 0.2}}\nprice = {{input = 1.0, output = 4.0}}\n"
        for n in range(entrants)
    ]
    (root / "entrants.toml").write_text("".join(people))
    folder = root / "suites" / "sums" / "questions"
    folder.mkdir(parents=True)
    head = 'title: Sums of the harbour\nask: {answer_line: "Answer:"}\nmark: {scheme: number}\n'
    (folder.parent / "suite.yaml").write_text(head)
    rows = (
        {
            "id": f"q{n}",
            "ask": f"At Saltmarsh Light {n} boats lie in the harbour. One more comes in with the tide, while the keeper "
            "trims the lamp and the ferry waits for its passengers. How many boats lie there now?",
            "key": n + 1,
            "category": CATEGORIES[n % len(CATEGORIES)],
            "tags": [TAGS[n % len(TAGS)]],
        }
        for n in range(questions)
    )
    (folder / "all.jsonl").write_text("".join(json.dumps(row) + "\n" for row in rows))
    seal = [*PROGRAM, "suite", "seal", "sums", "--note", "benchmark", "--workspace", str(root)]
    subprocess.run(seal, check=True, stdout=subprocess.DEVNULL, stderr=subprocess.DEVNULL)


def fill(opened: Workspace, trials: int) -> int:
    """Put replies with marks into the ledger, the worse the later an entrant comes; returns how many."""
    ledger = Ledger.write(opened.folder.ledger_path, "benchmark")
    suite = opened.suites.get("sums")
    ledger.note_questions(suite.questions)
    sitters = [(one.name, ledger.note_sitter(one.digest, one.content)) for one in opened.entrants().entrants.values()]
    slots = slots_of(ledger, suite.questions)
    run_id = ledger.begin_run(suite.name, suite.edition)
    sittings = [(sitter, ledger.begin_sitting(run_id, sitter, name, None)) for name, sitter in sitters]
    ledger.close()
    chance = random.Random(4)
    replies, marks, number = [], [], 0
    for place, (sitter, sitting) in enumerate(sittings):
        for slot in slots:
            key, hard = suite.questions[slot.position].marking.key, chance.random()
            for trial in range(1, trials + 1):
                number += 1
                right = chance.random() < 0.95 - 0.02 * place - 0.3 * hard
                steps = "".join(
                    step.format(a=chance.randrange(90), b=chance.randrange(90)) for step in chance.sample(STEPS, 4)
                )
                answer = str(key if right else key + chance.choice((-1, 1, 10)))
                text = f"{steps * 2}\n\nAnswer: {answer}"
                replies.append(
                    (number, slot.ask_id, sitter, trial, sitting, text, 2 + 9 * chance.random(), len(text) // 4)
                )
                reason = f"{answer} is the key" if right else f"{answer} is not {key}"
                start = len(text) - len(answer)
                marks.append(
                    (
                        number,
                        slot.marking_id,
                        float(right),
                        "pass" if right else "fail",
                        reason,
                        answer,
                        start,
                        len(text),
                    )
                )
    raw = sqlite3.connect(ledger.path)
    raw.execute("PRAGMA synchronous = OFF")
    raw.executemany(
        "INSERT INTO replies (id, ask_id, sitter_id, trial, sitting_id, current, outcome, text, seconds, first_token_s,"
        " input_tokens, output_tokens, received_at)"
        " VALUES (?, ?, ?, ?, ?, 1, 'answered', ?, ?, 0.4, 60, ?, '2026-11-26T08:00:00+00:00')",
        replies,
    )
    raw.executemany(
        "INSERT INTO marks (reply_id, marking_id, current, score, verdict, reason, answer, answer_start, answer_end, read_by, marked_at,"
        " tool_version) VALUES (?, ?, 1, ?, ?, ?, ?, ?, ?, 'answer line', '2026-11-26T08:00:00+00:00', '0')",
        marks,
    )
    raw.commit()
    raw.close()
    return number
