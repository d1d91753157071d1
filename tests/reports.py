"""What tests of reports share: the report of the demo, a browser that watches what pages do, and a page's problems."""

from __future__ import annotations

from collections.abc import Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path
from typing import Any

ALL_SUITES = ("keeper-letters", "lamp-logic", "shore-facts", "station-board", "tide-sums")
# One page of every kind in the demo's report.
KINDS = {
    "front": "index.html",
    "suite": "tide-sums/index.html",
    "grid": "tide-sums/grid.html",
    "part": "tide-sums/boards/category-money.html",
    "items": "tide-sums/items.html",
    "editions": "tide-sums/editions.html",
    "question": "tide-sums/questions/fifth-spring-tide.html",
    "judged": "keeper-letters/questions/last-bus.html",
    "run": "station-board/questions/fare-total.html",
    "made": "station-board/questions/tide-page.html",
    "entrant": "entrants/plover.html",
    "pair": "tide-sums/pairs/curlew--plover.html",
    "numbers": "numbers.html",
    "search": "search.html",
}


@dataclass
class Watched:
    """A page of the browser, with what it said on its console and what it asked of anybody but its own folder."""

    page: Any
    said: list[str] = field(default_factory=list)
    asked: list[str] = field(default_factory=list)

    def open(self, path: Path, fragment: str = "") -> Any:
        """Open a file of a report."""
        self.page.goto(path.as_uri() + fragment)
        return self.page

    def quiet(self) -> None:
        """Check that nothing was said and nothing asked."""
        assert self.said == []
        assert self.asked == []


@contextmanager
def a_browser() -> Iterator[Any]:
    """Give a browser, for all tests of a module: the driver allows one at a time."""
    from playwright.sync_api import sync_playwright

    from dryquarry.sandbox.browser import binary

    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=binary(), args=["--no-sandbox", "--disable-gpu"])
        yield browser
        browser.close()


@contextmanager
def watching(browser: Any, folder: Path, **how: Any) -> Iterator[Watched]:
    """Give a page of a browser, and note what it says and what it asks of anybody outside a folder."""
    context = browser.new_context(**{"viewport": {"width": 1280, "height": 800}, **how})
    context.set_default_timeout(15_000)
    watched = Watched(context.new_page())
    own = folder.as_uri()
    watched.page.on("console", lambda one: watched.said.append(f"{one.type}: {one.text}"))
    watched.page.on("pageerror", lambda error: watched.said.append(str(error)))
    watched.page.on("dialog", lambda one: (watched.said.append(f"dialog {one.message}"), one.dismiss()))

    def note(request: Any) -> None:
        if not request.url.startswith((own, "data:")):
            watched.asked.append(request.url)

    context.on("request", note)
    try:
        yield watched
    finally:
        context.close()


def until(page: Any, expression: str) -> None:
    """Wait until something is so on a page; asked from outside, for the page's policy lets nothing be evaluated in it."""
    for _ in range(150):
        if page.evaluate(expression):
            return
        page.wait_for_timeout(100)
    raise AssertionError(f"never so: {expression}")
