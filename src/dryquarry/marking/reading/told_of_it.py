"""What a sentence tells of what it names elsewhere: whom a pronoun comes back to, the object of the question's verb."""

from __future__ import annotations

import re
from collections.abc import Iterator

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.clauses import PREPOSITION
from dryquarry.marking.reading.echo import content_of, is_echo, names_in, question_in
from dryquarry.marking.reading.extremes import extremes
from dryquarry.marking.reading.told import agents, echoes_most, is_common, is_main_verb, share_echoed
from dryquarry.marking.regexes import regex

_WORD = regex(r"[^\W_]+(?:['’-][^\W_]+)*")
# "…, so she's the tallest": who that is, the sentence said before
_OF_HER = regex(
    r"\W*(?:(?:so|therefore|thus|hence|and)\s+)?(?:she|he|it|they)(?:'s\s+|'re\s+|\s+(?:(?:is|was|are|has|had|must\s+be)\s+|(?=[a-z]+\s+(?:it|them|this|that)\b)))(?P<rest>\S.*)",
    re.IGNORECASE | re.DOTALL,
)
# "As Tamm left after Brun and Ysolde, he was last"
_SINCE = regex(
    r"\W*(?i:as|since|because)\s+(?P<one>(?:the\s+)?[A-Z][\w'’-]*(?:\s[A-Z][\w'’-]*)*)\s[^;:.]*?,\s+(?:he|she|it|they)\s+(?P<rest>[^;:.]+)"
)


