"""A formula or number written by an author or a model, as a whole text: from text to Formula, within bounds."""

from __future__ import annotations

import re
from collections.abc import Collection
from fractions import Fraction
from typing import Any

from dryquarry.marking.regexes import regex
from dryquarry.marking.values.formulas import Formula, FormulaFault, number_value
from dryquarry.marking.values.grammar import formula_of
from dryquarry.marking.values.numerals import WORDS, words_value
from dryquarry.marking.values.texts import plain_letters
from dryquarry.marking.values.tokens import letters_left, names_in, tokens_of

LONGEST_FORMULA = 1000
SHORTEST_WORD = 3
# A variable beside words of mathematics: "four x", "x squared", "half of n".
_WORDED = regex(
    r"\b(?:[A-Za-z]{3,}|of|up)\s+(?:[A-Za-z]\b|π)|\b[A-Za-z]\s+[A-Za-z]{4,}|\b(?:divided|multiplied)\s+by\b|\b(?:[Tt]wice|[Dd]ouble)\b|\bsum\s+of\b"
)
# "three times x, plus four", "(p - 2a) : 2"
_PAUSE = regex(r",\s+(?=(?:plus|minus|less|all\s+over)\b)", re.IGNORECASE)
_ALL_OVER = regex(r"(.+?)\s+all\s+over\s+(.+)", re.IGNORECASE | re.DOTALL)
_DIVIDED = regex(r"(\)|\d|\b[A-Za-z]) :(\s*\d+\s*)\Z")
_VALUE_ENDS = frozenset(("NUMBER", "NAME", "RPAREN", "RBRACE", "RSQUARE", "RAISED", "BANG", "BAREND", "PERCENT"))


def number_in(text: str) -> Fraction:
    """Return the value of a text such as "59/28", "2^10" or "thirty-six"; raises FormulaFault."""
    worded = WORDS.fullmatch(plain_letters(text.strip()))
    value = words_value(worded) if worded else None
    return number_value(formula_in(text)) if value is None else value


def formula_in(text: str, variables: Collection[str] = (), letters: frozenset[str] | None = None) -> Formula:
    """Return the formula that a text is; raises FormulaFault.

    Letters side by side are a product of variables unless they are a function, or one of `variables`. With
    `letters` given, those that a formula is expected to have, three and more others side by side are a word and the
    text is no formula.
    """
    if len(text) > LONGEST_FORMULA:
        raise FormulaFault(f"the formula is longer than {LONGEST_FORMULA} characters")
    if letters is not None:
        text = _DIVIDED.sub(r"\1 /\2", _in_signs(_PAUSE.sub(" ", text)))
    text = _RAISED.sub(_lowered, text)
    names = frozenset(variables)
    given: list[tuple[str, Any]] = []
    bars = 0
    for token in tokens_of(text, 0, len(text)):
        kind, value = token.kind, token.value
        if kind == "WORD":
            given += _word(value, names, letters)
        elif kind == "BAR":
            opens = not given or given[-1][0] not in _VALUE_ENDS or bars == 0
            bars += 1 if opens else -1
            given.append(("BAR" if opens else "BAREND", value))
        elif kind in ("OTHER", "CLOCK", "COMMA", "DOTS", "COLON", "EITHER", "CURRENCY"):
            raise FormulaFault(f"'{value}' is not understood in a formula")
        else:
            given.append((kind, value))
    return formula_of(given)


