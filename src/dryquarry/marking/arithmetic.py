"""Arithmetic written by suite authors ("59/28", "64*2/sqrt(3)"), with bounded size and no code execution.

Python's own parser reads the text; only the node kinds and names listed here are worked out, exactly
(as fractions) as long as the operations allow it.
"""

from __future__ import annotations

import ast
import math
import operator
from collections.abc import Callable, Mapping
from fractions import Fraction

Value = Fraction | float

LONGEST_EXPRESSION = 200
MOST_DIGITS = 400
LARGEST_EXPONENT = 1000

_OPERATORS: Mapping[type[ast.operator], Callable[[Value, Value], Value]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
}
_CONSTANTS: Mapping[str, float] = {"pi": math.pi}
_FUNCTIONS: Mapping[str, Callable[[float], float]] = {"sqrt": math.sqrt}


class ArithmeticFault(ValueError):
    """An expression that cannot be worked out within bounds; the message says why."""


def evaluate(text: str) -> Value:
    """Return the value of an arithmetic expression.

    Knows + - * / ^ ** ( ), sqrt and pi. Raises ArithmeticFault for anything else, for a division by zero,
    and for a text, number or power beyond the bounds of this module.
    """
    if len(text) > LONGEST_EXPRESSION:
        raise ArithmeticFault(f"the expression is longer than {LONGEST_EXPRESSION} characters")
    plain = text.replace("^", "**").replace("×", "*").replace("·", "*").replace("−", "-").strip()
    try:
        tree = ast.parse(plain, mode="eval")
        value = _value(tree.body)
    except (SyntaxError, MemoryError, RecursionError):
        raise ArithmeticFault(f"'{text}' is not an arithmetic expression") from None
    except ZeroDivisionError:
        raise ArithmeticFault(f"'{text}' divides by zero") from None
    except (OverflowError, ValueError) as error:
        raise ArithmeticFault(f"'{text}' cannot be worked out: {error}") from None
    if isinstance(value, float) and not math.isfinite(value):
        raise ArithmeticFault(f"'{text}' is not a finite number")
    return value


def _value(node: ast.expr) -> Value:
    match node:
        case ast.Constant(value=int() | float() as number) if not isinstance(number, bool):
            return _bounded(Fraction(ast.unparse(node)) if isinstance(number, float) else Fraction(number))
        case ast.Name(id=name) if name in _CONSTANTS:
            return _CONSTANTS[name]
        case ast.UnaryOp(op=ast.USub(), operand=operand):
            return -_value(operand)
        case ast.UnaryOp(op=ast.UAdd(), operand=operand):
            return _value(operand)
        case ast.BinOp(left=left, op=ast.Pow(), right=right):
            return _bounded(_power(_value(left), _value(right)))
        case ast.BinOp(left=left, op=op, right=right) if type(op) in _OPERATORS:
            return _bounded(_OPERATORS[type(op)](_value(left), _value(right)))
        case ast.Call(func=ast.Name(id=name), args=[argument], keywords=[]) if name in _FUNCTIONS:
            return _FUNCTIONS[name](float(_value(argument)))
    raise ValueError("only numbers, + - * / ^ ( ), sqrt and pi are understood")


def _power(base: Value, exponent: Value) -> Value:
    if not -LARGEST_EXPONENT <= exponent <= LARGEST_EXPONENT:
        raise OverflowError(f"the exponent is beyond {LARGEST_EXPONENT}")
    if isinstance(base, Fraction) and isinstance(exponent, Fraction) and exponent.denominator == 1:
        bits = max(base.numerator.bit_length(), base.denominator.bit_length())
        if bits * abs(int(exponent)) * 0.302 > MOST_DIGITS:
            raise OverflowError(f"the number has more than {MOST_DIGITS} digits")
        return Fraction(base ** int(exponent))
    if base < 0:
        raise ValueError("the result is not a real number")
    return math.pow(base, exponent)


def _bounded(value: Value) -> Value:
    if isinstance(value, Fraction):
        bits = max(value.numerator.bit_length(), value.denominator.bit_length())
        if bits * 0.302 > MOST_DIGITS:
            raise OverflowError(f"the number has more than {MOST_DIGITS} digits")
    return value
