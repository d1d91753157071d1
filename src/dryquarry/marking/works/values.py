"""Values that came back from a program, as plain data with tags, and whether they are the ones wanted.

A value that JSON has no form for is a mapping with "~" (what it is) and "v": a tuple, a set, a mapping (its pairs), a
number that is not finite or not binary, anything else by its kind and how it shows itself.
"""

from __future__ import annotations

import json
import math
from collections.abc import Sequence
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

TAG = "~"
LONGEST_TOLD = 160
DEFAULT_REL = 1e-9
MOST_UNORDERED = 2000


@dataclass(frozen=True, slots=True)
class Tolerance:
    """How far a number may be off: a distance, or a share of the wanted one; and whether the order of lists counts."""

    abs: float | None = None
    rel: float | None = None
    ordered: bool = True

    def close(self, wanted: float, got: float) -> bool:
        """Tell whether a number is near enough to the wanted one."""
        if wanted == got:
            return True
        if math.isnan(wanted) or math.isnan(got):
            return math.isnan(wanted) and math.isnan(got)
        if math.isinf(wanted) or math.isinf(got):
            return False
        if self.abs is None and self.rel is None:
            whole = isinstance(wanted, int) and isinstance(got, int)
            return not whole and abs(wanted - got) <= DEFAULT_REL * max(abs(wanted), abs(got))
        # the last digit of a binary number is no distance
        slack = 1e-12 * max(abs(wanted), abs(got))
        return abs(wanted - got) <= max(self.abs or 0.0, (self.rel or 0.0) * abs(wanted)) + slack


def same_value(wanted: Any, got: Any, tolerance: Tolerance) -> bool:
    """Tell whether what came back is what a suite's author wants, written as YAML or JSON writes it."""
    kind, value = _opened(got)
    if wanted is None:
        return kind in ("null", "undefined")
    if isinstance(wanted, bool):
        return kind == "bool" and value is wanted
    if isinstance(wanted, int | float):
        return kind == "number" and tolerance.close(wanted, value)
    if isinstance(wanted, str):
        return kind in ("text", "date", "bytes") and value == wanted
    if isinstance(wanted, list | tuple):
        if kind == "set" or (kind == "list" and not tolerance.ordered):
            return _same_members(wanted, value, tolerance)
        same_length = kind == "list" and len(value) == len(wanted)
        return same_length and all(same_value(one, two, tolerance) for one, two in zip(wanted, value, strict=True))
    if isinstance(wanted, dict):
        return kind == "map" and _same_pairs(wanted, value, tolerance)
    return False


def _opened(got: Any) -> tuple[str, Any]:
    """Return what a value is, and the value without its tags."""
    if got is None:
        return "null", None
    if isinstance(got, bool):
        return "bool", got
    if isinstance(got, int | float):
        return "number", got
    if isinstance(got, str):
        return "text", got
    if isinstance(got, list):
        return "list", got
    tag, value = got.get(TAG), got.get("v")
    if tag == "tuple":
        return "list", value
    if tag == "object":
        return "map", value
    if tag == "number":
        return "number", _number(str(value))
    return str(tag), value


def _number(text: str) -> float | int:
    try:
        return int(text)
    except ValueError:
        pass
    try:
        return float(Fraction(text))
    except (ValueError, ZeroDivisionError, OverflowError):
        pass
    try:
        return float(text)
    except ValueError:
        return math.nan


def _same_members(wanted: Sequence[Any], got: Sequence[Any], tolerance: Tolerance) -> bool:
    """Tell whether two lists have the same members, each as often, in whatever order."""
    if len(wanted) != len(got) or len(got) > MOST_UNORDERED:
        return False
    left = list(got)
    for one in wanted:
        place = next((place for place, other in enumerate(left) if same_value(one, other, tolerance)), None)
        if place is None:
            return False
        del left[place]
    return True


def _same_pairs(wanted: dict[Any, Any], pairs: Sequence[Sequence[Any]], tolerance: Tolerance) -> bool:
    """Tell whether a mapping has the wanted keys and values; a key that is a number may be written as a text."""
    if len(pairs) != len(wanted):
        return False
    got = {_key(key): value for key, value in pairs}
    return all(str(name) in got and same_value(value, got[str(name)], tolerance) for name, value in wanted.items())


def _key(key: Any) -> str:
    _, value = _opened(key)
    return str(value)


def told(got: Any, language: str = "") -> str:
    """Return a value as a person reads it, bounded in length."""
    text = _told(got, language == "python", 0)
    return text if len(text) <= LONGEST_TOLD else f"{text[: LONGEST_TOLD - 1]}…"


def _told(got: Any, python: bool, depth: int) -> str:
    kind, value = _opened(got)
    if kind == "null":
        return "None" if python else "null"
    if kind == "undefined":
        return "undefined"
    if kind == "bool":
        return (str(value) if python else str(value).lower()) if isinstance(value, bool) else str(value)
    if kind == "text":
        return json.dumps(value, ensure_ascii=False)
    if kind == "number":
        # written with tags, a number shows itself exactly: 1/3, nan
        return str(got["v"]) if isinstance(got, dict) else repr(value)
    if depth > 6 or not isinstance(value, list):
        return "…" if depth > 6 else str(value)
    if kind == "map":
        pairs = (f"{_told(key, python, depth + 1)}: {_told(one, python, depth + 1)}" for key, one in value[:50])
        return f"{{{', '.join(pairs)}}}"
    inner = ", ".join(_told(one, python, depth + 1) for one in value[:50]) + (", …" if len(value) > 50 else "")
    tag = got.get(TAG) if isinstance(got, dict) else None
    if tag == "tuple":
        return f"({inner},)" if len(value) == 1 else f"({inner})"
    return f"{{{inner}}}" if kind == "set" and value else "set()" if kind == "set" else f"[{inner}]"


def told_wanted(wanted: Any, language: str = "") -> str:
    """Return a wanted value, as an author wrote it, in the way in which those that came back are told."""
    return told(_tagged(wanted), language)


def _tagged(wanted: Any) -> Any:
    if isinstance(wanted, dict):
        return {TAG: "map", "v": [[str(name), _tagged(value)] for name, value in wanted.items()]}
    if isinstance(wanted, list | tuple):
        return [_tagged(one) for one in wanted]
    return wanted


class TooStrange(ValueError):
    """Something that a program sent is no value in this form."""


def checked(value: Any, depth: int = 0) -> Any:
    """Return a value that came from a program if it has the form of one; raises TooStrange."""
    if depth > 200:
        raise TooStrange("nested too deeply")
    if value is None or isinstance(value, bool | int | float | str):
        return value
    if isinstance(value, list):
        return [checked(one, depth + 1) for one in value]
    if isinstance(value, dict) and set(value) <= {TAG, "v", "kind"} and isinstance(value.get(TAG), str):
        tag, inner = value[TAG], value.get("v")
        if tag in ("map", "object"):
            if not isinstance(inner, list) or not all(isinstance(one, list) and len(one) == 2 for one in inner):
                raise TooStrange("a mapping without pairs")
        elif (tag in ("tuple", "set")) is not isinstance(inner, list):
            raise TooStrange(f"a {tag} of another form")
        return {**value, "v": checked(inner, depth + 1)}
    raise TooStrange("no value")
