"""Which options a stretch of a reply chooses: by letter, by text, by place in the list, or all but some."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Mapping, Sequence
from dataclasses import dataclass, field, replace
from typing import ClassVar

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.chosen import (
    ASIDE_START,
    Chosen,
    after_reason,
    are_set_against,
    behind_so,
    called_the_one,
    compared,
    complement,
    counted,
    drawn,
    ends_with_letter,
    last_step,
    of_what_is_asked,
    opens_with_letter,
    opens_with_text,
    result,
    that_beats,
    what_fits,
    without_lesser,
    without_supposed_ones,
)
from dryquarry.marking.reading.claims import Claim, Found, Place, PlaceKind, Question, Stance
from dryquarry.marking.reading.each_told import of_end_asked
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.extremes import tells_other_extreme
from dryquarry.marking.reading.judged_options import LONGEST_LISTING, Judged, boxes, judged_options
from dryquarry.marking.reading.kinds import Choice, Weight
from dryquarry.marking.reading.letters_in_prose import is_article, is_pronoun
from dryquarry.marking.reading.letters_written import alone_in_bold, end_of_chosen, small_letter, written_together
from dryquarry.marking.reading.likely_texts import CHOSEN
from dryquarry.marking.reading.list_exceptions import ASKS_WHICH_NOT
from dryquarry.marking.reading.option_names import (
    by_place,
    by_place_alone,
    former_or_latter,
    named_alone,
    named_in_clauses,
    only_one_of_two,
    only_places,
    ranges,
    said_as_yes_or_no,
    stated,
    that_one,
    the_one_left,
)
from dryquarry.marking.reading.option_texts import (
    first_word_shared,
    letter_pattern,
    noun_shared,
    numbered,
    text_pattern,
    without_first,
)
from dryquarry.marking.reading.options_denied import ARE_WRONG, are_shut_out, denied_behind, left_by_others, weighed
from dryquarry.marking.reading.options_described import described_options
from dryquarry.marking.reading.options_left import (
    ALL_OTHERS,
    behind_that_is,
    falls_short,
    left_by_sentences,
    left_over,
    lists_texts,
    tells_of_another,
    the_single_one,
)
from dryquarry.marking.reading.options_of_statements import statements_told
from dryquarry.marking.reading.options_unknown import told_unknown
from dryquarry.marking.reading.places import sentence_at
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.texts import fold

_ALL_BUT = regex(
    r"\b(?:all|everything|every\s+[^\W\d_]+|each|any(?:one|body|thing)?)(?:\s+(?:of\s+(?:them|these|the\s+options)|options|"
    r"the\s+others?|the\s+options))?,?\s+(?:except(?:\s+for)?|but(?:\s+for)?|save|other\s+than|"
    r"apart\s+from|besides)\s+",
    re.IGNORECASE,
)
_LETTER_IN_BRACKETS = regex(r"[(\[]([A-Z])[)\]]")
_SAID_NOT = regex(r"\b(?:not?|none|never|wrong|false|incorrect)\b|n't\b", re.IGNORECASE)
_ALL = regex(
    r"^\W*(?:all(?:\s+(?:of\s+)?(?:them|these|the\s+(?:above|options|statements)|\w+\s+(?:options|"
    r"of\s+them)))?|all\s+(?:two|three|four|five|six)|both(?:\s+of\s+them)?)\W*(?:are\s+(?:right|"
    r"correct|true)\W*)?\Z",
    re.IGNORECASE,
)
# "B.", "Option B then."
_ONLY_A_LETTER = regex(
    r"\W*(?:(?i:so|then|thus|hence),?\s+)?(?:(?i:(?:it|that)(?:['’]s|\s+is))\s+)?(?:(?i:option|answer|choice)\s+)?[A-Z](?:,?\s+(?:then|it\s+is))?\W*"
)
_OR = regex(r"\W*(?:or|oder|ou|o)\W*(?:perhaps |maybe |possibly |even )?\W*", re.IGNORECASE)
_IS_PLACED = regex(
    r"\s+(?:is|was|comes?|came|goes|went|ends|arrives?|finishes)\s+(?P<place>[^,;:.]{1,40})", re.IGNORECASE
)
# "This is statement B."
_WOULD_BE = regex(r"\bwould\s+(?:be|have\s+been)\b", re.IGNORECASE)
_POINTS_TO = regex(
    r"(?:\A|[.,;:]\s)\W*(?i:(?:so\s+)?(?:this|that)(?:'s|\s+is|\s+must\s+be)\s+(?:just\s+|exactly\s+)?(?:option|statement|answer|choice))\s+[(\[]?[A-Z]\b"
)
# "No, not necessarily."
_NOT_NECESSARILY = regex(r",?\s+not\s+necessarily\b", re.IGNORECASE)
# "A is true for the afternoon"
_ONLY_FOR = regex(r"\s+(?:only\s+)?(?:for|of|when|if|in|at|after|before)\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Options:
    """The options of a question: how they are found in a reply, and which of those in one stretch are chosen."""

    texts: Mapping[str, str]
    asked: str = ""
    lists: bool = True
    likelihood: ClassVar = CHOSEN
    _folded: Mapping[str, str] = field(init=False, repr=False, hash=False, compare=False)

    def __post_init__(self) -> None:
        object.__setattr__(self, "_folded", {letter: fold(text) for letter, text in self.texts.items()})

    def find(self, reply: Reply, place: Place) -> list[Found[Chosen]]:
        """Return the options named in a stretch; a letter with its text is one, and so is "all except A"."""
        text, start, end = reply.text, behind_that_is(reply.text, place.start, place.end), place.end
        if place.kind is PlaceKind.LIST:
            return [Found(Chosen(frozenset(one[0] for one in self._judged(text) if one[1])), start, end)]
        if len(told := self._judged_in(text, start, end)) > 1:
            return [Found(Chosen(frozenset(letter for letter, so, _, _ in told if so)), told[0][2], told[-1][3])]
        end = end_of_chosen(text, start, end) if place.telling else end
        stretch = text[start:end]
        if (every := _ALL.match(stretch)) and not self._named_by_text(stretch, 0):
            return [Found(Chosen(frozenset(self.texts)), start + every.start(), start + every.end())]
        if (but := _ALL_BUT.search(stretch)) and not self._named_by_text(stretch[: but.end()], 0):
            behind = start + but.end()
            out = self._mentions(text, behind, end, place) or self._by_place_alone(text, behind, end)
            excepted = frozenset(letter for one in out for letter in one.value.letters)
            # "All but 9 are prime", where it is asked which is not
            if out and (wrong := ARE_WRONG.match(text, out[-1].end, end)) is not None:
                return [Found(Chosen(excepted), start + but.start(), wrong.end())]  # "All but B are wrong"
            of_these = out and (
                ASKS_WHICH_NOT.search(question_in(self.asked)) or are_shut_out(text, out[-1].end, end, self.asked)
            )
            left = excepted if of_these else frozenset(self.texts) - excepted
            return [Found(Chosen(left), start + but.start(), out[-1].end if out else end)] if out else []
        if rest := self._all_others(text, start, end, place):
            return [rest]
        if one_left := the_one_left("".join(self.texts), _LETTER_IN_BRACKETS.sub(r"\1", stretch)):
            return [Found(Chosen(frozenset(one_left)), start, end)]
        unknown = told_unknown(self.texts, text, start, end) or statements_told(self.texts, text, start, end)
        if unknown is not None:
            return [Found(Chosen(frozenset(unknown), by_text=True), start, end)]
        found = self._of_two(reply, place) or self._mentions(text, start, end, place)
        found = of_end_asked(text, start, end, found, self.asked)
        if (alone := left_by_others(text, end, found, frozenset(self.texts), self.asked)) is not None:
            return [Found(Chosen(frozenset({alone})), start, end)]
        if left := left_over(text, start, end, found, self.texts, self.asked):
            return [Found(Chosen(left), start, end)]
        return found or self._left_by_sentences(reply, place)

    def _of_two(self, reply: Reply, place: Place) -> list[Found[Chosen]]:
        """Return which of the two options of this sentence and the one before is meant by "the latter"."""
        said = former_or_latter(reply.text, place.start, place.end)
        first = reply.sentences[max(0, place.sentence - 1)].start
        both = self._mentions(reply.text, first, said[1][0], place) if said else []
        two = len(both) == 2 and both[0].value.letters != both[1].value.letters
        return [Found(both[said[0]].value, *said[1])] if said and two else []

    def _left_by_sentences(self, reply: Reply, place: Place) -> list[Found[Chosen]]:
        """Return the options that the sentences before leave, where a stretch speaks of these and names none."""

        def named_in(number: int) -> frozenset[str]:
            one = reply.sentences[number]
            found = self._mentions(reply.text, one.start, one.end, place)
            return frozenset(letter for one in found for letter in one.value.letters)

        left = left_by_sentences(reply, place, named_in, frozenset(self.texts), self.asked)
        return [Found(Chosen(left[0]), *left[1:])] if left else []

    def _by_place_alone(self, text: str, start: int, end: int) -> list[Found[Chosen]]:
        """Return the option that is named by its place and no more: "all but the first"."""
        named = by_place_alone(text, start, end, len(self.texts))
        return [Found(Chosen(frozenset({list(self.texts)[named[0]]})), *named[1:])] if named else []

    def _all_others(self, text: str, start: int, end: int, place: Place) -> Found[Chosen] | None:
        """Return the options left in "only B is no square, so all the others apply"; None where it is not said so."""
        others = ALL_OTHERS.search(text, start, end)
        if (
            others is None
            or _SAID_NOT.search(text, others.end(), end)
            or not _SAID_NOT.search(text, start, others.start())
        ):
            return None
        out = frozenset(
            letter for one in self._mentions(text, start, others.start(), place) for letter in one.value.letters
        )
        return Found(Chosen(frozenset(self.texts) - out), others.start(), others.end()) if out else None

    def _judged(self, text: str) -> list[Judged]:
        """Return the lines that judge the options, by letter or by text: "B: no", "9 = 3²: yes", "[x] C"."""
        judged = judged_options(text, "".join(self.texts), self._text_alone)
        return judged if len(judged) > 1 else self._judged_in(text, 0, len(text)) or judged

    def _judged_in(self, text: str, start: int, end: int) -> list[Judged]:
        """Return the options that are described in the question's own word: "A: even, B: odd, C: even"."""
        return described_options(text, start, end, "".join(self.texts), self._text_alone, self.asked)

    def _text_alone(self, said: str) -> tuple[str, int] | None:
        """Return the letter of the one option whose text stands in a line, and where in it."""
        own = self._named_by_text(said, 0)
        return (_one(own[0]), own[0].start) if own and len(own[0].value.letters) == 1 else None

    def _mentions(self, text: str, start: int, end: int, place: Place) -> list[Found[Chosen]]:
        letters = self._by_letter(text, start, end, place)
        texts = [one for one in self._named_by_text(text[start:end], start) if not _inside(one, letters)]
        letters = [
            one
            for one in letters
            if not any(
                other.start <= one.start < other.end and len(text[other.start : other.end]) > 1 for other in texts
            )
        ]
        ordered = sorted([*letters, *texts], key=lambda one: one.start)
        return (
            self._joined(text, ordered)
            or self._by_number(text, start, end)
            or self._by_own_word(text, start, end, place)
            or self._that_one(text, start, end)
        )

    def _by_own_word(self, text: str, start: int, end: int, place: Place) -> list[Found[Chosen]]:
        """Return the options of which only the word is said that no other has: "the hall" for its lantern."""
        options = tuple(self.texts.items())
        alone = named_alone(options, text[start:end]) or said_as_yes_or_no(options, text, start, end, self.asked)
        found = [alone] if alone else list(named_in_clauses(options, text[start:end], self.asked))
        found = found or list(stated(options, text[start:end])) or list(only_one_of_two(options, text[start:end]))
        return [Found(Chosen(frozenset({letter}), by_text=True), start + a, start + b) for letter, a, b in found]

    def _that_one(self, text: str, start: int, end: int) -> list[Found[Chosen]]:
        """Return the option of the question before "…, so that's the one"."""
        asks = self._named_by_text(said[0], 0) if (said := that_one(text, start, end)) else []
        return [Found(asks[0].value, *said[1])] if said and len(asks) == 1 else []

    def _by_number(self, text: str, start: int, end: int) -> list[Found[Chosen]]:
        """Return the options whose number is written otherwise: "eight" for "8", "the third day" for "day 3"."""
        named = numbered(tuple(self.texts.items()), text, start, end)
        return [Found(Chosen(frozenset({letter}), by_text=True), *span) for letter, span in named]

    def _by_letter(self, text: str, start: int, end: int, place: Place) -> list[Found[Chosen]]:
        named = "".join(self.texts)
        found: list[Found[Chosen]] = []
        whole = text[start:end].strip(" .!)(\"'*:\n")
        alone = whole == text.strip(" .!)(\"'*:\n")
        if place.telling or alone or place.kind in (PlaceKind.STATEMENT, PlaceKind.FIRST_WORDS):
            if together := written_together(text, start, end, self.texts):
                return [Found(Chosen(frozenset(letters)), *span) for letters, span in together]
            if (small := small_letter(text, start, end, named)) is not None:
                found.append(Found(Chosen(frozenset({small[0].upper()})), *small[1]))
        for match in letter_pattern(named).finditer(text, start, end):
            letter = match[1]
            if letter == "A" and is_article(text, match) and not self._text_follows(text, match.end(), "A"):
                continue
            if letter == "I" and is_pronoun(text, match):
                continue
            found.append(Found(Chosen(frozenset({letter})), *match.span(1)))
        found += [Found(Chosen(span[0]), *span[1:]) for span in ranges("".join(self.texts), text, start, end)]
        placed = only_places(text, start, end, len(self.texts)) if place.telling or alone else []
        for number, first, last in placed or by_place(text, start, end, len(self.texts)):
            found.append(Found(Chosen(frozenset({list(self.texts)[number]})), first, last))
        return sorted(found, key=lambda one: one.start)

    def _is_listed(self, said: str) -> bool:
        """Tell whether a line only says an option again, as the question lists it: "A) the red lamp"."""
        match = re.match(r"\W*([A-Z])[).:]\s+(.*)\Z", said.strip(), re.DOTALL)
        return match is not None and fold(match[2]) == self._folded.get(match[1])

    def _restates(self, reply: Reply) -> bool:
        """Tell whether a reply lists the options as the question does; the last one listed is then no choice."""
        return sum(self._is_listed(line) for line in reply.text[-LONGEST_LISTING:].split("\n")) > 1

    def _text_follows(self, text: str, place: int, letter: str) -> bool:
        after = fold(text[place : place + len(self.texts[letter]) + 12])
        return after.startswith(self._folded[letter])

    def _named_by_text(self, stretch: str, offset: int) -> list[Found[Chosen]]:
        """Return the options whose text stands in a stretch, the longest texts first, none inside another."""
        found: list[Found[Chosen]] = []
        noun = noun_shared(tuple(self.texts.values()))
        opens = first_word_shared(tuple(self.texts.values()))
        for letter, option in sorted(self.texts.items(), key=lambda item: -len(item[1])):
            pattern = text_pattern(without_first(option, opens), noun)
            for match in pattern.finditer(stretch) if pattern else ():
                one = Found(Chosen(frozenset({letter}), by_text=True), offset + match.start(), offset + match.end())
                if not _inside(one, found) and not _NOT_NECESSARILY.match(stretch, match.end()):
                    found.append(one)
        return sorted(found, key=lambda one: one.start)

    def _joined(self, text: str, found: Sequence[Found[Chosen]]) -> list[Found[Chosen]]:
        """Return a letter and the text right beside it as one; a text of another option contradicts the letter."""
        joined: list[Found[Chosen]] = []
        for one in found:
            before = joined[-1] if joined else None
            beside = before is not None and re.fullmatch(
                r"[\s):.,=–—(\"'-]{1,5}(?:(?:on|in|at|to|from|by|with) )?(?:the |an? |it |they |he |she )?",
                text[before.end : one.start],
                re.IGNORECASE,
            )
            if (
                before is not None
                and beside
                and one.value.by_text
                and not before.value.by_text
                and "," not in beside.group()
                and not ("(" in beside.group() and before.end - before.start > 1)
                and not self._is_plural(text, one)
                and not lists_texts(text, before, one, found)
            ):
                same = one.value.letters == before.value.letters
                if not same and tells_of_another(text, beside.group(), one.end):
                    continue  # "C. The hexagon has six."
                told = None if same else f"letter {_one(before)} stands beside the text of {_one(one)}"
                joined[-1] = Found(Chosen(before.value.letters, told), before.start, one.end)
            elif (
                before is not None
                and beside
                and before.value.by_text
                and not one.value.by_text
                and "(" in beside.group()
            ):
                same = one.value.letters == before.value.letters
                told = None if same else f"the text of {_one(before)} stands beside letter {_one(one)}"
                joined[-1] = Found(Chosen(before.value.letters, told, True), before.start, one.end)
            else:
                joined.append(one)
        return joined

    def _is_plural(self, text: str, one: Found[Chosen]) -> bool:
        """Tell whether the text of an option stands in the plural, as of all such: "C. Newts have legs"."""
        return text[one.start : one.end].lower().endswith(f"{self.texts[_one(one)].lower()}s")

    def same(self, first: Chosen, second: Chosen) -> bool:
        """Tell whether two choices are of the same options."""
        return first.letters == second.letters

    def most(self, reply: Reply, place: Place, question: Question) -> float:
        """Return the most that a sentence may take up."""
        return 1.3

    def weigh(self, reply: Reply, place: Place, question: Question) -> Weight | None:
        """Return how far a sentence decides: whether it names options and says that they are right."""
        found = self.find(reply, place)
        line = reply.text[reply.text.rfind("\n", 0, place.start) + 1 : place.end]
        if not found or boxes(line):
            return None
        if self._is_listed(line) and self._restates(reply) and not alone_in_bold(reply, place):
            return None
        text = reply.text[place.start : place.end]
        said = cue("right", r"").search(text)
        right = (said is not None and not _ONLY_FOR.match(text, said.end())) or _POINTS_TO.search(text) is not None
        listed = falls_short(text, question.asked) or (
            re.match(r"\W*\(?[A-Z][).:]\s", text) is not None and not right and not alone_in_bold(reply, place)
        )
        would = len(reply.sentences) > 1 and _WOULD_BE.search(text) is not None
        ends = place.sentence == len(reply.sentences) - 1 and _ONLY_A_LETTER.fullmatch(text) is not None
        share = 0.5 + 0.5 * (right or ends) + 0.3 * ends - 0.7 * (listed or would) - 0.6 * would
        return Weight(share, any(reply.is_bold(one.start, one.end) for one in found), single=len(found) == 1)

    def more_places(self, reply: Reply, answers: Sequence[bool]) -> Iterator[Place]:
        """Yield the lines that say of each option whether it is right: "A: yes / B: no"."""
        judged = self._judged(reply.text)
        if len(judged) > 1 and any(right for _, right, _, _ in judged):
            first, last = judged[0], judged[-1]
            yield Place(PlaceKind.LIST, first[2], last[3], sentence_at(reply, last[2]))

    def choose(self, reply: Reply, place: Place, claims: Sequence[Claim[Chosen]], question: Question) -> Choice[Chosen]:
        """Return the options that a stretch chooses, without those that only stand in its reasons."""
        text, asked = reply.text, question.asked
        said = _IS_PLACED.match(text, claims[0].end, place.end) if len(claims) == 1 and not place.telling else None
        if said and tells_other_extreme(said["place"], question_in(asked)):
            return Choice(None)  # "D comes last", where the first is asked for
        claims = denied_behind(text, weighed(text, place, list(claims)), asked)
        if not claims:
            return Choice(None)
        claims = the_single_one(text, claims, question.asked)
        claims = ends_with_letter(text, place, what_fits(text, place, claims))
        if opens_with_letter(text, place, claims) or opens_with_text(text, place, claims):
            return Choice(replace(claims[0], stance=Stance.ASSERTED))
        claims = claims if place.telling else behind_so(text, without_supposed_ones(text, place, claims, self.asked))
        claims = [claim for claim in claims if claim.stance is not Stance.ASIDE] or list(claims)
        claims = without_lesser(text, claims)
        ticked = [claim for claim in claims if cue("right", r"^[\s)\]:(,-]*").match(text[claim.end : claim.end + 12])]
        if ticked and len(ticked) < len(claims) and place.telling:
            claims = ticked
        claims = claims if place.telling else that_beats(text, called_the_one(text, claims), self.asked)
        bold = [claim for claim in claims if reply.is_bold(claim.start, claim.end)]
        if bold and len(bold) < len(claims) and not place.telling:
            claims = bold
        if place.telling and are_set_against(text, claims):
            claims = of_what_is_asked(text, place, claims, question)
        if not place.telling:
            claims = compared(text, place, claims, question)
            claims = last_step(text, place, after_reason(text, place, claims))
            claims = complement(text, place, of_what_is_asked(text, place, claims, question))
            claims = counted(text, place, result(text, claims), question)
        aside = ASIDE_START.search(text, claims[0].end, place.end)
        listed = "\n" in text[place.start : place.end].strip()
        taken = [claim for claim in claims if listed or aside is None or claim.start < aside.start()]
        rest = [claim for claim in claims if claim not in taken]
        if len(taken) > 1:
            strong = place.telling or place.kind is PlaceKind.STATEMENT
            led = len(taken)
            taken = drawn(text, place, taken, turns=not strong)
            if 1 < len(taken) < led:
                taken = of_what_is_asked(text, place, taken, question)
        others = [claim for claim in rest if claim.stance is Stance.HEDGED]
        letters = [claim for claim in taken if not claim.value.by_text]
        if letters and len(letters) < len(taken) and place.telling:
            taken = letters  # "A, the heron with the lamp": the letter is the choice
        final = taken[0]
        either = text[max(0, final.start - 8) : final.start].lower().strip().endswith("either")
        for before, claim in itertools.pairwise(taken):
            if claim.stance is Stance.HEDGED or either or _OR.fullmatch(text[before.end : claim.start]):
                others.append(claim)
            else:
                both = Chosen(
                    final.value.letters | claim.value.letters, final.value.contradiction or claim.value.contradiction
                )
                final = Claim(both, final.start, claim.end, place, final.stance, final.cue)
        rivals = [claim for claim in claims if claim not in taken] if not place.telling else []
        return Choice(
            final, tuple(claim for claim in others if claim.value.letters != final.value.letters), tuple(rivals)
        )


def _one(found: Found[Chosen]) -> str:
    return next(iter(found.value.letters))


def _inside(one: Found[Chosen], others: Sequence[Found[Chosen]]) -> bool:
    return any(other.start <= one.start and one.end <= other.end for other in others)
