"""`suite check` of 100,000 questions in JSONL: at most 6 s and 600 MB, in a process of its own."""

from __future__ import annotations

import json
import resource
import subprocess
import tempfile
from pathlib import Path

from common import PROGRAM, report, seconds

QUESTIONS = 100_000


def question(number: int) -> dict[str, object]:
    """A question of one of three schemes, with all the usual fields."""
    common = {"category": f"c{number % 7}", "tags": ["a"], "why": "added up", "source": "made for this benchmark"}
    if number % 3 == 0:
        return {"id": f"q{number}", "ask": f"What is {number} plus {number + 1}?", "key": 2 * number + 1, **common}
    if number % 3 == 1:
        ask = f"Which bird was seen at post {number} on the tidal flats this morning?"
        return {"id": f"q{number}", "ask": ask, "key": ["dunlin", "a dunlin"], "mark": {"scheme": "exact"}, **common}
    options = {"A": f"at {number} o'clock", "B": "at noon", "C": "never"}
    ask = f"When does boat {number} leave the harbour?"
    key = "ABC"[number // 3 % 3]
    return {"id": f"q{number}", "ask": ask, "options": options, "key": key, "mark": {"scheme": "choice"}, **common}


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        root = Path(folder)
        (root / "dryquarry.toml").write_text("")
        suite = root / "suites" / "large"
        (suite / "questions").mkdir(parents=True)
        (suite / "suite.yaml").write_text('title: Large\nask: {answer_line: "Answer:"}\nmark: {scheme: number}\n')
        lines = "".join(json.dumps(question(number)) + "\n" for number in range(QUESTIONS))
        (suite / "questions" / "all.jsonl").write_text(lines)
        command = [*PROGRAM, "suite", "check", "large", "--workspace", folder]
        took = seconds(lambda: subprocess.run(command, check=True, stdout=subprocess.DEVNULL))
        peak_mb = resource.getrusage(resource.RUSAGE_CHILDREN).ru_maxrss / 1024
        report(f"suite check of {QUESTIONS:,} questions", took, 6, "s")
        report("its peak memory", peak_mb, 600, "MB")


if __name__ == "__main__":
    main()
