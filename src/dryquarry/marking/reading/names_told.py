"""The names in a text, where a question asks for something that has one: a river, a person, a year."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.echo import asking_part, content_of, is_echo, is_verb, question_in, stem
from dryquarry.marking.reading.offers import Mention
from dryquarry.marking.regexes import regex


@lru_cache(maxsize=512)
def asks_name(asked: str) -> bool:
    """Tell whether a question asks for something that goes by a name: a river, a capital."""
    before = (
        r"\b(?:which|what|name)\s+(?:(?:is|was|are|were|the|an?|its|[\w-]+(?:est|th|nd|rd|st)|most|least|"
        r"first|last|main|large|made-up)\s+){0,5}"
    )
    return asks_who(asked) or cue("goes by a name", before).search(question_in(asked)) is not None


@lru_cache(maxsize=512)
def asks_who(asked: str) -> bool:
    """Tell whether a question asks who it is."""
    return re.search(r"\bwho(?:m|se)?\b", question_in(asked), re.IGNORECASE) is not None


# "When was it rebuilt?", where the question itself tells of years
_ASKS_YEAR = regex(r"\bwhen\b|\b(?:which|what)\s+year\b", re.IGNORECASE)
_ASKS_WHICH_YEAR = regex(r"\b(?:which|what)\s+year\b|\bwhen\s+(?:was|were|did)\b", re.IGNORECASE)
_YEAR = regex(r"(?<![\w.,])[12]\d{3}(?![\w]|[.,]\d)")


@lru_cache(maxsize=512)
def asks_year(asked: str) -> bool:
    """Tell whether a question asks in which year, or when, something was; what is to come only where it tells years."""
    question = question_in(asked)
    if _ASKS_WHICH_YEAR.search(question):
        return True
    return _ASKS_YEAR.search(question) is not None and _YEAR.search(asked) is not None


_NAME = regex(r"[A-Z][\w’-]+(?:\s+(?:(?:of|the|de|von|am|an|la)\s+){0,2}?[A-Z][\w’-]+)*")
LONGEST_PAUSE = 12
_LETTER = regex(r"\w")
_SENTENCE_START = regex(r"(?:[.!?:]\s|\n)[\s\"'“‘*(-]*\Z")
_OPENS = regex(
    r"(?:(?:The|An?|In|On|At|Of|For|From|To|By|So|But|And|It|As|With|After|Then|Not|No|Yes|[A-Z]\w+ly)\s+(?=[A-Z]))*"
)
# What may follow a name that opens a sentence: "Canberra it is", "Skye, …", "Jupiter turns …".
_FOLLOWS_NAME = regex(
    r"[.,;!?()\"*–—]|['’](?:s\b|(?!\w))|(?:it|rather|and|or|again|then|too|alone|only|in|on|at)\b|[a-z]+(?:s|ed)\b"
)


def names_told(text: str, start: int, end: int, asked: str) -> list[Mention]:
    """Return the names in a stretch that the question has not."""
    asking = content_of(asking_part(asked))
    found = []
    for match in _NAME.finditer(text, start, end):
        near = max(start, match.start() - LONGEST_PAUSE)
        before = text[near : match.start()]
        opens = (near == start and not _LETTER.search(before)) or _SENTENCE_START.search(before) is not None
        opening = _OPENS.match(match.group()) if opens else None
        first = match.start() + (opening.end() if opening else 0)
        last = _end_of_name(text, first, match.end(), asking)
        words = re.findall(r"[^\W_]+", text[first:last])
        of_the_question = all(stem(word) in asking or word.islower() for word in words)
        alone = opens and first == match.start() and len(words) == 1
        if not of_the_question and not _opens_no_name(words[0]) and not (alone and not _is_name(text, match, end)):
            found.append((text[first:last].casefold(), first, last))
    return found


@lru_cache(maxsize=4096)
def _opens_no_name(word: str) -> bool:
    return cue("opens no name", r"\A", r"\Z").match(word) is not None


def _end_of_name(text: str, start: int, end: int, asking: frozenset[str]) -> int:
    """Return where a name ends, without the question's name that it is tied to: "Ljubljana of Slovenia"."""
    of = text.rfind(" of ", start, end)
    return of if of >= 0 and all(stem(word) in asking for word in re.findall(r"[^\W_]+", text[of + 4 : end])) else end


