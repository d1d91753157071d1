"""Which of the numbers of a sentence is its result: the end of an equation, what is set in bold, what is new."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache
from typing import ClassVar

from dryquarry.marking.reading.amounts_contrasted import without_departures, without_others
from dryquarry.marking.reading.amounts_kept import kept
from dryquarry.marking.reading.amounts_results import in_line, in_sentence, rivals
from dryquarry.marking.reading.amounts_weighed import (
    COMES_TO_IN_ALL,
    EQUATION,
    IN_ALL,
    IN_UNIT,
    IS_REST,
    LONGEST_LABEL,
    OF_NAME,
    OF_THESE,
    OF_THESE_NAMED,
    REST,
    SAYS_OF_NAME,
    SOLVED,
    concludes_numbers,
    weight_of,
)
from dryquarry.marking.reading.asked_amounts import in_best_clause
from dryquarry.marking.reading.claims import Claim, Found, Place, PlaceKind, Question
from dryquarry.marking.reading.echo import echo, echo_of_it
from dryquarry.marking.reading.equations import close
from dryquarry.marking.reading.further_amounts import alternatives
from dryquarry.marking.reading.kinds import Choice, Weight
from dryquarry.marking.reading.likely import Likelihood
from dryquarry.marking.reading.likely_numbers import NUMBERS
from dryquarry.marking.reading.stretches import Claims, Stretch, none_of
from dryquarry.marking.reading.supposed_amounts import is_only_at_times
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.reply.view import view_of
from dryquarry.marking.values.numbers import Shape, find_terms, is_counter_at
from dryquarry.marking.values.quantities import Find, Quantity, find_ordinals

# "110, as two lessons of 45 minutes …": the first number is the answer, though it has no unit
_STANDS_FIRST = regex(r"[\s(*]*\Z")
_PAUSES = regex(r"\s*[,;]\s(?!\d)")
_SAYS_OF_IT = regex(
    r"\s*,\s(?:all|both|each|as|since|because|which(?!\s+(?:is|makes|gives|equals)\s+[€$£]?\d)|for|namely|if)\b[^=]*\Z",
    re.IGNORECASE,
)
_IN_FOUR = regex(
    r"\s+(?:in|out of)\s+(?:every\s+)?(?:\d|two|three|four|five|six|seven|eight|nine|ten|twelve|twenty)", re.IGNORECASE
)


# "after n folds there are 2ⁿ": a formula, and no number; "12 + 75 =", where a reply breaks off
_NO_RESULT = regex(r"[ⁿⁱᵃᵇᶜᵈᵉᵏᵐᵖʳˢᵗᵘᵛʷˣʸᶻ]|\^\{?[a-z]\b|\s?=\s{0,4}\Z")


_BY_HOW_MUCH = regex(r"\bby\s+how\s+(?:much|many)\b", re.IGNORECASE)
_SO_BEFORE = regex(
    r"[,;]\s(?:(?:and\s)?(?:so|hence|thus|therefore)\s[^,;:\d]{1,40}|(?:leaving|(?:which|that)\s(?:leaves|makes))\s[^,;:\d]{0,20})\Z",
    re.IGNORECASE,
)
_THREE_BEHIND = regex(r"[1-9]\d{0,2}[.,]\d{3}")


def as_worked_out(found: list[Quantity]) -> list[Quantity]:
    """Return quantities with the mark of thousands where the sum before it says that it is one: "135 × 60 = 8.100"."""
    read = list(found)
    for number, (sum_of, one) in enumerate(itertools.pairwise(found), start=1):
        if one.relation == "=" and sum_of.shape is Shape.SUM and _THREE_BEHIND.fullmatch(one.text):
            read[number] = replace(one, value=one.value * 1000) if sum_of.value == one.value * 1000 else one
    return read


def _is_pronoun(text: str, number: Quantity) -> bool:
    """Tell whether a "one" stands for a thing, and not for a number: "just one more", but "one in four"."""
    return number.text.lower() == "one" and number.unit is None and not _IN_FOUR.match(text, number.end)


@dataclass(frozen=True, slots=True)
class Amounts:
    """Numbers, with or without units: how they are found, and which of several is the result."""

    finder: Find
    ordinals: bool = False
    counted: str | None = None
    lists: bool = False
    likelihood: ClassVar[Likelihood[Quantity]] = NUMBERS

    def find(self, reply: Reply, place: Place) -> list[Found[Quantity]]:
        """Return the numbers of a stretch, but those that only count something up."""
        text = reply.text
        if text[place.start - 1 : place.start] == ":":
            text = f"{text[: place.start - 1]} {text[place.start :]}"  # "Answer:2:18": the colon is no part of a time
        found = self.finder(text, place.start, place.end)
        found = [one for one in as_worked_out(found) if not _NO_RESULT.match(text, one.end)]
        first = place.start if place.telling else -1  # "**Answer** 60" counts nothing up
        counted = [one for one in found if one.start != first and is_counter_at(reply.text, one.start)]
        kept = [Found(one, one.start, one.end) for one in found if one not in counted]
        # "one of them", "just one more": a word of its own, where there is another number
        if not kept and self.counted is not None and (none := none_of(text, place.start, place.end, self.counted)):
            kept = [Found(none, none.start, none.end)]
        if self.ordinals:
            taken = [(one.start, one.end) for one in kept]
            spoken = find_ordinals(reply.text, place.start, place.end)
            kept += [Found(one, one.start, one.end) for one in spoken if not any(a <= one.start < b for a, b in taken)]
            kept.sort(key=lambda one: one.start)
        said = [one for one in kept if not _is_pronoun(reply.text, one.value)]
        alone = len(kept) == 1 and reply.text[place.start : place.end].strip(" .!") == kept[0].value.text
        return said or (kept if alone or place.telling or place.kind is PlaceKind.STATEMENT else [])

    def _only_restates(self, claim: Claim[Quantity], question: Question) -> bool:
        """Tell whether a quantity is one that the question gives, in its unit and not in the one asked for."""
        if (
            not claim.place.telling
            and claim.value.shape is Shape.SUM
            and _signs(claim.value.text) in _signs(question.asked)
        ):
            return True  # "2/3 + 3/4 isn't 5/7, but 17/12"
        if claim.value.unit is None or claim.value.fault is not None:
            return False
        asked = view_of(question.asked).text
        given = (one for one in self.finder(asked, 0, len(asked)) if one.unit is not None and one.fault is None)
        return any(
            one.value == claim.value.value and one.unit == claim.value.unit and not _is_of_key(one, asked)
            for one in given
        )

    def same(self, first: Quantity, second: Quantity) -> bool:
        """Tell whether two numbers have the same value, one of them perhaps rounded."""
        if first.fault is not None or second.fault is not None:
            return first.fault == second.fault and first.value == second.value
        return close(first, second)

    def most(self, reply: Reply, place: Place, question: Question) -> float:
        """Return the most that a sentence may take up; an equation takes it up in its own way."""
        stretch = reply.text[place.start : place.end]
        equation = "=" in stretch or "equal" in stretch or " times " in stretch
        ends = place.sentence == len(reply.sentences) - 1 or concludes_numbers(reply, place)
        more = IN_UNIT + OF_THESE * (OF_THESE_NAMED.match(stretch) is not None)
        opening = stretch[:LONGEST_LABEL]
        more += ":" in opening or opening.count(" ") < 3  # it may be labelled: "Both days: 270 m", "Sum 382"
        more += 2 * IS_REST * ends
        more += IS_REST * (REST.search(stretch) is not None)
        more += SOLVED * ("=" in stretch)
        more += IN_ALL * (COMES_TO_IN_ALL.search(stretch) is not None)
        before = reply.sentences[place.sentence - 1].text if place.sentence else ""
        taken_up = echo(stretch, question.asked) + echo_of_it(stretch, before, question.asked)
        of_name = OF_NAME * (SAYS_OF_NAME.match(stretch) is not None)
        return max(taken_up, EQUATION if equation or ends else 0.0, of_name) + more

    def weigh(self, reply: Reply, place: Place, question: Question) -> Weight | None:
        """Return how far a sentence takes up what was asked; less where all its numbers are those of the question."""
        found = self.find(reply, place)
        if is_only_at_times(reply.text, place.start, place.end):
            return None  # "That's the average; at times it's 25 km/h."
        return weight_of(Stretch(reply, place, question), found) if found else None

    def more_places(self, reply: Reply, answers: Sequence[bool]) -> Iterator[Place]:
        """Yield nothing more than the sentences."""
        yield from ()

    def choose(
        self, reply: Reply, place: Place, claims: Sequence[Claim[Quantity]], question: Question
    ) -> Choice[Quantity]:
        """Return the number that a stretch states as its result."""
        claims = [claim for claim in claims if not self._only_restates(claim, question)]
        stretch = Stretch(reply, place, question)
        outside = kept(stretch, without_departures(stretch, without_others(stretch, claims)))
        if not outside or _only_data(stretch, outside):
            return Choice(None)
        candidates = self._candidates(stretch, outside)
        taken = place.telling or place.kind is PlaceKind.STATEMENT
        if not taken:
            candidates = in_best_clause(stretch, candidates)
        works = taken and candidates[0].value.shape is Shape.SUM and len(candidates) > 2
        final = (in_line if taken and not works else in_sentence)(reply, place, candidates, question)
        if _BY_HOW_MUCH.search(question.asked) and final.value.value < 0:
            final = replace(final, value=replace(final.value, value=-final.value.value))  # "a change of −16.1"
        others = alternatives(reply, final, outside, stretch.given)
        return Choice(final, tuple(others), rivals(reply, place, final, candidates, question))

    def _candidates(self, stretch: Stretch, outside: Claims) -> Claims:
        """Return the numbers that have the key's unit, where any has, but one that is put first stays."""
        reply, place = stretch.reply, stretch.place
        right = [claim for claim in outside if claim.value.unit is not None and claim.value.fault is None]
        if right and not place.telling and outside[-1].value.relation == "=" and outside[-1].value.fault is None:
            right = [*right, outside[-1]] if outside[-1] not in right else right  # "off 88 euros: 88 − 8.80 = 79.20"
        if right and outside[-1] not in right and outside[-1].value.fault is None:
            # "one takes 12.5 litres, the other five, so both take 17.5"
            right = outside[-1:] if _SO_BEFORE.search(reply.text[place.start : outside[-1].start]) else right
        candidates = right or [claim for claim in outside if claim.value.fault is None] or outside
        taken = place.telling or place.kind is PlaceKind.STATEMENT
        if (
            taken
            and _STANDS_FIRST.match(reply.text, place.start, outside[0].start)
            and _PAUSES.match(reply.text, outside[0].end)
        ):
            candidates = [claim for claim in outside if claim.value.fault is None] or outside
        if (
            place.kind is PlaceKind.SENTENCE
            and place.sentence == 0
            and len(outside) > 1
            and _STANDS_FIRST.match(reply.text, place.start, outside[0].start)
            and _SAYS_OF_IT.match(reply.text, outside[0].end, place.end)
        ):
            candidates = outside[:1]  # "Six, all of them squares; it has twelve edges."
        return candidates


def _only_data(stretch: Stretch, claims: Claims) -> bool:
    """Tell whether the first words of a longer reply only say over again what is given: "26 s for 4 floors."."""
    first = stretch.place.kind is PlaceKind.FIRST_WORDS and len(stretch.reply.sentences) > 1
    return first and len(claims) > 1 and all(claim.value.value in stretch.given for claim in claims)


@lru_cache(maxsize=1024)
def _signs(text: str) -> str:
    return "".join(text.split()).replace("−", "-")


def _is_of_key(quantity: Quantity, asked: str) -> bool:
    """Tell whether a quantity stands in its text as the number that it is: its unit is the key's own."""
    return any(term.start == quantity.start and term.value == quantity.value for term in find_terms(asked))
