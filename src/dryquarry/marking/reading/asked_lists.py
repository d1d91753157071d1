"""The things that a question itself lists: "Which of the birds curlew, gannet and swift are waders?"."""

from __future__ import annotations

import re
from functools import lru_cache

LONGEST_QUESTION = 4000
_THING = r"(?:[^\s,.:;?!]+\s){0,3}?[^\s,.:;?!]+"
_LISTED = re.compile(
    rf"(?:{_THING},\s*)+{_THING}\s*,?\s(?:and|or)\s+{_THING}|(?<=:)\s+(?:{_THING},\s*){{2,}}{_THING}(?=[?.]|\Z)",
    re.IGNORECASE,
)


def plain_member(member: str) -> str:
    """Return a member without its article, in one case."""
    return re.sub(r"^(?:the|an?)\s+", "", member.casefold().strip())


@lru_cache(maxsize=256)
def listed_in(asked: str) -> tuple[str, ...]:
    """Return the things that a question lists: "Which of the birds curlew, gannet and swift are waders?"."""
    best: list[str] = []
    for match in _LISTED.finditer(asked[-LONGEST_QUESTION:]):
        parts = [
            part.strip() for part in re.split(r",\s*(?:and\s+|or\s+)?|\s+(?:and|or)\s+", match.group()) if part.strip()
        ]
        if len(parts) > len(best):
            width = max((len(part.split()) for part in parts[1:-1]), default=1)
            best = [" ".join(parts[0].split()[-width:]), *parts[1:-1], " ".join(parts[-1].split()[:width])]
    return tuple(best)
