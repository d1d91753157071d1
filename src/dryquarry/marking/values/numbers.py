"""The numbers in a stretch of prose: each run of numerals and signs is one term, with its value and its place."""

from __future__ import annotations

import re
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from enum import StrEnum
from fractions import Fraction
from functools import lru_cache

from dryquarry.marking.regexes import regex
from dryquarry.marking.values import numerals
from dryquarry.marking.values.formulas import FormulaFault, number_value
from dryquarry.marking.values.grammar import formula_of
from dryquarry.marking.values.spoken import number_and_part, numbers_in_words, repeated, signs_in_words
from dryquarry.marking.values.texts import plain_letters
from dryquarry.marking.values.tokens import MathToken, tokens_of

LONGEST_RUN = 120
_RUN_KINDS = frozenset(
    [
        "NUMBER",
        "NAME",
        "FRACTION",
        "ROOT",
        "PLUS",
        "MINUS",
        "TIMES",
        "DIVIDE",
        "CARET",
        "RAISED",
        "PERCENT",
        "LPAREN",
        "RPAREN",
        "LBRACE",
        "RBRACE",
        "LSQUARE",
        "RSQUARE",
        "CURRENCY",
        "BANG",
        "EITHER",
    ]
)
_RELATIONS = frozenset(["EQUALS", "ABOUT", "ARROW", "ORDER", "UNLIKE"])
_OPERATORS = frozenset(("PLUS", "MINUS", "TIMES", "DIVIDE"))
_OPENING: Mapping[str, str] = {"LPAREN": "RPAREN", "LBRACE": "RBRACE", "LSQUARE": "RSQUARE"}
_WORD_SIGNS: Mapping[str, str] = {
    "plus": "PLUS", "minus": "MINUS", "negative": "MINUS", "times": "TIMES", "moins": "MINUS", "menos": "MINUS",
    "mal": "TIMES", "equals": "EQUALS", "equal": "EQUALS", "ergibt": "EQUALS",
}  # fmt: skip
_DIVIDED = regex(r"\s+(?:divided|multiplied)\s+by\b", re.IGNORECASE)
_PERCENT_WORDS = regex(
    r"\s?per\s?cent(?:age\s+points?)?\b|\s?prozent\b|\s?pour\s?cent\b|\s?por\s?ciento\b", re.IGNORECASE
)
_PER_MILLE_WORDS = regex(r"\s?per\s?mill?e\b|\s?promille\b", re.IGNORECASE)
_SCALE_WORD = regex(
    rf"[\s-]?({'|'.join(sorted(numerals.SCALES, key=len, reverse=True))}|(?-i:M))(?![^\W\d_]|\.\w)", re.IGNORECASE
)
_BELOW_ZERO = regex(r"[^,.;()\d]{0,30}?\b(?:below\s+(?:zero|freezing)|of\s+frost)\b", re.IGNORECASE)
_BELOW = regex(r"\bbelow\s+$", re.IGNORECASE)
# "189.90 € - 56.97 € = …": the sign belongs to the number before it
_CALCULATES = regex(r"\s*[-+−–×*·/÷]\s*[€$£]?\d|\s*=")
# "Step 1", "No. 5": what only counts things up is no value.
_COUNTER = regex(
    r"(?:\b(?:step|clue|part|option|question|method|case|example|stage|line|row|figure|table|"
    r"equation|rule|fact|point|way|"
    r"solution|choice|"
    r"(?<!i'd )(?<!would )(?<!i )answer|note|page|chapter|version|exercise|problem|"
    r"schritt|étape|paso|nr|no)\.?|\#)[ ]*\Z",
    re.IGNORECASE,
)


