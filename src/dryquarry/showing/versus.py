"""The comparison of two entrants as a view."""

from __future__ import annotations

from collections.abc import Iterator, Sequence
from dataclasses import asdict

from dryquarry.showing import figures
from dryquarry.showing.view import Cell, Column, Sheet, Table, View
from dryquarry.standing.gates import LEAST_CHANCE, GateResult
from dryquarry.standing.versus import Finding, Part, Side, Versus


def versus_view(found: Versus, gates: Sequence[GateResult] = ()) -> View:
    """Return the comparison as table, JSON and sheet (a row a question)."""
    data = asdict(found) | {"gates": [asdict(gate) for gate in gates]}
    names = ["suite", "edition", "question", "category", found.first, found.second, "side"]
    rows = [
        [found.suite, found.edition, duel.question, duel.category, duel.first, duel.second, str(duel.side)]
        for duel in found.duels
    ]
    return View(data, Sheet(names, rows), _table(found, gates))


def _table(found: Versus, gates: Sequence[GateResult]) -> Table:
    columns = [
        Column("on"),
        Column("questions", right=True),
        Column(found.first, right=True, named=True),
        Column(found.second, right=True, named=True),
        Column("difference", right=True),
        Column("95 % interval", right=True),
        Column("won", right=True, drop=2),
        Column("tied", right=True, drop=1),
        Column("lost", right=True, drop=3),
        Column("p", right=True),
    ]
    rows = [_row(part) for part in (found.whole, *found.parts)]
    edition = f"@{found.edition}" if found.edition else ""
    title = f"{found.suite}{edition}: {found.first} against {found.second}{figures.chosen(found.selected)}"
    return Table(title, columns, rows, [0] if found.parts else [], [*_lines(found), *map(gate_line, gates)])


def _row(part: Part) -> list[str | Cell]:
    own = part.comparison
    return [
        part.category or "all",
        str(own.questions),
        figures.percent(part.first),
        figures.percent(part.second),
        Cell(figures.difference(own.difference), "bold"),
        figures.difference_interval(own.interval),
        str(own.wins),
        str(own.ties),
        str(own.losses),
        figures.p_value(part.p_value),
    ]


def _lines(found: Versus) -> Iterator[str]:
    """Yield what follows from the numbers, and what does not."""
    first, second = found.first, found.second
    yield {
        Finding.BETTER: f"{first} is better than {second}: the paired test tells them apart.",
        Finding.WORSE: f"{first} is worse than {second}: the paired test tells them apart.",
        Finding.WITHIN: f"{first} and {second} differ by less than the margin of {figures.points(found.margin)}.",
        Finding.UNDECIDED: f"Not decided: these questions do not tell {first} and {second} apart"
        + (f", nor show that they differ by less than {figures.points(found.margin)}." if found.margin else "."),
    }[found.finding]
    if found.audited:
        yield (
            f"Corrected by people's marks of randomly drawn replies ({found.audited}); --as-judged leaves judges' "
            "scores as they are. Single questions are as judged."
        )
    ends = found.whole.comparison.interval
    apart = (ends.low or 0.0) > 0 or (ends.high or 0.0) < 0
    if apart and found.finding in (Finding.UNDECIDED, Finding.WITHIN):
        yield "The interval, which is approximate, leaves 0 out; the exact test decides, and does not tell them apart."
    shown = figures.points(found.shown)
    yield f"A true difference of {shown} or more would have been told in 80 of 100 such comparisons."
    told = ", ".join(f"{figures.count(one.questions)} for {figures.points(one.gap)}" for one in found.needed)
    yield f"Questions like these that it takes to tell a difference: {told}."
    if found.only_first or found.only_second:
        yield f"Left out, as only one has a mark: {found.only_first} of {first}, {found.only_second} of {second}."
    if found.parts:
        yield "The p of categories are corrected for how many there are."
    seconds = " against ".join(figures.seconds(one.median_s) for one in found.spent)
    costs = " against ".join(figures.cost(one.cost) for one in found.spent)
    yield f"Median seconds {seconds}; cost {costs}."
    lost = [duel.question for duel in found.duels if duel.side is Side.LOST]
    if lost:
        more = f" and {len(lost) - 8} more" if len(lost) > 8 else ""
        yield f"Lost: {', '.join(lost[:8])}{more}; --show lost has both replies side by side."


def gate_line(gate: GateResult) -> str:
    """Return whether a gate holds, why, and whether these questions could have shown it."""
    holds = "holds" if gate.holds else "does not hold"
    if gate.chance is None:
        limit = "nothing can be said yet" if gate.limit is None else f"it is {figures.percent(gate.limit)}"
        return f'Gate "{gate.gate}" {holds}: {limit}, wanted {figures.percent(gate.wanted)}.'
    assert gate.limit is not None
    said = (
        f'Gate "{gate.gate}" {holds}: with 95 % confidence the difference is above {figures.difference(gate.limit)}, '
        f"wanted {figures.difference(-gate.wanted)}"
    )
    if not gate.holds and gate.chance < LEAST_CHANCE:
        chance = f"{gate.chance * 100:.0f} of 100"
        said += f"; these questions are too few to show it: two equal entrants would pass {chance} times"
        if gate.questions_needed:
            said += f", with {figures.count(gate.questions_needed)} questions like these 80 times"
    return said + "."