def _is_name(text: str, word: re.Match[str], end: int) -> bool:
    """Tell whether the word that opens a stretch is a name: a verb or a sign follows it."""
    after = text[word.end() : end].lstrip()
    if text[word.end() : word.end() + 1] == ":" or (after and word.group().endswith("ing")):
        return False  # "Decision: Harrow"
    if not after:
        return True
    if word.group().endswith("ly") and not after[0].isalpha():
        return False  # "Clearly, …", and not "Emily wrote it"
    verb = re.match(r"[a-z]+", after)
    follows = _FOLLOWS_NAME.match(after) is not None or (verb is not None and is_verb(verb.group()))
    return follows and not is_echo(word.group(), "")


def years_told(text: str, start: int, end: int) -> list[Mention]:
    """Return the years in a stretch; "1902 years ago" tells none."""
    found = _YEAR.finditer(text, start, end)
    return [(year.group(), *year.span()) for year in found if not _SO_MANY.match(text, year.end())]


_SO_MANY = regex(r"\s+years?\b", re.IGNORECASE)
# "1902 is the year in which it burnt down."
_IS_THE_YEAR = regex(
    r"\W*[12]\d{3}\s+(?:is|was)\s+(?:the\s+year\s+)?(?:in\s+which|when|that)\s+(?:it|he|she|they|the\s+[^\W\d_]+)\s+(?:was\s+|were\s+)?(?P<verb>[^\W\d_]+)",
    re.IGNORECASE,
)


def is_year_of_else(text: str, start: int, end: int, asked: str) -> bool:
    """Tell whether a clause says what else was in a year than what is asked about."""
    told = _IS_THE_YEAR.match(text, start, end) if asks_year(asked) else None
    return told is not None and not is_echo(told["verb"], question_in(asked))


_ASKED_KIND = regex(
    r"\b(?:which|what)\s+(?:[^\W\d_]+\s)?(?P<kind>sea|ocean|lake|river|mountain|island|bay|strait|city|town)\b",
    re.IGNORECASE,
)
_OF_KIND = {
    "sea": r"[A-Z]\w+\s(?:S|s)ea|Sea\sof\s[A-Z]\w+",
    "ocean": r"[A-Z]\w+\s(?:O|o)cean",
    "lake": r"Lake\s[A-Z]\w+",
    "mountain": r"(?:Mount|Mt\.?)\s[A-Z]\w+",
    "island": r"[A-Z]\w+\sIsland|Isle\sof\s[A-Z]\w+",
}
# "That river is the Danube."
_THIS_IS = r"\A\W*(?:[Tt]hat|[Tt]his)\s{kind}\s(?:is|was)\s(?:called\s)?(?:the\s)?[A-Z]"
_THE_SECOND = regex(r"\bthe\s+second(?:[\s-][a-z]+)?,\s+(?:the\s+)?[A-Z]")


def names_of_kind(text: str, asked: str) -> bool:
    """Tell whether a sentence names one by its kind: "Beyond it lies the Caspian Sea", "That river is the Danube"."""
    if re.search(r"\bsecond\b", asked) and _THE_SECOND.search(text):
        return True  # "the second one, Mount Kenya"
    wanted = _ASKED_KIND.search(asked)
    if wanted is None:
        return False
    kind = wanted["kind"].lower()
    if re.search(_THIS_IS.format(kind=kind), text):
        return True
    if kind not in _OF_KIND:
        return False
    there = re.search(rf"\b(?:lies|comes|begins|stands|opens)\s(?:the\s)?(?P<name>{_OF_KIND[kind]})\W*\Z", text)
    return there is not None and there["name"] not in asked
