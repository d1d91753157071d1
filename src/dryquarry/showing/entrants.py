"""Entrants and pings as views."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import asdict
from typing import Any

from dryquarry.asking.entrants import Entrant, Entrants
from dryquarry.asking.pinging import Ping
from dryquarry.ledger.history import PastSitting
from dryquarry.showing import figures
from dryquarry.showing.view import Cell, Column, Sheet, Table, View, columns_of


def entrants_view(everyone: Entrants) -> View:
    """Return the list of entrants and judges."""
    names = ["role", "name", "title", "model", "build", "endpoint", "digest"]
    people = [("entrant", one) for one in everyone.entrants.values()]
    people += [("judge", one) for one in everyone.judges.values()]
    rows = [
        [role, one.name, one.title, one.model, one.build, one.endpoint or "by hand", one.digest] for role, one in people
    ]
    shown = [[str(value or "–") for value in row[:-1]] + [str(row[-1])[:8]] for row in rows]
    table = Table("", columns_of(names, drops=("title", "build", "digest", "endpoint")), shown)
    return View([dict(zip(names, row, strict=True)) for row in rows], Sheet(names, rows), table)


def entrant_view(entrant: Entrant, role: str, past: Sequence[PastSitting] = ()) -> View:
    """Return everything that is set of one entrant, and its past sittings.

    Of the key only the name of its variable is known.
    """
    data: dict[str, Any] = {
        "role": role,
        "name": entrant.name,
        "title": entrant.title,
        "endpoint": entrant.endpoint,
        "model": entrant.model,
        "build": entrant.build,
        "key_env": entrant.key_env,
        "system": entrant.system,
        "settings": dict(entrant.settings),
        "traits": dict(entrant.traits),
        "price": asdict(entrant.price) if entrant.price else None,
        "limits": asdict(entrant.limits),
        "digest": entrant.digest,
    }
    rows = [[name, _said(value)] for name, value in data.items()]
    sittings = [_sitting(one, entrant) for one in past]
    table = Table(f"{role} {entrant.name}", [Column("field"), Column("value")], rows)
    data["sittings"] = sittings
    more = [past_table(past, entrant)] if past else []
    return View(data, Sheet(["field", "value"], rows), table, more=more)


def _sitting(one: PastSitting, entrant: Entrant) -> dict[str, Any]:
    served = [{"model": served.model, "fingerprint": served.fingerprint} for served in one.served]
    return {**asdict(one), "served": served, "present_settings": one.digest == entrant.digest}


def past_table(past: Sequence[PastSitting], entrant: Entrant) -> Table:
    """Return what was run when; settings are told in full where they are not those of the sitting above."""
    rows: list[list[str]] = []
    for one in past:
        settings = "as now" if one.digest == entrant.digest else f"{one.digest[:8]}: {_settings(one.settings)}"
        rows.append(
            [
                (one.started_at or "–")[:19].replace("T", " "),
                "–" if one.ended_at is None else one.ended_at[11:19],
                f"{one.suite}@{one.edition}",
                figures.count(one.replies),
                settings,
                ", ".join(str(served) for served in one.served) or "–",
                one.tool_version,
            ]
        )
    names = ["began (UTC)", "ended", "suite", "replies", "settings", "answered as", "version"]
    columns = columns_of(names, ("replies",), names[::-1][:-2], names[:2])
    return Table("What was run under this name, the latest first", columns, rows)


def _settings(settings: Mapping[str, Any]) -> str:
    """Return what changes the replies, in short."""
    said = [f"{name} {settings[name]}" for name in ("model", "build") if settings.get(name)]
    said += [f"{name} {value}" for name, value in (settings.get("settings") or {}).items()]
    return ", ".join([*said, *(["a system text"] if settings.get("system") else [])])


def pings_view(pings: list[Ping]) -> View:
    """Return what pings showed."""
    names = ["entrant", "endpoint", "model", "reachable", "key_accepted", "model_known", "seconds", "problem"]
    data = [asdict(ping) for ping in pings]
    rows = [[row[name] for name in names] for row in data]
    shown: list[list[str | Cell]] = [
        [
            ping.entrant,
            ping.endpoint,
            _yes(ping.reachable),
            _yes(ping.key_accepted),
            _yes(ping.model_known),
            figures.seconds(ping.seconds),
            Cell(ping.problem or "–", "bold color(131)" if ping.problem else ""),
        ]
        for ping in pings
    ]
    columns = [
        Column("entrant"),
        Column("endpoint", drop=1),
        Column("reachable"),
        Column("key accepted", drop=4),
        Column("model known", drop=3),
        Column("seconds", right=True, drop=2),
        Column("problem"),
    ]
    return View(data, Sheet(names, rows), Table("", columns, shown))


def _yes(value: bool | None) -> str:
    return "–" if value is None else "yes" if value else "no"


def _said(value: Any) -> str:
    if value in (None, {}, ""):
        return "–"
    if isinstance(value, dict):
        return ", ".join(f"{name} = {part}" for name, part in value.items() if part is not None)
    return str(value)
