"""Which questions, entrants and trials a command is about: the same filters with the same meaning everywhere."""

from __future__ import annotations

from collections.abc import Callable, Collection, Sequence
from dataclasses import dataclass, fields, replace
from fnmatch import fnmatchcase

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import UsageFault, closest
from dryquarry.suites.question import Question, Suite


@dataclass(frozen=True, slots=True)
class Selection:
    """Filters, of which all must hold; of several values of one filter any. Empty ones let everything through.

    `questions` are ids or patterns ("tide-*"), `where` are traits of entrants as (name, value).
    """

    entrants: tuple[str, ...] = ()
    where: tuple[tuple[str, str], ...] = ()
    questions: tuple[str, ...] = ()
    categories: tuple[str, ...] = ()
    tags: tuple[str, ...] = ()
    levels: tuple[str, ...] = ()
    trials: tuple[int, ...] = ()

    def suite(self, suite: Suite) -> Suite:
        """Return the suite with the selected questions only; raises UsageFault for a filter that fits none."""
        if not any((self.questions, self.categories, self.tags, self.levels)):
            return suite
        known = suite.asked()
        self._check(suite, known)
        chosen = tuple(question for question in known if self._takes(question))
        if not chosen:
            raise UsageFault(f"no question of {suite.reference} fits all of {self.said()}")
        return replace(suite, questions=chosen)

    def people(self, known: Sequence[Entrant]) -> list[Entrant]:
        """Return the selected entrants; raises UsageFault for a name or a trait that none has."""
        by_name = {entrant.name: entrant for entrant in known}
        for name in self.entrants:
            if name not in by_name:
                raise UsageFault(f"there is no entrant '{name}' in entrants.toml{closest(name, by_name)}")
        chosen = [by_name[name] for name in dict.fromkeys(self.entrants)] if self.entrants else list(known)
        traits = {name for entrant in known for name in entrant.traits}
        for name, value in self.where:
            if name not in traits:
                raise UsageFault(f"no entrant has the trait '{name}'{closest(name, traits)}; see entrants.toml")
            chosen = [one for one in chosen if name in one.traits and _said(one.traits[name]) == value.casefold()]
        if not chosen and self.where:
            raise UsageFault(f"no entrant fits {self.said()}")
        return chosen

    def narrows_questions(self) -> bool:
        """Tell whether some questions or trials are left out."""
        return any((self.questions, self.categories, self.tags, self.levels, self.trials))

    def takes_trial(self, trial: int) -> bool:
        """Tell whether a trial is selected."""
        return not self.trials or trial in self.trials

    def said(self) -> str:
        """Return the filters on questions, traits and trials in words: "category money, tag short"."""
        words = {"categories": "category", "questions": "question", "tags": "tag", "levels": "level", "trials": "trial"}
        parts = [
            f"{words[one.name]} {' or '.join(map(str, getattr(self, one.name)))}"
            for one in fields(self)
            if one.name in words and getattr(self, one.name)
        ]
        return ", ".join([*parts, *(f"{name}={value}" for name, value in self.where)])

    def _takes(self, question: Question) -> bool:
        return (
            (not self.questions or any(fnmatchcase(question.id, pattern) for pattern in self.questions))
            and (not self.categories or question.category in self.categories)
            and (not self.tags or not set(self.tags).isdisjoint(question.tags))
            and (not self.levels or question.level in self.levels)
        )

    def _check(self, suite: Suite, known: Sequence[Question]) -> None:
        """Raise UsageFault for a value that no question of the suite has."""
        ids = [question.id for question in known]
        for pattern in self.questions:
            if not any(fnmatchcase(name, pattern) for name in ids):
                raise UsageFault(f"suite '{suite.name}' asks no question '{pattern}'{closest(pattern, ids)}")
        _check_values(suite, "category", self.categories, known, lambda one: (one.category,))
        _check_values(suite, "tag", self.tags, known, lambda one: one.tags)
        _check_values(suite, "level", self.levels, known, lambda one: (one.level,))


def _check_values(
    suite: Suite,
    what: str,
    wanted: Collection[str],
    known: Sequence[Question],
    of: Callable[[Question], Sequence[str | None]],
) -> None:
    there = {value for question in known for value in of(question) if value}
    for value in wanted:
        if value not in there:
            raise UsageFault(f"no question of '{suite.name}' has the {what} '{value}'{closest(value, there)}")


def _said(value: object) -> str:
    return str(value).casefold()
