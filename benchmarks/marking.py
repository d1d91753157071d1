"""Marking replies by exact, number and choice: at least 20,000 a second on one core."""

from __future__ import annotations

from common import report, seconds

from dryquarry.marking.model import Marking
from dryquarry.marking.registry import prepare

REPLIES = 20_000
CHOICES = (("A", "the red lamp"), ("B", "the green lamp"), ("C", "the white lamp"))
WORKING = "Let me work through this.\n\nThe question gives what is needed, so step by step: 3 × 12.50 = 37.50.\n\n"
CASES = {
    "exact": (Marking("exact", ["Arctic tern"], answer_line="Answer:"), "**Answer:** the Arctic tern"),
    "number": (
        Marking("number", 50, {"abs": 0.005}, answer_line="Answer:"),
        "Answer: 37.50 + 12.50 = 50.00 euros",
    ),
    "choice": (Marking("choice", "B", {}, CHOICES, "Answer:"), "Answer: B) the green lamp"),
}


def main() -> None:
    for scheme, (marking, answer) in CASES.items():
        mark = prepare(marking)
        texts = [f"{WORKING}Case {number}.\n\n{answer}" for number in range(REPLIES)]
        took = seconds(lambda: [mark(text) for text in texts])
        report(f"marking by {scheme}", REPLIES / took, 20_000, "replies/s", more_is_better=True)


if __name__ == "__main__":
    main()
