"""Making texts comparable: characters that are never a difference, and the folds of the exact scheme."""

from __future__ import annotations

import re
import unicodedata

# Curly and straight quotes, dash variants and no-break spaces are never a difference.
_UNIFORM = str.maketrans(
    {
        **dict.fromkeys("‘’‚‛′ʼ`´", "'"),
        **dict.fromkeys("“”„‟″«»", '"'),
        **dict.fromkeys("‐‑‒–—―−﹣-", "-"),
        **dict.fromkeys("\u00a0\u2007\u202f\u2009\u200a\u2002\u2003\u3000", " "),
        **dict.fromkeys("\u200b\u200c\u200d\u2060\ufeff\u00ad", None),
    }
)
_ARTICLE = re.compile(r"\b(?:the|an|a)\s+(?=\S)", re.IGNORECASE)
_THE_ONE = re.compile(r"the\s+(?P<which>\S[^\n]{0,40}?)\s+ones?", re.IGNORECASE)
_DASH_IN_WORD = re.compile(r"(?<=\w)-+(?=[^\W\d])|(?<=[^\W\d])-+(?=\w)")
_ANY_MARK = re.compile(r"[^\w\s]|_")
# What changes the value of a number (3.5, -5, 1/2, 50 %) is kept where it stands in one.
_IN_NUMBERS = frozenset(".,:/-%")
_NOT_IN_A_NUMBER = re.compile(r"(?<!\d)[.,:/]|[.,:/](?!\d)|-(?!\d)")
_EDGE_MARKUP = " \t\r\n*_`\"'#>|"
_TEXT_COMMAND = re.compile(r"\\(?:text|mathrm|mathbf|textbf|textit)\s*\{([^{}]*)\}")
_INLINE_MATH = re.compile(r"^\\?[\(\[]\s*(.*?)\s*\\[\)\]]$|^\$+\s*(.*?)\s*\$+$", re.DOTALL)


def uniform(text: str) -> str:
    """Return the text composed (NFC), with one kind of quote, dash and space."""
    if text.isascii():
        return text.replace("`", "'")
    return unicodedata.normalize("NFC", text).translate(_UNIFORM)


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
        text = _without_punctuation(text)
    text = " ".join(text.split())
    return text if articles else _ARTICLE.sub("", text)


def _without_punctuation(text: str) -> str:
    """Drop punctuation, save what changes the value of a number (3.5, -5, 1/2, 50 %)."""
    if not _ANY_MARK.search(text):
        return text
    text = _NOT_IN_A_NUMBER.sub("", _DASH_IN_WORD.sub(" ", text))
    signs = {one for one in set(text) - _IN_NUMBERS if unicodedata.category(one)[0] == "P"}
    return text.translate(dict.fromkeys(map(ord, signs))) if signs else text


def bare(text: str) -> str:
    """Return an answer without the markup, quotes, math delimiters, emoji and full stop around it."""
    before = None
    text = text.strip()
    if text and text[0].isalnum() and text[-1].isalnum() and "\\" not in text:
        return text
    if "\\" in text:
        text = _TEXT_COMMAND.sub(r"\1", text)
    while text != before:
        before = text
        text = text.strip().strip(_EDGE_MARKUP).strip()
        while text and unicodedata.category(text[-1]) in ("So", "Mn") and not text[-1].isalnum():
            text = text[:-1].rstrip()
        math = _INLINE_MATH.match(text)
        if math:
            text = math.group(1) if math.group(1) is not None else math.group(2)
        if text.endswith((".", "!", ";", ",")) and not text.endswith("..."):
            text = text[:-1]
    return text


def without_one(text: str) -> str:
    """Return "the red one" as "red": a word that stands in for what was asked about says nothing more."""
    match = _THE_ONE.fullmatch(text.strip())
    return match["which"] if match else text


def shortened(text: str, most: int = 60) -> str:
    """Return the text on one line, cut with an ellipsis where it is longer than `most` characters."""
    line = " ".join(text.split())
    return line if len(line) <= most else line[: most - 1].rstrip() + "…"
