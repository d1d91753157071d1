"""Judges against people, against themselves and against each other, from what the ledger holds of a suite."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from statistics import mean, median

from dryquarry.asking.budget import Purse
from dryquarry.asking.calling import Stop
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import Load
from dryquarry.errors import UsageFault, closest
from dryquarry.ledger.decisions import AMENDED, REPEAT, Decision
from dryquarry.ledger.store import Ledger
from dryquarry.ledger.verdicts import StoredVerdict
from dryquarry.marking.judging.panel import Opinion, counted_points, share_of
from dryquarry.marking.model import SAME_SCORE, Verdict
from dryquarry.marking.registry import rubric_part
from dryquarry.marking.rubrics import Rubric
from dryquarry.marking.schemes.rubric import pass_mark
from dryquarry.standing.agreement import Estimate, nothing
from dryquarry.standing.judge_checks import (
    Agreement,
    JudgeCheck,
    Pair,
    agreement_of,
    biases_by,
    drift_of,
    family_favour,
    length_slope,
    trust_in,
)
from dryquarry.suites.digests import text_digest
from dryquarry.suites.question import Suite
from dryquarry.workspace.around_runs import alone, in_loop
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.judge_requests import to_judge
from dryquarry.workspace.judged_replies import JudgedReply, judged_replies
from dryquarry.workspace.judges_at_work import JudgesAtWork
from dryquarry.workspace.judging import JudgeWork
from dryquarry.workspace.opening import ledger_for_reading, ledger_for_writing
from dryquarry.workspace.panels import check_priced, own_family
from dryquarry.workspace.running import Watcher
from dryquarry.workspace.selection import Selection
from dryquarry.workspace.vote_checks import first_shown_by


@dataclass(frozen=True, slots=True)
class ReviewerCheck:
    """One person at the desk: how many decisions, how they agree with themselves on repeats, and with others.

    `drift` is how much higher repeats were marked than the first time, `amended` how many decisions were changed once
    the precedents were seen, `seconds` the median time of a decision.
    """

    person: str
    decisions: int
    with_itself: Agreement | None
    drift: Estimate
    with_others: Mapping[str, Agreement]
    amended: int
    seconds: float | None


@dataclass(frozen=True, slots=True)
class JudgeReport:
    """The judges and the people of a suite's marks."""

    suite: str
    edition: str
    judges: tuple[JudgeCheck, ...]
    reviewers: tuple[ReviewerCheck, ...]


class JudgeChecks:
    """Checking the judges of one workspace."""

    def __init__(self, folder: Folder):
        self.folder = folder

    def check(self, reference: str, names: Sequence[str] = (), selection: Selection | None = None) -> JudgeReport:
        """Return how far the judges of a suite (all, or those named) agree with people and with themselves."""
        selection = selection or Selection()
        suite = selection.suite(self.folder.suite(reference))
        known = self.folder.entrants()
        people = selection.people(list(known.entrants.values()))
        with ledger_for_reading(self.folder) as ledger:
            replies = judged_replies(ledger, suite, people, self.folder.files(suite.name).load)
            return report_of(ledger, suite, replies, _chosen(names, known.judges, replies, suite), known.judges)

    def ask_again(
        self,
        reference: str,
        count: int,
        watcher: Watcher,
        names: Sequence[str] = (),
        budget: float | None = None,
    ) -> tuple[int, float]:
        """Have judges mark fixed replies once more; return how many judgements came, and what they cost.

        The replies are the same every time, so that a later marking is compared with an earlier one of the same.
        """
        suite = self.folder.suite(reference)
        known = self.folder.entrants()
        load = self.folder.files(suite.name).load
        with ledger_for_writing(self.folder) as ledger, alone(ledger):
            replies = judged_replies(ledger, suite, list(known.entrants.values()), load)
            chosen = _chosen(names, known.judges, replies, suite)
            for name in chosen:
                check_priced(known.judges.get(name), budget)
            work = [_again(known.judges[name], replies, count, load) for name in chosen if name in known.judges]
            purse = Purse(budget)
            at_work = JudgesAtWork(ledger, self.folder.bank(), load, Stop(), purse, watcher.judging)
            in_loop(at_work.all([one for one in work if one.waiting]))
            return at_work.readable, purse.spent


