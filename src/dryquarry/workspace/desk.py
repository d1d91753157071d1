"""The marking desk: what a person is asked to mark, blind and in what order, and what becomes of each decision."""

from __future__ import annotations

import random
from collections.abc import Callable, Mapping, Sequence
from dataclasses import dataclass, field, replace

from dryquarry.errors import UsageFault
from dryquarry.ledger.decisions import (
    AMENDED,
    AUDIT,
    DISPUTED,
    OPEN,
    REPEAT,
    SECOND,
    UNSURE,
    Decision,
    Draw,
    record_audit,
    record_decision,
    replaced_decisions,
    take_back_decision,
)
from dryquarry.ledger.records import NewMark
from dryquarry.ledger.store import Ledger
from dryquarry.marking.judging.by_person import Decided, criteria_of, decided
from dryquarry.marking.model import Mark, Marking, Verdict
from dryquarry.marking.registry import prepare_with
from dryquarry.marking.rubrics import Criterion
from dryquarry.standing.audits import Auditable, draw_audit
from dryquarry.suites.digests import digest
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.judged_replies import JudgedReply

DECISIONS_BETWEEN_REPEATS = 10
REPEATS = 3
# What a person decides on these settles a mark; on others it stands beside the judges'.
SETTLING = frozenset({OPEN, UNSURE})
TOKEN_LENGTH = 12


@dataclass(frozen=True, slots=True)
class DeskWish:
    """What a person wants to mark: what waits, or so many of a random `audit`, what judges dispute, second opinions."""

    audit: int | None = None
    disputed: bool = False
    second: bool = False
    seed: int = 1


@dataclass(frozen=True, slots=True)
class Paper:
    """A reply on the desk, with why it lies there; whose it is stays hidden from who marks it."""

    judged: JudgedReply
    why_asked: str

    @property
    def question(self) -> Question:
        """The question that it answers."""
        return self.judged.question

    @property
    def text(self) -> str:
        """The reply."""
        return self.judged.reply.text

    @property
    def marking(self) -> Marking:
        """How the question is marked."""
        return self.question.marking

    @property
    def criteria(self) -> tuple[Criterion, ...]:
        """What points are given for; empty where it is pass or fail."""
        return criteria_of(self.marking)

    def token(self, person: str) -> str:
        """Return what names the paper outside without telling whose reply it is; another for every person."""
        judged = self.judged
        what = (self.question.ask_digest, self.question.mark_digest, judged.entrant.digest, judged.reply.held.trial)
        return digest([person, *what, self.text, self.why_asked])[:TOKEN_LENGTH]


@dataclass(frozen=True, slots=True)
class Precedent:
    """An earlier decision of the same person on another reply to the same question."""

    decision: Decision
    text: str


def papers_for(
    ledger: Ledger, suite: Suite, replies: Sequence[JudgedReply], person: str, wish: DeskWish
) -> list[Paper]:
    """Return what a person is to mark, all replies to one question in a row, questions and replies in random order.

    An audit is drawn, and stored, unless an earlier one has left replies to mark. Raises UsageFault where more
    than one thing is wished for.
    """
    if sum((wish.audit is not None, wish.disputed, wish.second)) > 1:
        raise UsageFault("--audit, --disputed and --second are asked for one at a time")
    if wish.audit is not None:
        papers = _audit(ledger, suite, replies, wish.audit, wish.seed)
    elif wish.disputed:
        papers = [Paper(one, _disputed_as(one)) for one in replies if one.disputed and not one.decided_by(person)]
    elif wish.second:
        papers = [Paper(one, SECOND) for one in replies if one.by_people() and not one.decided_by(person)]
    else:
        papers = [Paper(one, why) for one in replies if (why := _waits_as(one)) and not one.decided_by(person)]
    return _in_random_order(papers, person, wish.seed)


def _waits_as(one: JudgedReply) -> str | None:
    """Return why a reply waits for a person, or None."""
    mark = one.mark
    if mark is None or mark.verdict is Verdict.OPEN:
        return OPEN
    return UNSURE if not mark.sure and not mark.by_person else None


def _disputed_as(one: JudgedReply) -> str:
    """Return why a disputed reply is asked about: where it is open the decision settles it."""
    return OPEN if one.mark is None or one.mark.verdict is Verdict.OPEN else DISPUTED


