"""Making texts comparable: characters that are never a difference, and the folds of the exact scheme."""

from __future__ import annotations

import re
import unicodedata

from dryquarry.marking.regexes import regex

# Curly and straight quotes, dash variants and no-break spaces are never a difference.
_UNIFORM = str.maketrans(
    {
        **dict.fromkeys("‘’‚‛′ʼ`´", "'"),
        **dict.fromkeys("“”„‟″«»", '"'),
        **dict.fromkeys("‐‑‒–—―−﹣-", "-"),
        **dict.fromkeys("\u00a0\u2007\u202f\u2009\u200a\u2002\u2003\u3000", " "),
        **dict.fromkeys("\u200b\u200c\u200d\u2060\ufeff\u00ad", None),
        **dict(zip("₀₁₂₃₄₅₆₇₈₉", "0123456789", strict=True)),
    }
)
_ARTICLE = regex(r"\b(?:the|an|a)\s+(?=\S)", re.IGNORECASE)
_THE_ONE = regex(r"(?:the\s+)?(?P<which>\S[^\n]{0,40}?)\s+ones?", re.IGNORECASE)
_DASH_IN_WORD = regex(r"(?<=\w)-+(?=[^\W\d])|(?<=[^\W\d])-+(?=\w)")
_ANY_MARK = regex(r"[^\w\s]|_")
# What changes the value of a number (3.5, -5, 1/2, 50 %) is kept where it stands in one.
_IN_NUMBERS = frozenset(".,:/-%")
_NOT_IN_A_NUMBER = regex(r"(?<!\d)[.,:/]|[.,:/](?!\d)|-(?!\d)")
_EDGES = " \t\r\n*_`\"'#>|$"
_BRACKETED = regex(r"^\((?P<inside>[^()]*)\)$|^\[(?P<square>[^\[\]]*)\]$|^\{(?P<curly>[^{}]*)\}$")
_SPELLINGS = {"mount": "mt", "mountain": "mt", "saint": "st", "doctor": "dr", "mister": "mr", "&": "and"}
_SPELT = regex(r"\b(?:mount|saint)\b(?=\s+\w)", re.IGNORECASE)


# What a pattern without regard to case takes for i, s and k, and `lower` does not turn into them.
_LIKE = {"İ": "I", "ı": "i", "ſ": "s", "\N{KELVIN SIGN}": "K"}
_LIKE_LETTERS = str.maketrans(_LIKE)


def plain_letters(text: str) -> str:
    """Return a text of the same length in which a word of a table, once found, is spelled as in the table."""
    if text.isascii() or not any(letter in text for letter in _LIKE):
        return text
    return text.translate(_LIKE_LETTERS)


def uniform(text: str) -> str:
    """Return the text composed (NFC), with one kind of quote, dash and space."""
    if text.isascii():
        return text.replace("`", "'")
    return unicodedata.normalize("NFC", text).translate(_UNIFORM)


_BEFORE_PERCENT = regex(r"(?<=\d)\s(?=%)")


def fold(
    text: str,
    *,
    case: bool = False,
    accents: bool = False,
    punctuation: bool = False,
    articles: bool = False,
) -> str:
    """Return the text without the differences that do not count; a flag set to True makes one count."""
    text = uniform(text)
    if not case:
        text = text.casefold()
    if not accents and not text.isascii():
        decomposed = unicodedata.normalize("NFD", text)
        text = "".join(mark for mark in decomposed if unicodedata.category(mark) != "Mn")
    if not punctuation:
        text = _SPELT.sub(lambda word: _SPELLINGS[plain_letters(word.group()).casefold()], _without_punctuation(text))
    text = " ".join(text.split())
    if "%" in text:
        text = _BEFORE_PERCENT.sub("", text)  # "30 %" and "30%"
    return text if articles else _ARTICLE.sub("", text)


def _without_punctuation(text: str) -> str:
    """Drop punctuation, save what changes the value of a number (3.5, -5, 1/2, 50 %)."""
    text = text.replace("&", " and ")
    if not _ANY_MARK.search(text):
        return text
    text = _NOT_IN_A_NUMBER.sub("", _DASH_IN_WORD.sub(" ", text))
    signs = {one for one in set(text) - _IN_NUMBERS if unicodedata.category(one)[0] == "P"}
    if not signs:
        return text
    # what is dropped may have parted a dash from its word: "A?-0"
    return _DASH_IN_WORD.sub(" ", text.translate(dict.fromkeys(map(ord, signs))))


def trimmed(text: str, start: int, end: int) -> tuple[int, int]:
    """Return a stretch without the quotes, brackets, emoji and full stop around it."""
    if start < end and text[start].isalnum() and text[end - 1].isalnum():
        return start, end
    before = None
    while (start, end) != before and start < end:
        before = (start, end)
        while start < end and text[start] in _EDGES:
            start += 1
        while start < end and (text[end - 1] in _EDGES or unicodedata.category(text[end - 1]) in ("So", "Mn", "Cf")):
            end -= 1
        while start < end and unicodedata.category(text[start]) == "So":
            start += 1
        stretch = text[start:end]
        if stretch.endswith((".", "!", ";", ",", ":", "?")) and not stretch.endswith("..."):
            end -= 1
        elif _BRACKETED.match(stretch) and len(stretch) > 2:
            start, end = start + 1, end - 1
        elif stretch.startswith((",", ";", ":", "- ", "– ", "— ", ".")) and not re.match(r"\.\d", stretch):
            start += 1
    return start, end


def bare(text: str) -> str:
    """Return an answer without the quotes, brackets, emoji and full stop around it."""
    if text and text[0].isalnum() and text[-1].isalnum():
        return text
    return text[slice(*trimmed(text, 0, len(text)))]


def without_one(text: str) -> str:
    """Return "the red one" as "red": a word that stands in for what was asked about says nothing more."""
    match = _THE_ONE.fullmatch(text.strip())
    return match["which"] if match else text


def shortened(text: str, most: int = 60) -> str:
    """Return the text on one line, cut with an ellipsis where it is longer than `most` characters."""
    line = " ".join(text.split())
    return line if len(line) <= most else line[: most - 1].rstrip() + "…"


def storable_text(text: str) -> str:
    r"""Return a text that UTF-8 can hold: halves of characters as escapes, which JSON reads as what they were."""
    return text if text.isascii() else text.encode("utf-8", "backslashreplace").decode("utf-8")
