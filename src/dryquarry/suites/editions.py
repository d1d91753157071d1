"""Sealed editions: written once as canonical JSON lines, verified whenever they are read.

The first line is the header, each further line a question with its ask and mark digest; every line ends with
the digest of all else in it, and the header's digest covers the digests of all lines too. So a change
anywhere in the file shows, and on which line.
"""

from __future__ import annotations

from array import array
from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from functools import cache
from hashlib import sha256
from typing import Any

import orjson

from dryquarry.errors import Fault, FileFault
from dryquarry.marking.model import Marking
from dryquarry.suites.ask import Ask, Attachment
from dryquarry.suites.digests import canonical_json, digest, parse_json
from dryquarry.suites.question import LazyQuestions, Question, Seal, State, Suite
from dryquarry.suites.question_reader import SEALED_FIELDS, Defaults, read_question
from dryquarry.suites.records import content_digest, line_content, suite_record
from dryquarry.suites.rubric_reader import rubric_of
from dryquarry.suites.templates import Template, read_template

FORM = 1


class EditionFault(FileFault):
    """A sealed edition that cannot be trusted; the message names the file and the line."""


def write_edition(suite: Suite, number: int, sealed_at: str, note: str) -> bytes:
    """Return the content of the edition's file; `sealed_at` is UTC in ISO 8601."""
    lines = []
    digests = []
    for question in suite.questions:
        content = line_content(question)
        digests.append(digest(content))
        lines.append(canonical_json({**content, "digest": digests[-1]}))
    header = {
        "dryquarry": "edition",
        "form": FORM,
        "suite": suite.name,
        "edition": number,
        "sealed_at": sealed_at,
        "note": note,
        "questions": len(lines),
        "content": content_digest(suite),
        **suite_record(suite),
    }
    header["digest"] = edition_digest(header, digests)
    return ("\n".join([canonical_json(header), *lines]) + "\n").encode("utf-8")


def edition_digest(header: Mapping[str, Any], digests: list[str]) -> str:
    """Return the digest of an edition: of its header without `digest`, with the digests of its lines."""
    content = {name: value for name, value in header.items() if name != "digest"}
    return digest({**content, "lines": digests})


def read_edition(name: str, file: str, content: bytes, *, lazily: bool = False, for_standings: bool = False) -> Suite:
    """Return the suite in an edition's file; raises EditionFault where a digest does not hold.

    `name` is the suite's name by its folder. With `lazily` its questions are read when they are looked at and not
    kept, so that a very large edition takes little more room than its file. With `for_standings` they have
    what standings take and no more: neither what reaches a model nor a key, in a third of the time.
    """
    try:
        return _read(name, file, content, lazily=lazily, for_standings=for_standings)
    except (ArithmeticError, AttributeError, LookupError, TypeError, ValueError, RecursionError) as error:
        said = f"it has not the shape of an edition ({type(error).__name__}: {error})"
        raise EditionFault(f"{file}: {_changed(said)}") from None


def _read(name: str, file: str, content: bytes, *, lazily: bool, for_standings: bool) -> Suite:
    lines = _Lines(file, content)
    header = _header(file, lines[0])
    digests, retired, sparing = [], set(), []
    parse = _json_roughly if for_standings else _json
    for place in range(1, len(lines)):
        entry = _entry(file, place + 1, lines[place], parse)
        digests.append(entry["digest"])
        if entry["question"].get("state") == State.RETIRED:
            retired.add(place)
        if for_standings:
            sparing.append(_sparing_question(file, place + 1, entry))
    if len(digests) != header["questions"]:
        said = f"its header says {header['questions']} questions, {len(digests)} are there; it was cut short"
        raise EditionFault(f"{file}: {_changed(said)}")
    if edition_digest(header, digests) != header["digest"]:
        raise EditionFault(f"{file}:1: {_changed('the digest of the header does not hold')}")
    defaults = _defaults(header)

    def read(place: int) -> Question:
        return _question(file, place + 1, _json(lines[place]), defaults)

    if for_standings:
        return _suite(name, header, defaults, sparing)
    places = range(1, len(lines))
    questions = LazyQuestions(read, places, frozenset(retired)) if lazily else tuple(read(place) for place in places)
    return _suite(name, header, defaults, questions)


class _Lines:
    """The lines of a file, each taken out of it only when it is wanted."""

    def __init__(self, file: str, content: bytes):
        try:
            content.decode("utf-8")
        except UnicodeDecodeError:
            raise EditionFault(f"{file}: {_changed('it is not a text in UTF-8')}") from None
        self._content = content
        # An array of numbers: a list of lines would take several times the room of the file.
        self._starts, start = array("Q"), 0
        while start < len(content):
            self._starts.append(start)
            end = content.find(b"\n", start)
            start = len(content) if end < 0 else end + 1

    def __len__(self) -> int:
        return len(self._starts)

    def __getitem__(self, place: int) -> bytes:
        """Return the line at a place, the first being 0, without its end."""
        if place >= len(self._starts):
            return b""
        end = self._starts[place + 1] if place + 1 < len(self._starts) else len(self._content)
        return self._content[self._starts[place] : end].removesuffix(b"\n")


def _changed(what: str) -> str:
    return f"{what}: the edition is not as it was sealed; restore the file from version control"


