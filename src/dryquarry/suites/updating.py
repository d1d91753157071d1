"""Imported records beside the questions that a suite has already: which are new, and what of the others changed."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dryquarry.suites.importing import Imported, ImportedRecord
from dryquarry.suites.question import Question, State
from dryquarry.suites.records import question_record


@dataclass(frozen=True, slots=True)
class Changed:
    """A question of the suite, and its fields that the file has otherwise (None: no longer there)."""

    question: Question
    fields: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Update:
    """What an import would do to a suite; `absent` questions are not in the file, and stay as they are."""

    added: tuple[ImportedRecord, ...]
    changed: tuple[Changed, ...]
    same: int
    absent: int


def update_of(imported: Imported, questions: Sequence[Question]) -> Update:
    """Return what records change of a suite's questions, by id; instances of templates are left alone."""
    known = {question.id: question for question in questions if question.drawn is None}
    added, changed, same = [], [], 0
    for record in imported.records:
        question = known.get(str(record.fields["id"]))
        if question is None:
            added.append(record)
            continue
        fields = _differing(imported, record, question)
        if fields:
            changed.append(Changed(question, fields))
        else:
            same += 1
    met = {str(record.fields["id"]) for record in imported.records}
    return Update(tuple(added), tuple(changed), same, sum(name not in met for name in known))


def _differing(imported: Imported, record: ImportedRecord, question: Question) -> dict[str, Any]:
    held = question_record(question)
    differing: dict[str, Any] = {}
    for name in _covered(imported, record):
        given, before = record.fields.get(name), held.get(name)
        raw = record.row.values.get(imported.column_of(name) or "")
        if _alike(name, given) == _alike(name, before) or (raw is not None and raw == before):
            continue
        differing[name] = given
    return differing


def _covered(imported: Imported, record: ImportedRecord) -> list[str]:
    """Return the fields that the file has a say in: those of its columns, or of the object that a question is."""
    taken = dict.fromkeys(
        "options" if name.startswith("option ") else name
        for column, name in imported.columns.items()
        if record.row.number or column in record.row.values
    )
    return [name for name in taken if name not in ("id", "scheme")]


def _alike(name: str, value: Any) -> Any:
    """Return a field's value in the one form in which it can be compared."""
    if name == "options" and isinstance(value, list):
        return {chr(ord("A") + place): option for place, option in enumerate(value)}
    if name == "weight":
        return 1.0 if value is None else value
    if name == "state":
        return value or str(State.LIVE)
    if name in ("tags", "files"):
        return [value] if isinstance(value, str) else value or []
    if name in ("level", "category", "family", "twist", "language", "why", "source") and value is not None:
        return str(value).strip()
    return value.strip() if isinstance(value, str) else value
