"""Second tries, what outcomes do to the score, what a budget counts, and what is noted of a sitting."""

from __future__ import annotations

import json

import orjson

from conftest import Place, arithmetic_suite, completion

SUITE = """\
title: Sums
ask: {answer_line: "Answer:"}
mark: {scheme: number}
questions:
  - {id: easy, ask: What is 1 plus 1?, key: 2, second_try: never said}
  - {id: hard, ask: What is 17 times 3?, key: 51, second_try: "You said {answer}, but: {reason}. Once more."}
  - {id: plain, ask: What is 9 minus 9?, key: 0}
"""


def test_a_second_try_follows_a_failed_first_one_and_counts_in_no_score(place: Place, service) -> None:
    def answer(content: dict) -> tuple[int, bytes]:
        last = content["messages"][-1]["content"]
        return 200, completion("Answer: 51" if "Once more" in last else "Answer: 2")

    one = service(answer)
    place.suite("sums", SUITE)
    place.entrant("knot", one.url, "limits = {in_flight = 1}")
    result = place.json("run", "sums")
    assert [(part["to_ask"], part["received"]) for part in result["second_tries"]] == [(1, 1)]
    assert result["marked"] == 4
    (again,) = [content for content in one.requests if len(content["messages"]) > 1]
    first, said, then = again["messages"]
    assert (said["role"], said["content"]) == ("assistant", "Answer: 2")
    assert "17 times 3" in first["content"]
    assert then["content"].startswith("You said 2, but: ")
    assert "key 51, exactly. Once more." in then["content"]
    board = place.json("board", "sums")
    (row,) = board["rows"]
    assert (row["passed"], row["marked"], row["second_tries"]) == (1, 3, {"passed": 1, "marked": 1})
    assert "1 of 1" in place.run("board", "sums").stdout
    assert [reply["question"] for reply in place.json("replies", "sums")] == ["easy", "hard", "plain"]
    (second,) = place.json("replies", "sums", "--second-tries")
    assert (second["question"], second["verdict"], second["text"]) == ("hard", "pass", "Answer: 51")
    before = len(one.requests)
    assert place.run("run", "sums").exit_code == 0
    assert len(one.requests) == before
    # A corrected key that lets the first try pass leaves the second one out.
    place.suite("sums", SUITE.replace("key: 51", "key: 2"))
    assert place.run("mark", "sums").exit_code == 0
    (row,) = place.json("board", "sums")["rows"]
    assert (row["passed"], "second_tries" in row) == (2, False)


def test_a_suite_says_what_outcomes_do_to_the_score(place: Place, service) -> None:
    def answer(content: dict) -> tuple[int, bytes]:
        number = int(content["messages"][-1]["content"].split()[2])
        finish = {0: "content_filter", 1: "length"}.get(number, "stop")
        return 200, completion(f"Answer: {number + 1}", finish)

    one = service(answer)
    place.entrant("knot", one.url)
    place.suite("sums", arithmetic_suite(4))
    assert place.run("run", "sums").exit_code == 0

    def row_with(outcomes: str) -> tuple[int, int]:
        place.suite("sums", arithmetic_suite(4).replace("questions:", f"outcomes: {{{outcomes}}}\nquestions:"))
        assert place.run("mark", "sums").exit_code == 0
        (row,) = place.json("board", "sums")["rows"]
        assert row["outcomes"] == {"answered": 2, "blocked": 1, "cut-off": 1}
        return row["passed"], row["marked"]

    assert row_with("") == (2, 4)
    assert row_with("blocked: void") == (2, 3)
    assert row_with("blocked: void, cut-off: mark") == (3, 3)
    assert len(one.requests) == 4
    place.suite(
        "sums", arithmetic_suite(4).replace("questions:", "outcomes: {blocked: ignore, faild: void}\nquestions:")
    )
    faults = place.run("suite", "check", "sums").stdout
    assert "'blocked' wants one of fail, void, mark" in faults
    assert "'faild'" in faults


RUBRIC = """\
title: Letters
mark: {scheme: rubric, rubric: polite}
rubrics: {polite: {criteria: [{id: thanks, asks: Does it thank?}]}}
questions:
"""


def test_a_budget_counts_what_judges_cost(place: Place, service) -> None:
    verdict = json.dumps({"criteria": [{"id": "thanks", "points": 1, "evidence": "Thank you", "why": "it does"}]})
    dear = {"prompt_tokens": 500, "completion_tokens": 10}

    def said(model: str) -> bytes:
        return completion(verdict, usage=dear) if model == "judge" else completion("Thank you.")

    one = service(lambda content: (200, said(content["model"])))
    place.suite("letters", RUBRIC + "".join(f"  - {{id: q{n}, ask: Thank visitor {n}.}}\n" for n in range(10)))
    price = "price = {input = 1000.0, output = 1000.0}\nlimits = {in_flight = 1}\nsettings = {max_tokens = 10}"
    place.entrant("knot", one.url, price)
    judge = f'[judge.heron]\nendpoint = "{one.url}"\nmodel = "judge"\n'
    place.entrants((place.root / "entrants.toml").read_text() + judge)
    refused = place.run("run", "letters", "--budget", "1")
    assert (refused.exit_code, "judge 'heron' has no price" in refused.stderr) == (2, True)
    assert one.requests == []
    place.entrants((place.root / "entrants.toml").read_text() + price)
    result = place.run("run", "letters", "--budget", "4", "--format", "json")
    summary = orjson.loads(result.stdout)
    assert summary["sittings"][0]["received"] == 10
    assert 0 < summary["judged"] < 10
    assert "the budget left no room for a judge" in result.stderr
    # Each request costs 15 tokens at 1000 a million.
    assert len(one.requests) * 0.015 <= 0.8


def test_every_sitting_is_noted_with_its_settings_and_the_service_that_answered(place: Place, service) -> None:
    served = {"model": "served-1"}
    one = service(lambda content: (200, completion("Answer: 1", system_fingerprint="fp-a", **served)))
    place.suite("sums", arithmetic_suite(2))
    place.entrant("knot", one.url, 'settings = {temperature = 0.5}\nsystem = "Be brief."')
    assert place.run("run", "sums").exit_code == 0
    served["model"] = "served-2"
    changed = place.run("run", "sums", "--fresh")
    assert "knot: the service now answers as served-2 (fingerprint fp-a), in earlier runs as served-1" in changed.stderr
    (place.root / "entrants.toml").unlink()
    place.entrant("knot", one.url, "settings = {temperature = 0.9}")
    assert place.run("run", "sums").exit_code == 0
    sittings = place.json("entrant", "show", "knot")["sittings"]
    assert [one["present_settings"] for one in sittings] == [True, False, False]
    assert [one["settings"]["settings"]["temperature"] for one in sittings] == [0.9, 0.5, 0.5]
    assert sittings[2]["settings"]["system"] == "Be brief."
    assert [one["served"] for one in sittings[1:]] == [
        [{"model": "served-2", "fingerprint": "fp-a"}],
        [{"model": "served-1", "fingerprint": "fp-a"}],
    ]
    assert all(one["started_at"] <= one["ended_at"] and one["replies"] == 2 for one in sittings)
    assert "temperature 0.5" in place.run("entrant", "show", "knot").stdout