_UNDERSTOOD = frozenset(
    (
        *_WORD_SIGNS,
        "pi",
        "sqrt",
        "cbrt",
        "x",
        "divided",
        "multiplied",
        "us",
        "eur",
        "usd",
        "gbp",
        "chf",
        "jpy",
        "sek",
        "nok",
        "dkk",
    )
)
# Words that belong to a number, and signs: what is none of these is prose.
_NO_PROSE = frozenset((*_UNDERSTOOD, *numerals.NUMBER_WORDS, *numerals.SCALES))
# What stands directly behind a decimal fraction that does not end: "3.9166…"
_GOES_ON = regex(r"…|\.{2,}(?!\d)|\\[cl]?dots\b")
# Without any of these, and without a number in words, a stretch has no number.
_MAY_HOLD = regex(rf"[\d√∛π⁰¹²³⁴⁵⁶⁷⁸⁹{''.join(numerals.VULGAR)}]|\bpi\b|\\(?:pi|frac|[dt]frac|sqrt)")


class Shape(StrEnum):
    """How a value is written: as a number, as an exact form such as 2√3, as a sum still to be done, or as a range."""

    NUMBER = "number"
    EXACT = "exact form"
    SUM = "sum"
    RANGE = "range"


@dataclass(frozen=True, slots=True)
class Term:
    """A number in a text: its exact value and the stretch in which it stands.

    `relation` is the sign before it ("=", "≈"), `currency` the sign or code before it, `percent` that it is told per
    cent; `unit` is a word inside it that names its unit ("an hour and a half").
    """

    value: Fraction
    start: int
    end: int
    text: str
    shape: Shape = Shape.NUMBER
    relation: str | None = None
    currency: str | None = None
    percent: bool = False
    unit: str | None = None
    in_words: bool = False


def find_terms(text: str, start: int = 0, end: int | None = None, decimal: str | None = None) -> list[Term]:
    """Return the numbers in a stretch of text, in order.

    `decimal` is the decimal mark where the suite says so. A number beyond the bounds is passed over.
    """
    return list(_terms_between(text, start, len(text) if end is None else end, decimal))


@lru_cache(maxsize=256)
def _terms_between(text: str, start: int, end: int, decimal: str | None) -> tuple[Term, ...]:
    # remembered, as a sentence is looked at to weigh it, and again for what it claims
    text = plain_letters(text)
    if not _MAY_HOLD.search(text, start, end) and not numerals.words_in(text[start:end]):
        return ()
    tokens = _with_words(text, list(tokens_of(text, start, end, decimal, _NO_PROSE)), start, end)
    found: list[Term] = []
    run: list[MathToken] = []
    before_run: MathToken | None = None
    relation: str | None = None
    for token in [*tokens, MathToken("END", None, end, end)]:
        if token.kind in _RUN_KINDS and (not run or _goes_on(text, run[-1], token)):
            run.append(token)
            continue
        if run and not _is_endless(run, token, before_run):
            found += _terms(text, run, relation, token.kind)
            relation = None
        if run:
            before_run = run[-1]
        before_run = token if token.kind not in _RUN_KINDS else before_run
        run = [token] if token.kind in _RUN_KINDS else []
        if token.kind in _RELATIONS:
            relation = str(token.value)
        elif token.kind in ("COMMA", "OTHER", "CLOCK") and not run:
            relation = None
    above = (term for term in found if not _BELOW.search(text, max(0, term.start - 8), term.start))
    return tuple(_completed(text, term) for term in above)


def _is_endless(run: list[MathToken], after: MathToken, before: MathToken | None) -> bool:
    """Tell whether a run is a part of a sum or product with dots in it, which has no value of its own: "1 + 2 + …"."""
    leads_on = after.kind == "DOTS" and len(run) > 1 and run[-1].kind in _OPERATORS
    goes_on = before is not None and before.kind == "DOTS" and len(run) > 1 and run[0].kind in ("PLUS", "TIMES")
    return leads_on or goes_on


