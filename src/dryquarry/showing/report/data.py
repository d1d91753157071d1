"""The data beside the pages: boards, grids and replies for others' programs, and what the search looks through."""

from __future__ import annotations

import base64
import gzip
import json
from collections.abc import Mapping
from typing import Any

from dryquarry.showing.boards import board_view
from dryquarry.showing.contact_sheet import verdict_sign
from dryquarry.showing.grids import grid_view
from dryquarry.showing.replies import replies_view
from dryquarry.showing.report.cards import anchor_of
from dryquarry.showing.report.sections import question_id, way_to
from dryquarry.showing.report.site import Site
from dryquarry.workspace.reporting import ReportContent, SuiteReport

SEARCHED = "data/search.js"
# The same for every reply to a question, and in the file of questions; or in the name of the file.
_OF_QUESTIONS = ("suite", "edition", "asked", "options", "key", "scheme")


def add_data(site: Site, content: ReportContent) -> None:
    """Put the data of boards, grids, questions and replies beside the pages."""
    for report in content.suites:
        name = site.name("suite", report.suite.name)
        site.files[f"data/board-{name}.json"] = _json(board_view(report.board).data)
        site.files[f"data/grid-{name}.json"] = _json(grid_view(report.grid).data)
        site.files[f"data/questions-{name}.json"] = _json([_question(report, id) for id in report.by_question])
        site.files[f"data/replies-{name}.jsonl"] = _replies(content, report)
    if content.combined is not None:
        site.files["data/board.json"] = _json(board_view(content.combined).data)


def add_search(site: Site, content: ReportContent) -> None:
    """Add the page that searches questions and replies, and what it looks through, packed.

    A page that is opened from a disk may load scripts, not data; so the data are a script that sets one name.
    """
    found = [_searched(site, report, id) for report in content.suites for id in report.by_question]
    packed = base64.b64encode(
        gzip.compress(json.dumps(found, ensure_ascii=False).encode("utf-8", "replace"), 6, mtime=0)
    )
    site.files[SEARCHED] = b'window.searchedTexts = "' + packed + b'";\n'
    site.add(
        "search",
        "search.html",
        "Search",
        "search.html",
        {"data": SEARCHED, "questions": content.redaction.questions, "replies": content.redaction.replies},
        way=way_to(content),
    )


def _json(data: Any) -> bytes:
    return (json.dumps(data, ensure_ascii=False, allow_nan=False) + "\n").encode("utf-8", "replace")


def _question(report: SuiteReport, id: str) -> Mapping[str, Any]:
    question = report.by_question[id][0].question
    return {
        "id": id,
        "category": question.category,
        "tags": list(question.tags),
        "level": question.level,
        "weight": question.weight,
        "asked": question.text,
        "options": dict(question.marking.choices) or None,
        "key": question.marking.key,
        "scheme": question.marking.scheme,
        "why": question.why,
    }


def _replies(content: ReportContent, report: SuiteReport) -> bytes:
    lines = []
    for row, view in zip(replies_view(report.replies, judged=True).data, report.replies, strict=True):
        told = {name: value for name, value in row.items() if name not in _OF_QUESTIONS and value not in (None, [])}
        lines.append(_json(told | ({"second_try": True} if view.second_try else {})))
    return b"".join(lines)


def _searched(site: Site, report: SuiteReport, id: str) -> Mapping[str, Any]:
    """Return a question with its replies as the search has them: texts, and where each leads."""
    views = report.by_question[id]
    question, page = views[0].question, question_id(report.suite, id)
    suite, name = site.name("suite", report.suite.name), site.name(report.suite.name, id)
    options = " ".join(f"{letter}) {text}" for letter, text in question.marking.choices)
    return {
        "suite": report.suite.title,
        "id": id,
        "category": question.category or "",
        "to": f"{suite}/questions/{name}.html",
        "text": f"{question.text} {options}".strip(),
        "replies": [
            [anchor_of(view, page), view.entrant.name, verdict_sign(view.mark), view.reply.text] for view in views
        ],
    }
