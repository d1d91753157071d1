"""Numbers with what stands beside them: whether it is of the key's kind, and what it comes to in the key's unit."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Callable
from dataclasses import dataclass, replace
from fractions import Fraction

from dryquarry.marking.model import MarkingFault
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.clock import find_times
from dryquarry.marking.values.numbers import Shape, Term, find_terms
from dryquarry.marking.values.numerals import ORDINAL_WORDS, ordinal_value
from dryquarry.marking.values.units import (
    LONGEST_UNIT,
    currency_of,
    dimension_of,
    is_minor_unit,
    is_unit_word,
    scale_to,
)

CLOCK = "clock"
# Of a time such as "half past ten", which may be in the morning or in the evening.
EITHER_HALF = "clock of 12 hours"
_KINDS_OF_TIME = (CLOCK, EITHER_HALF)
PERCENT = "%"
MOST_UNIT_WORDS = 3

_AFTER = regex(r"[ ]?-?[ ]?(?:of\s+)?(?:an?\s+(?=[a-z]))?((?:[^\s,;:!?()=≈|]{1,24}[ ]?){1,3})")
_IN_BRACKETS = regex(r" ?\(([^\W\d_][^()\n]{0,23})\)")
_LENGTH_OF_TIME = regex(
    r"(?<![\d:.,])(\d{1,4}):([0-5]\d)(?::([0-5]\d))?(?![\d:])\s?(?P<unit>h|hrs?|hours?|min|minutes?|std)?\b"
)
_HOURS_AND_MINUTES = regex(
    r"(?<![\w.,:])(\d{1,3})\s?(?:h|hrs?|hours?|"
    r"Std)\.?\s?(?:and\s+)?([0-5]?\d)(?:\s?m(?:in(?:ute)?s?)?)?(?![\w:]|[.,]\d)(?!\s(?:h|s|min|"
    r"sec)\w*)"
)
_MAY_BE_UNIT = regex(r"[^\W\d_]|[°€$£¥¢%‰℃℉]")
_JOINED = regex(r"(?:\s?,)?\s*(?:and\s+|und\s+|et\s+|y\s+)?")


@dataclass(frozen=True, slots=True)
class Quantity:
    """A number in a text in the key's unit: its exact value and where it stands.

    `unit` is what stands beside it where that was looked for, `fault` why it is not of the key's kind.
    """

    value: Fraction
    start: int
    end: int
    text: str
    shape: Shape = Shape.NUMBER
    relation: str | None = None
    unit: str | None = None
    fault: str | None = None


Find = Callable[[str, int, int], list[Quantity]]


@dataclass(frozen=True, slots=True)
class Unit:
    """A key's unit: what it is called, and how quantities in it are found in a stretch of text."""

    name: str
    find: Find


def plain_find(decimal: str | None = None) -> Find:
    """Return how numbers are found where the key has no unit: a unit beside them is ignored, "25 %" is 0.25."""

    def find(text: str, start: int, end: int) -> list[Quantity]:
        terms = find_terms(text, start, end, decimal)
        bare, money = [_bare(term) for term in terms], _MONEY_NAME.search(text, start, end) if len(terms) > 1 else None
        code = currency_of(money.group()) if money else None
        return _with_compounds(bare, _money(text, terms, code), fewest=2) if code is not None else bare

    return find


# Of "47 euros and 50 cents" it tells which money it is.
_MONEY_NAME = regex(r"[€£$]|\b(?:euros?|pounds?|dollars?)\b", re.IGNORECASE)


def _with_compounds(bare: list[Quantity], in_unit: list[Quantity], fewest: int) -> list[Quantity]:
    """Return numbers where those are one that are one in a unit: "1 m 40 cm", "47 euros and 50 cents".

    `fewest` is how many numbers such a quantity holds at least.
    """
    starts = [one.start for one in bare]
    found: list[Quantity] = []
    taken = 0
    for one in in_unit:
        first, last = bisect_left(starts, one.start, taken), bisect_left(starts, one.end, taken)
        whole = one.fault is None and one.unit is not None and (fewest == 1 or one.shape is Shape.NUMBER)
        if whole and last - first >= fewest and bare[first].value != one.value:
            found += [*bare[taken:first], replace(one, unit=None)]
            taken = last
    return [*found, *bare[taken:]]


