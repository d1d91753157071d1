"""Programs in replies: run, marked, kept, shown, through the installed program and in the core."""

from __future__ import annotations

import json
import shutil
import time
from typing import Any

import pytest
from hypothesis import given, settings
from hypothesis import strategies as st

from conftest import Place, completion
from dryquarry.marking.model import Mark, Marking, MarkingFault, Verdict
from dryquarry.marking.registry import prepare, runners_of
from dryquarry.marking.works.jobs import job_digest
from dryquarry.marking.works.results import RunResult, result_content, result_of
from dryquarry.marking.works.values import Tolerance, same_value
from dryquarry.sandbox import bubblewrap
from dryquarry.sandbox.performing import CannotRun, Sandbox
from dryquarry.sandbox.settings import read_settings
from sandboxed import needs_compilers, needs_node, needs_sandbox

SUITE = """\
title: Programs
questions:
  - id: fare
    ask: Write a Python function fare(adults).
    mark:
      scheme: program
      language: python
      partial: true
      calls:
        - {name: none, call: fare, with: [0], gives: 0}
        - {name: two, call: fare, with: [2], gives: 25}
    second_try: "Not yet: {reason}"
    proofs:
      pass: ["```python\\ndef fare(n): return n * 12.5\\n```"]
      fail: ["```python\\ndef fare(n): return n * 12\\n```", "No idea."]
"""
GOOD, WRONG = (
    "```python\ndef fare(n):\n    print('asked')\n    return n * 12.5\n```",
    "```python\ndef fare(n):\n    return n * 12\n```",
)


def outcome(options: dict[str, Any], reply: str) -> tuple[Mark, RunResult | None]:
    (runner,) = runners_of(Marking("program", options=options))
    job = runner.job(reply)
    if isinstance(job, Mark):
        return job, None
    result = Sandbox().perform(job)
    return runner.settle(reply, result_of(json.loads(json.dumps(result_content(result))))), result


@needs_sandbox
def test_a_program_is_run_after_asking_and_the_error_of_a_failed_one_goes_back(place: Place, service) -> None:
    def answer(content):
        text = content["messages"][-1]["content"]
        return 200, completion(GOOD if "fare(2) gave 24" in text else WRONG)

    one = service(answer)
    place.suite("programs", SUITE)
    place.entrant("knot", one.url)
    assert place.run("suite", "check", "programs").exit_code == 0
    assert place.run("run", "programs").exit_code == 0
    (reply,) = place.json("replies", "programs")
    assert (reply["verdict"], reply["score"]) == ("fail", 0.5)
    assert reply["reason"] == "failed 1 of 2 tests; 'two': fare(2) gave 24, 25 was wanted"
    assert [test["passed"] for test in reply["runs"][0]["tests"]] == [True, False]
    assert reply["runs"][0]["result"]["runtime"].startswith("Python 3")
    (again,) = place.json("replies", "programs", "--second-tries")
    assert again["verdict"] == "pass"
    shown = place.run("replies", "programs", "--second-tries").stdout
    assert "■ two" in shown
    assert "¦ asked" in shown
    assert place.json("board", "programs")["rows"][0]["score"] == 0.5
    assert "the ledger is whole" in place.run("ledger", "check").stdout


@needs_sandbox
def test_marking_again_runs_only_what_is_new(place: Place, service) -> None:
    one = service(lambda content: (200, completion(WRONG)))
    path = place.suite("programs", SUITE)
    place.entrant("knot", one.url)
    assert place.run("run", "programs").exit_code == 0
    before = results_in(place)
    assert before == 1
    path.write_text(path.read_text().replace("gives: 25", "gives: 24"))
    place.run("mark", "programs")
    assert place.json("replies", "programs")[0]["verdict"] == "pass"
    assert results_in(place) == before  # another value is wanted of the same calls
    path.write_text(path.read_text().replace("with: [2]", "with: [3]"))
    place.run("mark", "programs")
    assert "fare(3) gave 36" in place.json("replies", "programs")[0]["reason"]
    assert results_in(place) == before + 1


def results_in(place: Place) -> int:
    import sqlite3

    with sqlite3.connect(place.root / ".dryquarry" / "ledger.db") as ledger:
        return ledger.execute("SELECT count(*) FROM results").fetchone()[0]


