"""Replies as a view: each one in full, beside its key, the answer read and the reason."""

from __future__ import annotations

import json
from collections.abc import Callable, Mapping, Sequence
from typing import Any

from dryquarry.marking.model import Mark
from dryquarry.showing import figures
from dryquarry.showing.judgements import judgements_data, judgements_said
from dryquarry.showing.text import labelled, quoted
from dryquarry.showing.view import Sheet, View, markdown_text
from dryquarry.showing.works import works_data, works_facts, works_lines
from dryquarry.standing.sorting import in_order, parsed
from dryquarry.suites.question import Question
from dryquarry.workspace.reply_views import ReplyView

_NAMES = (
    "suite",
    "edition",
    "question",
    "entrant",
    "trial",
    "outcome",
    "text",
    "reasoning",
    "answer",
    "read_by",
    "score",
    "verdict",
    "reason",
    "scheme",
    "seconds",
    "first_token_s",
    "input_tokens",
    "output_tokens",
    "cost",
    "finish",
    "asked",
    "options",
    "key",
)
# Empty in a sheet, for a person to fill in: `mark --from` reads them.
TO_FILL = ("set", "because")
ORDERS: Mapping[str, Callable[[ReplyView], Any]] = {
    "question": lambda view: view.question.id,
    "entrant": lambda view: view.entrant.name,
    "trial": lambda view: view.reply.held.trial,
    "score": lambda view: view.mark.score if view.mark else None,
    "seconds": lambda view: view.reply.held.seconds,
    "tokens": lambda view: view.reply.held.output_tokens,
    "cost": lambda view: view.cost,
}


def sorted_replies(replies: Sequence[ReplyView], order: str) -> list[ReplyView]:
    """Return replies sorted by one of `ORDERS`; with "-" before it the greatest first."""
    name, falling = parsed(order, ORDERS)
    return in_order(replies, ORDERS[name], falling=falling)


def replies_view(replies: Sequence[ReplyView], *, unsure: bool = False, judged: bool = False) -> View:
    """Return the replies as readable text, JSON objects (the documented shape), sheet and Markdown.

    With `unsure` the objects also tell which other reading would flip the verdict, with `judged` what each judge was
    asked and answered, and what people decided. The sheet has empty columns for a
    person's marks.
    """
    data = [_data(view, unsure) | (judgements_data(view) if judged else {}) for view in replies]
    names = (*_NAMES, "unsure_because") if unsure else _NAMES
    rows = [[_plain(row[name]) for name in names] + [None] * len(TO_FILL) for row in data]
    return View(
        data=data,
        sheet=Sheet((*names, *TO_FILL), rows),
        text=lambda width: (
            "\n".join(_text(view, width) for view in replies) + f"{figures.plural(len(replies), 'reply')}\n"
        ),
        markdown=lambda: "\n".join(_markdown(view) for view in replies),
    )


def said_key(question: Question) -> str:
    """Return a question's key as a person reads it."""
    key = question.marking.key
    choices = dict(question.marking.choices)
    if key is None:
        rubric = question.marking.rubric
        return f"none; rubric {rubric.name}" if rubric else f"none; {question.way}"
    if isinstance(key, str) and key in choices:
        return f"{key} ({choices[key]})"
    return key if isinstance(key, str) else json.dumps(key, ensure_ascii=False)


def said_options(question: Question) -> str:
    """Return a question's options in a line."""
    return "   ".join(f"{letter}) {text}" for letter, text in question.marking.choices)


def verdict_said(view: ReplyView) -> str:
    """Return a reply's verdict with its reason, or that it has none."""
    mark = view.mark
    if mark is None:
        return "not marked: no mark yet"
    score = f", score {figures.percent(mark.score, 0)}" if mark.score not in (None, 0.0, 1.0) else ""
    return f"{mark.verdict}{score}: {mark.reason}"


def _plain(value: Any) -> Any:
    return json.dumps(value, ensure_ascii=False) if isinstance(value, list | dict) else value


def _data(view: ReplyView, unsure: bool) -> dict[str, Any]:
    reply, held = view.reply, view.reply.held
    mark = held.mark
    values = (
        view.suite.name,
        view.suite.edition,
        view.question.id,
        view.entrant.name,
        held.trial,
        str(held.outcome),
        reply.text,
        reply.reasoning,
        mark.answer if mark else None,
        mark.read_by if mark else None,
        mark.score if mark else None,
        str(mark.verdict) if mark else None,
        mark.reason if mark else None,
        view.question.marking.scheme,
        held.seconds,
        reply.first_token_s,
        held.input_tokens,
        held.output_tokens,
        view.cost,
        reply.finish,
        view.question.text,
        dict(view.question.marking.choices) or None,
        view.question.marking.key,
    )
    row = dict(zip(_NAMES, values, strict=True))
    if view.runs:
        row["runs"] = works_data(view.runs)
    return {**row, "unsure_because": mark.unsure_because} if unsure and mark else row


def reply_facts(view: ReplyView) -> list[tuple[str, str]]:
    """Return what is told of a reply beside its text, each fact by its name."""
    reply, held = view.reply, view.reply.held
    mark = held.mark
    facts = [
        ("question", view.question.text),
        *([("options", said_options(view.question))] if view.question.marking.choices else []),
        ("key", said_key(view.question)),
        ("answer", _answer(mark)),
        ("verdict", verdict_said(view)),
        ("outcome", f"{held.outcome}" + (f" ({reply.cause})" if reply.cause else "")),
        ("took", f"{figures.seconds(held.seconds)} s, {figures.count(held.output_tokens)} tokens out"),
    ]
    if view.cost is not None:
        facts[-1] = ("took", facts[-1][1] + f", cost {figures.cost(view.cost)}")
    place = [name for name, _ in facts].index("outcome")
    if mark is not None and not mark.sure:
        facts.insert(place, ("unsure", mark.unsure_because or "another reading would flip the verdict"))
    if mark is not None and mark.form_kept is False:
        facts.insert(place, ("form", "not on the answer line that was asked for"))
    if mark is None or view.question.marking.scheme == "rubric":
        facts = [fact for fact in facts if fact[0] != "answer"]
    return facts


def _answer(mark: Mark | None) -> str:
    if mark is None or not mark.answer:
        return "none read"
    return f"{mark.answer}  [{mark.read_by}]" if mark.read_by else mark.answer


def _text(view: ReplyView, width: int | None) -> str:
    lines = [_heading(view)]
    for name, value in reply_facts(view):
        lines += labelled(name, value, width)
    lines += ["", *quoted(view.reply.text, width)]
    lines += works_lines(view.runs, width)
    for name, value in judgements_said(view):
        lines += labelled(name, value, width)
    return "\n".join(lines) + "\n"


def _heading(view: ReplyView) -> str:
    trial = f" · trial {view.reply.held.trial}" if view.reply.held.trial > 1 else ""
    again = " · second try" if view.second_try else ""
    return f"{view.suite.name}/{view.question.id} · {view.entrant.name}{trial}{again}"


def _markdown(view: ReplyView) -> str:
    fence = "```"
    while fence in view.reply.text:
        fence += "`"
    lines = [f"### {_heading(view)}", ""]
    for name, value in reply_facts(view):
        value = markdown_text(value).replace("\n", " ")
        lines.append(f"- **{name}**: {value}")
    lines += [
        f"- **{name}**: {markdown_text(value)}" for name, value in (*works_facts(view.runs), *judgements_said(view))
    ]
    return "\n".join([*lines, "", fence, figures.visible(view.reply.text), fence, ""])
