"""Programs put through their tests: calls of their functions, sessions, and the author's own file of tests."""

from __future__ import annotations

import json
import os
import secrets
import time
from collections.abc import Callable, Iterator, Mapping, Sequence
from contextlib import contextmanager
from dataclasses import dataclass, replace
from typing import Any

from dryquarry.marking.works.jobs import Call, ProgramJob, Session
from dryquarry.marking.works.results import Ended, Ran, RunResult
from dryquarry.marking.works.values import TooStrange, checked
from dryquarry.sandbox.box import Box, Came, GivenFile, Start, as_text
from dryquarry.sandbox.languages import BUILT, Runtime
from dryquarry.sandbox.running import Running, check_box, run

BUILD_SECONDS = 60
LONGEST_DETAIL = 600


@dataclass(frozen=True, slots=True)
class Ready:
    """A program ready to be started, again and again: its files, and the command that starts it."""

    job: ProgramJob
    runtime: Runtime
    files: Mapping[str, GivenFile]
    command: tuple[str, ...]

    def start(self, command: Sequence[str], files: Mapping[str, GivenFile], **more: Any) -> Start:
        """Return how a command is started beside the program's files, above which those given here stand."""
        return Start(
            tuple(command),
            files={**self.files, **files},
            sees=self.runtime.sees,
            hides=self.runtime.hides,
            dated=self.job.date,
            limits=self.job.limits,
            address_limit=self.runtime.address_limit,
            **more,
        )


def run_program(box: Box, job: ProgramJob, runtime: Runtime) -> RunResult:
    """Return what came of all the tests of a program; after one that did not end in time no other is run."""
    from dryquarry.sandbox.authors_tests import run_authors_tests
    from dryquarry.sandbox.screens import on_screen

    ready = made_ready(box, job, runtime)
    if isinstance(ready, str):
        return RunResult(runtime.version, build=ready)
    images: dict[str, bytes] = {}
    steps: list[Callable[[], list[Ran]]] = [lambda: _calls(box, ready)] if job.calls else []
    steps += [lambda session=session: [_session(box, ready, session)] for session in job.sessions]  # type: ignore[misc]
    steps += [lambda screen=screen: on_screen(box, ready, screen, images) for screen in job.screens]  # type: ignore[misc]
    if job.test_file is not None:
        steps.append(lambda: run_authors_tests(box, ready))
    ran: list[Ran] = []
    for step in steps:
        late = next((one.name for one in ran if one.ended is Ended.TIME), None)
        if late is not None:
            break
        ran += step()
    late = next((one.name for one in ran if one.ended is Ended.TIME), None)
    done = {one.name for one in ran}
    names = [one.name for one in job.calls] + [one.name for one in job.sessions]
    names += [step.name for one in job.screens for step in one.steps]
    ran += [Ran(name, Ended.NOT_RUN, detail=f"for '{late}' did not end") for name in names if name not in done]
    return RunResult(
        runtime.version,
        tuple(ran),
        seconds=round(sum(one.seconds for one in ran), 3),
        memory_mb=max((one.memory_mb for one in ran), default=0.0),
        images=images,
    )


def made_ready(box: Box, job: ProgramJob, runtime: Runtime) -> Ready | str:
    """Return a program ready to be started, or what its compiler says against it."""
    files = {one.path: GivenFile(one.text.encode("utf-8", "replace")) for one in job.work.files}
    if not runtime.build:
        return Ready(job, runtime, files, (*runtime.command, job.work.main))
    suffix = "." + job.work.main.rpartition(".")[2]
    sources = [one.path for one in job.work.files if one.path.endswith(suffix)] or [job.work.main]
    limits = replace(job.limits, seconds=BUILD_SECONDS, memory_mb=max(1024, job.limits.memory_mb))
    start = Start(
        (*runtime.build, *sources), files=files, sees=runtime.sees, limits=limits, keeps=(BUILT,), address_limit=False
    )
    came = run(box, start)
    if came.exit_code != 0 or BUILT not in came.files:
        said = came.err_text.strip() or came.out_text.strip() or f"the compiler ended: {came.ended}"
        return said[:LONGEST_DETAIL]
    return Ready(job, runtime, {**files, BUILT: GivenFile(came.files[BUILT], executable=True)}, (f"./{BUILT}",))


def _session(box: Box, ready: Ready, session: Session) -> Ran:
    files = {name: GivenFile(text.encode("utf-8", "replace")) for name, text in session.files.items()}
    more = {"input": session.input.encode("utf-8", "replace"), "keeps": session.keeps}
    return ran_from(session.name, run(box, ready.start((*ready.command, *session.arguments), files, **more)))


