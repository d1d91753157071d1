"""The leaderboard of a suite: scores with intervals, and what paired tests tell apart."""

from __future__ import annotations

from collections.abc import Collection, Mapping, Sequence
from dataclasses import replace

import numpy as np

from dryquarry.standing.board_model import AuditNote, Board, BoardRow, PilotCount, Target, Unfinished
from dryquarry.standing.board_rows import Groups, row_of
from dryquarry.standing.columns import Columns, balanced, columns_of
from dryquarry.standing.corrected import FEWEST_AUDITED, Audited, corrected
from dryquarry.standing.missing import Field, bounds_of, field_of
from dryquarry.standing.paired import adjusted_p_values, compare, paired_p_value, places_of
from dryquarry.standing.replies import EntrantResults
from dryquarry.standing.results import Item


def build_board(
    suite: str,
    edition: str | None,
    items: Sequence[Item],
    entrants: Sequence[EntrantResults],
    *,
    void: Collection[str] = (),
    shared: bool = False,
    target: Target = Target.KIND,
    baseline: str | None = None,
    suite_weights: Mapping[str, float] | None = None,
    audits: Mapping[str, Audited] | None = None,
) -> Board:
    """Return the board, best first; those that lack questions stand below without a rank.

    `void` are questions that count for nobody; with `shared` only those count that every entrant has. `baseline` names
    an entrant that every other is compared with. With `suite_weights` the items are of several suites, each of which
    weighs so much as a whole. `audits` are random samples of judged replies that people marked, by entrant: they
    correct scores, intervals and what is told apart.
    """
    field = field_of(items, entrants, void, shared=shared)
    if suite_weights:
        field = replace(field, items=tuple(balanced(field.items, suite_weights)))
    entrants = sorted(entrants, key=lambda one: one.entrant)
    columns, groups = columns_of(field.items, entrants), Groups(field.items)
    rows = [
        row_of(groups, one, columns, number, target if field.finished(one.entrant) else None)
        for number, one in enumerate(entrants)
    ]
    rows, columns, audit = _corrected(rows, columns, groups, entrants, field, audits or {})
    rows = _placed(rows, columns, field)
    rows = _unfinished(rows, columns, field, baseline)
    if baseline is not None:
        rows = _against(rows, columns, baseline)
    rows.sort(key=lambda row: (row.unfinished is not None, row.score is None, -(row.score or 0.0), row.entrant))
    return Board(
        suite,
        edition,
        len(field.items),
        tuple(rows),
        of_questions=len(items),
        left_out=field.left_out,
        only_shared=shared,
        families=len(set(columns.families.tolist())),
        target=target,
        baseline=baseline,
        suite_weights=dict(suite_weights or {}),
        audit=audit,
    )


def _corrected(
    rows: list[BoardRow],
    columns: Columns,
    groups: Groups,
    entrants: Sequence[EntrantResults],
    field: Field,
    audits: Mapping[str, Audited],
) -> tuple[list[BoardRow], Columns, AuditNote | None]:
    """Return rows and columns with what people's marks of random replies make of them, and what is to be said of it."""
    finished = [field.finished(one.entrant) for one in entrants]
    if not any(audited.count for audited in audits.values()) or not any(finished):
        return rows, columns, None
    found = corrected(columns, entrants, audits, finished)
    if found is None:
        lacking = {
            one.entrant: min(FEWEST_AUDITED, len(audits[one.entrant].hand)) - audits[one.entrant].count
            for one, whole in zip(entrants, finished, strict=True)
            if whole and one.entrant in audits
        }
        return rows, columns, AuditNote(False, {name: count for name, count in lacking.items() if count > 0})
    done = []
    for number, (row, one) in enumerate(zip(rows, entrants, strict=True)):
        if row.entrant not in found.intervals:
            done.append(row)
            continue
        again = row_of(groups, one, found.columns, number, None)
        interval = found.intervals[row.entrant]
        score = None if again.score is None else min(1.0, max(0.0, again.score))
        done.append(
            replace(
                again,
                score=score,
                low=interval.low,
                high=interval.high,
                as_judged=row.score,
                audited=found.audited[row.entrant],
            )
        )
    note = AuditNote(True, {}, found.bias, found.bias_p, found.pooled, found.weight, found.more)
    return done, found.columns, note


def pilot_counts(pilots: Sequence[Item], entrants: Sequence[EntrantResults]) -> tuple[PilotCount, ...]:
    """Return how each pilot question came out over the entrants that sat it."""
    if not pilots:
        return ()
    names = [item.question for item in pilots]
    passed, sat = np.zeros(len(names), dtype=int), np.zeros(len(names), dtype=int)
    for one in entrants:
        replies = one.replies.on(names)
        passed += np.bincount(replies.question[replies.passed], minlength=len(names))
        sat += np.bincount(replies.question, minlength=len(names))
    return tuple(PilotCount(name, int(passed[place]), int(sat[place])) for place, name in enumerate(names))


def _placed(rows: Sequence[BoardRow], columns: Columns, field: Field) -> list[BoardRow]:
    """Give the finished rows their ranks, bands and the ranks that they may have."""
    finished = [number for number, row in enumerate(rows) if field.finished(row.entrant)]
    placed = list(rows)
    if not finished:
        return placed
    means = np.array([rows[number].score or 0.0 for number in finished])
    adjusted = adjusted_p_values(columns.scores[finished], columns.weights, columns.families)
    places = places_of(means, adjusted)
    for place, number in enumerate(finished):
        placed[number] = replace(
            rows[number],
            rank=int(1 + (means > means[place] + 1e-9).sum()),
            band=places.bands[place],
            rank_low=places.lowest[place],
            rank_high=places.highest[place],
        )
    return placed


def _unfinished(
    rows: Sequence[BoardRow],
    columns: Columns,
    field: Field,
    baseline: str | None,
) -> list[BoardRow]:
    """Say of the rows that lack questions what may be said."""
    best = min((row for row in rows if row.rank is not None), key=lambda row: (row.rank, row.entrant), default=None)
    chosen = baseline if baseline in columns.entrants else (best.entrant if best else None)
    done = []
    for number, row in enumerate(rows):
        if field.finished(row.entrant):
            done.append(row)
            continue
        bounds = bounds_of(columns.scores[number], columns.weights)
        found = Unfinished(len(field.missing[row.entrant]), bounds)
        if chosen is not None and chosen != row.entrant:
            found = _compared(found, columns, number, chosen)
        done.append(replace(row, unfinished=found))
    return done


def _compared(found: Unfinished, columns: Columns, number: int, against: str) -> Unfinished:
    own, other = columns.scores[number], columns.scores[columns.entrants.index(against)]
    comparison = compare(own, other, columns.weights, columns.families)
    decided = None
    if not np.isnan(other).any():
        for filled, word in ((1.0, "below"), (0.0, "above")):
            differences = np.where(np.isnan(own), filled, own) - other
            total = float((differences * columns.weights).sum())
            apart = paired_p_value(differences, columns.weights, columns.families) < 0.05
            if apart and (total < 0) is (word == "below"):
                decided = word
    return replace(found, against=against, comparison=comparison, decided=decided)


def _against(rows: Sequence[BoardRow], columns: Columns, baseline: str) -> list[BoardRow]:
    """Compare every other row with the baseline's, on the questions that both have."""
    if baseline not in columns.entrants:
        return list(rows)
    other = columns.scores[columns.entrants.index(baseline)]
    return [
        row
        if row.entrant == baseline
        else replace(row, against_baseline=compare(columns.scores[number], other, columns.weights, columns.families))
        for number, row in enumerate(rows)
    ]
