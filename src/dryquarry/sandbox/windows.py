"""A screen of a given size, by Xvfb in a sandbox of its own, with a program of a reply that opens a window on it."""

from __future__ import annotations

import io
import os
import shutil
import tempfile
import time
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from functools import lru_cache
from pathlib import Path

from dryquarry.marking.works.jobs import Limits, Screen, Step
from dryquarry.marking.works.results import Ended
from dryquarry.sandbox.box import Box, Start
from dryquarry.sandbox.programs import Ready
from dryquarry.sandbox.running import Running, run

SOCKETS = "/tmp/.X11-unix"
DISPLAY = {"DISPLAY": ":0"}
STARTS_WITHIN_S = 10.0
TOOL_TIMEOUT_S = 5.0
LOOK_EVERY_S = 0.05
OPENS_WITHIN_S = 5.0
PRESSED = {"Enter": "Return", "Backspace": "BackSpace", "PageUp": "Page_Up", "PageDown": "Page_Down", "Space": "space"}


@lru_cache
def windows_missing() -> str | None:
    """Return what is missing for windows on this machine, or None."""
    for program, package in (("Xvfb", "xvfb"), ("xdotool", "xdotool")):
        if shutil.which(program) is None:
            return f"{program} is not installed (Debian's package {package})"
    return None


@contextmanager
def in_window(box: Box, ready: Ready, screen: Screen) -> Iterator[Window]:
    """Give a screen with the program on it, its window open if it has one by then."""
    with tempfile.TemporaryDirectory(prefix="dryquarry-") as folder, _server(box, screen, folder):
        command = (*ready.command, *screen.arguments)
        start = ready.start(command, {}, binds={folder: SOCKETS}, environment=DISPLAY)
        with box.started(start) as process:
            running = Running(box, process, ready.job.limits)
            try:
                window = Window(box, running, folder)
                empty = window.look()
                window.wait(lambda: window.look() != empty or window.over is not None, OPENS_WITHIN_S)
                yield window
            finally:
                running.end(Ended.DONE)
                running.close()


@contextmanager
def _server(box: Box, screen: Screen, folder: str) -> Iterator[None]:
    """Have an X server with one screen, whose socket is in a folder, while the context lasts."""
    os.chmod(folder, 0o1777)
    width, height = screen.size
    program = shutil.which("Xvfb")
    assert program is not None
    command = (program, ":0", "-screen", "0", f"{width}x{height}x24", "-ac", "-nolisten", "tcp", "-noreset")
    limits = Limits(seconds=86400, memory_mb=1024)
    start = Start(command, binds={folder: SOCKETS}, limits=limits, address_limit=False)
    with box.started(start) as process:
        place = Path(folder, "X0")
        deadline = time.monotonic() + STARTS_WITHIN_S
        while not place.exists():
            if process.poll() is not None or time.monotonic() > deadline:
                raise OSError("Xvfb did not start")
            time.sleep(LOOK_EVERY_S)
        time.sleep(LOOK_EVERY_S)
        yield


class Window:
    """A screen on which a program shows itself."""

    def __init__(self, box: Box, running: Running, folder: str):
        self.box = box
        self.running = running
        self.folder = folder
        self.display = f"unix:{folder}/X0"

    @property
    def over(self) -> Ended | None:
        """How the program ended, None while it goes on."""
        if self.running.exit_code is None:
            return None
        return self.running.ended or (Ended.CRASHED if self.running.crashed or self.running.exit_code else Ended.DONE)

    @property
    def memory_mb(self) -> float:
        """The most memory that the program had."""
        return self.running.memory_mb

    def do(self, step: Step) -> None:
        """Type letters, press a key, or click at a place."""
        if step.act == "click":
            across, down = step.text.split(",")
            self._tool("mousemove", across, down, "click", "1")
        elif step.act == "press":
            key = step.text.replace("Ctrl-", "ctrl+").lower() if step.text.startswith("Ctrl-") else step.text
            self._tool("key", "--", PRESSED.get(key, key))
        else:
            self._tool("type", "--", step.text)

    def wait(self, until: Callable[[], bool], seconds: float) -> bool:
        """Let the program go on until something is so, or so long."""
        end = time.monotonic() + seconds
        found = False

        def enough() -> bool:
            nonlocal found
            found = until()
            return found or time.monotonic() >= end

        self.running.pump(enough, self.running.limits.seconds)
        return found or until()

    def look(self) -> object:
        """Return the pixels of the screen."""
        from PIL import ImageGrab

        return ImageGrab.grab(xdisplay=self.display).tobytes()

    def text(self) -> str:
        """Return no text: a window has none that could be read."""
        return ""

    def picture(self) -> bytes:
        """Return the screen as a PNG."""
        from PIL import ImageGrab

        content = io.BytesIO()
        ImageGrab.grab(xdisplay=self.display).save(content, "PNG")
        return content.getvalue()

    def streams(self) -> tuple[str, str]:
        """Return what the program wrote."""
        return tuple(bytes(self.running.gathered(one)).decode("utf-8", "replace") for one in ("stdout", "stderr"))  # type: ignore[return-value]

    def _tool(self, *arguments: str) -> None:
        # in a box, where the screen's socket stands at the only place where Xlib looks for it
        limits = Limits(seconds=TOOL_TIMEOUT_S)
        start = Start(("xdotool", *arguments), binds={self.folder: SOCKETS}, environment=DISPLAY, limits=limits)
        run(self.box, start)
