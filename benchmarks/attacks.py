"""Tries every attack of the table on the installed program, and writes what came of it.

    attacks.py [--out FILE.json] [--source DIR]   # of another version, its `src`
    attacks.py --table BEFORE.json AFTER.json     # both beside each other, in Markdown

Held means: it ended by itself within the limit of seconds and memory, with an exit code that is documented for it, in words,
and without what must not come out. Each runs in a process of its own, whose memory and seconds of the processor are what
the system says; a wait ends by force after `KILLED_S`, which a busy machine does not reach.
"""

from __future__ import annotations

import argparse
import json
import os
import resource
import shlex
import shutil
import signal
import subprocess
import sys
import tempfile
import threading
from collections.abc import Iterator, Mapping, Sequence
from contextlib import contextmanager, suppress
from dataclasses import asdict, dataclass
from http.server import BaseHTTPRequestHandler, ThreadingHTTPServer
from pathlib import Path
from typing import Any

from attack_table import ENTRANT, JUDGE, KEY, Attack, attacks, whole

MOST_S, MOST_MB, KILLED_S = 10.0, 600.0, 60.0
_MOST_BYTES = 6_000_000_000


@dataclass(frozen=True, slots=True)
class Outcome:
    """What came of one attack; `code` is None where it had to be ended."""

    group: str
    name: str
    held: bool
    seconds: float
    peak_mb: float
    code: int | None
    message: str


@contextmanager
def serving(attack: Attack) -> Iterator[str]:
    """Answer as the attack says, on loopback; gives the endpoint."""

    class Handler(BaseHTTPRequestHandler):
        def do_POST(self) -> None:
            asked = json.loads(self.rfile.read(int(self.headers.get("Content-Length", 0))) or b"{}")
            answer = attack.answer or (lambda _: (200, whole(), {}))
            status, sent, headers = answer(asked)
            self.send_response(status)
            for name, value in {"Content-Type": "application/json", **headers}.items():
                self.send_header(name, value)
            self.send_header("Content-Length", str(len(sent)))
            self.end_headers()
            with suppress(OSError):
                self.wfile.write(sent)

        def do_GET(self) -> None:
            self.do_POST()

        def log_message(self, *_: object) -> None:
            pass

    server = ThreadingHTTPServer(("127.0.0.1", 0), Handler)
    thread = threading.Thread(target=server.serve_forever, daemon=True)
    thread.start()
    try:
        yield f"http://127.0.0.1:{server.server_address[1]}/v1"
    finally:
        server.shutdown()
        server.server_close()


def written(attack: Attack, root: Path, url: str) -> None:
    """Write the attack's workspace."""
    entrants = ENTRANT.format(url=url, stream=str(attack.stream).lower())
    if "judge" in attack.files:
        entrants += JUDGE.format(url=url)
    files = {"dryquarry.toml": "", "entrants.toml": entrants, **attack.files}
    for name, content in files.items():
        path = root / name
        if callable(content):
            content = content()
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_bytes(content if isinstance(content, bytes) else content.encode("utf-8"))
    if attack.prepared is not None:
        if attack.name == "entrants as a pipe":
            (root / "entrants.toml").unlink()
        attack.prepared(root)


def tried(attack: Attack, source: str | None = None) -> Outcome:
    """Carry out one attack in a folder of its own."""
    outside = Path(tempfile.mkdtemp())
    root = outside / attack.folder
    root.mkdir()
    try:
        with serving(attack) as url:
            written(attack, root, url)
            environment = {**os.environ, "TIDE_KEY": KEY, **({"PYTHONPATH": source} if source else {})}
            seconds, peak_mb, code, said = _ended(_command(attack), root, environment)
        said = said.replace(f"{outside}/", "")
        found = [text for text in attack.nowhere if text in said or _stored(root, text)]
        strayed = [path.name for path in outside.iterdir() if path != root]
        held = code in attack.codes and "Traceback" not in said and not found and not strayed
        held = held and seconds <= MOST_S and peak_mb <= MOST_MB and not (root / "owned").exists()
        return Outcome(attack.group, attack.name, held, seconds, peak_mb, code, _message(said, strayed, found))
    finally:
        shutil.rmtree(outside, ignore_errors=True)


def _command(attack: Attack) -> Sequence[str]:
    program = [sys.executable, "-m", "dryquarry", *attack.typed]
    if not attack.shell:
        return program
    before = attack.shell.endswith(";") or "=" in attack.shell
    parts = (attack.shell, shlex.join(program)) if before else (shlex.join(program), attack.shell)
    return ["bash", "-c", " ".join(parts)]


