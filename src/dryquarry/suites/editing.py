"""Retiring and restoring questions in the author's own files, leaving every other character as it is."""

from __future__ import annotations

import json
from collections.abc import Mapping
from io import StringIO
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap

from dryquarry.suites.digests import parse_json
from dryquarry.suites.question import State
from dryquarry.suites.yaml_writing import EditFault

STATE_FIELDS = ("state", "retired_because")


def with_state(content: bytes, file: str, question: str, state: State, because: str | None) -> bytes:
    """Return the file's content with a question's state changed, and nothing else.

    Raises EditFault when the question does not stand in the file in a form that can be edited.
    """
    text = content.decode("utf-8")
    fields = {} if state is State.LIVE else {"state": str(state), "retired_because": because}
    given = {name: value for name, value in fields.items() if value}
    edited = _edited_jsonl(text, question, given) if file.endswith(".jsonl") else _edited_yaml(text, question, given)
    return edited.encode("utf-8")


def _edited_jsonl(text: str, question: str, fields: Mapping[str, str]) -> str:
    lines = text.split("\n")
    for number, line in enumerate(lines):
        try:
            record = parse_json(line)
        except ValueError:
            continue
        if isinstance(record, dict) and str(record.get("id")) == question:
            kept = {name: value for name, value in record.items() if name not in STATE_FIELDS}
            end = "\r" if line.endswith("\r") else ""
            lines[number] = json.dumps({**kept, **fields}, ensure_ascii=False) + end
            return "\n".join(lines)
    raise EditFault(f"question {question} was not found")


def _edited_yaml(text: str, question: str, fields: Mapping[str, str]) -> str:
    for _ in STATE_FIELDS:
        text = _without_field(text, question)
    node = _node(text, question)
    if not fields:
        return text
    lines = text.split("\n")
    said = [f"{name}: {json.dumps(value, ensure_ascii=False)}" for name, value in fields.items()]
    said[0] = f"state: {fields['state']}"
    if node.fa.flow_style():
        line, column = node.lc.line, node.lc.col
        if lines[line][column] != "{":
            raise EditFault(f"question {question} is written in a form that is best edited by hand")
        lines[line] = lines[line][: column + 1] + ", ".join(said) + ", " + lines[line][column + 1 :]
        return "\n".join(lines)
    line, column = node.lc.key("id")
    end = "\r" if lines[line].endswith("\r") else ""
    lines[line + 1 : line + 1] = [" " * column + field + end for field in said]
    return "\n".join(lines)


def _without_field(text: str, question: str) -> str:
    """Return the text without the first of the state fields that the question has."""
    node = _node(text, question)
    name = next((field for field in STATE_FIELDS if field in node), None)
    if name is None:
        return text
    lines = text.split("\n")
    start = node.lc.key(name)
    later = sorted(place for field in node if (place := node.lc.key(field)) > start)
    if node.fa.flow_style():
        if not later or later[0][0] != start[0]:
            raise EditFault(f"the `{name}` of question {question} stands last on its line; edit it by hand")
        line = lines[start[0]]
        lines[start[0]] = line[: start[1]] + line[later[0][1] :]
        return "\n".join(lines)
    if start == min(node.lc.key(field) for field in node):
        raise EditFault(f"the `{name}` of question {question} stands before its id; edit it by hand")
    last = start[0]
    while last + 1 < len(lines) and _continues(lines[last + 1], start[1]):
        last += 1
    del lines[start[0] : last + 1]
    return "\n".join(lines)


def _continues(line: str, column: int) -> bool:
    """Tell whether a line goes on with the value of a field that stands at a column."""
    stripped = line.lstrip()
    return bool(stripped) and not stripped.startswith("#") and len(line) - len(stripped) > column


def _node(text: str, question: str) -> CommentedMap:
    loaded: Any = YAML(typ="rt", pure=True).load(StringIO(text))
    entries = loaded.get("questions") if isinstance(loaded, dict) else loaded
    for entry in entries or []:
        if isinstance(entry, CommentedMap) and str(entry.get("id")) == question:
            return entry
    raise EditFault(f"question {question} was not found")
