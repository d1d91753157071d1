"""Scheme `abstain`: the reply says that the question cannot be answered from what is given, and does not answer it."""

from __future__ import annotations

import re
from dataclasses import dataclass, replace

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.courtesies import heard
from dryquarry.marking.reading.declining import BOUND, Says, abstention_in, refusal_in
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.texts import shortened


def prepare(marking: Marking) -> Marker:
    """Return the marker for abstaining; raises MarkingFault when a phrase is no text."""
    phrases = phrases_of(marking)

    def mark(text: str) -> Mark:
        reply = heard(text, marking.asked)
        found = abstention_in(reply, marking.answer_line, phrases, marking.asked)
        refusal = refusal_in(reply, marking.answer_line)
        if refusal is not None:
            return _placed(
                failed(f"declines ('{shortened(refusal.words)}') on other grounds than what is given"), reply, refusal
            )
        if found.says is None:
            mark = failed("the reply does not say that the question cannot be answered from what is given")
            gives = _NEW_VALUE.search(_without_given(reply.text, marking.asked)) or not _ASKS_VALUE.search(
                marking.asked
            )
            return mark if gives else _unsure(mark, _NO_ANSWER)
        if found.anyway is not None:
            reason = f"says '{shortened(found.says.words)}', and answers '{shortened(found.anyway.words)}' all the same"
            mark = _placed(failed(reason), reply, found.anyway)
            return (
                _unsure(mark, f"'{shortened(found.anyway.words, 40)}' bounds it")
                if BOUND.match(found.anyway.words)
                else mark
            )
        mark = _placed(passed(f"says '{shortened(found.says.words)}', and answers nothing"), reply, found.says)
        guessed = _GUESSES.search(reply.text)
        return (
            mark
            if guessed is None
            else _unsure(mark, f"'{guessed['said'] or guessed['before']}' may be meant as the answer")
        )

    return mark


_ASKS_VALUE = regex(r"\b(?:how|when|what\s+(?:time|share|age|year|date|part))\b", re.IGNORECASE)
_NO_ANSWER = "it gives no answer either"
_NEW_VALUE = regex(r"\d|\b(?:one|two|three|four|five|six|seven|eight|nine|ten|eleven|twelve|yes|no)\b", re.IGNORECASE)
# "6 March, I suppose", "I'd go for 8:20", where it is said that it cannot be known
_GUESSES = regex(
    r"\b(?:I\s+(?:suppose|guess|assume|take)|I['’]d\s+(?:go\s+for|say|guess|bet\s+on)|probably|presumably)\b(?P<between>[^.?!]{0,30}?)\b"
    r"(?P<said>\d[\d.,:]*)|(?P<before>\d[\d.,:]*(?:\s[^\W\d_]+)?),\s+I\s+(?:suppose|guess|assume|think)\b",
    re.IGNORECASE,
)


def _without_given(text: str, asked: str) -> str:
    """Return a text without the numbers that the question has, too."""
    return re.sub(r"\d[\d.,:]*\d|\d", lambda one: "" if one.group() in asked else one.group(), text)


def _unsure(mark: Mark, why: str) -> Mark:
    return replace(mark, sure=False, unsure_because=why)


@dataclass(frozen=True, slots=True)
class PhraseOptions:
    """`phrases` are more ways to say so than those that are built in."""

    phrases: list[str] | None = None


def phrases_of(marking: Marking) -> tuple[str, ...]:
    """Return the phrases that a suite adds to the built-in ones; raises MarkingFault."""
    phrases = options_of(PhraseOptions, marking).phrases or []
    if not all(isinstance(phrase, str) and phrase.strip() for phrase in phrases):
        raise MarkingFault(f"option 'phrases' of scheme '{marking.scheme}' wants a list of texts")
    return tuple(phrases)


def _placed(mark: Mark, reply: Reply, says: Says) -> Mark:
    place = {"start": reply.origin(says.start), "end": reply.origin(max(says.start, says.end - 1)) + 1}
    return replace(mark, answer=shortened(says.words, 200), read_by="whole reply", **place)  # type: ignore[arg-type]


SCHEME = Scheme(
    name="abstain", options=option_types(PhraseOptions), prepare=prepare, marks_refusals=True, reads_whole=True
)
