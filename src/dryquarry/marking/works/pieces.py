"""The stretches of code in a reply: fenced, indented, with the file name that stands above or in the fence."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass, replace
from functools import cache
from itertools import pairwise
from typing import TYPE_CHECKING

from dryquarry.marking.regexes import regex
from dryquarry.marking.works.languages import OTHER_WORDS, SUFFIXES, Language, by_content, by_fence, by_path

if TYPE_CHECKING:
    from markdown_it import MarkdownIt
    from markdown_it.token import Token

LONGEST_PATH = 100
_LINE_END = regex(r"\r\n|\r|\n")
_PATH = regex(r"(?<![\w/.-])((?:[\w-][\w.-]*/){0,4}[\w-][\w.-]*\.\w{1,5})(?![\w/-])")
_NAMED_IN_INFO = regex(r"(?:^|[\s:{,])(?:(?:file(?:name)?|title|path|name)\s*=\s*)?[\"']?([\w./-]+\.\w{1,5})[\"']?")
# What may stand around a file's name in a line that names the file of the code below it.
_AROUND_NAME = regex(
    r"(?i)\b(?:and|the|a|an|file|files?name|called|named|save(?:d)?|as|in|into|to|this|code|here(?:'s| is)?|is|create|"
    r"new|your|then|contents?|of|for|first|second|third|next|finally|program|script|main|module|path|step|put|page|"
    r"updated|version|full|complete|final|corrected|fixed|with|following|below|containing|add|write|edit|update|like|should)\b"
)
# What tells that a line is about using a file, and not its name.
_USED = regex(
    r"(?i)\b(?:run|runs|running|execute|chmod|python3?|node|gcc|g\+\+|bash|sh|usage|outputs?|call|cat|compile)\b(?!\.)"
)
_MARKS = regex(r"[\s#*_`:.,()\[\]\"'–—-]|^\s*\d+[.)]|📄|📁")
_LONGEST_AROUND = 12
_COMMENT = regex(r"^\s*(?:#(?!!)|//|--|/\*|<!--)\s*(?:file(?:name)?\s*:\s*)?([\w./-]+\.\w{1,5})\s*(?:\*/|-->)?\s*$")
_WRAPPERS = frozenset({"", "markdown", "md", "text", "txt"})
_PROMPT = regex(r"^(?:>>> ?|\.\.\. ?)", re.MULTILINE)


@dataclass(frozen=True, slots=True)
class Piece:
    """A stretch of code: its text, where in the reply it stands, and what is said of it.

    `word` is the fence's first word, "" where there is none; `path` the file that it is said to be. One that is not
    `closed` goes to the end of the reply without the end of its fence.
    """

    text: str
    start: int
    end: int
    word: str = ""
    path: str | None = None
    closed: bool = True
    fenced: bool = True

    @property
    def language(self) -> Language | None:
        """The language that is said, by the fence or the file name, or that the text itself shows."""
        said = by_fence(self.word) if self.word else None
        if said is not None or self.word in OTHER_WORDS:
            return said
        return (by_path(self.path) if self.path else None) or by_content(self.text)

    @property
    def is_session(self) -> bool:
        """Whether it shows what was typed at a prompt and what came, rather than a program."""
        return bool(_PROMPT.match(self.text.lstrip())) or bool(re.match(r"\s*\$ ", self.text))


def pieces_of(text: str) -> list[Piece]:
    """Return the stretches of code of a reply, in their order."""
    found: list[Piece] = []
    for piece in _pieces(text):
        inner = pieces_of(piece.text) if piece.word in _WRAPPERS and _holds_fence(piece.text) else []
        if inner and text[piece.start : piece.start + len(piece.text)] == piece.text:
            found += [replace(one, start=one.start + piece.start, end=one.end + piece.start) for one in inner]
        else:
            found.append(piece)
    return found


def _holds_fence(text: str) -> bool:
    return re.search(r"^ {0,3}(?:```|~~~)\w", text, re.MULTILINE) is not None


def _pieces(text: str) -> Iterator[Piece]:
    starts = [0, *(match.end() for match in _LINE_END.finditer(text)), len(text)]
    lines = [text[first:last] for first, last in pairwise(starts)]
    for token in _markdown().parse(text):
        if token.type not in ("fence", "code_block") or token.map is None or not token.content.strip():
            continue
        first, last = token.map[0], min(token.map[1], len(starts) - 1)
        if token.type == "code_block":
            yield Piece(token.content, starts[first], starts[last], fenced=False)
            continue
        closed = last - first > 1 and re.match(rf"[ >]*{token.markup[0]}{{{len(token.markup)},}}\s*$", lines[last - 1])
        end = starts[last - 1] if closed else starts[last]
        word, named = _info(token)
        path = named or _path_in_comment(token.content) or _path_above(lines, first)
        yield Piece(token.content, starts[first + 1], max(end, starts[first + 1]), word, path, bool(closed))


def _info(token: Token) -> tuple[str, str | None]:
    """Return a fence's language word and the path that stands beside it."""
    info = token.info.strip()
    named = _NAMED_IN_INFO.search(info)
    path = good_path(named[1]) if named else None
    word = re.split(r"[\s:{,]", info.lstrip("{. "), maxsplit=1)[0].rstrip("}").casefold()
    return ("" if path and word == path.casefold() else word), path


def _path_in_comment(content: str) -> str | None:
    """Return the path that the first line is, where it is a comment with a file's name alone."""
    match = _COMMENT.match(content.split("\n", 1)[0])
    return good_path(match[1]) if match else None


def _path_above(lines: list[str], first: int) -> str | None:
    """Return the path that the line above a fence names, where it says little else."""
    above = next((lines[place] for place in range(first - 1, max(-1, first - 3), -1) if lines[place].strip()), "")
    paths = [path for one in _PATH.findall(above) if (path := good_path(one)) is not None]
    if len(paths) != 1 or _USED.search(above.replace(paths[0], " ")):
        return None
    around = _AROUND_NAME.sub("", above.replace(paths[0], " "))
    return paths[0] if len(_MARKS.sub("", around)) <= _LONGEST_AROUND else None


def good_path(path: str) -> str | None:
    """Return a file's path as it may be used, or None for one that is none, or that would lead out of the folder."""
    path = path.removeprefix("./")
    parts = path.split("/")
    suffix = "." + parts[-1].rpartition(".")[2].casefold()
    if path.startswith("/") or len(path) > LONGEST_PATH or any(part in ("", ".", "..") for part in parts):
        return None
    return path if suffix in SUFFIXES and not parts[-1].startswith(".") else None


@cache
def _markdown() -> MarkdownIt:
    from markdown_it import MarkdownIt

    return MarkdownIt("commonmark")
