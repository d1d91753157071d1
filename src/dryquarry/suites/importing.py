"""Questions from other formats: the rows of a file become records of our fields, each with where it came from."""

from __future__ import annotations

import dataclasses
import re
from collections.abc import Iterable, Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dryquarry.errors import Fault
from dryquarry.suites.digests import parse_json
from dryquarry.suites.import_rows import TABLES, Row, rows_of
from dryquarry.suites.located import UnreadableText, decoded

# What columns are commonly called, by the field they hold.
COLUMN_NAMES: Mapping[str, tuple[str, ...]] = {
    "id": ("id", "no", "nr", "number", "name"),
    "ask": ("ask", "question", "prompt", "task", "problem", "text", "input"),
    "key": ("key", "answer", "solution", "expected", "correct", "correct answer", "result"),
    "options": ("options", "choices", "alternatives"),
    "category": ("category", "topic", "subject", "area"),
    "tags": ("tags", "labels"),
    "family": ("family", "group"),
    "twist": ("twist",),
    "language": ("language",),
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
    "template": ("template",),
}
OPTION_COLUMN = re.compile(r"(?:(?:option|choice)[ _-]?)?([a-z])", re.IGNORECASE)
STRUCTURED = ("options", "mark", "tags", "files", "proofs")
CSV_FIELDS = tuple(name for name in COLUMN_NAMES if name not in ("scheme", "template"))


@dataclass(frozen=True, slots=True)
class ImportedRecord:
    """One question as a record of our fields, and the row it came from."""

    fields: Mapping[str, Any]
    row: Row


@dataclass(frozen=True, slots=True)
class Imported:
    """The records read from a file, how its columns were taken, what was at fault, and what was a guess.

    `named` tells whether the questions bring ids of their own, `head` is what the file says for all questions.
    """

    records: tuple[ImportedRecord, ...]
    columns: Mapping[str, str]
    left_out: tuple[str, ...]
    faults: tuple[Fault, ...]
    advice: tuple[Fault, ...] = ()
    head: Mapping[str, Any] = dataclasses.field(default_factory=dict)
    named: bool = True

    def column_of(self, name: str | None) -> str | None:
        """Return the column that a field was taken from."""
        wanted = ("mark", "scheme") if name == "mark" else (name,)
        return next((column for column, taken in self.columns.items() if taken in wanted), None)


class CellFault(ValueError):
    """A cell that cannot be read as its field."""

    def __init__(self, message: str, field: str):
        super().__init__(message)
        self.field = field


def import_questions(
    content: bytes,
    file: str,
    columns: Mapping[str, str],
    scheme: str | None,
    prefix: str,
    separator: str | None = None,
) -> Imported:
    """Return the questions in a CSV, JSON or JSONL file as records of our fields.

    `columns` maps columns to fields where guessing by name would go wrong (an empty field leaves a column
    out), `scheme` is for questions that do not say, `prefix` begins the ids of questions without one. Cells are
    parted by `separator`, or by what parts the first line.
    """
    try:
        found = rows_of(decoded(content, file), file, separator)
    except UnreadableText as error:
        return Imported((), {}, (), (error.fault,))
    names = list(dict.fromkeys(name for row in found.rows for name in row.values))
    mapping = guessed_columns(names, columns)
    faults = _mapping_faults(file, names, mapping, columns)
    reading = _Reading(file, mapping, scheme, faults, typed=not file.endswith(TABLES))
    reading.decimal_comma = found.separator == ";"
    records = [reading.record(row, f"{prefix}-{number:03d}") for number, row in enumerate(found.rows, start=1)]
    return Imported(
        tuple(record for record in records if record is not None),
        mapping,
        tuple(name for name in names if name not in mapping),
        tuple(faults),
        tuple(reading.advice),
        found.head,
        "id" in mapping.values(),
    )


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


