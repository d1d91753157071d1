r"""From text to the tokens of the grammar, each with its place: numerals, names, signs, and what is none of these."""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from fractions import Fraction
from typing import Any, NamedTuple

from dryquarry.marking.regexes import regex
from dryquarry.marking.values import numerals

LARGEST_EXPONENT = 400
MOST_POWER_DIGITS = 6
_RAISED = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺", "0123456789-+")
_FUNCTION_NAMES = [
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
_SAME: Mapping[str, str] = {"arcsin": "asin", "arccos": "acos", "arctan": "atan", "ln": "log", "tg": "tan"}
_GREEK = [
    "alpha",
    "beta",
    "gamma",
    "delta",
    "epsilon",
    "varepsilon",
    "theta",
    "lambda",
    "mu",
    "nu",
    "rho",
    "sigma",
    "tau",
    "phi",
    "varphi",
    "omega",
    "eta",
    "kappa",
]
_COMMANDS: Mapping[str, tuple[str, Any]] = {
    "cdot": ("TIMES", "·"), "times": ("TIMES", "×"), "ast": ("TIMES",
    "*"), "div": ("DIVIDE", "÷"), "pm": ("EITHER", "±"),
    "frac": ("FRACTION", "\\frac"), "dfrac": ("FRACTION", "\\frac"), "tfrac": ("FRACTION", "\\frac"),
    "sqrt": ("ROOT", "sqrt"), "pi": ("NAME", "pi"),
    "approx": ("ABOUT", "≈"), "simeq": ("ABOUT", "≈"), "to": ("ARROW", "→"), "rightarrow": ("ARROW", "→"),
    "Rightarrow": ("ARROW", "⇒"), "implies": ("ARROW", "⇒"), "lt": ("ORDER", "<"), "gt": ("ORDER", ">"),
    "le": ("ORDER", "≤"), "leq": ("ORDER", "≤"), "ge": ("ORDER", "≥"), "geq": ("ORDER", "≥"), "neq": ("UNLIKE", "≠"),
    "ne": ("UNLIKE", "≠"), "lbrace": ("LBRACE", "{"), "rbrace": ("RBRACE",
    "}"), "ldots": ("DOTS", "…"), "dots": ("DOTS", "…"),
    "cdots": ("DOTS", "…"), "euro": ("CURRENCY", "€"), "pounds": ("CURRENCY", "£"), "circ": ("OTHER", "°"),
    "percent": ("PERCENT", 100), "infty": ("OTHER", "∞"),
}  # fmt: skip
_SIGNS: Mapping[str, tuple[str, Any]] = {
    "+": ("PLUS", "+"), "-": ("MINUS", "-"), "–": ("MINUS", "–"), "±": ("EITHER", "±"), "∓": ("EITHER", "∓"),
    "*": ("TIMES", "*"), "×": ("TIMES", "×"), "·": ("TIMES", "·"),
    "⋅": ("TIMES", "·"), "∙": ("TIMES", "·"), "•": ("TIMES", "·"),
    "/": ("DIVIDE", "/"), "÷": ("DIVIDE", "÷"), "⁄": ("DIVIDE", "/"),
    "∕": ("DIVIDE", "/"), "**": ("CARET", "^"), "^": ("CARET", "^"),
    "!": ("BANG", "!"), "%": ("PERCENT", 100), "‰": ("PERCENT", 1000), "(": ("LPAREN", "("), ")": ("RPAREN", ")"),
    "[": ("LSQUARE", "["), "]": ("RSQUARE", "]"), "{": ("LBRACE", "{"), "}": ("RBRACE", "}"), "√": ("ROOT", "sqrt"),
    "∛": ("ROOT", "cbrt"), "=": ("EQUALS", "="), "≈": ("ABOUT", "≈"),
    "≃": ("ABOUT", "≈"), "≅": ("ABOUT", "≈"), "≐": ("ABOUT", "≈"),
    "~": ("ABOUT", "~"), "∼": ("ABOUT", "~"), "→": ("ARROW", "→"),
    "⇒": ("ARROW", "⇒"), "⟹": ("ARROW", "⇒"), "->": ("ARROW", "→"),
    "=>": ("ARROW", "⇒"), "<": ("ORDER", "<"), ">": ("ORDER", ">"),
    "≤": ("ORDER", "≤"), "≥": ("ORDER", "≥"), "<=": ("ORDER", "≤"),
    ">=": ("ORDER", "≥"), "≠": ("UNLIKE", "≠"), "!=": ("UNLIKE", "≠"), "€": ("CURRENCY", "€"), "$": ("CURRENCY", "$"),
    "£": ("CURRENCY", "£"), "¥": ("CURRENCY", "¥"), "|": ("BAR", "|"),
    "…": ("DOTS", "…"), "...": ("DOTS", "…"), ",": ("COMMA", ","), ";": ("COMMA", ";"),
    "==": ("EQUALS", "="), "°": ("OTHER", "°"), ":": ("COLON", ":"),
}  # fmt: skip
_TOKEN = regex(
    rf"""
      (?P<word>[^\W\d_π⁰¹²³⁴⁵⁶⁷⁸⁹{"".join(numerals.VULGAR)}]+)(?P<prime>'+(?!\w))?(?P<index>_\{{?\w{{1,12}}\}}?)?
    | (?P<clock>(?<![\d:.,])\d{{1,2}}:[0-5]\d(?::[0-5]\d)?(?![\d:]))
    | (?P<scientific>(?<![\w.,])(?:\d+(?:[.,]\d+)?|\.\d+)[eE](?P<e>[-+]?\d+)(?![\w]))
    | (?P<recurring>(?<![\w.,/:])(?P<before>\d{{0,9}}[.,]\d{{0,9}}?)
        (?:\((?P<cycle>\d{{1,9}})\)(?!\s*=)|\\(?:overline|bar)\s?\{{(?P<barred>\d{{1,9}})\}}|(?P<marked>(?:\d[\u0304\u0305\u0307]){{1,9}})))
    | (?P<mixed>(?<![\w.,/:])(?P<whole>\d{{1,9}})[ ](?:and[ ])?
        (?P<top>\d{{1,6}})[/⁄](?P<bottom>\d{{1,6}})(?![\w/]|[.,]\d))
    | (?P<number>{numerals.DIGITS})(?P<half>[ ]?[{"".join(numerals.VULGAR)}])?
    | (?P<vulgar>[{"".join(numerals.VULGAR)}])
    | (?P<raised>[⁻⁺]?[⁰¹²³⁴⁵⁶⁷⁸⁹]+)
    | \\(?P<command>[a-zA-Z]+)
    | (?P<pi>π)
    | (?P<sign>\.{{3}}|\*\*|->|=>|<=|>=|!=|==|[-+–±∓*×·⋅∙•/÷⁄∕^!%‰()\[\]{{}}√∛=≈≃≅≐~∼→⇒⟹<>≤≥≠€$£¥|…,;:°])
    | (?P<other>\S)
    """,
    re.VERBOSE,
)


_PROSE = regex(r"\s*(?:[a-zA-Z]+[ \n]+){2,}")


class MathToken(NamedTuple):
    """A piece of text: its kind in the grammar (or WORD, EQUALS, …), what it means, and its place."""

    kind: str
    value: Any
    start: int
    end: int


def tokens_of(
    text: str, start: int, end: int, decimal: str | None = None, understood: frozenset[str] | None = None
) -> Iterator[MathToken]:
    """Yield the tokens of a stretch of text; words that are no function are WORD, for the caller to understand.

    With `understood` given, words that are not in it are handed on as one OTHER where several stand together.
    """
    place = start
    single = 0  # how many arguments of one digit a LaTeX command waits for
    while place < end:
        prose = _PROSE.match(text, place, end) if understood is not None else None
        if prose and understood is not None and understood.isdisjoint(prose.group().lower().split()):
            yield MathToken("OTHER", "prose", prose.start(), prose.end())
            place, single = prose.end(), 0
            continue
        match = _TOKEN.search(text, place, end)
        if match is None:
            return
        place = match.end()
        if single and match["number"] and match["number"].isdecimal() and len(match["number"]) > 1:
            # "\frac12", "\sqrt2": each argument without braces is one digit
            digit = match.start("number")
            for _ in range(min(single, len(match["number"]))):
                yield MathToken("LBRACE", "{", digit, digit)
                yield MathToken("NUMBER", Fraction(int(text[digit])), digit, digit + 1)
                digit += 1
                yield MathToken("RBRACE", "}", digit, digit)
            single, place = 0, digit
            continue
        token = _token_of(match, decimal)
        if token is None:
            token = MathToken("OTHER", match.group(), match.start(), match.end())
        single = {"FRACTION": 2, "ROOT": 1}.get(token.kind, 0) if match["command"] else max(0, single - 1)
        if token.kind in ("LBRACE", "LSQUARE"):
            single = 0
        yield token


def _token_of(match: re.Match[str], decimal: str | None) -> MathToken | None:
    start, end = match.span()
    if match["word"]:
        return MathToken("WORD", (match["word"], (match["index"] or "") + (match["prime"] or "")), start, end)
    if match["clock"]:
        return MathToken("CLOCK", match["clock"], start, end)
    if match["scientific"]:
        digits = re.split("[eE]", match["scientific"])[0]
        value = numerals.digits_value(digits, decimal)
        power = int(match["e"]) if len(match["e"]) < MOST_POWER_DIGITS else LARGEST_EXPONENT + 1
        if value is None or abs(power) > LARGEST_EXPONENT:
            return None
        return MathToken("NUMBER", value * Fraction(10) ** power, start, end)
    if match["recurring"]:
        cycle = match["cycle"] or match["barred"] or match["marked"][::2]
        return MathToken("NUMBER", numerals.recurring_value(match["before"], cycle), start, end)
    if match["mixed"]:
        bottom = int(match["bottom"])
        return (
            MathToken("NUMBER", int(match["whole"]) + Fraction(int(match["top"]), bottom), start, end)
            if bottom
            else None
        )
    if match["number"]:
        value = numerals.digits_value(match["number"], decimal)
        if value is not None and match["half"]:
            value += numerals.VULGAR[match["half"].strip()]
        return None if value is None else MathToken("NUMBER", value, start, end)
    if match["vulgar"]:
        return MathToken("NUMBER", numerals.VULGAR[match["vulgar"]], start, end)
    if match["raised"]:
        said = match["raised"].translate(_RAISED)
        return MathToken("RAISED", int(said), start, end) if len(said) <= 6 else None
    if match["command"]:
        return _command(match["command"], start, end)
    if match["pi"]:
        return MathToken("NAME", "pi", start, end)
    if match["sign"]:
        kind, meaning = _SIGNS[match["sign"]]
        return MathToken(kind, meaning, start, end)
    return None


def _command(name: str, start: int, end: int) -> MathToken:
    if name in _FUNCTION_NAMES and name != "sqrt":
        return MathToken("FUNCTION", _SAME.get(name, name), start, end)
    if name in _COMMANDS:
        kind, meaning = _COMMANDS[name]
        return MathToken(kind, meaning, start, end)
    if name in _GREEK:
        return MathToken("NAME", name, start, end)
    return MathToken("OTHER", f"\\{name}", start, end)


def names_in(word: str, index: str, variables: frozenset[str]) -> list[tuple[str, Any]]:
    """Return a word of a formula as functions and names, the longest known names first, else single letters."""
    if word in variables:
        return [("NAME", word + index)]
    found: list[tuple[str, Any]] = []
    names = sorted({*_FUNCTION_NAMES, "pi", *variables}, key=len, reverse=True)
    while word:
        name = next((one for one in names if word.startswith(one)), word[0])
        word = word[len(name) :]
        suffix = "" if word else index.replace("{", "").replace("}", "")
        if name in _FUNCTION_NAMES and name not in variables:
            if name == "log" and suffix:
                base = suffix[1:]
                found.append(("LOGARITHM", "log"))
                found.append(("NUMBER", Fraction(int(base))) if base.isdecimal() else ("NAME", base))
            elif name in ("sqrt", "cbrt"):
                found.append(("ROOT", name))
            else:
                found.append(("FUNCTION", _SAME.get(name, name)))
        else:
            found.append(("NAME", name + suffix))
    return found


def letters_left(word: str) -> str:
    """Return the letters of a word that are in no name of a function."""
    return re.sub("|".join((*_FUNCTION_NAMES, "pi")), "", word)
