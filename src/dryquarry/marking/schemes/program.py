"""Scheme `program`: the program in the reply passes its tests in the sandbox.

Running it is not done here: this says what is to be run, without what is wanted of it, and makes a mark of what came
out. A verdict rests on nothing that a program can say of itself: values, texts and exit codes are compared here,
outside the sandbox, with what the author wants, which the program is never shown.
"""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Runner, Scheme, failed, never, scored, waits
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.regexes import regex
from dryquarry.marking.schemes.nested import Prepare
from dryquarry.marking.works.jobs import DOINGS, AuthorsTests, Job, Limits, ProgramJob, Screen
from dryquarry.marking.works.languages import language_named
from dryquarry.marking.works.model import NoWork, Work
from dryquarry.marking.works.program_tests import (
    ANY,
    CallWanted,
    SessionWanted,
    authors_tests,
    calls_wanted,
    sessions_wanted,
)
from dryquarry.marking.works.results import Checked, Ended, Ran, RunResult
from dryquarry.marking.works.screen_steps import screen_of
from dryquarry.marking.works.taking import program_in
from dryquarry.marking.works.values import Tolerance, same_value, told, told_wanted

MOST_SECONDS = 300
MOST_MEMORY_MB = 8192
MOST_OUTPUT_KB = 4096
CALLED = ("python", "javascript")
_DATE = regex(r"\d{4}-\d\d-\d\d")


@dataclass(frozen=True, slots=True)
class ProgramOptions:
    """In which `language` (or one of several), and the tests: `calls`, `sessions`, a `test_file` beside the suite.

    `terminal` and `window` are steps with the program in one of those.

    `abs`, `rel` and `order: any` hold for all calls that do not say; `seconds`, `memory_mb` and `output_kb` are what
    each test may take; `date` the day that the program believes it is. `partial` gives credit by test.
    """

    language: str | list[Any] | None = None
    calls: list[Any] = field(default_factory=list)
    sessions: list[Any] = field(default_factory=list)
    test_file: dict[str, Any] | str | None = None
    terminal: dict[str, Any] | None = None
    window: dict[str, Any] | None = None
    abs: float | None = None
    rel: float | None = None
    order: str | None = None
    seconds: float = 10
    memory_mb: int = 512
    output_kb: int = 256
    date: str | None = None
    partial: bool = False


@dataclass(frozen=True, slots=True)
class _Tests:
    calls: tuple[CallWanted, ...]
    sessions: tuple[SessionWanted, ...]
    file: AuthorsTests | None
    screens: tuple[Screen, ...]


def runner(marking: Marking, prepare: Prepare) -> Runner:
    """Return what runs a program question: its job from a reply, and its mark from what came; raises MarkingFault."""
    options = options_of(ProgramOptions, marking)
    languages = _languages(options)
    tests = _tests(options, marking, prepare, languages)
    limits = _limits(options)
    wanted = tuple(dict.fromkeys(one.call.function.partition(".")[0] for one in tests.calls))

    def job(text: str) -> Job | Mark:
        work = program_in(text, languages, wanted or _names_imported(tests.file))
        if isinstance(work, NoWork):
            return replace(failed(work.reason), start=work.start)
        calls, sessions = tuple(one.call for one in tests.calls), tuple(one.session for one in tests.sessions)
        return ProgramJob(work.language, work, calls, sessions, tests.file, tests.screens, limits, options.date)

    def settle(text: str, result: RunResult) -> Mark:
        asked = job(text)
        return asked if isinstance(asked, Mark) else _marked(asked.work, tests, result, options)

    def checks(text: str, result: RunResult) -> tuple[Checked, ...]:
        asked = job(text)
        return () if isinstance(asked, Mark) else tuple(checked(tests, result, asked.work.language))

    return Runner(job, settle, checks)


def prepare(marking: Marking, prepare_part: Prepare) -> Marker:
    """Return the marker that fails a reply without a program, and leaves every other open until it is run."""
    return waits(runner(marking, prepare_part))


def _languages(options: ProgramOptions) -> list[str]:
    given = options.language if isinstance(options.language, list) else [options.language]
    if not all(one is None or isinstance(one, str) for one in given):
        raise MarkingFault("option 'language' of scheme 'program' is the name of a language, or a list of them")
    return [language_named(one).name for one in given if one is not None]


