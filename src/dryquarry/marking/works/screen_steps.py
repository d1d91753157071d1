"""A program in a terminal or a window, and the steps with it, as an author writes them."""

from __future__ import annotations

from collections.abc import Mapping
from string import ascii_uppercase
from typing import Any

from dryquarry.errors import closest
from dryquarry.marking.model import MarkingFault
from dryquarry.marking.works.jobs import Screen, Step

# What is done, and what is looked at; of each what its value is.
TERMINAL_ACTS: Mapping[str, str] = {
    "keys": "text", "press": "key", "wait": "seconds", "shows": "text", "lacks": "text",
    "changes": "true", "stays": "seconds", "moves": "seconds", "ends": "true", "picture": "text",
}  # fmt: skip
WINDOW_ACTS: Mapping[str, str] = {
    "keys": "text", "press": "key", "click": "place", "wait": "seconds",
    "changes": "true", "stays": "seconds", "moves": "seconds", "ends": "true", "picture": "text",
}  # fmt: skip
KEYS = (
    "Enter", "Escape", "Tab", "Space", "Backspace", "Delete", "Up", "Down", "Left", "Right", "Home", "End", "PageUp",
    "PageDown", *(f"F{number}" for number in range(1, 13)), *(f"Ctrl-{letter}" for letter in ascii_uppercase),
)  # fmt: skip
SIZES = {"terminal": ((80, 24), 2, 240), "window": ((800, 600), 64, 2048)}
MOST_SECONDS = 30.0
MOST_STEPS = 100


def screen_of(given: Any, kind: str) -> Screen:
    """Return a terminal or window with its steps; raises MarkingFault."""
    what = f"`{kind}`"
    if not isinstance(given, Mapping):
        raise MarkingFault(f"{what} is a mapping with `steps`, not {given!r}")
    for name in given:
        if name not in ("size", "args", "steps"):
            raise MarkingFault(f"{what} has no field '{name}'{closest(str(name), ('size', 'args', 'steps'))}")
    normal, least, most = SIZES[kind]
    size = given.get("size", list(normal))
    if (
        not isinstance(size, list)
        or len(size) != 2
        or not all(type(one) is int and least <= one <= most for one in size)
    ):
        unit = "columns and lines" if kind == "terminal" else "pixels"
        raise MarkingFault(
            f"`size` of {what} is a list of two numbers of {unit}, each from {least} to {most}, not {size!r}"
        )
    steps = given.get("steps")
    if not isinstance(steps, list) or not 0 < len(steps) <= MOST_STEPS:
        raise MarkingFault(f"`steps` of {what} is a list of up to {MOST_STEPS} steps")
    acts = TERMINAL_ACTS if kind == "terminal" else WINDOW_ACTS
    read = tuple(_step(one, f"step {number} of {what}", number, acts) for number, one in enumerate(steps, start=1))
    arguments = given.get("args", [])
    return Screen(
        kind, (size[0], size[1]), tuple(map(str, arguments if isinstance(arguments, list) else [arguments])), read
    )


def _step(spec: Any, what: str, number: int, acts: Mapping[str, str]) -> Step:
    named = [name for name in spec if name in acts] if isinstance(spec, Mapping) else []
    if len(named) != 1 or set(spec) - {named[0], "name"}:
        raise MarkingFault(f"{what} is a mapping with one of {', '.join(acts)}, and `name` if it has one, not {spec!r}")
    (act,) = named
    value, text, seconds = spec[act], "", 0.0
    if acts[act] == "seconds":
        if isinstance(value, bool) or not isinstance(value, int | float) or not 0 < value <= MOST_SECONDS:
            raise MarkingFault(f"`{act}` of {what} is a number of seconds up to {MOST_SECONDS:g}, not {value!r}")
        seconds, told = float(value), f"{value:g} s"
    elif acts[act] == "true":
        if value is not True:
            raise MarkingFault(f"`{act}` of {what} is true, or the step is left out")
        told = ""
    elif acts[act] == "place":
        if not isinstance(value, list) or len(value) != 2 or not all(type(one) is int for one in value):
            raise MarkingFault(f"`{act}` of {what} is a place such as [120, 40], not {value!r}")
        text = told = f"{value[0]},{value[1]}"
    else:
        text = told = _text(value, act, what, key=acts[act] == "key")
    return Step(str(spec.get("name") or f"{number}. {act} {told}".strip()), act, text=text, seconds=seconds)


def _text(value: Any, act: str, what: str, *, key: bool) -> str:
    if not isinstance(value, str | int) or isinstance(value, bool) or value == "":
        raise MarkingFault(f"`{act}` of {what} is a text, not {value!r}")
    if key and str(value) not in KEYS:
        raise MarkingFault(
            f"`{act}` of {what} is a key's name, not {value!r}{closest(str(value), KEYS)}; `keys` types letters"
        )
    return str(value)
