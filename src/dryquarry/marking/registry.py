"""The schemes there are. To add one: write its module, and name it here."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from dryquarry.errors import closest
from dryquarry.marking import choice, exact, number, rubric
from dryquarry.marking.model import Marker, Marking, MarkingFault, Scheme

SCHEMES: Mapping[str, Scheme] = {
    scheme.name: scheme for scheme in (exact.SCHEME, number.SCHEME, choice.SCHEME, rubric.SCHEME)
}


def scheme_named(name: str) -> Scheme:
    """Return the scheme; raise MarkingFault naming the closest one when there is none of that name."""
    try:
        return SCHEMES[name]
    except KeyError:
        raise MarkingFault(f"there is no scheme '{name}'{closest(name, SCHEMES)}") from None


def prepare(marking: Marking) -> Marker:
    """Return the function that marks one reply text; raise MarkingFault when key or options do not fit."""
    scheme = scheme_named(marking.scheme)
    check_options(scheme, marking.options)
    return scheme.prepare(marking)


def check_options(scheme: Scheme, options: Mapping[str, Any]) -> None:
    """Raise MarkingFault for the first option that the scheme does not know or that has the wrong type."""
    for name, value in options.items():
        if name not in scheme.options:
            raise MarkingFault(f"scheme '{scheme.name}' has no option '{name}'{closest(name, scheme.options)}")
        kinds = scheme.options[name]
        if not isinstance(value, kinds) or (isinstance(value, bool) and bool not in kinds):
            wanted = " or ".join(KIND_WORDS.get(kind, kind.__name__) for kind in kinds)
            raise MarkingFault(f"option '{name}' of scheme '{scheme.name}' wants {wanted}, not {value!r}")


KIND_WORDS: Mapping[type, str] = {
    bool: "true or false",
    int: "a whole number",
    float: "a number",
    str: "a text",
    list: "a list",
    dict: "a mapping",
}
