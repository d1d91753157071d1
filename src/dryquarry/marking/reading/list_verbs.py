"""Where the question's own verb stands beside a list: "rye and oats grow there", "Velm borders Tarn and Quist"."""

from __future__ import annotations

import re

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
