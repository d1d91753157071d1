"""Digests: what identifies an ask, a way of marking and an entrant, the same on every machine.

A digest is the SHA-256, in lower-case hexadecimal, of canonical JSON in UTF-8: object keys sorted by code
point, no spaces, no escapes but those JSON demands, a number without a fractional part written as an
integer, any other number with the fewest digits that read back to the same double.
"""

from __future__ import annotations

import hashlib
import json
import math
from typing import Any

from dryquarry.marking.judging.request import criterion_content
from dryquarry.marking.model import Marking
from dryquarry.marking.rubrics import SHOWN, Rubric
from dryquarry.suites.ask import Ask


def canonical_json(content: Any) -> str:
    """Return the canonical JSON text of plain data (mappings, lists, texts, numbers, booleans, None)."""
    text = _ENCODER.encode(content)
    # Only then can there be a number such as 50.0 or 1e+16, which is to be written as an integer.
    return _ENCODER.encode(_plain(content)) if ".0" in text or "e+" in text else text


def parse_json(text: str) -> Any:
    """Return the plain data of a JSON text, whole numbers exact at any size; raises ValueError."""
    try:
        data = _DECODER.decode(text)
    except RecursionError:
        raise ValueError("nested too deeply") from None
    if "\\ud" in text or "\\uD" in text:
        lone = lone_surrogate(json.dumps(data, ensure_ascii=False))
        if lone is not None:
            raise ValueError(f"'{lone}' is half of a character; write it whole")
    return data


def lone_surrogate(text: str) -> str | None:
    r"""Return the first half of a character that stands alone in a text, as "\ud83d", or None."""
    if text.isascii():
        return None
    found = next((char for char in text if "\ud800" <= char <= "\udfff"), None)
    return None if found is None else f"\\u{ord(found):04x}"


def _finite(digits: str) -> float:
    number = float(digits)
    if number in (math.inf, -math.inf):
        raise ValueError(f"the number {digits} is too large")
    return number


def _refused(word: str) -> Any:
    raise ValueError(f"{word} is no number of JSON")


_ENCODER = json.JSONEncoder(ensure_ascii=False, sort_keys=True, separators=(",", ":"), allow_nan=False)
_DECODER = json.JSONDecoder(parse_constant=_refused, parse_float=_finite)


def digest(content: Any) -> str:
    """Return the SHA-256 of the canonical JSON of plain data, in hexadecimal."""
    return text_digest(canonical_json(content))


def said(content: Any) -> str:
    """Return plain data as a person reads it: a text as it is, all else as canonical JSON."""
    return content if isinstance(content, str) else canonical_json(content)


def text_digest(text: str) -> str:
    """Return the SHA-256 of a text in UTF-8, in hexadecimal."""
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()


def ask_content(ask: Ask) -> dict[str, Any]:
    """Return what the ask digest covers: exactly what reaches the model from the suite."""
    content: dict[str, Any] = {"system": ask.system, "turns": list(ask.turns)}
    if ask.files:
        content["files"] = [[file.path, file.sha256] for file in ask.files]
    return content


def second_try_content(ask: Ask) -> dict[str, Any]:
    """Return what identifies a second try: its turns, told apart from a question of the same turns."""
    return {**ask_content(ask), "second_try": True}


def mark_content(marking: Marking) -> dict[str, Any]:
    """Return what the mark digest covers: key, scheme, options, choices, answer line and rubric."""
    content: dict[str, Any] = {
        "answer_line": marking.answer_line,
        "choices": [list(choice) for choice in marking.choices],
        "key": marking.key,
        "options": dict(marking.options),
        "scheme": marking.scheme,
    }
    if marking.rubric is not None:
        content["rubric"] = _rubric_content(marking.rubric)
    if marking.form_required:
        content["form"] = "required"
    if marking.outcomes:
        content["outcomes"] = dict(marking.outcomes)
    return content


def _rubric_content(rubric: Rubric) -> dict[str, Any]:
    """Return a rubric as the mark digest covers it; what is not set adds nothing, so that earlier digests hold."""
    criteria: list[list[Any]] = []
    for one in rubric.criteria:
        further = criterion_content(one)
        further = {name: value for name, value in further.items() if name not in ("id", "asks", "points")}
        criteria.append([one.id, one.asks, one.points, *([further] if further else [])])
    content: dict[str, Any] = {"about": rubric.about, "criteria": criteria}
    if rubric.pass_at is not None:
        content["pass_at"] = rubric.pass_at
    if rubric.show != SHOWN:
        content["show"] = list(rubric.show)
    return content


def _plain(content: Any) -> Any:
    if isinstance(content, float) and content.is_integer():
        return int(content)
    if isinstance(content, dict):
        return {str(name): _plain(value) for name, value in content.items()}
    if isinstance(content, list | tuple):
        return [_plain(member) for member in content]
    return content
