"""The clauses of a stretch, and what is left of one without brackets, asides and what is added to it."""

from __future__ import annotations

import re
from collections.abc import Iterator
from functools import lru_cache

from dryquarry.marking.cues import cue
from dryquarry.marking.regexes import regex

# What ends a clause: a semicolon, a dash, a colon, a sign that ticks or crosses, and words that turn to something else.
_CLAUSE_END = regex(
    r"[;]|(?:(?<=\w [❌✗✘✖✅✔✓])|(?<=\w[❌✗✘✖✅✔✓]))\s*[,;]?\s+|(?<=\w)\s+(?=[❌✗✘✖✅✔✓]\s+\w)|"
    r",\s+(?=I\s+(?:say|take|pick|choose)\s)|,\s+(?=(?:no|sorry|wait|oops|correction),\s|then\s+(?:i\s+)?(?:reali[sz]ed|saw|noticed|found)\b)|\s[–-]\s|\s?—\s?|(?<!\d)[:](?=\s)|"
    r",\s(?:and\s)?(?=the\s+(?:right|correct|real|true|actual)\s+(?:one|answer)\b)|"
    r",\sand\s(?=(?:\S+\s){0,3}?(?:is|are|was|were)\b|(?:that|it|this)'s\b)|"
    r"(?<!\bis)(?<!\bwas)(?<!\bare)(?<!\bwere),?\s"
    r"(?=(?:but|yet|however|so(?!\W*(?:\Z|\n))|therefore|thus|hence|which (?:makes|means|leaves)|"
    r"sondern|aber|mais|donc|"
    r"sino|pero)\b)(?!so\s+(?:far|called|that)\b|(?:however|therefore|thus|hence),\s+(?:is|are|was|were|has|had|must)\b)|(?<=\w)(?:\.{3}|[.!?…])\s+|(?<!\bof)(?<!\bthe)(?<!\band)(?<!\bin)\n",
    re.IGNORECASE,
)

_BRACKET = regex(r"\s*[(\[][^()\[\]]*[)\]]")

_RATHER = regex(
    r",?\s+(?:rather than|instead of|and not|not|as opposed to|unlike|nicht|et non|y no|followed by|"
    r"ahead of|before)\b.*$",
    re.IGNORECASE | re.DOTALL,
)

# Words that lead up to what a clause says: "so", "I think that", "in short,", "we're left with".
_LEADS_ON = (
    r"(?:so|therefore|thus|hence|and|but|yet|yes|no|well|now|then|in total|indeed|clearly|"
    r"obviously|overall|finally|ultimately|of course|also|donc|sondern|mais|sino|aber|daher|it must be|it has to be|"
    r"(?:i'd say|(?:i|one|you) would say|i think|i believe|i guess|i conclude|i know|i'm sure)(?: that)?|most likely|"
    r"in the end|here|(?:that|this|which) leaves(?: us)?(?: with)?(?: only)?|in truth|in fact|"
    r"in reality|really|probably|surely|for me|to me|(?:today|nowadays|currently)(?= it(?:'s| is))|"
    r"definitely|certainly|perhaps|simply|just|rather|instead|only|actually|namely|"
    r"precisely|solely|merely|exactly|"
    r"(?:neither|none)(?: of (?:them|these|those|the (?:two|three)))?"
    r"(?=[,:;–-]\s*(?:it|that|this|he|she|they|but|rather)\b)|"
    r"(?:i reckon|i suppose|i assume)(?: that)?|without (?:a |any )?doubt|settling on|"
    r"i'm fairly (?:sure|confident) (?:that )?|how about|none other than|oh|ah|always|hands down|step \d+:|"
    r"take|choose|pick|select|(?:is|was|could|would) it(?: be)?|(?:we|i|you)(?:'re| are)(?: only)? left with)\b[,:]?"
)
_SORRY = r"sorry,|according to (?:the |this |that )?\w+,?(?=\s)"
_TELLS_THAT = (
    r"[^,;:.]{0,60}?\b(?:means?|shows?|tells?|told|says?|said|says is|knows?|conclude|finds?|found|sees?|saw|learns?|"
    r"believe|think|sure|certain|doubt|clear|obvious|evident|likely|possible|true|turns out|follows|implies|states|"
    r"suggests|reads?)(?:\s+(?:us|me))?\s+that\s+"
)
_BEFORE_COMMA = (
    r"(?:(?:while|whilst|(?:even )?though|although|since|unlike|contrary to|"
    r"(?:among|of)(?![^,.;:]{0,40}\b(?:it(?:'s| is| was)|comes|ranks)\b)|if|as|given|unless|after|before|"
    r"judging|considering|having|put|beyond|by|to|all in all|going|reading|looking|thinking|upon|based|when|"
    r"all things|after all|far from|despite|from|"
    r"in (?:this case|the end|short|summary|conclusion|other words|my view|a nutshell|one word|total|all)|"
    r"because(?! of\b[^,]*\b(?:is|was|are|were|has|had)\b))\b"
    r"|\w+ly\b)[^,.;:]{0,90},(?:\s(?:which|who)\s[^,.;:]{1,90},)?(?=\s)|"
    r"the (?:point|thing|fact|truth|way i see it)(?: is)?,(?=\s)|"
    r"\w+ as (?:it|he|she|they) (?:is|are|was|were),(?=\s)"
)
_SHORT_LEAD = regex(rf"(?:\W|{_LEADS_ON})+\s*", re.IGNORECASE)
LEAD = regex(rf"(?:\W|{_LEADS_ON}|{_SORRY}|{_TELLS_THAT}|{_BEFORE_COMMA})+\s*", re.IGNORECASE)

