"""Formulas, and what they come to: exactly as long as the operations allow it, and by mpmath beyond."""

from __future__ import annotations

import math
from collections.abc import Callable, Mapping
from dataclasses import dataclass, replace
from fractions import Fraction
from functools import cache
from typing import Any

LARGEST_FACTORIAL = 1000
LARGEST_EXPONENT = 5000
MOST_DIGITS = 400
DEEPEST = 200
DIGITS = 30
CONSTANTS = ("pi", "e")


class FormulaFault(ValueError):
    """A text that is no formula within bounds; the message says why."""


@dataclass(frozen=True, slots=True)
class Formula:
    """A number, a name, or an operation on other formulas.

    `value` is the name of a variable or function, `number` the value of a number; `said` tells how it was written
    where that matters.
    """

    kind: str
    value: str = ""
    parts: tuple[Formula, ...] = ()
    number: Fraction | None = None
    said: str = ""

    def names(self) -> frozenset[str]:
        """Return the names of its variables."""
        own = frozenset({self.value}) if self.kind == "name" and self.value not in CONSTANTS else frozenset()
        return own.union(*(part.names() for part in self.parts))


def substituted(formula: Formula, name: str, number: Fraction) -> Formula:
    """Return a formula with a number in the place of a variable."""
    if formula.kind == "name" and formula.value == name:
        return Formula("number", number=number)
    return replace(formula, parts=tuple(substituted(part, name, number) for part in formula.parts))


def value_at(formula: Formula, point: Mapping[str, Any], mp: Any) -> Any:
    """Return the value at a point, by the arithmetic of `mp` (mpmath); raises ArithmeticError where there is none."""
    values = [value_at(part, point, mp) for part in formula.parts]
    if formula.kind == "number":
        assert formula.number is not None
        return mp.mpf(formula.number.numerator) / formula.number.denominator
    if formula.kind == "name":
        return {"pi": mp.pi, "e": mp.e}.get(formula.value) if formula.value in CONSTANTS else point[formula.value]
    if formula.kind == "call":
        return _FUNCTIONS[formula.value](mp, *values)
    return _OPERATIONS[formula.kind](mp, *values)


def number_value(formula: Formula) -> Fraction:
    """Return the value of a formula without variables; raises FormulaFault where it has none within bounds."""
    try:
        return _bounded(_exact(formula))
    except FormulaFault:
        raise
    except (ArithmeticError, ValueError, TypeError, KeyError) as error:
        raise FormulaFault(f"it cannot be worked out: {error or type(error).__name__}") from None


def _exact(formula: Formula) -> Fraction:
    """Work a formula out, in fractions where the operations allow it."""
    kind = formula.kind
    if kind == "number":
        assert formula.number is not None
        return formula.number
    parts = [_bounded(_exact(part)) for part in formula.parts]
    if kind in _EXACT:
        return _EXACT[kind](*parts)
    if kind == "^" and parts[1].denominator == 1:
        return _whole_power(parts[0], int(parts[1]))
    if kind == "call" and formula.value == "sqrt" and parts[0] >= 0:
        roots = math.isqrt(parts[0].numerator), math.isqrt(parts[0].denominator)
        if roots[0] ** 2 == parts[0].numerator and roots[1] ** 2 == parts[0].denominator:
            return Fraction(*roots)
    mp = context()
    terms = [mp.mpf(part.numerator) / part.denominator for part in parts]
    if kind == "name":
        value = value_at(formula, {}, mp)
    else:
        value = _FUNCTIONS[formula.value](mp, *terms) if kind == "call" else _OPERATIONS[kind](mp, *terms)
    if isinstance(value, mp.mpc) or not mp.isfinite(value):
        raise FormulaFault("it is not a real number")
    return _fraction(value, mp)


