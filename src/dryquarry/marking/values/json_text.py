"""The one reader of JSON in prose: objects in code fences, in ticks, in sentences, or as the whole reply."""

from __future__ import annotations

import json
import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from dryquarry.marking.regexes import regex

MOST_TRIES = 200
LONGEST = 200_000
_FENCE = regex(r"```(?P<language>[\w-]*)[ \t]*\n(?P<inside>.*?)(?:```|\Z)", re.DOTALL)
_DECODER = json.JSONDecoder()


@dataclass(frozen=True, slots=True)
class JsonFound:
    """A JSON object in a text, and where it stands; `broken` says what is amiss with one that cannot be read."""

    value: Mapping[str, Any]
    start: int
    end: int
    broken: str | None = None


def find_objects(text: str) -> list[JsonFound]:
    """Return the JSON objects of a text, in order, without those that stand in others; last, one that breaks off.

    Only the last part of a very long text is looked at, and of it no more openings than a person would try.
    """
    offset = max(0, len(text) - LONGEST)
    found: list[JsonFound] = []
    position, tries = offset, 0
    broken: JsonFound | None = None
    while (start := text.find("{", position)) >= 0 and tries < MOST_TRIES:
        tries += 1
        try:
            value, end = _DECODER.raw_decode(text, start)
        except json.JSONDecodeError as error:
            broken = broken or _broken(text, start, error)
            position = start + 1
            continue
        except (ValueError, RecursionError):
            position = start + 1
            continue
        position = end
        if isinstance(value, dict) and (broken is None or start > broken.end):
            found.append(JsonFound(value, start, end))
            broken = None
    return [*found, broken] if broken is not None and tries < MOST_TRIES else found


def _broken(text: str, start: int, error: json.JSONDecodeError) -> JsonFound | None:
    """Return an object that looks like JSON and cannot be read; None for braces of prose."""
    head = text[start : start + 60]
    if not re.match(r"\{\s*(?:\"[^\"\n]*\"\s*:|'[^'\n]*'\s*:|\w+\s*:\s)", head):
        return None
    line = text.count("\n", 0, error.pos) + 1
    fence = text.find("```", start)
    end = fence if fence >= 0 else len(text)
    return JsonFound({}, start, end, f"{error.msg.lower()} in line {line}")
