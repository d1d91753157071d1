"""The parts of a text that people count: words, sentences, paragraphs, lines, list items, characters, letters."""

from __future__ import annotations

import re
import unicodedata
from collections.abc import Callable, Mapping

from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.sentences import sentence_ends
from dryquarry.marking.values.texts import uniform

_WORD = regex(r"[^\W_]+(?:['.-][^\W_]+|,(?=\d{3}(?!\d))[^\W_]+|:(?=\d\d(?!\d))\d+)*", re.UNICODE)
_FENCE = regex(r"^[ \t]*(?:```|~~~)[^\n]*(?:\n|\Z)", re.MULTILINE)
_MARKUP = regex(
    r"^[ \t]*(?:#{1,6}[ \t]+|>[ \t]?|[-*_]{3,}[ \t]*$)|[*_`]{1,3}(?=\S)|(?<=\S)[*_`]{1,3}|\\(?=[*_#>])", re.MULTILINE
)
_ITEM = regex(r"^[ \t]*(?:[-*+•–]|\(?\d{1,3}[.)]|\(?[a-zA-Z][.)])[ \t]+\S", re.MULTILINE)
_NUMBERED = regex(r"[ \t]*\(?\d{1,3}[.)]")
_ITEM_SIGN = regex(r"^[ \t]*(?:>[ \t]?)*(?:[-*+•–—]|\(?\d{1,3}[.)]|\(?[a-zA-Z]\))[ \t]+", re.MULTILINE)
_TABLE_RULE = regex(r"^(?=[ \t:|]*(?:-[ \t:|]+)*--)[ \t:|-]+$\n?", re.MULTILINE)
_DASH = regex(r"[—―]|(?<=\s)[–-]+(?=\s)|(?<=[^\W\d_])–(?=[^\W\d_])|--+")
_VOWELS = frozenset("aeiou")


def plain(text: str) -> str:
    """Return the text with one kind of quote, dash and space, and without Markdown's signs.

    The signs and numbers of list items and the fences around code are no text; a long dash parts words.
    """
    text = _FENCE.sub("", text) if "```" in text or "~~~" in text else text
    text = _DASH.sub(lambda dash: f" {dash.group()} " if dash.group() in "—―" else dash.group(), text)
    text = uniform(_TABLE_RULE.sub("", text) if "|" in text else text)
    return _MARKUP.sub("", _ITEM_SIGN.sub("", text)).strip()


def words(text: str) -> list[str]:
    """Return the words: letters and digits, with apostrophes, points and hyphens inside them."""
    return _WORD.findall(plain(_DASH.sub(" ", text)))


def lines(text: str) -> list[str]:
    """Return the lines that are not blank."""
    return [line.strip() for line in plain(text).split("\n") if line.strip()]


def paragraphs(text: str) -> list[str]:
    """Return the paragraphs: what blank lines part."""
    return [part.strip() for part in re.split(r"\n[ \t]*\n", plain(text)) if part.strip()]


def sentences(text: str) -> list[str]:
    """Return the sentences; a line's end ends one too, a point after an abbreviation does not."""
    found: list[str] = []
    said = plain(text)
    start = 0
    for line in said.split("\n"):
        place, end = start, start + len(line)
        for last in sentence_ends(said, place, end):
            found.append(said[place:last].strip())
            place = last
        start = end + 1
    return [sentence for sentence in found if _WORD.search(sentence)]


def list_items(text: str) -> list[str]:
    """Return the lines that are items of a list; bullets below the numbers of a numbered list only explain them."""
    listed = [line for line in uniform(text).split("\n") if _ITEM.match(line)]
    if listed and _NUMBERED.match(listed[0]):
        listed = [line for line in listed if _NUMBERED.match(line) or not line.startswith((" ", "\t"))]
    return [line.strip() for line in listed]


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
    "paragraphs": paragraphs,
    "list_items": list_items,
    "characters": characters,
    "letters": letters,
    "vowels": vowels,
}
