"""Whether what stands beside an answer is told of something else, in a clause of its own, and rivals it not."""

from __future__ import annotations

import re

from dryquarry.marking.reading.echo import content_of, question_in
from dryquarry.marking.regexes import regex

Span = tuple[int, int]
FARTHEST = 300
# With fewer words a question is taken up by much that does not answer it.
LEAST_WORDS = 2
_BOUND = regex(
    r"[.;!?]+(?=\s|\Z)|\n|,\s+(?:(?:and|but|while|whereas|although|though|yet)\s+)?|\s+(?:while|whereas|but)\s+",
    re.IGNORECASE,
)
_CONCLUDES = regex(
    r"[=≈]|\b(?:so|thus|hence|therefore|total|together|all|sum|answer|result|leav\w+|left|makes?|gives?|remain\w*|it|that|"
    r"this|which|who|finally|actually|really|correct\w*|right|instead|rather|not)\b|n['’]t\b",
    re.IGNORECASE,
)


def _clause_of(text: str, span: Span) -> Span:
    start, end = span
    before = [match.end() for match in _BOUND.finditer(text, max(0, start - FARTHEST), start)]
    behind = _BOUND.search(text, end, end + FARTHEST)
    first = before[-1] if before else max(0, start - FARTHEST)
    return first, behind.start() if behind else min(len(text), end + FARTHEST)


def is_told_of_else(text: str, asked: str, answer: Span, other: Span) -> bool:
    """Tell whether the clause of an answer takes up all that was asked, and that of another claim is about another.

    "The pier is 140 m long, while the mole is 30 m long."
    """
    first, second = _clause_of(text, answer), _clause_of(text, other)
    if first == second or _CONCLUDES.search(text, *second):
        return False
    wanted = content_of(question_in(asked)) - content_of(text[slice(*answer)])
    told, beside = content_of(text[slice(*first)]), content_of(text[slice(*second)]) - content_of(text[slice(*other)])
    return len(wanted) >= LEAST_WORDS and wanted <= told and not wanted <= beside and bool(beside - wanted)
