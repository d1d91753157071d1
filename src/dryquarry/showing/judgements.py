"""What judges and people said of a reply, in full: for `replies --judged`."""

from __future__ import annotations

from collections.abc import Iterator
from typing import Any

from dryquarry.ledger.decisions import Decision
from dryquarry.ledger.verdicts import StoredVerdict
from dryquarry.marking.judging.verdicts import Point
from dryquarry.showing import figures
from dryquarry.workspace.reply_views import ReplyView


def judgements_said(view: ReplyView) -> Iterator[tuple[str, str]]:
    """Yield each judgement of a reply with its points and evidence, and each decision, beside who gave it."""
    for one in view.verdicts:
        yield one.judge, verdict_head(one)
        for point in one.points or ():
            yield "", _point_said(point)
    for decision in view.decisions:
        yield decision.person, decision_said(decision)


def verdict_head(one: StoredVerdict) -> str:
    """Return what a judgement came to, which time, and what it took."""
    time = f", time {one.time}" if one.time > 1 else ""
    again = ", asked again to measure it" if one.again else ""
    took = f"{figures.seconds(one.seconds)} s, {figures.count(one.output_tokens)} tokens out"
    points = sum(point.points for point in one.points or ())
    said = f"{points:g} points" if one.points is not None else f"could not be read: {one.problem}"
    steering = f"; the reply speaks to the judge: {', '.join(one.steering)}" if one.steering else ""
    return f"{said}{time}{again} ({took}){steering}"


def _point_said(point: Point) -> str:
    evidence = f" “{point.evidence}”" if point.evidence else ""
    flag = "" if point.supported else "  NOT IN THE REPLY" if point.evidence else "  NO EVIDENCE"
    why = f" – {point.why}" if point.why else ""
    return f"{point.criterion} {point.points:g}{why}{evidence}{flag}"


def decision_said(decision: Decision) -> str:
    """Return what a person decided, why it was asked for, and when."""
    points = ", ".join(f"{name} {value:g}" for name, value in (decision.points or {}).items())
    note = f" – {decision.note}" if decision.note else ""
    when = figures.moment(decision.decided_at)
    return f"{decision.verdict}" + (f" ({points})" if points else "") + f", {decision.why_asked}, {when}{note}"


def judgements_data(view: ReplyView) -> dict[str, Any]:
    """Return the same as plain data, with each judge's request and answer as they were."""
    return {
        "judged": [
            {
                "judge": one.judge,
                "time": one.time,
                "again": one.again,
                "points": None if one.points is None else [_point_data(point) for point in one.points],
                "problem": one.problem,
                "steering": list(one.steering),
                "request": one.request,
                "answer": one.text,
                "seconds": one.seconds,
                "input_tokens": one.input_tokens,
                "output_tokens": one.output_tokens,
            }
            for one in view.verdicts
        ],
        "decisions": [
            {
                "person": one.person,
                "verdict": str(one.verdict),
                "score": one.score,
                "points": one.points,
                "note": one.note,
                "why_asked": one.why_asked,
                "seconds": one.seconds,
                "decided_at": one.decided_at,
            }
            for one in view.decisions
        ],
    }


def _point_data(point: Point) -> dict[str, Any]:
    return {
        "criterion": point.criterion,
        "points": point.points,
        "why": point.why,
        "evidence": point.evidence,
        "supported": point.supported,
    }
