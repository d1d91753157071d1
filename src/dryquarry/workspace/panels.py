"""Who marks a question: its panel of judges, what they are shown, and the mark that their verdicts come to."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass, replace

from dryquarry.asking.entrants import Entrant
from dryquarry.asking.judging import ToJudge
from dryquarry.asking.protocol import Load, no_files
from dryquarry.errors import UsageFault, closest
from dryquarry.ledger.verdicts import StoredVerdict
from dryquarry.marking import registry
from dryquarry.marking.judging.panel import Opinion, settled
from dryquarry.marking.judging.request import Paper, request_content
from dryquarry.marking.model import Mark
from dryquarry.marking.options import options_of
from dryquarry.marking.outcomes import Outcome
from dryquarry.marking.schemes.rubric import ALLOWED, RubricOptions
from dryquarry.marking.works.results import RunResult
from dryquarry.suites.digests import digest
from dryquarry.suites.question import Question, Suite

MAKER = "maker"


@dataclass(frozen=True, slots=True)
class Seat:
    """A place on the panel of a question: a judge, asked for the `time`-th time."""

    judge: Entrant
    time: int


def needs_judge(question: Question) -> bool:
    """Tell whether the question is marked by a judge."""
    return registry.rubric_part(question.marking) is not None


def judges_for(question: Question, judges: Mapping[str, Entrant]) -> tuple[Entrant, ...]:
    """Return the judges that the question names, or else the only one there is; raises UsageFault."""
    part = registry.rubric_part(question.marking)
    named = options_of(RubricOptions, part).judges if part is not None else ()
    if not named:
        return tuple(judges.values()) if len(judges) == 1 else ()
    for name in named:
        if name not in judges:
            raise UsageFault(
                f"{question.file}:{question.line}: question {question.id}: there is no judge '{name}' "
                f"in entrants.toml{closest(name, judges)}"
            )
    return tuple(judges[name] for name in named)


def own_family(judge: Entrant, entrant: Entrant) -> bool:
    """Tell whether a judge would mark its own kind: the same model name, or the same declared maker."""
    makers = [str(one.traits[MAKER]).casefold() for one in (judge, entrant) if one.traits.get(MAKER)]
    return judge.model == entrant.model or (len(makers) == 2 and makers[0] == makers[1])


def family_allowed(question: Question) -> bool:
    """Tell whether the suite lets judges mark their own kind on this question."""
    part = registry.rubric_part(question.marking)
    return part is not None and options_of(RubricOptions, part).own_family == ALLOWED


def own_family_notes(suite: Suite, entrants: Sequence[Entrant], judges: Mapping[str, Entrant]) -> list[str]:
    """Return, in sentences, which judges mark entrants of their own kind, where a suite allows it."""
    if not any(own_family(judge, entrant) for judge in judges.values() for entrant in entrants):
        return []
    allowing = [question for question in suite.asked() if needs_judge(question) and family_allowed(question)]
    pairs = {
        (judge.name, entrant.name): None
        for question in allowing
        for judge in judges_for(question, judges)
        for entrant in entrants
        if own_family(judge, entrant)
    }
    return [
        f"{suite.name}: judge {judge} marks {entrant}, which is of its own model or maker; the suite allows it"
        for judge, entrant in pairs
    ]


def seats_of(question: Question, entrant: Entrant, judges: Mapping[str, Entrant]) -> tuple[Seat, ...]:
    """Return the panel for an entrant's replies to a question: no judge marks its own kind unless allowed."""
    part = registry.rubric_part(question.marking)
    times = options_of(RubricOptions, part).times if part is not None else 1
    fit = [one for one in judges_for(question, judges) if family_allowed(question) or not own_family(one, entrant)]
    return tuple(Seat(judge, time) for judge in fit for time in range(1, times + 1))


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


def check_priced(judge: Entrant | None, budget: float | None) -> None:
    """Raise UsageFault where a budget is to be kept and nobody knows what the judge costs."""
    if judge is not None and budget is not None and judge.price is None:
        raise UsageFault(f"judge '{judge.name}' has no price, so no budget can be kept; give it one in entrants.toml")


def no_judge(count: int) -> str:
    """Return that so many replies or questions have no judge, and what to do, in a sentence."""
    who = "question has" if count == 1 else "questions have"
    return (
        f"{count} {who} no judge to ask, so marks will stay open: add one [judge.NAME] to entrants.toml, "
        "or name one of several with `judge:` in the question's mark"
    )
