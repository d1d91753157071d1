"""Scheme `number`: the answer's value is within tolerance of one of the keys, in the key's unit."""

from __future__ import annotations

import math
import re
from collections.abc import Callable
from dataclasses import dataclass, field
from fractions import Fraction
from functools import partial
from typing import Any

from dryquarry.marking.arithmetic import ArithmeticFault, evaluate
from dryquarry.marking.clock import find_times
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.numbers import NumberFound, find_numbers, plain_math
from dryquarry.marking.reading import TELLING, Found, other_answers, read_answer
from dryquarry.marking.text import bare, shortened
from dryquarry.marking.units import CLOCK, Find, Unit, unit_for
from dryquarry.marking.words import spelled_out

DEFAULT_REL = Fraction(1, 10**6)
LONGEST_CLOSED_FORM = 80
# What is longer states no number; where it is cut, what a number needs beside it stands before.
LONGEST_PLACE = 600

_EQUALS = re.compile(r"[=≈]")
_OPERATION = re.compile(r"\d\s*[+×*·÷x]\s*\d")
_RESULT_VERB = re.compile(
    r"\b(?:is|are|was|were|be|equals?|pays?|costs?|takes?|makes?|leaves?|gives?|comes\s+to|totals?|needs?|"
    r"gets?|holds?|has|have|burn(?:s|ed)|sold|lasts?|reaches|i\.e|that's|makes|moves|exactly|roughly|about)\b[.:,]?\s*",
    re.IGNORECASE,
)
_CLAUSE_END = re.compile(r"[,;](?!\d)|\bor\b")
_OR = re.compile(r"\bor\b", re.IGNORECASE)
_ROUGHLY = re.compile(r"or\s+(?:so|about|roughly|approximately|around|equivalently|simply)\b", re.IGNORECASE)
_MORE_THAN_ONE = re.compile(r"\b(?:or|to|and)\b|[-‐‑‒–—]", re.IGNORECASE)
# "40-50", "40 to 50", "between 40 and 50": two ends, not one answer.
_TO = re.compile(r"\s*(?:-|\bto\b|\band\b)\s*[€$£]?\s*$", re.IGNORECASE)
_CLOSED_FORM = re.compile(r"[\d.\s()+×·*/^π√-]+|(?:[\d.\s()+×·*/^-]|pi|sqrt)+")
_RULED_OUT = re.compile(r"\b(?:not|n't|never|isn't)\s+(?:exactly\s+|just\s+|the\s+|at\s+)?[€$£]?$", re.IGNORECASE)
_SO = re.compile(r"\b(?:so|hence|thus|therefore|which\s+makes|that\s+makes|i\.e\.)\b", re.IGNORECASE)
_CALCULATED = re.compile(r"[√π^(]|sqrt|pi")
_POWER_OF_TEN = re.compile(r"[x×·]\s?10\s?\^")
_IMPLIED_TIMES = re.compile(r"(?<=[\d)])\s*(?=sqrt|pi|\()|(?<=pi)\s*(?=sqrt|\(|\d)|(?<=\))\s*(?=\d)")
MOST_WORDS_BETWEEN = 3
_BOLD = re.compile(r"\*\*([^*\n]+)\*\*")


@dataclass(frozen=True, slots=True)
class Tolerance:
    """How far a value may be from the key; with several limits given, keeping one of them is enough."""

    absolute: Fraction | None
    relative: Fraction | None
    places: int | None

    def around(self, key: Fraction) -> tuple[Fraction, Fraction]:
        """Return the least and the greatest value within the limits on the distance from the key."""
        distance = max(self.absolute or Fraction(0), (self.relative or Fraction(0)) * abs(key))
        return key - distance, key + distance

    def rounds_to(self, value: Fraction, key: Fraction) -> bool:
        """Tell whether the value is the key when both are rounded, where that is asked for."""
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


@dataclass(frozen=True, slots=True)
class NumberKey:
    """What a value is held against: keys with a tolerance, or a range, in a unit; `find` finds numbers in it."""

    keys: tuple[Fraction, ...]
    tolerance: Tolerance
    between: tuple[Fraction, Fraction] | None
    unit: Unit | None
    unit_required: bool
    find: Find
    _accepted: tuple[tuple[Fraction, Fraction], ...] = field(init=False, repr=False)

    def __post_init__(self) -> None:
        # Worked out once: with fractions this takes longer than all else about a reply.
        accepted = [self.tolerance.around(key) for key in self.keys]
        object.__setattr__(self, "_accepted", (*accepted, self.between) if self.between is not None else (*accepted,))

    def holds(self, value: Fraction) -> bool:
        """Tell whether a value passes."""
        if value in self.keys or any(low <= value <= high for low, high in self._accepted):
            return True
        return any(self.tolerance.rounds_to(value, key) for key in self.keys)

    def said(self, value: Fraction) -> str:
        """Return a value with the key's unit."""
        if self.unit is None:
            return _said(value)
        if self.unit.name == CLOCK:
            return f"{int(value) // 60:02d}:{int(value) % 60:02d}"
        return f"{_said(value)} {self.unit.name}"

    def __str__(self) -> str:
        if self.between is not None:
            return f"from {self.said(self.between[0])} to {self.said(self.between[1])}"
        return f"{' or '.join(self.said(key) for key in self.keys)}, {self.tolerance}"


