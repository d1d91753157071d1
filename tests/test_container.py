"""Programs in containers, where there is no bubblewrap: the same tests, the same attempts, a real engine."""

from __future__ import annotations

import shutil
import subprocess
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import hostile_programs
import pytest

import container_image
from conftest import Place, completion
from dryquarry.marking.model import Mark, Marking
from dryquarry.marking.registry import runners_of
from dryquarry.marking.works.jobs import Limits
from dryquarry.marking.works.results import Ended
from dryquarry.sandbox import bubblewrap, container
from dryquarry.sandbox.box import Came, Start
from dryquarry.sandbox.container import Container
from dryquarry.sandbox.performing import CannotRun, Sandbox
from dryquarry.sandbox.running import run
from dryquarry.sandbox.settings import SandboxSettings, SettingsFault, read_settings
from test_hostile import ATTEMPTS, CALLS, FORGERIES, STOPPED, TESTS
from test_queries import SCRIPT

SETTINGS = SandboxSettings(container="podman", image=container_image.NAME)
GROWS = "import time\nx = []\nwhile 1: x.append(bytearray(9_000_000)); time.sleep(.1)"
# what is reached for there is the image's own, or the two processes that watch over the program inside
OF_THE_CONTAINER = ("read the passwords and users of the machine", "trace another process")
HERE = [one for one in ATTEMPTS if one["what"] not in OF_THE_CONTAINER]


@pytest.fixture(scope="module")
def box(tmp_path_factory: pytest.TempPathFactory) -> Iterator[Container]:
    engine = shutil.which("podman")
    if engine is None:
        pytest.skip("not run: podman is not installed")
    folder = tmp_path_factory.mktemp("engine")
    with pytest.MonkeyPatch.context() as patched:
        if shutil.which("runc"):
            (folder / "containers.conf").write_text('[engine]\nruntime = "runc"\n')
            patched.setenv("CONTAINERS_CONF", str(folder / "containers.conf"))
        try:
            container_image.make(engine, folder)
        except (OSError, subprocess.SubprocessError) as error:
            pytest.skip(f"not run: podman takes in no image here ({error})")
        found = container.found("podman", container_image.NAME)
        if isinstance(found, str):
            pytest.skip(f"not run: {found}")
        yield found
        container.found.cache_clear()


