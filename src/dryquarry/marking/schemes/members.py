"""Schemes `set` and `sequence`: the answer names the same members, in any order or in that order."""

from __future__ import annotations

from collections.abc import Callable, Sequence
from dataclasses import dataclass
from functools import lru_cache
from typing import Any

from dryquarry.marking.model import Marker, Marking, MarkingFault, Scheme, Verdict
from dryquarry.marking.options import option_types, options_of
from dryquarry.marking.reading.claims import Claim, Question
from dryquarry.marking.reading.lists import Lists
from dryquarry.marking.reading.members_named import Members
from dryquarry.marking.schemes.exact import accepted_texts
from dryquarry.marking.schemes.nested import Prepare, prepare_part
from dryquarry.marking.schemes.reading_marker import Verdicts, reading_marker
from dryquarry.marking.values.days import month_in_full, weekday_in_full
from dryquarry.marking.values.numerals import in_digits
from dryquarry.marking.values.texts import fold, shortened, without_one

IsMember = Callable[[str], bool]


@dataclass(frozen=True, slots=True)
class MemberOptions:
    """`partial` gives a share for some of the members, `extras: allowed` lets others stand beside them.

    `member` is the scheme and options by which single members are compared.
    """

    partial: bool = False
    extras: str | None = None
    member: dict[str, Any] | None = None


@dataclass(frozen=True, slots=True)
class Member:
    """One member of the key: what it is called in reasons, and whether a text names it."""

    name: str
    matches: IsMember


@dataclass(frozen=True, slots=True)
class Comparison:
    """How a reading compares with the key: the score in [0, 1] with partial credit, and what is amiss."""

    score: float
    amiss: str


def prepare_set(marking: Marking, prepare: Prepare) -> Marker:
    """Return the marker for members in any order; one that is named twice counts once."""
    return _prepare(marking, _compared_as_set, prepare)


def prepare_sequence(marking: Marking, prepare: Prepare) -> Marker:
    """Return the marker for members in the order of the key."""
    return _prepare(marking, _compared_as_sequence, prepare)


Compared = Callable[[Sequence[Member], Sequence[str], bool], Comparison]


def _prepare(marking: Marking, compared: Compared, prepare: Prepare) -> Marker:
    members = tuple(_members(marking, prepare))
    options = options_of(MemberOptions, marking)
    if options.extras not in (None, "allowed"):
        raise MarkingFault(f"option 'extras' of scheme '{marking.scheme}' can only be allowed")
    ordered = compared is _compared_as_sequence
    verdicts = _Lists(members, compared, options.extras is not None, options.partial, ordered)
    return reading_marker(marking, kind_of(marking), verdicts)


def kind_of(marking: Marking) -> Lists:
    """Return how lists are read."""
    return Lists(Question(marking.asked, marking.answer_line))


@dataclass(frozen=True, slots=True)
class _Lists(Verdicts[Members]):
    """How the members that were named compare with those of the key."""

    members: tuple[Member, ...]
    compared: Compared
    extras: bool
    partial: bool
    ordered: bool

    def _best(self, claim: Claim[Members]) -> Comparison:
        """Return the comparison of the likeliest way to part the list that names a member at all."""
        comparisons = [self.compared(self.members, way, self.extras) for way in claim.value.ways]
        return max(comparisons, key=lambda one: one.score)

    def score(self, claim: Claim[Members]) -> float:
        if self.ordered and claim.value.tied:
            return 0.0
        score = self._best(claim).score
        return score if self.partial else float(score >= 1)

    def said(self, claim: Claim[Members]) -> str:
        read = f"read '{shortened(', '.join(claim.value.texts))}'"
        if self.ordered and claim.value.tied:
            return f"{read}: some share a place"
        amiss = self._best(claim).amiss
        return f"{read}: {amiss}" if amiss else f"{read}: all {len(self.members)} of the key"

    def otherwise(self, claim: Claim[Members]) -> str | None:
        for text in claim.value.texts:
            said = f" {fold(text)} "
            inside = next((one.name for one in self.members if f" {fold(one.name)} " in said), None)
            if inside is not None and not any(one.matches(text) for one in self.members):
                return f"'{shortened(text, 40)}' was taken for one member, and names {shortened(inside, 30)}"
        return None

    def said_beside(self, text: str, final: Claim[Members]) -> str | None:
        """Return the members of the key where all are in the reply, and what was read has others than members."""
        said = f" {fold(text)} "
        junk = any(not any(one.matches(member) for one in self.members) for member in final.value.texts)
        missing = len(final.value.texts) < len(self.members)
        every = all(f" {fold(one.name)} " in said for one in self.members)
        return ", ".join(one.name for one in self.members) if every and (junk or missing) else None

    def said_key(self) -> str:
        return ", ".join(shortened(one.name, 30) for one in self.members[:8]) + (", …" if len(self.members) > 8 else "")

    def nothing(self) -> str:
        return "no list"