def test_without_a_sandbox_nothing_is_run_and_the_mark_is_open(place: Place, service, monkeypatch) -> None:
    monkeypatch.setattr(bubblewrap, "found", lambda: "bubblewrap is not installed (Debian's package bubblewrap)")
    one = service(lambda content: (200, completion(GOOD)))
    place.suite("programs", SUITE)
    place.entrant("knot", one.url)
    done = place.run("run", "programs")
    assert "not run: bubblewrap is not installed" in done.stderr
    (reply,) = place.json("replies", "programs")
    assert (reply["verdict"], reply["score"]) == ("open", None)
    assert "bubblewrap is not installed" in reply["reason"]
    checked = place.run("suite", "check", "programs")
    assert checked.exit_code == 0
    assert "could not be run" in checked.stdout


def test_running_without_a_sandbox_is_asked_for_by_the_machines_name(place: Place, monkeypatch) -> None:
    monkeypatch.setattr(bubblewrap, "found", lambda: "bubblewrap is not installed")
    elsewhere = read_settings({"sandbox": {"without_on": ["another-machine"]}})
    assert isinstance(Sandbox(elsewhere).box, str)
    monkeypatch.setattr("platform.node", lambda: "another-machine")
    (runner,) = runners_of(Marking("program", options={"language": "shell", "sessions": [{"output": "7"}]}))
    reply = "```sh\necho $((3 + 4))\n```"
    job = runner.job(reply)
    assert not isinstance(job, Mark)
    assert runner.settle(reply, Sandbox(elsewhere).perform(job)).score == 1.0
    with pytest.raises(CannotRun, match="bubblewrap is not installed"):
        Sandbox().perform(job)


@needs_sandbox
@pytest.mark.parametrize(
    "language, options, code",
    [
        ("python", {"sessions": [{"input": "3 4", "output": {"scheme": "number", "key": 7}}]}, "a, b = map(int, input().split())\nprint('The sum is', a + b)"),
        ("shell", {"sessions": [{"args": ["x y"], "output": "x y\n", "exit": 3}]}, 'echo "$1"\nexit 3'),
        pytest.param("javascript", {"calls": [{"call": "f", "with": [[3, 1]], "gives": [1, 3]}, {"call": "g.h", "with": [1], "raises": "RangeError"}]}, "const f = (x) => x.sort();\nconst g = { h: () => { throw new RangeError('no'); } };\nmodule.exports = { f, g };", marks=needs_node),
        pytest.param("javascript", {"calls": [{"call": "f", "with": [2], "gives": {"a": None, "b": 2}}]}, "export async function f(x) { return new Map([['a', undefined], ['b', x]]); }", marks=needs_node),
        pytest.param("c", {"sessions": [{"input": "5", "output": "25"}]}, '#include <stdio.h>\nint main(void) { int n; scanf("%d", &n); printf("%d\\n", n * n); return 0; }', marks=needs_compilers),
        pytest.param("c++", {"sessions": [{"input": "5", "output": "25"}]}, "#include <iostream>\nint main() { int n; std::cin >> n; std::cout << n * n; }", marks=needs_compilers),
        ("python", {"sessions": [{"args": ["in.txt"], "files": {"in.txt": "b\na\n"}, "left": {"out.txt": "a\nb"}}]}, "import sys\nlines = sorted(open(sys.argv[1]))\nopen('out.txt', 'w').writelines(lines)"),
        ("python", {"calls": [{"call": "f", "with": ["x"], "named": {"times": 2}, "gives": ["x", "x"]}, {"call": "f", "with": ["x"], "raises": "ValueError"}]}, "def f(x, times=0):\n    if not times:\n        raise UnicodeError('too few')\n    yield from [x] * times" .replace("yield from", "return")),
        ("python", {"calls": [{"call": "f", "with": [], "gives": [3, 1, 2], "order": "any"}]}, "def f():\n    return {1, 2, 3}"),
        ("python", {"calls": [{"call": "f", "with": [], "gives": 0.3, "abs": 0.001}]}, "async def f():\n    return 0.1 + 0.2"),
        ("python", {"test_file": {"path": "t.sh", "text": "printf 'b\\na\\n' > in.txt\n[ \"$(./program in.txt < /dev/null)\" = a ]\n"}}, "import sys\nprint(sorted(open(sys.argv[1]))[0].strip())"),
    ],
)  # fmt: skip
def test_what_a_good_program_does_passes(language: str, options: dict[str, Any], code: str) -> None:
    # A busy machine may keep a sound program waiting for longer than the ten seconds that it has by default.
    mark, _ = outcome({"language": language, "seconds": 60, **options}, f"```{language}\n{code}\n```")
    assert mark.score == 1.0, mark.reason