@pytest.fixture
def no_bubblewrap(monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr(bubblewrap, "found", lambda: "bubblewrap is not installed (Debian's package bubblewrap)")


@pytest.fixture(scope="module")
def there(tmp_path_factory: pytest.TempPathFactory) -> Iterator[hostile_programs.Around]:
    with hostile_programs.around(tmp_path_factory.mktemp("outside")) as around:
        yield around


def containers_left() -> str:
    done = subprocess.run(["podman", "ps", "--all", "--quiet"], capture_output=True, text=True, check=True)
    return done.stdout


@pytest.mark.parametrize("attempt", HERE, ids=[one["what"] for one in HERE])
def test_nothing_gets_out(attempt: dict[str, Any], box: Container, there: hostile_programs.Around) -> None:
    came = hostile_programs.attempted(box, attempt, there)
    assert "ESCAPED" not in came.out_text
    # whoever signals everything there reaches what watches over the program inside, too
    ended = STOPPED.get(attempt["what"], {Ended.DONE})
    assert came.ended in (ended | {Ended.CRASHED} if "signal the tool" in attempt["what"] else ended)
    assert there.target.read_text() == "as it was"
    assert not [one for one in hostile_programs.left_behind() if f"3600.{hostile_programs.NUMBER}" in one]
    assert containers_left() == ""


def marked(options: dict[str, Any], reply: str, scheme: str = "program", key: object = None) -> Mark:
    (runner,) = runners_of(Marking(scheme, key=key, options=options))
    job = runner.job(reply)
    return job if isinstance(job, Mark) else runner.settle(reply, Sandbox(SETTINGS).perform(job))


@pytest.mark.parametrize("options", [CALLS, TESTS], ids=["calls", "test file"])
def test_a_program_is_marked_and_cannot_fake_a_pass(options: dict[str, Any], box: Container, no_bubblewrap) -> None:
    right = marked({**options, "seconds": 20}, "```python\ndef f(x):\n    return x + 1\n```")
    assert right.score == 1.0, right.reason
    for what in ("ends early with a good exit code", "writes pytest's report", "kills who tests it"):
        assert marked(options, f"```python\n{FORGERIES[what]}\n```").score == 0.0, what


@pytest.mark.parametrize(
    "options, code",
    [
        ({"language": "python", "sessions": [{"args": ["in.txt"], "files": {"in.txt": "b\na\n"}, "left": {"out.txt": "a\nb"}}]}, "import sys\nlines = sorted(open(sys.argv[1]))\nopen('out.txt', 'w').writelines(lines)"),
        ({"language": "shell", "sessions": [{"args": ["x y"], "output": "x y\n", "exit": 3}]}, 'echo "$1"\nexit 3'),
        ({"language": "python", "test_file": {"path": "t.sh", "text": "printf 'b\\na\\n' > in.txt\n[ \"$(./program in.txt < /dev/null)\" = a ]\n"}}, "import sys\nprint(sorted(open(sys.argv[1]))[0].strip())"),
        ({"language": "python", "terminal": {"size": [20, 5], "steps": [{"shows": "name?"}, {"keys": "Tern"}, {"press": "Enter"}, {"shows": "hello Tern"}, {"ends": True}]}}, "print('hello', input('name? '))"),
    ],
)  # fmt: skip
def test_sessions_screens_and_scripts(options: dict[str, Any], code: str, box: Container, no_bubblewrap) -> None:
    mark = marked(options, f"```{options['language']}\n{code}\n```")
    assert mark.score == 1.0, mark.reason


def test_how_it_ended_what_it_used_and_said(box: Container) -> None:
    def came(code: str, **limits: Any) -> Came:
        return run(box, Start(("python3", "-c", code), limits=Limits(**limits)))

    crashed = came("import os, sys\nprint('x', file=sys.stderr, flush=True)\nos.abort()")
    assert (crashed.ended, crashed.exit_code, crashed.err) == (Ended.CRASHED, 134, b"x\n")
    late = came("import time\nx = bytearray(40_000_000)\ntime.sleep(60)", seconds=3)
    assert late.ended is Ended.TIME
    assert 30 < late.memory_mb < 90
    assert came(GROWS, memory_mb=96).ended is Ended.MEMORY
    assert containers_left() == ""


def slow_engine(box: Container, folder: Path, script: str) -> Container:
    slow = folder / "slow"
    slow.write_text(f'#!/bin/sh\n[ "$1" = run ] || exec {box.program} "$@"\n{script}\n')
    slow.chmod(0o755)
    return Container(str(slow), box.image)


def test_memory_is_watched_where_a_container_is_slow_to_begin(box: Container, tmp_path: Path) -> None:
    slow = slow_engine(box, tmp_path, f'sleep 1.5; exec {box.program} "$@"')
    limits = Limits(seconds=30, memory_mb=96)
    assert run(slow, Start(("python3", "-c", GROWS), limits=limits)).ended is Ended.MEMORY


@pytest.mark.parametrize("script", ['sleep 4; exec {} "$@"', '{} "$@"; code=$?; sleep 4; exit $code'])
def test_the_time_of_the_engine_is_not_the_programs(box: Container, tmp_path: Path, script: str) -> None:
    slow = slow_engine(box, tmp_path, script.format(box.program))
    limits = Limits(seconds=3)
    came = run(slow, Start(("python3", "-c", "import time; time.sleep(.5); print(7)"), limits=limits))
    assert (came.ended, came.exit_code, came.out) == (Ended.DONE, 0, b"7\n")
    assert run(slow, Start(("python3", "-c", "while 1: pass"), limits=limits)).ended is Ended.TIME
    assert containers_left() == ""


def test_a_query_is_put_to_its_database(box: Container, no_bubblewrap) -> None:
    options = {"database": SCRIPT}
    key = "SELECT count(*) FROM boats"
    assert marked(options, "```sql\nSELECT 4\n```", "query", key).score == 1.0
    assert marked(options, "```sql\nSELECT 3\n```", "query", key).score == 0.0


def test_what_the_image_lacks_leaves_the_mark_open(box: Container, no_bubblewrap) -> None:
    for language, said in (("javascript", "has no node"), ("c", "has no gcc")):
        with pytest.raises(CannotRun, match=f"the image {container_image.NAME} {said}"):
            marked({"language": language, "sessions": [{"output": "7"}]}, f"```{language}\nx\n```")
    with pytest.raises(CannotRun, match="bubblewrap's sandbox only"):
        marked({"language": "python", "date": "2026-03-01", "sessions": [{"output": "7"}]}, "```python\nx\n```")
    with pytest.raises(CannotRun, match="bubblewrap's sandbox only"):
        marked({"kind": "html", "contains": ["h1"]}, "```html\n<h1>x</h1>\n```", "page")


def test_an_image_that_is_not_there_is_never_fetched(box: Container, no_bubblewrap) -> None:
    elsewhere = SandboxSettings(container="podman", image="localhost/not-there:1")
    said = Sandbox(elsewhere).box
    assert isinstance(said, str)
    assert said.startswith("podman cannot make a container of localhost/not-there:1 here: ")
    with pytest.raises(OSError, match=r"no sandbox could be made: .*not-there"):
        run(Container(box.program, "localhost/not-there:1"), Start(("true",)))
    assert run(box, Start(("bash", "-c", "echo Error >&2; exit 125"))).exit_code == 125


def test_a_workspace_names_its_container(place: Place, service, box: Container, no_bubblewrap) -> None:
    one = service(lambda content: (200, completion("```python\nprint(3 + 4)\n```")))
    place.suite(
        "programs",
        'title: P\nquestions:\n  - {id: sum, ask: Add., mark: {scheme: program, language: python, sessions: [{output: "7\\n"}]}}\n',
    )
    place.entrant("knot", one.url)
    with (place.root / "dryquarry.toml").open("a") as file:
        file.write(f'\n[sandbox]\ncontainer = "podman"\nimage = "{container_image.NAME}"\n')
    done = place.run("run", "programs")
    assert done.exit_code == 0
    (reply,) = place.json("replies", "programs")
    assert (reply["verdict"], reply["score"]) == ("pass", 1.0)
    assert container_image.NAME in str(reply["runs"])


@pytest.mark.parametrize(
    "table, said",
    [
        ({"container": "podman"}, "wants `image`"),
        ({"image": "tools"}, "wants `container`"),
        ({"container": "ship", "image": "tools"}, "not 'ship'"),
        ({"container": "podman", "image": "--privileged"}, "name of a container's image"),
        ({"container": "podman", "image": "tools", "options": ["--privileged"]}, "unknown field 'options'"),
    ],
)
def test_settings_that_cannot_be_used_are_told_of(table: dict[str, Any], said: str) -> None:
    with pytest.raises(SettingsFault, match=said):
        read_settings({"sandbox": table})
