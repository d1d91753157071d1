"""Letters that are words of a sentence and no options: the article "A", the pronoun "I"."""

from __future__ import annotations

import re

from dryquarry.marking.regexes import regex

_PRONOUN_I = regex(
    r"\s*(?:am|was|think|believe|would|'|have|had|can|could|will|see|know|guess|say|go|choose|pick|"
    r"chose|do|did|get|got|need)\b",
    re.IGNORECASE,
)
_VERB_OF_A = regex(
    r"\s*(?:$|[^\w\s(]|\(|(?:is|was|and|or|because|since|as|fits|holds|works|follows|remains|seems|"
    r"must|can|cannot|can't|with|for|would|could|does|has|but|to|through|only|alone|too|then|wins|rather|instead|not|nor|it\s+is|as\s+opposed|"
    r"says|states|leaves|comes|are|it\s+is)\b)"
)


def is_article(text: str, match: re.Match[str]) -> bool:
    """Tell whether an A may be the first word of a sentence and no option: "A heron stands there"."""
    if _VERB_OF_A.match(text, match.end()) or match.group().endswith(")"):
        return False
    if re.search(r"[a-z,;]\s\Z", text[max(0, match.start() - 2) : match.start()]):
        return False  # "all options except A exceed 100 minutes"
    if re.search(r"(?:option|choice|answer)\s+$", text[max(0, match.start() - 12) : match.start()], re.IGNORECASE):
        return False
    return re.match(r"[^\S\n]+\w", text[match.end() : match.end() + 3]) is not None


def is_pronoun(text: str, match: re.Match[str]) -> bool:
    """Tell whether an I is who speaks: "I think"."""
    return _PRONOUN_I.match(text, match.end()) is not None
