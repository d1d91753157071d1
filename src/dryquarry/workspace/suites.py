"""The suites of a workspace: reading, checking, sealing, comparing, retiring, importing."""

from __future__ import annotations

from collections.abc import Sequence

from dryquarry.ledger.rows import now_utc
from dryquarry.suites.checking import SuiteCheck
from dryquarry.suites.diffing import SuiteDiff, diff_suites
from dryquarry.suites.question import State, Suite
from dryquarry.workspace import editing, exchanging
from dryquarry.workspace.editing import HistoryRow, Sealed
from dryquarry.workspace.exchanging import Import, Source
from dryquarry.workspace.folder import Folder, new_suite
from dryquarry.workspace.trying import Tried, try_text


class Suites:
    """What can be done with suites; raises as Workspace does."""

    def __init__(self, folder: Folder):
        self.folder = folder

    def names(self) -> list[str]:
        """Return the names of the suites, sorted."""
        return self.folder.suite_names()

    def new(self, name: str, title: str) -> str:
        """Write a new suite with comments that teach the format; returns its path. Nothing is ever overwritten."""
        return new_suite(self.folder, name, title)

    def get(self, reference: str) -> Suite:
        """Return a suite by `NAME@3`, `NAME@draft`, or `NAME`: the newest edition, or else the draft."""
        return self.folder.suite(reference)

    def try_text(self, reference: str, question: str, text: str) -> Tried:
        """Return how a text is read and marked as a reply to a question; nothing is stored."""
        return try_text(self.folder.suite(reference), question, text, self.folder.sandbox())

    def check(self, reference: str) -> SuiteCheck:
        """Return what is at fault in a suite, and what could be better: in its draft, unless `NAME@3` is named."""
        return editing.check(self.folder, reference)

    def seal(self, name: str, note: str, *, seed: int | None = None, redraw: bool = False) -> Sealed:
        """Seal the draft of a suite as its next edition."""
        return editing.seal(self.folder, name.removesuffix("@draft"), note, now_utc(), seed=seed, redraw=redraw)

    def history(self, name: str) -> list[HistoryRow]:
        """Return the editions of a suite with what changed in each, and the draft if it differs."""
        return editing.history(self.folder, name)

    def diff(self, before: str, after: str) -> SuiteDiff:
        """Return what changed between two editions, drafts or suites."""
        return diff_suites(self.get(before), self.get(after))

    def retire(self, name: str, ids: Sequence[str], because: str) -> list[str]:
        """Retire questions in the suite's files; returns the paths changed."""
        return editing.set_state(self.folder, name, ids, State.RETIRED, because)

    def restore(self, name: str, ids: Sequence[str]) -> list[str]:
        """Take retired questions back; returns the paths changed."""
        return editing.set_state(self.folder, name, ids, State.LIVE, None)

    def import_file(self, source: Source, name: str, *, write: bool = True) -> Import:
        """Add the questions of a CSV, JSON or JSONL file to a suite, or change those that it has already."""
        return exchanging.import_file(self.folder, source, name, write=write)
