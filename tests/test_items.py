"""What questions are worth: planted faults are found and others not; figures against independent formulas."""

from __future__ import annotations

import shutil
from pathlib import Path

import numpy as np
import pytest
from scipy import stats

from conftest import Place
from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.standing.items import Worth, item_table
from dryquarry.standing.reliability import feldt_interval, reliability_of
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item, Result
from dryquarry.standing.suspects import likelier, piled_up


def entrants_of(answers: dict[str, list[str]], keys: list[str]) -> tuple[list[Item], list[EntrantResults]]:
    """Entrants from what each answered to each question; a list "a/b" is of two trials."""
    items = [Item(f"q{place}") for place in range(len(keys))]
    return items, [
        EntrantResults.of(
            name,
            name,
            tuple(
                Result(f"q{place}", trial, Outcome.ANSWERED, float(said == key), Verdict.PASS if said == key else Verdict.FAIL, answer=said)
                for place, (each, key) in enumerate(zip(answered, keys, strict=True))
                for trial, said in enumerate(each.split("/"), start=1)
            ),
        )
        for name, answered in answers.items()
    ]  # fmt: skip


# Columns: sound, easy, never passed, wrong key (the able say b), two answers that share the field, sound, sound
KEYS = ["a", "a", "a", "a", "a", "a", "a"]
ANSWERS = {
    "one": ["a", "a", "b", "b", "a", "a", "a"],
    "two": ["a", "a", "c", "b", "b", "a", "a"],
    "three": ["a", "a", "d", "b", "b", "a", "c"],
    "four": ["b", "a", "e", "c", "a", "c", "c"],
    "five": ["c", "a", "f", "a", "c", "d", "d"],
}


def test_what_is_amiss_is_found_and_nothing_else() -> None:
    table = item_table("s", "1", *entrants_of(ANSWERS, KEYS))
    assert [row.worth for row in table.rows] == [
        None, Worth.SATURATED, Worth.OUT_OF_REACH, Worth.SUSPECT_KEY, Worth.AMBIGUOUS, None, None,
    ]  # fmt: skip
    assert "3 of 5 say 'b'" in table.rows[3].reason


def test_three_entrants_show_no_suspect_key_and_two_nothing_at_all() -> None:
    few = {name: ANSWERS[name] for name in ("one", "two", "three")}
    assert [row.worth for row in item_table("s", "1", *entrants_of(few, KEYS)).rows][3] is Worth.OUT_OF_REACH
    pair = {name: ANSWERS[name] for name in ("one", "two")}
    assert {row.worth for row in item_table("s", "1", *entrants_of(pair, KEYS)).rows} == {None}


def test_flips_between_trials_are_noise() -> None:
    answers = {"one": ["a/b", "a/a"], "two": ["c/a", "a/a"], "three": ["a/a", "a/b"], "four": ["a/d", "c/c"]}
    table = item_table("s", "1", *entrants_of(answers, ["a", "a"]))
    assert [row.flips for row in table.rows] == [0.75, 0.25]
    assert [row.worth for row in table.rows] == [Worth.NOISY, None]


def test_a_question_that_weak_entrants_pass_is_negative_only_among_many() -> None:
    for count, wanted in ((10, None), (16, Worth.NEGATIVE)):
        answers = {
            f"e{number}": [
                "a" if number < count / 2 else f"x{number}",
                *("a" if number >= place else "b" for place in range(0, count, 2)),
            ]
            for number in range(count)
        }
        table = item_table("s", "1", *entrants_of(answers, ["a"] * (1 + len(range(0, count, 2)))))
        assert table.rows[0].discrimination is not None
        assert table.rows[0].discrimination < -0.5
        assert table.rows[0].worth is wanted


def test_discrimination_is_the_correlation_with_the_other_questions() -> None:
    random = np.random.default_rng(8)
    scores = (random.random((9, 12)) < random.random((9, 1))).astype(int)
    answers = {f"e{number}": ["a" if one else "b" for one in row] for number, row in enumerate(scores)}
    table = item_table("s", "1", *entrants_of(answers, ["a"] * 12))
    for place, row in enumerate(table.rows):
        rest = np.delete(scores, place, axis=1).mean(axis=1)
        if row.discrimination is not None:
            assert row.discrimination == pytest.approx(np.corrcoef(scores[:, place], rest)[0, 1])
    assert sum(row.part or 0 for row in table.rows) == pytest.approx(1)


