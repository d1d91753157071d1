"""What came back: replies as they were received, and what judges said of them."""

from __future__ import annotations

from dataclasses import dataclass

from dryquarry.marking.judging.verdicts import Point
from dryquarry.marking.outcomes import Outcome


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
class ServedAs:
    """What a service says that it is: the model name in its answers, and its fingerprint where it gives one."""

    model: str
    fingerprint: str | None = None

    def __str__(self) -> str:
        return f"{self.model} (fingerprint {self.fingerprint})" if self.fingerprint else self.model


@dataclass(frozen=True, slots=True)
class Judged:
    """What a judge said of one reply: its points, or None and why there are none.

    `text` is its last answer; tokens and seconds are those of all attempts. It is its `time`-th judgement of the reply;
    `request` is what it was sent, `request_digest` of what that depends on beside the reply. `steering` says in which
    ways the reply speaks to its judge. One asked `again` measures the judge and is no part of the mark.
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
    time: int = 1
    request: str = ""
    request_digest: str | None = None
    steering: tuple[str, ...] = ()
    again: bool = False
