"""The marker of every scheme that reads one answer: take the reply apart, settle which claim stands, compare it."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import Generic, Protocol, TypeVar

from dryquarry.marking.model import Mark, Marker, Marking, Verdict, failed, scored
from dryquarry.marking.reading.claims import Claim, Question, Stance
from dryquarry.marking.reading.courtesies import heard
from dryquarry.marking.reading.kinds import Kind, Settled
from dryquarry.marking.reading.of_else import is_told_of_else
from dryquarry.marking.reading.settling import not_heard, settle
from dryquarry.marking.reading.short_way import answer_line_at_end
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.texts import shortened

Value = TypeVar("Value")
Compared = TypeVar("Compared", contravariant=True)
MOST_ANSWER = 200
# How many different answer lines are remembered with their marks: entrants often say the same.
KNOWN_LINES = 1024
_DEFENSIBLE = (Stance.ASSERTED, Stance.HEDGED, Stance.SUPPOSED, Stance.REPORTED, Stance.ASKED)


class Verdicts(Protocol, Generic[Compared]):
    """How values of a scheme compare with its key: the only place that knows the key."""

    def score(self, claim: Claim[Compared]) -> float:
        """Return the score of a claim, from 0 to 1."""
        ...

    def said(self, claim: Claim[Compared]) -> str:
        """Return in words what was read."""
        ...

    def said_key(self) -> str:
        """Return the key in words."""
        ...

    def nothing(self) -> str:
        """Return what is missing where nothing was read."""
        ...

    def where(self, claim: Claim[Compared]) -> tuple[int, int]:
        """Return where in the view the words stand that count as the answer: of a claim, or of a reading of it."""
        return claim.start, claim.end

    def otherwise(self, claim: Claim[Compared]) -> str | None:
        """Return how a claim that fails may be read otherwise so that it passes; None where it cannot."""
        return None

    def names(self, claim: Claim[Compared]) -> tuple[int, int] | None:
        """Return where words stand that hold the key, in a claim that may say more than that; None where none do."""
        return self.where(claim) if self.score(claim) >= 1 else None

    def leaves(self, put_out: Sequence[Claim[Compared]]) -> bool:
        """Tell whether what a reply denies or only weighs leaves the key, where it says nothing else."""
        return False

    def said_beside(self, text: str, final: Claim[Compared]) -> str | None:
        """Return words of a reply that hold the key beside what was read of it; None where none do."""
        return None


def reading_marker(marking: Marking, kind: Kind[Value], verdicts: Verdicts[Value]) -> Marker:
    """Return the marker that reads the answer of a kind and compares it."""
    question = Question(marking.asked, marking.answer_line)

    def read(text: str) -> Mark:
        reply = heard(text, marking.asked)
        settled = settle(reply, question, kind)
        mark = _marked(reply, _without_rivals_of_else(reply, question, settled), verdicts)
        if not mark.sure or mark.verdict != Verdict.FAIL:
            return mark
        # beside an answer line that is taken at its word only what it says itself could be meant
        telling = settled.place is not None and settled.place.telling
        claims = settled.claims if telling else (*settled.claims, *not_heard(reply, question, kind, settled))
        said = next((said for claim in claims if claim.stands and (said := verdicts.names(claim))), None)
        where = verdicts.where(settled.final) if settled.final is not None else None
        if said is not None and (where is None or not is_told_of_else(reply.text, question.asked, where, said)):
            return _unsure(mark, reply.text[slice(*said)], "is said, too")
        return mark if telling else _unless_put_otherwise(mark, reply, settled, verdicts, claims)

    by_line = lru_cache(maxsize=KNOWN_LINES)(read)

    def mark(text: str) -> Mark:
        start = answer_line_at_end(text, question.answer_line)
        if start is not None:
            return _moved(by_line(text[start:]), start)
        return read(text) if text.strip() else failed("the reply is empty")

    return mark


def _moved(mark: Mark, by: int) -> Mark:
    """Return the mark of a line with its places as they are in the whole reply."""
    if not by or mark.start is None or mark.end is None:
        return mark
    return replace(mark, start=mark.start + by, end=mark.end + by)


def settled_answer(text: str, marking: Marking, kind: Kind[Value]) -> Settled[Value]:
    """Return what stands in a text, for those who show how it is read."""
    return settle(heard(text, marking.asked), Question(marking.asked, marking.answer_line), kind)


@dataclass(frozen=True, slots=True)
class Reading:
    """One claim of a reply for a person to look at: its words, its place in the original, and how it is meant."""

    text: str
    start: int
    place: str
    stance: str
    cue: str
    stands: bool


def readings_in(text: str, marking: Marking, kind: Kind[Value]) -> list[Reading]:
    """Return what a reply claims, in its order, each once."""
    if not text.strip():
        return []
    reply = heard(text, marking.asked)
    question = Question(marking.asked, marking.answer_line)
    settled = settle(reply, question, kind)
    finals = [claim for claim in (settled.final, *settled.others) if claim is not None]
    found: dict[tuple[int, int], Reading] = {}
    for claim in (*settled.claims, *not_heard(reply, question, kind, settled), *finals):
        stands = any(claim.start <= final.start and final.end <= claim.end for final in finals) and claim.stands
        words = shortened(_words(reply, claim), MOST_ANSWER)
        one = Reading(words, reply.origin(claim.start), str(claim.place.kind), str(claim.stance), claim.cue, stands)
        before = found.get((claim.start, claim.end))
        if before is None or (stands and not before.stands):
            found[claim.start, claim.end] = one
    return sorted(found.values(), key=lambda one: one.start)


def _without_rivals_of_else(reply: Reply, question: Question, settled: Settled[Value]) -> Settled[Value]:
    """Return what stands without the rivals that are told of something else."""
    final = settled.final
    if final is None or not settled.rivals:
        return settled
    span = (final.start, final.end)
    rivals = [
        one for one in settled.rivals if not is_told_of_else(reply.text, question.asked, span, (one.start, one.end))
    ]
    return replace(settled, rivals=tuple(rivals))


def _marked(reply: Reply, settled: Settled[Value], verdicts: Verdicts[Value]) -> Mark:
    key = f"key {verdicts.said_key()}"
    final = settled.final
    if final is None:
        return _unread(reply, settled, verdicts, key)
    score = verdicts.score(final)
    beside = [other for other in settled.others if verdicts.score(other) < 1 or score < 1]
    said = _words(reply, final)
    if beside:
        reason = f"two final answers, '{shortened(said)}' and '{shortened(_words(reply, beside[0]))}'; {key}"
        return _placed(failed(reason), reply, settled, verdicts.where(final))
    mark = _placed(scored(score, f"{verdicts.said(final)}; {key}"), reply, settled, verdicts.where(final))
    if score < 1 and (otherwise := verdicts.otherwise(final)) is not None:
        return replace(mark, sure=False, unsure_because=otherwise)
    for rival in settled.rivals:
        if (verdicts.score(rival) >= 1) is not (score >= 1):
            return _unsure(mark, _words(reply, rival), "also stands as an answer")
    return mark


# What denies by a word of its own; other verbs, "discarded", may be of something else.
_FIRMLY = regex(
    r"\b(?:not?|never|neither|nor|none|cannot|wrong|false|incorrect|rather|unlike|except|but|than|instead|out)\b|n['’]t\b",
    re.IGNORECASE,
)


def _unless_put_otherwise(
    mark: Mark, reply: Reply, settled: Settled[Value], verdicts: Verdicts[Value], claims: Sequence[Claim[Value]]
) -> Mark:
    """Return a failed mark, unsure where the key is denied only by a verb, or said beside what was read."""
    for claim in claims:
        if claim.stance is Stance.DENIED and claim.cue and not _FIRMLY.search(claim.cue) and verdicts.names(claim):
            return _unsure(mark, _words(reply, claim), "is denied, and may be meant as the answer")
    beside = verdicts.said_beside(reply.text, settled.final) if settled.final is not None else None
    return mark if beside is None else _unsure(mark, beside, "is said beside it")


def _unsure(mark: Mark, words: str, why: str) -> Mark:
    return replace(mark, sure=False, unsure_because=f"'{shortened(words.strip(), 40)}' {why}")


def _unread(reply: Reply, settled: Settled[Value], verdicts: Verdicts[Value], key: str) -> Mark:
    """Return the mark of a reply in which nothing stands; unsure where what it says in another way would pass."""
    place = settled.place
    stretch = reply.text[place.start : place.end] if place else reply.text.strip()
    last = settled.claims[-1] if settled.claims else None
    why = (
        f", for '{shortened(_words(reply, last), 40)}' is {last.stance}" if last is not None and not last.stands else ""
    )
    mark = failed(f"{verdicts.nothing()} in '{shortened(stretch)}'{why}; {key}", shortened(stretch, MOST_ANSWER))
    if place is not None:
        mark = replace(
            mark,
            read_by=str(place.kind),
            start=reply.origin(place.start),
            end=reply.origin(place.end - 1) + 1,
            rule=settled.rule,
        )
    for claim in settled.claims:
        if claim.stance in _DEFENSIBLE and verdicts.score(claim) >= 1:
            return _unsure(mark, _words(reply, claim), f"is {claim.stance}, and may be meant as the answer")
    if settled.claims and verdicts.leaves(settled.claims):
        return _unsure(mark, _words(reply, settled.claims[-1]), "does not stand, which may be meant to leave the key")
    # what says something, and nothing that could be read, may say it in a way that is not known here
    return mark if settled.claims else _unsure(mark, stretch, "could not be read")


def _placed(mark: Mark, reply: Reply, settled: Settled[Value], where: tuple[int, int]) -> Mark:
    start, end = where
    return replace(
        mark,
        answer=shortened(reply.text[start:end].strip(), MOST_ANSWER),
        read_by=str(settled.place.kind) if settled.place else None,
        start=reply.origin(start),
        end=reply.origin(max(start, end - 1)) + 1,
        rule=settled.rule,
    )


def _words(reply: Reply, claim: Claim[Value]) -> str:
    return reply.text[claim.start : claim.end].strip()
