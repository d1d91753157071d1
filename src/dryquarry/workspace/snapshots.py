"""Entrants as they stood at some time, or under earlier settings; over all editions of a suite."""

from __future__ import annotations

import re
from collections.abc import Collection, Iterator, Sequence

import numpy as np

from dryquarry.asking.entrants import Entrant
from dryquarry.errors import UsageFault
from dryquarry.ledger.queries import slots_of
from dryquarry.ledger.store import Ledger
from dryquarry.ledger.tries import PastSitter, Try, all_tries, past_sitters
from dryquarry.marking.model import Verdict
from dryquarry.standing.equating import AllEditions, Equated, equate
from dryquarry.standing.history import History, State, history
from dryquarry.standing.replies import EntrantResults, replies_of
from dryquarry.standing.results import Result
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.collecting import collect, items_of, voided
from dryquarry.workspace.folder import Folder

DAY = re.compile(r"\d{4}-\d\d-\d\d")
DIGEST = re.compile(r"[0-9a-f]{4,64}")


def same_as(question: Question) -> str:
    """Return what is equal for questions that ask and mark the same, in whatever edition."""
    return f"{question.ask_digest}/{question.mark_digest}"


def editions_of(folder: Folder, name: str) -> list[Suite]:
    """Return all editions of a suite, the oldest first, or its draft where none was sealed."""
    files = folder.files(name)
    return [files.edition(number) for number in files.edition_numbers()] or [folder.suite(name)]


def history_of(ledger: Ledger, folder: Folder, name: str, entrant: Entrant) -> History:
    """Return an entrant's states on all editions; raises UsageFault where it has no reply to any."""
    states: list[State] = []
    sitters = past_sitters(ledger, name, entrant.name)
    for suite in editions_of(folder, name):
        states += _states(ledger, suite, sitters)
    if not states:
        raise UsageFault(f"{entrant.name} has no reply to any edition of {name}: 'dryquarry run' asks for them")
    states.sort(key=lambda state: state.last)  # of as late ones the earlier edition stays first
    return history(name, entrant.name, entrant.title, states)


def _states(ledger: Ledger, suite: Suite, sitters: Sequence[PastSitter]) -> Iterator[State]:
    """Yield an entrant's states on one edition that it sat: one for each of its settings and each asking anew."""
    questions = suite.asked()
    slots = slots_of(ledger, questions)
    void = voided(ledger, suite, questions, slots)
    for sitter in sitters:
        tries = all_tries(ledger, slots, sitter.sitter_id)
        anew = sorted({one.fresh_since for one in sitter.askings if one.fresh_since})
        for since, until in zip(["", *anew], [*anew, None], strict=True):
            # of another edition's asking anew only a part would be seen here
            sat = any(
                one.edition == suite.edition and since <= (one.fresh_since or one.started_at) < (until or "~")
                for one in sitter.askings
            )
            standing = _as_of(tries, until)
            # an edition whose questions are all held already is sat without asking anything
            sat = sat or (not since and {one.position for one in standing} == set(range(len(questions))))
            if sat and standing:
                yield _state(suite, questions, sitter, standing, void)


def _as_of(tries: Sequence[Try], until: str | None) -> list[Try]:
    """Return which replies were the present ones before some moment (UTC): of each question and trial the last."""
    last: dict[tuple[int, int], Try] = {}
    for one in tries:
        if until is None or one.received_at < until:
            last[one.position, one.trial] = one
    return list(last.values())


def _state(
    suite: Suite, questions: Sequence[Question], sitter: PastSitter, standing: Sequence[Try], void: Collection[int]
) -> State:
    ids: dict[str, set[int]] = {}
    for one in standing:
        ids.setdefault(same_as(questions[one.position]), set()).add(one.reply_id)
    return State(
        suite.edition,
        sitter.digest,
        sitter.model,
        min(one.received_at for one in standing),
        max(one.received_at for one in standing),
        tuple(items_of(suite)),
        tuple(same_as(question) for question in suite.scored()),
        replies_of([_result(questions[one.position].id, one, one.position in void) for one in standing]),
        {name: frozenset(each) for name, each in ids.items()},
    )


def _result(question: str, one: Try, void: bool) -> Result:
    return Result(
        question,
        one.trial,
        one.outcome,
        None if void else one.score,
        Verdict.VOID if void else one.verdict,
        one.seconds,
        one.first_token_s,
        one.output_tokens,
    )


