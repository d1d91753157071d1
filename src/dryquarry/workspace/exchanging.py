"""Bringing questions of other formats into a suite."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass, replace
from io import StringIO
from pathlib import Path
from typing import Any

from ruamel.yaml import YAML
from ruamel.yaml.scalarstring import LiteralScalarString

from dryquarry.errors import Fault, FaultyFiles, FileFault, UsageFault
from dryquarry.suites.exchange import Imported, import_questions
from dryquarry.suites.question_reader import GOOD_NAME
from dryquarry.suites.reader import SuiteContent, read_suite
from dryquarry.workspace.folder import SUITES, Folder
from dryquarry.workspace.suite_files import QUESTIONS, SUITE_FILE, SuiteFiles

MOST_IN_YAML = 300
READABLE = (".csv", ".json", ".jsonl")
NEW_SUITE = 'title: {title}\nask:\n  answer_line: "Answer:"\n'


@dataclass(frozen=True, slots=True)
class Import:
    """What an import found, what is at fault, and the file it was written to (None for a dry run)."""

    imported: Imported
    faults: tuple[Fault, ...]
    path: str | None

    def sample(self, count: int = 3) -> str:
        """Return the first records as YAML."""
        return as_yaml(self.imported.records[:count])


def import_file(
    folder: Folder, source: Path, name: str, columns: Mapping[str, str], scheme: str | None, *, dry_run: bool
) -> Import:
    """Add the questions of a file to a suite, which is made if there is none; nothing is written at a fault.

    Raises UsageFault for a kind of file or a name that cannot be used, FaultyFiles when the suite itself has
    faults, FileFault when the file of these questions is there already.
    """
    if source.suffix not in READABLE:
        raise UsageFault(f"{source} is of no kind that can be imported; known are {', '.join(READABLE)}")
    if not GOOD_NAME.fullmatch(name):
        raise UsageFault(f"'{name}' is no name for a suite; use letters, digits, '-', '_' and '.'")
    try:
        content = source.read_bytes()
    except OSError as error:
        raise FileFault(f"{source} cannot be read: {error.strerror}") from None
    imported = import_questions(content, str(source), columns, scheme, source.stem)
    files, before = _suite_before(folder, name)
    shown, written = _question_file(files, source.stem, imported)
    if imported.faults or not imported.records:
        return Import(imported, imported.faults, None)
    if any(path == shown for path, _ in before.files):
        raise FileFault(f"{shown} is there already; rename {source.name}, or remove that file first")
    faults = read_suite(replace(before, files=(*before.files, (shown, written)))).faults
    if faults or dry_run:
        return Import(imported, faults, None)
    if name not in folder.suite_names():
        files.replace(f"{files.shown}/{SUITE_FILE}", before.files[0][1])
    files.replace(shown, written)
    return Import(imported, (), shown)


def as_yaml(records: Any) -> str:
    """Return records as YAML, texts of several lines as blocks."""
    yaml = YAML()
    yaml.default_flow_style = False
    yaml.width = 110
    yaml.indent(mapping=2, sequence=4, offset=2)
    out = StringIO()
    yaml.dump([_readable(record) for record in records], out)
    return out.getvalue()


def _suite_before(folder: Folder, name: str) -> tuple[SuiteFiles, SuiteContent]:
    if name in folder.suite_names():
        files = folder.files(name)
        content = files.content()
        faults = read_suite(content).faults
        if faults:
            raise FaultyFiles(f"suite '{name}'", faults)
        return files, content
    files = SuiteFiles(folder.root / SUITES / name, name, f"{SUITES}/{name}")
    main = NEW_SUITE.format(title=json.dumps(name)).encode("utf-8")
    return files, SuiteContent(name, ((f"{files.shown}/{SUITE_FILE}", main),), files.attachment)


def _question_file(files: SuiteFiles, stem: str, imported: Imported) -> tuple[str, bytes]:
    if len(imported.records) > MOST_IN_YAML:
        lines = "".join(json.dumps(record, ensure_ascii=False) + "\n" for record in imported.records)
        return f"{files.shown}/{QUESTIONS}/{stem}.jsonl", lines.encode("utf-8")
    return f"{files.shown}/{QUESTIONS}/{stem}.yaml", as_yaml(imported.records).encode("utf-8")


def _readable(content: Any) -> Any:
    if isinstance(content, str) and "\n" in content:
        return LiteralScalarString(content)
    if isinstance(content, Mapping):
        return {name: _readable(value) for name, value in content.items()}
    if isinstance(content, list):
        return [_readable(member) for member in content]
    return content
