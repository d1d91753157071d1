"""Texts that somebody else wrote, as a page shows them: in pieces, cut where long, Markdown without its teeth."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import lru_cache

from markdown_it import MarkdownIt
from markupsafe import Markup

from dryquarry.marking.model import Mark
from dryquarry.showing.figures import visible

MOST_SHOWN = 20_000
MOST_RENDERED = 40_000
_MARKDOWN = re.compile(r"^ {0,3}(?:#{1,6} |[-*+] |\d{1,3}[.)] |>|```|~~~|\|.*\|)|\*\*\S|`[^`\n]+`", re.MULTILINE)


@dataclass(frozen=True, slots=True)
class Pieces:
    """A text in three: before the answer that was read, the answer, after it; `cut` tells that some is left out."""

    before: str
    marked: str = ""
    after: str = ""
    cut: bool = False

    @property
    def whole(self) -> str:
        """The text as it is shown."""
        return self.before + self.marked + self.after


def pieces_of(text: str, mark: Mark | None, most: int = MOST_SHOWN) -> Pieces:
    """Return a text with the answer read set apart; of a long one so many characters around the answer."""
    start, end = (mark.start, mark.end) if mark is not None else (None, None)
    if start is None or not 0 <= start <= len(text):
        start = end = len(text)
    end = min(len(text), start if end is None else max(start, end))
    if len(text) <= most:
        return Pieces(text[:start], text[start:end], text[end:])
    end = min(end, start + most // 2)
    room = most - (end - start)
    first = max(0, min(start - room * 2 // 3, len(text) - most))
    last = min(len(text), first + most)
    lead, tail = "… " if first else "", " …" if last < len(text) else ""
    return Pieces(lead + text[first:start], text[start:end], text[end:last] + tail, cut=True)


def has_markdown(text: str) -> bool:
    """Tell whether a text has anything that Markdown would show otherwise."""
    return len(text) <= MOST_RENDERED and _MARKDOWN.search(text) is not None


def rendered_markdown(text: str) -> Markup:
    """Return a text of Markdown as HTML: what it has of HTML stays text; links lead nowhere, pictures are not shown."""
    return Markup(_renderer().render(visible(text.replace("\r\n", "\n"))))


@lru_cache
def _renderer() -> MarkdownIt:
    renderer = MarkdownIt("commonmark", {"html": False, "linkify": False}).enable("table")
    return renderer.disable(["link", "image", "autolink", "html_block", "html_inline", "reference"])
