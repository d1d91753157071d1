"""What becomes of a stored reply's mark when it is marked again: whose mark stands, and what is new about it."""

from __future__ import annotations

from dryquarry.ledger.records import KnownMark, NewMark, StoredReply
from dryquarry.ledger.store import new_mark
from dryquarry.marking.model import Mark, Verdict
from dryquarry.marking.registry import SCHEMES
from dryquarry.suites.question import Question

SAME = 1e-9


def mark_again(question: Question, reply: StoredReply) -> tuple[str, Mark | KnownMark]:
    """Return what becomes of a reply's mark (first, same, kept or changed), and the mark it has then."""
    person = next((one for one in (reply.present, reply.earlier) if one is not None and one.because is not None), None)
    if reply.present is not None and reply.present.because is None:
        person = None
    if person is not None:
        return "kept", person
    mark = question.mark(reply.outcome, reply.text)
    assert mark is not None
    settled = reply.present is not None and reply.present.verdict is not Verdict.OPEN
    if mark.verdict is Verdict.OPEN and settled and _waits_for_others(question):
        assert reply.present is not None
        return "kept", reply.present
    before = reply.present or reply.earlier
    if before is None:
        return "first", mark
    return ("same" if _comes_to_the_same(before, mark) else "changed"), mark


def _waits_for_others(question: Question) -> bool:
    """Tell whether a mark may come from a judge or a person, which marking again must not undo."""
    scheme = question.marking.scheme
    parts = [part.get("scheme") for part in question.marking.options.get("parts", [])]
    return any(SCHEMES[name].needs_judge or name == "hand" for name in (scheme, *parts) if name in SCHEMES)


def _comes_to_the_same(before: KnownMark, after: Mark | KnownMark) -> bool:
    return before.verdict == after.verdict and abs((before.score or 0.0) - (after.score or 0.0)) < SAME


def alike(before: KnownMark, after: Mark | KnownMark) -> bool:
    """Tell whether nothing about a mark is new, its reason included."""
    return _comes_to_the_same(before, after) and (before.reason, before.answer) == (after.reason, after.answer)


def as_new_mark(reply: StoredReply, marking_id: int, mark: Mark | KnownMark) -> NewMark:
    """Return a mark as it is stored in place of the reply's present one."""
    if isinstance(mark, Mark):
        changed = reply.present is not None and not _comes_to_the_same(reply.present, mark)
        return new_mark(reply.reply_id, marking_id, mark, "marked again" if changed else "told in other words")
    return NewMark(
        reply.reply_id, marking_id, mark.score, mark.verdict, mark.reason, mark.answer, None, because=mark.because
    )


def as_known(mark: Mark | KnownMark) -> KnownMark:
    """Return a mark as the ledger would hold it."""
    if isinstance(mark, KnownMark):
        return mark
    return KnownMark(mark.score, mark.verdict, mark.reason, mark.answer, None)
