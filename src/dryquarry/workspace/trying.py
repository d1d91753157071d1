"""Marking a text as if it were a reply, to see how it is read; nothing is stored."""

from __future__ import annotations

from dataclasses import dataclass

from dryquarry.errors import UsageFault, closest
from dryquarry.marking.model import Mark
from dryquarry.marking.outcomes import Outcome, is_refusal
from dryquarry.marking.reading import Found, places
from dryquarry.marking.registry import SCHEMES
from dryquarry.suites.question import Question, Suite

MOST_PLACES = 12


@dataclass(frozen=True, slots=True)
class Tried:
    """How a text is read and marked: the places where an answer may stand, in the order in which they are looked at."""

    suite: Suite
    question: Question
    text: str
    outcome: Outcome
    places: tuple[Found, ...]
    mark: Mark


def try_text(suite: Suite, question_id: str, text: str) -> Tried:
    """Return how a text is marked as a reply to a question; raises UsageFault when there is no such question."""
    known = {question.id: question for question in suite.questions}
    if question_id not in known:
        raise UsageFault(f"suite '{suite.name}' has no question '{question_id}'{closest(question_id, known)}")
    question = known[question_id]
    answer_line = question.marking.answer_line
    outcome = Outcome.REFUSED if is_refusal(text, answer_line) else Outcome.ANSWERED
    mark = question.mark(outcome, text)
    assert mark is not None  # only a failed reply has none
    found = []
    for place in () if SCHEMES[question.marking.scheme].reads_whole else places(text, answer_line):
        found.append(place)
        if len(found) == MOST_PLACES:
            break
    return Tried(suite, question, text, outcome, tuple(found), mark)
