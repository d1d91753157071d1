"""A ranking in numbered lines, of which the question asks for one rank: "2. Mount Kenya" for the second-highest."""

from __future__ import annotations

import re
from functools import lru_cache

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
_OPPOSITES = (
    (("longest",), ("shortest",)),
    (("largest", "biggest", "greatest", "tallest", "highest"), ("smallest", "lowest", "shortest", "least")),
    (("oldest", "eldest", "earliest"), ("youngest", "newest", "latest")),
    (("fastest", "quickest"), ("slowest",)),
    (("hottest", "warmest"), ("coldest", "coolest")),
    (("heaviest",), ("lightest",)),
    (("deepest",), ("shallowest",)),
    (("nearest", "closest"), ("farthest", "furthest")),
    (("most",), ("fewest", "least")),
    (("first",), ("last",)),
)
_EXTREME = re.compile(r"\b(?:[a-z]{3,}est|most|least|first|last)\b", re.IGNORECASE)
_SECOND = re.compile(r"\bsecond\b", re.IGNORECASE)
_SECOND_SAID = re.compile(r"\b(?:second|2nd|after|next|behind|followed|then|number\s+two)\b", re.IGNORECASE)
_IN_BETWEEN = re.compile(r"\b(?:in\s+between|in\s+the\s+middle|comes?\s+second|in\s+second\s+place)\b", re.IGNORECASE)


def _extremes(text: str) -> frozenset[str]:
    return frozenset(word.lower() for word in _EXTREME.findall(text))


def tells_other_extreme(text: str, asked: str) -> bool:
    """Tell whether a sentence says only what is at the other end: "Venus has the longest day" of the shortest.

    Where the second is asked for, the first is at the other end, too.
    """
    wanted, told = _extremes(asked), _extremes(text)
    if not wanted or not told:
        return False
    if _SECOND.search(asked) and not _SECOND_SAID.search(text):
        return True
    if wanted & told:
        return False
    pairs = [*_OPPOSITES, *((low, high) for high, low in _OPPOSITES)]
    return any(wanted & set(one) and told & set(other) for one, other in pairs)


_COMPARES = re.compile(
    r"\b(?:much|far|even|still|slightly|a\s+(?:bit|little))\s+(?:farther|further|more|less|[a-z]{2,}er)\b",
    re.IGNORECASE,
)


def way_of(more: str, asked: str) -> int:
    """Return 1 where a comparative goes the way of the extreme asked for, -1 the other way, 0 where it tells nothing.

    "younger" goes the way of the youngest, "older" the other.
    """
    wanted = _extremes(asked)
    most = more.lower().removesuffix("r") + "st"
    if most in wanted:
        return 1
    pairs = [*_OPPOSITES, *((low, high) for high, low in _OPPOSITES)]
    return -1 if any(wanted & set(one) and most in other for one, other in pairs) else 0


def tells_extreme(text: str, asked: str) -> bool:
    """Tell whether a clause names just the extreme that is asked for: "the youngest is Lou"."""
    return bool(_extremes(asked)) and _extremes(text) == _extremes(asked) and not _SECOND.search(asked)


# "Tallinn lies 80 km to the south of it."
_BESIDE_IT = re.compile(
    r"\b(?:north|south|east|west|left|right|front|outside|short)\s+of\s+(?:it|that|this)\b", re.IGNORECASE
)
_OPPOSITE = re.compile(r"\W*(?:the|its)\s+(?:opposite|reverse|counterpart|contrary)\b", re.IGNORECASE)
_OPPOSITE_ASKED = re.compile(r"\b(?:opposite|reverse|counterpart|contrary|antonym)\b", re.IGNORECASE)


def only_compares(text: str, asked: str) -> bool:
    """Tell whether a sentence sets something else beside the answer: "Madrid lies much farther inland"."""
    if _BESIDE_IT.search(text) or (_OPPOSITE.match(text) and not _OPPOSITE_ASKED.search(asked)):
        return True
    return _COMPARES.search(text) is not None and _COMPARES.search(asked) is None and not _extremes(asked)


def is_in_between(text: str, asked: str) -> bool:
    """Tell whether a sentence says what is between the first and the last, where the second is asked for."""
    return _SECOND.search(asked) is not None and bool(_extremes(asked)) and _IN_BETWEEN.search(text) is not None


# "Gneiss: no, bands. Granite: yes."
_JUDGED = re.compile(
    r"(?:^|[.;][ \t])[^\w\n]{0,4}(?P<name>\w[^\n.:;,]{0,39}?)[^\w\n]{0,4}[:–—-][ \t]*(?P<said>yes|no)\b(?!\s+\w)",
    re.IGNORECASE | re.MULTILINE,
)


def only_one_right(text: str) -> tuple[int, int] | None:
    """Return where the only thing stands that a reply says yes to, while it says no to others; None where none does."""
    judged = list(_JUDGED.finditer(text, 0, FARTHEST_LOOK))
    right = [one for one in judged if one["said"].lower() == "yes"]
    return right[0].span("name") if len(right) == 1 and len(judged) > LEAST_LINES else None


def _are_all(text: str, lines: list[re.Match[str]]) -> bool:
    """Tell whether a ranking of three lines or more is all that a text says."""
    return len(lines) > LEAST_LINES and len(lines) == len([line for line in text.split("\n") if line.strip()])


@lru_cache(maxsize=64)
def line_of_rank(text: str, asked: str) -> tuple[int, int] | None:
    """Return where the name stands that a ranking gives the rank asked for; None where there is not just one."""
    rank = _ASKS_RANK.search(asked)
    lines = list(_LINE.finditer(text, 0, FARTHEST_LOOK))
    if rank is None and not (_extremes(asked) and _are_all(text, lines)):
        return None
    numbers = [int(line["number"]) for line in lines]
    wanted = _RANKS[rank["rank"].lower()] if rank else 1
    if any(_SAYS.search(line["name"]) for line in lines):
        return None  # steps, and no ranking
    if len(lines) < LEAST_LINES or numbers != list(range(1, len(lines) + 1)) or wanted > len(lines):
        return None
    return lines[wanted - 1].span("name")
