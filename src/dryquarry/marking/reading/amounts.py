"""Which of the numbers of a sentence is its result: the end of an equation, what is set in bold, what is new."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from functools import lru_cache

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.amounts_apart import (
    before_reason,
    behind_which_is_asked,
    by_how_much,
    in_other_unit,
    is_left_over,
    is_of_others,
    is_rounded_again,
    is_worked_on,
    of_each_asked,
    of_main_clause,
    of_time_asked,
    the_count,
    without_lacking,
    without_measures,
    without_saved,
)
from dryquarry.marking.reading.amounts_drawn import before_whole, drawn_at_end, unless_only_given, worked_out
from dryquarry.marking.reading.asked_amounts import (
    MORE_OR_LESS,
    as_denied,
    cardinals,
    differences,
    firm,
    how_many,
    in_best_clause,
    is_supposed,
    labelled,
    numbers_asked,
    of_what_is_asked,
    of_whom_is_asked,
    owed,
    remainders,
    totals,
    with_chances,
    years,
)
from dryquarry.marking.reading.claims import Claim, Found, Place, PlaceKind, Stance
from dryquarry.marking.reading.echo import echo, stem
from dryquarry.marking.reading.equations import chained, close, end_of_equation, result_of
from dryquarry.marking.reading.further_amounts import ASKS_SHARE, alternatives, per_cent, without_per_cent
from dryquarry.marking.reading.settling import Choice, Question, Weight
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.reply.view import view_of
from dryquarry.marking.values.numbers import Shape, find_terms, is_counter_at
from dryquarry.marking.values.quantities import Find, Quantity, find_ordinals

EQUATION = 0.8
OF_THESE = 0.8
# So many numbers one after another are given, and none of them is the answer.
MANY = 4
_LISTS = re.compile(r"(?:\d+,\s+){2}\d+")
# How much more a sentence weighs that has the key's unit.
IN_UNIT = 0.3
# What stands after these words belongs to the result's surroundings: "of the 120 singers", "for 3 batches".
_BESIDE = re.compile(
    r"\b(?:(?<!total )(?<!sum )(?<!number )(?<!average )(?<!cost )(?<!price )(?<!speed )(?<!area )(?<!length )"
    r"(?<!rate )(?<!value )of|"
    r"out of|for|from|with|among|after|before|since|than|per|at|in|within|by|every|each|"
    r"rounded (?:up |down |off )?to|rounds to|close to|"
    r"divided by|its|their|his|her|my|your|all|the|these|those|between|on|when|if|until)\s+(?:the |"
    r"its |their |all |these |those |each |every |about |only )*[€$£]?-?$",
    re.IGNORECASE,
)
_DRAWN = re.compile(
    r"(?:\bthat is,?|\bi\.\s?e\.,?|(?<!or )\bso\b|\btherefore|\bthus|\bhence|\bthat(?:'s| makes| gives|"
    r" leaves)|\bwhich (?:makes|gives|leaves|comes to|means|is(?=\s[€$£]?\d))|\bmaking|\bleaving|\bgiving|"
    r"\bin other words|"
    r"\b(?:for )?a total of|\btotalling|\bin total\b[,:]|"
    r"\b(?:sum|total):?(?=\s[€$£]?\d)|\baltogether\b[,:]|\btogether:?(?=\s+[€$£]?\d)|\bamounts? to|"
    r"\bmakes?\s+it(?=\s[€$£]?\d)|"
    r"\bleft with|\b(?:we|you|one|i|and)\s+(?:(?:then|thus|finally)\s+)?(?:get|obtain|arrive\s+at|end\s+up\s+with)\b|"
    r"\bcomes? to|\badds? up to|\bis equal to|\bis the same as|\bnamely|\balso\b(?= \d)|\bd\.\s?h\.)",
    re.IGNORECASE,
)
_ASIDE_START = re.compile(
    r"[;]|\s[–—-]\s|,?\s(?=(?:because|since|as (?:it|they|there|the|each|we|\d)|where|when|if|give or take|"
    r"although|though|while|whereas|for (?:example|instance)|which|given|weil|denn)\b)|"
    r",\s(?=(?:long|well|shortly|just|soon)\s(?:before|after)\b)",
    re.IGNORECASE,
)
_LETTER_BEHIND = re.compile(r"\s?[a-z]\b\s*[-+−=]")
# "4x = 36", from which x is to be drawn
_WITH_FACTOR = re.compile(r"\d\s?[a-z]\s*=\s*\Z")
# "x = 12"
_ISOLATED = re.compile(r"[\W_]*[^\W\d_]\w{0,3}\s*=\s*[€$£]?[-−]?")
# "110, as two lessons of 45 minutes …": the first number is the answer, though it has no unit
_STANDS_FIRST = re.compile(r"[\s(*]*\Z")
_PAUSES = re.compile(r"\s*[,;]\s(?!\d)")
_SAYS_OF_IT = re.compile(r"\s*,\s(?:all|both|each|as|since|because|which|for|namely|if)\b[^=]*\Z", re.IGNORECASE)
# "42 of these are lent out": they stand for what the question names
_OF_THESE = re.compile(r"\W*(?:[\w,.]+\s+)?of\s+(?:these|those|them)\b", re.IGNORECASE)
# "395, i.e. 97 % of the 408"
_SHARE = re.compile(r"\s*(?:about\s+)?\d[\d.,]*\s?(?:%|per\s?cent)")
_IN_FOUR = re.compile(
    r"\s+(?:in|out of)\s+(?:every\s+)?(?:\d|two|three|four|five|six|seven|eight|nine|ten|twelve|twenty)", re.IGNORECASE
)
_MINUS = re.compile(r"\s[–—-]\s[€$£]?\d")
_ENDS_WITH = re.compile(r":\s+\S[^:;,]*(?:,\s(?:that is|that's it|all told|in all|all in all)\W*)?$", re.IGNORECASE)
_SAYS_MORE = re.compile(r"\b(?:leaves?|gives?|makes?|is|are|comes|come|remains?|adds?|get|have)\b|'s\b", re.IGNORECASE)
# "seven times a hundred and eighty is one thousand two hundred and sixty"
_IN_WORDS = re.compile(
    r"\w\s+(?:times|plus|minus|less|divided\s+by)\s[^.;]*\b(?:is|are|makes?|gives?)\s+\Z", re.IGNORECASE
)
_LABELS = re.compile(r"(?:^|[;,]\s)\W*(?:[^\W\d_]+\s?){1,3}:\s")
_LEADS_ON = re.compile(
    rf"(?:\s*[€$£%])?(?:\s+[^\W\d_]+){{0,2}}?\s+(?:{MORE_OR_LESS}|(?:would|could|can|are|is|remain)\b)", re.IGNORECASE
)


# "after n folds there are 2ⁿ": a formula, and no number
_RAISED_TO_LETTER = re.compile(r"[ⁿⁱᵃᵇᶜᵈᵉᵏᵐᵖʳˢᵗᵘᵛʷˣʸᶻ]|\^\{?[a-z]\b")


def _is_pronoun(text: str, number: Quantity) -> bool:
    """Tell whether a "one" stands for a thing, and not for a number: "just one more", but "one in four"."""
    return number.text.lower() == "one" and number.unit is None and not _IN_FOUR.match(text, number.end)


@dataclass(frozen=True, slots=True)
class Amounts:
    """Numbers, with or without units: how they are found, and which of several is the result."""

    finder: Find
    ordinals: bool = False
    lists: bool = False

    def find(self, reply: Reply, place: Place) -> list[Found[Quantity]]:
        """Return the numbers of a stretch, but those that only count something up."""
        text = reply.text
        if text[place.start - 1 : place.start] == ":":
            text = f"{text[: place.start - 1]} {text[place.start :]}"  # "Answer:2:18": the colon is no part of a time
        found = self.finder(text, place.start, place.end)
        found = [one for one in found if not _RAISED_TO_LETTER.match(text, one.end)]
        kept = [Found(one, one.start, one.end) for one in found if not is_counter_at(reply.text, one.start)]
        # "one of them", "just one more": a word of its own, where there is another number
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
        ends = place.sentence == len(reply.sentences) - 1
        more = IN_UNIT + OF_THESE * (_OF_THESE.match(stretch) is not None)
        return max(echo(stretch, question.asked), EQUATION if equation or ends else 0.0) + more

    def weigh(self, reply: Reply, place: Place, question: Question) -> Weight | None:
        """Return how far a sentence takes up what was asked; less where all its numbers are those of the question."""
        found = self.find(reply, place)
        if not found:
            return None
        given = numbers_asked(question.asked)
        restated = all(one.value.value in given for one in found)
        share = echo(reply.text[place.start : place.end], question.asked)
        # a number of the question that is drawn from something is no repetition of it
        restated = restated and _DRAWN.search(reply.text, place.start, found[-1].start) is None
        begins = found[0].start <= place.start + 2 or _ISOLATED.fullmatch(reply.text, place.start, found[0].start)
        bare = begins and found[-1].end >= place.end - 3
        works_out = found[-1].value.relation == "=" or _IN_WORDS.search(reply.text, found[0].start, found[-1].start)
        if bare and place.sentence and works_out and found[-1].value.value not in given:
            share = max(share, EQUATION)  # nothing but an equation, which takes up what was asked in its own way
        if bare and len(found) == 1 and 0 < place.sentence == len(reply.sentences) - 1 and not restated:
            share = max(share, EQUATION)  # "£28.20.": the reply ends with it
        share -= 0.5 * (
            restated and len(found) >= MANY and _LISTS.search(reply.text, place.start, place.end) is not None
        )
        share += _is_labelled(reply.text, place, question)
        share -= 2 * (all(per_cent(reply.text, one) for one in found) and not ASKS_SHARE.search(question.asked))
        share -= place.kind is PlaceKind.SENTENCE and is_left_over(reply.text, found, question.asked)
        share -= is_worked_on(reply.text, place, found[-1], given)
        share -= 2 * is_rounded_again(reply.text, place, found)
        share -= place.kind is PlaceKind.SENTENCE and is_of_others(reply.text, place, found, question.asked)
        share -= in_other_unit(reply.text, found, question.asked)
        share += OF_THESE * (not restated and _OF_THESE.match(reply.text, place.start, place.end) is not None)
        share -= 0.5 * is_supposed(reply.text[place.start : place.end], question.asked)
        share -= 0.6 * (_WITH_FACTOR.search(reply.text, place.start, found[-1].start) is not None)
        share += IN_UNIT * any(one.value.unit is not None and one.value.fault is None for one in found)
        return Weight(share - 0.8 * restated, any(reply.is_bold(one.start, one.end) for one in found), len(found) == 1)

    def more_places(self, reply: Reply, answers: Sequence[bool]) -> Iterator[Place]:
        """Yield nothing more than the sentences."""
        yield from ()

    def choose(
        self, reply: Reply, place: Place, claims: Sequence[Claim[Quantity]], question: Question
    ) -> Choice[Quantity]:
        """Return the number that a stretch states as its result."""
        claims = [claim for claim in claims if not self._only_restates(claim, question)]
        if not claims:
            return Choice(None)
        claims = remainders(reply.text, place, with_chances(reply, claims, question), question)
        claims = labelled(reply, place, claims, question)
        if not claims:
            return Choice(None)
        claims = firm(
            reply.text, place, drawn_at_end(reply.text, place, claims, numbers_asked(question.asked)), question
        )
        claims = of_whom_is_asked(reply.text, place, without_per_cent(reply.text, claims, question), question)
        claims = behind_which_is_asked(reply.text, claims, question)
        claims = the_count(reply.text, without_measures(reply.text, claims, question), question)
        claims = without_lacking(reply.text, claims, question)
        claims = of_time_asked(reply.text, place, by_how_much(reply.text, claims), question)
        if not place.telling:
            claims = of_main_clause(reply.text, place, before_reason(reply.text, place, claims, question), question)
        claims = without_saved(reply.text, owed(reply.text, claims, question), question)
        claims = years(reply.text, cardinals(reply.text, as_denied(reply.text, claims, question), question), question)
        outside = [claim for claim in claims if claim.stance is not Stance.ASIDE] or list(claims)
        outside = of_each_asked(reply.text, differences(reply.text, outside, question), question)
        if not outside:
            return Choice(None)
        given = numbers_asked(question.asked)
        outside = of_what_is_asked(reply, place, outside, question)
        outside = unless_only_given(totals(reply.text, outside), outside, given) if place.telling else outside
        outside = _in_unit_of_rough(outside)
        right = [claim for claim in outside if claim.value.unit is not None and claim.value.fault is None]
        if right and not place.telling and outside[-1].value.relation == "=" and outside[-1].value.fault is None:
            right = [*right, outside[-1]] if outside[-1] not in right else right  # "off 88 euros: 88 − 8.80 = 79.20"
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
        if not taken:
            candidates = in_best_clause(reply.text, place, candidates, question)
        choosing = _in_line if taken else _in_sentence
        final = choosing(reply, place, candidates, question)
        others = alternatives(reply, final, outside, numbers_asked(question.asked))
        return Choice(final, tuple(others), _rivals(reply, place, final, candidates, question))


def _is_labelled(text: str, place: Place, question: Question) -> bool:
    """Tell whether a line has what is to be counted as its label: "Boys: 9"."""
    label = _NOUN_LABEL.match(text, place.start, place.end)
    return label is not None and stem(label["noun"].lower()) == how_many(question.asked)


# "Boys: 9"
_NOUN_LABEL = re.compile(r"\W*(?P<noun>[^\W\d_]+)\W{0,3}:\s")


@lru_cache(maxsize=1024)
def _signs(text: str) -> str:
    return "".join(text.split()).replace("−", "-")


def _in_unit_of_rough(claims: list[Claim[Quantity]]) -> list[Claim[Quantity]]:
    """Return an exact value in the unit that only its rough one has: "12π ≈ 37.70 cm"."""
    found = list(claims)
    for place, (first, second) in enumerate(itertools.pairwise(claims)):
        bare = first.value.unit is None and first.value.shape is Shape.EXACT
        if bare and second.value.relation == "≈" and second.value.unit is not None and close(first.value, second.value):
            found[place] = replace(first, value=replace(first.value, unit=second.value.unit, fault=second.value.fault))
    return found


def _rivals(
    reply: Reply, place: Place, final: Claim[Quantity], claims: Sequence[Claim[Quantity]], question: Question
) -> tuple[Claim[Quantity], ...]:
    """Return the numbers of a stretch that might be taken for its result, too: new ones that no word sets apart."""
    given = numbers_asked(question.asked)
    bold = reply.is_bold(final.start, final.end)
    found = []
    for claim in claims:
        apart = _BESIDE.search(reply.text, max(place.start, claim.start - 40), claim.start)
        rough = re.search(
            r"(?:about|roughly|around|approximately|than)\s+[€$£]?$", reply.text[max(0, claim.start - 16) : claim.start]
        )
        if (
            claim is final
            or apart
            or rough
            or bold
            or close(claim.value, final.value)
            or claim.value.shape is Shape.SUM
        ):
            continue
        if claim.value.value not in given and not _leads_to(reply.text, claim, final):
            found.append(claim)
    return tuple(found)


def _leads_to(text: str, claim: Claim[Quantity], final: Claim[Quantity]) -> bool:
    """Tell whether a number is a step on the way to the final one: "is 6.5, so …", "2.5 hours, that is 145"."""
    if claim.start > final.start:
        return False
    between = text[claim.end : final.start]
    return _DRAWN.search(between) is not None or "=" in between or "≈" in between


def _is_of_key(quantity: Quantity, asked: str) -> bool:
    """Tell whether a quantity stands in its text as the number that it is: its unit is the key's own."""
    return any(term.start == quantity.start and term.value == quantity.value for term in find_terms(asked))


