"""The rubrics of a suite: named lists of criteria."""

from __future__ import annotations

from collections.abc import Mapping

from dryquarry.marking.model import Criterion, Rubric
from dryquarry.suites.fields import Fields
from dryquarry.suites.yaml_text import Document

RUBRIC_FIELDS = frozenset({"about", "criteria"})
CRITERION_FIELDS = frozenset({"id", "asks", "points"})


def read_rubrics(fields: Fields, document: Document) -> Mapping[str, Rubric]:
    """Return the rubrics by name, noting faults."""
    rubrics: dict[str, Rubric] = {}
    for name, content in fields.mapping("rubrics").items():
        line = document.line_of("rubrics", name)
        if not isinstance(content, dict):
            fields.fault("wrong-shape", f"rubric '{name}' wants a mapping with `criteria`", "rubrics")
            continue
        rubric = Fields(content, fields.file, line, fields.faults, what=f"rubric '{name}'")
        rubric.only(RUBRIC_FIELDS)
        criteria = _read_criteria(rubric, document, name)
        if not criteria:
            rubric.fault("missing-field", f"rubric '{name}' has no criteria", "criteria")
            continue
        rubrics[name] = Rubric(name, criteria, rubric.text("about") or "")
    return rubrics


def _read_criteria(rubric: Fields, document: Document, name: str) -> tuple[Criterion, ...]:
    entries = rubric.data.get("criteria")
    criteria: list[Criterion] = []
    for index, entry in enumerate(entries if isinstance(entries, list) else []):
        line = document.line_of("rubrics", name, "criteria", index)
        if not isinstance(entry, dict):
            rubric.fault("wrong-shape", "a criterion wants `id`, `asks` and perhaps `points`", "criteria")
            continue
        one = Fields(entry, rubric.file, line, rubric.faults, what=f"a criterion of rubric '{name}'")
        one.only(CRITERION_FIELDS)
        label, asks = one.text("id", required=True), one.text("asks", required=True)
        if label and any(label == other.id for other in criteria):
            one.fault("duplicate-id", f"criterion '{label}' stands twice in rubric '{name}'", "id")
        if label and asks:
            criteria.append(Criterion(label, asks, one.number("points", 1.0)))
    return tuple(criteria)