@needs_sandbox
@pytest.mark.parametrize(
    "code, said",
    [
        ("def g(x): return x", "defines no f"),
        ("import nothing_there\ndef f(x): return x", "breaks when it is loaded: ModuleNotFoundError"),
        ("def f(x) return x", "breaks when it is loaded: SyntaxError"),
        ("def f(x): return x / 0", "f(3) raised ZeroDivisionError: division by zero (line 1), 4 was wanted"),
        ("def f(x):\n    while True: pass", "did not end in time"),
        ("def f(x): exit()", "f(3) raised SystemExit"),
        ("import os\ndef f(x): os._exit(3)", "ended the program instead of coming back"),
        ("import ctypes\ndef f(x): ctypes.string_at(0)", "crashed"),
        ("def f(x): return str(x + 1)", 'f(3) gave "4", 4 was wanted'),
        ("def f(x): return 4.1", "f(3) gave 4.1, 4 was wanted"),
        ("def f(x): return True", "f(3) gave True"),
    ],
)
def test_the_reason_says_what_went_wrong(code: str, said: str) -> None:
    options = {"language": "python", "seconds": 1, "calls": [{"call": "f", "with": [3], "gives": 4}]}
    mark, _ = outcome(options, f"```python\n{code}\n```")
    assert (mark.score, mark.verdict) == (0.0, Verdict.FAIL)
    assert said in mark.reason


@needs_sandbox
def test_another_kind_of_error_is_not_the_one_wanted() -> None:
    options = {"language": "python", "calls": [{"call": "f", "with": [1], "raises": "ValueError"}]}
    assert outcome(options, "```python\ndef f(x): raise KeyError(x)\n```")[0].score == 0.0
    assert outcome(options, "```python\ndef f(x): raise UnicodeError('is one')\n```")[0].score == 1.0


@needs_sandbox
def test_one_failed_test_is_a_fail_unless_part_credit_is_given() -> None:
    options = {"language": "python", "calls": [{"call": "f", "with": [n], "gives": 1} for n in (1, 2)]}
    reply = "```python\ndef f(x): return x\n```"
    assert outcome(options, reply)[0].score == 0.0
    assert outcome({**options, "partial": True}, reply)[0].score == 0.5


def test_true_is_not_one() -> None:
    assert not same_value(True, 1, Tolerance())
    assert not same_value(1, True, Tolerance())
    assert not same_value(0, False, Tolerance())
    assert same_value(1, 1.0, Tolerance())


def test_nothing_is_no_text_and_each_member_counts_once() -> None:
    assert same_value(None, {"~": "undefined"}, Tolerance())
    assert not same_value(None, "None", Tolerance())
    unordered = Tolerance(ordered=False)
    assert same_value([1, 2, 2], [2, 1, 2], unordered)
    assert not same_value([1, 1, 2], [1, 2, 2], unordered)
    assert not same_value([1, 2], {"~": "set", "v": [1, 1]}, Tolerance())


@needs_sandbox
def test_a_program_that_hangs_costs_its_own_seconds_and_no_more() -> None:
    calls = [{"call": "f", "with": [number], "gives": number} for number in range(6)]
    began = time.monotonic()
    mark, result = outcome(
        {"language": "python", "seconds": 1, "partial": True, "calls": calls},
        "```python\ndef f(x):\n    while x == 2: pass\n    return x\n```",
    )
    assert time.monotonic() - began < 3
    assert mark.score == pytest.approx(2 / 6)
    assert result is not None
    assert [str(one.ended) for one in result.tests] == ["done", "done", "time", "not run", "not run", "not run"]


