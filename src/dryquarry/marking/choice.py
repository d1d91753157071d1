"""Scheme `choice`: the chosen option letters equal the key."""

from __future__ import annotations

import re
from collections.abc import Mapping
from typing import Any

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.reading import Found, read_answer
from dryquarry.marking.text import bare, fold, shortened

Letters = tuple[str, ...]

_LIST_JOIN = r"\s*(?:,|;|&|/|\+|\band\b|,\s*and\b)\s*"


def prepare(marking: Marking) -> Marker:
    """Return the marker for a choice; raises MarkingFault when the key names no option."""
    texts = dict(marking.choices)
    if len(texts) < 2:
        raise MarkingFault("scheme 'choice' wants at least two `options` on the question")
    folded = {letter: fold(text) for letter, text in texts.items()}
    wanted = _key_letters(marking.key, texts)
    said_key = ", ".join(f"{letter} ({shortened(texts[letter], 40)})" for letter in wanted)
    answer_line = marking.answer_line

    def mark(text: str) -> Mark:
        restated = restates_options(text, folded)

        def read(place: Found) -> Letters | None:
            if restated and place.read_by == "last sentence" and _is_listed_option(place.text, folded):
                return None
            return read_letters(place, folded)

        found, letters = read_answer(text, answer_line, read)
        if found is None:
            return failed("the reply is empty")
        if not letters:
            why = contradiction(found, folded) or "no single option chosen"
            said = f"{why} in '{shortened(found.text)}'; key {said_key}"
            return failed(said, shortened(found.text, 200), found.read_by)
        chosen = ", ".join(letters)
        verdict = passed if sorted(letters) == sorted(wanted) else failed
        return verdict(f"chose {chosen}; key {said_key}", chosen, found.read_by)

    return mark


def read_letters(found: Found, folded: Mapping[str, str]) -> Letters | None:
    """Return the option letters that a place chooses, or None when it chooses nothing.

    `folded` maps each letter to its folded option text. A letter that contradicts the text beside it
    chooses nothing.
    """
    said = bare(found.text)
    letters, _ = _letters_beside(said, folded)
    if letters:
        return None if contradiction(found, folded) else letters
    whole = fold(said)
    by_text = [letter for letter, option in folded.items() if option == whole]
    mentioned = tuple(by_text) or _mentioned(whole, folded)
    return mentioned if len(mentioned) == 1 else None


def restates_options(text: str, folded: Mapping[str, str]) -> bool:
    """Tell whether the reply lists options as the question does; the last one listed is then no choice."""
    return sum(_is_listed_option(line, folded) for line in text.splitlines()) > 1


def _is_listed_option(line: str, folded: Mapping[str, str]) -> bool:
    letters, rest = _leading_letters(bare(line), folded)
    return len(letters) == 1 and fold(rest) == folded[letters[0]]


def contradiction(found: Found, folded: Mapping[str, str]) -> str | None:
    """Return how a single letter is contradicted by the option text beside it, or None if it is not."""
    letters, rest = _letters_beside(bare(found.text), folded)
    if len(letters) == 1:
        beside = _mentioned(fold(rest), folded)
        if beside and letters[0] not in beside:
            return f"letter {letters[0]} stands beside the text of {beside[0]}"
    return None


def _letters_beside(said: str, folded: Mapping[str, str]) -> tuple[Letters, str]:
    letters, rest = _leading_letters(said, folded)
    return (letters, rest) if letters else _named_letters(said, folded)


def _leading_letters(said: str, folded: Mapping[str, str]) -> tuple[Letters, str]:
    """Read "B", "(B)", "B) text", "option B: text", "A and C" at the start of an answer."""
    letter = rf"[(\[*]*\b([{''.join(folded)}])\b[)\]*]*"
    start = re.match(rf"(?:(?:option|choice|letter|answer)s?\s+)?{letter}", said, re.IGNORECASE)
    # A lone small "a" before a word is an article, not a choice.
    if not start or re.match(r"a\s+\w", said):
        return (), ""
    letters, position = [start.group(1).upper()], start.end()
    while more := re.compile(rf"{_LIST_JOIN}{letter}(?!\w)", re.IGNORECASE).match(said, position):
        letters.append(more.group(1).upper())
        position = more.end()
    rest = said[position:]
    if re.match(r"'|\s+(?:am|was|think|believe)\b", rest):
        return (), ""
    return tuple(dict.fromkeys(letters)), rest


def _named_letters(said: str, folded: Mapping[str, str]) -> tuple[Letters, str]:
    """Read the one letter named elsewhere in the answer: "I would go with option B, the lamp"."""
    letters = "".join(folded)
    named = list(
        re.finditer(
            rf"(?:\boption\s+|\bchoice\s+|\()([{letters}])\b"
            rf"|\b(?:is|be|choose|pick|say|with|for)\s+\**([{letters}])\b(?!')(?=\W*$|[.,;:)*]|\s+(?:as|because|since)\b)",
            said,
        )
    )
    # "not B" names what is ruled out.
    named = [match for match in named if not re.search(r"\b(?:not|n't|than)\s*$", said[: match.start()])]
    chosen = tuple(dict.fromkeys((match.group(1) or match.group(2)) for match in named))
    return (chosen, said[named[0].end() :]) if len(chosen) == 1 else ((), "")


def _mentioned(said: str, folded: Mapping[str, str]) -> Letters:
    """Return the letters of the options whose text stands in the answer, the longest texts first."""
    found = []
    for letter, option in sorted(folded.items(), key=lambda item: -len(item[1])):
        place = re.search(rf"(?<!\w){re.escape(option)}(?!\w)", said) if option else None
        if place and not re.search(r"\b(?:not|never)\s+(?:the\s+|an?\s+)?$", said[: place.start()]):
            found.append(letter)
            said = said[: place.start()] + said[place.end() :]
    return tuple(found)


def _key_letters(key: Any, texts: Mapping[str, str]) -> Letters:
    members = list(key) if isinstance(key, list | tuple) else [key]
    if key is None or not members:
        raise MarkingFault(
            "the key is missing; scheme 'choice' wants an option letter, an option text, or a list"
        )
    by_text = {fold(text): letter for letter, text in texts.items()}
    letters = []
    for member in members:
        said = str(member).strip()
        letter = said.upper() if said.upper() in texts else by_text.get(fold(said))
        if letter is None:
            raise MarkingFault(f"the key '{said}' is no option; the options are {', '.join(texts)}")
        letters.append(letter)
    return tuple(dict.fromkeys(letters))


SCHEME = Scheme(name="choice", options={}, prepare=prepare)
