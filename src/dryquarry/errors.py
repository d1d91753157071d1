"""Every expected failure, as one tree. The exit code stands on the class; cli turns the message into text.

DryQuarryError
├── UsageFault           2    what was asked for does not exist or cannot be combined
├── FileFault            3    a file or the ledger cannot be read or written as it should be
│   └── FaultyFiles      3    a list of faults, each with its file and line
├── RepliesMissing       4    the run ended and some replies could not be had
├── DoesNotHold          1    done, and what was asked to hold does not
└── Interrupted        130    stopped by a person; what came back is stored
"""

from __future__ import annotations

from collections.abc import Iterable, Sequence
from dataclasses import dataclass
from difflib import get_close_matches


class DryQuarryError(Exception):
    """Root of all expected failures; `str(error)` is a message for a person."""

    exit_code = 1


class UsageFault(DryQuarryError):
    """Something was asked for that does not exist or does not go together."""

    exit_code = 2


class FileFault(DryQuarryError):
    """A file or the ledger is faulty or out of reach."""

    exit_code = 3


class RepliesMissing(DryQuarryError):
    """The run is over and some replies could not be had."""

    exit_code = 4


class DoesNotHold(DryQuarryError):
    """The work is done, and what was asked to hold does not."""

    exit_code = 1


class Interrupted(DryQuarryError):
    """A person stopped the work; everything received is stored."""

    exit_code = 130


@dataclass(frozen=True, slots=True)
class Fault:
    """One thing wrong in a file: what, where, and which question, and which field of it, it concerns."""

    kind: str
    message: str
    file: str
    line: int | None = None
    question: str | None = None
    field: str | None = None

    def __str__(self) -> str:
        place = self.file if self.line is None else f"{self.file}:{self.line}"
        about = f" question {self.question}:" if self.question else ""
        return f"{place}:{about} {self.message}"


class FaultyFiles(FileFault):
    """One or more faults in files written by people, all reported together."""

    def __init__(self, what: str, faults: Sequence[Fault]):
        self.faults = tuple(faults)
        count = f"{len(self.faults)} fault{'s' if len(self.faults) != 1 else ''}"
        lines = "\n".join(f"  {fault}" for fault in self.faults)
        super().__init__(f"{what} cannot be used: {count}\n{lines}")


def closest(word: str, known: Iterable[str]) -> str:
    """Return "; did you mean 'x'?" for the known word nearest to `word`, or "; known are …"."""
    names = [str(name) for name in known]
    near = get_close_matches(str(word), names, n=1, cutoff=0.55)
    if near:
        return f"; did you mean '{near[0]}'?"
    return f"; known are {', '.join(sorted(names))}" if names else ""
