"""A program on its way: what it writes is taken in as far as it may write, and it is ended when its time is up."""

from __future__ import annotations

import os
import selectors
import signal
import subprocess
import time
from collections.abc import Callable
from dataclasses import replace
from typing import IO

from dryquarry.marking.works.jobs import Limits
from dryquarry.marking.works.results import Ended
from dryquarry.sandbox.box import Box, Came, Start
from dryquarry.sandbox.leaving import files_in
from dryquarry.sandbox.processes import family_of, resident_mb

CHUNK = 65536
LOOK_EVERY_S = 0.02
MOST_LEFT_BYTES = 16 * 1024 * 1024


class Running:
    """A started program; `pump` moves what it reads and writes until something is so, or its time is up."""

    def __init__(self, box: Box, process: subprocess.Popen[bytes], limits: Limits, given: bytes = b""):
        self.box = box
        self.process = process
        self.stopping = box.stopping
        self.limits = limits
        self.most = limits.output_kb * 1024
        self.begun = time.monotonic()
        self.streams: dict[int, bytearray] = {}
        self._most_of: dict[int, int] = {}
        self.ended: Ended | None = None
        self.exit_code: int | None = None
        self.memory_mb = 0.0
        self._giving: dict[int, memoryview] = {}
        self._numbers: dict[IO[bytes], int] = {}
        self._looked = 0.0
        self._killed = False
        self._selector = selectors.DefaultSelector()
        self._ended_at: float | None = None
        self._pid = os.pidfd_open(process.pid)
        self._selector.register(self._pid, selectors.EVENT_READ)
        for stream in (process.stdout, process.stderr):
            if stream is not None:
                self._numbers[stream] = stream.fileno()
                self.take_in(stream.fileno())
        self._input: IO[bytes] | None = process.stdin
        if self._input is not None:
            self.give(self._input.fileno(), given)

    def take_in(self, number: int, most: int | None = None) -> bytearray:
        """Take in what comes from a descriptor, too, so many bytes at most; returns where it is gathered."""
        self._most_of[number] = self.most if most is None else most
        os.set_blocking(number, False)
        self._selector.register(number, selectors.EVENT_READ)
        return self.streams.setdefault(number, bytearray())

    def give(self, number: int, content: bytes) -> None:
        """Write to a descriptor as the program reads; standard input is closed when all is written."""
        os.set_blocking(number, False)
        self._giving[number] = memoryview(content)
        self._selector.register(number, selectors.EVENT_WRITE)

    def pump(self, until: Callable[[], bool], seconds: float, since: float | None = None) -> bool:
        """Go on until something is so, the program has ended, or its seconds are over.

        They count from `since` (by the clock that only goes forward; from its beginning where nothing is said), without
        what its box took for itself. Returns whether it is so; a program that took too long, or too much, is ended, and
        `ended` says why.
        """
        since = self.begun if since is None else since
        deadline = since + seconds
        while not until():
            if self._ended_at is not None and not self._open_streams():
                return until()
            now = time.monotonic()
            if self._ended_at is not None and now > self._ended_at + 1.0:
                return until()  # somebody else holds a stream open
            if self._ended_at is None and (self.stopping.is_set() or self._is_late(now, deadline, since)):
                self.end(Ended.TIME)
            self._look(now)
            wait = min(deadline - now, LOOK_EVERY_S) if self._ended_at is None and now < deadline else LOOK_EVERY_S
            for key, _ in self._selector.select(wait):
                self._moved(key.fd)
        return True

    def end(self, why: Ended) -> None:
        """End the program, and note why unless there is a reason already."""
        self.ended = self.ended or why
        if self._ended_at is None and not self._killed:
            self._killed = True
            # not by `Popen.kill`, which would take the exit code away from `_reap`
            os.kill(self.process.pid, signal.SIGKILL)

    def gathered(self, stream: str) -> bytearray:
        """Return what has come on `stdout` or `stderr` so far."""
        number = self._numbers.get(getattr(self.process, stream))
        return bytearray() if number is None else self.streams[number]

    def came(self, files: bytes = b"", keeps: tuple[str, ...] = ()) -> Came:
        """Return what came of a program that has ended."""
        if self._ended_at is None:
            self.pump(lambda: False, 5.0, time.monotonic())
        out, err = (self._text_of(stream) for stream in (self.process.stdout, self.process.stderr))
        seconds = (self._ended_at or time.monotonic()) - self.begun
        ended = self.ended or (Ended.CRASHED if self.crashed else Ended.DONE)
        left = files_in(files, keeps)
        return Came(ended, self.exit_code, out, err, round(seconds, 3), round(self.memory_mb, 1), left)

    def close(self) -> None:
        """Let go of what is watched."""
        self._selector.close()
        os.close(self._pid)

    @property
    def crashed(self) -> bool:
        """Tell whether a signal ended it; the shell above it says so by 128 and more."""
        return self.exit_code is not None and (self.exit_code < 0 or self.exit_code > 128)

    def _text_of(self, stream: IO[bytes] | None) -> bytes:
        return b"" if stream is None else bytes(self.streams.get(self._numbers[stream], b""))

    def _open_streams(self) -> bool:
        return any(number in self._selector.get_map() for number in self.streams)

    def _is_late(self, now: float, deadline: float, since: float) -> bool:
        return now >= deadline and now >= deadline + self.box.own_seconds(self.process, since)

    def _moved(self, number: int) -> None:
        if number == self._pid:
            self._reap()
        elif number in self._giving:
            self._give(number)
        elif number in self.streams:
            self._take(number)

    def _take(self, number: int) -> None:
        try:
            content = os.read(number, CHUNK)
        except BlockingIOError:
            return
        except OSError:
            content = b""  # a terminal whose program has ended
        if not content:
            self._selector.unregister(number)
            return
        gathered = self.streams[number]
        gathered += content
        most = self._most_of[number]
        if len(gathered) > most:
            del gathered[most:]
            self.end(Ended.OUTPUT)

    def _give(self, number: int) -> None:
        rest = self._giving[number]
        try:
            rest = rest[os.write(number, rest[:CHUNK]) :] if rest else rest
        except BlockingIOError:
            return
        except OSError:
            rest = memoryview(b"")  # nobody reads any more
        self._giving[number] = rest
        if not rest:
            self._selector.unregister(number)
            del self._giving[number]
            if self._input is not None and number == self._input.fileno():
                self._input.close()
                self._input = None

    def _reap(self) -> None:
        """Note the end of the program."""
        self._selector.unregister(self._pid)
        _, status = os.waitpid(self.process.pid, 0)
        self.exit_code = self.process.returncode = os.waitstatus_to_exitcode(status)
        self._ended_at = time.monotonic()

    def _look(self, now: float) -> None:
        """Look, not too often, at how much memory all its processes have."""
        if now - self._looked < LOOK_EVERY_S or self._ended_at is not None:
            return
        self._looked = now
        root = self.box.root_of(self.process)
        used = 0.0 if root is None else sum(map(resident_mb, family_of(root)))
        self.memory_mb = max(self.memory_mb, used)
        if used > self.limits.memory_mb:
            self.end(Ended.MEMORY)


