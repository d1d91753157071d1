"""Second tries: what is said to an entrant after a failed first try, and the replies to that.

A second try is a reply of its own that `follows` the first; it never counts in a score. It is made once for each
first reply that came whole, is marked a fail, and whose question says what to say then.
"""

from __future__ import annotations

from collections.abc import Iterator

from dryquarry.asking.engine import Key, Wanted, most_cost
from dryquarry.asking.entrants import Entrant
from dryquarry.asking.protocol import estimated_tokens
from dryquarry.ledger.queries import failed_first_tries, sitter_id_of
from dryquarry.ledger.records import FirstTry
from dryquarry.ledger.store import Ledger
from dryquarry.suites.ask import Ask
from dryquarry.suites.digests import digest, second_try_content
from dryquarry.suites.question import Question, Suite, second_try_text
from dryquarry.workspace.planning import UNKNOWN, slotted


def has_second_tries(suite: Suite) -> bool:
    """Tell whether any question says what to say after a failed first try."""
    return any(question.second_try for question in suite.asked())


def second_tries_wanted(ledger: Ledger, suite: Suite, entrant: Entrant) -> Iterator[Wanted]:
    """Yield the second tries that are still to make, given the present marks."""
    sitter_id = sitter_id_of(ledger, entrant.digest)
    if sitter_id is None:
        return
    for questions, slots in slotted(ledger, suite):
        with_one = [slot for slot in slots if questions[slot.position].second_try]
        for first in failed_first_tries(ledger, with_one, sitter_id) if with_one else ():
            marking_id = slots[first.position].marking_id
            assert marking_id is not None
            yield _wanted(ledger, entrant, questions[first.position], marking_id, first)


def _wanted(ledger: Ledger, entrant: Entrant, question: Question, marking_id: int, first: FirstTry) -> Wanted:
    said = second_try_text(question, first.reason, first.answer)
    ask = Ask(question.ask.system, (*question.ask.turns, said), question.ask.files)
    content = second_try_content(ask)
    ask_digest = digest(content)
    ask_id = ledger.note_asks({ask_digest: content})[ask_digest]
    input_tokens = sum(estimated_tokens(text) for text in (*ask.turns, *first.earlier_turns, first.text))
    return Wanted(
        ask,
        ask_id,
        first.trial,
        most_cost(entrant, input_tokens, UNKNOWN.output_tokens),
        (Key(question.mark, marking_id),),
        (*first.earlier_turns, first.text),
        first.reply_id,
    )
