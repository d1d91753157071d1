"""Which members a stretch of a reply names: a list of lines, a table, or a sentence with commas, "and" and arrows."""

from __future__ import annotations

import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.asked_lists import (
    by_places,
    listed_in,
    mentioned_in,
    plain_member,
    tells_of_others,
    things_of,
)
from dryquarry.marking.reading.claims import Claim, Found, Place, PlaceKind, Question, Stance
from dryquarry.marking.reading.compared_lists import more_than_one
from dryquarry.marking.reading.constructions import ARROW_SIGN
from dryquarry.marking.reading.echo import echo, is_echo, question_in
from dryquarry.marking.reading.judged_things import affirmed_in, by_predicate, told_of_others
from dryquarry.marking.reading.kinds import Choice, Weight
from dryquarry.marking.reading.labels_in_row import labels_in_row
from dryquarry.marking.reading.list_exceptions import ASKS_WHICH_NOT, BUT_NOT, all_but, without_reason
from dryquarry.marking.reading.list_forms import (
    ADDS,
    GOES_FOR,
    ORDERED,
    RELATIVE,
    WRITTEN,
    added_after,
    alternatives,
    cut_as_offered,
    dropped_after,
    each_that_is,
    has_more,
    is_one_or_the_other,
    is_span,
    labelled_behind,
    labelled_ones,
    labelled_run,
    so_are_more,
    worked_out,
)
from dryquarry.marking.reading.list_items import (
    BETWEEN,
    is_item,
    items,
    right_ones,
    short_lines,
    ticked_ones,
)
from dryquarry.marking.reading.list_runs import runs_in, tells_whole_order
from dryquarry.marking.reading.list_verbs import INNER_WORD, listed_after, listed_outright, new_share, verb_of
from dryquarry.marking.reading.lists_likely import are_tied, leaves_open, likely, only_lists, with_things
from dryquarry.marking.reading.members_named import (
    ADDED,
    COUNTED,
    MOST_MEMBERS,
    STRONG,
    WAY_THERE,
    Members,
    NamedMember,
    after_preposition,
    hide_brackets,
    in_order,
    member_at,
    members_of,
    results_of,
    stripped_of,
    without_shared,
    without_ways,
)
from dryquarry.marking.reading.order_by_sides import ordered_by_sides
from dryquarry.marking.reading.order_put_together import put_together
from dryquarry.marking.reading.orders import compared_in_order, is_told_backwards, told_in_order, told_with_numbers
from dryquarry.marking.reading.things_told_apart import told_apart
from dryquarry.marking.reading.things_with_values import with_value_asked
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply

