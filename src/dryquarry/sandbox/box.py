"""What every kind of sandbox takes and gives: a Start in, and a Running program that comes to a Came."""

from __future__ import annotations

import subprocess
import threading
from collections.abc import Mapping
from contextlib import AbstractContextManager
from dataclasses import dataclass, field
from typing import Protocol

from dryquarry.marking.works.jobs import Limits
from dryquarry.marking.works.results import Ended
from dryquarry.sandbox.languages import Missing, OwnLanguage, Runtime

FOLDER = "/home/reply"


@dataclass(frozen=True, slots=True)
class GivenFile:
    """A file that a program finds in its folder."""

    content: bytes
    executable: bool = False


@dataclass(frozen=True, slots=True)
class Start:
    """How a program is started: its command, what stands on standard input, the files in its folder, its limits.

    `sees` are folders outside that it may read: what its language is installed in; `hides` those of them that it finds
    empty. `links` are descriptors that it
    is given beside the three streams, under their own numbers; `keeps` the files that are wanted of what it leaves.
    `address_limit` is off for languages that reserve far more memory than they use. `terminal` is the descriptor of
    a terminal in place of the three streams; `dated` the day that the program believes it is.
    """

    command: tuple[str, ...]
    input: bytes = b""
    files: Mapping[str, GivenFile] = field(default_factory=dict)
    sees: tuple[str, ...] = ()
    hides: tuple[str, ...] = ()
    environment: Mapping[str, str] = field(default_factory=dict)
    limits: Limits = field(default_factory=Limits)
    links: tuple[int, ...] = ()
    keeps: tuple[str, ...] = ()
    address_limit: bool = True
    terminal: int | None = None
    binds: Mapping[str, str] = field(default_factory=dict)
    dated: str | None = None


@dataclass(frozen=True, slots=True)
class Came:
    """What came of a program: how it ended, its exit code (negative for a signal), its streams, what it left."""

    ended: Ended
    exit_code: int | None
    out: bytes
    err: bytes
    seconds: float
    memory_mb: float
    files: Mapping[str, bytes] = field(default_factory=dict)

    @property
    def out_text(self) -> str:
        """The output as text; bytes that are none are shown as escapes."""
        return as_text(self.out)

    @property
    def err_text(self) -> str:
        """The error output as text."""
        return as_text(self.err)


def as_text(content: bytes) -> str:
    """Return bytes as text, those that are none as escapes; NUL as a sign of its own, for no text may hold it."""
    return content.decode("utf-8", "backslashreplace").replace("\r\n", "\n").replace("\0", "␀")


class Box(Protocol):
    """A way of keeping a program apart; `name` is what people know it by.

    While `stopping` is set every program that runs is ended. `of_this_machine` tells whether programs are run with what
    is installed here.
    """

    name: str
    of_this_machine: bool
    stopping: threading.Event

    def started(self, start: Start) -> AbstractContextManager[subprocess.Popen[bytes]]:
        """Give the process of a program that has been started; it is gone, with all its children, afterwards."""
        ...

    def root_of(self, process: subprocess.Popen[bytes]) -> int | None:
        """Return the process that a started program and all its own are descendants of, None while it is not known."""
        ...

    def own_seconds(self, process: subprocess.Popen[bytes], since: float) -> float:
        """Return how many seconds since a time the box itself took, in which the program did not run."""
        ...

    def could_not(self, exit_code: int | None, err: bytes) -> bool:
        """Tell whether it looks as if no box could be made; a program can make it look so, too."""
        ...

    def runtime(self, language: str, own: Mapping[str, OwnLanguage]) -> Runtime | Missing:
        """Return how a language is run in this box, or what is missing."""
        ...
