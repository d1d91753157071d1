"""What a clause names in words: the readings of its answer, from the whole down to its complement, subject or agent."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass, replace
from typing import ClassVar

from dryquarry.marking.cues import last_cue
from dryquarry.marking.reading.answering import may_name_it
from dryquarry.marking.reading.claims import Claim, Found, Place, PlaceKind, Question
from dryquarry.marking.reading.clauses import (
    LEAD,
    behind_lead,
    clauses,
    narrowed,
    points_of_titles_hidden,
    two_of_a_kind,
    without_asides,
    without_brackets,
)
from dryquarry.marking.reading.comparisons import more_of_two
from dryquarry.marking.reading.constructions import ASKS_WHERE, FIRST, SURE, found_by
from dryquarry.marking.reading.echo import asks_yes_or_no, echo, echo_of_it, is_echo, question_in, without_supposed
from dryquarry.marking.reading.end_of_order import end_of_order, line_at_end, none_beyond, tells_no_end
from dryquarry.marking.reading.filled_in import filled_in
from dryquarry.marking.reading.kinds import Choice, Weight
from dryquarry.marking.reading.likely import Likelihood
from dryquarry.marking.reading.likely_texts import NAMED
from dryquarry.marking.reading.named import IT_DOES, ONLY_MOST, Named, clause_that_answers
from dryquarry.marking.reading.named_together import named_together, with_surname_first
from dryquarry.marking.reading.names_told import asks_who, asks_year, is_year_of_else
from dryquarry.marking.reading.neighbours import neighbour_told
from dryquarry.marking.reading.new_words import only_new_word
from dryquarry.marking.reading.objects import name_apposed, object_of_phrasal, said_instead
from dryquarry.marking.reading.of_another import (
    WITH_HELP,
    answers_about_another,
    is_doer,
    is_of_another_kind,
    is_of_another_rank,
    is_only_beside,
    is_turned_about,
    is_undecided,
    is_whose_kin,
    lies_the_other_way,
    names_only_two,
    only_tells_where,
    part_asked,
    with_label,
    without_more_of_it,
)
from dryquarry.marking.reading.offers import offered_by, offered_that_is_so, said_yes_to, the_one_left, without_offers
from dryquarry.marking.reading.phrases_weighed import weight_of
from dryquarry.marking.reading.places import sentence_at
from dryquarry.marking.reading.positions import POSITIONS, at_the_end, by_value, middle_of_row
from dryquarry.marking.reading.possible_answers import names_another, only_possible
from dryquarry.marking.reading.rankings import line_of_rank, only_one_right, pair_as_asked
from dryquarry.marking.reading.ranks_told import RANKS, of_those_named
from dryquarry.marking.reading.set_aside import (
    IT_IS,
    answers_none_such,
    behind_withdrawal,
    is_denied_at,
    says_nothing_of_it,
    set_aside,
)
from dryquarry.marking.reading.shortenings import unlike
from dryquarry.marking.reading.told import (
    ASKS_WHEN,
    COMPARED,
    NEGATION,
    after_that,
    begun_alike,
    doers,
    is_main_verb,
    of_asked_kind,
    of_best_part,
    of_own_place,
    of_relative,
    of_what_is_asked,
    own_part,
    share_echoed,
    told,
)
from dryquarry.marking.reading.told_in_one import of_several
from dryquarry.marking.reading.told_of_it import only_leads_to_word, told_of_it
from dryquarry.marking.reading.written_alone import STEP, written_alone
from dryquarry.marking.reading.yes_no import that_say_yes_or_no, yes_or_no
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.texts import trimmed

MOST_CLAUSES = 24
MOST_WORDS_IN_BOLD = 5
FEWEST_WORDS_OF_A_SENTENCE = 4
MOST_WORDS_OF_AN_ANSWER = 3
_WORD = regex(r"[^\W_]+(?:['’-][^\W_]+)*")
# "The shortest is Mira, the tallest Finn."
_MOST = regex(
    r"(?:^|[,;]\s+|\sand\s+)(?:the\s+)?(?P<what>\w+est|first|last|(?:most|least)\s+\w+)(?:\s+(?:of|in)\s+[^,;]{1,30}?|\s+one)?\s+"
    r"(?:is\s+|was\s+)?(?P<one>(?:the\s+)?[^\s,;.]+(?:\s[^\s,;.]+)?)(?=[,;.!]|\s+and\b|\s*\Z)",
    re.IGNORECASE,
)
# "Of the three, the knot …", "In 1902, …"
_OF_WHICH = regex(
    r"(?:of|in|among|from|at|on|for|with|under|according to|out of|between)\b"
    r"(?![^,]{1,60}\b(?:we|you|they|it)\s+(?:get|have|find|reach|see|is|was|are)\b|[^,]{1,60}\s(?:comes|ranks)\s)[^,]{1,60},\s+"
    r"(?!(?:not|and|but|or|nor|rather|which|where)\b)",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class Phrases:
    """Answers in words: a clause is one claim, and what it names is read out of it without knowing the key."""

    question: Question
    lists: bool = True
    likelihood: ClassVar[Likelihood[Named]] = NAMED

    def find(self, reply: Reply, place: Place) -> list[Found[Named]]:
        """Return what each clause of a stretch names."""
        asked = self.question.asked
        if not place.telling and answers_about_another(reply.text, place.start, question_in(asked)):
            return []
        if (more := more_of_two(reply.text, place.start, place.end, asked)) and not asks_yes_or_no(asked):
            return [Found(Named((more,), True, (place.start, place.end)), place.start, place.end)]
        if not place.telling and (there := end_of_order(reply.text, place.start, place.end, asked)) is not None:
            one = (reply.text[there[1] : there[2]], *there[1:])
            return [Found(Named((one,), True, (place.start, place.end)), place.start, place.end)]
        for finds in (filled_in, middle_of_row):
            if (row := finds(reply.text, place.start, place.end, asked)) is not None:
                return [Found(Named(((reply.text[slice(*row)], *row),), True, (place.start, place.end)), *row)]
        judged = said_yes_to(reply.text, place.start, place.end)
        if judged or (judged := offered_that_is_so(reply.text, place.start, place.end, asked)) is not None:
            return [Found(Named((judged,), True, (place.start, place.end)), *judged[1:])]
        found: list[Found[Named]] = []
        parts = two_of_a_kind(reply.text, place.start, place.end) if place.telling else []
        parts = parts or list(itertools.islice(clauses(reply.text, place.start, place.end), MOST_CLAUSES))
        for start, end in parts:
            if self._says_nothing(reply.text, start, end, place, alone=len(parts) == 1):
                continue
            if (answer := yes_or_no(reply.text, start, end, asked)) is not None:
                found.append(Found(Named((answer,), True, (start, end)), *answer[1:]))
                continue
            if found:
                start = behind_withdrawal(reply.text, start, end)
            if (beside := neighbour_told(reply.text, start, end, asked)) is not None:
                found += [Found(Named((beside,), True, (start, end)), *beside[1:])] if beside[0] else []
                continue
            if (left := the_one_left(reply.text, start, end, asked)) is not None:
                found.append(Found(Named(((left, start, end),), True, (start, end)), start, start))
                continue
            if (beyond := none_beyond(reply.text, start, end, asked)) is not None:
                found.append(Found(Named((beyond,), True, (start, end)), start, start))
                continue
            denials, rest = set_aside(reply.text, place, start, end)
            found += [Found(Named(()), one.start, one.end, one.said) for one in denials]
            if rest is None:
                continue
            start, end = self._part_asked(reply.text, rest, end)
            if found and self._only_restates(reply.text, start, end):
                continue  # "Barometer: air pressure", where it is asked what measures that
            if (named := self._named(reply, place, start, end)) is not None:
                found.append(named)
        return found

    def _says_nothing(self, text: str, start: int, end: int, place: Place, *, alone: bool) -> bool:
        """Tell whether a clause names nothing that may answer."""
        asked = self.question.asked
        says_yes = yes_or_no(text, start, end, asked) is not None  # "That's true.", "No: it is divisible by 7."
        short = IT_DOES.match(text, start, end) if asks_yes_or_no(asked) else None
        says_yes = says_yes or (short is not None and not text[short.end() : end].strip(" .!"))  # "It isn't; …"
        if not says_yes and says_nothing_of_it(text, start, end, alone=alone, telling=place.telling):
            return True
        if not place.telling and answers_none_such(text, start, end, asked):
            return True
        if is_turned_about(text, start, end, question_in(asked)) or only_tells_where(text, start, end, asked):
            return True
        if is_year_of_else(text, start, end, asked):
            return True
        if is_undecided(text, start, end) or (not says_yes and self._is_label(text, start, end, place)):
            return True
        if not alone and only_leads_to_word(text, start, end, question_in(asked)):
            return True
        if not place.telling and alone and tells_no_end(text, start, end, asked):
            return True
        return lies_the_other_way(with_label(text, place.start, start, end), asked)

    def _part_asked(self, text: str, start: int, end: int) -> tuple[int, int]:
        """Return the part of a clause that tells of what is asked, without who only helped."""
        start, end = part_asked(text, start, end, self.question.asked)
        if (course := _OF_COURSE.search(text, start, end)) is not None:
            end = course.start()
        helper = WITH_HELP.search(text, start, end)
        return start, without_more_of_it(text, start, helper.start() if helper else end, self.question.asked)

    def _named(self, reply: Reply, place: Place, start: int, end: int) -> Found[Named] | None:
        """Return what a clause names; None where it names nothing that may answer."""
        asked = self.question.asked
        if positioned := self._positioned(reply.text, start, end, place):
            bound = reply.text[start : positioned[0][1]].lower().endswith("than ")  # "Everyone is shorter than Aro."
            return Found(Named(positioned, True, (start, end)), *((start, end) if bound else positioned[0][1:]))
        readings = self._likely(reply, place, start, end)
        likely = readings
        put_as_answer = _put_as_answer(reply.text, place, start, end)
        if not put_as_answer and names_another(reply.text, readings, start, end, asked):
            return None
        body = _body(reply.text, start, end, asked)
        alone = put_as_answer and not asks_year(asked)
        whole = (start, _until_comma(reply.text, start, end) if alone else end)
        as_it_stands = readings[:1] if place.telling else []
        readings = [
            one
            for one in only_possible(reply.text, readings, body, whole, asked)
            if not self._is_of_another(reply.text, one) and not is_only_beside(reply.text, start, end, one[1], asked)
        ]
        readings = [one for one in readings if not ONLY_MOST.fullmatch(one[0])] or readings
        if asks_who(asked):
            readings = [one for one in readings if not _DID_NOT.match(one[0])]
        readings = list(that_say_yes_or_no(readings, asked))
        if not readings:
            return None
        as_told = [one for one in likely if one[1] <= readings[0][1] < one[2]]
        together = [named_together(reply.text, one, end, asked) for one in (readings[0], *as_told)]
        together += [with_surname_first(one, question_in(asked)) for one in as_told if place.telling]
        if (several := next(filter(None, together), None)) is not None:
            return Found(Named((several,), True, (start, end)), *several[1:])
        # how it is meant is told by what stands around the thing itself; an answer line is shown as it stands
        first = readings[0]
        readings = list(dict.fromkeys((*(one for one in as_it_stands if one in readings), *readings)))
        put = next(found_by(FIRST, reply.text, (start, end), question_in(asked)), None)
        if (sure := next(found_by(SURE, reply.text, (start, end), question_in(asked)), None)) is not None:
            readings = [one for one in readings if one[1] < sure[1] and sure[0] < one[2]] or readings
        put_so = put is not None or readings[0][0] in ("yes", "no")
        return Found(Named(tuple(readings), put_so, (start, end)), first[1], first[2])

    def _likely(self, reply: Reply, place: Place, start: int, end: int) -> list[tuple[str, int, int]]:
        """Return the readings of a clause without those that it denies or doubts, what is bold first."""
        read_as = replace(place, kind=PlaceKind.SENTENCE) if self._is_sentence(reply.text, start, end) else place
        readings = self._readings(reply.text, start, end, read_as)
        if (short := IT_DOES.match(reply.text, start, end)) and asks_yes_or_no(self.question.asked):
            readings = [("no" if short["not"] else "yes", *short.span("said")), *readings]
        if NEGATION.search(question_in(self.question.asked)) is None:
            # how the first is meant is told by what stands around it
            others = [one for one in readings[1:] if not is_denied_at(reply.text, start, one[1])]
            readings = [*readings[:1], *others]
        if (doubt := last_cue("doubts", reply.text[start:end])) is not None:
            # "I'm not sure whether it is the wren": how that is meant is told before it
            readings = [one for one in readings if one[1] >= start + doubt.end()] or readings
        readings = readings[:1] if names_only_two(reply.text, start, end) else readings
        if bold := self._in_bold(reply, start, end):
            readings = [bold, *(one for one in readings if one != bold)]
        return readings

    def _is_label(self, text: str, start: int, end: int, place: Place) -> bool:
        """Tell whether a clause is only what the answer behind its colon is of: "Buried under the oak: his coat"."""
        words = [word for word in _WORD.findall(text[start:end]) if not is_echo(word, "")]
        asked = question_in(self.question.asked)
        if {word.casefold() for word in words} - {"one", "side", "hand"} <= set(
            map(str.casefold, offered_by(self.question.asked))
        ):
            return False  # "The right one: starboard is left."
        stands_before = text[end : end + 1] == ":" and re.search(r"\w", text[end : place.end]) is not None
        return stands_before and bool(words) and all(is_echo(word, asked) or is_doer(word, asked) for word in words)

    def _is_of_another(self, text: str, reading: tuple[str, int, int]) -> bool:
        _, start, end = reading
        asked = self.question.asked
        of_another = is_whose_kin(text, start, end, asked) or is_of_another_kind(text, end, asked)
        return of_another or is_of_another_rank(text, end, asked)

    def _is_sentence(self, text: str, start: int, end: int) -> bool:
        """Tell whether a clause says in a sentence of its own what was asked, wherever it stands."""
        words = _WORD.findall(text[start:end])
        asked = question_in(self.question.asked)
        subject = re.match(r"\W*(?:it|he|she|they|the|this|that|[A-Z])", text[start:end]) is not None
        verb = any(is_main_verb(word) and is_echo(word, asked) for word in words[1:4])
        general = len(words) > FEWEST_WORDS_OF_A_SENTENCE and words[0].lower() in ("you", "we", "one")
        return len(words) >= FEWEST_WORDS_OF_A_SENTENCE and ((subject and verb) or general)

    def _positioned(self, text: str, start: int, end: int, place: Place) -> tuple[tuple[str, int, int], ...]:
        """Return what a clause puts where it is asked for, which leaves no other reading of it."""
        asked = question_in(self.question.asked)
        behind_colon = text[:start].rstrip().endswith(":")
        ends = at_the_end(text, place.start if behind_colon else start, end, asked) or by_value(text, start, end, asked)
        ends = ends or of_those_named(text, start, end, asked)
        ends = ends or of_several(text, (start, end), self.question.asked, telling=place.telling)
        spans = dict.fromkeys(((start, end), (behind_lead(text, start, end), end)))
        told = [ends] if ends else [one for span in spans for one in found_by((*RANKS, *POSITIONS), text, span, asked)]
        return tuple(unlike(text, list(told)[:1], place))

    def _only_restates(self, text: str, start: int, end: int) -> bool:
        """Tell whether a clause behind a label has no word that the question does not have."""
        words = _WORD.findall(text[start:end])
        asked = question_in(self.question.asked)
        return _LABEL.search(text, 0, start) is not None and bool(words) and all(is_echo(word, asked) for word in words)

    def _in_bold(self, reply: Reply, start: int, end: int) -> tuple[str, int, int] | None:
        """Return what is set in bold in a clause, where it is one short thing and not the question's own words."""
        spans = [span for span in reply.view.bold if start <= span[0] and span[1] <= end]
        if len(spans) != 1:
            return None
        first, last = trimmed(reply.text, *spans[0])
        said = reply.text[first:last]
        words = _WORD.findall(said)
        if (
            not 0 < len(words) <= MOST_WORDS_IN_BOLD
            or said != " ".join(said.split())
            or reply.text[last : last + 1] == ":"
        ):
            return None
        echoes = all(is_echo(word, question_in(self.question.asked)) for word in words)
        return None if echoes or not reply.text[start:first].strip() else (said, first, last)

    def _readings(self, text: str, start: int, end: int, place: Place) -> list[tuple[str, int, int]]:
        """Return the readings of a clause, the likeliest first."""
        whole_text, text = text, points_of_titles_hidden(text)
        spans: list[tuple[int, int]] = []
        clause = (start, end)
        lead = LEAD.match(text, start, end)
        main = behind_lead(text, start, end)
        of = None if begun_alike(text, main, end) else _OF_WHICH.match(text, main, end)
        main = of.end() if of else main
        if not place.telling:
            part = own_part(text, main, end, question_in(self.question.asked))
            start, main, end = (start if part[0] == main else part[0]), part[0], part[1]
        if (shade := _SHADE.match(text, main, end)) is not None:
            spans.append((shade.end(), end))
        turned = lead is not None and re.search(r"\b(?:but|sondern|aber|mais|sino)\b", lead.group(), re.IGNORECASE)
        for first in (main,) if turned and main > start else dict.fromkeys((start, main)):
            spans.append((first, end))
            without = without_brackets(text, first, end)
            spans += [without, *without_asides(text, *without)]
        body = spans[-1]
        compared = COMPARED.search(text, *body)
        if compared:
            body = (body[0], compared.start())  # "older than that of Osten" names no Osten
        asked = question_in(self.question.asked)
        extremes = list(_MOST.finditer(text[start:end]))
        own = [one for one in extremes if share_echoed(one["what"], asked) > 0]
        if len(extremes) > 1 and len(own) == 1:
            return list(unlike(whole_text, [(start + own[0].start("one"), start + own[0].end("one"))], place))
        spoken = [*of_what_is_asked(text, start, end, asked), *told(text, *body, asked)]
        spoken += told_of_it(text, place.start, start, end, asked)
        spoken = [*of_relative(text, main, end, asked), *spoken]
        if of and (ASKS_WHERE.search(asked) or ASKS_WHEN.search(asked)):  # "In Lind, where the ice had stopped them."
            spoken += itertools.islice(narrowed(text, of.start(), of.end() - 2), 1, None)
        if not place.telling:
            spoken = [*of_best_part(text, main, end, asked), *spoken]
        if not place.telling:
            spoken = [*of_own_place(text, main, end, asked), *spoken]
        first_of_all = [*found_by(SURE, text, clause, asked), *found_by(FIRST, text, (main, end), asked)]
        first_of_all += [*object_of_phrasal(text, start, end, asked), *said_instead(text, main, end)]
        first_of_all += name_apposed(text, main, end, asked)
        first_of_all += doers(text, main, end, asked)
        spoken = [*first_of_all, *spoken, *after_that(text, main, end, asked)]
        if not place.telling and body[1] < end and not set(spoken) - set(spans):
            # "The Pharos, one of the seven wonders, stood in Alexandria": the comma cut off what is told
            whole = next(without_asides(text, *without_brackets(text, body[0], end)))
            spoken = list(told(text, *whole, asked))
        spoken += [] if place.telling else of_asked_kind(text, main, end, asked)
        new_word = [] if place.telling else list(only_new_word(text, start, end, self.question.asked))
        if not place.telling and (step := STEP.fullmatch(text, start, end)):
            spoken = [step.span("one"), *spoken]
        spans = [*written_alone(text, start, end, place, asked), *spans]
        whole_first = place.telling or place.kind in (PlaceKind.STATEMENT, PlaceKind.FIRST_WORDS)
        ordered = [*spans, *spoken] if whole_first else [*spoken, *spans]
        if (joined := _JOINED.match(text, start, end)) is not None:
            first, last = joined.span("all")
            ordered = [one for one in ordered if not (first <= one[0] and one[1] <= last) or one == (first, last)]
        return list(unlike(whole_text, [*ordered, *new_word], place))

    def more_places(self, reply: Reply, answers: Sequence[bool]) -> Iterator[Place]:
        """Yield the line of a ranking that has the rank which is asked for: "2. Mount Kenya"."""
        ranked = line_of_rank(reply.text, question_in(self.question.asked)) or only_one_right(reply.text)
        ranked = ranked or line_at_end(reply.text, self.question.asked)
        ranked = ranked or pair_as_asked(reply.text, without_supposed(self.question.asked))
        if ranked is not None:
            yield Place(PlaceKind.LIST, *ranked, sentence_at(reply, ranked[0]))

    def choose(self, reply: Reply, place: Place, claims: Sequence[Claim[Named]], question: Question) -> Choice[Named]:
        """Return the clause that answers: of a sentence the last that turns to it, of an answer line the first."""
        return clause_that_answers(reply, place, claims, question.asked)

    def same(self, first: Named, second: Named) -> bool:
        """Tell whether two clauses name the same."""
        return bool(set(map(str.casefold, first.texts)) & set(map(str.casefold, second.texts)))

    def most(self, reply: Reply, place: Place, question: Question) -> float:
        """Return the most that `weigh` may say: a label takes up more than its words."""
        text = reply.text[place.start : place.end]
        before = reply.sentences[place.sentence - 1].text if place.sentence else ""
        taken_up = echo(text, question.asked) + echo_of_it(text, before, question.asked)
        return taken_up + 0.5 * may_name_it(text, question.asked)

    def weigh(self, reply: Reply, place: Place, question: Question) -> Weight | None:
        """Return how far a sentence takes up what was asked."""
        return weight_of(reply, place, question)


