"""What a clause names in words: the readings of its answer, from the whole down to its complement, subject or agent."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass

from dryquarry.marking.cues import last_cue
from dryquarry.marking.reading.answering import is_put_as_answer, may_name_it, names_it, tells_head
from dryquarry.marking.reading.claims import Claim, Found, Place, PlaceKind, Stance
from dryquarry.marking.reading.clauses import LEAD, behind_lead, clauses, narrowed, without_asides, without_brackets
from dryquarry.marking.reading.constructions import ASKS_WHERE, FIRST, found_by
from dryquarry.marking.reading.echo import asks_yes_or_no, content_of, echo, echo_of_it, is_echo, names_in, question_in
from dryquarry.marking.reading.extremes import is_in_between, only_compares, tells_other_extreme
from dryquarry.marking.reading.names_told import asks_year
from dryquarry.marking.reading.new_words import only_new_word
from dryquarry.marking.reading.offers import offered_by, the_one_left, without_offers
from dryquarry.marking.reading.places import sentence_at
from dryquarry.marking.reading.positions import POSITIONS
from dryquarry.marking.reading.possible_answers import (
    GAPPED,
    is_possible,
    names_another,
    only_possible,
    only_would_be,
    possible_in,
)
from dryquarry.marking.reading.rankings import line_of_rank, only_one_right
from dryquarry.marking.reading.set_aside import IT_IS, behind_withdrawal, says_nothing_of_it, set_aside
from dryquarry.marking.reading.settling import LEAST_TAKEN_UP, Choice, Question, Weight
from dryquarry.marking.reading.shortenings import unlike
from dryquarry.marking.reading.told import (
    ASKS_WHEN,
    COMPARED,
    NEGATION,
    after_that,
    begun_alike,
    doers,
    of_asked_kind,
    of_best_part,
    of_own_place,
    of_relative,
    of_what_is_asked,
    only_describes,
    own_part,
    share_echoed,
    told,
    who_it_was,
)
from dryquarry.marking.reading.turns import turns
from dryquarry.marking.reading.yes_no import yes_or_no
from dryquarry.marking.reply.blocks import BlockKind
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.texts import trimmed

MOST_CLAUSES = 24
MOST_WORDS_IN_BOLD = 5
MOST_WORDS_OF_AN_ANSWER = 3
FAR_LESS = 0.3
_WORD = re.compile(r"[^\W_]+(?:['’-][^\W_]+)*")
# "The shortest is Mira, the tallest Finn."
_MOST = re.compile(
    r"(?:^|[,;]\s+|\sand\s+)(?:the\s+)?(?P<what>\w+est|first|last|(?:most|least)\s+\w+)(?:\s+(?:of|in)\s+[^,;]{1,30}?|\s+one)?\s+"
    r"(?:is\s+|was\s+)?(?P<one>(?:the\s+)?[^\s,;.]+(?:\s[^\s,;.]+)?)(?=[,;.!]|\s+and\b|\s*\Z)",
    re.IGNORECASE,
)
# "Of the three, the knot …", "In 1902, …"
_OF_WHICH = re.compile(
    r"(?:of|in|among|from|at|on|for|with|under|according to|out of|between)\b"
    r"(?![^,]{1,60}\b(?:we|you|they|it)\s+(?:get|have|find|reach|see|is|was|are)\b)[^,]{1,60},\s+"
    r"(?!(?:not|and|but|or|nor|rather|which|where)\b)",
    re.IGNORECASE,
)
# "It does: …", "No, it isn't."
_IT_DOES = re.compile(
    r"\W*(?:(?:indeed|yes|no|of\s+course|certainly|actually|well),?\s+)?(?P<said>(?:it|he|she|they|that|this|there|you|one|we)\s+(?:does|do|did|is|are|was|were|can|could|will|would|has|have|may|must|should)"
    r"(?P<not>n't|\s+not|not)?)(?=\s*(?:[:;.,!—–-]|\Z)|\s+(?:indeed|in\s+fact|because|since|as)\b|(?<=does)\s+[a-z]|(?<=doesn't)\s+[a-z])",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class Named:
    """What a clause may be naming: readings in the order of how likely each is meant, each with its place.

    `put_so` tells that the clause is put in a way in which answers are put, and others are not; `clause` is its place.
    """

    readings: tuple[tuple[str, int, int], ...]
    put_so: bool = False
    clause: tuple[int, int] = (0, 0)

    @property
    def texts(self) -> tuple[str, ...]:
        """The readings without their places."""
        return tuple(text for text, _, _ in self.readings)


@dataclass(frozen=True, slots=True)
class Phrases:
    """Answers in words: a clause is one claim, and what it names is read out of it without knowing the key."""

    question: Question
    lists: bool = True

    def find(self, reply: Reply, place: Place) -> list[Found[Named]]:
        """Return what each clause of a stretch names."""
        found: list[Found[Named]] = []
        parts = list(itertools.islice(clauses(reply.text, place.start, place.end), MOST_CLAUSES))
        for start, end in parts:
            if says_nothing_of_it(reply.text, start, end, alone=len(parts) == 1, telling=place.telling):
                continue
            if (answer := yes_or_no(reply.text, start, end, self.question.asked)) is not None:
                found.append(Found(Named((answer,), True, (start, end)), *answer[1:]))
                continue
            if found:
                start = behind_withdrawal(reply.text, start, end)
            denials, rest = set_aside(reply.text, place, start, end)
            found += [Found(Named(()), one.start, one.end, one.said) for one in denials]
            if rest is None:
                if denials and (left := the_one_left(reply.text, start, end, self.question.asked)) is not None:
                    found.append(Found(Named(((left, start, end),), True, (start, end)), start, end))
                continue
            start = rest
            if found and self._only_restates(reply.text, start, end):
                continue  # "Barometer: air pressure", where it is asked what measures that
            if positioned := self._positioned(reply.text, start, end, place):
                found.append(Found(Named(positioned, True, (start, end)), *positioned[0][1:]))
                continue
            readings = self._readings(reply.text, start, end, place)
            if (short := _IT_DOES.match(reply.text, start, end)) and asks_yes_or_no(self.question.asked):
                readings = [("no" if short["not"] else "yes", *short.span("said")), *readings]
            if (doubt := last_cue("doubts", reply.text[start:end])) is not None:
                # "I'm not sure whether it is the wren": how that is meant is told before it
                readings = [one for one in readings if one[1] >= start + doubt.end()] or readings
            if bold := self._in_bold(reply, start, end):
                readings = [bold, *(one for one in readings if one != bold)]
            put_as_answer = _put_as_answer(reply.text, place, start, end)
            if not put_as_answer and names_another(reply.text, readings, start, end, self.question.asked):
                continue
            body = _body(reply.text, start, end, self.question.asked)
            alone = put_as_answer and not asks_year(self.question.asked)
            whole = (start, _until_comma(reply.text, start, end) if alone else end)
            as_it_stands = readings[:1] if place.telling else []
            readings = list(only_possible(reply.text, readings, body, whole, self.question.asked))
            if readings:
                # how it is meant is told by what stands around the thing itself; an answer line is shown as it stands
                first = readings[0]
                readings = list(dict.fromkeys((*(one for one in as_it_stands if one in readings), *readings)))
                put = next(found_by(FIRST, reply.text, (start, end), question_in(self.question.asked)), None)
                put_so = put is not None or readings[0][0] in ("yes", "no")
                found.append(Found(Named(tuple(readings), put_so, (start, end)), first[1], first[2]))
        return found

    def _positioned(self, text: str, start: int, end: int, place: Place) -> tuple[tuple[str, int, int], ...]:
        """Return what a clause puts where it is asked for, which leaves no other reading of it."""
        told = found_by(POSITIONS, text, (behind_lead(text, start, end), end), question_in(self.question.asked))
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
        spans: list[tuple[int, int]] = []
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
            return list(unlike(text, [(start + own[0].start("one"), start + own[0].end("one"))], place))
        spoken = [*of_what_is_asked(text, start, end, asked), *told(text, *body, asked)]
        spoken += who_it_was(text, place.start, start, end, asked)
        spoken = [*of_relative(text, main, end, asked), *spoken]
        if of and (ASKS_WHERE.search(asked) or ASKS_WHEN.search(asked)):  # "In Lind, where the ice had stopped them."
            spoken += itertools.islice(narrowed(text, of.start(), of.end() - 2), 1, None)
        if not place.telling:
            spoken = [*of_best_part(text, main, end, asked), *spoken]
        if not place.telling:
            spoken = [*of_own_place(text, main, end, asked), *spoken]
        first_of_all = [*found_by(FIRST, text, (main, end), asked), *doers(text, main, end, asked)]
        spoken = [*first_of_all, *spoken, *after_that(text, main, end, asked)]
        if not place.telling and body[1] < end and not set(spoken) - set(spans):
            # "The Pharos, one of the seven wonders, stood in Alexandria": the comma cut off what is told
            whole = next(without_asides(text, *without_brackets(text, body[0], end)))
            spoken = list(told(text, *whole, asked))
        spoken += [] if place.telling else of_asked_kind(text, main, end, asked)
        new_word = [] if place.telling else list(only_new_word(text, start, end, self.question.asked))
        if not place.telling and (step := _STEP.fullmatch(text, start, end)):
            spoken = [step.span("one"), *spoken]
        if place.telling and (symbol := _SYMBOL.fullmatch(text, start, end) or _STEP.fullmatch(text, start, end)):
            spans = [symbol.span("one"), *spans]
        whole_first = place.telling or place.kind in (PlaceKind.STATEMENT, PlaceKind.FIRST_WORDS)
        ordered = [*spans, *spoken] if whole_first else [*spoken, *spans]
        if _ASKS_FOREIGN.search(asked):
            ordered += [
                (article.end(), last) for first, last in ordered if (article := _ARTICLE.match(text, first, last))
            ]
        if (joined := _JOINED.match(text, start, end)) is not None:
            first, last = joined.span("all")
            ordered = [one for one in ordered if not (first <= one[0] and one[1] <= last) or one == (first, last)]
        return list(unlike(text, [*ordered, *new_word], place))

    def more_places(self, reply: Reply, answers: Sequence[bool]) -> Iterator[Place]:
        """Yield the line of a ranking that has the rank which is asked for: "2. Mount Kenya"."""
        ranked = line_of_rank(reply.text, question_in(self.question.asked)) or only_one_right(reply.text)
        if ranked is not None:
            yield Place(PlaceKind.LIST, *ranked, sentence_at(reply, ranked[0]))

    def choose(self, reply: Reply, place: Place, claims: Sequence[Claim[Named]], question: Question) -> Choice[Named]:
        """Return the clause that answers: of a sentence the last that turns to it, of an answer line the first."""
        claims = [claim for claim in claims if claim.value.readings]
        if not claims:
            return Choice(None)
        claims = [claim for claim in claims if claim.stance is not Stance.ASIDE] or claims
        firm = [claim for claim in claims if claim.stance is Stance.ASSERTED] or claims
        final = firm[0]
        turned = [
            claim
            for claim in firm[1:]
            if (
                turns(reply.text, place.start, claim.start)
                and not _explains(reply.text, firm[0], claim, question.asked)
            )
            or any(_BUT.search(reply.text[place.start : start]) for _, start, _ in claim.value.readings)
            or (not place.telling and self._is_drawn(reply.text, firm[0], claim))
        ]
        if turned and firm[-1] is not turned[-1] and _HAS_NOT.search(_clause_text(reply.text, turned[-1])):
            turned = firm[-1:]  # "…, so she didn't have it any more; the porter did"
        own = self._of_its_name(reply.text, firm)
        if turned:
            final = own if own is not None and own.start > turned[-1].start else turned[-1]
        elif place.kind is PlaceKind.FIRST_WORDS:
            final = firm[0]
        elif own is not None and not place.telling and GAPPED.fullmatch(_clause_text(reply.text, own)):
            final = own  # "Porto lies on the Douro; Lisbon on the Tagus"
        elif (
            not place.telling
            and len(headed := [one for one in firm if tells_head(_clause_text(reply.text, one), question.asked)]) == 1
        ):
            final = headed[0]
        elif not place.telling and (
            is_possible(_clause_text(reply.text, firm[0]), question.asked)
            or self._answers_wholly(reply.text, firm[0], firm[1:])
        ):
            final = firm[0]
        elif not place.telling and (put := self._put(reply.text, firm)):
            final = put[-1]
        elif place.start <= 2 and _ENTRY.match(reply.text, place.start, place.end) and len(firm) > 1:
            final = firm[0]
        elif not place.telling and place.kind is not PlaceKind.STATEMENT:
            final = max(
                firm, key=lambda claim: (round(echo(_clause_text(reply.text, claim), question.asked), 2), -claim.start)
            )
        others = [claim for claim in claims if claim.stance is Stance.HEDGED and claim is not final]
        return Choice(final, tuple(others), ())

    def _put(self, text: str, claims: Sequence[Claim[Named]]) -> list[Claim[Named]]:
        """Return the clauses that put an answer, but those that take up far less of what was asked than another."""
        shares = [echo(_clause_text(text, claim), self.question.asked) for claim in claims]
        least = max(shares) - FAR_LESS if offered_by(self.question.asked) else 0.0
        return [claim for claim, share in zip(claims, shares, strict=True) if claim.value.put_so and share >= least]

    def _is_drawn(self, text: str, first: Claim[Named], claim: Claim[Named]) -> bool:
        """Tell whether a clause draws on the first and takes up as much: "…, hence the white one has the salt"."""
        said, opening = _clause_text(text, claim), _clause_text(text, first)
        asked = self.question.asked
        return _DRAWS.match(said) is not None and echo(said, asked) >= max(echo(opening, asked), LEAST_TAKEN_UP)

    def _of_its_name(self, text: str, claims: Sequence[Claim[Named]]) -> Claim[Named] | None:
        """Return the one clause that has the name of which the question asks: "…; Slovenia's government sits in …"."""
        names = names_in(question_in(self.question.asked))
        own = [claim for claim in claims if names & content_of(_clause_text(text, claim))]
        asked = self.question.asked
        return own[0] if len(own) == 1 and possible_in(text, *own[0].value.clause, asked) else None

    def _answers_wholly(self, text: str, first: Claim[Named], later: Sequence[Claim[Named]]) -> bool:
        """Tell whether a clause takes up what was asked and names what may answer, and none behind it does as much."""
        asks = without_offers(self.question.asked)
        taken_up = [echo(_clause_text(text, claim), asks) for claim in (first, *later)]
        named = possible_in(text, first.start, first.end, self.question.asked)
        return bool(named) and taken_up[0] >= WHOLLY and taken_up[0] > max(taken_up[1:], default=1.0)

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
        text = reply.text[place.start : place.end]
        ranked = line_of_rank(reply.text, question_in(question.asked))
        if ranked and reply.blocks[reply.sentences[place.sentence].block].kind is BlockKind.ITEM:
            return None  # of a ranking only the rank asked for answers
        contrast = re.search(
            r"\b(?:by contrast|in contrast|however|meanwhile|on the other hand)\b", text, re.IGNORECASE
        )
        bold = any(place.start <= start and end <= place.end + 1 for start, end in reply.view.bold)
        # where it is asked what is not so, who tells what is so tells of something else
        before = reply.sentences[place.sentence - 1].text if place.sentence else ""
        taken_up = echo(text, question.asked) + echo_of_it(text, before, question.asked)
        apart = (contrast is not None and taken_up < WHOLLY) or (
            NEGATION.search(question_in(question.asked)) and not NEGATION.search(text)
        )
        asked = question_in(question.asked)
        named = names_it(text, question.asked) or is_in_between(text, asked)
        several = len(reply.sentences) > 1
        apart = apart or (several and tells_other_extreme(text, asked))
        apart = apart or (several and (only_describes(text, asked) or only_would_be(text, question.asked)))
        concludes = place.kind is PlaceKind.CONCLUSION
        idle = not (taken_up or named or concludes or is_put_as_answer(text, question.asked))
        return Weight(
            taken_up
            - 0.5 * bool(apart)
            - (several and only_compares(text, asked))
            + 0.5 * named
            - (0.5 + 0.8 * place.sentence / len(reply.sentences)) * idle,
            bold and not _bold_label(reply, place),
        )


def _bold_label(reply: Reply, place: Place) -> bool:
    """Tell whether what is bold in a sentence is only the label that it begins with."""
    spans = [span for span in reply.view.bold if place.start <= span[0] and span[1] <= place.end + 1]
    return all(start == place.start and reply.text[end - 1 : end + 1].rstrip().endswith(":") for start, end in spans)


def _until_comma(text: str, start: int, end: int) -> int:
    comma = re.compile(r"[,(]").search(text, start, end)
    return comma.start() if comma else end


_IS_RIGHT = re.compile(r"\b(?:is|was)\s+(?:right|correct|true|it|(?:the|my)\s+(?:\w+\s+)?answer)\W*\Z", re.IGNORECASE)


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


def _clause_text(text: str, claim: Claim[Named]) -> str:
    return text[slice(*claim.value.clause)]


# "isobar – from isos (equal) and baros (weight)"
_ENTRY = re.compile(
    r"\W*[^\W\d_]+(?:\s[^\W\d_]+)?\s(?:[–—-]|\()\s?(?:from|of|a|an|the|literally|that\s+is|i\.e\.)\s", re.IGNORECASE
)
_DESCRIBES = re.compile(
    r"\W*(?:the|its|his|her)\s+[^\W\d_]+\s+(?:of|in|on|that|which|who|with|between)\b", re.IGNORECASE
)
_ONLY_A_NAME = re.compile(r"\W*(?:the\s+)?[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?\W*")
_LABEL = re.compile(r"(?:\A|\n|[.;]\s)\W*[^\W\d_]+\s*:[\s*_]*\Z")
_HAS_NOT = re.compile(r"\A\W*(?:he|she|it|they)\s+(?:\w+n't|\w+\s+not|\w+\s+never)\b", re.IGNORECASE)
# "a shade of green"
_SHADE = re.compile(r"\W*an?\s+(?:shade|kind|sort|type|form|species)\s+of\s+", re.IGNORECASE)
# A sentence that takes up so much of what was asked tells of nothing else.
WHOLLY = 0.6
_BUT = re.compile(r"\b(?:which leaves|but|sondern|aber|mais|sino|pero)\W+\Z", re.IGNORECASE)


def _explains(text: str, first: Claim[Named], later: Claim[Named], asked: str) -> bool:
    """Tell whether what stands after a colon explains an answer: "It must be autumn: apples ripen then"."""
    begins = min(start for _, start, _ in first.value.readings)
    if _DESCRIBES.match(text, begins) and _ONLY_A_NAME.fullmatch(_clause_text(text, later)):
        return False  # "The neighbour of Bolivia and Chile: Peru."
    alone = is_possible(text[begins : later.start].rstrip(" :"), asked)
    opens = alone or first.value.put_so or IT_IS.match(text, begins) or _IT_DOES.match(text, begins)
    return text[: later.start].rstrip().endswith(":") and bool(opens)


# "la pêche", where the French word is asked for
_ASKS_FOREIGN = re.compile(
    r"\b(?:French|German|Spanish|Italian|Dutch|Portuguese)\s+(?:word|noun|name|term)\b", re.IGNORECASE
)
_ARTICLE = re.compile(
    r"\W*(?:(?:la|le|les|une?|der|die|das|eine?|el|los|las|il|lo|het|de)\s+|l['’])(?=\w)", re.IGNORECASE
)
_DRAWS = re.compile(r"\W*(?:so|hence|therefore|thus)\b(?!\s+(?:far|that|much|many|called)\b)", re.IGNORECASE)
# "Copper and tin both turn green": neither is named alone
_JOINED = re.compile(
    r"\W*(?:both\s+)?(?P<all>(?:the\s+)?[\w'-]+(?:,\s+(?:the\s+)?[\w'-]+)*,?\s+and\s+(?:the\s+)?[\w'-]+)\s+(?:are|were|have|do|both|all)\b",
    re.IGNORECASE,
)
# "Monday + 3 = Thursday"
_STEP = re.compile(r"[^=\n]{1,40}\s[+−-]\s?\d+[^=\n]{0,20}=\s*(?P<one>[^=,;]{1,40}?)\W*")
# "Cu (copper)"
_SYMBOL = re.compile(r"\W*[A-Z][A-Za-z]{0,2}\s*\((?P<one>[^()]{3,60})\)\W*")
