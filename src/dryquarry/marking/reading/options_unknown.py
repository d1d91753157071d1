"""The option that says that it cannot be told, chosen by a clause that says so in other words."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import lru_cache

from dryquarry.marking.cues import cue
from dryquarry.marking.regexes import regex

# An option that is no more than this says nothing else beside it.
MOST_WORDS = 8
NAMES_LETTER = regex(r"(?<![\w'’])[A-H](?![\w'’])")
_UNKNOWN = regex(r"\b(?:unknown|undetermined|not\s+enough\s+information|insufficient\s+information)\b")
_BUT = regex(r"\b(?:but|yet|however|alone)\b", re.IGNORECASE)


@lru_cache(maxsize=256)
def _says_unknown(option: str) -> bool:
    short = len(option.split()) <= MOST_WORDS
    return short and (cue("abstains", r"(?<!\w)", r"(?!\w)").search(option) or _UNKNOWN.search(option)) is not None


def told_unknown(texts: Mapping[str, str], text: str, start: int, end: int) -> str | None:
    """Return the letter of the one option that says that it cannot be told, where a clause says so and no letter."""
    unknown = [letter for letter, option in texts.items() if _says_unknown(option.casefold())]
    if len(unknown) != 1 or NAMES_LETTER.search(text, start, end):
        return None
    said = cue("abstains", r"(?<![\w'])", r"(?!\w)").search(text, start, end)
    return unknown[0] if said and not _BUT.search(text, said.end(), end) else None
