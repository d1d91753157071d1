"""Questions from and to other formats: CSV, JSON and JSONL in, CSV, JSONL and Markdown out."""

from __future__ import annotations

import csv
import io
import json
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dryquarry.errors import Fault
from dryquarry.suites.digests import parse_json
from dryquarry.suites.question import Suite
from dryquarry.suites.records import question_record
from dryquarry.suites.yaml_text import UnreadableText, decoded

# What columns are commonly called, by the field they hold.
COLUMN_NAMES: Mapping[str, tuple[str, ...]] = {
    "id": ("id", "no", "nr", "number", "name"),
    "ask": ("ask", "question", "prompt", "task", "problem", "text", "input"),
    "key": ("key", "answer", "solution", "expected", "correct", "correct answer", "result"),
    "options": ("options", "choices", "alternatives"),
    "category": ("category", "topic", "subject", "area"),
    "tags": ("tags", "labels"),
    "family": ("family", "group"),
    "level": ("level", "difficulty"),
    "weight": ("weight", "points"),
    "why": ("why", "explanation", "rationale"),
    "source": ("source", "origin", "author"),
    "scheme": ("scheme",),
    "mark": ("mark",),
    "state": ("state", "status"),
    "retired_because": ("retired_because",),
    "second_try": ("second_try",),
    "files": ("files",),
    "answer_line": ("answer_line",),
    "proofs": ("proofs",),
}
OPTION_COLUMN = re.compile(r"(?:(?:option|choice)[ _-]?)?([a-z])", re.IGNORECASE)
STRUCTURED = ("options", "mark", "tags", "files", "proofs")
CSV_FIELDS = tuple(name for name in COLUMN_NAMES if name != "scheme")


@dataclass(frozen=True, slots=True)
class Imported:
    """The records read from a file, how its columns were taken, and what was at fault."""

    records: tuple[Mapping[str, Any], ...]
    columns: Mapping[str, str]
    left_out: tuple[str, ...]
    faults: tuple[Fault, ...]


def import_questions(
    content: bytes, file: str, columns: Mapping[str, str], scheme: str | None, prefix: str
) -> Imported:
    """Return the questions in a CSV, JSON or JSONL file as records of our fields.

    `columns` maps columns to fields where guessing by name would go wrong (an empty field leaves a column
    out), `scheme` is for questions that do not say, `prefix` begins the ids of questions without one.
    """
    try:
        text = decoded(content, file)
        rows = _rows(text, file)
    except UnreadableText as error:
        return Imported((), {}, (), (error.fault,))
    names = list(dict.fromkeys(name for _, row in rows for name in row))
    mapping = guessed_columns(names, columns)
    faults = _mapping_faults(file, names, mapping, columns)
    records: list[Mapping[str, Any]] = []
    for number, (line, row) in enumerate(rows, start=1):
        try:
            records.append(_record(row, mapping, scheme, f"{prefix}-{number:03d}", typed=not file.endswith(".csv")))
        except ValueError as error:
            faults.append(Fault("import", str(error), file, line))
    left_out = tuple(name for name in names if name not in mapping)
    return Imported(tuple(records) if not faults else (), mapping, left_out, tuple(faults))


def guessed_columns(names: Iterable[str], given: Mapping[str, str]) -> dict[str, str]:
    """Return the field of each column: as given, else by its name; a field is taken once."""
    mapping = {name: field for name, field in given.items() if field}
    for name in names:
        plain = " ".join(re.split(r"[\s_-]+", name.strip().casefold()))
        if name in given or name in mapping:
            continue
        for field, known in COLUMN_NAMES.items():
            if field not in mapping.values() and (plain in known or plain.replace(" ", "_") in known):
                mapping[name] = field
                break
        else:
            letter = OPTION_COLUMN.fullmatch(plain)
            if letter:
                mapping[name] = f"option {letter.group(1).upper()}"
    return mapping


def export_csv(suite: Suite) -> str:
    """Return the questions as CSV; what is no plain text (lists, mappings) stands in its cell as JSON."""
    out = io.StringIO()
    writer = csv.writer(out, lineterminator="\n")
    writer.writerow(CSV_FIELDS)
    for question in suite.questions:
        record = question_record(question)
        writer.writerow([_cell(name, record.get(name)) for name in CSV_FIELDS])
    return out.getvalue()


def export_jsonl(suite: Suite) -> str:
    """Return the questions as JSON lines, each as a file in `questions/` may hold it."""
    records = (question_record(question) for question in suite.questions)
    kept = ({name: value for name, value in record.items() if name != "drawn"} for record in records)
    return "".join(json.dumps(record, ensure_ascii=False) + "\n" for record in kept)


def export_markdown(suite: Suite, *, keys: bool) -> str:
    """Return a question sheet in Markdown, with or without the keys."""
    lines = [f"# {suite.title}", ""]
    if suite.about:
        lines += [suite.about, ""]
    for number, question in enumerate(suite.asked(), start=1):
        lines += [f"## {number}. {question.id}", "", "\n\n".join(question.texts), ""]
        lines += [f"- **{letter}** {text}" for letter, text in question.marking.choices]
        if question.marking.choices:
            lines.append("")
        if keys:
            key = question.marking.key
            said = key if isinstance(key, str) else json.dumps(key, ensure_ascii=False)
            lines += [f"*Key*: {said if key is not None else f'by {question.marking.scheme}'}", ""]
            lines += [f"*Why*: {question.why}", ""] if question.why else []
    return "\n".join(lines)


