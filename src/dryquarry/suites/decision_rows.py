"""Decisions of people in a file, one JSON object a line: what the marking desk writes out, filled in."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from dryquarry.errors import Fault, FaultyFiles
from dryquarry.suites.digests import parse_json

# What the desk writes beside them is for the reader and may stand there.
SHOWN = ("question", "ask", "key", "criteria", "options", "reply", "why")
FILLED = ("verdict", "points", "note")
VERDICTS = ("pass", "fail", "void")


@dataclass(frozen=True, slots=True)
class DecisionRow:
    """What a person decided on the paper named by `item`; neither verdict nor points where it is not decided."""

    item: str
    verdict: str | None
    points: Mapping[str, float] | None
    note: str | None
    line: int

    @property
    def is_decided(self) -> bool:
        """Whether there is a decision in it."""
        return self.verdict is not None or self.points is not None


def read_decisions(text: str, file: str) -> list[DecisionRow]:
    """Return the decisions in a file; raises FaultyFiles with every line that is none."""
    rows: list[DecisionRow] = []
    faults: list[Fault] = []
    for number, line in enumerate(text.splitlines(), start=1):
        if not line.strip():
            continue
        try:
            rows.append(_row(parse_json(line), number))
        except ValueError as error:
            faults.append(Fault("decision", str(error), file, number))
    if faults:
        raise FaultyFiles(file, faults)
    return rows


def _row(data: Any, line: int) -> DecisionRow:
    if not isinstance(data, dict):
        raise ValueError("a decision is a JSON object with `item` and `verdict` or `points`")
    unknown = [name for name in data if name not in ("item", *SHOWN, *FILLED)]
    if unknown:
        raise ValueError(f"unknown field '{unknown[0]}'; a decision has `item`, `verdict`, `points` and `note`")
    item, verdict, points, note = (data.get(name) for name in ("item", *FILLED))
    if not isinstance(item, str) or not item:
        raise ValueError("`item` is missing: the name of the paper, as the desk wrote it")
    if verdict not in (None, "", *VERDICTS):
        raise ValueError(f"`verdict` is {', '.join(VERDICTS)} or empty, not {verdict!r}")
    if points is not None and not isinstance(points, dict):
        raise ValueError("`points` is an object: the points by criterion")
    if note is not None and not isinstance(note, str):
        raise ValueError("`note` is a text")
    given = {name: value for name, value in (points or {}).items() if value is not None} or None
    return DecisionRow(item, verdict or None, given, note or None, line)
