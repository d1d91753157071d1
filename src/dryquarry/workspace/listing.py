"""Which replies are listed: the filters of `replies` beyond questions, entrants and trials."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass

from dryquarry.errors import UsageFault, closest
from dryquarry.workspace.collecting import words_of
from dryquarry.workspace.reply_views import ReplyView, questions_apart


@dataclass(frozen=True, slots=True)
class ReplyFilter:
    """What replies must be like, in every respect that is named; of several values of one respect any.

    A verdict is `pass`, `fail`, `open`, `void`, or `none` for a reply that is not marked. `corrected` marks were set by
    a person, `unsure` ones another reading would flip, `form_lost` says that the answer does not stand where it was
    asked for. With `differ` only questions on which the entrants came out differently. The question must have more
    words than `words_over`, the reply more output tokens than `tokens_over`.
    """

    verdicts: tuple[str, ...] = ()
    corrected: bool = False
    unsure: bool = False
    differ: bool = False
    form_lost: bool = False
    outcomes: tuple[str, ...] = ()
    schemes: tuple[str, ...] = ()
    twists: tuple[str, ...] = ()
    languages: tuple[str, ...] = ()
    words_over: int | None = None
    tokens_over: int | None = None

    def of(self, views: Sequence[ReplyView]) -> list[ReplyView]:
        """Return those of the replies; raises UsageFault for a scheme, twist or language that none has."""
        _known("scheme", self.schemes, [view.question.marking.scheme for view in views])
        _known("twist", self.twists, [view.question.twist for view in views])
        _known("language", self.languages, [view.question.language for view in views])
        wanted = {name: getattr(self, name) for name in self.__dataclass_fields__}
        # a limit of 0 is one, though it equals False
        named = {name for name, value in wanted.items() if value is not False and value is not None and value != ()}
        tests = [test for name, test in self._tests(views).items() if name in named]
        return [view for view in views if all(test(view) for test in tests)]

    def _tests(self, views: Sequence[ReplyView]) -> dict[str, Callable[[ReplyView], bool]]:
        apart = questions_apart(views) if self.differ else frozenset()
        return {
            "verdicts": lambda view: (str(view.mark.verdict) if view.mark else "none") in self.verdicts,
            "corrected": lambda view: view.mark is not None and view.mark.by_person,
            "unsure": lambda view: view.mark is not None and not view.mark.sure,
            "differ": lambda view: view.question.id in apart,
            "form_lost": lambda view: view.mark is not None and view.mark.form_kept is False,
            "outcomes": lambda view: str(view.reply.held.outcome) in self.outcomes,
            "schemes": lambda view: view.question.marking.scheme in self.schemes,
            "twists": lambda view: view.question.twist in self.twists,
            "languages": lambda view: view.question.language in self.languages,
            "words_over": lambda view: words_of(view.question) > (self.words_over or 0),
            "tokens_over": lambda view: (view.reply.held.output_tokens or 0) > (self.tokens_over or 0),
        }


def _known(what: str, wanted: Sequence[str], there: Sequence[str | None]) -> None:
    known = {one for one in there if one}
    for one in wanted:
        if one not in known:
            raise UsageFault(f"none of these replies is to a question of the {what} '{one}'{closest(one, known)}")
