"""Lines that judge the options of a question one by one: "A: yes / B: no", "9 = 3²: yes"."""

from __future__ import annotations

import re
from collections.abc import Callable
from typing import TypeAlias

from dryquarry.marking.regexes import regex

# The letter of an option, whether it is called right, and where that is said.
Judged: TypeAlias = tuple[str, bool, int, int]
# Which option is named by its text in a line, and where in it.
ByText: TypeAlias = Callable[[str], tuple[str, int] | None]
LONGEST_LISTING = 4000
_JUDGED = regex(
    r"^[ \t]*(?:[-*•] +)?(?:option +)?\(?(?P<letter>[A-Z])[).:]?[ \t]*"
    r"(?:[^\n]{0,80}?[:–—-][ \t]*|[^\n]{0,80}?[ \t](?=[✅✓✔❌✗✘✖]))?"
    r"(?:(?P<right>[✅✓✔☑]|(?:yes|true|correct|right|ja|oui|sí|richtig|vrai)\b)|[❌✗✘✖☒]|"
    r"(?:no|false|incorrect|wrong|nein|non|falsch|faux|not)\b)",
    re.IGNORECASE | re.MULTILINE,
)


JUDGED_TEXT = regex(
    r"^[ \t]*(?:[-*•][ \t]+)?(?P<said>[^\W_][^\n]{0,100}?)[ \t]*(?:[:–—][ \t]*|[ \t](?=[✅✓✔❌✗✘✖]))"
    r"(?:(?P<right>[✅✓✔☑]|(?:yes|true|correct|right|ja|oui|sí)\b)|[❌✗✘✖☒]|(?:no|false|incorrect|wrong|nein|non|not)\b)",
    re.IGNORECASE | re.MULTILINE,
)


# "- [ ] A", "- [x] C", "☑ dolphin"
_BOX = regex(
    r"^[ \t]*(?:[-*•+][ \t]+)?(?:\[(?P<mark>[ xX✓✔✅]?)\]|(?P<box>[☐☑☒]))[ \t]*(?P<said>\S[^\n]{0,100})$",
    re.MULTILINE,
)


def boxes(text: str) -> list[Judged]:
    """Return what stands beside each box of a list of boxes, whether it is ticked, and its place."""
    found = list(_BOX.finditer(text, max(0, len(text) - LONGEST_LISTING)))
    ticked = [bool(box["box"] and box["box"] != "☐") or bool((box["mark"] or "").strip()) for box in found]
    return [(box["said"].strip(), one, box.start(), box.end()) for box, one in zip(found, ticked, strict=True)]


# "D is wrong, as it is said. C is wrong, as it was earlier."
_OUT = regex(
    r"(?:^|[.;]\s)[\s(*_-]{0,4}(?:and\s+|so\s+|also\s+)?(?:[Oo]ption\s+)?(?P<letter>[A-Z])\s+(?:is|must\s+be|can\s+be|falls|drops)\s+"
    r"(?:also\s+|clearly\s+)?(?:wrong|out|false|excluded|impossible|ruled\s+out|eliminated|incorrect)\b",
    re.MULTILINE,
)


def one_not_out(text: str, named: str) -> tuple[str, int, int] | None:
    """Return the one option that is not called wrong where each of the others is, and nothing is said of it."""
    out = [match for match in _OUT.finditer(text, max(0, len(text) - LONGEST_LISTING)) if match["letter"] in named]
    left = set(named) - {match["letter"] for match in out}
    if len(named) < 3 or len(left) != 1 or re.search(rf"(?<![\w'’]){next(iter(left))}(?![\w'’])", text):
        return None
    return left.pop(), out[0].start("letter"), out[-1].end()


def judged_lines(text: str, named: str) -> list[Judged]:
    """Return the letter, whether it is called right, and the place of the last lines that each judge another option."""
    found: dict[str, Judged] = {}
    for match in _JUDGED.finditer(text, max(0, len(text) - LONGEST_LISTING)):
        letter = match["letter"]
        if letter in named:
            found.pop(letter, None)
            found[letter] = (letter, match["right"] is not None, match.start(), match.end())
    return sorted(found.values(), key=lambda one: one[2])


def judged_options(text: str, named: str, by_text: ByText) -> list[Judged]:
    """Return the lines that judge the options one by one, by a ticked box, by letter, or by text."""
    if ticked := _ticked(text, named, by_text):
        return ticked
    judged = judged_lines(text, named)
    if len(judged) > 1:
        return judged
    if (left := one_not_out(text, named)) is not None:
        return [(left[0], True, left[1], left[1]), ("", False, *left[1:])]
    found = {}
    for match in JUDGED_TEXT.finditer(text, max(0, len(text) - LONGEST_LISTING)):
        own = by_text(match["said"])
        if own is not None and own[1] == 0:
            found[own[0]] = (own[0], match["right"] is not None, match.start("said"), match.end())
    return sorted(found.values(), key=lambda one: one[2]) if len(found) == len(named) else judged


def _ticked(text: str, named: str, by_text: ByText) -> list[Judged]:
    """Return the options of a list of boxes of which at least one is ticked, nothing where there is no such list."""
    found: list[Judged] = []
    for said, right, start, end in boxes(text):
        letter = re.match(rf"\W*([{named}])(?:[).:]|\s*[–—-]|\s|\Z)", said)
        own = None if letter else by_text(said)
        if letter or own:
            found.append((letter[1] if letter else own[0] if own else "", right, start, end))
    return found if len(found) > 1 and any(right for _, right, _, _ in found) else []
