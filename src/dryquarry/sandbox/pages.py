"""Pages opened in the browser, and the steps done with them; drawings drawn without one."""

from __future__ import annotations

import base64
import hashlib
import io
import time
from collections.abc import Callable
from dataclasses import replace
from typing import TYPE_CHECKING, Any

from dryquarry.marking.schemes.page import DRAWN, OPENS, QUIET
from dryquarry.marking.works.jobs import DOINGS, DrawingJob, PageJob, Step
from dryquarry.marking.works.results import Ended, Ran, RunResult
from dryquarry.sandbox.box import Box, GivenFile, Start
from dryquarry.sandbox.browser import Browser, BrowserGone, browser_version
from dryquarry.sandbox.languages import HARNESS, Runtime
from dryquarry.sandbox.running import run

if TYPE_CHECKING:
    from playwright.sync_api import Browser as Chromium
    from playwright.sync_api import CDPSession, Page, Route

ADDRESS = "https://page.invalid/"
OPEN_TIMEOUT_MS = 8_000
STEP_TIMEOUT_MS = 3_000
CHANGE_TIMEOUT_S = 1.0
LOOK_EVERY_S = 0.2
LEAST_CHANGED_PIXELS = 12
MOVING_SHARE = 0.6
LONGEST = 2_000
MOST_PICTURES = 20
MOST_CONTENT = 500_000
MOST_ERRORS = 5
SHOTS_AGAIN_AFTER_S = (0.1, 0.3, 1.0)
NOT_THERE = 97
TYPES = {"html": "text/html; charset=utf-8", "svg": "image/svg+xml; charset=utf-8"}
BESIDE_TYPES = {"css": "text/css", "js": "text/javascript", "json": "application/json", "svg": "image/svg+xml"}


def run_page(browser: Browser, job: PageJob) -> RunResult:
    """Return what came of opening a page and of each step with it, with pictures."""
    began = time.monotonic()
    visit = _Visit(job)
    try:
        browser.do(visit.whole, job.limits)
    except BrowserGone:
        visit.broken(Ended.TIME, "")
    except Exception as error:  # the driver's own errors: the page crashed the browser, or keeps it from answering
        visit.broken(Ended.CRASHED, _first_line(error))
    seconds = round(time.monotonic() - began, 3)
    return RunResult(browser_version(), tuple(visit.ran), seconds=seconds, images=visit.images)


