"""Sealing editions, their history, and retiring questions."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dryquarry.errors import DoesNotHold, Fault, FaultyFiles, FileFault, UsageFault, closest
from dryquarry.suites.checking import SuiteCheck, check_suite
from dryquarry.suites.diffing import SuiteDiff, diff_suites
from dryquarry.suites.editing import with_state
from dryquarry.suites.editions import write_edition
from dryquarry.suites.question import DRAFT, Question, State, Suite
from dryquarry.suites.reader import SuiteRead, read_suite
from dryquarry.suites.records import content_digest
from dryquarry.suites.yaml_writing import EditFault
from dryquarry.workspace.folder import Folder, no_garbage_collection
from dryquarry.workspace.notices import corrects_keys_only, told
from dryquarry.workspace.panels import judges_for, needs_judge, no_judge
from dryquarry.workspace.proofs import with_proofs_run
from dryquarry.workspace.suite_files import SuiteFiles


@dataclass(frozen=True, slots=True)
class Sealed:
    """A newly sealed edition, its file, and what changed since the one before (None for the first)."""

    suite: Suite
    path: str
    diff: SuiteDiff | None


@dataclass(frozen=True, slots=True)
class HistoryRow:
    """One edition in a suite's history, with what changed from the one before."""

    suite: Suite
    diff: SuiteDiff | None


def check(folder: Folder, reference: str) -> SuiteCheck:
    """Return what is at fault in a draft (or an edition), and advice; a draft is compared with the newest edition."""
    name, _, edition = reference.partition("@")
    if edition not in ("", DRAFT):
        read, newest = SuiteRead(folder.suite(reference), ()), None
    else:
        read, newest = folder.read_draft(name), folder.files(name).newest()
    read, not_run = with_proofs_run(read, folder.sandbox())
    with no_garbage_collection():
        found = check_suite(name, read, newest)
    found = replace(found, advice=(*found.advice, *not_run))
    return found if read.suite is None else _with_judges(folder, found, read.suite)


def _with_judges(folder: Folder, found: SuiteCheck, suite: Suite) -> SuiteCheck:
    """Add what is amiss with the judges that questions need, as far as entrants.toml tells."""
    needing = [question for question in suite.asked() if needs_judge(question)]
    if not needing:
        return found
    try:
        judges = folder.entrants().judges
    except FileFault:
        return found  # told by every command that needs entrants
    faults, without = [], []
    for question in needing:
        try:
            if not judges_for(question, judges):
                without.append(question)
        except UsageFault as fault:
            said = str(fault).partition(f"question {question.id}: ")[2]
            faults.append(Fault("unknown-judge", said, question.file, question.line, question.id))
    advice = [Fault("no-judge", f"{no_judge(len(without))}", without[0].file, without[0].line)] if without else []
    return replace(found, faults=(*found.faults, *faults), advice=(*found.advice, *advice))


def seal(
    folder: Folder, name: str, note: str, sealed_at: str, *, seed: int | None = None, redraw: bool = False
) -> Sealed:
    """Seal the draft as the next edition.

    Instances of templates stay those of the last edition unless `seed` or `redraw` asks for others. Raises
    DoesNotHold when the draft has faults or nothing has changed, FileFault when somebody else was faster.
    """
    files = folder.files(name)
    before = files.newest()
    number = int(before.edition) + 1 if before else 1
    if seed is None:
        seed = number if redraw or before is None else before.seed
    read, _ = with_proofs_run(read_suite(files.content(), seed), folder.sandbox())
    found = check_suite(name, read)
    if found.faults or read.suite is None:
        raise DoesNotHold(f"not sealed: {FaultyFiles(f'suite {name!r}', found.faults)}")
    draft = read.suite
    if before is not None and before.seal is not None and before.seal.content_digest == content_digest(draft):
        raise DoesNotHold(f"not sealed: nothing has changed since {before.reference}")
    path = files.write_edition(number, write_edition(draft, number, sealed_at, note))
    suite = files.edition(number)
    return Sealed(suite, path, diff_suites(before, suite) if before else None)