def _compared_as_set(members: Sequence[Member], said: Sequence[str], extras: bool) -> Comparison:
    met: set[int] = set()
    other: list[str] = []
    for text in {fold(one) or one: one for one in said}.values():
        place = next((n for n, member in enumerate(members) if member.matches(text)), None)
        if place is None:
            other.append(text)
        else:
            met.add(place)
    missing = [member.name for n, member in enumerate(members) if n not in met]
    amiss = [f"missing {', '.join(missing[:5])}"] if missing else []
    amiss += [f"not in the key: {', '.join(other[:5])}"] if other and not extras else []
    wrong = 0 if extras else len(other)
    return Comparison(max(0, len(met) - wrong) / len(members) if amiss else 1.0, "; ".join(amiss))


def _compared_as_sequence(members: Sequence[Member], said: Sequence[str], extras: bool) -> Comparison:
    right = sum(member.matches(text) for member, text in zip(members, said, strict=False))
    if right == len(members) == len(said) or (extras and _in_order(members, said)):
        return Comparison(1.0, "")
    first = next((n for n, member in enumerate(members) if n >= len(said) or not member.matches(said[n])), len(members))
    if first < len(members):
        stands = f"'{shortened(said[first], 30)}'" if first < len(said) else "nothing"
        amiss = f"at place {first + 1} stands {stands}, not {members[first].name}"
    else:
        amiss = f"{len(said) - len(members)} more than the key has"
    return Comparison(right / max(len(members), len(said)), amiss)


def _in_order(members: Sequence[Member], said: Sequence[str]) -> bool:
    rest = iter(said)
    return all(any(member.matches(text) for text in rest) for member in members)


def _members(marking: Marking, prepare: Prepare) -> list[Member]:
    key = marking.key
    if not isinstance(key, list | tuple) or not key:
        raise MarkingFault(f"the key wants a list of members; scheme '{marking.scheme}' compares lists")
    spec = options_of(MemberOptions, marking).member
    return [_member(one, spec, marking, number, prepare) for number, one in enumerate(key, start=1)]


def _member(key: Any, spec: Any, marking: Marking, number: int, prepare: Prepare) -> Member:
    if spec is not None:
        marker = prepare_part(spec, key, marking, f"member {number} of the key", prepare)
        return Member(str(key), lambda text: marker(text).verdict is Verdict.PASS)
    spellings = accepted_texts(key)
    folded = {fold(spelling) for spelling in spellings}
    said_so = folded | {plural for key in folded for plural in _plurals(key)}
    return Member(spellings[0], lambda text: not said_so.isdisjoint(_forms(text)))


@lru_cache(maxsize=4096)
def _forms(text: str) -> frozenset[str]:
    """Return what of a member is compared: it is looked at for each member of the key."""
    said = fold(text)
    others = (fold(without_one(text)), fold(in_digits(text)), month_in_full(said), weekday_in_full(said))
    return frozenset((said, *others, *_bases(said)))


def _bases(said: str) -> tuple[str, ...]:
    """Return the verbs that a word may be of: "cut" of "cutting", "tie" of "tying"."""
    if not said.endswith("ing") or len(said) < 5 or " " in said:
        return ()
    root = said[:-3]
    return tuple(base for base in (root, f"{root}e", f"{root[:-1]}ie", root[:-1]) if len(base) > 2)


def _plurals(key: str) -> tuple[str, ...]:
    """Return what may be meant as the plural of a member: "bats" of "bat"."""
    return (f"{key}s", f"{key}es", f"{key[:-1]}ies") if len(key) > 2 and key[-1].isalpha() else ()


_OPTIONS = option_types(MemberOptions)
SET = Scheme(name="set", options=_OPTIONS, prepare=prepare_set, nests=True, kind=kind_of)
SEQUENCE = Scheme(name="sequence", options=_OPTIONS, prepare=prepare_sequence, nests=True, kind=kind_of)
