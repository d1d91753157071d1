"""Expressions written by suite authors, with bounded size and no code execution.

Keys such as "59/28" or "64*2/sqrt(3)" are worked out here, and so are the keys, texts and conditions of
templates ("boats * litres > 40"). Python's own parser reads the text; only the node kinds and names listed
here are worked out, exactly (as fractions) as long as the operations allow it.
"""

from __future__ import annotations

import ast
import math
import operator
from collections.abc import Callable, Mapping, Sequence
from fractions import Fraction
from typing import Any

Number = Fraction | float
Value = Fraction | float | str | bool

LONGEST_EXPRESSION = 400
LONGEST_TEXT = 10_000
MOST_DIGITS = 400
MOST_PLACES = 30
LARGEST_EXPONENT = 1000

_OPERATORS: Mapping[type[ast.operator], Callable[[Any, Any], Number]] = {
    ast.Add: operator.add,
    ast.Sub: operator.sub,
    ast.Mult: operator.mul,
    ast.Div: operator.truediv,
    ast.FloorDiv: operator.floordiv,
    ast.Mod: operator.mod,
}
_COMPARISONS: Mapping[type[ast.cmpop], Callable[[Any, Any], bool]] = {
    ast.Eq: operator.eq,
    ast.NotEq: operator.ne,
    ast.Lt: operator.lt,
    ast.LtE: operator.le,
    ast.Gt: operator.gt,
    ast.GtE: operator.ge,
}
_CONSTANTS: Mapping[str, float] = {"pi": math.pi}


class ArithmeticFault(ValueError):
    """An expression that cannot be worked out within bounds; the message says why."""


def evaluate_with(text: str, names: Mapping[str, Value]) -> Value:
    """Return the value of an expression in which `names` stand for values.

    Knows + - * / // % ^ ** ( ), comparisons, and, or, not, `a if b else c`, texts in quotes joined by +, pi,
    and the functions of FUNCTIONS. Raises ArithmeticFault for anything else, for a division by zero, and for
    a text, number or power beyond the bounds of this module.
    """
    if len(text) > LONGEST_EXPRESSION:
        raise ArithmeticFault(f"the expression is longer than {LONGEST_EXPRESSION} characters")
    plain = text.replace("^", "**").replace("×", "*").replace("·", "*").replace("−", "-").strip()
    try:
        value = _value(ast.parse(plain, mode="eval").body, names)
    except (SyntaxError, MemoryError, RecursionError):
        raise ArithmeticFault(f"'{text}' is not an expression") from None
    except ZeroDivisionError:
        raise ArithmeticFault(f"'{text}' divides by zero") from None
    except (OverflowError, ValueError, TypeError) as error:
        raise ArithmeticFault(f"'{text}' cannot be worked out: {error}") from None
    if isinstance(value, float) and not math.isfinite(value):
        raise ArithmeticFault(f"'{text}' is not a finite number")
    return value


def said(value: Value) -> str:
    """Return a value as it stands in a text: whole numbers and decimals exactly, other numbers to 12 digits."""
    if isinstance(value, bool):
        return "true" if value else "false"
    if isinstance(value, str):
        return value
    if isinstance(value, Fraction):
        if value.denominator == 1:
            return str(value.numerator)
        places = 0
        while (value * 10**places).denominator != 1 and places < 13:
            places += 1
        if places < 13:
            digits = str(abs((value * 10**places).numerator)).rjust(places + 1, "0")
            return f"{'-' if value < 0 else ''}{digits[:-places]}.{digits[-places:]}"
    return f"{float(value):.12g}"


