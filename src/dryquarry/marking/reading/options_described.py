"""Options that a reply describes one by one, in the word of the question or another: "A: even. B: odd. C: even."."""

from __future__ import annotations

import re

from dryquarry.marking.reading.echo import stem, without_supposed
from dryquarry.marking.reading.judged_options import ByText, Judged
from dryquarry.marking.regexes import regex

LEAST_DESCRIBED = 3
# "Which of these are even?"
_ASKS = regex(
    r"\b(?:which|what)\b[^?:.]*?\b(?:is|are|was|were)\s+(?:an?\s+)?(?P<not>not\s+)?(?!true\b|false\b|right\b|wrong\b|correct\b)(?P<what>[^\W\d_]{3,})(?=\s*(?:[?:.,]|\Z))",
    re.IGNORECASE,
)
_DESCRIBED = regex(
    r"(?:^|[.;,\n]|\band\b)[\s*•-]*(?P<one>[^\s:;,.](?:[^:;,.\n]{0,40}?[^\s:;,.])??)\s*(?::|=|\s(?:is|are)(?=\s))\s*(?:an?\s+)?"
    r"(?P<not>not\s+)?(?P<what>[^\W\d_]{3,})(?=\s*(?:[.;,\n(]|and\b|$))",
    re.IGNORECASE | re.MULTILINE,
)


def described_options(text: str, start: int, end: int, named: str, by_text: ByText, asked: str) -> list[Judged]:
    """Return the options of which a stretch says one by one whether they are as asked, and where; none else."""
    wanted = _ASKS.search(without_supposed(asked))
    if wanted is None:
        return []
    found: dict[str, Judged] = {}
    for said in _DESCRIBED.finditer(text, start, end):
        letter = re.fullmatch(rf"(?:option\s+)?\(?([{named}])[).]?(?:\s.*)?", said["one"])
        own = (letter[1], 0) if letter else by_text(said["one"])
        if own is None or own[1] != 0 or own[0] in found:
            return []
        so = (stem(said["what"]) == stem(wanted["what"])) != bool(said["not"])
        found[own[0]] = (own[0], so != bool(wanted["not"]), said.start("one"), said.end())
    judged = list(found.values())
    return judged if len(judged) >= LEAST_DESCRIBED and any(one[1] for one in judged) else []
