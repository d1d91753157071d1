"""How a text is read and marked, step by step."""

from __future__ import annotations

from dataclasses import asdict

from rich.cells import cell_len, set_cell_size

from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.registry import SCHEMES
from dryquarry.marking.schemes.reading_marker import Reading
from dryquarry.marking.values.texts import shortened
from dryquarry.showing import figures
from dryquarry.showing.replies import said_key
from dryquarry.showing.text import labelled, quoted
from dryquarry.showing.view import Sheet, View
from dryquarry.showing.works import works_data, works_lines
from dryquarry.workspace.trying import Tried

STANDS, NOT = "▸", "·"


def tried_view(tried: Tried) -> View:
    """Return how a text is read and marked."""
    mark, question = tried.mark, tried.question
    data = {
        "suite": tried.suite.name,
        "edition": tried.suite.edition,
        "question": question.id,
        "scheme": question.marking.scheme,
        "outcome": str(tried.outcome),
        "claims": [asdict(one) for one in tried.readings],
        "answer": mark.answer,
        "read_by": mark.read_by,
        "start": mark.start,
        "end": mark.end,
        "rule": mark.rule,
        "form_kept": mark.form_kept,
        "score": mark.score,
        "verdict": str(mark.verdict),
        "reason": mark.reason,
        "sure": mark.sure,
        "unsure_because": mark.unsure_because,
        **({"runs": works_data(tried.runs)} if tried.runs else {}),
    }
    rows = [[name, value] for name, value in data.items() if name not in ("claims", "runs")]
    return View(data, Sheet(["what", "value"], rows), text=lambda width: _text(tried, width))


def _text(tried: Tried, width: int | None) -> str:
    mark, question = tried.mark, tried.question
    steps = [("key", said_key(question)), ("scheme", question.way), ("outcome", _outcome(tried))]
    widest = max((cell_len(_stance(one)) for one in tried.readings), default=0)
    steps += [("" if number else "claims", _claim(tried, one, widest)) for number, one in enumerate(tried.readings)]
    steps.append(("read", _read(tried)))
    if mark.rule:
        steps.append(("by rule", mark.rule))
    if mark.form_kept is not None:
        steps.append(("form", "as asked for" if mark.form_kept else "not on the answer line that was asked for"))
    score = "" if mark.score in (None, 0.0, 1.0) else f", score {figures.percent(mark.score, 0)}"
    steps.append(("verdict", f"{mark.verdict}{score}: {mark.reason}"))
    steps.append(("sure", "yes" if mark.sure else f"no: {mark.unsure_because}"))
    lines = [f"{tried.suite.reference}/{question.id}: a text that is not stored", ""]
    for name, value in steps:
        lines += labelled(name, value, width)
    lines += works_lines(tried.runs, width)
    return "\n".join([*lines, "", *_marked(tried, width)]) + "\n"


def _read(tried: Tried) -> str:
    mark = tried.mark
    if mark.answer and mark.read_by:
        return f"{mark.answer}  [{mark.read_by}{_line(tried, mark.start)}]"
    if mark.answer:
        return f"no answer in '{mark.answer}'"
    whole = SCHEMES[tried.question.marking.scheme].reads_whole and tried.outcome is Outcome.ANSWERED
    return "the whole reply" if whole else "no answer"


def _outcome(tried: Tried) -> str:
    return "answered" if str(tried.outcome) == "answered" else f"{tried.outcome}: the text declines to answer"


def _stance(one: Reading) -> str:
    return one.stance + (f" ('{shortened(one.cue, 24)}')" if one.cue else "")


def _claim(tried: Tried, one: Reading, width: int) -> str:
    stance = set_cell_size(_stance(one), width)
    return (
        f"{STANDS if one.stands else NOT} {stance}  '{shortened(one.text, 40)}'  [{one.place}{_line(tried, one.start)}]"
    )


def _line(tried: Tried, start: int | None) -> str:
    return "" if start is None else f", line {tried.text.count(chr(10), 0, start) + 1}"


def _marked(tried: Tried, width: int | None) -> list[str]:
    """Return the text with the line in which the answer stands set off."""
    at = None if tried.mark.start is None or not tried.mark.answer else tried.text.count("\n", 0, tried.mark.start)
    return quoted(tried.text.rstrip("\n"), width, at)
