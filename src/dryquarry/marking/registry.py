"""The schemes there are. To add one: write its module, and name it here."""

from __future__ import annotations

from collections.abc import Iterator, Mapping
from dataclasses import replace
from importlib import import_module
from typing import Any

from dryquarry.errors import closest
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Runner, Scheme, Verdict, settled_by
from dryquarry.marking.options import check_options
from dryquarry.marking.reading.claims import PlaceKind
from dryquarry.marking.works.results import RunResult

# By its name where a scheme stands: its module, and its name there.
_WHERE = {
    "exact": ("exact", "SCHEME"),
    "number": ("number", "SCHEME"),
    "expression": ("expression", "SCHEME"),
    "choice": ("choice", "SCHEME"),
    "set": ("members", "SET"),
    "sequence": ("members", "SEQUENCE"),
    "fields": ("fields", "SCHEME"),
    "pattern": ("pattern", "SCHEME"),
    "rules": ("rules", "SCHEME"),
    "self_count": ("self_count", "SCHEME"),
    "abstain": ("abstain", "SCHEME"),
    "declines": ("declines", "SCHEME"),
    "program": ("program", "SCHEME"),
    "query": ("query", "SCHEME"),
    "page": ("page", "SCHEME"),
    "rubric": ("rubric", "SCHEME"),
    "hand": ("hand", "SCHEME"),
    "all": ("combined", "ALL"),
    "any": ("combined", "ANY"),
}


class _Schemes(Mapping[str, Scheme]):
    """The schemes by name, each imported when it is first asked for: a board needs none, and most suites few."""

    def __getitem__(self, name: str) -> Scheme:
        module, variable = _WHERE[name]
        scheme: Scheme = getattr(import_module(f"dryquarry.marking.schemes.{module}"), variable)
        return scheme

    def __contains__(self, name: object) -> bool:
        return name in _WHERE

    def __iter__(self) -> Iterator[str]:
        return iter(_WHERE)

    def __len__(self) -> int:
        return len(_WHERE)


SCHEMES: Mapping[str, Scheme] = _Schemes()
_PLACES = frozenset(map(str, PlaceKind))


def scheme_named(name: str) -> Scheme:
    """Return the scheme; raise MarkingFault naming the closest one when there is none of that name."""
    try:
        return SCHEMES[name]
    except KeyError:
        raise MarkingFault(f"there is no scheme '{name}'{closest(name, SCHEMES)}") from None


def prepare(marking: Marking) -> Marker:
    """Return the function that marks one reply text; raise MarkingFault when key or options do not fit."""
    try:
        return _prepared(marking, prepare)
    except MarkingFault:
        raise
    except RecursionError:
        raise MarkingFault(f"the key or the options of scheme '{marking.scheme}' are nested too deeply") from None
    except (ArithmeticError, AttributeError, LookupError, TypeError, ValueError) as error:
        # Of a shape that no scheme foresees; what it is stands in the message.
        raise MarkingFault(f"the key or an option of scheme '{marking.scheme}' cannot be used: {error}") from None


def prepare_when_used(marking: Marking) -> Marker:
    """Return the marker of a sealed question, which is prepared when a reply is marked: most commands mark none."""
    prepared: list[Marker] = []

    def mark(text: str) -> Mark:
        if not prepared:
            try:
                prepared.append(prepare(marking))
            except MarkingFault as fault:
                reason = f"this version cannot mark by the sealed key: {fault}; use the version that sealed it"
                return Mark(None, Verdict.OPEN, reason)
        return prepared[0](text)

    return mark


def prepare_with(marking: Marking, judged: Mark | None, results: Mapping[str, RunResult]) -> Marker:
    """Return the marker of a question whose parts may be settled already, itself or within `all` and `any`.

    `judged` is what the judges' verdicts on its rubric come to, if they are in; `results` what came of running works,
    by the digests of jobs.
    """

    def part(inner: Marking) -> Marker:
        scheme = SCHEMES[inner.scheme]
        if scheme.needs_judge and judged is not None:
            return lambda text: judged
        if scheme.runs is not None:
            return settled_by(scheme.runs(inner, prepare), results)
        return _prepared(inner, part)

    return part(marking)


def runners_of(marking: Marking) -> tuple[Runner, ...]:
    """Return what runs the parts of a question that are to be run; none for most questions."""
    parts = ((SCHEMES[one.scheme].runs, one) for one in _single_parts(marking))
    return tuple(runs(one, prepare) for runs, one in parts if runs is not None)


def needs_run(marking: Marking) -> bool:
    """Tell whether what a reply holds is run before it is marked, in whole or in part."""
    if marking.scheme not in ("all", "any"):
        return marking.scheme in SCHEMES and SCHEMES[marking.scheme].runs is not None
    return any(SCHEMES[one.scheme].runs is not None for one in _single_parts(marking))


def _prepared(marking: Marking, nested: Any) -> Marker:
    scheme = scheme_named(marking.scheme)
    check_options(scheme.name, scheme.options, marking.options)
    marker = scheme.prepare(marking, nested) if scheme.nests else scheme.prepare(marking)
    return _noting_form(marker, marking.form_required) if marking.answer_line else marker


def parts_of(marking: Marking) -> tuple[Marking, ...]:
    """Return a marking and, of `all` and `any`, those of its parts; what is no part is told of elsewhere."""
    parts = marking.options.get("parts") if marking.scheme in ("all", "any") else None
    parts = parts if isinstance(parts, list | tuple) else ()
    inner = (_part(part, marking) for part in parts if isinstance(part, Mapping) and _is_scheme(part.get("scheme")))
    return (marking, *(one for part in inner for one in parts_of(part)))


def _part(spec: Mapping[str, Any], outer: Marking) -> Marking:
    options = {name: value for name, value in spec.items() if name not in ("scheme", "key")}
    return replace(outer, scheme=spec["scheme"], key=spec.get("key", outer.key), options=options)


def reads_answer(marking: Marking) -> bool:
    """Tell whether a reply has an answer apart from the rest, so that an answer line may be asked for."""
    return any(SCHEMES[one.scheme].has_answer(one) for one in _single_parts(marking))


def whole_parts(marking: Marking) -> tuple[str, ...]:
    """Return the schemes among a marking's parts that take the whole reply, and so would take an answer line too."""
    return tuple(dict.fromkeys(one.scheme for one in _single_parts(marking) if not SCHEMES[one.scheme].has_answer(one)))


def _single_parts(marking: Marking) -> Iterator[Marking]:
    """Yield the parts that are no combination of others; a scheme that there is not is told of elsewhere."""
    return (one for one in parts_of(marking) if _is_scheme(one.scheme) and one.scheme not in ("all", "any"))


def _is_scheme(name: object) -> bool:
    return isinstance(name, str) and name in SCHEMES


def rubric_part(marking: Marking) -> Marking | None:
    """Return the marking that a judge marks: a rubric, or the first rubric among the parts of `all` or `any`."""
    return next((one for one in _single_parts(marking) if SCHEMES[one.scheme].needs_judge), None)


def _noting_form(marker: Marker, required: bool) -> Marker:
    """Return the marker that also notes whether the answer stands on the answer line."""

    def mark(text: str) -> Mark:
        given = marker(text)
        if given.read_by not in _PLACES:
            return given
        kept = given.read_by == PlaceKind.ANSWER_LINE
        if required and not kept and given.score:
            reason = f"right, but not on the answer line that was asked for: {given.reason}"
            return replace(
                given, score=0.0, verdict=Verdict.FAIL, reason=reason, form_kept=False, sure=True, unsure_because=None
            )
        return replace(given, form_kept=kept)

    return mark