PREPOSITION = regex(
    r"\b(?:in|into|on|onto|at|to|for|from|with|of|after|as|near|through|under|over|called|named|"
    r"number|year|behind|against|about|around|between|toward|towards|upon)\s+",
    re.IGNORECASE,
)

_GOES_BESIDE = regex(
    r",\s|\s(?:and|with|in|on|at|from|for|of|to|near|by|after|before|until|since|during|as|like|than|over|under|"
    r"between|where|when|if|unless|too|again|today|there|here|then|not|und|et|y)\s",
    re.IGNORECASE,
)


_TITLE_POINT = regex(r"\b(?:(?i:mr|mrs|ms|dr|st|mt|prof|capt|rev|gen|col|lt|ft)|[A-Z])\.(?=\s+[A-ZÀ-Þ])")


def clauses(text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """Yield the clauses of a stretch; what is in brackets parts none."""
    depth_safe = _BRACKET.sub(lambda match: "·" * len(match.group()), text[start:end])
    place = 0
    for match in _CLAUSE_END.finditer(depth_safe):
        if (
            re.search(
                r"(?:\b(?i:mr|mrs|ms|dr|st|mt|no|vs|e\.g|i\.e|approx|ca|prof)|\b[A-Z])$",
                depth_safe[max(0, match.start() - 6) : match.start()],
            )
            and "." in match.group()
        ):
            continue
        if depth_safe[place : match.start()].strip():
            yield start + place, start + match.start() + (1 if match.group()[0] in "?" else 0)
        place = match.end()
    if depth_safe[place:].strip():
        yield start + place, end


@lru_cache(maxsize=8)
def points_of_titles_hidden(text: str) -> str:
    """Return a text, as long as it was, in which the point of "Dr." and of an initial ends nothing."""
    return _TITLE_POINT.sub(lambda title: f"{title.group()[:-1]}_", text)


def behind_lead(text: str, start: int, end: int) -> int:
    """Return where a clause begins behind the words that lead up to what it says: "so", "I think that"."""
    lead = LEAD.match(text, start, end)
    return lead.end() if lead and lead.end() < end else start


def without_brackets(text: str, start: int, end: int) -> tuple[int, int]:
    """Return a clause without what stands in brackets at its end."""
    match = None
    for match in _BRACKET.finditer(text, start, end):
        if match.start() > start and not text[match.end() : end].strip(" .!"):
            return start, match.start()
    return start, end


def without_asides(text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """Yield a clause without what is added to it: "…, which flies furthest", "…, not the swift", "… because it is"."""
    for kind in ("aside", "contrast", "who"):
        match = cue(kind, r",?\s").search(text, start + 1, end)
        if match and text[start : match.start()].strip() and (kind != "who" or text[match.start()] == ","):
            end = match.start()
    yield start, end
    rather = _RATHER.search(text, start + 1, end)
    if rather:
        end = rather.start()
        yield start, end
    comma = re.compile(r",\s").search(text, start, end)
    if comma:
        yield start, comma.start()


def narrowed(text: str, start: int, end: int) -> Iterator[tuple[int, int]]:
    """Yield a phrase, and what of it stands before words that add to it."""
    while start < end and text[start] in " ,:":
        start += 1
    yield start, end
    lead = _SHORT_LEAD.match(text, start, end)
    if lead and lead.end() < end:
        start = lead.end()
        yield start, end
    yield from without_asides(text, start, end)
    for match in _GOES_BESIDE.finditer(text, start, end):
        if text[start : match.start()].strip():
            yield start, match.start()
            break
    for match in PREPOSITION.finditer(text, start, end):
        if match.start() - start <= 2:
            yield match.end(), end
            yield from without_asides(text, match.end(), end)
            break


# "Caspian Sea, Black Sea"
_TWO_OF_A_KIND = regex(
    r"\W*(?P<one>(?:the\s+)?[A-Z]\w+\s(?P<kind>[A-Z]\w+)),\s+(?P<other>(?:the\s+)?[A-Z]\w+\s(?P=kind))\W*"
)


# "piano, or organ"
_OR_ELSE = regex(
    r"\W*(?P<one>(?:the\s+|an?\s+)?[^\W\d_]+(?:\s[^\W\d_]+)?),\s+or\s+(?:perhaps\s+|maybe\s+|possibly\s+|else\s+)?(?!(?:rather|simply|just|more|in|to)\b)"
    r"(?P<other>(?:the\s+|an?\s+)?[^\W\d_]+(?:\s[^\W\d_]+)?)\W*",
    re.IGNORECASE,
)


def two_of_a_kind(text: str, start: int, end: int) -> list[tuple[int, int]]:
    """Return where two names of one kind stand that a stretch has and nothing else; nothing for another."""
    two = _TWO_OF_A_KIND.fullmatch(text, start, end) or _OR_ELSE.fullmatch(text, start, end)
    return [two.span("one"), two.span("other")] if two else []
