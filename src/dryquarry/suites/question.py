"""What a suite and a question are, and what of them reaches the model."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field
from enum import StrEnum

from dryquarry.marking.model import Marking, Rubric

DRAFT = "draft"


class State(StrEnum):
    """`PILOT` questions are asked and marked but not scored; `RETIRED` ones are not asked."""

    LIVE = "live"
    PILOT = "pilot"
    RETIRED = "retired"


@dataclass(frozen=True, slots=True)
class Ask:
    """What reaches the model from the suite: system text (or None) and the user's turns."""

    system: str | None
    turns: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Proofs:
    """Sample replies that must pass, and sample replies that must fail."""

    passing: tuple[str, ...] = ()
    failing: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Question:
    """What is asked, how the reply is marked, and where in which file it stands.

    `ask` is complete: options and the request for an answer line are part of its text. `ask_digest` and
    `mark_digest` identify what is asked and how it is marked (see `dryquarry.suites.digests`).
    """

    id: str
    ask: Ask
    marking: Marking
    ask_digest: str
    mark_digest: str
    text: str
    category: str | None = None
    tags: tuple[str, ...] = ()
    family: str | None = None
    level: str | None = None
    weight: float = 1.0
    why: str | None = None
    source: str | None = None
    state: State = State.LIVE
    retired_because: str | None = None
    proofs: Proofs = Proofs()
    file: str = ""
    line: int | None = None


@dataclass(frozen=True, slots=True)
class Suite:
    """A named set of questions, as one edition or the draft holds them."""

    name: str
    title: str
    questions: tuple[Question, ...]
    about: str = ""
    edition: str = DRAFT
    system: str | None = None
    answer_line: str | None = None
    rubrics: Mapping[str, Rubric] = field(default_factory=dict)

    @property
    def reference(self) -> str:
        """The suite with its edition, as `name@edition`."""
        return f"{self.name}@{self.edition}"

    def asked(self) -> tuple[Question, ...]:
        """Return the questions that are put to entrants: live and pilot."""
        return tuple(question for question in self.questions if question.state is not State.RETIRED)

    def scored(self) -> tuple[Question, ...]:
        """Return the questions that count on a board: the live ones."""
        return tuple(question for question in self.questions if question.state is State.LIVE)


def full_text(text: str, choices: tuple[tuple[str, str], ...], answer_line: str | None) -> str:
    """Return the question as it is put: text, options one a line, and the request for an answer line."""
    parts = [text]
    if choices:
        parts.append("\n".join(f"{letter}) {option}" for letter, option in choices))
    if answer_line:
        parts.append(f'Give your final answer on a last line that begins with "{answer_line}"')
    return "\n\n".join(parts)
