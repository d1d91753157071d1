"""Asking by hand: sheets of questions to put to a model on a web page, and the replies read back in."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import asdict, dataclass
from enum import StrEnum

from dryquarry.asking.engine import Key, Wanted
from dryquarry.asking.entrants import Entrant
from dryquarry.errors import UsageFault, closest
from dryquarry.ledger.queries import full_replies
from dryquarry.ledger.records import Slot
from dryquarry.ledger.rows import now_utc
from dryquarry.ledger.store import Ledger
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.received import Received, Reply
from dryquarry.suites.question import Question, Suite
from dryquarry.suites.sheet_entry import SheetEntry
from dryquarry.suites.sheets import FORMS, read_sheet, write_sheet
from dryquarry.workspace.around_runs import alone, in_loop
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.marking import record_and_mark
from dryquarry.workspace.opening import ledger_for_writing
from dryquarry.workspace.planning import missing_of, slotted
from dryquarry.workspace.running import Means, RunInProgress, Watcher, note_and_survey


class Collected(StrEnum):
    """What became of one reply of a sheet; a `CHANGED` one took the place of another text."""

    NEW = "new"
    CHANGED = "changed"
    SAME = "same"
    EMPTY = "empty"
    UNKNOWN = "unknown"


@dataclass(frozen=True, slots=True)
class CollectedReply:
    """One place of a sheet and what became of it; `why` is told where it is unknown."""

    entry: SheetEntry
    status: Collected
    why: str = ""


@dataclass(frozen=True, slots=True)
class Collection:
    """All places of a sheet, and how many of the replies were judged by a model."""

    file: str
    replies: tuple[CollectedReply, ...]
    judged: int = 0

    def count(self, status: Collected) -> int:
        """Return how many came to that."""
        return sum(one.status is status for one in self.replies)


@dataclass(frozen=True, slots=True)
class Sheet:
    """The text of a sheet, and how many questions stand in it."""

    text: str
    questions: int


class ByHand:
    """Sheets and collected replies of one workspace."""

    def __init__(self, folder: Folder):
        self.folder = folder

    def sheet(self, reference: str, name: str, form: str, *, trials: int = 1) -> Sheet:
        """Return the sheet of the questions that an entrant without endpoint has not answered yet."""
        suite, entrant = self.folder.suite(reference), self._entrant(name)
        if entrant.endpoint is not None:
            raise UsageFault(
                f"entrant '{name}' has an endpoint, so 'dryquarry run' asks it; for replies collected by hand "
                "add an entrant without `endpoint`, so that the two are never mixed"
            )
        entries = []
        with ledger_for_writing(self.folder) as ledger:
            for question, trial in missing_of(ledger, suite, entrant, trials):
                place = (suite.name, suite.edition, name, question.id, trial, question.ask_digest)
                entries.append(SheetEntry(*place, text=_written_out(question)))
        system = "\n\n".join(text for text in (entrant.system, suite.system) if text)
        return Sheet(write_sheet(entries, form, system) if entries else "", len(entries))

    def collect(self, text: str, form: str, file: str, watcher: Watcher) -> Collection:
        """Store and mark the replies in a sheet; raises FaultyFiles and stores nothing when it is not readable."""
        entries = read_sheet(text, form, file)
        first = entries[0]
        suite = self.folder.suite(f"{first.suite}@{first.edition}")
        entrant = self._entrant(first.entrant)
        if any((one.suite, one.edition, one.entrant) != (first.suite, first.edition, first.entrant) for one in entries):
            raise UsageFault(f"{file} mixes suites, editions or entrants; collect a sheet for each")
        means = Means(self.folder.entrants().judges, self.folder.bank(), self.folder.files(suite.name).load)
        with ledger_for_writing(self.folder) as ledger, alone(ledger):
            return _collect(ledger, suite, entrant, entries, means, watcher, file)

    def _entrant(self, name: str) -> Entrant:
        known = self.folder.entrants().entrants
        if name not in known:
            raise UsageFault(f"there is no entrant '{name}' in entrants.toml{closest(name, known)}")
        return known[name]


def form_of(file_name: str) -> str:
    """Return the form of sheet that a file's name asks for; raises UsageFault for another."""
    form = file_name.rpartition(".")[2].lower()
    if form not in FORMS:
        raise UsageFault(f"'{file_name}' names no form of sheet; end it in .md, .csv or .jsonl")
    return form


