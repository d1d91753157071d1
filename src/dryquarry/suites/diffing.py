"""What changed between two editions, question by question."""

from __future__ import annotations

import re
from bisect import bisect_left
from collections.abc import Iterator, Sequence
from dataclasses import dataclass
from difflib import SequenceMatcher
from enum import StrEnum

from dryquarry.suites.digests import canonical_json, said
from dryquarry.suites.question import Drawn, Question, State, Suite
from dryquarry.suites.records import question_record

MOST_WORDS_COMPARED = 4000


class ChangeKind(StrEnum):
    """What happened to a question; one question can have several."""

    ADDED = "added"
    RETIRED = "retired"
    RESTORED = "restored"
    REWORDED = "reworded"
    KEY = "key changed"
    SCHEME = "scheme changed"
    REDRAWN = "redrawn"
    NOTES = "notes changed"
    MOVED = "moved"


@dataclass(frozen=True, slots=True)
class Change:
    """One change: what of which question, from what to what (texts for a person)."""

    question: str
    kind: ChangeKind
    before: str = ""
    after: str = ""
    words: str = ""


@dataclass(frozen=True, slots=True)
class SuiteDiff:
    """All changes between two editions, and how many questions are the same in both."""

    before: str
    after: str
    changes: tuple[Change, ...]
    same: int

    def count(self, *kinds: ChangeKind) -> int:
        """Return how many questions have a change of one of these kinds."""
        return len({change.question for change in self.changes if change.kind in kinds})


def diff_suites(before: Suite, after: Suite) -> SuiteDiff:
    """Return what changed from one edition (or draft, or suite) to another."""
    old = {question.id: question for question in before.questions}
    new = {question.id: question for question in after.questions}
    moved = _moved([name for name in old if name in new], [name for name in new if name in old])
    changes: list[Change] = []
    for name, question in new.items():
        changes += _changes(old.get(name), question)
        if name in moved:
            changes.append(Change(name, ChangeKind.MOVED))
    for name, question in old.items():
        if name not in new and question.state is not State.RETIRED:
            changes.append(Change(name, ChangeKind.RETIRED, question.text, after="no longer in the suite"))
    same = sum(
        name in old and (old[name].ask_digest, old[name].mark_digest) == (one.ask_digest, one.mark_digest)
        for name, one in new.items()
        if one.state is not State.RETIRED
    )
    return SuiteDiff(before.reference, after.reference, tuple(changes), same)


def word_diff(before: str, after: str) -> str:
    """Return the text after, with removed words as [-old-] and new ones as {+new+}."""
    old, new = re.findall(r"\S+", before), re.findall(r"\S+", after)
    if len(old) + len(new) > MOST_WORDS_COMPARED:
        return f"(too long to show: {len(old)} words before, {len(new)} after)"
    parts = []
    for kind, a, b, c, d in SequenceMatcher(None, old, new, autojunk=False).get_opcodes():
        if kind in ("replace", "delete"):
            parts.append(f"[-{' '.join(old[a:b])}-]")
        if kind in ("replace", "insert"):
            parts.append(f"{{+{' '.join(new[c:d])}+}}")
        if kind == "equal":
            parts.append(" ".join(new[c:d]))
    return " ".join(parts)


def _changes(old: Question | None, new: Question) -> Iterator[Change]:
    if old is None:
        kind = ChangeKind.RETIRED if new.state is State.RETIRED else ChangeKind.ADDED
        yield Change(new.id, kind, after=new.text)
        return
    if old.state is not new.state and State.RETIRED in (old.state, new.state):
        retired = new.state is State.RETIRED
        yield Change(new.id, ChangeKind.RETIRED if retired else ChangeKind.RESTORED, after=new.retired_because or "")
    if old.drawn and new.drawn and old.drawn.template == new.drawn.template and old.drawn != new.drawn:
        yield Change(new.id, ChangeKind.REDRAWN, _values(old.drawn), _values(new.drawn))
        return
    if old.ask_digest != new.ask_digest:
        before, after = _asked(old, new), _asked(new, old)
        yield Change(new.id, ChangeKind.REWORDED, before, after, word_diff(before, after) + _system_diff(old, new))
    if canonical_json(old.marking.key) != canonical_json(new.marking.key):
        yield Change(new.id, ChangeKind.KEY, said(old.marking.key), said(new.marking.key))
    if old.way != new.way or (old.mark_digest != new.mark_digest and old.marking.rubric != new.marking.rubric):
        yield Change(new.id, ChangeKind.SCHEME, old.way, new.way)
    notes = _changed_notes(old, new)
    if notes:
        yield Change(new.id, ChangeKind.NOTES, after=", ".join(notes))


def _asked(question: Question, other: Question) -> str:
    """Return the author's text, or all that is put to the model where the difference lies outside of it."""
    texts = question.texts if question.texts != other.texts else question.ask.turns
    files = [f"[{file.path} {file.sha256[:8]}]" for file in question.ask.files]
    return "\n\n".join([*texts, *(files if question.ask.files != other.ask.files else [])])


def _values(drawn: Drawn) -> str:
    return ", ".join(f"{name} {value}" for name, value in drawn.values.items())


def _system_diff(old: Question, new: Question) -> str:
    if old.ask.system == new.ask.system:
        return ""
    return f" (system text: {word_diff(old.ask.system or '', new.ask.system or '')})"


def _changed_notes(old: Question, new: Question) -> list[str]:
    """Return the fields that differ without changing what is asked or how it is marked."""
    first, second = question_record(old), question_record(new)
    apart = {"ask", "files", "options", "key", "mark", "retired_because", "drawn"}
    if State.RETIRED in (old.state, new.state):
        apart.add("state")
    return [name for name in {**first, **second} if name not in apart and first.get(name) != second.get(name)]


def _moved(old: Sequence[str], new: Sequence[str]) -> set[str]:
    """Return the names that are out of order: all but those of a longest common run in the same order."""
    places = {name: place for place, name in enumerate(old)}
    tails: list[int] = []
    ends: list[str] = []
    before: dict[str, str | None] = {}
    for name in new:
        at = bisect_left(tails, places[name])
        before[name] = ends[at - 1] if at else None
        tails[at : at + 1] = [places[name]]
        ends[at : at + 1] = [name]
    kept: set[str] = set()
    last = ends[-1] if ends else None
    while last is not None:
        kept.add(last)
        last = before[last]
    return set(new) - kept
