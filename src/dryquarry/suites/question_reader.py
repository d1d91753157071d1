"""From the fields of one question to a Question, noting every fault."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping
from dataclasses import dataclass, field, replace
from functools import partial
from typing import Any

from dryquarry.errors import Fault, closest
from dryquarry.marking import registry
from dryquarry.marking.model import Marker, Marking, MarkingFault, unmarked
from dryquarry.marking.rubrics import Rubric
from dryquarry.suites.ask import Ask, Attachment
from dryquarry.suites.beside import AttachmentFault, nothing_beside, put_files_in
from dryquarry.suites.fields import Fields, LineOf, described
from dryquarry.suites.meanings import QUESTION_MEANINGS
from dryquarry.suites.question import NO_ANSWER_LINE, Drawn, Proofs, Question, State, full_text
from dryquarry.suites.rubric_reader import OWN_RUBRIC, read_rubric

QUESTION_FIELDS = frozenset(
    {
        "id", "ask", "files", "options", "key", "mark", "category", "tags", "family", "twist", "language", "level",
        "weight", "why", "source", "state", "retired_because", "second_try", "proofs", "answer_line",
    }
)  # fmt: skip
DRAFT_FIELDS = QUESTION_FIELDS | {"template"}
SEALED_FIELDS = QUESTION_FIELDS | {"drawn"}
NOTE_FIELDS = ("category", "family", "twist", "language", "level", "why", "source", "retired_because", "second_try")
# What a page may say of the judges that look at it.
RUBRIC_OPTIONS = tuple(registry.SCHEMES["rubric"].options)
PROOF_FIELDS = frozenset({"pass", "fail"})
GOOD_NAME = re.compile(r"\w[\w.-]{0,99}")
MOST_CHOICES = 26
LONGEST_ASK = 1_000_000


def no_attachments(path: str) -> Attachment:
    """Refuse every file: what a suite read from one file alone can give."""
    raise AttachmentFault(f"the file '{path}' is not at hand")


@dataclass(frozen=True, slots=True)
class Defaults:
    """What a suite says for all its questions, and how files beside it are looked up.

    `sealed` questions were checked when they were sealed: their keys are prepared when a reply is marked.
    """

    system: str | None = None
    answer_line: str | None = None
    mark: Mapping[str, Any] = field(default_factory=dict)
    rubrics: Mapping[str, Rubric] = field(default_factory=dict)
    attachment: Callable[[str], Attachment] = no_attachments
    beside: Callable[[str], bytes] = nothing_beside
    known_fields: frozenset[str] = DRAFT_FIELDS
    outcomes: Mapping[str, str] = field(default_factory=dict)
    form_required: bool = False
    sealed: bool = False
    check_keys: bool = True


def read_question(
    data: Mapping[str, Any],
    file: str,
    line: LineOf,
    defaults: Defaults,
    faults: list[Fault],
    *,
    drawn: bool = False,
) -> Question | None:
    """Return the question in a mapping, or None when something in it is at fault (noted in `faults`).

    `drawn` says that the mapping is an instance of a template.
    """
    before = len(faults)
    label = data.get("id")
    fields = Fields(data, file, line, faults, question=None if label is None else str(label), what="a question")
    fields.only(SEALED_FIELDS if drawn else defaults.known_fields, QUESTION_MEANINGS)
    name = fields.text("id", required=True) or ""
    if name and not GOOD_NAME.fullmatch(name):
        fields.fault("bad-id", f"the id '{name[:40]}' wants letters, digits, '-', '_' and '.' only", "id")
    texts = _read_texts(fields)
    choices = _read_choices(fields)
    marking, marker = _read_marking(fields, choices, defaults, texts)
    turns = (*texts[:-1], full_text(texts[-1], choices, marking.answer_line)) if texts else ()
    ask = Ask(defaults.system, turns, _read_files(fields, defaults) if "files" in data else ())
    question = Question(
        id=name,
        ask=ask,
        texts=texts,
        marking=marking,
        answer_line=_kept_answer_line(marking, defaults),
        file=file,
        line=line(),
        marker=marker,
        **_read_notes(fields),
    )
    return question if len(faults) == before else None


def _read_notes(fields: Fields) -> dict[str, Any]:
    """Return the fields that are there beside what is asked and how it is marked; most questions have few."""
    data = fields.data
    notes: dict[str, Any] = {name: fields.text(name) for name in NOTE_FIELDS if name in data}
    if "tags" in data:
        notes["tags"] = fields.texts("tags")
    if "weight" in data:
        notes["weight"] = fields.number("weight", 1.0)
    if "state" in data:
        notes["state"] = _read_state(fields)
    if "proofs" in data:
        notes["proofs"] = _read_proofs(fields)
    if "drawn" in data:
        notes["drawn"] = _read_drawn(fields)
    return notes


def _read_texts(fields: Fields) -> tuple[str, ...]:
    """Return the turns: one text, or a list of them."""
    ask = fields.data.get("ask")
    if isinstance(ask, list):
        turns = [turn.strip() for turn in ask if isinstance(turn, str) and turn.strip()]
        if not turns or len(turns) != len(ask):
            fields.fault("wrong-shape", "the field 'ask' wants a text, or a list of texts (turns)", "ask")
            return ()
    else:
        text = fields.text("ask", required=True)
        turns = [text] if text else []
    if sum(len(turn) for turn in turns) > LONGEST_ASK:
        fields.fault("too-long", f"the field 'ask' is longer than {LONGEST_ASK:,} characters; use `files`", "ask")
        return ()
    return tuple(turns)


def _read_files(fields: Fields, defaults: Defaults) -> tuple[Attachment, ...]:
    files = []
    for path in fields.texts("files"):
        try:
            files.append(defaults.attachment(path))
        except AttachmentFault as fault:
            fields.fault("file", str(fault), "files")
    return tuple(files)


def _read_proofs(fields: Fields) -> Proofs:
    data = fields.mapping("proofs")
    if not data:
        return Proofs()
    line = fields.line
    proofs = Fields(
        data,
        fields.file,
        lambda *path: line("proofs", *path),
        fields.faults,
        question=fields.question,
        what="`proofs`",
    )
    proofs.only(PROOF_FIELDS)
    return Proofs(proofs.texts("pass"), proofs.texts("fail"))


def _read_drawn(fields: Fields) -> Drawn | None:
    data = fields.mapping("drawn")
    return Drawn(str(data.get("template")), dict(data.get("values", {}))) if data else None


def _read_choices(fields: Fields) -> tuple[tuple[str, str], ...]:
    options = fields.data.get("options")
    if options is None:
        return ()
    if isinstance(options, list):
        options = {chr(ord("A") + index): option for index, option in enumerate(options[:MOST_CHOICES])}
    if not isinstance(options, dict) or not 2 <= len(options) <= MOST_CHOICES:
        fields.fault("wrong-shape", "`options` wants 2 to 26 options: a list, or a mapping letter → text", "options")
        return ()
    choices = []
    for letter, option in options.items():
        if not re.fullmatch(r"[A-Z]", letter):
            fields.fault("wrong-shape", f"the option letter '{letter}' is not one capital letter A to Z", "options")
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


def _read_marking(
    fields: Fields, choices: tuple[tuple[str, str], ...], defaults: Defaults, texts: tuple[str, ...]
) -> tuple[Marking, Marker]:
    own = fields.mapping("mark")
    # A question's `mark` stands instead of the suite's; without a scheme of its own it adds to it.
    # Options are there to be chosen from, whatever the suite's other questions are marked by.
    chosen = bool(choices) and defaults.mark.get("scheme") != "choice"
    mark = dict(own) if "scheme" in own else {**({"scheme": "choice"} if chosen else defaults.mark), **own}
    mark = with_eyes(mark)
    scheme = mark.pop("scheme", None)
    put_files_in(scheme, mark, fields, defaults.beside)
    if scheme is not None and not isinstance(scheme, str):
        if "scheme" in own:
            fields.fault("unknown-scheme", f"`scheme` wants the name of one, not {described(scheme)}", "mark")
        return Marking("exact", asked="\n".join(texts)), unmarked
    marking = _with_answer_line(
        Marking(
            scheme=str(scheme),
            key=fields.data.get("key"),
            options=mark,
            choices=choices,
            rubric=_rubric(mark, fields, defaults),
            outcomes=defaults.outcomes,
            asked="\n".join(texts),
        ),
        fields,
        defaults,
    )
    if scheme is None:
        fields.fault("missing-field", "no scheme: add `mark: {scheme: …}` to the question or the suite", "mark")
        return marking, unmarked
    if scheme not in registry.SCHEMES:
        if "scheme" in own:  # an unknown scheme of the suite is told once, there
            said = f"there is no scheme '{scheme}'{closest(str(scheme), registry.SCHEMES)}"
            fields.fault("unknown-scheme", said, "mark")
        return marking, unmarked
    named = _rubric_named(mark)
    if isinstance(named, dict) and marking.rubric is None:
        return marking, unmarked  # its faults are told already
    if named is not None and marking.rubric is None:
        said = f"no rubric '{named}' in the suite{closest(str(named), defaults.rubrics)}"
        fields.fault("unknown-rubric", said, "mark")
        return marking, unmarked
    if defaults.sealed or not defaults.check_keys:
        return marking, registry.prepare_when_used(marking)
    try:
        return marking, registry.prepare(marking)
    except MarkingFault as fault:
        field = "key" if "key" in str(fault) else "mark"
        missing = field == "key" and fields.data.get("key") is None
        fields.fault("missing-key" if missing else "bad-key" if field == "key" else "bad-option", str(fault), field)
    return marking, unmarked


def with_eyes(mark: dict[str, Any]) -> dict[str, Any]:
    """Return the mark of a page that a rubric is to mark as well as the two parts that this means."""
    if mark.get("scheme") != "page" or "rubric" not in mark:
        return mark
    eyes = {name: mark[name] for name in RUBRIC_OPTIONS if name in mark}
    page = {name: value for name, value in mark.items() if name not in RUBRIC_OPTIONS}
    return {"scheme": "all", "parts": [page, {"scheme": "rubric", **eyes}]}


def _with_answer_line(marking: Marking, fields: Fields, defaults: Defaults) -> Marking:
    """Return the marking with the answer line that is asked for: the question's own, or the suite's.

    The suite's is asked for only where a reply has an answer apart from the rest of it. Editions sealed before
    questions had a say in this asked it of all; those sealed since state where it is not asked.
    """
    if "answer_line" in fields.data:
        own = None if fields.data["answer_line"] is False else fields.text("answer_line")
        line = None if own == NO_ANSWER_LINE else own
    else:
        unread = marking.scheme in registry.SCHEMES and not registry.reads_answer(marking)
        line = None if unread and not defaults.sealed else defaults.answer_line
    return replace(marking, answer_line=line, form_required=defaults.form_required and line is not None)


def _kept_answer_line(marking: Marking, defaults: Defaults) -> str | None:
    """Return what a question has in place of the suite's answer line, None where the suite's holds."""
    if marking.answer_line == defaults.answer_line:
        return None
    return marking.answer_line or NO_ANSWER_LINE


def _rubric(mark: dict[str, Any], fields: Fields, defaults: Defaults) -> Rubric | None:
    """Return the rubric that a question is marked by: one of the suite's, or its own; None where there is none."""
    named = _rubric_named(mark)
    if isinstance(named, dict):
        return read_rubric(
            OWN_RUBRIC,
            Fields(named, fields.file, partial(fields.line, "mark", "rubric"), fields.faults, question=fields.question),
        )
    return defaults.rubrics.get(str(named))


def _rubric_named(mark: dict[str, Any]) -> Any:
    """Return the rubric that a way of marking asks for by its name or in full, itself or in one of its parts."""
    parts = mark.get("parts")
    inner = [part for part in parts if isinstance(part, dict)] if isinstance(parts, list) else []
    return next((one["rubric"] for one in (mark, *inner) if one.get("rubric") is not None), None)
