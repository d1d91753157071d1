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


_IN_BRACKETS = re.compile(r"\s*\([^()]{0,60}\)")


def plain_member(member: str) -> str:
    """Return a member without its article, in one case."""
    return re.sub(r"^(?:the|an?)\s+", "", member.casefold().strip())


@lru_cache(maxsize=256)
def listed_in(asked: str) -> tuple[str, ...]:
    """Return the things that a question lists: "Which of the birds curlew, gannet and swift are waders?"."""
    best: list[str] = []
    for match in _LISTED.finditer(_IN_BRACKETS.sub("", asked[-LONGEST_QUESTION:])):
        parts = [
            part.strip() for part in re.split(r",\s*(?:and\s+|or\s+)?|\s+(?:and|or)\s+", match.group()) if part.strip()
        ]
        if len(parts) > len(best):
            width = max((len(part.split()) for part in parts[1:-1]), default=1)
            best = [" ".join(parts[0].split()[-width:]), *parts[1:-1], " ".join(parts[-1].split()[:width])]
    return tuple(best)


LONGEST_THING_WORDS = 3
LEAST_THINGS = 3
# What turns the order round, or says of some of them that they are not meant.
_NOT_AS_SAID = re.compile(
    r"\b(?:not|no|nor|never|neither|none|but|except|without|unlike|instead|rather|while|whereas|though|although|than|before|after|"
    r"last|only|other|others|or|if|unless|out|also|same|equal\w*|ties?|tied)\b|n't\b|\?",
    re.IGNORECASE,
)


def mentioned_in(text: str, start: int, end: int, asked: str) -> list[tuple[str, int, int]]:
    """Return the things of a question's list as a stretch mentions them: "A gull has two legs, an ant six".

    Nothing where it mentions one alone or one twice, or may not mean all of them, or not in this order.
    """
    things = [plain_member(thing).strip(" '\"‘’“”") for thing in listed_in(asked)]
    things = [thing for thing in things if thing]
    too_long = any(len(thing.split()) > LONGEST_THING_WORDS for thing in things)
    if len(things) < LEAST_THINGS or too_long or _NOT_AS_SAID.search(text, start, end):
        return []
    any_of_them = "|".join(re.escape(thing) for thing in sorted(things, key=len, reverse=True))
    found = list(re.finditer(rf"(?<![\w-])(?:{any_of_them})(?![\w-])", text[start:end], re.IGNORECASE))
    said = [match.group().casefold() for match in found]
    if len(said) < 2 or len(set(said)) < len(said):
        return []
    return [(match.group(), start + match.start(), start + match.end()) for match in found]
