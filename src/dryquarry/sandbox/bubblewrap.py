"""Sandboxes by bubblewrap: namespaces of their own, a file system of their own in memory, no network.

A program sees /usr (read-only), what its language is installed in (read-only), a /proc of its own processes only, a few
devices, and its folder, which is in memory and as large as it may be. It has another user id, no capabilities, and an
environment of ten lines. Where the tool is run by root the program gets a real other user id; else a user namespace
has it appear as another, and what it may do to files is what the user may, of whom it sees none.
"""

from __future__ import annotations

import os
import shlex
import shutil
import subprocess
import threading
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import ExitStack, contextmanager
from functools import lru_cache
from itertools import count
from pathlib import Path

from dryquarry.sandbox.box import FOLDER, Start
from dryquarry.sandbox.languages import HARNESS, Missing, OwnLanguage, Runtime, runtime_of

FIRST_USER_ID = 200_000
USER_IDS = 100_000
OWN_HARNESS = Path(__file__).parent / "harness"
TRY_TIMEOUT_S = 10
_FROM_OUTSIDE = ("/etc/alternatives", "/etc/ld.so.cache", "/etc/fonts", "/etc/ssl/openssl.cnf")
_LINKS = ("bin", "sbin", "lib", "lib32", "lib64", "libx32")
_PASSWD = b"root:x:0:0::/:/bin/false\nreply:x:%d:%d::/home/reply:/bin/sh\n"
_LIMITED = 'ulimit -c 0; ulimit -p "$1"; ulimit -f "$2"; ulimit -t "$3"; [ "$4" = 0 ] || ulimit -v "$4"; shift 4; '
_numbers = count(os.getpid() * 37)


class Bubblewrap:
    """Programs kept apart by bubblewrap."""

    name = "bubblewrap"
    of_this_machine = True

    def __init__(self, program: str):
        self.program = program
        self.stopping = threading.Event()

    @contextmanager
    def started(self, start: Start) -> Iterator[subprocess.Popen[bytes]]:
        """Give the process of a program started in a sandbox of its own."""
        user_id = FIRST_USER_ID + next(_numbers) % USER_IDS
        with ExitStack() as stack:
            handed: list[int] = []

            def placed(content: bytes, mode: str, path: str) -> list[str]:
                return ["--perms", mode, "--file", str(_descriptor(content, stack, handed)), path]

            arguments = [*_apart(user_id), *_file_system(start, user_id, placed)]
            # not on the command line, where the program could read the paths of this machine
            said = _descriptor("\0".join([*arguments, ""]).encode("utf-8", "surrogateescape"), stack, handed)
            command = [self.program, "--args", str(said), "--", *_as_other(user_id), *limited(start)]
            in_terminal = start.terminal is not None
            streams = start.terminal if in_terminal else subprocess.PIPE
            process = subprocess.Popen(
                command,
                stdin=streams,
                stdout=streams,
                stderr=streams,
                pass_fds=(*handed, *start.links),
                env={},
                cwd="/",
                start_new_session=not in_terminal,
                **({"preexec_fn": _take_terminal} if in_terminal else {}),  # type: ignore[call-overload]
            )
            stack.pop_all().close()
            try:
                yield process
            finally:
                process.kill()
                process.wait()
                for stream in (process.stdin, process.stdout, process.stderr):
                    if stream is not None:
                        stream.close()

    def root_of(self, process: subprocess.Popen[bytes]) -> int | None:
        """Return the process itself."""
        return process.pid

    def own_seconds(self, process: subprocess.Popen[bytes], since: float) -> float:
        """Return 0: what stands before the program is too short to count."""
        return 0.0

    def could_not(self, exit_code: int | None, err: bytes) -> bool:
        """Tell whether bubblewrap itself says why it ended."""
        return exit_code == 1 and err.startswith(b"bwrap: ")

    def runtime(self, language: str, own: Mapping[str, OwnLanguage]) -> Runtime | Missing:
        """Return how a language of this machine is run."""
        return runtime_of(language, own)

    def launcher(self, start: Start, folder: Path) -> Path:
        """Return a script, written into a folder, that starts a command in a sandbox, its arguments after it.

        For programs that something else has to start; its descriptors are handed on, and its number is in `pid`.
        """
        user_id = FIRST_USER_ID + next(_numbers) % USER_IDS

        def placed(content: bytes, mode: str, path: str) -> list[str]:
            given = folder / f"given-{len(list(folder.iterdir()))}"
            given.write_bytes(content)
            given.chmod(int(mode, 8))
            return ["--ro-bind", str(given), path]

        command = [self.program, *_apart(user_id), *_file_system(start, user_id, placed), "--", *_as_other(user_id)]
        script = folder / "launch"
        said = shlex.join([*command, *limited(start)])
        script.write_text(f'#!/bin/sh\necho $$ > {shlex.quote(str(folder / "pid"))}\nexec {said} "$@"\n', "utf-8")
        script.chmod(0o755)
        return script