def run(box: Box, start: Start) -> Came:
    """Run a program to its end, or to the end of what it may take; raises OSError where its box cannot be made."""
    came = _run(box, start)
    check_box(box, start, came.exit_code, came.err)
    return came


def check_box(box: Box, start: Start, exit_code: int | None, err: bytes) -> None:
    """Raise OSError where it was not the program that failed, but the making of its box.

    Since a program can write the same words, the box is made once more without it.
    """
    if not box.could_not(exit_code, err):
        return
    again = _run(box, replace(start, command=("true",), input=b"", keeps=(), links=(), terminal=None))
    if box.could_not(again.exit_code, again.err):
        raise OSError(f"no sandbox could be made: {again.err.decode('utf-8', 'replace').strip()[:200]}")


def _run(box: Box, start: Start) -> Came:
    if not start.keeps:
        with box.started(start) as process:
            return _to_the_end(box, process, start, None)
    kept_in, kept_out = os.pipe()
    try:
        with box.started(replace(start, links=(*start.links, kept_out))) as process:
            os.close(kept_out)
            kept_out = -1
            return _to_the_end(box, process, start, kept_in)
    finally:
        os.close(kept_in)
        if kept_out >= 0:
            os.close(kept_out)


def _to_the_end(box: Box, process: subprocess.Popen[bytes], start: Start, kept_in: int | None) -> Came:
    running = Running(box, process, start.limits, start.input)
    try:
        left = running.take_in(kept_in, MOST_LEFT_BYTES) if kept_in is not None else bytearray()
        running.pump(lambda: False, start.limits.seconds)
        return running.came(bytes(left), start.keeps)
    finally:
        running.close()
