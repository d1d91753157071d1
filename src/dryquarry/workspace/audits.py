"""Random samples of judged replies that people marked, as the board takes them."""

from __future__ import annotations

from collections import Counter
from collections.abc import Sequence
from dataclasses import replace

from dryquarry.asking.entrants import Entrant
from dryquarry.ledger.decisions import AMENDED, AUDIT, Decision, Draw, decisions_on, draws_of, has_draws
from dryquarry.ledger.queries import held_replies, sitter_id_of, slots_of
from dryquarry.ledger.records import HeldReply, Slot
from dryquarry.ledger.store import Ledger
from dryquarry.marking.model import Mark, Verdict
from dryquarry.standing.corrected import Audited
from dryquarry.suites.question import Question, Suite
from dryquarry.workspace.panels import needs_judge

BY_SCHEME = "scheme"


def audits_of(
    ledger: Ledger, suite: Suite, entrants: Sequence[Entrant], trials: Sequence[int] = (), prefix: str = ""
) -> dict[str, Audited]:
    """Return each entrant's judged replies with what people say of those that were drawn; empty without an audit."""
    if not has_draws(ledger, suite.name):
        return {}
    questions = suite.asked()
    slots = [slot for slot in slots_of(ledger, questions) if needs_judge(questions[slot.position])]
    found = {}
    for entrant in entrants:
        sitter_id = sitter_id_of(ledger, entrant.digest)
        held = held_replies(ledger, slots, sitter_id) if sitter_id is not None and slots else []
        judged = [one for one in held if _by_judge(one.mark) and (not trials or one.trial in trials)]
        if judged:
            found[entrant.name] = _audited(ledger, questions, slots, judged, prefix)
    return found


def _by_judge(mark: Mark | None) -> bool:
    """Tell whether a mark stands on what judges said: not on a scheme (an empty reply, a refusal) or a person."""
    settled = mark is not None and mark.verdict in (Verdict.PASS, Verdict.FAIL) and mark.score is not None
    return settled and mark is not None and mark.by != BY_SCHEME and not mark.by_person


def _audited(
    ledger: Ledger, questions: Sequence[Question], slots: Sequence[Slot], judged: Sequence[HeldReply], prefix: str
) -> Audited:
    markings = {slot.position: slot.marking_id for slot in slots}
    ids = [one.reply_id for one in judged]
    draws = {(one.reply_id, one.marking_id): one for one in draws_of(ledger, ids)}
    decided = _decided(decisions_on(ledger, ids))
    marked = {key for key in draws if key in decided and decided[key].score is not None}
    by_stratum = Counter(draws[key].stratum for key in marked)
    hand, probability = [], []
    for one in judged:
        key = (one.reply_id, markings[one.position] or 0)
        score = decided[key].score if key in marked else None
        hand.append(float("nan") if score is None else score)
        probability.append(_probability(draws.get(key), by_stratum))
    names = tuple(f"{prefix}{questions[one.position].id}" for one in judged)
    return Audited(names, tuple(one.trial for one in judged), tuple(hand), tuple(probability))


def _probability(draw: Draw | None, by_stratum: Counter[str]) -> float:
    """Return how likely a reply of its stratum was to be drawn and marked: an audit may not be finished."""
    if draw is None or not by_stratum[draw.stratum]:
        return 1.0
    return min(1.0, by_stratum[draw.stratum] / draw.stratum_size)


def _decided(decisions: Sequence[Decision]) -> dict[tuple[int, int], Decision]:
    """Return the decision on each drawn reply: the first person's, as amended after the precedents."""
    found: dict[tuple[int, int], Decision] = {}
    for one in decisions:
        key = (one.reply_id, one.marking_id)
        if one.why_asked == AUDIT and key not in found:
            found[key] = one
        elif one.why_asked == AMENDED and key in found and found[key].person == one.person:
            found[key] = replace(one, why_asked=AUDIT)
    return found
