"""What fills the gap of a question: "tide" of "Time and tide wait for no man", for "Time and ___ wait for no man"."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.regexes import regex

WORDS_AROUND = 3
LONGEST_FILLING = 40
_GAP = regex(r"_{2,}|\[\s*(?:\.{3}|…|\?)?\s*\]|…|(?<=\s)\.{3}(?=\s)")


@lru_cache(maxsize=256)
def _with_filling(asked: str) -> re.Pattern[str] | None:
    """Return how the sentence with the gap reads when it is filled; None where a question has not one gap."""
    gaps = list(_GAP.finditer(asked))
    if len(gaps) != 1:
        return None
    before = re.findall(r"[^\s'\"‘’“”(]+", asked[: gaps[0].start()].rpartition(":")[2])[-WORDS_AROUND:]
    behind = re.findall(r"[^\s'\"‘’“”().?!]+", asked[gaps[0].end() :].partition("'")[0])[:WORDS_AROUND]
    if len(before) + len(behind) < 2:
        return None
    filling = rf"(?P<one>[^\s,;:.][^,;:.]{{0,{LONGEST_FILLING}}}?)"
    words = [*map(re.escape, before), filling, *map(re.escape, behind)]
    end = "" if behind else r"(?=\W*\Z)"
    return re.compile(r"\W+".join(words) + end, re.IGNORECASE)


def filled_in(text: str, start: int, end: int, asked: str) -> tuple[int, int] | None:
    """Return where a stretch that repeats the question's sentence fills its gap; None where it does not."""
    pattern = _with_filling(asked)
    said = pattern.search(text, start, end) if pattern else None
    return said.span("one") if said and not _GAP.search(said["one"]) else None
