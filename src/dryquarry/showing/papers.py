"""Papers of the marking desk as text: question, key, criteria, reply, precedents; and as lines to fill in."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from typing import Any

from dryquarry.ledger.decisions import Decision
from dryquarry.marking.rubrics import Criterion
from dryquarry.showing import figures
from dryquarry.showing.figures import visible
from dryquarry.showing.replies import said_key, said_options
from dryquarry.workspace.desk import Paper, Precedent

SHORT = 160


def paper_line(paper: Paper, person: str) -> str:
    """Return a paper as a line of JSON, with what is to be filled in empty."""
    criteria = [_criterion_data(one) for one in paper.criteria]
    data: dict[str, Any] = {"item": paper.token(person), "question": paper.question.id, "ask": paper.question.text}
    if paper.marking.choices:
        data["options"] = dict(paper.marking.choices)
    if paper.marking.key is not None:
        data["key"] = paper.marking.key
    if criteria:
        data["criteria"] = criteria
    data["reply"] = paper.text
    if criteria:
        data["points"] = {one.id: None for one in paper.criteria}
    return json.dumps({**data, "verdict": None, "note": None}, ensure_ascii=False)


def _criterion_data(criterion: Criterion) -> Mapping[str, Any]:
    data: dict[str, Any] = {"id": criterion.id, "asks": criterion.asks, "most": criterion.most}
    if criterion.checklist:
        data["checklist"] = list(criterion.checklist)
    if criterion.examples:
        data["examples"] = dict(criterion.examples)
    return data | ({"veto": True} if criterion.veto else {})


def asked_said(paper: Paper) -> str:
    """Return what a reply is to be marked against: the question, its options, key and files."""
    question = paper.question
    parts = [visible(question.text)]
    if paper.marking.choices:
        parts.append(visible(said_options(question)))
    if paper.marking.key is not None:
        parts.append(f"key: {visible(said_key(question))}")
    if question.ask.files:
        parts.append("files: " + ", ".join(visible(one.path) for one in question.ask.files) + "  (o opens them)")
    rubric = next((part for part in (paper.judged.rubric,) if part is not None and part.about), None)
    if rubric is not None:
        parts.append(f"rubric: {visible(rubric.about)}")
    return "\n\n".join(parts)


def criteria_said(criteria: Sequence[Criterion], given: Mapping[str, float]) -> list[tuple[str, str]]:
    """Return the points given so far and what is asked, for each criterion."""
    lines = []
    for one in criteria:
        points = f"{given[one.id]:g}" if one.id in given else "_"
        veto = "  veto" if one.veto else ""
        how = f" of: {'; '.join(one.checklist)}" if one.checklist else ""
        lines.append((f"{points}/{one.most:g}", f"{one.id}: {visible(one.asks)}{visible(how)}{veto}"))
    return lines


def decision_said(decision: Decision, criteria: Sequence[Criterion] = ()) -> str:
    """Return a decision in a few words."""
    most = {one.id: one.most for one in criteria}
    points = ", ".join(
        f"{name} {value:g}" + (f"/{most[name]:g}" if name in most else "")
        for name, value in (decision.points or {}).items()
    )
    score = f" {figures.percent(decision.score, 0)}" if decision.score not in (None, 0.0, 1.0) else ""
    note = f" – {visible(decision.note)}" if decision.note else ""
    return f"{decision.verdict}{score}" + (f" ({points})" if points else "") + note


def precedents_said(precedents: Sequence[Precedent], paper: Paper) -> list[str]:
    """Return the person's decisions on other replies to the same question, each with the start of its reply."""
    lines = []
    for one in precedents:
        start = " ".join(visible(one.text).split())
        start = start if len(start) <= SHORT else f"{start[: SHORT - 1]}…"
        lines.append(f"{decision_said(one.decision, paper.criteria)}\n    “{start}”")
    return lines


def progress_said(done: int, remaining: int, seconds_left: float | None) -> str:
    """Return how far a session is."""
    left = f", about {figures.duration(seconds_left)} left" if seconds_left is not None else ""
    return f"{done} decided, {remaining} to do{left}"
