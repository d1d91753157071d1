"""What hostile programs, tests and queries must not be able to do; each attempt is made for real."""

from __future__ import annotations

import time
from collections.abc import Iterator, Mapping
from pathlib import Path
from typing import Any

import hostile_programs
import pytest
import yaml_files

from dryquarry.marking.model import Mark, Marking
from dryquarry.marking.registry import runners_of
from dryquarry.marking.works.results import Ended
from dryquarry.sandbox import bubblewrap
from dryquarry.sandbox.performing import Sandbox
from sandboxed import needs_sandbox

pytestmark = needs_sandbox
ATTEMPTS = yaml_files.read(Path(__file__).parent / "data" / "hostile_programs.yaml")
STOPPED = {
    "fork without end": {Ended.TIME, Ended.MEMORY},
    "ignore every signal and sleep on": {Ended.TIME},
    "fill the memory": {Ended.MEMORY, Ended.DONE},
    "fill the memory with many processes": {Ended.MEMORY},
    "write without end to its output": {Ended.OUTPUT},
}


@pytest.fixture(scope="module")
def there(tmp_path_factory: pytest.TempPathFactory) -> Iterator[hostile_programs.Around]:
    with hostile_programs.around(tmp_path_factory.mktemp("outside")) as around:
        yield around


@pytest.mark.parametrize("attempt", ATTEMPTS, ids=[one["what"] for one in ATTEMPTS])
def test_nothing_gets_out(attempt: Mapping[str, Any], there: hostile_programs.Around) -> None:
    box = bubblewrap.found()
    assert not isinstance(box, str)
    mounts, began = hostile_programs.mounts(), time.monotonic()
    came = hostile_programs.attempted(box, attempt, there)
    assert "ESCAPED" not in came.out_text
    assert came.ended in STOPPED.get(attempt["what"], {Ended.DONE})
    assert time.monotonic() - began < attempt.get("seconds", 5) + 5
    assert len(came.out) <= 256 * 1024
    assert there.target.read_text() == "as it was"
    assert hostile_programs.mounts() == mounts
    assert not [content for content in came.files.values() if content == b"changed"]
    deadline = time.monotonic() + 5
    while any(f"3600.{hostile_programs.NUMBER}" in one for one in hostile_programs.left_behind()):
        assert time.monotonic() < deadline, "a process of the program is still there"
        time.sleep(0.05)


def marked(options: Mapping[str, Any], reply: str, key: object = None, scheme: str = "program") -> Mark:
    (runner,) = runners_of(Marking(scheme, key=key, options=options))
    job = runner.job(reply)
    return job if isinstance(job, Mark) else runner.settle(reply, Sandbox().perform(job))


FORGERIES = {
    "ends early with a good exit code": "import os\nos._exit(0)\ndef f(x): return x",
    "ends when it is called": "import sys\ndef f(x): sys.exit(0)",
    "writes a report on every descriptor": (
        "import os\nfor n in range(3, 64):\n    try:\n        os.write(n, b'{\"value\": 4}\\n' * 9)\n"
        "    except OSError: pass\ndef f(x): return 0"
    ),
    "writes pytest's report": (
        'import os\nfor n in range(3, 64):\n    try:\n        os.write(n, b\'{"name": "test_f", "ok": true, '
        '"said": "", "seconds": 0}\\n\')\n    except OSError: pass\ndef f(x): return 0'
    ),
    "answers equal to everything": (
        "class Any(int):\n    def __eq__(self, other): return True\n    def __ne__(self, other): return False\n"
        "    __hash__ = int.__hash__\ndef f(x): return Any(7)"
    ),
    "looks for what is wanted": (
        "import gc, sys\ndef f(x):\n    for one in gc.get_objects():\n        if isinstance(one, dict) and 'gives' in one:\n"
        "            return one['gives']\n    frame = sys._getframe(1)\n    return frame.f_locals.get('gives')"
    ),
    "changes the tests beside it": (
        "import glob\nfor name in glob.glob('/**/*_test.py', recursive=True):\n    try:\n        open(name, 'w').write('')\n"
        "    except OSError: pass\ndef f(x): return 0"
    ),
    "kills who tests it": "import os, signal\ndef f(x):\n    os.kill(-1, signal.SIGKILL)",
}
CALLS = {"language": "python", "seconds": 1, "calls": [{"call": "f", "with": [3], "gives": 4}]}
TESTS = {"language": "python", "seconds": 3, "test_file": {"path": "f_test.py", "text": "from program import f\n\ndef test_f():\n    assert type(f(3)) is int and f(3) == 4\n"}}  # fmt: skip


