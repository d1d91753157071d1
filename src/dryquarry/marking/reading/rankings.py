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
MOST_WORDS_OF_NAME = 3
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
    return right[0].span("name") if len(right) == 1 and len(judged) > 1 else None


# "Ada → red", "Cleo: blue"
_PAIR_LINE = regex(
    r"[\s*•_-]{0,6}(?P<name>[^\W\d_][^\n:→=–]{0,39}?)[\s*_]{0,4}(?::|→|->|⇒|=|\s[–-])\s*(?P<said>[^\n]{1,60}?)[\s.*_,;]{0,4}"
)
_DENIES = regex(r"\b(?:not?|none|never)\b|n['’]t\b", re.IGNORECASE)


_BETWEEN_PAIRS = regex(r"\n\s*|;\s+|\.\s+(?=\S)")


@lru_cache(maxsize=64)
def pair_as_asked(text: str, asked: str) -> tuple[int, int] | None:
    """Return what stands beside the one thing that is asked about, where a reply is nothing but pairs.

    "Ada → not blue / Ben → red / Cleo → blue", where it is asked whose coat is blue; "Lena: parrot. Mara: cat.", where
    it is asked what Mara keeps.
    """
    joints = list(_BETWEEN_PAIRS.finditer(text.rstrip(), 0, FARTHEST_LOOK))
    if not 0 < len(joints) < MOST_LINES:
        return None
    begins, ends = [0, *(joint.end() for joint in joints)], [*(joint.start() for joint in joints), len(text.rstrip())]
    pairs = [_PAIR_LINE.fullmatch(text, *span) for span in zip(begins, ends, strict=True)]
    whole = [pair for pair in pairs if pair is not None]
    if len(whole) < len(pairs) or any(len(pair["name"].split()) > MOST_WORDS_OF_NAME for pair in whole):
        return None
    wanted = content_of(asked)
    of_name = [pair for pair in whole if _all_of(pair["name"], wanted)]
    of_said = [pair for pair in whole if _all_of(pair["said"], wanted) and not _DENIES.search(pair["said"])]
    if len(of_said) == 1 and not of_name:
        return of_said[0].span("name")
    if len(of_name) == 1 and not of_said and not _DENIES.search(of_name[0]["said"]):
        return of_name[0].span("said")
    return None


def _all_of(said: str, wanted: frozenset[str]) -> bool:
    return bool(content_of(said)) and content_of(said) <= wanted


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
