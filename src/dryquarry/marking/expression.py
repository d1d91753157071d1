"""Scheme `expression`: the answer is mathematically equal to the key.

Two formulas are held to be equal when they have the same real value, to 20 digits, at each of eight points of a
sequence that is always the same (identity testing at points; Schwartz, 1980). There is nothing to simplify, and so
nothing that could take long.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from typing import Any

from dryquarry.marking.formulas import Formula, FormulaFault, parse, value_at
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.reading import Found, other_answers, read_answer
from dryquarry.marking.text import bare, shortened, uniform

POINTS = 40
ENOUGH = 8
DIGITS = 30
SAME_DIGITS = 20

_EQUALS = re.compile(r"(?<![<>!=])=(?!=)")
_OR = re.compile(r"\bor\b", re.IGNORECASE)
_REMARK = re.compile(r",|;|\b(?:where|with|for|if|when|in\s+total|altogether)\b", re.IGNORECASE)
# "6h euros + 5 euros", "6h + 5 €"
_UNIT = re.compile(r"(?:(?<=[\w)}])(?:\s+[A-Za-z]{2,}\.?){1,2}|\s*[€$£])(?=\s*(?:[-+]|$))")
_LEAD_IN = re.compile(r"^.*?\b(?:is|are|equals|gives|becomes|as)\b:?\s+", re.IGNORECASE)


def prepare(marking: Marking) -> Marker:
    """Return the marker for a formula; raises MarkingFault when the key cannot be read as one."""
    variables = marking.options.get("variables", [])
    if not all(isinstance(name, str) and re.fullmatch(r"[A-Za-z]\w*", name) for name in variables):
        raise MarkingFault("option 'variables' of scheme 'expression' wants a list of names")
    key = marking.key
    if isinstance(key, bool) or not isinstance(key, str | int | float):
        raise MarkingFault('the key wants a formula, as a text such as "2*x + 1"')
    try:
        wanted = parse(_right_side(str(key)), variables)
    except FormulaFault as fault:
        raise MarkingFault(f"the key is not readable as a formula: {fault}") from None

    letters = frozenset(name for name in wanted.names() if len(name) == 1)

    def read(found: Found) -> tuple[str, Formula] | None:
        for said in _readings(found.text):
            try:
                return said, parse(said, variables, letters)
            except FormulaFault:
                continue
        return None

    def mark(text: str) -> Mark:
        found, answer = read_answer(text, marking.answer_line, read)
        if found is None:
            return failed("the reply is empty")
        place = (found.read_by, found.start)
        if answer is None:
            return failed(
                f"no formula that can be read in '{shortened(found.text)}'", shortened(found.text, 200), *place
            )
        said, formula = answer
        others = [one for _, one in other_answers(text, found, read)]
        others += [one for part in _OR.split(found.text)[1:] if (one := read(Found(part, found.read_by, found.start)))]
        for other, beside in others:
            if not equal(beside, formula) and not equal(beside, wanted):
                return failed(f"two final answers, '{shortened(said)}' and '{shortened(other)}'", said, *place)
        same = equal(formula, wanted)
        if same is None:
            return failed(f"'{shortened(said)}' and the key {key} have no values that can be compared", said, *place)
        verdict = passed if same else failed
        return verdict(f"read '{shortened(said)}', {'equal' if same else 'not equal'} to the key {key}", said, *place)

    return mark


def equal(first: Formula, second: Formula) -> bool | None:
    """Tell whether two formulas have the same value wherever both have a real one; None where that is nowhere."""
    import mpmath  # type: ignore[import-untyped]

    mp = mpmath.MPContext()
    mp.dps = DIGITS
    names = sorted(first.names() | second.names())
    compared = 0
    for number in range(1, POINTS + 1 if names else 2):
        # Multiples of irrational numbers spread evenly, and are never the special points of a formula.
        point = {name: 8 * mp.frac(number * mp.sqrt(2 + place * mp.pi)) - 4 for place, name in enumerate(names)}
        values = [_real_value(formula, point, mp) for formula in (first, second)]
        if values[0] is None or values[1] is None:
            continue
        if abs(values[0] - values[1]) > mp.mpf(10) ** -SAME_DIGITS * max(1, abs(values[0]), abs(values[1])):
            return False
        compared += 1
        if compared >= ENOUGH:
            break
    return True if compared else None


def _real_value(formula: Formula, point: dict[str, Any], mp: Any) -> Any:
    try:
        value = value_at(formula, point, mp)
    except (ArithmeticError, ValueError, TypeError, KeyError):
        return None
    if isinstance(value, mp.mpc):
        if abs(value.imag) > mp.mpf(10) ** -SAME_DIGITS * max(1, abs(value.real)):
            return None
        value = value.real
    return value if mp.isfinite(value) else None


def _readings(text: str) -> Sequence[str]:
    """Return what of an answer may be the formula: what follows its last equals sign, or the whole, without remarks."""
    said = bare(_OR.split(uniform(text))[0])
    without = _LEAD_IN.sub("", said)
    sides = [bare(_right_side(one)) for one in (said, without) if one]
    sides += [bare(_UNIT.sub("", _REMARK.split(side)[0].strip())) for side in sides]
    return list(dict.fromkeys(side for side in sides if side))


def _right_side(text: str) -> str:
    return _EQUALS.split(text)[-1].strip()


SCHEME = Scheme(name="expression", options={"variables": (list,)}, prepare=prepare)