def _chosen(
    names: Sequence[str], judges: Mapping[str, Entrant], replies: Sequence[JudgedReply], suite: Suite
) -> list[str]:
    """Return the judges that are checked: those named, or all that have marked something here."""
    marked = dict.fromkeys(one.judge for reply in replies for one in reply.verdicts)
    for name in names:
        if name not in marked and name not in judges:
            raise UsageFault(f"there is no judge '{name}'{closest(name, [*marked, *judges])}")
    if not marked:
        raise UsageFault(f"no judge has marked a reply to {suite.reference} yet: 'dryquarry run' has them marked")
    return list(names) or list(marked)


def _again(judge: Entrant, replies: Sequence[JudgedReply], count: int, load: Load) -> JudgeWork:
    """Return the fixed replies as they are asked once more, each with the number of the time."""
    own = [one for one in replies if any(each.judge == judge.name for each in one.opinions())]
    own.sort(key=lambda one: text_digest(f"{one.question.ask_digest}/{one.entrant.digest}/{one.reply.held.trial}"))
    waiting = []
    for one in own[:count]:
        times = sum(each.judge == judge.name and each.again for each in one.verdicts)
        request = to_judge(one.reply_id, one.slot.marking_id or 0, one.question, one.reply.text, load)
        waiting.append(replace(request, time=times + 1, again=True))
    return JudgeWork(judge, tuple(waiting))


def report_of(
    ledger: Ledger,
    suite: Suite,
    replies: Sequence[JudgedReply],
    names: Sequence[str],
    judges: Mapping[str, Entrant],
) -> JudgeReport:
    """Return the report on the judges of these names, and on all who marked by hand."""
    checks = tuple(_checked(ledger, suite, replies, name, names, judges) for name in names)
    people = dict.fromkeys(one.person for reply in replies for one in reply.decisions)
    reviewers = tuple(_reviewer(replies, person, list(people)) for person in people)
    return JudgeReport(suite.name, suite.edition, checks, reviewers)


@dataclass(frozen=True, slots=True)
class _Scored:
    """A marking of a reply as a share of the points, with each criterion's share."""

    score: float
    passes: bool
    points: Mapping[str, float]


def _by_judge(reply: JudgedReply, name: str, *, again: bool = False) -> list[_Scored]:
    """Return what a judge's judgements of a reply come to, in the order of their times."""
    own = sorted((one for one in reply.opinions(again=again) if one.judge == name), key=lambda one: one.time)
    return [_scored(reply, one) for one in own]


def _scored(reply: JudgedReply, opinion: Opinion) -> _Scored:
    part, rubric = rubric_part(reply.question.marking), reply.rubric
    assert part is not None
    assert rubric is not None
    assert opinion.points is not None
    score = share_of(opinion, rubric)
    pairs = zip(rubric.criteria, opinion.points, strict=True)
    points = {one.id: counted_points(one, point) / one.points for one, point in pairs}
    return _Scored(score, score >= pass_mark(part) - SAME_SCORE, points)


def _middle(scored: Sequence[_Scored]) -> _Scored:
    score = median(one.score for one in scored)
    names = scored[0].points
    points = {name: float(median(one.points[name] for one in scored)) for name in names}
    return _Scored(score, 2 * sum(one.passes for one in scored) > len(scored), points)


def _by_hand(decision: Decision, rubric: Rubric | None) -> _Scored | None:
    if decision.score is None or decision.verdict is Verdict.VOID:
        return None
    most = {one.id: one.most for one in rubric.criteria} if rubric is not None else {}
    points = {name: value / most[name] for name, value in (decision.points or {}).items() if name in most}
    return _Scored(decision.score, decision.verdict is Verdict.PASS, points)


def _by_people(reply: JudgedReply) -> _Scored | None:
    """Return what people say of a reply, the mean of their decisions; None where nobody has decided."""
    given = [one for each in reply.by_people() if (one := _by_hand(each, reply.rubric)) is not None]
    if not given:
        return None
    shared = [name for name in given[0].points if all(name in one.points for one in given)]
    points = {name: mean(one.points[name] for one in given) for name in shared}
    return _Scored(mean(one.score for one in given), 2 * sum(one.passes for one in given) >= len(given), points)


def _pair(reply: JudgedReply, first: _Scored, second: _Scored, judge: Entrant | None = None) -> Pair:
    points = {name: (first.points[name], second.points[name]) for name in first.points if name in second.points}
    return Pair(
        reply.question.id,
        first.score,
        first.passes,
        second.score,
        second.passes,
        len(reply.reply.text.split()),
        reply.question.category,
        own_family(judge, reply.entrant) if judge is not None else None,
        points,
    )