def _with_words(text: str, tokens: list[MathToken], start: int, end: int) -> list[MathToken]:
    """Return the tokens with words that are numbers or signs understood; what is left of words is OTHER."""
    worded = _in_words(text, start, end)
    found: list[MathToken] = []
    reached = start
    for token in tokens:
        while worded and worded[0].start <= token.start:
            found.append(worded.pop(0))
            reached = found[-1].end
        if token.start < reached:
            if token.kind == "OTHER" and text[reached : token.end].strip():
                found.append(MathToken("OTHER", "prose", reached, token.end))  # "an hour and × twenty"
            continue
        if worded and worded[0].start < token.end and not text[token.start : worded[0].start].strip():
            continue  # a number or sign in words is all that it begins with
        if token.kind == "WORD" and token.value[0].lower() not in _UNDERSTOOD:
            if not found or found[-1].kind != "OTHER":
                found.append(MathToken("OTHER", token.value[0], token.start, token.end))
        elif token.kind == "WORD":
            understood = _word(text, token, found)
            found.append(understood)
            reached = max(reached, understood.end)
        elif (
            token.kind == "NUMBER"
            and token.start > start
            and text[token.start - 1].isalpha()
            and text[token.start] != "½"
        ):
            # the 2 of H2O is no number of its own
            found.append(token._replace(kind="NUMBER" if found and found[-1].kind in _RUN_KINDS else "OTHER"))
        else:
            found.append(token)
    return found


def _in_words(text: str, start: int, end: int) -> list[MathToken]:
    """Return the numbers and signs in words, in order."""
    found = list(number_and_part(text, start, end))
    for token in (*numbers_in_words(text, start, end), *signs_in_words(text, start, end)):
        if not any(one.start < token.end and token.start < one.end for one in found):
            found.append(token)
    return sorted(found, key=lambda one: one.start)


def _word(text: str, token: MathToken, before: Sequence[MathToken]) -> MathToken:
    word, index = token.value
    lower = word.lower()
    after_number = bool(before) and before[-1].kind in ("NUMBER", "RPAREN", "RAISED", "PERCENT")
    if lower == "pi" and not index:
        return token._replace(kind="NAME", value="pi")
    if lower in ("sqrt", "cbrt") and text[token.end : token.end + 1] in ("(", "{"):
        return token._replace(kind="ROOT", value=lower)
    if lower in ("x", "×") and after_number and re.match(r"\s*[\d(\\]", text[token.end : token.end + 6]):
        return token._replace(kind="TIMES")
    if lower in _WORD_SIGNS:
        kind = _WORD_SIGNS[lower]
        if kind != "TIMES" or after_number:
            return MathToken(kind, "=" if kind == "EQUALS" else lower, token.start, token.end)
    if lower in ("divided", "multiplied") and after_number and (by := _DIVIDED.match(text, token.start - 1)):
        return MathToken("DIVIDE" if lower == "divided" else "TIMES", lower, token.start, by.end())
    if word in ("US", "EUR", "USD", "GBP", "CHF", "JPY", "SEK", "NOK", "DKK"):
        return token._replace(kind="CURRENCY", value=word)
    return MathToken("OTHER", word, token.start, token.end)


def _goes_on(text: str, last: MathToken, token: MathToken) -> bool:
    """Tell whether a token goes on with the run that the last one belongs to."""
    between = text[last.end : token.start]
    if "\n" in between or token.end - last.start > LONGEST_RUN:
        return False
    ends_value = last.kind in ("NUMBER", "NAME", "RAISED", "PERCENT", "RPAREN", "BANG")
    if token.kind == "CURRENCY" and last.kind == "NUMBER" and _CALCULATES.match(text, token.end):
        return True
    if token.kind in ("NUMBER", "CURRENCY") and ends_value and (last.kind != "RPAREN" or between):
        return False  # two numbers side by side are two
    if token.kind in ("LPAREN", "LSQUARE", "FRACTION", "ROOT", "NAME") and between and ends_value:
        return token.kind in ("FRACTION", "ROOT", "NAME") and len(between) == 1
    if token.kind == "BANG":
        return (
            not between
            and last.kind == "NUMBER"
            and re.match(r"\s*[-+*/×·=)]|\s[a-z]", text[token.end : token.end + 3]) is not None
        )
    if token.kind in ("PLUS", "MINUS") and between and ends_value:
        # "5 -3" in a list of numbers; "5 – a remark", "12 – four at the top"
        after = text[token.end : token.end + 2].lstrip()[:1]
        if token.value in ("-", "–") and after.isalpha() and after != "π":
            return False
        return text[token.end : token.end + 1].isspace() or token.value in ("plus", "minus")
    return True


