"""Workspace: one object that opens the folder and hands on to the use cases; what a Python user imports."""

from __future__ import annotations

from collections.abc import Callable, Mapping, Sequence
from dataclasses import replace
from pathlib import Path
from typing import TYPE_CHECKING

from dryquarry.asking.entrants import Entrant, Entrants
from dryquarry.errors import UsageFault, closest
from dryquarry.standing.board_model import Board
from dryquarry.workspace import standings
from dryquarry.workspace.folder import Folder
from dryquarry.workspace.gate_tries import data_digest, note_try
from dryquarry.workspace.opening import ledger_for_planning, ledger_for_reading, ledger_for_writing
from dryquarry.workspace.panels import judges_for, needs_judge, own_family_notes
from dryquarry.workspace.selection import Selection
from dryquarry.workspace.standings import BoardWish

# What asks, marks and writes is imported when it is wanted: reading a board takes none of it.
if TYPE_CHECKING:
    from dryquarry.asking.pinging import Ping
    from dryquarry.standing.equating import Equated
    from dryquarry.standing.failures import FailureTable
    from dryquarry.standing.families import FamilyTable
    from dryquarry.standing.grid import Grid
    from dryquarry.standing.history import History
    from dryquarry.standing.items import ItemTable
    from dryquarry.standing.smaller import SmallerSuite
    from dryquarry.standing.versus import Versus
    from dryquarry.workspace.by_hand import ByHand
    from dryquarry.workspace.gallery import Shelf
    from dryquarry.workspace.listing import ReplyFilter
    from dryquarry.workspace.mark_book import MarkBook
    from dryquarry.workspace.past import Past
    from dryquarry.workspace.planning import RunPlan
    from dryquarry.workspace.redacting import Redaction
    from dryquarry.workspace.reply_views import ReplyView
    from dryquarry.workspace.reporting import ReportContent
    from dryquarry.workspace.running import RunSummary, Watcher
    from dryquarry.workspace.suites import Suites


