"""Bringing questions of other formats into a suite: new ones beside its own, changed ones in their places."""

from __future__ import annotations

import json
from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from pathlib import Path
from typing import Any

from dryquarry.errors import Fault, FaultyFiles, FileFault, UsageFault
from dryquarry.suites.csv_text import SEPARATORS
from dryquarry.suites.importing import Imported, ImportedRecord, import_questions
from dryquarry.suites.question import Question
from dryquarry.suites.question_reader import GOOD_NAME
from dryquarry.suites.reader import SUITE_FIELDS, SuiteContent, read_suite
from dryquarry.suites.updating import Changed, Update, update_of
from dryquarry.suites.yaml_text import read_yaml
from dryquarry.suites.yaml_writing import EditFault, as_yaml, with_question
from dryquarry.workspace.file_door import Refused, read_file
from dryquarry.workspace.folder import SUITES, Folder
from dryquarry.workspace.suite_files import QUESTIONS, SUITE_FILE, SuiteFiles

MOST_IN_YAML = 300
READABLE = (".csv", ".tsv", ".json", ".jsonl")


@dataclass(frozen=True, slots=True)
class Source:
    """A file to import, and how it is to be taken; `separator` is the name of one, None for what the file shows."""

    path: Path
    columns: Mapping[str, str]
    scheme: str | None = None
    separator: str | None = None


@dataclass(frozen=True, slots=True)
class Import:
    """What an import found and did, what is at fault, and the files written (none for a plan).

    `head_left` names what the file says for all questions and the suite, which is there already, has of its own.
    """

    imported: Imported
    update: Update
    faults: tuple[Fault, ...]
    paths: tuple[str, ...] = ()
    head_left: tuple[str, ...] = ()

    def sample(self, count: int = 3) -> str:
        """Return the first records that could be read as YAML."""
        records = [dict(record.fields) for record in self.imported.records[:count]]
        return as_yaml(records) if records else ""


def import_file(folder: Folder, source: Source, name: str, *, write: bool) -> Import:
    """Add the questions of a file to a suite, which is made if there is none; nothing is written at a fault.

    Questions whose ids the suite has already are changed where the file has them otherwise. Raises UsageFault for a
    kind of file or a name that cannot be used, FaultyFiles when the suite itself has faults.
    """
    if source.path.suffix not in READABLE:
        raise UsageFault(f"{source.path} is of no kind that can be imported; known are {', '.join(READABLE)}")
    if not GOOD_NAME.fullmatch(name):
        raise UsageFault(f"'{name}' is no name for a suite; use letters, digits, '-', '_' and '.'")
    try:
        content = read_file(source.path)
    except Refused as why:
        raise FileFault(f"{source.path} cannot be read: {why}") from None
    stem, separator = source.path.stem, SEPARATORS.get(source.separator or "")
    imported = import_questions(content, str(source.path), source.columns, source.scheme, stem, separator)
    files, before, questions = _suite_before(folder, name, imported.head)
    update = update_of(imported, questions)
    if imported.faults or not imported.records:
        return Import(imported, update, imported.faults)
    if update.changed and not imported.named:
        raise UsageFault(
            f"{source.path} has no ids, so its rows cannot be matched with the questions of {name}; "
            f"'dryquarry suite export {name} --format csv' writes them with their ids"
        )
    written = _written(files, before, stem, update)
    contents = {**dict(before.files), **written}
    main, *others = contents.items()
    faults = read_suite(replace(before, files=(main, *sorted(others)))).faults
    if faults:
        return Import(imported, update, tuple(_at_source(fault, imported, source) for fault in faults))
    is_new = name not in folder.suite_names()
    left = () if is_new else tuple(imported.head)
    if not write:
        return Import(imported, update, (), (), left)
    if is_new:
        written = {before.files[0][0]: before.files[0][1], **written}
    for path, changed in written.items():
        files.replace(path, changed)
    return Import(imported, update, (), tuple(written), left)


