"""The tests of a program question, as its author writes them: what goes in, and what is wanted of it."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field
from typing import Any

from dryquarry.errors import closest
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, failed, passed
from dryquarry.marking.schemes.nested import Prepare, prepare_part
from dryquarry.marking.works.jobs import AuthorsTests, Call, Session
from dryquarry.marking.works.pieces import LONGEST_PATH
from dryquarry.marking.works.values import Tolerance

ANY = "any"
MOST_TESTS = 500


@dataclass(frozen=True, slots=True)
class CallWanted:
    """A call, and what it is to give, or the kind of error that it is to raise."""

    call: Call
    gives: Any
    raises: str | None
    tolerance: Tolerance


@dataclass(frozen=True, slots=True)
class SessionWanted:
    """A start of the program, and how its output, its errors and the files that it leaves are marked.

    `exit_code` is None where any will do.
    """

    session: Session
    output: Marker | None = None
    errors: Marker | None = None
    exit_code: int | None = 0
    left: Mapping[str, Marker] = field(default_factory=dict)


def _checked(spec: Any, what: str, known: Sequence[str], needed: Sequence[str]) -> Mapping[str, Any]:
    """Return a test's mapping; raises MarkingFault for one that is none, a field that is not known, or one missing."""
    if not isinstance(spec, Mapping):
        raise MarkingFault(
            f"{what} is a mapping with {' and '.join(f'`{name}`' for name in needed) or 'fields'}, not {spec!r}"
        )
    for name in spec:
        if name not in known:
            raise MarkingFault(f"{what} has no field '{name}'{closest(str(name), known)}")
    for name in needed:
        if name not in spec:
            raise MarkingFault(f"{what} wants `{name}`")
    return spec


def _listed(value: Any, what: str) -> list[Any]:
    if not isinstance(value, list | tuple) or len(value) > MOST_TESTS:
        raise MarkingFault(f"`{what}` is a list of up to {MOST_TESTS} tests, not {str(value)[:60]!r}")
    return list(value)


def _text(value: Any, what: str) -> str:
    if isinstance(value, bool | list | dict) or value is None:
        raise MarkingFault(f"{what} is a text, not {value!r}")
    return str(value)


_CALL_FIELDS = ["name", "call", "with", "named", "gives", "raises", "abs", "rel", "order"]
_SESSION_FIELDS = ["name", "args", "input", "files", "output", "errors", "exit", "left"]


def calls_wanted(specs: Any, default: Tolerance) -> tuple[CallWanted, ...]:
    """Return the calls of a question; raises MarkingFault."""
    found = []
    for number, spec in enumerate(_listed(specs, "calls"), start=1):
        what = f"call {number}"
        spec = _checked(spec, what, _CALL_FIELDS, ["call"])
        if ("gives" in spec) is ("raises" in spec):
            raise MarkingFault(f"{what} wants either `gives`, a value, or `raises`, the kind of an error")
        function = _text(spec["call"], f"`call` of {what}")
        if not re.fullmatch(r"[A-Za-z_$][\w$]*(?:\.[A-Za-z_$][\w$]*)*", function):
            said = f"`call` of {what} is the name of a function, such as fare, not {function!r}"
            raise MarkingFault(f"{said}; what it is given stands in `with`")
        given = spec.get("with", ())
        given = given if isinstance(given, list | tuple) else [given]
        named = spec.get("named", {})
        if not isinstance(named, Mapping):
            raise MarkingFault(f"`named` of {what} is a mapping from the names of arguments to their values")
        raises = spec.get("raises")
        name = str(spec.get("name") or f"{function} {number}")
        tolerance = Tolerance(
            _number(spec, "abs", what, default.abs),
            _number(spec, "rel", what, default.rel),
            _ordered(spec, what, default),
        )
        call = Call(name, function, tuple(given), dict(named))
        kind = None if "gives" in spec else _text(raises, f"`raises` of {what}")
        found.append(CallWanted(call, spec.get("gives"), kind, tolerance))
    return tuple(found)


def _number(spec: Mapping[str, Any], name: str, what: str, default: float | None) -> float | None:
    value = spec.get(name, default)
    if value is not None and (
        isinstance(value, bool) or not isinstance(value, int | float) or not 0 <= value < float("inf")
    ):
        raise MarkingFault(f"`{name}` of {what} is a number from 0 on, not {value!r}")
    return value


def _ordered(spec: Mapping[str, Any], what: str, default: Tolerance) -> bool:
    if "order" not in spec:
        return default.ordered
    if spec["order"] != ANY:
        raise MarkingFault(f"`order` of {what} is '{ANY}' where the order of lists does not count, or absent")
    return False


