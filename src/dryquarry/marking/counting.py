"""The parts of a text that people count: words, sentences, lines, list items, characters, letters."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Mapping

from dryquarry.marking.text import uniform

_WORD = re.compile(r"[^\W_]+(?:['.-][^\W_]+)*", re.UNICODE)
_MARKUP = re.compile(r"^[ \t]*(?:#{1,6}[ \t]+|>[ \t]?)|[*_`]{1,3}(?=\S)|(?<=\S)[*_`]{1,3}", re.MULTILINE)
_ITEM = re.compile(r"^[ \t]*(?:[-*+•–]|\(?\d{1,3}[.)]|\(?[a-zA-Z][.)])[ \t]+\S", re.MULTILINE)
_ITEM_SIGN = re.compile(r"^[ \t]*(?:[-*+•–]|\(?\d{1,3}[.)])[ \t]+")
_SENTENCE_END = re.compile(r"(?<=[.!?…])[\"')\]]*(?:\s+|\Z)")
_ABBREVIATION = re.compile(r"(?:\b(?:e\.g|i\.e|etc|ca|approx|vs|no|Dr|Mr|Mrs|Ms|St|Prof)|\b[A-Z])\.$")
_VOWELS = frozenset("aeiou")


def plain(text: str) -> str:
    """Return the text with one kind of quote, dash and space, and without Markdown's signs of emphasis."""
    return _MARKUP.sub("", uniform(text)).strip()


def words(text: str) -> list[str]:
    """Return the words: letters and digits, with apostrophes, points and dashes inside them."""
    return _WORD.findall(plain(text))


def lines(text: str) -> list[str]:
    """Return the lines that are not blank."""
    return [line.strip() for line in plain(text).split("\n") if line.strip()]


def sentences(text: str) -> list[str]:
    """Return the sentences; a line's end ends one too, a point after an abbreviation does not."""
    found: list[str] = []
    for line in plain(text).split("\n"):
        parts: list[str] = []
        for part in _SENTENCE_END.split(_ITEM_SIGN.sub("", line)):
            parts.append(part)
            if part and not _ABBREVIATION.search(part[-12:]):
                found.append(" ".join(parts))
                parts = []
        found.append(" ".join(parts))
    return [sentence for sentence in found if _WORD.search(sentence)]


def list_items(text: str) -> list[str]:
    """Return the lines that are items of a list."""
    return [line.strip() for line in uniform(text).split("\n") if _ITEM.match(line)]


def letters(text: str) -> list[str]:
    """Return the letters, without digits, signs and spaces; an accent belongs to its letter."""
    return [char for char in unicodedata.normalize("NFC", uniform(text)) if char.isalpha()]


def characters(text: str) -> list[str]:
    """Return the characters of the text without the white space around it; an accent belongs to its letter."""
    return list(unicodedata.normalize("NFC", uniform(text).strip()))


def vowels(text: str) -> list[str]:
    """Return the vowels a, e, i, o, u, whatever their accents."""
    return [base for char in letters(text) if (base := base_letter(char)) in _VOWELS]


def base_letter(char: str) -> str:
    """Return a letter in lower case without its accents."""
    return unicodedata.normalize("NFD", char.casefold())[:1]


COUNTED: Mapping[str, Callable[[str], list[str]]] = {
    "words": words,
    "sentences": sentences,
    "lines": lines,
    "list_items": list_items,
    "characters": characters,
    "letters": letters,
    "vowels": vowels,
}