def _suite_before(
    folder: Folder, name: str, head: Mapping[str, Any]
) -> tuple[SuiteFiles, SuiteContent, Sequence[Question]]:
    """Return a suite's files as they are, or as those of a new suite would be, and the questions in them."""
    if name in folder.suite_names():
        files = folder.files(name)
        content = files.content()
        read = read_suite(content)
        if read.faults or read.suite is None:
            raise FaultyFiles(f"suite '{name}'", read.faults)
        return files, content, read.suite.questions
    files = SuiteFiles(folder.root / SUITES / name, name, f"{SUITES}/{name}")
    said = {field: value for field, value in head.items() if field in SUITE_FIELDS} if head else {}
    if not said:
        said = {"ask": {"answer_line": "Answer:"}}
    main = as_yaml({"title": name, **said}).encode("utf-8")
    return files, SuiteContent(name, ((f"{files.shown}/{SUITE_FILE}", main),), files.attachment, files.beside), ()


def _written(files: SuiteFiles, before: SuiteContent, stem: str, update: Update) -> dict[str, bytes]:
    """Return the content of each file that an update changes or makes."""
    contents = dict(before.files)
    written: dict[str, bytes] = {}
    for changed in update.changed:
        file = changed.question.file
        try:
            content = written.get(file, contents[file])
            written[file] = with_question(content, file, _merged(content, file, changed))
        except EditFault as fault:
            raise FileFault(f"{file}: {fault}; nothing was changed") from None
    if update.added:
        path, content = _with_added(files, {**contents, **written}, stem, update.added)
        written[path] = content
    return written


def _merged(content: bytes, file: str, changed: Changed) -> dict[str, Any]:
    """Return the fields that a question has in its file, with those of the update in their places."""
    name = changed.question.id
    if file.endswith(".jsonl"):
        entries: Any = [json.loads(line) for line in content.decode("utf-8").splitlines() if line.strip()]
    else:
        data = read_yaml(content, file).data
        entries = data.get("questions") if isinstance(data, dict) else data
    held = next((one for one in entries if isinstance(one, dict) and str(one.get("id")) == name), None)
    if held is None:
        raise EditFault(f"question {name} was not found")
    merged = {**held, "id": name, **changed.fields}
    return {field: value for field, value in merged.items() if value is not None}


def _with_added(
    files: SuiteFiles, contents: Mapping[str, bytes], stem: str, added: Sequence[ImportedRecord]
) -> tuple[str, bytes]:
    """Return the file that new questions go to: one named after the source, with what it holds already above them."""
    records = [dict(record.fields) for record in added]
    lines = "".join(json.dumps(record, ensure_ascii=False) + "\n" for record in records).encode("utf-8")
    base = f"{files.shown}/{QUESTIONS}/{stem}"
    if f"{base}.jsonl" in contents:
        held = contents[f"{base}.jsonl"]
        return f"{base}.jsonl", held + (b"" if held.endswith(b"\n") else b"\n") + lines
    if f"{base}.yaml" in contents:
        number = next(one for one in range(2, 10_000) if f"{base}-{one}.yaml" not in contents)
        return f"{base}-{number}.yaml", as_yaml(records).encode("utf-8")
    if len(records) > MOST_IN_YAML:
        return f"{base}.jsonl", lines
    return f"{base}.yaml", as_yaml(records).encode("utf-8")


def _at_source(fault: Fault, imported: Imported, source: Source) -> Fault:
    """Return a fault in what would be written as one in the row and column of the file that was given."""
    record = next((one for one in imported.records if str(one.fields["id"]) == fault.question), None)
    if record is None:
        return fault
    place = record.row.place(imported.column_of(fault.field) or fault.field)
    said = f"{place}: {fault.message}" if place else fault.message
    return Fault(fault.kind, said, str(source.path), record.row.line, fault.question, fault.field)
