"""Scheme `page`: the page or drawing in the reply holds what is asked, and does in a browser what the steps want."""

from __future__ import annotations

from collections.abc import Sequence
from dataclasses import dataclass, field, replace
from typing import Any

from dryquarry.marking.model import (
    Mark,
    Marker,
    Marking,
    MarkingFault,
    Runner,
    Scheme,
    Verdict,
    failed,
    never,
    scored,
    waits,
)
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.schemes.nested import Prepare
from dryquarry.marking.works.jobs import DOINGS, DrawingJob, Job, Limits, PageJob
from dryquarry.marking.works.languages import language_named
from dryquarry.marking.works.markup import Contained, contained_of, lacking, malformed
from dryquarry.marking.works.model import NoWork, Work
from dryquarry.marking.works.page_steps import StepWanted, steps_wanted
from dryquarry.marking.works.results import Checked, Ended, Ran, RunResult
from dryquarry.marking.works.taking import text_in

KINDS = ("html", "svg")
SMALLEST, LARGEST = 16, 4096
OPENS, QUIET, DRAWN = "opens", "no error in the console", "drawn"
WELL_FORMED = "well-formed"


@dataclass(frozen=True, slots=True)
class PageOptions:
    """`kind` is html or svg; `contains` what it must hold, `steps` what is done with it in a browser of a `size`.

    `errors: allowed` lets the console hold errors, `well_formed: false` lets tags be open. With `hand` the mark waits
    for a person once all else is right, who sees the pictures. `partial` gives credit by check.
    """

    kind: str = "html"
    contains: list[Any] | str = field(default_factory=list)
    steps: list[Any] = field(default_factory=list)
    size: list[Any] = field(default_factory=lambda: [800, 600])
    errors: str | None = None
    well_formed: bool = True
    hand: bool = False
    seconds: float = 30
    partial: bool = False


@dataclass(frozen=True, slots=True)
class _Wanted:
    contains: tuple[Contained, ...]
    steps: tuple[StepWanted, ...]
    options: PageOptions

    @property
    def needs_browser(self) -> bool:
        return self.options.kind == "html" or bool(self.steps)


def runner(marking: Marking, prepare: Prepare) -> Runner:
    """Return what opens a page question's pages; raises MarkingFault."""
    options = options_of(PageOptions, marking)
    size = _checked(options, marking)
    wanted = _Wanted(contained_of(options.contains), steps_wanted(options.steps, marking, prepare), options)
    steps = tuple(one.step for one in wanted.steps)
    limits = Limits(seconds=options.seconds, memory_mb=4096, processes=2000, disk_mb=512)

    def job(text: str) -> Job | Mark:
        work = text_in(text, options.kind)
        if isinstance(work, NoWork):
            return replace(failed(work.reason), start=work.start)
        static = _static(work, wanted)
        if not options.partial and not all(one.passed for one in static):
            return _placed(_from(static, (), options), work)
        return (
            PageJob(work, size, steps, bool(wanted.contains), limits)
            if wanted.needs_browser
            else DrawingJob(work, size)
        )

    def settle(text: str, result: RunResult) -> Mark:
        asked = job(text)
        if isinstance(asked, Mark):
            return asked
        return _placed(_from(checks(text, result), result.tests, options), asked.work)

    def checks(text: str, result: RunResult) -> tuple[Checked, ...]:
        asked = job(text)
        if isinstance(asked, Mark):
            return ()
        return (*_static(asked.work, wanted), *_dynamic(wanted, result))

    return Runner(job, settle, checks)


def prepare(marking: Marking, prepare_part: Prepare) -> Marker:
    """Return the marker that fails a reply without a page or with one that lacks something, and leaves others open."""
    return waits(runner(marking, prepare_part))


def _checked(options: PageOptions, marking: Marking) -> tuple[int, int]:
    """Return the size; raises MarkingFault for an option with a value that it cannot have."""
    if marking.key is not None:
        raise MarkingFault("scheme 'page' takes no key: what is wanted stands in `contains` and `steps`")
    if options.kind not in KINDS:
        raise MarkingFault(f"option 'kind' of scheme 'page' is {' or '.join(KINDS)}, not {options.kind!r}")
    if options.errors not in (None, "allowed"):
        raise MarkingFault("option 'errors' of scheme 'page' is 'allowed' or absent")
    size = options.size
    if len(size) != 2 or not all(isinstance(one, int) and SMALLEST <= one <= LARGEST for one in size):
        raise MarkingFault(
            f"option 'size' of scheme 'page' is a list of two numbers of pixels such as [800, 600], not {size!r}"
        )
    return size[0], size[1]