def _in_line(reply: Reply, place: Place, claims: Sequence[Claim[Quantity]], question: Question) -> Claim[Quantity]:
    """Return what an answer line or statement gives: its first number, or where it works something out the result."""
    text = reply.text
    drawn = [match for match in _DRAWN.finditer(text, place.start, place.end) if match.start() > claims[0].start]
    given = numbers_asked(question.asked)
    if drawn:
        after = [claim for claim in claims if claim.start >= drawn[-1].end()]
        if after and not drawn[-1].start() < claims[0].end and _LEADS_ON.match(text, after[0].end):
            after = []  # "1500 litres, so 4500 more would fit in"
        if len(after) > 1 and sum(claim.value.value for claim in after) == claims[0].value.value:
            after = []  # "36, that is 18 left and 18 right ones"
        share = _SHARE.match(text, drawn[-1].end()) and not ASKS_SHARE.search(question.asked)
        if share or (claims[0].value.value not in given and all(claim.value.value in given for claim in after)):
            after = []  # "1344 kg a day, i.e. 56 kg an hour"
        aside = _ASIDE_START.search(text, claims[0].end, place.end)
        parts = aside and aside.start() < drawn[-1].start() and text[aside.start()] != ","
        if after and not (parts and not _MINUS.match(text, aside.start() if aside else 0)):
            before = [claim for claim in claims if claim.start < drawn[-1].end()]
            said, again = end_of_equation(text, before), end_of_equation(text, after)
            return said if close(said.value, again.value) else again
    bold = [claim for claim in claims if reply.is_bold(claim.start, claim.end)]
    if len(bold) == 1 and not reply.is_bold(place.start, place.end - 1):
        return bold[0]
    if claims[0].value.relation or (len(claims) > 1 and chained(text, claims[0], claims[1])):
        return end_of_equation(text, claims)
    last = claims[-1]
    if last.value.relation == "=" and _LETTER_BEHIND.match(text, claims[0].end):
        return last  # "4w + 2 = 14"
    if len(claims) > 2 and sum(claim.value.value for claim in claims[:-1]) == last.value.value:
        return last  # "CD is 400, XL is 40, IV is 4: 444"
    if (summed := worked_out(text, claims, given)) is not None:
        return summed
    first_clause = _ASIDE_START.search(text, claims[0].start, place.end)
    here = [claim for claim in claims if first_clause is None or claim.start < first_clause.start()]
    novel = [claim for claim in here if claim.value.value not in given]
    if (
        here
        and here[0] not in novel
        and len(novel) == 1
        and _BESIDE.search(text, max(place.start, here[0].start - 40), here[0].start)
    ):
        return novel[0]
    return end_of_equation(text, claims)


