"""Sandboxes by a container of Docker or Podman, from an image that `dryquarry.toml` names: where bubblewrap is not.

A program sees what the image holds, read-only, and its folder, which is in memory; no network, another user id, no
capabilities. The image is never fetched, and the languages are those that it holds; it has to hold bash, tar and
coreutils. What an engine needs in order to start at all on this machine stands in the engine's own settings, never in
a workspace, which may come from somebody else.
"""

from __future__ import annotations

import math
import os
import secrets
import shutil
import subprocess
import tempfile
import threading
import time
from collections.abc import Iterator, Mapping, Sequence
from contextlib import ExitStack, contextmanager
from functools import lru_cache
from itertools import count
from pathlib import Path

from dryquarry.marking.works.jobs import AuthorsTests
from dryquarry.sandbox.box import FOLDER, Start
from dryquarry.sandbox.bubblewrap import OWN_HARNESS, environment_for
from dryquarry.sandbox.languages import HARNESS, Missing, OwnLanguage, Runtime
from dryquarry.sandbox.links import Links, writes_to
from dryquarry.sandbox.processes import begun_of

FIRST_USER_ID = 1000
USER_IDS = 60_000
TRY_TIMEOUT_S = 60
ENGINE_TIMEOUT_S = 20
# before that a program is too young for its memory to be worth the question where it runs
ASK_AFTER_S = 0.3
ENGINE_FAILED = (125, 126, 127)
_numbers = count(os.getpid() * 37)
_APART = (
    *("--rm", "--pull", "never", "--network", "none", "--log-driver", "none", "--read-only", "--cap-drop", "ALL"),
    *(
        "--security-opt",
        "no-new-privileges",
        "--hostname",
        "box",
        "--ulimit",
        "nofile=1024",
        "--ulimit",
        "core=0",
        "--ulimit",
        "nproc=4096",
    ),
)
# ulimit sets soft and hard limits, so that the program cannot raise them again
_LIMITED = ('ulimit -u "$1" -f "$2" -t "$3"', '[ "$4" = 0 ] || ulimit -v "$4"', "shift 4", "cp -r /given/. .")


class Container:
    """Programs kept apart by a container engine."""

    of_this_machine = False

    def __init__(self, program: str, image: str):
        self.program = program
        self.image = image
        self.name = f"{Path(program).name} with {image}"
        self.stopping = threading.Event()
        self._has_pytest: bool | None = None
        self._runtimes: dict[str, Runtime | Missing] = {}
        self._running: dict[int, _Place] = {}

    @contextmanager
    def started(self, start: Start) -> Iterator[subprocess.Popen[bytes]]:
        """Give the process of the engine that runs a program in a container of its own."""
        name = f"dryquarry-{secrets.token_hex(8)}"
        with ExitStack() as stack:
            # 0700: others on this machine reach nothing of what lies below, while the engine mounts it
            folder = Path(stack.enter_context(tempfile.TemporaryDirectory(prefix="dryquarry-")))
            _lay_out(folder / "given", start)
            links = stack.enter_context(Links(folder / "links", start.links))
            streams = start.terminal if start.terminal is not None else subprocess.PIPE
            process = subprocess.Popen(
                [self.program, "run", "--name", name, *_arguments(start, folder), self.image, *_limited(start)],
                stdin=streams,
                stdout=streams,
                stderr=streams,
                cwd=folder,  # an engine may leave files of its own where it was started
                start_new_session=True,
            )
            self._running[process.pid] = _Place(name)
            try:
                yield process
            finally:
                self._end(name, process)
                links.end()

    def root_of(self, process: subprocess.Popen[bytes]) -> int | None:
        """Return the process below which the program's own are, as this machine numbers them, once that is known."""
        place = self._running.get(process.pid)
        if place is None:
            return None
        if place.pid == 0 and (now := time.monotonic()) >= place.ask_at:
            said = self._engine("inspect", "--format", "{{.State.Pid}}", place.name)
            place.found(int(said) if said.isdigit() else 0)
            place.ask_at = time.monotonic() + (now - place.begun)  # twice as late each time
        return place.pid or None

    def own_seconds(self, process: subprocess.Popen[bytes], since: float) -> float:
        """Return how many seconds since a time the engine took to begin and to end a container, so many at most."""
        place = self._running.get(process.pid)
        if place is None:
            return 0.0
        self.root_of(process)
        return min(place.away_s(since), ENGINE_TIMEOUT_S)

    def could_not(self, exit_code: int | None, err: bytes) -> bool:
        """Tell whether it looks as if the container could not be made, by the exit codes that engines agree on."""
        return exit_code in ENGINE_FAILED and b"rror" in err

    def runtime(self, language: str, own: Mapping[str, OwnLanguage]) -> Runtime | Missing:
        """Return how a language is run in the image, or what it lacks."""
        if language not in self._runtimes:
            from dryquarry.sandbox.images import runtime_in

            self._runtimes[language] = runtime_in(self, self.image, language, own)
        return self._runtimes[language]

    def lacking_for(self, tests: AuthorsTests | None) -> str | None:
        """Return what the image lacks for the author's own tests, or None."""
        from dryquarry.sandbox.authors_tests import run_by_pytest
        from dryquarry.sandbox.images import lacks_pytest

        python = self.runtime("python", {}) if tests is not None else None
        if isinstance(python, Missing):
            return python.said
        if tests is None or not run_by_pytest(tests):
            return None
        if self._has_pytest is None:
            self._has_pytest = not lacks_pytest(self)
        return None if self._has_pytest else f"the image {self.image} has no pytest, which runs the author's tests"

    def _end(self, name: str, process: subprocess.Popen[bytes]) -> None:
        """End the container with all that runs in it; the engine's own process is not what it runs in."""
        if process.poll() is None or process.returncode < 0:
            process.kill()
            # `rm --force` alone would first ask it to end, and wait
            self._engine("kill", name)
            self._engine("rm", "--force", name)
        process.wait()
        del self._running[process.pid]
        for stream in (process.stdin, process.stdout, process.stderr):
            if stream is not None:
                stream.close()

    def _engine(self, *arguments: str) -> str:
        """Return what the engine says to a command, nothing where it fails."""
        try:
            done = subprocess.run(
                (self.program, *arguments), capture_output=True, timeout=ENGINE_TIMEOUT_S, stdin=subprocess.DEVNULL
            )
        except (OSError, subprocess.TimeoutExpired):
            return ""
        return done.stdout.decode("utf-8", "replace").strip() if done.returncode == 0 else ""


