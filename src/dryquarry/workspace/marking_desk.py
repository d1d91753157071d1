"""The marking desk of a workspace: sessions on the screen, papers written out, decisions read in."""

from __future__ import annotations

import time
from collections.abc import Iterator, Sequence
from contextlib import contextmanager
from dataclasses import dataclass

from dryquarry.errors import Fault, FaultyFiles
from dryquarry.ledger.decisions import AUDIT, REPEAT, WHYS
from dryquarry.marking.judging.by_person import NoDecision, decided
from dryquarry.suites.ask import Attachment
from dryquarry.suites.decision_rows import DecisionRow
from dryquarry.workspace.desk import DECISIONS_BETWEEN_REPEATS, REPEATS, DeskSession, DeskWish, Paper, papers_for
from dryquarry.workspace.desk_names import check_name
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.judged_replies import JudgedReply, judged_replies
from dryquarry.workspace.opening import ledger_for_writing
from dryquarry.workspace.selection import Selection


@dataclass(frozen=True, slots=True)
class ReadIn:
    """How many decisions were read in from a file, and how many of its papers are not decided."""

    decided: int
    undecided: int


class MarkingDesk:
    """Marking by hand in one workspace, blind."""

    def __init__(self, folder: Folder):
        self.folder = folder

    @contextmanager
    def session(
        self, reference: str, person: str, wish: DeskWish, selection: Selection | None = None
    ) -> Iterator[DeskSession]:
        """Give a person's session while the context lasts; an audit is drawn if one is wished for and none waits."""
        check_name(person)
        selection = selection or Selection()
        suite = selection.suite(self.folder.suite(reference))
        people = selection.people(list(self.folder.entrants().entrants.values()))
        with ledger_for_writing(self.folder) as ledger:
            ledger.note_questions(suite.asked())
            replies = judged_replies(ledger, suite, people, self.folder.files(suite.name).load)
            replies = [one for one in replies if selection.takes_trial(one.reply.held.trial)]
            papers = papers_for(ledger, suite, replies, person, wish)
            yield DeskSession(ledger, suite, person, replies, papers, time.monotonic, wish.seed)

    def papers(self, reference: str, person: str, wish: DeskWish, selection: Selection | None = None) -> list[Paper]:
        """Return the papers as they are written out; some earlier ones of the person's among them, to measure drift."""
        with self.session(reference, person, wish, selection) as session:
            repeats = _repeats(session.replies, person, len(session.papers))
            return [*session.papers, *repeats]

    def decide_all(self, reference: str, person: str, rows: Sequence[DecisionRow], file: str) -> ReadIn:
        """Store the decisions of a file, none where any is at fault; raises FaultyFiles with every fault."""
        with self.session(reference, person, DeskWish()) as session:
            known = {
                paper.token(person): paper for one in session.replies for why in WHYS for paper in (Paper(one, why),)
            }
            faults: list[Fault] = []
            given = [row for row in rows if row.is_decided]
            met: set[str] = set()
            for row in given:
                problem = _problem(row, known, person, met)
                met.add(row.item)
                if problem is not None:
                    question = known[row.item].question.id if row.item in known else None
                    faults.append(Fault("decision", problem, file, row.line, question))
            if faults:
                raise FaultyFiles(file, faults)
            session.timed = False
            for row in given:
                session.papers = [known[row.item]]
                session.place = 0
                session.decide(row.verdict, row.points, row.note)
            return ReadIn(len(given), len(rows) - len(given))

    def load(self, suite: str, file: Attachment) -> bytes:
        """Return the bytes of a question's file, for a person to open."""
        return self.folder.files(suite).load(file)


def _problem(row: DecisionRow, known: dict[str, Paper], person: str, met: set[str]) -> str | None:
    """Return what is amiss with a decision, or None."""
    if row.item in met:
        return f"paper {row.item} is decided twice in this file"
    if row.item not in known:
        return (
            f"there is no paper {row.item} for {person}: its reply was replaced, its question changed, or it was "
            "written out for another person; write the papers out again"
        )
    paper = known[row.item]
    own = [one for one in paper.judged.decisions if one.person == person]
    again = any(one.why_asked == paper.why_asked for one in own) if paper.why_asked == AUDIT else bool(own)
    if paper.why_asked != REPEAT and again:
        return f"{person} has decided paper {row.item} already"
    try:
        decided(paper.marking, row.verdict, row.points)
    except NoDecision as error:
        return f"paper {row.item}: {error}"
    return None


def _repeats(replies: Sequence[JudgedReply], person: str, count: int) -> list[Paper]:
    own = [one for one in replies if one.decided_by(person) is not None]
    own = sorted(own, key=lambda one: Paper(one, REPEAT).token(person))
    return [Paper(one, REPEAT) for one in own[: REPEATS * (count // DECISIONS_BETWEEN_REPEATS)]]
