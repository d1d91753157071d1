"""Judges against people as a view."""

from __future__ import annotations

from collections.abc import Iterator, Mapping, Sequence
from dataclasses import asdict
from typing import Any

from dryquarry.showing import figures
from dryquarry.showing.view import Cell, Column, Sheet, Table, View
from dryquarry.standing.agreement import Estimate
from dryquarry.standing.judge_checks import (
    ENOUGH_AGREEMENT,
    MOST_BIAS,
    MOST_MORE,
    MOST_UNREADABLE,
    Agreement,
    JudgeCheck,
    Trust,
)
from dryquarry.workspace.judge_checks import JudgeReport, ReviewerCheck

_NAMES = (
    "judge",
    "marks",
    "hand_marks",
    "agreement",
    "agreement_low",
    "agreement_high",
    "kappa",
    "on_passes",
    "on_fails",
    "weighted_kappa",
    "intraclass",
    "bias",
    "bias_low",
    "bias_high",
    "length",
    "with_itself",
    "unsupported",
    "unreadable",
    "cost_a_mark",
    "trust",
    "more",
)
_MOST_NAMED = 4


def judge_report_view(report: JudgeReport) -> View:
    """Return judges and reviewers as tables with sentences, as JSON and as a sheet."""
    rows = [_plain(one) for one in report.judges]
    tables = [_biases(report), _with_others(report), _reviewers(report)]
    more = tuple(table for table in tables if table is not None)
    return View(_data(report), Sheet(_NAMES, rows), _judges(report), more=more)


def _data(report: JudgeReport) -> dict[str, Any]:
    return {
        "suite": report.suite,
        "edition": report.edition,
        "judges": [{**asdict(one), "trust": str(one.trust)} for one in report.judges],
        "reviewers": [asdict(one) for one in report.reviewers],
    }


def _plain(one: JudgeCheck) -> list[Any]:
    people = one.with_people
    return [
        one.judge,
        one.marks,
        people.verdicts.count,
        people.verdicts.value,
        people.verdicts.low,
        people.verdicts.high,
        people.kappa.value,
        people.on_passes.value,
        people.on_fails.value,
        people.weighted_kappa.value,
        people.intraclass.value,
        people.bias.value,
        people.bias.low,
        people.bias.high,
        one.length.value,
        one.with_itself.verdicts.value if one.with_itself else None,
        one.unsupported,
        one.unreadable,
        one.cost_a_mark,
        str(one.trust),
        one.more,
    ]


def _judges(report: JudgeReport) -> Table:
    columns = [
        Column("judge"),
        Column("marks", right=True, drop=4),
        Column("by hand too", right=True),
        Column("same verdict", right=True),
        Column("kappa", right=True),
        Column("on passes", right=True, drop=2),
        Column("on fails", right=True, drop=3),
        Column("scores, kappa", right=True, drop=5),
        Column("ICC", right=True, drop=6),
        Column("generous by", right=True),
        Column("100 words more", right=True, drop=7),
        Column("itself again", right=True, drop=8),
        Column("no evidence", right=True, drop=9),
        Column("cost a mark", right=True, drop=10),
        Column("trusted"),
    ]
    title = f"{report.suite}@{report.edition}: judges against people"
    return Table(title, columns, [_row(one) for one in report.judges], below=list(_sentences(report)))


def _row(one: JudgeCheck) -> list[str | Cell]:
    people = one.with_people
    return [
        Cell(one.judge, "bold"),
        str(one.marks),
        str(people.verdicts.count),
        _share(people.verdicts),
        _plain_figure(people.kappa),
        _share(people.on_passes, ends=False),
        _share(people.on_fails, ends=False),
        _plain_figure(people.weighted_kappa, ends=False),
        _plain_figure(people.intraclass, ends=False),
        _difference(people.bias),
        _difference(one.length),
        _share(one.with_itself.verdicts, ends=False) if one.with_itself else "–",
        figures.percent(one.unsupported, 0) if one.unsupported is not None else "–",
        figures.cost(one.cost_a_mark),
        str(one.trust),
    ]


def _share(estimate: Estimate, *, ends: bool = True) -> str:
    if estimate.value is None:
        return "–"
    said = figures.percent(estimate.value, 0)
    return f"{said} ({figures.interval(estimate.low, estimate.high)})" if ends and estimate.low is not None else said


def _plain_figure(estimate: Estimate, *, ends: bool = True) -> str:
    if estimate.value is None:
        return "–"
    said = f"{estimate.value:.2f}".replace("-", "−")
    if not ends or estimate.low is None or estimate.high is None:
        return said
    return said + f" ({estimate.low:.2f} to {estimate.high:.2f})".replace("-", "−")


def _difference(estimate: Estimate) -> str:
    if estimate.value is None:
        return "–"
    said = figures.difference(estimate.value)
    if estimate.low is None or estimate.high is None:
        return said
    ends = [f"{end * 100:+.0f}".replace("-", "−") for end in (estimate.low, estimate.high)]
    return f"{said} ({' to '.join(ends)})"


def _sentences(report: JudgeReport) -> Iterator[str]:
    yield (
        "Intervals are 95 %, over questions. Generous by: judge less people, in points of a hundred. A judge may be "
        f"trusted where its verdicts agree in {ENOUGH_AGREEMENT:.0%} of replies at least and its scores are off by "
        f"{MOST_BIAS * 100:.0f} points at most, interval and all."
    )
    for one in report.judges:
        yield trust_said(one, report.suite)
        yield from _found(one)


