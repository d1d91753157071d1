"""The marks of a workspace: given again, set by a person, taken back."""

from __future__ import annotations

from collections.abc import Sequence

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import UsageFault, closest
from dryquarry.marking.model import Mark, Verdict
from dryquarry.workspace.around_runs import alone
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.opening import ledger_for_writing
from dryquarry.workspace.portions import Work
from dryquarry.workspace.remarking import Remarking, correct, remark, void_for_all


class MarkBook:
    """The marks of one workspace, for changing."""

    def __init__(self, folder: Folder):
        self.folder = folder

    def again(
        self, reference: str, names: Sequence[str] = (), *, write: bool = True, processes: int | None = None
    ) -> Remarking:
        """Mark the stored replies again with the present keys and schemes; without `write` only say what would come.

        `processes` is how many to use at most where there are many replies; None for as many as there are cores.
        """
        suite = self.folder.suite(reference)
        with ledger_for_writing(self.folder) as ledger, alone(ledger):
            if write:
                ledger.note_questions(suite.asked())
            work = Work(self.folder.root, suite.reference, write)
            return remark(ledger, work, suite, self._entrants(names), processes)

    def set(
        self, reference: str, question: str, names: Sequence[str], trials: Sequence[int], setting: str, because: str
    ) -> str:
        """Set marks by hand to `pass`, `fail`, `void` or a score in [0, 1]; return what was done in a sentence.

        `void` without entrants is for the question as a whole, until its key changes.
        """
        suite, correction = self.folder.suite(reference), _correction(setting, because)
        with ledger_for_writing(self.folder) as ledger, alone(ledger):
            ledger.note_questions(suite.asked())
            if not names and correction.verdict is Verdict.VOID:
                void_for_all(ledger, suite, question, because)
                return f"{suite.name}/{question} counts for nobody until its key changes, or it is taken back"
            if not names:
                raise UsageFault("name the entrants whose marks to set: -e NAME")
            count = correct(ledger, suite, self._entrants(names), question, correction, trials)
        return f"set by a person: {count} of {suite.name}/{question}; --take-back undoes it"

    def take_back(self, reference: str, question: str, names: Sequence[str], trials: Sequence[int] = ()) -> str:
        """Let marks set by hand be given by the scheme again; without entrants, let a void question count."""
        suite = self.folder.suite(reference)
        with ledger_for_writing(self.folder) as ledger, alone(ledger):
            if not names:
                void_for_all(ledger, suite, question, None)
                return f"{suite.name}/{question} counts again"
            count = correct(ledger, suite, self._entrants(names), question, None, trials)
        return f"taken back: {count} of {suite.name}/{question}"

    def _entrants(self, names: Sequence[str]) -> list[Entrant]:
        known = self.folder.entrants().entrants
        for name in names:
            if name not in known:
                raise UsageFault(f"there is no entrant '{name}' in entrants.toml{closest(name, known)}")
        return [known[name] for name in dict.fromkeys(names)] if names else list(known.values())


def _correction(setting: str, because: str) -> Mark:
    if setting == "void":
        return _by_person(Verdict.VOID, None, because)
    if setting in ("pass", "fail"):
        return _by_person(Verdict(setting), float(setting == "pass"), because)
    try:
        score = float(setting)
    except ValueError:
        score = -1.0
    if not 0 <= score <= 1:
        raise UsageFault(f"a mark is set to pass, fail, void or a score from 0 to 1, not '{setting}'")
    return _by_person(Verdict.PASS if score == 1 else Verdict.FAIL, score, because)


def _by_person(verdict: Verdict, score: float | None, because: str) -> Mark:
    return Mark(score, verdict, f"set by a person: {because}", by="a person", because=because)
