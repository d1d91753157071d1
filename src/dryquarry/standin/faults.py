"""How the stand-in misbehaves, by a plan in a TOML file: to try settings against a service that is not well.

[[fault]]
kind = "throttle"     # see KINDS
share = 0.1           # of the questions, picked by their text, so that every run picks the same
times = 2             # how many requests for such a question go wrong; 1 if not given
retry_after = "1"     # throttle: the header's value, none if not given
seconds = 30          # hang, drip: how long
"""

from __future__ import annotations

import hashlib
from dataclasses import dataclass

from dryquarry.errors import Fault as FileProblem
from dryquarry.errors import FaultyFiles, closest
from dryquarry.suites.located import UnreadableText
from dryquarry.suites.toml_text import read_toml

KINDS = {
    "throttle": "answers 429",
    "error": "answers 500",
    "hang": "says nothing for so many seconds",
    "reset": "breaks the connection in the middle of the stream",
    "malformed": "sends JSON that breaks off",
    "html": "answers a web page",
    "empty": "gives an empty reply",
    "filter": "ends with the finish content_filter",
    "cap": "ends with the finish length, half way",
    "drip": "spreads the reply over so many seconds",
    "rename": "reports another model name",
}
FIELDS = frozenset({"kind", "share", "times", "retry_after", "seconds"})


@dataclass(frozen=True, slots=True)
class ServiceFault:
    """One way of misbehaving, and which requests it befalls."""

    kind: str
    share: float = 1.0
    times: int = 1
    retry_after: str | None = None
    seconds: float = 30.0


@dataclass(frozen=True, slots=True)
class FaultPlan:
    """All the ways in which a service misbehaves; a question is befallen by the first that picks it."""

    faults: tuple[ServiceFault, ...] = ()

    def fault_for(self, model: str, asked: str, requests_before: int) -> ServiceFault | None:
        """Return what befalls a request for a question that was asked so often before, or None."""
        draw = int.from_bytes(hashlib.sha256(f"{model}\n{asked}".encode()).digest()[:8], "big") / 2**64
        for fault in self.faults:
            if draw < fault.share:
                return fault if requests_before < fault.times else None
            draw -= fault.share
        return None


def read_fault_plan(content: bytes, file: str) -> FaultPlan:
    """Return the plan in the bytes of a TOML file; raises FaultyFiles naming what is wrong."""
    try:
        entries = read_toml(content, file).get("fault", [])
        if not isinstance(entries, list) or not all(isinstance(entry, dict) for entry in entries):
            raise ValueError("a plan is a list of tables, each headed [[fault]]")
        faults = tuple(_read_fault(entry) for entry in entries)
    except UnreadableText as error:
        raise FaultyFiles("the fault plan", [error.fault]) from None
    except ValueError as error:
        raise FaultyFiles("the fault plan", [FileProblem("bad-plan", str(error), file)]) from None
    if sum(fault.share for fault in faults) > 1 + 1e-9:
        problem = FileProblem("bad-plan", "the shares come to more than 1; each question has one fault at most", file)
        raise FaultyFiles("the fault plan", [problem])
    return FaultPlan(faults)


def _read_fault(entry: dict[str, object]) -> ServiceFault:
    unknown = sorted(entry.keys() - FIELDS)
    if unknown:
        raise ValueError(f"a fault has no field '{unknown[0]}'{closest(unknown[0], FIELDS)}")
    kind = str(entry.get("kind"))
    if kind not in KINDS:
        raise ValueError(f"there is no kind of fault '{kind}'{closest(kind, KINDS)}")
    share, times, seconds = entry.get("share", 1.0), entry.get("times", 1), entry.get("seconds", 30.0)
    if not isinstance(share, int | float) or not 0 <= share <= 1:
        raise ValueError(f"'share' wants a number from 0 to 1, not {share!r}")
    if not isinstance(times, int) or times < 1:
        raise ValueError(f"'times' wants a whole number of 1 or more, not {times!r}")
    if not isinstance(seconds, int | float) or seconds < 0:
        raise ValueError(f"'seconds' wants a number of 0 or more, not {seconds!r}")
    after = entry.get("retry_after")
    return ServiceFault(kind, float(share), times, None if after is None else str(after), float(seconds))
