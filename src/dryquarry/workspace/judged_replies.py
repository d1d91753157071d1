"""Replies with all that was said of them: their marks, the judges' verdicts, people's decisions, draws for audits."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, field, replace

from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import Load
from dryquarry.ledger.decisions import (
    AMENDED,
    AUDIT,
    REPEAT,
    Decision,
    Draw,
    decisions_on,
    draws_of,
)
from dryquarry.ledger.queries import full_replies, sitter_id_of, slots_of
from dryquarry.ledger.records import FullReply, Slot
from dryquarry.ledger.store import Ledger
from dryquarry.ledger.verdicts import StoredVerdict, verdicts_of
from dryquarry.marking import registry
from dryquarry.marking.judging.panel import Opinion, share_of
from dryquarry.marking.model import SAME_SCORE, Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.rubrics import Rubric
from dryquarry.marking.schemes.rubric import pass_mark
from dryquarry.marking.works.results import RunResult
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.judge_requests import to_judge
from dryquarry.workspace.panels import needs_judge
from dryquarry.workspace.works import results_for

DISPUTED_SPREAD = 0.2


@dataclass(frozen=True, slots=True)
class JudgedReply:
    """A reply, whose it is, and all that was said of it under the question's present key."""

    question: Question
    slot: Slot
    entrant: Entrant
    reply: FullReply
    verdicts: tuple[StoredVerdict, ...] = ()
    decisions: tuple[Decision, ...] = ()
    draw: Draw | None = None
    request_digest: str | None = None
    results: Mapping[str, RunResult] = field(default_factory=dict)

    @property
    def reply_id(self) -> int:
        """The reply's row in the ledger."""
        return self.reply.held.reply_id

    @property
    def mark(self) -> Mark | None:
        """The reply's present mark."""
        return self.reply.held.mark

    @property
    def rubric(self) -> Rubric | None:
        """The rubric that judges mark the question by, if they do."""
        part = registry.rubric_part(self.question.marking)
        return part.rubric if part is not None else None

    @property
    def by_judge(self) -> bool:
        """Whether its mark stands on what judges said, and not on a person."""
        mark = self.mark
        return bool(self.opinions()) and mark is not None and mark.verdict is not Verdict.OPEN and not mark.by_person

    def opinions(self, *, again: bool = False) -> list[Opinion]:
        """Return the readable judgements, the latest of each judge's each time; `again` those that measure it."""
        latest: dict[tuple[str, int], Opinion] = {}
        for one in self.verdicts:
            if one.points is not None and one.again is again and self._fits(one):
                latest[one.judge, one.time] = Opinion(one.judge, one.time, one.points)
        return list(latest.values())

    def _fits(self, verdict: StoredVerdict) -> bool:
        """Tell whether a verdict is by the question, key and criteria that there are now."""
        return self.rubric is not None and verdict.request_digest == self.request_digest

    def shares(self) -> list[float]:
        """Return the share of the points that each judgement gives."""
        return [share_of(one, self.rubric) for one in self.opinions() if self.rubric is not None]

    @property
    def disputed(self) -> bool:
        """Whether its judges are apart: in verdict, or by more than a fifth of the points."""
        shares = self.shares()
        part = registry.rubric_part(self.question.marking)
        if len(shares) < 2 or part is None:
            return False
        passing = sum(share >= pass_mark(part) - SAME_SCORE for share in shares)
        return 0 < passing < len(shares) or max(shares) - min(shares) > DISPUTED_SPREAD + SAME_SCORE

    def decided_by(self, person: str) -> Decision | None:
        """Return a person's latest decision on the reply, repeats aside."""
        own = [one for one in self.decisions if one.person == person and one.why_asked != REPEAT]
        return own[-1] if own else None

    def audited(self) -> Decision | None:
        """Return the decision that corrects scores: the first person's on a random draw, as amended, or None."""
        first = next((one for one in self.decisions if one.why_asked == AUDIT), None)
        if first is None or self.draw is None:
            return None
        amended = [one for one in self.decisions if one.person == first.person and one.why_asked == AMENDED]
        return amended[-1] if amended else first

    def by_people(self) -> list[Decision]:
        """Return each person's standing decision, first decisions and second ones, as amended."""
        people = dict.fromkeys(one.person for one in self.decisions)
        return [one for person in people if (one := self.decided_by(person)) is not None]


def judged_replies(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], load: Load) -> list[JudgedReply]:
    """Return the current first tries to a suite's questions that came whole, by question, entrant and trial."""
    questions = suite.asked()
    slots = slots_of(ledger, questions)
    found: list[JudgedReply] = []
    for entrant in entrants:
        sitter_id = sitter_id_of(ledger, entrant.digest)
        for reply in full_replies(ledger, slots, sitter_id) if sitter_id is not None else []:
            place = reply.held.position
            if reply.held.outcome is not Outcome.FAILED and slots[place].marking_id is not None:
                found.append(JudgedReply(questions[place], slots[place], entrant, reply))
    ids = [one.reply_id for one in found]
    verdicts: dict[int, list[StoredVerdict]] = {}
    for verdict in verdicts_of(ledger, ids):
        verdicts.setdefault(verdict.reply_id, []).append(verdict)
    decisions: dict[tuple[int, int], list[Decision]] = {}
    for decision in decisions_on(ledger, ids):
        decisions.setdefault((decision.reply_id, decision.marking_id), []).append(decision)
    draws = {(one.reply_id, one.marking_id): one for one in draws_of(ledger, ids)}
    places = {question.id: place for place, question in enumerate(questions)}
    digests = {
        question.id: to_judge(0, 0, question, "", load).request_digest
        for question in questions
        if needs_judge(question)
    }
    whole = []
    for one in found:
        key = (one.reply_id, one.slot.marking_id or 0)
        said, decided = tuple(verdicts.get(one.reply_id, ())), tuple(decisions.get(key, ()))
        digest = digests.get(one.question.id)
        results = results_for(ledger, one.question, one.reply.text)
        whole.append(
            replace(one, verdicts=said, decisions=decided, draw=draws.get(key), request_digest=digest, results=results)
        )
    return sorted(whole, key=lambda one: places[one.question.id])
