"""Features of answers in words, and of options: their form, and how much of them stands in the question."""

from __future__ import annotations

import re
from collections.abc import Hashable
from typing import TypeVar

from dryquarry.marking.reading.chosen import Chosen
from dryquarry.marking.reading.claims import Found
from dryquarry.marking.reading.echo import content_of, question_in, stem
from dryquarry.marking.reading.likely import Likelihood
from dryquarry.marking.reading.likely_features import Features, Said, Scene
from dryquarry.marking.reading.named import Named
from dryquarry.marking.reading.possible_answers import possible_in
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.texts import trimmed

Value = TypeVar("Value")
MOST_WORDS = 6
_WORDS = regex(r"[^\W\d_]+(?:['’][a-z]+)?|\d+(?:[.,]\d+)*")
_ASKS = regex(r"\b(?:who|whose|where|when|which|what|how|why|does|is|are|can|do)\b", re.IGNORECASE)
_FUNCTION_WORDS_TEXT = "the a an it that this he she they one in on at to of by for with from not no yes"
_FUNCTION_WORDS = frozenset(_FUNCTION_WORDS_TEXT.split())
_VERBS_TEXT = "is was are were has have had does did lies flows made makes became"
_VERBS = frozenset(_VERBS_TEXT.split())
_JOINING_TEXT = (
    "but and or so when where while who which what whose how as if because since also too both then than there here "
    "whereas although though"
)
_JOINING = frozenset(_JOINING_TEXT.split())


def named_token(named: Named) -> Hashable:
    """Return what two answers in words share that are one answer."""
    return named.texts[0].casefold().strip(" .*_") if named.texts else ""


def chosen_token(chosen: Chosen) -> Hashable:
    """Return what two choices share that are one."""
    return chosen.letters, chosen.contradiction


def named_piece(reply: Reply, start: int, end: int) -> Found[Named] | None:
    """Return what a piece of a sentence names; None where it says more than a name, or nothing."""
    start, end = trimmed(reply.text, start, end)
    text = reply.text[start:end]
    if not text or text.count(" ") >= MOST_WORDS or not content_of(text):
        return None
    if {word.lower() for word in _WORDS.findall(text)} <= _FUNCTION_WORDS | _VERBS | _JOINING:
        return None
    return Found(Named(((text, start, end),), True, (start, end)), start, end)


def features(scene: Scene[Value]) -> list[Features]:
    """Return the features that only texts have, claim by claim."""
    asked = scene.question.asked
    told = content_of(asked)
    asks = _ASKS.search(question_in(asked))
    wanted = asks[0].lower() if asks else ""
    return [_form(scene.reply.text, said, asked.lower(), told, wanted) for said in scene.said]


def named_features(scene: Scene[Named]) -> list[Features]:
    """Return the features of answers in words: those of texts, and whether the question offers or asks for such."""
    asked = scene.question.asked
    found = []
    for said, form in zip(scene.said, features(scene), strict=True):
        possible = possible_in(scene.reply.text, said.claim.start, said.claim.end, asked)
        may = "unknown" if possible is None else "yes" if len(possible) == 1 else "several" if possible else "no"
        words = {word.lower() for word in _WORDS.findall(scene.reply.text, said.claim.start, said.claim.end)}
        only_function_words = words <= (_FUNCTION_WORDS | _VERBS | _JOINING)
        found.append(form | {f"may answer: {may}": 1.0, "only function words": only_function_words})
    return found


def _form(text: str, said: Said[Value], asked: str, told: frozenset[str], wanted: str) -> Features:
    own = text[said.claim.start : said.claim.end].strip(" .*_")
    words = [word.lower() for word in _WORDS.findall(own)]
    in_told = [stem(word) in told for word in words]
    in_question = own.lower() in asked
    capital, count = own[:1].isupper(), min(len(words), 3)
    return {
        "in the question": in_question,
        "words in the question": sum(in_told) / max(1, len(words)),
        "some words in the question": any(in_told) and not all(in_told),
        "words": min(len(words), 8) / 8,
        "one word": len(words) == 1,
        "more than four words": len(words) > 4,
        "capital": capital,
        "capital within": capital and said.claim.start > said.stretch[0] + 1,
        "digit": any(sign.isdigit() for sign in own),
        "has a verb": any(word in _VERBS for word in words),
        f"opens: {words[0]}" if words and words[0] in _FUNCTION_WORDS else "opens otherwise": 1.0,
        f"asks {wanted}, capital: {capital}, words: {count}": 1.0,
        f"asks {wanted}, in the question: {in_question}": 1.0,
        f"asks {wanted}, first word of the sentence: {said.claim.start <= said.stretch[0] + 4}": 1.0,
    }


NAMED: Likelihood[Named] = Likelihood(
    "phrases", named_token, named_features, much=0.95, piece=named_piece, by_sentence_chosen=True
)
CHOSEN: Likelihood[Chosen] = Likelihood("options", chosen_token, features, much=0.4)
