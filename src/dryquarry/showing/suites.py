"""Suites, their questions and their checks as views."""

from __future__ import annotations

import json
from collections.abc import Sequence
from typing import Any

from dryquarry.errors import Fault
from dryquarry.marking.values.texts import shortened
from dryquarry.showing import figures
from dryquarry.showing.view import Cell, Column, Sheet, Table, View, columns_of
from dryquarry.suites.checking import SuiteCheck
from dryquarry.suites.question import Suite


def suites_view(suites: Sequence[Suite]) -> View:
    """Return the list of suites."""
    names = ["suite", "edition", "title", "questions", "retired", "schemes", "categories"]
    rows = [
        [
            suite.name,
            suite.edition,
            suite.title,
            len(suite.asked()),
            suite.retired_count(),
            ", ".join(dict.fromkeys(question.marking.scheme for question in suite.asked())),
            ", ".join(dict.fromkeys(question.category for question in suite.asked() if question.category)),
        ]
        for suite in suites
    ]
    columns = columns_of(names, ("questions", "retired"), ("categories", "schemes", "retired", "title"))
    table = Table("", columns, [[str(value) for value in row] for row in rows])
    return View([dict(zip(names, row, strict=True)) for row in rows], Sheet(names, rows), table)


def counted_questions(suite: Suite) -> str:
    """Return how many questions a suite asks, and how many are retired beside them: "12 questions, 2 retired"."""
    retired = suite.retired_count()
    return figures.plural(len(suite.asked()), "question") + (f", {retired} retired" if retired else "")


def suite_view(suite: Suite) -> View:
    """Return a suite with all its questions."""
    names = ["id", "category", "state", "scheme", "key", "weight", "family", "ask"]
    rows: list[list[Any]] = [
        [
            question.id,
            question.category,
            str(question.state),
            question.marking.scheme,
            question.marking.key,
            question.weight,
            question.family,
            question.text,
        ]
        for question in suite.questions
    ]
    title = f"{suite.reference}: {suite.title}, {counted_questions(suite)}"
    shown = ["id", "category", "state", "scheme", "key", "family", "ask"]
    table = Table(
        title,
        columns_of(shown, drops=("family", "state", "category", "scheme")),
        [[_short(row[names.index(name)]) for name in shown] for row in rows],
        below=[suite.about] if suite.about else [],
    )
    data = {
        "suite": suite.name,
        "edition": suite.edition,
        "title": suite.title,
        "about": suite.about,
        "system": suite.system,
        "answer_line": suite.answer_line,
        "questions": [dict(zip(names, row, strict=True)) for row in rows],
    }
    sheet_rows = [[json.dumps(cell) if isinstance(cell, list | dict) else cell for cell in row] for row in rows]
    return View(data, Sheet(names, sheet_rows), table)


def check_view(check: SuiteCheck) -> View:
    """Return what a check found."""
    data = {
        "suite": check.suite,
        "edition": check.edition,
        "questions": check.questions,
        "faults": [_fault_data(fault) for fault in check.faults],
        "advice": [_fault_data(fault) for fault in check.advice],
    }
    found = [("fault", fault) for fault in check.faults] + [("advice", fault) for fault in check.advice]
    names = ["severity", "kind", "question", "file", "line", "message"]
    rows = [[severity, fault.kind, fault.question, fault.file, fault.line, fault.message] for severity, fault in found]
    title = (
        f"{check.suite}@{check.edition}: {figures.plural(check.questions, 'question')}, "
        f"{figures.plural(len(check.faults), 'fault')}, {figures.plural(len(check.advice), 'note')} of advice"
    )
    columns = [Column("severity"), Column("where"), Column("question"), Column("what")]
    shown: list[list[str | Cell]] = [
        [
            Cell(severity, "bold color(131)" if severity == "fault" else "dim"),
            f"{fault.file}:{fault.line}" if fault.line else fault.file,
            fault.question or "–",
            fault.message,
        ]
        for severity, fault in found
    ]
    below = [f"drawn  {one.id}: {shortened(one.text, 80)}  key {_short(one.marking.key)}" for one in check.drawn]
    return View(data, Sheet(names, rows), Table(title, columns, shown, below=below))


def _fault_data(fault: Fault) -> dict[str, Any]:
    return {
        "kind": fault.kind,
        "question": fault.question,
        "file": fault.file,
        "line": fault.line,
        "message": fault.message,
    }


def _short(value: Any) -> str:
    if value is None:
        return "–"
    text = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
    return shortened(text, 56)
