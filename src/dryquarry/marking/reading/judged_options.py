"""Lines that judge the options of a question one by one: "A: yes / B: no", "9 = 3²: yes"."""

from __future__ import annotations

import re

LONGEST_LISTING = 4000
_JUDGED = re.compile(
    r"^[ \t]*(?:[-*•] +)?(?:option +)?\(?(?P<letter>[A-Z])[).:]?[ \t]*"
    r"(?:[^\n]{0,80}?[:–—-][ \t]*|[^\n]{0,80}?[ \t](?=[✅✓✔❌✗✘✖]))?"
    r"(?:(?P<right>[✅✓✔☑]|(?:yes|true|correct|right|ja|oui|sí|richtig|vrai)\b)|[❌✗✘✖☒]|"
    r"(?:no|false|incorrect|wrong|nein|non|falsch|faux|not)\b)",
    re.IGNORECASE | re.MULTILINE,
)


JUDGED_TEXT = re.compile(
    r"^[ \t]*(?:[-*•][ \t]+)?(?P<said>[^\W_][^\n]{0,100}?)[ \t]*(?:[:–—][ \t]*|[ \t](?=[✅✓✔❌✗✘✖]))"
    r"(?:(?P<right>[✅✓✔☑]|(?:yes|true|correct|right|ja|oui|sí)\b)|[❌✗✘✖☒]|(?:no|false|incorrect|wrong|nein|non|not)\b)",
    re.IGNORECASE | re.MULTILINE,
)


# "D is wrong, as it is said. C is wrong, as it was earlier."
_OUT = re.compile(
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


def judged_lines(text: str, named: str) -> list[tuple[str, bool, int, int]]:
    """Return the letter, whether it is called right, and the place of the last lines that each judge another option."""
    found: dict[str, tuple[str, bool, int, int]] = {}
    for match in _JUDGED.finditer(text, max(0, len(text) - LONGEST_LISTING)):
        letter = match["letter"]
        if letter in named:
            found.pop(letter, None)
            found[letter] = (letter, match["right"] is not None, match.start(), match.end())
    return sorted(found.values(), key=lambda one: one[2])
