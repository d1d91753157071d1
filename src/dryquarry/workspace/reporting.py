"""Everything that a report shows, gathered once: boards, grids, items, editions, and every reply behind them."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace
from functools import cached_property
from pathlib import Path

from dryquarry.asking.entrants import Entrant, Entrants
from dryquarry.errors import UsageFault, closest
from dryquarry.ledger.history import PastSitting, past_sittings
from dryquarry.ledger.queries import digests_that_sat
from dryquarry.ledger.results import picture_of
from dryquarry.ledger.store import Ledger
from dryquarry.standing.board_model import Board
from dryquarry.standing.corrected import Audited
from dryquarry.standing.grid import Grid
from dryquarry.standing.items import ItemTable
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item
from dryquarry.standing.versus import Versus, versus
from dryquarry.suites.question import DRAFT, Suite
from dryquarry.workspace import editing, reply_views, standings, tables
from dryquarry.workspace.audits import audits_of
from dryquarry.workspace.collecting import Collected, collect, items_of
from dryquarry.workspace.editing import HistoryRow
from dryquarry.workspace.folder import Folder, no_garbage_collection
from dryquarry.workspace.opening import ledger_for_reading
from dryquarry.workspace.panels import own_family_notes
from dryquarry.workspace.redacting import Redaction
from dryquarry.workspace.reply_views import ReplyView
from dryquarry.workspace.standings import BoardWish


@dataclass(frozen=True, slots=True)
class PartBoard:
    """The board of a part of a suite's questions: the `kind` of part (category, tag) and its name."""

    kind: str
    name: str
    board: Board


@dataclass(frozen=True)
class SuiteReport:
    """One suite's part of a report.

    `replies` are all current ones, by question, then entrant, then trial, second tries after the first; `files` are the
    bytes of what goes with questions, `pictures` those that were taken of works, by their digests.
    """

    suite: Suite
    board: Board
    parts: tuple[PartBoard, ...]
    grid: Grid
    items: ItemTable
    editions: tuple[HistoryRow, ...]
    replies: tuple[ReplyView, ...]
    files: Mapping[str, bytes]
    pictures: Mapping[str, bytes]
    scored: tuple[Item, ...]
    results: Mapping[str, EntrantResults]
    audits: Mapping[str, Audited]

    def versus(self, first: str, second: str) -> Versus | None:
        """Return two entrants compared, None where they share no question."""
        try:
            return versus(
                self.suite.name,
                self.suite.edition,
                self.scored,
                self.results[first],
                self.results[second],
                None,
                self.audits,
            )
        except UsageFault:
            return None

    @cached_property
    def by_question(self) -> Mapping[str, tuple[ReplyView, ...]]:
        """The replies to each question."""
        found: dict[str, list[ReplyView]] = {}
        for view in self.replies:
            found.setdefault(view.question.id, []).append(view)
        return {name: tuple(own) for name, own in found.items()}

    @cached_property
    def by_entrant(self) -> Mapping[str, tuple[ReplyView, ...]]:
        """The replies of each entrant."""
        found: dict[str, list[ReplyView]] = {}
        for view in self.replies:
            found.setdefault(view.entrant.name, []).append(view)
        return {name: tuple(own) for name, own in found.items()}


@dataclass(frozen=True)
class ReportContent:
    """All that a report is made of; `combined` is the board over all its suites, where there are several."""

    redaction: Redaction
    suites: tuple[SuiteReport, ...]
    combined: Board | None
    entrants: tuple[Entrant, ...]
    sittings: Mapping[str, tuple[PastSitting, ...]]
    baseline: str | None


class _UnderLetters(Folder):
    """A workspace's folder whose entrants go by letters; their digests, and so their replies, stay what they are."""

    def __init__(self, root: Path, names: Mapping[str, str]):
        super().__init__(root)
        self.names = names

    def entrants(self) -> Entrants:
        known = super().entrants()
        return Entrants(
            {
                self.names[name]: replace(one, name=self.names[name], title=f"Entrant {self.names[name]}", traits={})
                for name, one in known.entrants.items()
            },
            known.judges,
        )