_ROUGHLY = regex(r"\b(?:about|roughly|around|almost|nearly|approximately|some)\s+\Z", re.IGNORECASE)


def find_in_unit_asked(name: str, decimal: str | None = None) -> Find:
    """Return how numbers are found where only the question names a unit: "5 h 20 min" is 16/3 hours then."""
    in_unit, plain = unit_for(name, decimal).find, plain_find(decimal)
    # of other kinds only what has two units is taken as one: "1 m 40 cm", and "1.4 m" as it stands
    fewest = 1 if dimension_of(name) == dimension_of("second") else 2

    def find(text: str, start: int, end: int) -> list[Quantity]:
        # "about two thirds of an hour" is not meant to the minute
        sharp = [
            one for one in in_unit(text, start, end) if not _ROUGHLY.search(text, max(start, one.start - 20), one.start)
        ]
        return _with_compounds(plain(text, start, end), sharp, fewest)

    return find


def unit_for(name: str, decimal: str | None = None) -> Unit:
    """Return the unit of a key by its name; raises MarkingFault for one that is not known."""
    if name == CLOCK:
        return Unit(name, _times)
    if name == PERCENT:
        return Unit(
            name, lambda text, start, end: [_per_cent(text, one) for one in find_terms(text, start, end, decimal)]
        )
    code = currency_of(name)
    if code is not None:
        return Unit(code, lambda text, start, end: _money(text, find_terms(text, start, end, decimal), code))
    dimension = dimension_of(name)
    if dimension is None:
        raise MarkingFault(f"the unit '{name}' is not known; give a physical unit, a currency, clock or %")
    is_time = dimension == dimension_of("second")

    def find(text: str, start: int, end: int) -> list[Quantity]:
        found = _joined(text, [_measured(text, term, name) for term in find_terms(text, start, end, decimal)])
        return _with_lengths(text, start, end, name, _with_minutes(text, found, name)) if is_time else found

    return Unit(name, find)


def find_ordinals(text: str, start: int, end: int) -> list[Quantity]:
    """Return the numbers that ordinals in words stand for: 23 of "the twenty-third"."""
    return [
        Quantity(Fraction(ordinal_value(match)), match.start(), match.end(), match.group())
        for match in ORDINAL_WORDS.finditer(text, start, end)
    ]


def _bare(term: Term) -> Quantity:
    return Quantity(term.value, term.start, term.end, term.text, term.shape, term.relation)


def _per_cent(text: str, term: Term) -> Quantity:
    """Return a number as a percentage: "25 %" and a bare 25 are 25; 12 euros are none."""
    bare = _bare(term)
    if term.percent:
        return replace(bare, value=term.value * 100, unit="%")
    money = term.currency or next((phrase for phrase, _ in _phrases(text, term) if currency_of(phrase)), None)
    return replace(bare, unit=money, fault=f"{money} is no per cent") if money else bare


_BEHIND_EQUALS = regex(r"=\s*\Z")


def _times(text: str, start: int, end: int) -> list[Quantity]:
    return [
        Quantity(
            Fraction(one.minutes),
            start + one.start,
            start + one.end,
            one.text,
            relation="=" if _BEHIND_EQUALS.search(text, start, start + one.start) else None,
            unit=_KINDS_OF_TIME[one.either_half],
        )
        for one in find_times(text[start:end])
    ]


