"""Scheme `number`: the answer's value is within tolerance of one of the keys."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass
from fractions import Fraction
from typing import Any

from dryquarry.marking.arithmetic import ArithmeticFault, evaluate
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.numbers import NumberFound, find_numbers, plain_math
from dryquarry.marking.reading import Found, read_answer
from dryquarry.marking.text import shortened

DEFAULT_REL = Fraction(1, 10**6)

_EQUALS = re.compile(r"[=≈]")
_OPERATION = re.compile(r"\d\s*[+×*·÷x]\s*\d")
_RESULT_VERB = re.compile(
    r"\b(?:is|are|was|be|equals?|pays?|costs?|takes?|makes?|leaves?|gives?|comes\s+to|totals?|needs?|"
    r"gets?|holds?|has|have|burn(?:s|ed)|sold|lasts?|reaches|i\.e|that's|makes|moves|exactly|roughly)\b[.:,]?\s*",
    re.IGNORECASE,
)
_CLAUSE_END = re.compile(r"[,;](?!\d)|\bor\b")
MOST_WORDS_BETWEEN = 3
_BOLD = re.compile(r"\*\*([^*\n]+)\*\*")


@dataclass(frozen=True, slots=True)
class Tolerance:
    """How far a value may be from the key; with several limits given, keeping one of them is enough."""

    absolute: Fraction | None
    relative: Fraction | None
    places: int | None

    def holds(self, value: Fraction, key: Fraction) -> bool:
        """Tell whether the value passes for the key."""
        distance = abs(value - key)
        if self.absolute is not None and distance <= self.absolute:
            return True
        if self.relative is not None and distance <= self.relative * abs(key):
            return True
        return self.places is not None and _rounded(value, self.places) == _rounded(key, self.places)

    def __str__(self) -> str:
        limits = []
        if self.absolute is not None:
            limits.append(f"± {_said(self.absolute)}")
        if self.relative is not None and self.relative != DEFAULT_REL:
            limits.append(f"± {_said(self.relative * 100)} %")
        if self.places is not None:
            limits.append(f"to {self.places} decimal places")
        return " or ".join(limits) or "exactly"


def prepare(marking: Marking) -> Marker:
    """Return the marker for a numeric key; raises MarkingFault when the key is not a number."""
    keys = [_key_value(key) for key in _as_list(marking.key)]
    tolerance = _tolerance(marking)
    said_keys = " or ".join(_said(key) for key in keys)
    answer_line = marking.answer_line

    def mark(text: str) -> Mark:
        found, number = read_answer(text, answer_line, lambda place: read_number(text, place))
        if found is None:
            return failed("the reply is empty")
        if number is None:
            return failed(f"no number in '{shortened(found.text)}'", shortened(found.text, 200), found.read_by)
        holds = any(tolerance.holds(number.value, key) for key in keys)
        reason = f"read '{shortened(number.text)}' as {_said(number.value)}; key {said_keys}, {tolerance}"
        return (passed if holds else failed)(reason, number.text, found.read_by)

    return mark


def read_number(reply: str, found: Found) -> NumberFound | None:
    """Return the number that a found answer states: the result of a working, not a number in it."""
    said = plain_math(found.text)
    if found.read_by in ("answer line", "boxed", "statement"):
        return _stated(said)
    return _bold_number(reply, found) or _stated(said, prefer_verb=True)


def _stated(said: str, *, prefer_verb: bool = False) -> NumberFound | None:
    parts = _EQUALS.split(said)
    if len(parts) > 1:
        # "50 = 3 × 12.50 + 2 × 6.25" states its result first; otherwise the last part is the result.
        order = [parts[0], parts[-1]] if _OPERATION.search(parts[-1]) else [parts[-1], *parts[-2::-1]]
        for part in order:
            numbers = find_numbers(part)
            if numbers:
                return numbers[0]
        return None
    if prefer_verb:
        for verb in reversed(list(_RESULT_VERB.finditer(said))):
            clause = _CLAUSE_END.split(said[verb.end() :], maxsplit=1)[0]
            numbers = find_numbers(clause)
            if numbers and len(clause[: numbers[0].start].split()) <= MOST_WORDS_BETWEEN:
                return numbers[0]
    numbers = find_numbers(said)
    if not numbers:
        return None
    return numbers[-1] if prefer_verb else numbers[0]


def _bold_number(reply: str, found: Found) -> NumberFound | None:
    """Return the only number set in bold within the stretch that was found."""
    stretch = reply[found.start : found.start + len(found.text) + 8]
    numbers = [number for bold in _BOLD.findall(stretch) for number in find_numbers(plain_math(bold))]
    return numbers[0] if len(numbers) == 1 else None


def _as_list(key: Any) -> list[Any]:
    if key is None or key == []:
        raise MarkingFault("the key is missing; scheme 'number' wants a number, a text such as \"59/28\", or a list")
    return list(key) if isinstance(key, list | tuple) else [key]


def _key_value(key: Any) -> Fraction:
    if isinstance(key, bool) or not isinstance(key, int | float | str):
        raise MarkingFault(f'the key {key!r} is not a number, nor a text such as "59/28"')
    if isinstance(key, str):
        try:
            return Fraction(evaluate(key))
        except ArithmeticFault as fault:
            raise MarkingFault(f"the key is not readable as a number: {fault}") from None
    if isinstance(key, int):
        return Fraction(key)
    if not math.isfinite(key):
        raise MarkingFault(f"the key {key!r} is not a finite number")
    return Fraction(str(key))


def _tolerance(marking: Marking) -> Tolerance:
    options = marking.options
    for name in ("abs", "rel", "places"):
        value = options.get(name)
        if value is not None and not (math.isfinite(value) and value >= 0):
            raise MarkingFault(f"option '{name}' of scheme 'number' must be 0 or more, not {value!r}")
    absolute, relative, places = options.get("abs"), options.get("rel"), options.get("places")
    if places is not None and places > 30:
        raise MarkingFault(f"option 'places' of scheme 'number' must be at most 30, not {places}")
    if absolute is relative is places is None:
        return Tolerance(None, DEFAULT_REL, None)
    return Tolerance(
        None if absolute is None else Fraction(str(absolute)),
        None if relative is None else Fraction(str(relative)),
        places,
    )


def _rounded(value: Fraction, places: int) -> int:
    """Return value × 10^places rounded half away from zero, as people round."""
    scaled = abs(value) * 10**places
    whole = int(scaled + Fraction(1, 2))
    return -whole if value < 0 else whole


def _said(value: Fraction) -> str:
    if value.denominator == 1 and abs(value.numerator) < 10**15:
        return str(value.numerator)
    try:
        return f"{float(value):.10g}"
    except OverflowError:
        return "a number beyond 1e308"


SCHEME = Scheme(
    name="number",
    options={"abs": (int, float), "rel": (int, float), "places": (int,)},
    prepare=prepare,
)
