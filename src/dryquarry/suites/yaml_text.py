"""YAML 1.2 text to plain data, with the line of every field and list member."""

from __future__ import annotations

import math
import re
from io import StringIO
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.comments import CommentedMap, CommentedSeq
from ruamel.yaml.constructor import DuplicateKeyError, RoundTripConstructor
from ruamel.yaml.error import MarkedYAMLError, YAMLError

from dryquarry.errors import Fault
from dryquarry.suites.digests import lone_surrogate
from dryquarry.suites.located import Document, Path, UnreadableText, decoded

# So many nodes more than characters do no harm.
FEW_NODES = 1000
MOST_BRACKETS = 400
MOST_BITS = 10_000


def _depth(text: str) -> int:
    """Return how deep brackets stand in each other, at most: parsing very many takes long before it fails."""
    depth = deepest = 0
    for bracket in re.findall(r"[\[\]{}]", text):
        depth = depth + 1 if bracket in "[{" else max(0, depth - 1)
        deepest = max(deepest, depth)
    return deepest


class _Unusable(ValueError):
    """A value at a path that is no plain data."""

    def __init__(self, message: str, path: Path):
        super().__init__(message)
        self.path = path


class _TextConstructor(RoundTripConstructor):
    """A date in a key or a note is a text here, as YAML 1.2's core rules have it."""


_TextConstructor.add_constructor(
    "tag:yaml.org,2002:timestamp", lambda constructor, node: constructor.construct_scalar(node)
)


def read_yaml(content: bytes, file: str) -> Document:
    """Return the document in the bytes of a YAML file; raises UnreadableText with file and line."""
    text = decoded(content, file)
    if _depth(text) > MOST_BRACKETS:
        raise UnreadableText(Fault("unreadable", "brackets are nested too deeply", file))
    yaml = YAML(typ="rt", pure=True)
    yaml.Constructor = _TextConstructor
    try:
        loaded = yaml.load(StringIO(text))
    except DuplicateKeyError as error:
        name = str(error.problem).split('"')
        said = f"field '{name[1]}' stands twice" if len(name) > 1 else "a field stands twice"
        raise _unreadable(error, said, file) from None
    except MarkedYAMLError as error:
        raise _explained(error, text, file) from None
    except (YAMLError, ValueError, RecursionError) as error:
        message = f"not readable as YAML: {str(error).splitlines()[0] if str(error) else type(error).__name__}"
        raise UnreadableText(Fault("unreadable", message, file)) from None
    plain = _Plain(len(text) + FEW_NODES)
    try:
        return Document(plain.data(loaded, ()), plain.lines)
    except _Unusable as fault:
        line = Document(None, plain.lines).line(*fault.path)
        raise UnreadableText(Fault("unreadable", str(fault), file, line)) from None
    except RecursionError:
        raise UnreadableText(Fault("unreadable", "nested too deeply", file)) from None


def _unreadable(error: MarkedYAMLError, message: str, file: str) -> UnreadableText:
    mark = error.problem_mark or error.context_mark
    return UnreadableText(Fault("unreadable", message, file, mark.line + 1 if mark else None))


_QUOTES = "put the text in quotes, or below a `|` on lines of its own"
# What YAML's words come to for somebody who writes questions, by what stands in the problem.
_PROBLEMS = (
    ("mapping values are not allowed", f"a colon with a space after it stands in a text without quotes; {_QUOTES}"),
    ("found undefined alias", f"a text cannot begin with '*' without quotes; {_QUOTES}"),
    ("expected a comment or a line break", "a text that begins with '>' or '|' wants quotes"),
    ("sequence entries are not allowed", "a text that begins with '- ' wants quotes"),
    ("expected ',' or '}'", "inside { } a text with a colon or a comma wants quotes"),
    ("expected ',' or ']'", "inside [ ] a text with a colon or a comma wants quotes"),
    ("<block mapping start>", "the line is set in otherwise than those it belongs to; count the spaces"),
    ("'\\t'", "a tab stands where YAML wants spaces; indent with spaces"),
)
_BEGINNINGS = {
    '"': "the text in quotes ends before the line does; write a quote inside it as \\\", or put it in '…'",
    "'": 'the text in quotes ends before the line does; write an apostrophe inside it twice, or put it in "…"',
    "{": "a text that begins with '{' wants quotes",
    "[": "a text that begins with '[' wants quotes",
}