def _in_sentence(reply: Reply, place: Place, claims: Sequence[Claim[Quantity]], question: Question) -> Claim[Quantity]:
    """Return what a sentence concludes: what is bold, what is drawn from the rest, the end of its last equation."""
    text = reply.text
    check = cue("checks", r"[;,.(—–-]\s*").search(text, claims[0].end, place.end)
    claims = [claim for claim in claims if check is None or claim.start < check.start()]
    bold = [claim for claim in claims if reply.is_bold(claim.start, claim.end)]
    if len(bold) == 1:
        return bold[0]
    last = _ENDS_WITH.search(text, place.start, place.end)
    if last and len(_LABELS.findall(text, place.start, place.end)) > 1:
        last = None  # "usable: 100; broken: 20"
    if last and (after := [claim for claim in claims if claim.start > last.start()]):
        before = [claim for claim in claims if claim not in after]
        if before and len(after) == 1 and after[0].value.shape is Shape.SUM:
            after = before  # "She gets 2.30 back: 20 − 7.20 − 11.50."
        parts = before and len(after) > 1 and sum(one.value.value for one in after) == before[-1].value.value
        claims = before if parts else after  # "78 legs: 48 of spiders and 30 of beetles"
    aside = [
        match
        for match in _ASIDE_START.finditer(text, place.start, place.end)
        if match.start() > claims[0].start and match.group() != ";" and not _MINUS.match(text, match.start())
    ]
    drawn = list(_DRAWN.finditer(text, place.start, place.end))
    if drawn and (after := [claim for claim in claims if claim.start >= drawn[-1].end()]):
        claims = unless_only_given(after, claims, numbers_asked(question.asked))
        aside = [match for match in aside if match.start() > after[0].start]
        part = text.find("; ", after[0].end, place.end)
        claims = [claim for claim in claims if part < 0 or claim.start < part]
    if aside and (main := [claim for claim in claims if claim.start < aside[0].start()]):
        claims = main
    chains: list[list[Claim[Quantity]]] = []
    for claim in claims:
        if chains and chained(text, chains[-1][-1], claim):
            chains[-1].append(claim)
        else:
            chains.append([claim])
    given = numbers_asked(question.asked)
    results = [result_of(chain, given) for chain in chains]
    checks = results[-1].value.value in given and any(one.value.value not in given for one in results[:-1])
    if len(chains[-1]) > 1 and not checks:
        return results[-1]
    worked_out = [result for chain, result in zip(chains, results, strict=True) if len(chain) > 1]
    leads_on = _SAYS_MORE.search(text, worked_out[0].end, claims[-1].start) if len(worked_out) == 1 else None
    if not drawn and len(worked_out) == 1 and not leads_on and worked_out[0].value.value not in given:
        return worked_out[0]  # "364 / 7 = 52, a week having seven days"
    free = [one for one in results if not _BESIDE.search(text, max(place.start, one.start - 40), one.start)]
    if checks and (new := [one for one in free if one.value.value not in given]):
        return new[0]  # "It cost 60: a quarter of that is 15, and 60 - 15 = 45."
    for pool in (
        [one for one in free if one.value.value not in given],
        [one for one in results if one.value.value not in given],
        free,
    ):
        if pool:
            return before_whole(text, pool, results)
    return results[-1]
