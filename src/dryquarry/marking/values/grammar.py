r"""The one grammar of mathematics: plain, LaTeX and Unicode notation, with words for signs and numbers.

`tokens.py` tells numerals, names and signs apart; here they become a `Formula`. Between two factors the sign of
multiplication may be left out. "sin 2x y" takes the plain factors after it, "sin(x) y" only what is in brackets.
"""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from fractions import Fraction
from functools import cache, lru_cache
from typing import Any

from lark import Lark, Token, Transformer, v_args
from lark.exceptions import LarkError
from lark.lexer import Lexer

from dryquarry.marking.values.formulas import Formula, FormulaFault

KNOWN_FORMULAS = 2048
MOST_PARTS = 300
DEEPEST = 60

_GRAMMAR = r"""
?start: sum
?sum: product
    | sum PLUS product -> plus
    | sum MINUS product -> minus
?product: signed
    | product TIMES signed -> times
    | product DIVIDE signed -> divided
    | product power -> beside
?signed: power
    | MINUS signed -> negative
    | PLUS signed -> same
?power: suffixed
    | suffixed CARET exponent -> power
?exponent: power
    | MINUS exponent -> negative
    | PLUS exponent -> same
?suffixed: atom
    | suffixed BANG -> factorial
    | suffixed PERCENT -> percent
    | suffixed RAISED -> raised
?atom: simple
    | group
    | FRACTION braced braced -> fraction
    | ROOT braced -> root
    | ROOT LSQUARE sum RSQUARE braced -> nth_root
    | FUNCTION argument -> call
    | FUNCTION RAISED argument -> raised_call
    | FUNCTION CARET braced argument -> power_call
    | LOGARITHM simple argument -> logarithm
?simple: NUMBER -> number
    | NAME -> name
?braced: simple | group | FRACTION braced braced -> fraction | ROOT braced -> root
?group: LPAREN sum RPAREN -> bracketed
    | LSQUARE sum RSQUARE -> bracketed
    | LBRACE sum RBRACE -> bracketed
    | BAR sum BAREND -> absolute
?argument: group
    | FRACTION braced braced -> fraction
    | ROOT braced -> root
    | run
?run: factor
    | run factor -> beside
?factor: simple
    | factor RAISED -> raised
    | factor CARET braced -> power_of
%declare NUMBER NAME FUNCTION LOGARITHM FRACTION ROOT PLUS MINUS TIMES DIVIDE CARET RAISED BANG PERCENT
%declare LPAREN RPAREN LSQUARE RSQUARE LBRACE RBRACE BAR BAREND
"""


class _Given(Lexer):
    """Hands on the tokens that have been read already."""

    def __init__(self, configuration: Any):
        pass

    def lex(self, data: Any) -> Iterator[Token]:  # type: ignore[override]
        """Yield the tokens."""
        yield from data


