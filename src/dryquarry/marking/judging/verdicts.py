"""What a judge answers, read strictly: points per criterion with evidence, or what is amiss."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from dataclasses import dataclass
from math import isfinite
from typing import Any

from dryquarry.marking.judging.evidence import is_quoted
from dryquarry.marking.regexes import regex
from dryquarry.marking.rubrics import Criterion, Rubric
from dryquarry.marking.values.texts import shortened

MOST_POINTS = 10**9
LONGEST_VERDICT = 200_000
_FENCED = regex(r"\A```(?:json)?[ \t]*\n(?P<inside>.*?)\n?```\Z", re.DOTALL | re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Point:
    """The points that a judge gave for one criterion, with the words of the reply that show it, and why.

    They are not `supported` where what wants evidence has none that stands in the reply word for word.
    """

    criterion: str
    points: float
    why: str = ""
    evidence: str = ""
    supported: bool = True


class UnreadableVerdict(ValueError):
    """The judge's answer is not the JSON asked for; the message says what is amiss."""


def read_verdict(text: str, rubric: Rubric, reply: str) -> tuple[Point, ...]:
    """Return the points that a judge's answer gives, in the rubric's order; raises UnreadableVerdict."""
    given = _by_criterion(json_object(text))
    points = []
    for criterion in rubric.criteria:
        if criterion.id not in given:
            raise UnreadableVerdict(f"no points for criterion '{criterion.id}'")
        entry = given[criterion.id]
        earned = criterion.earned(_number(entry.get("points"), criterion))
        evidence, why = _text(entry, "evidence", criterion), _text(entry, "why", criterion)
        points.append(Point(criterion.id, earned, why, evidence, _is_supported(criterion, earned, evidence, reply)))
    unknown = set(given) - {criterion.id for criterion in rubric.criteria}
    if unknown:
        raise UnreadableVerdict(f"points for '{shortened(min(unknown), 60)}', which is no criterion")
    return tuple(points)


def _is_supported(criterion: Criterion, earned: float, evidence: str, reply: str) -> bool:
    """Tell whether what wants evidence has it: points that were given, or, where absence is asked, that were not."""
    if evidence.strip():
        return is_quoted(evidence, reply)
    return earned >= criterion.points if criterion.absence else earned == 0


def _number(value: Any, criterion: Criterion) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not isfinite(_as_float(value)):
        raise UnreadableVerdict(f"the points for '{criterion.id}' are {shortened(repr(value), 40)}, not a number")
    if not 0 <= value <= criterion.most:
        many = f"{float(value):g}" if abs(value) < MOST_POINTS else "far too many"
        raise UnreadableVerdict(f"{many} points for '{criterion.id}', which can get 0 to {criterion.most:g}")
    if criterion.whole and not float(value).is_integer():
        raise UnreadableVerdict(f"{value:g} points for '{criterion.id}', which takes whole numbers")
    return float(value)


def _as_float(value: int | float) -> float:
    try:
        return float(value)
    except OverflowError:
        return float(MOST_POINTS * 10)


def _text(entry: Mapping[str, Any], name: str, criterion: Criterion) -> str:
    value = entry.get(name)
    if value is not None and not isinstance(value, str):
        raise UnreadableVerdict(f"`{name}` of criterion '{criterion.id}' is {shortened(repr(value), 40)}, not a text")
    return value or ""


def _by_criterion(content: Mapping[str, Any]) -> dict[str, Mapping[str, Any]]:
    unknown = [name for name in content if name != "criteria"]
    if unknown:
        raise UnreadableVerdict(f"the object has '{shortened(str(unknown[0]), 40)}' beside 'criteria'")
    entries = content.get("criteria")
    if not isinstance(entries, list) or not all(isinstance(entry, dict) for entry in entries):
        raise UnreadableVerdict("no list 'criteria' in the judge's answer")
    given: dict[str, Mapping[str, Any]] = {}
    for entry in entries:
        name = str(entry.get("id"))
        if name in given:
            raise UnreadableVerdict(f"points for criterion '{shortened(name, 60)}' twice")
        given[name] = entry
    return given


def json_object(text: str) -> Mapping[str, Any]:
    """Return the one JSON object that is the whole answer, a code fence around it aside; raises UnreadableVerdict."""
    bare = text.strip()
    fenced = _FENCED.match(bare)
    bare = fenced["inside"].strip() if fenced else bare
    if not bare:
        raise UnreadableVerdict("the answer is empty")
    if len(bare) > LONGEST_VERDICT:
        raise UnreadableVerdict("the answer is far too long")
    try:
        content = json.loads(bare, parse_constant=_no_number, object_pairs_hook=_once)
    except UnreadableVerdict:
        raise
    except (ValueError, RecursionError):
        raise UnreadableVerdict(_what_is_amiss(bare)) from None
    if not isinstance(content, dict):
        raise UnreadableVerdict("the answer is JSON, but no object")
    return content


def _what_is_amiss(text: str) -> str:
    """Return what is wrong with an answer that is not one JSON object, in words that a judge can act on."""
    start = text.find("{")
    if start < 0:
        return "there is no JSON object in the answer"
    try:
        _, end = json.JSONDecoder().raw_decode(text, start)
    except (ValueError, RecursionError):
        return "the JSON cannot be read" + ("" if start == 0 else ", and there is text before it")
    if "{" in text[end:]:
        return "there is more than one JSON object; one is wanted"
    return "there is text around the JSON object; the object alone is wanted"


def _no_number(word: str) -> Any:
    raise UnreadableVerdict(f"{word} is no number of points")


def _once(pairs: list[tuple[str, Any]]) -> dict[str, Any]:
    content = dict(pairs)
    if len(content) < len(pairs):
        raise UnreadableVerdict("a name stands twice in one object of the answer")
    return content