def _checked(
    ledger: Ledger,
    suite: Suite,
    replies: Sequence[JudgedReply],
    name: str,
    names: Sequence[str],
    judges: Mapping[str, Entrant],
) -> JudgeCheck:
    judge = judges.get(name)
    marked = [(reply, scored) for reply in replies if (scored := _by_judge(reply, name))]
    against = [
        _pair(reply, _middle(scored), hand, judge)
        for reply, scored in marked
        if (hand := _by_people(reply)) is not None
    ]
    itself, drift = _repeated(marked, name)
    with_people = agreement_of(against)
    by_criterion, by_category = biases_by(against)
    others = {
        other: agreement_of([_pair(reply, _middle(scored), _middle(theirs)) for reply, scored, theirs in both])
        for other in names
        if other != name
        and (both := [(reply, scored, theirs) for reply, scored in marked if (theirs := _by_judge(reply, other))])
    }
    said = [one for reply in replies for one in reply.verdicts if one.judge == name]
    unreadable = sum(one.points is None for one in said) / len(said) if said else None
    trust, more = trust_in(with_people, unreadable)
    return JudgeCheck(
        name,
        len(marked),
        with_people,
        by_criterion,
        by_category,
        agreement_of(itself) if itself else None,
        others,
        length_slope(against),
        family_favour(against),
        first_shown_by(ledger, suite, name),
        drift,
        trust,
        more,
        len(marked) - len(against),
        _unsupported(marked, name),
        unreadable,
        median(one.seconds for one in said) if said else None,
        _cost_a_mark(said, judge),
    )


def _repeated(marked: Sequence[tuple[JudgedReply, list[_Scored]]], name: str) -> tuple[list[Pair], Estimate]:
    """Return a judge's repeats against its first marking of the same replies, and how it drifts."""
    itself: list[Pair] = []
    drifting: list[Pair] = []
    for reply, scored in marked:
        later = _by_judge(reply, name, again=True)
        itself += [_pair(reply, one, scored[0]) for one in (*scored[1:], *later)]
        if later:
            drifting.append(_pair(reply, later[-1], scored[0]))
    return itself, drift_of(drifting)


def _unsupported(marked: Sequence[tuple[JudgedReply, list[_Scored]]], name: str) -> float | None:
    points = [
        point.supported
        for reply, _ in marked
        for opinion in reply.opinions()
        if opinion.judge == name
        for point in opinion.points or ()
    ]
    return 1 - mean(points) if points else None


def _cost_a_mark(said: Sequence[StoredVerdict], judge: Entrant | None) -> float | None:
    if judge is None or judge.price is None or not said:
        return None
    costs = [judge.price.cost(one.input_tokens, one.output_tokens) or 0.0 for one in said]
    readable = sum(one.points is not None for one in said)
    return sum(costs) / readable if readable else None


def _reviewer(replies: Sequence[JudgedReply], person: str, people: Sequence[str]) -> ReviewerCheck:
    own = [one for reply in replies for one in reply.decisions if one.person == person]
    repeats: list[Pair] = []
    others: dict[str, list[Pair]] = {other: [] for other in people if other != person}
    for reply in replies:
        firsts = [one for one in reply.decisions if one.person == person and one.why_asked not in (REPEAT, AMENDED)]
        first = _by_hand(firsts[0], reply.rubric) if firsts else None
        if first is None:
            continue
        again = [one for one in reply.decisions if one.person == person and one.why_asked == REPEAT]
        repeats += [_pair(reply, later, first) for one in again if (later := _by_hand(one, reply.rubric)) is not None]
        for other, pairs in others.items():
            theirs = reply.decided_by(other)
            scored = _by_hand(theirs, reply.rubric) if theirs is not None else None
            if scored is not None:
                pairs.append(_pair(reply, first, scored))
    seconds = [one.seconds for one in own if one.seconds is not None]
    return ReviewerCheck(
        person,
        len([one for one in own if one.why_asked not in (REPEAT, AMENDED)]),
        agreement_of(repeats) if repeats else None,
        drift_of(repeats) if repeats else nothing(),
        {other: agreement_of(pairs) for other, pairs in others.items() if pairs},
        sum(one.why_asked == AMENDED for one in own),
        median(seconds) if seconds else None,
    )
