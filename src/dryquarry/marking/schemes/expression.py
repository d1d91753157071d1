"""Scheme `expression`: the answer is mathematically equal to the key.

Two formulas are held to be equal when they have the same real value, to 20 digits, at each of eight points of a
sequence that is always the same (identity testing at points; Schwartz, 1980). There is nothing to simplify, and so
nothing that could take long.
"""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from dryquarry.marking.model import Marker, Marking, MarkingFault, Scheme
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.claims import Claim
from dryquarry.marking.reading.formulas_said import FormulasSaid, Said
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.view import view_of
from dryquarry.marking.schemes.reading_marker import Verdicts, reading_marker
from dryquarry.marking.values.formulas import Formula, FormulaFault, context, substituted, value_at
from dryquarry.marking.values.texts import shortened
from dryquarry.marking.values.written import formula_in, number_in

POINTS = 40
ENOUGH = 8
SAME_DIGITS = 20
_EQUALS = regex(r"(?<![<>!=])=(?!=)")


@dataclass(frozen=True, slots=True)
class ExpressionOptions:
    """`variables` are names of more than one letter."""

    variables: list[str] | None = None


def prepare(marking: Marking) -> Marker:
    """Return the marker for a formula; raises MarkingFault when the key cannot be read as one."""
    constant = _ASKS_ANTIDERIVATIVE.search(marking.asked) is not None
    return reading_marker(marking, kind_of(marking), _Formulas(_wanted(marking), str(marking.key), constant))


def kind_of(marking: Marking) -> FormulasSaid:
    """Return how formulas are read: which letters are variables is a matter of notation, and the key's."""
    letters = frozenset(name for name in _wanted(marking).names() if len(name) == 1)
    return FormulasSaid(tuple(options_of(ExpressionOptions, marking).variables or ()), letters)


def _wanted(marking: Marking) -> Formula:
    variables = options_of(ExpressionOptions, marking).variables or []
    if not all(isinstance(name, str) and re.fullmatch(r"[A-Za-z]\w*", name) for name in variables):
        raise MarkingFault("option 'variables' of scheme 'expression' wants a list of names")
    key = marking.key
    if isinstance(key, bool) or not isinstance(key, str | int | float):
        raise MarkingFault('the key wants a formula, as a text such as "2*x + 1"')
    try:
        return formula_in(_EQUALS.split(view_of(str(key)).text)[-1].strip(), variables)
    except FormulaFault as fault:
        raise MarkingFault(f"the key is not readable as a formula: {fault}") from None


_A_WORD = regex(r"(?<![\\a-zA-Z])(?!(?:sqrt|sin|cos|tan|log|exp|cbrt|root)(?![a-zA-Z]))[a-zA-Z]{3,}")


_ASKS_ANTIDERIVATIVE = regex(r"\b(?:anti-?derivative|primitive|indefinite\s+integral|integrate)\b|∫", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class _Formulas(Verdicts[Said]):
    """How a formula compares with the key."""

    wanted: Formula
    key: str
    any_constant: bool = False

    def score(self, claim: Claim[Said]) -> float:
        return float(self._equal(claim) is True)

    def _equal(self, claim: Claim[Said]) -> bool | None:
        """Tell whether a formula is the key's; a constant of integration counts as nought where the key has none."""
        formula = claim.value.formula
        free = set(formula.names() - self.wanted.names()) & {"c", "C"} if self.any_constant else set()
        return equal(substituted(formula, free.pop(), number_in("0")) if len(free) == 1 else formula, self.wanted)

    def said(self, claim: Claim[Said]) -> str:
        same = self._equal(claim)
        if same is None:
            return f"'{shortened(claim.value.text)}' and the key have no values that can be compared"
        return f"read '{shortened(claim.value.text)}', {'equal' if same else 'not equal'} to the key"

    def said_key(self) -> str:
        return self.key

    def otherwise(self, claim: Claim[Said]) -> str | None:
        names = claim.value.formula.names() | self.wanted.names()
        word = next((one for one in _A_WORD.findall(claim.value.text) if one not in names), None)
        return f"'{word}' of it may be meant otherwise" if word else None

    def nothing(self) -> str:
        return "no formula that can be read"


def equal(first: Formula, second: Formula) -> bool | None:
    """Tell whether two formulas have the same value wherever both have a real one; None where that is nowhere."""
    mp = context()
    names = tuple(sorted(first.names() | second.names()))
    compared = 0
    for number in range(1, POINTS + 1 if names else 2):
        values = [_real_value(formula, names, number) for formula in (first, second)]
        if values[0] is None or values[1] is None:
            continue
        if abs(values[0] - values[1]) > mp.mpf(10) ** -SAME_DIGITS * max(1, abs(values[0]), abs(values[1])):
            return False
        compared += 1
        if compared >= ENOUGH:
            break
    return True if compared else None


@lru_cache(maxsize=4096)
def _point(names: tuple[str, ...], number: int) -> Mapping[str, Any]:
    """Return where formulas are compared for the n-th time."""
    mp = context()
    # Multiples of irrational numbers spread evenly, and are never the special points of a formula.
    return {name: 8 * mp.frac(number * mp.sqrt(2 + place * mp.pi)) - 4 for place, name in enumerate(names)}


@lru_cache(maxsize=4096)
def _real_value(formula: Formula, names: tuple[str, ...], number: int) -> Any:
    """Return the value of a formula at the n-th point; remembered, as the key's are wanted for every reply."""
    mp = context()
    point = _point(names, number)
    try:
        value = value_at(formula, point, mp)
    except (ArithmeticError, ValueError, TypeError, KeyError):
        return None
    if isinstance(value, mp.mpc):
        if abs(value.imag) > mp.mpf(10) ** -SAME_DIGITS * max(1, abs(value.real)):
            return None
        value = value.real
    return value if mp.isfinite(value) else None


SCHEME = Scheme(name="expression", options=option_types(ExpressionOptions), prepare=prepare, kind=kind_of)
