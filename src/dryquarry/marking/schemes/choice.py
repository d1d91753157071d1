"""Scheme `choice`: the chosen option letters equal the key."""

from __future__ import annotations

from collections.abc import Mapping, Sequence
from dataclasses import dataclass
from typing import Any

from dryquarry.marking.model import Marker, Marking, MarkingFault, Scheme
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.chosen import Chosen
from dryquarry.marking.reading.claims import Claim
from dryquarry.marking.reading.letters import Options
from dryquarry.marking.schemes.reading_marker import Verdicts, reading_marker
from dryquarry.marking.values.texts import fold, shortened


@dataclass(frozen=True, slots=True)
class ChoiceOptions:
    """`partial` gives a share of the score for some of several right options."""

    partial: bool = False


def prepare(marking: Marking) -> Marker:
    """Return the marker for a choice; raises MarkingFault when the key names no option."""
    return reading_marker(marking, kind_of(marking), verdicts_of(marking))


def verdicts_of(marking: Marking) -> Verdicts[Chosen]:
    """Return how the letters that were chosen compare with the key."""
    texts = dict(marking.choices)
    if len(texts) < 2:
        raise MarkingFault("scheme 'choice' wants at least two `options` on the question")
    wanted = frozenset(_key_letters(marking.key, texts))
    return _Letters(texts, wanted, options_of(ChoiceOptions, marking).partial)


def kind_of(marking: Marking) -> Options:
    """Return how the options of a question are read."""
    return Options(dict(marking.choices), marking.asked)


@dataclass(frozen=True, slots=True)
class _Letters(Verdicts[Chosen]):
    """How the letters that were chosen compare with the key."""

    texts: Mapping[str, str]
    wanted: frozenset[str]
    partial: bool

    def score(self, claim: Claim[Chosen]) -> float:
        chosen = claim.value
        if chosen.contradiction:
            return 0.0
        if chosen.letters == self.wanted:
            return 1.0
        # each wrong letter takes back a right one
        right = len(chosen.letters & self.wanted) - len(chosen.letters - self.wanted)
        return max(0, right) / len(self.wanted) if self.partial else 0.0

    def said(self, claim: Claim[Chosen]) -> str:
        return claim.value.contradiction or f"chose {', '.join(sorted(claim.value.letters))}"

    def said_key(self) -> str:
        return ", ".join(f"{letter} ({shortened(self.texts[letter], 40)})" for letter in sorted(self.wanted))

    def nothing(self) -> str:
        return "no option chosen"

    def leaves(self, put_out: Sequence[Claim[Chosen]]) -> bool:
        out = {letter for claim in put_out for letter in claim.value.letters}
        # "A is wrong" alone leaves too many
        return not out & self.wanted and 2 * len(out) >= len(self.texts)


def _key_letters(key: Any, texts: Mapping[str, str]) -> tuple[str, ...]:
    members = list(key) if isinstance(key, list | tuple) else [key]
    if key is None or not members:
        raise MarkingFault("the key is missing; scheme 'choice' wants an option letter, an option text, or a list")
    letters = []
    for member in members:
        said = str(member).strip()
        letter = said.upper() if said.upper() in texts else _letter_of_text(said, texts)
        if letter is None:
            raise MarkingFault(f"the key '{said}' is no option; the options are {', '.join(texts)}")
        letters.append(letter)
    return tuple(dict.fromkeys(letters))


def _letter_of_text(said: str, texts: Mapping[str, str]) -> str | None:
    folded = fold(said)
    return next((letter for letter, text in texts.items() if fold(text) == folded), None)


SCHEME = Scheme(name="choice", options=option_types(ChoiceOptions), prepare=prepare, kind=kind_of)
