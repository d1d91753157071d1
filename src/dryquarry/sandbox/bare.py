"""Programs run as the user runs any, in a folder of their own: no sandbox.

Only for a machine whose person asked for it by name in `dryquarry.toml`. A program can then read and change what the
user can, and reach the network; its time, memory, output and processes are still limited.
"""

from __future__ import annotations

import os
import signal
import subprocess
import tempfile
import threading
from collections.abc import Iterator, Mapping
from contextlib import contextmanager, suppress
from dataclasses import replace
from pathlib import Path

from dryquarry.sandbox.box import Start
from dryquarry.sandbox.bubblewrap import OWN_HARNESS, environment_for, limited
from dryquarry.sandbox.languages import HARNESS, Missing, OwnLanguage, Runtime, runtime_of


class Bare:
    """Programs that are not kept apart at all."""

    name = "no sandbox"
    of_this_machine = True

    def __init__(self) -> None:
        self.stopping = threading.Event()

    @contextmanager
    def started(self, start: Start) -> Iterator[subprocess.Popen[bytes]]:
        """Give the process of a program started in a new folder, which is gone afterwards."""
        with tempfile.TemporaryDirectory(prefix="dryquarry-") as folder:
            for path, given in start.files.items():
                place = Path(folder, path)
                place.parent.mkdir(parents=True, exist_ok=True)
                place.write_bytes(given.content)
                place.chmod(0o755 if given.executable else 0o644)
            command = [part.replace(HARNESS, str(OWN_HARNESS)) for part in start.command]
            # what this user runs beside it counts as processes, too
            limits = replace(start.limits, processes=start.limits.processes + 4096)
            environment = environment_for(start) | {"HOME": folder}
            streams = start.terminal if start.terminal is not None else subprocess.PIPE
            process = subprocess.Popen(
                limited(replace(start, command=tuple(command), limits=limits)),
                stdin=streams,
                stdout=streams,
                stderr=streams,
                pass_fds=start.links,
                env={name: value.replace(HARNESS, str(OWN_HARNESS)) for name, value in environment.items()},
                cwd=folder,
                start_new_session=True,
            )
            try:
                yield process
            finally:
                with suppress(ProcessLookupError, PermissionError):
                    os.killpg(process.pid, signal.SIGKILL)
                process.wait()
                for stream in (process.stdin, process.stdout, process.stderr):
                    if stream is not None:
                        stream.close()

    def root_of(self, process: subprocess.Popen[bytes]) -> int | None:
        """Return the process itself."""
        return process.pid

    def own_seconds(self, process: subprocess.Popen[bytes], since: float) -> float:
        """Return 0: nothing stands before the program."""
        return 0.0

    def could_not(self, exit_code: int | None, err: bytes) -> bool:
        """Tell that there is no box that could fail."""
        return False

    def runtime(self, language: str, own: Mapping[str, OwnLanguage]) -> Runtime | Missing:
        """Return how a language of this machine is run."""
        return runtime_of(language, own)
