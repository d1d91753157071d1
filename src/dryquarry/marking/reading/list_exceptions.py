"""Lists told by what is not in them: "all of them except the gannet", "of 2, 3, 5 and 7 all but 5"."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import replace

from dryquarry.marking.reading.asked_lists import listed_in, others_than_said, plain_member, things_of
from dryquarry.marking.reading.claims import Place
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.list_items import BETWEEN
from dryquarry.marking.reading.members_named import NamedMember, members_of
from dryquarry.marking.regexes import regex

_EXCEPT = regex(
    r"\b(?:all|every\w*|each|any)\b[^.;]{0,40}?\b(?:except(?:\s+for)?|but(?:\s+for)?(?!\s+not)|save|"
    r"apart\s+from|other\s+than|without)\b|\bexcept(?:\s+for)?\b|\bapart\s+from\b|\bexcluding\b",
    re.IGNORECASE,
)
# "14 and 21, as 14 = 2·7"
_REASON_BEHIND = regex(
    r"(?<!\bwell),?\s(?:as|since|because)\s+(?=[^\s=]+\s*=|[^,;.]{0,80}\b(?:excluded|eliminated|out|missing|impossible)\W*\Z)",
    re.IGNORECASE,
)
# "A number is divisible by 5 if it ends in 0 or 5, which is the case for 15, 20 and 25."
_WHICH_IS_SO = regex(
    r",\s+(?:which|and\s+that|and\s+this)\s+(?:is\s+(?:the\s+case|so|true)\s+(?:for|of|with)|(?:applies|apply)\s+to|holds\s+for|goes\s+for)\s+(?:the\s+numbers\s+)?",
    re.IGNORECASE,
)


# "Ebba and Finn; Gro has a bike", on an answer line
_SAYS = r"(?:has|have|had|is|are|was|were|does|do|did|can|gets?|got|likes?|took|takes)\b"
_OF_ANOTHER = regex(
    rf"(?P<list>(?:(?!\b{_SAYS})[^;\n(:])+?)(?:;|\s[–—]|,\s+(?:while|whereas))\s+(?:the\s+)?[A-Z][^\W\d_]*(?:\s+and\s+(?:the\s+)?[A-Z][^\W\d_]*)?\s+"
    rf"{_SAYS}[^;\n]*",
)


# "Without milk and eggs, bread and salt are left", "After Wednesday come Thu, Fri and Sat"
_BESIDE_THESE = regex(
    r"\W*(?:without\s+[^,;:.]{1,60},\s+|after\s+(?:the\s+)?[^,;:.\s]+(?:\s[^,;:.\s]+)?\s+(?:comes?|follows?)\s+)"
    r"(?=\S)(?![^.;]*\bafter\b)",
    re.IGNORECASE,
)


def without_reason(text: str, place: Place) -> Place:
    """Return a stretch without the reason around the list: what is behind "because", or before "which is so for"."""
    reason = _REASON_BEHIND.search(text, place.start, place.end)
    so = _WHICH_IS_SO.search(text, place.start, place.end)
    if (beside := _BESIDE_THESE.match(text, place.start, place.end)) is not None:
        return replace(place, start=beside.end())
    if place.telling and (another := _OF_ANOTHER.match(text, place.start, place.end)) is not None:
        return replace(place, end=another.end("list"))
    return replace(place, start=so.end() if so else place.start, end=reason.start() if reason and not so else place.end)


BUT_NOT = regex(
    r"\s[–—-]\s+no\s.*$|,?\s*\b(?:but\s+(?:not?|neither)|and\s+not|not|without|except(?:\s+for)?|excluding|rather\s+than|sans|nicht|sin)\b\s+.*$",
    re.IGNORECASE | re.DOTALL,
)
ASKS_WHICH_NOT = regex(r"\b(?:no|not|none|never|without|lacks?|can't|cannot)\b|n't\b", re.IGNORECASE)


_WHICH_IS = regex(r",\s+(?:which|who|that)\s", re.IGNORECASE)
_DASHED = regex(r"\s[–—-]\s*\Z")


def all_but(text: str, start: int, end: int, asked: str) -> tuple[NamedMember, ...] | None:
    """Return what is left of the question's list in "all of them except the gannet"; None where nothing is excepted."""
    if (denied := _ONLY_DENIES.fullmatch(text, start, end)) is not None and not ASKS_WHICH_NOT.search(
        question_in(asked)
    ):
        if denied["rest"] and not _THE_OTHERS.match(denied["rest"]):
            return members_of(text, *denied.span("rest"), BETWEEN)  # "neither A nor C, so B and D"
        return _others_than(listed_in(asked), denied["out"], start, end)
    if (are_not := _ARE_NOT.fullmatch(text, start, end)) and not text[:start].strip() + text[end:].strip():
        return _others_than(listed_in(asked), are_not["out"], start, end)
    match = _EXCEPT.search(text, start, end)
    if match and (aside := _WHICH_IS.search(text, match.end(), end)) is not None:
        end = aside.start()  # "all but yellow, which is a mix of red and green"
    if match and _DASHED.search(text, start, match.start()) and BETWEEN.search(text, start, match.start()):
        return None  # "curlew, avocet, oystercatcher — all but the two others": they are told before
    if match is None:
        return others_than_said(text, start, end, things_of(asked))
    if ASKS_WHICH_NOT.search(question_in(asked).partition(", if")[0]):
        return members_of(text, match.end(), end, BETWEEN)  # "all planets have moons but Mercury and Venus"
    if (counted := _SO_MANY_OUT.match(text, match.end(), end)) is not None:
        return _others_than(listed_in(asked), text[counted.end() : end], start, end)
    if (of := _OF_THESE.match(text, start, match.end())) is not None:  # "of 2, 3, 5 and 7 all but 5 divide it"
        verb = _VERB_BEHIND.search(text, match.end(), end)
        out = {
            plain_member(said) for said, _, _ in members_of(text, match.end(), verb.start() if verb else end, BETWEEN)
        }
        return tuple(one for one in members_of(text, *of.span("list"), BETWEEN) if plain_member(one[0]) not in out)
    verb = _ARE_SO.search(text, match.end(), end)
    out = {plain_member(one) for one, _, _ in members_of(text, match.end(), verb.start() if verb else end, BETWEEN)}
    return tuple((member, start, end) for member in listed_in(asked) if plain_member(member) not in out)


