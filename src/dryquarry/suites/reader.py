"""From the content of suite.yaml to a Suite, with all faults of the file at once."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from dryquarry.errors import Fault, closest
from dryquarry.marking import registry
from dryquarry.marking.model import Criterion, Marking, MarkingFault, Rubric
from dryquarry.suites.digests import ask_content, digest, mark_content
from dryquarry.suites.fields import Fields, LineOf, described
from dryquarry.suites.question import Ask, Proofs, Question, State, Suite, full_text
from dryquarry.suites.yaml_text import Document, UnreadableText, read_yaml

SUITE_FIELDS = ("title", "about", "ask", "mark", "rubrics", "questions")
ASK_FIELDS = ("system", "answer_line")
RUBRIC_FIELDS = ("about", "criteria")
CRITERION_FIELDS = ("id", "asks", "points")
PROOF_FIELDS = ("pass", "fail")
QUESTION_FIELDS = (
    "id",
    "ask",
    "options",
    "key",
    "mark",
    "category",
    "tags",
    "family",
    "level",
    "weight",
    "why",
    "source",
    "state",
    "retired_because",
    "proofs",
)
GOOD_NAME = re.compile(r"\w[\w.-]{0,99}")
MOST_CHOICES = 26


@dataclass(frozen=True, slots=True)
class SuiteRead:
    """What a suite's files hold: the suite as far as it is readable (None if not at all), and the faults."""

    suite: Suite | None
    faults: tuple[Fault, ...]


@dataclass(frozen=True, slots=True)
class _Defaults:
    system: str | None
    answer_line: str | None
    mark: Mapping[str, Any]
    rubrics: Mapping[str, Rubric]


def read_suite(name: str, file: str, content: bytes) -> SuiteRead:
    """Read the content of `suites/NAME/suite.yaml`; `file` is the path for messages."""
    try:
        document = read_yaml(content, file)
    except UnreadableText as error:
        return SuiteRead(None, (error.fault,))
    faults: list[Fault] = []
    if not isinstance(document.data, dict):
        said = "the file is empty" if document.data is None else f"the file holds {described(document.data)}"
        return SuiteRead(
            None, (Fault("wrong-shape", f"{said}; a suite has `title` and `questions`", file, 1),)
        )
    fields = Fields(document.data, file, _line_of(document), faults, what="suite.yaml")
    fields.only(SUITE_FIELDS)
    title = fields.text("title", required=True) or name
    defaults = _read_defaults(fields, document)
    questions = _read_questions(fields, document, defaults)
    suite = Suite(
        name=name,
        title=title,
        about=fields.text("about") or "",
        system=defaults.system,
        answer_line=defaults.answer_line,
        rubrics=defaults.rubrics,
        questions=questions,
    )
    return SuiteRead(suite, tuple(sorted(faults, key=lambda fault: fault.line or 0)))


def _line_of(document: Document, *prefix: str | int) -> LineOf:
    return lambda *path: document.line(*prefix, *path)


def _read_defaults(fields: Fields, document: Document) -> _Defaults:
    ask = Fields(
        fields.mapping("ask"), fields.file, _line_of(document, "ask"), fields.faults, what="the suite's `ask`"
    )
    ask.only(ASK_FIELDS)
    mark = fields.mapping("mark")
    scheme = mark.get("scheme")
    if mark and scheme not in registry.SCHEMES:
        said = f"there is no scheme '{scheme}'{closest(str(scheme), registry.SCHEMES)}"
        fields.fault("unknown-scheme", said if scheme else "`mark` names no `scheme`", "mark")
    return _Defaults(ask.text("system"), ask.text("answer_line"), mark, _read_rubrics(fields, document))


def _read_rubrics(fields: Fields, document: Document) -> Mapping[str, Rubric]:
    rubrics: dict[str, Rubric] = {}
    for name, content in fields.mapping("rubrics").items():
        line = _line_of(document, "rubrics", name)
        if not isinstance(content, dict):
            fields.fault("wrong-shape", f"rubric '{name}' wants a mapping with `criteria`", "rubrics")
            continue
        rubric = Fields(content, fields.file, line, fields.faults, what=f"rubric '{name}'")
        rubric.only(RUBRIC_FIELDS)
        criteria = _read_criteria(rubric, document, name)
        if not criteria:
            rubric.fault("missing-field", f"rubric '{name}' has no criteria", "criteria")
            continue
        rubrics[name] = Rubric(name, criteria, rubric.text("about") or "")
    return rubrics


def _read_criteria(rubric: Fields, document: Document, name: str) -> tuple[Criterion, ...]:
    entries = rubric.data.get("criteria")
    criteria: list[Criterion] = []
    for index, entry in enumerate(entries if isinstance(entries, list) else []):
        line = _line_of(document, "rubrics", name, "criteria", index)
        if not isinstance(entry, dict):
            rubric.fault("wrong-shape", "a criterion wants `id`, `asks` and perhaps `points`", "criteria")
            continue
        one = Fields(entry, rubric.file, line, rubric.faults, what=f"a criterion of rubric '{name}'")
        one.only(CRITERION_FIELDS)
        label, asks = one.text("id", required=True), one.text("asks", required=True)
        if label and any(label == other.id for other in criteria):
            one.fault("duplicate-id", f"criterion '{label}' stands twice in rubric '{name}'", "id")
        if label and asks:
            criteria.append(Criterion(label, asks, one.number("points", 1.0)))
    return tuple(criteria)