def _ended(command: Sequence[str], root: Path, environment: Mapping[str, str]) -> tuple[float, float, int | None, str]:
    """Run a command; return its seconds of the processor, its most memory in MB, its exit code, and all that it said."""
    said = root.parent / "said"
    with said.open("wb") as out:
        process = subprocess.Popen(
            command, cwd=root, env=dict(environment), stdin=subprocess.DEVNULL, stdout=out, stderr=out,
            start_new_session=True, preexec_fn=lambda: resource.setrlimit(resource.RLIMIT_AS, (_MOST_BYTES, _MOST_BYTES)),
        )  # fmt: skip
    killer = threading.Timer(KILLED_S, lambda: os.killpg(process.pid, signal.SIGKILL))
    killer.start()
    _, status, used = os.wait4(process.pid, 0)
    killer.cancel()
    process.returncode = os.waitstatus_to_exitcode(status)
    text = said.read_bytes().decode("utf-8", "replace")
    said.unlink()
    code = process.returncode if process.returncode >= 0 else None
    return used.ru_utime + used.ru_stime, used.ru_maxrss / 1024, code, text


def _stored(root: Path, text: str) -> bool:
    stored = (
        path for path in root.rglob("*") if ".dryquarry" in path.parts and path.is_file() and not path.is_symlink()
    )
    return any(text.encode() in path.read_bytes() for path in stored)


def _message(said: str, strayed: Sequence[str], found: Sequence[str]) -> str:
    """The error that was told, or else the first line, and what is amiss beside that."""
    lines = [line for line in said.splitlines() if line.strip()]
    told = [line for line in lines if line.startswith(("dryquarry: ", "Error: "))] or lines[:1]
    amiss = [f"wrote {name} beside the workspace" for name in strayed] + ["let out what is secret"] * bool(found)
    return "; ".join([*amiss, (told[0] if told else "")])[:160]


def table(before: Sequence[Mapping[str, Any]], after: Sequence[Mapping[str, Any]]) -> Iterator[str]:
    """Yield the lines of both runs beside each other."""

    def figures(row: Mapping[str, Any]) -> str:
        if row["code"] == 2 and "No such" in row["message"]:
            return "no such command yet"
        code = "ended by force" if row["code"] is None else f"exit {row['code']}"
        return f"{'held' if row['held'] else '**not held**'}, {row['seconds']:.1f} s, {row['peak_mb']:.0f} MB, {code}"

    earlier = {(row["group"], row["name"]): row for row in before}
    yield "| attack | before | after | what is said now |"
    yield "|---|---|---|---|"
    for row in after:
        old = earlier.get((row["group"], row["name"]))
        said = row["message"][:100].replace("|", "\\|").replace("<", "&lt;").replace("`", "'")
        name = f"{row['group']}: {row['name']}".replace("|", "\\|").replace("<", "&lt;")
        yield f"| {name} | {figures(old) if old else '–'} | {figures(row)} | {said} |"


def main() -> None:
    arguments = argparse.ArgumentParser()
    arguments.add_argument("--out", type=Path)
    arguments.add_argument("--source")
    arguments.add_argument("--only", default="")
    arguments.add_argument("--table", nargs=2, type=Path)
    chosen = arguments.parse_args()
    if chosen.table:
        print("\n".join(table(*(json.loads(path.read_text()) for path in chosen.table))))
        return
    outcomes = []
    for attack in attacks():
        if chosen.only in f"{attack.group}: {attack.name}":
            outcome = tried(attack, chosen.source)
            outcomes.append(outcome)
            mark = "held" if outcome.held else "NOT HELD"
            print(
                f"{mark:8} {outcome.seconds:5.1f} s {outcome.peak_mb:5.0f} MB, exit {outcome.code}: {attack.group}: "
                f"{attack.name}: {outcome.message}",
                flush=True,
            )
    held = sum(outcome.held for outcome in outcomes)
    print(
        f"{held} of {len(outcomes)} held; longest {max(one.seconds for one in outcomes) / MOST_S:.2f} of {MOST_S:g} s, "
        f"most memory {max(one.peak_mb for one in outcomes) / MOST_MB:.2f} of {MOST_MB:g} MB"
    )
    if chosen.out:
        chosen.out.write_text(json.dumps([asdict(one) for one in outcomes], indent=1))
    sys.exit(held < len(outcomes))


if __name__ == "__main__":
    main()
