"""Sheets: questions written out for asking by hand, with a place for each reply, and the replies read back.

Three forms that say the same: Markdown to paste replies into, CSV, and JSON lines. A reply comes back exactly as
it was put in, blank lines, code and all.
"""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import asdict, dataclass
from typing import Any

from dryquarry.errors import Fault, FaultyFiles
from dryquarry.suites.digests import parse_json

FORMS = ("md", "csv", "jsonl")
FIELDS = ("suite", "edition", "entrant", "question", "trial", "ask_digest", "text", "reply")
LONGEST_REPLY = 10_000_000

_HEAD = re.compile(r"<!-- sheet: (?P<facts>\{.*\}) -->")
_BEGIN = re.compile(r"<!-- reply: (?P<question>\S+), trial (?P<trial>[1-9]\d{0,5}), (?P<digest>[0-9a-f]{64}) -->")
_FORMULA = ("=", "+", "-", "@", "\t", "\r")


@dataclass(frozen=True, slots=True)
class SheetEntry:
    """One reply to be had by hand, or had: `text` is what to ask, `reply` what came back, empty if nothing did."""

    suite: str
    edition: str
    entrant: str
    question: str
    trial: int
    ask_digest: str
    text: str = ""
    reply: str = ""


def write_sheet(entries: Sequence[SheetEntry], form: str, system: str | None = None) -> str:
    """Return the sheet of entries that are all of one suite's edition and one entrant."""
    if form == "csv":
        return _csv(entries)
    if form == "jsonl":
        return "".join(json.dumps(asdict(entry), ensure_ascii=False) + "\n" for entry in entries)
    return _markdown(entries, system)


def read_sheet(text: str, form: str, file: str) -> list[SheetEntry]:
    """Return the entries of a sheet with the replies filled in; raises FaultyFiles with every fault."""
    faults: list[Fault] = []
    if form == "md":
        found = _from_markdown(text, file, faults)
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


def _markdown(entries: Sequence[SheetEntry], system: str | None) -> str:
    first = entries[0]
    facts = {"suite": first.suite, "edition": first.edition, "entrant": first.entrant}
    parts = [
        f"<!-- sheet: {json.dumps(facts, ensure_ascii=False)} -->",
        f"# {first.suite}@{first.edition}, asked of {first.entrant} by hand",
        "Put each question in a conversation of its own. Paste the reply, as it came, between the two lines\n"
        "`reply` and `end` below the question; leave the place empty where there is none. Then:\n"
        "`dryquarry collect` with the name of this file.",
    ]
    if system:
        parts += ["System text, where there is a place for one:", _fenced(system)]
    for number, entry in enumerate(entries, start=1):
        trial = f" · trial {entry.trial}" if entry.trial > 1 else ""
        parts += [
            f"## {number} of {len(entries)} · {entry.question}{trial}",
            _fenced(entry.text),
            f"<!-- reply: {entry.question}, trial {entry.trial}, {entry.ask_digest} -->\n"
            f"{entry.reply}\n{_end(entry.question, entry.trial)}",
        ]
    return "\n\n".join(parts) + "\n"


def _end(question: str, trial: int) -> str:
    return f"<!-- end: {question}, trial {trial} -->"


def _fenced(text: str) -> str:
    fence = "```"
    while fence in text:
        fence += "`"
    return f"{fence}\n{text}\n{fence}"


def _from_markdown(text: str, file: str, faults: list[Fault]) -> list[SheetEntry]:
    if "\r\n" in text and "\n" not in text.replace("\r\n", ""):
        text = text.replace("\r\n", "\n")  # saved by an editor that ends all lines so
    lines = text.split("\n")
    facts = _facts(lines, file, faults)
    if facts is None:
        return []
    entries = []
    begin: re.Match[str] | None = None
    start = 0
    for number, line in enumerate(lines):
        if begin is None:
            begin, start = _BEGIN.fullmatch(line.rstrip()), number + 1
        elif line.rstrip() == _end(begin["question"], int(begin["trial"])):
            reply = "\n".join(lines[start:number])
            place = (begin["question"], int(begin["trial"]), begin["digest"])
            entries.append(SheetEntry(facts["suite"], facts["edition"], facts["entrant"], *place, reply=reply))
            begin = None
    if begin is not None:
        said = f"the line '{_end(begin['question'], int(begin['trial']))}' is missing; put it back below the reply"
        faults.append(Fault("unreadable", said, file, start, begin["question"]))
    return entries


def _facts(lines: Sequence[str], file: str, faults: list[Fault]) -> Mapping[str, str] | None:
    """Return the suite, edition and entrant that the sheet's first line names."""
    match = next((match for line in lines[:20] if (match := _HEAD.fullmatch(line.strip().lstrip("\ufeff")))), None)
    try:
        facts = parse_json(match["facts"]) if match else {}
    except ValueError:
        facts = {}
    if not isinstance(facts, dict) or not all(isinstance(facts.get(name), str) for name in FIELDS[:3]):
        said = "its first line, which names the suite, edition and entrant, is missing or changed; write the sheet anew"
        faults.append(Fault("unreadable", said, file, 1))
        return None
    return facts


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
    csv.field_size_limit(LONGEST_REPLY)
    reader = csv.DictReader(io.StringIO(text.removeprefix("\ufeff"), newline=""), strict=True)
    try:
        missing = [name for name in FIELDS if name not in (reader.fieldnames or ()) and name != "text"]
        if missing:
            said = f"the first line names no column {', '.join(missing)}; a sheet has {', '.join(FIELDS)}"
            faults.append(Fault("unreadable", said, file, 1))
            return []
        return [(reader.line_num, row) for row in reader]
    except csv.Error as error:
        faults.append(Fault("unreadable", f"not readable as CSV: {error}", file, reader.line_num))
        return []


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
