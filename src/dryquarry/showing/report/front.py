"""The front page, and the pages of suites: what was tested, the boards, what they allow to conclude, where to go on."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, replace
from typing import Any

from dryquarry import __version__
from dryquarry.asking.entrants import Entrant
from dryquarry.showing import figures
from dryquarry.showing.editions import diff_view, history_view
from dryquarry.showing.gallery import safe_name
from dryquarry.showing.items import items_view
from dryquarry.showing.report.cards import FileLink
from dryquarry.showing.report.entrants import pairs_of
from dryquarry.showing.report.grids import grid_id
from dryquarry.showing.report.pictures import items_picture
from dryquarry.showing.report.sections import (
    NOTHING,
    START,
    add_picture,
    board_section,
    entrant_id,
    for_readers,
    pair_id,
    part_id,
    question_id,
    suite_id,
    way_to,
)
from dryquarry.showing.report.site import Crumb, Site
from dryquarry.showing.report.tables import PageCell, PageColumn, PageRow, PageTable, page_table
from dryquarry.showing.versus import versus_view
from dryquarry.workspace.reporting import ReportContent, SuiteReport


@dataclass(frozen=True, slots=True)
class SuiteLinks:
    """Where the pages of a suite are: its grid, items, editions, boards of parts, questions and pairs."""

    id: str
    title: str
    reference: str
    about: str
    facts: tuple[tuple[str, str], ...]
    grid: str
    items: str
    editions: str
    parts: tuple[tuple[str, str, str], ...]
    questions: tuple[tuple[str, str], ...]
    pairs: tuple[tuple[str, str, str], ...]
    data: tuple[FileLink, ...]


@dataclass(frozen=True, slots=True)
class Compared:
    """The comparison of one entrant with the incumbent, in a sentence of its own, with its page."""

    entrant: str
    link: str
    said: str


def day_of(content: ReportContent) -> str:
    """Return the day of the latest reply (UTC), which is what a report is about, whenever it was written."""
    return max((moment[:10] for report in content.suites for moment in _moments(report)), default="")


def add_front(site: Site, content: ReportContent) -> None:
    """Add the front page; of a single suite it is also that suite's."""
    day = day_of(content)
    board = content.combined if content.combined is not None else content.suites[0].board
    report = content.suites[0] if content.combined is None else None
    made_of: dict[str, Any] = {
        "facts": tuple(_facts(content)),
        "said": tuple(_left_out(content)),
        "board": board_section(site, board, START, day, site.title, report),
        "several": content.combined is not None,
        "compared": _compared(content),
        "baseline": content.baseline,
        "suites": tuple(_links(site, content, one) for one in content.suites),
        "tables": tuple(
            board_section(site, one.board, suite_id(one.suite), day, one.suite.title, one, pictures=False)
            for one in content.suites
        )
        if content.combined is not None
        else (),
        "entrants": _entrants(content),
    }
    site.add(START, "index.html", site.title, "front.html", made_of)


def add_suite(site: Site, content: ReportContent, report: SuiteReport) -> None:
    """Add a suite's own page, the boards of its parts, and the pages of its items and editions."""
    suite, day = report.suite, day_of(content)
    folder, way = site.name("suite", suite.name), way_to(content)
    board = board_section(
        site, report.board, suite_id(suite), day, suite.title, report, pictures=content.combined is not None
    )
    links = _links(site, content, report)
    made_of: dict[str, Any] = {"board": board, "links": links}
    site.add(suite_id(suite), f"{folder}/index.html", suite.title, "suite.html", made_of, way=way)
    way = way_to(content, suite)
    for part in report.parts:
        id = part_id(suite, part.kind, part.name)
        section = board_section(site, part.board, id, day, suite.title, report, pictures=False)
        title = f"{suite.title}: {part.kind} {part.name}"
        path = f"{folder}/boards/{site.name(f'part {suite.name}', safe_name(f'{part.kind}-{part.name}'))}.html"
        site.add(id, path, title, "part.html", {"board": section, "links": links, "here": id}, way=way)
    _add_items(site, report, day, way)
    _add_editions(site, report, way)


