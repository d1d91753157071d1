"""Questions as YAML that people like to read, and one question of a file written anew in its place."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from io import StringIO
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq
from ruamel.yaml.scalarstring import LiteralScalarString

from dryquarry.suites.digests import parse_json

_INDENT = 2


class EditFault(ValueError):
    """A file that cannot be edited without touching more than it should; the message says what to do by hand."""


def as_yaml(content: Any) -> str:
    """Return plain data as YAML, texts of several lines as blocks, lists set in by two."""
    yaml = YAML()
    yaml.default_flow_style = False
    yaml.width = 110
    yaml.indent(mapping=2, sequence=4, offset=_INDENT)
    out = StringIO()
    yaml.dump(_readable(content), out)
    return out.getvalue()


def with_question(content: bytes, file: str, record: Mapping[str, Any]) -> bytes:
    """Return a file's content with the question of the record's id written anew, and all else as it is.

    Comments within that question are lost. Raises EditFault when it does not stand in the file in a form that can be
    edited.
    """
    text = content.decode("utf-8")
    edited = _in_json_lines(text, record) if file.endswith(".jsonl") else _in_yaml(text, record)
    return edited.encode("utf-8")


def _in_json_lines(text: str, record: Mapping[str, Any]) -> str:
    lines = text.split("\n")
    for number, line in enumerate(lines):
        try:
            known = parse_json(line)
        except ValueError:
            continue
        if isinstance(known, dict) and str(known.get("id")) == record["id"]:
            lines[number] = json.dumps(record, ensure_ascii=False) + ("\r" if line.endswith("\r") else "")
            return "\n".join(lines)
    raise EditFault(f"question {record['id']} was not found")


def _in_yaml(text: str, record: Mapping[str, Any]) -> str:
    loaded: Any = YAML(typ="rt", pure=True).load(StringIO(text))
    entries = loaded.get("questions") if isinstance(loaded, dict) else loaded
    if not isinstance(entries, CommentedSeq) or entries.fa.flow_style():
        raise EditFault("its questions are written in a form that is best edited by hand")
    places = [place for place, one in enumerate(entries) if isinstance(one, CommentedMap)]
    place = next((one for one in places if str(entries[one].get("id")) == record["id"]), None)
    if place is None:
        raise EditFault(f"question {record['id']} was not found")
    lines = text.split("\n")
    start, dash = _dash(lines, entries, place)
    end = _dash(lines, entries, place + 1)[0] if place + 1 < len(entries) else _end(lines, start, dash)
    while end > start + 1 and (not lines[end - 1].strip() or lines[end - 1].lstrip().startswith("#")):
        end -= 1  # what stands above the next question is about that one
    written = as_yaml([record]).rstrip("\n").split("\n")
    ending = "\r" if lines[start].endswith("\r") else ""
    lines[start:end] = [(" " * dash + line[_INDENT:] if line else line) + ending for line in written]
    return "\n".join(lines)


def _dash(lines: Sequence[str], entries: CommentedSeq, place: int) -> tuple[int, int]:
    """Return the line and the column of the dash before an entry."""
    line, column = entries.lc.item(place)
    while line >= 0:
        dash = lines[line][:column].rfind("-") if column else -1
        if dash >= 0 and not lines[line][:dash].strip():
            return line, dash
        line, column = line - 1, len(lines[line - 1]) if line else 0
    raise EditFault("its questions are written in a form that is best edited by hand")


def _end(lines: Sequence[str], start: int, dash: int) -> int:
    """Return the line after the last entry: the first that is set in no further than its dash."""
    for number in range(start + 1, len(lines)):
        stripped = lines[number].lstrip()
        if stripped and not stripped.startswith("#") and len(lines[number]) - len(stripped) <= dash:
            return number
    return len(lines)


def _readable(content: Any) -> Any:
    if isinstance(content, str) and "\n" in content:
        return LiteralScalarString(content)
    if isinstance(content, Mapping):
        return {name: _readable(value) for name, value in content.items()}
    if isinstance(content, list | tuple):
        return [_readable(member) for member in content]
    return content
