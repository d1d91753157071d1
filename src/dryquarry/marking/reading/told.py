"""What a clause tells that may be the answer: its complement, its subject, its agent, what stands beside its echo.

Each is yielded as a stretch of the text, the likeliest first; which of them is wanted only a key could tell.
"""

from __future__ import annotations

import itertools
import re
from collections.abc import Iterator
from functools import lru_cache

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.clauses import PREPOSITION, narrowed, without_asides
from dryquarry.marking.reading.constructions import (
    ARROW,
    ASKS_WHERE,
    ASKS_WHO,
    ASKS_WHOSE,
    DATES,
    DOES,
    LATER,
    MAKES,
    ONLY,
    OWNER,
    PLACE_WORD,
    found_by,
    of_it,
)
from dryquarry.marking.reading.echo import content_of, is_echo, is_verb, names_in, stem
from dryquarry.marking.reading.objects import object_told, word_quoted
from dryquarry.marking.regexes import regex

_WORD = regex(r"[^\W_]+(?:['’-][^\W_]+)*")
LONGEST_SUBJECT_WORDS = 6
LEAST_ECHO = 0.3
_COPULAS = frozenset(("is", "are", "was", "were"))
_OF_ANOTHER = regex(r"\b(?:second|third|next|other|another|also|not|never|nearly|almost|once)\b|n't\b", re.IGNORECASE)
_CLEFT = regex(
    r"^(?:it|this|that|c)(?:\s+(?:is|was|must be|has to be|would be|could only be|can only be|must have been|"
    r"(?:can|could|may) only have been)|'s|'est|'était)\s+(?P<one>.{1,120}?)"
    r"(?:,?\s+(?:who|that|which|whom|where|qui|que)\b.*)?$",
    re.IGNORECASE | re.DOTALL,
)
_TAIL = regex(
    r"(?:'s|\s+(?:is|are|was|were))\s+(?:the\s+)?(?:right|correct|final|only\s+possible|best)?\s*(?:answer|"
    r"left(?:\s+(?:over|behind))?|meant|one|solution|choice|correct|right)\b.*$|"
    r"\s+(?:seems?|looks?|sounds?)\s+(?:right|correct|best|good)\b.*$|\s+(?:would|will)\s+be\s+my\s+\w+.*$|\s+gets\s+my\s+vote.*$|\s+it\s+(?:is|was|must\s+be|has\s+to\s+be)\W*$|\s+is\s+what\s+(?:you|we|i)\b.*$",
    re.IGNORECASE | re.DOTALL,
)
# "older than that of Osten", but "no other than Ada"
COMPARED = regex(r"(?<!other)\s+than\s", re.IGNORECASE)
# "the fact is that"
_THAT = regex(r"[^,;:.]{2,80}?(?<!\bthan)\sthat\s+(?=\S)", re.IGNORECASE)
# "Red in acids, blue in bases."
_PART = regex(
    r"(?:^|,\s+|;\s+|\sand\s)(?P<one>\w+(?:\s\w+)?)\s+(?:in|for|at|on|with|by|under)\s+(?P<rest>[^,;]+?)(?=,|;|\sand\s|[.!]|$)"
)
_BY = regex(
    r"\b(?P<verb>\w+)\s+(?:by|von|par|por)\s+(?P<one>[^,;:]{1,80}?)(?=\s+(?:and|in|on|at|while|with|"
    r"from|for|und|et|y)\b|[,;:.]|\s*\Z)",
    re.IGNORECASE,
)
# "Wim broke the clock, Jonas repaired it, and Edda held the lamp"
_PARTS = regex(
    r",\s+(?:and\s+|while\s+|but\s+)?(?=(?:the\s+)?[A-Z'])|;\s+|"
    r"\s+(?:and|while|whereas|but|(?:even\s+)?though|although|after|before)\s+(?=(?:the\s+)?[A-Z'])"
)
# "Ada lives in Velm and works in Tarn"
_JOINT = regex(
    r",?\s+(?:and|while|whereas)\s+(?:then\s+|later\s+|now\s+|also\s+)?(?:(?:was|were)\s+)?(?P<verb>[a-z]+)\b"
)
# "Ada gave the pen to Emily, who wrote it"
_NAME_AT_END = regex(r"[A-Z]\w+(?:\s[A-Z]\w+)*\Z")
_RELATIVE = regex(
    r",\s+(?:which|who|whom|that)\s+(?:is\s+(?:therefore|thus|hence|so)\s+(?=the\b))?(?P<rest>[^,;.]+)", re.IGNORECASE
)
_PRONOUN = regex(r"\b(?:it|them|him|her)\b")
_PASSIVE = regex(r"\s+(?:is|was|are|were|gets?|got)\s+\Z", re.IGNORECASE)
_OBJECTS = frozenset(("it", "them", "him", "her", "this", "that"))
NEGATION = regex(r"\b(?:no|not|never|none)\b|n't\b", re.IGNORECASE)
_ASKS_FIRST = regex(r"\b(?:first|earliest|begins?|starts?)\b", re.IGNORECASE)
_ADVERBS = frozenset(("still", "also", "really", "actually", "now", "always", "probably", "certainly", "clearly"))
_ASKS_DOER = regex(r"\bwho\s+(?!(?:did|does|do|has|had|is|was|were|are)\b)", re.IGNORECASE)
ASKS_WHEN = regex(
    r"\b(?:when|season|month|year|century|weekday|what time|which (?:day|date)|what date)\b", re.IGNORECASE
)
_DID_IT = regex(r"(?:did|does|was|is)\s+(?:it|so|that|this)(?:\s+\w+)?\W*", re.IGNORECASE)