def _explained(error: MarkedYAMLError, text: str, file: str) -> UnreadableText:
    """Return what is wrong in the words of somebody who writes questions, where it is one of the usual slips."""
    problem = str(error.problem or error.context or error)
    if "unexpected end of stream" in problem and error.context_mark is not None:
        said = "a quote is opened here and never closed"
        return UnreadableText(Fault("unreadable", said, file, error.context_mark.line + 1))
    start = re.search(r"found character '(.)' that cannot start", problem)
    meant = next((said for words, said in _PROBLEMS if words in problem), None)
    if start is not None and start[1] != "\\":
        meant = meant or f"a text cannot begin with '{start[1]}' without quotes; {_QUOTES}"
    mark = error.problem_mark or error.context_mark
    if meant is None and "<block end>" in problem and mark is not None:
        value = re.match(r"\s*(?:- )?[\w-]+:\s+(.)", text.split("\n")[mark.line])
        meant = _BEGINNINGS.get(value[1]) if value else None
    return _unreadable(error, meant or f"not readable as YAML: {problem}", file)


_TAGGED = "a text that begins with '!' wants quotes; tags are not understood"


class _Plain:
    """ruamel's nodes on their way to plain data, with the lines of all that is met.

    A document has no more nodes than characters, unless aliases repeat what they stand for again and again; `most`
    bounds that before it fills the memory.
    """

    def __init__(self, most: int):
        self.most = most
        self.lines: dict[Path, int] = {}

    def data(self, node: Any, path: Path) -> Any:
        """Return a node as plain data; raises _Unusable for what is none."""
        self.most -= 1
        if self.most < 0:
            raise _Unusable("its aliases (*name) come to more than can be read", path[:1])
        if type(node) is CommentedMap:
            return self._mapping(node, path)
        if type(node) is CommentedSeq:
            if node and node.lc.data is None:
                # a list with a tag of its own
                raise _Unusable(_TAGGED, path)
            for index in range(len(node)):
                self.lines[(*path, index)] = node.lc.item(index)[0] + 1
            return [self.data(member, (*path, index)) for index, member in enumerate(node)]
        return _scalar(node, path)

    def _mapping(self, node: CommentedMap, path: Path) -> dict[str, Any]:
        own = node.lc.line + 1
        self.lines.setdefault(path, own)
        for name in node:
            if not isinstance(name, str | int | float):
                raise _Unusable("the name of a field is a text", path)
            try:
                self.lines[(*path, str(name))] = node.lc.key(name)[0] + 1
            except KeyError:  # taken over from another mapping with <<
                self.lines[(*path, str(name))] = own
        return {str(name): self.data(value, (*path, str(name))) for name, value in node.items()}


def _scalar(node: Any, path: Path) -> Any:
    if node is None:
        return None
    if isinstance(node, bool) or type(node).__name__ == "ScalarBoolean":
        return bool(node)
    if isinstance(node, str) and (lone := lone_surrogate(node)) is not None:
        raise _Unusable(f"'{lone}' is half of a character; write it whole", path)
    if isinstance(node, int) and node.bit_length() > MOST_BITS:
        raise _Unusable("a number has more digits than can be worked with", path)
    if isinstance(node, float) and not math.isfinite(node):
        raise _Unusable("'.inf' and '.nan' are no numbers", path)
    for kind in (int, float, str):
        if isinstance(node, kind):
            return kind(node)
    raise _Unusable(_TAGGED, path)