class _Visit:
    """One page in one empty profile, from opening it to its last step."""

    def __init__(self, job: PageJob):
        self.job = job
        self.ran: list[Ran] = []
        self.images: dict[str, bytes] = {}
        self.errors: list[str] = []
        self.asked_for: list[str] = []
        self.before = b""
        self.camera: CDPSession | None = None

    def whole(self, chromium: Chromium) -> None:
        """Open the page, do the steps, and look at what it said."""
        width, height = self.job.size
        context = chromium.new_context(
            viewport={"width": width, "height": height},
            service_workers="block",
            accept_downloads=False,
            locale="en-GB",
            timezone_id="UTC",
            reduced_motion="no-preference",
        )
        try:
            context.set_default_timeout(STEP_TIMEOUT_MS)
            context.route("**/*", self._answer)
            page = context.new_page()
            self.camera = context.new_cdp_session(page)
            context.on("page", lambda other: other.close())
            page.on("pageerror", lambda error: self._noted(str(error)))
            page.on("console", lambda said: self._noted(said.text) if said.type == "error" else None)
            if self._opened(page):
                self._steps(page)
            self._quiet()
        finally:
            context.close()

    def broken(self, ended: Ended, detail: str) -> None:
        """Note that the visit ended before its end."""
        # what the driver said when it lost the browser is not why
        self.ran = [one for one in self.ran if one.ended is Ended.DONE and one.name != QUIET]
        done = {one.name for one in self.ran}
        names = [OPENS, *(step.name for step in self.job.steps)]
        left = next((name for name in names if name not in done), None)
        if left is not None:
            self.ran.append(Ran(left, ended, detail=detail))
        self._quiet()

    def _answer(self, route: Route) -> None:
        """Give the page itself, and refuse whatever else it asks for."""
        address = route.request.url
        if address == ADDRESS and route.request.is_navigation_request():
            kind = "svg" if self.job.work.language == "svg" else "html"
            route.fulfill(body=self.job.work.text, content_type=TYPES[kind])
            return
        beside = {ADDRESS + one.path: one.text for one in self.job.work.files}
        if address in beside:
            route.fulfill(body=beside[address], content_type=BESIDE_TYPES.get(address.rpartition(".")[2], "text/plain"))
            return
        if not address.endswith("/favicon.ico"):
            self.asked_for.append(address[:200])
        route.abort()

    def _noted(self, error: str) -> None:
        if len(self.errors) < MOST_ERRORS and "favicon.ico" not in error:
            self.errors.append(error[:LONGEST])

    def _opened(self, page: Page) -> bool:
        began = time.monotonic()
        try:
            page.goto(ADDRESS, timeout=OPEN_TIMEOUT_MS, wait_until="load")
            picture = self._picture(page)
            holds = page.content()[:MOST_CONTENT] if self.job.holds else ""
        except Exception as error:  # of the driver, whatever it is: the page did not open
            self.ran.append(
                Ran(OPENS, Ended.TIME if "Timeout" in str(error) else Ended.RAISED, detail=_first_line(error))
            )
            return False
        self.ran.append(Ran(OPENS, Ended.DONE, value=holds, pictures=(picture,), seconds=_since(began)))
        return True

    def _steps(self, page: Page) -> None:
        for step in self.job.steps:
            began = time.monotonic()
            try:
                value, pictures = self._step(page, step)
            except _Not as why:
                ran = Ran(step.name, Ended.RAISED, detail=str(why), pictures=tuple(self._last(page)))
            except Exception as error:  # of the driver: no such element, nothing to be clicked, …
                ran = Ran(step.name, Ended.RAISED, detail=_first_line(error), pictures=tuple(self._last(page)))
            else:
                self.ran.append(Ran(step.name, Ended.DONE, value=value, pictures=pictures, seconds=_since(began)))
                continue
            self.ran.append(ran)
            return
        if self.job.steps and self.job.steps[-1].act != "picture":
            last = self.ran.pop()
            self.ran.append(replace(last, pictures=(*last.pictures, self._picture(page))))

    def _last(self, page: Page) -> list[str]:
        try:
            return [self._picture(page)]
        except Exception:  # it cannot be pictured any more
            return []

    def _compared_after(self, step: Step) -> bool:
        """Tell whether the picture is compared with the one before a step, before the next thing is done."""
        place = self.job.steps.index(step)
        later = [one.act for one in self.job.steps[place + 1 :]]
        done = next((number for number, act in enumerate(later) if act in DOINGS - {"wait", "picture"}), len(later))
        return "changes" in later[:done]

    def _step(self, page: Page, step: Step) -> tuple[Any, tuple[str, ...]]:
        done = {"click": self._click, "hover": self._hover, "type": self._type, "press": self._press}.get(step.act)
        if done is not None:
            if self._compared_after(step):
                if step.act == "click":
                    self._hover(page, step)  # what shows where the pointer is, is no change by the click
                self.before = self._shot()
            done(page, step)
            return None, ()
        if step.act == "picture":
            return None, (self._picture(page),)
        looked: Callable[[Page, Step], Any] = getattr(self, f"_look_{step.act}")
        return looked(page, step), ()

    @staticmethod
    def _click(page: Page, step: Step) -> None:
        page.locator(step.target).first.click()

    @staticmethod
    def _hover(page: Page, step: Step) -> None:
        page.locator(step.target).first.hover()

    @staticmethod
    def _type(page: Page, step: Step) -> None:
        page.locator(step.target).first.press_sequentially(step.text)

    @staticmethod
    def _press(page: Page, step: Step) -> None:
        page.keyboard.press(step.text)

    @staticmethod
    def _look_wait(page: Page, step: Step) -> None:
        page.wait_for_timeout(step.seconds * 1000)

    @staticmethod
    def _look_see(page: Page, step: Step) -> None:
        from playwright.sync_api import Error

        try:
            page.locator(step.target).first.wait_for(state="visible")
        except Error:
            raise _Not("it is not there, or not visible") from None
        box = page.locator(step.target).first.bounding_box()
        size = page.viewport_size
        sides = (("x", "width"), ("y", "height"))
        if box is None or size is None or not all(-box[long] < box[at] < size[long] for at, long in sides):  # type: ignore[literal-required]
            raise _Not("it lies outside what is shown")

    @staticmethod
    def _look_gone(page: Page, step: Step) -> None:
        from playwright.sync_api import Error

        try:
            page.locator(step.target).first.wait_for(state="hidden")
        except Error:
            raise _Not("it is still to be seen") from None

    @staticmethod
    def _look_text(page: Page, step: Step) -> str:
        element = page.locator(step.target).first
        text = element.inner_text() if element.evaluate("one => one instanceof HTMLElement") else element.text_content()
        return (text or "")[:LONGEST]

    @staticmethod
    def _look_attribute(page: Page, step: Step) -> str:
        element = page.locator(step.target).first
        # what a form field holds now is in its property, not in the attribute that it began with
        value = element.input_value() if step.text == "value" else element.get_attribute(step.text)
        return (value or "")[:LONGEST]

    def _look_changes(self, page: Page, step: Step) -> None:
        deadline = time.monotonic() + CHANGE_TIMEOUT_S
        while not changed(self.before, self._shot()):
            if time.monotonic() > deadline:
                raise _Not("the picture is the same as before")
            page.wait_for_timeout(LOOK_EVERY_S * 1000)

    def _look_moves(self, page: Page, step: Step) -> None:
        looks, moved = 0, 0
        last, deadline = self._shot(), time.monotonic() + step.seconds
        while time.monotonic() < deadline:
            page.wait_for_timeout(LOOK_EVERY_S * 1000)
            now = self._shot()
            looks, moved, last = looks + 1, moved + changed(last, now), now
        if moved < MOVING_SHARE * looks:
            raise _Not(f"the picture changed in {moved} of {looks} looks")

    def _shot(self) -> bytes:
        """Return what is shown as a PNG: by the browser's own protocol, in half the time of the driver's way.

        On a busy machine the browser now and then has no picture ready, of which the page knows nothing: then again.
        """
        assert self.camera is not None
        for pause_s in (*SHOTS_AGAIN_AFTER_S, None):
            try:
                taken = self.camera.send("Page.captureScreenshot", {"format": "png", "optimizeForSpeed": True})
                break
            except Exception as error:  # the driver's own
                if pause_s is None or "Unable to capture" not in str(error):
                    raise
                time.sleep(pause_s)
        return base64.b64decode(taken["data"])

    def _picture(self, page: Page) -> str:
        png = self._shot()
        digest = hashlib.sha256(png).hexdigest()
        if len(self.images) < MOST_PICTURES:
            self.images[digest] = png
        return digest

    def _quiet(self) -> None:
        if not any(one.name == QUIET for one in self.ran):
            outside = [f"asks for {one}, which is outside" for one in dict.fromkeys(self.asked_for)][:3]
            errors = [one for one in self.errors if not (outside and one.startswith("Failed to load resource"))]
            detail = "; ".join([*outside, *errors])[:LONGEST]
            self.ran.append(Ran(QUIET, Ended.RAISED if self.errors else Ended.DONE, detail=detail))