def _written_out(question: Question) -> str:
    files = [f"[send the file {file.path} along]" for file in question.ask.files]
    turns = list(question.ask.turns)
    if len(turns) > 1:
        turns = [f"[turn {number} of {len(turns)}]\n{turn}" for number, turn in enumerate(turns, start=1)]
        turns.append("[paste the reply to the last turn]")
    return "\n\n".join([*files, *turns])


def _collect(
    ledger: Ledger,
    suite: Suite,
    entrant: Entrant,
    entries: Sequence[SheetEntry],
    means: Means,
    watcher: Watcher,
    file: str,
) -> Collection:
    judged, _ = note_and_survey(ledger, suite, means)
    known = {question.id: (question, slot) for question, slot in _asked(ledger, suite)}
    sitter_id = ledger.note_sitter(entrant.digest, entrant.content)
    slots = [slot for _, slot in known.values()]
    ids = list(known)
    held = {
        (ids[reply.held.position], reply.held.trial): reply.text for reply in full_replies(ledger, slots, sitter_id)
    }
    collected, arrived = [], []
    for entry in entries:
        status, why = _status(entry, known, held)
        collected.append(CollectedReply(entry, status, why))
        if status in (Collected.NEW, Collected.CHANGED):
            arrived.append(_arrived(entry, *known[entry.question]))
    run = RunInProgress(ledger, suite, [entrant], means, watcher)
    if arrived:
        settings = {**asdict(entrant), "suite_system": suite.system, "collected_from": file}
        sitting_id = ledger.begin_sitting(run.run_id, sitter_id, entrant.name, None, settings)
        record_and_mark(ledger, sitting_id, sitter_id, True, arrived)
        ledger.end_sitting(sitting_id)
    if judged:
        in_loop(run.judge())
    return Collection(file, tuple(collected), run.ended([], [], len(arrived)).judged)


def _asked(ledger: Ledger, suite: Suite) -> Iterator[tuple[Question, Slot]]:
    before = 0
    for questions, slots in slotted(ledger, suite):
        for question, slot in zip(questions, slots, strict=True):
            yield question, Slot(before + slot.position, slot.ask_id, slot.marking_id)
        before += len(questions)


def _status(
    entry: SheetEntry, known: dict[str, tuple[Question, Slot]], held: dict[tuple[str, int], str]
) -> tuple[Collected, str]:
    if entry.question not in known:
        return Collected.UNKNOWN, f"the suite asks no such question{closest(entry.question, known)}"
    if known[entry.question][0].ask_digest != entry.ask_digest:
        return Collected.UNKNOWN, "the question has changed since the sheet was written; write a new sheet for it"
    if not entry.reply.strip():
        return Collected.EMPTY, ""
    before = held.get((entry.question, entry.trial))
    return (Collected.NEW if before is None else Collected.SAME if before == entry.reply else Collected.CHANGED), ""


def _arrived(entry: SheetEntry, question: Question, slot: Slot) -> tuple[Wanted, Reply]:
    assert slot.ask_id is not None
    assert slot.marking_id is not None
    received = Received(Outcome.ANSWERED, entry.reply)
    wanted = Wanted(question.ask, slot.ask_id, entry.trial, keys=(Key(question.mark, slot.marking_id),))
    return wanted, Reply(slot.ask_id, entry.trial, received, None, now_utc(), tries=0)
