"""How often a wrong key among 50 questions is found, and how often a right one is suspected: a table in Markdown.

    suspect_keys.py [BOARDS]     # how many simulated boards a row; 120 if not said

Who does not know an answer gives one of several wrong ones; which of them is popular differs from question to question,
little ("even") or much ("uneven"). The seed is fixed.
"""

from __future__ import annotations

import sys
from dataclasses import dataclass

import numpy as np

from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.items import Worth, item_table
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item, Result

QUESTIONS = 50
SPREAD = 1.5
POPULAR = {"even": 50.0, "uneven": 1.0}
NAMES = [f"q{number}" for number in range(QUESTIONS)]


def board(random: np.random.Generator, entrants: int, wrong: int, popular: float) -> tuple[int, list[EntrantResults]]:
    """The number of the question whose key is wrong, and all replies."""
    hard = SPREAD * random.standard_normal(QUESTIONS)
    shares = random.dirichlet(np.full(wrong, popular), QUESTIONS)
    planted, its_key = int(random.integers(QUESTIONS)), int(random.integers(wrong))
    found = []
    for ability in random.uniform(0.2, 2.8, entrants):
        knows = random.random(QUESTIONS) < 1 / (1 + np.exp(-(ability + hard)))
        picks = [int(random.choice(wrong, p=share)) for share in shares]
        passes = knows.copy()
        passes[planted] = not knows[planted] and picks[planted] == its_key
        results = [
            Result(
                name,
                1,
                Outcome.ANSWERED,
                float(passed),
                Verdict.PASS if passed else Verdict.FAIL,
                answer="right" if known else f"wrong {pick}",
            )
            for name, passed, known, pick in zip(NAMES, passes, knows, picks, strict=True)
        ]
        found.append(EntrantResults.of(f"e{len(found)}", "", results))
    return planted, found


@dataclass
class Counts:
    """How many wrong keys were found, of how many where at least half knew the answer, and right ones suspected."""

    found: int = 0
    known: int = 0
    found_of_known: int = 0
    alarms: int = 0


def tried(boards: int, entrants: int, wrong: int, popular: float) -> Counts:
    """Count over so many boards, each with one wrong key."""
    random = np.random.default_rng(7)
    counts = Counts()
    for _ in range(boards):
        planted, replies = board(random, entrants, wrong, popular)
        rows = item_table("sums", "1", [Item(name) for name in NAMES], replies).rows
        suspected = [number for number, row in enumerate(rows) if row.worth is Worth.SUSPECT_KEY]
        knew = [one.replies.answer[one.replies.question == planted][0] == "right" for one in replies]
        known = 2 * sum(knew) >= entrants
        counts.found += planted in suspected
        counts.known += known
        counts.found_of_known += known and planted in suspected
        counts.alarms += len([number for number in suspected if number != planted])
    return counts


def main() -> None:
    boards = int(sys.argv[1]) if len(sys.argv) > 1 else 120
    print("| entrants | wrong answers | popularity | found | where half knew it | false alarms in 50 questions |")
    print("|---|---|---|---|---|---|")
    for popularity, popular in POPULAR.items():
        for wrong in (8, 3):
            for entrants in (5, 10, 20):
                counts = tried(boards, entrants, wrong, popular)
                found = f"{counts.found / boards:.0%} | {counts.found_of_known / counts.known:.0%}"
                print(f"| {entrants} | {wrong} | {popularity} | {found} | {counts.alarms / boards:.2f} |", flush=True)


if __name__ == "__main__":
    main()