def _static(work: Work, wanted: _Wanted) -> list[Checked]:
    """Return what the text alone tells; what a page contains, scripts may have put there, so that is asked later."""
    found = []
    if wanted.options.well_formed:
        broken = malformed(work.text, wanted.options.kind)
        found.append(Checked(WELL_FORMED, broken is None, f"it is not: {broken}" if broken else ""))
    return found if wanted.needs_browser else found + _contained(work.text, wanted)


def _contained(text: str, wanted: _Wanted) -> list[Checked]:
    without = {id(one): said for one, said in lacking(text, wanted.contains)}
    return [Checked(one.name, id(one) not in without, without.get(id(one), "")) for one in wanted.contains]


def _dynamic(wanted: _Wanted, result: RunResult) -> list[Checked]:
    """Return what the browser tells: that it opens, without errors, and how each step came out."""
    found = [_plain(one) for one in result.tests if one.name in (OPENS, DRAWN)]
    opened = result.test(OPENS)
    if wanted.needs_browser:
        found += _contained(str(opened.value or "") if opened is not None else "", wanted)
    found += _steps(wanted, result)
    if wanted.options.errors is None:
        found += [_plain(one) for one in result.tests if one.name == QUIET]
    return found


def _steps(wanted: _Wanted, result: RunResult) -> list[Checked]:
    """Return how what was looked for came out; what was only done counts where it could not be done.

    After a step that is not so, the others are not so either: what they see is no longer what was asked for.
    """
    found: list[Checked] = []
    failed_at: str | None = None
    for one in wanted.steps:
        came = _step(one, result.test(one.step.name))
        if failed_at is not None:
            came = Checked(one.step.name, False, f"for '{failed_at}' was not so")
        elif not came.passed:
            failed_at = one.step.name
        if one.step.act not in DOINGS or failed_at == one.step.name:
            found.append(came)
    return found


def _plain(ran: Ran) -> Checked:
    said = "did not end in time" if ran.ended is Ended.TIME else ran.detail or str(ran.ended)
    return Checked(ran.name, ran.ended is Ended.DONE, "" if ran.ended is Ended.DONE else said)


def _step(wanted: StepWanted, ran: Ran | None) -> Checked:
    if ran is None or ran.ended is Ended.NOT_RUN:
        return Checked(wanted.step.name, False, ran.detail if ran and ran.detail else "was not come to")
    if ran.ended is not Ended.DONE or wanted.marker is None:
        return _plain(ran)
    mark = wanted.marker(str(ran.value))
    return Checked(ran.name, mark.score == 1.0, "" if mark.score == 1.0 else mark.reason)


def _from(found: Sequence[Checked], tests: Sequence[Ran], options: PageOptions) -> Mark:
    good = sum(one.passed for one in found)
    bad = next((one for one in found if not one.passed), None)
    if bad is None and options.hand and tests:
        return Mark(None, Verdict.OPEN, f"waits for a person to look at it; passed {good} checks")
    if bad is None:
        return replace(scored(1.0, ""), reason=f"passed {good} {'check' if good == 1 else 'checks'}")
    more = len(found) - good - 1
    said = f"'{bad.name}': {bad.said}" + (f"; {more} more" if more else "")
    return scored(good / len(found) if options.partial else 0.0, f"failed {said}")


def _placed(mark: Mark, work: Work) -> Mark:
    lines = work.text.count("\n")
    answer = f"{work.main} ({lines} {'line' if lines == 1 else 'lines'} of {language_named(work.language).title})"
    return replace(mark, answer=answer, read_by=work.how or "its only page", start=work.start, end=work.end)


def way(marking: Marking) -> str:
    """Return in few words how a page question marks."""
    options = options_of(PageOptions, marking)
    many = len(options.contains) if isinstance(options.contains, list) else 1
    parts = [
        *([f"{many} things to contain"] if many else []),
        *([f"{len(options.steps)} steps"] if options.steps else []),
    ]
    parts += ["a person looks"] if options.hand else []
    return f"page ({options.kind.upper()}: {', '.join(parts) or 'opens'})"


SCHEME = Scheme(
    name="page",
    options=option_types(PageOptions),
    prepare=prepare,
    nests=True,
    runs=runner,
    way=way,
    reads_whole=True,
    has_answer=never,
)
