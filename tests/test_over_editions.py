"""One entrant over editions and time; all editions on one scale."""

from __future__ import annotations

from collections.abc import Callable

import numpy as np
import pytest
from scipy import optimize

from conftest import Place, Service, arithmetic_suite, completion
from dryquarry.errors import UsageFault
from dryquarry.standing.crossed import BATCHES, COMMON, Crossed, _Data, _membership, _mode, fit_crossed
from dryquarry.standing.equating import AllEditions, Equated, drifts, equate


def chance(level: np.ndarray) -> np.ndarray:
    return 1 / (1 + np.exp(-level))


def editions(random: np.random.Generator, entrants: int, count: int, shared: int) -> tuple[AllEditions, np.ndarray]:
    """Half of the entrants sat the first edition, half the second; and what each would score on the second."""
    questions = 2 * count - shared
    chances = chance(0.8 + random.standard_normal((entrants, 1)) + 1.5 * random.standard_normal(questions))
    scores = (random.random(chances.shape) < chances).astype(float)
    scores[: entrants // 2, count:] = np.nan
    scores[entrants // 2 :, : count - shared] = np.nan
    target = np.arange(questions) >= count - shared
    names = tuple((f"e{number}", "") for number in range(entrants))
    data = AllEditions("s", "2", tuple(f"q{n}" for n in range(questions)), names, ((),) * entrants, scores, target,
                       target.astype(float), (np.arange(questions) >= count).astype(int))  # fmt: skip
    return data, chances[:, target].mean(axis=1)


def by_name(found: Equated) -> list:
    return sorted(found.rows, key=lambda row: int(row.entrant[1:]))


def test_equated_scores_cover_what_an_entrant_would_have_scored() -> None:
    random, covered, false = np.random.default_rng(11), [], 0
    for _ in range(25):
        data, truth = editions(random, 10, 40, 20)
        found = equate(data)
        false += bool(found.drifted)
        covered += [
            row.interval.low <= one <= row.interval.high for row, one in zip(by_name(found), truth, strict=True)
        ]
    # 250 intervals at 0.95: fewer than 0.91 come in about 1 of 400
    assert np.mean(covered) >= 0.91
    assert false <= 4


def test_equating_beats_the_scores_on_what_each_has() -> None:
    """Where the second edition is much harder, own scores flatter who sat the first."""
    random, own, equated = np.random.default_rng(4), [], []
    for _ in range(10):
        data, _ = editions(random, 10, 40, 20)
        hard = np.arange(60) >= 40
        chances = chance(np.full((10, 60), 1.0) - 2.0 * hard + 0.5 * random.standard_normal(60))
        scores = np.where(np.isnan(data.scores), np.nan, (random.random((10, 60)) < chances).astype(float))
        truth = chances[:, data.target].mean()
        found = by_name(
            equate(AllEditions(**{**{n: getattr(data, n) for n in data.__dataclass_fields__}, "scores": scores}))
        )
        own += [np.nanmean(scores[number]) - truth for number in range(5)]
        equated += [row.score - truth for row in found[:5]]
    assert np.mean(own) > 0.15
    assert abs(np.mean(equated)) < 0.05


def test_a_question_that_later_entrants_suddenly_pass_is_found_and_links_nobody() -> None:
    random, hits = np.random.default_rng(5), 0
    for _ in range(6):
        data, _ = editions(random, 24, 40, 20)
        data.scores[:12, 25], data.scores[12:, 25] = random.random(12) < 0.15, 1.0
        found = equate(data)
        hits += "q25" in {one.question for one in found.drifted}
    assert hits >= 5
    few, _ = editions(random, 8, 40, 20)
    assert drifts(few.questions, few.scores, fit_crossed(few.scores, few.batches).chances(), np.arange(8) < 4) == ()


def test_too_few_shared_questions_or_entrants_are_refused_with_the_reason() -> None:
    data, _ = editions(np.random.default_rng(6), 10, 30, 9)
    with pytest.raises(UsageFault, match="e0 shares 9 questions with them, and it takes 10"):
        equate(data)
    data, _ = editions(np.random.default_rng(6), 4, 30, 20)
    with pytest.raises(UsageFault, match="sat whole by 2 of the entrants; equating takes 3"):
        equate(data)


@pytest.fixture
def sums(place: Place, service: Callable[..., Service]) -> tuple[Place, dict[str, int]]:
    """Four entrants on edition 1, three of them on edition 2 as well, in which two of fourteen questions are new."""
    right = {"wick": 9, "knot": 12, "ruff": 8, "stint": 6}

    def said(name: str) -> Callable[[dict], tuple[int, bytes]]:
        def answer(content: dict) -> tuple[int, bytes]:
            number = int(content["messages"][-1]["content"].split()[2])
            return 200, completion(f"Answer: {number + 1 if number % 14 < right[name] else 99}")

        return answer

    path = place.suite("sums", arithmetic_suite(14))
    for name in right:
        place.entrant(name, service(said(name)).url)
    place.run("suite", "seal", "sums", "--note", "first")
    assert place.run("run", "sums").exit_code == 0
    text = path.read_text().replace("What is 0 plus 1?, key: 1", "What is 14 plus 1?, key: 15")
    path.write_text(text.replace("What is 1 plus 1?, key: 2", "What is 15 plus 1?, key: 16"))
    place.run("suite", "seal", "sums", "--note", "second")
    assert place.run("run", "sums", "-e", "wick", "-e", "knot", "-e", "ruff").exit_code == 0
    return place, right


def test_history_shows_editions_settings_and_askings_with_their_changes(sums: tuple[Place, dict[str, int]]) -> None:
    place, right = sums
    rows = place.json("history", "sums", "-e", "wick")["rows"]  # type: ignore[index]
    assert [(row["edition"], row["had"], row["shared"], row["same_replies"]) for row in rows] == [
        ("1", 14, 0, False), ("2", 14, 12, True),
    ]  # fmt: skip
    right["wick"] = 12
    assert place.run("run", "sums@2", "-e", "wick", "--fresh").exit_code == 0
    rows = place.json("history", "sums", "-e", "wick")["rows"]  # type: ignore[index]
    assert [(row["edition"], round(row["score"] * 14), row["same_replies"]) for row in rows][:2] == [
        ("1", 9, False), ("2", 9, True),
    ]  # fmt: skip
    latest = rows[-1]
    assert (latest["edition"], round(latest["score"] * 14), latest["same_replies"]) == ("2", 12, False)
    assert (latest["change"]["wins"], latest["change"]["losses"]) == (3, 0)
    entry = (place.root / "entrants.toml").read_text()
    (place.root / "entrants.toml").write_text(entry.replace("[entrant.wick]", '[entrant.wick]\nbuild = "4-bit"', 1))
    right["wick"] = 2
    place.run("run", "sums@2", "-e", "wick")
    rows = place.json("history", "sums", "-e", "wick")["rows"]  # type: ignore[index]
    assert len({row["digest"] for row in rows}) == 2
    assert rows[-1]["change"]["difference"] == pytest.approx(-10 / 14)
    assert "Beyond luck" in place.run("history", "sums", "-e", "wick").stdout
    # against itself under earlier settings, and as it stood on a day
    past = f"wick:{rows[0]['digest'][:6]}"
    # on the day of the last asking it stood with the settings of that, whichever are today's
    (place.root / "entrants.toml").write_text(entry)
    today = f"wick:{rows[-1]['last'][:10]}"
    assert place.json("versus", "wick", today, "--on", "sums")["whole"]["comparison"]["difference"] == pytest.approx(10 / 14)  # type: ignore[index]  # fmt: skip
    (place.root / "entrants.toml").write_text(entry.replace("[entrant.wick]", '[entrant.wick]\nbuild = "4-bit"', 1))
    found = place.json("versus", "wick", past, "--on", "sums")
    assert found["whole"]["comparison"]["difference"] == pytest.approx(-10 / 14)  # type: ignore[index]
    assert place.run("versus", past, "wick", "--on", "sums", "--gate", "no worse than 0.1").exit_code == 0
    assert place.run("versus", "wick", past, "--on", "sums", "--gate", "no worse than 0.1").exit_code == 1
    assert place.json("versus", "wick", f"wick:{rows[-1]['last'][:10]}", "--on", "sums")["whole"]["comparison"]["difference"] == 0.0  # type: ignore[index]  # fmt: skip


@pytest.mark.parametrize(
    ("typed", "said"),
    [
        (["history", "sums@2", "-e", "wick"], "write 'sums'"),
        (["history", "sums", "-e", "wik"], "did you mean 'wick'"),
        (["versus", "wick", "wick:2020-01-01", "--on", "sums"], "no reply to sums@2 as of '2020-01-01'"),
        (["versus", "wick", "wick:yesterday", "--on", "sums"], "names neither a day"),
        (["versus", "wick", "wick:2020-01-01", "--on", "sums", "--show", "lost"], "leave it out"),
        (["board", "sums", "--equated", "--question", "q3"], "whole editions"),
        (["board", "sums", "--equated", "--gate", "wick >= 0.1"], "leave what is about the board out"),
        (["board", "sums", "--failures", "--picture", "x.png"], "leave what is about the board out"),
    ],
)
def test_wrong_wishes_are_told(sums: tuple[Place, dict[str, int]], typed: list[str], said: str) -> None:
    told = sums[0].run(*typed)
    assert told.exit_code == 2
    assert said in told.stderr


def test_who_sat_an_earlier_edition_is_put_on_the_scale(sums: tuple[Place, dict[str, int]]) -> None:
    place, _ = sums
    found = place.json("board", "sums", "--equated")
    rows = {row["entrant"]: row for row in found["rows"]}  # type: ignore[index]
    assert (found["whole"], rows["stint"]["had"], rows["stint"]["shared"], rows["stint"]["editions"]) == (3, 12, 14, ["1"])  # type: ignore[index]  # fmt: skip
    assert rows["stint"]["interval"]["low"] < rows["stint"]["score"] < rows["stint"]["interval"]["high"]
    assert rows["stint"]["score"] < rows["knot"]["score"]
    told = place.run("board", "sums", "--equated", "-e", "wick", "-e", "knot", "-e", "ruff")
    assert (told.exit_code, "compares them as they are" in told.stderr) == (2, True)


def test_the_mode_and_its_spread_are_those_of_the_whole_posterior() -> None:
    """Against a general optimiser and the inverse of the whole Hessian, on few entrants and questions."""
    scores = np.array([[1, 0, 1, 0, np.nan], [1, 1, 0, np.nan, 1], [0, 0, np.nan, 0, 1.0]])
    batches = np.array([0, 0, 0, 1, 1])
    data = _Data(np.nan_to_num(scores), ~np.isnan(scores), _membership(batches))
    mode, _ = _mode(data, 1.2, 1.0, (np.zeros(5), np.zeros(5)))
    prior = np.zeros((5, 5))
    prior[:3, :3] = np.linalg.inv(1.2**2 * np.eye(3) + COMMON**2)
    prior[3:, 3:] = np.eye(2) / BATCHES**2

    def against(both: np.ndarray) -> float:
        return -data.log_posterior(both[:5], both[5:], prior, 1.0)

    found = optimize.minimize(against, np.zeros(10), method="BFGS", options={"gtol": 1e-8})
    assert np.concatenate([mode.whole, mode.ease]) == pytest.approx(found.x, abs=1e-3)
    step = 1e-4 * np.eye(10)
    hessian = np.array([[(against(found.x + a + b) - against(found.x + a - b) - against(found.x - a + b)
                          + against(found.x - a - b)) / 4e-8 for a in step] for b in step])  # fmt: skip
    expected = np.linalg.inv(hessian)
    fit = Crossed((mode,), np.ones(1), data.member)
    ((ability, ease),) = fit.drawn(60_000, np.random.default_rng(1))
    # an entrant's ability, a question's whole ease, and how the two go together
    each = np.array(
        [expected[0, 0], expected[8, 8] + expected[4, 4] + 2 * expected[8, 4], expected[0, 8] + expected[0, 4]]
    )
    sampled = np.cov(ability[:, 0], ease[:, 3])
    assert np.array([sampled[0, 0], sampled[1, 1], sampled[0, 1]]) == pytest.approx(each, rel=0.05, abs=0.05)


def test_what_drifted_is_as_if_the_earlier_entrants_had_not_been_asked() -> None:
    data, _ = editions(np.random.default_rng(5), 24, 40, 20)
    data.scores[:12, 25], data.scores[12:, 25] = 0.0, 1.0
    found = equate(data)
    assert [one.question for one in found.drifted] == ["q25"]
    data.scores[:12, 25] = np.nan
    without = {row.entrant: row.score for row in equate(data).rows}
    assert {row.entrant: row.score for row in found.rows} == pytest.approx(without)


def test_what_is_void_for_all_is_no_part_of_the_scale(sums: tuple[Place, dict[str, int]]) -> None:
    place, _ = sums
    assert place.run("mark", "sums@2", "--question", "q3", "--set", "void", "--because", "two readings").exit_code == 0
    found = place.json("board", "sums", "--equated")
    assert (found["questions"], found["whole"]) == (13, 3)  # type: ignore[index]
