"""Scheme `number`: the answer's value is within tolerance of one of the keys, in the key's unit."""

from __future__ import annotations

import math
import re
from dataclasses import dataclass, field
from fractions import Fraction
from typing import Any

from dryquarry.marking.model import Marker, Marking, MarkingFault, Scheme
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.amounts import Amounts
from dryquarry.marking.reading.claims import Claim
from dryquarry.marking.reading.stretches import how_many
from dryquarry.marking.regexes import regex
from dryquarry.marking.schemes.reading_marker import Verdicts, reading_marker
from dryquarry.marking.values.clock import find_times
from dryquarry.marking.values.formulas import FormulaFault
from dryquarry.marking.values.numbers import Shape
from dryquarry.marking.values.quantities import (
    CLOCK,
    EITHER_HALF,
    Find,
    Quantity,
    Unit,
    find_in_unit_asked,
    plain_find,
    unit_for,
)
from dryquarry.marking.values.texts import shortened
from dryquarry.marking.values.written import formula_in, number_in
from dryquarry.marking.values.written_keys import key_written

_ASKS_WHICH = regex(
    r"\b(?:which|what)\s+(?:day|date|floor|place|position|row|number|rank|century|step|lap|turn|month)\b", re.IGNORECASE
)
HALF_DAY = 12 * 60
DEFAULT_REL = Fraction(1, 10**6)


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


@dataclass(frozen=True, slots=True)
class NumberOptions:
    """How near a value must be (`abs`, `rel`, `places`, `range`), its `unit`, and the `decimal` mark of the replies."""

    abs: float | None = None
    rel: float | None = None
    places: int | None = None
    unit: str | None = None
    unit_required: bool = False
    range: list[float] | None = None
    decimal: str | None = None


def prepare(marking: Marking) -> Marker:
    """Return the marker for a numeric key; raises MarkingFault when the key is not a number."""
    return reading_marker(marking, kind_of(marking), verdicts_of(marking))


def verdicts_of(marking: Marking) -> Verdicts[Quantity]:
    """Return how numbers compare with the key."""
    return _Numbers(number_key(marking), options_of(NumberOptions, marking).decimal is not None)


def kind_of(marking: Marking) -> Amounts:
    """Return how numbers in the key's unit are read."""
    ordinals = _ASKS_WHICH.search(marking.asked) is not None
    return Amounts(number_key(marking).find, ordinals, how_many(marking.asked))


_UNIT_ASKED = regex(
    r"\b(?:how\s+many\s+(?:whole\s+|full\s+)?|(?:give|answer\s+in|in)\s+)"
    r"(?P<unit>hour|minute|second|(?:kilo|centi|milli)?met(?:re|er)|(?:kilo|milli)?gram|(?:milli)?lit(?:re|er))s\b(?!\s+and\b)",
    re.IGNORECASE,
)
# "86.400" and "1,234": with one mark before three digits, it may be that of thousands or that of decimals
_EITHER_MARK = regex(r"[1-9]\d{0,2}(?P<mark>[.,])\d{3}(?!\d)")


@dataclass(frozen=True, slots=True)
class _Numbers(Verdicts[Quantity]):
    """How a number that was read compares with the key."""

    key: NumberKey
    mark_known: bool

    def said_key(self) -> str:
        return str(self.key)

    def said(self, claim: Claim[Quantity]) -> str:
        number = claim.value
        if number.fault is not None:
            return f"read '{shortened(number.text)}', but {number.fault}"
        if self.key.unit_required and number.unit is None:
            return f"read '{shortened(number.text)}' without its unit, which is wanted"
        return f"read '{shortened(number.text)}' as {self.key.said(number.value)}"

    def score(self, claim: Claim[Quantity]) -> float:
        number = claim.value
        if number.fault is not None or (self.key.unit_required and number.unit is None):
            return 0.0
        later = number.unit == EITHER_HALF and self.key.holds((number.value + HALF_DAY) % (2 * HALF_DAY))
        return float(later or self.key.holds(number.value))

    def nothing(self) -> str:
        return "no number"

    def otherwise(self, claim: Claim[Quantity]) -> str | None:
        number = claim.value
        match = None if self.mark_known or number.shape is not Shape.NUMBER else _EITHER_MARK.match(number.text)
        if match is None or number.fault is not None:
            return None
        value = number.value * 1000 if match["mark"] == "." else number.value / 1000
        return f"'{number.text}' may be meant as {self.key.said(value)}" if self.key.holds(value) else None


