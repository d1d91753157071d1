"""The pages of entrants: how they were asked, what they scored where, and each of their replies' marks."""

from __future__ import annotations

import json
from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from dryquarry.asking.entrants import Entrant
from dryquarry.marking.values.texts import shortened
from dryquarry.showing import figures
from dryquarry.showing.contact_sheet import verdict_sign
from dryquarry.showing.entrants import past_table
from dryquarry.showing.report.cards import anchor_of, mark_kind, trial_said
from dryquarry.showing.report.sections import entrant_id, pair_id, question_id, way_to
from dryquarry.showing.report.site import Site
from dryquarry.showing.report.tables import page_table
from dryquarry.standing.board_model import BoardRow
from dryquarry.workspace.reply_views import ReplyView
from dryquarry.workspace.reporting import ReportContent, SuiteReport

LONGEST_REASON, LONGEST_ANSWER = 160, 60


@dataclass(frozen=True, slots=True)
class MarkRow:
    """One reply in the list of an entrant's: where it is, its mark, and what it took."""

    link: str
    question: str
    trial: str
    category: str
    tags: str
    sign: str
    kind: str
    answer: str
    reason: str
    seconds: str
    tokens: str
    cost: str


@dataclass(frozen=True, slots=True)
class EntrantSuite:
    """An entrant on one suite: its figures, scores of parts, replies, and the pairs it is in."""

    anchor: str
    title: str
    reference: str
    facts: tuple[tuple[str, str], ...]
    parts: tuple[tuple[str, str, str], ...]
    rows: tuple[MarkRow, ...]
    answers: bool
    categories: tuple[str, ...]
    tags: tuple[str, ...]
    pairs: tuple[tuple[str, str], ...]


def add_entrants(site: Site, content: ReportContent) -> None:
    """Add the pages of all entrants."""
    for one in content.entrants:
        suites = tuple(_suite(content, report, one.name) for report in content.suites if one.name in report.by_entrant)
        past = content.sittings.get(one.name, ())
        sat = page_table(past_table(past, one), f"{entrant_id(one.name)}:sat", "began (UTC)") if past else None
        made_of: dict[str, Any] = {
            "entrant": one.name,
            "title": one.title,
            "settings": () if content.redaction.anonymous else tuple(_settings(one)),
            "anonymous": content.redaction.anonymous,
            "suites": suites,
            "sat": sat,
            "texts": content.redaction.replies,
        }
        path = f"entrants/{site.name('entrant', one.name)}.html"
        site.add(entrant_id(one.name), path, one.title, "entrant.html", made_of, way=way_to(content))


def _settings(entrant: Entrant) -> list[tuple[str, str]]:
    """Return how an entrant is asked; not where, which is nobody's business but its keeper's."""
    price = entrant.price
    facts: list[tuple[str, object]] = [
        ("model", entrant.model),
        ("build", entrant.build),
        ("settings", _said(entrant.settings)),
        ("traits", _said(entrant.traits)),
        ("system text", entrant.system),
        ("price", f"{price.input:g} in, {price.output:g} out, a million tokens" if price else None),
        ("asked", "by program" if entrant.endpoint else "by hand"),
        ("digest of settings", entrant.digest[:8]),
    ]
    return [(name, str(value)) for name, value in facts if value]


def _said(values: Mapping[str, Any]) -> str:
    return ", ".join(f"{name} = {json.dumps(value, ensure_ascii=False)}" for name, value in values.items())


def _suite(content: ReportContent, report: SuiteReport, name: str) -> EntrantSuite:
    row = next((one for one in report.board.rows if one.entrant == name), None)
    order = [one.entrant for one in report.board.rows if one.entrant in report.by_entrant]
    rows = tuple(_mark_row(report, view, content.redaction.replies) for view in report.by_entrant[name])
    pairs = [(first, second) for first, second in pairs_of(report) if name in (first, second)]
    return EntrantSuite(
        f"{entrant_id(name)}:{report.suite.name}",
        report.suite.title,
        report.suite.reference,
        () if row is None else tuple(_figures(row)),
        () if row is None else tuple(_parts(row)),
        rows,
        any(one.answer for one in rows),
        tuple(dict.fromkeys(one.category for one in rows if one.category)),
        tuple(dict.fromkeys(tag for view in report.by_entrant[name] for tag in view.question.tags)),
        tuple(
            (pair_id(report.suite, first, second), second if first == name else first)
            for first, second in sorted(pairs, key=lambda pair: order.index(pair[1] if pair[0] == name else pair[0]))
        ),
    )


def pairs_of(report: SuiteReport) -> list[tuple[str, str]]:
    """Return all pairs of entrants with replies, the better one on the board first."""
    names = [row.entrant for row in report.board.rows if row.entrant in report.results]
    return [(first, second) for place, first in enumerate(names) for second in names[place + 1 :]]


def _figures(row: BoardRow) -> list[tuple[str, str]]:
    facts = [
        ("score", f"{figures.percent(row.score)} ({figures.interval(row.low, row.high)})"),
        ("replies passed", f"{row.passed} of {row.marked}"),
        ("median seconds", figures.seconds(row.median_s)),
        ("90 of 100 within s", figures.seconds(row.p90_s)),
        ("tokens out", figures.count(row.output_tokens)),
        ("cost", figures.cost(row.cost)),
        ("cost per pass", figures.cost(row.cost_per_pass)),
    ]
    outcomes = ", ".join(f"{count} {name}" for name, count in sorted(row.outcomes.items()) if name != "answered")
    facts += [("not answered", outcomes)] if outcomes else []
    if row.repeats is not None:
        shares = f"{figures.percent(row.repeats.once, 0)} / {figures.percent(row.repeats.every, 0)}"
        facts.append(("passed once / in every trial", shares))
    return facts


def _parts(row: BoardRow) -> list[tuple[str, str, str]]:
    """Return the scores of the parts of a suite: the kind of part, its name, the score."""
    kinds = {"category": row.categories, "tag": row.tags, "level": row.levels}
    return [(kind, name, figures.percent(score, 0)) for kind, each in kinds.items() for name, score in each.items()]


def _mark_row(report: SuiteReport, view: ReplyView, texts: bool) -> MarkRow:
    mark, held = view.mark, view.reply.held
    page = question_id(report.suite, view.question.id)
    return MarkRow(
        f"{page}#{anchor_of(view, page)}",
        view.question.id,
        trial_said(view),
        view.question.category or "",
        "|".join(view.question.tags),
        verdict_sign(mark),
        mark_kind(mark),
        shortened(mark.answer or "", LONGEST_ANSWER) if mark is not None and texts else "",
        shortened(mark.reason, LONGEST_REASON) if mark is not None and texts else "",
        figures.seconds(held.seconds),
        figures.count(held.output_tokens),
        figures.cost(view.cost),
    )
