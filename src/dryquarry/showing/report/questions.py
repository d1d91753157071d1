"""The pages of questions: what was asked, its key, and how everybody answered."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace

from dryquarry.marking.registry import needs_run
from dryquarry.showing import figures
from dryquarry.showing.contact_sheet import verdict_sign
from dryquarry.showing.replies import said_key
from dryquarry.showing.report.cards import Beside, FileLink, ReplyCard, card_of, mark_kind
from dryquarry.showing.report.sections import question_id, way_to
from dryquarry.showing.report.site import Site
from dryquarry.suites.question import Question, State
from dryquarry.workspace.reply_views import ReplyView
from dryquarry.workspace.reporting import ReportContent, SuiteReport


@dataclass(frozen=True, slots=True)
class OptionRow:
    """An option of a choice question; `key` tells whether it is the right one."""

    letter: str
    text: str
    key: bool


@dataclass(frozen=True, slots=True)
class Answered:
    """How often an answer was given: the answer, whether it passed, who gave it."""

    answer: str
    sign: str
    kind: str
    who: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class QuestionPage:
    """What the page of a question shows; `failure_after` and `failure_before` lead to other questions' failures."""

    id: str
    state: str
    turns: tuple[str, ...]
    system: str
    options: tuple[OptionRow, ...]
    answer_line: str
    key: str
    rubric: tuple[tuple[str, str, str], ...]
    way: str
    facts: tuple[tuple[str, str], ...]
    images: tuple[FileLink, ...]
    attached: tuple[FileLink, ...]
    answers: tuple[Answered, ...]
    made: tuple[tuple[ReplyCard, FileLink], ...]
    replies: tuple[ReplyCard, ...]
    before: str = ""
    after: str = ""
    failure_before: str = ""
    failure_after: str = ""


def add_questions(site: Site, content: ReportContent, report: SuiteReport, beside: Beside) -> None:
    """Add the pages of a suite's questions."""
    asked = [question for question in report.suite.asked() if question.id in report.by_question]
    failed = [
        any(view.mark is not None and view.mark.score == 0.0 for view in report.by_question[question.id])
        for question in asked
    ]
    ids = [question_id(report.suite, question.id) for question in asked]
    for place, question in enumerate(asked):
        shown = replace(
            _page(content, report, question, beside),
            before=ids[place - 1] if place else "",
            after=ids[place + 1] if place + 1 < len(ids) else "",
            failure_before=next((ids[n] for n in range(place - 1, -1, -1) if failed[n]), ""),
            failure_after=next((ids[n] for n in range(place + 1, len(ids)) if failed[n]), ""),
        )
        path = f"{site.name('suite', report.suite.name)}/questions/{site.name(report.suite.name, question.id)}.html"
        made_of = {"question": shown, "redaction": content.redaction}
        site.add(ids[place], path, question.id, "question.html", made_of, way=way_to(content, report.suite))


def _page(content: ReportContent, report: SuiteReport, question: Question, beside: Beside) -> QuestionPage:
    order = {row.entrant: place for place, row in enumerate(report.board.rows)}
    views = sorted(report.by_question[question.id], key=lambda view: order.get(view.entrant.name, len(order)))
    id, texts = question_id(report.suite, question.id), content.redaction.replies
    shown = content.redaction.questions
    images, attached = _files(report, question, beside)
    replies = tuple(card_of(view, id, beside, texts=texts) for view in views)
    return QuestionPage(
        id=question.id,
        state="pilot, not scored" if question.state is State.PILOT else "",
        turns=question.texts,
        system=question.ask.system or "" if shown else "",
        options=tuple(OptionRow(letter, text, _right(question, letter)) for letter, text in question.marking.choices),
        answer_line=question.marking.answer_line or "",
        key=_key(question) if shown else "",
        rubric=_rubric(question),
        way=question.way if shown else question.marking.scheme,
        facts=tuple(_facts(question)),
        images=images,
        attached=attached,
        answers=_answers(views) if texts and not needs_run(question.marking) else (),
        made=_made(replies),
        replies=replies,
    )


