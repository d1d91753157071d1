"""The marks of a workspace: given again, set by a person, taken back."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import Fault, FaultyFiles, UsageFault, closest
from dryquarry.ledger.rows import now_utc
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import SAME_SCORE, Mark, Verdict
from dryquarry.marking.schemes.hand import pass_mark, points_given
from dryquarry.suites.diffing import SuiteDiff
from dryquarry.suites.mark_tables import MarkRow
from dryquarry.suites.question import DRAFT, Question, Suite
from dryquarry.workspace.around_runs import alone
from dryquarry.workspace.editing import corrected_keys, seal
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.opening import ledger_for_reading, ledger_for_writing
from dryquarry.workspace.portions import Work
from dryquarry.workspace.remarking import (
    Remarking,
    by_hand_of,
    correct,
    question_named,
    remark,
    replies_to,
    void_for_all,
)
from dryquarry.workspace.runners import has_works
from dryquarry.workspace.works import all_works, perform


@dataclass(frozen=True, slots=True)
class RepliesNamed:
    """The replies whose marks a person sets: to a question of a suite, by entrants, of some trials or all."""

    suite: str
    question: str
    entrants: tuple[str, ...] = ()
    trials: tuple[int, ...] = ()


@dataclass(frozen=True, slots=True)
class SetMark:
    """A mark that a person sets, on one reply, and the one before it (None where there was none)."""

    suite: str
    question: str
    entrant: Entrant
    trial: int
    before: Mark | None
    after: Mark


class MarkBook:
    """The marks of one workspace, for changing.

    While a run uses the ledger a change waits for its end; `on_waiting` is called first, to say so.
    """

    def __init__(self, folder: Folder, on_waiting: Callable[[], None] = lambda: None):
        self.folder = folder
        self.on_waiting = on_waiting

    def again(
        self,
        reference: str,
        names: Sequence[str] = (),
        *,
        write: bool = True,
        processes: int | None = None,
        on_running: Callable[[int, int], None] = lambda done, of: None,
    ) -> Remarking:
        """Mark the stored replies again with the present keys and schemes; without `write` only say what would come.

        What replies hold is run first where there is no result of it yet; `on_running` is told how many of how many
        are done. `processes` is how many to use at most where there are many replies; None for as many as there are
        cores.
        """
        suite = self.folder.suite(reference)
        entrants = self._entrants(names)
        with self._ledger(suite, write) as ledger:
            not_run = self._run_works(ledger, suite, entrants, on_running) if write and has_works(suite) else {}
            work = Work(self.folder.root, suite.reference, write)
            return replace(remark(ledger, work, suite, entrants, processes), not_run=not_run)

    def _run_works(
        self, ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], on_running: Callable[[int, int], None]
    ) -> Mapping[str, int]:
        """Run what replies hold and was not run yet; return why some could not be, with how many."""
        jobs = all_works(ledger, suite, entrants)
        coming = perform(ledger, jobs, self.folder.sandbox())
        done = next(coming)
        try:
            for done in coming:
                on_running(done.ran, len(jobs) - done.kept - done.lacking.total())
        finally:
            coming.close()
        return done.lacking

    def correct(self, name: str, because: str, *, write: bool = True) -> tuple[SuiteDiff, Remarking]:
        """Put a draft's corrected keys into use as the next edition, and mark the stored replies by them.

        An edition's name stands for one set of numbers for good, so a corrected key is another edition, whose
        replies are those that are there. Without `write` only say what would come. Raises UsageFault unless the
        draft differs from the newest edition in keys and ways of marking alone.
        """
        name = name.removesuffix(f"@{DRAFT}")
        diff = corrected_keys(self.folder, name)
        if not write:
            return diff, self.again(f"{name}@{DRAFT}", write=False)
        sealed = seal(self.folder, name, because, now_utc())
        assert sealed.diff is not None  # there is an edition before it
        return sealed.diff, self.again(sealed.suite.reference)

    def set(self, of: RepliesNamed, setting: str, because: str, *, write: bool = True) -> str:
        """Set marks by hand to `pass`, `fail`, `void`, a score in [0, 1] or points; return what was done.

        `void` without entrants is for the question as a whole, until its key changes. Without `write` nothing is
        done but to say what would be.
        """
        suite = self.folder.suite(of.suite)
        correction = _correction(setting, because, question_named(suite, of.question))
        with self._ledger(suite, write) as ledger:
            if not of.entrants and correction.verdict is Verdict.VOID:
                void_for_all(ledger, suite, of.question, because, write=write)
                counts = "counts" if write else "would count"
                return f"{suite.name}/{of.question} {counts} for nobody until its key changes, or it is taken back"
            if not of.entrants:
                raise UsageFault("name the entrants whose marks to set: -e NAME")
            people = self._entrants(of.entrants)
            count = correct(ledger, suite, people, of.question, correction, of.trials, write=write)
        done = "set by a person" if write else "a person would set"
        return f"{done}: {count} of {suite.name}/{of.question}" + ("; --take-back undoes it" if write else "")

    def set_from(self, rows: Sequence[MarkRow], file: str, *, write: bool = True) -> list[SetMark]:
        """Set the marks of a table, none where any row is at fault; return each with what it was before.

        Raises FaultyFiles with every row that names no suite, question, entrant or reply that is there, or no mark.
        """
        faults: list[Fault] = []
        planned: dict[str, list[SetMark]] = {}
        people = self.folder.entrants().entrants
        suites: dict[str, Suite] = {}
        with ledger_for_reading(self.folder) as ledger:
            for row in rows:
                try:
                    if row.suite not in suites:
                        suites[row.suite] = self.folder.suite(row.suite)
                    suite = suites[row.suite]
                    planned.setdefault(row.suite, []).extend(_set_marks(ledger, suite, people, row))
                except UsageFault as fault:
                    faults.append(Fault("mark", f"{row.place}: {fault}", file, row.line, row.question))
        if faults:
            raise FaultyFiles(file, faults)
        for name, marks in planned.items() if write else ():
            with self._ledger(suites[name], write) as ledger:
                ledger.record_marks(
                    [by_hand_of(ledger, suites[name], one.question, one.entrant, one.trial, one.after) for one in marks]
                )
        return [mark for marks in planned.values() for mark in marks]

    def take_back(self, of: RepliesNamed, *, write: bool = True) -> str:
        """Let marks set by hand be given by the scheme again; without entrants, let a void question count."""
        suite = self.folder.suite(of.suite)
        with self._ledger(suite, write) as ledger:
            if not of.entrants:
                void_for_all(ledger, suite, of.question, None, write=write)
                return f"{suite.name}/{of.question} {'counts' if write else 'would count'} again"
            count = correct(ledger, suite, self._entrants(of.entrants), of.question, None, of.trials, write=write)
        return f"{'taken back' if write else 'would be taken back'}: {count} of {suite.name}/{of.question}"

    @contextmanager
    def _ledger(self, suite: Suite, write: bool) -> Iterator[Ledger]:
        """Give the ledger for writing to the one who may, with the questions noted; for a plan only for reading."""
        if not write:
            with ledger_for_reading(self.folder) as ledger:
                yield ledger
            return
        with ledger_for_writing(self.folder) as ledger, alone(ledger, self.on_waiting):
            ledger.note_questions(suite.asked())
            yield ledger

    def _entrants(self, names: Sequence[str]) -> list[Entrant]:
        known = self.folder.entrants().entrants
        for name in names:
            if name not in known:
                raise UsageFault(f"there is no entrant '{name}' in entrants.toml{closest(name, known)}")
        return [known[name] for name in dict.fromkeys(names)] if names else list(known.values())


def _set_marks(ledger: Ledger, suite: Suite, people: Mapping[str, Entrant], row: MarkRow) -> list[SetMark]:
    """Return the marks that a row of a table sets; raises UsageFault for what is not there."""
    if row.entrant not in people:
        raise UsageFault(f"there is no entrant '{row.entrant}' in entrants.toml{closest(row.entrant, people)}")
    entrant, question = people[row.entrant], question_named(suite, row.question)
    correction = _correction(row.setting, row.because, question)
    trials = () if row.trial is None else (row.trial,)
    replies = replies_to(ledger, suite, entrant, question, trials)
    return [SetMark(suite.reference, question.id, entrant, one.trial, one.present, correction) for one in replies]


def _correction(setting: str, because: str, question: Question) -> Mark:
    if setting == "void":
        return _by_person(Verdict.VOID, None, because)
    if setting in ("pass", "fail"):
        return _by_person(Verdict(setting), float(setting == "pass"), because)
    given = points_given(setting, question.marking)
    if given is None:
        out_of = question.marking.options.get("out_of", 1) if question.marking.scheme == "hand" else 1
        points = "a score from 0 to 1" if out_of == 1 else f"points from 0 to {out_of:g}, such as 1 or 1/{out_of:g}"
        raise UsageFault(f"a mark of {question.id} is set to pass, fail, void or {points}, not '{setting}'")
    score, said = given
    verdict = Verdict.PASS if score >= pass_mark(question.marking) - SAME_SCORE else Verdict.FAIL
    return _by_person(verdict, score, because, said)


def _by_person(verdict: Verdict, score: float | None, because: str, points: str = "") -> Mark:
    said = f"set by a person, {points}: {because}" if points else f"set by a person: {because}"
    return Mark(score, verdict, said, by="a person", because=because)