def told_of_it(text: str, first: int, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield what a clause tells of what stands elsewhere in its sentence, which begins at `first`."""
    yield from _who_it_was(text, first, start, end, asked)
    if _ASKS_HOLDER.search(question_in(asked)) and (given := list(_GAVE_TO.finditer(text, start, end))):
        yield given[-1].span("one")
    if (interposed := _INTERPOSED.match(text, start, end)) is not None and echoes_most(interposed["subject"], asked):
        yield interposed.span("one")
    if _ASKS_PRESENT.search(asked) and (today := _IS_TODAY.search(text, start, _line_end(text, end))):
        yield today.span("one")
    yield from _objects(text, start, end, question_in(asked))
    if (word := _WORD_FORMED.search(text, start, end)) is not None and _ASKS_WORD.search(asked):
        yield word.span("one")


_ASKS_PRESENT = regex(r"\b(?:present|modern|today|now|nowadays|current)\b", re.IGNORECASE)
# "Nidaros, which is Trondheim today"
_IS_TODAY = regex(
    r"\b(?:which\s+is|now|today|called)\s+(?:now\s+|today\s+|called\s+)*(?P<one>[A-Z][^\W\d_]+(?:[\s-][A-Z][^\W\d_]+)*)"
    r"(?=\s+(?:today|now|nowadays)\b|\W*\Z)"
)
_ASKS_HOLDER = regex(r"\bwho\s+(?:now\s+)?(?:has|holds|owns|keeps|carries)\b|\bwith\s+whom\s+is\b", re.IGNORECASE)
# "Siv gave it back to Per"
_GAVE_TO = regex(
    r"\b(?:gave|gives|handed|hands|returned|returns|passed|passes|sold|sells|brought|brings|sent|sends|lent|lends)\s"
    r"(?:[^,;.]{1,30}?\s)?to\s+(?P<one>(?:the\s+)?[A-Z][\w'’-]*)(?=\W*(?:\Z|[,;.]))"
)
# "Silver's symbol, from the Latin argentum, is Ag"
_INTERPOSED = regex(
    r"\W*(?P<subject>[^,;:.]{2,60}),\s[^,;:.]{2,60},\s+(?:is|are|was|were)\s+(?:called\s+|named\s+)?(?P<one>[^,;:]{1,60}?)(?=\W*(?:\Z|[,;:]))",
    re.IGNORECASE,
)


def _line_end(text: str, end: int) -> int:
    """Return where the sentence of a clause ends at the latest."""
    stop = _STOP.search(text, end)
    return stop.start() if stop else len(text)


_STOP = regex(r"[.!?;\n]")


def _who_it_was(text: str, first: int, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the subject of a sentence to which a later clause comes back: "Mira is …, so she's the tallest"."""
    since = _SINCE.match(text, start, end)
    if since and (echoes_most(since["rest"], asked) or extremes(since["rest"]) & extremes(asked)):
        yield since.span("one")
    said = _OF_HER.match(text, start, end)
    if said is None or start <= first or not echoes_most(said["rest"], asked):
        return
    verb = cue("copula", r"(?<![\w'])", r"(?!\w)").search(text, first, start)
    verbs = [word.start() for word in _WORD.finditer(text, first, start) if is_main_verb(word.group())]
    subject = (first, verb.start() if verb else verbs[0]) if verb or verbs else None
    if subject and content_of(text[slice(*subject)]) & names_in(question_in(asked)):
        return  # "Mette isn't the drummer, so she has the flute", of what Mette has
    if subject and text[slice(*subject)].strip().lower() not in ("it", "this", "that", "it's", "that's"):
        yield subject
    else:
        yield from agents(text, first, start)  # "It's signed by Astrid, so she is the one"


_ASKS_OBJECT = regex(r"\b(?:what|which|whom)\b[^?]*\b(?:do|does|did)\s", re.IGNORECASE)
_JOINT = regex(r",?\s+and\s+|,\s+")
_RELATIVE = regex(r",\s+(?:which|who|that|where|because|since|as)\b.*\Z", re.IGNORECASE | re.DOTALL)


def _objects(text: str, start: int, end: int, asked: str) -> Iterator[tuple[int, int]]:
    """Yield the object of the question's own verb: nectar of "Bees collect nectar from flowers".

    Of several objects it is the one whose surroundings were asked for: "nectar for the honey and pollen for the brood".
    """
    verb = _own_verb(text, start, end, asked) if _ASKS_OBJECT.search(asked) else None
    if verb is None:
        return
    relative = _RELATIVE.search(text, verb, end)
    end = relative.start() if relative else end
    bounds = [verb, *(place for joint in _JOINT.finditer(text, verb, end) for place in joint.span()), end]
    parts = []
    for first, last in zip(bounds[::2], bounds[1::2], strict=True):
        beside = next((one for one in PREPOSITION.finditer(text, first, last) if one.start() > first + 1), None)
        stop = beside.start() if beside else last
        parts.append((first, stop, share_echoed(text[stop:last], asked) if beside else 0.0))
    own = [part for part in parts if part[2] > 0] if len(parts) > 1 else parts
    if len(own) == 1:
        yield own[0][0], own[0][1]


def _own_verb(text: str, start: int, end: int, asked: str) -> int | None:
    """Return where the words behind the question's verb begin, where a clause says it again behind its subject."""
    last = None
    for number, word in enumerate(_WORD.finditer(text, start, end)):
        own = is_echo(word.group(), asked)
        if not own and not is_common(word.group()):
            break
        if own and not is_common(word.group()) and number and word.group().islower():
            last = word.end()
    return last


_ASKS_WORD = regex(
    r"\b(?:plural|singular|opposite|antonym|synonym|tense|participle|comparative|superlative|anagram|word|form|noun|verb|adjective)\b",
    re.IGNORECASE,
)
# "You say 'oxen'", "It takes -en, which gives 'oxen'", "It has an irregular plural, oxen"
_WORD_FORMED = regex(
    r"(?:\b(?:(?:you|we|one)\s+(?:says?|writes?|gets?)|(?:which|that|this)\s+(?:gives|makes|yields)|becomes|into)\s+['‘\"“]?"
    r"|\bit\s+has\s+an?\s+(?:\w+\s+){1,2}\w+,\s+['‘\"“]?)(?P<one>[^\W\d_]+)['’\"”]?(?=\W*\Z|[.,;])",
    re.IGNORECASE,
)
_ASKED_OF = regex(
    r"\b(?:of|for|from|to)\s+(?:the\s+\w+\s+)?['‘\"“](?:to\s+)?(?P<word>[^'’\"”]{1,40})['’\"”]", re.IGNORECASE
)
_IT_IS_SO = regex(
    r"\W*(?:it|that|this|the\s+\w+)(?:'s|\s+(?:is|has|takes))\s+(?:an?\s+)?[^\W\d_]+(?:\s+[^\W\d_]+)?\s*", re.IGNORECASE
)


def only_leads_to_word(text: str, start: int, end: int, asked: str) -> bool:
    """Tell whether a clause only leads up to the word asked for: "ox" of "ox - oxen", "It is irregular: oxen"."""
    if not _ASKS_WORD.search(asked):
        return False
    of = _ASKED_OF.search(asked)
    labelled = text[:start].rstrip().endswith(":")
    if of is not None and not labelled and text[start:end].strip(" '‘’\"“”*").casefold() == of["word"].casefold():
        return True
    return text[end : end + 1] == ":" and _IT_IS_SO.fullmatch(text, start, end) is not None
