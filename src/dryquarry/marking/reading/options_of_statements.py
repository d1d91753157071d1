"""Options that say which of some statements follow ("only I", "I and II", "neither"), told in other words."""

from __future__ import annotations

import re
from collections.abc import Mapping
from functools import lru_cache

from dryquarry.marking.reading.options_unknown import NAMES_LETTER
from dryquarry.marking.regexes import regex

LEAST_OPTIONS = 3
_SPEAKS = r"I(?=\s+(?:would|think|say|am|believe|choose|chose|pick|get|take|have|do|can|guess|suppose)\b|['’])"
_LABEL = regex(rf"(?<![\w.,'’])(?!{_SPEAKS})\(?(?P<label>I{{1,3}}|IV|[1-4])\)?(?![\w]|[.,]\d)")
_NO_WORDS = regex(
    r"\b(?:statements?|conclusions?|claims?|sentences?|the|numbers?|nos?|follows?|holds?|is|are|true|and|only|just|alone|"
    r"both|all|neither|nor|none|of|them|these|those)\b\.?",
    re.IGNORECASE,
)
_NONE = regex(r"\b(?:neither|none|nothing|no)\b", re.IGNORECASE)
_BOTH = regex(r"\b(?:both|all)\b", re.IGNORECASE)
_DENIED_BEHIND = regex(r"[^,;.]{0,24}?(?:\b(?:not|cannot|never|false|wrong)\b|n['’]t\b)", re.IGNORECASE)
_DENIED_BEFORE = regex(
    r"\b(?:not|nor|neither|without|except|than)\s+(?:statement\s+|conclusion\s+|the\s+)*\(?\Z", re.IGNORECASE
)
_PLACES = {"first": 0, "second": 1, "third": 2, "former": 0, "latter": -1}
_PLACE = regex(
    r"\bthe\s+(?P<place>first|second|third|former|latter)\b(?:\s+(?:one|statement|conclusion))?", re.IGNORECASE
)


def _labels_in(text: str) -> list[str]:
    return [match["label"] for match in _LABEL.finditer(text)]


@lru_cache(maxsize=256)
def _told_by(texts: tuple[tuple[str, str], ...]) -> Mapping[frozenset[str], str]:
    """Return the letter of each set of statements, where every option is such a set; nothing for other options."""
    every = frozenset(label for _, text in texts for label in _labels_in(text))
    sets: dict[frozenset[str], str] = {}
    for letter, text in texts:
        labels, none, both = frozenset(_labels_in(text)), _NONE.search(text), _BOTH.search(text)
        if not (labels or none or both) or _NO_WORDS.sub("", _LABEL.sub("", text)).strip(" .,&-"):
            return {}
        sets[frozenset() if none else labels or every] = letter
    # without an option of several, "1", "2" and "none" are amounts
    of_several = any(len(labels) > 1 for labels in sets)
    return sets if of_several and len(sets) == len(texts) >= LEAST_OPTIONS else {}


def statements_told(texts: Mapping[str, str], text: str, start: int, end: int) -> str | None:
    """Return the letter of the option whose statements a clause says to follow, where it names no letter itself."""
    sets = _told_by(tuple(texts.items()))
    if not sets or NAMES_LETTER.search(text, start, end):
        return None
    every = sorted(frozenset[str]().union(*sets))
    said = [(match["label"], match.span()) for match in _LABEL.finditer(text, start, end) if match["label"] in every]
    said += [
        (every[_PLACES[match["place"].lower()]], match.span())
        for match in _PLACE.finditer(text, start, end)
        if abs(_PLACES[match["place"].lower()]) < len(every)
    ]
    if not said:
        alone = text[start:end].strip(" .!")
        none, both = _NONE.match(alone), _BOTH.match(alone)
        return sets.get(frozenset() if none else frozenset(every)) if none or both else None
    said.sort(key=lambda one: one[1])
    ends = [*(first for _, (first, _) in said[1:]), end]
    denied = {
        label
        for (label, (first, last)), behind in zip(said, ends, strict=True)
        if _DENIED_BEHIND.match(text, last, behind) or _DENIED_BEFORE.search(text, max(start, first - 30), first)
    }
    if _NONE.search(text, start, end) and denied != {label for label, _ in said}:
        return None
    return sets.get(frozenset(label for label, _ in said) - denied)
