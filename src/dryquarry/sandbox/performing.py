"""The sandbox of a workspace: whether a job can be run here, and running many of them at once."""

from __future__ import annotations

import importlib.util
import os
import threading
from collections.abc import Generator, Mapping
from concurrent.futures import FIRST_COMPLETED, Future, ThreadPoolExecutor, wait
from functools import cached_property

from dryquarry.marking.works.jobs import DrawingJob, Job, PageJob, ProgramJob
from dryquarry.marking.works.results import RunResult
from dryquarry.sandbox import bubblewrap, container
from dryquarry.sandbox.box import Box
from dryquarry.sandbox.browser import Browser, browser_missing, browser_version
from dryquarry.sandbox.bubblewrap import Bubblewrap
from dryquarry.sandbox.container import Container
from dryquarry.sandbox.languages import Missing, Runtime
from dryquarry.sandbox.programs import run_program
from dryquarry.sandbox.settings import SandboxSettings
from dryquarry.sandbox.windows import windows_missing

LOOK_EVERY_S = 0.2


class CannotRun(Exception):
    """A job cannot be run on this machine; the message says what to install."""


class Sandbox:
    """Where what replies hold is run: each job in a box of its own."""

    def __init__(self, settings: SandboxSettings = SandboxSettings()):  # noqa: B008 (it cannot be changed)
        self.settings = settings
        self._opened: Browser | None = None
        self._opening = threading.Lock()

    @cached_property
    def box(self) -> Box | str:
        """How programs are kept apart here, or why they cannot be, and what to do."""
        found: Box | str = bubblewrap.found()
        if isinstance(found, str) and self.settings.container:
            found = container.found(self.settings.container, self.settings.image)
        if not isinstance(found, str) or not self.settings.without:
            return found
        from dryquarry.sandbox.bare import Bare

        return Bare()

    def runtime(self, job: Job) -> Runtime | Missing:
        """Return what a job would be run with here, or what is missing."""
        if isinstance(self.box, str):
            return Missing(f"{self.box}; nothing that replies hold is run without a sandbox")
        if isinstance(job, PageJob):
            return self._browser_runtime()
        if isinstance(job, ProgramJob):
            if (lacking := self._screens_missing(job)) is not None:
                return Missing(lacking)
            if (lacking := self._beside_missing(job, self.box)) is not None:
                return Missing(lacking)
        return self.box.runtime(job.needs, self.settings.languages)

    def _beside_missing(self, job: ProgramJob, box: Box) -> str | None:
        """Return what is missing beside a program's language: another date, or what runs the author's tests."""
        if isinstance(box, Container):
            if job.date is not None:
                return "another date is set in bubblewrap's sandbox only"
            return box.lacking_for(job.test_file)
        if job.date is not None and bubblewrap.faketime_library() is None:
            return "no other date can be set (Debian's package faketime)"
        return None

    def _screens_missing(self, job: ProgramJob) -> str | None:
        """Return what is missing for the windows that a program opens, or None."""
        if not any(screen.kind == "window" for screen in job.screens):
            return None
        if not isinstance(self.box, Bubblewrap):
            return "windows are opened in bubblewrap's sandbox only"
        wants_tk = job.language == "python" and any("tkinter" in one.text for one in job.work.files)
        if wants_tk and importlib.util.find_spec("_tkinter") is None:
            return "this Python has no Tk (Debian's package python3-tk)"
        return windows_missing()

    def _browser_runtime(self) -> Runtime | Missing:
        missing = browser_missing()
        if missing is not None:
            return Missing(missing)
        if not isinstance(self.box, Bubblewrap):
            return Missing("pages are opened in bubblewrap's sandbox only")
        return Runtime("browser", browser_version(), ())

    def perform(self, job: Job) -> RunResult:
        """Run one job; raises CannotRun."""
        runtime = self.runtime(job)
        if isinstance(runtime, Missing):
            raise CannotRun(runtime.said)
        try:
            return self._performed(job, runtime)
        except Exception as error:  # a fault here, or of this machine, is none of the reply, and stops no other
            raise CannotRun(f"it could not be run ({type(error).__name__}: {str(error)[:200]})") from error

    def _performed(self, job: Job, runtime: Runtime) -> RunResult:
        # Imported only now: a board is read without them.
        from dryquarry.sandbox.pages import run_drawing, run_page
        from dryquarry.sandbox.queries import run_query

        assert not isinstance(self.box, str)
        if isinstance(job, PageJob):
            return run_page(self._browser(), job)
        if isinstance(job, DrawingJob):
            return run_drawing(self.box, job, runtime)
        if isinstance(job, ProgramJob):
            return run_program(self.box, job, runtime)
        return run_query(self.box, job, runtime)

    def _browser(self) -> Browser:
        """Return the browser, which stays open until `close`."""
        with self._opening:
            if self._opened is None:
                assert isinstance(self.box, Bubblewrap)
                self._opened = Browser(self.box)
            return self._opened

    def close(self) -> None:
        """End what was kept open for further jobs."""
        with self._opening:
            if self._opened is not None:
                self._opened.close()
                self._opened = None

    def perform_all(
        self, jobs: Mapping[str, Job], workers: int | None = None
    ) -> Generator[tuple[str, RunResult | CannotRun] | None, None, None]:
        """Run jobs on all cores, and yield what came of each, with its name, when it is done; None now and then before.

        Whoever stops taking them ends those that are running.
        """
        cores = workers or os.cpu_count() or 1
        # what waits for a screen to change needs no core meanwhile, and the browser works one page after the other
        sizes = {"program": cores, "screen": 2 * cores, "page": 1}
        pools = {kind: ThreadPoolExecutor(size, thread_name_prefix=kind) for kind, size in sizes.items()}
        running: dict[Future[RunResult], str] = {}
        try:
            running = {pools[_kind(job)].submit(self.perform, job): name for name, job in jobs.items()}
            while running:
                done, _ = wait(running, LOOK_EVERY_S, FIRST_COMPLETED)
                for one in done:
                    failed = one.exception()
                    if failed is not None and not isinstance(failed, CannotRun):
                        raise failed
                    yield running.pop(one), failed or one.result()
                if not done:
                    yield None
        finally:
            if running and not isinstance(self.box, str):
                self.box.stopping.set()
            for pool in pools.values():  # first all of them, so that none begins anew while another one ends
                pool.shutdown(wait=False, cancel_futures=True)
            for pool in pools.values():
                pool.shutdown(wait=True, cancel_futures=True)
            if not isinstance(self.box, str):
                self.box.stopping.clear()
            self.close()


def _kind(job: Job) -> str:
    """Return which of the pools a job is for."""
    if isinstance(job, ProgramJob):
        return "screen" if job.screens else "program"
    return "page" if isinstance(job, PageJob) else "program"
