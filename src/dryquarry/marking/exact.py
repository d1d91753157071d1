"""Scheme `exact`: the answer is one of the accepted texts."""

from __future__ import annotations

from dataclasses import dataclass
from typing import Any

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.reading import Found, other_answers, read_answer
from dryquarry.marking.statements import MOST_WORDS_WITHOUT_VERB, readings_of, subject_of
from dryquarry.marking.text import bare, fold, shortened, without_one

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

    def counted(text: str) -> str:
        return fold(text, **counts)

    folded = {counted(key): key for key in reversed(keys)}
    answer_line = marking.answer_line

    def match(found: Found) -> _Match | None:
        whole = folded.get(counted(found.text))
        if whole is not None:
            return _Match(found.text, whole)
        readings = readings_of(found)
        for reading in readings:
            key = folded.get(counted(reading)) or folded.get(counted(without_one(reading)))
            if key is not None:
                return _Match(reading, key)
        return _Match(readings[-1], None) if readings else None

    def mark(text: str) -> Mark:
        found, answer = read_answer(text, answer_line, match)
        if found is None:
            return failed("the reply is empty")
        if answer is None or answer.key is None:
            subject = subject_of(found, text, folded, counted)
            answer = _Match(found.text, folded[subject]) if subject is not None else answer
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


SCHEME = Scheme(name="exact", options=dict.fromkeys(_DIFFERENCES, (bool,)), prepare=prepare)
