"""What the ledger gives back: small frozen records, one for each kind of question put to it."""

from __future__ import annotations

from dataclasses import dataclass

from dryquarry.marking.model import Mark
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Reply


@dataclass(frozen=True, slots=True)
class MarkedReply:
    """A reply with the marks it has already, each with the row of the marking it was given by."""

    reply: Reply
    marks: tuple[tuple[int, Mark], ...] = ()


@dataclass(frozen=True, slots=True)
class Slot:
    """A question as the ledger knows it: its place in the suite, and the rows of its two digests.

    `ask_id` or `marking_id` is None where the ledger has never seen the digest.
    """

    position: int
    ask_id: int | None
    marking_id: int | None


@dataclass(frozen=True, slots=True)
class HeldReply:
    """A current reply with its current mark under the present key; None without one.

    `position` is the question's place in the suite asked about. `received_at` is UTC, times in seconds.
    """

    position: int
    reply_id: int
    trial: int
    outcome: Outcome
    mark: Mark | None
    seconds: float | None
    input_tokens: int | None
    output_tokens: int | None
    received_at: str = ""


@dataclass(frozen=True, slots=True)
class FullReply:
    """A reply with all that is known of it."""

    held: HeldReply
    text: str
    reasoning: str | None
    finish: str | None
    cause: str | None
    first_token_s: float | None
    served_model: str | None


@dataclass(frozen=True, slots=True)
class HeldTrial:
    """That there is a reply: the question's place in the suite, the trial, how it ended, and when it came (UTC)."""

    position: int
    trial: int
    outcome: Outcome
    received_at: str


@dataclass(frozen=True, slots=True)
class FirstTry:
    """A reply marked a fail, with the reason and the answer read: what a second try is made after."""

    position: int
    reply_id: int
    trial: int
    text: str
    earlier_turns: tuple[str, ...]
    reason: str
    answer: str | None


@dataclass(frozen=True, slots=True)
class WaitingReply:
    """A reply that waits for a mark: the question's place in the suite, what there is to mark, and why it is open."""

    position: int
    reply_id: int
    outcome: Outcome
    text: str
    reason: str | None = None


@dataclass(frozen=True, slots=True)
class NewMark:
    """A mark to be stored for a reply, in place of the current one under the same key; `superseding` says why."""

    reply_id: int
    marking_id: int
    mark: Mark
    superseding: str = "marked again"


@dataclass(frozen=True, slots=True)
class StoredReply:
    """A reply to be marked again: its mark under the present key, and its latest under any other.

    `outcome` is how the asking ended, before the text was read.
    """

    position: int
    reply_id: int
    trial: int
    outcome: Outcome
    text: str
    present: Mark | None
    earlier: Mark | None


@dataclass(frozen=True, slots=True)
class VoidQuestion:
    """A question that counts for nobody under the key in the row `marking_id`, and why."""

    question: str
    marking_id: int
    because: str


@dataclass(frozen=True, slots=True)
class TypicalReply:
    """The means over so many replies of one entrant: output tokens, and seconds for a whole reply."""

    replies: int
    output_tokens: float
    seconds: float


@dataclass(frozen=True, slots=True)
class EarlierSitter:
    """An entrant's name with settings that are no longer those of entrants.toml, and its replies."""

    entrant: str
    digest: str
    replies: int
