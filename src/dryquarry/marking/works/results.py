"""What came of running a work: one result a test, and of the whole; what a mark is made from, and what people see."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import asdict, dataclass, field, fields, replace
from enum import StrEnum
from typing import Any


class Ended(StrEnum):
    """How a run of a program ended."""

    DONE = "done"
    RAISED = "raised"
    CRASHED = "crashed"
    LEFT = "left"  # the program ended before the call came back
    TIME = "time"
    MEMORY = "memory"
    OUTPUT = "output"
    NOT_RUN = "not run"


@dataclass(frozen=True, slots=True)
class Ran:
    """One test's run.

    `value` is what a call gave (as plain data with tags), `raised` the kinds of an error, nearest first.
    `out` and `err` are the two output streams as far as they are kept, `files` what was left in the folder that the
    test asks for; `detail` is anything more that a person is told. Times are of the clock, memory is the most at once.
    """

    name: str
    ended: Ended
    value: Any = None
    raised: tuple[str, ...] = ()
    detail: str = ""
    out: str = ""
    err: str = ""
    exit_code: int | None = None
    files: Mapping[str, str] = field(default_factory=dict)
    pictures: tuple[str, ...] = ()
    screens: tuple[str, ...] = ()
    seconds: float = 0.0
    memory_mb: float = 0.0


@dataclass(frozen=True, slots=True)
class Checked:
    """How one test came out against what is wanted; `said` is what is told of one that failed."""

    name: str
    passed: bool
    said: str = ""


@dataclass(frozen=True, slots=True)
class RunResult:
    """All that came of running one work; `runtime` is with what it was run, such as "Python 3.11.7".

    `build` is why it could not be built, where it could not; `images` are the pictures taken, as PNG by their digests,
    which are stored apart.
    """

    runtime: str
    tests: tuple[Ran, ...] = ()
    build: str | None = None
    seconds: float = 0.0
    memory_mb: float = 0.0
    images: Mapping[str, bytes] = field(default_factory=dict)

    def test(self, name: str) -> Ran | None:
        """Return the run of a test, or None."""
        return next((one for one in self.tests if one.name == name), None)


def result_content(result: RunResult) -> dict[str, Any]:
    """Return a result as plain data, without what is empty."""
    content = asdict(replace(result, images={}))
    del content["images"]
    content["tests"] = [
        {
            name: list(value) if isinstance(value, tuple) else value
            for name, value in one.items()
            if value not in ("", (), {}, None) or name == "value"
        }
        for one in content["tests"]
    ]
    return content


def result_of(content: Mapping[str, Any]) -> RunResult:
    """Return the result that plain data hold."""
    known = {one.name for one in fields(Ran)}
    tests = []
    for one in content.get("tests", ()):
        kept = {name: value for name, value in one.items() if name in known}
        for name in ("raised", "pictures", "screens"):
            kept[name] = tuple(kept.get(name, ()))
        tests.append(Ran(**{**kept, "ended": Ended(one["ended"])}))
    return RunResult(
        str(content.get("runtime", "")),
        tuple(tests),
        content.get("build"),
        float(content.get("seconds", 0.0)),
        float(content.get("memory_mb", 0.0)),
    )
