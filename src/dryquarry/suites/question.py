"""What a suite and a question are, and what of them reaches the model."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace
from enum import StrEnum
from typing import Any, overload

from dryquarry.marking.model import Mark, Marker, Marking, unmarked
from dryquarry.marking.outcomes import Outcome, Treatment, mark_reply, outcome_of
from dryquarry.marking.registry import SCHEMES
from dryquarry.marking.rubrics import Rubric
from dryquarry.suites.ask import Ask
from dryquarry.suites.digests import ask_content, canonical_json, mark_content, said, text_digest
from dryquarry.suites.templates import Template

DRAFT = "draft"
NO_ANSWER_LINE = "none"


class State(StrEnum):
    """`PILOT` questions are asked and marked but not scored; `RETIRED` ones are not asked."""

    LIVE = "live"
    PILOT = "pilot"
    RETIRED = "retired"


@dataclass(frozen=True, slots=True)
class Drawn:
    """From which template, and with which values of its parameters, a question was drawn."""

    template: str
    values: Mapping[str, Any]


@dataclass(frozen=True, slots=True)
class Proofs:
    """Sample replies that must pass, and sample replies that must fail."""

    passing: tuple[str, ...] = ()
    failing: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Question:
    """What is asked, how the reply is marked, and where in which file it stands.

    `ask` is complete: options and the request for an answer line are part of its text; `texts` are the
    turns as the author wrote them. `answer_line` is what the question has in place of the suite's: a line of its own,
    or "none"; None where the suite's holds. `twist` says what a variant does to the original of its family,
    `language` in which one it is asked. `marker` marks one reply text, prepared once from `marking`.
    """

    id: str
    ask: Ask
    marking: Marking
    texts: tuple[str, ...]
    answer_line: str | None = None
    category: str | None = None
    tags: tuple[str, ...] = ()
    family: str | None = None
    twist: str | None = None
    language: str | None = None
    level: str | None = None
    weight: float = 1.0
    why: str | None = None
    source: str | None = None
    state: State = State.LIVE
    retired_because: str | None = None
    second_try: str | None = None
    proofs: Proofs = Proofs()
    drawn: Drawn | None = None
    file: str = ""
    line: int | None = None
    marker: Marker = field(default=unmarked, compare=False, repr=False)
    # Worked out when first asked for: checking a large suite needs none of them.
    _digests: list[str] = field(default_factory=list, init=False, compare=False, repr=False)

    @property
    def ask_digest(self) -> str:
        """What identifies exactly what reaches the model."""
        return self._both_digests()[0]

    @property
    def mark_digest(self) -> str:
        """What identifies how a reply is marked."""
        return self._both_digests()[1]

    def mark(self, outcome: Outcome, text: str) -> Mark | None:
        """Return the mark of a reply, with how its asking ended once its text is read; None for one that failed."""
        treatments = self.marking.outcomes
        outcome = outcome_of(outcome, text, self.marking.answer_line)
        if outcome is Outcome.REFUSED and SCHEMES[self.marking.scheme].marks_refusals:
            treatments = {**treatments, outcome: Treatment.MARK}
        mark = mark_reply(self.marker, outcome, text, treatments)
        return None if mark is None else replace(mark, outcome=str(outcome))

    def _both_digests(self) -> list[str]:
        if not self._digests:
            self.canonical_texts()
        return self._digests

    def canonical_texts(self) -> tuple[str, str]:
        """Return what the two digests cover, as canonical JSON: what reaches the model, and how a reply is marked."""
        texts = canonical_json(ask_content(self.ask)), canonical_json(mark_content(self.marking))
        if not self._digests:
            self._digests.extend(text_digest(text) for text in texts)
        return texts

    @property
    def way(self) -> str:
        """How a reply is marked, in words: "number (abs: 0.005, unit: EUR)"."""
        told = SCHEMES[self.marking.scheme].way if self.marking.scheme in SCHEMES else None
        if told is not None:
            return told(self.marking)
        options = ", ".join(f"{name}: {said(value)}" for name, value in sorted(self.marking.options.items()))
        return self.marking.scheme + (f" ({options})" if options else "")

    @property
    def text(self) -> str:
        """The author's text; several turns are set apart by a blank line."""
        return "\n\n".join(self.texts)