class _Place:
    """A container that runs: its name, when it was begun, its first process, and when next to ask for that.

    On a busy machine a container takes seconds to begin, and till then its engine says 0, or nothing.
    """

    def __init__(self, name: str):
        self.name = name
        self.begun = time.monotonic()
        self.ask_at = self.begun + ASK_AFTER_S
        self.pid = 0
        self.program_begun: float | None = None

    def found(self, pid: int) -> None:
        """Take in its first process, 0 while there is none."""
        self.pid = pid
        self.program_begun = begun_of(pid) if pid else None

    def away_s(self, since: float) -> float:
        """Return how many seconds since a time no process of it was there, more than any where it has ended."""
        if self.pid == 0:
            return time.monotonic() - since
        if self.program_begun is None:
            return 0.0  # an engine whose processes this machine does not list
        if begun_of(self.pid) is None:
            return math.inf
        return max(0.0, self.program_begun - since)


def _lay_out(folder: Path, start: Start) -> None:
    """Write the files that a program finds; they are copied into its own folder inside."""
    folder.mkdir()
    for path, given in start.files.items():
        place = folder / path
        place.parent.mkdir(parents=True, exist_ok=True)
        place.write_bytes(given.content)
        place.chmod(0o777 if given.executable else 0o666)
    for one in (folder, *(path for path in folder.rglob("*") if path.is_dir())):
        one.chmod(0o755)


def _arguments(start: Start, folder: Path) -> list[str]:
    """Return the engine's arguments that part a program from everything else, and give it what it is to have."""
    user, limits = FIRST_USER_ID + next(_numbers) % USER_IDS, start.limits
    made = [*_APART, "--user", f"{user}:{user}", "--pids-limit", str(limits.processes + 8)]
    # above what is measured, so that the kernel ends only what grew faster than anybody looks
    most_memory = f"{limits.memory_mb + 256}m"
    made += ["--memory", most_memory, "--memory-swap", most_memory, "--interactive"]
    made += ["--tty"] if start.terminal is not None else []
    for path in ("/tmp", FOLDER):
        made += ["--tmpfs", f"{path}:rw,exec,nosuid,nodev,size={limits.disk_mb}m,mode=1777"]
    made += ["--workdir", FOLDER]
    mounts = {str(folder / "given"): "/given", str(folder / "links"): "/links", str(OWN_HARNESS): HARNESS}
    for outside, inside in mounts.items():
        made += ["--volume", f"{outside}:{inside}:ro"]
    for outside, inside in start.binds.items():
        made += ["--volume", f"{outside}:{inside}"]
    for name, value in environment_for(start).items():
        made += ["--env", f"{name}={value}"]
    return made


def _limited(start: Start) -> list[str]:
    """Return the command inside: limits, files, links, then the program; what it leaves is sent out afterwards.

    A program that outlives the tool itself is ended from inside. It is not the first process of its container, for
    whom many signals do not count.
    """
    limits = start.limits
    numbers = (
        limits.processes,
        limits.disk_mb * 1024,  # in blocks of 1,024 bytes, as bash counts them
        int(limits.seconds) + 2,
        (limits.memory_mb + 256) * 1024 if start.address_limit else 0,
    )
    script = [f"exec {one}{'>' if writes_to(one) else '<'}/links/{one}" for one in start.links]
    kept, count = (f"{start.links[-1]}>&-", len(start.keeps)) if start.keeps else ("", 0)
    # bash would say beside the program's own words that a signal ended it
    script += ["exec {err}>&2 2>/dev/null"]
    alive = f"timeout --foreground -s KILL {int(limits.seconds) + 10}"
    script += [f'{alive} "${{@:{count + 1}}}" {kept} 2>&$err {{err}}>&-; code=$?']
    if start.keeps:
        script += [f'tar -c -f - --ignore-failed-read -- "${{@:1:{count}}}" >&{start.links[-1]}']
    said = "; ".join((*_LIMITED, *script, "exit $code"))
    return ["/bin/bash", "-c", said, "bash", *map(str, numbers), *start.keeps, *start.command]


@lru_cache
def found(engine: str, image: str) -> Container | str:
    """Return containers of an image where they can be made on this machine, or why not and what to do."""
    program = shutil.which(engine)
    if program is None:
        return f"{engine}, which dryquarry.toml names, is not installed"
    box = Container(program, image)
    try:
        with box.started(Start(("true",))) as process:
            _, err = process.communicate(timeout=TRY_TIMEOUT_S)
    except (OSError, subprocess.TimeoutExpired) as error:
        return f"{engine} does not work here: {error}"
    if process.returncode != 0:
        said = _last_line(err.decode("utf-8", "replace").splitlines())
        return f"{engine} cannot make a container of {image} here: {said}"
    return box


def _last_line(lines: Sequence[str]) -> str:
    return next((line.strip()[:200] for line in reversed(lines) if line.strip()), "it says nothing")
