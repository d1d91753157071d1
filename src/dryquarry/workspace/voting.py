"""Votes between two replies: which pair is shown next, to a person or a judge, and the board that votes make."""

from __future__ import annotations

import random
import secrets
import time
from collections import Counter
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, field, replace

from dryquarry.asking.budget import Purse
from dryquarry.asking.calling import Line, Stop
from dryquarry.asking.engine import Setting
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.pair_judging import PairToJudge, judge_pairs
from dryquarry.asking.protocol import Load
from dryquarry.errors import Fault, FaultyFiles, UsageFault, closest
from dryquarry.ledger.store import Ledger
from dryquarry.ledger.votes import StoredVote, record_votes, take_back_vote, votes_on
from dryquarry.marking.judging.request import Paper
from dryquarry.marking.registry import rubric_part
from dryquarry.standing.votes import Choice, Vote, VoteBoard, most_telling_pairs, vote_board
from dryquarry.suites.question import Question, Suite
from dryquarry.suites.vote_rows import VoteRow
from dryquarry.workspace.around_runs import endpoints, in_loop, interruptible
from dryquarry.workspace.desk_names import check_name
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.judged_replies import JudgedReply, judged_replies
from dryquarry.workspace.opening import ledger_for_reading, ledger_for_writing
from dryquarry.workspace.panels import check_priced, to_judge
from dryquarry.workspace.selection import Selection

FEWEST_SIDES = 2


@dataclass(frozen=True, slots=True)
class Ballot:
    """Two replies to a question, in the order in which they are shown; whose they are stays hidden."""

    question: Question
    first: JudgedReply
    second: JudgedReply


@dataclass
class VoteSession:
    """One person voting: the ballot in hand, chosen so that the next vote tells most; each vote is stored at once."""

    ledger: Ledger
    suite: Suite
    person: str
    pool: _Pool
    clock: Callable[[], float]
    seed: int = 1
    done: list[tuple[Ballot, StoredVote]] = field(default_factory=list)
    ballot: Ballot | None = None

    def __post_init__(self) -> None:
        self._chance = random.Random(f"{self.person}/{self.seed}/{len(self.pool.stored)}")
        self._skipped: set[tuple[int, int]] = set()
        self._advance()

    def vote(self, choice: Choice, because: str | None = None) -> StoredVote:
        """Store a vote on the ballot in hand, and take the next one."""
        ballot = self.ballot
        assert ballot is not None
        seconds = self.clock() - self._shown_at
        vote = _stored(ballot, choice, self.person, by_judge=False, because=because, seconds=seconds)
        (row,) = record_votes(self.ledger, self.suite.name, self.suite.edition, [vote])
        vote = replace(vote, row=row)
        self.pool.stored.append(vote)
        self.done.append((ballot, vote))
        self._advance()
        return vote

    def skip(self) -> None:
        """Leave the ballot in hand for another time."""
        if self.ballot is not None:
            self._skipped.add(_pair_of(self.ballot))
            self._advance()

    def undo(self) -> bool:
        """Take the last vote back and its ballot in hand again; tell whether there was one."""
        if not self.done:
            return False
        ballot, vote = self.done.pop()
        take_back_vote(self.ledger, vote.row)
        self.pool.stored.remove(vote)
        self.ballot = ballot
        self._shown_at = self.clock()
        return True

    def _advance(self) -> None:
        self.ballot = self.pool.next_ballot(self.person, self._chance, self._skipped)
        self._shown_at = self.clock()


@dataclass
class _Pool:
    """The replies that may be put beside each other, and the votes there are."""

    replies: Sequence[JudgedReply]
    entrants: Sequence[str]
    stored: list[StoredVote]

    def votes(self) -> list[Vote]:
        """Return the votes as the board takes them: on replies of these entrants that still count."""
        known = {one.reply_id: one for one in self.replies}
        return [
            Vote(
                known[one.first_id].question.id,
                known[one.first_id].entrant.name,
                known[one.second_id].entrant.name,
                Choice(one.choice),
                one.order_known,
            )
            for one in self.stored
            if one.first_id in known and one.second_id in known
        ]

    def next_ballot(self, person: str, chance: random.Random, skipped: set[tuple[int, int]]) -> Ballot | None:
        """Return the pair of replies whose vote tells most and that the person has not voted on; None without one."""
        voted = {_pair_of(one) for one in self.stored if one.by == person} | skipped
        for names in most_telling_pairs(self.votes(), self.entrants):
            open_pairs = [pair for pair in self._pairs(*names) if _key(*pair) not in voted]
            if open_pairs:
                first, second = chance.choice(self._least_voted(open_pairs))
                if chance.random() < 0.5:
                    first, second = second, first
                return Ballot(first.question, first, second)
        return None

    def _least_voted(self, pairs: Sequence[tuple[JudgedReply, JudgedReply]]) -> list[tuple[JudgedReply, JudgedReply]]:
        """Return the pairs to the questions that have the fewest votes, so that many questions speak."""
        known = {one.reply_id: one.question.id for one in self.replies}
        counts = Counter(known.get(one.first_id) for one in self.stored)
        fewest = min(counts[first.question.id] for first, _ in pairs)
        return [pair for pair in pairs if counts[pair[0].question.id] == fewest]

    def _pairs(self, one: str, other: str) -> Iterator[tuple[JudgedReply, JudgedReply]]:
        """Yield the two entrants' replies to the same question in the same trial."""
        places = {
            (each.question.id, each.reply.held.trial): each for each in self.replies if each.entrant.name == other
        }
        for each in self.replies:
            beside = places.get((each.question.id, each.reply.held.trial))
            if each.entrant.name == one and beside is not None:
                yield each, beside

    def all_ballots(self) -> list[Ballot]:
        """Return every pair of replies, in both orders."""
        ballots = []
        for place, one in enumerate(self.entrants):
            for other in self.entrants[place + 1 :]:
                for first, second in self._pairs(one, other):
                    ballots += [Ballot(first.question, first, second), Ballot(first.question, second, first)]
        return ballots