@needs_sandbox
def test_programs_see_the_same_world_each_time() -> None:
    code = "import os, time\nprint(hash('marsh'), os.environ['LANG'], time.tzname[0], len(os.environ), os.getcwd())"
    job = {"language": "python", "sessions": [{"output": "x"}]}
    said = {outcome(job, f"```python\n{code}\n```")[1].tests[0].out for _ in range(3)}  # type: ignore[union-attr]
    assert len(said) == 1
    assert "C.UTF-8 UTC" in said.pop()


@needs_sandbox
def test_a_fault_in_running_one_stops_no_other(place: Place, service, monkeypatch) -> None:
    from dryquarry.sandbox import performing

    run_program = performing.run_program

    def broken(box, job, runtime):
        if "12.5" in job.work.text:
            raise OSError("no space left")
        return run_program(box, job, runtime)

    monkeypatch.setattr(performing, "run_program", broken)
    good, wrong = service(lambda content: (200, completion(GOOD))), service(lambda content: (200, completion(WRONG)))
    place.suite("programs", SUITE)
    place.entrant("knot", good.url)
    place.entrant("stint", wrong.url)
    done = place.run("run", "programs")
    assert "1 program or query not run: it could not be run (OSError: no space left)" in done.stderr
    assert {one["entrant"]: one["verdict"] for one in place.json("replies", "programs")} == {
        "knot": "open",
        "stint": "fail",
    }
    monkeypatch.setattr(performing, "run_program", run_program)
    assert place.run("mark", "programs").exit_code == 0
    assert {one["verdict"] for one in place.json("replies", "programs")} == {"pass", "fail"}


def test_a_language_that_is_not_there_leaves_the_mark_open() -> None:
    (runner,) = runners_of(Marking("program", options={"language": "zorn", "sessions": [{"output": "x"}]}))
    job = runner.job("```zorn\nprint x\n```")
    with pytest.raises(CannotRun, match=r"zorn|sandbox|bubblewrap"):
        Sandbox().perform(job)  # type: ignore[arg-type]


@needs_sandbox
@pytest.mark.skipif(bubblewrap.faketime_library() is None, reason="not run: faketime is not installed")
def test_a_program_believes_that_it_is_the_day_of_the_question(place: Place) -> None:
    text = (
        "title: Days\nquestions:\n  - id: day\n    ask: Print the day.\n    mark: {scheme: program, language: python, "
        "date: 2026-03-01, sessions: [{output: '2026-03-01'}]}\n"
        '    proofs: {pass: ["```python\\nimport datetime\\nprint(datetime.date.today())\\n```"]}\n'
    )
    place.suite("days", text)
    checked = place.run("suite", "check", "days")
    assert checked.exit_code == 0, checked.stdout


@needs_sandbox
@pytest.mark.skipif(shutil.which("perl") is None, reason="not run: Perl is not installed")
def test_a_further_language_is_described_in_the_workspaces_file() -> None:
    own = read_settings({"language": {"perl": {"run": ["perl"], "version": ["perl", "-e", "print $]"]}}})
    (runner,) = runners_of(Marking("program", options={"language": "perl", "sessions": [{"output": "7"}]}))
    reply = "```perl\nprint 3 + 4;\n```"
    result = Sandbox(own).perform(runner.job(reply))  # type: ignore[arg-type]
    assert runner.settle(reply, result).score == 1.0
    assert result.runtime.startswith("perl 5")


@pytest.mark.parametrize(
    "options, said",
    [
        ({}, "wants tests"),
        ({"calls": [{"call": "f", "gives": 1}]}, "`language` says in which"),
        ({"language": "c", "calls": [{"call": "f", "gives": 1}]}, "none that this can call"),
        ({"language": "python", "calls": [{"call": "f"}]}, "either `gives`"),
        ({"language": "python", "calls": [{"call": "f(2)", "gives": 1}]}, "stands in `with`"),
        ({"language": "python", "calls": [{"call": "f", "give": 1}]}, "did you mean 'gives'"),
        ({"sessions": [{"input": "x"}]}, "nothing of what comes out"),
        ({"sessions": [{"output": "x", "files": {"../x": "y"}}]}, "no name of a file"),
        ({"sessions": [{"output": {"scheme": "nmber", "key": 1}}]}, "no scheme 'nmber'"),
        ({"sessions": [{"name": "a", "output": "x"}, {"name": "a", "output": "y"}]}, "two tests are called 'a'"),
        ({"sessions": [{"output": "x"}], "seconds": 9999}, "up to 300"),
        ({"test_file": "tests.py"}, "not at hand"),
    ],
)
def test_a_faulty_question_is_told_of(options: dict[str, Any], said: str) -> None:
    with pytest.raises(MarkingFault, match=said.replace("(", r"\(")):
        prepare(Marking("program", options=options))