def _phrases(text: str, term: Term) -> list[tuple[str, int]]:
    """Return what follows a number as a unit may be called, the longest first, with where each ends."""
    inside = _IN_BRACKETS.match(text, term.end)
    if inside and is_unit_word(inside[1].split()[0]):
        return [(inside[1], inside.end())]  # "1.25 (kilograms)"
    after = _AFTER.match(text, term.end)
    if after is None or "\n" in after.group():
        return []
    words = after[1].rstrip()
    found: list[tuple[str, int]] = []
    while words and len(found) < MOST_UNIT_WORDS:
        said = words.rstrip(".'\"*")
        if said and len(said) <= LONGEST_UNIT and _MAY_BE_UNIT.match(said) and is_unit_word(said.split()[0]):
            found.append((said, after.start(1) + len(said)))
        words = words.rpartition(" ")[0].rstrip()
    return found


def _money(text: str, terms: list[Term], code: str) -> list[Quantity]:
    return _joined(text, [_amount(text, term, code) for term in terms])


def _amount(text: str, term: Term, code: str) -> Quantity:
    bare = _bare(term)
    if term.percent:
        return replace(bare, unit="%", fault=f"a percentage is no amount in {code}")
    if term.currency is not None:
        sign = currency_of(term.currency)
        same = sign == code or (term.currency == "$" and code in ("CAD", "AUD", "NZD", "MXN"))
        return replace(bare, unit=term.currency, fault=None if same else f"{term.currency} is {sign}, not {code}")
    for phrase, end in _phrases(text, term):
        said = replace(bare, end=end, text=text[term.start : end], unit=phrase)
        if is_minor_unit(phrase, code):
            return replace(said, value=term.value / 100)
        other = currency_of(phrase)
        if other is not None:
            return said if other == code else replace(said, fault=f"{phrase} is {other}, not {code}")
        if len(phrase) > 1 and dimension_of(phrase) is not None:
            return replace(said, fault=f"{phrase} is no amount in {code}")
    return bare


def _measured(text: str, term: Term, wanted: str) -> Quantity:
    """Return a number in the unit wanted, by the unit beside it."""
    bare = _bare(term)
    if term.unit is not None:
        scale = scale_to(term.unit, wanted)
        return replace(bare, value=scale[0] + scale[1] * term.value, unit=term.unit) if scale else bare
    if term.percent or term.currency is not None:
        named = "%" if term.percent else term.currency
        return replace(bare, unit=named, fault=f"{named} is not {wanted}")
    wrong: Quantity | None = None
    for phrase, end in _phrases(text, term):
        said = replace(bare, end=end, text=text[term.start : end], unit=phrase)
        if dimension_of(phrase) is None:
            if currency_of(phrase) is not None:
                return replace(said, fault=f"{phrase} is money, not {wanted}")
            continue
        scale = scale_to(phrase, wanted)
        if scale is not None:
            return replace(said, value=scale[0] + scale[1] * term.value)
        # "47.88 litres a week" are litres, too
        wrong = wrong or replace(said, fault=f"{phrase} does not convert to {wanted}")
    return wrong or bare


def _joined(text: str, found: list[Quantity]) -> list[Quantity]:
    """Return quantities with those that are one together joined: "2 h 15 min", "12 euros and 50 cents"."""
    joined: list[Quantity] = []
    for one in found:
        before = joined[-1] if joined else None
        whole = (
            before is not None
            and before.unit is not None
            and before.fault is None
            and one.unit is not None
            and one.fault is None
            and before.unit.lower() != one.unit.lower()
            and one.relation is None
            and Shape.NUMBER == one.shape == before.shape
            and _JOINED.fullmatch(text, before.end, one.start)
            and abs(one.value) < abs(before.value)
        )
        if whole and before is not None:
            value = before.value + (one.value if before.value >= 0 else -one.value)
            joined[-1] = replace(before, value=value, end=one.end, text=text[before.start : one.end])
        elif before is not None and _is_rest_of_money(text, before, one):
            value = before.value + (one.value if before.value >= 0 else -one.value) / 100
            joined[-1] = replace(before, value=value, end=one.end, text=text[before.start : one.end])
        else:
            joined.append(one)
    return _summed(text, joined)


# "720 s − 40 s"
_MINUS_BEFORE = regex(r"minus\s", re.IGNORECASE)
_SIGN = regex(r"\s+(?P<sign>[-−–+]|minus|less|plus)\s+")


