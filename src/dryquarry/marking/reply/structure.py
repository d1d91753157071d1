"""A reply taken apart once, for every reader: its view, its blocks and its sentences."""

from __future__ import annotations

from bisect import bisect_left, bisect_right
from dataclasses import dataclass
from functools import lru_cache

from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.blocks import Block, BlockKind, blocks_of
from dryquarry.marking.reply.sentences import in_small_letters, sentence_ends
from dryquarry.marking.reply.view import View, view_of

# Of a longer reply the beginning and the end are read: that is where answers stand.
LONGEST_HEAD = 10_000
LONGEST_TAIL = 30_000
_GOES_ON = regex(r"[a-zà-öø-ÿ(]")
_LONG_LINE = 40
# "Thirty days have September,\nApril, June and November."
_NAMES_ON = regex(r"[^\W\d_]+(?:,\s|\s+and\s)")
_ONLY_SIGNS = regex(r"[^\w\n.,;:=<>()\[\]+*/|-]{1,6}")


@dataclass(frozen=True, slots=True)
class Sentence:
    """A sentence of a block, by its place in the view; a fragment without a full stop is one, too."""

    start: int
    end: int
    block: int
    text: str


@dataclass(frozen=True, slots=True)
class Reply:
    """A reply taken apart; `offset` is where in the original `source` begins, `skipped` what is left out at `cut`."""

    source: str
    view: View
    blocks: tuple[Block, ...]
    sentences: tuple[Sentence, ...]
    cut: int = 0
    skipped: int = 0
    line_starts: tuple[int, ...] = ()
    line_ends: tuple[int, ...] = ()
    offset: int = 0

    @property
    def text(self) -> str:
        """The view's text."""
        return self.view.text

    def origin(self, index: int) -> int:
        """Return the place in the whole original of a place in the view."""
        place = self.view.origin(index)
        return self.offset + (place if place < self.cut or not self.skipped else place + self.skipped)

    def begins_line(self, place: int) -> bool:
        """Tell whether the content of a line begins at a place of the view."""
        number = bisect_left(self.line_starts, place)
        return number < len(self.line_starts) and self.line_starts[number] == place

    def line_end(self, place: int) -> int:
        """Return where the line ends in which a place of the view stands."""
        number = bisect_right(self.line_starts, place) - 1
        return max(place, self.line_ends[number]) if number >= 0 else place

    def is_bold(self, start: int, end: int) -> bool:
        """Tell whether a stretch is set in bold."""
        return any(first <= start and end <= last + 1 for first, last in self.view.bold)


@lru_cache(maxsize=8)
def take_apart(text: str, offset: int = 0) -> Reply:
    """Return the reply taken apart, which begins at `offset` of its original; of a long one the middle is left out."""
    cut = skipped = 0
    if len(text) > LONGEST_HEAD + LONGEST_TAIL:
        cut = text.rfind("\n", 0, LONGEST_HEAD) + 1 or LONGEST_HEAD
        skipped = len(text) - LONGEST_TAIL - cut
        text = text[:cut] + text[cut + skipped :]
    view = view_of(text)
    blocks = tuple(blocks_of(text, view))
    lines = [line for block in blocks for line in block.lines]
    starts, ends = tuple(start for start, _ in lines), tuple(end for _, end in lines)
    return Reply(text, view, blocks, tuple(_sentences(view.text, blocks)), cut, skipped, starts, ends, offset)


def _sentences(text: str, blocks: tuple[Block, ...]) -> list[Sentence]:
    found: list[Sentence] = []
    small = in_small_letters(text)
    for number, block in enumerate(blocks):
        if block.kind is BlockKind.RULE:
            continue
        for start, end in _stretches(text, block):
            whole = block.kind in (BlockKind.ROW, BlockKind.HEADER)
            for last in [end] if whole else sentence_ends(text, start, end, small=small):
                first = start
                while first < last and text[first].isspace():
                    first += 1
                if first < last and found and found[-1].block == number and _ONLY_SIGNS.fullmatch(text, first, last):
                    before = found.pop()  # "It's the tern. ✅"
                    found.append(Sentence(before.start, last, number, text[before.start : last]))
                elif first < last:
                    found.append(Sentence(first, last, number, text[first:last]))
                start = last
    return found


def _stretches(text: str, block: Block) -> list[tuple[int, int]]:
    """Return the lines of a block, those that are one wrapped line as one."""
    found = [block.lines[0]]
    for start, end in block.lines[1:]:
        before = text[found[-1][0] : found[-1][1]].rstrip()
        wrapped = (
            block.kind in (BlockKind.PARAGRAPH, BlockKind.ITEM)
            and before[-1:] not in ".!?:;"
            and (
                _NAMES_ON.match(text, start, end)
                if before.endswith(",")
                else len(before) > _LONG_LINE and _GOES_ON.match(text, start)
            )
        )
        if wrapped:
            found[-1] = (found[-1][0], end)
        else:
            found.append((start, end))
    return found
