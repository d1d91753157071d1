"""Lines of which just one answers: the rank asked for in a ranking, the only thing that is said yes to."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.reading.extremes import extremes
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.texts import plain_letters

LEAST_LINES = 2
LONGEST_NAME = 60
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