def sessions_wanted(specs: Any, outer: Marking, prepare: Prepare) -> tuple[SessionWanted, ...]:
    """Return the sessions of a question; raises MarkingFault."""
    found = []
    for number, spec in enumerate(_listed(specs, "sessions"), start=1):
        what = f"session {number}"
        spec = _checked(spec, what, _SESSION_FIELDS, [])
        if not spec.keys() & {"output", "errors", "exit", "left"}:
            raise MarkingFault(f"{what} says nothing of what comes out: `output`, `errors`, `exit` or `left`")
        left = _files(spec.get("left", {}), f"`left` of {what}", texts=False)
        session = Session(
            name=str(spec.get("name") or what),
            arguments=tuple(_text(one, f"an argument in `args` of {what}") for one in _as_list(spec.get("args", ()))),
            input=_text(spec.get("input", ""), f"`input` of {what}"),
            files=_files(spec.get("files", {}), f"`files` of {what}"),
            keeps=tuple(sorted(left)),
        )
        markers = {
            name: _text_marker(spec[name], outer, f"`{name}` of {what}", prepare)
            for name in ("output", "errors")
            if name in spec
        }
        found.append(
            SessionWanted(
                session,
                markers.get("output"),
                markers.get("errors"),
                _exit_code(spec.get("exit", 0), what),
                {name: _text_marker(one, outer, f"`left` of {what}, {name}", prepare) for name, one in left.items()},
            )
        )
    return tuple(found)


def _as_list(value: Any) -> Sequence[Any]:
    return value if isinstance(value, list | tuple) else [value]


def _exit_code(value: Any, what: str) -> int | None:
    if value == ANY:
        return None
    if isinstance(value, bool) or not isinstance(value, int) or not 0 <= value <= 255:
        raise MarkingFault(f"`exit` of {what} is a number from 0 to 255, or '{ANY}', not {value!r}")
    return value


def _files(value: Any, what: str, *, texts: bool = True) -> Mapping[str, Any]:
    """Return files by their names, which stay in the program's folder; raises MarkingFault."""
    if not isinstance(value, Mapping):
        raise MarkingFault(f"{what} is a mapping from the names of files to what they hold")
    for name, content in value.items():
        parts = str(name).split("/")
        if any(part in ("", ".", "..") for part in parts) or len(str(name)) > LONGEST_PATH or "\0" in str(name):
            raise MarkingFault(f"{what}: '{str(name)[:60]}' is no name of a file in the program's own folder")
        if texts and not isinstance(content, str):
            raise MarkingFault(f"{what}: '{name}' wants the text that the file holds")
    return {str(name): content for name, content in value.items()}


def _text_marker(spec: Any, outer: Marking, what: str, prepare: Prepare) -> Marker:
    """Return how a text that came out is marked: by a scheme, or as the very text, line by line."""
    if isinstance(spec, Mapping):
        return prepare_part(spec, None, outer, what, prepare)
    wanted = _text(spec, what)
    return lambda text: same_lines(wanted, text)


def same_lines(wanted: str, got: str) -> Mark:
    """Return the mark of a text against the wanted one; blanks at the ends of lines and of the whole do not count."""
    ours, theirs = _lines(wanted), _lines(got)
    if ours == theirs:
        return passed("the text is as wanted")
    apart = (at for at, (one, other) in enumerate(zip(ours, theirs, strict=False)) if one != other)
    place = next(apart, min(len(ours), len(theirs)))
    line, other = (texts[place] if place < len(texts) else None for texts in (ours, theirs))
    had = "ends" if other is None else f"is {_quoted(other)}"
    want = "the end was wanted" if line is None else f"{_quoted(line)} was wanted"
    return failed(f"line {place + 1} {had}, {want}" if theirs or other else "nothing came, " + want)


def _lines(text: str) -> list[str]:
    lines = [line.rstrip() for line in text.replace("\r\n", "\n").split("\n")]
    while lines and not lines[-1]:
        lines.pop()
    return lines


def _quoted(line: str) -> str:
    return f"'{line if len(line) <= 60 else line[:59] + '…'}'"


def authors_tests(spec: Any) -> AuthorsTests | None:
    """Return the author's file of tests, whose text stands with its name; raises MarkingFault."""
    if spec is None:
        return None
    if not isinstance(spec, Mapping) or set(spec) != {"path", "text"}:
        raise MarkingFault(f"the test file {spec!r} is not at hand: `test_file` is the path of a file beside the suite")
    path = _text(spec["path"], "`path` of `test_file`")
    if not path.endswith((".py", ".sh")):
        raise MarkingFault(f"the test file '{path}' is neither Python (.py) nor shell (.sh)")
    return AuthorsTests(path.rpartition("/")[2], _text(spec["text"], "`text` of `test_file`"))
