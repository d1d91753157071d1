"""From the ledger to what stands beside a board: two compared, questions, families, failures, the grid."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import replace

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import UsageFault
from dryquarry.ledger.store import Ledger
from dryquarry.standing.failures import FailureTable, failure_table
from dryquarry.standing.families import FamilyTable, family_table
from dryquarry.standing.grid import Grid, build_grid
from dryquarry.standing.items import ItemTable, item_table
from dryquarry.standing.smaller import SmallerSuite, smaller_suite
from dryquarry.standing.versus import Versus, versus
from dryquarry.suites.question import Suite
from dryquarry.workspace.audits import audits_of
from dryquarry.workspace.collecting import collect, items_of, of_trials
from dryquarry.workspace.snapshots import snapshot


def versus_of(
    ledger: Ledger,
    suite: Suite,
    sides: Sequence[tuple[Entrant, str]],
    trials: Sequence[int] = (),
    margin: float | None = None,
    *,
    as_judged: bool = False,
) -> Versus:
    """Return two entrants compared on a suite, each as it stands or as it stood `when` (a day, earlier settings).

    People's audited marks correct what judges gave, unless it is wanted `as_judged` or of an earlier day.
    Raises UsageFault where one has no reply or they share no question.
    """
    collected = collect(ledger, suite, [entrant for entrant, when in sides if not when], trials)
    present = {one.entrant: one for one in collected.entrants}
    found = []
    for entrant, when in sides:
        if when:
            past = snapshot(ledger, suite, entrant, when)
            found.append(replace(past, replies=of_trials(past.replies, trials)))
        elif entrant.name in present:
            found.append(present[entrant.name])
        else:
            raise UsageFault(f"{entrant.name} has no reply to {suite.reference}: 'dryquarry run' asks for them")
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    present_only = not any(when for _, when in sides)
    people = [entrant for entrant, _ in sides]
    audits = audits_of(ledger, suite, people, trials) if present_only and not as_judged else {}
    return versus(suite.name, suite.edition, items, found[0], found[1], margin, audits)


def items_table_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> ItemTable:
    """Return what each question of a suite is worth."""
    collected = collect(ledger, suite, entrants, trials, answers=True)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return item_table(suite.name, suite.edition, items, collected.entrants)


def smaller_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], count: int, seed: int) -> SmallerSuite:
    """Return so many of a suite's questions, drawn by chance, and what they say of the entrants."""
    collected = collect(ledger, suite, entrants)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return smaller_suite(suite.name, suite.edition, items, collected.entrants, count, seed)


def families_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> FamilyTable:
    """Return how the originals of a suite's families came out, and how their twists."""
    collected = collect(ledger, suite, entrants, trials)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return family_table(suite.name, suite.edition, items, collected.entrants)


def failures_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> FailureTable:
    """Return what failing goes with in a suite."""
    collected = collect(ledger, suite, entrants, trials)
    items = [item for item in items_of(suite) if item.question not in set(collected.void)]
    return failure_table(suite.name, suite.edition, items, collected.entrants)


def grid_of(ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = ()) -> Grid:
    """Return the grid of a suite; with `trials` of these only."""
    collected = collect(ledger, suite, entrants, trials, answers=True)
    return build_grid(suite.name, suite.edition, items_of(suite, pilots=True), collected.entrants)
