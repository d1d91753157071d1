"""What the statistics of the standings come to where the truth is known: tables in Markdown for docs/statistics.md.

    simulations.py [BOARDS]     # how many simulated boards a cell; 1,000 if not said

Entrants pass a question with a chance that depends on their ability and its difficulty (logistic, spread 1.5); questions, families
and trials are drawn anew for each board. The seed is fixed.
"""

from __future__ import annotations

import sys
from collections.abc import Callable, Iterator

import numpy as np

from dryquarry.standing.equating import AllEditions, equate
from dryquarry.standing.gates import gate_versus
from dryquarry.standing.intervals import score_interval, trials_interval
from dryquarry.standing.paired import adjusted_p_values, compare, places_of

SPREAD = 1.5
COUNTS = (13, 27, 50, 200)
TRUTHS = (0.5, 0.8, 0.9, 0.98)
LEVELS = np.linspace(-8, 8, 2001)
DENSITY = np.exp(-(LEVELS**2) / 2)


def passing(ability: np.ndarray | float, hard: np.ndarray) -> np.ndarray:
    """The chance of passing."""
    return 1 / (1 + np.exp(-(ability + SPREAD * hard)))


def ability_of(truth: float) -> float:
    """The ability with which so large a share of all questions is passed."""
    low, high = -15.0, 15.0
    for _ in range(60):
        middle = (low + high) / 2
        mean = float(np.average(passing(middle, LEVELS), weights=DENSITY))
        low, high = (middle, high) if mean < truth else (low, middle)
    return low


KINDS = ("pass/fail", "five trials", "part scores", "weights", "families", "families alike", "families that agree")


def drawn(
    random: np.random.Generator, kind: str, ability: float, count: int
) -> tuple[np.ndarray, np.ndarray, np.ndarray]:
    """Scores, weights and families of one entrant on questions drawn anew."""
    families = np.arange(count) // 4 if kind.startswith("families") else np.arange(count)
    clusters = families.max() + 1
    hard = random.standard_normal(count)
    if kind == "families":
        hard = np.sqrt(0.5) * hard + np.sqrt(0.5) * random.standard_normal(clusters)[families]
    elif kind == "families alike":
        hard = random.standard_normal(clusters)[families]
    chance = passing(ability, hard)
    if kind == "families that agree":
        scores = (random.random(clusters) < passing(ability, random.standard_normal(clusters)))[families].astype(float)
    elif kind in ("five trials", "part scores"):
        most = 5 if kind == "five trials" else 4
        scores = random.binomial(most, chance) / most
    else:
        scores = (random.random(count) < chance).astype(float)
    weights = random.choice([1.0, 1.0, 2.0, 4.0], count) if kind == "weights" else np.ones(count)
    return scores, weights, families


def table(title: str, heads: list[str], rows: Iterator[list[str]]) -> None:
    print(f"\n### {title}\n\n| {' | '.join(heads)} |\n|{'---|' * len(heads)}")
    for row in rows:
        print(f"| {' | '.join(row)} |", flush=True)


def coverage_rows(boards: int) -> Iterator[list[str]]:
    random = np.random.default_rng(20_261_126)
    for kind in KINDS:
        for count in COUNTS:
            cells = []
            for truth in TRUTHS:
                ability, covered, width = ability_of(truth), 0, 0.0
                for _ in range(boards):
                    got = score_interval(*drawn(random, kind, ability, count))
                    covered += got.low <= truth <= got.high
                    width += got.high - got.low
                cells.append(f"{covered / boards:.3f} ({width / boards:.2f})")
            yield [kind, str(count), *cells]


def trial_rows(boards: int) -> Iterator[list[str]]:
    random = np.random.default_rng(20_261_127)
    for trials in (1, 2, 5):
        for count in COUNTS:
            cells = []
            for truth in TRUTHS:
                covered = 0
                for _ in range(boards):
                    chance = passing(ability_of(truth), random.standard_normal(count))
                    passed = random.random((trials, count)) < chance
                    within = passed.var(axis=0, ddof=1) if trials > 1 else np.full(count, np.nan)
                    got = trials_interval(passed.mean(axis=0), np.ones(count), within, np.full(count, float(trials)))
                    covered += got.low <= chance.mean() <= got.high
                cells.append(f"{covered / boards:.3f}")
            yield [str(trials), str(count), *cells]


def board_of(
    random: np.random.Generator, abilities: np.ndarray, count: int, families: np.ndarray, effect: float
) -> np.ndarray:
    """Passes of several entrants; with an `effect` each has families that suit it and others that do not."""
    suits = effect * random.standard_normal((len(abilities), families.max() + 1))[:, families]
    chance = passing(abilities[:, None] + suits, random.standard_normal(count))
    return (random.random(chance.shape) < chance).astype(float)


def equal_rows(boards: int) -> Iterator[list[str]]:
    random = np.random.default_rng(20_261_128)
    for entrants in (2, 5, 10, 20):
        for count, size, effect in ((27, 1, 0.0), (200, 1, 0.0), (52, 4, 1.0), (200, 4, 1.0)):
            families, false = np.arange(count) // size, 0
            for _ in range(boards):
                scores = board_of(random, np.full(entrants, 0.9), count, families, effect)
                false += bool((adjusted_p_values(scores, np.ones(count), families) < 0.05).any())
            yield [str(entrants), str(count), str(size), f"{effect:g}", f"{false / boards:.3f}"]


