"""Labels or things of the question in a row: "c-a-b", "cab", "1c, 2a, 3b", "soak (c), rinse (a), dry (b)", "9-7-4"."""

from __future__ import annotations

import re

from dryquarry.marking.reading.asked_lists import things_asked
from dryquarry.marking.reading.members_named import NamedMember
from dryquarry.marking.regexes import regex

LEAST_LABELS = 3
# "a (rinse)", "a) rinse", "(a) rinse"
_LABEL = regex(r"(?<![\w'’])\(?(?P<label>[A-Za-z])(?:\)\s|\s\(|:\s)")
_NUMBER = regex(r"(?<![\w.,])\d+(?![\w]|[.,]\d)")


# "M N O", "MNO", where letters are asked for
_ASKS_LETTERS = regex(r"\b(?:which|what|list|name|give)\b[^?.]*\bletters\b", re.IGNORECASE)
_LETTERS = regex(r"\W*(?:[A-Z](?:[ -]?[A-Z]){1,25}|[a-z](?:[ -][a-z]){1,25})\W*")
_LETTER = regex(r"[^\W\d_]")


def labels_in_row(text: str, start: int, end: int, asked: str) -> tuple[NamedMember, ...]:
    """Return the labels or numbers that a question lists, in the order of an answer that has each once; else nothing.

    Letters may stand in brackets behind what they stand for; numbers want a hyphen between them.
    """
    labels = tuple(dict.fromkeys(one["label"].lower() for one in _LABEL.finditer(asked)))
    numbers = tuple(dict.fromkeys(_NUMBER.findall(asked)))
    said = text[start:end]
    if _ASKS_LETTERS.search(asked) and (letters := _LETTERS.fullmatch(text, start, end)) is not None:
        return tuple((one.group(), *one.span()) for one in _LETTER.finditer(text, *letters.span()))
    things = things_asked(asked)
    for known, parted in ((labels, r"[-–>→,\s]*(?:\d\s?)?"), (numbers, r"\s*-\s*"), (things, r"\s*-\s*")):
        if len(known) < LEAST_LABELS:
            continue
        one = "|".join(map(re.escape, known))
        row = re.fullmatch(rf"\W*(?:\d\s?)?(?:{one})(?:{parted}(?:{one})){{{len(known) - 1}}}\W*", said, re.IGNORECASE)
        pattern = rf"(?:{one})(?!\d)" if row else rf"(?<=\()(?:{one})(?=\))"
        found = list(re.finditer(pattern, said, re.IGNORECASE))
        if sorted(match.group().lower() for match in found) == sorted(known):
            return tuple((match.group(), start + match.start(), start + match.end()) for match in found)
    return ()
