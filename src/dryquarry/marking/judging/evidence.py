"""Evidence: whether the words that a judge quotes stand in the reply."""

from __future__ import annotations

import unicodedata

from dryquarry.marking.regexes import regex

_DASHES = dict.fromkeys(map(ord, "‐‑‒–—―−"), "-")
_QUOTES = {**dict.fromkeys(map(ord, "‘’‚‛′`´"), "'"), **dict.fromkeys(map(ord, "“”„‟″«»"), '"')}
_ELLIPSIS = regex(r"\s*(?:\[\s*)?(?:\.\.\.|…)(?:\s*\])?\s*")
_OUTER = " \"'.,;:!?"
FEWEST_SIGNS = 2


def plain(text: str) -> str:
    """Return a text without the differences that do not count: case, spaces, kinds of quotes and dashes."""
    folded = unicodedata.normalize("NFKC", text).translate(_DASHES).translate(_QUOTES).casefold()
    return " ".join(folded.split())


def is_quoted(quote: str, reply: str) -> bool:
    """Tell whether the words of a quotation stand in the reply, its parts between "..." in their order."""
    said = plain(reply)
    position = 0
    parts = [part for part in (plain(one).strip(_OUTER) for one in _ELLIPSIS.split(quote)) if part]
    if sum(len(part) for part in parts) < FEWEST_SIGNS:
        return False
    for part in parts:
        found = _whole_words(part, said, position)
        if found is None:
            return False
        position = found
    return True


def _whole_words(part: str, said: str, position: int) -> int | None:
    """Return where a part ends in what was said, at the borders of words, or None."""
    while (found := said.find(part, position)) >= 0:
        end = found + len(part)
        before, after = said[found - 1 : found], said[end : end + 1]
        if not (before.isalnum() and part[0].isalnum()) and not (after.isalnum() and part[-1].isalnum()):
            return end
        position = found + 1
    return None