def _tests(options: ProgramOptions, marking: Marking, prepare: Prepare, languages: Sequence[str]) -> _Tests:
    if marking.key is not None:
        raise MarkingFault("scheme 'program' takes no key: what is wanted stands in `calls`, `sessions` or `test_file`")
    if options.order not in (None, ANY):
        raise MarkingFault(f"option 'order' of scheme 'program' is '{ANY}' or absent")
    default = Tolerance(options.abs, options.rel, options.order is None)
    tests = _Tests(
        calls_wanted(options.calls, default),
        sessions_wanted(options.sessions, marking, prepare),
        authors_tests(options.test_file),
        tuple(screen_of(one, kind) for kind in ("terminal", "window") if (one := getattr(options, kind)) is not None),
    )
    if not (tests.calls or tests.sessions or tests.file or tests.screens):
        raise MarkingFault(
            "scheme 'program' wants tests: `calls`, `sessions`, a `test_file`, a `terminal` or a `window`"
        )
    names = [one.call.name for one in tests.calls] + [one.session.name for one in tests.sessions]
    names += [step.name for one in tests.screens for step in one.steps]
    twice = next((name for name in names if names.count(name) > 1), None)
    if twice is not None:
        raise MarkingFault(f"two tests are called '{twice}'; a test's name says which one failed")
    uncalled = [name for name in languages if name not in CALLED]
    if tests.calls and (uncalled or not languages):
        said = f"{uncalled[0]} has none that this can call" if uncalled else "`language` says in which"
        raise MarkingFault(
            f"`calls` are of functions in {' or '.join(CALLED)}; {said}; `sessions` go with every language"
        )
    return tests


def _limits(options: ProgramOptions) -> Limits:
    for name, most in (("seconds", MOST_SECONDS), ("memory_mb", MOST_MEMORY_MB), ("output_kb", MOST_OUTPUT_KB)):
        if not 0 < getattr(options, name) <= most:
            raise MarkingFault(f"option '{name}' of scheme 'program' is above 0 and up to {most}")
    if options.date is not None and not _DATE.fullmatch(options.date):
        raise MarkingFault(f"option 'date' of scheme 'program' is a day such as 2026-03-01, not {options.date!r}")
    return Limits(options.seconds, options.memory_mb, output_kb=options.output_kb)


def _names_imported(tests: AuthorsTests | None) -> tuple[str, ...]:
    """Return the names that a file of tests takes from the program, which tell it from other code in the reply."""
    found = re.findall(r"^from program import \(?([\w, \n]+)\)?", tests.text, re.MULTILINE) if tests is not None else []
    return tuple(dict.fromkeys(re.findall(r"\w+", " ".join(found))))


def checked(tests: _Tests, result: RunResult, language: str) -> list[Checked]:
    """Return how each test came out, in the order in which the author has them."""
    found = [_call(one, result.test(one.call.name), language) for one in tests.calls]
    found += [_session(one, result.test(one.session.name)) for one in tests.sessions]
    for screen in tests.screens:
        came = ((step, _plain(step.name, result.test(step.name)), result.test(step.name)) for step in screen.steps)
        # what was only done counts where it could not be done
        found += [
            one for step, one, ran in came if step.act not in DOINGS or (ran is not None and ran.ended is Ended.RAISED)
        ]
    if tests.file is not None:
        own = {one.name for one in found}
        found += [
            Checked(one.name, one.ended is Ended.DONE, _ended(one)) for one in result.tests if one.name not in own
        ]
    return found


def _marked(work: Work, tests: _Tests, result: RunResult, options: ProgramOptions) -> Mark:
    lines = work.text.count("\n") + (not work.text.endswith("\n"))
    answer = f"{work.main} ({lines} {'line' if lines == 1 else 'lines'} of {language_named(work.language).title})"
    mark = _from_tests(checked(tests, result, work.language), result, options.partial)
    return replace(mark, answer=answer, read_by=work.how or "its only piece of code", start=work.start, end=work.end)


def _from_tests(found: Sequence[Checked], result: RunResult, partial: bool) -> Mark:
    if result.build is not None:
        return failed(f"it does not compile: {result.build}")
    good = sum(one.passed for one in found)
    bad = next((one for one in found if not one.passed), None)
    if bad is None and found:
        return replace(scored(1.0, f"passed {_tests_said(good)}"))
    if bad is None:
        return failed("its test file holds no test that was run")
    said = f"failed {len(found) - good} of {_tests_said(len(found))}; " if len(found) > 1 else ""
    first = f"{'first ' if len(found) - good > 1 else ''}'{bad.name}': "
    # what breaks all of them is no matter of the first
    reason = said + ("" if len({one.said for one in found}) == 1 < len(found) else first) + bad.said
    return scored(good / len(found) if partial else 0.0, reason)


