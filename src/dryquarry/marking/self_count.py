"""Scheme `self_count`: the number that the reply states about itself is true of the reply."""

from __future__ import annotations

import re
from fractions import Fraction

from dryquarry.marking.counting import COUNTED, plain
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, failed, passed
from dryquarry.marking.numbers import find_numbers
from dryquarry.marking.words import spelled_out

LONGEST_STATEMENT = 20_000

_NOUNS = {"list_items": r"(?:list\s+)?items?|points?", "sentences": "sentences?", "letters": "letters?"}


def prepare(marking: Marking) -> Marker:
    """Return the marker; raises MarkingFault when `of` is nothing that can be counted."""
    of = marking.options.get("of", "words")
    if of not in COUNTED:
        raise MarkingFault(f"option 'of' of scheme 'self_count' is one of {', '.join(COUNTED)}, not '{of}'")
    noun = _NOUNS.get(of, f"{of[:-1]}s?")
    beside = re.compile(rf"\s*(?:\w+\s+)?(?:{noun})\b", re.IGNORECASE)

    def mark(text: str) -> Mark:
        said = spelled_out(plain(text[:LONGEST_STATEMENT]))
        numbers = find_numbers(said)
        stated = [one for one in numbers if beside.match(said, one.end)] or numbers
        if not stated:
            return failed("the reply states no number")
        has = len(COUNTED[of](text))
        values = {one.value for one in stated}
        shown = stated[0].text
        if len(values) > 1:
            return failed(f"the reply states several numbers; it has {has} {of.replace('_', ' ')}", shown, "stated")
        reason = f"says {shown}, and has {has} {of.replace('_', ' ')}"
        return (passed if values == {Fraction(has)} else failed)(reason, shown, "stated", 0)

    return mark


SCHEME = Scheme(name="self_count", options={"of": (str,)}, prepare=prepare, reads_whole=True)
