"""What came of running what replies hold: the tests, one by one, and what the program wrote."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import asdict
from typing import Any

from dryquarry.marking.schemes.query import REPLY, row_told
from dryquarry.marking.works.languages import language_named
from dryquarry.marking.works.results import Ran, result_content
from dryquarry.showing import figures
from dryquarry.showing.text import labelled, quoted
from dryquarry.workspace.works import WorkRun

PASSED, FAILED = "■", "□"
MOST_LINES = 12
MOST_ROWS = 8


def works_lines(runs: Sequence[WorkRun], width: int | None) -> list[str]:
    """Return what came of a reply's works as lines: with what it was run, each test, what was written."""
    lines: list[str] = []
    for run in runs:
        lines.append("")
        facts = [("run", run_said(run) + _seen(run))]
        facts += [("test", _check(one.passed, one.name, one.said)) for one in run.checks]
        for label, value in facts:
            lines += labelled(label, value, width)
        for label, text in streams_said(run):
            lines += [*labelled(label, "", width), *quoted(text, width)]
    return lines


def works_facts(runs: Sequence[WorkRun]) -> list[tuple[str, str]]:
    """Return what came of a reply's works in labelled texts of one line each."""
    facts: list[tuple[str, str]] = []
    for run in runs:
        facts.append(("run", run_said(run) + _seen(run)))
        facts += [("test", _check(one.passed, one.name, one.said)) for one in run.checks]
        facts += [(label, " / ".join(text.splitlines())) for label, text in streams_said(run)]
    return facts


def works_data(runs: Sequence[WorkRun]) -> list[dict[str, Any]]:
    """Return what came of a reply's works as data: files, tests, streams, seconds and memory."""
    return [
        {
            "language": run.work.language,
            "files": [asdict(one) for one in run.work.files],
            "main": run.work.main,
            "taken": run.work.how,
            "tests": [asdict(one) for one in run.checks],
            "result": result_content(run.result),
        }
        for run in runs
    ]


def run_said(run: WorkRun) -> str:
    """Return with what a work was run, and what that took."""
    work, result = run.work, run.result
    how = f", {work.how}" if work.how else ""
    took = f"{figures.seconds(result.seconds)} s" + (f", {result.memory_mb:.0f} MB" if result.memory_mb else "")
    return f"{work.main}{how} ({language_named(work.language).title}) · {result.runtime} · {took}"


def _seen(run: WorkRun) -> str:
    pictures = len({digest for one in run.result.tests for digest in one.pictures})
    return f" · {figures.plural(pictures, 'picture')}, which 'dryquarry gallery' writes" if pictures else ""


def _check(passed: bool, name: str, said: str) -> str:
    return f"{PASSED if passed else FAILED} {name}" + (f": {said}" if said else "")


def streams_said(run: WorkRun) -> Iterator[tuple[str, str]]:
    """Yield what was written, as far as it is shown, what several tests wrote alike once, and a query's rows."""
    for label, text in _streams(run):
        yield label, _cut(text)


def _streams(run: WorkRun) -> Iterator[tuple[str, str]]:
    if run.result.build is not None:
        yield "compiler", run.result.build
    written: dict[tuple[str, str], list[str]] = {}
    for one in run.result.tests:
        if one.name == REPLY and isinstance(one.value, dict):
            yield "rows", _rows(one)
        for stream, text in (("output", one.out), ("errors", one.err)):
            if text.strip():
                written.setdefault((stream, text), []).append(one.name)
        for text in one.screens[-1:]:
            written.setdefault(("screen", text), []).append(one.name)
    for (stream, text), names in written.items():
        yield f"{stream} of {_names(names, len(run.result.tests))}", text


def _names(names: Sequence[str], of: int) -> str:
    if len(names) == of > 1:
        return "each test"
    return ", ".join(f"'{name}'" for name in names[:3]) + (f" and {len(names) - 3} more" if len(names) > 3 else "")


def _rows(ran: Ran) -> str:
    if "rows" not in ran.value:
        return ", ".join(f"{name}: {figures.plural(len(table['rows']), 'row')}" for name, table in ran.value.items())
    rows = ran.value["rows"]
    more = f" and {len(rows) - MOST_ROWS} more" if len(rows) > MOST_ROWS else ""
    return f"{', '.join(ran.value['columns'])}: " + ", ".join(map(row_told, rows[:MOST_ROWS])) + more


def _cut(text: str) -> str:
    lines = text.rstrip().splitlines()
    more = f"\n… and {figures.plural(len(lines) - MOST_LINES, 'line')} more" if len(lines) > MOST_LINES else ""
    return "\n".join(line[:300] for line in lines[:MOST_LINES]) + more