def test_a_file_beside_the_suite_is_taken_in_when_it_is_sealed(place: Place) -> None:
    text = "title: T\nquestions:\n  - {id: q, ask: Write f., mark: {scheme: program, test_file: f_test.py}}\n"
    path = place.suite("t", text)
    assert "cannot be read" in place.run("suite", "check", "t").stdout
    (path.parent / "f_test.py").write_text("from program import f\n\ndef test_f():\n    assert f() == 1\n")
    assert place.run("suite", "seal", "t", "--note", "one").exit_code == 0
    sealed = (path.parent / "editions" / "1.jsonl").read_text()
    assert "assert f() == 1" in sealed
    (path.parent / "f_test.py").write_text("changed")
    assert "1 key or way of marking" in place.run("suite", "diff", "t@1", "t@draft").stdout or "mark" in place.run("suite", "diff", "t@1", "t@draft").stdout  # fmt: skip


VALUES = st.recursive(
    st.none()
    | st.booleans()
    | st.integers(-(10**9), 10**9)
    | st.floats(allow_nan=False, allow_infinity=False)
    | st.text(max_size=5),
    lambda inner: st.lists(inner, max_size=4) | st.dictionaries(st.text(max_size=3), inner, max_size=3),
    max_leaves=8,
)


@needs_sandbox
@settings(max_examples=1, deadline=None)
@given(st.lists(VALUES, min_size=40, max_size=40))
def test_values_come_back_as_they_went_in(values: list[Any]) -> None:
    calls = [{"call": "same", "with": [value], "gives": value} for value in values]
    mark, _ = outcome({"language": "python", "calls": calls}, "```python\ndef same(x):\n    return x\n```")
    assert mark.score == 1.0, mark.reason


@given(VALUES, VALUES)
def test_a_value_is_only_the_same_as_itself(one: Any, other: Any) -> None:
    def tagged(value: Any) -> Any:
        if isinstance(value, dict):
            return {"~": "map", "v": [[name, tagged(inner)] for name, inner in value.items()]}
        return [tagged(inner) for inner in value] if isinstance(value, list) else value

    assert same_value(one, tagged(one), Tolerance())
    alike = json.dumps(one, sort_keys=True) == json.dumps(other, sort_keys=True)
    if not alike and not (isinstance(one, int | float) and isinstance(other, int | float)):
        # not by Python's own equality, to which false is 0 however deep it stands
        assert same_value(one, tagged(other), Tolerance()) is _near(one, other)


def _near(one: Any, other: Any) -> bool:
    """Tell whether two values differ only in how their numbers are written, or by less than a float holds."""
    if (
        isinstance(one, bool)
        or isinstance(other, bool)
        or type(one) in (str, type(None))
        or type(other) in (str, type(None))
    ):
        return type(one) is type(other) and one == other
    if isinstance(one, list) and isinstance(other, list):
        return len(one) == len(other) and all(map(_near, one, other))
    if isinstance(one, dict) and isinstance(other, dict):
        return one.keys() == other.keys() and all(_near(one[name], other[name]) for name in one)
    if isinstance(one, int | float) and isinstance(other, int | float):
        return Tolerance().close(one, other)
    return False


def test_the_digest_of_a_job_covers_what_goes_in_and_not_what_is_wanted() -> None:
    def digest(gives: int, given: int, reply: str) -> str:
        options = {"language": "python", "calls": [{"call": "f", "with": [given], "gives": gives}]}
        (runner,) = runners_of(Marking("program", options=options))
        job = runner.job(reply)
        assert not isinstance(job, Mark)
        return job_digest(job)

    reply = "```python\ndef f(x): return x\n```"
    assert digest(1, 2, reply) == digest(9, 2, f"Another opening.\n\n{reply}")
    assert digest(1, 2, reply) != digest(1, 3, reply)
    assert digest(1, 2, reply) != digest(1, 2, reply.replace("x", "y"))