def rank_rows(boards: int) -> Iterator[list[str]]:
    random = np.random.default_rng(20_261_129)
    for entrants, count, gap in ((5, 50, 0.5), (10, 200, 0.3), (20, 200, 0.1)):
        abilities = 0.5 + gap * np.arange(entrants)[::-1]
        best = right = 0
        for _ in range(boards):
            scores = board_of(random, abilities, count, np.arange(count), 0.0)
            adjusted = adjusted_p_values(scores, np.ones(count), np.arange(count))
            places = places_of(scores.mean(axis=1), adjusted)
            best += places.bands[0] > 1
            right += all(places.lowest[n] <= n + 1 <= places.highest[n] for n in range(entrants))
        yield [str(entrants), str(count), f"{gap:g}", f"{best / boards:.3f}", f"{right / boards:.3f}"]


def difference_rows(boards: int) -> Iterator[list[str]]:
    """Intervals of a difference, and gates at the very margin, where they may hold in at most 5 of 100 cases."""
    random = np.random.default_rng(20_261_130)
    for count, size in ((27, 1), (50, 1), (200, 1), (52, 4), (200, 4)):
        families = np.arange(count) // size
        for first, second in ((0.8, 0.8), (0.7, 0.8), (0.9, 0.95)):
            abilities = np.array([ability_of(first), ability_of(second)])
            covered = held = 0
            for _ in range(boards):
                scores = board_of(random, abilities, count, families, 0.0)
                got = compare(scores[0], scores[1], np.ones(count), families)
                assert got is not None
                covered += got.interval.low <= first - second <= got.interval.high
                held += gate_versus(f"no worse than {second - first:.4f}", got).holds
            yield [str(count), str(size), f"{first:g} / {second:g}", f"{covered / boards:.3f}", f"{held / boards:.3f}"]


def equated_rows(boards: int) -> Iterator[list[str]]:
    """Half of the entrants sat the first edition, half the second, onto whose scale all are put; some sat both."""
    random = np.random.default_rng(20_261_131)
    for entrants, both, count, shared, harder, effect in (
        (6, 0, 30, 15, 0.0, 0.0), (10, 0, 50, 25, 0.0, 0.0), (10, 2, 50, 12, 0.0, 0.0), (10, 0, 50, 25, 1.5, 0.0),
        (10, 0, 50, 25, 0.0, 0.7), (20, 0, 50, 12, 0.0, 0.0),
    ):  # fmt: skip
        errors, own, covered = [], [], []
        for _ in range(boards):
            questions = 2 * count - shared
            hard = SPREAD * random.standard_normal(questions) - harder * (np.arange(questions) >= count)
            level = (
                0.8
                + random.standard_normal((entrants, 1))
                + hard
                + effect * random.standard_normal((entrants, questions))
            )
            chance = 1 / (1 + np.exp(-level))
            scores = (random.random(chance.shape) < chance).astype(float)
            first = entrants // 2
            scores[: first - both, count:] = np.nan
            scores[first:, : count - shared] = np.nan
            target = np.arange(questions) >= count - shared
            names = tuple((str(number), "") for number in range(entrants))
            batches = (np.arange(questions) >= count).astype(np.intp)
            ids = tuple(str(number) for number in range(questions))
            found = equate(AllEditions("s", "2", ids, names, ((),) * entrants, scores, target, target * 1.0, batches))
            rows = {int(row.entrant): row for row in found.rows}
            for number in range(first - both):
                row, truth = rows[number], float(chance[number, target].mean())
                errors.append(row.score - truth)
                own.append(float(np.nanmean(scores[number])) - truth)
                covered.append(row.interval.low <= truth <= row.interval.high)
        root = [f"{float(np.sqrt(np.mean(np.square(each)))):.3f}" for each in (errors, own)]
        yield [
            str(entrants),
            str(both),
            str(count),
            str(shared),
            f"{harder:g}",
            f"{effect:g}",
            f"{np.mean(covered):.3f}",
            *root,
        ]


def main() -> None:
    boards = int(sys.argv[1]) if len(sys.argv) > 1 else 1000
    truths = [f"truth {truth:g}" for truth in TRUTHS]
    jobs: list[tuple[str, list[str], Callable[[int], Iterator[list[str]]], int]] = [
        ("Intervals about questions of this kind: coverage (mean width)", ["marks", "questions", *truths], coverage_rows, boards),
        ("Intervals about these questions over new trials: coverage", ["trials", "questions", *truths], trial_rows, boards),
        ("Equal entrants: boards with any false difference", ["entrants", "questions", "family", "effect", "boards"], equal_rows, boards // 2),
        ("Unequal entrants: the best below band 1; all rank ranges right", ["entrants", "questions", "gap", "best below", "ranks right"], rank_rows, boards // 2),
        ("Equated scores of who sat the earlier edition: coverage, error, and that of their own scores", ["entrants", "sat both", "questions", "shared", "harder", "effect", "coverage", "error", "own"], equated_rows, boards // 5),
        ("Differences: coverage; gates that hold at their very margin", ["questions", "family", "truths", "coverage", "gate holds"], difference_rows, boards),
    ]  # fmt: skip
    for title, heads, rows, many in jobs:
        table(f"{title} ({many:,} boards a cell)", heads, rows(many))


if __name__ == "__main__":
    main()
