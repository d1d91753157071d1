r"""Finding the final answer in a reply, and saying how it was found.

The places where a final answer can stand, in order of preference:

1. `answer line`: what stands after the suite's answer line ("Answer: …"), on its last such line
2. `boxed`: the content of the last LaTeX \boxed{…}
3. `JSON field`: the answer field of a reply that is a JSON object, or that ends with one
4. `statement`: what follows the last "the answer is …"
5. `conclusion`: a sentence of the last paragraph that begins with so, therefore, in total, …
6. `last sentence`: the sentences from the end backwards

A reply with one of the first four is taken at its word: nothing else in it is read. Of the others, the
first from which the scheme can read an answer counts.
"""

from __future__ import annotations

import json
import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache
from typing import TypeVar

from dryquarry.marking.text import bare


@dataclass(frozen=True, slots=True)
class Found:
    """The stretch of a reply taken as its final answer: without outer markup, how found, and where."""

    text: str
    read_by: str
    start: int


_BOXED = re.compile(r"\\boxed\s*\{")
_STATEMENT = re.compile(
    r"\banswer(?:\s+(?:here|then|to\s+[^.\n:]{1,40}))?[*_\s]*(?:\b(?:is|are|would\s+be|comes\s+to)\b|:|=)"
    r"[*_\s]*(?:(?:therefore|then|thus)\b|:)?[*_\s]*(?=(?P<rest>[^\n]+))",  # looked at, and searched for the next one
    re.IGNORECASE,
)
_CONCLUDES = re.compile(
    r"\W*(?:so|therefore|thus|hence|in\s+total|in\s+all|altogether|in\s+the\s+end|this\s+means|it\s+follows|"
    r"that\s+(?:makes|leaves|gives|is)|that's|which\s+(?:makes|leaves|gives)|we\s+get)\b[,:]?\s*",
    re.IGNORECASE,
)
# A sentence that repeats what was asked states no answer.
_RESTATES = re.compile(
    r"\W*(?:you\s+(?:ask|asked|want|wanted|say|said|told)|the\s+question\s+(?:is|was|asks|asked)|we\s+(?:are|were)\s+asked)\b",
    re.IGNORECASE,
)
_SENTENCE = re.compile(
    r"[^\n]+?(?:(?<=[^\d\s.][.!?])(?<!i\.e\.)(?<!e\.g\.)(?<!ca\.)(?<!approx\.)(?=[\s*_]*\s)|(?<=\d[.!?])(?=[*_]*\s+[A-Z\"'(*_])|(?<=[^\d\s.][.!?][\"'”’)])(?=[*_]*\s+[A-Z\"'(*_])|(?=\n|\Z))"
)
# An object without others in it: what a model gives that was asked for an answer in JSON.
_JSON_AT_END = re.compile(r"(?P<object>\{[^{}]{1,4000}\})\s*(?:```)?\s*\Z")
_ANSWER_FIELDS = ("answer", "final_answer", "Answer", "result")
_NEXT_LINE = re.compile(r"\s*\n\s*(?P<rest>[^\n]+)")

# What leaves two answers standing; a bare "or" may be part of one answer and is for the schemes to read.
_HEDGE = re.compile(
    r"\W*\b(?:or\s+(?:maybe|perhaps|possibly|else|alternatively|(?:it\s+)?(?:could|might|may)(?:\s+be)?)"
    r"|alternatively|(?:but|though|although)\s+(?:it|that)\s+(?:could|might|may)(?:\s+(?:also|well))*\s+be"
    r"|(?:it|that)\s+(?:could|might|may)\s+also\s+be|(?:or|and)\s+then\s+again)\b[,:]?\s*",
    re.IGNORECASE,
)
# What every hedge has: quick to look for, as plain letters above all, and seldom there.
_HEDGE_LETTERS = ("or", "could", "might", "may", "then", "alternatively")
_HEDGE_SIGN = re.compile(r"\b(?:or|could|might|may|then|alternatively)\b")
_HEDGE_AT_END = re.compile(_HEDGE.pattern + r"\Z", re.IGNORECASE)

LONGEST_END = 40_000
LONGEST_ANSWER = 4000
MOST_BOXES = 50
MOST_AFTER = 600
MOST_BEFORE = 40
MOST_SENTENCES = 6
# The ways of reading after which nothing else in a reply is looked at.
TELLING = ("answer line", "boxed", "JSON field", "statement")
# All ways of reading: a scheme that reads otherwise looks at the whole reply, which no form is asked of.
WAYS = (*TELLING, "conclusion", "last sentence", "list")
Read = TypeVar("Read")


@lru_cache(maxsize=256)
def _label(answer_line: str) -> re.Pattern[str]:
    words = answer_line.strip().rstrip(":").strip()
    colon = r"\s*:" if answer_line.strip().endswith(":") else r"\s*:?"
    spelled = r"\s+".join(re.escape(word) for word in words.split())
    return re.compile(rf"(?<!\w){spelled}[*_`]*{colon}[*_`]*[ \t]*(?P<rest>[^\n]*)", re.IGNORECASE)


def read_answer(
    text: str, answer_line: str | None, read: Callable[[Found], Read | None]
) -> tuple[Found | None, Read | None]:
    """Return the place of the final answer and what `read` makes of it.

    The places are tried in order of preference. Where `read` makes nothing of any of them the first place
    is returned with None, and (None, None) for an empty reply.
    """
    first: Found | None = None
    for found in places(text, answer_line):
        first = first or found
        answer = read(found)
        if answer is not None:
            return found, answer
    return first, None


