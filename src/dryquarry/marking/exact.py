"""Scheme `exact`: the answer is one of the accepted texts."""

from __future__ import annotations

import re
from dataclasses import dataclass
from typing import Any

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.reading import Found, first_sentence, other_answers, read_answer
from dryquarry.marking.text import bare, fold, shortened, without_one

MOST_WORDS_WITHOUT_VERB = 5

_REMARK = re.compile(r"\s*(?:\([^()]*\)|\[[^\[\]]*\])\s*$")
_CLAUSE = re.compile(r"\s*\([^()]*\)|\s+[-–—]\s+.*$|,\s+.*$", re.DOTALL)
_VERB = re.compile(
    r"(?:\b(?:is|are|was|were|be|called|named|known\s+as|written(?:\s+as)?|spelled|means|keeps|has|"
    r"gets|takes|falls(?:\s+on)?|lies(?:\s+in)?|stands(?:\s+in)?|curves|bends|turns|points|goes|runs|flows|faces|leads)\b"
    r"|(?<=\w)'s\b|(?<=\w)'re\b)[:\s]+",
    re.IGNORECASE,
)
_DIFFERENCES = ("case", "accents", "punctuation", "articles")


@dataclass(frozen=True, slots=True)
class _Match:
    """What was read, and the accepted text it counts as (None for none)."""

    text: str
    key: str | None


def prepare(marking: Marking) -> Marker:
    """Return the marker for accepted texts; raises MarkingFault when the key is not text."""
    keys = accepted_texts(marking.key)
    counts = {name: bool(marking.options.get(name, False)) for name in _DIFFERENCES}
    folded = {fold(key, **counts): key for key in reversed(keys)}
    answer_line = marking.answer_line

    def match(found: Found) -> _Match | None:
        whole = folded.get(fold(found.text, **counts))
        if whole is not None:
            return _Match(found.text, whole)
        readings = _readings(found)
        for reading in readings:
            key = folded.get(fold(reading, **counts)) or folded.get(fold(without_one(reading), **counts))
            if key is not None:
                return _Match(reading, key)
        return _Match(readings[-1], None) if readings else None

    def mark(text: str) -> Mark:
        found, answer = read_answer(text, answer_line, match)
        if found is None:
            return failed("the reply is empty")
        place = (found.read_by, found.start)
        if answer is None or answer.key is None:
            said = answer.text if answer else found.text
            return failed(f"read '{shortened(said)}', not {_said_keys(keys)}", shortened(said, 200), *place)
        for _, other in other_answers(text, found, match):
            if other.key is None and len(other.text.split()) <= MOST_WORDS_WITHOUT_VERB:
                reason = f"two final answers, '{shortened(answer.text)}' and '{shortened(other.text)}'"
                return failed(reason, bare(answer.text), *place)
        same = "" if answer.text == answer.key else f", which counts as '{shortened(answer.key)}'"
        return passed(f"read '{shortened(answer.text)}'{same}", bare(answer.text), *place)

    return mark


def _said_keys(keys: list[str]) -> str:
    return " or ".join(f"'{shortened(key)}'" for key in keys[:3]) + (" or …" if len(keys) > 3 else "")


def accepted_texts(key: Any) -> list[str]:
    """Return the key as a list of texts; raises MarkingFault when it is anything else."""
    members = list(key) if isinstance(key, list | tuple) else [key]
    if key is None or not members:
        raise MarkingFault("the key is missing; scheme 'exact' wants a text or a list of texts")
    texts = []
    for member in members:
        if isinstance(member, bool) or not isinstance(member, str | int):
            raise MarkingFault(f'the key {member!r} is not a text; put it in quotes: "{member}"')
        if not str(member).strip():
            raise MarkingFault("the key is an empty text")
        texts.append(str(member))
    return texts


def _readings(found: Found) -> list[str]:
    """Return the readings of a place, from the whole down to what follows its last verb without remarks.

    A long sentence without such a verb states no answer, and has no readings.
    """
    sentence = bare(first_sentence(found.text))
    readings = [found.text, sentence, *_without_remarks(sentence)]
    verbs = list(_VERB.finditer(sentence))
    if verbs:
        after = bare(sentence[verbs[-1].end() :])
        readings += [after, *_without_remarks(after)]
    elif found.read_by == "last sentence" and len(sentence.split()) > MOST_WORDS_WITHOUT_VERB:
        return []
    return list(dict.fromkeys(reading for reading in readings if reading))


def _without_remarks(text: str) -> list[str]:
    return [bare(_REMARK.sub("", text)), bare(_CLAUSE.sub("", text))]


SCHEME = Scheme(name="exact", options=dict.fromkeys(_DIFFERENCES, (bool,)), prepare=prepare)
