"""What belongs to the thing asked about, where a clause tells of several: "Spring begins in March, summer in June"."""

from __future__ import annotations

import itertools
import re

from dryquarry.marking.reading.clauses import PREPOSITION
from dryquarry.marking.reading.echo import content_of, is_echo, question_in, without_supposed
from dryquarry.marking.regexes import regex

Span = tuple[int, int]
_WORD = regex(r"[^\W_]+(?:['’-][^\W_]+)*")
_PREPOSITIONS = "in|on|at|to|from|by|with|for|under|behind|into"
# A thing of so few words, and none that speaks of several things or supposes one.
_THING = r"(?!(?:if|when|as|since|most|some|many|all|few|both|which|that|it)\b)(?:[^\s,;:]+\s){0,3}[^\s,;:]+?"
# "Spring begins in March", and what follows says the same of others without the verb
_FIRST = regex(
    rf"\W*(?P<who>{_THING})\s+(?P<verb>[a-z]{{2,}})\s+(?P<where>{_PREPOSITIONS})\s+(?P<one>[^,;:]{{2,40}}?)(?=[,;]\s|\s+and\s)",
    re.IGNORECASE,
)
MOST_PARTS = 12
MOST_WORDS_OF_OBJECT = 4
# Descriptions of several things have so many words in common, at least.
LEAST_ALIKE = 2


# "Mara keeps the cat and the third friend the dog", "Touch tells you the cloth, sight the colour"
_TWO_OBJECTS = regex(
    r"\W*(?:(?:so|then|thus|hence)\s+)?(?P<who>[^,;:]{2,30}?)\s+(?P<verb>[a-z]{2,}(?:s|ed))\s+(?:(?:you|us|one)\s+)?(?P<one>(?:the|an?)\s+[^\W\d_]+)"
    r"(?:,?\s+and\s+|,\s+)(?P<other>[^,;:]{2,30}?)\s+(?P<its>(?:the|an?)\s+[^\W\d_]+)\W*",
    re.IGNORECASE,
)


def of_two(text: str, start: int, end: int, asked: str) -> Span | None:
    """Return what the one of two has who is asked about, or which of two has what is asked about.

    "Mara keeps the cat and the third friend the dog", "Touch tells you the cloth, sight the colour".
    """
    both = _TWO_OBJECTS.fullmatch(text, start, end)
    if both is None:
        return None
    wanted = content_of(asked)
    who, other, one, its = (bool(content_of(both[name]) & wanted) for name in ("who", "other", "one", "its"))
    if who != other and not (one or its):
        return both.span("one") if who else both.span("its")
    if one != its and not (who or other):
        return both.span("who") if one else both.span("other")
    return None


# "A young cow is called a calf, a young sheep a lamb, and a young frog a tadpole."
_IS_ONE = regex(
    r"\W*(?P<who>(?:the|an?)\s[^,;:]{2,30}?)\s+(?:is|are|was)\s+(?:(?:called|named)\s+)?(?P<one>(?:the|an?)\s+[^\W\d_]+)",
    re.IGNORECASE,
)
_AND_ONE = regex(
    r"[,;]\s+(?:and\s+|while\s+|but\s+)?(?P<who>(?:the|an?)\s[^,;:]{2,30}?)\s+(?P<one>(?:the|an?)\s+[^\W\d_]+)(?=[,;]|\W*\Z)",
    re.IGNORECASE,
)


def of_kinds(text: str, start: int, end: int, asked: str) -> Span | None:
    """Return what the one of several kinds is called that a question names: "…, and a young frog a tadpole"."""
    first = _IS_ONE.match(text, start, end)
    parts = [first] if first else []
    while parts and len(parts) < MOST_PARTS and (more := _AND_ONE.match(text, parts[-1].end(), end)) is not None:
        parts.append(more)
    if len(parts) < 2 or text[parts[-1].end() : end].strip(" .!*"):
        return None
    shares = [len(content_of(part["who"]) & content_of(asked)) for part in parts]
    most = max(shares)
    return parts[shares.index(most)].span("one") if most > 0 and shares.count(most) == 1 else None


