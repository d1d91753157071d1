"""The options of a scheme: a dataclass of each scheme, and its fields are the options that an author may write."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import fields
from functools import cache
from types import NoneType, UnionType
from typing import Any, TypeVar, Union, get_args, get_origin, get_type_hints

from dryquarry.errors import closest
from dryquarry.marking.model import Marking, MarkingFault

Options = TypeVar("Options")
# What people mean by names that no scheme has.
OPTION_MEANINGS: Mapping[str, str] = {
    **dict.fromkeys(
        ("tolerance", "epsilon", "precision", "delta"), "a tolerance is `abs` (a distance), `rel` (a share) or `places`"
    ),
    **dict.fromkeys(("units",), "the unit is `unit`"),
    **dict.fromkeys(("min", "max", "minimum", "maximum", "between"), "a range is `range: [from, to]`"),
    **dict.fromkeys(("case_sensitive", "ignore_case"), "whether capitals count is `case: true`"),
    **dict.fromkeys(("answer", "expected", "target"), "the key stands beside `mark`, as `key`"),
    **dict.fromkeys(("points", "max_points", "total"), "how many points there are is `out_of`"),
    **dict.fromkeys(("threshold", "pass", "pass_mark"), "from which share on a reply passes is `pass_at`"),
    **dict.fromkeys(("regex", "expression"), "a pattern is the `key` of scheme `pattern`"),
    "type": "the way of marking is `scheme`",
}  # fmt: skip
KIND_WORDS: Mapping[type, str] = {
    bool: "true or false",
    int: "a whole number",
    float: "a number",
    str: "a text",
    list: "a list",
    dict: "a mapping",
}


def option_types(kind: type) -> Mapping[str, tuple[type, ...]]:
    """Return the name of each option in a dataclass, with the types that its value may have."""
    return _known(kind)


@cache
def _known(kind: Any) -> Mapping[str, tuple[type, ...]]:
    hints = get_type_hints(kind)
    return {one.name: _types(hints[one.name]) for one in fields(kind)}


def _types(hint: Any) -> tuple[type, ...]:
    parts = get_args(hint) if get_origin(hint) in (UnionType, Union) else (hint,)
    kinds = tuple(get_origin(part) or part for part in parts if part is not NoneType)
    return (int, *kinds) if float in kinds else kinds


def options_of(kind: type[Options], marking: Marking) -> Options:
    """Return the options of a marking; raises MarkingFault for one that is not known or of the wrong type."""
    check_options(marking.scheme, option_types(kind), marking.options)
    return kind(**marking.options)


def check_options(scheme: str, known: Mapping[str, tuple[type, ...]], options: Mapping[str, Any]) -> None:
    """Raise MarkingFault for the first option that a scheme does not know or that has the wrong type."""
    for name, value in options.items():
        if name not in known:
            meant = OPTION_MEANINGS.get(name.casefold())
            more = f"; {meant}" if meant and _has_one_of(meant, known) else closest(name, known)
            raise MarkingFault(f"scheme '{scheme}' has no option '{name}'{more}")
        kinds = known[name]
        if not isinstance(value, kinds) or (isinstance(value, bool) and bool not in kinds):
            wanted = " or ".join(dict.fromkeys(_worded(kinds)))
            raise MarkingFault(f"option '{name}' of scheme '{scheme}' wants {wanted}, not {value!r}")


def _has_one_of(meant: str, known: Mapping[str, Any]) -> bool:
    """Tell whether what is meant is an option that the scheme has, or none of a scheme at all."""
    named = re.findall(r"`(\w+)", meant)
    return any(name in known for name in named) or not any(name in _SOMEWHERE for name in named)


_SOMEWHERE = frozenset({"abs", "rel", "places", "unit", "range", "case", "out_of", "pass_at"})


def _worded(kinds: tuple[type, ...]) -> list[str]:
    """Return types in words; who may write a number may leave out its decimals."""
    return [KIND_WORDS.get(kind, kind.__name__) for kind in kinds if not (kind is int and float in kinds)]