def _others_than(listed: Sequence[str], told: str, start: int, end: int) -> tuple[NamedMember, ...] | None:
    """Return what a list has beside those of its members that a stretch names; None where it names none."""
    told = told.casefold()
    named = [member for member in listed if re.search(rf"\b{re.escape(plain_member(member))}\b", told)]
    return tuple((member, start, end) for member in listed if member not in named) if named else None


# "neither Alk nor Curlew", "not Alk and not Curlew, so Bosun and Dory"
_ONLY_DENIES = regex(
    r"\W*(?:neither|not)\s+(?P<out>[^;:.]{1,80}?(?:\s(?:nor|and\s+not|or|and\s+nor)\s)[^;:.,]{1,60}?)"
    r"(?:,\s+(?:so|but|hence|thus|only|therefore|leaving|which\s+leaves)\s+(?P<rest>[^;:.]{2,}?))?\W*",
    re.IGNORECASE,
)
# "L and T aren't.", and no more than that
_ARE_NOT = regex(
    r"\W*(?P<out>[^,;:.]{1,60}?)\s+(?:(?:are|is|do|does|were|was)(?:n['’]t|\s+not)|(?:are|is)\s+out)(?:\s+[^\W\d_]+)?\W*",
    re.IGNORECASE,
)
_THE_OTHERS = regex(
    r"(?:the\s+)?(?:others?|rest|remaining|two\s+others?|other\s+(?:two|three|four|ones?))\b", re.IGNORECASE
)
_OF_THESE = regex(r"\W*of\s+(?P<list>[^;:.]{3,80}?),?\s+(?=(?:all|every|each)\b)", re.IGNORECASE)
# "All but Alk and Curlew are moored."
_ARE_SO = regex(r"\s(?:is|are|was|were|have|has|had|can|do|does|did|will|belong)\b", re.IGNORECASE)
_VERB_BEHIND = regex(r"\s(?=[^\W\d_]+\s+(?:it|this|that|them)\b)", re.IGNORECASE)
# "All but two: the gannet is a seabird, and the swift lives in the air."
_SO_MANY_OUT = regex(r"\s+(?:one|two|three|four|five)\s*[:;—–(-]\s*", re.IGNORECASE)
