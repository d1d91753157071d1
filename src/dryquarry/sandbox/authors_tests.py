"""The author's own tests of a program: they run in one sandbox, the program in another.

A program that shared a process, or even a sandbox, with its tests could end them early with a good exit code, change
them, or write their report. Here it only answers: as a module whose functions are called through a pair of pipes, or
as a command that is started in a sandbox of its own each time.
"""

from __future__ import annotations

import base64
import json
import os
import re
import socket
import tempfile
import threading
from collections.abc import Iterator
from contextlib import ExitStack, contextmanager
from dataclasses import replace
from pathlib import Path

from dryquarry.marking.works.jobs import AuthorsTests
from dryquarry.marking.works.results import Ended, Ran
from dryquarry.sandbox.box import Box, Came, GivenFile, Start
from dryquarry.sandbox.languages import HARNESS, Runtime
from dryquarry.sandbox.programs import Ready, ran_from
from dryquarry.sandbox.running import Running, run

DOOR = "/door"
_DOOR_MODULE = (
    'import sys\nsys.path.insert(0, "{harness}")\n'
    'if __name__ == "__main__":\n    import program_start\n'
    "else:\n    import program_door\n    program_door.opened(__name__)\n"
)
_COMMAND = '#!/bin/sh\nexec {python} -s {harness}/program_start.py "$@"\n'
_BY_PYTEST = re.compile(r"^\s*(?:async )?def test|^class Test", re.MULTILINE)
_ADDRESS = re.compile(r"0x[0-9a-f]{6,}")
MOST_REPORT_BYTES = 4_000_000
LAST_LINES = 3


def run_authors_tests(box: Box, ready: Ready) -> list[Ran]:
    """Return what came of each of the author's tests."""
    tests = ready.job.test_file
    python = box.runtime("python", {})
    assert tests is not None
    assert isinstance(python, Runtime)
    by_pytest = run_by_pytest(tests)
    with ExitStack() as stack:
        environment = {"HARNESS": HARNESS}
        links: list[int] = []
        if ready.runtime.servant:
            come, go = stack.enter_context(_program_beside(box, ready))
            environment |= {"DOOR_IN": str(come), "DOOR_OUT": str(go)}
            environment |= {} if ready.job.language == "python" else {"DOOR_KIND": "calls"}
            links += [come, go]
        report_in, report_out = os.pipe()
        stack.callback(os.close, report_in)
        folder = stack.enter_context(_command_beside(box, ready))
        links += [report_out] if by_pytest else []
        start = replace(_start(box, ready, python, by_pytest), links=tuple(links), binds={folder: DOOR})
        start = replace(start, environment={**environment, "REPORT_OUT": str(report_out), **start.environment})
        with box.started(start) as process:
            os.close(report_out)
            for number in links[:2] if ready.runtime.servant else ():
                os.close(number)
            running = Running(box, process, start.limits)
            try:
                report = running.take_in(report_in, MOST_REPORT_BYTES)
                running.pump(lambda: False, ready.job.limits.seconds)
                came = running.came()
            finally:
                running.close()
    return _reported(bytes(report), came, tests.path) if by_pytest else [_by_exit_code(came, tests.path)]


def run_by_pytest(tests: AuthorsTests) -> bool:
    """Tell whether a file of tests is for pytest to run, rather than a script whose exit code tells."""
    return tests.path.endswith(".py") and _BY_PYTEST.search(tests.text) is not None


def _start(box: Box, ready: Ready, python: Runtime, by_pytest: bool) -> Start:
    """Return how the tests are started: with what they may read, and what stands for the program."""
    tests = ready.job.test_file
    assert tests is not None
    module = _DOOR_MODULE.format(harness=HARNESS).encode("ascii")
    modules = {Path(one.path).stem for one in ready.job.work.files if one.path.endswith(".py") and "/" not in one.path}
    files = {f"{name}.py": GivenFile(module) for name in {"program", *modules} if name.isidentifier()}
    command = _COMMAND.format(python=python.command[0], harness=HARNESS).encode("ascii")
    files |= {"program": GivenFile(command, executable=True), tests.path: GivenFile(tests.text.encode("utf-8"))}
    limits = replace(ready.job.limits, memory_mb=ready.job.limits.memory_mb + 256)
    if not by_pytest:
        interpreter = python.command if tests.path.endswith(".py") else ("/bin/sh",)
        return Start((*interpreter, tests.path), files=files, sees=python.sees, hides=python.hides, limits=limits)
    packages = (_pytest_folder(),) if box.of_this_machine else ()
    environment = {"PYTHONPATH": ":".join((HARNESS, *packages)), "PYTEST_DISABLE_PLUGIN_AUTOLOAD": "1"}
    options = (
        "-q",
        "-p",
        "no:cacheprovider",
        "-p",
        "program_report",
        "--tb=line",
        "--rootdir=.",
        "--import-mode=prepend",
    )
    hides = tuple(one for one in python.hides if not any(path.startswith(one) for path in packages))
    return Start(
        (*python.command, "-m", "pytest", *options, tests.path),
        files=files,
        sees=(*python.sees, *packages),
        hides=hides,
        environment=environment,
        limits=limits,
    )


def _pytest_folder() -> str:
    import importlib.util

    found = importlib.util.find_spec("pytest")
    assert found is not None  # the tool depends on it
    assert found.origin is not None
    return str(Path(found.origin).parent.parent)


