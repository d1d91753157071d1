"""From the contents of a suite's files to a Suite, with all faults of all files at once."""

from __future__ import annotations

from collections.abc import Callable, Iterator, Mapping
from dataclasses import dataclass, replace
from typing import Any

from dryquarry.errors import Fault, closest
from dryquarry.marking import registry
from dryquarry.marking.outcomes import WHY_NOT_PASSED, Treatment
from dryquarry.suites.ask import Attachment
from dryquarry.suites.beside import nothing_beside
from dryquarry.suites.digests import parse_json
from dryquarry.suites.fields import Fields, LineOf, described
from dryquarry.suites.located import Document, UnreadableText, decoded
from dryquarry.suites.meanings import SUITE_MEANINGS
from dryquarry.suites.question import Question, Suite
from dryquarry.suites.question_reader import Defaults, no_attachments, read_question
from dryquarry.suites.rubric_reader import read_rubrics
from dryquarry.suites.templates import Template, TemplateFault, draw, read_template
from dryquarry.suites.yaml_text import read_yaml

SUITE_FIELDS = frozenset({"title", "about", "ask", "mark", "outcomes", "rubrics", "questions"})
ASK_FIELDS = frozenset({"system", "answer_line", "form"})


@dataclass(frozen=True, slots=True)
class SuiteContent:
    """What a suite's folder holds: suite.yaml first, then question files, each as path and bytes.

    `attachment` looks up a file that a question names, `beside` gives what one by which replies are marked holds; both
    raise AttachmentFault.
    """

    name: str
    files: tuple[tuple[str, bytes], ...]
    attachment: Callable[[str], Attachment] = no_attachments
    beside: Callable[[str], bytes] = nothing_beside


@dataclass(frozen=True, slots=True)
class SuiteRead:
    """What a suite's files hold: the suite as far as it is readable (None if not at all), and the faults."""

    suite: Suite | None
    faults: tuple[Fault, ...]


# A question as it stands in a file: its fields, the file, and the line of each field.
Entry = tuple[Any, str, LineOf]


def read_suite(content: SuiteContent, seed: int = 1, *, check_keys: bool = True) -> SuiteRead:
    """Read the files of a suite; instances of templates are drawn with `seed`.

    Without `check_keys` the faults of keys and their options are not found, which is most of the work.
    """
    file, main = content.files[0]
    try:
        document = read_yaml(main, file)
    except UnreadableText as error:
        return SuiteRead(None, (error.fault,))
    if not isinstance(document.data, dict):
        said = "the file is empty" if document.data is None else f"the file holds {described(document.data)}"
        fault = Fault("wrong-shape", f"{said}; a suite has `title` and `questions`", file, 1)
        return SuiteRead(None, (fault,))
    faults: list[Fault] = []
    fields = Fields(document.data, file, document.line_of(), faults, what="suite.yaml")
    fields.only(SUITE_FIELDS, SUITE_MEANINGS)
    title = fields.text("title", required=True) or content.name
    defaults = replace(_read_defaults(fields, document, content), check_keys=check_keys)
    entries = [*_own_entries(fields, document, len(content.files) > 1)]
    for path, more in content.files[1:]:
        entries += _entries_of(path, more, faults)
    reading = _Reading(defaults, faults, seed)
    for entry in entries:
        reading.add(entry)
    if not entries and not faults:
        fields.fault("empty-suite", "there is no question; a suite has at least one", "questions")
    suite = Suite(
        name=content.name,
        title=title,
        about=fields.text("about") or "",
        system=defaults.system,
        answer_line=defaults.answer_line,
        rubrics=defaults.rubrics,
        outcomes=defaults.outcomes,
        form_required=defaults.form_required,
        questions=tuple(reading.questions),
        templates=tuple(reading.templates),
        seed=seed,
    )
    return SuiteRead(suite, tuple(sorted(faults, key=lambda fault: (fault.file != file, fault.file, fault.line or 0))))


def _read_defaults(fields: Fields, document: Document, content: SuiteContent) -> Defaults:
    ask = Fields(fields.mapping("ask"), fields.file, document.line_of("ask"), fields.faults, what="the suite's `ask`")
    ask.only(ASK_FIELDS)
    mark = fields.mapping("mark")
    scheme = mark.get("scheme")
    if mark and (not isinstance(scheme, str) or scheme not in registry.SCHEMES):
        said = f"there is no scheme '{scheme}'{closest(str(scheme), registry.SCHEMES)}"
        fields.fault("unknown-scheme", said if scheme else "`mark` names no `scheme`", "mark")
    rubrics = read_rubrics(fields, document)
    form = ask.text("form")
    if form not in (None, "required"):
        ask.fault(
            "wrong-shape", f"`form` can only be required, not '{form}'; leave it out where any form will do", "form"
        )
    if form is not None and ask.text("answer_line") is None:
        ask.fault("wrong-shape", "`form: required` wants an `answer_line`, the form that is asked for", "form")
    return Defaults(
        ask.text("system"),
        ask.text("answer_line"),
        mark,
        rubrics,
        content.attachment,
        content.beside,
        outcomes=_read_outcomes(fields, document),
        form_required=form is not None,
    )


