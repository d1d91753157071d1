"""What judges are asked about a reply, and the mark that the opinions of its panel come to."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import replace

from dryquarry.asking.judging import ToJudge
from dryquarry.asking.protocol import Load, no_files
from dryquarry.ledger.verdicts import StoredVerdict
from dryquarry.marking import registry
from dryquarry.marking.judging.panel import Opinion, settled
from dryquarry.marking.judging.request import Paper, request_content
from dryquarry.marking.model import Mark
from dryquarry.marking.options import options_of
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.schemes.rubric import RubricOptions
from dryquarry.marking.works.results import RunResult
from dryquarry.suites.digests import digest
from dryquarry.suites.question import Question


def to_judge(reply_id: int, marking_id: int, question: Question, text: str, load: Load) -> ToJudge:
    """Return what a judge is asked about a reply, as its first judgement."""
    part = registry.rubric_part(question.marking)
    assert part is not None
    assert part.rubric is not None
    shown = part.rubric.show
    documents = [file for file in question.ask.files if not file.media_type.startswith("image/")]
    images = [file for file in question.ask.files if file.media_type.startswith("image/")] if "images" in shown else []
    texts = [(file.path, load(file).decode("utf-8", "replace")) for file in documents if "documents" in shown]
    paper = Paper(question.text, tuple(texts))
    content = {**request_content(paper, part), "images": [file.sha256 for file in images]}
    return ToJudge(reply_id, marking_id, paper, text, question.marking, digest(content), images=tuple(images))


def mark_from_stored(
    question: Question, text: str, verdicts: Sequence[StoredVerdict], results: Mapping[str, RunResult]
) -> Mark | None:
    """Return the mark that stored verdicts come to by the present key, without asking anybody; None where one lacks.

    A rubric that judges see anew (other criteria, another model answer) needs new verdicts; another pass mark, spread
    or part of the panel needs none.
    """
    part = registry.rubric_part(question.marking)
    assert part is not None
    try:
        asked = to_judge(0, 0, question, text, no_files).request_digest
    except ValueError:  # the documents are not at hand here: the next run settles it
        return None
    fitting = [one for one in verdicts if one.request_digest == asked and one.points is not None and not one.again]
    options = options_of(RubricOptions, part)
    names = options.judges or tuple(dict.fromkeys(one.judge for one in fitting))
    latest = {(one.judge, one.time): Opinion(one.judge, one.time, one.points) for one in fitting}
    wanted = [(name, time) for name in names for time in range(1, options.times + 1)]
    if not wanted or any(seat not in latest for seat in wanted):
        return None
    steering = next((one.steering for one in fitting if one.steering), ())
    return mark_of_panel(question, text, [latest[seat] for seat in wanted], steering, results)


def mark_of_panel(
    question: Question,
    text: str,
    opinions: Sequence[Opinion],
    steering: Sequence[str],
    results: Mapping[str, RunResult],
) -> Mark:
    """Return the mark that a panel's opinions come to, with what the other parts of `all` or `any` say.

    `results` are what came of running the reply's works, by the digests of jobs.
    """
    part = registry.rubric_part(question.marking)
    assert part is not None
    mark = settled(opinions, part, steering)
    whole = registry.prepare_with(question.marking, mark, results)(text)
    return replace(whole, by=mark.by, outcome=str(Outcome.ANSWERED))
