"""Replies made to be slow to read, at two lengths: a reader that takes more than its share for the longer is told.

    python benchmarks/linear.py [EVERY]     # every combination, or only each EVERY-th

A reply is a beginning, a filler many times, and an end. Four times the length may take four times as long; what
takes more than eight times as long, and is long enough to be noticed at all, is not linear.
"""

from __future__ import annotations

import itertools
import sys
import time
from collections.abc import Iterator

from dryquarry.marking.model import Marker, Marking
from dryquarry.marking.registry import prepare

SHORT, LONG = 4_000, 16_000
NOTICED_S, MOST_RATIO = 0.4, 8.0
BEGINNINGS = (
    "",
    "$",
    "(",
    "Answer:",
    "Answer: red",
    "**",
    "\\boxed{",
    "```\n",
    "| a | b |\n|---|---|\n",
    "1",
    '{"a": ',
    "A) ",
)
FILLERS = (
    " ",
    "\n",
    "(",
    "[",
    "*",
    "`",
    "$",
    "{",
    "\\",
    "-",
    "1,",
    "1/",
    "one ",
    "a ",
    "A) x\n",
    "- a\n",
    "not ",
    "x^",
    "'",
    ". ",
)
ENDS = ("", "x", "red", ")", "$", "}", "\nAnswer: red", "\n5")
MARKINGS = {
    "exact": Marking("exact", "red", answer_line="Answer:"),
    "number": Marking("number", 5, answer_line="Answer:"),
    "unit": Marking("number", 5, {"unit": "km/h"}, answer_line="Answer:"),
    "clock": Marking("number", "17:30", {"unit": "clock"}, answer_line="Answer:"),
    "expression": Marking("expression", "x^2 + 1", answer_line="Answer:"),
    "choice": Marking("choice", "A", choices=(("A", "red"), ("B", "green")), answer_line="Answer:"),
    "set": Marking("set", ["red", "green"], answer_line="Answer:"),
    "sequence": Marking("sequence", ["red", "green"], answer_line="Answer:"),
    "fields": Marking("fields", {"a": 1}),
    "pattern": Marking("pattern", "re+d", answer_line="Answer:"),
    "rules": Marking("rules", None, {"rules": [{"lines": 3}, {"words": 5}, {"has": "red"}, {"json": True}]}),
    "self_count": Marking("self_count", None, {"of": "words"}),
    "abstain": Marking("abstain", answer_line="Answer:"),
}


def combinations(every: int = 1) -> Iterator[tuple[str, str, str]]:
    """Yield beginnings, fillers and ends, each `every`-th of their combinations."""
    yield from itertools.islice(itertools.product(BEGINNINGS, FILLERS, ENDS), 0, None, every)


def seconds_for(marker: Marker, beginning: str, filler: str, end: str, length: int) -> float:
    """Return how long a reply of about a length takes."""
    text = beginning + filler * (length // len(filler)) + end
    before = time.process_time()
    marker(text)
    return time.process_time() - before


def slow(marker: Marker, every: int = 1) -> list[tuple[str, str, str, float, float]]:
    """Return the combinations whose longer reply takes more than its share, with both times."""
    found = []
    for one in combinations(every):
        longer = seconds_for(marker, *one, LONG)
        if longer < NOTICED_S:
            continue
        shorter = seconds_for(marker, *one, SHORT)
        longer = min(longer, seconds_for(marker, *one, LONG))
        if longer >= NOTICED_S and longer > MOST_RATIO * shorter:
            found.append((*one, shorter, longer))
    return found


def main() -> None:
    every = int(sys.argv[1]) if len(sys.argv) > 1 else 1
    count = sum(1 for _ in combinations(every))
    for name, marking in MARKINGS.items():
        marker, before = prepare(marking), time.process_time()
        found = slow(marker, every)
        print(f"{name}: {count} combinations in {time.process_time() - before:.0f} s, {len(found)} not linear")
        for beginning, filler, end, shorter, longer in found:
            print(f"  {beginning!r} + {filler!r} … + {end!r}: {shorter:.2f} s, four times as long {longer:.2f} s")


if __name__ == "__main__":
    main()