def test_alpha_is_kr_20_of_a_worked_example_with_feldts_interval() -> None:
    # by hand: k / (k - 1) (1 - sum pq / variance), variances with n - 1
    scores = np.array([[1, 1, 1, 1], [1, 1, 1, 0], [1, 1, 0, 0], [1, 0, 0, 0], [0, 0, 0, 0]], dtype=float)
    got = reliability_of(scores, np.ones(4), np.arange(4))
    assert got is not None
    shares = scores.mean(axis=0)
    by_hand = 4 / 3 * (1 - (shares * (1 - shares)).sum() * 5 / 4 / scores.sum(axis=1).var(ddof=1))
    assert (got.alpha, got.pass_fail) == (pytest.approx(by_hand), True)
    low = 1 - (1 - got.alpha) * stats.f.ppf(0.975, 4, 12)
    assert got.interval.low == pytest.approx(low)
    assert got.standard_error == pytest.approx(scores.mean(axis=1).std(ddof=1) * (1 - got.alpha) ** 0.5)


def test_feldts_interval_covers_the_true_alpha() -> None:
    random = np.random.default_rng(12)
    questions, entrants, covered = 20, 12, 0
    true = questions * 0.25 / (questions * 0.25 + 1)  # parallel parts: ability of variance 0.25, noise of variance 1
    for _ in range(500):
        scores = 0.5 * random.standard_normal((entrants, 1)) + random.standard_normal((entrants, questions))
        totals = scores.sum(axis=1).var(ddof=1)
        alpha = questions / (questions - 1) * (1 - scores.var(axis=0, ddof=1).sum() / totals)
        got = feldt_interval(alpha, entrants, questions)
        covered += got.low <= true <= got.high
    assert 0.92 <= covered / 500 <= 0.98


def test_of_few_entrants_the_less_able_make_no_key_suspect() -> None:
    # three say 'b', who fail one of the other questions each; the two that fail none say something else
    answers = {
        "one": ["c", *"aaaaa"],
        "two": ["d", *"aaaaa"],
        **{name: ["b", *["x" if place == number else "a" for place in range(5)]] for number, name in enumerate("xyz")},
    }
    row = item_table("s", "1", *entrants_of(answers, ["a"] * 6)).rows[0]
    assert row.rival is not None
    assert (row.rival.answer, row.rival.entrants, row.rival.share > 0.4) == ("b", 3, True)
    assert row.rival.likelier < 12
    assert row.worth is not Worth.SUSPECT_KEY
    swapped = {**answers, "one": ["b", *"aaaaa"], "two": ["b", *"aaaaa"], "x": ["c", *answers["x"][1:]]}
    assert item_table("s", "1", *entrants_of(swapped, ["a"] * 6)).rows[0].worth is Worth.SUSPECT_KEY


@pytest.mark.parametrize(
    ("odds", "least_found", "most_false"),
    # the second as in a choice of four, where wrong answers pile up
    [([0.25, 0.2, 0.15, 0.1, 0.1, 0.1, 0.05, 0.05], 44, 0.3), ([0.5, 0.3, 0.2], 40, 0.5)],
)
def test_planted_keys_are_found_by_few_entrants_with_few_false_alarms(
    odds: list[float], least_found: int, most_false: float
) -> None:
    random = np.random.default_rng(21)
    found = false = 0
    for _ in range(60):
        hard, abilities = random.standard_normal(50), random.normal(1.2, 1.0, 10)
        knows = random.random((10, 50)) < 1 / (1 + np.exp(-(abilities[:, None] - 1.2 * hard)))
        wrong = np.array([f"w{number}" for number in random.choice(len(odds), 500, p=odds)]).reshape(10, 50)
        said = np.where(knows, "right", wrong)
        keys = ["w1", *["right"] * 49]
        table = item_table("s", "1", *entrants_of({f"e{n}": list(row) for n, row in enumerate(said)}, keys))
        found += table.rows[0].worth is Worth.SUSPECT_KEY
        false += sum(row.worth is Worth.SUSPECT_KEY for row in table.rows[1:])
    assert found >= least_found
    assert false / 60 <= most_false