class _Not(Exception):
    """What a step looks for is not so."""


def changed(before: bytes, after: bytes) -> bool:
    """Tell whether two pictures differ in more than a few pixels."""
    if before == after or not before:
        return before != after and bool(before)
    import numpy as np
    from PIL import Image

    one, other = (np.asarray(Image.open(io.BytesIO(png)).convert("RGB"), dtype=np.int16) for png in (before, after))
    if one.shape != other.shape:
        return True
    return int((np.abs(one - other).max(axis=2) > 8).sum()) >= LEAST_CHANGED_PIXELS


def _since(began: float) -> float:
    return round(time.monotonic() - began, 3)


def _first_line(error: Exception) -> str:
    return str(error).split("\n", 1)[0][:300]


def run_drawing(box: Box, job: DrawingJob, runtime: Runtime) -> RunResult:
    """Return what came of drawing an SVG without a browser, with its picture."""
    width, height = job.size
    command = (*runtime.command, f"{HARNESS}/svg_servant.py", str(width), str(height))
    start = Start(
        command,
        files={"drawing.svg": GivenFile(job.work.text.encode("utf-8", "replace"))},
        sees=runtime.sees,
        environment={"PYTHONPATH": runtime.sees[-1]},
        limits=job.limits,
        keeps=("drawing.png",),
    )
    came = run(box, start)
    if came.exit_code == NOT_THERE:
        raise OSError("what draws is not to be found in the sandbox")
    png = came.files.get("drawing.png", b"")
    if came.ended is not Ended.DONE or came.exit_code != 0 or not png:
        lines = came.err_text.strip().splitlines()
        ended = came.ended if came.ended is not Ended.DONE else Ended.RAISED
        ran = Ran(
            DRAWN, ended, detail=f"it cannot be drawn: {lines[-1][:200] if lines else came.ended}", seconds=came.seconds
        )
        return RunResult(runtime.version, (ran,), seconds=came.seconds, memory_mb=came.memory_mb)
    digest = hashlib.sha256(png).hexdigest()
    ran = Ran(DRAWN, Ended.DONE, pictures=(digest,), seconds=came.seconds, memory_mb=came.memory_mb)
    return RunResult(runtime.version, (ran,), seconds=came.seconds, memory_mb=came.memory_mb, images={digest: png})