def _read_questions(fields: Fields, document: Document, defaults: _Defaults) -> tuple[Question, ...]:
    entries = fields.data.get("questions")
    if not isinstance(entries, list) or not entries:
        said = "is missing or empty" if entries in (None, []) else f"wants a list, not {described(entries)}"
        fields.fault(
            "empty-suite", f"the field 'questions' {said}; a suite has at least one question", "questions"
        )
        return ()
    questions: list[Question] = []
    first_lines: dict[str, int | None] = {}
    for index, entry in enumerate(entries):
        line = _line_of(document, "questions", index)
        if not isinstance(entry, dict):
            place = Fault(
                "wrong-shape", f"a question is a mapping, not {described(entry)}", fields.file, line()
            )
            fields.faults.append(place)
            continue
        name = str(entry.get("id"))
        if name in first_lines:
            message = f"the id stands twice; first on line {first_lines[name]}"
            fields.faults.append(Fault("duplicate-id", message, fields.file, line("id"), name))
        question = read_question(entry, fields.file, line, defaults, fields.faults)
        if question is not None and name not in first_lines:
            questions.append(question)
        if "id" in entry:
            first_lines.setdefault(name, line("id"))
    return tuple(questions)


def read_question(
    data: Mapping[str, Any], file: str, line: LineOf, defaults: _Defaults, faults: list[Fault]
) -> Question | None:
    """Return the question in a mapping, or None when something in it is at fault (noted in `faults`)."""
    before = len(faults)
    label = data.get("id")
    fields = Fields(
        data, file, line, faults, question=None if label is None else str(label), what="a question"
    )
    fields.only(QUESTION_FIELDS)
    name = fields.text("id", required=True) or ""
    if name and not GOOD_NAME.fullmatch(name):
        fields.fault("bad-id", f"the id '{name[:40]}' wants letters, digits, '-', '_' and '.' only", "id")
    text = fields.text("ask", required=True) or ""
    choices = _read_choices(fields)
    marking = _read_marking(fields, choices, defaults)
    state = _read_state(fields)
    proofs = Fields(
        fields.mapping("proofs"),
        file,
        lambda *path: line("proofs", *path),
        faults,
        question=name,
        what="`proofs`",
    )
    proofs.only(PROOF_FIELDS)
    ask = Ask(defaults.system, (full_text(text, choices, defaults.answer_line),))
    question = Question(
        id=name,
        ask=ask,
        text=text,
        marking=marking,
        ask_digest=digest(ask_content(ask)),
        mark_digest=digest(mark_content(marking)),
        category=fields.text("category"),
        tags=fields.texts("tags"),
        family=fields.text("family"),
        level=fields.text("level"),
        weight=fields.number("weight", 1.0),
        why=fields.text("why"),
        source=fields.text("source"),
        state=state,
        retired_because=fields.text("retired_because"),
        proofs=Proofs(proofs.texts("pass"), proofs.texts("fail")),
        file=file,
        line=line(),
    )
    return question if len(faults) == before else None


def _read_choices(fields: Fields) -> tuple[tuple[str, str], ...]:
    options = fields.data.get("options")
    if options is None:
        return ()
    if isinstance(options, list):
        options = {chr(ord("A") + index): option for index, option in enumerate(options[:MOST_CHOICES])}
    if not isinstance(options, dict) or not 2 <= len(options) <= MOST_CHOICES:
        fields.fault(
            "wrong-shape", "`options` wants 2 to 26 options: a list, or a mapping letter → text", "options"
        )
        return ()
    choices = []
    for letter, option in options.items():
        if not re.fullmatch(r"[A-Z]", letter):
            fields.fault(
                "wrong-shape", f"the option letter '{letter}' is not one capital letter A to Z", "options"
            )
        if isinstance(option, bool | list | dict) or option is None or not str(option).strip():
            fields.fault("wrong-shape", f"option {letter} wants a text, not {described(option)}", "options")
        choices.append((letter, str(option).strip()))
    return tuple(choices)


def _read_state(fields: Fields) -> State:
    value = fields.data.get("state", State.LIVE)
    try:
        return State(value)
    except ValueError:
        fields.fault("wrong-shape", f"unknown state '{value}'{closest(str(value), list(State))}", "state")
        return State.LIVE


def _read_marking(fields: Fields, choices: tuple[tuple[str, str], ...], defaults: _Defaults) -> Marking:
    own = fields.mapping("mark")
    # A question's `mark` stands instead of the suite's; without a scheme of its own it adds to it.
    mark = dict(own) if "scheme" in own else {**defaults.mark, **own}
    scheme = mark.pop("scheme", None)
    marking = Marking(
        scheme=str(scheme),
        key=fields.data.get("key"),
        options=mark,
        choices=choices,
        answer_line=defaults.answer_line,
        rubric=defaults.rubrics.get(str(mark.get("rubric"))),
    )
    if scheme is None:
        fields.fault(
            "missing-field", "no scheme: add `mark: {scheme: …}` to the question or the suite", "mark"
        )
        return marking
    if scheme not in registry.SCHEMES:
        if "scheme" in own:  # an unknown scheme of the suite is told once, there
            said = f"there is no scheme '{scheme}'{closest(str(scheme), registry.SCHEMES)}"
            fields.fault("unknown-scheme", said, "mark")
        return marking
    if mark.get("rubric") is not None and marking.rubric is None:
        said = f"no rubric '{mark['rubric']}' in the suite{closest(str(mark['rubric']), defaults.rubrics)}"
        fields.fault("unknown-rubric", said, "mark")
        return marking
    try:
        registry.prepare(marking)
    except MarkingFault as fault:
        field = "key" if "key" in str(fault) else "mark"
        missing = field == "key" and fields.data.get("key") is None
        fields.fault(
            "missing-key" if missing else "bad-key" if field == "key" else "bad-option", str(fault), field
        )
    return marking
