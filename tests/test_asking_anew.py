"""Asking everything anew: stopped, it goes on where it was; a failed request never takes the place of a reply."""

from __future__ import annotations

import sqlite3
from collections.abc import Callable
from contextlib import closing
from dataclasses import dataclass

import pytest

from conftest import Place, Service, arithmetic_suite, completion

COUNT = 6


@dataclass
class Moody:
    """Answers `right` or not, and after so many requests fails."""

    right: bool = True
    fails_after: int = 10**9
    requests: int = 0

    def __call__(self, content: dict) -> tuple[int, bytes]:
        self.requests += 1
        if self.requests > self.fails_after:
            return 400, b'{"error": {"message": "out of order"}}'
        number = int(content["messages"][-1]["content"].split()[2]) + (1 if self.right else 2)
        return 200, completion(f"Answer: {number}")


@pytest.fixture
def moody(place: Place, service: Callable[..., Service]) -> Moody:
    mood = Moody()
    place.suite("sums", arithmetic_suite(COUNT))
    place.entrant("wick", service(mood).url, "stream = false\nlimits = {retries = 0, in_flight = 1}")
    assert place.run("run", "sums").exit_code == 0
    return mood


def passed(place: Place) -> int:
    return place.json("board", "sums")["rows"][0]["passed"]  # type: ignore[index, no-any-return]


def test_an_asking_anew_goes_on_where_it_was(place: Place, moody: Moody) -> None:
    moody.right, moody.requests, moody.fails_after = False, 0, 2
    assert place.run("run", "sums", "--fresh").exit_code == 4
    assert passed(place) == COUNT - 2
    told = place.run("board", "sums").stderr
    assert "wick: replies of two askings: 2 since" in told
    assert f"{COUNT - 2} older ones" in told
    plan = place.run("run", "sums", "--fresh", "--plan")
    assert "goes on with the asking anew" in plan.stdout
    moody.requests, moody.fails_after = 0, 10**9
    assert place.run("run", "sums", "--fresh").exit_code == 0
    assert moody.requests == COUNT - 2
    assert passed(place) == 0
    assert "two askings" not in place.run("board", "sums").stderr


def test_once_complete_everything_is_asked_anew_again(place: Place, moody: Moody) -> None:
    for _ in range(2):
        moody.requests = 0
        assert place.run("run", "sums", "--fresh").exit_code == 0
        assert moody.requests == COUNT


def test_of_several_askings_anew_the_last_one_counts(place: Place, moody: Moody) -> None:
    assert place.run("run", "sums", "--fresh").exit_code == 0
    moody.requests, moody.fails_after = 0, 2
    assert place.run("run", "sums", "--fresh").exit_code == 4
    assert "wick: replies of two askings: 2 since" in place.run("board", "sums").stderr


def test_an_asking_anew_of_another_day_is_over(place: Place, moody: Moody) -> None:
    moody.fails_after = moody.requests + 2
    assert place.run("run", "sums", "--fresh").exit_code == 4
    with closing(sqlite3.connect(place.root / ".dryquarry" / "ledger.db")) as ledger:
        ledger.execute("UPDATE sittings SET fresh_since = '2020-01-01T00:00:00.000+00:00' WHERE fresh_since > ''")
        ledger.commit()
    moody.requests, moody.fails_after = 0, 10**9
    assert place.run("run", "sums", "--fresh").exit_code == 0
    assert moody.requests == COUNT


def test_an_outage_takes_no_reply_away(place: Place, moody: Moody) -> None:
    moody.fails_after = 0
    assert place.run("run", "sums", "--fresh").exit_code == 4
    assert passed(place) == COUNT
    assert len(place.json("replies", "sums")) == COUNT  # type: ignore[arg-type]
    assert "the ledger is whole" in place.run("ledger", "check").stdout


def test_where_nothing_was_held_a_failed_request_is_told_and_asked_again(place: Place, moody: Moody) -> None:
    place.suite("more", arithmetic_suite(2).replace("What is", "How much is"))
    moody.fails_after = 0
    assert place.run("run", "more").exit_code == 4
    moody.fails_after = 10**9
    assert "2 to ask" in place.run("run", "more").stderr