def _header(file: str, line: bytes) -> Mapping[str, Any]:
    header = _json(line)
    if not isinstance(header, dict) or not {"dryquarry", "questions", "digest"} <= header.keys():
        raise EditionFault(f"{file}:1: {_changed('this is not the header of an edition')}")
    if header.get("form") != FORM:
        raise EditionFault(f"{file}:1: form {header.get('form')} of edition files is not known; use a newer version")
    return header


def _entry(file: str, number: int, line: bytes, parse: Callable[[bytes], Any]) -> Mapping[str, Any]:
    entry = parse(line)
    if not isinstance(entry, dict) or not isinstance(entry.get("question"), dict):
        raise EditionFault(f"{file}:{number}: {_changed('the line is not readable; it was cut short or edited')}")
    stated = entry.get("digest")
    # A line as `seal` writes it is canonical but for its digest, and then need not be written out once more.
    without = line.replace(b'"digest":"%s",' % str(stated).encode("utf-8"), b"", 1)
    if sha256(without).hexdigest() != stated and _line_digest(line) != stated:
        label = entry["question"].get("id")
        raise EditionFault(f"{file}:{number}: question {label}: {_changed('the digest of the line does not hold')}")
    return entry


def _line_digest(line: bytes) -> str:
    """Return the digest of what a line holds beside the one that it states, however it is written."""
    return digest({part: value for part, value in _json(line).items() if part != "digest"})


def _json(line: bytes) -> Any:
    """Return what is in a line, or None where it is not JSON."""
    try:
        return parse_json(line.decode("utf-8"))
    except ValueError:
        return None


def _json_roughly(line: bytes) -> Any:
    """Return what is in a line, quicker: whole numbers of more than 64 bits, which only keys are, come out roughly."""
    try:
        return orjson.loads(line)
    except ValueError:
        return _json(line)


def _defaults(header: Mapping[str, Any]) -> Defaults:
    rubrics = {name: rubric_of(name, content) for name, content in header["rubrics"].items()}
    ask = header["ask"]
    outcomes = header.get("outcomes", {})
    return Defaults(
        ask["system"],
        ask["answer_line"],
        {},
        rubrics,
        known_fields=SEALED_FIELDS,
        outcomes=outcomes,
        form_required=ask.get("form") == "required",
        sealed=True,
    )


def _question(file: str, number: int, entry: Mapping[str, Any], defaults: Defaults) -> Question:
    faults: list[Fault] = []
    # The edition itself says what its files are; whether they are still so is seen when they are to be sent.
    files = {one["path"]: Attachment(**one) for one in entry["question"].get("files", [])}
    record = {**entry["question"], "files": list(files)} if files else entry["question"]
    question = read_question(record, file, lambda *_: number, replace(defaults, attachment=files.__getitem__), faults)
    if question is None:
        raise EditionFault(f"{file}:{number}: {faults[0].message}; use the version of dryquarry that sealed it")
    if (question.ask_digest, question.mark_digest) != (entry["ask"], entry["mark"]):
        said = f"question {question.id} was sealed by a version that asks or marks otherwise"
        raise EditionFault(f"{file}:{number}: {said}; use that version")
    return question


# Of these the options tell who judges, in which standings are interested.
_JUDGED = frozenset({"rubric", "all", "any"})


def _sparing_marking(mark: Mapping[str, Any]) -> Marking:
    scheme = mark.get("scheme", "exact")
    if scheme not in _JUDGED:
        return _bare_marking(scheme)
    return Marking(scheme, options={name: value for name, value in mark.items() if name != "scheme"})


@cache
def _bare_marking(scheme: str) -> Marking:
    return Marking(scheme)


def _sparing_question(file: str, number: int, entry: Mapping[str, Any]) -> Question:
    """Return a question with what standings take of it; its digests are those that were sealed."""
    record = entry["question"]
    asked = record["ask"]
    texts = (asked,) if isinstance(asked, str) else tuple(asked)
    question = Question(
        id=record["id"],
        ask=Ask(None, texts),
        marking=_sparing_marking(record.get("mark", {})),
        texts=texts,
        category=record.get("category"),
        tags=tuple(record.get("tags", ())),
        family=record.get("family"),
        twist=record.get("twist"),
        language=record.get("language"),
        level=record.get("level"),
        weight=float(record.get("weight", 1.0)),
        state=State(record.get("state", State.LIVE)),
        second_try=record.get("second_try"),
        file=file,
        line=number,
    )
    question._digests.extend((entry["ask"], entry["mark"]))
    return question


def _suite(name: str, header: Mapping[str, Any], defaults: Defaults, questions: Sequence[Question]) -> Suite:
    seal = Seal(
        number=header["edition"],
        sealed_at=header["sealed_at"],
        note=header["note"],
        digest=header["digest"],
        content_digest=header["content"],
        suite=header["suite"],
    )
    templates: list[Template] = [read_template(record["id"], record) for record in header["templates"]]
    return Suite(
        name=name,
        title=header["title"],
        about=header["about"],
        edition=str(seal.number),
        system=defaults.system,
        answer_line=defaults.answer_line,
        rubrics=defaults.rubrics,
        outcomes=defaults.outcomes,
        form_required=defaults.form_required,
        questions=tuple(questions) if isinstance(questions, list) else questions,
        templates=tuple(templates),
        seed=header["seed"],
        seal=seal,
    )
