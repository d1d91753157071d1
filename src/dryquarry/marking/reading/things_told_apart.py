"""The things of a question's list in groups, with what is said of each: "cow and bat bear young; the hen lays eggs"."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.reading.asked_lists import things_asked
from dryquarry.marking.reading.echo import content_of, question_in
from dryquarry.marking.reading.list_exceptions import ASKS_WHICH_NOT
from dryquarry.marking.reading.offers import Mention, mentions_of
from dryquarry.marking.reading.order_put_together import direction_asked
from dryquarry.marking.regexes import regex

LEAST = 3
MOST_THINGS = 12
MOST_WORDS_BESIDE = 9
LONGEST_STRETCH = 600
_JOINED = regex(
    r"[\s'\"‘’“”]*,?[\s'\"‘’“”]*(?:&|and\b|as\s+well\s+as\b)?\s*(?:both\s+)?(?:the\s+|an?\s+)?['\"‘“]?", re.IGNORECASE
)
_LEADS = regex(
    r"[\s,;.:]*(?:(?:and|but|while|whereas|so|also|too|thus|hence|therefore|both)\b[\s,]*)*(?:the\s+|an?\s+)?\Z",
    re.IGNORECASE,
)
_UNCERTAIN = regex(
    r"\b(?:perhaps|possibly|maybe|might|may|only|but\s+for|except|or|if|all|every\w*|none|nor|neither|most|some|either|the\s+(?:others?|rest)\s+(?:are|is|do|does|have|has|can)\s+not)\b|\?|:\s",
    re.IGNORECASE,
)
_DENIES = regex(r"\b(?:not?|never|without|cannot)\b|n['’]t\b", re.IGNORECASE)
_DOES = regex(r"\W*(?:do|does|are|is|was|were|can|have|has)(?:\W+(?:so|too|as\s+well|also))?\W*", re.IGNORECASE)
# "yes: hen, frog; no: cow"
_YES_AND_NO = regex(
    r"\W*(?:(?P<first>yes):\s*(?P<yes>[^;\n:]+)[;\n,.]\s*no:[^;\n:]+|no:[^;\n:]+[;\n,.]\s*yes:\s*(?P<only>[^;\n:]+))",
    re.IGNORECASE,
)


@lru_cache(maxsize=64)
def told_apart(text: str, start: int, end: int, asked: str) -> tuple[Mention, ...]:
    """Return the things of which a stretch says what was asked, where it says something else of the others.

    Nothing where it says so of all that it names together, or where what it says is not told thing by thing.
    """
    things = things_asked(asked)
    if not LEAST <= len(things) <= MOST_THINGS or end - start > LONGEST_STRETCH or direction_asked(asked) is not None:
        return ()
    if (labelled := _YES_AND_NO.fullmatch(text, start, end)) is not None:
        return tuple(mentions_of(things, text, *labelled.span("yes" if labelled["first"] else "only")))
    if _UNCERTAIN.search(text, start, end) or ASKS_WHICH_NOT.search(question_in(asked)):
        return ()
    groups = _groups(things, text, start, end)
    about = content_of(question_in(asked)) - {word for thing in things for word in content_of(thing)}
    told = [_said(text[slice(*span)], about) for _, span in groups]
    if len(groups) < LEAST - 1 or None in told or True not in told or all(told):
        return ()
    return tuple(one for (group, _), right in zip(groups, told, strict=True) if right for one in group)


def _groups(things: tuple[str, ...], text: str, start: int, end: int) -> list[tuple[list[Mention], tuple[int, int]]]:
    """Return the groups of things that stand together, each with where it is told of them; none for one told twice."""
    found = mentions_of(things, text, start, end)
    if len({thing for thing, _, _ in found}) != len(found) or not found:
        return []
    if len(text[start : found[0][1]].split()) > MOST_WORDS_BESIDE - LEAST:
        return []
    groups: list[list[Mention]] = [[found[0]]]
    for one in found[1:]:
        if _JOINED.fullmatch(text, groups[-1][-1][2], one[1]):
            groups[-1].append(one)
        else:
            groups.append([one])
    ends = [*(group[0][1] for group in groups[1:]), end]
    spans = []
    for group, last in zip(groups, ends, strict=True):
        first = group[-1][2]
        leads = _LEADS.search(text, first, last)
        spans.append((first, leads.start() if leads else last))
    return list(zip(groups, spans, strict=True))


def _said(words: str, about: frozenset[str]) -> bool | None:
    """Return whether words say of things that they are as asked; None where they say nothing or too much."""
    if not words.strip(" ,;.") or len(words.split()) > MOST_WORDS_BESIDE:
        return None
    if _DENIES.search(words):
        return False
    return _DOES.fullmatch(words) is not None or bool(content_of(words) & about)
