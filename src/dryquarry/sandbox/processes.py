"""Processes as the system lists them: who started whom, how much memory one has, and since when it is there."""

from __future__ import annotations

import os
import time
from collections.abc import Iterator
from contextlib import suppress

PAGE_MB = os.sysconf("SC_PAGE_SIZE") / 1024 / 1024
TICKS_PER_S = os.sysconf("SC_CLK_TCK")
# of the fields of `stat` behind the program's name, which may hold anything
STATE, BEGUN = 0, 19


def family_of(pid: int) -> list[int]:
    """Return a process and all its descendants, as far as they are there."""
    found, new = [pid], [pid]
    while new:
        children = list(_children_of(new.pop()))
        found += children
        new += children
    return found


def _children_of(pid: int) -> Iterator[int]:
    """Yield the processes that a process started, from whichever of its threads: the system lists them by thread."""
    try:
        threads = os.listdir(f"/proc/{pid}/task")
    except OSError:
        return
    for thread in threads:
        with suppress(OSError), open(f"/proc/{pid}/task/{thread}/children", encoding="ascii") as file:
            yield from map(int, file.read().split())


def resident_mb(pid: int) -> float:
    """Return how much memory a process has, 0 where it is gone."""
    try:
        with open(f"/proc/{pid}/statm", encoding="ascii") as file:
            return int(file.read().split()[1]) * PAGE_MB
    except (OSError, IndexError):
        return 0.0


def begun_of(pid: int) -> float | None:
    """Return when a process began, by the clock that only goes forward, or None where it is gone."""
    try:
        with open(f"/proc/{pid}/stat", encoding="utf-8", errors="replace") as file:
            fields = file.read().rpartition(")")[2].split()
    except OSError:
        return None
    if not fields or fields[STATE] in "ZX":
        return None
    # the system counts from its start, with the time that it slept
    return int(fields[BEGUN]) / TICKS_PER_S - (time.clock_gettime(time.CLOCK_BOOTTIME) - time.monotonic())
