"""The one new thing that a clause says beyond the question: "nail" of "A hammer drives a nail"."""

from __future__ import annotations

import re
from collections.abc import Iterator

from dryquarry.marking.reading.echo import content_of, is_base_of_verb, is_echo, is_verb, question_in, stem
from dryquarry.marking.regexes import regex

LONGEST_CLAUSE_WORDS = 24
# "Which word is missing?" asks about what stands before it.
FEW_WORDS = 2
_WORD = regex(r"[^\W\d_]+(?:['’-][^\W\d_]+)*")
# A clause with one of these may name what the answer is not, or not surely.
_TURNS = regex(
    r"\b(?:not?|never|none|neither|nor|nothing|without|cannot|unlike|instead|rather|than|except|but|like|near|"
    r"if|unless|would|could|might|may|perhaps|maybe|or|think|thought|say|said|seems?|former|other|another|from)\b|n['’]t\b|\?",
    re.IGNORECASE,
)
_BEFORE_NOUN_TEXT = "a an the this that these those of in on at to for from by with as no any its his her"
_BEFORE_NOUN = frozenset(_BEFORE_NOUN_TEXT.split())
_LITTLE_TEXT = "now then still also just only too again always early late both get got"
_LITTLE_WORDS = frozenset(_LITTLE_TEXT.split())


def only_new_word(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the one word of a clause that is neither the question's nor a verb; nothing where there are several."""
    words = list(_WORD.finditer(text, start, end))
    if not 3 <= len(words) <= LONGEST_CLAUSE_WORDS or _TURNS.search(text, start, end):
        return
    question = question_in(asked)
    if not content_of(text[start:end]) & content_of(asked):
        return
    new = [word for place, word in enumerate(words) if _is_new(words, place, question)]
    if len({stem(word.group()) for word in new}) > 1 and len(content_of(question)) <= FEW_WORDS:
        new = [word for word in new if not is_echo(word.group(), asked)]
    if len({stem(word.group()) for word in new}) == 1:
        yield new[0].span()


def _is_new(words: list[re.Match[str]], place: int, question: str) -> bool:
    """Tell whether a word says something new and is no verb, by its form and by what stands before it."""
    word = words[place].group()
    low = word.lower()
    if is_echo(word, question) or low in _LITTLE_WORDS or low.endswith("ly") or is_verb(low) or is_base_of_verb(low):
        return False
    before = words[place - 1].group().lower() if place else ""
    may_be_verb = low == word and low.endswith(("s", "ed")) and not low.endswith("ss")
    infinitive = before == "to" and place + 1 < len(words) and words[place + 1].start() == words[place].end() + 1
    return not (may_be_verb and before and before not in _BEFORE_NOUN) and not infinitive
