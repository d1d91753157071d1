"""Ballots: two replies beside each other, which pair comes next, and one person's session of votes."""

from __future__ import annotations

import random
from collections import Counter
from collections.abc import Callable, Iterator, Sequence
from dataclasses import dataclass, field, replace

from dryquarry.ledger.store import Ledger
from dryquarry.ledger.votes import StoredVote, record_votes, take_back_vote
from dryquarry.standing.votes import Choice, Vote, most_telling_pairs
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.judged_replies import JudgedReply


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
    pool: Pool
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
        vote = vote_on(ballot, choice, self.person, by_judge=False, because=because, seconds=seconds)
        (row,) = record_votes(self.ledger, self.suite.name, self.suite.edition, [vote])
        vote = replace(vote, row=row)
        self.pool.stored.append(vote)
        self.done.append((ballot, vote))
        self._advance()
        return vote

    def skip(self) -> None:
        """Leave the ballot in hand for another time."""
        if self.ballot is not None:
            self._skipped.add(pair_of(self.ballot))
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
class Pool:
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
        voted = {pair_of(one) for one in self.stored if one.by == person} | skipped
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


def vote_on(
    ballot: Ballot,
    choice: Choice,
    by: str,
    *,
    by_judge: bool,
    because: str | None = None,
    seconds: float | None = None,
) -> StoredVote:
    """Return a vote on a ballot, to be stored."""
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


def pair_of(one: StoredVote | Ballot) -> tuple[int, int]:
    """Return the rows of the two replies, the lower first: what names the pair in either order."""
    if isinstance(one, Ballot):
        return _key(one.first, one.second)
    return min(one.first_id, one.second_id), max(one.first_id, one.second_id)


def _key(first: JudgedReply, second: JudgedReply) -> tuple[int, int]:
    return min(first.reply_id, second.reply_id), max(first.reply_id, second.reply_id)