FARTHEST_AHEAD = 120
# How much more a sentence weighs that says what the others are.
OTHERS = 1.2
# Of a question that lists so many things or fewer, one alone may well be the answer.
LEAST_ASKED_OF = 2
_NAMELY = regex(r"\bnamely\b|\bviz\b", re.IGNORECASE)
# "Maro > Pil > Nuno": nothing but an order is written so
_CHAIN = regex(r"(?:\S\s*(?:->|→|⇒|=>|>|<)\s*[^-=→⇒<>\n]{1,40}){2}")
# "From fewest to most: …"
_IN_ORDER = regex(
    r"\b(?:from\s+[^:,;.]{1,30}\s+to\s+[^:,;.]{1,30}|in\s+(?:\w+\s+){0,2}order|sorted|ordered|arranged)[^:,;.]{0,30}:\s",
    re.IGNORECASE,
)
_DENIED_AFTER = regex(
    r"[,;]\s+(?:but\s+|while\s+|and\s+)?(?:the\s+)?[^\s,;]+(?:\s[^\s,;]+|\s+(?:and|or|nor)\s+(?:the\s+)?[^\s,;]+)?\s+(?:do|does|did|is|are|was|were|has|have|can)(?:n't|\s+not)\b.*$",
    re.IGNORECASE | re.DOTALL,
)
_OF_THEM = regex(r"[;.,:]\s+of\s+(?:these|them|those),?\s+(?:only\s+)?", re.IGNORECASE)
_NOT_THESE = regex(
    r"[^;.]*\b(?:are|is|do|does|can|have)(?:n't|\s+not)\b[^;.]*;\s+(?=[^;]*(?:,|\band\b)[^;]*\b(?:are|is|do|does|can|have)\W*\Z)",
    re.IGNORECASE,
)
_NOT_BUT = regex(
    r"\W*(?:it(?:'s|\s+is)\s+)?not\s+(?!only\b|just\b)[^;:.]{2,80}?,?\s+but\s+(?:rather\s+)?", re.IGNORECASE
)
_DENIED_BEFORE = regex(
    r"^[^,;]{1,80}?(?:n't|\snot|cannot)\b[^,;]{0,40}[,;]\s+(?:but|only|whereas|while)\s+", re.IGNORECASE
)
_THAT_IS = regex(
    r"[,;(]\s*(?:i\.\s?e\.|which\s+means(?:\s+that)?|meaning(?:\s+that)?|viz\.?|that\s+is|namely|in\s+other\s+words),?\s+",
    re.IGNORECASE,
)
_BRACKETS = regex(r"\s*[\[{(]\s*(?P<inside>.*?)\s*[\])}]\s*$", re.DOTALL)
# "curlew, oystercatcher (and, with its upturned bill, the avocet)"
_MORE_IN_BRACKETS = regex(
    r"\s*\((?:and|plus|as\s+well\s+as|also)\b(?:\s+also)?(?:,[^,()]*,)?\s+(?:the\s+)?(?P<one>[^(),]{1,60})\)\W*",
    re.IGNORECASE,
)
# "whale and seal (the bat is a bird)"
_TELLS_IN_BRACKETS = regex(
    r"\([^()]*\s(?:is|are|was|were|has|have|isn't|aren't|would|lies?|does|do|don't|doesn't|did|can|come|stand|need)\s[^()]*\)",
    re.IGNORECASE,
)
_ASIDE_START = regex(
    r";(?=\s+(?:that|this|these|those|it|they|there|he|she|which|one|none|all|both|neither|the\s+(?:rest|others?))"
    r"(?:'s|\s)|\s+(?:\S+\s+){4}|\s+(?:\S+\s+){1,2}(?:is|was|would|isn't|wasn't|does|doesn't)\s|\s+\S+\s+[a-z]+s\s+(?:it|them)\b)|(?<!\d)\.\s|\s[–—-]\s(?!(?:and|plus|also|as\s+well\s+as)\s)(?=\w+\s\w+\s\w+)|,\s(?=as\s[(·])|,?\s(?=(?:because|since|as\s+(?:it|they|\d+\s*=|[A-Z][^\W\d_]+\s+(?:has|is|does|was|had)|"
    r"these|all|each|both|only|the)|which|while|whereas|although|though|where|so\s+(?:that|they)|given|"
    r"(?:their|its)\s+(?:sum|product|difference|total|mean|average)\s+is|"
    r"with\s+(?:the|a)|(?:all|both|each)\s+(?:of\s+(?:them|which|these)|with|having))\b)",
    re.IGNORECASE,
)
_DRAWN = regex(
    r"(?:^|[,;]\s+)(?:so(?!\s+(?:do|does|did|is|are|was|were|has|have|can)\b)|"
    r"therefore|thus|hence|which leaves|leaving|that leaves)\b[,:]?\s+",
    re.IGNORECASE,
)
# "Copper and gold aren't attracted."
_IS_NOT = regex(
    r"(?:(?!\b(?:only|but|except)\b)[^,;:.])+?(?:,\s(?:(?!\b(?:only|but|except)\b)[^,;:.])+?)*?\s"
    r"(?P<denies>(?:is|are|was|were|do|does|did|can|have|has)(?:n't|\s+not)|(?:are|is)\s+no)\s+(?!only\b)[^,;:.]*[.!]?\Z",
    re.IGNORECASE,
)
_VERB = regex(
    r"\b(?:is|are|was|were|be|include|includes|has|have|lives?|can|do|does|need|needs|belong|belongs|"
    r"make|makes|sind|est|sont|es|son)\b",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class Lists:
    """Answers that are lists: where their members stand, without knowing which members are wanted."""

    question: Question
    lists: bool = True
    likelihood: ClassVar[None] = None

    def find(self, reply: Reply, place: Place) -> list[Found[Members]]:
        """Return what a stretch lists."""
        text = reply.text
        if place.kind in (PlaceKind.SENTENCE, PlaceKind.FIRST_WORDS) and is_item(reply, place):
            return []  # one item of a list is no list
        asked, asked_of = self.question.asked, things_of(self.question.asked)
        place = without_reason(text, place)
        last = len(text) if place.telling else place.end
        if (place.telling or place.kind is PlaceKind.LIST) and (whole := put_together(text, place.start, last, asked)):
            return [in_order(whole)]
        span = (place.start, place.end)
        told = ordered_by_sides(text, *span, asked) or more_than_one(text, *span, asked)
        told = told or with_value_asked(text, *span, asked) or tuple(by_places(text, *span, asked))
        if told := told or (labels_in_row(text, *span, asked) if place.telling else ()):
            return [in_order(told)]
        if place.telling and (lines := short_lines(text, place.start)):
            return [Found(Members(lines), lines[0][1], lines[-1][2])]
        one_of_several = place.kind in (PlaceKind.FIRST_WORDS, PlaceKind.SENTENCE)
        judges = len(reply.sentences) > 1 or ARROW_SIGN.search(text) is not None
        if one_of_several and judges and (tells_whole_order(reply, asked) or affirmed_in(text, 0, len(text), asked_of)):
            return []  # "Apples do. Pears do. Eggs do not."
        if not place.telling and ADDS.match(text, place.start, place.end):
            return []  # it adds to the list before it
        if place.kind is PlaceKind.LIST and labelled_run(text, asked) == span:
            ones = labelled_ones(text, place.start, place.end)
            return [Found(Members(ones), ones[0][1], ones[-1][2])]
        listed = items(reply, place)
        if len(listed) > 1:
            listed = right_ones(text, listed, question_in(self.question.asked))
            members = tuple(member_at(text, start, end) for start, end in listed)
            members = tuple(member for member in members if member[0])[:MOST_MEMBERS]
            others = [without_shared(members), tuple(stripped_of(member, ADDED) for member in members)]
            others = [way for way in dict.fromkeys(others) if way != members]
            return [Found(Members(members, tuple(others)), min(listed)[0], max(listed)[1])]
        if ticked := tuple(member_at(text, *span) for span in ticked_ones(text, place)):
            cut = cut_as_offered(text, ticked, self.question.asked)
            return [Found(Members(ticked, (cut,) if cut else ()), ticked[0][1], ticked[0][2])]
        if place.kind is PlaceKind.LIST and (so := affirmed_in(text, *span, asked_of)):
            return [Found(Members(so), so[0][1], so[-1][2])]
        if place.kind is PlaceKind.LIST and (said := tuple(mentioned_in(text, *span, asked_of))):
            return [Found(Members(said), said[0][1], said[-1][2])]
        found = [with_things(text, self._with_next(text, one, place), asked) for one in self._listed(text, place)]
        turned = is_told_backwards(text, place.start, place.end, asked)
        return [replace(one, value=one.value.backwards()) for one in found] if turned else found

    def _with_next(self, text: str, one: Found[Members], place: Place) -> Found[Members]:
        """Return a list with what the next sentence adds to it, without what that takes out of it."""
        if place.telling:
            return one
        dropped = dropped_after(text, one.end, place.end + FARTHEST_AHEAD)
        if not self._wants_what_is_so():
            dropped = frozenset()
        added = added_after(text, one.end, place.end + FARTHEST_AHEAD)
        kept = [
            tuple(member for member in way if plain_member(member[0]) not in dropped)
            for way in (one.value.members, *one.value.others)
        ]
        ways = [(*way, *added) for way in kept]
        return replace(one, value=replace(one.value, members=ways[0], others=tuple(ways[1:]))) if all(ways) else one

    def _listed(self, text: str, place: Place) -> Iterator[Found[Members]]:
        asked = self.question.asked
        beside = _TELLS_IN_BRACKETS.search(text, place.start, place.end)
        if beside is not None and BETWEEN.search(text, place.start, beside.start()):
            text = text[: beside.start()] + " " * len(beside.group()) + text[beside.end() :]
        if results := worked_out(text, place.start, place.end) or each_that_is(text, place.start, place.end):
            yield Found(Members(results), results[0][1], results[-1][2])
            return
        if leaves_open(text, place, self.question.asked):
            every = members_of(text, place.start, place.end, BETWEEN)  # "hen, frog or snake" leaves open which
            yield from (Found(Members((one,)), *one[1:]) for one in every)
            return
        for start, end in alternatives(text, place):
            if (goes_for := GOES_FOR.match(text, start, end)) is not None:
                start = goes_for.end()
            denied = _DENIED_AFTER.search(hide_brackets(text[start:end]), 1)
            if denied and BETWEEN.search(text, start, start + denied.start()):
                end = start + denied.start()
            drawn = [] if place.telling else list(_DRAWN.finditer(text, start, end))
            if drawn and BETWEEN.search(text, drawn[-1].end(), end):
                start = drawn[-1].end()
            if (of_them := _OF_THEM.search(text, start, end)) is not None and BETWEEN.search(text, of_them.end(), end):
                start = of_them.end()  # "Between 5 and 9 lie 6, 7 and 8; of these, 6 and 8 are even."
            if (these := _NOT_THESE.match(text, start, end)) is not None and self._wants_what_is_so():
                start = these.end()  # "Copper and gold are not magnetic; iron, nickel and cobalt are."
            if (but := _NOT_BUT.match(text, start, end)) is not None and BETWEEN.search(text, but.end(), end):
                start = but.end()  # "Not envelope, paper, but paper, envelope"
            denied = _DENIED_BEFORE.match(text[start:end])
            if denied and BETWEEN.search(text, start + denied.end(), end):
                start += denied.end()
            if whole := put_together(text, start, end, self.question.asked):
                yield in_order(whole)
                continue
            order = told_in_order(text, start, end, asked) or compared_in_order(text, start, end, asked)
            order = order or told_with_numbers(text, start, end, asked)
            told = without_ways(text, tuple(member_at(text, *span) for span in order))
            if told:
                yield Found(Members(told), told[0][1], told[-1][2])
                continue
            rest = all_but(text, start, end, self.question.asked)
            ways = [rest] if rest else [way for way in self._ways(text, start, end, place) if way]
            if ways:
                tied = are_tied(text[start:end])
                out = "" if rest or place.telling else self._not_so(text[start:end])
                yield Found(Members(ways[0], tuple(ways[1:]), tied), ways[0][0][1], ways[0][-1][2], out)

    def _wants_what_is_so(self) -> bool:
        return ASKS_WHICH_NOT.search(question_in(self.question.asked)) is None

    def _not_so(self, stretch: str) -> str:
        """Return the words with which a sentence says of its list that it is not what was asked, if it does."""
        said = _IS_NOT.match(hide_brackets(stretch))
        return said["denies"] if said and self._wants_what_is_so() else ""

    def _ways(self, text: str, start: int, end: int, place: Place) -> Iterator[tuple[NamedMember, ...]]:
        if place.telling and is_span(text, start, end):
            yield members_of(text, start, end, STRONG)
            return
        if every := so_are_more(text, start, end):
            yield every
            return
        for written in WRITTEN:
            if way := written(text, start, end):
                yield way
        by_what_is_said = (by_predicate, told_apart)
        if way := next(filter(None, (told(text, start, end, self.question.asked) for told in by_what_is_said)), ()):
            yield way
            return
        if way := labelled_behind(text, start, end, question_in(self.question.asked)):
            yield way
            return
        if (said_so := _THAT_IS.search(text, start, end)) is not None:
            yield members_of(text, said_so.end(), end, BETWEEN)  # "x = (3 ± 13)/2, i.e. 8 and -5"
            yield members_of(text, start, said_so.start(), BETWEEN)
        if len(RELATIVE.findall(text, start, end)) > 1:
            colon = text.rfind(": ", start, end)
            every = members_of(text, colon + 2 if colon >= 0 else start, end, BETWEEN)
            yield tuple(one for one in every if not RELATIVE.match(f", {one[0]}"))
        by_semicolons = text.count(";", start, end) > 1 and "," not in text[start:end]
        aside = None if by_semicolons else _ASIDE_START.search(hide_brackets(text[start:end]), 1)
        cut = start + aside.start() if aside and text[start : start + aside.start()].strip() else end
        if (
            cut < end
            and not BETWEEN.search(text, start, cut)
            and BETWEEN.search(text, cut + 1, end)
            and text[cut] == ";"
        ):
            start, cut = cut + 1, end  # "Barley is missing; what she has is oats and rye."
        for first, last in dict.fromkeys(self._stretches(text, start, cut, place)):
            yield from self._parted(text, first, last)
        yield from self._mentioned(text, start, cut if place.telling else end, place)

    def _parted(self, text: str, first: int, last: int) -> Iterator[tuple[NamedMember, ...]]:
        """Yield the ways to part a stretch into members, the likeliest first."""
        without = BUT_NOT.search(hide_brackets(text[first:last]), 1)
        last = first + without.start() if without else last
        if (more := _MORE_IN_BRACKETS.search(text, first, last)) is not None and more.end() >= last - 1:
            yield (*members_of(text, first, more.start(), BETWEEN), member_at(text, *more.span("one")))
            return
        brackets = _BRACKETS.match(text[first:last])
        if brackets:
            first, last = first + brackets.start("inside"), first + brackets.end("inside")
        parted = members_of(text, first, last, BETWEEN)
        if (results := results_of(text, first, last)) is not None:
            yield results
        yield parted
        if len(parted) > 1 and (cut_last := cut_as_offered(text, parted, self.question.asked)):
            yield cut_last
        if len(parted) > 1 and all(WAY_THERE.search(member) for member, _, _ in parted):
            yield tuple(after_preposition(text, member) for member in parted)
        if len(parted) > 1 and all(COUNTED.search(member) for member, _, _ in parted):
            yield tuple(stripped_of(member, COUNTED) for member in parted)
        if (bare := without_shared(parted)) != parted:
            yield bare
        if len(parted) > 1 and WAY_THERE.search(parted[0][0]):
            yield (after_preposition(text, parted[0]), *parted[1:])  # "mixed from red, green and blue"
        if any(ADDED.search(member) for member, _, _ in parted):
            yield tuple(stripped_of(member, ADDED) for member in parted)
        if "," in text[first:last] or ";" in text[first:last]:
            yield members_of(text, first, last, STRONG)

    def _mentioned(self, text: str, start: int, end: int, place: Place) -> Iterator[tuple[NamedMember, ...]]:
        """Yield what a stretch mentions of the question's list, unless it names others beside them."""
        asked = question_in(self.question.asked)
        nothing_else = place.telling or place.kind is PlaceKind.FIRST_WORDS
        if nothing_else and has_more(text, start, end, asked):
            return  # "ant, bee, cow, dog": one that the question does not offer
        semicolon = text.find(";", start, end)
        text = text[:start] + _TELLS_IN_BRACKETS.sub(lambda one: "·" * len(one.group()), text[start:end])
        for last in (end, semicolon) if semicolon > start else (end,):
            yield tuple(mentioned_in(text, start, last, asked))

    def _stretches(self, text: str, start: int, end: int, place: Place) -> Iterator[tuple[int, int]]:
        """Yield where in a clause the list may stand: after its colon or verb, or before a verb of the question."""
        asked = question_in(self.question.asked)
        beside = _TELLS_IN_BRACKETS.search(text, start, end)
        if beside is not None and text[start : beside.start()].strip() and not text[beside.end() : end].strip(" .!"):
            end = beside.start()
        if (ordered := ORDERED.search(text, start, end)) is not None and ordered.start() > start:
            yield ordered.span("all")
        if (they_are := _THEY_ARE.match(text, start, end)) is not None:
            yield they_are.end(), end
        colons = list(re.compile(r":\s").finditer(text, start, end))
        if colons:
            yield colons[-1].end(), end
        copulas = list(cue("copula", r"(?<![\w'])", r"(?!\w)").finditer(text, start, end)) or list(
            _VERB.finditer(text, start, end)
        )
        yield from listed_outright(text, start, end)
        for match in copulas[-1:]:
            subject = text[start : match.start()]
            complement = text[match.end() : end]
            listed = BETWEEN.search(subject.strip()) is not None
            several = len(BETWEEN.findall(complement.strip())) > len(BETWEEN.findall(subject.strip()))
            if (
                listed
                and asked
                and not several
                and (new_share(complement, asked) < 0.5 or not BETWEEN.search(complement.strip()))
            ):
                yield start, match.start()
            yield match.end(), end
            if listed:
                yield start, match.start()
        yield start, end
        if (verb := verb_of(text, start, end, asked)) is not None and verb > start:
            yield start, verb
        if BETWEEN.search(text, start, end) is None and not copulas:
            does = (one for one in INNER_WORD.finditer(text, start, end) if one[1].islower())
            verb_alone = next((one for one in does if is_echo(one[1], asked) and not is_echo(one[1], "")), None)
            if verb_alone is not None:
                yield start, verb_alone.start()  # "Only R occurs twice"
        if (told := listed_after(text, start, end, asked)) is not None:
            yield told, end
        comes = re.compile(
            r"\b(?:come|comes|goes|go|follow|follows)\s+(?:first|next|last)\b,?|\s+(?:attract|react|live|"
            r"nest|have|has|belong|need)s?\b.*$",
            re.DOTALL,
        ).search(text, start, end)
        if comes and comes.start() > start:
            yield start, comes.start()

    def same(self, first: Members, second: Members) -> bool:
        """Tell whether two lists have the same members in the same order."""
        return [text.casefold() for text in first.texts] == [text.casefold() for text in second.texts]

    def most(self, reply: Reply, place: Place, question: Question) -> float:
        """Return the most that a sentence may take up."""
        return 2.5

    def weigh(self, reply: Reply, place: Place, question: Question) -> Weight | None:
        """Return how far a sentence takes up what was asked; a sentence with one member hardly does."""
        text = reply.text[place.start : place.end]
        if is_item(reply, place):
            return None
        sure = _CHAIN.search(text) or _IN_ORDER.search(text) or only_lists(text)
        share = 1.0 if sure else echo(text, question.asked) + 0.8 * (_NAMELY.search(text) is not None)
        share -= told_of_others(text, question.asked)
        if tells_of_others(text) and echo(text, question.asked) > 0:
            return Weight(share + OTHERS)
        asked_of = listed_in(question_in(question.asked))
        if len(asked_of) > LEAST_ASKED_OF and all(len(one.split()) < 4 for one in asked_of):
            named = sum(
                re.search(rf"\b{re.escape(plain_member(one))}\b", text, re.IGNORECASE) is not None for one in asked_of
            )
            share += 0.4 if named > 1 else -0.4
        return Weight(share + (0.3 if BETWEEN.search(text) else -1.2))

    def more_places(self, reply: Reply, answers: Sequence[bool]) -> Iterator[Place]:
        """Yield the runs of list items of a reply."""
        yield from runs_in(reply, answers, self.question.asked)

    def choose(
        self, reply: Reply, place: Place, claims: Sequence[Claim[Members]], question: Question
    ) -> Choice[Members]:
        """Return the first list of a stretch; another one after "or" stands beside it."""
        firm = [claim for claim in claims if claim.stance is not Stance.ASIDE] or list(claims)
        firm = likely(reply.text, place, firm, question.asked, sentences=len(reply.sentences))
        if not firm:
            return Choice(None)
        either = is_one_or_the_other(reply.text, place)
        others = tuple(
            claim for claim in firm[1:] if either or len(claim.value.texts) > 1 or claim.stance is Stance.HEDGED
        )
        return Choice(firm[0], others)


# "They're blue, green and red."
_THEY_ARE = regex(r"\W*(?:so\s+|and\s+)?(?:they|these|those|it|that|here)['’](?:re|s)\s+", re.IGNORECASE)