@v_args(inline=True)
class _Formulas(Transformer[Token, Formula]):
    """Turns what the grammar finds into formulas."""

    def number(self, token: Any) -> Formula:
        return Formula("number", number=token.value)

    def name(self, token: Any) -> Formula:
        return Formula("name", str(token.value))

    def plus(self, left: Formula, sign: Token, right: Formula) -> Formula:
        return Formula("+", parts=(left, right))

    def minus(self, left: Formula, sign: Token, right: Formula) -> Formula:
        return Formula("-", parts=(left, right))

    def times(self, left: Formula, sign: Token, right: Formula) -> Formula:
        return Formula("*", parts=(left, right))

    def divided(self, left: Formula, sign: Token, right: Formula) -> Formula:
        return Formula("/", parts=(left, right))

    def beside(self, left: Formula, right: Formula) -> Formula:
        # 5\frac{1}{4} is a mixed number, 5\frac{x}{4} a product.
        whole = left.number
        if right.kind == "/" and right.said == "fraction" and whole is not None and whole.denominator == 1:
            top, bottom = (part.number for part in right.parts)
            if top is not None and bottom is not None and top.denominator == 1 and 0 < top < bottom:
                return Formula("+", parts=(left, right))
        return Formula("*", parts=(left, right))

    def negative(self, sign: Token, inner: Formula) -> Formula:
        return Formula("negative", parts=(inner,))

    def same(self, sign: Token, inner: Formula) -> Formula:
        return inner

    def power(self, base: Formula, sign: Token, exponent: Formula) -> Formula:
        return Formula("^", parts=(base, exponent))

    power_of = power

    def raised(self, base: Formula, sign: Any) -> Formula:
        return Formula("^", parts=(base, Formula("number", number=Fraction(sign.value))))

    def factorial(self, inner: Formula, sign: Token) -> Formula:
        return Formula("!", parts=(inner,))

    def percent(self, inner: Formula, sign: Any) -> Formula:
        return Formula("/", parts=(inner, Formula("number", number=Fraction(sign.value))))

    def fraction(self, sign: Token, top: Formula, bottom: Formula) -> Formula:
        return Formula("/", "", (top, bottom), said="fraction")

    def root(self, sign: Any, inner: Formula) -> Formula:
        return Formula("call", str(sign.value), (inner,))

    def nth_root(self, *parts: Any) -> Formula:
        return Formula("call", "root", (parts[2], parts[4]))

    def bracketed(self, left: Token, inner: Formula, right: Token) -> Formula:
        return inner

    def absolute(self, left: Token, inner: Formula, right: Token) -> Formula:
        return Formula("call", "abs", (inner,))

    def call(self, name: Any, argument: Formula) -> Formula:
        return Formula("call", str(name.value), (argument,))

    def raised_call(self, name: Any, sign: Any, argument: Formula) -> Formula:
        return self._powered(name, Formula("number", number=Fraction(sign.value)), argument)

    def power_call(self, name: Any, sign: Token, exponent: Formula, argument: Formula) -> Formula:
        return self._powered(name, exponent, argument)

    def logarithm(self, name: Token, base: Formula, argument: Formula) -> Formula:
        return Formula("call", "logbase", (base, argument))

    def _powered(self, name: Any, exponent: Formula, argument: Formula) -> Formula:
        # sin⁻¹ is the inverse function, sin² the square of its value
        if exponent.number == -1 and f"a{name.value}" in ("asin", "acos", "atan"):
            return Formula("call", f"a{name.value}", (argument,))
        return Formula("^", parts=(Formula("call", str(name.value), (argument,)), exponent))


@cache
def _parser() -> Lark:
    return Lark(_GRAMMAR, parser="lalr", lexer=_Given, transformer=_Formulas())


def formula_of(tokens: Sequence[tuple[str, Any]]) -> Formula:
    """Return the formula that tokens (kind, value) make; raises FormulaFault."""
    return _formula_of(tuple(tokens))


@lru_cache(maxsize=KNOWN_FORMULAS)
def _formula_of(tokens: tuple[tuple[str, Any], ...]) -> Formula:
    # remembered, as replies to one question have the same sums in them
    if not tokens:
        raise FormulaFault("there is no formula")
    if len(tokens) > MOST_PARTS:
        raise FormulaFault(f"the formula has more than {MOST_PARTS} parts")
    deepest = depth = 0
    given = []
    for kind, value in tokens:
        depth += (kind in ("LPAREN", "LBRACE", "LSQUARE", "BAR", "FRACTION", "ROOT", "MINUS", "CARET")) - (
            kind in ("RPAREN", "RBRACE", "RSQUARE", "BAREND")
        )
        deepest = max(deepest, depth)
        given.append(_token(kind, value))
    if deepest > 4 * DEEPEST:
        raise FormulaFault("the formula is nested too deeply")
    try:
        formula: Any = _parser().parse(given)
    except LarkError as error:
        at = getattr(error, "token", None)
        said = getattr(at, "value", None)
        raise FormulaFault(f"'{said}' is not expected there" if said else "the formula breaks off") from None
    assert isinstance(formula, Formula)
    return formula


def _token(kind: str, value: Any) -> Token:
    token = Token(kind, "")
    token.value = value
    return token
