"""A report of 20 entrants × 200 questions × 3 trials, and the filters of a grid of 40 × 500.

python benchmarks/reports.py

Times also as multiples of reading the same replies from the ledger; pages in headless Chromium.
"""

from __future__ import annotations

import subprocess
import tempfile
import time
from pathlib import Path
from typing import Any

import report_ledger
from common import PROGRAM, report, seconds

from dryquarry.sandbox.browser import binary
from dryquarry.workspace import Workspace

# When something was first drawn, 0 as long as nothing was.
SHOWN = "performance.getEntriesByName('first-contentful-paint')[0]?.startTime ?? 0"
# Each is done; taken is the time until the table is laid out anew, and until the next frame has been drawn.
CHANGED = """async () => {
  const begun = performance.now();
  %s;
  document.querySelector('table').offsetHeight;
  const laid = performance.now() - begun;
  await new Promise((done) => requestAnimationFrame(() => setTimeout(done)));
  return [laid, performance.now() - begun];
}"""
_FORM = "const form = document.querySelector('form')"
_TOLD = "form.dispatchEvent(new Event('change'))"
CHANGES = {
    "filter": f"{_FORM}; form.elements.who.value = '0'; form.elements.other.value = '39'; {_TOLD}",
    "show all of": f"{_FORM}; form.elements.who.value = ''; form.elements.other.value = ''; {_TOLD}",
    "sort": "[...document.querySelectorAll('thead button')].at(-1).click()",
    "sort by name": "document.querySelector('thead button').click()",
}


def written(root: Path, out: Path) -> float:
    """Return how long the command takes to write a report."""
    command = [*PROGRAM, "report", "sums", "--out", str(out), "--workspace", str(root)]
    return seconds(lambda: subprocess.run(command, check=True, capture_output=True))


def made(folder: str, entrants: int, questions: int, trials: int) -> Path:
    """Return a workspace with so many replies."""
    root = Path(folder, f"{entrants}x{questions}")
    root.mkdir()
    report_ledger.write(root, entrants, questions)
    report_ledger.fill(Workspace.open(root), trials)
    return root


def main() -> None:
    with tempfile.TemporaryDirectory() as folder:
        root, out = made(folder, 20, 200, 3), Path(folder, "report")
        reading = seconds(lambda: Workspace.open(root).replies("sums"))
        took = written(root, out)
        size_mb = sum(path.stat().st_size for path in out.rglob("*") if path.is_file()) / 1e6
        report("writing 20 × 200 × 3", took, 20, "s")
        print(f"  {took / reading:.0f} times reading the same replies from the ledger ({reading:.2f} s)")
        again = written(root, out)
        print(f"  written again with nothing changed: {again / took:.2f} of that")
        report("its size", size_mb, 60, "MB")
        report("its front page", (out / "index.html").stat().st_size / 1e3, 400, "KB")
        large = Path(folder, "large")
        written(made(folder, 40, 500, 1), large)
        in_browser(out, large)


def in_browser(out: Path, large: Path) -> None:
    """Report how soon the front page is shown, and how long filters and sorting take."""
    from playwright.sync_api import sync_playwright

    with sync_playwright() as driver:
        browser = driver.chromium.launch(executable_path=binary(), args=["--no-sandbox", "--disable-gpu"])
        page: Any = browser.new_page(viewport={"width": 1280, "height": 800})
        page.goto((out / "index.html").as_uri())
        while not (shown_ms := page.evaluate(SHOWN)):
            page.wait_for_timeout(20)
        report("front page shown", shown_ms / 1000, 1, "s")
        begun = time.perf_counter()
        page.goto((large / "sums" / "grid.html").as_uri())
        print(f"  grid of 40 × 500 loaded in {time.perf_counter() - begun:.2f} s")
        for what, change in CHANGES.items():
            laid, drawn = page.evaluate(CHANGED % change)
            report(f"{what} a grid of 40 × 500, laid out", laid, 100, "ms")
            report("  and drawn, without a graphics card", drawn, 100, "ms")
        browser.close()


if __name__ == "__main__":
    main()
