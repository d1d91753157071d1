"""A suite's stored replies marked again in portions, here or in processes beside this one.

A portion is one entrant's replies to some of the questions. Each process reads the suite and the ledger itself, so
that neither questions nor replies are handed from one to another, only what came of them.
"""

from __future__ import annotations

import multiprocessing
import os
from collections import Counter
from collections.abc import Iterator, Sequence
from concurrent.futures import ProcessPoolExecutor
from concurrent.futures.process import BrokenProcessPool
from dataclasses import dataclass, field
from pathlib import Path

from dryquarry import __version__
from dryquarry.asking.entrants import Entrant
from dryquarry.errors import FileFault
from dryquarry.ledger.queries import count_replies, sitter_id_of, slots_of, stored_replies
from dryquarry.ledger.records import NewMark, Slot, StoredReply
from dryquarry.ledger.results import results_of
from dryquarry.ledger.store import Ledger
from dryquarry.ledger.verdicts import StoredVerdict, verdicts_of
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.registry import needs_run
from dryquarry.marking.works.results import RunResult
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.marks import as_new_mark, mark_again
from dryquarry.workspace.panels import needs_judge
from dryquarry.workspace.planning import AT_A_TIME, in_parts
from dryquarry.workspace.runners import Runners

# Below this many replies a second process takes longer to start than it saves.
WORTH_A_PROCESS = 20_000
# How many shares of the questions each process gets, one after another, so that none waits long for the others.
SHARES = 8


@dataclass(frozen=True, slots=True)
class MarkChange:
    """One reply whose mark is another than before."""

    question: str
    entrant: str
    trial: int
    before: Mark
    after: Mark


@dataclass(slots=True)
class Portion:
    """What marking a portion again came to.

    `kinds` counts the marks by what became of them (first, same, kept, changed). The lists tell of each first try,
    one at each place: question, trial, outcome, and score and verdict before and after.
    """

    entrant: str
    kinds: Counter[str] = field(default_factory=Counter)
    changes: list[MarkChange] = field(default_factory=list)
    new_marks: list[NewMark] = field(default_factory=list)
    questions: list[str] = field(default_factory=list)
    trials: list[int] = field(default_factory=list)
    outcomes: list[Outcome] = field(default_factory=list)
    before: list[tuple[float | None, Verdict | None]] = field(default_factory=list)
    after: list[tuple[float | None, Verdict | None]] = field(default_factory=list)


@dataclass(frozen=True, slots=True)
class Work:
    """What is marked again: the suite by its reference, of whom, and whether new marks are wanted for writing."""

    root: Path
    reference: str
    write: bool


def portions(
    ledger: Ledger, work: Work, suite: Suite, entrants: Sequence[Entrant], processes: int | None
) -> Iterator[Portion]:
    """Yield the portions of a suite, each part of the questions by each entrant; in order, however they are made.

    `processes` is how many to use at most; None for as many as there are cores. Raises FileFault when one of them
    dies.
    """
    asked = suite.asked()
    most = min(processes or os.cpu_count() or 1, len(asked))
    if most < 2 or count_replies(ledger) < WORTH_A_PROCESS:
        for questions in in_parts(asked):
            slots = slots_of(ledger, questions)
            for entrant in entrants:
                yield portion(ledger, questions, slots, entrant, write=work.write)
        return
    size = min(AT_A_TIME, -(-len(asked) // (SHARES * most)))
    parts = [(first, min(first + size, len(asked)), tuple(entrants)) for first in range(0, len(asked), size)]
    # Started afresh rather than forked: a copy of this process would share its connection to the ledger.
    context = multiprocessing.get_context("spawn")
    with ProcessPoolExecutor(most, mp_context=context, initializer=_begin, initargs=(work,)) as pool:
        try:
            for done in pool.map(_portions_beside, parts):
                yield from done
        except BrokenProcessPool:
            raise FileFault("a process that marked replies has died; try again with --processes 1") from None
        except BaseException:
            pool.shutdown(wait=False, cancel_futures=True)
            raise


def portion(
    ledger: Ledger, questions: Sequence[Question], slots: Sequence[Slot], entrant: Entrant, *, write: bool
) -> Portion:
    """Mark an entrant's replies to some questions again, first and second tries; the ledger is only read."""
    done = Portion(entrant.name)
    sitter_id = sitter_id_of(ledger, entrant.digest)
    if sitter_id is None:
        return done
    again = [slot for slot in slots if questions[slot.position].second_try]
    first_tries = stored_replies(ledger, slots, sitter_id)
    second_tries = stored_replies(ledger, again, sitter_id, second=True) if again else []
    verdicts = _verdicts(ledger, questions, [*first_tries, *second_tries])
    results = _results(ledger, questions, [*first_tries, *second_tries])
    for number, reply in enumerate([*first_tries, *second_tries]):
        question, marking_id = questions[reply.position], slots[reply.position].marking_id
        kind, mark = mark_again(question, reply, verdicts.get(reply.reply_id, ()), results)
        done.kinds[kind] += 1
        before = reply.present or reply.earlier
        if kind == "changed" and before is not None:
            done.changes.append(MarkChange(question.id, entrant.name, reply.trial, before, mark))
        if write and marking_id is not None and (reply.present is None or not reply.present.says(mark)):
            done.new_marks.append(as_new_mark(reply, marking_id, mark))
        if number < len(first_tries):
            done.questions.append(question.id)
            done.trials.append(reply.trial)
            done.outcomes.append(reply.outcome)
            done.before.append((before.score, before.verdict) if before else (None, None))
            done.after.append((mark.score, mark.verdict))
    return done


class _Beside:
    """What a process beside this one works with: the suite and the ledger, opened by itself."""

    def __init__(self, work: Work):
        folder = Folder(work.root)
        self.write = work.write
        self.ledger = Ledger.read(folder.ledger_path, __version__)
        self.questions = folder.suite(work.reference).asked()

    def portions(self, first: int, last: int, entrants: Sequence[Entrant]) -> list[Portion]:
        """Mark some questions' replies again, all entrants': what they say alike is then read once."""
        questions = self.questions[first:last]
        slots = slots_of(self.ledger, questions)
        return [portion(self.ledger, questions, slots, entrant, write=self.write) for entrant in entrants]


_beside: list[_Beside] = []


def _begin(work: Work) -> None:
    _beside[:] = [_Beside(work)]


def _portions_beside(part: tuple[int, int, tuple[Entrant, ...]]) -> list[Portion]:
    return _beside[0].portions(*part)


def _verdicts(
    ledger: Ledger, questions: Sequence[Question], replies: Sequence[StoredReply]
) -> dict[int, list[StoredVerdict]]:
    """Return what judges said of the replies that have no mark under the present key."""
    waiting = [one.reply_id for one in replies if one.present is None and needs_judge(questions[one.position])]
    found: dict[int, list[StoredVerdict]] = {}
    for verdict in verdicts_of(ledger, waiting) if waiting else ():
        found.setdefault(verdict.reply_id, []).append(verdict)
    return found


def _results(ledger: Ledger, questions: Sequence[Question], replies: Sequence[StoredReply]) -> dict[str, RunResult]:
    """Return what came of running the works of replies, by the digests of jobs."""
    runners, jobs = Runners(), set[str]()
    for reply in replies:
        if needs_run(questions[reply.position].marking):
            jobs |= runners.jobs(questions[reply.position], reply.text).keys()
    return results_of(ledger, jobs) if jobs else {}