def test_how_much_likelier_answers_are_is_what_a_sum_over_cases_says() -> None:
    # of one question, by plain sums over how hard it is and how many who err say the same
    abilities, gives = [0.9, 0.8, 0.8, 0.6, 0.7], ["rival", "rival", "rival", "key", "other"]
    commonest, same = 0.55, 0.3

    def chance(right: str, named: str, share: float) -> float:
        total = weighed = 0.0
        for hard in np.linspace(-3, 3, 9):
            for said in np.linspace(0.05, 0.95, 10):
                weight = (
                    np.exp(-((hard / 1.5) ** 2) / 2) * said ** (3 * share - 1) * (1 - said) ** (3 * (1 - share) - 1)
                )
                product = 1.0
                for ability, give in zip(abilities, gives, strict=True):
                    knows = 1 / (1 + (1 - ability) / ability * np.exp(-hard))
                    errs = said if give == named else 1 - said
                    product *= knows if give == right else (1 - knows) * errs
                weighed += weight
                total += weight * product
        return total / weighed

    expected = chance("rival", "key", same) / chance("key", "rival", commonest)
    key, rival = (np.array([give == name for give in gives]) for name in ("key", "rival"))
    ratio = likelier(np.zeros(5, int), np.array(abilities), np.ones(5), key, rival, 1, (commonest, same))
    assert ratio[0] == pytest.approx(expected, rel=1e-9)
    # two trials of half a weight each say as much as one
    twice = [np.repeat(each, 2) for each in (np.array(abilities), key, rival)]
    halved = likelier(np.zeros(10, int), twice[0], np.full(10, 0.5), twice[1], twice[2], 1, (commonest, same))
    assert halved[0] == pytest.approx(expected, rel=1e-9)


def test_how_wrong_answers_pile_up_is_counted_by_question() -> None:
    # question 0: three say one thing and one another; question 1: a single one; question 2: two differ
    commonest, same = piled_up(np.array([3, 1, 1, 1, 1]), np.array([0, 0, 1, 2, 2]))
    assert commonest == pytest.approx((3 + 1 + 1) / (4 + 2 + 2))
    assert same == pytest.approx((3 * 2 + 1) / (4 * 3 + 2 + 3))
    assert piled_up(np.array([1]), np.array([0])) == (0.5, pytest.approx(1 / 3))


@pytest.fixture(scope="module")
def demo(tmp_path_factory: pytest.TempPathFactory, demo_made: tuple[Path, str]) -> Place:
    return Place(Path(shutil.copytree(demo_made[0], tmp_path_factory.mktemp("items") / "light")))


def test_the_demos_planted_faults_are_found_and_nothing_else(demo: Place) -> None:
    found = {suite: demo.json("items", suite)["rows"] for suite in ("lamp-logic", "tide-sums", "shore-facts")}  # type: ignore[index]
    amiss = {row["question"]: row["worth"] for rows in found.values() for row in rows if row["worth"]}
    told = {name: worth for name, worth in amiss.items() if worth not in ("saturated", "out of reach")}
    assert told == {"light-stair": "suspect key", "next-friday": "ambiguous"}
    assert sum(row["worth"] == "saturated" for row in found["lamp-logic"]) >= 4
    rows = demo.json("items", "lamp-logic", "--families")["rows"]  # type: ignore[index]
    assert [row["entrant"] for row in rows if row["recites"]] == ["dunlin"]


def test_saturated_questions_are_handed_to_retiring(demo: Place) -> None:
    path = demo.root / "suites" / "lamp-logic" / "suite.yaml"
    before = path.read_text()
    planned = demo.run("items", "lamp-logic", "--retire-saturated", "--plan")
    assert "would retire three-lamps, three-watches, fog-horn, log-shelf, nells-cousins" in planned.stderr
    assert path.read_text() == before
    assert demo.run("items", "lamp-logic", "--retire-saturated").exit_code == 0
    assert path.read_text().count("state: retired") == 5
    assert len(demo.json("items", "lamp-logic")["rows"]) == 20  # type: ignore[index]
    assert demo.run("items", "lamp-logic", "--plan").exit_code == 2


def test_a_rival_that_many_give_is_no_suspect_where_the_key_has_as_many() -> None:
    able = ["a"] * 9
    answers = {
        "e1": ["b", *able],
        "e2": ["b", *able],
        "e3": ["b", *able],
        "e4": ["a", *able],
        "e5": ["a", *able],
        "e6": ["c", *able],
    }
    (row, *_) = item_table("s", "1", *entrants_of(answers, ["a"] * 10)).rows
    assert row.rival is not None
    assert (row.rival.share, row.rival.key_share) == (pytest.approx(0.5), pytest.approx(1 / 3))
    assert row.worth is not Worth.SUSPECT_KEY