# "Aro is the tallest."
_IS_MOST = regex(r"\s*the\s+[a-z]+est(?:\s+(?:one|of\s+all))?\W*", re.IGNORECASE)


def told(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield what a clause tells: its complement, its subject where the rest echoes the question, its agent."""
    stretch = text[start:end]
    if ASKS_WHOSE.search(asked):
        for match in OWNER.finditer(text, start, end):
            yield match.span()
            yield match.span("one")
    cleft = _CLEFT.match(stretch)
    if cleft:
        yield from narrowed(text, start + cleft.start("one"), start + cleft.end("one"))
    if done_by := list(doers(text, start, end, asked)):
        yield from done_by  # whom it was done for, or with, is no answer to who did it
        return
    copulas = list(cue("copula", r"(?<![\w'])", r"(?!\w)").finditer(text, start, end))
    only = ONLY.search(stretch)
    if only and asked and echoes_most(stretch[only.end("one") :], asked):
        yield from narrowed(text, start + only.start("one"), start + only.end("one"))
    for match in [*copulas[-1:], *copulas[:1]]:
        subject, complement = (start, match.start()), (match.end(), end)
        said = text[slice(*complement)]
        both_not = NEGATION.search(asked) and NEGATION.search(said) and share_echoed(said, asked) > 0
        complement_echoes = asked and (echoes_most(said, asked) or both_not)
        if _IS_MOST.fullmatch(said) or (complement_echoes and not echoes_most(text[slice(*subject)], asked)):
            yield from narrowed(text, *subject)
        yield from narrowed(text, *complement)
    arrows = list(ARROW.finditer(text, start, end))
    if len(arrows) > 1 and _ASKS_FIRST.search(asked):
        yield start, arrows[0].start()  # "Ilse → Ruth → Marie"
        return
    if arrows:
        yield arrows[-1].end(), end
    yield from found_by(LATER, text, (start, end), asked)
    if made := MAKES.search(stretch):
        yield from narrowed(text, start + made.end(), end)
    if (of := of_it(stretch)) is not None:
        yield start + of, end
    yield from _subjects(text, start, end, asked)
    does = DOES.match(stretch)
    if does and not copulas:
        yield start + does.start("one"), end
    yield from agents(text, start, end)
    yield from (*object_told(text, start, end, asked), *word_quoted(text, start, end, asked))
    if asked:
        yield from beside_echo(text, start, end, asked)
    tail = _TAIL.search(stretch)
    if tail:
        yield start, start + tail.start()
    if not copulas:
        yield from itertools.islice(narrowed(text, start, end), 1, None)
    if ASKS_WHERE.search(asked) or ASKS_WHEN.search(asked):
        yield from _where_or_when(text, start, end, asked)
    yield from found_by(DATES, text, (start, end), asked)


def _from_verb(text: str, start: int, end: int) -> int:
    """Return where the verb of a clause stands, its beginning where none is seen."""
    words = list(_WORD.finditer(text, start, end))[1:]
    return next((word.start() for word in words if word.group() in _COPULAS or is_main_verb(word.group())), start)


# "Between Africa and Australia lies the Indian Ocean, between Australia and America the Pacific."
_PLACED_FIRST = regex(
    r"\W*(?P<where>between|behind|in|on|under|over|at|from|before|after|north|south)\s", re.IGNORECASE
)


# "The astronomical one begins in September, the meteorological one in August."
_THE_ONE = regex(r"\W*the\s+[^\W\d_]+\s+(?:one\s)?", re.IGNORECASE)
_THE_OTHER_ONE = regex(
    r",\s+(?:and\s+|but\s+|while\s+)?(?=the\s+[^\W\d_]+\s+one\s(?:[^\s,;]+\s){0,3}?(?:in|on|at|from|by|with|around)\s)",
    re.IGNORECASE,
)


def begun_alike(text: str, start: int, end: int) -> list[tuple[int, int]]:
    """Return the parts of a clause where each begins with the same preposition; nothing where there is one part."""
    first = _PLACED_FIRST.match(text, start, end)
    if first is not None:
        again = re.compile(rf",\s+(?:and\s+|but\s+|while\s+)?(?={first['where']}\s)", re.IGNORECASE)
    elif (first := _THE_ONE.match(text, start, end)) is not None:
        again = _THE_OTHER_ONE
    else:
        return []
    joints = list(again.finditer(text, first.end(), end))
    begins, ends = [start, *(joint.end() for joint in joints)], [*(joint.start() for joint in joints), end]
    return list(zip(begins, ends, strict=True)) if joints else []


def own_part(text: str, start: int, end: int, asked: str) -> tuple[int, int]:
    """Return the part of a clause that tells what was asked, where it tells several things: "lives … and works …"."""
    if asked and (alike := begun_alike(text, start, end)):
        # the verb of the first part is that of all
        verb = _from_verb(text, *alike[0])
        told_by = [(alike[0][0], verb if verb > alike[0][0] else alike[0][1]), *alike[1:]]
        named = [
            (len(names_in(asked) & content_of(text[slice(*part)])), _taken_up(text[slice(*part)], asked))
            for part in told_by
        ]
        most = max(named)
        return alike[named.index(most)] if most > (0, 0) and named.count(most) == 1 else (start, end)
    joints = [joint for joint in _JOINT.finditer(text, start, end) if is_main_verb(joint["verb"])]
    if not joints or not asked:
        return start, end
    begins, ends = [start, *(joint.start("verb") for joint in joints)], [*(joint.start() for joint in joints), end]
    parts = list(zip(begins, ends, strict=True))
    # the subject of the first part is that of all, and tells none apart
    told_by = [(_from_verb(text, *parts[0]), parts[0][1]), *parts[1:]]
    shares = [_taken_up(text[slice(*part)], asked) for part in told_by]
    best = max(shares)
    return parts[shares.index(best)] if best > 0 and shares.count(best) == 1 else (start, end)


def of_own_place(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the place that belongs to the question's own verb: "written in Oslo, posted in Bergen, opened in …"."""
    if not ASKS_WHERE.search(asked):
        return
    parts = [match.span() for match in _COMMA_PART.finditer(text, start, end)]
    placed = [(part, PLACE_WORD.search(text, *part)) for part in parts]
    own = [(part, place) for part, place in placed if place and echoes_most(text[part[0] : place.start()], asked)]
    if len(own) == 1 and sum(place is not None for _, place in placed) > 1:
        (_, last), place = own[0]
        yield place.end(), last


_COMMA_PART = regex(r"(?:(?!\s(?:and|but)\s)[^,;:])+")


_BESIDE_PLACE = regex(r",|\s(?:by|near|in|at|on|behind|beside|under|where|when|and|but|not)\s", re.IGNORECASE)


def _where_or_when(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the place or time of what was asked: of "built in 1902 and repaired in 1911" the one of its own verb."""
    places = list(PLACE_WORD.finditer(text, start, end))
    begins = [_from_verb(text, start, end), *(place.end() for place in places[:-1])]
    words = [_WORD.findall(text[begin : place.start()]) for begin, place in zip(begins, places, strict=False)]
    own = [
        place
        for place, before in zip(places, words, strict=True)
        if any(is_echo(word, asked) and not is_common(word) for word in before)
    ]
    for place in own[:1] if len(places) > 1 and own else places[-1:]:
        yield from narrowed(text, place.end(), end)
    if places and ASKS_WHERE.search(asked):
        beside = _BESIDE_PLACE.search(text, places[0].end(), end)
        yield places[0].start(), beside.start() if beside else end  # "under the mat", and not the mat


def after_that(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield what is told after words that lead up to it with a "that": "the fact is that …"."""
    opening = _THAT.match(text, start, end)
    if opening is None or cue("denies", r"(?<![\w'-])", r"(?![\w-])").search(opening.group()):
        return
    first, stop = list(without_asides(text, opening.end(), end))[-1]
    compared = COMPARED.search(text, first, stop)
    yield from told(text, first, compared.start() if compared else stop, asked)


def of_best_part(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield who does what is asked, where other parts tell of others: "Wim broke it, Jonas repaired it"."""
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
    yield from beside_echo(text, *best_part, asked)
    copula = cue("copula", r"(?<![\w'])", r"(?!\w)").search(text, *best_part)
    if copula is not None and text[: best_part[0]].rstrip(" ").endswith((",", ";")):
        yield best_part[0], copula.start()  # "Au is gold, Ag is silver"
        yield copula.end(), best_part[1]


# "Which sea …?"
_ASKED_KIND = regex(r"\b(?:which|what)\s+(?P<kind>[a-z]{3,})\b", re.IGNORECASE)
_ELSEWHERE = regex(
    r"(?:\b(?:not|never|near|unlike|than|beyond|from|rather|except|instead)|n't)\s(?:\w+\s){0,3}\Z", re.IGNORECASE
)


def is_of_asked_kind(text: str, asked: str) -> bool:
    """Tell whether a sentence says which one is of the kind asked for: "The river that flows there is the Sill"."""
    wanted = _ASKED_KIND.search(asked)
    if wanted is None or is_common(wanted["kind"]):
        return False
    subject = re.match(
        rf"\W*(?:so\s+)?the\s+{re.escape(wanted['kind'])}\s(?:that|which|who)\s[^.;:]*?\s(?:is|was)\s",
        text,
        re.IGNORECASE,
    )
    return subject is not None


def only_describes(text: str, asked: str) -> bool:
    """Tell whether a sentence only says that it is one of the kind asked for: "It ends in an inland sea"."""
    wanted = _ASKED_KIND.search(asked)
    if wanted is None or is_common(wanted["kind"]):
        return False
    kind = re.escape(wanted["kind"])
    some = re.search(
        rf"\b(?:an?|one\s+of)\s+(?:[\w'’-]+\s+){{0,4}}?{kind}s?\b(?!\s+(?:called|named|of)\b|,|:)", text, re.IGNORECASE
    )
    return some is not None and not _NAMED.search(text)


_NAMED = regex(r"\b(?:calls?|called|named|known\s+as)\b", re.IGNORECASE)


def of_asked_kind(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the one thing of a clause that by its name is of the kind asked for: "the Caspian Sea" for "which sea"."""
    wanted = _ASKED_KIND.search(asked)
    if wanted is None or is_common(wanted["kind"]):
        return
    kind, name = f"(?i:{re.escape(wanted['kind'])})", r"[A-Z][\w'’-]+"
    named = re.compile(rf"\b(?:{name}\s+){{1,3}}{kind}\b|\b{kind}\s+(?:of\s+(?:the\s+)?)?{name}(?:\s+{name})?")
    found = list(named.finditer(text, start, end))
    if (
        len(found) == 1
        and not all(is_echo(word, asked) for word in found[0].group().split())
        and not _ELSEWHERE.search(text, start, found[0].start())
    ):
        yield found[0].span()


def agents(text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """Yield who or what does what is asked about: "written by Thale", and not "checked by Jorin"."""
    for match in itertools.islice(_BY.finditer(text, start, end), 1):
        yield match.span("one")


def doers(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield who does what is asked about, in the question's own verb."""
    wanted = content_of(asked)
    for match in _BY.finditer(text, start, end):
        if match["verb"].islower() and stem(match["verb"]) in wanted:
            passive = _PASSIVE.search(text, start, match.start()) if match["one"].lower() in _OBJECTS else None
            # "limestone is dissolved by it": by what the question names
            yield match.span("one") if passive is None else (start, passive.start())


def beside_echo(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield what stands before and after the words that the clause takes from the question."""
    words = list(_WORD.finditer(text, start, end))
    echoes = [is_echo(word.group(), asked) for word in words]
    said = [number for number, word in enumerate(words) if echoes[number] and not is_common(word.group())]
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
    if _ASKS_DOER.search(asked) and any(is_main_verb(words[number].group()) for number in said if number):
        return  # to whom it was done is no answer to who did it
    # the object: what stands after the last of them
    last = said[-1]
    while last + 1 < len(words) and echoes[last + 1]:
        last += 1
    if last + 1 < len(words):
        beside = words[last + 1].start(), end
        yield from (beside,) if ASKS_WHO.search(asked) else narrowed(text, *beside)
    for number in reversed(said):
        if number + 1 < len(words) and not all(echoes[number + 1 :]):
            yield words[number + 1].start(), end
            break
    if ASKS_WHERE.search(asked) or ASKS_WHEN.search(asked):
        return  # told on its own
    prepositions = list(PREPOSITION.finditer(text, start, end))
    for preposition in prepositions[-1:]:
        yield preposition.end(), end


def _taken_up(part: str, asked: str) -> int:
    """Return how many words of a part are the question's; a pronoun stands for one of them."""
    words = {stem(word) for word in _WORD.findall(part)} & content_of(asked)
    return len(words) + bool(words and _PRONOUN.search(part))


def of_relative(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the subject of which a relative clause says what was asked: "limestone is …, which vinegar dissolves"."""
    relative = _RELATIVE.search(text, start, end)
    if relative is None or not asked or not echoes_most(relative["rest"], asked):
        return
    if (named := _NAME_AT_END.search(text[start : relative.start()])) is not None:
        yield start + named.start(), start + named.end()
    elif (verb := _from_verb(text, start, relative.start())) > start:
        yield start, verb


def of_what_is_asked(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the one of several parts whose surroundings were asked for: "red in acids, blue in bases"."""
    parts = list(_PART.finditer(text[start:end]))
    own = [part for part in parts if asked and echoes_most(part["rest"], asked)]
    last = len(own) == 1 and own[0].start() > 0 and own[0] is parts[-1]
    if (len(parts) > 1 or last) and len(own) == 1:
        yield start + own[0].start("one"), start + own[0].end("one")


def _subjects(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the first words of a clause that may be its subject, where what follows them takes up what was asked."""
    words = list(itertools.islice(_WORD.finditer(text, start, end), 2 * LONGEST_SUBJECT_WORDS))
    own = next((number for number, word in enumerate(words) if not _of_the_question(word.group(), asked)), 0)
    # "In the winter of 1911 Runa Holm repaired it": the subject may stand after what the question said
    for first in dict.fromkeys((own, 0)):
        taken = itertools.pairwise(words[first : first + LONGEST_SUBJECT_WORDS + 1])
        for number, (before, word) in enumerate(taken, start=first):
            rest = text[word.start() : end]
            if is_main_verb(word.group()) and before.group().lower() not in ("the", "a", "an", "of", "and"):
                other = _OF_ANOTHER.search(rest)
                own = other is None or other.group().lower() in asked.lower()
                takes_up = share_echoed(rest, asked) >= LEAST_ECHO and own
                if not asked or takes_up or _DID_IT.fullmatch(rest):
                    last = number if before.group().lower() not in _ADVERBS else number - 1
                    yield words[first].start() if first else start, words[max(first, last)].end()


def _of_the_question(word: str, asked: str) -> bool:
    return is_echo(word, asked) or word.isdecimal()


def is_main_verb(word: str) -> bool:
    """Tell whether a word in small letters may be the verb of a clause: a past, a third person, and no copula."""
    regular = word.endswith(("s", "ed")) or is_verb(word) or word == "did"
    return word.islower() and word not in _COPULAS and regular


def share_echoed(phrase: str, asked: str) -> float:
    """Return the share of the words of a phrase that say something and are the question's."""
    words = [word for word in _WORD.findall(phrase) if not is_common(word)]
    return sum(is_echo(word, asked) for word in words) / len(words) if words else 0.0


@lru_cache(maxsize=4096)
def echoes_most(phrase: str, asked: str) -> bool:
    """Tell whether most words of a phrase are the question's."""
    return share_echoed(phrase, asked) >= 0.6


def is_common(word: str) -> bool:
    """Tell whether a word says nothing of its own: "the", "is"."""
    return is_echo(word, "")
