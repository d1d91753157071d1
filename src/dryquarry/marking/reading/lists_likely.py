"""Whether what a sentence lists may be an answer: things of the question where it names them, numbers where it asks."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from dryquarry.marking.reading.asked_lists import mentioned_in, things_asked
from dryquarry.marking.reading.claims import Claim, Found, Place, PlaceKind
from dryquarry.marking.reading.echo import content_of, question_in, stem
from dryquarry.marking.reading.members_named import Members, NamedMember
from dryquarry.marking.reading.stretches import numbers_asked
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import find_terms

_ASKS_NUMBERS = regex(r"\bsolve\b|\b(?:numbers|solutions|roots|primes|multiples|divisors|factors)\b", re.IGNORECASE)
_ASKS_ORDER = regex(r"\b(?:order|sort|sequence|arrange|rank)\b", re.IGNORECASE)
_UNTOLD = (PlaceKind.SENTENCE, PlaceKind.FIRST_WORDS, PlaceKind.CONCLUSION)
MOST_WORDS_OF_A_NUMBER = 4
# Of the members of a list that answers, more than this share name a thing of the question.
LEAST_SHARE = 0.5


# "the oak, the elm or the ash"
_SOME_OR = regex(
    r"\W*(?:the\s+|an?\s+)?[^\W\d_]+(?:,\s+(?:the\s+|an?\s+)?[^\W\d_]+)+,?\s+or\s+(?:the\s+|an?\s+)?[^\W\d_]+\W*",
    re.IGNORECASE,
)


def leaves_open(text: str, place: Place, asked: str) -> bool:
    """Tell whether a stretch only names things of the question with an "or" between them: none of them for sure."""
    return bool(things_asked(asked)) and _SOME_OR.fullmatch(text, place.start, place.end) is not None


# "Elm, then Oak, then Fir."
_ONLY_CHAIN = regex(
    r"\W*(?:first\s+)?(?:the\s+)?[^\W_]+(?:(?:,|;)?\s+(?:and\s+)?(?:then|after\s+that|finally|lastly|at\s+last|followed\s+by)\s+(?:the\s+)?[^\W_]+){2,}\W*",
    re.IGNORECASE,
)


def only_lists(text: str) -> bool:
    """Tell whether a sentence is a row of things and nothing else: "Elm, then Oak, then Fir."."""
    return _ONLY_CHAIN.fullmatch(text) is not None


def likely(
    text: str, place: Place, claims: Sequence[Claim[Members]], asked: str, *, sentences: int
) -> list[Claim[Members]]:
    """Return the lists of a sentence of several without those that name something else than the question does.

    "The gannet is a seabird that dives, and the swift flies" lists no waders of curlew, gannet, swift and avocet.
    """
    if place.kind not in _UNTOLD or sentences < 2:
        return list(claims)
    claims = [claim for claim in claims if not _is_narrowed(text, place.end, claim.value.texts)]
    if _ASKS_NUMBERS.search(asked):
        given = numbers_asked(asked)
        claims = [claim for claim in claims if any(map(_is_number, claim.value.texts))]
        if not things_asked(asked):  # "Divisible by 2 and 7 means divisible by 14."
            claims = [claim for claim in claims if not all(_is_given(member, given) for member in claim.value.texts)]
    things = things_asked(asked)
    if not things:
        return list(claims)
    if _ASKS_ORDER.search(asked):
        claims = [claim for claim in claims if len(claim.value.texts) > 1]
    named = re.compile("|".join(rf"\b{re.escape(thing)}(?:e?s)?\b" for thing in things), re.IGNORECASE)
    shares = [_share(named, claim.value.texts) for claim in claims]
    return [claim for claim, share in zip(claims, shares, strict=True) if share == 0 or share > LEAST_SHARE]


# "…: 6, 9, 12, 15. Every second one is odd: 9 and 15."
_NARROWS = regex(
    r"\W*(?:every\s+(?:second|third|fourth|other)\s|(?:out\s+)?of\s+(?:these|those|them|which)\b|among\s+(?:these|those|them)\b|"
    r"(?:only|just)\s|(?:as|since|because)\s[^,.\n]{3,60},\s|the\s+[^\W\d_]+\s+(?:ones|among\s+them|of\s+(?:these|them))\b)(?P<rest>[^.!?\n]{1,160})",
    re.IGNORECASE,
)
_NOT = regex(r"\b(?:not|no|none|neither|nor|out|excluded)\b|n['’]t\b", re.IGNORECASE)


def _is_narrowed(text: str, end: int, members: Sequence[str]) -> bool:
    """Tell whether the sentence behind a list says which of its members are meant, two of them or more."""
    narrows = _NARROWS.match(text, end)
    if narrows is None or _NOT.search(narrows["rest"]):
        return False
    meant = [one for one in members if re.search(rf"(?<!\w){re.escape(one)}(?!\w)", narrows["rest"], re.IGNORECASE)]
    return 1 < len(meant) < len(members)


_TIES = regex(r"\b(?:together|tied|at the same (?:time|place)|share|in a tie|equal(?:ly)?)\b", re.IGNORECASE)
_BEHIND_SINCE = regex(r",\s+(?:since|because|as|for|where|given)\s.*\Z", re.IGNORECASE | re.DOTALL)


def are_tied(stretch: str) -> bool:
    """Tell whether some of a list share a place, as is said of it and not in a reason behind it."""
    return _TIES.search(_BEHIND_SINCE.sub("", stretch)) is not None


def with_things(text: str, found: Found[Members], asked: str) -> Found[Members]:
    """Return a list that may also be read as the things of the question that its members tell of.

    "The anchor is lifted, the sail is set, the harbour is left."
    """
    said = tuple(mentioned_in(text, found.start, found.end, question_in(asked)))
    bare = tuple(_without_kind(member, asked) for member in found.value.members)
    if bare != found.value.members:
        found = replace(found, value=replace(found.value, others=(*found.value.others, bare)))
    ways = (found.value.members, *found.value.others)
    if len(said) != len(found.value.members) or said in ways:
        return found
    return replace(found, value=replace(found.value, others=(*found.value.others, said)))


_KIND = regex(r"(?:the\s+)?(?P<kind>[^\W\d_]{3,})\s+(?=[A-ZÀ-Þ])")


def _without_kind(member: NamedMember, asked: str) -> NamedMember:
    """Return a member without the kind that is asked for before its name: "Ruiz" for "keeper Ruiz"."""
    name, start, end = member
    kind = _KIND.match(name)
    if kind is None or stem(kind["kind"].lower()) not in content_of(question_in(asked)):
        return member
    return name[kind.end() :], start + kind.end(), end


def _is_number(member: str) -> bool:
    return len(member.split()) <= MOST_WORDS_OF_A_NUMBER and bool(find_terms(member))


def _is_given(member: str, given: frozenset[object]) -> bool:
    terms = find_terms(member)
    return bool(terms) and all(term.value in given for term in terms)


def _share(named: re.Pattern[str], members: Sequence[str]) -> float:
    """Return the share of members that name a thing, from 0 to 1."""
    return sum(named.search(member) is not None for member in members) / len(members)