def _audit(ledger: Ledger, suite: Suite, replies: Sequence[JudgedReply], count: int, seed: int) -> list[Paper]:
    judged = [one for one in replies if one.by_judge]
    if not judged:
        raise UsageFault(f"{suite.reference} has no marks by judges to audit: 'dryquarry run' has them marked")
    waiting = [one for one in judged if one.draw is not None and one.audited() is None]
    if waiting:  # an audit that was begun is finished before another is drawn
        return [Paper(one, AUDIT) for one in waiting]
    own = {one.reply_id: one for one in judged}
    pool = [
        Auditable(one.reply_id, one.entrant.name, _verdict(one.mark), one.disputed, one.draw is not None)
        for one in judged
    ]
    drawn = draw_audit(pool, count, seed)
    draws = [
        Draw(one.key, own[one.key].slot.marking_id or 0, one.stratum, one.stratum_size, one.probability)
        for one in drawn
    ]
    if draws:
        record_audit(ledger, suite.name, suite.edition, seed, draws)
    # Also what the person has decided for another reason: an audit's draws are marked as draws.
    return [Paper(own[one.reply_id], AUDIT) for one in draws]


def _verdict(mark: Mark | None) -> str:
    return str(mark.verdict) if mark is not None else "none"


def _in_random_order(papers: Sequence[Paper], person: str, seed: int) -> list[Paper]:
    chance = random.Random(f"{person}/{seed}")
    questions = list(dict.fromkeys(one.question.id for one in papers))
    chance.shuffle(questions)
    shuffled = list(papers)
    chance.shuffle(shuffled)
    places = {name: place for place, name in enumerate(questions)}
    return sorted(shuffled, key=lambda one: places[one.question.id])