def _until_comma(text: str, start: int, end: int) -> int:
    comma = re.compile(r"[,(]").search(text, start, end)
    return comma.start() if comma else end


_IS_RIGHT = regex(r"\b(?:is|was)\s+(?:right|correct|true|it|(?:the|my)\s+(?:\w+\s+)?answer)\W*\Z", re.IGNORECASE)


def _put_as_answer(text: str, place: Place, start: int, end: int) -> bool:
    """Tell whether a clause is put as an answer, though it may be none of the possible ones: by its place, "it is"."""
    if place.kind not in (PlaceKind.SENTENCE, PlaceKind.CONCLUSION):
        return True
    if text[end : end + 1] == ":":
        return False
    first = behind_lead(text, start, end)
    short = len(text[first:end].split()) <= MOST_WORDS_OF_AN_ANSWER
    said = any(IT_IS.match(text, begin, end) for begin in (start, first)) or _IS_RIGHT.search(text, start, end)
    return short or bool(said) or behind_withdrawal(text, place.start, end) > place.start


def _body(text: str, start: int, end: int, asked: str) -> tuple[int, int]:
    """Return a clause without what leads up to it or is added to it, unless that tells what was asked."""
    start, end = without_brackets(text, behind_lead(text, start, end), end)
    first, last = next(without_asides(text, start, end))
    asks = without_offers(asked)
    added = echo(text[last:end], asks) > echo(text[first:last], asks)
    return (start, end) if added else (first, last)


# "It's iron, of course."
_OF_COURSE = regex(r",\s(?:of\s+course|naturally|obviously|clearly|surely)\W*\Z", re.IGNORECASE)
# "could not have done it", where it is asked who did
_DID_NOT = regex(r"(?:could|can|did|does|do|was|is|has|had|would)(?:n['’]t|\s+not)\b|cannot\b", re.IGNORECASE)
_LABEL = regex(r"(?:\A|\n|[.;]\s)\W*[^\W\d_]+\s*:[\s*_]*\Z")
# "a shade of green"
_SHADE = regex(r"\W*an?\s+(?:shade|kind|sort|type|form|species)\s+of\s+", re.IGNORECASE)
# "Copper and tin both turn green": neither is named alone
_JOINED = regex(
    r"\W*(?:both\s+)?(?P<all>(?:the\s+)?[\w'-]+(?:,\s+(?:the\s+)?[\w'-]+)*,?\s+and\s+(?:the\s+)?[\w'-]+)\s+(?:are|were|have|do|both|all)\b",
    re.IGNORECASE,
)
