"""Real-looking replies with the verdict that a fair examiner gives, over all schemes; the table is in data/fairness.yaml."""

from __future__ import annotations

from pathlib import Path
from typing import Any

import pytest
from ruamel.yaml import YAML

from dryquarry.marking.model import Marking, Verdict
from dryquarry.marking.outcomes import Outcome, Treatment, mark_reply, outcome_of
from dryquarry.marking.registry import SCHEMES, prepare

TABLE = YAML(typ="safe").load(Path(__file__).with_name("data") / "fairness.yaml")
SIDES = {"pass": Verdict.PASS, "trapped_pass": Verdict.PASS, "fail": Verdict.FAIL, "trapped_fail": Verdict.FAIL}
CASES = [(group, side, text) for group in TABLE for side in SIDES for text in group.get(side, [])]


def marking_of(group: dict[str, Any]) -> Marking:
    choices = tuple(zip("ABCDEFG", group.get("choices", []), strict=False))
    return Marking(
        group["scheme"], group.get("key"), group.get("options", {}), choices, "Answer:", asked=group.get("ask", "")
    )


@pytest.mark.parametrize(("group", "side", "text"), CASES, ids=lambda value: str(value)[:60])
def test_the_verdict_is_a_fair_examiners(group: dict[str, Any], side: str, text: str) -> None:
    text = text.replace("{NL}", "\n")
    marking = marking_of(group)
    outcome = outcome_of(Outcome.ANSWERED, text, marking.answer_line)
    treatments = {Outcome.REFUSED: Treatment.MARK} if SCHEMES[marking.scheme].marks_refusals else {}
    mark = mark_reply(prepare(marking), outcome, text, treatments)
    assert mark is not None
    assert mark.verdict is SIDES[side], mark.reason
    assert mark.reason.strip()


def test_the_table_is_large_and_full_of_traps() -> None:
    trapped = sum(side.startswith("trapped") for _, side, _ in CASES)
    assert len(CASES) >= 400
    assert trapped >= 0.4 * len(CASES)
    assert set(SCHEMES) - {group["scheme"] for group in TABLE} == {"hand", "rubric", "program", "query", "page"}
