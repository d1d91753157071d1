"""Schemes `set` and `sequence`: the answer names the same members, in any order or in that order."""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass
from typing import Any

from dryquarry.marking.exact import accepted_texts
from dryquarry.marking.model import Mark, Marker, Marking, MarkingFault, Scheme, Verdict, failed, passed, scored
from dryquarry.marking.nested import prepare_part
from dryquarry.marking.reading import LONGEST_END, TELLING, Found, places
from dryquarry.marking.text import bare, fold, shortened, uniform, without_one

MOST_MEMBERS = 500

_ITEM = re.compile(r"^\s*(?:[-*•–]|\(?\d{1,3}[.)]|\(?[a-z][.)])\s+(?P<item>.+)$", re.IGNORECASE)
_BETWEEN = re.compile(
    r"\s*(?:,\s*(?:and\s+then|and|or|then)\s+|[,;/|]|\n|\s+(?:and|&|plus|then)\s+|\s*(?:->|→|⇒|>|<)\s*)\s*",
    re.IGNORECASE,
)
_LEAD_IN = re.compile(r"^[^:]{0,80}:\s+(?=\S)|^.*?\b(?:are|is|were|was|be|include|includes)\b:?\s+", re.IGNORECASE)
_BRACKETS = re.compile(r"^[\[{(]\s*(?P<inside>.*?)\s*[\])}]$", re.DOTALL)
_REMARK = re.compile(r"\s*(?:\([^()]*\)|\s[-–—:]\s.*)$")

IsMember = Callable[[str], bool]


@dataclass(frozen=True, slots=True)
class Member:
    """One member of the key: what it is called in reasons, and whether a text names it."""

    name: str
    matches: IsMember


def read_members(found: Found) -> list[str]:
    """Return the members that a place names, parted by commas, lines, "and", or arrows."""
    said = bare(uniform(found.text))
    brackets = _BRACKETS.match(said)
    said = brackets["inside"] if brackets else said
    lines = [line for line in said.split("\n") if line.strip()]
    items = [match["item"] for line in lines if (match := _ITEM.match(line))]
    parts = items if len(items) > 1 else _BETWEEN.split(said)
    return [bare(part) for part in parts if bare(part)][:MOST_MEMBERS]


def prepare_set(marking: Marking) -> Marker:
    """Return the marker for members in any order; one that is named twice counts once."""
    return _prepare(marking, _compared_as_set)


def prepare_sequence(marking: Marking) -> Marker:
    """Return the marker for members in the order of the key."""
    return _prepare(marking, _compared_as_sequence)


@dataclass(frozen=True, slots=True)
class Comparison:
    """How a reading compares with the key: the score in [0, 1] with partial credit, what is amiss, members named."""

    score: float
    amiss: str
    right: int


def _prepare(marking: Marking, compared: Callable[[Sequence[Member], Sequence[str], bool], Comparison]) -> Marker:
    members = _members(marking)
    if marking.options.get("extras") not in (None, "allowed"):
        raise MarkingFault(f"option 'extras' of scheme '{marking.scheme}' can only be allowed")
    extras, partial = marking.options.get("extras") == "allowed", bool(marking.options.get("partial", False))
    named = ", ".join(shortened(member.name, 30) for member in members[:8]) + (", …" if len(members) > 8 else "")

    def mark(text: str) -> Mark:
        read: tuple[Comparison, Found, list[str]] | None = None
        for found in _list_places(text, marking.answer_line):
            compared_here = [(compared(members, said, extras), found, said) for said in _readings(found)]
            here = max(compared_here, key=lambda one: one[0].right)
            read = read or here
            # The first place that names a member is the answer: no better one is looked for further up.
            if here[0].right or found.read_by in (*TELLING, "list"):
                read = here
                break
        if read is None:
            return failed("the reply is empty")
        comparison, found, said = read
        place = (shortened(", ".join(said), 200), found.read_by, found.start)
        if comparison.score >= 1.0:
            return passed(f"read '{shortened(', '.join(said))}': all {len(members)} of the key", *place)
        reason = f"read '{shortened(', '.join(said))}': {comparison.amiss}; key {named}"
        return scored(comparison.score if partial else 0.0, reason, *place)

    return mark