def places(text: str, answer_line: str | None) -> Iterator[Found]:
    """Yield the places where the final answer may stand, the most telling first.

    Only the end of a very long reply is looked at, and of a place no more than anybody's answer takes.
    """
    offset = max(0, len(text) - LONGEST_END)
    for found in _places(text[offset:], answer_line):
        yield Found(found.text[:LONGEST_ANSWER], found.read_by, found.start + offset)


def _places(text: str, answer_line: str | None) -> Iterator[Found]:
    said = _after_answer_line(text, answer_line) if answer_line else None
    said = said or _boxed(text) or _json_field(text) or _statement(text)
    if said:
        yield said
        return
    sentences = _sentences(text)
    last_paragraph = len(text.rstrip()[: text.rstrip().rfind("\n\n") + 1])
    for sentence in reversed(sentences):
        if sentence.start < last_paragraph:
            break
        opening = _CONCLUDES.match(sentence.text)
        if opening and bare(sentence.text[opening.end() :]):
            rest = sentence.text[opening.end() :]
            yield Found(bare(rest), "conclusion", sentence.start + opening.end())
    for sentence in list(reversed(sentences))[:MOST_SENTENCES]:
        if _RESTATES.match(sentence.text):
            continue
        yield Found(bare(sentence.text), "last sentence", sentence.start)


def other_answers(text: str, found: Found, read: Callable[[Found], Read | None]) -> list[tuple[Found, Read]]:
    """Return further final answers that a reply lets stand beside the one found: "it is 4. Or maybe 5."

    What comes before an answer that is withdrawn ("wait, it is 5") is none: the later one is found first.
    """
    tail, head = text[found.start : found.start + MOST_AFTER], text[max(0, found.start - MOST_BEFORE) : found.start]
    around = (head + tail).lower()
    if not any(letters in around for letters in _HEDGE_LETTERS) or not _HEDGE_SIGN.search(around):
        return []
    others = []
    parts = _HEDGE.split(tail)
    pieces = parts[1:] if len(parts) > 1 else []
    # "Or maybe 5." found as the last sentence: what it is an alternative to stands before it.
    if _HEDGE.match(tail) or _HEDGE_AT_END.search(head):
        before = _sentences(text[max(0, found.start - LONGEST_ANSWER) : found.start])
        pieces += [before[-1].text] if before else []
        pieces = [piece for piece in pieces if bare(piece) and bare(piece) not in found.text]
    for piece in pieces:
        said = bare(first_sentence(piece.strip()))
        place = Found(said, found.read_by, found.start)
        answer = read(place) if said else None
        if answer is not None:
            others.append((place, answer))
    return others


def first_sentence(text: str) -> str:
    """Return the text up to the end of its first sentence; a point inside a number ends none."""
    match = _SENTENCE.match(text)
    return match.group() if match else text


def _sentences(text: str) -> list[Found]:
    found = (Found(match.group().strip(), "", match.start()) for match in _SENTENCE.finditer(text))
    return [sentence for sentence in found if bare(sentence.text)]


def _after_answer_line(text: str, answer_line: str) -> Found | None:
    for match in _label_matches(text, answer_line):
        rest, start = match.group("rest"), match.start("rest")
        if not bare(rest):
            below = _NEXT_LINE.match(text, match.end())
            if below is None:
                continue
            rest, start = below.group("rest"), below.start("rest")
        inner = _boxed(rest)
        if inner is not None:
            return Found(inner.text, "answer line", start + inner.start)
        if bare(rest):
            return Found(bare(rest), "answer line", start)
    return None


def _label_matches(text: str, answer_line: str) -> Iterator[re.Match[str]]:
    """Yield where the answer line's label stands, the last one first."""
    pattern, lower = _label(answer_line), text.lower()
    word = answer_line.split()[0].rstrip(":").lower()
    if not word or len(lower) != len(text):
        yield from reversed(list(pattern.finditer(text)))
        return
    # Looking for the plain word from the end is many times faster than for the pattern from the beginning.
    place = lower.rfind(word)
    while place >= 0:
        match = pattern.match(text, place)
        if match is not None:
            yield match
        place = lower.rfind(word, 0, place)


def _boxed(text: str) -> Found | None:
    for match in list(_BOXED.finditer(text))[: -MOST_BOXES - 1 : -1]:
        depth, position = 1, match.end()
        end = min(len(text), position + LONGEST_ANSWER)
        while position < end and depth:
            depth += {"{": 1, "}": -1}.get(text[position], 0)
            position += 1
        inside = bare(text[match.end() : position - 1])
        if depth == 0 and inside:
            return Found(inside, "boxed", match.end())
    return None


def _json_field(text: str) -> Found | None:
    """Return the answer field of the JSON object that the reply is, or ends with."""
    match = _JSON_AT_END.search(text)
    if match is None:
        return None
    try:
        data = json.loads(match["object"])
    except (ValueError, RecursionError):
        return None
    for name in _ANSWER_FIELDS:
        value = data.get(name) if isinstance(data, dict) else None
        if isinstance(value, str | int | float | list) and not isinstance(value, bool) and value not in ("", []):
            said = value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
            return Found(bare(said), "JSON field", match.start("object"))
    return None


def _statement(text: str) -> Found | None:
    for match in reversed(list(_STATEMENT.finditer(text))):
        said = bare(first_sentence(match.group("rest")))
        if said:
            return Found(said, "statement", match.start("rest"))
    return None
