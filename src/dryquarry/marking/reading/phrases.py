"""What a clause names in words: the readings of its answer, from the whole down to its complement, subject or agent."""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from functools import lru_cache

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.claims import Claim, Found, Place, PlaceKind, Stance
from dryquarry.marking.reading.clauses import LEAD, PREPOSITION, clauses, narrowed, without_asides, without_brackets
from dryquarry.marking.reading.echo import content_of, echo, is_echo, is_verb, question_in, stem
from dryquarry.marking.reading.settling import Choice, Question, Weight
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.texts import trimmed

LONGEST_READING = 200
MOST_READINGS = 20
MOST_CLAUSES = 24
LONGEST_SUBJECT_WORDS = 6
LEAST_ECHO = 0.3
MOST_WORDS_IN_BOLD = 5
_COPULAS = frozenset(("is", "are", "was", "were"))
_OF_ANOTHER = re.compile(
    r"\b(?:second|third|next|other|another|also|not|never|nearly|almost|once)\b|n't\b", re.IGNORECASE
)
_WORD = re.compile(r"[^\W_]+(?:['’-][^\W_]+)*")
# "at 20 °C only mercury is liquid"
_ONLY = re.compile(r"\bonly\s+(?P<one>[^,;]{1,60}?)\s+(?:is|are|was|were|has|have|can|did|does)\b", re.IGNORECASE)
_CLEFT = re.compile(
    r"^(?:it|this|that|c)(?:\s+(?:is|was|must be|has to be|would be|could only be|can only be)|'s|"
    r"'est|'était)\s+(?P<one>.{1,120}?)(?:,?\s+(?:who|that|which|whom|where|qui|que)\b.*)?$",
    re.IGNORECASE | re.DOTALL,
)
_TAIL = re.compile(
    r"(?:'s|\s+(?:is|are|was|were))\s+(?:the\s+)?(?:right|correct|final|only\s+possible|best)?\s*(?:answer|"
    r"left(?:\s+(?:over|behind))?|meant|one|solution|choice|correct|right)\b.*$|"
    r"\s+(?:seems?|looks?|sounds?)\s+(?:right|correct|best|good)\b.*$|\s+(?:would|will)\s+be\s+my\s+\w+.*$|\s+gets\s+my\s+vote.*$|\s+it\s+(?:is|was|must\s+be|has\s+to\s+be)\W*$|\s+is\s+what\s+(?:you|we|i)\b.*$",
    re.IGNORECASE | re.DOTALL,
)
# Whose it is, and who has it: the owner is named either way.
_ASKS_WHOSE = re.compile(r"\b(?:whose|owns?|owned|belongs?|has|have|had)\b", re.IGNORECASE)
# "Ada's coat is blue."
_OWNER = re.compile(r"\b(?P<one>[A-Z]\w+)(?:'s|s')")
# "older than that of Osten", but "no other than Ada"
# "Mercury is.", "then Runa did."
_IS_IT = re.compile(
    r"\W*(?:then\s+)?(?P<one>[^,;:.]{1,50}?)\s+(?:is|was|are|were|did|does|do|has|had|have|can|could|will)\W*",
    re.IGNORECASE,
)
# "the heron is Velm's, whose capital is Harrow"
_WHOSE = re.compile(
    r"\bwhose\s+(?P<what>[^\W\d_]+)\s+(?:is|was)\s+(?:called\s+)?(?P<one>[^,;:.]{1,60}?)(?=[,;:.]|\s*\Z)", re.IGNORECASE
)
# "all are trees except the rose", where the odd one out is asked for
_ODD_ONE = re.compile(
    r"\b(?:all|every\w*|the\s+(?:others?|rest))\b.*?\b(?:except(?:\s+for)?|but(?:\s+for)?|save|apart\s+from|besides)\s+"
    r"(?P<one>[^,;:.]{1,60}?)(?=[,;:.]|\s*\Z)",
    re.IGNORECASE | re.DOTALL,
)
_ASKS_ODD = re.compile(
    r"\bodd\b|\b(?:not|n't)\s+(?:belong|fit|match|one\s+of)|n't\s+(?:belong|fit|match)|\bdiffer|\bout\s+of\s+place\b|\bexception\b",
    re.IGNORECASE,
)
_ASKS_WHO = re.compile(r"\bwh(?:o|om|ose)\b", re.IGNORECASE)
_PLACE_WORD = re.compile(
    r"\b(?:in|into|on|onto|at|to|inside|behind|under|near|beside|above|below)\s+(?=\S)", re.IGNORECASE
)
_ASKS_WHERE = re.compile(r"\bwhere\b", re.IGNORECASE)
# "early October", "8 October"
_ASKS_MONTH = re.compile(r"\bmonth\b", re.IGNORECASE)
_MONTH = re.compile(
    r"\W*(?:(?:in|on)\s+)?(?:the\s+)?(?:(?:early|late|mid|about|around|the\s+\w+\s+of|\d{1,2}(?:st|nd|rd|th)?(?:\s+of)?)[\s-]+)?"
    r"(?P<one>january|february|march|april|may|june|july|august|september|october|november|december)"
    r"(?:\s+\d{1,2}(?:st|nd|rd|th)?)?\W*",
    re.IGNORECASE,
)
# "on Thursdays", "Thursday morning"
_ASKS_DAY = re.compile(r"\b(?:day|weekday)\b", re.IGNORECASE)
_DAY = re.compile(
    r"\W*(?:(?:it\s+(?:is|takes\s+place)\s+)?(?:on|every|each)\s+)?"
    r"(?P<one>(?:mon|tues|wednes|thurs|fri|satur|sun)day)s?"
    r"(?:\s+(?:morning|afternoon|evening|night|noon)s?)?\W*",
    re.IGNORECASE,
)
_COMPARED = re.compile(r"(?<!other)\s+than\s", re.IGNORECASE)
# "They're wrong; Osten's is."
_ONLY_JUDGES = re.compile(
    r"\W*(?:they|that|this|it|he|she|you|which)(?:'re|'s|\s+(?:is|are|was|were))\s+(?:all\s+|both\s+|quite\s+)?"
    r"(?:wrong|mistaken|false|incorrect|not\s+(?:so|true|right)|untrue)\W*|"
    r"\W*(?:and\s+)?that's\s+(?:all|it|that|why|how)\b.*|\W*(?:(?:yes|and|so),?\s+)?that's\s+(?:right|correct|true)\W*|"
    r"\W*(?:the|this|that|it)\s+(?:\w+\s+)?(?:says?|tells?|shows?|states?)\s+(?:us\s+)?(?:so|it|that|this)\W*|\W*that(?:\s+one)?(?:'s|\s+is)\s+(?:easy|simple|clear|obvious)\W*|\W*(?:it|that|this)(?:\s+(?:is|was)n't|'s\s+not|\s+(?:is|was)\s+not)\W*",
    re.IGNORECASE,
)
# "It curves upwards."
_OF_IT = re.compile(
    r"(?:it|they|he|she|this|that|these|we|you|one|i)(?:'d|'ll|\s+(?:can|could|should|may|might|must|will|would))?\s+"
    r"\w+\s+(?P<one>\S.*)$",
    re.IGNORECASE | re.DOTALL,
)
# "the fact is that"
_THAT = re.compile(r"[^,;:.]{2,80}?(?<!\bthan)\sthat\s+(?=\S)", re.IGNORECASE)
# "the tern is more plausible than the swift"
_PREFERRED = re.compile(
    r"\W*(?:more\s+(?:likely|probable|plausible)\s+)?(?P<one>[^,;:]{1,60}?)\s+(?:(?:is\s+)?(?:more\s+\w+\s+|makes\s+more\s+sense\s+)?than|beats)\s.*",
    re.IGNORECASE | re.DOTALL,
)
# "only the tern fits", "the swift doesn't fit, the tern does"
_FITS = re.compile(
    r"\W*(?:only\s+)?(?P<one>[^,;:]{1,60}?)\s+(?:fits?|remains?|works?|qualifies|holds|matches|is\s+left|makes\s+sense|is\s+(?:more\s+|most\s+)?(?:likely|probable|plausible))\W*",
    re.IGNORECASE,
)
_DOES_NOT = re.compile(
    r"[^,;:]{1,60}?\s+(?:(?:does|is|can|do|are|could|was|did)(?:n't|\s+not)\b[^,;:]{0,40}|(?:is|was)\s+(?:wrong|false|incorrect|out))"
    r"[,;]\s+(?:but\s+|and\s+)?(?:the\s+answer\s+)?(?P<one>[^,;:]{1,60}?)"
    r"\s+(?:(?:is|was)\s+(?:right|correct|true)|does|is|can|do|are|could|was|did)\W*",
    re.IGNORECASE,
)
# "the evidence favours the tern over the swift", "looks like the tern to me"
_POINTS = re.compile(
    r"\b(?:favou?rs?|points?\s+to|speaks?\s+for|looks?\s+like|sounds?\s+like|(?:money|bet)\s+on|bet(?:ting)?\s+on|decided\s+on|"
    r"opt(?:ing)?\s+for|settled?\s+(?:on|for)|hands\s+down,?|namely)\s+(?P<one>[^,;:.!]{1,60}?)(?=\s+(?:over|rather|to\s+me|instead|and)\b|[,;:.!]|\s*\Z)",
    re.IGNORECASE,
)
# "the swift is the popular answer, the tern the right one"
_RIGHT_ONE = re.compile(
    r"(?:^|,\s+|;\s+)(?:and\s+)?(?P<one>[^,;:]{1,60}?)\s+(?:is\s+|was\s+)?the\s+(?:right|correct|real|true|actual)\s+(?:one|answer)\W*\Z|"
    r"\bthe\s+(?:right|correct|real|true|actual)\s+(?:one|answer)\s+(?:is|was|being)\s+(?P<other>[^,;:]{1,60}?)(?=[,;:.!]|\s*\Z)",
    re.IGNORECASE,
)
# "they turn it into honey"
_INTO = re.compile(
    r"\b(?:turn|make|made|change|convert|transform|process)\w*\s+(?:\S+\s+){1,4}?into\s+(?P<one>[^,;:.]{1,60}?)"
    r"(?=[,;:.]|\s+and\b|\s*\Z)",
    re.IGNORECASE,
)
# "Nils's brother Aksel"
_ROLE_AND_NAME = re.compile(
    r"(?:\w+'s?|the|his|her|their|an?)\s+(?:[a-z]+\s+){1,3}(?P<one>[A-Z]\w+(?:\s[A-Z]\w+){0,2})"
)
# "In bases it turns blue."
_PLACED_FIRST = re.compile(
    r"(?:in|at|on|with|under|after|before|among)\s+(?:\w+\s+){1,4}(?=(?:it|they|he|she)\s)", re.IGNORECASE
)
# "Monday → Tuesday → Wednesday"
_ARROW = re.compile(r"\s*(?:->|→|⇒|=>)\s*")
# "Three sides make a triangle, four a quadrilateral."
_MAKES = re.compile(r"(?<=\w)\s+(?:makes?|forms?|gives?|means?|becomes?|uses?|used|needs?)\s+", re.IGNORECASE)
# "That's what the compass is for."
_WHAT_FOR = re.compile(r"\bwhat\s+(?P<one>\S.{0,60}?)\s+(?:is|are|was)\s+for\b", re.IGNORECASE)
# "The shortest is Mira, the tallest Finn."
_MOST = re.compile(
    r"(?:^|[,;]\s+|\sand\s+)(?:the\s+)?(?P<what>\w+est|first|last|(?:most|least)\s+\w+)(?:\s+(?:of|in)\s+[^,;]{1,30}?|\s+one)?\s+"
    r"(?:is\s+|was\s+)?(?P<one>(?:the\s+)?[^\s,;.]+(?:\s[^\s,;.]+)?)(?=[,;.!]|\s+and\b|\s*\Z)",
    re.IGNORECASE,
)
# "Its opposite: plentiful."
_LABEL = re.compile(r"\W*(?:(?:the|its|his|her|their)\s+)?(?P<what>[^:.]{3,40}):\s+\S")
# "…, so she's the tallest": who that is, the sentence said before
_OF_HER = re.compile(
    r"\W*(?:(?:so|therefore|thus|hence|and)\s+)?(?:she|he|it|they)(?:'s|'re|\s+(?:is|was|are|has|had|must\s+be))\s+(?P<rest>\S.*)",
    re.IGNORECASE | re.DOTALL,
)
# "It turns from red to blue."
_FROM_TO = re.compile(r"\bfrom\s+[^,;]{1,40}?\s+to\s+(?P<one>\S.*)$", re.IGNORECASE | re.DOTALL)
# "Red in acids, blue in bases."
_PART = re.compile(
    r"(?:^|,\s+|;\s+|\sand\s)(?P<one>\w+(?:\s\w+)?)\s+(?:in|for|at|on|with|by|under)\s+(?P<rest>[^,;]+?)(?=,|;|\sand\s|[.!]|$)"
)
# "Ada keeps the evening watch", "the bill bends upwards"
_DOES = re.compile(
    r"(?:[A-Z]\w+|(?:the|an?|its|his|her|their) (?:\w+ ){1,4}?)\s?[a-z]{2,}(?:s|ed)\s+(?P<one>\S.*)$", re.DOTALL
)
_BY = re.compile(
    r"\b(?P<verb>\w+)\s+(?:by|von|par|por)\s+(?P<one>[^,;:]{1,80}?)(?=\s+(?:and|in|on|at|while|with|"
    r"from|for|und|et|y)\b|[,;:.]|\s*\Z)",
    re.IGNORECASE,
)
# "Of the three, the knot …", "In 1902, …"
_OF_WHICH = re.compile(
    r"(?:of|in|among|from|at|on|for|with|under|according to|out of|between)\b[^,]{1,60},\s+", re.IGNORECASE
)
# "…, but I'm not entirely sure": says how sure a reply is, and names nothing
_CONFIDENCE = re.compile(
    r"\W*(?:(?:but|though|although|and)\s+)?(?:i(?:'m| am)\s+(?:not\s+)?"
    r"(?:\w+\s+|\d+\s?%\s+){0,2}?(?:sure|certain|confident|positive)\b|"
    r"i (?:could|might|may) be (?:wrong|mistaken)|please (?:check|verify)|don't quote me|that's (?:only|just) a guess)",
    re.IGNORECASE,
)
# "Wrong: the swift"
_CALLED_WRONG = re.compile(r"(?:^|[.;\n])\W*(?:wrong|incorrect|false)\s*:\s*\Z", re.IGNORECASE)
_IT_IS_NOT = re.compile(r"\bit\s+(?:is|was)(?:n't|\s+not)\W*\Z", re.IGNORECASE)
_CROSS = re.compile("[❌✗✘✖]")
_ONLY_NO = re.compile(r"\W*(?:no|nein|non)\W*", re.IGNORECASE)
_FRAGMENT_DENIED = re.compile(
    r"\W*(?:nope,?\s+|no,\s+)?(?:(?:it|that|this)(?:\s+(?:is|was)|'s)(?:n't|\s+not)(?!\s+(?:hard|difficult|surprising))|"
    r"not|no|never|neither|nor|anything but|"
    r"any\w* (?:except|but|other than)|"
    r"everything (?:except|but)|all but|none(?! other than)|nicht|kein\w*|pas|ni)\b(?!\s*(?:only|just)\b)(?=\W*\w)",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class Named:
    """What a clause may be naming: readings in the order of how likely each is meant, each with its place."""

    readings: tuple[tuple[str, int, int], ...]

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
        found = []
        parts = list(itertools.islice(clauses(reply.text, place.start, place.end), MOST_CLAUSES))
        for start, end in parts:
            if len(parts) > 1 and _ONLY_NO.fullmatch(reply.text, start, end):
                continue
            if (len(parts) > 1 or not place.telling) and _ONLY_JUDGES.fullmatch(reply.text, start, end):
                continue
            if len(parts) > 1 and _CONFIDENCE.match(reply.text, start, end):
                continue
            crossed = _CROSS.search(reply.text, start, end) or _CALLED_WRONG.search(reply.text[place.start : start])
            crossed = crossed or _IT_IS_NOT.search(reply.text[start:end])
            if crossed is not None:
                found.append(Found(Named(()), start, min(end, start + 60), crossed.group()))
                continue
            if _FRAGMENT_DENIED.match(reply.text, start, end) and not _is_word_no(reply.text[start:end]):
                named = _after_denial(reply.text, start, end)
                denies = cue("denies").search(reply.text, start, end)
                said = denies.group() if denies else reply.text[start:end].split()[0]
                found.append(Found(Named(()), start, min(end, start + 60), said))
                if named is None:
                    continue
                start, end = named
            readings = self._readings(reply.text, start, end, place)
            if bold := self._in_bold(reply, start, end):
                readings = [bold, *(one for one in readings if one != bold)]
            if readings:
                first = readings[0]
                found.append(Found(Named(tuple(readings)), first[1], first[2]))
        return found

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
        main = lead.end() if lead and lead.end() < end else start
        of = _OF_WHICH.match(text, main, end)
        main = of.end() if of else main
        turned = lead is not None and re.search(r"\b(?:but|sondern|aber|mais|sino)\b", lead.group(), re.IGNORECASE)
        for first in (main,) if turned and main > start else dict.fromkeys((start, main)):
            spans.append((first, end))
            without = without_brackets(text, first, end)
            spans += [without, *without_asides(text, *without)]
        body = spans[-1]
        compared = _COMPARED.search(text, *body)
        if compared:
            body = (body[0], compared.start())  # "older than that of Osten" names no Osten
        asked = question_in(self.question.asked)
        extremes = list(_MOST.finditer(text[start:end]))
        own = [one for one in extremes if _share_echoed(one["what"], asked) > 0]
        if len(extremes) > 1 and len(own) == 1:
            return list(_unlike(text, [(start + own[0].start("one"), start + own[0].end("one"))], place))
        told = [*_of_what_is_asked(text, start, end, asked), *self._told(text, *body)]
        told += _who_it_was(text, place.start, start, end, asked)
        if (whose := _WHOSE.search(text, start, end)) is not None and is_echo(whose["what"], asked):
            told = [whose.span("one"), *told]
        if not place.telling:
            told = [*self._of_best_part(text, main, end), *told]
        if (points := _POINTS.search(text, start, end)) is not None:
            told = [points.span("one"), *told]
        if (right := _RIGHT_ONE.search(text, start, end)) is not None:
            told = [right.span("one" if right["one"] else "other"), *told]
        told += self._after_that(text, main, end)
        for pattern in (_IS_IT, _DOES_NOT, _PREFERRED):
            if (alone := pattern.fullmatch(text, main, end)) is not None:
                told = [alone.span("one"), *told]
        if not place.telling and body[1] < end and not set(told) - set(spans):
            # "The Pharos, one of the seven wonders, stood in Alexandria": the comma cut off what is told
            told = list(self._told(text, *next(without_asides(text, *without_brackets(text, body[0], end)))))
        whole_first = place.telling or place.kind in (PlaceKind.STATEMENT, PlaceKind.FIRST_WORDS)
        ordered = [*spans, *told] if whole_first else [*told, *spans]
        return list(_unlike(text, ordered, place))

    def _told(self, text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
        """Yield what a clause tells: its complement, its subject where the rest echoes the question, its agent."""
        stretch = text[start:end]
        if _ASKS_WHOSE.search(question_in(self.question.asked)):
            for match in _OWNER.finditer(text, start, end):
                yield match.span()
                yield match.span("one")
        cleft = _CLEFT.match(stretch)
        if cleft:
            yield from narrowed(text, start + cleft.start("one"), start + cleft.end("one"))
        if done_by := list(self._doers(text, start, end)):
            yield from done_by  # whom it was done for, or with, is no answer to who did it
            return
        copulas = list(cue("copula", r"(?<![\w'])", r"(?!\w)").finditer(text, start, end))
        asked = question_in(self.question.asked)
        if (out := _ODD_ONE.search(stretch)) is not None and _ASKS_ODD.search(asked):
            yield start + out.start("one"), start + out.end("one")
        only = _ONLY.search(stretch)
        if only and asked and _echoes(stretch[only.end("one") :], asked):
            yield from narrowed(text, start + only.start("one"), start + only.end("one"))
        for match in [*copulas[-1:], *copulas[:1]]:
            subject, complement = (start, match.start()), (match.end(), end)
            complement_echoes = asked and _echoes(text[slice(*complement)], asked)
            if complement_echoes and not _echoes(text[slice(*subject)], asked):
                yield from narrowed(text, *subject)
            yield from narrowed(text, *complement)
        arrows = list(_ARROW.finditer(text, start, end))
        if arrows:
            yield arrows[-1].end(), end
        if (purpose := _WHAT_FOR.search(stretch)) is not None:
            yield start + purpose.start("one"), start + purpose.end("one")
        if _ASKS_WHERE.search(asked):
            for preposition in list(_PLACE_WORD.finditer(text, start, end))[-1:]:
                yield preposition.end(), end
        if (fits := _FITS.fullmatch(stretch)) is not None:
            yield start + fits.start("one"), start + fits.end("one")
        if into := _INTO.search(stretch):
            yield start + into.start("one"), start + into.end("one")
        if (named := _ROLE_AND_NAME.fullmatch(stretch.strip(" .!*"))) and _ASKS_WHO.search(asked):
            place = start + stretch.find(named.group()) + named.start("one")
            yield place, place + len(named["one"])
        if made := _MAKES.search(stretch):
            yield from narrowed(text, start + made.end(), end)
        if (turned := _FROM_TO.search(stretch)) and not re.search(r"\bfrom\b", asked):
            yield start + turned.start("one"), end
        said = _OF_IT.search(stretch) if _PLACED_FIRST.match(stretch) else _OF_IT.match(stretch)
        if said:
            yield start + said.start("one"), end
        yield from _subjects(text, start, end, question_in(self.question.asked))
        does = _DOES.match(stretch)
        if does and not copulas:
            yield start + does.start("one"), end
        yield from self._agents(text, start, end)
        if asked:
            yield from self._beside_echo(text, start, end)
        tail = _TAIL.search(stretch)
        if tail:
            yield start, start + tail.start()
        if not copulas:
            yield from itertools.islice(narrowed(text, start, end), 1, None)
        for asks, when in ((_ASKS_DAY, _DAY), (_ASKS_MONTH, _MONTH)):
            if asks.search(asked) and (said := when.fullmatch(stretch)) is not None:
                yield start + said.start("one"), start + said.end("one")

    def _after_that(self, text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
        """Yield what is told after words that lead up to it with a "that": "the fact is that …"."""
        opening = _THAT.match(text, start, end)
        if opening is None or cue("denies", r"(?<![\w'-])", r"(?![\w-])").search(opening.group()):
            return
        first, stop = list(without_asides(text, opening.end(), end))[-1]
        compared = _COMPARED.search(text, first, stop)
        yield from self._told(text, first, compared.start() if compared else stop)

    def _of_best_part(self, text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
        """Yield who does what is asked, where other parts tell of others: "Wim broke it, Jonas repaired it"."""
        asked = question_in(self.question.asked)
        ends = [match.span() for match in _PARTS.finditer(text, start, end)]
        if not ends or not asked:
            return
        bounds = [start, *(place for span in ends for place in span), end]
        parts = list(zip(bounds[::2], bounds[1::2], strict=True))
        shares = [_taken_up(text[slice(*part)], asked) for part in parts]
        best = max(shares)
        if best < 1 or shares.count(best) > 1:
            return
        best_part = parts[shares.index(best)]
        yield from _subjects(text, *best_part, asked)
        yield from self._beside_echo(text, *best_part)

    def _agents(self, text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
        """Yield who or what does what is asked about: "written by Thale", and not "checked by Jorin"."""
        for match in itertools.islice(_BY.finditer(text, start, end), 1):
            yield match.span("one")

    def _doers(self, text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
        asked = content_of(question_in(self.question.asked))
        for match in _BY.finditer(text, start, end):
            if match["verb"].islower() and stem(match["verb"]) in asked:
                yield match.span("one")

    def _beside_echo(self, text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
        """Yield what stands before and after the words that the clause takes from the question."""
        asked = question_in(self.question.asked)
        words = list(_WORD.finditer(text, start, end))
        echoes = [is_echo(word.group(), asked) for word in words]
        said = [number for number, word in enumerate(words) if echoes[number] and not _is_common(word.group())]
        if not said:
            return
        # the subject: what stands before the verb that the question has, too
        for number in said:
            before = words[:number]
            if before and any(not echoes[place] for place in range(number)) and number <= 6:
                yield start, words[number - 1].end()
                if number > 1 and words[number - 1].group().lower() in ("the", "its"):
                    yield start, words[number - 2].end()  # "'abundant' the opposite"
                break
        # the object: what stands after the last of them
        last = said[-1]
        while last + 1 < len(words) and echoes[last + 1]:
            last += 1
        if last + 1 < len(words):
            beside = words[last + 1].start(), end
            yield from (beside,) if _ASKS_WHO.search(asked) else narrowed(text, *beside)
        for number in reversed(said):
            if number + 1 < len(words) and not all(echoes[number + 1 :]):
                yield words[number + 1].start(), end
                break
        prepositions = list(PREPOSITION.finditer(text, start, end))
        for preposition in prepositions[-1:]:
            yield preposition.end(), end

    def more_places(self, reply: Reply, answers: Sequence[bool]) -> Iterator[Place]:
        """Yield nothing more than the sentences."""
        yield from ()

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
            if _turns(reply.text, place.start, claim.start)
            or any(_BUT.search(reply.text[place.start : start]) for _, start, _ in claim.value.readings)
        ]
        if turned:
            final = turned[-1]
        elif not place.telling and place.kind is not PlaceKind.STATEMENT:
            final = max(
                firm, key=lambda claim: (round(echo(_clause_text(reply.text, claim), question.asked), 2), -claim.start)
            )
        others = [claim for claim in claims if claim.stance is Stance.HEDGED and claim is not final]
        return Choice(final, tuple(others), ())

    def same(self, first: Named, second: Named) -> bool:
        """Tell whether two clauses name the same."""
        return bool(set(map(str.casefold, first.texts)) & set(map(str.casefold, second.texts)))

    def most(self, reply: Reply, place: Place, question: Question) -> float:
        """Return the most that `weigh` may say: a label takes up more than its words."""
        text = reply.text[place.start : place.end]
        return echo(text, question.asked) + 0.5 * (":" in text)

    def weigh(self, reply: Reply, place: Place, question: Question) -> Weight | None:
        """Return how far a sentence takes up what was asked."""
        text = reply.text[place.start : place.end]
        contrast = re.search(
            r"\b(?:by contrast|in contrast|however|meanwhile|on the other hand)\b", text, re.IGNORECASE
        )
        bold = any(place.start <= start and end <= place.end + 1 for start, end in reply.view.bold)
        label = _LABEL.match(text)
        named = label is not None and _names_what_is_asked(label["what"], question_in(question.asked))
        return Weight(
            echo(text, question.asked) - 0.5 * (contrast is not None) + 0.5 * named,
            bold and not _bold_label(reply, place),
        )


def _names_what_is_asked(label: str, asked: str) -> bool:
    """Tell whether a label is made of the question's words, the first of which is mostly what it asks for."""
    first = next((stem(word) for word in _WORD.findall(asked) if not _is_common(word)), None)
    return first in {stem(word) for word in _WORD.findall(label)} and _echoes(label, asked)


# "Wim broke the clock, Jonas repaired it, and Edda held the lamp"
_PARTS = re.compile(r",\s+(?:and\s+|while\s+|but\s+)?(?=[A-Z'])|;\s+|\s+(?:and|while|whereas)\s+(?=[A-Z'])")
_PRONOUN = re.compile(r"\b(?:it|them|him|her)\b")


def _taken_up(part: str, asked: str) -> int:
    """Return how many words of a part are the question's; a pronoun stands for one of them."""
    words = {stem(word) for word in _WORD.findall(part)} & content_of(asked)
    return len(words) + bool(words and _PRONOUN.search(part))


def _who_it_was(text: str, first: int, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the subject of a sentence to which a later clause comes back: "Mira is …, so she's the tallest"."""
    said = _OF_HER.match(text, start, end)
    if said is None or start <= first or not _echoes(said["rest"], asked):
        return
    verb = cue("copula", r"(?<![\w'])", r"(?!\w)").search(text, first, start)
    verbs = [word.start() for word in _WORD.finditer(text, first, start) if _is_main_verb(word.group())]
    subject = (first, verb.start() if verb else verbs[0]) if verb or verbs else None
    if subject and text[slice(*subject)].strip().lower() not in ("it", "this", "that", "it's", "that's"):
        yield subject
    elif (by := _BY.search(text, first, start)) is not None:
        yield by.span("one")  # "It's signed by Astrid, so she is the one"


def _of_what_is_asked(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the one of several parts whose surroundings were asked for: "red in acids, blue in bases"."""
    parts = list(_PART.finditer(text[start:end]))
    own = [part for part in parts if asked and _echoes(part["rest"], asked)]
    if len(parts) > 1 and len(own) == 1:
        yield start + own[0].start("one"), start + own[0].end("one")


_ADVERBS = frozenset(("still", "also", "really", "actually", "now", "always", "probably", "certainly", "clearly"))
_DID_IT = re.compile(r"(?:did|does|was|is)\s+(?:it|so|that|this)(?:\s+\w+)?\W*", re.IGNORECASE)


def _subjects(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the first words of a clause that may be its subject, where what follows them takes up what was asked."""
    words = list(itertools.islice(_WORD.finditer(text, start, end), 2 * LONGEST_SUBJECT_WORDS))
    own = next((number for number, word in enumerate(words) if not _of_the_question(word.group(), asked)), 0)
    # "In the winter of 1911 Runa Holm repaired it": the subject may stand after what the question said
    for first in dict.fromkeys((own, 0)):
        taken = itertools.pairwise(words[first : first + LONGEST_SUBJECT_WORDS + 1])
        for number, (before, word) in enumerate(taken, start=first):
            rest = text[word.start() : end]
            if _is_main_verb(word.group()) and before.group().lower() not in ("the", "a", "an", "of", "and"):
                other = _OF_ANOTHER.search(rest)
                own = other is None or other.group().lower() in asked.lower()
                takes_up = _share_echoed(rest, asked) >= LEAST_ECHO and own
                if not asked or takes_up or _DID_IT.fullmatch(rest):
                    last = number if before.group().lower() not in _ADVERBS else number - 1
                    yield words[first].start() if first else start, words[max(first, last)].end()


def _of_the_question(word: str, asked: str) -> bool:
    return is_echo(word, asked) or word.isdecimal()


def _is_main_verb(word: str) -> bool:
    regular = word.endswith(("s", "ed")) or is_verb(word) or word == "did"
    return word.islower() and word not in _COPULAS and regular


def _share_echoed(phrase: str, asked: str) -> float:
    words = [word for word in _WORD.findall(phrase) if not _is_common(word)]
    return sum(is_echo(word, asked) for word in words) / len(words) if words else 0.0


def _bold_label(reply: Reply, place: Place) -> bool:
    """Tell whether what is bold in a sentence is only the label that it begins with."""
    spans = [span for span in reply.view.bold if place.start <= span[0] and span[1] <= place.end + 1]
    return all(start == place.start and reply.text[end - 1 : end + 1].rstrip().endswith(":") for start, end in spans)


def _clause_text(text: str, claim: Claim[Named]) -> str:
    starts = [start for _, start, _ in claim.value.readings]
    ends = [end for _, _, end in claim.value.readings]
    return text[min(starts) : max(ends)]


_BUT = re.compile(r"\b(?:which leaves|but|sondern|aber|mais|sino|pero)\W+\Z", re.IGNORECASE)


def _turns(text: str, start: int, place: int) -> bool:
    """Tell whether a clause turns away from those before it: "…, but it was Piet"."""
    near = text[max(start, place - 30) : place]
    return (
        re.search(
            r"(?:\bbut|\bwhich leaves|\bso|\btherefore|\bthus|\bhence|\bsondern|\baber|\bmais|\bdonc|\bsino|\bpero|:|→|"
            r"\bno,|\byes,|\byet|\bhere,?|\bin this case,?|\band(?=\sthat\W?s?\s))\W+"
            r"(?:(?:really|actually|now|today|in fact|in truth|in reality),? )?"
            r"(?:it\W?s? |(?:that|this)\W?s |that is |it is |it was |the |an? |i'd |i know |i think |i'd say |that )*$",
            near,
            re.IGNORECASE,
        )
        is not None
    )


def _is_word_no(text: str) -> bool:
    """Tell whether a clause is the answer "no"."""
    return (
        re.fullmatch(r"\W*(?:no|nein|non|none|neither|never)\W*(?:[,.;:].*)?", text.strip(), re.IGNORECASE | re.DOTALL)
        is not None
    )


def _after_denial(text: str, start: int, end: int) -> tuple[int, int] | None:
    """Return what stands after "No," or after the "but" of a denial; None where nothing does."""
    said = re.compile(r"\W*(?:no|nein|non)\b[,.:]\s+", re.IGNORECASE).match(text, start, end)
    if said is None:  # "it isn't the swift, it's the tern"
        said = re.compile(r"[^,;]{1,80}[,;]\s+(?=(?:it|that|this)(?:'s|\s+(?:is|was))\s)", re.IGNORECASE).match(
            text, start, end
        )
    return (said.end(), end) if said else None


def _unlike(text: str, spans: Sequence[tuple[int, int]], place: Place) -> Iterator[tuple[str, int, int]]:
    seen: set[str] = set()
    for start, end in _with_shorter(text, spans):
        start, end = trimmed(text, start, end)
        said = " ".join(text[start:end].split())
        if not said or said.casefold() in seen or len(said) > LONGEST_READING:
            continue
        seen.add(said.casefold())
        yield said, start, end
        if len(seen) == MOST_READINGS:
            return


# "Aksel a" of "Nils was a sailor, Aksel a baker"
_ENDS_OPEN = re.compile(r"\s+(?:the|an?|its|his|her|now|today|then|still|there|again)\s*\Z", re.IGNORECASE)


def _with_shorter(text: str, spans: Sequence[tuple[int, int]]) -> Iterator[tuple[int, int]]:
    """Yield stretches, each followed by what it is without what stands in brackets at its end: "mercury (Hg)"."""
    for start, end in spans:
        yield start, end
        without = without_brackets(text, start, end)
        if without != (start, end):
            yield without
        elif (left := _ENDS_OPEN.search(text, start, end)) is not None and left.start() > start:
            yield start, left.start()


@lru_cache(maxsize=4096)
def _echoes(phrase: str, asked: str) -> bool:
    """Tell whether most words of a phrase are the question's."""
    return _share_echoed(phrase, asked) >= 0.6


def _is_common(word: str) -> bool:
    return is_echo(word, "")
