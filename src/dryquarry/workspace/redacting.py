"""What a report keeps to itself: texts of questions, texts of replies, names of entrants. Taken out before it is made.

So nothing that is written from it (pages, data, the index of a search) can hold what was left out.
"""

from __future__ import annotations

import re
from collections.abc import Collection, Mapping, Sequence
from dataclasses import dataclass, field, fields, is_dataclass, replace
from typing import Any, TypeVar

from dryquarry.asking.entrants import Entrant, Entrants
from dryquarry.marking.model import Mark, Marking
from dryquarry.standing.items import ItemTable
from dryquarry.suites.ask import Ask
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.editing import HistoryRow
from dryquarry.workspace.reply_views import ReplyView

ALPHABET = "ABCDEFGHIJKLMNOPQRSTUVWXYZ"
LEAST_HIDDEN = 3
Anything = TypeVar("Anything")


def letters(known: Entrants, sat: Collection[str] = ()) -> dict[str, str]:
    """Return a letter for each entrant's name, first for those that `sat` (by their digests), so that none is skipped.

    They stand in the order of their digests, from which nobody learns anything.
    """
    order = sorted(known.entrants.values(), key=lambda one: (one.digest not in sat, one.digest))
    return {one.name: _letter(place) for place, one in enumerate(order)}