def _tests_said(count: int) -> str:
    return "1 test" if count == 1 else f"{count} tests"


def _call(wanted: CallWanted, ran: Ran | None, language: str) -> Checked:
    call = wanted.call
    given = [told_wanted(one, language) for one in call.arguments]
    given += [f"{name}={told_wanted(one, language)}" for name, one in call.named.items()]
    what = f"{call.function}({', '.join(given)})"
    want = f"{wanted.raises} was wanted" if wanted.raises else f"{told_wanted(wanted.gives, language)} was wanted"
    if ran is None or ran.ended not in (Ended.DONE, Ended.RAISED):
        return Checked(call.name, False, f"{what} {_ended(ran)}, {want}")
    if ran.ended is Ended.RAISED:
        if wanted.raises is not None and wanted.raises in ran.raised:
            return Checked(call.name, True)
        return Checked(call.name, False, f"{what} raised {_error(ran)}, {want}" if ran.raised else ran.detail)
    if wanted.raises is None and same_value(wanted.gives, ran.value, wanted.tolerance):
        return Checked(call.name, True)
    return Checked(call.name, False, f"{what} gave {told(ran.value, language)}, {want}")


def _session(wanted: SessionWanted, ran: Ran | None) -> Checked:
    name = wanted.session.name
    if ran is None or ran.ended is not Ended.DONE:
        return Checked(name, False, _ended(ran))
    if wanted.exit_code is not None and ran.exit_code != wanted.exit_code:
        last = next((line for line in reversed(ran.err.splitlines()) if line.strip()), "")
        more = f" ({last.strip()[:200]})" if last else ""
        return Checked(name, False, f"exit code {ran.exit_code}, {wanted.exit_code} was wanted{more}")
    for what, marker, text in (("output", wanted.output, ran.out), ("error output", wanted.errors, ran.err)):
        if marker is not None and (mark := marker(text)).score != 1.0:
            return Checked(name, False, f"{what}: {mark.reason}")
    for path, marker in wanted.left.items():
        if path not in ran.files:
            return Checked(name, False, f"no file '{path}' was left")
        if (mark := marker(ran.files[path])).score != 1.0:
            return Checked(name, False, f"the file '{path}': {mark.reason}")
    return Checked(name, True)


def _plain(name: str, ran: Ran | None) -> Checked:
    passed = ran is not None and ran.ended is Ended.DONE
    return Checked(name, passed, "" if passed else _ended(ran))


_SAID = {
    Ended.TIME: "did not end in time",
    Ended.MEMORY: "took more memory than it may",
    Ended.OUTPUT: "wrote more than it may",
    Ended.CRASHED: "crashed",
    Ended.LEFT: "ended the program instead of coming back",
    Ended.NOT_RUN: "was not run",
}


def _ended(ran: Ran | None) -> str:
    """Return in words how a test ended that did not end well."""
    if ran is None:
        return "was not run"
    if ran.ended is Ended.RAISED:
        return ran.detail or _error(ran)
    return _SAID.get(ran.ended, "") + (f" ({ran.detail})" if ran.detail else "")


def _error(ran: Ran) -> str:
    return f"{ran.raised[0] if ran.raised else 'an error'}{f': {ran.detail}' if ran.detail else ''}"


def way(marking: Marking) -> str:
    """Return in few words how a program question marks."""
    options = options_of(ProgramOptions, marking)
    titles = " or ".join(language_named(name).title for name in _languages(options)) or "any language"
    screens = (("terminal", options.terminal), ("window", options.window))
    tests = [
        *([f"{len(options.calls)} calls"] if options.calls else []),
        *([f"{len(options.sessions)} sessions"] if options.sessions else []),
        *(f"{len(one['steps'])} steps in a {kind}" for kind, one in screens if one is not None),
        *([f"the tests of {options.test_file['path']}"] if isinstance(options.test_file, dict) else []),
    ]
    partial = ", part credit" if options.partial else ""
    return f"program ({titles}: {', '.join(tests)}{partial})"


SCHEME = Scheme(
    name="program",
    options=option_types(ProgramOptions),
    prepare=prepare,
    nests=True,
    runs=runner,
    files=("test_file",),
    way=way,
    reads_whole=True,
    has_answer=never,
)