class Workspace:
    """A folder with suites, entrants and a ledger, and what can be done with them.

    `on_waiting` is called before the end of a run is waited for. Every method raises UsageFault for names that do not
    exist, and FileFault (or FaultyFiles, with every fault) for files that cannot be used.
    """

    def __init__(self, folder: Folder, on_waiting: Callable[[], None] = lambda: None):
        self.folder = folder
        self.on_waiting = on_waiting

    @classmethod
    def open(cls, directory: Path | None = None, on_waiting: Callable[[], None] = lambda: None) -> Workspace:
        """Open the workspace in a folder, or the nearest one at or above the current folder."""
        return cls(Folder.find(directory or Path.cwd(), exactly=directory is not None), on_waiting)

    @property
    def suites(self) -> Suites:
        """The suites and their editions."""
        from dryquarry.workspace.suites import Suites

        return Suites(self.folder)

    @property
    def by_hand(self) -> ByHand:
        """Asking by hand: sheets, and the replies collected with them."""
        from dryquarry.workspace.by_hand import ByHand

        return ByHand(self.folder)

    @property
    def marks(self) -> MarkBook:
        """The marks: given again, set by a person, taken back."""
        from dryquarry.workspace.mark_book import MarkBook

        return MarkBook(self.folder, self.on_waiting)

    @property
    def past(self) -> Past:
        """What the ledger holds."""
        from dryquarry.workspace.past import Past

        return Past(self.folder)

    def notices(self, references: Sequence[str]) -> list[str]:
        """Return what a person should know of the editions that these references name, beside their numbers."""
        from dryquarry.workspace.notices import notices_of

        return [notice for reference in references for notice in notices_of(self.folder, reference)]

    def entrants(self) -> Entrants:
        """Return the entrants and judges of entrants.toml."""
        return self.folder.entrants()

    def ping(self, names: Sequence[str]) -> list[Ping]:
        """Send one tiny request to each of the named entrants or judges (all of them if none is named)."""
        from dryquarry.asking.pinging import ping_all
        from dryquarry.workspace.around_runs import endpoints

        known = self.entrants()
        people = (
            _named(names, {**known.entrants, **known.judges})
            if names
            else [person for person in (*known.entrants.values(), *known.judges.values()) if person.endpoint]
        )
        return ping_all(people, lambda: endpoints(people, self.folder.bank()))

    def references(self, given: Sequence[str], *, every: bool = False) -> list[str]:
        """Return the suites that a command is about, `every` one or those given, all of them readable.

        So a fault in the last of them is told before anything is asked of the first.
        """
        if every == bool(given):
            raise UsageFault(
                "name the suites, or all with --all" if not given else "--all goes without names of suites"
            )
        chosen = self.suites.names() if every else list(given)
        if len({reference.partition("@")[0] for reference in chosen}) < len(chosen):
            raise UsageFault("each suite is run once; name each with one edition")
        for reference in chosen if len(chosen) > 1 else ():
            self.folder.suite_to_run(reference)
        return chosen

    def plan(self, reference: str, names: Sequence[str], *, trials: int = 1, fresh: bool = False) -> RunPlan:
        """Return what a run would ask of the named entrants, and what that would take; asks nothing.

        `without_judge` of the plan counts the questions that need a judge and have none.
        """
        from dryquarry.workspace.judge_plans import judge_plans
        from dryquarry.workspace.planning import plan_run

        suite, entrants = self.folder.suite_to_run(reference), self._asked(names)
        judges = self.entrants().judges
        without = sum(needs_judge(question) and not judges_for(question, judges) for question in suite.asked())
        with ledger_for_planning(self.folder) as ledger:
            planned = plan_run(ledger, suite, entrants, trials=trials, fresh=fresh)
            asked = judge_plans(ledger, planned, judges, self.folder.files(suite.name).load)
        return replace(planned, without_judge=without, judges=asked)

    def run(
        self,
        reference: str,
        names: Sequence[str],
        watcher: Watcher,
        *,
        trials: int = 1,
        budget: float | None = None,
        fresh: bool = False,
    ) -> RunSummary:
        """Ask a suite of the named entrants (all with an endpoint if none is named) and mark the replies.

        Each question gets `trials` replies; what is held already is not asked again, unless `fresh` asks for it.
        Asking ends before it would cost more than `budget`.
        """
        from dryquarry.workspace import running

        suite, entrants = self.folder.suite_to_run(reference), self._asked(names)
        with ledger_for_writing(self.folder) as ledger:
            if suite.seal is not None:
                content = self.folder.files(suite.name).edition_bytes(suite.seal.number).decode("utf-8")
                ledger.note_edition(suite.name, suite.seal.number, suite.seal.digest, content)
            files = self.folder.files(suite.name)
            means = running.Means(self.entrants().judges, self.folder.bank(), files.load, budget, self.folder.sandbox())
            return running.run(ledger, suite, entrants, means, watcher, trials=trials, fresh=fresh)

    def board(
        self,
        references: Sequence[str],
        names: Sequence[str] = (),
        *,
        each_own: bool = False,
        selection: Selection | None = None,
        wish: BoardWish = BoardWish(),  # noqa: B008 (it cannot be changed)
    ) -> Board:
        """Return the board of a suite, or the combined board of several, of what is selected, as wished.

        With `each_own` every entrant stands on the newest edition that it sat whole, without a rank.
        """
        if each_own and len(references) != 1:
            raise UsageFault("--each-own shows one suite at a time")
        selection = selection or Selection(tuple(names))
        if each_own and selection.narrows_questions():
            raise UsageFault("--each-own is about whole editions; leave the filters on questions and trials out")
        suites = [selection.suite(self.folder.suite_for_standings(reference)) for reference in references]
        if len({suite.name for suite in suites}) < len(suites):
            raise UsageFault("a board over several suites takes each suite once; name each with one edition")
        if wish.weights:
            _check_weights(wish.weights, [suite.name for suite in suites])
        people = self._shown(selection)
        if wish.baseline is not None and wish.baseline not in {one.name for one in people}:
            known = [one.name for one in people]
            raise UsageFault(f"the baseline '{wish.baseline}' is not on the board{closest(wish.baseline, known)}")
        with ledger_for_reading(self.folder) as ledger:
            if each_own:
                files = self.folder.files(suites[0].name)
                editions = [files.edition(number) for number in reversed(files.edition_numbers())]
                return standings.each_own_board(ledger, editions or suites, people)
            board = standings.board_of(ledger, suites, people, selection.trials, wish)
        judges = self.entrants().judges
        family = [note for suite in suites for note in own_family_notes(suite, people, judges)]
        return replace(board, selected=selection.said(), notes=(*board.notes, *family))

    def versus(
        self,
        names: tuple[str, str],
        reference: str,
        *,
        selection: Selection | None = None,
        margin: float | None = None,
        as_judged: bool = False,
    ) -> Versus:
        """Return two entrants compared on the questions of a suite that both have, of what is selected.

        A name may be followed by ":" and a day (2026-11-26: as it stood at its end) or by the first digits of the
        digest of earlier settings. With a `margin` (a share) it is also said whether they differ by less;
        `as_judged` leaves judges' scores uncorrected.
        """
        from dryquarry.workspace import tables

        selection = selection or Selection()
        suite = selection.suite(self.folder.suite_for_standings(reference))
        known = self.entrants().entrants
        parts = [name.partition(":") for name in names]
        sides = [(_named([name], known)[0], when) for name, _, when in parts]
        with ledger_for_reading(self.folder) as ledger:
            found = tables.versus_of(ledger, suite, sides, selection.trials, margin, as_judged=as_judged)
        return replace(found, selected=selection.said())

    def items(self, reference: str, *, selection: Selection | None = None) -> ItemTable:
        """Return what each question of a suite is worth, over the selected entrants."""
        from dryquarry.workspace import tables

        selection = selection or Selection()
        suite = selection.suite(self.folder.suite_for_standings(reference))
        with ledger_for_reading(self.folder) as ledger:
            table = tables.items_table_of(ledger, suite, self._shown(selection), selection.trials)
        return replace(table, selected=selection.said())

    def smaller(self, reference: str, count: int, seed: int = 1, *, selection: Selection | None = None) -> SmallerSuite:
        """Return so many of a suite's questions, drawn by chance within categories, and what they say."""
        from dryquarry.workspace import tables

        selection = selection or Selection()
        suite = selection.suite(self.folder.suite_for_standings(reference))
        with ledger_for_reading(self.folder) as ledger:
            found = tables.smaller_of(ledger, suite, self._shown(selection), count, seed)
        return replace(found, selected=selection.said())

    def families(self, reference: str, *, selection: Selection | None = None) -> FamilyTable:
        """Return how the originals of a suite's families came out, and how their twists."""
        from dryquarry.workspace import tables

        selection = selection or Selection()
        suite = selection.suite(self.folder.suite_for_standings(reference))
        with ledger_for_reading(self.folder) as ledger:
            table = tables.families_of(ledger, suite, self._shown(selection), selection.trials)
        return replace(table, selected=selection.said())

    def failures(self, reference: str, *, selection: Selection | None = None) -> FailureTable:
        """Return what failing goes with in a suite, over the selected entrants."""
        from dryquarry.workspace import tables

        selection = selection or Selection()
        suite = selection.suite(self.folder.suite_for_standings(reference))
        with ledger_for_reading(self.folder) as ledger:
            table = tables.failures_of(ledger, suite, self._shown(selection), selection.trials)
        return replace(table, selected=selection.said(), entrants=selection.entrants)

    def history(self, suite: str, entrant: str) -> History:
        """Return an entrant's states on all editions of a suite, each against the one before."""
        from dryquarry.workspace.snapshots import history_of

        if "@" in suite:
            raise UsageFault(f"history is about all editions; write '{suite.partition('@')[0]}'")
        (one,) = _named([entrant], self.entrants().entrants)
        with ledger_for_reading(self.folder) as ledger:
            return history_of(ledger, self.folder, suite, one)

    def equated(self, reference: str, *, selection: Selection | None = None) -> Equated:
        """Return all entrants on the scale of an edition, through the questions that the editions share."""
        from dryquarry.workspace.snapshots import equated_of

        selection = selection or Selection()
        if selection.narrows_questions():
            raise UsageFault("--equated is about whole editions; leave the filters on questions and trials out")
        suite = self.folder.suite_for_standings(reference)
        with ledger_for_reading(self.folder) as ledger:
            found = equated_of(ledger, self.folder, suite, self._shown(selection))
        return replace(found, selected=selection.said())

    def gate_tries(self, gate: str, parts: Sequence[object]) -> int:
        """Note that a gate was tried on these data, and return the how manieth time that is."""
        return note_try(self.folder.ledger_path.parent, gate, data_digest(parts))

    def grid(self, reference: str, names: Sequence[str] = (), *, selection: Selection | None = None) -> Grid:
        """Return the grid of a suite, of what is selected."""
        from dryquarry.workspace import tables

        selection = selection or Selection(tuple(names))
        suite = selection.suite(self.folder.suite_for_standings(reference))
        people = self._shown(selection)
        with ledger_for_reading(self.folder) as ledger:
            grid = tables.grid_of(ledger, suite, people, selection.trials)
        return replace(grid, selected=selection.said())

    def replies(
        self,
        reference: str,
        names: Sequence[str] = (),
        questions: Sequence[str] = (),
        wanted: ReplyFilter | None = None,
        *,
        selection: Selection | None = None,
        second_tries: bool = False,
        judged: bool = False,
    ) -> list[ReplyView]:
        """Return the replies behind a suite's numbers, of what is selected, those that are as `wanted`.

        With `second_tries` they are the replies to what was said after failed first tries, which no score counts; with
        `judged` each comes with all that judges and people said of it.
        """
        from dryquarry.workspace import reply_views
        from dryquarry.workspace.listing import ReplyFilter

        selection = selection or Selection(tuple(names), questions=tuple(questions))
        suite = selection.suite(self.folder.suite(reference))
        with ledger_for_reading(self.folder) as ledger:
            views = reply_views.replies_of(ledger, suite, self._shown(selection), second=second_tries)
            found = (wanted or ReplyFilter()).of(
                [view for view in views if selection.takes_trial(view.reply.held.trial)]
            )
            found = reply_views.with_runs(ledger, found)
            return reply_views.with_judgements(ledger, found) if judged else found

    def gallery(self, reference: str, *, selection: Selection | None = None) -> list[Shelf]:
        """Return what replies made (programs, queries, pages, drawings), by question, with pictures and marks."""
        from dryquarry.workspace.gallery import shelves_of

        selection = selection or Selection()
        views = self.replies(reference, selection=selection)
        with ledger_for_reading(self.folder) as ledger:
            return shelves_of(ledger, views)

    def report(
        self,
        references: Sequence[str],
        redaction: Redaction | None = None,
        baseline: str | None = None,
    ) -> ReportContent:
        """Return all that a report on these suites shows, less what it is to keep to itself (nothing, unless told)."""
        from dryquarry.workspace.redacting import Redaction
        from dryquarry.workspace.reporting import report_content

        if len({reference.partition("@")[0] for reference in references}) < len(references):
            raise UsageFault("a report takes each suite once; name each with one edition")
        return report_content(self.folder, references, redaction or Redaction(), baseline)

    def _asked(self, names: Sequence[str]) -> list[Entrant]:
        known = self.entrants().entrants
        return _named(names, known) if names else [entrant for entrant in known.values() if entrant.endpoint]

    def _shown(self, selection: Selection) -> list[Entrant]:
        return selection.people(list(self.entrants().entrants.values()))


def _check_weights(weights: Mapping[str, float], suites: Sequence[str]) -> None:
    """Raise UsageFault for weights of suites that are not on a board over several."""
    if len(suites) < 2:
        raise UsageFault("weights are for a board over several suites; name more than one")
    for name in weights:
        if name not in suites:
            raise UsageFault(f"the weight of '{name}' is of no suite on this board{closest(name, suites)}")
    if not any(weights.get(name, 1.0) for name in suites):
        raise UsageFault("the suites weigh nothing; give at least one a weight above 0")


def _named(names: Sequence[str], known: Mapping[str, Entrant]) -> list[Entrant]:
    for name in names:
        if name not in known:
            raise UsageFault(f"there is no entrant '{name}' in entrants.toml{closest(name, known)}")
    return [known[name] for name in dict.fromkeys(names)]