def report_content(
    folder: Folder, references: Sequence[str], redaction: Redaction, baseline: str | None = None
) -> ReportContent:
    """Return what a report on these suites shows; raises UsageFault where a suite has no reply yet."""
    known = folder.entrants()
    if baseline is not None and baseline not in known.entrants:
        raise UsageFault(f"there is no entrant '{baseline}' in entrants.toml{closest(baseline, known.entrants)}")
    suites = [folder.suite(reference) for reference in references]
    if redaction.anonymous:
        with ledger_for_reading(folder) as ledger:
            redaction = redaction.knowing(
                known, {one for suite in suites for one in digests_that_sat(ledger, suite.name)}
            )
        baseline = redaction.letters[baseline] if baseline is not None else None
        folder = _under_letters(folder, redaction.letters)
    people = list(folder.entrants().entrants.values())
    wish = BoardWish(baseline=baseline)
    with ledger_for_reading(folder) as ledger, no_garbage_collection():
        parts = tuple(_suite_report(folder, ledger, suite, people, wish, redaction) for suite in suites)
        combined = standings.board_of(ledger, suites, people, (), wish) if len(suites) > 1 else None
        present = {row.entrant for part in parts for row in part.board.rows}
        there = tuple(one for one in people if one.name in present)
        sat = {} if redaction.anonymous else {one.name: _sittings(ledger, one, suites) for one in there}
    if baseline is not None and baseline not in present:
        raise UsageFault(f"the baseline {baseline} has no reply to these suites; name an entrant that has")
    return ReportContent(redaction, parts, combined, there, sat, baseline)


def _under_letters(folder: Folder, names: Mapping[str, str]) -> Folder:
    own = _UnderLetters(folder.root, names)
    own.sandbox_settings = folder.sandbox_settings
    return own


def _suite_report(
    folder: Folder, ledger: Ledger, suite: Suite, people: Sequence[Entrant], wish: BoardWish, redaction: Redaction
) -> SuiteReport:
    collected = collect(ledger, suite, people)
    here = {one.entrant for one in collected.entrants}
    if not here:
        raise UsageFault(f"{suite.reference} has no reply yet: 'dryquarry run {suite.name}' asks for them")
    people = [one for one in people if one.name in here]
    own_wish = replace(wish, baseline=wish.baseline if wish.baseline in here else None)
    board = standings.board_of(ledger, [suite], people, (), own_wish)
    family = own_family_notes(suite, people, folder.entrants().judges)
    views = [
        *reply_views.replies_of(ledger, suite, people),
        *reply_views.replies_of(ledger, suite, people, second=True),
    ]
    views = reply_views.with_judgements(ledger, reply_views.with_runs(ledger, views))
    void = set(collected.void)
    files = folder.files(suite.name)
    beside = {one.path: one for question in suite.asked() for one in question.ask.files}
    shown = beside if redaction.questions else {}
    digests = {digest for view in views for run in view.runs for one in run.result.tests for digest in one.pictures}
    pictures = {digest: picture_of(ledger, digest) for digest in digests} if redaction.replies else {}
    return SuiteReport(
        redaction.suite(suite),
        replace(board, notes=(*board.notes, *family)),
        tuple(_parts(ledger, suite, collected, people, own_wish)),
        tables.grid_of(ledger, suite, people),
        redaction.items(tables.items_table_of(ledger, suite, people)),
        tuple(redaction.editions(_editions(folder, suite))),
        tuple(redaction.reply(view) for view in views),
        {path: files.load(one) for path, one in shown.items()},
        {digest: png for digest, png in pictures.items() if png is not None},
        tuple(item for item in items_of(suite) if item.question not in void),
        {one.entrant: one for one in collected.entrants},
        audits_of(ledger, suite, people),
    )


def _parts(
    ledger: Ledger, suite: Suite, collected: Collected, people: Sequence[Entrant], wish: BoardWish
) -> list[PartBoard]:
    """Return the board of every category and every tag that has more than one question, but not all."""
    scored = suite.scored()
    kinds: dict[str, dict[str, list[str]]] = {"category": {}, "tag": {}}
    for question in scored:
        if question.category:
            kinds["category"].setdefault(question.category, []).append(question.id)
        for tag in question.tags:
            kinds["tag"].setdefault(tag, []).append(question.id)
    found = []
    for kind, each in kinds.items():
        for name, own in each.items():
            if 1 < len(own) < len(scored):
                board = standings.part_board(ledger, suite, collected, people, wish, own)
                found.append(PartBoard(kind, name, replace(board, selected=f"{kind} {name}")))
    return found


def _editions(folder: Folder, suite: Suite) -> list[HistoryRow]:
    """Return the sealed editions; a draft is the author's own until it is sealed, or asked for by name."""
    rows = editing.history(folder, suite.name)
    return [row for row in rows if row.suite.edition != DRAFT or suite.edition == DRAFT]


def _sittings(ledger: Ledger, entrant: Entrant, suites: Sequence[Suite]) -> tuple[PastSitting, ...]:
    names = {suite.name for suite in suites}
    return tuple(one for one in past_sittings(ledger, entrant.name) if one.suite in names)
