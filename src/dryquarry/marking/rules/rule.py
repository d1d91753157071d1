"""What a rule is, and the parts of a text that rules look at."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dryquarry.marking.values.counting import lines, paragraphs, sentences, words
from dryquarry.marking.values.texts import uniform

PARTS: Mapping[str, Callable[[str], list[str]]] = {
    "word": words,
    "words": words,
    "line": lines,
    "lines": lines,
    "sentence": sentences,
    "sentences": sentences,
    "paragraph": paragraphs,
    "paragraphs": paragraphs,
}


@dataclass(frozen=True, slots=True)
class Rule:
    """A rule in words, and what is amiss with a text under it (None: it holds)."""

    says: str
    amiss: Callable[[str], str | None]


Read = Callable[[str, Mapping[str, Any]], Rule]


def texts_of(given: Any) -> list[str]:
    """Return a text or a list of texts as a list; raises ValueError."""
    texts: Sequence[Any] = given if isinstance(given, list | tuple) else [given]
    if not texts or not all(
        isinstance(one, str | int) and not isinstance(one, bool) and str(one).strip() for one in texts
    ):
        raise ValueError("wants a text, or a list of texts")
    return [uniform(str(one)) for one in texts]


def wants_true(given: Any) -> None:
    """Raise ValueError unless the value is true."""
    if given is not True:
        raise ValueError(f"can only be true, not {given!r}")


def bounds_of(given: Any) -> tuple[int, int | None]:
    """Return the least and the greatest count that are wanted; raises ValueError."""
    if type(given) is int and given >= 0:
        return given, given
    if not isinstance(given, Mapping) or not given or set(given) - {"exactly", "at_least", "at_most", "between"}:
        raise ValueError("wants a count, or {exactly, at_least, at_most, between: [2, 4]}")
    between = given.get("between", [])
    ends = [given[name] for name in ("exactly", "at_least", "at_most") if name in given] + list(between)
    if not all(type(end) is int and end >= 0 for end in ends) or len(between) not in (0, 2):
        raise ValueError("wants whole numbers of 0 or more")
    if "exactly" in given:
        return given["exactly"], given["exactly"]
    if between:
        return min(between), max(between)
    return given.get("at_least", 0), given.get("at_most")


def each_part(rule: Rule, each: Any) -> Rule:
    """Return the rule on each line, sentence or paragraph of a text; raises ValueError for another part."""
    if each not in PARTS:
        raise ValueError(f"wants `each: line`, sentence or paragraph, not '{each}'")

    def amiss(text: str) -> str | None:
        parts = PARTS[each](text)
        for number, part in enumerate(parts, start=1):
            if (said := rule.amiss(part)) is not None:
                return f"{each} {number}: {said}"
        return None if parts else f"there is no {each}"

    return Rule(f"each {each}: {rule.says}", amiss)