def prepare(marking: Marking) -> Marker:
    """Return the marker for a numeric key; raises MarkingFault when the key is not a number."""
    key = number_key(marking)
    said_key = str(key)
    answer_line = marking.answer_line

    def mark(text: str) -> Mark:
        read = partial(read_number, text, find=key.find)
        found, number = read_answer(text, answer_line, read)
        if found is None:
            return failed("the reply is empty")
        place = (found.read_by, found.start)
        if number is None:
            return failed(f"no number in '{shortened(found.text)}'; key {said_key}", shortened(found.text, 200), *place)
        if number.fault is not None:
            return failed(f"read '{shortened(number.text)}', but {number.fault}; key {said_key}", number.text, *place)
        if key.unit_required and number.unit is None:
            said = f"read '{shortened(number.text)}' without its unit, which is wanted; key {said_key}"
            return failed(said, number.text, *place)
        others = _others(text, found, number, read, key.find)
        beside = next((other for other in others if other.value != number.value), None)
        if beside is not None and not (key.holds(beside.value) and key.holds(number.value)):
            said = f"two final answers, '{shortened(number.text)}' and '{shortened(beside.text)}'; key {said_key}"
            return failed(said, number.text, *place)
        reason = f"read '{shortened(number.text)}' as {key.said(number.value)}; key {said_key}"
        return (passed if key.holds(number.value) else failed)(reason, number.text, *place)

    return mark


def number_key(marking: Marking) -> NumberKey:
    """Return what a numeric marking holds a value against; raises MarkingFault when key or options do not fit."""
    options = marking.options
    decimal = options.get("decimal")
    if decimal not in (None, ",", "."):
        raise MarkingFault(f"option 'decimal' of scheme 'number' is \",\" or \".\", not {decimal!r}")
    unit = unit_for(options["unit"]) if options.get("unit") is not None else None
    find: Find = unit.find if unit is not None else find_numbers
    if decimal is not None and unit is None:
        find = partial(find_numbers, decimal=decimal)
    between = _range(options.get("range"))
    keys = () if between is not None and marking.key is None else _keys(marking.key, unit)
    required = bool(options.get("unit_required", False))
    if required and unit is None:
        raise MarkingFault("option 'unit_required' of scheme 'number' wants a 'unit'")
    return NumberKey(keys, _tolerance(marking), between, unit, required, find)


def read_number(reply: str, found: Found, find: Find = find_numbers) -> NumberFound | None:
    """Return the number that a found answer states: the result of a working, not a number in it."""
    said = plain_math(found.text[:LONGEST_PLACE])
    if found.read_by in TELLING:
        if _CALCULATED.search(said):
            exact = _EQUALS.split(said.split("≈")[0])[-1] if "≈" in said else said
            if _CALCULATED.search(exact) and _is_closed_form(exact) and (closed := _closed_form(exact)) is not None:
                return closed
            if _is_closed_form(said):
                return _closed_form(said)  # none where it is too large to be worked out
        return _stated(said, find) or _stated(spelled_out(said), find)
    stated = _bold_number(reply, found, find) or _stated(said, find, prefer_verb=True)
    return stated or _stated(spelled_out(said), find, only_after_verb=True)


def _stated(said: str, find: Find, *, prefer_verb: bool = False, only_after_verb: bool = False) -> NumberFound | None:
    parts = _EQUALS.split(said)
    if len(parts) > 1:
        # "50 = 3 × 12.50 + 2 × 6.25" states its result first; otherwise the last part is the result.
        order = [parts[0], parts[-1]] if _OPERATION.search(parts[-1]) else [parts[-1], *parts[-2::-1]]
        for part in order:
            numbers = _of_kind(_stands(find, part))
            if numbers:
                return numbers[0]
        return None
    if prefer_verb or only_after_verb:
        drawn = list(_SO.finditer(said))
        if drawn and _stands(find, said[drawn[-1].end() :]):
            said = said[drawn[-1].end() :]
        for verb in reversed(list(_RESULT_VERB.finditer(said))):
            clause = _CLAUSE_END.split(said[verb.end() :], maxsplit=1)[0]
            numbers = _of_kind(_stands(find, clause))
            if numbers and len(clause[: numbers[0].start].split()) <= MOST_WORDS_BETWEEN:
                return numbers[0]
    if only_after_verb:
        return None
    numbers = _of_kind(_stands(find, said))
    if not numbers:
        return None
    if not prefer_verb and _OPERATION.search(said) and (worked_out := _closed_form(said)) is not None:
        return worked_out
    return numbers[-1] if prefer_verb else numbers[0]