@dataclass
class DeskSession:
    """One person at the desk: the paper in hand, what was decided, and what is undone.

    Every decision is stored at once. After ten of them three of the person's own earlier ones lie on the desk again.
    """

    ledger: Ledger
    suite: Suite
    person: str
    replies: Sequence[JudgedReply]
    papers: list[Paper]
    clock: Callable[[], float]
    seed: int = 1
    timed: bool = True
    place: int = 0
    done: list[tuple[Paper, Decision]] = field(default_factory=list)
    _shown_at: float = 0.0
    _seconds: list[float] = field(default_factory=list)

    def __post_init__(self) -> None:
        self._chance = random.Random(f"{self.person}/{self.seed}/repeats")
        self._since_repeats = 0
        self._shown_at = self.clock()

    @property
    def paper(self) -> Paper | None:
        """The paper in hand; None when all are decided or skipped."""
        return self.papers[self.place] if self.place < len(self.papers) else None

    @property
    def remaining(self) -> int:
        """How many papers are to come, that in hand included, and those that will lie on the desk again.

        Were the latter not counted beforehand, the number would tell them when they come.
        """
        again = REPEATS * ((self._since_repeats + self.undecided) // DECISIONS_BETWEEN_REPEATS)
        return len(self.papers) - self.place + again

    @property
    def undecided(self) -> int:
        """How many papers are left that the person has not decided before."""
        return sum(one.why_asked != REPEAT for one in self.papers[self.place :])

    def seconds_left(self) -> float | None:
        """Return about how long the rest takes, by the median decision; None before there were three."""
        if len(self._seconds) < REPEATS:
            return None
        return sorted(self._seconds)[len(self._seconds) // 2] * self.remaining

    @property
    def replaced(self) -> int:
        """How many of the person's earlier decisions are about replies that others have taken the place of."""
        return replaced_decisions(self.ledger, self.suite.name, self.person)

    def decide(self, setting: str | None, points: Mapping[str, float] | None, note: str | None) -> Decision:
        """Store what was decided on the paper in hand; it stays in hand until `next`. Raises NoDecision."""
        paper = self.paper
        assert paper is not None
        what = _whole(paper, decided(paper.marking, setting, points))
        seconds = self.clock() - self._shown_at if self.timed else None
        decision = self._store(paper, paper.why_asked, what, note, seconds)
        self._seconds += [] if seconds is None else [seconds]
        self.done.append((paper, decision))
        return decision

    def amend(self, setting: str | None, points: Mapping[str, float] | None, note: str | None) -> Decision:
        """Store another decision on the paper just decided, made after the precedents were seen."""
        paper, _ = self.done[-1]
        decision = self._store(paper, AMENDED, _whole(paper, decided(paper.marking, setting, points)), note, None)
        self.done.append((paper, decision))
        return decision

    def _store(self, paper: Paper, why: str, what: Decided, note: str | None, seconds: float | None) -> Decision:
        judged = paper.judged
        assert judged.slot.marking_id is not None
        place = (judged.reply_id, judged.slot.marking_id)
        decision = Decision(*place, self.person, what.verdict, what.score, what.points, note or None, why, seconds)
        row = record_decision(self.ledger, decision)
        if paper.why_asked in SETTLING:
            self.ledger.record_marks([NewMark(*place, mark_of(decision, paper), f"decided by {self.person}")])
        return replace(decision, row=row)

    def next(self) -> None:
        """Put the paper in hand away, and lie three earlier ones on the desk where ten were decided."""
        paper = self.paper
        if paper is not None and paper.why_asked != REPEAT and self._was_decided(paper):
            self._since_repeats += 1
            if self._since_repeats >= DECISIONS_BETWEEN_REPEATS:
                self._since_repeats = 0
                self.papers[self.place + 1 : self.place + 1] = self._repeats()
        self.place += 1
        self._shown_at = self.clock()

    def skip(self) -> None:
        """Put the paper in hand at the end."""
        if self.place + 1 < len(self.papers):
            self.papers.append(self.papers.pop(self.place))
        self._shown_at = self.clock()

    def undo(self) -> Paper | None:
        """Take the last decision back and the paper in hand again; None where there is none in this session."""
        if not self.done:
            return None
        paper, decision = self.done.pop()
        take_back_decision(self.ledger, decision.row)
        if paper.why_asked in SETTLING and paper.judged.mark is not None:
            place = (decision.reply_id, decision.marking_id)
            self.ledger.record_marks([NewMark(*place, paper.judged.mark, "taken back")])
        if decision.why_asked != AMENDED:
            self.place = self.papers.index(paper)
            self._since_repeats = max(0, self._since_repeats - 1)
        self._shown_at = self.clock()
        return paper

    def precedents(self, paper: Paper) -> list[Precedent]:
        """Return the person's own decisions on other replies to the same question: for after the first decision."""
        texts = {one.reply_id: one for one in self.replies if one.question.id == paper.question.id}
        here = [decision for _, decision in self.done]
        before = [one for reply in texts.values() for one in reply.decisions if one.person == self.person]
        latest = {one.reply_id: one for one in (*before, *here) if one.reply_id in texts and one.why_asked != REPEAT}
        latest.pop(paper.judged.reply_id, None)
        return [Precedent(one, texts[one.reply_id].reply.text) for one in latest.values()]

    def own_drift(self) -> list[tuple[Decision, Decision]]:
        """Return each repeated decision of this session beside the first one on the same reply."""
        repeats = [one for _, one in self.done if one.why_asked == REPEAT]
        firsts = {**{one.reply_id: one for one in self._earlier()}, **self._firsts_here()}
        return [(firsts[one.reply_id], one) for one in repeats if one.reply_id in firsts]

    def _was_decided(self, paper: Paper) -> bool:
        return bool(self.done) and self.done[-1][0] is paper

    def _firsts_here(self) -> dict[int, Decision]:
        return {one.reply_id: one for _, one in self.done if one.why_asked not in (REPEAT, AMENDED)}

    def _earlier(self) -> list[Decision]:
        found = [one.decided_by(self.person) for one in self.replies]
        return [one for one in found if one is not None]

    def _repeats(self) -> list[Paper]:
        """Return three papers that the person decided a while ago, by chance, in place of none where there are few."""
        shown = {paper.judged.reply_id for paper, one in self.done if one.why_asked == REPEAT}
        recent = {paper.judged.reply_id for paper, _ in self.done[-REPEATS:]}
        known = {one.reply_id: one for one in self.replies}
        own = dict.fromkeys([*self._firsts_here(), *(one.reply_id for one in self._earlier())])
        pool = [known[row] for row in own if row in known and row not in shown | recent]
        return [Paper(one, REPEAT) for one in self._chance.sample(pool, min(REPEATS, len(pool)))]


def _whole(paper: Paper, what: Decided) -> Decided:
    """Return a decision on the rubric of `all` or `any` with what the other parts say of the reply."""
    if what.points is None or paper.marking.scheme not in ("all", "any"):
        return what
    whole = prepare_with(paper.marking, Mark(what.score, what.verdict, "by hand"), paper.judged.results)(paper.text)
    return Decided(whole.verdict, whole.score, what.points)


def mark_of(decision: Decision, paper: Paper) -> Mark:
    """Return the mark that a decision at the desk sets."""
    points = ""
    if decision.points:
        most = {one.id: one.most for one in paper.criteria}
        points = ", " + ", ".join(f"{name} {value:g}/{most[name]:g}" for name, value in decision.points.items())
    note = f": {decision.note}" if decision.note else ""
    return Mark(
        decision.score,
        decision.verdict,
        f"marked by {decision.person}{points}{note}",
        by=decision.person,
        because=decision.note or f"marked by hand ({paper.why_asked})",
    )