def ran_from(name: str, came: Came) -> Ran:
    """Return what came of one start as the run of a test."""
    return Ran(
        name,
        came.ended,
        detail=f"signal {-came.exit_code if came.exit_code < 0 else came.exit_code - 128}"
        if came.ended is Ended.CRASHED and came.exit_code is not None
        else "",
        out=came.out_text,
        err=came.err_text,
        exit_code=came.exit_code,
        files={path: as_text(content) for path, content in came.files.items()},
        seconds=came.seconds,
        memory_mb=came.memory_mb,
    )


def _calls(box: Box, ready: Ready) -> list[Ran]:
    """Return what came of all calls; where one ends the program, the next is put to a fresh one."""
    found: list[Ran] = []
    calls = list(ready.job.calls)
    while calls:
        with servant(box, ready) as asked:
            while calls:
                call = calls.pop(0)
                ran = asked(call)
                found.append(ran)
                if ran.ended not in (Ended.DONE, Ended.RAISED):
                    break
        if found[-1].ended is Ended.TIME:
            break
    return found


@contextmanager
def servant(box: Box, ready: Ready) -> Iterator[Callable[[Call], Ran]]:
    """Give a function that has the program's functions called, in one process of it."""
    wish_in, wish_out = os.pipe()
    answer_in, answer_out = os.pipe()
    command = (*ready.runtime.servant, str(wish_in), str(answer_out), ready.job.work.main)
    try:
        start = ready.start(command, {}, links=(wish_in, answer_out))
        with box.started(start) as process:
            os.close(wish_in)
            os.close(answer_out)
            wish_in = answer_out = -1
            running = Running(box, process, ready.job.limits)
            try:
                asked = _Asked(running, wish_out, running.take_in(answer_in))
                yield asked
                check_box(box, start, running.exit_code, bytes(running.gathered("stderr")))
            finally:
                running.close()
    finally:
        for number in (wish_in, wish_out, answer_in, answer_out):
            if number >= 0:
                os.close(number)


class _Asked:
    """A program's process that is asked one call after the other."""

    def __init__(self, running: Running, wishes: int, answers: bytearray):
        self.running = running
        self.wishes = wishes
        self.answers = answers
        self.heard = dict.fromkeys(("stdout", "stderr"), 0)

    def __call__(self, call: Call) -> Ran:
        running = self.running
        begun = time.monotonic()
        token = secrets.token_hex(8)
        wish = {"op": "call", "path": call.function, "args": list(call.arguments), "kw": dict(call.named), "id": token}
        self.answers.clear()
        running.give(self.wishes, (json.dumps(wish) + "\n").encode("utf-8"))
        came = running.pump(lambda: self._line(token) is not None, running.limits.seconds, begun)
        said = self._answer(call, self._line(token) or {}) if came else Ran(call.name, running.ended or Ended.LEFT)
        out, err = self._new_text("stdout"), self._new_text("stderr")
        ended = said.ended
        if not came and running.ended is None and running.crashed:
            ended = Ended.CRASHED
        seconds = round(time.monotonic() - begun, 3)
        return replace(said, ended=ended, out=out, err=err, seconds=seconds, memory_mb=round(running.memory_mb, 1))

    def _line(self, token: str) -> dict[str, Any] | None:
        """Return the answer to a call; a line that was written before the call was made is none."""
        for line in bytes(self.answers).split(b"\n")[:-1] if token.encode("ascii") in self.answers else ():
            try:
                said = json.loads(line)
            except (ValueError, RecursionError):
                continue
            if isinstance(said, dict) and said.get("id") == token:
                return said
        return None

    def _answer(self, call: Call, said: Mapping[str, Any]) -> Ran:
        """Return what the program's side says came back, if it has the form of that."""
        try:
            if "value" in said:
                return Ran(call.name, Ended.DONE, value=checked(said["value"]))
            kinds, message = tuple(map(str, said["raised"])), str(said.get("message", ""))
            line = said.get("line")
            where = f" (line {line})" if isinstance(line, int) else ""
        except (ValueError, KeyError, TypeError, TooStrange, RecursionError):
            return Ran(call.name, Ended.LEFT, detail="what came back has no form that is known")
        if said.get("undefined"):
            return Ran(call.name, Ended.RAISED, detail=f"defines no {call.function}")
        if said.get("loading"):
            text = f"the program breaks when it is loaded: {kinds[0]}{f': {message}' if message else ''}{where}"
            return Ran(call.name, Ended.RAISED, detail=text[:LONGEST_DETAIL])
        return Ran(call.name, Ended.RAISED, raised=kinds, detail=f"{message}{where}".strip()[:LONGEST_DETAIL])

    def _new_text(self, stream: str) -> str:
        """Return what has come on a stream since the last call."""
        gathered = self.running.gathered(stream)
        new = bytes(gathered[self.heard[stream] :])
        self.heard[stream] = len(gathered)
        return as_text(new)