class LazyQuestions(Sequence[Question]):
    """Questions that are read when they are looked at and not kept: what a run needs of a very large edition.

    `read` gives the question at a place of the edition; `retired` are the places of those not asked.
    """

    def __init__(self, read: Callable[[int], Question], places: Sequence[int], retired: frozenset[int]):
        self._read = read
        self._places = places
        self._retired = retired

    def __len__(self) -> int:
        return len(self._places)

    @overload
    def __getitem__(self, index: int) -> Question: ...

    @overload
    def __getitem__(self, index: slice) -> Sequence[Question]: ...

    def __getitem__(self, index: int | slice) -> Question | Sequence[Question]:
        if isinstance(index, slice):
            return tuple(self._read(place) for place in self._places[index])
        return self._read(self._places[index])

    def without_retired(self) -> LazyQuestions:
        """Return those that are asked, read as lazily."""
        if not self._retired:
            return self
        places = [place for place in self._places if place not in self._retired]
        return LazyQuestions(self._read, places, frozenset())


@dataclass(frozen=True, slots=True)
class Seal:
    """What the header of a sealed edition says of it; `sealed_at` is UTC, the digests are hexadecimal.

    `content_digest` covers what the author wrote (templates, not the instances drawn from them).
    """

    number: int
    sealed_at: str
    note: str
    digest: str
    content_digest: str
    suite: str


@dataclass(frozen=True, slots=True)
class Suite:
    """A named set of questions, as one edition or the draft holds them.

    The questions drawn from `templates` with `seed` are among `questions`.
    """

    name: str
    title: str
    questions: Sequence[Question]
    about: str = ""
    edition: str = DRAFT
    system: str | None = None
    answer_line: str | None = None
    rubrics: Mapping[str, Rubric] = field(default_factory=dict)
    outcomes: Mapping[str, str] = field(default_factory=dict)
    form_required: bool = False
    templates: tuple[Template, ...] = ()
    seed: int = 1
    seal: Seal | None = None

    @property
    def reference(self) -> str:
        """The suite with its edition, as `name@edition`."""
        return f"{self.name}@{self.edition}"

    def asked(self) -> Sequence[Question]:
        """Return the questions that are put to entrants: live and pilot."""
        if isinstance(self.questions, LazyQuestions):
            return self.questions.without_retired()
        return tuple(question for question in self.questions if question.state is not State.RETIRED)

    def retired_count(self) -> int:
        """Return how many questions are retired, and so no longer asked."""
        return len(self.questions) - len(self.asked())

    def scored(self) -> tuple[Question, ...]:
        """Return the questions that count on a board: the live ones."""
        return tuple(question for question in self.questions if question.state is State.LIVE)

    def pilots(self) -> tuple[Question, ...]:
        """Return the questions that are asked and marked but not scored."""
        return tuple(question for question in self.questions if question.state is State.PILOT)


def full_text(text: str, choices: tuple[tuple[str, str], ...], answer_line: str | None) -> str:
    """Return the question as it is put: text, options one a line, and the request for an answer line."""
    parts = [text]
    if choices:
        parts.append("\n".join(f"{letter}) {option}" for letter, option in choices))
    if answer_line:
        parts.append(f'Give your final answer on a last line that begins with "{answer_line}"')
    return "\n\n".join(parts)


def second_try_text(question: Question, reason: str, answer: str | None) -> str:
    """Return what is said after a failed first try, with the mark's `{reason}` and the `{answer}` read in place."""
    text = question.second_try or ""
    return text.replace("{reason}", reason).replace("{answer}", answer or "")
