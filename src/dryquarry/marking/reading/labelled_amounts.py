"""Which numbers of a stretch stand behind the label that is asked for: a part of the question, a remainder."""

from __future__ import annotations

import re
from fractions import Fraction

from dryquarry.marking.reading.claims import Claim, Place, PlaceKind, Question
from dryquarry.marking.reading.echo import content_of, question_in
from dryquarry.marking.reading.stretches import Claims, Stretch, how_many
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply
from dryquarry.marking.values.quantities import Quantity

_LABELLED = regex(r"\(?\b([a-h])\)\s*|\b([a-h]):\s+|\b([a-z])\s*(?:=|is(?=\s+-?\d))\s*", re.IGNORECASE)
LEAST_LABELS = 2
_PART_LABEL = regex(r"\W*\([a-h]\)\s")
_ASKS_REMAINDER = regex(r"\bremainder\b|\bRest\b|\bmodulo\b|\breste\b|\bresto\b")
# "142 R 6", "142 remainder 6", "with a remainder of 6"
_REMAINDER_BEFORE = regex(r"(?:\bR\.?|\br|\bremainder|\brest|\breste|\bresto)\s*(?:is|of|=|:)?\s*\Z", re.IGNORECASE)
# "1000 = 142 · 7 + 6"
_DIVIDED = regex(r"=\s*\(?\d[\d,. ]*\s*[·×*x⋅]\s*\d[\d,. ]*\)?\s*\+\s*(?P<rest>\d+)(?![\d.,]*\d)")


# "2^10 ≡ 2 (mod 7)"
_MODULO = regex(r"\s*\(?\s?\\?p?mod\b", re.IGNORECASE)
_BECAUSE = regex(r"\b(?:because|since|as)\b", re.IGNORECASE)


def _modular(text: str, place: Place, claims: Claims) -> list[Claim[Quantity]]:
    """Return the number of the last congruence, or of the one before the reason that is given for it."""
    modular = [claim for claim in claims if _MODULO.match(text, claim.end, place.end)]
    reasoned = len(modular) > 1 and _BECAUSE.search(text, modular[0].end, modular[1].start)
    return modular[:1] if reasoned else modular[-1:]


def remainders(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the remainder where one is asked for: 6 of "142 R 6" and of "1000 = 142 · 7 + 6"."""
    text, place, question = stretch.text, stretch.place, stretch.question
    if not claims or not _ASKS_REMAINDER.search(question.asked):
        return claims
    told = [
        claim for claim in claims if _REMAINDER_BEFORE.search(text, max(place.start, claim.start - 20), claim.start)
    ]
    told = told or _modular(text, place, claims)
    divided = _DIVIDED.search(text, place.start, place.end)
    if told or divided is None:
        return told or claims
    start, end = divided.span("rest")
    rest = Quantity(Fraction(int(divided["rest"])), start, end, divided["rest"])
    return [Claim(rest, start, end, place, claims[-1].stance, claims[-1].cue)]


def _by_order(reply: Reply, place: Place, claims: list[Claim[Quantity]], question: Question) -> list[Claim[Quantity]]:
    """Keep the part that stands where the question has its own: "18,400 cm; 92 posts" for part (b)."""
    asked = re.findall(r"\(([a-h])\)", question.asked)
    order = list(dict.fromkeys(asked))
    bounds = [place.start, *(match.end() for match in re.finditer(";", reply.text[place.start : place.end]))]
    if len(order) < LEAST_LABELS or len(bounds) != len(order) or len(asked) == len(order):
        return claims
    bounds = [bounds[0], *(place.start + bound for bound in bounds[1:]), place.end]
    own = order.index(asked[-1])
    return [claim for claim in claims if bounds[own] <= claim.start < bounds[own + 1]] or claims


# "Upper: 63, lower: 21.", "The number of cuts is 7, that of the pieces 8."
_WORD_LABEL = regex(
    r"(?:\A|[,;.(\n|]|\band\b|\bor\b)\s*(?:on\s+|for\s+|in\s+)?(?P<that>(?:the|that|those)\s+(?:number\s+)?of\s+)?(?:the\s+|an?\s+)?"
    r"(?P<label>[^\W\d_]{3,}(?:\s(?!is\b|are\b)[^\W\d_]+){0,2})\s*(?:[:=–—-]|\bis\b|\bare\b|(?(that)|(?!)))\s*[€$£]?\Z",
    re.IGNORECASE,
)
_FARTHEST_LABEL = 48
# "red 20 %, green 30 %, blue 50 %"
_BARE_LABEL = regex(r"(?:[:,;\n]|\band\b|\A)\s*(?:for\s+)?(?:the\s+)?(?P<label>[^\W\d_]{3,})\s+[€$£]?\Z", re.IGNORECASE)
_NOT = regex(r"\bnot\b|n't\b")


def of_label_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the number behind the label that is of the question's own words: "Upper: 63, lower: 21"."""
    text, start = stretch.text, stretch.place.start
    asked = content_of(question_in(stretch.question.asked))
    labels = []
    for claim in claims:
        near = max(start, claim.start - _FARTHEST_LABEL)
        said = _WORD_LABEL.search(text[near : claim.start])
        labels.append(content_of(said["label"]) if said and (said.start() or near == start) else frozenset())
    if not all(labels):
        bare = [_BARE_LABEL.search(text, max(start, claim.start - _FARTHEST_LABEL), claim.start) for claim in claims]
        labels = [content_of(said["label"]) if said else frozenset() for said in bare]
    if len(claims) < LEAST_LABELS or not all(labels) or _NOT.search(stretch.question.asked):
        return claims
    own = [claim for claim, words in zip(claims, labels, strict=True) if words & asked]
    return own if len(own) == 1 else claims


def labelled(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what stands after the label that the question asks for: "(a) 92, (b) 18,400" for part b."""
    reply, place, question = stretch.reply, stretch.place, stretch.question
    said = reply.text[place.start : place.end]
    labels = [
        (match.start() + place.start, (match[1] or match[2] or match[3]).lower()) for match in _LABELLED.finditer(said)
    ]
    if not labels:
        return _by_order(reply, place, claims, question)
    asked = re.findall(r"\(([a-h])\)", question.asked) or re.findall(
        r"\b(?:for|of|is|find|value of)\s+([a-z])\b(?=[\s?.,]|$)", question.asked
    )
    noun = how_many(question.asked)
    if not asked and noun and any(label == noun[0] for _, label in labels):
        asked = [noun[0]]  # "r = 8 and h = 12", of rabbits and hens
    wanted = asked[-1].lower() if asked else None
    if len(labels) < LEAST_LABELS:
        # "(a) 92", where it is asked for (b)
        other = wanted is not None and _PART_LABEL.match(said) is not None and labels[0][1] != wanted
        return [] if other and (place.telling or place.kind is PlaceKind.STATEMENT) else claims
    kept = []
    for claim in claims:
        own = [label for at, label in labels if at <= claim.start]
        if wanted is None or not own or own[-1] == wanted:
            kept.append(claim)
    behind = [claim for claim in kept if claim.start >= labels[0][0]]
    return (behind if wanted is not None else []) or kept or claims  # "5x = 35, x = 7, y = 3"