def _read_outcomes(fields: Fields, document: Document) -> Mapping[str, str]:
    """Return what the suite says of replies that are not answers."""
    given = fields.mapping("outcomes")
    outcomes = Fields(given, fields.file, document.line_of("outcomes"), fields.faults, what="`outcomes`")
    outcomes.only(frozenset(WHY_NOT_PASSED))
    for name, treatment in given.items():
        if treatment not in list(Treatment):
            said = f"'{name}' wants one of {', '.join(Treatment)}, not {treatment!r}"
            outcomes.fault("wrong-shape", said, name)
    return dict(given)


def _own_entries(fields: Fields, document: Document, has_files: bool) -> Iterator[Entry]:
    """Yield the questions that stand in suite.yaml itself."""
    entries = fields.data.get("questions")
    if (entries is None or entries == []) and has_files:
        return
    if not isinstance(entries, list) or not entries:
        said = "is missing or empty" if entries in (None, []) else f"wants a list, not {described(entries)}"
        message = f"the field 'questions' {said}; a suite has at least one question"
        fields.fault("empty-suite", message, "questions")
        return
    for index, entry in enumerate(entries):
        yield entry, fields.file, document.line_of("questions", index)


def _entries_of(path: str, content: bytes, faults: list[Fault]) -> list[Entry]:
    """Return the questions in a file of `questions/`; an unreadable file or line is a fault, the rest stays."""
    try:
        if path.endswith(".jsonl"):
            return list(_json_lines(path, decoded(content, path), faults))
        document = read_yaml(content, path)
    except UnreadableText as error:
        faults.append(error.fault)
        return []
    if not isinstance(document.data, list):
        said = f"the file holds {described(document.data)}; a file of questions holds a list of them"
        faults.append(Fault("wrong-shape", said, path, 1))
        return []
    return [(entry, path, document.line_of(index)) for index, entry in enumerate(document.data)]


def _json_lines(path: str, text: str, faults: list[Fault]) -> Iterator[Entry]:
    for number, line in enumerate(text.split("\n"), start=1):
        if not line.strip():
            continue
        try:
            entry = parse_json(line)
        except ValueError as error:
            faults.append(Fault("unreadable", f"not readable as JSON: {error}", path, number))
            continue
        yield entry, path, _same_line(number)


def _same_line(number: int) -> LineOf:
    return lambda *_: number


class _Reading:
    """The questions gathered so far, and where each id stood first."""

    def __init__(self, defaults: Defaults, faults: list[Fault], seed: int):
        self.defaults = defaults
        self.faults = faults
        self.seed = seed
        self.questions: list[Question] = []
        self.templates: list[Template] = []
        self.first_places: dict[str, tuple[str, int | None]] = {}

    def add(self, entry: Entry) -> None:
        """Take one more question, or the instances of a template."""
        data, file, line = entry
        if not isinstance(data, dict):
            self.faults.append(Fault("wrong-shape", f"a question is a mapping, not {described(data)}", file, line()))
            return
        repeated = "id" in data and self._is_repeated(str(data["id"]), file, line)
        if "template" in data:
            questions = self._drawn(data, file, line)
        else:
            question = read_question(data, file, line, self.defaults, self.faults)
            questions = [] if question is None else [question]
        if not repeated:
            self.questions += questions

    def _is_repeated(self, name: str, file: str, line: LineOf) -> bool:
        place = self.first_places.get(name)
        if place is None:
            self.first_places[name] = (file, line("id"))
            return False
        message = f"the id stands twice; first at {place[0]}:{place[1]}"
        self.faults.append(Fault("duplicate-id", message, file, line("id"), name))
        return True

    def _drawn(self, data: Mapping[str, Any], file: str, line: LineOf) -> list[Question]:
        """Return the instances of a template; a fault of its own is told once, not for each instance."""
        name = str(data.get("id"))
        try:
            template = read_template(name, data)
            instances = [fields for _, fields in draw(template, self.seed)]
        except TemplateFault as fault:
            self.faults.append(Fault("template", str(fault), file, line("template"), name))
            return []
        questions: list[Question] = []
        for fields in instances:
            before = len(self.faults)
            question = read_question(fields, file, line, self.defaults, self.faults, drawn=True)
            if question is None or len(self.faults) > before:
                return []
            questions.append(question)
        self.templates.append(template)
        return questions
