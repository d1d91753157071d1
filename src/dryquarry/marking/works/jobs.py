"""What is to be run, as plain data: the work, what goes into it, and the limits; never what is wanted of it.

So a result stays good when only the key is corrected, and no program can see what would pass.
"""

from __future__ import annotations

import hashlib
import json
from collections.abc import Mapping
from dataclasses import asdict, dataclass, field
from typing import Any

from dryquarry.marking.works.model import Work

# Steps that do something; the others look whether something is so.
DOINGS = frozenset({"click", "hover", "type", "press", "keys", "wait", "picture"})
FORM = 1  # of the content that the digest covers


@dataclass(frozen=True, slots=True)
class Limits:
    """What one run may take: seconds of the clock, memory, processes, what it writes, and what it leaves."""

    seconds: float = 10.0
    memory_mb: int = 512
    processes: int = 64
    output_kb: int = 256
    disk_mb: int = 64


@dataclass(frozen=True, slots=True)
class Call:
    """A call of a function by name, with what it is given."""

    name: str
    function: str
    arguments: tuple[Any, ...] = ()
    named: Mapping[str, Any] = field(default_factory=dict)


@dataclass(frozen=True, slots=True)
class Session:
    """A start of the program: its arguments, what stands on standard input, the files in its folder, those to keep."""

    name: str
    arguments: tuple[str, ...] = ()
    input: str = ""
    files: Mapping[str, str] = field(default_factory=dict)
    keeps: tuple[str, ...] = ()


@dataclass(frozen=True, slots=True)
class AuthorsTests:
    """A file of tests by the suite's author, beside which the program is run."""

    path: str
    text: str


@dataclass(frozen=True, slots=True)
class Step:
    """One step with a page or screen: what is done or looked at (`act`), where, with which text, for how long."""

    name: str
    act: str
    target: str = ""
    text: str = ""
    seconds: float = 0.0


@dataclass(frozen=True, slots=True)
class Screen:
    """A terminal (its size in columns and lines) or a window (in pixels) in which a program is used step by step."""

    kind: str
    size: tuple[int, int]
    arguments: tuple[str, ...] = ()
    steps: tuple[Step, ...] = ()


@dataclass(frozen=True, slots=True)
class ProgramJob:
    """A program and the tests that it is put through; `date` is the day that it believes it is, where one is fixed."""

    language: str
    work: Work
    calls: tuple[Call, ...] = ()
    sessions: tuple[Session, ...] = ()
    test_file: AuthorsTests | None = None
    screens: tuple[Screen, ...] = ()
    limits: Limits = Limits()
    date: str | None = None
    kind: str = "program"

    @property
    def needs(self) -> str:
        """What of the machine it is run with: its language."""
        return self.language


@dataclass(frozen=True, slots=True)
class DataFile:
    """A file of which a database is made: a script, a table as CSV, or a whole SQLite database in base64."""

    path: str
    text: str = ""
    base64: str = ""


@dataclass(frozen=True, slots=True)
class QueryJob:
    """A query, and the key's query if there is one, each run on a fresh copy of a database.

    Where it `changes` data, what comes of it is what all tables hold afterwards.
    """

    work: Work
    database: tuple[DataFile, ...]
    key_query: str | None = None
    changes: bool = False
    limits: Limits = Limits()
    kind: str = "query"

    @property
    def needs(self) -> str:
        """What of the machine it is run with."""
        return "sql"


@dataclass(frozen=True, slots=True)
class PageJob:
    """A page or drawing, opened in a real browser of a size in pixels, and the steps done with it.

    With `holds` what it then consists of is kept, too.
    """

    work: Work
    size: tuple[int, int]
    steps: tuple[Step, ...] = ()
    holds: bool = True
    limits: Limits = Limits(seconds=30.0)
    kind: str = "page"

    @property
    def needs(self) -> str:
        """What of the machine it is run with."""
        return "browser"


@dataclass(frozen=True, slots=True)
class DrawingJob:
    """A drawing in SVG, drawn as a picture of a size in pixels without a browser."""

    work: Work
    size: tuple[int, int]
    limits: Limits = Limits()
    kind: str = "drawing"

    @property
    def needs(self) -> str:
        """What of the machine it is run with."""
        return "drawing"


Job = ProgramJob | QueryJob | PageJob | DrawingJob


def job_digest(job: Job) -> str:
    """Return the SHA-256 of what goes into a run, in hexadecimal; where in its reply the work stood is left out."""
    content = asdict(job)
    content["work"] = [[one.path, one.text] for one in job.work.files]
    content["main"] = job.work.main
    text = json.dumps([FORM, content], sort_keys=True, ensure_ascii=False, default=str)
    return hashlib.sha256(text.encode("utf-8", "surrogatepass")).hexdigest()
