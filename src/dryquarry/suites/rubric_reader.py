"""Rubrics: read from a suite's files or from a question, and as they stand in a sealed edition."""

from __future__ import annotations

from collections.abc import Mapping
from functools import partial
from typing import Any

from dryquarry.marking.judging.request import criterion_content
from dryquarry.marking.rubrics import CREDITS, SHOWN, Criterion, Rubric
from dryquarry.suites.fields import Fields, described
from dryquarry.suites.located import Document

RUBRIC_FIELDS = frozenset({"about", "criteria", "pass_at", "show"})
CRITERION_FIELDS = frozenset({"id", "asks", "points", "scale", "checklist", "examples", "veto", "absence"})
OWN_RUBRIC = "of the question"
MOST_CRITERIA = 100
MOST_POINTS = 1e6
MOST_SCALE = 100
# What people write for the fields of a rubric.
MEANINGS = {
    **dict.fromkeys(("description", "text", "question"), "what to look for is `asks`"),
    **dict.fromkeys(("weight", "max", "score"), "what a criterion is worth is `points`"),
    **dict.fromkeys(("levels", "max_points"), "a scale of whole numbers is `scale: 5`"),
    "name": "a criterion is named by its `id`",
}


def read_rubrics(fields: Fields, document: Document) -> Mapping[str, Rubric]:
    """Return the rubrics by name, noting faults."""
    rubrics: dict[str, Rubric] = {}
    for name, content in fields.mapping("rubrics").items():
        if not isinstance(content, dict):
            fields.fault("wrong-shape", f"rubric '{name}' wants a mapping with `criteria`", "rubrics")
            continue
        rubric = read_rubric(name, Fields(content, fields.file, document.line_of("rubrics", name), fields.faults))
        if rubric is not None:
            rubrics[name] = rubric
    return rubrics


def read_rubric(name: str, fields: Fields) -> Rubric | None:
    """Return one rubric, noting faults; None where it has no criteria that can be used."""
    fields.what = f"rubric '{name}'"
    fields.only(RUBRIC_FIELDS, MEANINGS)
    criteria = _read_criteria(fields, name)
    if not criteria:
        fields.fault("missing-field", f"rubric '{name}' has no criteria", "criteria")
        return None
    pass_at = fields.number("pass_at", 0.0) if fields.data.get("pass_at") is not None else None
    if pass_at is not None and not 0 < pass_at <= 1:
        fields.fault("wrong-shape", f"`pass_at` of rubric '{name}' is a share above 0 and up to 1", "pass_at")
        pass_at = None
    rubric = Rubric(name, criteria, fields.text("about") or "", pass_at, _read_show(fields, name))
    if rubric.points <= 0:
        fields.fault("wrong-shape", f"rubric '{name}' has no points to give", "criteria")
        return None
    return rubric


def _read_show(fields: Fields, name: str) -> tuple[str, ...]:
    if "show" not in fields.data:
        return SHOWN
    shown = fields.texts("show")
    for one in shown:
        if one not in SHOWN:
            fields.fault("wrong-shape", f"`show` of rubric '{name}' takes {', '.join(SHOWN)}, not '{one}'", "show")
    return tuple(one for one in SHOWN if one in shown)


def _read_criteria(rubric: Fields, name: str) -> tuple[Criterion, ...]:
    entries = rubric.data.get("criteria")
    criteria: list[Criterion] = []
    if isinstance(entries, list) and len(entries) > MOST_CRITERIA:
        rubric.fault("wrong-shape", f"rubric '{name}' has more than {MOST_CRITERIA} criteria", "criteria")
        return ()
    for index, entry in enumerate(entries if isinstance(entries, list) else []):
        if not isinstance(entry, dict):
            rubric.fault("wrong-shape", "a criterion wants `id`, `asks` and perhaps `points`", "criteria")
            continue
        one = Fields(
            entry, rubric.file, partial(rubric.line, "criteria", index), rubric.faults, question=rubric.question
        )
        one.what = f"a criterion of rubric '{name}'"
        read = _read_criterion(one)
        if read is not None and any(read.id == other.id for other in criteria):
            one.fault("duplicate-id", f"criterion '{read.id}' stands twice in rubric '{name}'", "id")
        elif read is not None:
            criteria.append(read)
    return tuple(criteria)


def _read_criterion(fields: Fields) -> Criterion | None:
    fields.only(CRITERION_FIELDS, MEANINGS)
    label, asks = fields.text("id", required=True), fields.text("asks", required=True)
    scale, checklist = _read_scale(fields), fields.texts("checklist")
    points = fields.number("points", float(scale or len(checklist) or 1))
    if not 0 < points <= MOST_POINTS:
        said = f"the points of a criterion are more than 0 and at most {MOST_POINTS:,.0f}, not {points:g}"
        fields.fault("wrong-shape", said, "points")
        return None
    if scale is not None and checklist:
        fields.fault("wrong-shape", "a criterion has a `scale` or a `checklist`, not both", "scale")
    examples = {str(credit): str(text) for credit, text in fields.mapping("examples").items()}
    for credit in examples:
        if credit not in CREDITS:
            said = f"the examples of a criterion are of {', '.join(CREDITS)} credit, not '{credit}'"
            fields.fault("wrong-shape", said, "examples")
    if not (label and asks):
        return None
    flags = {name: _flag(fields, name) for name in ("veto", "absence")}
    return Criterion(label, asks, points, scale, checklist, examples, **flags)


def _read_scale(fields: Fields) -> int | None:
    scale = fields.data.get("scale")
    if scale is None:
        return None
    if isinstance(scale, bool) or not isinstance(scale, int) or not 1 <= scale <= MOST_SCALE:
        said = f"`scale` of a criterion is its highest whole number, from 1 to {MOST_SCALE}, not {described(scale)}"
        fields.fault("wrong-shape", said, "scale")
        return None
    return scale


def _flag(fields: Fields, name: str) -> bool:
    value = fields.data.get(name, False)
    if not isinstance(value, bool):
        fields.fault("wrong-shape", f"`{name}` of a criterion is true or false, not {described(value)}", name)
        return False
    return value


def rubric_record(rubric: Rubric) -> Mapping[str, Any]:
    """Return a rubric as it stands in a sealed edition."""
    content: dict[str, Any] = {
        "about": rubric.about,
        "criteria": [criterion_content(one) for one in rubric.criteria],
    }
    if rubric.pass_at is not None:
        content["pass_at"] = rubric.pass_at
    if rubric.show != SHOWN:
        content["show"] = list(rubric.show)
    return content


def rubric_of(name: str, content: Mapping[str, Any]) -> Rubric:
    """Return a rubric from a sealed edition."""
    criteria = tuple(Criterion(**{**one, "checklist": tuple(one.get("checklist", ()))}) for one in content["criteria"])
    show = tuple(content.get("show", SHOWN))
    return Rubric(name, criteria, content["about"], content.get("pass_at"), show)
