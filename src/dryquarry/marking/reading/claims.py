"""What a reply claims, and in answer to what: a value, where it stands, and how it is meant."""

from __future__ import annotations

from dataclasses import dataclass
from enum import StrEnum
from typing import Generic, TypeVar

Value = TypeVar("Value", covariant=True)


class Stance(StrEnum):
    """How a statement is meant; only what is asserted or hedged can be a final answer."""

    ASSERTED = "asserted"
    HEDGED = "hedged"
    DENIED = "denied"
    WITHDRAWN = "withdrawn"
    SUPPOSED = "supposed"
    REPORTED = "reported"
    ASKED = "asked"
    CHECKED = "checked"
    BOUND = "a bound"
    ASIDE = "aside"


class PlaceKind(StrEnum):
    """Where in a reply something stands, the most telling first."""

    ANSWER_LINE = "answer line"
    BOXED = "boxed"
    JSON_FIELD = "JSON field"
    LABEL = "label"
    STATEMENT = "statement"
    FIRST_WORDS = "first words"
    CONCLUSION = "conclusion"
    SENTENCE = "sentence"
    LIST = "list"


# Places at which a reply is taken at its word: where one of them states something else, or nothing, no weaker
# one is looked at.
TELLING = frozenset((PlaceKind.ANSWER_LINE, PlaceKind.BOXED, PlaceKind.JSON_FIELD, PlaceKind.LABEL))


@dataclass(frozen=True, slots=True)
class Place:
    """A stretch of the view in which an answer may stand; `sentence` is the number of the sentence it begins in."""

    kind: PlaceKind
    start: int
    end: int
    sentence: int

    @property
    def telling(self) -> bool:
        """Whether the reply says by the place itself that the answer stands here."""
        return self.kind in TELLING


@dataclass(frozen=True, slots=True)
class Found(Generic[Value]):
    """A value in a stretch of the view, before its stance is known; `denied` are words in it that deny it."""

    value: Value
    start: int
    end: int
    denied: str = ""


@dataclass(frozen=True, slots=True)
class Claim(Generic[Value]):
    """A value that a reply states: where, with which stance, and the words that tell the stance."""

    value: Value
    start: int
    end: int
    place: Place
    stance: Stance = Stance.ASSERTED
    cue: str = ""

    @property
    def stands(self) -> bool:
        """Whether the claim can be a final answer."""
        return self.stance in (Stance.ASSERTED, Stance.HEDGED)


@dataclass(frozen=True, slots=True)
class Question:
    """What the readers know of a question: its text and its answer line, never its key."""

    asked: str = ""
    answer_line: str | None = None