Placed = Callable[[bytes, str, str], list[str]]


def _file_system(start: Start, user_id: int, placed: Placed) -> list[str]:
    """Return the arguments that make up what the program sees; `placed` gives those for a file's content."""
    made = list(_same_for_all(start.sees, start.hides, start.limits.disk_mb))
    for outside, inside in start.binds.items():
        made += ["--bind", outside, inside]
    files = {"/etc/passwd": (_PASSWD % (user_id, user_id), "0444")}
    for path, given in start.files.items():
        files[f"{FOLDER}/{path}"] = given.content, "0777" if given.executable else "0666"
    for folder in sorted({parent for path in start.files for parent in Path(path).parents} - {Path(".")}):
        made += ["--perms", "0777", "--dir", f"{FOLDER}/{folder}"]
    for path, (content, mode) in files.items():
        made += placed(content, mode, path)
    made += ["--remount-ro", "/", "--remount-ro", "/dev", "--chdir", FOLDER]
    for name, value in environment_for(start).items():
        made += ["--setenv", name, value]
    return made


@lru_cache
def _same_for_all(sees: tuple[str, ...], hides: tuple[str, ...], disk_mb: int) -> tuple[str, ...]:
    """Return the arguments for all but a program's own files: the system, its language, and places in memory."""
    made = ["--ro-bind", "/usr", "/usr"]
    for name in _LINKS:
        place = Path("/", name)
        if place.is_symlink():
            made += ["--symlink", os.readlink(place), str(place)]
        elif place.is_dir():
            made += ["--ro-bind", str(place), str(place)]
    made += ["--ro-bind", str(OWN_HARNESS), HARNESS, "--proc", "/proc", "--dev", "/dev"]
    seen = [path for path in (*_FROM_OUTSIDE, *sees) if os.path.exists(path)]
    made += _folders(["/tmp", "/dev/shm", FOLDER])
    made += [one for path in ("/dev/shm", "/tmp", FOLDER) for one in _in_memory(path, disk_mb)]
    # after the places in memory, for what a language is installed in may lie below one of them
    made += _folders(seen)
    for path in seen:
        made += ["--ro-bind", path, path]
    for path in hides:
        made += ["--tmpfs", path]
    return tuple(made)


def _folders(paths: Sequence[str]) -> list[str]:
    """Return the arguments that make the folders in which paths lie, for everybody to pass through."""
    parents = (parent for path in paths for parent in reversed(Path(path).parents[:-1]))
    return [one for folder in dict.fromkeys(map(str, parents)) for one in ("--perms", "0755", "--dir", folder)]


def _apart(user_id: int) -> list[str]:
    """Return the arguments that part the program from everything else."""
    own = [
        "--unshare-pid",
        "--unshare-net",
        "--unshare-ipc",
        "--unshare-uts",
        "--unshare-cgroup-try",
        "--hostname",
        "box",
    ]
    own += ["--die-with-parent", "--clearenv"]
    if os.geteuid() == 0:
        return [*own, "--cap-drop", "ALL", "--cap-add", "CAP_SETUID", "--cap-add", "CAP_SETGID"]
    return [*own, "--unshare-user", "--uid", str(user_id), "--gid", str(user_id), "--cap-drop", "ALL"]


