"""What several kinds of page show: a board with its conclusion and pictures, and where everything stands."""

from __future__ import annotations

import re
from collections.abc import Mapping
from dataclasses import dataclass

from dryquarry.showing.board_lines import board_notes, conclusion, lines_below
from dryquarry.showing.boards import board_view
from dryquarry.showing.report.cards import FileLink
from dryquarry.showing.report.pictures import Draw, drawn, pictures_of
from dryquarry.showing.report.site import Crumb, Site
from dryquarry.showing.report.tables import PageTable, page_table
from dryquarry.standing.board_model import Board
from dryquarry.suites.question import Suite
from dryquarry.workspace.reporting import ReportContent, SuiteReport

START = "start"
_COMMAND = re.compile(r"[:;,]? 'dryquarry [^']*'(?: (?:lists|asks|shows|takes|makes)[^.;:]*)?")
NOTHING = "–"
# Columns of a board that lead to an entrant's replies.
_ABOUT_REPLIES = ("score", "replies passed", "not answered", "second try")


@dataclass(frozen=True, slots=True)
class BoardSection:
    """A board: what it allows to conclude, the table, the other lines below it, notes, and pictures."""

    conclusion: tuple[str, ...]
    table: PageTable
    below: tuple[str, ...]
    notes: tuple[str, ...]
    pictures: tuple[FileLink, ...]


# The parts of ids are set apart by a sign that names of suites, questions and entrants cannot have.
def suite_id(suite: Suite) -> str:
    """Return the id of a suite's page."""
    return f"suite:{suite.name}"


def part_id(suite: Suite, kind: str, name: str) -> str:
    """Return the id of the page of a part's board."""
    return f"part:{suite.name}:{kind}:{name}"


def question_id(suite: Suite, question: str) -> str:
    """Return the id of a question's page."""
    return f"question:{suite.name}:{question}"


def entrant_id(name: str) -> str:
    """Return the id of an entrant's page."""
    return f"entrant:{name}"


def at_entrant(name: str, suite: Suite | str) -> str:
    """Return the link to an entrant's replies to a suite."""
    own = suite if isinstance(suite, str) else suite.name
    return f"{entrant_id(name)}#{entrant_id(name)}:{own}"


def pair_id(suite: Suite, first: str, second: str) -> str:
    """Return the id of a pair's page, whose better one on the suite comes first."""
    return f"pair:{suite.name}:{first}:{second}"


def way_to(content: ReportContent, suite: Suite | None = None) -> tuple[Crumb, ...]:
    """Return the steps from the front page to a page, of a suite if it is one of several."""
    start = (Crumb("Report", START),)
    return start if suite is None else (*start, Crumb(suite.title, suite_id(suite)))


def board_section(
    site: Site, board: Board, id: str, day: str, title: str, report: SuiteReport | None = None, *, pictures: bool = True
) -> BoardSection:
    """Return a board for a page, its pictures put beside the pages; of one suite if a `report` is given."""
    view = board_view(board)
    assert view.table is not None
    names = [row.entrant for row in board.rows]
    headings = {} if report is None else _headings(report)

    def leads(row: int, column: str, text: str) -> str:
        if text == NOTHING:
            return ""
        if column == "entrant":
            return entrant_id(names[row])
        if column in _ABOUT_REPLIES:
            return entrant_id(names[row]) if report is None else at_entrant(names[row], report.suite)
        if report is None and column in board.suite_weights:
            return at_entrant(names[row], column)
        return (
            at_entrant(names[row], report.suite) if report is not None and column in board.rows[row].categories else ""
        )

    concluded = tuple(conclusion(board))
    below = tuple(for_readers(line) for line in lines_below(board) if line not in concluded)
    links = tuple(_pictures(site, board, id, day, title)) if pictures else ()
    return BoardSection(
        concluded,
        page_table(view.table, id, "entrant", leads, headings),
        below,
        tuple(map(for_readers, board_notes(board))),
        links,
    )


def for_readers(line: str) -> str:
    """Return a line without the command that it names, which readers of a report have no use for."""
    return _COMMAND.sub("", line)


def _headings(report: SuiteReport) -> Mapping[str, str]:
    return {one.name: part_id(report.suite, one.kind, one.name) for one in report.parts if one.kind == "category"}


def _pictures(site: Site, board: Board, id: str, day: str, title: str) -> list[FileLink]:
    links = []
    for name, (said, draw) in pictures_of(board).items():
        path = f"pictures/{site.name('picture', f'{id}-{name}')}.svg"
        add_picture(site, path, (board, name, day, title), draw, title, day)
        links.append(FileLink(path, said))
    return links


def add_picture(site: Site, path: str, made_of: object, draw: Draw, title: str, day: str) -> None:
    """Put a picture beside the pages."""
    site.add_picture(path, (made_of, title, day), lambda: drawn(draw, title, day))
