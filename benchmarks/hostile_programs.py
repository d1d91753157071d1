"""What hostile programs come to in the sandbox: attempt by attempt what happened, how long, and what was left behind.

python benchmarks/hostile_programs.py

The attempts are tests/data/hostile_programs.yaml; tests/test_hostile.py holds each of them to what must not happen.
"""

from __future__ import annotations

import os
import socket
import sys
import tempfile
import time
from collections.abc import Iterator, Mapping
from contextlib import contextmanager
from dataclasses import dataclass
from pathlib import Path
from typing import Any

from dryquarry.marking.works.jobs import Limits
from dryquarry.sandbox import bubblewrap
from dryquarry.sandbox.box import Box, Came, GivenFile, Start
from dryquarry.sandbox.languages import Runtime
from dryquarry.sandbox.running import run

MARKER = "marsh-7391"
NUMBER = "7391"


@dataclass(frozen=True)
class Around:
    """What lies outside the sandbox while an attempt is made, for it to reach for."""

    secret: Path
    ledger: Path
    target: Path
    port: int

    def filled(self, code: str) -> str:
        """Return an attempt's code with what it reaches for put in."""
        return code.format(
            secret=self.secret, ledger=self.ledger, target=self.target, port=self.port, marker=MARKER, number=NUMBER
        )


@contextmanager
def around(folder: Path) -> Iterator[Around]:
    """Put a secret, a ledger and a file beside the tool, and listen on a port and an abstract socket."""
    secret = Path.home() / f"secret-{os.getpid()}.txt"
    secret.write_text("the secret")
    ledger, target = folder / "ledger.db", folder / "target.txt"
    ledger.write_bytes(b"SQLite format 3\0" * 10)
    target.write_text("as it was")
    os.environ["HOSTILE_MARKER"] = MARKER
    with socket.create_server(("127.0.0.1", 0)) as door, socket.socket(socket.AF_UNIX) as other:
        other.bind(f"\0{MARKER}")
        other.listen()
        try:
            yield Around(secret, ledger, target, door.getsockname()[1])
        finally:
            secret.unlink()
            del os.environ["HOSTILE_MARKER"]


def attempted(box: Box, attempt: Mapping[str, Any], there: Around) -> Came:
    """Run one attempt."""
    python = box.runtime("python", {})
    assert isinstance(python, Runtime)
    start = Start(
        (*python.command, "program.py"),
        files={"program.py": GivenFile(there.filled(attempt["code"]).encode("utf-8"))},
        sees=python.sees,
        hides=python.hides,
        limits=Limits(seconds=attempt.get("seconds", 5)),
        keeps=tuple(attempt.get("keeps", ())),
    )
    return run(box, start)


def left_behind() -> list[str]:
    """Return the processes that are still there: of the sandbox's users, or that an attempt started."""
    found = []
    for place in Path("/proc").iterdir():
        if not place.name.isdigit():
            continue
        try:
            said = (place / "cmdline").read_bytes().decode("latin-1").replace("\0", " ")
            user = (place / "status").read_text().split("Uid:")[1].split()[0]
        except (OSError, IndexError):
            continue
        first = bubblewrap.FIRST_USER_ID
        if first <= int(user) < first + bubblewrap.USER_IDS or f"3600.{NUMBER}" in said:
            found.append(said[:60] or place.name)
    return found


def mounts() -> int:
    return len(Path("/proc/self/mounts").read_text().splitlines())


def main() -> None:
    import yaml_files

    box = bubblewrap.found()
    if isinstance(box, str):
        sys.exit(box)
    print(f"{'attempt':58} {'ended':8} {'code':>5} {'s':>6} {'MB':>5} escaped  left: processes, files, mounts")
    with tempfile.TemporaryDirectory() as folder, around(Path(folder)) as there:
        for attempt in yaml_files.read(Path(__file__).parent.parent / "tests" / "data" / "hostile_programs.yaml"):
            before, had = mounts(), sorted(os.listdir(folder))
            begun = time.monotonic()
            came = attempted(box, attempt, there)
            took = time.monotonic() - begun
            time.sleep(0.1)
            escaped = "ESCAPED" in came.out_text
            changed = sorted(os.listdir(folder)) != had or there.target.read_text() != "as it was"
            print(
                f"{attempt['what']:58} {came.ended:8} {came.exit_code!s:>5} {took:6.2f} {came.memory_mb:5.0f} "
                f"{'YES' if escaped else 'no':8} {len(left_behind())}, {'changed' if changed else 0}, {mounts() - before}"
            )


if __name__ == "__main__":
    main()
