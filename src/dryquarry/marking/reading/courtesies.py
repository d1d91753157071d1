"""What a reply says between its courtesies: "Great question!" before it and "I hope this helps!" after it are no part.

Where an answer stands, whether it opens the reply and whether it stands alone are told as if they were not there.
"""

from __future__ import annotations

import re
from dataclasses import replace
from functools import cache, lru_cache

from dryquarry.marking.cues import cue
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply, Sentence, take_apart

LONGEST_COURTESY = 160
LONGEST_QUESTION = 2_000
LEAST_WORDS_OF_QUESTION = 4
_SIGNS = r"[\s*_>\"'(¡¿\u2600-\u27bf\U0001f300-\U0001faff\ufe0f]{0,12}"


@lru_cache(maxsize=8)
def heard(text: str, asked: str = "") -> Reply:
    """Return what a reply says between its courtesies, taken apart; the whole where it says nothing else."""
    start, end = _without_courtesies(text)
    if (repeated := _question(asked).match(text, start, end)) is not None:
        start = repeated.end()
    said = text[start:end]
    return _without_opinions(take_apart(said, start) if said.strip(" \t\r\n*_.!>#") else take_apart(text))


def _without_opinions(reply: Reply) -> Reply:
    """Return a reply whose sentences begin behind words that only say whose view it is: "I think", "in my view"."""
    moved = [_behind_opinion(one) for one in reply.sentences]
    return replace(reply, sentences=tuple(moved)) if moved != list(reply.sentences) else reply


def _behind_opinion(sentence: Sentence) -> Sentence:
    opinion = _opinion().match(sentence.text)
    if opinion is None:
        return sentence
    return replace(sentence, start=sentence.start + opinion.end(), text=sentence.text[opinion.end() :])


@cache
def _opinion() -> re.Pattern[str]:
    return cue("opinions", r"[\"'(*\s]{0,4}(?:(?:so|and|but|now),?\s+)?", r"\s+(?!so\b|not\b|I\b)(?=\w)")


def _without_courtesies(text: str) -> tuple[int, int]:
    start, end = _behind_thoughts(text), len(text.rstrip())
    while (opening := _greeting().match(text, start, min(end, start + LONGEST_COURTESY))) is not None:
        start = opening.end()
    while (begin := _leave_taking(text, start, end)) is not None:
        end = begin
    return start, end


@lru_cache(maxsize=256)
def _question(asked: str) -> re.Pattern[str]:
    """Return the pattern of the question said over again, to the letter, with which a reply may begin."""
    words = re.findall(r"[^\W_]+", asked[:LONGEST_QUESTION])
    if len(words) < LEAST_WORDS_OF_QUESTION:
        return re.compile(r"(?!)")
    said = r"[\W_]+".join(map(re.escape, words))
    label = r"(?:(?:the\s+)?(?:question|problem|task|prompt|q)\W+)?"
    return re.compile(rf"\W*{label}{said}[^\w\n(]*(?:\n[\s>*_-]*(?=\S)|\s+)", re.IGNORECASE)


# What a model thinks before it answers; of some only the end is sent.
_THOUGHTS = regex(r"</(?:think|thinking|thought|thoughts|reasoning)>", re.IGNORECASE)


def _behind_thoughts(text: str) -> int:
    """Return where a reply begins behind what its model thought, where that is set off: "<think> … </think>"."""
    return max((match.end() for match in _THOUGHTS.finditer(text)), default=0)


@cache
def _greeting() -> re.Pattern[str]:
    # signs behind it belong to what follows: "Sure! **Riga**"
    return cue(
        "greets", _SIGNS, r"(?:\s?[.!…]+[*_\"')]*(?=\s)|:?(?=\s*\n))[\s\u2600-\u26ff\U0001f300-\U0001f64f\ufe0f]*(?=\S)"
    )


@cache
def _leaving() -> re.Pattern[str]:
    return cue("takes leave", rf"{_SIGNS}(?:and\s+)?", rf"\s?[.!?…]*{_SIGNS.replace('(', ')')}\Z")


def _leave_taking(text: str, start: int, end: int) -> int | None:
    """Return where the last sentence begins, where it is one that takes leave."""
    first = max(start, end - LONGEST_COURTESY)
    for match in re.finditer(r"(?:(?<=[.!?…])[*\"')]*\s+|\n)(?=\S)", text[first:end]):
        if _leaving().match(text[first + match.end() : end]):
            return first + match.start() + len(match.group().rstrip())
    return None