@pytest.mark.parametrize("what", FORGERIES)
@pytest.mark.parametrize("options", [CALLS, TESTS], ids=["calls", "test file"])
def test_a_program_cannot_fake_a_pass(what: str, options: dict[str, Any]) -> None:
    assert marked(options, "```python\ndef f(x):\n    return x + 1\n```").score == 1.0
    mark = marked(options, f"```python\n{FORGERIES[what]}\n```")
    assert (mark.score, str(mark.verdict)) == (0.0, "fail"), mark.reason


def test_a_program_cannot_put_its_own_files_in_place_of_the_questions() -> None:
    options = {
        "language": "python",
        "sessions": [{"args": ["in.txt"], "files": {"in.txt": "3\n"}, "output": "3\n"}],
    }
    reply = "`in.txt`:\n```text\n4\n```\n`main.py`:\n```python\nimport sys\nprint(open(sys.argv[1]).read())\n```"
    assert marked(options, reply).score == 1.0


def test_a_program_that_tests_start_finds_no_tests() -> None:
    tests = {
        "path": "t.sh",
        "text": "printf x > in.txt\n./program < /dev/null > out.txt\ncat out.txt\ngrep -q in.txt out.txt && ! grep -q t.sh out.txt\n",
    }
    listing = "```python\nimport os\nprint(os.listdir('.'))\n```"
    mark = marked({"language": "python", "test_file": tests}, listing)
    assert mark.score == 1.0, mark.reason


def test_a_box_that_cannot_be_made_is_no_fault_of_the_program() -> None:
    from dryquarry.sandbox.box import GivenFile, Start
    from dryquarry.sandbox.running import run

    box = bubblewrap.found()
    assert not isinstance(box, str)
    clash = {"a": GivenFile(b""), "a/b": GivenFile(b"")}
    with pytest.raises(OSError, match="no sandbox could be made: bwrap"):
        run(box, Start(("/bin/true",), files=clash))
    said = run(box, Start(("/bin/sh", "-c", "echo 'bwrap: cannot' >&2; exit 1")))
    assert (said.exit_code, said.ended) == (1, Ended.DONE)


QUERIES = {
    "runs for ever": (
        "WITH RECURSIVE c(x) AS (SELECT 1 UNION ALL SELECT x + 1 FROM c) SELECT max(x) FROM c",
        "in time",
    ),
    "attaches another file": ("ATTACH DATABASE '/etc/passwd' AS other", "reaches for more"),
    "loads code": ("SELECT load_extension('/lib/x.so')", "reaches for more"),
    "writes a file": ("VACUUM INTO '/tmp/out.db'", ""),
    "changes data": ("DELETE FROM boats", "changes data"),
    "takes all memory": ("SELECT length(group_concat(randomblob(900000000))) FROM boats, boats, boats", ""),
    "gives rows without end": ("SELECT a.name FROM boats a, boats b, boats c, boats d, boats e, boats f, boats g", ""),
}


@pytest.mark.parametrize("what", QUERIES)
def test_a_query_does_nothing_but_ask(what: str) -> None:
    rows = ", ".join(f"('boat {number}')" for number in range(30))
    database = {"path": "boats.sql", "text": f"CREATE TABLE boats (name TEXT); INSERT INTO boats VALUES {rows};"}
    query, said = QUERIES[what]
    mark = marked({"database": database, "seconds": 2}, f"```sql\n{query};\n```", "SELECT count(*) FROM boats", "query")
    assert str(mark.verdict) == "fail"
    assert said in mark.reason
