"""Scheme `choice`: the chosen option letters equal the key."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from functools import cache, lru_cache
from typing import Any

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed, scored
from dryquarry.marking.reading import LONGEST_END, Found, other_answers, read_answer
from dryquarry.marking.text import bare, fold, shortened

Letters = tuple[str, ...]

_REASONS = re.compile(r"\b(?:because|since|as|so|while|whereas|and\s+not|not|rather|but)\b|[.;]", re.IGNORECASE)


def prepare(marking: Marking) -> Marker:
    """Return the marker for a choice; raises MarkingFault when the key names no option."""
    texts = dict(marking.choices)
    if len(texts) < 2:
        raise MarkingFault("scheme 'choice' wants at least two `options` on the question")
    wanted = _key_letters(marking.key, texts)
    answer_line, partial = marking.answer_line, bool(marking.options.get("partial", False))
    said_key = _said_key(wanted, texts)

    @cache
    def folded_texts() -> Mapping[str, str]:
        return {letter: fold(text) for letter, text in texts.items()}

    def mark(text: str) -> Mark:
        folded = folded_texts()

        def read(place: Found) -> Reading | None:
            listed = place.read_by == "last sentence" and _is_listed_option(place.text, folded)
            return None if listed and restates_options(text, folded) else read_letters(place, folded)

        found, reading = read_answer(text, answer_line, read)
        if found is None:
            return failed("the reply is empty")
        if reading is None or reading.contradiction:
            why = reading.contradiction if reading else "no single option chosen"
            said = f"{why} in '{shortened(found.text)}'; key {said_key}"
            return failed(said, shortened(found.text, 200), found.read_by, found.start)
        chosen = ", ".join(reading.letters)
        place = (chosen, found.read_by, found.start)
        for _, other in other_answers(text, found, read):
            if set(other.letters) != set(reading.letters):
                return failed(f"two final answers, {chosen} and {', '.join(other.letters)}; key {said_key}", *place)
        if sorted(reading.letters) == sorted(wanted):
            return passed(f"chose {chosen}; key {said_key}", *place)
        right = len(set(reading.letters) & set(wanted)) - len(set(reading.letters) - set(wanted))
        return scored(max(0, right) / len(wanted) if partial else 0.0, f"chose {chosen}; key {said_key}", *place)

    return mark


@dataclass(frozen=True, slots=True)
class Reading:
    """The letters that a place chooses, and how a single one is contradicted by the text beside it."""

    letters: Letters
    contradiction: str | None = None


def read_letters(found: Found, folded: Mapping[str, str]) -> Reading | None:
    """Return what a place chooses, or None when it chooses nothing; `folded` are folded texts by letter."""
    said = bare(found.text)
    letters, rest = _leading_letters(said, folded)
    if not letters:
        letters, rest = _named_letters(said, folded)
    if letters:
        # What stands beside the letter, and not the reasons after it.
        rest = _REASONS.split(rest)[0]
        beside = _mentioned(fold(rest), folded) if len(letters) == 1 and rest else ()
        if beside and letters[0] not in beside:
            return Reading(letters, f"letter {letters[0]} stands beside the text of {beside[0]}")
        return Reading(letters)
    whole = fold(said)
    by_text = tuple(letter for letter, option in folded.items() if option == whole)
    mentioned = by_text or _mentioned(whole, folded)
    return Reading(mentioned) if len(mentioned) == 1 else None


def restates_options(text: str, folded: Mapping[str, str]) -> bool:
    """Tell whether the reply lists options as the question does; the last one listed is then no choice."""
    return sum(_is_listed_option(line, folded) for line in text[-LONGEST_END:].splitlines() if len(line) < 400) > 1


def _is_listed_option(line: str, folded: Mapping[str, str]) -> bool:
    letters, rest = _leading_letters(bare(line), folded)
    return len(letters) == 1 and fold(rest) == folded[letters[0]]


@lru_cache(maxsize=64)
def _patterns(letters: str) -> tuple[re.Pattern[str], re.Pattern[str], re.Pattern[str]]:
    """Return the patterns for a first letter, one more letter, and a letter named in a sentence."""
    letter = rf"[(\[*]*\b([{letters}])\b[)\]*]*"
    first = rf"(?:(?:option|choice|letter|answer)s?\s+)?{letter}"
    more = rf"\s*(?:,|;|&|/|\+|\band\b|\bor\b|,\s*(?:and|or)\b)\s*{letter}(?!\w)"
    named = (
        rf"(?:\boption\s+|\bchoice\s+|\()([{letters}])\b"
        rf"|\b(?:is|be|choose|pick|say|with|for)\s+\**([{letters}])\b(?!')"
        r"(?=\W*$|[.,;:)*]|\s+(?:as|because|since)\b)"
    )
    return re.compile(first, re.IGNORECASE), re.compile(more, re.IGNORECASE), re.compile(named)


def _leading_letters(said: str, folded: Mapping[str, str]) -> tuple[Letters, str]:
    """Read "B", "(B)", "B) text", "option B: text", "A and C" at the start of an answer."""
    first, more, _ = _patterns("".join(folded))
    start = first.match(said)
    # A lone small "a" before a word is an article, not a choice.
    if not start or (said[0] == "a" and re.match(r"a\s+\w", said)):
        return (), ""
    letters, position = [start.group(1).upper()], start.end()
    while another := more.match(said, position):
        letters.append(another.group(1).upper())
        position = another.end()
    rest = said[position:]
    if re.match(r"'|\s+(?:am|was|think|believe)\b", rest):
        return (), ""
    return tuple(dict.fromkeys(letters)), rest


def _named_letters(said: str, folded: Mapping[str, str]) -> tuple[Letters, str]:
    """Read the one letter named elsewhere in the answer: "I would go with option B, the lamp"."""
    # "not B" names what is ruled out.
    named = [
        match
        for match in _patterns("".join(folded))[2].finditer(said)
        if not re.search(r"\b(?:not|n't|than)\s*$", said[: match.start()])
    ]
    chosen = tuple(dict.fromkeys((match.group(1) or match.group(2)) for match in named))
    return (chosen, said[named[0].end() :]) if len(chosen) == 1 else ((), "")


def _mentioned(said: str, folded: Mapping[str, str]) -> Letters:
    """Return the letters of the options whose text stands in the answer, the longest texts first."""
    found = []
    for letter, option in sorted(folded.items(), key=lambda item: -len(item[1])):
        if not option or option not in said:
            continue
        place = re.search(rf"(?<!\w){re.escape(option)}(?!\w)", said)
        if place and not re.search(r"\b(?:not|never)\s+(?:the\s+|an?\s+)?$", said[: place.start()]):
            found.append(letter)
            said = said[: place.start()] + said[place.end() :]
    return tuple(found)


def _said_key(letters: Letters, texts: Mapping[str, str]) -> str:
    return ", ".join(f"{letter} ({shortened(texts[letter], 40)})" for letter in letters)


def _letter_of_text(said: str, texts: Mapping[str, str]) -> str | None:
    folded = fold(said)
    return next((letter for letter, text in texts.items() if fold(text) == folded), None)


def _key_letters(key: Any, texts: Mapping[str, str]) -> Letters:
    members = list(key) if isinstance(key, list | tuple) else [key]
    if key is None or not members:
        raise MarkingFault("the key is missing; scheme 'choice' wants an option letter, an option text, or a list")
    letters = []
    for member in members:
        said = str(member).strip()
        letter = said.upper() if said.upper() in texts else _letter_of_text(said, texts)
        if letter is None:
            raise MarkingFault(f"the key '{said}' is no option; the options are {', '.join(texts)}")
        letters.append(letter)
    return tuple(dict.fromkeys(letters))


SCHEME = Scheme(name="choice", options={"partial": (bool,)}, prepare=prepare)
