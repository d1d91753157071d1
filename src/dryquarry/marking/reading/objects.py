"""What a clause says that a thing of the question does or has, or is instead of something else."""

from __future__ import annotations

import re
from collections.abc import Iterator

from dryquarry.marking.reading.echo import is_echo, question_in
from dryquarry.marking.regexes import regex

_ASKS_WHAT_IS = regex(r"\bwhat(?:['’]s|\s+(?:is|was|are|were))\s", re.IGNORECASE)
# "The lamp burns whale oil.", "It now runs on whale oil", "burns whale oil"
_OBJECT = regex(
    r"\W*(?:(?:[Ii]t|[Tt]hey|[Tt]he\s+(?P<subject>[^\W\d_]+))\s+)?(?:(?:now|today|still|always|usually|mainly|only)\s+)?"
    r"(?P<verb>[a-z]{3,}(?:s|ed))\s+(?:(?:on|with|by|in|from|up|of|for|as)\s+)?(?P<one>[^\s,;:][^,;:]{1,40}?)\W*\Z"
)
# "The fuel isn't lard, it's whale oil."
_NOT_BUT = regex(
    r"\W*(?:[^\s,;:.]+\s+){1,5}?(?:(?:is|was|are|were)(?:n['’]t|\s+not)|\S+n['’]t)\s+[^,;:.]{1,40},\s+"
    r"(?:it|that|he|she|they)(?:['’]s|['’]re|\s+(?:is|was|are|were))\s+(?P<one>[^,;:]{1,40}?)\W*\Z",
    re.IGNORECASE,
)
_NO_VERBS_TEXT = "was has its his this these those does used one none here there some are were"
_NO_VERBS = frozenset(_NO_VERBS_TEXT.split())


def object_told(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield what stands behind the verb of a clause about a thing of the question: "The lamp burns whale oil"."""
    told = _OBJECT.match(text, start, end) if _ASKS_WHAT_IS.search(question_in(asked)) else None
    if told is None or told["verb"] in _NO_VERBS:
        return
    if told["subject"] is None or is_echo(told["subject"], asked):
        yield told.span("one")


def said_instead(text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """Yield what a clause says instead of what it denies: "The fuel isn't lard, it's whale oil"."""
    if (instead := _NOT_BUT.match(text, start, end)) is not None:
        yield instead.span("one")


# "His book, The Long Ebb, came out in 1931.", where it is asked what his book is called
_APPOSED = regex(
    r"\W*(?:the|his|her|its|their|this)\s+(?:[^\W\d_]+\s+)?(?P<what>[^\W\d_]+),\s+(?P<one>[^,;:]{2,40}),\s+(?:[a-z]+)",
    re.IGNORECASE,
)
_ASKS_NAME = regex(r"\b(?:title|name|called|named)\b", re.IGNORECASE)


def name_apposed(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the name that stands between commas behind the thing whose name is asked for."""
    apposed = _APPOSED.match(text, start, end) if _ASKS_NAME.search(question_in(asked)) else None
    if apposed is not None and is_echo(apposed["what"], asked):
        yield apposed.span("one")


_ASKS_WORD = regex(r"\b(?:which|what)\s+(?:\w+\s+)?(?:word|letter|term|syllable)\b", re.IGNORECASE)
_QUOTED = regex(r"(?<!\w)['\"‘“](?P<one>[^'\"’”\n]{1,30})['\"’”](?!\w)")


def word_quoted(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the one word in quotes of a clause, where it is asked which word it is: "The last word, 'twice'"."""
    quoted = list(_QUOTED.finditer(text, start, end)) if _ASKS_WORD.search(question_in(asked)) else []
    if len(quoted) == 1:
        yield quoted[0].span("one")


# "Which gas do plants give off?"
_ASKS_PHRASAL = regex(
    r"\b(?:do|does|did)\s[^?]{1,60}?\b(?P<verb>[a-z]{3,})\s+(?P<particle>off|out|up|in|on|down|away|back|over)\b",
    re.IGNORECASE,
)


def object_of_phrasal(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the object of the question's own verb of two words: "plants take in one gas and give off oxygen"."""
    wanted = _ASKS_PHRASAL.search(question_in(asked))
    if wanted is None:
        return
    verb, particle = wanted["verb"].removesuffix("e"), wanted["particle"]
    says = re.compile(
        rf"\b{re.escape(verb)}(?:e?s|e?d|e)?\s+{particle}\s+(?P<one>[^,;:.()]{{1,40}}?)"
        r"(?=[,;:.(]|\s+(?:and|but|while|at|in|on|to|when|through|for|from|by|during)\b|\W*\Z)",
        re.IGNORECASE,
    )
    for said in says.finditer(text, start, end):
        yield said.span("one")
