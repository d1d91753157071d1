"""Judges with planted habits, audited scores and votes, simulated with known truth: the tables of docs/statistics.md.

python benchmarks/judge_simulations.py habits     in how many of 100 checks each habit is told, and where there is none
python benchmarks/judge_simulations.py corrected  how often corrected and raw scores cover the truth
python benchmarks/judge_simulations.py votes      strengths covered, and votes needed by telling pairs and by chance
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Mapping

import numpy as np

from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.audits import Auditable, draw_audit
from dryquarry.standing.board import build_board
from dryquarry.standing.corrected import Audited
from dryquarry.standing.judge_checks import Pair, agreement_of, drift_of, family_favour, length_slope
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item, Result
from dryquarry.standing.votes import Choice, Vote, _chances, _designs, _information, vote_board

RUNS = 200
PASS_AT = 0.6


def marks(chance: np.random.Generator, count: int, habit: str, size: float) -> list[Pair]:
    """Return replies to a quarter as many questions, marked by a judge with one habit, of that size, and noise."""
    found = []
    for number in range(count):
        words, own = int(chance.integers(20, 220)), number % 4 == 0
        hand = round(float(chance.uniform(0, 1)), 1)
        extra = {"leniency": size, "length": size * (words - 120) / 100, "own family": size * own}.get(habit, 0.0)
        judge = float(np.clip(hand + extra + chance.normal(0, 0.12), 0, 1))
        found.append(
            Pair(f"q{number % max(3, count // 4)}", judge, judge >= PASS_AT, hand, hand >= PASS_AT, words, None, own)
        )
    return found


def order_told(chance: np.random.Generator, count: int, size: float) -> bool:
    """Tell whether a judge of pairs that prefers the first by so many log-odds is found out."""
    votes = []
    for number in range(count // 2):
        apart = chance.normal(0, 1)
        for first, second, worth in (("a", "b", apart), ("b", "a", -apart)):
            weights = np.exp([worth / 2 + size / 2, -worth / 2 - size / 2, -0.5])
            choice = chance.choice([Choice.FIRST, Choice.SECOND, Choice.TIE], p=weights / weights.sum())
            votes.append(Vote(f"q{number % 10}", first, second, Choice(choice)))
    found = vote_board(votes, ["a", "b"], 1).order_interval
    return found.low is not None and found.high is not None and (found.low > 0 or found.high < 0)


def drift_told(chance: np.random.Generator, count: int, size: float) -> bool:
    first = chance.uniform(0.1, 0.9, count)
    last = first + size + chance.normal(0, 0.1, count)
    pairs = [Pair(f"q{n % max(3, count // 2)}", b, True, a, True) for n, (a, b) in enumerate(zip(first, last, strict=True))]  # fmt: skip
    return drift_of(pairs).tells


def habits() -> None:
    estimates: Mapping[str, Callable[[list[Pair]], bool]] = {
        "leniency": lambda pairs: agreement_of(pairs).bias.tells,
        "length": lambda pairs: length_slope(pairs).tells,
        "own family": lambda pairs: family_favour(pairs).tells,
    }
    planted = {"leniency": 0.1, "length": 0.15, "own family": 0.2, "order": 0.8, "drift": 0.08}
    print(f"{'habit':12} {'planted':>8} " + " ".join(f"{f'{count} marks':>18}" for count in (20, 40, 80)))
    for habit, size in planted.items():
        cells = []
        for count in (20, 40, 80):
            told = []
            for planted_size in (size, 0.0):
                hits = 0
                for seed in range(RUNS if habit != "order" else RUNS // 4):
                    chance = np.random.default_rng(seed)
                    if habit == "order":
                        hits += 4 * order_told(chance, count, planted_size)
                    elif habit == "drift":
                        hits += drift_told(chance, count, planted_size)
                    else:
                        hits += estimates[habit](marks(chance, count, habit, planted_size))
                told.append(hits / RUNS * 100)
            cells.append(f"{told[0]:5.0f} (none: {told[1]:3.0f})")
        print(f"{habit:12} {size:8} " + " ".join(f"{cell:>18}" for cell in cells), flush=True)


Judge = Callable[[np.random.Generator, np.ndarray, int], np.ndarray]
GRADED: Mapping[str, Judge] = {
    "good": lambda chance, hand, place: hand + chance.normal(0, 0.1, len(hand)),
    "generous by 0.15": lambda chance, hand, place: hand + 0.15 + chance.normal(0, 0.1, len(hand)),
    "favours one by 0.25": lambda chance, hand, place: hand + 0.25 * (place == 0) + chance.normal(0, 0.1, len(hand)),
    "worthless": lambda chance, hand, place: chance.uniform(0, 1, len(hand)),
}
PASS_FAIL: Mapping[str, Judge] = {
    "passes 1 of 20 more": lambda chance, hand, place: np.where(chance.random(len(hand)) < 0.05, 1.0, hand),
    "wrong in 15 of 100": lambda chance, hand, place: np.where(chance.random(len(hand)) < 0.15, 1 - hand, hand),
    "worthless": lambda chance, hand, place: (chance.random(len(hand)) < 0.5).astype(float),
    "never wrong": lambda chance, hand, place: hand.copy(),
}
LEVELS = (0.5, 0.8, 0.93)
SPREAD = 0.15


def truths(graded: bool) -> list[float]:
    chance = np.random.default_rng(99)
    hard = chance.normal(0, SPREAD, 400_000)
    if not graded:
        return [float(np.clip(level + hard, 0, 1).mean()) for level in LEVELS]
    noise = chance.normal(0, SPREAD, 400_000)
    return [float(np.clip(level + hard + noise, 0, 1).round(1).mean()) for level in LEVELS]


def one_board(chance: np.random.Generator, judge: Judge, graded: bool, questions: int, audits: int, family: int):  # type: ignore[no-untyped-def]
    """Return the corrected and the raw board of three entrants."""
    items = [Item(f"q{n}", family=f"f{n // family}") for n in range(questions)]
    hard = np.repeat(chance.normal(0, SPREAD, questions // family), family)
    everyone, audited = [], {}
    for place, level in enumerate(LEVELS):
        able = np.clip(level + hard, 0, 1)
        hand = np.clip(level + hard + chance.normal(0, SPREAD, questions), 0, 1).round(1) if graded else (chance.random(questions) < able).astype(float)  # fmt: skip
        scores = np.clip(judge(chance, hand, place), 0, 1).round(1)
        name = f"e{place}"
        results = [
            Result(f"q{n}", 1, Outcome.ANSWERED, float(score), Verdict.PASS if score >= PASS_AT else Verdict.FAIL)
            for n, score in enumerate(scores)
        ]
        everyone.append(EntrantResults.of(name, name, results))
        pool = [Auditable(n, name, "pass" if scores[n] >= PASS_AT else "fail", False) for n in range(questions)]
        drawn = {one.key: one.probability for one in draw_audit(pool, audits, int(chance.integers(1e9)))}
        audited[name] = Audited(
            tuple(f"q{n}" for n in range(questions)),
            (1,) * questions,
            tuple(float(hand[n]) if n in drawn else float("nan") for n in range(questions)),
            tuple(drawn.get(n, 1.0) for n in range(questions)),
        )
    return build_board("s", "1", items, everyone, audits=audited), build_board("s", "1", items, everyone)


def corrected() -> None:
    sizes = ((60, 20, 1), (200, 20, 1), (200, 50, 1), (40, 20, 2), (600, 20, 1))
    print("coverage of the corrected score (raw score), by questions/audited each/family size")
    print(f"{'scores':10} {'judge':20} " + " ".join(f"{f'{q}/{n}/{f}':>16}" for q, n, f in sizes))
    for graded, judges in ((True, GRADED), (False, PASS_FAIL)):
        truth = truths(graded)
        for name, judge in judges.items():
            cells = []
            for questions, audits, family in sizes:
                chance, inside, raw = np.random.default_rng(5), 0, 0
                for _ in range(RUNS):
                    for board, count in zip(one_board(chance, judge, graded, questions, audits, family), (0, 1), strict=True):  # fmt: skip
                        covered = sum(row.low <= truth[int(row.entrant[1])] <= row.high for row in board.rows)  # type: ignore[operator]
                        inside, raw = (inside + covered, raw) if count == 0 else (inside, raw + covered)
                cells.append(f"{inside / RUNS / 3:.3f} ({raw / RUNS / 3:.3f})")
            print(
                f"{'graded' if graded else 'pass/fail':10} {name:20} " + " ".join(f"{cell:>16}" for cell in cells),
                flush=True,
            )


def votes() -> None:
    for count in (60, 150, 400):
        covered = order = bands = total = 0
        for seed in range(RUNS // 4):
            chance = np.random.default_rng(seed)
            truth = dict(zip("abcde", (1.0, 0.5, 0.0, -0.5, -1.0), strict=True))
            cast = []
            for number in range(count):
                first, second = (str(one) for one in chance.choice(list(truth), 2, replace=False))
                weights = np.exp([truth[first] + 0.25, truth[second] - 0.25, -0.5 + (truth[first] + truth[second]) / 2])
                choice = chance.choice([Choice.FIRST, Choice.SECOND, Choice.TIE], p=weights / weights.sum())
                cast.append(Vote(f"q{number % 25}", first, second, Choice(choice)))
            board = vote_board(cast, "abcde", seed)
            covered += sum(row.interval.low <= truth[row.entrant] <= row.interval.high for row in board.rows)  # type: ignore[operator]
            order += board.order_interval.low <= 0.5 <= board.order_interval.high  # type: ignore[operator]
            total += 1
            ranked = [row.entrant for row in board.rows]
            bands += (
                any(
                    row.band > other.band and truth[row.entrant] > truth[other.entrant]
                    for row in board.rows
                    for other in board.rows
                )
                if ranked
                else 0
            )
        print(f"{count} votes on 25 questions: strengths covered {covered / total / 5:.3f}, order effect {order / total:.3f}, "
              f"bands with an entrant below a weaker one {bands / total:.3f}", flush=True)  # fmt: skip
    if "quick" in sys.argv:
        return
    print("votes by telling pairs over votes by chance, for the same variance of all differences:")
    for entrants, reach in ((5, 2.0), (8, 2.0), (8, 3.5), (12, 3.0), (12, 6.0), (20, 6.0)):
        print(f"  {entrants} entrants, strengths −{reach:g} to {reach:g}: {needed(entrants, reach):.2f}", flush=True)


def needed(entrants: int, reach: float) -> float:
    parameters = np.array([*np.linspace(-reach, reach, entrants), -0.5, 0.0])
    centre = np.eye(entrants) - 1 / entrants

    def information(one: int, other: int) -> np.ndarray:
        design = _designs(np.array([[one, other, 1], [other, one, 1]]), entrants)
        return _information(design, _chances(design @ parameters), np.full(2, 0.5))

    def spread(matrix: np.ndarray) -> float:
        return float(np.trace(centre @ np.linalg.inv(matrix)[:entrants, :entrants] @ centre))

    gains = [information(one, other) for one in range(entrants) for other in range(one + 1, entrants)]
    base, by_chance = np.diag(np.full(entrants + 2, 1 / 9)), 30 * entrants
    wanted = spread(base + by_chance * sum(gains) / len(gains))
    count = 0
    while spread(base) > wanted:
        base = base + gains[int(np.argmin([spread(base + gain) for gain in gains]))]
        count += 1
    return count / by_chance


if __name__ == "__main__":
    {"habits": habits, "corrected": corrected, "votes": votes}[sys.argv[1]]()
