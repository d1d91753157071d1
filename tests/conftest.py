"""What tests share: running the program, workspaces in a temporary folder, and a scripted service."""

from __future__ import annotations

import asyncio
import os
import subprocess
import sys
import threading
from collections.abc import Callable, Iterator
from contextlib import contextmanager
from dataclasses import dataclass, field
from pathlib import Path

import orjson
import pytest
from aiohttp import web
from click.testing import CliRunner, Result
from filelock import FileLock
from hypothesis import settings

from dryquarry.cli import cli

# How long an example takes says more of the machine than of the code.
settings.register_profile("untimed", deadline=None)
settings.load_profile("untimed")

PROGRAM = [sys.executable, "-m", "dryquarry"]

ARITHMETIC = """\
title: Sums
ask: {answer_line: "Answer:"}
mark: {scheme: number}
questions:
"""


def arithmetic_suite(count: int) -> str:
    """A suite of `count` questions, n + 1 each."""
    return ARITHMETIC + "".join(f"  - {{id: q{n}, ask: What is {n} plus 1?, key: {n + 1}}}\n" for n in range(count))


@dataclass
class Place:
    """A workspace in a temporary folder, and the program run in it."""

    root: Path

    def suite(self, name: str, text: str) -> Path:
        path = self.root / "suites" / name / "suite.yaml"
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(text, encoding="utf-8")
        return path

    def entrants(self, text: str) -> None:
        (self.root / "entrants.toml").write_text(text, encoding="utf-8")

    def entrant(self, name: str, endpoint: str, more: str = "limits = {retries = 0}") -> None:
        path = self.root / "entrants.toml"
        before = path.read_text(encoding="utf-8") if path.exists() else ""
        entry = f'[entrant.{name}]\nendpoint = "{endpoint}"\nmodel = "standin-{name}"\n{more}\n'
        path.write_text(before + entry, encoding="utf-8")

    def run(self, *arguments: str) -> Result:
        """Run the command line in this process."""
        before = Path.cwd()
        os.chdir(self.root)
        try:
            return CliRunner().invoke(cli, list(arguments))
        finally:
            os.chdir(before)

    def program(self, *arguments: str, env: dict[str, str] | None = None) -> subprocess.CompletedProcess[str]:
        """Run the installed program."""
        return subprocess.run(
            [*PROGRAM, *arguments], cwd=self.root, capture_output=True, text=True, timeout=120, env=env
        )

    def started(self, *arguments: str) -> subprocess.Popen[str]:
        """Start the installed program and leave it running."""
        pipes = {"stdout": subprocess.PIPE, "stderr": subprocess.PIPE, "text": True}
        return subprocess.Popen([*PROGRAM, *arguments], cwd=self.root, **pipes)  # type: ignore[call-overload]

    def json(self, *arguments: str) -> object:
        result = self.run(*arguments, "--format", "json")
        assert result.exit_code == 0, result.output
        return orjson.loads(result.stdout)


@pytest.fixture
def place(tmp_path: Path) -> Place:
    """An empty workspace."""
    (tmp_path / "dryquarry.toml").write_text('title = "test"\n', encoding="utf-8")
    return Place(tmp_path)


@pytest.fixture(scope="session")
def demo_made(tmp_path_factory: pytest.TempPathFactory) -> tuple[Path, str]:
    """The demo's workspace, made once for all workers and only to be copied, and what the command printed."""
    shared = (
        tmp_path_factory.getbasetemp().parent if "PYTEST_XDIST_WORKER" in os.environ else tmp_path_factory.getbasetemp()
    )
    folder, printed = shared / "demo-made", shared / "demo-printed.txt"
    with FileLock(shared / "demo-made.lock"):
        if not printed.exists():
            done = subprocess.run([*PROGRAM, "demo", str(folder)], capture_output=True, text=True, timeout=240)
            assert done.returncode == 0, done.stderr
            printed.write_text(done.stdout, "utf-8")
    return folder, printed.read_text("utf-8")


def completion(text: str | None, finish: str = "stop", **more: object) -> bytes:
    """A chat completion as services answer it."""
    choice = {"index": 0, "message": {"role": "assistant", "content": text}, "finish_reason": finish}
    usage = {"prompt_tokens": 10, "completion_tokens": 5}
    return orjson.dumps({"choices": [choice], "usage": usage, "model": "served-name", **more})


Answer = Callable[[dict], tuple[int, bytes] | None]


@dataclass
class Service:
    """A service on loopback that answers as a function says; None means never."""

    answer: Answer
    delay_s: float = 0.0
    requests: list[dict] = field(default_factory=list)
    headers: list[dict[str, str]] = field(default_factory=list)
    url: str = ""

    async def handle(self, request: web.Request) -> web.Response:
        content = orjson.loads(await request.read())
        self.requests.append(content)
        self.headers.append(dict(request.headers))
        await asyncio.sleep(self.delay_s)
        answered = self.answer(content)
        if answered is None:
            await asyncio.sleep(3600)
        status, body = answered  # type: ignore[misc]
        return web.Response(status=status, body=body)


@pytest.fixture
def service() -> Iterator[Callable[..., Service]]:
    """Start services with `service(answer)`; all end with the test."""
    with services() as make:
        yield make


@pytest.fixture(scope="module")
def service_of_module() -> Iterator[Callable[..., Service]]:
    """The same for fixtures of a whole module."""
    with services() as make:
        yield make


@contextmanager
def services() -> Iterator[Callable[..., Service]]:
    """Give what starts services; all end with it."""
    loop = asyncio.new_event_loop()
    thread = threading.Thread(target=loop.run_forever, daemon=True)
    thread.start()
    runners: list[web.AppRunner] = []

    async def start(one: Service) -> None:
        application = web.Application()
        application.router.add_post("/v1/chat/completions", one.handle)
        runner = web.AppRunner(application, shutdown_timeout=0.1)
        await runner.setup()
        await web.TCPSite(runner, "127.0.0.1", 0).start()
        one.url = f"http://127.0.0.1:{runner.addresses[0][1]}/v1"
        runners.append(runner)

    def make(answer: Answer, delay_s: float = 0.0) -> Service:
        one = Service(answer, delay_s)
        asyncio.run_coroutine_threadsafe(start(one), loop).result(10)
        return one

    yield make
    for runner in runners:
        asyncio.run_coroutine_threadsafe(runner.cleanup(), loop).result(10)
    loop.call_soon_threadsafe(loop.stop)
    thread.join(10)
