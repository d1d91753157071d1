"""Which of the things asked about are more so than one: "Eske is older than Bo, but younger than Ada and Cleo"."""

from __future__ import annotations

import re

from dryquarry.marking.reading.asked_lists import listed_in, things_of
from dryquarry.marking.reading.comparisons import same_way
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.members_named import NamedMember
from dryquarry.marking.reading.offers import mentions_of
from dryquarry.marking.regexes import regex

# "Who of them is older than Eske?"
_ASKS_THAN = regex(
    r"\b(?:is|are|was|were)\s+(?P<more>[a-z]{2,}er)\s+than\s+(?:the\s+)?(?P<one>[^,?;]{2,30}?)(?=\s*[,?;]|\s+(?:if|and|when)\b)",
    re.IGNORECASE,
)
_COMPARES = regex(r"\b(?P<more>[a-z]{2,}er)\b(?:\s+(?P<than>than)\b)?", re.IGNORECASE)
_LEFT_OUT = regex(r"\b(?:but|and|yet|though)\s+(?:also\s+)?\Z", re.IGNORECASE)
_NOT = regex(r"\b(?:not|no|never|neither|nor|only|if|as)\b|n['’]t\b|\?", re.IGNORECASE)


def more_than_one(text: str, start: int, end: int, asked: str) -> tuple[NamedMember, ...]:
    """Return those things that a stretch says to be more so, as the question has it; none where it says it otherwise.

    A stretch is read so only where it compares at least twice, or puts the one before the others.
    """
    things = listed_in(things_of(asked))
    question = _ASKS_THAN.search(question_in(asked))
    if question is None or len(things) < 3 or _NOT.search(text, start, end):
        return ()
    said = [one for one in _COMPARES.finditer(text, start, end) if same_way(one["more"].lower(), asked) is not None]
    turned, found = False, list[NamedMember]()
    bounds = [start, *(one.end() for one in said), end]
    for one, before, behind in zip(said, bounds, bounds[2:], strict=False):
        left_out = _LEFT_OUT.search(text, before, one.start()) is not None  # "…, but younger than …"
        subject = [] if left_out else mentions_of((*things, question["one"]), text, before, one.start())
        of_one = [name for name, *_ in subject][-1:] == [question["one"].casefold()]
        way = same_way(one["more"].lower(), asked)
        if one["than"] and (of_one or (turned and not subject)):
            turned = True
            found += mentions_of(things, text, one.end(), behind) if not way else []
        elif way:
            found += [mention for mention in subject if mention[0] != question["one"].casefold()]
    return tuple((text[first:last], first, last) for _, first, last in found) if turned or len(said) > 1 else ()
