"""Rules that count: words, sentences, lines and the like, in the whole text or in each of its parts."""

from __future__ import annotations

from collections.abc import Mapping
from typing import Any

from dryquarry.marking.rules.rule import Rule, bounds_of, each_part
from dryquarry.marking.values.counting import COUNTED

COUNTS = ("words", "sentences", "lines", "paragraphs", "list_items", "characters", "letters")


def count(name: str, given: Mapping[str, Any]) -> Rule:
    """Read `words: 5`, `sentences: {at_least: 2}`, `words: 5, each: line`."""
    low, high = bounds_of(given[name])
    nouns = name.replace("_", " ")
    wanted = said_bounds(low, high)
    parts = COUNTED[name]

    def counted(number: str) -> str:
        return f"{number} {nouns[:-1] if number == '1' else nouns}"

    def amiss(text: str) -> str | None:
        has = len(parts(text))
        return None if low <= has and (high is None or has <= high) else f"{counted(str(has))}, not {wanted}"

    rule = Rule(counted(wanted), amiss)
    return each_part(rule, given["each"]) if "each" in given else rule


def said_bounds(low: int, high: int | None) -> str:
    """Return bounds in words."""
    if low == high:
        return f"{low}"
    if high is None:
        return f"at least {low}"
    return f"{low} to {high}" if low else f"at most {high}"
