"""The extremes that a question asks for, and what a sentence says of them: the longest, the second, older than all."""

from __future__ import annotations

import re

from dryquarry.marking.regexes import regex

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
_ENDS = (*_OPPOSITES, *((low, high) for high, low in _OPPOSITES))
_EXTREME = regex(r"\b(?:[a-z]{3,}est|most|least|first|last)\b", re.IGNORECASE)
_SECOND = regex(r"\bsecond\b", re.IGNORECASE)
_SECOND_SAID = regex(r"\b(?:second|2nd|after|next|behind|followed|then|number\s+two)\b", re.IGNORECASE)
_IN_BETWEEN = regex(r"\b(?:in\s+between|in\s+the\s+middle|comes?\s+second|in\s+second\s+place)\b", re.IGNORECASE)


_JUDGED = ((("best", "hardest", "strongest", "dearest"), ("worst", "softest", "weakest", "cheapest")),)


def is_of_more(most: str) -> bool | None:
    """Tell whether a superlative is that of the larger number, "best" among them; None of any other word."""
    known = [most in high for high, low in (*_OPPOSITES, *_JUDGED) if most in high or most in low]
    return known[0] if known and most not in ("nearest", "closest", "farthest", "furthest") else None


def extremes(text: str) -> frozenset[str]:
    """Return the superlatives of a text, "first" and "last" among them."""
    return frozenset(word.lower() for word in _EXTREME.findall(text))


def tells_other_extreme(text: str, asked: str) -> bool:
    """Tell whether a sentence says only what is at the other end: "Venus has the longest day" of the shortest.

    Where the second is asked for, the first is at the other end, too.
    """
    wanted, told = extremes(asked), extremes(text)
    if not wanted or not told:
        return False
    if _SECOND.search(asked) and not _SECOND_SAID.search(text):
        return True
    if wanted & told:
        return False
    return any(wanted & set(one) and told & set(other) for one, other in _ENDS)


_COMPARES = regex(
    r"\b(?:much|far|even|still|slightly|a\s+(?:bit|little))\s+(?:farther|further|more|less|[a-z]{2,}er)\b",
    re.IGNORECASE,
)


def way_of(more: str, asked: str) -> int:
    """Return 1 where a comparative goes the way of the extreme asked for, -1 the other way, 0 where it tells nothing.

    "younger" goes the way of the youngest, "older" the other.
    """
    wanted = extremes(asked)
    most = more.lower().removesuffix("r") + "st"
    if most in wanted:
        return 1
    return -1 if any(wanted & set(one) and most in other for one, other in _ENDS) else 0


def tells_extreme(text: str, asked: str) -> bool:
    """Tell whether a clause names just the extreme that is asked for: "the youngest is Lou"."""
    return bool(extremes(asked)) and extremes(text) == extremes(asked) and not _SECOND.search(asked)


# "Tallinn lies 80 km to the south of it."
_BESIDE_IT = regex(
    r"\b(?:north|south|east|west|left|right|front|outside|short)\s+of\s+(?:it|that|this)\b", re.IGNORECASE
)
_OPPOSITE = regex(r"\W*(?:the|its)\s+(?:opposite|reverse|counterpart|contrary)\b", re.IGNORECASE)
_OPPOSITE_ASKED = regex(r"\b(?:opposite|reverse|counterpart|contrary|antonym)\b", re.IGNORECASE)


def only_compares(text: str, asked: str) -> bool:
    """Tell whether a sentence sets something else beside the answer: "Madrid lies much farther inland"."""
    if _BESIDE_IT.search(text) or (_OPPOSITE.match(text) and not _OPPOSITE_ASKED.search(asked)):
        return True
    return _COMPARES.search(text) is not None and _COMPARES.search(asked) is None and not extremes(asked)


def is_in_between(text: str, asked: str) -> bool:
    """Tell whether a sentence says what is between the first and the last, where the second is asked for."""
    return _SECOND.search(asked) is not None and bool(extremes(asked)) and _IN_BETWEEN.search(text) is not None


def are_opposite(most: str, other: str) -> bool:
    """Tell whether two superlatives are the two ends of one scale: "oldest" and "youngest"."""
    return any(most in one and other in two for one, two in _ENDS)