def _value(node: ast.expr, names: Mapping[str, Value]) -> Value:
    match node:
        case ast.Constant(value=str() as text):
            return text
        case ast.Constant(value=int() | float() as number) if not isinstance(number, bool):
            return _bounded(Fraction(ast.unparse(node)) if isinstance(number, float) else Fraction(number))
        case ast.Name(id=name) if name in names:
            return names[name]
        case ast.Name(id=name) if name in _CONSTANTS:
            return _CONSTANTS[name]
        case ast.UnaryOp(op=ast.USub(), operand=operand):
            return -_number(_value(operand, names))
        case ast.UnaryOp(op=ast.UAdd(), operand=operand):
            return _number(_value(operand, names))
        case ast.UnaryOp(op=ast.Not(), operand=operand):
            return not _value(operand, names)
        case ast.BinOp(left=left, op=op, right=right):
            return _bounded(_operation(op, _value(left, names), _value(right, names)))
        case ast.Compare(left=left, ops=ops, comparators=comparators):
            return _comparison([left, *comparators], ops, names)
        case ast.BoolOp(op=op, values=values):
            parts = [bool(_value(part, names)) for part in values]
            return all(parts) if isinstance(op, ast.And) else any(parts)
        case ast.IfExp(test=test, body=body, orelse=orelse):
            return _value(body if _value(test, names) else orelse, names)
        case ast.Call(func=ast.Name(id=name), args=arguments, keywords=[]) if name in FUNCTIONS:
            return _bounded(FUNCTIONS[name](*(_value(argument, names) for argument in arguments)))
        case ast.Name(id=name):
            raise ValueError(f"there is nothing named '{name}'")
    raise ValueError("only numbers, texts, names, + - * / ^ ( ), comparisons and a few functions are understood")


def _operation(op: ast.operator, left: Value, right: Value) -> Value:
    if isinstance(op, ast.Add) and isinstance(left, str) and isinstance(right, str):
        return left + right
    if isinstance(op, ast.Pow):
        return _power(_number(left), _number(right))
    if type(op) in _OPERATORS:
        return _OPERATORS[type(op)](_number(left), _number(right))
    raise ValueError("this operation is not understood")


def _comparison(operands: Sequence[ast.expr], ops: Sequence[ast.cmpop], names: Mapping[str, Value]) -> bool:
    values = [_value(operand, names) for operand in operands]
    for left, op, right in zip(values, ops, values[1:], strict=False):
        if type(op) not in _COMPARISONS:
            raise ValueError("this comparison is not understood")
        if not _COMPARISONS[type(op)](left, right):
            return False
    return True


def _number(value: Value) -> Number:
    if isinstance(value, str | bool):
        raise ValueError(f"'{value}' stands where a number is wanted")
    return value


def _power(base: Number, exponent: Number) -> Number:
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
    if isinstance(value, int) and not isinstance(value, bool):
        value = Fraction(value)
    if isinstance(value, Fraction):
        bits = max(value.numerator.bit_length(), value.denominator.bit_length())
        if bits * 0.302 > MOST_DIGITS:
            raise OverflowError(f"the number has more than {MOST_DIGITS} digits")
    if isinstance(value, str) and len(value) > LONGEST_TEXT:
        raise OverflowError(f"the text is longer than {LONGEST_TEXT} characters")
    return value


def _whole(value: Value) -> int:
    number = _number(value)
    if number != int(number):
        raise ValueError(f"{number} stands where a whole number is wanted")
    return int(number)


def _rounded(value: Value, places: Value = Fraction(0)) -> Fraction:
    """Round half away from zero, as people round."""
    scale = Fraction(10) ** _places(places)
    number = Fraction(_number(value))
    whole = math.floor(abs(number) * scale + Fraction(1, 2))
    return (-whole if number < 0 else whole) / scale


def _places(value: Value) -> int:
    places = _whole(value)
    if not -MOST_PLACES <= places <= MOST_PLACES:
        raise OverflowError(f"more than {MOST_PLACES} places")
    return places


def _absolute(value: Value) -> Value:
    number = _number(value)
    return -number if number < 0 else number


def _fixed(value: Value, places: Value) -> str:
    """Write a number with so many places, as prices are written."""
    count = max(0, _places(places))
    scaled = _rounded(value, places) * 10**count
    digits = str(abs(scaled.numerator)).rjust(count + 1, "0")
    sign = "-" if scaled < 0 else ""
    return sign + (f"{digits[:-count]}.{digits[-count:]}" if count else digits)


FUNCTIONS: Mapping[str, Callable[..., Value]] = {
    "abs": _absolute,
    "ceil": lambda value: Fraction(math.ceil(_number(value))),
    "fixed": _fixed,
    "floor": lambda value: Fraction(math.floor(_number(value))),
    "gcd": lambda first, second: Fraction(math.gcd(_whole(first), _whole(second))),
    "length": lambda text: Fraction(len(str(text))),
    "lower": lambda text: str(text).lower(),
    "max": lambda *values: max(_number(value) for value in values),
    "min": lambda *values: min(_number(value) for value in values),
    "round": _rounded,
    "sqrt": lambda value: math.sqrt(_number(value)),
    "text": lambda value: said(value),
    "upper": lambda text: str(text).upper(),
}