def _list_places(text: str, answer_line: str | None) -> list[Found]:
    """Return where the list may stand: the places of any answer, and the list of lines that the reply ends with."""
    found = []
    for place in places(text, answer_line):
        found.append(place)
        if place.read_by in TELLING:
            break
    listed = _last_list(text)
    telling = found and found[0].read_by in ("answer line", "boxed", "JSON field")
    if listed is not None and (not telling or found[0].text in listed.text):
        found.insert(0, listed)
    return found[:8]


def _last_list(text: str) -> Found | None:
    """Return the last two or more lines in a row that are items of a list."""
    last: Found | None = None
    items: list[str] = []
    place = start = max(0, len(text) - LONGEST_END)
    for line in [*text[place:].split("\n"), ""]:
        if _ITEM.match(line):
            start = start if items else place
            items.append(line)
        elif line.strip() or place > len(text):
            if len(items) > 1:
                last = Found("\n".join(items), "list", start)
            items = []
        place += len(line) + 1
    return last


def _readings(found: Found) -> list[list[str]]:
    whole = read_members(found)
    lead = _LEAD_IN.match(found.text)
    rest = found.text[lead.end() :] if lead and found.read_by != "list" else ""
    return [whole] + ([read_members(Found(rest, found.read_by, found.start))] if rest else [])


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
    return Comparison(max(0, len(met) - wrong) / len(members) if amiss else 1.0, "; ".join(amiss), len(met))


def _compared_as_sequence(members: Sequence[Member], said: Sequence[str], extras: bool) -> Comparison:
    right = sum(member.matches(text) for member, text in zip(members, said, strict=False))
    if right == len(members) == len(said) or (extras and _in_order(members, said)):
        return Comparison(1.0, "", len(members))
    first = next((n for n, member in enumerate(members) if n >= len(said) or not member.matches(said[n])), len(members))
    if first < len(members):
        stands = f"'{shortened(said[first], 30)}'" if first < len(said) else "nothing"
        amiss = f"at place {first + 1} stands {stands}, not {members[first].name}"
    else:
        amiss = f"{len(said) - len(members)} more than the key has"
    named = sum(any(member.matches(text) for text in said) for member in members)
    return Comparison(right / max(len(members), len(said)), amiss, named)


def _in_order(members: Sequence[Member], said: Sequence[str]) -> bool:
    rest = iter(said)
    return all(any(member.matches(text) for text in rest) for member in members)


def _members(marking: Marking) -> list[Member]:
    key = marking.key
    if not isinstance(key, list | tuple) or not key:
        raise MarkingFault(f"the key wants a list of members; scheme '{marking.scheme}' compares lists")
    spec = marking.options.get("member")
    return [_member(one, spec, marking, number) for number, one in enumerate(key, start=1)]


def _member(key: Any, spec: Any, marking: Marking, number: int) -> Member:
    if spec is not None:
        marker = prepare_part(spec, key, marking, f"member {number} of the key")
        return Member(str(key), lambda text: marker(text).verdict is Verdict.PASS)
    spellings = accepted_texts(key)
    folded = {fold(spelling) for spelling in spellings}
    return Member(
        spellings[0],
        lambda text: any(fold(said) in folded for said in (text, _REMARK.sub("", text), without_one(text))),
    )


_OPTIONS = {"partial": (bool,), "extras": (str,), "member": (dict,)}
SET = Scheme(name="set", options=_OPTIONS, prepare=prepare_set)
SEQUENCE = Scheme(name="sequence", options=_OPTIONS, prepare=prepare_sequence)
