"""The blocks of a reply, by markdown-it: headings, paragraphs, list items, table rows, code."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from enum import StrEnum
from functools import cache
from typing import TYPE_CHECKING

from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.view import View

if TYPE_CHECKING:
    from markdown_it import MarkdownIt

_MARKER = regex(
    r"(?:[-*+•‣▪–]|\(?\d{1,3}[.)]|\(?[a-zA-Z][.)]|\(?[ivx]{1,4}[.)]|\d{1,2}(?:st|nd|rd|th)[:.)]|[☐☑✓✔]|\d️⃣)[ ]+(?=\S)"
)
_NUMBER = regex(r"(\d{1,3})[.)]")
_LETTER = regex(r"([a-zA-Z])[.)]")
_QUOTE = regex(r"[ ]*(?:>[ ]?)*[ ]*")
_HASHES = regex(r"#{1,6}[ ]+")
_ITEM_LINE = regex(r"(?:[-*+•‣▪]|\d{1,2}(?:st|nd|rd|th)[:.)]|\(?\d{1,3}[.)]|\(?[a-zA-Z][.)])[ ]+(?=\S)")


class BlockKind(StrEnum):
    """What a stretch of lines is."""

    HEADING = "heading"
    PARAGRAPH = "paragraph"
    ITEM = "item"
    ROW = "row"
    HEADER = "header"
    CODE = "code"
    RULE = "rule"


@dataclass(frozen=True, slots=True)
class Block:
    """Lines that belong together; `lines` are the (start, end) of their content in the view, without list markers.

    `marker` is the number or sign of a list item as it stands ("2.", "-").
    """

    kind: BlockKind
    lines: tuple[tuple[int, int], ...]
    marker: str = ""

    @property
    def start(self) -> int:
        """Where the content begins."""
        return self.lines[0][0]

    @property
    def end(self) -> int:
        """Where the content ends."""
        return self.lines[-1][1]


def blocks_of(source: str, view: View) -> list[Block]:
    """Return the blocks of a reply in order; their places are those of the view."""
    starts = [0, *(match.end() for match in re.finditer("\n", view.text)), len(view.text) + 1]
    found: list[Block] = []
    for kind, first, last in _kinds(source):
        lines = []
        for number in range(first, min(last, len(starts) - 1)):
            start, end = starts[number], starts[number + 1] - 1
            if view.text[start:end].strip():
                lines.append((start, end))
        if not lines:
            continue
        if kind in (BlockKind.PARAGRAPH, BlockKind.ITEM):
            found += _by_line(view.text, kind, lines)
        elif kind is not BlockKind.CODE or not view.text[slice(*lines[0])].strip().startswith("```"):
            found.append(Block(kind, tuple(_content(view.text, line, kind)[0] for line in lines)))
    return _with_lone_numbers([block for block in found if block.start < block.end], view.text)


def _with_lone_numbers(blocks: list[Block], text: str) -> list[Block]:
    """Return the blocks, a number or letter that counts nothing as text: "12. To see why, …" is no twelfth item."""
    counted = {0}
    found = []
    numbers = {int(number[1]) for block in blocks if (number := _NUMBER.fullmatch(block.marker))}
    counts_down = numbers == set(range(1, len(numbers) + 1))
    letters = {letter[1] for block in blocks if (letter := _LETTER.fullmatch(block.marker))}
    for block in blocks:
        number, letter = _NUMBER.fullmatch(block.marker), _LETTER.fullmatch(block.marker)
        at = int(number[1]) if number else 0
        alone = letter and not {chr(ord(letter[1]) - 1), chr(ord(letter[1]) + 1)} & letters
        if alone or (number and at > 1 and at - 1 not in counted and not counts_down):
            start = text.rindex(block.marker, 0, block.start)
            lines = ((start, block.lines[0][1]), *block.lines[1:])
            block = Block(BlockKind.PARAGRAPH, lines)
        counted.add(at)
        found.append(block)
    return found


def _by_line(text: str, kind: BlockKind, lines: list[tuple[int, int]]) -> Iterator[Block]:
    """Yield a paragraph or list item; lines within it that are items by their sign are blocks of their own."""
    waiting: list[tuple[int, int]] = []
    marker = ""
    for number, line in enumerate(lines):
        (start, end), own = _content(text, line, kind if number == 0 else BlockKind.PARAGRAPH)
        if own and waiting:
            yield Block(kind, tuple(waiting), marker)
            waiting = []
        if own or number == 0:
            marker, kind = own, BlockKind.ITEM if own else kind
        waiting.append((start, end))
    if waiting:
        yield Block(kind, tuple(waiting), marker)


def _content(text: str, line: tuple[int, int], kind: BlockKind) -> tuple[tuple[int, int], str]:
    """Return where a line's content stands, and the list marker before it."""
    start, end = line
    quote = _QUOTE.match(text, start, end)
    start = quote.end() if quote else start
    if kind is BlockKind.HEADING and (hashes := _HASHES.match(text, start, end)):
        start = hashes.end()
    marker = ""
    pattern = {BlockKind.ITEM: _MARKER, BlockKind.PARAGRAPH: _ITEM_LINE}.get(kind)
    if pattern is not None and (sign := pattern.match(text, start, end)):
        start, marker = sign.end(), sign.group().strip()
    while end > start and text[end - 1].isspace():
        end -= 1
    return (start, end), marker


