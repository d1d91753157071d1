"""A stretch of a reply with the question that it may answer, and what the question itself counts and gives."""

from __future__ import annotations

import re
from collections.abc import Callable
from dataclasses import dataclass
from fractions import Fraction
from functools import lru_cache
from typing import TypeAlias

from dryquarry.marking.reading.claims import Claim, Place, Question
from dryquarry.marking.reading.echo import question_in, stem
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.reply.view import view_of
from dryquarry.marking.values.numbers import find_terms
from dryquarry.marking.values.quantities import Quantity

Claims: TypeAlias = list[Claim[Quantity]]


@dataclass(frozen=True, slots=True)
class Stretch:
    """Where in a reply numbers stand, and the question that they may answer."""

    reply: Reply
    place: Place
    question: Question

    @property
    def text(self) -> str:
        """The text of the whole reply, which all places index."""
        return self.reply.text

    @property
    def given(self) -> frozenset[object]:
        """The values that the question gives."""
        return numbers_asked(self.question.asked)


# Which of the numbers of a stretch are kept for its result; all of them where it does not apply.
Keep: TypeAlias = Callable[[Stretch, Claims], Claims]
SUCH = r"(?:good|whole|full|complete|entire|more|other|new|such|different)"
MORE_OR_LESS = (
    r"(?:less|more|fewer|off|cheaper|dearer|longer|shorter|older|younger|higher|lower|heavier|lighter|further|farther|"
    r"earlier|later|faster|slower|bigger|larger|smaller|greater|taller|warmer|colder|wider|deeper)\b"
)
ASKS_CHANCE = regex(
    r"\b(?:chance|probability|odds|likelihood|share|fraction|proportion|ratio|(?:what|which) part)\b", re.IGNORECASE
)


@lru_cache(maxsize=256)
def numbers_asked(asked: str) -> frozenset[object]:
    """Return the values that the question itself gives: of what is to be worked out, those that it is worked out of."""
    if _ASKS_FORM.search(asked):
        return frozenset()  # the answer is a number of the question in another form
    parts = (part for term in find_terms(view_of(asked).text) for part in _WORKED_OUT.split(term.text))
    return frozenset(term.value for part in parts for term in find_terms(part))


_ASKS_FORM = regex(
    r"\A\W*(?:express|convert|simplify|write)\s+\S*\d|"
    r"\bwhat\s+is\s+\S*\d\S*\s+as\s+(?:an?\s+)?(?:[a-z]+\s+)?(?:fraction|decimal|percentage|number)\b",
    re.IGNORECASE,
)
_WORKED_OUT = regex(
    r"\s(?:[-+−–*/×·÷^]|plus|minus|times|over|(?:divided|multiplied)\s+by|(?:raised\s+)?to\s+the(?:\s+power(?:\s+of)?)?)\s|\^"
)


@lru_cache(maxsize=256)
def how_many(asked: str) -> str | None:
    """Return the stem of what a question wants to be counted: "how many hours"."""
    match = re.search(
        rf"\b(?:how (?:many|much)|(?:what|which)\b[^.?]{{0,40}}\bnumber of) (?:{SUCH}\s+)?(?P<noun>[^\W\d_]{{3,}})",
        question_in(asked),
        re.IGNORECASE,
    )
    return stem(match["noun"]) if match else None


# "None.", "There are none left.", "No apples remain."
_NONE = regex(
    r"\W*(?:(?:so|thus|hence|therefore|in\s+the\s+end),?\s+)?(?:there\s+(?:is|are|was|were)\s+|(?:that|which|it)\s+leaves\s+|he\s+has\s+|she\s+has\s+)?"
    r"(?P<none>none|nil|nought|naught|nothing|not\s+(?:a\s+single\s+)?one|(?:no|not\s+a\s+single)\s+(?P<noun>[^\W\d_]{3,}))"
    r"(?:\s+of\s+(?:them|it|the\s+[^\W\d_]+))?(?:\s+at\s+all)?(?:\s+(?:is|are|was|were|remains?|left|over|in\s+(?:it|the\s+\w+)))*\W*",
    re.IGNORECASE,
)


def none_of(text: str, start: int, end: int, counted: str) -> Quantity | None:
    """Return the zero that a stretch in words says of what is counted: "None.", "No apples remain."."""
    said = _NONE.fullmatch(text, start, end)
    if said is None or (said["noun"] and stem(said["noun"].lower()) != counted):
        return None
    return Quantity(Fraction(0), *said.span("none"), said["none"])


@lru_cache(maxsize=256)
def counted_in(asked: str) -> frozenset[str]:
    """Return the stems of what the question itself counts: "in 10 minutes" asks for no minutes."""
    return frozenset(stem(match["noun"]) for match in re.finditer(r"\d\s+(?P<noun>[^\W\d_]{3,})", asked))
