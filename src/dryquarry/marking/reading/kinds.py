"""What a kind of value is to those who settle which claim stands, and what they say of a reply."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import dataclass, field
from typing import Generic, Protocol, TypeVar

from dryquarry.marking.reading.claims import Claim, Found, Place, Question
from dryquarry.marking.reading.likely import Likelihood
from dryquarry.marking.reply.structure import Reply

Value = TypeVar("Value")
# A sentence that takes up so much of a question answers it.
LEAST_TAKEN_UP = 0.5


@dataclass(frozen=True, slots=True)
class Choice(Generic[Value]):
    """What of the claims at one place is its answer: the first stands, `others` stand beside it as further answers.

    `rivals` are claims that somebody else might take for the answer.
    """

    final: Claim[Value] | None
    others: tuple[Claim[Value], ...] = ()
    rivals: tuple[Claim[Value], ...] = ()


@dataclass(frozen=True, slots=True)
class Weight:
    """How far a sentence takes up what was asked, from 0 to 1, whether its value is set in bold, and the only one."""

    taken_up: float
    bold: bool = False
    single: bool = True


class Kind(Protocol[Value]):
    """A kind of value: how it is found in a stretch of a reply, and which of several in one stretch is meant."""

    @property
    def lists(self) -> bool:
        """Whether a denial reaches through the commas of a list."""
        ...

    @property
    def likelihood(self) -> Likelihood[Value] | None:
        """How claims of the kind are compared by fitted weights; None where they are not."""
        ...

    def find(self, reply: Reply, place: Place) -> list[Found[Value]]:
        """Return the values in a stretch, in order."""
        ...

    def choose(self, reply: Reply, place: Place, claims: Sequence[Claim[Value]], question: Question) -> Choice[Value]:
        """Return which of the claims at a place is its answer."""
        ...

    def same(self, first: Value, second: Value) -> bool:
        """Tell whether two values are one answer."""
        ...

    def most(self, reply: Reply, place: Place, question: Question) -> float:
        """Return the most that `weigh` may say a sentence takes up of what was asked; quick to tell."""
        ...

    def weigh(self, reply: Reply, place: Place, question: Question) -> Weight | None:
        """Return how likely a sentence is to give the answer; None where there is no value in it."""
        ...

    def more_places(self, reply: Reply, answers: Sequence[bool]) -> Iterator[Place]:
        """Yield places of more than a sentence; `answers` tells which sentences may hold an answer."""
        ...


@dataclass(frozen=True, slots=True)
class Settled(Generic[Value]):
    """The claim that stands, by which rule, what stands beside it, and all claims that were looked at."""

    final: Claim[Value] | None
    rule: str
    place: Place | None = None
    others: tuple[Claim[Value], ...] = ()
    rivals: tuple[Claim[Value], ...] = ()
    claims: tuple[Claim[Value], ...] = field(default=())
