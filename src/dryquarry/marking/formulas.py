r"""Formulas in plain and LaTeX notation, parsed within bounds and worked out at points.

The grammar, loosest first; between two factors the sign of multiplication may be left out:

    sum = product (("+" | "-") product)*
    product = power (("*" | "/" | nothing) power)*
    power = ["-"] atom ["!"] ["^" power]
    atom = number | name | name "(" sum ")" | "(" sum ")" | "|" sum "|" | \frac{sum}{sum} | \sqrt[sum]{sum}
"""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

LONGEST_FORMULA = 1000
MOST_PARTS = 300
DEEPEST = 60
LARGEST_FACTORIAL = 1000

_NAMES = [
    "arcsin",
    "arccos",
    "arctan",
    "asin",
    "acos",
    "atan",
    "sinh",
    "cosh",
    "tanh",
    "sin",
    "cos",
    "tan",
    "cot",
    "sec",
    "csc",
    "exp",
    "ln",
    "log",
    "sqrt",
    "cbrt",
    "abs",
]
_SAME = {"arcsin": "asin", "arccos": "acos", "arctan": "atan", "ln": "log"}
_CONSTANTS = ("pi", "e")
_GREEK = [
    "alpha",
    "beta",
    "gamma",
    "delta",
    "epsilon",
    "theta",
    "lambda",
    "mu",
    "nu",
    "rho",
    "sigma",
    "tau",
    "phi",
    "omega",
]
_LATEX = (
    (re.compile(r"\\(?:left|right|,|;|:|!|displaystyle|quad|qquad)(?![a-zA-Z])"), " "),
    (re.compile(r"\\(?:text|mathrm|operatorname)\s*\{([^{}]*)\}"), r"\1"),
    (re.compile(r"\\(?:cdot|times|ast)(?![a-z])"), "*"),
    (re.compile(r"\\div(?![a-z])"), "/"),
    (re.compile(r"\\[dt]frac(?![a-z])"), r"\\frac"),
)
_SIGNS = str.maketrans(
    {
        **{high: f"^{digit}" for digit, high in enumerate("⁰¹²³⁴⁵⁶⁷⁸⁹")},
        **{"×": "*", "·": "*", "⋅": "*", "÷": "/", "−": "-", "–": "-"},
    }
)
_TOKEN = re.compile(
    r"\s*(?:(?P<number>\d+(?:\.\d+)?|\.\d+)|\\(?P<command>[a-zA-Z]+)|(?P<word>[a-zA-Z]+)(?P<index>_\{?\w+\}?)?"
    r"|(?P<greek>[\u0370-\u03ff])|(?P<sign>\*\*|[-+*/^(){}\[\]|!√,]))"
)


class FormulaFault(ValueError):
    """A text that is no formula within bounds; the message says why."""


@dataclass(frozen=True, slots=True)
class Formula:
    """A number, a name, or an operation on other formulas."""

    kind: str
    value: str = ""
    parts: tuple[Formula, ...] = ()

    def names(self) -> frozenset[str]:
        """Return the names of its variables."""
        own = frozenset({self.value}) if self.kind == "name" and self.value not in _CONSTANTS else frozenset()
        return own.union(*(part.names() for part in self.parts))


def parse(text: str, variables: Sequence[str] = (), letters: frozenset[str] | None = None) -> Formula:
    """Return the formula in a text; raises FormulaFault.

    Letters side by side are a product of variables unless they are a function, or one of `variables`. With
    `letters` given, those that a formula is expected to have, three and more others side by side are a word and
    the text is no formula.
    """
    if len(text) > LONGEST_FORMULA:
        raise FormulaFault(f"the formula is longer than {LONGEST_FORMULA} characters")
    tokens = _tokens(text, frozenset(variables), letters)
    if not tokens:
        raise FormulaFault("there is no formula")
    if len(tokens) > MOST_PARTS:
        raise FormulaFault(f"the formula has more than {MOST_PARTS} parts")
    reading = _Reading(tokens)
    formula = reading.sum(0)
    if reading.place < len(tokens):
        raise FormulaFault(f"'{tokens[reading.place][1]}' is not expected there")
    return formula


