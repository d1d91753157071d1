"""A real browser in the sandbox, kept open for many pages; each page has an empty profile of its own.

The browser runs inside a box without a network, and each page's requests are answered here: its own text, and nothing
else. Playwright drives it (Debian's chromium) from a thread of its own.
"""

from __future__ import annotations

import importlib.util
import os
import shutil
import signal
import tempfile
import threading
import time
from collections.abc import Callable
from concurrent.futures import ThreadPoolExecutor
from contextlib import suppress
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING, Any, TypeVar

from dryquarry.marking.works.jobs import Limits
from dryquarry.sandbox.box import Start
from dryquarry.sandbox.bubblewrap import Bubblewrap
from dryquarry.sandbox.languages import version_of
from dryquarry.sandbox.processes import family_of, resident_mb

if TYPE_CHECKING:
    from playwright.sync_api import Browser as Chromium

BINARIES = ("/usr/lib/chromium/chromium", "/usr/lib/chromium-browser/chromium-browser")
LAUNCH_TIMEOUT_MS = 30_000
LOOK_EVERY_S = 0.2
FLAGS = (
    "--disable-gpu",
    "--hide-scrollbars",
    "--mute-audio",
    "--disable-background-networking",
    "--force-color-profile=srgb",
)
ENVIRONMENT = {"FONTCONFIG_PATH": "/etc/fonts"}
Result = TypeVar("Result")


class BrowserGone(Exception):
    """The browser was ended, because a page took too long or too much."""


@lru_cache
def browser_missing() -> str | None:
    """Return what is missing for a browser on this machine, or None."""
    if importlib.util.find_spec("playwright") is None:
        return "the browser's driver is not installed (pip install 'dryquarry[browser]')"
    if binary() is None:
        return "no browser is installed (Debian's package chromium)"
    return None


def browser_version() -> str:
    """Return which browser it is."""
    program = binary()
    said = version_of((program, "--version")) if program is not None else ""
    return " ".join(said.split()[:2]) or "Chromium"


def binary() -> str | None:
    """Return the browser's program."""
    return next((one for one in BINARIES if os.path.exists(one)), None) or shutil.which("chromium")


class Browser:
    """One browser in one thread; what is done with it is done one after the other."""

    def __init__(self, box: Bubblewrap):
        self.box = box
        self._thread = ThreadPoolExecutor(1, thread_name_prefix="browser")
        self._playwright: Any = None
        self._chromium: Chromium | None = None
        self._drivers: list[int] = []
        self._folder: tempfile.TemporaryDirectory[str] | None = None

    def do(self, work: Callable[[Chromium], Result], limits: Limits) -> Result:
        """Do something with the browser, in its thread; raises BrowserGone where that takes too long or too much."""
        return self._thread.submit(self._watched, work, limits).result()

    def close(self) -> None:
        """End the browser."""
        self._thread.submit(self._end).result()
        self._thread.shutdown()

    def _watched(self, work: Callable[[Chromium], Result], limits: Limits) -> Result:
        if self.box.stopping.is_set():
            raise BrowserGone
        chromium = self._open()
        over, ended = threading.Event(), threading.Event()
        watching = threading.Thread(target=self._watch, args=(limits, over, ended), daemon=True)
        watching.start()
        try:
            return work(chromium)
        finally:
            over.set()
            watching.join()
            if ended.is_set():
                self._end()
                raise BrowserGone

    def _watch(self, limits: Limits, over: threading.Event, ended: threading.Event) -> None:
        """End the browser when a page's time is up, or its processes have taken too much memory."""
        deadline = time.monotonic() + limits.seconds
        while not over.wait(LOOK_EVERY_S):
            late = time.monotonic() > deadline or self.box.stopping.is_set()
            if late or sum(map(resident_mb, family_of(self._pid()))) > limits.memory_mb:
                ended.set()
                # the driver as well: what it was asked for then fails, whatever state the browser was in
                for pid in (self._pid(), *self._drivers):
                    with suppress(ProcessLookupError):
                        os.kill(pid, signal.SIGKILL)
                return

    def _pid(self) -> int:
        assert self._folder is not None
        return int(Path(self._folder.name, "pid").read_text("ascii"))

    def _open(self) -> Chromium:
        if self._chromium is not None and self._chromium.is_connected():
            return self._chromium
        from playwright.sync_api import sync_playwright

        self._end()
        self._folder = tempfile.TemporaryDirectory(prefix="dryquarry-")
        os.chmod(self._folder.name, 0o711)
        program = binary()
        assert program is not None
        sees = () if program.startswith("/usr/") else (program,)
        limits = Limits(seconds=86400, memory_mb=65536, processes=4000, disk_mb=512)
        start = Start((program,), sees=sees, environment=ENVIRONMENT, limits=limits, address_limit=False)
        script = self.box.launcher(start, Path(self._folder.name))
        if self._playwright is None:
            self._playwright = sync_playwright().start()
            self._drivers = [pid for pid in family_of(os.getpid()) if _is_driver(pid)]
        self._chromium = self._playwright.chromium.launch(
            executable_path=str(script), chromium_sandbox=False, args=list(FLAGS), timeout=LAUNCH_TIMEOUT_MS
        )
        return self._chromium

    def _end(self) -> None:
        if self._chromium is not None:
            with suppress(Exception):  # it may be gone already, however it went
                self._chromium.close()
            self._chromium = None
        if self._folder is not None:
            self._folder.cleanup()
            self._folder = None
        if self._playwright is not None:
            with suppress(Exception):
                self._playwright.stop()
            self._playwright = None


def _is_driver(pid: int) -> bool:
    """Tell whether a process is the one through which Playwright speaks with browsers."""
    try:
        return b"playwright/driver" in Path(f"/proc/{pid}/cmdline").read_bytes()
    except OSError:
        return False
