"""The steps with a page, as an author writes them: what is done, and what is then to be seen."""

from __future__ import annotations

from collections.abc import Callable, Mapping
from dataclasses import dataclass
from typing import Any

from dryquarry.errors import closest
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, failed, passed
from dryquarry.marking.schemes.nested import Prepare, prepare_part
from dryquarry.marking.works.jobs import Step
from dryquarry.marking.works.program_tests import MOST_TESTS

# What is done, and what is looked at, each with the fields that go with it.
ACTS: Mapping[str, tuple[str, ...]] = {
    "click": (),
    "hover": (),
    "type": ("into",),
    "press": (),
    "wait": (),
    "picture": (),
    "see": (),
    "gone": (),
    "text": ("is",),
    "attribute": ("of", "is"),
    "changes": (),
    "moves": (),
}
MOST_WAIT_S = 30.0


@dataclass(frozen=True, slots=True)
class StepWanted:
    """A step, and how a text that it gives is marked, if it gives one."""

    step: Step
    marker: Marker | None = None


def steps_wanted(given: Any, outer: Marking, prepare: Prepare) -> tuple[StepWanted, ...]:
    """Return the steps of a page question; raises MarkingFault."""
    if not isinstance(given, list) or len(given) > MOST_TESTS:
        raise MarkingFault(f"`steps` is a list of up to {MOST_TESTS} steps")
    return tuple(_step(one, number, outer, prepare) for number, one in enumerate(given, start=1))


def _step(spec: Any, number: int, outer: Marking, prepare: Prepare) -> StepWanted:
    what = f"step {number}"
    acts = [name for name in spec if name in ACTS] if isinstance(spec, Mapping) else []
    if len(acts) != 1:
        raise MarkingFault(f"{what} is a mapping with one of {', '.join(ACTS)}, not {spec!r}")
    (act,) = acts
    for name in spec:
        if name not in (act, "name", *ACTS[act]):
            raise MarkingFault(f"{what} has no field '{name}' beside `{act}`{closest(str(name), ACTS[act])}")
    for name in ACTS[act]:
        if name not in spec:
            raise MarkingFault(f"{what} wants `{name}` beside `{act}`")
    value = spec[act]
    seconds = 0.0
    if act in ("wait", "moves"):
        seconds = _seconds(value, f"`{act}` of {what}")
    elif act == "changes" and value is not True:
        raise MarkingFault(f"`changes` of {what} is true, or absent")
    elif not isinstance(value, str) and act != "changes":
        raise MarkingFault(f"`{act}` of {what} is a text, not {value!r}")
    target, text = _target(act, spec)
    told = value if isinstance(value, str) else f"{seconds:g} s" if seconds else ""
    name = str(spec.get("name") or f"{number}. {act} {told}".strip())
    marker = _marker(spec["is"], outer, f"`is` of {what}", prepare) if "is" in spec else None
    return StepWanted(Step(name, act, target, text, seconds), marker)


def _target(act: str, spec: Mapping[str, Any]) -> tuple[str, str]:
    """Return the selector of a step and the text that goes with it."""
    if act == "type":
        return str(spec["into"]), spec["type"]
    if act == "attribute":
        return str(spec["of"]), spec["attribute"]
    if act in ("press", "picture"):
        return "", spec[act]
    return (spec[act], "") if isinstance(spec[act], str) else ("", "")


def _seconds(value: Any, what: str) -> float:
    if isinstance(value, bool) or not isinstance(value, int | float) or not 0 < value <= MOST_WAIT_S:
        raise MarkingFault(f"{what} is a number of seconds up to {MOST_WAIT_S:g}, not {value!r}")
    return float(value)


def _marker(spec: Any, outer: Marking, what: str, prepare: Callable[[Marking], Marker]) -> Marker:
    if isinstance(spec, Mapping):
        return prepare_part(spec, None, outer, what, prepare)
    wanted = " ".join(str(spec).split())

    def mark(text: str) -> Mark:
        if " ".join(text.split()) == wanted:
            return passed("as wanted")
        return failed(f"it is '{text.strip()[:80]}', '{wanted[:80]}' was wanted")

    return mark