def _terms(text: str, run: list[MathToken], relation: str | None, following: str) -> list[Term]:
    """Return the terms of a run: one where it can be read as a whole, else each number in it."""
    run = _trimmed(text, run, relation)
    if [token.kind for token in run] == ["LPAREN", "NUMBER", "RPAREN"]:
        run = run[1:2]
    if not any(token.kind in ("NUMBER", "NAME") for token in run):
        return []
    if len(run) == 1:
        return [_numeral(text, run[0], relation)]
    if (both := _range(text, run, following)) is not None:
        return both
    halves = [place for place, token in enumerate(run) if token.kind == "EITHER"]
    if halves:
        return _either(text, run, halves[0], relation, following)
    whole = _whole(text, run, relation)
    if whole is not None:
        return whole
    return [_numeral(text, token, relation) for token in run if token.kind == "NUMBER"]


def _either(text: str, run: list[MathToken], place: int, relation: str | None, following: str) -> list[Term]:
    """Read "±3" as 3 and -3, "(3 ± 13)/2" as 8 and -5, and "50 ± 2" as 50."""
    if any(token.kind not in ("NUMBER", "CURRENCY", "PERCENT", "EITHER") for token in run[place - 1 :] if place):
        signs = (run[place]._replace(kind=kind, value=sign) for kind, sign in (("PLUS", "+"), ("MINUS", "-")))
        both = [_whole(text, [*run[:place], sign, *run[place + 1 :]], relation) for sign in signs]
        if both[0] and both[1]:
            return [*both[0], *both[1]]
    if place:
        return _terms(text, run[:place], relation, following)
    plain = _terms(text, run[1:], relation, following)
    return [*plain[:1], *(replace(term, value=-term.value) for term in plain[:1])]


def _trimmed(text: str, run: list[MathToken], relation: str | None) -> list[MathToken]:
    """Return a run without signs that belong to the sentence: dashes, unpaired brackets, signs at its end."""
    while run and run[-1].kind in (
        *_OPERATORS,
        "LPAREN",
        "LSQUARE",
        "LBRACE",
        "EITHER",
        "CARET",
        "CURRENCY",
        "ROOT",
        "FRACTION",
    ):
        run = run[:-1]
    while run and run[0].kind == "CARET":
        run = run[2:]  # the power of a name
    while run and (
        run[0].kind in ("TIMES", "DIVIDE", "CARET", "RAISED", "PERCENT", "BANG") or run[0].kind in _OPENING.values()
    ):
        run = run[1:]
    depth: list[int] = []
    unpaired: set[int] = set()
    for place, token in enumerate(run):
        if token.kind in _OPENING:
            depth.append(place)
        elif token.kind in _OPENING.values():
            if depth and _OPENING[run[depth[-1]].kind] == token.kind:
                depth.pop()
            else:
                unpaired.add(place)
    unpaired.update(depth)
    run = [token for place, token in enumerate(run) if place not in unpaired]
    if len(run) > 1 and run[0].kind in ("MINUS", "PLUS") and run[0].value in ("-", "–", "+"):
        spaced = text[run[0].end : run[1].start].isspace()
        if run[1].kind == "CURRENCY" and text[: run[0].start].rstrip(" ").endswith(":"):
            return run  # "Answer: - £ 45.20"
        if (spaced and relation is None and run[0].start > 0) or (run[0].start and text[run[0].start - 1].isalnum()):
            return _trimmed(text, run[1:], relation)
    return run


def _numeral(text: str, token: MathToken, relation: str | None) -> Term:
    value, unit, in_words = token.value, None, False
    if isinstance(value, tuple):
        (value, unit), in_words = value, True
    if token.kind == "NAME":
        value = _pi()
    shape = Shape.EXACT if token.kind == "NAME" else Shape.NUMBER
    said = text[token.start : token.end]
    return Term(value, token.start, token.end, said, shape, relation, unit=unit, in_words=in_words)


