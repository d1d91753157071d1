"""Questions and suites as plain records: what editions, exports and digests are made of."""

from __future__ import annotations

from typing import Any

from dryquarry.suites.digests import digest
from dryquarry.suites.question import Question, State, Suite
from dryquarry.suites.rubric_reader import rubric_record


def question_record(question: Question) -> dict[str, Any]:
    """Return the question as the fields it has in a file, those without a value left out.

    The mark is complete (scheme and options), so that the record does not lean on the suite's defaults;
    reading the record with the suite's system text and answer line gives the same question again.
    """
    record: dict[str, Any] = {
        "id": question.id,
        "ask": question.texts[0] if len(question.texts) == 1 else list(question.texts),
        "files": [file.path for file in question.ask.files],
        "answer_line": question.answer_line,
        "options": dict(question.marking.choices),
        "key": question.marking.key,
        "mark": {"scheme": question.marking.scheme, **question.marking.options},
        "category": question.category,
        "tags": list(question.tags),
        "family": question.family,
        "twist": question.twist,
        "language": question.language,
        "level": question.level,
        "weight": question.weight if question.weight != 1 else None,
        "why": question.why,
        "source": question.source,
        "state": str(question.state) if question.state is not State.LIVE else None,
        "retired_because": question.retired_because,
        "second_try": question.second_try,
        "proofs": _proofs(question),
        "drawn": _drawn(question),
    }
    return {name: value for name, value in record.items() if value not in (None, "", [], {}, ())}


def suite_record(suite: Suite) -> dict[str, Any]:
    """Return what a suite says apart from its questions."""
    return {
        "title": suite.title,
        "about": suite.about,
        "ask": {
            "system": suite.system,
            "answer_line": suite.answer_line,
            **({"form": "required"} if suite.form_required else {}),
        },
        "rubrics": {name: rubric_record(rubric) for name, rubric in suite.rubrics.items()},
        "templates": [dict(template.record) for template in suite.templates],
        "seed": suite.seed,
        **({"outcomes": dict(suite.outcomes)} if suite.outcomes else {}),
    }


def question_digest(question: Question) -> str:
    """Return the question digest: of its record with its ask and mark digests."""
    return digest(line_content(question))


def line_content(question: Question) -> dict[str, Any]:
    """Return what a line of an edition holds, apart from its own digest: files stand there with their digests."""
    record = question_record(question)
    if question.ask.files:
        record["files"] = [
            {"path": file.path, "sha256": file.sha256, "media_type": file.media_type} for file in question.ask.files
        ]
    return {"ask": question.ask_digest, "mark": question.mark_digest, "question": record}


def content_digest(suite: Suite) -> str:
    """Return the digest of what the author wrote: the same for two drafts exactly when nothing changed."""
    own = [question_digest(question) for question in suite.questions if question.drawn is None]
    return digest({**suite_record(suite), "questions": own})


def _proofs(question: Question) -> dict[str, list[str]]:
    sides = {"pass": list(question.proofs.passing), "fail": list(question.proofs.failing)}
    return {name: samples for name, samples in sides.items() if samples}


def _drawn(question: Question) -> dict[str, Any] | None:
    if question.drawn is None:
        return None
    return {"template": question.drawn.template, "values": dict(question.drawn.values)}