_SIGNS = (
    (regex(r"(?P<all>\d+(?:\.\d+)?)\s*(?:%|per\s?cent)\s+of\b", re.IGNORECASE), r"(\g<all>/100)*"),
    (regex(r"\b(?:squared|au carré|al cuadrado|im Quadrat)", re.IGNORECASE), "^2"),
    (regex(r"\b(?:cubed)\b", re.IGNORECASE), "^3"),
    (
        regex(r"\b(?:raised )?to the power(?: of)? (?P<all>-?\d*[A-Za-z](?:\s?/\s?\d+)?)\b", re.IGNORECASE),
        r"^(\g<all>)",
    ),
    (regex(r"\b(?:raised )?to the power(?: of)?\b", re.IGNORECASE), "^"),
    (regex(r"\b(?:one |a )?half (?=(?:raised )?to the power\b|\^)", re.IGNORECASE), "(1/2) "),
    (regex(r"\b(?:one )?half(?: of| times)?\b|\bhalf the\b", re.IGNORECASE), "1/2*"),
    (regex(r"\b(?:a|one)[ -]third(?: of)?\b", re.IGNORECASE), "1/3*"),
    (regex(r"\b(?:a|one)[ -]quarter(?: of)?\b", re.IGNORECASE), "1/4*"),
    (regex(r"\b(?:the )?square of (?P<all>[A-Za-z]\b|\([^()]*\))", re.IGNORECASE), r"(\g<all>)^2"),
    (regex(r"\b(?:the )?cube of (?P<all>[A-Za-z]\b|\([^()]*\))", re.IGNORECASE), r"(\g<all>)^3"),
    # "1 divided by twice the square root of x"
    (
        regex(
            r"\b(?:divided by|over) (?:twice|double) (?:the )?(?P<all>(?:square )?root of [A-Za-z]|[A-Za-z])\b",
            re.IGNORECASE,
        ),
        r"/(2*(\g<all>))",
    ),
    (regex(r"\b(?:twice|double)\b(?: the\b)?", re.IGNORECASE), "2*"),
    (regex(r"\b(?:multiplied by|mal)\b", re.IGNORECASE), "*"),
    # "one over two root x"
    (
        regex(
            r"\bover (?P<all>(?!the\b)[A-Za-z0-9]+)(?: times)? (?:the )?(?:square )?root (?:of )?"
            r"(?P<letter>[A-Za-z])\b",
            re.IGNORECASE,
        ),
        r"/(\g<all> √\g<letter>)",
    ),
    (regex(r"\b(?:divided by|over)\b", re.IGNORECASE), "/"),
    (regex(r"\b(?:the )?(?:square root of|(?<!cube )root (?:of )?(?=[A-Za-z(]))\b", re.IGNORECASE), "√"),
)


# "e²ᵗ"
_LOWERED = str.maketrans("⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺⁽⁾ᵃᵇᶜᵈᵉᵏᵐⁿᵖʳˢᵗᵘᵛʷˣʸᶻ", "0123456789-+()abcdekmnprstuvwxyz")
_RAISED = regex("[⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺⁽⁾]*[ᵃᵇᶜᵈᵉᵏᵐⁿᵖʳˢᵗᵘᵛʷˣʸᶻ][⁰¹²³⁴⁵⁶⁷⁸⁹⁻⁺⁽⁾ᵃᵇᶜᵈᵉᵏᵐⁿᵖʳˢᵗᵘᵛʷˣʸᶻ]*")


# "two thirds of x", with its number in digits
_PART_OF = regex(r"(\b\d+/\d+)\s+of\s+(?=[A-Za-z(]\b)")


# "the sum of ab, ac and bc"
_SUM_OF = regex(r"\b(?:the )?sum of (?P<all>\w{1,4}(?:, \w{1,4})*,? and \w{1,4})(?![\w ]*[-+*/^])", re.IGNORECASE)
_JOINED = regex(r",? and |, ")


def _added(told: re.Match[str]) -> str:
    return f"({_JOINED.sub(' + ', told['all'])})"


def _lowered(raised: re.Match[str]) -> str:
    return f"^({raised.group().translate(_LOWERED)})"


def _in_signs(text: str) -> str:
    """Return a formula with the words of mathematics as signs: "four x squared minus three"."""
    if not _WORDED.search(text):
        return text
    text = _ALL_OVER.sub(r"(\1)/(\2)", text)
    text = _SUM_OF.sub(_added, text)
    for pattern, sign in _SIGNS:
        text = pattern.sub(sign, text)
    return _PART_OF.sub(r"\1*", WORDS.sub(_as_digits, plain_letters(text)))


def _as_digits(worded: re.Match[str]) -> str:
    value = words_value(worded)
    return worded.group() if value is None else f"{value} "


def _word(value: tuple[str, str], variables: frozenset[str], letters: frozenset[str] | None) -> list[tuple[str, Any]]:
    word, index = value
    if word in ("plus", "minus", "less", "times", "mal"):
        return [({"plus": "PLUS", "minus": "MINUS", "less": "MINUS"}.get(word, "TIMES"), word)]
    if word not in variables and letters is not None:
        unknown = [char for char in letters_left(word) if char not in letters]
        if len(unknown) > 1 or (unknown and len(word) >= SHORTEST_WORD):
            raise FormulaFault(f"'{word}' is a word")
    return names_in(word, index, variables)
