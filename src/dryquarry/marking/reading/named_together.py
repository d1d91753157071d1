"""Several names with "and" between them where one thing is asked for: they are named together, none of them alone."""

from __future__ import annotations

import re

from dryquarry.marking.reading.echo import is_echo
from dryquarry.marking.reading.offers import Mention
from dryquarry.marking.regexes import regex

_WORD = r"[A-ZÀ-Þ][\w'’-]*(?:\.(?=\s+[A-ZÀ-Þ]))?"
_NAME = rf"(?:[Tt]he\s+)?{_WORD}(?:\s+(?:(?:of|de|van|von)\s+(?:the\s+)?)?{_WORD})*"
_KIN = r"(?:his|her|their|its)\s+(?:\w+\s+)?\w+"
_AND = r"\s+(?:and|as\s+well\s+as|und|et|y)\s+(?:also\s+)?|\s*&\s*|\s+or\s+(?=(?:his|her|their|its)\s)"
_MORE = rf"(?:,\s+{_NAME})*,?(?:{_AND})(?:{_NAME}|{_KIN})"
_TOGETHER = regex(
    rf"\W*(?:both\s+)?{_NAME}{_MORE}(?=\W*\Z|\s+(?:who|that|both|jointly|together|(?P<verb>[a-z]{{3,}}))\b)"
)
# "The islands include Skye, Mull and Jura."
_LISTS = regex(
    r"\b(?:includ(?:es?|ed|ing)|such\s+as|like|among|between|from|"
    r"of\s+(?:them|these|those|which)\s+(?:in|on|at))\s+\Z",
    re.IGNORECASE,
)
FARTHEST_LIST = 30
_CAPITAL = regex(r"\b[A-ZÀ-Þ]\w{2,}")
_OFFERS = regex(r"\bor\b", re.IGNORECASE)
# "Brook, Ida"
_SURNAME_FIRST = regex(rf"{_WORD},\s+{_WORD}(?:\s+{_WORD})?")


# "quartz and feldspar", and nothing else
_THING = r"(?:(?:the|an?)\s+)?[a-zà-þ][\w'’-]{2,}"
_TWO_THINGS = regex(rf"\W*(?:both\s+)?(?P<one>{_THING})(?:{_AND})(?P<other>{_THING})\W*\Z")


def _two_things(text: str, first: int, end: int, asked: str) -> Mention | None:
    """Return two things that are all that is named, neither of which the question names already."""
    two = _TWO_THINGS.match(text, first, end)
    if two is None or is_echo(two["one"], asked) or is_echo(two["other"].split()[-1], asked):
        return None
    return two.group(), first, two.end()


def named_together(text: str, reading: Mention, end: int, asked: str) -> Mention | None:
    """Return the names, to the end of a clause, of which a reading is the first or all; None where it names one."""
    _, first, last = reading
    if _LISTS.search(text, max(0, first - FARTHEST_LIST), first):
        return None
    if (two := _two_things(text, first, end, asked)) is not None:
        return two
    together = _TOGETHER.match(text, first, end)
    if together is None or together.end() < last:
        return None
    given = [name for name in _CAPITAL.findall(together.group()) if is_echo(name, asked)]
    if given and not _OFFERS.search(asked):
        return None  # "on Thursdays as well as Mondays", where it is asked which other day
    verb = together["verb"]
    if verb and (is_echo(verb, "") or not is_echo(verb, asked)):
        return None  # "Spain and Morocco are separated by …"
    return together.group(), first, together.end()


_ASKS_PERSON = regex(r"\bwhom?\b", re.IGNORECASE)


def with_surname_first(reading: Mention, asked: str) -> Mention | None:
    """Return a reading that may be a person's name with the surname before a comma; None for another."""
    return reading if _ASKS_PERSON.search(asked) and _SURNAME_FIRST.fullmatch(reading[0]) else None
