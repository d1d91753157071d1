"""Whether a full screen can be shown, and opening what a terminal cannot show."""

from __future__ import annotations

import os
import sys
import tempfile
import webbrowser
from collections.abc import Mapping, Sequence
from pathlib import Path

from dryquarry.errors import UsageFault

TOO_PLAIN = ("", "dumb", "unknown")
NARROWEST, LOWEST = 40, 12
WIDE, HIGH = 96, 28


def check_terminal(instead: str) -> None:
    """Raise UsageFault, saying what to do `instead`, where there is no terminal that shows a full screen."""
    if not (_is_terminal(sys.stdin) and _is_terminal(sys.stdout)):
        raise UsageFault(f"this needs a terminal to show a screen and to read keys; {instead}")
    term = os.environ.get("TERM", "")
    if term in TOO_PLAIN:
        raise UsageFault(f"the terminal says that it is '{term or 'nothing'}', which can show no screen; {instead}")
    size = os.get_terminal_size()
    if size.columns < NARROWEST or size.lines < LOWEST:
        raise UsageFault(
            f"the terminal is {size.columns} × {size.lines}, and {NARROWEST} × {LOWEST} is wanted at least; {instead}"
        )


def _is_terminal(stream: object) -> bool:
    try:
        return bool(stream is not None and stream.isatty())  # type: ignore[attr-defined]
    except ValueError:  # closed
        return False


def open_files(files: Sequence[tuple[str, bytes]]) -> str:
    """Write files to a new temporary folder and open them in the person's own programs; return what was done."""
    folder = Path(tempfile.mkdtemp(prefix="dryquarry-"))
    opened = 0
    for name, content in files:
        path = folder / Path(name).name
        path.write_bytes(content)
        opened += webbrowser.open(path.as_uri())
    return "opened" if opened == len(files) else f"no program opened them; they are in {folder}"


def page_of(text: str) -> Mapping[str, bytes]:
    """Return the pages and drawings in a reply as files: what stands between the first and the last tag."""
    found: dict[str, bytes] = {}
    lower = text.lower()
    for name, start, end in (("reply.svg", "<svg", "</svg>"), ("reply.html", "<html", "</html>")):
        first, last = lower.find(start), lower.rfind(end)
        if 0 <= first < last:
            found[name] = text[first : last + len(end)].encode("utf-8", "replace")
    return found