def _fraction(value: Any, mp: Any) -> Fraction:
    if value and abs(mp.log(abs(value), 10)) > MOST_DIGITS:
        raise FormulaFault(f"it has more than {MOST_DIGITS} digits")
    sign, mantissa, exponent, _ = mp.mpf(value)._mpf_
    number = Fraction(int(mantissa)) * Fraction(2) ** int(exponent)
    return -number if sign else number


def _whole_power(base: Fraction, exponent: int) -> Fraction:
    if abs(exponent) > LARGEST_EXPONENT:
        raise FormulaFault(f"the exponent is beyond {LARGEST_EXPONENT}")
    bits = max(base.numerator.bit_length(), base.denominator.bit_length())
    if (bits - 1) * abs(exponent) * 0.302 > MOST_DIGITS:
        raise FormulaFault(f"it has more than {MOST_DIGITS} digits")
    return Fraction(base**exponent)


def _bounded(value: Fraction) -> Fraction:
    if max(value.numerator.bit_length(), value.denominator.bit_length()) * 0.302 > 4 * MOST_DIGITS:
        raise FormulaFault(f"it has more than {MOST_DIGITS} digits")
    return value


def _power(mp: Any, base: Any, exponent: Any) -> Any:
    if abs(exponent) > 10**4 or (base and abs(exponent * mp.log(abs(base))) > 10**4):
        raise OverflowError("the power is too large")
    return mp.power(base, exponent)


def _exponential(mp: Any, value: Any) -> Any:
    if abs(value) > 10**4:
        raise OverflowError("the power is too large")
    return mp.exp(value)


def _bounded_angle(function: str) -> Callable[[Any, Any], Any]:
    def call(mp: Any, value: Any) -> Any:
        if abs(value) > 10**9:
            raise OverflowError("the value is too large")
        return getattr(mp, function)(value)

    return call


def _factorial(mp: Any, value: Any) -> Any:
    if abs(value) > LARGEST_FACTORIAL:
        raise OverflowError("the factorial is too large")
    return mp.factorial(value)


def _root(mp: Any, degree: Any, value: Any) -> Any:
    if degree != int(degree) or not 1 <= degree <= 1000:
        raise OverflowError("the degree of the root is no whole number within bounds")
    return -mp.root(-value, int(degree)) if value < 0 and int(degree) % 2 else mp.root(value, int(degree))


def _exact_factorial(value: Fraction) -> Fraction:
    if value.denominator != 1 or not 0 <= value <= 200:
        raise FormulaFault("the factorial is too large")
    return Fraction(math.factorial(int(value)))


_EXACT: Mapping[str, Callable[..., Fraction]] = {
    "+": lambda a, b: a + b,
    "-": lambda a, b: a - b,
    "*": lambda a, b: a * b,
    "/": lambda a, b: a / b,
    "negative": lambda a: -a,
    "!": _exact_factorial,
}
_OPERATIONS: Mapping[str, Callable[..., Any]] = {
    "+": lambda mp, a, b: a + b,
    "-": lambda mp, a, b: a - b,
    "*": lambda mp, a, b: a * b,
    "/": lambda mp, a, b: a / b,
    "negative": lambda mp, a: -a,
    "^": _power,
    "!": _factorial,
}
_BY_NAME_TEXT = "sin cos tan cot sec csc asin acos atan sinh cosh tanh"
_FUNCTIONS: Mapping[str, Callable[..., Any]] = {
    **{name: _bounded_angle(name) for name in _BY_NAME_TEXT.split()},
    "exp": _exponential,
    "log": lambda mp, x: mp.log(x),
    "sqrt": lambda mp, x: mp.sqrt(x),
    "cbrt": lambda mp, x: _root(mp, 3, x),
    "abs": lambda mp, x: abs(x),
    "root": _root,
    "logbase": lambda mp, base, x: mp.log(x) / mp.log(base),
}


@cache
def context() -> Any:
    """Return the arithmetic that formulas are worked out with."""
    import mpmath  # type: ignore[import-untyped]

    mp = mpmath.MPContext()
    mp.dps = DIGITS
    return mp