def not_held(suite: Suite, form: str, *, keys: bool = True) -> list[str]:
    """Return what an export in this format leaves out."""
    lost = []
    if suite.system or suite.answer_line or suite.rubrics:
        lost.append("what the suite says for all questions (system text, answer line, rubrics)")
    if suite.templates:
        lost.append("templates: their instances are written as questions of their own")
    if form == "markdown":
        lost.append(
            "how answers are marked, notes and states, and retired questions" + ("" if keys else ", and the keys")
        )
    return lost


def _rows(text: str, file: str) -> list[tuple[int, Mapping[str, Any]]]:
    """Return each row with its line; raises UnreadableText."""
    if file.endswith(".csv"):
        return _csv_rows(text, file)
    if file.endswith(".jsonl"):
        entries = [(number, line) for number, line in enumerate(text.split("\n"), start=1) if line.strip()]
        return [(number, _object(_parsed(line, file, number), file, number)) for number, line in entries]
    data = _parsed(text, file, 1)
    if isinstance(data, dict) and isinstance(data.get("questions"), list):
        data = data["questions"]
    if not isinstance(data, list):
        raise UnreadableText(Fault("unreadable", "the file holds no list of questions", file, 1))
    return [(1, _object(entry, file, 1)) for entry in data]


def _csv_rows(text: str, file: str) -> list[tuple[int, Mapping[str, Any]]]:
    reader = csv.reader(io.StringIO(text), strict=True)
    rows: list[tuple[int, Mapping[str, Any]]] = []
    try:
        header = next(reader, [])
        for cells in reader:
            if not any(cells):
                continue
            if len(cells) != len(header):
                said = f"the row has {len(cells)} cells, the header {len(header)}"
                raise UnreadableText(Fault("unreadable", said, file, reader.line_num))
            rows.append((reader.line_num, dict(zip(header, cells, strict=True))))
    except csv.Error as error:
        raise UnreadableText(Fault("unreadable", f"not readable as CSV: {error}", file, reader.line_num)) from None
    return rows


def _parsed(text: str, file: str, line: int) -> Any:
    try:
        return parse_json(text)
    except ValueError as error:
        raise UnreadableText(Fault("unreadable", f"not readable as JSON: {error}", file, line)) from None


def _object(entry: Any, file: str, line: int) -> Mapping[str, Any]:
    if not isinstance(entry, dict):
        raise UnreadableText(Fault("unreadable", "a question is an object with fields", file, line))
    return entry


def _mapping_faults(
    file: str, names: Sequence[str], mapping: Mapping[str, str], given: Mapping[str, str]
) -> list[Fault]:
    faults = []
    for column, field in given.items():
        if column not in names:
            faults.append(Fault("import", f"there is no column '{column}'; there are {', '.join(names)}", file, 1))
        if field and field not in COLUMN_NAMES and not re.fullmatch(r"option [A-Z]", field):
            known = ", ".join(COLUMN_NAMES)
            faults.append(Fault("import", f"there is no field '{field}'; known are {known}, and 'option A' …", file, 1))
    if "ask" not in mapping.values():
        said = f"no column holds the question; there are {', '.join(names) or 'none'}; say which with --column NAME=ask"
        faults.append(Fault("import", said, file, 1))
    return faults


def _record(
    row: Mapping[str, Any], mapping: Mapping[str, str], scheme: str | None, name: str, *, typed: bool
) -> dict[str, Any]:
    """Return one row as a record; raises ValueError for a cell that cannot be read.

    `typed` says that values are what they are, as in JSON, and not cells that stand for something.
    """
    record: dict[str, Any] = {"id": name}
    letters: dict[str, Any] = {}
    for column, field in mapping.items():
        value = row.get(column)
        if value is None or value == "":
            continue
        if field.startswith("option "):
            letters[field[-1]] = value
        else:
            record[field] = value if typed else _value(field, value)
    if letters:
        record["options"] = dict(sorted(letters.items()))
    own = record.pop("scheme", None)
    if "mark" not in record:
        chosen = str(own or scheme or _fitting_scheme(record))
        record["mark"] = {"scheme": chosen}
    if record["mark"].get("scheme") == "exact" and isinstance(record.get("key"), float):
        record["key"] = str(row[next(column for column, field in mapping.items() if field == "key")])
    return record


def _value(field: str, value: Any) -> Any:
    if not isinstance(value, str):
        return value
    if field in STRUCTURED:
        if value.lstrip().startswith(("{", "[")):
            return parse_json(value)
        parts = [part.strip() for part in re.split(r"[|;\n]" if field == "options" else r"[|;,\n]", value)]
        return [part for part in parts if part]
    if field == "ask":
        return parse_json(value) if value.startswith('["') else value
    if field == "weight":
        try:
            return float(value)
        except ValueError:
            raise ValueError(f"the weight '{value}' is not a number") from None
    return _key(value) if field == "key" else value


def _key(text: str) -> Any:
    """Return a key as JSON has it where it is JSON ("[1, 2]", "50", '"1902"'), else as the text it is."""
    if not re.match(r'[-\d\[{"]', text.strip()):
        return text
    try:
        return parse_json(text)
    except ValueError:
        return text


def _fitting_scheme(record: Mapping[str, Any]) -> str:
    if "options" in record:
        return "choice"
    return "number" if isinstance(record.get("key"), int | float) else "exact"


def _cell(field: str, value: Any) -> str:
    if value is None:
        return ""
    if field == "key" and isinstance(value, str) and _key(value) != value:
        return json.dumps(value, ensure_ascii=False)
    return value if isinstance(value, str) else json.dumps(value, ensure_ascii=False)