@contextmanager
def _program_beside(box: Box, ready: Ready) -> Iterator[tuple[int, int]]:
    """Give the ends of the pipes to a program in a sandbox of its own, which somebody watches meanwhile."""
    wish_in, wish_out = os.pipe()
    answer_in, answer_out = os.pipe()
    command = (*ready.runtime.servant, str(wish_in), str(answer_out), ready.job.work.main, "remote")
    try:
        process_context = box.started(ready.start(command, {}, links=(wish_in, answer_out)))
        process = process_context.__enter__()
    finally:
        os.close(wish_in)
        os.close(answer_out)
    over = threading.Event()
    running = Running(box, process, ready.job.limits)
    watching = threading.Thread(target=lambda: running.pump(over.is_set, ready.job.limits.seconds + 5), daemon=True)
    watching.start()
    try:
        yield answer_in, wish_out
    finally:
        over.set()
        watching.join(timeout=5)
        running.end(Ended.DONE)
        running.close()
        process_context.__exit__(None, None, None)


@contextmanager
def _command_beside(box: Box, ready: Ready) -> Iterator[str]:
    """Give a folder with the door through which the tests have the program started."""
    with tempfile.TemporaryDirectory(prefix="dryquarry-") as folder, socket.socket(socket.AF_UNIX) as door:
        path = os.path.join(folder, "program")
        door.bind(path)
        os.chmod(folder, 0o711)
        os.chmod(path, 0o777)
        door.listen(8)
        answering = threading.Thread(target=_answer_all, args=(box, ready, door), daemon=True)
        answering.start()
        try:
            yield folder
        finally:
            door.shutdown(socket.SHUT_RDWR)
            answering.join(timeout=ready.job.limits.seconds + 5)


def _answer_all(box: Box, ready: Ready, door: socket.socket) -> None:
    """Start the program for each who comes to the door, one after the other."""
    while True:
        try:
            one, _ = door.accept()
        except OSError:
            return
        with one, one.makefile("rwb") as both:
            try:
                wish = json.loads(both.readline(50_000_000))
                both.write(json.dumps(_started_once(box, ready, wish)).encode("utf-8") + b"\n")
                both.flush()
            except (ValueError, KeyError, OSError):
                continue


def _started_once(box: Box, ready: Ready, wish: dict[str, object]) -> dict[str, object]:
    given = wish["files"] if isinstance(wish["files"], dict) else {}
    tests = ready.job.test_file
    # neither the tests, which a program must not see, nor what stands for it there
    hidden = {"program", "program.py", tests.path if tests is not None else "", *ready.files}
    names = [str(name) for name in given if "/" not in str(name) and str(name) not in hidden]
    files = {name: GivenFile(base64.b64decode(given[name])) for name in names}
    arguments = [str(one) for one in wish["args"]] if isinstance(wish["args"], list) else []
    start = ready.start(
        (*ready.command, *arguments), files, input=base64.b64decode(str(wish["input"])), keeps=tuple(files)
    )
    came = run(box, start)
    changed = {name: content for name, content in came.files.items() if content != files[name].content}
    code = came.exit_code if came.ended is Ended.DONE and came.exit_code is not None else 124
    encoded = {name: base64.b64encode(content).decode("ascii") for name, content in changed.items()}
    out, err = (base64.b64encode(stream).decode("ascii") for stream in (came.out, came.err))
    return {"out": out, "err": err, "code": code, "files": encoded}


def _reported(report: bytes, came: Came, path: str) -> list[Ran]:
    """Return pytest's own report, one run a test; those that it did not come to were not run."""
    found: dict[str, Ran] = {}
    collected: list[str] = []
    for line in report.decode("utf-8", "replace").splitlines():
        try:
            said = json.loads(line)
        except ValueError:
            continue  # cut off in the middle
        collected += said.get("all", [])
        if "skipped" in said:
            collected.remove(said["skipped"])
        elif "name" in said and (said["name"] not in found or not said["ok"]):
            ended = Ended.DONE if said["ok"] else Ended.RAISED
            detail = _ADDRESS.sub("0x…", said["said"])  # another each time
            found[said["name"]] = Ran(said["name"], ended, detail=detail, seconds=said["seconds"])
    found |= {
        name: Ran(name, Ended.NOT_RUN, detail=f"{path} ended: {came.ended}") for name in collected if name not in found
    }
    ran = list(found.values())
    good = came.ended is Ended.DONE and came.exit_code in (0, 1)
    if not ran or (not good and all(one.ended is Ended.DONE for one in ran)):
        ran.append(_by_exit_code(came, path))
    if came.ended is Ended.TIME:
        ran = [replace(one, ended=Ended.TIME, detail="") if one.ended is Ended.NOT_RUN else one for one in ran]
    ran[0] = replace(ran[0], out=came.out_text, err=came.err_text, memory_mb=came.memory_mb)
    return ran


def _by_exit_code(came: Came, path: str) -> Ran:
    """Return a file of tests as one test, which its exit code decides."""
    lines = [line for line in came.err_text.splitlines() if line.strip()] or came.out_text.splitlines()
    ended = came.ended if came.ended is not Ended.DONE or came.exit_code == 0 else Ended.RAISED
    detail = "" if ended is Ended.DONE else f"exit code {came.exit_code}: {' / '.join(lines[-LAST_LINES:])}"[:600]
    return replace(ran_from(path, came), ended=ended, detail=detail)
