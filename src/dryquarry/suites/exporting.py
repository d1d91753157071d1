"""Questions to other formats: CSV, JSON lines, a whole suite as JSON, and a Markdown sheet."""

from __future__ import annotations

import json
from typing import Any

from dryquarry.suites.csv_text import csv_lines
from dryquarry.suites.importing import CSV_FIELDS, plain_key
from dryquarry.suites.question import Suite
from dryquarry.suites.records import question_record, suite_record


def export_csv(suite: Suite) -> str:
    """Return the questions as CSV; what is no plain text (lists, mappings) stands in its cell as JSON."""
    records = [question_record(question) for question in suite.questions]
    rows = ([_cell(name, record.get(name)) for name in CSV_FIELDS] for record in records)
    return csv_lines([CSV_FIELDS, *rows])


def export_jsonl(suite: Suite) -> str:
    """Return the questions as JSON lines, each as a file in `questions/` may hold it."""
    records = (question_record(question) for question in suite.questions)
    kept = ({name: value for name, value in record.items() if name != "drawn"} for record in records)
    return "".join(json.dumps(record, ensure_ascii=False) + "\n" for record in kept)


def export_json(suite: Suite) -> str:
    """Return the whole suite as one JSON object: what it says for all questions, and the questions with templates."""
    record = suite_record(suite)
    own = [question_record(question) for question in suite.questions if question.drawn is None]
    head = {name: value for name, value in record.items() if value and name not in ("templates", "seed")}
    asked = {name: value for name, value in record["ask"].items() if value is not None}
    drawn = {one.drawn.template: question_record(one)["mark"] for one in suite.questions if one.drawn is not None}
    # Complete like the questions: the suite's own way of marking stands nowhere else.
    templates = [{**one, "mark": drawn.get(str(one["id"]), one.get("mark"))} for one in record["templates"]]
    whole = {**head, "ask": asked, "questions": [*own, *templates]}
    return json.dumps(whole, ensure_ascii=False, indent=2) + "\n"


def export_markdown(suite: Suite, *, keys: bool) -> str:
    """Return a question sheet in Markdown, with or without the keys."""
    lines = [f"# {suite.title}", ""]
    if suite.about:
        lines += [suite.about, ""]
    for number, question in enumerate(suite.asked(), start=1):
        lines += [f"## {number}. {question.id}", "", "\n\n".join(question.texts), ""]
        lines += [f"- **{letter}** {text}" for letter, text in question.marking.choices]
        if question.marking.choices:
            lines.append("")
        if keys:
            key = question.marking.key
            said = key if isinstance(key, str) else json.dumps(key, ensure_ascii=False)
            lines += [f"*Key*: {said if key is not None else f'by {question.marking.scheme}'}", ""]
            lines += [f"*Why*: {question.why}", ""] if question.why else []
    return "\n".join(lines)


def not_held(suite: Suite, form: str, *, keys: bool = True) -> list[str]:
    """Return what an export in this format leaves out."""
    lost: list[str] = []
    if form == "json":
        return lost
    if suite.system or suite.answer_line or suite.rubrics or suite.outcomes:
        lost.append("what the suite says for all questions (system text, answer line, rubrics), which json holds")
    if suite.templates:
        lost.append("templates: their instances are written as questions of their own; json holds them")
    if form == "markdown":
        lost.append(
            "how answers are marked, notes and states, and retired questions" + ("" if keys else ", and the keys")
        )
    return lost


def _cell(field: str, value: Any) -> str:
    if value is None:
        return ""
    if field == "key" and isinstance(value, str) and plain_key(value) != value:
        return json.dumps(value, ensure_ascii=False)
    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
