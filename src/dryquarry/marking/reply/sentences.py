"""Where sentences end: abbreviations, initials, ordinals, decimals and quotations end none."""

from __future__ import annotations

import re
from collections.abc import Iterator

from dryquarry.marking.regexes import regex

_END = regex(r"[.!?…]+[\"')\]*_]*(?=\s|\Z)")
_ABBREVIATION = regex(
    r"(?:(?<![\w'])(?:e\.\s?g|i\.\s?e|a\.\s?k\.\s?a|etc|ca|approx|resp|incl|excl|cf|vs|vol|pp?|figs?|"
    r"eqs?|no|nos|nr|dr|mr|mrs|ms|st|mt|prof|"
    r"jr|sr|messrs|capt|col|gen|rev|hon|mme|inc|ltd|co|corp|dept|est|min|max|avg|sec|"
    r"jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec|"
    r"z\.\s?b|d\.\s?h|bzw|usw|u\.\s?a|ggf|evtl|inkl|vgl|str|"
    r"p\.\s?ej|sra?|srta|ud|m)|(?<![\w.])(?<!\w['’])[a-zA-Z](?:\.[a-zA-Z])*)\.$",
    re.IGNORECASE,
)
# What ends a sentence too where a new one begins with a capital letter: "at 6 a.m. The ferry …", "5 km. Then …".
_MAY_END = regex(
    r"(?:a\.m|p\.m|etc|min|max|sec|co|inc|ltd|est|a\.\s?d|b\.\s?c|u\.s|(?<=\d )[a-z]|"
    r"jan|feb|mar|apr|jun|jul|aug|sept?|oct|nov|dec)\.$",
    re.IGNORECASE,
)
# "The answer is no. The rain stopped." and not "berth No. 5"
_PLAIN_NO = regex(r"(?<![\w'])no\.$", re.IGNORECASE)
# "on Mill St. The house", "begins with J. It ends", "Holm Jr. He rows": no name goes on so, and no list of initials.
_LEADS_ON = regex(
    r"(?<![\w'])(?:e\.\s?g|i\.\s?e|z\.\s?b|d\.\s?h|vs|cf|approx|incl|excl|mrs?|ms|dr|prof)\.$", re.IGNORECASE
)
_SMALL_WORDS_TEXT = (
    "The It He She They We You There This That These Those Then Thus So Hence Therefore But And Or If In On At When "
    "While As For From Since Because Not No Yes Now Next Here My Our Your His Her Its Their What Which Who How Why Let "
    "To All Both Each Nobody Otherwise However Also Finally First An"
)
_SMALL_WORD = regex(rf"[\"'(*_\s]*(?:{'|'.join(_SMALL_WORDS_TEXT.split())}|(?:A|I)(?![.\w]))\b")
# "the answer is B. The …": a letter after a small word is an option, and no initial.
_OPTION = regex(r"(?:\b[a-z]+\s|[,;:(]\s?)[A-H]\.$")
# "It costs 4 + 3x. That …": a small letter behind a sign or a digit is a variable, and no abbreviation.
_VARIABLE = regex(r"[\d*/+=^·×²³)(−-]\s?[a-z]\.$")
# "The first one is enough for x. Subtract …"
_LETTER_ASKED = regex(r"\b(?:for|of|is|get|find|gives|by|tells\s+us|and|with|know|in)\s[a-z]\.$")
_TITLE = regex(r"\s*(?:Dr|Mrs?|Ms|Prof|St|Capt)\.")
_GERMAN_MONTH = regex(
    r"\s+(?:Januar|Februar|März|April|Mai|Juni|Juli|August|September|Oktober|November|Dezember|Jahrhundert)\b"
)
# A capital letter, a number, a sign, or a variable of which something is said: "x = 6", "n(n + 1)".
_NEW = regex(
    r"[\"'(\[*_\s]*(?:[A-ZÀ-ÖØ-ÞĀ-Ž¿¡]|\d|[^\w\s]|[a-z](?:\s?[=≈<>≤≥]|\((?!s\))|\s(?:is|equals|must|has\s+to)\s))"
)


def sentence_ends(text: str, start: int, end: int, *, small: bool = False) -> Iterator[int]:
    """Yield where each sentence of a stretch ends, the end of the stretch last; `small` where none has a capital."""
    for match in _END.finditer(text, start, end):
        if match.end() < end and (_ends_here(text, match, start) or (small and _ends_small(text, match, start))):
            yield match.end()
    yield end


# "okay so here's how. the hall is blue."
_SMALL_BEGINS = regex(r"[a-z]{2}[.!?]\s+[a-z]")
_CAPITAL_BEGINS = regex(r"[.!?][\"')*_]*\s+[\"'(*_]*[A-ZÀ-ÖØ-Þ]")


def in_small_letters(text: str) -> bool:
    """Tell whether a text begins its sentences with small letters."""
    return _SMALL_BEGINS.search(text) is not None and _CAPITAL_BEGINS.search(text) is None


def _ends_small(text: str, match: re.Match[str], start: int) -> bool:
    before = text[max(start, match.start() - 12) : match.start() + 1]
    return re.search(r"(?:[a-z]{2}|\d)[.!?]\Z", before) is not None and _ABBREVIATION.search(before) is None


def _ends_here(text: str, match: re.Match[str], start: int) -> bool:
    signs, before = match.group(), text[max(start, match.start() - 12) : match.start() + 1]
    after = text[match.end() : match.end() + 24]
    begins_new = _NEW.match(after.lstrip()) is not None
    if signs[0] != ".":
        # "Is anybody in?" asked the boy.
        return begins_new or (signs[-1] not in "\"')" and signs[0] != "…")
    if signs.startswith(".."):
        return begins_new and after.lstrip()[:1].isupper()
    if not begins_new:
        return False
    if _LETTER_ASKED.search(before) and after.lstrip()[:1].isupper():
        return True
    if _OPTION.search(before) or (_VARIABLE.search(before) and not after.lstrip()[:1].islower()):
        return True
    if _SMALL_WORD.match(after) and not _LEADS_ON.search(before):
        return True
    if _PLAIN_NO.search(before):
        return not after.lstrip()[:1].isdigit()
    if _ABBREVIATION.search(before):
        if _TITLE.match(after):
            return False  # "at 6 a.m. Dr. Holm rowed out"
        return bool(_MAY_END.search(before)) and after.lstrip()[:1].isupper() and not after.lstrip()[1:2].isspace()
    return not (before[-2:-1].isdigit() and _GERMAN_MONTH.match(after))