# Without any of these at the beginning of a line, or a bar or tab, all blocks are paragraphs.
_BLOCK_SIGN = regex(
    r"^[^\S\n]*[^\w\s\"'(¿¡]|^[^\S\n]*\d|^[ ]{4}|[\t|\x00\r\f\v\x1c-\x1e\x85\u2028\u2029]", re.MULTILINE
)


def _paragraphs(source: str) -> Iterator[tuple[BlockKind, int, int]]:
    """Yield the paragraphs of a text without other blocks, as the parser does, and far quicker."""
    first: int | None = None
    number = 0
    for number, line in enumerate([*source.split("\n"), ""]):
        if line.strip() and first is None:
            first = number
        elif not line.strip() and first is not None:
            yield BlockKind.PARAGRAPH, first, number
            first = None


@cache
def _parser() -> MarkdownIt:
    from markdown_it import MarkdownIt

    return MarkdownIt("commonmark").enable("table").disable(["lheading", "code", "html_block", "reference"])


def _kinds(source: str) -> Iterator[tuple[BlockKind, int, int]]:
    """Yield the kind, first line and line after the last of each block."""
    yield from _parsed(source) if _BLOCK_SIGN.search(source) else _paragraphs(source)


def _parsed(source: str) -> Iterator[tuple[BlockKind, int, int]]:
    parser = _parser()
    tokens: list[object] = []
    parser.block.parse(source.replace("\r\n", "\n"), parser, {}, tokens)  # type: ignore[arg-type]
    header = False
    opened: list[tuple[int, int] | None] = []
    depth: list[bool] = []  # of each open list item, whether its first paragraph is yet to come
    for token in tokens:
        kind, lines = token.type, token.map  # type: ignore[attr-defined]
        if kind == "list_item_open":
            depth.append(True)
            opened.append(lines)
        elif kind == "list_item_close":
            # "17." with nothing behind it is a number, and no item
            if depth.pop() and (whole := opened[-1]) and whole[1] - whole[0] == 1:
                yield BlockKind.PARAGRAPH, whole[0], whole[1]
            opened.pop()
        elif kind in ("thead_open", "thead_close"):
            header = kind == "thead_open"
        elif kind == "paragraph_open" and lines:
            item = bool(depth) and depth[-1]
            if depth:
                depth[-1] = False
            yield (BlockKind.ITEM if item else BlockKind.PARAGRAPH), lines[0], lines[1]
        elif kind in _LEAVES and lines:
            yield (BlockKind.HEADER if header else _LEAVES[kind]), lines[0], lines[1]


_LEAVES = {
    "heading_open": BlockKind.HEADING,
    "tr_open": BlockKind.ROW,
    "fence": BlockKind.CODE,
    "hr": BlockKind.RULE,
}
