"""Who is the first or the last of an order that a stretch tells: "Brun left first, then Ysolde, and Tamm last"."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.reading.asked_lists import things_asked
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.extremes import extremes, is_of_more, way_of
from dryquarry.marking.reading.offers import Mention
from dryquarry.marking.reading.order_put_together import LEAST_THINGS, Direction, order_told, things_in_order
from dryquarry.marking.reading.told import is_common
from dryquarry.marking.regexes import regex

_END = regex(r"\b(?:(?P<place>first|second|third|last)|(?P<most>best|[^\W\d_]{2,}est))\b", re.IGNORECASE)
_NO_EXTREME_TEXT = "west rest test guest chest forest interest honest nest harvest request priest"
_NO_EXTREME = frozenset(_NO_EXTREME_TEXT.split())
_INDEX = {"first": 0, "second": 1, "third": 2, "last": -1}
LONGEST_LIST = 400
_SIGNS = regex(r"[<>]")
# An order by a superlative is one only where it says by what: "Tarn, Velm, Quist" does not.
_COMPARES = regex(r"\b[^\W\d_]{2,}er\s+than\b|\b[^\W\d_]{2,}est\b", re.IGNORECASE)


@lru_cache(maxsize=256)
def _place_asked(asked: str) -> tuple[Direction, int] | None:
    """Return the direction of the order whose end is asked for, and which of it; None where no such end is asked."""
    found = [one for one in _END.finditer(question_in(asked)) if one.group().lower() not in _NO_EXTREME]
    places = [one["place"].lower() for one in found if one["place"]]
    extremes = [one["most"].lower() for one in found if one["most"]]
    if len(places) > 1 or len(extremes) > 1 or not found:
        return None
    return Direction(extremes[0] if extremes else "", ""), _INDEX[places[0]] if places else 0


def end_of_order(text: str, start: int, end: int, asked: str) -> Mention | None:
    """Return the one thing that stands where a question asks, of an order that a stretch tells of all its things."""
    wanted, things = _place_asked(asked), things_asked(asked) or things_in_order(asked)
    if wanted is None:
        return None
    if wanted[0].first and (at_end := _end_of_signs(text, start, end, wanted[0].first)) is not None:
        return at_end
    if wanted[0].first and (_SIGNS.search(text, start, end) or not _COMPARES.search(text, start, end)):
        return None
    order = order_told(text, (start, end), things, wanted[0], asked) if len(things) >= LEAST_THINGS else ()
    if not order and not wanted[0].first and len(named := _named_in(text, start, end, asked)) >= LEAST_THINGS:
        order = order_told(text, (start, end), named, wanted[0], f"{asked} {_TELLS_ORDER}")
    return order[wanted[1]] if order else None


# "Copper > iron > lead", where the best is asked for
_SIGNED = regex(
    r"\W*(?:[^\W\d_]+:\s*)?(?P<row>[^<>:;.,]{1,30}(?:\s*(?P<sign>[<>])\s*[^<>:;.,]{1,30}){2,6})\W*", re.IGNORECASE
)


def _end_of_signs(text: str, start: int, end: int, most: str) -> Mention | None:
    """Return the first or the last of things with one sign between them, by which of them is most so."""
    row = _SIGNED.fullmatch(text, start, end)
    way = is_of_more(most)
    if row is None or way is None or len(set(_SIGNS.findall(row["row"]))) > 1:
        return None
    parts = list(re.finditer(r"[^<>\s](?:[^<>]*[^<>\s])?", row["row"]))
    one = parts[0 if (row["sign"] == ">") == way else -1]
    return one.group().rstrip("."), row.start("row") + one.start(), row.start("row") + one.end()


# "The order is Tine, Moss, Kari."
_TELLS_ORDER = "order, ranking, result"
_NAME = regex(r"\b[A-Z][^\W\d_]+\b")


def _named_in(text: str, start: int, end: int, asked: str) -> tuple[str, ...]:
    """Return the names of a stretch: those that the question has, or any where it has none."""
    names = [name for name in dict.fromkeys(_NAME.findall(text, start, end)) if not is_common(name)]
    known = set(_NAME.findall(asked)) & set(names)
    return tuple(name.casefold() for name in names if name in known or not known)


# "No one left after Tamm", "Nobody is older than Ada", "No island there is as large as Skye"
_NONE_BEYOND = regex(
    r"\W*(?:(?:so|since|as|because|for)\s+)?(?:[Nn]o(?:ne)?(?:\s+(?:one|other|of\s+(?:them|the\s+others)))?|[Nn]obody|[Nn]othing|[Nn]either\s+(?:the\s+)?\S+\s+nor)\b[^,;.:]*?\s"
    r"(?:(?P<after>after|behind)|(?P<before>before|ahead\s+of)|(?P<more>[^\W\d_]+er)\s+than|as\s+(?P<so>[^\W\d_]+)\s+as)\s+"
    r"(?:the\s+)?(?P<one>[A-Z][\w'’-]*(?:\s[A-Z][\w'’-]*)*|[a-z]{3,})(?=\W*(?:\Z|[.,;:]))",
)


_BEST = regex(r"\bbest\b", re.IGNORECASE)
_ASKS_WINNER = regex(r"\bw(?:i|o)ns?\b", re.IGNORECASE)


def none_beyond(text: str, start: int, end: int, asked: str) -> Mention | None:
    """Return what nothing is beyond in the way that is asked for: Tamm of "No one left after Tamm", of the last."""
    said, wanted = _NONE_BEYOND.match(text, start, end), extremes(question_in(asked))
    if said is not None and said["more"] in ("faster", "quicker") and _ASKS_WINNER.search(question_in(asked)):
        return (said["one"], *said.span("one"))
    if said is None or not (wanted or _BEST.search(asked)):
        return None
    if said["more"] == "later":
        own = "last" in wanted
    elif said["more"]:
        own = way_of(said["more"], question_in(asked)) > 0
    elif said["so"]:
        so = said["so"].lower().removesuffix("e")
        own = so in ("good", "well") if _BEST.search(asked) else any(most.startswith(so) for most in wanted)
    else:
        own = ("last" if said["after"] else "first") in wanted
    return (said["one"], *said.span("one")) if own else None


# "Tamm left before Ysolde": so Tamm is not the last
_BEFORE_ANOTHER = regex(
    r"\W*[A-Z][\w'’-]*\s[^,;.:]{0,40}?\b(?:(?P<before>before|earlier\s+than)|after|later\s+than)\s+(?:the\s+)?[A-Z]"
)


def tells_no_end(text: str, start: int, end: int, asked: str) -> bool:
    """Tell whether a clause says that one is before somebody, or the first, where the last is asked for; or turned."""
    wanted = extremes(question_in(asked))
    if len(wanted) != 1 or not wanted <= {"first", "last"}:
        return False
    said = _BEFORE_ANOTHER.match(text, start, end)
    if said is not None:
        return bool(said["before"]) == ("last" in wanted)
    told = extremes(text[start:end])
    return bool(told) and told <= {"first", "last"} - wanted


def line_at_end(text: str, asked: str) -> tuple[int, int] | None:
    """Return the one of a list of lines that stands where a question asks: "1. Brun / 2. Ysolde / 3. Tamm"."""
    there = end_of_order(text, 0, len(text), asked) if "\n" in text and len(text) <= LONGEST_LIST else None
    return there[1:] if there else None