def _pi() -> Fraction:
    from dryquarry.marking.values.formulas import Formula

    return number_value(Formula("name", "pi"))


def _range(text: str, run: list[MathToken], following: str) -> list[Term] | None:
    """Read "40-50" as a range, unless what follows shows that it is a difference."""
    kinds = [token.kind for token in run if token.kind not in ("CURRENCY", "PERCENT")]
    if kinds != ["NUMBER", "MINUS", "NUMBER"] or following in ("EQUALS", "ABOUT", "ARROW"):
        return None
    sign = next(token for token in run if token.kind == "MINUS")
    if sign.value not in ("-", "–") or text[sign.start - 1].isspace() or text[sign.end : sign.end + 1].isspace():
        return None
    numbers = [token for token in run if token.kind == "NUMBER"]
    return [replace(_numeral(text, token, None), shape=Shape.RANGE) for token in numbers]


def _whole(text: str, run: list[MathToken], relation: str | None) -> list[Term] | None:
    """Return the term that a run makes as a whole, none for one beyond bounds; None where it makes no formula."""
    currency = next((str(token.value) for token in run if token.kind == "CURRENCY"), None)
    parts = [token for token in run if token.kind != "CURRENCY"]
    percent = parts[-1].kind == "PERCENT"
    given = [(token.kind, token.value[0] if isinstance(token.value, tuple) else token.value) for token in parts]
    start, end = run[0].start, run[-1].end
    if [kind for kind, _ in given] == ["NUMBER"]:
        alone = _numeral(text, parts[0], relation)
        return [replace(alone, start=start, end=end, text=text[start:end], currency=currency)]
    try:
        formula = formula_of(given)
    except FormulaFault:
        return None
    try:
        value = number_value(formula)
    except FormulaFault:
        return []
    in_words = any(isinstance(token.value, tuple) for token in parts)
    return [Term(value, start, end, text[start:end], _shape(text, parts), relation, currency, percent, None, in_words)]


def _shape(text: str, run: Sequence[MathToken]) -> Shape:
    if any(token.kind in ("NAME", "ROOT") for token in run):
        return Shape.EXACT
    for place, token in enumerate(run[1:], start=1):
        if token.kind not in _OPERATORS or run[place - 1].kind in (*_OPENING, *_OPERATORS, "CARET"):
            continue
        tight = token.value == "/" and not text[token.start - 1].isspace() and run[place - 1].kind == "NUMBER"
        ten = (
            token.kind == "TIMES"
            and place + 2 < len(run)
            and run[place + 1].value == 10
            and run[place + 2].kind in ("CARET", "RAISED")
        )
        if not tight and not ten:
            return Shape.SUM
    return Shape.NUMBER


def _completed(text: str, term: Term) -> Term:
    """Return a term with what stands after it and belongs to it: a scale word, per cent, "below zero"."""
    if _GOES_ON.match(text, term.end) and (value := repeated(term.text)) is not None:
        term = replace(term, value=value)
    if term.shape is not Shape.RANGE and not term.percent:
        scale = _SCALE_WORD.match(text, term.end)
        if scale and not (len(scale[1]) == 1 and scale.group()[0].isspace()) and not term.in_words:
            size = 10**6 if scale[1] == "M" else numerals.SCALES[plain_letters(scale[1]).lower()]
            term = replace(term, value=term.value * size, end=scale.end(), text=text[term.start : scale.end()])
    for pattern, part in ((_PERCENT_WORDS, 100), (_PER_MILLE_WORDS, 1000)):
        if not term.percent and (said := pattern.match(text, term.end)):
            term = replace(
                term, value=term.value / part, end=said.end(), text=text[term.start : said.end()], percent=True
            )
    if term.value > 0 and _BELOW_ZERO.match(text, term.end):
        term = replace(term, value=-term.value)
    return term


def is_counter_at(text: str, start: int) -> bool:
    """Tell whether a number at a place only counts something up: "Step 1"."""
    return _COUNTER.search(text, max(0, start - 14), start) is not None