def _summed(text: str, found: list[Quantity]) -> list[Quantity]:
    """Return quantities with those added up that stand, each with its unit, on both sides of a sign."""
    summed: list[Quantity] = []
    for one in found:
        before = summed[-1] if summed else None
        sign = _SIGN.fullmatch(text, before.end, one.start) if before is not None else None
        less = before is not None and _MINUS_BEFORE.match(one.text) and not text[before.end : one.start].strip()
        if before is not None and (sign or less) and all(part.unit and part.fault is None for part in (before, one)):
            added = sign is None or sign["sign"] in ("+", "plus")  # "30 euros minus 7.50 euros": the sign is its own
            value = before.value + (one.value if added else -one.value)
            said = text[before.start : one.end]
            summed[-1] = replace(before, value=value, end=one.end, text=said, shape=Shape.SUM)
        else:
            summed.append(one)
    return summed


def _is_rest_of_money(text: str, before: Quantity, one: Quantity) -> bool:
    """Tell whether a number is the hundredths of the amount before it: "thirty-seven euros fifty"."""
    two_digits = one.value.denominator == 1 and 10 <= one.value <= 99
    named = before.fault is None and before.unit is not None and currency_of(before.unit) is not None
    plain = one.unit is None and one.relation is None and one.shape == before.shape == Shape.NUMBER
    whole = before.value.denominator == 1 and text[before.end - 1 : before.end].isalpha()
    return two_digits and named and plain and whole and text[before.end : one.start] == " "


_HOUR_WORDS = frozenset(("h", "hr", "hrs", "hour", "hours", "stunde", "stunden", "heure", "heures", "hora", "horas"))


def _with_minutes(text: str, found: list[Quantity], wanted: str) -> list[Quantity]:
    """Return quantities of time with the bare number behind hours as their minutes: "two hours twenty-five"."""
    minute = scale_to("minute", wanted)
    told: list[Quantity] = []
    for one in found:
        before = told[-1] if told else None
        if (
            before is not None
            and minute is not None
            and before.unit is not None
            and before.unit.lower() in _HOUR_WORDS
            and before.relation is None
            and one.unit is None
            and one.shape == Shape.NUMBER
            and one.value.denominator == 1
            and 0 < one.value < 60
            and text[before.end : one.start] in (" ", " and ")
            and not _WORD_NEXT.match(text, one.end)
        ):
            value = before.value + minute[1] * one.value
            told[-1] = replace(before, value=value, end=one.end, text=text[before.start : one.end])
        else:
            told.append(one)
    return told


_WORD_NEXT = regex(r"\s*(?:[^\W\d_]|[-−+×*/÷=%:])")


_THE_TIMED = regex(r"\b(?:the|an?)\s+\Z", re.IGNORECASE)


def _with_lengths(text: str, start: int, end: int, wanted: str, found: list[Quantity]) -> list[Quantity]:
    """Return the quantities of time with what is written as 2:15, 2:15:30 or 1h50."""
    second = scale_to("second", wanted)
    assert second is not None
    more = []
    for match in _LENGTH_OF_TIME.finditer(text, start, end):
        if not match["unit"] and _THE_TIMED.search(text, start, match.start()) and _WORD_NEXT.match(text, match.end()):
            continue  # "the 21:50 bus"
        first, middle, last = int(match[1]), int(match[2]), int(match[3] or 0)
        in_minutes = (match["unit"] or "").startswith("min")
        seconds = first * 60 + middle if in_minutes and not match[3] else first * 3600 + middle * 60 + last
        more.append((match, seconds))
    for match in _HOURS_AND_MINUTES.finditer(text, start, end):
        more.append((match, int(match[1]) * 3600 + int(match[2]) * 60))
    if not more:
        return found
    lengths = [
        Quantity(second[1] * seconds, match.start(), match.end(), match.group().strip(), unit="h:mm")
        for match, seconds in more
    ]
    rest = [one for one in found if not any(a.start <= one.start < a.end for a in lengths)]
    return sorted([*rest, *lengths], key=lambda one: one.start)