def corrected_keys(folder: Folder, name: str) -> SuiteDiff:
    """Return what a draft corrects of the newest edition; raises UsageFault unless it is keys and nothing else."""
    before, read = folder.files(name).newest(), folder.read_draft(name)
    if before is None:
        raise UsageFault(f"no edition of {name} is sealed, so the draft's keys are in use; 'mark {name}' marks by them")
    if read.faults or read.suite is None:
        raise FaultyFiles(f"suite '{name}'", read.faults)
    diff = diff_suites(before, read.suite)
    if not corrects_keys_only(diff):
        same = before.seal is not None and before.seal.content_digest == content_digest(read.suite)
        said = "does not differ from it" if same else f"changes more than keys: {told(diff)}"
        more = "" if same else f"; 'dryquarry suite seal {name} --note \"…\"' makes an edition of it"
        raise UsageFault(f"nothing to correct in {before.reference}: the draft {said}{more}")
    return diff


def history(folder: Folder, name: str) -> list[HistoryRow]:
    """Return all editions of a suite, each with what changed in it, and the draft if it differs."""
    files = folder.files(name)
    editions = [files.edition(number) for number in files.edition_numbers()]
    rows = [
        HistoryRow(suite, diff_suites(before, suite) if before else None)
        for before, suite in zip([None, *editions], editions, strict=False)
    ]
    draft = folder.read_draft(name).suite
    if draft is not None and editions and editions[-1].seal is not None:
        if editions[-1].seal.content_digest != content_digest(draft):
            rows.append(HistoryRow(draft, diff_suites(editions[-1], draft)))
    elif draft is not None and not editions:
        rows.append(HistoryRow(draft, None))
    return rows


def set_state(folder: Folder, name: str, ids: Sequence[str], state: State, because: str | None) -> list[str]:
    """Retire or restore questions in the author's files; returns the paths of the files changed.

    Every file is read again before it replaces the old one: nothing but the state of these questions may
    have changed. Raises UsageFault for an unknown id, FileFault when a file cannot be edited.
    """
    files = folder.files(name)
    seed = 1
    before = read_suite(files.content(), seed)
    if before.suite is None or before.faults:
        raise FaultyFiles(f"suite '{name}'", before.faults)
    known = {_written_id(question): question for question in before.suite.questions}
    contents = dict(files.content().files)
    changed: dict[str, bytes] = {}
    for wanted in dict.fromkeys(ids):
        if wanted not in known:
            raise UsageFault(f"suite '{name}' has no question '{wanted}'{closest(wanted, known)}")
        file = known[wanted].file
        try:
            edited = with_state(changed.get(file, contents[file]), file, wanted, state, because)
        except EditFault as fault:
            raise FileFault(f"{file}: {fault}; nothing was changed") from None
        if edited != contents[file]:
            changed[file] = edited
    _prove(files, contents, changed, before.suite, ids, state)
    for file, content in changed.items():
        files.replace(file, content)
    return sorted(changed)


def _prove(
    files: SuiteFiles,
    contents: dict[str, bytes],
    changed: dict[str, bytes],
    before: Suite,
    ids: Sequence[str],
    state: State,
) -> None:
    """Raise FileFault unless the edited files hold the same questions but for the state of some."""
    edited = tuple((file, changed.get(file, content)) for file, content in contents.items())
    after = read_suite(replace(files.content(), files=edited), before.seed)

    def told(question: Question) -> Question:
        bare = replace(question, line=None)
        return replace(bare, state=state, retired_because=None) if _written_id(question) in ids else bare

    kept = [told(question) for question in before.questions]
    if after.suite is None or after.faults or [told(question) for question in after.suite.questions] != kept:
        raise FileFault(f"{', '.join(changed)} cannot be edited safely; change the state by hand, nothing was changed")


def _written_id(question: Question) -> str:
    """Return the id under which a question stands in its file: for an instance, that of its template."""
    return question.drawn.template if question.drawn else question.id
