"""Scheme `fields`: every field of the reply's JSON equals the key's, recursively."""

from __future__ import annotations

import json
import re
from collections.abc import Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from dryquarry.marking.cues import cue
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, Verdict, failed, never, passed, scored
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.claims import Stance
from dryquarry.marking.reading.stances import Around, stance_of
from dryquarry.marking.regexes import regex
from dryquarry.marking.schemes.nested import Prepare, prepare_part
from dryquarry.marking.values.json_text import JsonFound, find_objects
from dryquarry.marking.values.texts import shortened, uniform

DEEPEST = 40
MOST_TOLD = 5


@dataclass(frozen=True, slots=True)
class FieldsOptions:
    """`partial` credit by field, fields to `ignore`, and by `field` the scheme of some."""

    partial: bool = False
    ignore: list[str] | None = None
    field: dict[str, Any] | None = None


def prepare(marking: Marking, prepare_other: Prepare) -> Marker:
    """Return the marker for a mapping; raises MarkingFault when the key is none, or a field's scheme does not fit."""
    key = marking.key
    if not isinstance(key, Mapping) or not key:
        raise MarkingFault("the key wants a mapping; scheme 'fields' compares the fields of JSON objects")
    options = options_of(FieldsOptions, marking)
    ignored = frozenset(str(name) for name in options.ignore or ())
    own = {
        str(name): prepare_part(spec, _at(key, str(name)), marking, f"field '{name}'", prepare_other)
        for name, spec in (options.field or {}).items()
    }
    partial = options.partial
    wanted = [path for path in _paths(key) if path not in ignored]

    def mark(text: str) -> Mark:
        found = object_meant(text, frozenset(str(name) for name in key))
        if found is None:
            return failed("there is no JSON object in the reply")
        said = shortened(text[found.start : found.end], 200)
        if found.broken is not None:
            return failed(f"the JSON in the reply cannot be read: {found.broken}", said, "JSON", found.start)
        amiss = dict(_amiss(key, found.value, "", ignored, own))
        read: Any = {"answer": said, "read_by": "JSON", "start": found.start, "end": found.end}
        if not amiss:
            return replace(passed("all fields are as in the key"), **read)
        told = "; ".join(list(amiss.values())[:MOST_TOLD]) + ("; …" if len(amiss) > MOST_TOLD else "")
        right = sum(not any(path == one or path.startswith(f"{one}.") for one in amiss) for path in wanted)
        more = sum(path not in wanted for path in amiss)
        share = max(0, right - more) / len(wanted) if partial and wanted else 0.0
        return replace(scored(share, told), **read)

    return mark


def object_meant(text: str, names: frozenset[str]) -> JsonFound | None:
    """Return the object that a reply gives as its answer: the last one with a field that is asked for.

    One that is denied, supposed or taken back gives way to another; one that breaks off stands only alone.
    """
    found = find_objects(text)
    about = [one for one in found if one.broken is None and names & set(one.value)] or [
        one for one in found if one.broken is None and one.value
    ]
    standing = [one for one in about if _stands(text, one)]
    whole = (standing or about or [one for one in found if one.broken is None])[-1:]
    broken = [one for one in found if one.broken is not None]
    if whole and broken and broken[-1].start > whole[0].end:
        between = text[whole[0].end : broken[-1].start]
        if cue("withdraws").search(between):
            return broken[-1]  # the version that was to replace the one before breaks off
    return whole[0] if whole else broken[-1] if broken else None


# "For Tarn it would be {…}."
_WOULD_BE = regex(r"\b(?:would|could|might)\s+(?:be|read|give|look\s+like(?:\s+this)?)\s*:?[\s`]*\Z", re.IGNORECASE)


def _stands(text: str, one: JsonFound) -> bool:
    if _WOULD_BE.search(text, max(0, one.start - 40), one.start):
        return False
    around = Around(text, max(0, one.start - 300), min(len(text), one.end + 200), one.start, one.end)
    return stance_of(around)[0] not in (Stance.DENIED, Stance.SUPPOSED, Stance.REPORTED)


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
    options=option_types(FieldsOptions),
    prepare=prepare,
    nests=True,
    reads_whole=True,
    has_answer=never,
)
