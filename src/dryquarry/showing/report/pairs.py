"""The pages of pairs: two entrants compared, and both replies side by side wherever they came out differently."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass
from typing import Any

from dryquarry.showing import figures
from dryquarry.showing.report.cards import Beside, ReplyCard, card_of
from dryquarry.showing.report.entrants import pairs_of
from dryquarry.showing.report.sections import pair_id, question_id, way_to
from dryquarry.showing.report.site import Site, digest_of
from dryquarry.showing.report.tables import page_table
from dryquarry.showing.versus import versus_view
from dryquarry.standing.paired import SAME
from dryquarry.standing.versus import Duel, Side
from dryquarry.workspace.reply_views import ReplyView
from dryquarry.workspace.reporting import ReportContent, SuiteReport

# So many replies, and characters of them, may stand on all pages of pairs: the pages of many pairs show fewer questions
# side by side, those that came out most differently, and of long replies the part around the answer.
MOST_BESIDE_IN_ALL, LEAST_BESIDE, MOST_BESIDE = 5_000, 10, 200
MOST_CHARACTERS_IN_ALL, LEAST_CHARACTERS, MOST_CHARACTERS = 3_000_000, 240, 4_000


@dataclass(frozen=True, slots=True)
class DuelRow:
    """A question on which two entrants came out differently: what was asked, for whom, and a reply of each."""

    question: str
    link: str
    asked: str
    side: str
    first: ReplyCard | None
    second: ReplyCard | None
    first_link: str
    second_link: str


@dataclass(frozen=True, slots=True)
class Room:
    """How many questions a pair's page shows side by side, and how many characters of each reply."""

    beside: int
    characters: int

    @classmethod
    def of(cls, report: SuiteReport, pairs: int) -> Room:
        """Return the room of each page, so that all together stay small."""
        beside = max(LEAST_BESIDE, min(MOST_BESIDE, MOST_BESIDE_IN_ALL // max(1, pairs)))
        shown = 2 * pairs * min(beside, len(report.by_question))
        characters = MOST_CHARACTERS_IN_ALL // max(1, shown)
        return cls(beside, max(LEAST_CHARACTERS, min(MOST_CHARACTERS, characters)))


def add_pairs(site: Site, content: ReportContent, report: SuiteReport) -> None:
    """Add the pages of all pairs of entrants on a suite."""
    pairs = pairs_of(report)
    made = {name: digest_of([_made_of(view) for view in own]) for name, own in report.by_entrant.items()}
    room = Room.of(report, len(pairs))
    for first, second in pairs:
        id = pair_id(report.suite, first, second)
        names = f"{site.name('entrant', first)}--{site.name('entrant', second)}"
        path = f"{site.name('suite', report.suite.name)}/pairs/{names}.html"
        site.add(
            id,
            path,
            f"{first} against {second}",
            "pair.html",
            (made[first], made[second], report.scored, report.suite.reference, content.redaction, room),
            lambda first=first, second=second, id=id: _context(content, report, first, second, id, room),  # type: ignore[misc]
            way=way_to(content, report.suite),
        )


def _made_of(view: ReplyView) -> tuple[Any, ...]:
    held = view.reply.held
    return (
        held.reply_id,
        held.mark,
        held.seconds,
        view.cost,
        view.decisions,
        view.question.ask_digest,
        view.question.mark_digest,
        view.entrant.name,
        view.entrant.title,
    )


def _context(
    content: ReportContent, report: SuiteReport, first: str, second: str, id: str, room: Room
) -> Mapping[str, Any]:
    found = report.versus(first, second)
    table = versus_view(found).table if found is not None else None
    duels = [duel for duel in found.duels if abs(duel.first - duel.second) > SAME] if found is not None else []
    shown = sorted(duels, key=lambda duel: -abs(duel.first - duel.second))[: room.beside]
    return {
        "first": first,
        "second": second,
        "suite": report.suite.title,
        "reference": report.suite.reference,
        "table": None if table is None else page_table(table, id, "on"),
        "lines": () if table is None else tuple(line for line in table.below if "--" not in line),
        "apart": tuple(_apart(report, duel, first, second) for duel in duels),
        "duels": [_row(content, report, duel, first, second, id, room.characters) for duel in shown],
    }


def _row(
    content: ReportContent, report: SuiteReport, duel: Duel, first: str, second: str, id: str, most: int
) -> DuelRow:
    views = report.by_question[duel.question]
    page = question_id(report.suite, duel.question)
    cards = [_card(content, _telling(views, name, duel, name == first), id, most) for name in (first, second)]
    links = [f"{page}#{page}{card.anchor.removeprefix(id)}" if card is not None else "" for card in cards]
    asked = views[0].question.text
    side = _side(duel, first, second)
    return DuelRow(
        duel.question,
        page,
        asked[:600] + ("…" if len(asked) > 600 else ""),
        side,
        cards[0],
        cards[1],
        links[0],
        links[1],
    )


def _apart(report: SuiteReport, duel: Duel, first: str, second: str) -> tuple[str, str, str, str, str]:
    """Return a question that came out differently, for the list of all: its id, page, both scores, and for whom."""
    page = question_id(report.suite, duel.question)
    scores = (figures.percent(duel.first, 0), figures.percent(duel.second, 0))
    return duel.question, page, *scores, _side(duel, first, second)


def _side(duel: Duel, first: str, second: str) -> str:
    return {Side.WON: f"{first} better", Side.LOST: f"{second} better", Side.TIED: "alike"}[duel.side]


def _telling(views: tuple[ReplyView, ...], name: str, duel: Duel, is_first: bool) -> ReplyView | None:
    """Return the reply that tells most of the difference: of the better one its best trial, of the other its worst."""
    own = [view for view in views if view.entrant.name == name and not view.second_try]
    marked = [view for view in own if view.mark is not None and view.mark.score is not None] or own
    if not marked:
        return None
    better = (duel.first > duel.second) is is_first
    key = lambda view: view.mark.score if view.mark is not None and view.mark.score is not None else 0.0  # noqa: E731
    return max(marked, key=key) if better else min(marked, key=key)


def _card(content: ReportContent, view: ReplyView | None, id: str, most: int) -> ReplyCard | None:
    if view is None:
        return None
    return card_of(view, id, Beside({}), texts=content.redaction.replies, most=most)
