"""Schemes within schemes: members, fields and parts that are marked by a scheme of their own."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import replace
from typing import Any

from dryquarry.marking.model import Marker, Marking, MarkingFault

# How a marking within another is prepared: handed down, so that no scheme knows the registry.
Prepare = Callable[[Marking], Marker]


def prepare_part(
    spec: Any, key: Any, outer: Marking, what: str, prepare: Prepare, *, answer_line: str | None = None, asked: str = ""
) -> Marker:
    """Return the marker of a part: `spec` is `{scheme: …}` with options, and with the key unless it is given.

    Raises MarkingFault that names the part.
    """
    if not isinstance(spec, Mapping) or not isinstance(spec.get("scheme"), str):
        raise MarkingFault(f"{what} wants a mapping with a scheme, such as {{scheme: number}}, not {spec!r}")
    try:
        return prepare(part_marking(spec, key, outer, answer_line, asked))
    except MarkingFault as fault:
        raise MarkingFault(f"{what}: {fault}") from None


def part_marking(
    spec: Mapping[str, Any], key: Any, outer: Marking, answer_line: str | None = None, asked: str = ""
) -> Marking:
    """Return the marking of a part of another; a member or field is no reply to what was asked."""
    options = {name: value for name, value in spec.items() if name not in ("scheme", "key")}
    return replace(
        outer,
        scheme=spec["scheme"],
        key=spec.get("key", key),
        options=options,
        answer_line=answer_line,
        form_required=False,
        asked=asked,
    )