def _letter(place: int) -> str:
    return (_letter(place // len(ALPHABET) - 1) if place >= len(ALPHABET) else "") + ALPHABET[place % len(ALPHABET)]


@dataclass(frozen=True, slots=True)
class Hidden:
    """What finds names in texts, each in a group of its own, with the letter that stands in the place of each."""

    found: re.Pattern[str]
    letters: tuple[str, ...]

    def out_of(self, text: str) -> str:
        """Return a text with every name replaced by its letter, in brackets."""
        return self.found.sub(lambda match: f"[{self.letters[(match.lastindex or 1) - 1]}]", text)


@dataclass(frozen=True)
class Redaction:
    """What is shown: texts of `questions`, texts of `replies`, and whether entrants are `anonymous`.

    Replies tell what was asked, so without questions there are none. `names` are what entrants are known by, each with
    the letter in its place, `letters` those of their own names.
    """

    questions: bool = True
    replies: bool = True
    anonymous: bool = False
    names: Mapping[str, str] = field(default_factory=dict)
    letters: Mapping[str, str] = field(default_factory=dict)

    def __post_init__(self) -> None:
        """Leave replies out where questions are."""
        object.__setattr__(self, "replies", self.replies and self.questions)

    def knowing(self, known: Entrants, sat: Collection[str]) -> Redaction:
        """Return the same, which knows by what names the entrants go, of whom those with these digests sat."""
        if not self.anonymous:
            return self
        given = letters(known, sat)
        names = {word: given[one.name] for one in known.entrants.values() for word in _known_by(one)}
        return replace(self, names=names, letters=given)

    def suite(self, suite: Suite) -> Suite:
        """Return a suite as it is shown."""
        if self.questions:
            return suite
        questions = tuple(self.question(one) for one in suite.questions)
        return replace(suite, questions=questions, about="", system=None, rubrics={}, templates=())

    def question(self, question: Question) -> Question:
        """Return a question as it is shown: its id, category, tags, level and weight remain."""
        if self.questions:
            return question
        return replace(
            question,
            ask=Ask(None, ()),
            texts=(),
            marking=Marking(question.marking.scheme),
            why=None,
            source=None,
            retired_because=None,
            second_try=None,
            proofs=type(question.proofs)(),
            drawn=None,
        )

    def items(self, table: ItemTable) -> ItemTable:
        """Return what questions are worth as it is shown: the reasons quote answers and keys."""
        if self.replies:
            return table
        rows = tuple(replace(row, reason="", rival=None) for row in table.rows)
        return replace(table, rows=rows)

    def editions(self, rows: Sequence[HistoryRow]) -> list[HistoryRow]:
        """Return editions as they are shown: without questions only what kinds of changes there were."""
        return [row if self.questions else self._edition(row) for row in rows]

    def _edition(self, row: HistoryRow) -> HistoryRow:
        suite, diff = self.suite(row.suite), row.diff
        if suite.seal is not None:
            suite = replace(suite, seal=replace(suite.seal, note=""))
        if diff is not None:
            diff = replace(diff, changes=tuple(replace(one, before="", after="", words="") for one in diff.changes))
        return HistoryRow(suite, diff)

    def reply(self, view: ReplyView) -> ReplyView:
        """Return a reply as it is shown."""
        if not self.replies:
            return self._without_text(view)
        hidden = self._hidden_in(view.question)
        if hidden is None:
            return view
        held = view.reply.held
        mark = None if held.mark is None else _mark_under(held.mark, view.reply.text, hidden)
        reply = _masked(replace(view.reply, held=replace(held, mark=None), served_model=None), hidden)
        return replace(
            view,
            reply=replace(reply, held=replace(reply.held, mark=mark)),
            verdicts=_masked(view.verdicts, hidden),
            decisions=_masked(view.decisions, hidden),
            runs=_masked(view.runs, hidden),
        )

    def _without_text(self, view: ReplyView) -> ReplyView:
        held = view.reply.held
        mark = held.mark
        if mark is not None:
            mark = Mark(mark.score, mark.verdict, "", form_kept=mark.form_kept, sure=mark.sure, outcome=mark.outcome)
        reply = replace(view.reply, held=replace(held, mark=mark), text="", reasoning=None, cause=None)
        if self.anonymous:
            reply = replace(reply, served_model=None)
        question = self.question(view.question)
        return replace(view, question=question, reply=reply, verdicts=(), decisions=(), runs=())

    def _hidden_in(self, question: Question) -> Hidden | None:
        """Return what finds names in replies to a question; a word that the question itself has is none there."""
        own = " ".join((question.text, *(text for _, text in question.marking.choices), str(question.marking.key)))
        words = [name for name in self.names if not _word(name).search(own)]
        if not words:
            return None
        longest_first = sorted(words, key=len, reverse=True)
        found = re.compile("|".join(f"({_word(name).pattern})" for name in longest_first), re.IGNORECASE)
        return Hidden(found, tuple(self.names[name] for name in longest_first))


def _known_by(entrant: Entrant) -> list[str]:
    """Return the words by which an entrant is known."""
    words = [entrant.name, entrant.title, entrant.model, entrant.build or ""]
    return [word for word in words if len(word) >= LEAST_HIDDEN]


def _word(name: str) -> re.Pattern[str]:
    return re.compile(rf"(?<!\w){re.escape(name)}(?!\w)", re.IGNORECASE)


def _mark_under(mark: Mark, text: str, hidden: Hidden) -> Mark:
    """Return a mark with names out of its texts, its place still that of the answer."""

    def moved(place: int | None) -> int | None:
        return None if place is None else len(hidden.out_of(text[:place]))

    return replace(_masked(mark, hidden), start=moved(mark.start), end=moved(mark.end))


def _masked(value: Anything, hidden: Hidden) -> Anything:
    """Return a value with every name in its texts, however deep, replaced by the letter in its place."""
    found: Any = value
    if isinstance(value, str):
        return hidden.out_of(value) if type(value) is str else value  # type: ignore[return-value]
    if is_dataclass(value) and not isinstance(value, type):
        own = {one.name: getattr(value, one.name) for one in fields(value) if one.init}
        new = {name: _masked(part, hidden) for name, part in own.items()}
        changed: Any = value
        return value if all(new[name] is own[name] for name in own) else replace(changed, **new)
    if isinstance(value, tuple):
        parts = tuple(_masked(one, hidden) for one in value)
        found = value if all(one is two for one, two in zip(parts, value, strict=True)) else parts
    elif isinstance(value, list):
        found = [_masked(one, hidden) for one in value]
    elif isinstance(value, Mapping):
        found = {_masked(name, hidden): _masked(one, hidden) for name, one in value.items()}
    return found  # type: ignore[no-any-return]
