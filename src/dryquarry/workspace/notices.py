"""What a person should know of an edition beside its numbers: that the draft differs, or that a key was corrected."""

from __future__ import annotations

from dryquarry.suites.diffing import ChangeKind, SuiteDiff, diff_suites
from dryquarry.suites.question import DRAFT, Suite
from dryquarry.suites.records import content_digest
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.suite_files import SuiteFiles

_MOST_NAMED = 5
_SAID = {
    ChangeKind.REWORDED: "reworded",
    ChangeKind.KEY: "with another key",
    ChangeKind.SCHEME: "marked in another way",
    ChangeKind.ADDED: "added",
    ChangeKind.RETIRED: "retired",
    ChangeKind.RESTORED: "taken back",
    ChangeKind.NOTES: "with other notes",
    ChangeKind.MOVED: "moved",
}
_KEYS = frozenset({ChangeKind.KEY, ChangeKind.SCHEME})
# Notes that neither reach a model nor change a score.
# Above this size a draft that was not written to since the edition was sealed is taken to be the same.
UNTOUCHED_BYTES = 1_000_000
_FREE_NOTES = frozenset({"why", "source", "tags", "level", "twist", "language", "proofs"})


def notices_of(folder: Folder, reference: str) -> list[str]:
    """Return the notices of the suite that a reference names, as a command uses it.

    A suite named without edition is its newest edition: its draft may say otherwise. An edition that is not the
    newest may have keys that a later one corrects.
    """
    name, _, edition = reference.partition("@")
    files = folder.files(name)
    numbers = files.edition_numbers()
    if not numbers or edition == DRAFT:
        return []
    if not edition:
        return _draft_notice(folder, files, numbers[-1])
    number = int(edition)
    return _later_keys(files, number, numbers[-1]) if number in numbers[:-1] else []


def corrects_keys_only(diff: SuiteDiff) -> bool:
    """Tell whether a draft differs in keys or ways of marking, and in nothing that reaches a model or a score."""
    others = [change for change in diff.changes if change.kind not in _KEYS]
    free = all(
        change.kind is ChangeKind.NOTES and _FREE_NOTES.issuperset(change.after.split(", ")) for change in others
    )
    return free and len(others) < len(diff.changes)


def told(diff: SuiteDiff) -> str:
    """Return what changed as counts: "1 reworded, 2 with another key"."""
    counts = [(diff.count(kind), words) for kind, words in _SAID.items()]
    return ", ".join(f"{count} {words}" for count, words in counts if count) or "what it says for all questions"


def _draft_notice(folder: Folder, files: SuiteFiles, number: int) -> list[str]:
    if files.edition_size(number) > UNTOUCHED_BYTES and not files.edited_since(number):
        return []  # reading a very large draft takes long, and it has not been touched
    name, used = files.name, f"{files.name}@{number}"
    sealed = files.edition(number)
    if _is_as_sealed(folder, name, sealed):
        return []
    read = folder.read_draft(name)
    if read.suite is None or read.faults:
        return [f"the draft of {name} has faults, and {used} is used: 'dryquarry suite check {name}' lists them"]
    diff = diff_suites(sealed, read.suite)
    if corrects_keys_only(diff):
        does = f"'dryquarry suite correct {name} --because \"…\"' puts the keys into use, and asks nothing"
    else:
        does = f"'dryquarry suite seal {name} --note \"…\"' makes it an edition"
    return [
        f"the draft of {name} differs from {used}, which is used here: {told(diff)}; {does}; "
        f"'{name}@{DRAFT}' names the draft, 'dryquarry suite diff {used} {name}@{DRAFT}' shows all"
    ]


def _is_as_sealed(folder: Folder, name: str, sealed: Suite) -> bool:
    """Tell whether the draft says what was sealed, whose keys were checked then: to check them again takes a second."""
    read = folder.read_draft(name, check_keys=False)
    if read.suite is None or read.faults or sealed.seal is None:
        return False
    return sealed.seal.content_digest == content_digest(read.suite)


def _later_keys(files: SuiteFiles, number: int, newest: int) -> list[str]:
    """Tell of keys of an edition that the newest one has otherwise, of questions that ask the same in both."""
    before, after = files.edition(number), files.edition(newest)
    changed = _corrected(before, after)
    if not changed:
        return []
    names = ", ".join(changed[:_MOST_NAMED]) + (", …" if len(changed) > _MOST_NAMED else "")
    return [f"{after.reference} marks {len(changed)} of these questions otherwise: {names}"]


def _corrected(before: Suite, after: Suite) -> list[str]:
    later = {question.id: question for question in after.asked()}
    return [
        one.id
        for one in before.asked()
        if one.id in later
        and later[one.id].ask_digest == one.ask_digest
        and later[one.id].mark_digest != one.mark_digest
    ]
