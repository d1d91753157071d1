"""Who marks a question: its panel of judges, and whom of them it may not ask."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import UsageFault, closest
from dryquarry.marking import registry
from dryquarry.marking.options import options_of
from dryquarry.marking.schemes.rubric import ALLOWED, RubricOptions
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