def number_key(marking: Marking) -> NumberKey:
    """Return what a numeric marking holds a value against; raises MarkingFault when key or options do not fit."""
    options = options_of(NumberOptions, marking)
    decimal = options.decimal
    if decimal not in (None, ",", "."):
        raise MarkingFault(f"option 'decimal' of scheme 'number' is \",\" or \".\", not {decimal!r}")
    unit = unit_for(options.unit, decimal) if options.unit is not None else None
    between = _range(options.range)
    keys = () if between is not None and marking.key is None else _keys(marking.key, unit)
    required = options.unit_required
    if required and unit is None:
        raise MarkingFault("option 'unit_required' of scheme 'number' wants a 'unit'")
    return NumberKey(keys, _tolerance(options), between, unit, required, _find(marking.asked, unit, decimal))


def _find(asked: str, unit: Unit | None, decimal: str | None) -> Find:
    """Return how numbers are found: in the key's unit, else in the unit that the question names."""
    if unit is not None:
        return unit.find
    named = _UNIT_ASKED.search(asked)
    return find_in_unit_asked(named["unit"].lower(), decimal) if named else plain_find(decimal)


def _keys(key: Any, unit: Unit | None) -> tuple[Fraction, ...]:
    if key is None or key == []:
        raise MarkingFault("the key is missing; scheme 'number' wants a number, a text such as \"59/28\", or a list")
    return tuple(_key_value(one, unit) for one in (key if isinstance(key, list | tuple) else [key]))


def _key_value(key: Any, unit: Unit | None) -> Fraction:
    if unit is not None and unit.name == CLOCK:
        times = find_times(str(key))
        if len(times) != 1:
            raise MarkingFault(f'the key {key!r} is no time of day; write it as "14:15", in quotes')
        return Fraction(times[0].minutes)
    if isinstance(key, bool) or not isinstance(key, int | float | str):
        raise MarkingFault(f'the key {key!r} is not a number, nor a text such as "59/28"')
    if isinstance(key, str):
        try:
            return number_in(key)
        except FormulaFault as fault:
            written = key_written(key)
            if written is not None and written.unit is not None and not isinstance(written.key, list):
                said = f"write `key: {written.key}` and `unit: {written.unit}` in `mark`"
                raise MarkingFault(f"the key '{shortened(key)}' has its unit with it; {said}") from None
            raise MarkingFault(f"the key is not readable as a number: '{shortened(key)}': {fault}") from None
    if isinstance(key, int):
        return Fraction(key)
    if not math.isfinite(key):
        raise MarkingFault(f"the key {key!r} is not a finite number")
    return Fraction(str(key))


def is_irrational(key: Any) -> bool:
    """Tell whether a key is a text whose value no decimal writes out: "5*sqrt(5)"."""
    if not isinstance(key, str):
        return False
    try:
        return _has_root(formula_in(key)) and number_in(key).denominator > 10**15
    except FormulaFault:
        return False


def _has_root(formula: Any) -> bool:
    return formula.kind in ("name", "call") or formula.kind == "^" or any(_has_root(part) for part in formula.parts)


def _range(given: Any) -> tuple[Fraction, Fraction] | None:
    if given is None:
        return None
    if len(given) != 2 or any(isinstance(end, bool) or not isinstance(end, int | float) for end in given):
        raise MarkingFault(f"option 'range' of scheme 'number' wants [low, high], not {given!r}")
    low, high = (Fraction(str(end)) for end in given)
    if low > high:
        raise MarkingFault(f"option 'range' of scheme 'number' goes from {_said(low)} down to {_said(high)}")
    return low, high


def _tolerance(options: NumberOptions) -> Tolerance:
    absolute, relative, places = options.abs, options.rel, options.places
    for name, value in (("abs", absolute), ("rel", relative), ("places", places)):
        if value is not None and not (math.isfinite(value) and value >= 0):
            raise MarkingFault(f"option '{name}' of scheme 'number' must be 0 or more, not {value!r}")
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
    options=option_types(NumberOptions),
    prepare=prepare,
    kind=kind_of,
)