def value_at(formula: Formula, point: Mapping[str, Any], mp: Any) -> Any:
    """Return the value at a point, by the arithmetic of `mp` (mpmath); raises ArithmeticError where there is none."""
    values = [value_at(part, point, mp) for part in formula.parts]
    if formula.kind == "number":
        return mp.mpf(formula.value)
    if formula.kind == "name":
        return {"pi": mp.pi, "e": mp.e}.get(formula.value) if formula.value in _CONSTANTS else point[formula.value]
    if formula.kind == "call":
        return _FUNCTIONS[formula.value](mp, *values)
    return _OPERATIONS[formula.kind](mp, *values)


def _power(mp: Any, base: Any, exponent: Any) -> Any:
    if abs(exponent) > 10**6:
        raise OverflowError("the exponent is too large")
    return mp.power(base, exponent)


def _factorial(mp: Any, value: Any) -> Any:
    if abs(value) > LARGEST_FACTORIAL:
        raise OverflowError("the factorial is too large")
    return mp.factorial(value)


_OPERATIONS: Mapping[str, Callable[..., Any]] = {
    "+": lambda mp, a, b: a + b,
    "-": lambda mp, a, b: a - b,
    "*": lambda mp, a, b: a * b,
    "/": lambda mp, a, b: a / b,
    "negative": lambda mp, a: -a,
    "^": _power,
    "!": _factorial,
}
_OF_MPMATH_TEXT = "sin cos tan cot sec csc asin acos atan sinh cosh tanh exp log sqrt cbrt"
_FUNCTIONS: Mapping[str, Callable[..., Any]] = {
    **{name: lambda mp, x, name=name: getattr(mp, name)(x) for name in _OF_MPMATH_TEXT.split()},
    "abs": lambda mp, x: abs(x),
    "root": lambda mp, n, x: mp.root(x, int(n)),
    "logbase": lambda mp, base, x: mp.log(x) / mp.log(base),
}

Token = tuple[str, str]


def _tokens(text: str, variables: frozenset[str], letters: frozenset[str] | None) -> list[Token]:
    text = text.translate(_SIGNS).strip().strip("$").strip()
    text = re.sub(r"^\\[(\[]|\\[)\]]$", "", text)
    for pattern, plain in _LATEX:
        text = pattern.sub(plain, text)
    tokens: list[Token] = []
    place = 0
    text = text.rstrip()
    while place < len(text):
        match = _TOKEN.match(text, place)
        if match is None:
            raise FormulaFault(f"'{text[place : place + 10].strip()}' is not understood in a formula")
        place = match.end()
        if match["number"]:
            tokens.append(("number", match["number"]))
        elif match["greek"]:
            tokens.append(("name", "pi" if match["greek"] == "π" else match["greek"]))
        elif match["command"]:
            tokens += _command(match["command"])
        elif match["word"]:
            tokens += _word(match["word"], match["index"] or "", variables, letters)
        else:
            tokens.append(("sign", {"**": "^"}.get(match["sign"], match["sign"])))
    return tokens


def _command(name: str) -> list[Token]:
    if name in _NAMES:
        return [("function", _SAME.get(name, name))]
    if name == "frac":
        return [("sign", "\\frac")]
    if name in _CONSTANTS or name in _GREEK:
        return [("name", name)]
    raise FormulaFault(f"'\\{name}' is not understood in a formula")


