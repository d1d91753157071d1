"""What an answer line or the first words write out: "Cu (copper)", "Monday + 3 = Thursday", "red = stop"."""

from __future__ import annotations

import re
from collections.abc import Iterator

from dryquarry.marking.reading.claims import Place, PlaceKind
from dryquarry.marking.reading.echo import is_echo
from dryquarry.marking.regexes import regex

_WORD = regex(r"[^\W_]+(?:['’-][^\W_]+)*")
# "Monday + 3 = Thursday"
STEP = regex(r"[^=\n]{1,40}\s[+−-]\s?\d+[^=\n]{0,20}=\s*(?P<one>[^=,;]{1,40}?)\W*")
_ECHO_EQUALS = regex(r"\W*(?P<what>[^\W\d_][^=→]{0,40}?)\s*(?:=|→|\bmeans\b)\s*(?P<one>[^=→]{1,60}?)\W*")
# "Donnerstag (Thursday)", "Quecksilber (English: mercury)"
_TRANSLATED = regex(
    r"\W*[^\W\d_]+(?:[\s-][^\W\d_]+){0,3}\s*\((?:(?:in\s+)?(?:English|englisch|anglais|inglés):?\s+)?(?P<one>[^\W\d_]{3,})\)\W*",
    re.IGNORECASE,
)
# "Cu (copper)"
_SYMBOL = regex(r"\W*[A-Z][A-Za-z]{0,2}\s*\((?P<one>[^()]{3,60})\)\W*")


def written_alone(text: str, start: int, end: int, place: Place, asked: str) -> Iterator[tuple[int, int]]:
    """Yield what an answer line or the first words write out: "Cu (copper)", "Monday + 3 = Thursday", "red = stop"."""
    equals = _ECHO_EQUALS.fullmatch(text, start, end) if place.telling else None
    if equals is not None and all(is_echo(word, asked) for word in _WORD.findall(equals["what"])):
        yield equals.span("one")
    if not (place.telling or place.kind is PlaceKind.FIRST_WORDS):
        return
    for form in (_SYMBOL, STEP, _TRANSLATED):
        if (written := form.fullmatch(text, start, end)) is not None:
            yield written.span("one")
