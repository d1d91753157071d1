"""What a question lets one choose from, and where a text mentions it: "Was it a heron or an egret?"."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.reading.echo import is_echo, question_in
from dryquarry.marking.regexes import regex

# What is named, in small letters, and where it stands.
Mention = tuple[str, int, int]

LONGEST_QUESTION = 2000
_OF_SO_MUCH = r"\s(?:of|with|at|weighing)\s[€$£]?\d[\d.,]*(?:\s?[^\W\d_]{1,10}|\s?[€$£%])?"
_ITEM = (
    r"['\"‘“]?(?:(?:the|an?)\s+)?[^\W\d_][\w’-]*(?:\s(?!or\b|and\b)[\w’-]+){0,2}?['\"’”]?"
    rf"(?:\s\([^()]{{1,20}}\)|{_OF_SO_MUCH})?"
)
_ITEMS = rf"(?P<items>{_ITEM}(?:,\s+{_ITEM})*,?\s+(?:or|and)\s+{_ITEM}|{_ITEM}(?:,\s+{_ITEM})+)"
_ALTERNATIVES = rf"(?P<items>{_ITEM}(?:,\s+{_ITEM})*,?\s+or\s+{_ITEM})"
_OFFERS = tuple(
    regex(pattern, re.IGNORECASE)
    for pattern in (
        # "…: oak, ash, rose, elm?"
        rf":\s+(?!['\"‘“][^'\"’”]*,){_ITEMS}\s*\?",
        # "Which is longer, the Elm or the Ash?", "Which bird, the knot, the ruff or the smew, breeds …?"
        rf",\s+{_ALTERNATIVES}\s*(?:\?|,\s)",
        # "Was it a heron or an egret?"
        rf"\b(?:is|was|are|were|be)\s+(?:it\s+|that\s+|this\s+)?{_ALTERNATIVES}\s*\?",
        rf"\b(?:is|was|are|were|be)\s+(?:it\s+|that\s+|this\s+){_ALTERNATIVES}\s*,\s+(?!or\b|and\b|who\b)",
        # "Choose from basalt, gneiss, granite and marble."
        rf"\b(?:choose|pick|select|name)\s+(?:one\s+)?(?:from|of|among|between)\s+(?:these:\s+|the\s+following:\s+)?{_ITEMS}\s*[.?]",
        # "Which metal from 'iron, copper, tin' …?", "Which of the flowers rose, marigold and violet …?"
        rf"\b(?:which|what|who)\s+(?:\w+\s+)?(?:from|among)\s+['\"‘“]{_ITEMS}['\"’”]",
        rf"\b(?:which|who)\s+of\s+(?:the\s+)?(?:\w+\s+)?{_ITEMS}(?=\s)",
    )
)
# "What is the capital of the country that shows a heron: Tarn, Velm or Quist?": none of these is the capital
_ASKS_WHAT_OF_IT = regex(r"\bwh(?:at|o)\s+(?:is|was|are|were)\s+(?:the|its)\s+[^\W\d_]+\s+of\b", re.IGNORECASE)
# "the anchor of 40 kg or the chain (45 kg)"
_DETAIL = regex(rf"\s\([^()]*\)|{_OF_SO_MUCH}", re.IGNORECASE)
_ARTICLE = regex(r"\A(?:the|an?)\s+", re.IGNORECASE)


@lru_cache(maxsize=512)
def offered_by(asked: str) -> tuple[str, ...]:
    """Return what a question lets one choose from: "Was it a heron or an egret?" offers two; none where it does not."""
    asked = asked[-LONGEST_QUESTION:]
    if _ASKS_WHAT_OF_IT.search(asked):
        return ()
    for offers in _OFFERS:
        if (match := offers.search(asked)) is not None:
            parts = re.split(r",\s+(?:(?:or|and)\s+)?|\s+(?:or|and)\s+", _DETAIL.sub("", match["items"]))
            items = [_ARTICLE.sub("", part.strip(" '\"‘’“”"), count=1) for part in parts]
            if len(set(map(str.casefold, items))) == len(items) and all(items):
                return tuple(items)
    return ()


@lru_cache(maxsize=512)
def _mention(offered: tuple[str, ...]) -> re.Pattern[str]:
    longest_first = sorted(offered, key=len, reverse=True)
    any_of_them = "|".join(r"\s+".join(map(re.escape, one.split())) for one in longest_first)
    return re.compile(rf"(?<![\w-])(?:{any_of_them})(?:e?s)?(?![\w-])", re.IGNORECASE)


@lru_cache(maxsize=512)
def without_offers(asked: str) -> str:
    """Return what a question asks without what it offers, which an answer names without taking up the question."""
    offered = offered_by(asked)
    return _mention(offered).sub("", question_in(asked)) if offered else asked


def _which(said: str, offered: tuple[str, ...]) -> str:
    said = " ".join(said.casefold().split())
    return next((one for one in map(str.casefold, offered) if said in (one, f"{one}s", f"{one}es")), said)


_NAME = regex(r"(?<![.?!]\s)(?<!\A)\b[A-Z][^\W\d_]+|\A[A-Z][^\W\d_]+(?=\s(?:is|was|has|sits|stands|lives|gave|had)\b)")
# "Not Crag Point.", "Neither Oda nor Bram, who sit at the ends."
_NOT_THESE = regex(
    r"\W*(?:(?:as|since|because)\s[^,;.]{2,60},\s+(?:so\s+)?)?"
    r"(?:it(?:'s|\s+is)\s+(?:not|neither)|"
    r"(?:it\s+)?(?:can(?:not|'t|\s+not)\s+(?:have\s+been|be)|was(?:n't|\s+not)|isn't)|"
    r"[^,;.]{0,40}\s(?:rules?\s+out|excludes?)|not|neither|(?:definitely|certainly|clearly|surely|it(?:'s|\s+is)|that(?:'s|\s+is))\s+no)\s+(?P<said>[^;:.?!]+)\W*|"
    r"\W*(?P<asked>[^;:.?!]{2,40})\?\s+No\W*",
    re.IGNORECASE,
)
MOST_CHOICES = 5


def _names(asked: str) -> tuple[str, ...]:
    return tuple(dict.fromkeys(name for name in _NAME.findall(asked) if not is_echo(name, "")))


def the_one_left(text: str, start: int, end: int, asked: str) -> str | None:
    """Return the one thing or person of a question that a stretch which only says "not these" leaves; None for more."""
    denied = _NOT_THESE.fullmatch(text, start, end)
    who = re.search(r"\bwho\b", question_in(asked), re.IGNORECASE)
    offered = offered_by(asked) or (_names(asked) if who else ())
    if denied is None or not 1 < len(offered) <= MOST_CHOICES:
        return None
    said = denied.span("said" if denied["said"] else "asked")
    out = {one for one, _, _ in mentions_of(offered, text, *said)}
    left = [one for one in offered if one.casefold() not in out]
    return left[0] if out and len(left) == 1 else None


def mentions_of(offered: tuple[str, ...], text: str, start: int, end: int) -> list[Mention]:
    """Return what of the things offered a stretch mentions, in the plural, too."""
    return [(_which(match.group(), offered), *match.span()) for match in _mention(offered).finditer(text, start, end)]


# "Basalt no, gneiss no, marble no, granite yes."
_JUDGED = regex(r"\W*(?P<one>[^\W\d_]+(?:\s[^\W\d_]+)?)\s*[:–-]?\s+(?P<says>yes|no)\b(?:\W+|\Z)", re.IGNORECASE)


def said_yes_to(text: str, start: int, end: int) -> Mention | None:
    """Return the one thing to which a stretch says yes that says yes or no to each of several; None for another."""
    judged, place = [], start
    while (one := _JUDGED.match(text, place, end)) is not None and one.end() > place:
        judged.append(one)
        place = one.end()
    right = [one for one in judged if one["says"].lower() == "yes"]
    if place < end or len(judged) < 2 or len(right) != 1:
        return None
    return right[0]["one"], *right[0].span("one")


_DENIES = regex(r"\b(?:not|never|neither|nor)\b|n['’]t\b", re.IGNORECASE)
# "Port is red and starboard green.", where it is asked which of the two is red
_IS_SO = regex(
    r"(?:\A|[,;]\s|\b(?:and|but)\s)\W*(?:the\s+)?(?P<one>[^\W\d_]+)\s+(?:is|are|has)\s+(?P<so>[^\W\d_]{3,})\b",
    re.IGNORECASE,
)


def offered_that_is_so(text: str, start: int, end: int, asked: str) -> Mention | None:
    """Return the one of two things offered that a stretch says to be as asked; None where none or both are."""
    offered = offered_by(asked)
    if len(offered) != 2:
        return None
    folded = [one.casefold() for one in offered]
    question = question_in(asked)
    so = [
        match
        for match in _IS_SO.finditer(text[start:end])
        if match["one"].casefold() in folded and is_echo(match["so"], question) and not is_echo(match["so"], "")
    ]
    if len(so) != 1 or _DENIES.search(text, start, end):
        return None
    return so[0]["one"].casefold(), start + so[0].start("one"), start + so[0].end("one")