def _add_items(site: Site, report: SuiteReport, day: str, way: Sequence[Crumb]) -> None:
    suite, folder = report.suite, site.name("suite", report.suite.name)
    view = items_view(report.items)
    assert view.table is not None
    known = set(report.by_question)
    table = page_table(
        view.table,
        f"items:{suite.name}",
        "question",
        lambda row, column, text: question_id(suite, text) if column == "question" and text in known else "",
    )
    picture = f"pictures/{site.name('picture', f'items-{suite.name}')}.svg"
    add_picture(site, picture, report.items, items_picture(report.items), suite.title, day)
    made_of: dict[str, Any] = {
        "table": replace(table, below=tuple(map(for_readers, table.below))),
        "picture": FileLink(picture, "Questions by share passed and discrimination"),
    }
    site.add(
        f"items:{suite.name}", f"{folder}/items.html", f"Questions of {suite.title}", "items.html", made_of, way=way
    )


def _add_editions(site: Site, report: SuiteReport, way: Sequence[Crumb]) -> None:
    suite, folder = report.suite, site.name("suite", report.suite.name)
    id = f"editions:{suite.name}"
    history = history_view(suite.name, report.editions).table
    assert history is not None
    known = set(report.by_question)

    def leads(row: int, column: str, text: str) -> str:
        return question_id(suite, text) if column == "question" and text in known else ""

    changes = []
    for row in report.editions:
        table = diff_view(row.diff).table if row.diff is not None else None
        if table is not None:
            changes.append(page_table(table, f"{id}:{row.suite.edition}", "question", leads))
    made_of: dict[str, Any] = {"table": page_table(history, id, "edition"), "changes": tuple(changes)}
    site.add(id, f"{folder}/editions.html", f"Editions of {suite.title}", "editions.html", made_of, way=way)


def add_numbers(site: Site, content: ReportContent) -> None:
    """Add the page that says in plain words how the numbers are made."""
    boards = [report.board for report in content.suites]
    made_of: dict[str, Any] = {
        "target": str(boards[0].target),
        "trials": max(row.trials for board in boards for row in board.rows),
        "corrected": any(board.audit is not None and board.audit.corrected for board in boards),
        "judged": any(view.verdicts for report in content.suites for view in report.replies),
        "run": any(view.runs for report in content.suites for view in report.replies),
        "several": content.combined is not None,
        "version": __version__,
    }
    site.add("numbers", "numbers.html", "How the numbers are made", "numbers.html", made_of, way=way_to(content))


def _facts(content: ReportContent) -> list[tuple[str, str]]:
    """Return what was tested, when, with how much."""
    moments = [moment for report in content.suites for moment in _moments(report)]
    replies = sum(not view.second_try for report in content.suites for view in report.replies)
    suites = ", ".join(report.suite.reference for report in content.suites)
    trials = max(row.trials for report in content.suites for row in report.board.rows)
    facts = [
        ("suites" if len(content.suites) > 1 else "suite", suites),
        ("entrants", figures.count(len(content.entrants))),
        ("questions", figures.count(sum(len(report.by_question) for report in content.suites))),
        ("trials", figures.count(trials)),
        ("replies", figures.count(replies)),
    ]
    if moments:
        first, last = figures.moment(min(moments)), figures.moment(max(moments))
        facts.append(("asked", first if first == last else f"{first} to {last}"))
    return facts


def _moments(report: SuiteReport) -> list[str]:
    return [view.reply.held.received_at for view in report.replies if view.reply.held.received_at]