def snapshot(ledger: Ledger, suite: Suite, entrant: Entrant, when: str) -> EntrantResults:
    """Return an entrant as it stood at the end of a day (UTC), or under earlier settings named by their digest.

    Raises UsageFault where there is nothing of it then.
    """
    questions = suite.asked()
    slots = slots_of(ledger, questions)
    sitters = past_sitters(ledger, suite.name, entrant.name)
    until: str | None = None
    if DAY.fullmatch(when):
        until = f"{when}T24"
        chosen = _last_by(sitters, until)
    elif DIGEST.fullmatch(when):
        chosen = [one for one in sitters if one.digest.startswith(when)]
    else:
        raise UsageFault(f"'{entrant.name}:{when}' names neither a day (2026-11-26) nor settings by their digest")
    if len(chosen) > 1:
        raise UsageFault(f"'{entrant.name}:{when}' fits several settings; write more of the digest")
    tries = [one for sitter in chosen for one in all_tries(ledger, slots, sitter.sitter_id)]
    standing = _as_of(tries, until)
    if not standing:
        told = f"'dryquarry history {suite.name} -e {entrant.name}' shows what there is"
        raise UsageFault(f"{entrant.name} has no reply to {suite.reference} as of '{when}'; {told}")
    void = voided(ledger, suite, questions, slots)
    results = [_result(questions[one.position].id, one, one.position in void) for one in standing]
    return EntrantResults.of(f"{entrant.name}:{when}", entrant.title, results)


def _last_by(sitters: Sequence[PastSitter], until: str) -> list[PastSitter]:
    """Return the settings with which an entrant sat last before some moment (UTC), if it had sat at all."""
    begun = [(one.started_at, sitter) for sitter in sitters for one in sitter.askings if one.started_at < until]
    return [max(begun, key=lambda pair: pair[0])[1]] if begun else []


def equated_of(ledger: Ledger, folder: Folder, suite: Suite, entrants: Sequence[Entrant]) -> Equated:
    """Return all entrants on the scale of an edition, whichever editions they sat."""
    editions = editions_of(folder, suite.name)
    if suite.edition not in {one.edition for one in editions}:
        editions.append(suite)
    places: dict[str, int] = {}
    names: list[str] = []
    # the edition itself first, so that its questions keep their names
    for one in sorted(editions, key=lambda one: one.edition != suite.edition):
        for question in one.scored():
            if places.setdefault(same_as(question), len(names)) == len(names):
                names.append(question.id if one.edition == suite.edition else f"{question.id} ({one.reference})")
    came_in: dict[str, int] = {}
    for number, one in enumerate(editions):
        for question in one.scored():
            came_in.setdefault(same_as(question), number)
    scores = np.full((len(entrants), len(names)), np.nan)
    trials = 1
    void: set[str] = set()
    sat: dict[str, list[str]] = {entrant.name: [] for entrant in entrants}
    rows = {entrant.name: number for number, entrant in enumerate(entrants)}
    for one in editions:
        collected = collect(ledger, one, entrants)
        void.update(collected.void if one.edition == suite.edition else ())
        scored = [question for question in one.scored() if question.id not in set(collected.void)]
        at = np.array([places[same_as(question)] for question in scored], dtype=np.intp)
        for each in collected.entrants:
            got = each.replies.on([question.id for question in scored]).scores()
            known = ~np.isnan(got)
            trials = max(trials, int(each.replies.trial.max(initial=1)))
            scores[rows[each.entrant], at[known]] = got[known]
            if known.all():
                sat[each.entrant].append(one.edition)
    # what is void for all in the edition is no part of its scale
    weights = {same_as(question): question.weight for question in suite.scored() if question.id not in void}
    has = ~np.isnan(scores).all(axis=1)
    people = [entrant for entrant, some in zip(entrants, has, strict=True) if some]
    return equate(
        AllEditions(
            suite.name,
            suite.edition,
            tuple(names),
            tuple((one.name, one.title) for one in people),
            tuple(tuple(sat[one.name]) for one in people),
            scores[has],
            np.array([name in weights for name in places], dtype=bool),
            np.array([weights.get(name, 0.0) for name in places]),
            np.array([came_in[name] for name in places], dtype=np.intp),
            trials,
        )
    )