def gapped(text: str, start: int, end: int, asked: str) -> Span | None:
    """Return what a clause says of the one thing of several that a question names, or of which it says what is asked.

    "Spring begins in March, summer in June, autumn in September", where it is asked when autumn begins.
    """
    first = _FIRST.match(text, start, end)
    if first is None:
        return None
    parts = [(first.span("who"), first.span("one"))]
    again = re.compile(
        rf"(?:[,;]\s+(?:and\s+|while\s+|but\s+)?|\s+and\s+)(?P<who>{_THING})\s+{first['where']}\s+(?P<one>[^,;:]{{2,40}}?)"
        r"(?=[,;]\s|\s+and\s|\W*\Z)",
        re.IGNORECASE,
    )
    while len(parts) < MOST_PARTS and (more := again.match(text, parts[-1][1][1], end)) is not None:
        parts.append((more.span("who"), more.span("one")))
    if len(parts) < 2 or text[parts[-1][1][1] : end].strip(" .!*"):
        return None
    wanted = content_of(asked)
    of_subject = [bool(content_of(text[slice(*who)]) & wanted) for who, _ in parts]
    of_value = [bool(content_of(text[slice(*one)]) & wanted) for _, one in parts]
    if of_subject.count(True) == 1 and not any(of_value):
        return parts[of_subject.index(True)][1]
    if of_value.count(True) == 1 and not any(of_subject):
        return parts[of_value.index(True)][0]
    return None


_PART = regex(r",\s+(?:and\s+|then\s+)?")
# "two days after it Thursday", "the third is Arno"
_ENDS_WITH_NAME = regex(
    r"\W*(?P<who>[^,;:]{3,60}?\b[a-z]+)\s+(?:(?:is|was|comes|will\s+be)\s+)?(?:an?\s+)?(?P<one>[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?)\W*"
)
_PLAIN_WORD = regex(r"[^\W_]+")


def by_description(text: str, start: int, end: int, asked: str) -> Span | None:
    """Return the name behind the one of several descriptions that has most words of the question.

    "One day after it is Wednesday, two days after it Thursday", where it is asked what is two days after it.
    """
    joints = list(_PART.finditer(text, start, end))
    if not joints or len(joints) >= MOST_PARTS:
        return None
    begins, ends = [start, *(joint.end() for joint in joints)], [*(joint.start() for joint in joints), end]
    parts = [_ENDS_WITH_NAME.fullmatch(text, *span) for span in zip(begins, ends, strict=True)]
    told = [part for part in parts if part is not None]
    if len(told) < len(parts) or any(part["one"] in asked for part in told):
        return None
    described = [_words_of(part["who"]) for part in told]
    shares = [len(_words_of(asked) & words) for words in described]
    alike = all(len(first & second) >= LEAST_ALIKE for first, second in itertools.pairwise(described))
    return told[shares.index(max(shares))].span("one") if alike and shares.count(max(shares)) == 1 else None


def _words_of(text: str) -> frozenset[str]:
    return frozenset(word.casefold() for word in _PLAIN_WORD.findall(text))


_ASKS_WHAT_ONE_DOES = regex(r"\b(?:which|what|whom?)\b[^?]*?\b(?:do|does|did)\s", re.IGNORECASE)
_JOINED_ON = regex(r"\s+and\s+[a-z]{3,}\b")


# "… do plants give off in daylight?"
_ASKED_VERB = regex(r"\b(?:do|does|did)\s+(?:the\s+|an?\s+)?[^\W\d_]+\s+(?P<verb>[^\W\d_]{3,})", re.IGNORECASE)


def behind_own_words(text: str, start: int, end: int, asked: str) -> Span | None:
    """Return what stands behind the question's own subject and verb, where the clause goes on with another verb.

    "Plants take in carbon dioxide by day and give off oxygen", where it is asked which gas plants take in.
    """
    if not _ASKS_WHAT_ONE_DOES.search(asked) or not _JOINED_ON.search(text, start, end):
        return None
    words = list(_WORD.finditer(text, start, end))
    number = next((n for n, word in enumerate(words) if not is_echo(word.group(), asked)), len(words))
    own = [word for word in words[:number] if not is_echo(word.group(), "")]
    verb = _ASKED_VERB.search(asked)
    if len(own) < 2 or number == len(words) or (verb and not any(is_echo(one.group(), verb["verb"]) for one in own)):
        return None
    last = number
    while last < len(words) and not is_echo(words[last].group(), asked) and words[last].group() != "and":
        last += 1
    first, stop = words[number].start(), words[last - 1].end()
    bracket = text.find("(", first, stop)
    stop = len(text[:bracket].rstrip()) if bracket > first else stop
    preposition = PREPOSITION.search(text, first, stop)
    stop = preposition.start() if preposition else stop
    joined = _JOINED_ON.search(text, stop, end)
    object_words = len(_WORD.findall(text, first, stop))
    return (first, stop) if joined and 0 < object_words <= MOST_WORDS_OF_OBJECT else None


def of_several(text: str, span: Span, asked: str, *, telling: bool) -> Span | None:
    """Return what a clause that tells of several things says of the one asked about; None where it is not put so.

    `telling` is true of an answer line, which names one thing and describes none.
    """
    asks = question_in(asked)
    found = gapped(text, *span, asks) or of_kinds(text, *span, asks) or of_two(text, *span, without_supposed(asked))
    if found is not None or telling:
        return found
    return by_description(text, *span, asked) or behind_own_words(text, *span, asks)
