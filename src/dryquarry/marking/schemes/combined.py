"""Schemes `all` and `any`: several ways of marking one reply, of which all or at least one must pass."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass, replace
from typing import Any

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, Verdict
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.schemes.nested import Prepare, prepare_part


def prepare_all(marking: Marking, prepare: Prepare) -> Marker:
    """Return the marker that passes a reply when every part passes."""
    return _prepare(marking, _every, prepare)


def prepare_any(marking: Marking, prepare: Prepare) -> Marker:
    """Return the marker that passes a reply when at least one part passes."""
    return _prepare(marking, _one, prepare)


@dataclass(frozen=True, slots=True)
class PartsOptions:
    """The `parts`, each with a scheme, a key and options of its own."""

    parts: list[Any] | None = None


def _prepare(marking: Marking, together: Callable[[Sequence[Mark]], Verdict], prepare: Prepare) -> Marker:
    parts = options_of(PartsOptions, marking).parts
    if not parts:
        raise MarkingFault(f"scheme '{marking.scheme}' wants `parts`, a list of {{scheme: …, key: …}}")
    markers = [
        prepare_part(
            part, marking.key, marking, f"part {number}", prepare, answer_line=marking.answer_line, asked=marking.asked
        )
        for number, part in enumerate(parts, start=1)
    ]
    names = [part["scheme"] for part in parts]

    def mark(text: str) -> Mark:
        marks = [marker(text) for marker in markers]
        verdict = together(marks)
        score = None if verdict is Verdict.OPEN else float(verdict is Verdict.PASS)
        signs = {Verdict.PASS: "passed", Verdict.FAIL: "failed", Verdict.OPEN: "open", Verdict.VOID: "void"}
        told = "; ".join(f"{name} {signs[one.verdict]}: {one.reason}" for name, one in zip(names, marks, strict=True))
        read = next((one for one in marks if one.answer is not None), marks[0])
        unsure = next((one for one in marks if not one.sure), None) if _decides(marks, together) else None
        return replace(
            read,
            score=score,
            verdict=verdict,
            reason=told,
            sure=unsure is None,
            unsure_because=unsure.unsure_because if unsure else None,
        )

    return mark


def _decides(marks: Sequence[Mark], together: Callable[[Sequence[Mark]], Verdict]) -> bool:
    """Tell whether another reading of the parts that are not sure would change what all come to."""
    other = {Verdict.PASS: Verdict.FAIL, Verdict.FAIL: Verdict.PASS}
    turned = [one if one.sure else replace(one, verdict=other.get(one.verdict, one.verdict)) for one in marks]
    return together(turned) is not together(marks)


def _every(marks: Sequence[Mark]) -> Verdict:
    if any(one.verdict is Verdict.FAIL for one in marks):
        return Verdict.FAIL
    return Verdict.OPEN if any(one.verdict is Verdict.OPEN for one in marks) else Verdict.PASS


def _one(marks: Sequence[Mark]) -> Verdict:
    if any(one.verdict is Verdict.PASS for one in marks):
        return Verdict.PASS
    return Verdict.OPEN if any(one.verdict is Verdict.OPEN for one in marks) else Verdict.FAIL


_OPTIONS = option_types(PartsOptions)
ALL = Scheme(name="all", options=_OPTIONS, prepare=prepare_all, nests=True)
ANY = Scheme(name="any", options=_OPTIONS, prepare=prepare_any, nests=True)