def _stands(find: Find, said: str) -> list[NumberFound]:
    """Return the numbers in a text but those that it rules out: "not 36"."""
    return [one for one in find(said) if not _RULED_OUT.search(said[max(0, one.start - 20) : one.start])]


def _of_kind(numbers: list[NumberFound]) -> list[NumberFound]:
    """Return the numbers with a unit of the key's kind, where there are any; else those without a unit."""
    right = [one for one in numbers if one.unit is not None and one.fault is None]
    return right or [one for one in numbers if one.fault is None] or numbers


def _is_closed_form(said: str) -> bool:
    text = bare(said).replace("$", "")
    return _CLOSED_FORM.fullmatch(text) is not None and not _POWER_OF_TEN.search(text)


def _closed_form(said: str) -> NumberFound | None:
    """Return the value of an answer such as 2√3, 5π/6 or 2^10 that is nothing but arithmetic."""
    text = bare(said).replace("$", "")
    if len(text) > LONGEST_CLOSED_FORM or not _CLOSED_FORM.fullmatch(text):
        return None
    plain = re.sub(r"√\s*(\d+(?:\.\d+)?)", r"sqrt(\1)", text).replace("√", "sqrt").replace("π", "pi")
    try:
        value = evaluate(_IMPLIED_TIMES.sub("*", plain))
    except ArithmeticFault:
        return None
    return NumberFound(Fraction(value), 0, len(text), text)


def _others(
    text: str, found: Found, number: NumberFound, read: Callable[[Found], NumberFound | None], find: Find
) -> list[NumberFound]:
    """Return the numbers that stand beside the one read as further final answers."""
    others = [other for _, other in other_answers(text, found, read)]
    if not _MORE_THAN_ONE.search(found.text):
        return others
    said = plain_math(found.text[:LONGEST_PLACE])
    place = said.find(number.text)
    if place < 0:
        return others
    rest = said[place + len(number.text) :]
    if _OR.match(rest.lstrip(" ,")) and not _ROUGHLY.match(rest.lstrip(" ,")):
        others += [one for one in find(rest)[:1] if one.fault is None]
    for one in find(said):
        between = said[place + len(number.text) : one.start] if one.start > place else ""
        if between and _TO.fullmatch(between) and ("and" not in between or "between" in said[:place].lower()):
            others.append(one)
    before = said[:place]
    if _TO.search(before) and ("-" in before[-3:] or " to " in before[-5:] or "between" in before.lower()):
        ends = [one for one in find(before) if _TO.fullmatch(said[one.end : place])]
        others += ends[-1:]
    return others


def _bold_number(reply: str, found: Found, find: Find) -> NumberFound | None:
    """Return the only number set in bold within the stretch that was found."""
    stretch = reply[found.start : found.start + len(found.text) + 8]
    if "**" not in stretch:
        return None
    numbers = [number for bold in _BOLD.findall(stretch) for number in find(plain_math(bold))]
    return numbers[0] if len(numbers) == 1 else None


def _keys(key: Any, unit: Unit | None) -> tuple[Fraction, ...]:
    if key is None or key == []:
        raise MarkingFault("the key is missing; scheme 'number' wants a number, a text such as \"59/28\", or a list")
    return tuple(_key_value(one, unit) for one in (key if isinstance(key, list | tuple) else [key]))


def _key_value(key: Any, unit: Unit | None) -> Fraction:
    if unit is not None and unit.name == CLOCK:
        times = find_times(str(key))
        if len(times) != 1:
            raise MarkingFault(f'the key {key!r} is no time of day; write it as "14:15", in quotes')
        return times[0].value
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


def _range(given: Any) -> tuple[Fraction, Fraction] | None:
    if given is None:
        return None
    if len(given) != 2 or any(isinstance(end, bool) or not isinstance(end, int | float) for end in given):
        raise MarkingFault(f"option 'range' of scheme 'number' wants [low, high], not {given!r}")
    low, high = (Fraction(str(end)) for end in given)
    if low > high:
        raise MarkingFault(f"option 'range' of scheme 'number' goes from {_said(low)} down to {_said(high)}")
    return low, high


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
    options={
        "abs": (int, float),
        "rel": (int, float),
        "places": (int,),
        "unit": (str,),
        "unit_required": (bool,),
        "range": (list,),
        "decimal": (str,),
    },
    prepare=prepare,
)
