"""Votes of a workspace: by people, by judges, from tables, and the board that they make."""

from __future__ import annotations

import random
import secrets
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import replace

from dryquarry.asking.budget import Purse
from dryquarry.asking.calling import Line, Stop
from dryquarry.asking.engine import Setting
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.pair_judging import PairToJudge, judge_pairs
from dryquarry.asking.protocol import Load
from dryquarry.errors import Fault, FaultyFiles, UsageFault, closest
from dryquarry.ledger.store import Ledger
from dryquarry.ledger.votes import StoredVote, record_votes, votes_on
from dryquarry.marking.judging.request import Paper
from dryquarry.marking.registry import rubric_part
from dryquarry.standing.votes import Choice, VoteBoard, vote_board
from dryquarry.suites.question import Suite
from dryquarry.suites.vote_rows import VoteRow
from dryquarry.workspace.around_runs import endpoints, in_loop, interruptible
from dryquarry.workspace.ballots import Ballot, Pool, VoteSession, pair_of, vote_on
from dryquarry.workspace.desk_names import check_name
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.judge_requests import to_judge
from dryquarry.workspace.judged_replies import JudgedReply, judged_replies
from dryquarry.workspace.opening import ledger_for_reading, ledger_for_writing
from dryquarry.workspace.panels import check_priced
from dryquarry.workspace.selection import Selection

FEWEST_SIDES = 2


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
            voted = {pair_of(one) for one in pool.stored if one.by == judge_name}
            ballots = [one for one in pool.all_ballots() if pair_of(one) not in voted]
            pairs = sorted({pair_of(one) for one in ballots})
            random.Random(seed).shuffle(pairs)
            chosen = set(pairs[:count])
            asked = [one for one in ballots if pair_of(one) in chosen]
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
            vote = vote_on(ballots[place], Choice(choice), judge.name, by_judge=True, because=why, seconds=seconds)
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
    ) -> tuple[Suite, Pool]:
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
        return suite, Pool(replies, entrants, votes_on(ledger, suite.name))


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
    vote = vote_on(ballot, Choice(row.choice), row.by, by_judge=False, because=row.because)
    return replace(vote, order_known=row.order_known)


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
