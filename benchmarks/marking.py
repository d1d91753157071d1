"""Marking replies by exact, number and choice: at least 20,000 a second on each of two cores at the same time."""

from __future__ import annotations

import multiprocessing

from common import report, seconds

from dryquarry.marking.model import Marking
from dryquarry.marking.registry import prepare

REPLIES = 20_000
CORES = 2
CHOICES = (("A", "the red lamp"), ("B", "the green lamp"), ("C", "the white lamp"))
SENTENCE = "The question gives what is needed, so step by step: 3 × 12.50 is 37.50, and the tide turns at noon. "
WORKING = "Let me work through this.\n\n" + SENTENCE * 7 + "\n\n"
CASES = {
    "exact": (Marking("exact", ["Arctic tern"], answer_line="Answer:"), "**Answer:** the Arctic tern"),
    "number": (
        Marking("number", 50, {"abs": 0.005}, answer_line="Answer:"),
        "Answer: 37.50 + 12.50 = 50.00 euros",
    ),
    "choice": (Marking("choice", "B", {}, CHOICES, "Answer:"), "Answer: B) the green lamp"),
}


def rate(scheme: str) -> float:
    """Replies of about 150 words marked in a second, by one process."""
    marking, answer = CASES[scheme]
    mark = prepare(marking)
    texts = [f"{WORKING}Case {number}.\n\n{answer}" for number in range(REPLIES)]
    mark(texts[0])  # its patterns are compiled when first used
    return REPLIES / seconds(lambda: [mark(text) for text in texts])


def main() -> None:
    assert 140 <= len(WORKING.split()) <= 160
    with multiprocessing.Pool(CORES) as pool:
        for scheme in CASES:
            for core, measured in enumerate(pool.map(rate, [scheme] * CORES, chunksize=1), start=1):
                report(f"marking by {scheme}, core {core}", measured, 20_000, "replies/s", more_is_better=True)


if __name__ == "__main__":
    main()
