"""Scheme `fields`: every field of the reply's JSON equals the key's, recursively."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping
from typing import Any

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, Verdict, failed, passed, scored
from dryquarry.marking.nested import prepare_part
from dryquarry.marking.text import shortened, uniform

MOST_TRIES = 200
DEEPEST = 40
MOST_TOLD = 5

_FENCE = re.compile(r"```[\w-]*[ \t]*\n(?P<inside>.*?)```", re.DOTALL)
_DECODER = json.JSONDecoder()


def prepare(marking: Marking) -> Marker:
    """Return the marker for a mapping; raises MarkingFault when the key is none, or a field's scheme does not fit."""
    key = marking.key
    if not isinstance(key, Mapping) or not key:
        raise MarkingFault("the key wants a mapping; scheme 'fields' compares the fields of JSON objects")
    ignored = frozenset(str(name) for name in marking.options.get("ignore", ()))
    own = {
        str(name): prepare_part(spec, _at(key, str(name)), marking, f"field '{name}'")
        for name, spec in marking.options.get("field", {}).items()
    }
    partial = bool(marking.options.get("partial", False))
    wanted = [path for path in _paths(key) if path not in ignored]

    def mark(text: str) -> Mark:
        found = last_object(text)
        if found is None:
            return failed("there is no JSON object in the reply")
        value, start, said = found
        place = (shortened(said, 200), "JSON", start)
        amiss = dict(_amiss(key, value, "", ignored, own))
        if not amiss:
            return passed("all fields are as in the key", *place)
        told = "; ".join(list(amiss.values())[:MOST_TOLD]) + ("; …" if len(amiss) > MOST_TOLD else "")
        right = sum(not any(path == one or path.startswith(f"{one}.") for one in amiss) for path in wanted)
        more = sum(path not in wanted for path in amiss)
        return scored(max(0, right - more) / len(wanted) if partial and wanted else 0.0, told, *place)

    return mark


def last_object(text: str) -> tuple[Mapping[str, Any], int, str] | None:
    """Return the last JSON object of a reply, where it begins, and its text; one in a code fence first."""
    for fence in reversed(list(_FENCE.finditer(text))):
        found = _object_in(fence["inside"], fence.start("inside"))
        if found is not None:
            return found
    return _object_in(text, 0)


def _object_in(text: str, offset: int) -> tuple[Mapping[str, Any], int, str] | None:
    position, last, tries = 0, None, 0
    while (start := text.find("{", position)) >= 0 and tries < MOST_TRIES:
        tries += 1
        try:
            value, end = _DECODER.raw_decode(text, start)
        except (ValueError, RecursionError):
            position = start + 1
            continue
        if isinstance(value, dict):
            last = (value, offset + start, text[start:end])
        position = end
    return last


def _paths(key: Mapping[str, Any], prefix: str = "") -> Iterator[str]:
    for name, value in key.items():
        path = f"{prefix}{name}"
        yield from _paths(value, f"{path}.") if isinstance(value, Mapping) and value else [path]


def _at(key: Any, path: str) -> Any:
    for name in path.split("."):
        if not isinstance(key, Mapping) or name not in key:
            raise MarkingFault(f"option 'field' names '{path}', which the key does not have")
        key = key[name]
    return key


def _amiss(
    key: Mapping[str, Any], value: Mapping[str, Any], prefix: str, ignored: frozenset[str], own: Mapping[str, Marker]
) -> Iterator[tuple[str, str]]:
    """Yield each field that is not as in the key, with what is amiss."""
    for name, wanted in key.items():
        path = f"{prefix}{name}"
        if path in ignored:
            continue
        if name not in value:
            yield path, f"{path} is missing"
        elif path in own:
            given = value[name]
            got = own[path](given if isinstance(given, str) else json.dumps(given, ensure_ascii=False))
            if got.verdict is not Verdict.PASS:
                yield path, f"{path}: {got.reason}"
        elif isinstance(wanted, Mapping) and isinstance(value[name], dict) and prefix.count(".") < DEEPEST:
            yield from _amiss(wanted, value[name], f"{path}.", ignored, own)
        elif not _same(wanted, value[name]):
            yield path, f"{path} is {_said(value[name])}, not {_said(wanted)}"
    for name in value:
        path = f"{prefix}{name}"
        if name not in key and path not in ignored:
            yield path, f"{path} is not in the key"


def _same(wanted: Any, given: Any) -> bool:
    """Compare as JSON does: 3 is 3.0, but neither "3" nor true."""
    if isinstance(wanted, bool) or isinstance(given, bool):
        return isinstance(wanted, bool) and isinstance(given, bool) and wanted == given
    if isinstance(wanted, str) and isinstance(given, str):
        return uniform(wanted) == uniform(given)
    if isinstance(wanted, list | tuple) and isinstance(given, list):
        return len(wanted) == len(given) and all(map(_same, wanted, given))
    if isinstance(wanted, Mapping) and isinstance(given, dict):
        return wanted.keys() == given.keys() and all(_same(wanted[name], given[name]) for name in wanted)
    if isinstance(wanted, int | float) and isinstance(given, int | float):
        return wanted == given
    return wanted is None and given is None


def _said(value: Any) -> str:
    return shortened(json.dumps(value, ensure_ascii=False), 40)


SCHEME = Scheme(
    name="fields",
    options={"partial": (bool,), "ignore": (list,), "field": (dict,)},
    prepare=prepare,
    reads_whole=True,
)
