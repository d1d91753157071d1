"""Replies to one question of each kind, in many ways: what passes and what fails was written before any was marked."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from ruamel.yaml import YAML

from dryquarry.marking.model import Mark, Marking, Verdict
from dryquarry.marking.registry import prepare

QUESTIONS: list[dict[str, Any]] = YAML(typ="safe").load(Path(__file__).parent / "data" / "said_by_kind.yaml")


def marked(question: dict[str, Any], replies: list[str]) -> dict[str, Mark]:
    choices = tuple(question.get("choices", {}).items())
    marking = Marking(
        question["scheme"], question["key"], question.get("options", {}), choices, None, asked=question["asked"]
    )
    mark = prepare(marking)
    return {reply: mark(reply) for reply in replies}


@pytest.mark.parametrize("question", QUESTIONS, ids=lambda question: question["asked"][-40:])
def test_a_reply_passes_or_fails_as_was_written_down(question: dict[str, Any]) -> None:
    marks = marked(question, [*question["passes"], *question["fails"]])
    otherwise = {
        reply for reply, mark in marks.items() if (mark.verdict is Verdict.PASS) is not (reply in question["passes"])
    }
    assert otherwise == set(question["not_read"]), {reply: marks[reply].reason for reply in otherwise}


def test_of_all_these_replies_few_are_not_read() -> None:
    count = sum(len(question["passes"]) + len(question["fails"]) for question in QUESTIONS)
    wrong = sum(len(question["not_read"]) for question in QUESTIONS)
    assert count > 1000
    assert wrong <= 0.06 * count
