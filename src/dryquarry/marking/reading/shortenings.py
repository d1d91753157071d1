"""The readings of a clause, each with what it is without what stands around it, and none of them twice."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence

from dryquarry.marking.reading.claims import Place
from dryquarry.marking.reading.clauses import without_brackets
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.texts import trimmed

LONGEST_READING = 200
MOST_READINGS = 20
_PRONOUNS = frozenset(
    ("it", "he", "she", "they", "we", "that", "this", "these", "those", "there", "all", "which", "who")
)
# "and Ruben", "in early spring"
_OPENS = regex(
    r"\W*(?:and|but|so)\s+(?=[A-Z])|\W*(?:of|among)\s+(?:these|them|those|all)[,\s]\s*(?=\w)|\W*up\s+(?=[a-z])|\W*(?:in\s+)?(?:early|late|mid|high)[\s-]+(?=[a-z])",
    re.IGNORECASE,
)
# "Solveig herself", "1871 AD"
_HERSELF = regex(r"\s+(?:himself|herself|itself|themselves|(?<=\d\s)(?:AD|A\.D\.|CE))[\s.!]*\Z")
_WAY_BEHIND = regex(r"\s+(?:to\s+the\s+)?(?:north|south|east|west|left|right)[\s.!]*\Z", re.IGNORECASE)
# "In the teapot that stands on the shelf"
_THAT_IS = regex(r"\s+(?:that|which)\s+(?:is|was|stands?|stood|lies|lay|hangs?|hung)\s", re.IGNORECASE)
# "Within the teapot"
_WITHIN = regex(r"\W*(?:within|inside(?:\s+of)?)\s+", re.IGNORECASE)
# "His coat lies there."
_IS_THERE = regex(r"\s+(?:lies?|lay|is|are|was|were|stands?|stood|rests?)\s+(?:still\s+)?there[\s.!]*\Z", re.IGNORECASE)
# "by Halvar Strand to Inga"
_TO_WHOM = regex(
    r"(?P<one>[A-ZÀ-Þ][^\W\d_]+(?:\s[A-ZÀ-Þ][^\W\d_]+)?)\s+to\s+(?:the\s+)?[A-ZÀ-Þ][^\W\d_]+(?:\s[A-ZÀ-Þ][^\W\d_]+)?"
)
# "to the north"
_DIRECTION = regex(
    r"\W*(?:(?:to|towards?|in|into)\s+(?:the\s+)?|due\s+|straight\s+)(?P<one>[^\W\d_]+(?:-[^\W\d_]+)?)\W*",
    re.IGNORECASE,
)
# "a-r-t"
_SPELLED = regex(r"[^\W\d_](?:-[^\W\d_]){2,}|[^\W\d_](?: [^\W\d_]){2,}|[^\W\d_](?:, ?[^\W\d_]){2,}")
# "Aksel a" of "Nils was a sailor, Aksel a baker"
_BEGINS_OWNED = regex(r"\W*(?:its|their|your|our|my|his|her)\s+", re.IGNORECASE)
# "the Isle of Skye at 1,656 km²"
# "the blacksmith's", where it is asked whose it is
_OWNER = regex(r"(?<=[^\W\d_])['’]s[\s.!]*\Z")
# "the flute and Liv the drum"
_GAPPED = regex(r"(?<=\w)\s+and\s+[A-Z][^\W\d_]+\s+(?:the|an?)\s+[a-z]+[\s.!]*\Z")
_MEASURED = regex(r"(?<=\w),?\s+(?:at|with)\s+(?:about\s+|some\s+|over\s+)?\d[\d.,]*\s?[^\s,;]{0,12}\Z")
_ENDS_OPEN = regex(
    r"\s+(?:the|an?|its|his|her|from|for|into|with|now|today|then|still|there|again|(?:that|of\s+the|of\s+that|in\s+the)\s+same\s+[^\W\d_]+)[\s.!]*\Z",
    re.IGNORECASE,
)


def unlike(text: str, spans: Sequence[tuple[int, int]], place: Place) -> Iterator[tuple[str, int, int]]:
    """Yield the texts of stretches and of what is shorter in them, with their places, each text once."""
    seen: set[str] = set()
    for start, end in _with_shorter(text, spans):
        start, end = trimmed(text, start, end)
        said = " ".join(text[start:end].split())
        if not said or said.casefold() in seen or len(said) > LONGEST_READING:
            continue
        if said.casefold() in _PRONOUNS and not place.telling:
            continue
        seen.add(said.casefold())
        yield said, start, end
        if _SPELLED.fullmatch(said):
            yield re.sub(r"\W", "", said), start, end
        if len(seen) == MOST_READINGS:
            return


def _with_shorter(text: str, spans: Sequence[tuple[int, int]]) -> Iterator[tuple[int, int]]:
    """Yield stretches, each followed by what it is without what stands in brackets at its end: "mercury (Hg)"."""
    for start, end in spans:
        yield start, end
        without = without_brackets(text, start, end)
        if without != (start, end):
            yield without
        if (itself := _HERSELF.search(text, start, end)) is not None and itself.start() > start:
            yield start, itself.start()
        if (way := _WAY_BEHIND.search(text, start, end)) is not None and way.start() > start:
            yield start, way.start()
        if (that := _THAT_IS.search(text, start, end)) is not None and that.start() > start:
            yield start, that.start()
        if (within := _WITHIN.match(text, start, end)) is not None and within.end() < end:
            yield within.end(), end
        if (there := _IS_THERE.search(text, start, end)) is not None and there.start() > start:
            yield start, there.start()
        if (sent := _TO_WHOM.fullmatch(text, start, end)) is not None:
            yield sent.span("one")
        if (to := _DIRECTION.fullmatch(text, start, end)) is not None:
            yield to.span("one")
        if (opened := _OPENS.match(text, start, end)) is not None and opened.end() < end:
            yield opened.end(), end
        if (owned := _BEGINS_OWNED.match(text, start, end)) is not None and owned.end() < end:
            yield owned.end(), end
        if (owner := _OWNER.search(text, start, end)) is not None and owner.start() > start:
            yield start, owner.start()
        if (gapped := _GAPPED.search(text, start, end)) is not None and text[start:end].lower().startswith(
            ("the ", "a ")
        ):
            yield start, gapped.start()
        if (measured := _MEASURED.search(text, start, end)) is not None and measured.end() == end:
            yield start, measured.start()
        if (left := _ENDS_OPEN.search(text, start, end)) is not None and left.start() > start:
            yield start, left.start()
