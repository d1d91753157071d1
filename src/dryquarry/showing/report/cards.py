"""One reply as a page shows it: the mark, the text with the answer read set apart, what judges and tests said."""

from __future__ import annotations

from collections.abc import Mapping
from dataclasses import dataclass, field

from dryquarry.marking.model import Mark, Verdict
from dryquarry.showing.contact_sheet import verdict_sign
from dryquarry.showing.gallery import framed, safe_name
from dryquarry.showing.judgements import decision_said, verdict_head
from dryquarry.showing.replies import reply_facts
from dryquarry.showing.report.texts import MOST_SHOWN, Pieces, has_markdown, pieces_of
from dryquarry.showing.works import run_said, streams_said
from dryquarry.workspace.reply_views import ReplyView
from dryquarry.workspace.works import WorkRun

# What stands elsewhere on the page, or is told by the card's head.
_TOLD_ELSEWHERE = ("question", "options", "key", "verdict")


@dataclass(frozen=True, slots=True)
class FileLink:
    """A file beside the pages, and what it is."""

    path: str
    label: str


@dataclass(frozen=True, slots=True)
class PointRow:
    """What a judge gave for one criterion, with the words of the reply that show it; `amiss` where they do not."""

    criterion: str
    points: str
    why: str
    evidence: str
    amiss: str


@dataclass(frozen=True, slots=True)
class JudgeCard:
    """A judgement, or a person's decision: who, what it came to, and its points."""

    who: str
    said: str
    points: tuple[PointRow, ...] = ()


@dataclass(frozen=True, slots=True)
class RunCard:
    """What came of running what a reply holds."""

    said: str
    checks: tuple[tuple[bool, str, str], ...]
    streams: tuple[tuple[str, str], ...]
    files: tuple[FileLink, ...]
    pictures: tuple[FileLink, ...]


@dataclass(frozen=True, slots=True)
class ReplyCard:
    """One reply; `kind` is its mark's class, `page` where its entrant is, `whole` the file with all of it.

    `code` tells that its text is mostly a program.
    """

    anchor: str
    entrant: str
    title: str
    page: str
    trial: str
    sign: str
    kind: str
    reason: str
    facts: tuple[tuple[str, str], ...]
    text: Pieces | None
    markdown: bool = False
    reasoning: str = ""
    whole: str = ""
    code: bool = False
    judged: tuple[JudgeCard, ...] = ()
    runs: tuple[RunCard, ...] = ()


@dataclass
class Beside:
    """The files that cards lead to, by their paths; `pictures` are those that were taken, by their digests."""

    pictures: Mapping[str, bytes]
    files: dict[str, bytes] = field(default_factory=dict)


def mark_kind(mark: Mark | None) -> str:
    """Return the class of a mark: pass, part, fail, open, void, or none without a mark."""
    if mark is None:
        return "none"
    if mark.verdict is Verdict.FAIL and mark.score not in (None, 0.0):
        return "part"
    return str(mark.verdict)


def trial_said(view: ReplyView) -> str:
    """Return which trial a reply is, and whether it is a second try; "" for the only one."""
    trial = view.reply.held.trial
    said = [f"trial {trial}"] if trial > 1 else []
    return ", ".join([*said, *(["second try"] if view.second_try else [])])


def anchor_of(view: ReplyView, page: str) -> str:
    """Return the anchor of a reply on the page of its question."""
    held = view.reply.held
    return f"{page}:{view.entrant.name}:{held.trial}{':second' if view.second_try else ''}"


def card_of(view: ReplyView, page: str, beside: Beside, *, texts: bool, most: int = MOST_SHOWN) -> ReplyCard:
    """Return a reply's card on a page; without `texts` its mark and figures alone."""
    mark, text = view.mark, view.reply.text
    pieces = pieces_of(text, mark, most) if texts else None
    anchor = anchor_of(view, page)
    whole = ""
    if pieces is not None and pieces.cut and len(text) > MOST_SHOWN:
        whole = f"texts/{_own_path(anchor)}.txt"
        beside.files[whole] = text.encode("utf-8", "replace")
    return ReplyCard(
        anchor,
        view.entrant.name,
        view.entrant.title,
        f"entrant:{view.entrant.name}",
        trial_said(view),
        verdict_sign(mark),
        mark_kind(mark),
        mark.reason if mark is not None else "no mark yet",
        tuple(fact for fact in reply_facts(view) if _told(fact, texts)),
        pieces,
        pieces is not None and not pieces.cut and has_markdown(text),
        (view.reply.reasoning or "")[:MOST_SHOWN] if texts else "",
        whole,
        bool(view.runs),
        _judged(view),
        tuple(_run(run, anchor, beside) for run in view.runs),
    )


def _own_path(anchor: str) -> str:
    """Return the path that no other reply has, of the parts of its anchor."""
    return "/".join(safe_name(part) for part in anchor.split(":")[1:])


def _told(fact: tuple[str, str], texts: bool) -> bool:
    return fact[0] not in _TOLD_ELSEWHERE and (texts or fact[0] != "answer")


def _judged(view: ReplyView) -> tuple[JudgeCard, ...]:
    judges = tuple(
        JudgeCard(
            one.judge,
            verdict_head(one),
            tuple(
                PointRow(
                    point.criterion,
                    f"{point.points:g}",
                    point.why,
                    point.evidence,
                    "" if point.supported else "not in the reply" if point.evidence else "no evidence",
                )
                for point in one.points or ()
            ),
        )
        for one in view.verdicts
    )
    return judges + tuple(JudgeCard(one.person, decision_said(one)) for one in view.decisions)


def _run(run: WorkRun, anchor: str, beside: Beside) -> RunCard:
    folder = f"works/{_own_path(anchor)}"
    links = []
    for one in run.work.files:
        path = "/".join(safe_name(part) for part in one.path.split("/"))
        if run.work.language not in ("html", "svg"):
            links.append(_put(beside, f"{folder}/{path}.txt", one.text.encode("utf-8", "replace"), one.path))
            continue
        plain = framed(one.text, scripts=False).encode("utf-8", "replace")
        links.append(_put(beside, f"{folder}/{path}.html", plain, f"{one.path} in a frame, without scripts"))
        if run.work.language == "html":
            lively = framed(one.text, scripts=True).encode("utf-8", "replace")
            links.append(_put(beside, f"{folder}/{path}.scripts.html", lively, f"{one.path} with its scripts"))
        links.append(_put(beside, f"{folder}/{path}.txt", one.text.encode("utf-8", "replace"), f"{one.path} as text"))
    taken = {digest: one.name for one in run.result.tests for digest in one.pictures if digest in beside.pictures}
    pictures = tuple(
        _put(beside, f"pictures/{digest[:24]}.png", beside.pictures[digest], name) for digest, name in taken.items()
    )
    return RunCard(
        run_said(run),
        tuple((one.passed, one.name, one.said) for one in run.checks),
        tuple(streams_said(run)),
        tuple(links),
        pictures,
    )


def _put(beside: Beside, path: str, content: bytes, label: str) -> FileLink:
    beside.files[path] = content
    return FileLink(path, label)
