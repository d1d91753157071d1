"""Where the question's own verb stands beside a list: "rye and oats grow there", "Velm borders Tarn and Quist"."""

from __future__ import annotations

import re
from collections.abc import Iterator

from dryquarry.marking.reading.asked_lists import listed_in
from dryquarry.marking.reading.echo import is_echo, stem
from dryquarry.marking.reading.list_items import BETWEEN
from dryquarry.marking.regexes import regex

_EACH_OF_THEM = regex(r"\s(?:each|both|all)\Z")
# A word that follows another of the same member: no member begins with it.
INNER_WORD = regex(r"(?<=[^\W_])(?<!\band)(?<!\bor)(?<!\bund)(?<!\boder)(?<!\bet)\s+([^\W\d_]{3,})")


def verb_of(text: str, start: int, end: int, asked: str) -> int | None:
    """Return where the question's own words go on behind a list: "rye and oats grow there"."""
    parted = BETWEEN.search(text, start, end)
    if parted is None:
        return None
    listed = {stem(word) for member in listed_in(asked) for word in member.split()}
    for word in INNER_WORD.finditer(text, parted.end(), end):
        if is_echo(word[1], asked) and not is_echo(word[1], "") and stem(word[1]) not in listed:
            each = _EACH_OF_THEM.search(text, start, word.start())
            return each.start() if each else word.start()
    return None


def listed_after(text: str, start: int, end: int, asked: str) -> int | None:
    """Return where a list begins behind a verb of the question: "Velm borders Tarn and Quist"."""
    parted = BETWEEN.search(text, start, end)
    listed = {stem(word) for member in listed_in(asked) for word in member.split()}
    said = INNER_WORD.finditer(text, start, parted.start() if parted else start)
    words = [word for word in said if word[1].islower() and stem(word[1]) not in listed]
    verbs = [word for word in words if is_echo(word[1], asked) and not is_echo(word[1], "")]
    return verbs[-1].end() if verbs else None


def new_share(phrase: str, asked: str) -> float:
    """Return which share of the words of a phrase that say something the question does not have."""
    words = [word for word in re.findall(r"\w+", phrase) if not is_echo(word, "")]
    return sum(not is_echo(word, asked) for word in words) / len(words) if words else 0.0


# "only the two innermost planets, Mercury and Venus, have none"
_SO_MANY = regex(
    r"\b(?:two|three|four|five|six|[2-9])\s+[^,;:.]{1,40},\s+(?P<list>[^;:.]+?),\s+(?:have|has|are|is|do|does|can|were|live|were)\b",
    re.IGNORECASE,
)
# "on the other two, Monday and Wednesday"
# "Just one of them, Wednesday."
_ONE_OF_THEM = regex(
    r"\W*(?:just|only)\s+one(?:\s+of\s+(?:them|these|those))?\s*(?:,|:|\s[–—-])\s+(?=\S)", re.IGNORECASE
)
_THESE_FEW = regex(
    r"\W*(?:only\s+)?(?:(?:it(?:'s|\s+is)|they(?:'re|\s+are))\s+)?(?:(?:on|in|at|by|for)\s+)?(?:the|these|those)\s+(?:[^\W\d_]+\s+)?(?:two|three|four|five|six|others?|rest|remaining\s+\w+)"
    r"(?:\s+[^\W\d_]+)?\s*(?:,|:|\s[–—-])\s+(?=\S)",
    re.IGNORECASE,
)
# "The others - iron, nickel and cobalt - are."
_THE_REST = regex(
    r"\bthe\s+(?:others?|rest)\s*(?:\s[-–—]\s|\(|,\s)(?P<list>[^()–—]+?)(?:\s[-–—]\s|\)|,)\s*(?:are|is|do|does|can|have)\b(?!\s+not|n't)",
    re.IGNORECASE,
)
# "At rest only iron, nickel and cobalt are."
_ONLY_THESE = regex(r"\bonly\s+(?P<list>[^;:.]*?\sand\s[^,;:.]*?)\s+(?:are|do|have|can|were|did)\b", re.IGNORECASE)
_SEEN_THERE = regex(
    r"\b(?:you|we|one)\s+(?:can\s+|will\s+)?(?:finds?|sees?|ha(?:ve|s)|gets?|meets?|needs?)\s+|\bthere\s+(?:are|is)\s+",
    re.IGNORECASE,
)


def listed_outright(text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """Yield where a stretch lists what it speaks of as "the two", "the others", "only these" or as seen there."""
    if (one := _ONE_OF_THEM.match(text, start, end)) is not None:
        yield one.end(), end
    if (few := _THESE_FEW.match(text, start, end)) is not None and BETWEEN.search(text, few.end(), end):
        yield few.end(), end
    if (rest := _THE_REST.search(text, start, end) or _ONLY_THESE.search(text, start, end)) is not None:
        yield rest.span("list")
    if (named := _SO_MANY.search(text, start, end)) is not None:
        yield named.span("list")
    for match in _SEEN_THERE.finditer(text, start, end):
        yield match.end(), end
