"""Lines of which just one answers: the rank asked for in a ranking, the only thing that is said yes to."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.reading.echo import content_of
from dryquarry.marking.reading.extremes import extremes
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.texts import plain_letters

LEAST_LINES = 2
LONGEST_NAME = 60
MOST_LINES = 24
FARTHEST_LOOK = 20_000
_RANKS = {"second": 2, "2nd": 2, "third": 3, "3rd": 3, "fourth": 4, "4th": 4, "fifth": 5, "5th": 5}
_ASKS_RANK = regex(rf"\b(?P<rank>{'|'.join(_RANKS)})[\s-]+(?:most\b|[a-z]+est\b)", re.IGNORECASE)
_LINE = regex(
    rf"^[ \t]*(?P<number>\d{{1,2}})[.)]\s+[*_]{{0,2}}(?P<name>[^\n(:;–—]{{1,{LONGEST_NAME}}}?)[*_]{{0,2}}\s*"
    r"(?=[(:;–—]|,\s|\s-\s|$)",
    re.MULTILINE,
)
_SAYS = regex(r"\b(?:is|are|was|were|has|have|comes?|we|so|the\s+answer)\b|(?:\S+\s+){6}", re.IGNORECASE)
# "Gneiss: no, bands. Granite: yes."
_JUDGED = regex(
    r"(?:^|[.;][ \t])[^\w\n]{0,4}(?P<name>\w[^\n.:;,]{0,39}?)[^\w\n]{0,4}[:–—-][ \t]*(?P<said>yes|no)\b(?!\s+\w)",
    re.IGNORECASE | re.MULTILINE,
)


def only_one_right(text: str) -> tuple[int, int] | None:
    """Return where the only thing stands that a reply says yes to, while it says no to others; None where none does."""
    judged = list(_JUDGED.finditer(text, 0, FARTHEST_LOOK))
    right = [one for one in judged if one["said"].lower() == "yes"]
    return right[0].span("name") if len(right) == 1 and len(judged) > LEAST_LINES else None


# What a question supposes: "Whose coat is blue if Ben's is red?"
_SUPPOSED = regex(r"\s(?:if|when|given\s+that)\s.*", re.DOTALL)
# "Ada → red", "Cleo: blue"
_PAIR_LINE = regex(
    r"[\s*•_-]{0,6}(?P<name>[^\W\d_][^\n:→=–]{0,39}?)[\s*_]{0,4}(?::|→|->|⇒|=|\s[–-])\s*(?P<said>[^\n]{1,60}?)[\s.*_,;]{0,4}"
)
_DENIES = regex(r"\b(?:not?|none|never)\b|n['’]t\b", re.IGNORECASE)


def only_line_as_asked(text: str, asked: str) -> tuple[int, int] | None:
    """Return the name of the one line that says what is asked, where each line says something of another name.

    "Ada → not blue / Ben → red / Cleo → blue", where it is asked whose coat is blue.
    """
    lines = [line for line in text[:FARTHEST_LOOK].split("\n") if line.strip()]
    if len(lines) < LEAST_LINES or len(lines) > MOST_LINES:
        return None
    pairs = [_PAIR_LINE.fullmatch(line) for line in lines]
    wanted = content_of(_SUPPOSED.sub("", asked))
    right = [
        number
        for number, pair in enumerate(pairs)
        if pair and not _DENIES.search(pair["said"]) and content_of(pair["said"]) and content_of(pair["said"]) <= wanted
    ]
    if None in pairs or len(right) != 1:
        return None
    (number,), begins = right, 0
    for line in lines[:number]:
        begins = text.index(line, begins) + len(line)
    begins = text.index(lines[number], begins)
    pair = pairs[number]
    return (begins + pair.start("name"), begins + pair.end("name")) if pair else None


# "Ranking by area:"
_RANKING = regex(
    r"\b(?:rank(?:ing|ed)?|(?:sorted|ordered|listed)\s+by|by\s+(?:area|size|height|length|age)|top\s+\w+)\b",
    re.IGNORECASE,
)


def _are_all(text: str, lines: list[re.Match[str]]) -> bool:
    """Tell whether a ranking of three lines or more is all that a text says."""
    return len(lines) > LEAST_LINES and len(lines) == len([line for line in text.split("\n") if line.strip()])


@lru_cache(maxsize=64)
def line_of_rank(text: str, asked: str) -> tuple[int, int] | None:
    """Return where the name stands that a ranking gives the rank asked for; None where there is not just one."""
    rank = _ASKS_RANK.search(asked)
    lines = list(_LINE.finditer(text, 0, FARTHEST_LOOK))
    ranks = bool(lines) and _RANKING.search(text, 0, lines[0].start()) is not None
    if rank is None and not (extremes(asked) and (ranks or _are_all(text, lines))):
        return None
    numbers = [int(line["number"]) for line in lines]
    wanted = _RANKS[plain_letters(rank["rank"]).lower()] if rank else len(lines) if extremes(asked) == {"last"} else 1
    if any(_SAYS.search(line["name"]) for line in lines):
        return None  # steps, and no ranking
    if len(lines) < LEAST_LINES or numbers != list(range(1, len(lines) + 1)) or wanted > len(lines):
        return None
    return lines[wanted - 1].span("name")
