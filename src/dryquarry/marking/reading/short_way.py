"""The short way to a plain answer: a reply whose last paragraph is its answer line is read by that line alone.

Nothing before such a line can change what is read in it, and nothing follows that could take it back; a property
test holds that the long way gives the same mark.
"""

from __future__ import annotations

from functools import lru_cache

from dryquarry.marking.reading.places import says_nothing

LONGEST_TEXT = 40_000
LONGEST_LINE = 400


def answer_line_at_end(text: str, answer_line: str | None) -> int | None:
    """Return where the answer line begins that a reply ends with, as a paragraph of one line; None where none is."""
    if not answer_line or len(text) > LONGEST_TEXT:
        return None
    end = len(text.rstrip())
    start = text.rfind("\n", 0, end) + 1
    if end - start > LONGEST_LINE or not text.startswith(_beginnings(answer_line), start):
        return None
    # a fence makes the line code, and a line right before it may be one paragraph with it
    if start and (not text.endswith("\n\n", 0, start) or "```" in text or "~~~" in text):
        return None
    label = len(answer_line) + 2 * text.startswith("**", start)
    return None if says_nothing(text[start + label : end]) else start


@lru_cache(maxsize=256)
def _beginnings(answer_line: str) -> tuple[str, ...]:
    label = answer_line.strip()
    return (label, f"**{label}") if label.endswith(":") and label[:1].isupper() else ("\x00",)