def _as_other(user_id: int) -> list[str]:
    """Return the command that goes on as another user, without a way back; needed for root alone."""
    if os.geteuid() != 0:
        return []
    own = str(user_id)
    without = ("--clear-groups", "--no-new-privs", "--bounding-set=-all", "--inh-caps=-all")
    return ["/usr/bin/setpriv", "--reuid", own, "--regid", own, *without, "--"]


def limited(start: Start) -> list[str]:
    """Return the command with its limits set, and what it leaves sent out where that is wanted."""
    limits = start.limits
    numbers = (
        limits.processes,
        limits.disk_mb * 2048,  # in blocks of 512 bytes
        int(limits.seconds) + 2,
        (limits.memory_mb + 256) * 1024 if start.address_limit else 0,
    )
    command = [*_dated(start.dated), *start.command]
    if start.keeps:
        # the last of the links takes them; the program itself does not get it
        link, count = start.links[-1], len(start.keeps)
        archive = f'tar -c -f - --ignore-failed-read -- "${{@:1:{count}}}" 2>/dev/null >&{link}'
        then = f'"${{@:{count + 1}}}" {link}>&-; code=$?; {archive}; exit $code'
        command = ["/bin/bash", "-c", then, "bash", *start.keeps, *command]
    return ["/bin/sh", "-c", f'{_LIMITED} exec "$@"', "sh", *map(str, numbers), *command]


def _in_memory(path: str, most_mb: int) -> list[str]:
    return ["--perms", "0777", "--size", str(most_mb * 1024 * 1024), "--tmpfs", path]


def _descriptor(content: bytes, stack: ExitStack, handed: list[int]) -> int:
    """Return a descriptor from which bubblewrap reads a file, open until the program is started."""
    number = os.memfd_create("given", 0)
    stack.callback(os.close, number)
    with os.fdopen(os.dup(number), "wb") as file:
        file.write(content)
    os.lseek(number, 0, os.SEEK_SET)
    handed.append(number)
    return number


def _take_terminal() -> None:
    """Make the terminal on standard input the one that controls the program, as a login does."""
    import fcntl
    import termios

    os.setsid()
    fcntl.ioctl(0, termios.TIOCSCTTY, 0)


@lru_cache
def found() -> Bubblewrap | str:
    """Return bubblewrap where it works on this machine, or why it does not and what to do."""
    program = shutil.which("bwrap")
    if program is None:
        return "bubblewrap is not installed (Debian's package bubblewrap, the program bwrap)"
    box = Bubblewrap(program)
    try:
        with box.started(Start(("/bin/true",))) as process:
            _, err = process.communicate(timeout=TRY_TIMEOUT_S)
    except (OSError, subprocess.TimeoutExpired) as error:
        return f"bubblewrap does not work here: {error}"
    if process.returncode != 0:
        return f"bubblewrap cannot make a sandbox here: {err.decode('utf-8', 'replace').strip()[:200]}"
    return box


def environment_for(start: Start) -> dict[str, str]:
    """Return the environment of a program: ten lines, the same on every machine, and what its start adds."""
    return {
        "PATH": "/usr/local/bin:/usr/bin:/bin",
        "HOME": FOLDER,
        "TMPDIR": "/tmp",
        "LANG": "C.UTF-8",
        "LC_ALL": "C.UTF-8",
        "TZ": "UTC",
        "TERM": "dumb",
        "PYTHONHASHSEED": "0",
        "PYTHONDONTWRITEBYTECODE": "1",
        "PYTHONIOENCODING": "utf-8",
        **start.environment,
    }


def _dated(day: str | None) -> list[str]:
    """Return the command that makes what follows believe that it is noon of a day; its clock goes on from there.

    The program alone: what starts it still has another user id, whose traces the library would not let be.
    """
    library = faketime_library()
    if day is None or library is None:
        return []
    return ["/usr/bin/env", f"LD_PRELOAD={library}", f"FAKETIME=@{day} 12:00:00"]


@lru_cache
def faketime_library() -> str | None:
    """Return the library that gives programs another date (Debian's package faketime), or None."""
    places = ("/usr/lib", "/usr/local/lib")
    found = (path for place in places for path in sorted(Path(place).glob("**/faketime/libfaketime.so.1")))
    return next(map(str, found), None)
