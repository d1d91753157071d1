"""Signs of mathematics in words, beside numbers: roots, powers, a number over another, a number and a part."""

from __future__ import annotations

import re
from collections.abc import Iterator
from fractions import Fraction

from dryquarry.marking.regexes import regex
from dryquarry.marking.values import numerals
from dryquarry.marking.values.tokens import MathToken
from dryquarry.marking.values.units import dimension_of

_NUMBER = (
    rf"(?:[-−]?[\d(√π½]|(?:minus|negative|an?|{'|'.join(sorted(numerals.NUMBER_WORDS, key=len, reverse=True))})\b)"
)
# The end of what is said: "eleven over twenty-four." and not "30 over 4 days".
_END = r"(?=\s*(?:[.,;:)!*_$\n]|\Z))"
_ROOT = regex(
    rf"(?<![\w-])(?:(?:the\s+)?(?:(?P<which>square|cube|cubic)\s+root\s+of|root\s+of(?=\s+\d+{_END}))|"
    rf"(?<=times\s)the\s+root\s+of)\s+(?={_NUMBER})",
    re.IGNORECASE,
)
_POWER = regex(
    rf"(?<=[\w)])\s+(?:raised\s+)?to\s+the\s+(?:power\s+(?:of\s+)?(?={_NUMBER})"
    rf"|(?P<word>(?:{numerals.ORDINAL_WORDS.pattern}))(?:\s+power|{_END})"
    rf"|(?P<digits>\d{{1,3}})(?:st|nd|rd|th)(?:\s+power|{_END}))",
    re.IGNORECASE,
)
_SQUARED = regex(
    r"(?<=[\w)])\s+(?P<which>squared|cubed)(?![\w-])(?!\s+(?:kilo|centi|milli)?(?:met(?:er|re)s?|[ck]?m|feet|inch(?:es)?)\b)",
    re.IGNORECASE,
)
_OVER = regex(
    rf"(?<![\w-])(?P<top>\d{{1,6}}|[a-z]+(?:-[a-z]+)?)(?P<over>\s+over\s+)(?=(?:\d{{1,6}}|(?:{numerals.WORDS.pattern})){_END})",
    re.IGNORECASE | re.VERBOSE,
)
# What a fraction may stand behind; "I'd take 17 over 16" is none.
_TELLS_NUMBER = regex(r"(?:\A|[:=(*$\n]|\b(?:is|was|equals|gives|makes|get|leaves))\s*\Z", re.IGNORECASE)
_NUMBER_AND_PART = regex(
    r"(?<![\w.,/:-])(?P<whole>\d{1,6})\s+and\s+(?P<part>(?:an?|one|two|three|four|five|seven)[\s-]"
    r"(?:half|third|quarter|fifth|sixth|eighth|tenth)s?)\b(?!\s+(?:past|to|of\s+the)\b)",
    re.IGNORECASE,
)
# "120 less 18", "twice (a + b)", "twice 750,000"
# "120 singers less 18 altos"
_LESS = regex(r"(?<=\d)(?:\s+(?P<noun>[a-z]{4,}))?\s+(?:less|take\s+away)\s+(?=\d)", re.IGNORECASE)
_TWICE = regex(rf"\b(?:twice|double)\s+(?:of\s+)?(?=\(|\d[\d.,]*{_END})", re.IGNORECASE)
_MAY_HOLD = regex(r"\b(?:less|take|twice|double|root|to\s+the|squared|cubed|over)\b|\d\s+and\s+[a-z]", re.IGNORECASE)
_FROM = regex(r"\bfrom\s+\S+\Z", re.IGNORECASE)


