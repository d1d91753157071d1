"""What the standings are about: the questions of a suite, and single results of them."""

from __future__ import annotations

from dataclasses import dataclass

from dryquarry.marking.model import Verdict
from dryquarry.marking.outcomes import Outcome


@dataclass(frozen=True, slots=True)
class Result:
    """One reply to one question, with its mark; `score` and `verdict` are None while it has no mark.

    `seconds` is the whole time the reply took, `first_token_s` that to its first token, `cost` is in the entrant's own
    currency. `corrected` marks were set by a person; `form_kept` tells whether the answer stands where it was asked
    for. A mark that is not `sure` might come out otherwise if the reply were read in another defensible way; `answer`
    is what was read.
    """

    question: str
    trial: int
    outcome: Outcome
    score: float | None
    verdict: Verdict | None
    seconds: float | None = None
    first_token_s: float | None = None
    output_tokens: int | None = None
    cost: float | None = None
    corrected: bool = False
    form_kept: bool | None = None
    sure: bool = True
    answer: str | None = None


@dataclass(frozen=True, slots=True)
class Item:
    """A question as the standings see it: its id, its weight, the groups that it belongs to.

    Scores are also shown by `category`; questions of one `family` are variants of each other, and count as one where
    it is said how sure a number is; one with a `twist` changes the original of its family in that way. `words` is how
    long its text is, `suite` is set where there are several. A `pilot` question is shown apart and counts for nothing.
    """

    question: str
    weight: float = 1.0
    category: str | None = None
    pilot: bool = False
    family: str | None = None
    tags: tuple[str, ...] = ()
    level: str | None = None
    twist: str | None = None
    scheme: str | None = None
    words: int | None = None
    suite: str | None = None
    language: str | None = None
