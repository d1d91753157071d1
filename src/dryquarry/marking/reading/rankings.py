"""A ranking in numbered lines, of which the question asks for one rank: "2. Mount Kenya" for the second-highest."""

from __future__ import annotations

import re

LEAST_LINES = 2
LONGEST_NAME = 60
FARTHEST_LOOK = 20_000
_RANKS = {"second": 2, "2nd": 2, "third": 3, "3rd": 3, "fourth": 4, "4th": 4, "fifth": 5, "5th": 5}
_ASKS_RANK = re.compile(rf"\b(?P<rank>{'|'.join(_RANKS)})[\s-]+(?:most\b|[a-z]+est\b)", re.IGNORECASE)
_LINE = re.compile(
    rf"^[ \t]*(?P<number>\d{{1,2}})[.)]\s+[*_]{{0,2}}(?P<name>[^\n(:;–—]{{1,{LONGEST_NAME}}}?)[*_]{{0,2}}\s*"
    r"(?=[(:;–—]|,\s|\s-\s|$)",
    re.MULTILINE,
)
_SAYS = re.compile(r"\b(?:is|are|was|were|has|have|comes?|we|so|the\s+answer)\b|(?:\S+\s+){6}", re.IGNORECASE)


def line_of_rank(text: str, asked: str) -> tuple[int, int] | None:
    """Return where the name stands that a ranking gives the rank asked for; None where there is not just one."""
    rank = _ASKS_RANK.search(asked)
    if rank is None:
        return None
    lines = list(_LINE.finditer(text, 0, FARTHEST_LOOK))
    numbers = [int(line["number"]) for line in lines]
    wanted = _RANKS[rank["rank"].lower()]
    if any(_SAYS.search(line["name"]) for line in lines):
        return None  # steps, and no ranking
    if len(lines) < LEAST_LINES or numbers != list(range(1, len(lines) + 1)) or wanted > len(lines):
        return None
    return lines[wanted - 1].span("name")