class Voting:
    """Votes of one workspace."""

    def __init__(self, folder: Folder):
        self.folder = folder

    @contextmanager
    def session(
        self, reference: str, names: Sequence[str], person: str, selection: Selection | None = None, seed: int = 1
    ) -> Iterator[VoteSession]:
        """Give a person's session of votes between these entrants while the context lasts; raises UsageFault."""
        check_name(person)
        with ledger_for_writing(self.folder) as ledger:
            suite, pool = self._pool(ledger, reference, names, selection)
            yield VoteSession(ledger, suite, person, pool, time.monotonic, seed)

    def by_judge(
        self,
        reference: str,
        names: Sequence[str],
        judge_name: str,
        count: int,
        selection: Selection | None = None,
        budget: float | None = None,
        seed: int = 1,
    ) -> tuple[int, int]:
        """Have a judge vote on so many pairs, each shown in both orders; return how many votes came, and how many not.

        The pairs are drawn by chance among those that the judge has not voted on.
        """
        judges = self.folder.entrants().judges
        if judge_name not in judges:
            raise UsageFault(f"there is no judge '{judge_name}' in entrants.toml{closest(judge_name, judges)}")
        judge = judges[judge_name]
        check_priced(judge, budget)
        with ledger_for_writing(self.folder) as ledger:
            suite, pool = self._pool(ledger, reference, names, selection)
            voted = {_pair_of(one) for one in pool.stored if one.by == judge_name}
            ballots = [one for one in pool.all_ballots() if _pair_of(one) not in voted]
            pairs = sorted({_pair_of(one) for one in ballots})
            random.Random(seed).shuffle(pairs)
            chosen = set(pairs[:count])
            asked = [one for one in ballots if _pair_of(one) in chosen]
            return in_loop(self._ask(ledger, suite, judge, asked, budget))

    async def _ask(
        self, ledger: Ledger, suite: Suite, judge: Entrant, ballots: Sequence[Ballot], budget: float | None
    ) -> tuple[int, int]:
        from dryquarry.asking.http import HttpTransport

        stop, load = Stop(), self.folder.files(suite.name).load
        failed = 0
        stored = 0

        def on_voted(place: int, choice: str | None, why: str, seconds: float, cost: float) -> None:
            nonlocal failed, stored
            if choice is None:
                failed += 1
                return
            vote = _stored(ballots[place], Choice(choice), judge.name, by_judge=True, because=why, seconds=seconds)
            record_votes(ledger, suite.name, suite.edition, [replace(vote, cost=cost)])
            stored += 1

        with interruptible(stop):
            async with endpoints([judge], self.folder.bank()) as urls, HttpTransport(judge.limits.in_flight) as http:
                setting = Setting(urls[judge.name], http, stop, Purse(budget), load)
                line = Line(judge, setting.endpoint, http, stop)
                work = [_to_judge(one, load) for one in ballots]
                await judge_pairs(line, work, setting, lambda: secrets.token_hex(9), on_voted)
        return stored, failed

    def collect(self, rows: Sequence[VoteRow], file: str) -> int:
        """Store the votes of a table, none where any is at fault; return how many. Raises FaultyFiles."""
        faults: list[Fault] = []
        votes: dict[str, list[StoredVote]] = {}
        people = self.folder.entrants().entrants
        with ledger_for_writing(self.folder) as ledger:
            replies: dict[str, dict[tuple[str, str, int], JudgedReply]] = {}
            editions: dict[str, str] = {}
            for row in rows:
                try:
                    if row.suite not in replies:
                        suite, pool = self._pool(ledger, row.suite, list(people), None, all_present=False)
                        editions[row.suite] = suite.edition
                        replies[row.suite] = {
                            (one.question.id, one.entrant.name, one.reply.held.trial): one for one in pool.replies
                        }
                    votes.setdefault(row.suite, []).append(_collected(row, replies[row.suite], people))
                except UsageFault as fault:
                    faults.append(Fault("vote", str(fault), file, row.line, row.question))
            if faults:
                raise FaultyFiles(file, faults)
            for name, each in votes.items():
                record_votes(ledger, name.partition("@")[0], editions[name], each)
        return sum(len(each) for each in votes.values())

    def board(self, reference: str, selection: Selection | None = None, seed: int = 1) -> tuple[Suite, VoteBoard]:
        """Return the board that the votes on a suite make; raises UsageFault where there are none."""
        selection = selection or Selection()
        names = [one.name for one in selection.people(list(self.folder.entrants().entrants.values()))]
        with ledger_for_reading(self.folder) as ledger:
            suite, pool = self._pool(ledger, reference, names, selection, all_present=False)
        votes = pool.votes()
        if not votes:
            raise UsageFault(
                f"nobody has voted on replies to {suite.reference}: "
                f"'dryquarry pair {suite.name} -e A -e B' shows two at a time"
            )
        return suite, vote_board(votes, names, seed)

    def _pool(
        self,
        ledger: Ledger,
        reference: str,
        names: Sequence[str],
        selection: Selection | None,
        *,
        all_present: bool = True,
    ) -> tuple[Suite, _Pool]:
        selection = selection or Selection()
        suite = selection.suite(self.folder.suite(reference))
        known = self.folder.entrants().entrants
        for name in names:
            if name not in known:
                raise UsageFault(f"there is no entrant '{name}' in entrants.toml{closest(name, known)}")
        people = [known[name] for name in dict.fromkeys(names)]
        if all_present and len(people) < FEWEST_SIDES:
            raise UsageFault("name two entrants at least: -e A -e B")
        replies = judged_replies(ledger, suite, people, self.folder.files(suite.name).load)
        replies = [one for one in replies if selection.takes_trial(one.reply.held.trial) and one.reply.text.strip()]
        present = {one.entrant.name for one in replies}
        missing = [one.name for one in people if one.name not in present]
        if missing and all_present:
            raise UsageFault(
                f"{missing[0]} has no reply to {suite.reference}: 'dryquarry run {suite.name} -e {missing[0]}' asks it"
            )
        entrants = [one.name for one in people if one.name in present]
        return suite, _Pool(replies, entrants, votes_on(ledger, suite.name))


