"""A draft that differs from the edition in use is told of, and a corrected key is put into use by one command."""

from __future__ import annotations

from collections.abc import Callable

import pytest

from conftest import ARITHMETIC, Place, Service, completion

QUESTIONS = "  - {id: q1, ask: What is 1 plus 1?, key: 2}\n  - {id: q2, ask: What is 2 plus 1?, key: 4}\n"


@pytest.fixture
def sealed(place: Place, service: Callable[..., Service]) -> Place:
    """A workspace with a sealed edition whose second key is wrong, asked of an entrant that is right."""

    def answer(content: dict) -> tuple[int, bytes]:
        asked = content["messages"][-1]["content"]
        return 200, completion(f"Answer: {int(asked.split()[2]) + 1}")

    place.suite("sums", ARITHMETIC + QUESTIONS)
    place.entrant("abacus", service(answer).url)
    assert place.run("suite", "seal", "sums", "--note", "first").exit_code == 0
    assert place.run("run", "sums").exit_code == 0
    return place


COMMANDS = (["run", "sums", "--plan"], ["run", "sums"], ["mark", "sums", "--plan"], ["board", "sums"], ["grid", "sums"])


@pytest.mark.parametrize("command", COMMANDS)
@pytest.mark.parametrize(
    ("old", "new", "said", "does"),
    [
        ("key: 4", "key: 3", "1 with another key", "suite correct sums"),
        ("What is 2", "So what is 2", "1 reworded", "suite seal sums"),
        ("key: 4}", "key: 4}\n  - {id: q3, ask: What is 3 plus 1?, key: 4}", "1 added", "suite seal sums"),
        ("key: 4", "kay: 4", "faults", "suite check sums"),
    ],
)
def test_a_draft_that_differs_is_told_of(
    sealed: Place, command: list[str], old: str, new: str, said: str, does: str
) -> None:
    assert "draft" not in sealed.run(*command).stderr
    sealed.suite("sums", (ARITHMETIC + QUESTIONS).replace(old, new))
    told = sealed.run(*command).stderr
    assert said in told
    assert does in told
    assert "draft of sums" not in sealed.run(*[part.replace("sums", "sums@1") for part in command]).stderr


def test_a_corrected_key_is_put_into_use_by_one_command(sealed: Place) -> None:
    sealed.suite("sums", (ARITHMETIC + QUESTIONS).replace("key: 4", "key: 3"))
    before = _files(sealed)
    planned = sealed.run("suite", "correct", "sums", "--plan")
    assert "1 mark would change" in planned.stdout
    assert "4 → 3" in planned.stderr
    assert _files(sealed) == before
    assert sealed.run("suite", "correct", "sums").exit_code == 2
    assert "1 mark changed" in sealed.run("suite", "correct", "sums", "--because", "typing error in q2").stdout
    assert sealed.json("board", "sums")["rows"][0]["score"] == 1.0  # type: ignore[index]
    assert sealed.json("board", "sums@1")["rows"][0]["score"] == 0.5  # type: ignore[index]
    assert "sums@2 marks 1 of these questions otherwise: q2" in sealed.run("board", "sums@1").stderr
    assert "typing error in q2" in sealed.run("suite", "history", "sums").stdout


@pytest.mark.parametrize(
    ("old", "new", "said"),
    [
        ("What is 2", "So what is 2", "1 reworded"),
        ("key: 4}", "key: 4, weight: 2}", "1 with other notes"),
        ("key: 4", "key: 4", "does not differ"),
    ],
)
def test_what_is_no_correction_of_keys_is_refused(sealed: Place, old: str, new: str, said: str) -> None:
    sealed.suite("sums", (ARITHMETIC + QUESTIONS).replace("key: 4", "key: 4").replace(old, new))
    refused = sealed.run("suite", "correct", "sums", "--because", "x")
    assert refused.exit_code == 2
    assert said in refused.stderr
    assert not (sealed.root / "suites" / "sums" / "editions" / "2.jsonl").exists()


def test_marks_by_a_draft_that_was_never_sealed_need_no_correction(place: Place) -> None:
    place.suite("sums", ARITHMETIC + QUESTIONS)
    refused = place.run("suite", "correct", "sums", "--plan")
    assert refused.exit_code == 2
    assert "no edition of sums is sealed" in refused.stderr


def _files(place: Place) -> list[str]:
    return sorted(path.name for path in place.root.rglob("*") if not path.name.startswith("ledger.db-"))