class _Reading:
    """Rows on their way to records; `typed` says that values are what they are, as in JSON."""

    def __init__(self, file: str, mapping: Mapping[str, str], scheme: str | None, faults: list[Fault], *, typed: bool):
        self.file = file
        self.mapping = mapping
        self.scheme = scheme
        self.faults = faults
        self.typed = typed
        self.decimal_comma = False
        self.advice: list[Fault] = []
        self.columns = {taken: column for column, taken in mapping.items()}
        self.first: dict[str, Row] = {}

    def record(self, row: Row, name: str) -> ImportedRecord | None:
        """Return one row as a record, or None with a fault noted for a cell that cannot be read."""
        try:
            record = ImportedRecord(self._fields(row, name), row)
            first = self.first.setdefault(str(record.fields["id"]), row)
            if first is not row:
                where = f"row {first.number}" if first.number else f"line {first.line}"
                raise CellFault(f"the id '{record.fields['id']}' stands twice, first in {where}", "id")
        except CellFault as fault:
            self.faults.append(self._told("import", str(fault), row, fault.field))
            return None
        return record

    def _fields(self, row: Row, name: str) -> dict[str, Any]:
        fields: dict[str, Any] = {"id": name}
        letters: dict[str, Any] = {}
        for column, taken in self.mapping.items():
            value = row.values.get(column)
            if value is None or value == "":
                continue
            if taken.startswith("option "):
                letters[taken[-1]] = value
            else:
                fields[taken] = value if self.typed or taken == "key" else _value(taken, value)
        if letters:
            fields["options"] = dict(sorted(letters.items()))
        if "template" in row.values and self.typed:
            return {"id": name, **row.values}
        own = fields.pop("scheme", None)
        if "mark" in fields:
            if "key" in fields and not self.typed:
                fields["key"] = plain_key(fields["key"])
            return fields
        self._guess(fields, str(own or self.scheme or ""), row)
        return fields

    def _guess(self, fields: dict[str, Any], scheme: str, row: Row) -> None:
        """Give a question without `mark` the one that its key is of, where no scheme was named for it."""
        from dryquarry.marking.values.written_keys import key_written  # with all that reads numbers

        key = fields.get("key")
        if "options" in fields and not scheme:
            scheme = "choice"
        written = None
        if scheme in ("", "number") and isinstance(key, str) and not _is_json(key, self.typed):
            written = key_written(key, decimal_comma=self.decimal_comma)
        if written is not None and not (written.is_day and scheme):
            fields["key"] = written.key
            unit = {"unit": written.unit} if written.unit else {}
            fields["mark"] = {"scheme": "exact"} if written.is_day else {"scheme": "number", **unit}
            guess = written.guess or (f"the text '{key}' is taken as a number" if self.typed else None)
            if guess:
                self.advice.append(self._told("guess", guess, row, "key"))
            return
        if key is not None and not self.typed:
            read = plain_key(key)
            fields["key"] = key if scheme == "exact" and isinstance(read, int | float) else read
        number = isinstance(fields.get("key"), int | float) and not isinstance(fields.get("key"), bool)
        fields["mark"] = {"scheme": scheme or ("number" if number else "exact")}

    def _told(self, kind: str, message: str, row: Row, taken: str) -> Fault:
        place = row.place(self.columns.get(taken))
        return Fault(kind, f"{place}: {message}" if place else message, self.file, row.line, field=taken)


def _is_json(key: str, typed: bool) -> bool:
    """Tell whether a cell holds a list, a mapping or a text in quotes, which are what they are."""
    return not typed and key.lstrip()[:1] in ("[", "{", '"')


def _value(name: str, value: Any) -> Any:
    if not isinstance(value, str):
        return value
    if name in STRUCTURED:
        if value.lstrip().startswith(("{", "[")):
            return _parsed(name, value)
        parts = [part.strip() for part in re.split(r"[|;\n]" if name == "options" else r"[|;,\n]", value)]
        return [part for part in parts if part]
    if name == "ask":
        return _parsed(name, value) if value.startswith('["') else value
    if name == "weight":
        try:
            return float(value)
        except ValueError:
            raise CellFault(f"the weight '{value}' is not a number", name) from None
    return value


def _parsed(name: str, value: str) -> Any:
    try:
        return parse_json(value)
    except ValueError as error:
        raise CellFault(f"not readable as JSON: {error}", name) from None


def plain_key(text: str) -> Any:
    """Return a key as JSON has it where it is JSON ("[1, 2]", "50", '"1902"'), else as the text it is."""
    if not isinstance(text, str) or not re.match(r'[-\d\[{"]', text.strip()):
        return text
    try:
        return parse_json(text)
    except ValueError:
        return text