def _collected(
    row: VoteRow, replies: Mapping[tuple[str, str, int], JudgedReply], known: Mapping[str, Entrant]
) -> StoredVote:
    """Return the vote of a row; raises UsageFault for what is not there."""
    found = []
    for name in (row.first, row.second):
        if name not in known:
            raise UsageFault(f"there is no entrant '{name}' in entrants.toml{closest(name, known)}")
        reply = replies.get((row.question, name, row.trial))
        if reply is None:
            raise UsageFault(f"{name} has no reply to question {row.question} (trial {row.trial}) of {row.suite}")
        found.append(reply)
    ballot = Ballot(found[0].question, found[0], found[1])
    vote = _stored(ballot, Choice(row.choice), row.by, by_judge=False, because=row.because)
    return replace(vote, order_known=row.order_known)


def _stored(
    ballot: Ballot,
    choice: Choice,
    by: str,
    *,
    by_judge: bool,
    because: str | None = None,
    seconds: float | None = None,
) -> StoredVote:
    assert ballot.first.slot.ask_id is not None
    return StoredVote(
        ballot.first.slot.ask_id,
        ballot.first.reply_id,
        ballot.second.reply_id,
        str(choice),
        by,
        by_judge,
        True,
        because or None,
        seconds,
    )


def _to_judge(ballot: Ballot, load: Load) -> PairToJudge:
    question = ballot.question
    part = rubric_part(question.marking)
    key = question.marking.key
    paper = Paper(question.text)
    if part is not None:
        paper = to_judge(0, 0, question, "", load).paper
    return PairToJudge(
        paper,
        (ballot.first.reply.text, ballot.second.reply.text),
        part.rubric if part is not None else None,
        str(key) if key is not None else None,
    )


def _pair_of(one: StoredVote | Ballot) -> tuple[int, int]:
    if isinstance(one, Ballot):
        return _key(one.first, one.second)
    return min(one.first_id, one.second_id), max(one.first_id, one.second_id)


def _key(first: JudgedReply, second: JudgedReply) -> tuple[int, int]:
    return min(first.reply_id, second.reply_id), max(first.reply_id, second.reply_id)
