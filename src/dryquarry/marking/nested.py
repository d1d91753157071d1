"""Schemes within schemes: members, fields and parts that are marked by a scheme of their own."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import replace
from typing import Any

from dryquarry.marking.model import Marker, Marking, MarkingFault


def prepare_part(spec: Any, key: Any, outer: Marking, what: str, *, answer_line: str | None = None) -> Marker:
    """Return the marker of a part: `spec` is `{scheme: …}` with options, and with the key unless it is given.

    Raises MarkingFault that names the part.
    """
    from dryquarry.marking import registry  # the registry knows the modules that use this one

    if not isinstance(spec, Mapping) or not isinstance(spec.get("scheme"), str):
        raise MarkingFault(f"{what} wants a mapping with a scheme, such as {{scheme: number}}, not {spec!r}")
    options = {name: value for name, value in spec.items() if name not in ("scheme", "key")}
    part = replace(
        outer,
        scheme=spec["scheme"],
        key=spec.get("key", key),
        options=options,
        answer_line=answer_line,
        form_required=False,
    )
    try:
        return registry.prepare(part)
    except MarkingFault as fault:
        raise MarkingFault(f"{what}: {fault}") from None
