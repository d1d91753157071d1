"""What the ledger gives back: small frozen records, one for each kind of question put to it."""

from __future__ import annotations

from dataclasses import dataclass

from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.rubric import Point


@dataclass(frozen=True, slots=True)
class Received:
    """What came back for one request; `cause` says why when the outcome is not `answered`.

    `tokens_estimated` says that the service did not count the output tokens, `earlier_turns` are the replies to
    the turns before the last.
    """

    outcome: Outcome
    text: str = ""
    reasoning: str | None = None
    finish: str | None = None
    cause: str | None = None
    input_tokens: int | None = None
    output_tokens: int | None = None
    served_model: str | None = None
    tokens_estimated: bool = False
    fingerprint: str | None = None
    earlier_turns: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class Reply:
    """A reply as it goes to the ledger; `seconds` from sending to the last byte, `received_at` in UTC.

    Times are those of the last of its `tries`, absent for a reply collected by hand. `follows` is the row of the
    first try that a second try was made after.
    """

    ask_id: int
    trial: int
    received: Received
    seconds: float | None
    received_at: str
    first_token_s: float | None = None
    tries: int = 1
    follows: int | None = None


@dataclass(frozen=True, slots=True)
class MarkedReply:
    """A reply with the marks it has already, each with the row of the marking it was given by."""

    reply: Reply
    marks: tuple[tuple[int, Mark], ...] = ()


@dataclass(frozen=True, slots=True)
class ServedAs:
    """What a service says that it is: the model name in its answers, and its fingerprint where it gives one."""

    model: str
    fingerprint: str | None = None

    def __str__(self) -> str:
        return f"{self.model} (fingerprint {self.fingerprint})" if self.fingerprint else self.model


@dataclass(frozen=True, slots=True)
class Judged:
    """What a judge said of one reply: its points, or None and why there are none.

    `text` is its last answer; tokens and seconds are those of all attempts.
    """

    reply_id: int
    marking_id: int
    points: tuple[Point, ...] | None
    problem: str | None
    text: str
    attempts: int
    seconds: float
    input_tokens: int = 0
    output_tokens: int = 0


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
    """A current reply with its current mark under the present key; mark fields are None without one.

    `position` is the question's place in the suite asked about. `received_at` is UTC, times in seconds.
    """

    position: int
    reply_id: int
    trial: int
    outcome: Outcome
    score: float | None
    verdict: Verdict | None
    seconds: float | None
    input_tokens: int | None
    output_tokens: int | None
    because: str | None = None
    form_kept: bool | None = None


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
    received_at: str
    answer: str | None
    read_by: str | None
    reason: str | None


@dataclass(frozen=True, slots=True)
class HeldTrial:
    """That there is a reply: the question's place in the suite, the trial, and how it ended."""

    position: int
    trial: int
    outcome: Outcome


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
    """A reply that waits for a mark: the question's place in the suite, and what there is to mark."""

    position: int
    reply_id: int
    outcome: Outcome
    text: str


@dataclass(frozen=True, slots=True)
class NewMark:
    """A mark to be stored for a reply, in place of the current one under the same key.

    `because` is set for a mark by a person, `superseding` says why the current one gives way.
    """

    reply_id: int
    marking_id: int
    score: float | None
    verdict: Verdict
    reason: str
    answer: str | None
    read_by: str | None
    start: int | None = None
    form_kept: bool | None = None
    because: str | None = None
    superseding: str = "marked again"


@dataclass(frozen=True, slots=True)
class KnownMark:
    """A mark as the ledger holds it; `because` is set where a person gave it."""

    score: float | None
    verdict: Verdict
    reason: str
    answer: str | None
    because: str | None


@dataclass(frozen=True, slots=True)
class StoredReply:
    """A reply to be marked again: its mark under the present key, and its latest under any other."""

    position: int
    reply_id: int
    trial: int
    outcome: Outcome
    text: str
    present: KnownMark | None
    earlier: KnownMark | None


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
