"""Scheme `self_count`: the number that the reply states about itself is true of the reply."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, replace
from fractions import Fraction

from dryquarry.marking.cues import cue
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, never, passed
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.amounts import Amounts
from dryquarry.marking.reading.claims import Claim, Place, PlaceKind, Question, Stance
from dryquarry.marking.reading.places import LONGEST_PLACE
from dryquarry.marking.reading.settling import claims_at
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply, take_apart
from dryquarry.marking.values.counting import COUNTED
from dryquarry.marking.values.numbers import Shape
from dryquarry.marking.values.quantities import Quantity, plain_find
from dryquarry.marking.values.texts import plain_letters, shortened

MOST_SENTENCES = 200
_NOUNS = {
    "list_items": r"(?:list\s+)?(?:items?|points?|bullets?|entries)",
    "sentences": r"(?:sentences?|sätze|phrases?|frases?|oraciones)",
    "letters": r"(?:letters?|buchstaben|lettres?|letras?)",
    "words": r"(?:words?|wörter|worte|mots?|palabras?)",
    "lines": r"(?:lines?|zeilen|lignes?|líneas?)",
    "characters": r"(?:characters?|zeichen|caractères?|caracteres)",
    "vowels": r"(?:vowels?|vokale|voyelles?|vocales)",
    "paragraphs": r"(?:paragraphs?|absätze|paragraphes?|párrafos?)",
}
_FORM_TEXT = {  # numbers in the other languages, as far as replies count themselves in them
    "eins zwei drei vier fünf sechs sieben acht neun zehn elf zwölf dreizehn vierzehn fünfzehn "
    "sechzehn siebzehn achtzehn neunzehn zwanzig": 1,
    "un deux trois quatre cinq six sept huit neuf dix onze douze treize quatorze quinze seize": 1,
    "uno dos tres cuatro cinco seis siete ocho nueve diez once doce trece catorce quince": 1,
}
_OTHER_WORDS = {word: number for text in _FORM_TEXT for number, word in enumerate(text.split(), start=1)}
_OTHER = regex(rf"\b(?:{'|'.join(sorted(_OTHER_WORDS, key=len, reverse=True))})\b", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class SelfCountOptions:
    """What the reply counts of itself."""

    of: str = "words"


def prepare(marking: Marking) -> Marker:
    """Return the marker; raises MarkingFault when `of` is nothing that can be counted."""
    of = options_of(SelfCountOptions, marking).of
    if of not in COUNTED:
        raise MarkingFault(f"option 'of' of scheme 'self_count' is one of {', '.join(COUNTED)}, not '{of}'")
    beside = re.compile(rf"\s*(?:[\w-]+\s+){{0,2}}(?:{_NOUNS[of]})\b", re.IGNORECASE)
    named = of.replace("_", " ")

    def mark(text: str) -> Mark:
        reply = take_apart(text)
        stated = _stated(reply, beside)
        if not stated:
            return failed("the reply states no number")
        final = stated[0]
        has = len(COUNTED[of](_counted(text, reply.origin(final.start))))
        place = {"start": reply.origin(final.start), "end": reply.origin(final.end - 1) + 1}
        read = {"answer": shortened(final.value.text), "read_by": "stated", **place}
        if any(one.value.shape is Shape.RANGE or one.stance is Stance.BOUND for one in stated):
            return replace(failed(f"states no exact number; it has {has} {named}"), **read)  # type: ignore[arg-type]
        if len({one.value.value for one in stated}) > 1:
            return replace(failed(f"states several numbers; it has {has} {named}"), **read)  # type: ignore[arg-type]
        verdict = passed if final.value.value == Fraction(has) else failed
        return replace(verdict(f"says {final.value.text}, and has {has} {named}"), **read)  # type: ignore[arg-type]

    return mark


def _counted(text: str, at: int) -> str:
    """Return what is counted: all of a text, but without the count where it is put in brackets behind it."""
    opened = text.rfind("(", 0, at)
    behind = re.fullmatch(r"[^()]{0,60}\)\W*", text[opened + 1 :]) if opened > 0 else None
    return text[:opened] if behind else text


def _stated(reply: Reply, beside: re.Pattern[str]) -> Sequence[Claim[Quantity]]:
    """Return the numbers that the reply states about itself: with what is counted beside them, else any."""
    kind = Amounts(_find)
    claims: list[Claim[Quantity]] = []
    for number, sentence in enumerate(reply.sentences[:MOST_SENTENCES]):
        end = min(sentence.end, sentence.start + LONGEST_PLACE)
        claims += claims_at(reply, Question(), kind, Place(PlaceKind.STATEMENT, sentence.start, end, number))
    claims = _without_withdrawn(reply, claims)
    firm = [one for one in claims if one.stance in (Stance.ASSERTED, Stance.HEDGED, Stance.BOUND, Stance.ASIDE)]
    near = [one for one in firm if beside.match(reply.text, one.end)]
    others = [one for one in firm if near and _OR_MAYBE.search(reply.text, near[0].end, one.start)]
    return [*near, *others] or firm


# "ten words, or maybe nine"
_OR_MAYBE = regex(r"\bor\s+(?:(?:maybe|perhaps|possibly|rather|even|else)\s+)?\Z", re.IGNORECASE)


def _find(text: str, start: int, end: int) -> list[Quantity]:
    found = plain_find()(text, start, end)
    taken = [(one.start, one.end) for one in found]
    for match in _OTHER.finditer(text, start, end):
        if not any(first < match.end() and match.start() < last for first, last in taken):
            value = Fraction(_OTHER_WORDS[plain_letters(match.group()).lower()])
            found.append(Quantity(value, match.start(), match.end(), match.group()))
    return sorted(found, key=lambda one: one.start)


def _without_withdrawn(reply: Reply, claims: list[Claim[Quantity]]) -> list[Claim[Quantity]]:
    """Return the claims after the last one that is taken back in a sentence of its own."""
    last = -1
    for sentence in reply.sentences:
        if cue("withdraws", r"^[\"'(*\s]{0,20}(?:but |and |oh,? )?").match(sentence.text):
            last = sentence.start
    later = [one for one in claims if one.start >= last]
    return later if last >= 0 and later else claims


SCHEME = Scheme(
    name="self_count", options=option_types(SelfCountOptions), prepare=prepare, reads_whole=True, has_answer=never
)