def _word(word: str, index: str, variables: frozenset[str], letters: frozenset[str] | None) -> list[Token]:
    """Return a word as functions and names: longest known names first, else single letters."""
    found: list[Token] = []
    single = [char for char in re.sub("|".join(_NAMES), "", word) if char not in (letters or ())]
    if letters is not None and len(single) > 2 and word not in variables:
        raise FormulaFault(f"'{word}' is a word")
    known = sorted({*_NAMES, "pi", *variables}, key=len, reverse=True)
    while word:
        name = next((one for one in known if word.startswith(one)), word[0])
        word = word[len(name) :]
        suffix = "" if word else index.replace("{", "").replace("}", "")
        if name in _NAMES and name not in variables:
            if name == "log" and suffix:
                found += [("function", "logbase"), ("number" if suffix[1:].isdigit() else "name", suffix[1:])]
            else:
                found.append(("function", _SAME.get(name, name)))
        else:
            found.append(("name", name + suffix))
    return found


class _Reading:
    """A walk through the tokens, one method for each level of the grammar."""

    def __init__(self, tokens: Sequence[Token]):
        self.tokens = tokens
        self.place = 0

    def _next(self, *signs: str) -> str | None:
        """Return the sign at the present place and step over it, if it is one of those."""
        if (
            self.place < len(self.tokens)
            and self.tokens[self.place][0] == "sign"
            and self.tokens[self.place][1] in signs
        ):
            self.place += 1
            return self.tokens[self.place - 1][1]
        return None

    def _close(self, sign: str) -> None:
        if self._next(sign) is None:
            raise FormulaFault(f"a '{sign}' is missing")

    def sum(self, depth: int) -> Formula:
        if depth > DEEPEST:
            raise FormulaFault("the formula is nested too deeply")
        total = self._product(depth)
        while sign := self._next("+", "-"):
            total = Formula(sign, parts=(total, self._product(depth)))
        return total

    def _product(self, depth: int) -> Formula:
        total = self._power(depth)
        while True:
            sign = self._next("*", "/")
            if sign is None and not self._begins_atom():
                return total
            total = Formula(sign or "*", parts=(total, self._power(depth)))

    def _begins_atom(self) -> bool:
        if self.place >= len(self.tokens):
            return False
        kind, value = self.tokens[self.place]
        return kind != "sign" or value in ("(", "{", "[", "\\frac", "√")

    def _power(self, depth: int) -> Formula:
        if self._next("-"):
            return Formula("negative", parts=(self._power(depth + 1),))
        if self._next("+"):
            return self._power(depth + 1)
        base = self._atom(depth)
        while self._next("!"):
            base = Formula("!", parts=(base,))
        if self._next("^"):
            if depth > DEEPEST:
                raise FormulaFault("the formula is nested too deeply")
            return Formula("^", parts=(base, self._power(depth + 1)))
        return base

    def _atom(self, depth: int) -> Formula:
        if self.place >= len(self.tokens):
            raise FormulaFault("the formula breaks off")
        kind, value = self.tokens[self.place]
        self.place += 1
        if kind in ("number", "name"):
            return Formula(kind, value)
        if kind == "function":
            return self._call(value, depth)
        if value in "({[":
            inside = self.sum(depth + 1)
            self._close({"(": ")", "{": "}", "[": "]"}[value])
            return inside
        if value == "|":
            inside = self.sum(depth + 1)
            self._close("|")
            return Formula("call", "abs", (inside,))
        if value == "\\frac":
            return Formula("/", parts=(self._atom(depth + 1), self._atom(depth + 1)))
        if value == "√":
            return Formula("call", "sqrt", (self._atom(depth + 1),))
        raise FormulaFault(f"'{value}' is not expected there")

    def _call(self, name: str, depth: int) -> Formula:
        before: tuple[Formula, ...] = ()
        if name == "sqrt" and self._next("["):
            before, name = (self.sum(depth + 1),), "root"
            self._close("]")
        if name == "logbase":
            before = (self._atom(depth + 1),)
        exponent = self._power(depth + 1) if self._next("^") else None
        # "sin 2x" takes the product of what follows, "sin(x) y" only what is in brackets.
        bracketed = self.place < len(self.tokens) and self.tokens[self.place][1] in ("(", "{", "|")
        inside = self._atom(depth + 1) if bracketed else self._product(depth + 1)
        call = Formula("call", name, (*before, inside))
        return call if exponent is None else Formula("^", parts=(call, exponent))