def signs_in_words(text: str, start: int, end: int) -> Iterator[MathToken]:
    """Yield the tokens that words of mathematics in a stretch stand for, each with its place."""
    if not _MAY_HOLD.search(text, start, end):
        return
    for match in _ROOT.finditer(text, start, end):
        cube = match["which"] is not None and match["which"].lower() != "square"
        yield MathToken("ROOT", "cbrt" if cube else "sqrt", match.start(), match.end())
    for match in _LESS.finditer(text, start, end):
        if match["noun"] and dimension_of(match["noun"]) is not None:
            continue  # "3 metres less 20 centimetres"
        yield MathToken("MINUS", "minus", match.start(), match.end())
    for match in _TWICE.finditer(text, start, end):
        yield MathToken("NUMBER", (Fraction(2), None), match.start(), match.end())
        if text[match.end()].isdecimal():
            yield MathToken("TIMES", "*", match.end(), match.end())
    for match in _SQUARED.finditer(text, start, end):
        yield MathToken("RAISED", 2 if match["which"].lower() == "squared" else 3, match.start(), match.end())
    for match in _POWER.finditer(text, start, end):
        if _FROM.search(text, start, match.start()):
            continue  # "from the 2nd to the 10th"
        if match["word"]:
            ordinal = numerals.ORDINAL_WORDS.fullmatch(match["word"])
            assert ordinal is not None
            yield MathToken("RAISED", numerals.ordinal_value(ordinal), match.start(), match.end())
        elif match["digits"]:
            yield MathToken("RAISED", int(match["digits"]), match.start(), match.end())
        else:
            yield MathToken("CARET", "^", match.start(), match.end())
    for match in _OVER.finditer(text, start, end):
        is_number = match["top"].isdecimal() or _is_cardinal(match["top"].lower())
        if is_number and _TELLS_NUMBER.search(text[max(0, match.start() - 24) : match.start()]):
            yield MathToken("DIVIDE", "over", *match.span("over"))


def _is_cardinal(word: str) -> bool:
    number = numerals.WORDS.fullmatch(word)
    return number is not None and numerals.words_value(number) is not None


def number_and_part(text: str, start: int, end: int) -> Iterator[MathToken]:
    """Yield the mixed numbers of which the part is in words: "5 and a quarter"."""
    for match in _NUMBER_AND_PART.finditer(text, start, end):
        part = numerals.WORDS.fullmatch(match["part"])
        value = numerals.words_value(part) if part else None
        if value is not None:
            yield MathToken("NUMBER", (int(match["whole"]) + value, None), match.start(), match.end())


def repeated(digits: str) -> Fraction | None:
    """Return the value of a decimal fraction that goes on as it ends ("3.9166…"), None where it does not."""
    match = re.fullmatch(r"(?P<whole>\d*)[.,](?P<before>\d*?)(?P<again>\d{1,6})(?P=again)+", digits)
    if match is None:
        return None
    return numerals.recurring_value(f"{match['whole']}.{match['before']}", match["again"])


_UNIT_AND_PART = regex(
    r"(?<![\w-])(?P<count>an?|one|two|three|four|five|six|seven|eight|nine|ten|twelve|(?<![.,:/])\d{1,4})\s+(?P<unit>[a-z]{3,12})\s+and\s+"
    r"(?P<part>(?:an?|one|two|three|four|five|seven)[\s-](?:half|third|quarter|fifth|sixth|eighth|tenth)s?)\b(?!\s+(?:of\s+)?(?:an?|the|past|to)\b)",
    re.IGNORECASE,
)
# "an hour and fifty minutes"
_ONE_UNIT = regex(
    r"(?<![\w-])an?\s+(?P<unit>hour|minute|day|week)(?=\s+and\s+(?!a\s+(?:half|quarter|third)|three))", re.IGNORECASE
)


def numbers_in_words(text: str, start: int, end: int) -> list[MathToken]:
    """Return the numbers in words of a stretch, each with the unit that may stand inside it: "an hour and a half"."""
    stretch = text[start:end]
    if not numerals.words_in(stretch) and not _ONE_UNIT.search(stretch):
        return []
    found = []
    for match in _UNIT_AND_PART.finditer(stretch):
        count, part = match["count"].lower(), numerals.WORDS.fullmatch(match["part"])
        whole = 1 if count in ("a", "an") else int(count) if count.isdecimal() else numerals.cardinal(count)
        rest = part and numerals.words_value(part)
        if whole is not None and rest:
            found.append(MathToken("NUMBER", (whole + rest, match["unit"]), start + match.start(), start + match.end()))
    for match in _ONE_UNIT.finditer(stretch):
        if not any(one.start < start + match.end() and start + match.start() < one.end for one in found):
            found.append(MathToken("NUMBER", (Fraction(1), match["unit"]), start + match.start(), start + match.end()))
    for match in numerals.WORDS.finditer(stretch):
        if any(one.start < start + match.end() and start + match.start() < one.end for one in found):
            continue
        value = numerals.words_value(match)
        if value is not None:
            found.append(MathToken("NUMBER", (value, None), start + match.start(), start + match.end()))
    return found