def _entrants(content: ReportContent) -> PageTable:
    """Return who was asked, with which settings, when, and what the services said that they are."""
    names = ["entrant", "title", "model", "settings", "asked", "answered as", "replies"]
    shown = names if not content.redaction.anonymous else ["entrant", "asked", "replies"]
    rows = []
    for one in content.entrants:
        views = [view for report in content.suites for view in report.by_entrant.get(one.name, ())]
        days = sorted({view.reply.held.received_at[:10] for view in views if view.reply.held.received_at})
        served = dict.fromkeys(str(told) for past in content.sittings.get(one.name, ()) for told in past.served)
        told = {
            "entrant": PageCell(one.name, entrant_id(one.name)),
            "title": PageCell(one.title, kind="wide"),
            "model": PageCell(one.model if one.build is None else f"{one.model}, {one.build}", kind="wide"),
            "settings": PageCell(_settings(one), kind="wide"),
            "asked": PageCell(days[0] if len(days) == 1 else f"{days[0]} to {days[-1]}" if days else NOTHING),
            "answered as": PageCell(", ".join(served) or NOTHING, kind="wide"),
            "replies": PageCell(figures.count(sum(not view.second_try for view in views))),
        }
        rows.append(PageRow(tuple(told[name] for name in shown)))
    columns = tuple(PageColumn(name, name == "replies", name == "entrant") for name in shown)
    return PageTable("start:entrants", "", columns, tuple(rows))


def _settings(entrant: Entrant) -> str:
    said = [f"{name} {value}" for name, value in entrant.settings.items()]
    return ", ".join([*said, *(["a system text"] if entrant.system else [])]) or NOTHING


def _left_out(content: ReportContent) -> list[str]:
    """Return what this report keeps to itself, in sentences for its readers."""
    said = []
    if not content.redaction.questions:
        said.append(
            "The texts of the questions, their keys, and the replies are not part of this report: it has ids, "
            "categories and figures."
        )
    elif not content.redaction.replies:
        said.append("The texts of the replies are not part of this report.")
    if content.redaction.anonymous:
        said.append(
            "Entrants go by letters, in an order that says nothing; where a reply named one of them, the letter stands "
            "in brackets."
        )
    return said


def _compared(content: ReportContent) -> tuple[Compared, ...]:
    """Return how every other entrant compares with the incumbent, on the first suite or on each."""
    if content.baseline is None:
        return ()
    found = []
    for report in content.suites:
        better = [(first, second) for first, second in pairs_of(report) if content.baseline in (first, second)]
        for first, second in better:
            other = second if first == content.baseline else first
            versus = report.versus(other, content.baseline)
            table = versus_view(versus).table if versus is not None else None
            if versus is None or table is None:
                continue
            own = versus.whole.comparison
            where = f"{report.suite.title}: " if len(content.suites) > 1 else ""
            said = (
                f"{where}{figures.difference(own.difference)} ({figures.difference_interval(own.interval)}). "
                f"{next(iter(table.below))}"
            )
            found.append(Compared(other, pair_id(report.suite, first, second), said))
    return tuple(found)


def _links(site: Site, content: ReportContent, report: SuiteReport) -> SuiteLinks:
    suite = report.suite
    data = site.name("suite", suite.name)
    facts = [("questions", figures.count(len(report.by_question)))]
    if suite.seal is not None:
        facts.append(("sealed", figures.moment(suite.seal.sealed_at)))
        facts.append(("digest", suite.seal.digest[:12]))
    files = [FileLink(f"data/board-{data}.json", "board"), FileLink(f"data/grid-{data}.json", "grid")]
    files.append(FileLink(f"data/replies-{data}.jsonl", "replies"))
    return SuiteLinks(
        suite_id(suite),
        suite.title,
        suite.reference,
        suite.about,
        tuple(facts),
        grid_id(report),
        f"items:{suite.name}",
        f"editions:{suite.name}",
        tuple((part.kind, part.name, part_id(suite, part.kind, part.name)) for part in report.parts),
        tuple((name, question_id(suite, name)) for name in report.by_question),
        tuple((first, second, pair_id(suite, first, second)) for first, second in pairs_of(report)),
        tuple(files),
    )
