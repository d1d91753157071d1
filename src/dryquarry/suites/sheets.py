"""Sheets: questions written out for asking by hand, with a place for each reply, and the replies read back.

Three forms that say the same: Markdown to paste replies into, CSV, and JSON lines. A reply comes back exactly as
it was put in, blank lines, code and all.
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Iterable, Sequence
from dataclasses import asdict
from typing import Any

from dryquarry.errors import Fault, FaultyFiles
from dryquarry.suites.csv_text import CsvFault, csv_rows
from dryquarry.suites.digests import parse_json
from dryquarry.suites.markdown_sheets import read_markdown, write_markdown
from dryquarry.suites.sheet_entry import SheetEntry

FORMS = ("md", "csv", "jsonl")
FIELDS = ("suite", "edition", "entrant", "question", "trial", "ask_digest", "text", "reply")

_FORMULA = ("=", "+", "-", "@", "\t", "\r")


def write_sheet(entries: Sequence[SheetEntry], form: str, system: str | None = None) -> str:
    """Return the sheet of entries that are all of one suite's edition and one entrant."""
    if form == "csv":
        return _csv(entries)
    if form == "jsonl":
        return "".join(json.dumps(asdict(entry), ensure_ascii=False) + "\n" for entry in entries)
    return write_markdown(entries, system)


def read_sheet(text: str, form: str, file: str) -> list[SheetEntry]:
    """Return the entries of a sheet with the replies filled in; raises FaultyFiles with every fault."""
    faults: list[Fault] = []
    if form == "md":
        found = read_markdown(text, file, faults)
    else:
        rows = _csv_rows(text, file, faults) if form == "csv" else _json_rows(text, file, faults)
        found = [entry for line, row in rows if (entry := _entry(row, file, line, faults)) is not None]
    first: set[tuple[str, str, str, str, int]] = set()
    for entry in found:
        place = (entry.suite, entry.edition, entry.entrant, entry.question, entry.trial)
        if place in first:
            said = f"trial {entry.trial} stands twice; leave one of the two, as only one can be its reply"
            faults.append(Fault("duplicate", said, file, None, entry.question))
        first.add(place)
    if not found and not faults:
        faults.append(Fault("unreadable", "there is no place for a reply in it; is it a sheet?", file))
    if faults:
        raise FaultyFiles(file, faults)
    return found


def _csv(entries: Sequence[SheetEntry]) -> str:
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n", quoting=csv.QUOTE_ALL)
    writer.writerow(FIELDS)
    for entry in entries:
        row = asdict(entry)
        if row["text"].startswith(_FORMULA):
            row["text"] = "'" + row["text"]
        writer.writerow([row[name] for name in FIELDS])
    return out.getvalue()


def _csv_rows(text: str, file: str, faults: list[Fault]) -> Iterable[tuple[int, Any]]:
    try:
        rows = list(csv_rows(text))
    except CsvFault as fault:
        faults.append(Fault("unreadable", f"not readable as CSV: {fault}", file, fault.line))
        return []
    names = rows[0][1] if rows else []
    missing = [name for name in FIELDS if name not in names and name != "text"]
    if missing:
        said = f"the first line names no column {', '.join(missing)}; a sheet has {', '.join(FIELDS)}"
        faults.append(Fault("unreadable", said, file, 1))
        return []
    return [(line, dict(zip(names, cells, strict=False))) for line, cells in rows[1:] if any(cells)]


def _json_rows(text: str, file: str, faults: list[Fault]) -> Iterable[tuple[int, Any]]:
    for number, line in enumerate(text.removeprefix("\ufeff").split("\n"), start=1):
        if not line.strip():
            continue
        try:
            yield number, parse_json(line)
        except ValueError as error:
            faults.append(Fault("unreadable", f"not readable as JSON: {error}", file, number))


def _entry(row: Any, file: str, line: int, faults: list[Fault]) -> SheetEntry | None:
    wanted = [name for name in FIELDS if name not in ("text", "reply", "trial")]
    lacking = [name for name in wanted if not isinstance(row, dict) or not isinstance(row.get(name), str)]
    if lacking:
        faults.append(Fault("missing-field", f"no {', '.join(lacking)}", file, line))
        return None
    trial, reply = str(row.get("trial", "")), row.get("reply") or ""
    if not re.fullmatch(r"[1-9]\d{0,5}", trial) or not isinstance(reply, str):
        field = "reply" if not isinstance(reply, str) else "trial"
        faults.append(Fault("wrong-shape", f"'{field}' is not readable: {row.get(field)!r}", file, line))
        return None
    return SheetEntry(**{name: row[name] for name in wanted}, trial=int(trial), reply=reply)