def _key(question: Question) -> str:
    """Return a question's key; where there is none, how replies are marked says all."""
    key = question.marking.key
    if question.marking.scheme == "exact" and isinstance(key, list):
        return " or ".join(map(str, key))
    return said_key(question) if key is not None else ""


def _rubric(question: Question) -> tuple[tuple[str, str, str], ...]:
    """Return the criteria of a question's rubric: what each is called, asks for, and is worth."""
    rubric = question.marking.rubric
    return tuple(
        (one.id, one.asks, f"{one.points:g}" + (", without which the reply fails" if one.veto else ""))
        for one in (rubric.criteria if rubric is not None else ())
    )


def _made(replies: Sequence[ReplyCard]) -> tuple[tuple[ReplyCard, FileLink], ...]:
    """Return the last picture of what each reply made, to stand side by side."""
    last = ((card, [picture for run in card.runs for picture in run.pictures]) for card in replies)
    return tuple((card, pictures[-1]) for card, pictures in last if pictures)


def _right(question: Question, letter: str) -> bool:
    key = question.marking.key
    return letter == key or (isinstance(key, list) and letter in key)


def _facts(question: Question) -> list[tuple[str, str]]:
    """Return what a question's author says of it."""
    facts = [
        ("category", question.category),
        ("tags", ", ".join(question.tags)),
        ("level", question.level),
        ("family", question.family + (f", {question.twist}" if question.twist else "") if question.family else None),
        ("language", question.language),
        ("weight", f"{question.weight:g}" if question.weight != 1 else None),
        ("why", question.why),
        ("source", question.source),
        ("second try", question.second_try),
        (
            "drawn",
            ", ".join(f"{name} = {value}" for name, value in question.drawn.values.items()) if question.drawn else None,
        ),
    ]
    return [(name, value) for name, value in facts if value]


def _files(
    report: SuiteReport, question: Question, beside: Beside
) -> tuple[tuple[FileLink, ...], tuple[FileLink, ...]]:
    """Return the pictures that go with a question, and its other files, put beside the pages."""
    images: list[FileLink] = []
    attached: list[FileLink] = []
    for one in question.ask.files:
        if one.path not in report.files:
            continue
        ending = one.path.rpartition(".")[2].casefold()
        picture = one.media_type.startswith("image/") and ending in ("png", "jpg", "jpeg", "gif", "webp")
        path = f"asked/{one.sha256[:24]}.{ending if picture else 'txt'}"
        beside.files[path] = report.files[one.path]
        (images if picture else attached).append(FileLink(path, one.path))
    return tuple(images), tuple(attached)


def _answers(views: Sequence[ReplyView]) -> tuple[Answered, ...]:
    """Return the answers that were read, the most frequent first, each with who gave it; and who gave none."""
    found: dict[tuple[str, str, str], list[str]] = {}
    for view in views:
        if view.mark is None or view.second_try:
            continue
        outcome = str(view.reply.held.outcome)
        answer = " ".join((view.mark.answer or "").split())[:120] or (outcome if outcome != "answered" else "none read")
        found.setdefault((answer, verdict_sign(view.mark), mark_kind(view.mark)), []).append(view.entrant.name)
    rows = sorted(found.items(), key=lambda item: (-len(item[1]), item[0]))
    if not any(view.mark is not None and view.mark.answer for view in views):
        return ()
    return tuple(Answered(answer, sign, kind, tuple(_counted(who))) for (answer, sign, kind), who in rows)


def _counted(names: Sequence[str]) -> list[str]:
    """Return each name once, with how often it is there if that is more."""
    counts = {name: names.count(name) for name in dict.fromkeys(names)}
    return [name if count == 1 else f"{name} ({figures.count(count)} times)" for name, count in counts.items()]
