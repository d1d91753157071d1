"""Scheme `abstain`: the reply says that the question cannot be answered from what is given, and does not answer it."""

from __future__ import annotations

from dataclasses import dataclass, replace

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.courtesies import heard
from dryquarry.marking.reading.declining import Says, abstention_in, refusal_in
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
            return failed("the reply does not say that the question cannot be answered from what is given")
        if found.anyway is not None:
            reason = f"says '{shortened(found.says.words)}', and answers '{shortened(found.anyway.words)}' all the same"
            return _placed(failed(reason), reply, found.anyway)
        return _placed(passed(f"says '{shortened(found.says.words)}', and answers nothing"), reply, found.says)

    return mark


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
