"""What an import took from a file and what it does to a suite, as notes."""

from __future__ import annotations

from collections.abc import Sequence

from dryquarry.showing import figures
from dryquarry.suites.updating import Changed
from dryquarry.workspace.exchanging import Import

MOST_NAMED = 20


def import_hints(done: Import) -> list[str]:
    """Return how the columns were taken, what was a guess, and how many questions are new, changed or the same."""
    imported, update = done.imported, done.update
    hints = [f"column '{column}' is taken as {name}" for column, name in imported.columns.items() if column != name]
    hints += [f"column '{column}' is left out" for column in imported.left_out]
    hints += [f"{fault.file}:{fault.line}: {fault.message}" for fault in imported.advice[:MOST_NAMED]]
    if len(imported.advice) > MOST_NAMED:
        hints.append(f"… and {len(imported.advice) - MOST_NAMED} guesses more")
    counts = [(len(update.added), "new"), (len(update.changed), "changed"), (update.same, "as the suite has it")]
    said = ", ".join(f"{count} {word}" for count, word in counts if count)
    read = figures.plural(len(imported.records), "question")
    hints.append(f"{read} read" + (f": {said}" if said else ""))
    hints += _changes(update.changed)
    if update.absent:
        hints.append(f"{figures.plural(update.absent, 'question')} of the suite not in the file; left as they are")
    if done.head_left:
        hints.append(f"left as the suite has it: {', '.join(done.head_left)}")
    return hints


def _changes(changed: Sequence[Changed]) -> list[str]:
    told = [f"{one.question.id}: {', '.join(one.fields)}" for one in changed[:MOST_NAMED]]
    return told + [f"… and {len(changed) - MOST_NAMED} more"] * (len(changed) > MOST_NAMED)