def trust_said(one: JudgeCheck, suite: str) -> str:
    """Return in a sentence whether a judge may be trusted, and what would settle it."""
    people = one.with_people
    if one.trust is Trust.YES:
        return f"{one.judge} may be trusted for {suite}: it agrees with people, and its scores are not off."
    if one.trust is Trust.NO:
        bias = people.bias
        if one.unreadable is not None and one.unreadable > MOST_UNREADABLE:
            why = f"{figures.percent(one.unreadable, 0)} % of its answers could not be read"
        elif bias.low is not None and bias.high is not None and (bias.low > MOST_BIAS or bias.high < -MOST_BIAS):
            how = "generous" if bias.low > MOST_BIAS else "strict"
            why = f"it is too {how} ({_difference(bias)} points of a hundred)"
        else:
            why = f"its verdicts agree with people's in {_share(people.verdicts)} % only"
        return f"{one.judge} may not be trusted for {suite}: {why}."
    have = people.verdicts.count
    begin = f"Whether {one.judge} may be trusted is not settled by {figures.plural(have, 'hand mark')}; "
    if one.more >= MOST_MORE:
        return (
            begin + "it lies so near to what is asked that no number of hand marks that anybody makes would settle it."
        )
    if one.more > one.unmarked:
        left = (
            f"but only {one.unmarked} of its marks are left to audit"
            if one.unmarked
            else "but all its marks are audited"
        )
        return f"{begin}about {one.more} more would, {left}: more questions, or --trials, bring more."
    return f"{begin}about {one.more} more would: 'dryquarry review {suite} --audit {one.more}'."


def _found(one: JudgeCheck) -> Iterator[str]:
    """Yield the biases that the hand marks show."""
    if one.length.tells and one.length.value is not None:
        way = "more" if one.length.value > 0 else "less"
        yield (
            f"{one.judge} gives longer replies {way}: {_difference(one.length)} points for 100 words more at equal "
            "hand marks."
        )
    for kind, each in (("criterion", one.by_criterion), ("category", one.by_category)):
        telling = {name: estimate for name, estimate in each.items() if estimate.tells}
        if telling:
            worst = sorted(telling.items(), key=lambda pair: -abs(pair[1].value or 0))[:_MOST_NAMED]
            said = ", ".join(f"{name} {_difference(estimate)}" for name, estimate in worst)
            yield f"{one.judge} is off by {kind}: {said}."
    if one.own_family.tells:
        yield f"{one.judge} favours its own kind by {_difference(one.own_family)} points."
    if one.first_shown.value is not None:
        tells = "" if one.first_shown.tells else ", which may be chance"
        yield (
            f"{one.judge}, shown pairs in both orders: the reply shown first wins "
            f"{_difference(one.first_shown)} points more often{tells}."
        )
    if one.drift.value is not None:
        tells = "" if one.drift.tells else ", which may be chance"
        moved = _difference(one.drift)
        yield f"{one.judge} marks {one.drift.count} fixed replies {moved} points from the first time{tells}."


def _biases(report: JudgeReport) -> Table | None:
    """Return how far each judge is off by criterion and category."""
    names: dict[tuple[str, str], None] = {}
    for one in report.judges:
        names |= {("criterion", name): None for name in one.by_criterion}
        names |= {("category", name): None for name in one.by_category}
    if not names:
        return None
    columns = [Column("by"), Column("name"), *(Column(one.judge, right=True) for one in report.judges)]
    rows: list[list[str | Cell]] = []
    for kind, name in names:
        each = [(one.by_criterion if kind == "criterion" else one.by_category).get(name) for one in report.judges]
        cells = [Cell(_difference(one), "bold" if one.tells else "") if one else Cell("–") for one in each]
        rows.append([kind, name, *cells])
    return Table("generous by, in points of a hundred", columns, rows)


def _with_others(report: JudgeReport) -> Table | None:
    if len(report.judges) < 2:
        return None
    columns = [Column("same verdict as"), *(Column(one.judge, right=True) for one in report.judges)]
    rows = [[one.judge, *(_same(one.with_others, other.judge) for other in report.judges)] for one in report.judges]
    return Table("judges among themselves, per cent of replies", columns, rows)


def _same(others: Mapping[str, Agreement], name: str) -> str:
    return _share(others[name].verdicts) if name in others else "·"


def _reviewers(report: JudgeReport) -> Table | None:
    if not report.reviewers:
        return None
    columns = [
        Column("person"),
        Column("decisions", right=True),
        Column("s each", right=True),
        Column("marked again", right=True),
        Column("same verdict", right=True),
        Column("drift", right=True),
        Column("changed after precedents", right=True),
        Column("same verdict as others"),
    ]
    return Table("people: how far they agree with themselves is as far as any judge can be shown to agree with them",
                 columns, [_reviewer_row(one) for one in report.reviewers])  # fmt: skip


def _reviewer_row(one: ReviewerCheck) -> Sequence[str]:
    itself = one.with_itself
    others = ", ".join(f"{name} {_share(agreement.verdicts)}" for name, agreement in one.with_others.items())
    return [
        one.person,
        str(one.decisions),
        figures.seconds(one.seconds),
        str(itself.verdicts.count) if itself else "0",
        _share(itself.verdicts) if itself else "–",
        _difference(one.drift),
        str(one.amended),
        others or "–",
    ]
