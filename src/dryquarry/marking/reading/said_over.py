"""What a question asks, said over again: as it is, denied, by its opposite, or with an exception to it."""

from __future__ import annotations

import re
from math import ceil

from dryquarry.marking.reading.comparisons import same_way
from dryquarry.marking.reading.echo import content_of, names_in, stem
from dryquarry.marking.regexes import regex

Answer = tuple[str, int, int]
LEAST_SHARE = 0.75
MOST_OTHER_WORDS = 6
LEAST_SHARE_OF_NONE = 0.5
MOST_WORDS_OF_A_FRAGMENT = 5
_WORD = regex(r"[^\W_]+(?:['’-][^\W_]+)*")
_NOT = regex(r"\b(?:not|no|never|none|neither|nor|cannot)\b|n['’]t\b", re.IGNORECASE)
_AUX = r"(?:does|do|did|is|are|was|were|can|could|has|have|had|will|would|may|must|should)"
_OPPOSITES = (
    "prime composite", "odd even", "open closed", "open shut", "possible impossible", "true false", "alive dead",
    "full empty", "same different", "rational irrational", "finite infinite", "legal illegal", "allowed forbidden",
    "safe dangerous", "right wrong", "correct incorrect", "equal unequal", "guilty innocent", "present absent",
    "wet dry", "locked unlocked", "valid invalid", "deep shallow", "lit dark", "tame wild", "hot cold",
    "divisible indivisible",
)  # fmt: skip
_OTHER_SIDE = [(one, other) for pair in _OPPOSITES for one, other in (pair.split(), pair.split()[::-1])]


def said_over(text: str, start: int, end: int, question: str) -> Answer | None:
    """Return yes or no where a clause says what is asked, or that it is not so, and where; None where it does not."""
    for way in _WAYS:
        if (said := way(text, start, end, question)) is not None:
            return said
    return None


def _content_stems(question: str) -> list[str]:
    """Return the stems of the words of a question that say something, in order."""
    return [stem(word) for word in _WORD.findall(question) if content_of(word)]


_ASKS_ALL = regex(r"\b(?:all|every\w*|each|always)\b", re.IGNORECASE)
# "Not every bird can fly", "Some birds don't", "Ostriches and penguins don't", "Most do"
_EXCEPTION = regex(
    rf"\bnot\s+(?:all|every\w*|each|always)\b(?:\s+(?P<of>[^\W\d_]+)\s+[^\W\d_])?|\b(?:some|several|many|a\s+few|there\s+are)\s[^,;]{{0,60}}(?:\bnot\b|n['’]t\b|\bnever\b|\bcannot\b)|"
    rf"\A\W*most\s+(?:of\s+(?:them|these|those)\s+|[^\W\d_]+\s+)?{_AUX}\b|"
    rf"\A\W*(?!(?:all|every|each|no|they|it)\b)[^,;:]{{3,60}}\s(?:{_AUX}(?:n['’]t|\s+not)|ca?n(?:no|['’])t)\W*\Z",
    re.IGNORECASE,
)


def _by_exception(text: str, start: int, end: int, question: str) -> Answer | None:
    """Return no where all is asked for and a clause tells of some that are otherwise."""
    if not _ASKS_ALL.search(question):
        return None
    said = _EXCEPTION.search(text[start:end])
    if said is None:
        return None
    of = _content_stems(question)
    if said["of"] and of and stem(said["of"].lower()) != of[0]:
        return None  # "not every rectangle is a square", where it is asked whether every square is a rectangle
    return "no", start + said.start(), start + said.end()


# "There are equally many", where it is asked whether there are more
_ASKS_MORE = regex(r"\b(?:more|less|fewer|[a-z]{2,}er)\b[^?]*\bthan\b", re.IGNORECASE)
_EQUAL = regex(
    r"\b(?:equal(?:ly)?|just\s+as|as\s+(?:many|much)\b[^,;]{0,80}\bas|the\s+same|alike|no\s+difference)\b",
    re.IGNORECASE,
)


def _by_equality(text: str, start: int, end: int, question: str) -> Answer | None:
    """Return no where it is asked whether one is more than another, and a clause says that they are equal."""
    said = _EQUAL.search(text, start, end) if _ASKS_MORE.search(question) else None
    return ("no", *said.span()) if said and not _NOT.search(text, start, said.start()) else None


# "On Sundays the tower is shut", "Sunday isn't among those days", where it is asked whether one may climb it then
_ASKS_MAY = regex(r"\W*(?:may|can|could|is\s+it\s+(?:possible|allowed)|are\s+\w+\s+allowed)\b", re.IGNORECASE)
_CLOSED = regex(
    r"(?P<who>[^,;:]{0,60}?)\b(?P<closed>closed|shut|forbidden|impossible)\b(?P<rest>[^,;:]{0,30})", re.IGNORECASE
)
_NOT_AMONG = regex(
    rf"\W*(?P<who>[^,;:]{{2,40}}?)\s+{_AUX}(?:n['’]t|\s+not)\s+(?:among|one\s+of)\b[^,;:]*", re.IGNORECASE
)


def _by_closed(text: str, start: int, end: int, question: str) -> Answer | None:
    """Return no where it is asked what may be done, and a clause says that all is closed, or the asked is not of it."""
    closed = _CLOSED.match(text, start, end) if _ASKS_MAY.match(question) else None
    if closed and content_of(closed["who"] + closed["rest"]) <= content_of(question):
        return ("yes" if _NOT.search(closed["who"]) else "no"), *closed.span("closed")
    among = _NOT_AMONG.match(text, start, end)
    if among and content_of(among["who"]) and content_of(among["who"]) <= content_of(question):
        return "no", *among.span("who")
    return None


# "No whale can", "No cars are taken on the ferry to Orm"
_NO_SUCH = regex(r"\W*(?:so\s+|but\s+)?no\s+(?P<who>[^\W\d_]+)\b(?P<rest>\s[^,;:]*)", re.IGNORECASE)


_ENDS_SO = regex(rf"\b{_AUX}\W*\Z", re.IGNORECASE)


def _by_none(text: str, start: int, end: int, question: str) -> Answer | None:
    """Return no where a clause says that no such thing does so."""
    said = _NO_SUCH.match(text, start, end)
    if said is None:
        return None
    asked, told = content_of(question), content_of(f"{said['who']} {said['rest']}")
    alone = _ENDS_SO.search(said["rest"]) is not None and told <= asked
    if not alone and len(told & asked) < LEAST_SHARE_OF_NONE * len(asked):
        return None
    return "no", *said.span("who")


_FRAGMENT = regex(
    rf"\W*(?:(?:so|but|and|hence|thus|therefore),?\s+)?(?P<said>[^,;:.()–—]{{2,50}}?)(?:\s+(?:it|he|she|they)\s+{_AUX}(?P<not>n['’]t|\s+not)?)?(?=\W*(?:\Z|[(,;:–—]))",
    re.IGNORECASE,
)


_HE = regex(r"(?:he|she|they)\b", re.IGNORECASE)


def _by_fragment(text: str, start: int, end: int, question: str) -> Answer | None:
    """Return the answer of a few words of the question: "lit", "not on Monday", "closed", "on Monday it was"."""
    said = _FRAGMENT.match(text, start, end)
    if said is None or len(_WORD.findall(said["said"])) > MOST_WORDS_OF_A_FRAGMENT:
        return None
    if _ASKS_MORE.search(question) and _HE.match(said["said"]):
        return None  # "He was the taller one", where it may be either
    if (way := same_way(said["said"].strip().lower(), question)) is not None:
        return ("yes" if way else "no"), *said.span("said")
    words, turned = _turned(said["said"], question)
    asked = _content_stems(question)
    denied = _NOT.search(said.group()) is not None
    names = words <= names_in(question)
    ends_so = said.end() > said.end("said") and said.group()[-1:].isalpha()
    if not words or not words <= set(asked) or (asked[0] in words and (len(words) > 1 or not denied)):
        return None
    if (names and not denied and not ends_so) or (names_in(question) & words and _ASKS_MORE.search(question)):
        return None
    return ("no" if denied != turned else "yes"), *said.span("said")


def _turned(said: str, question: str) -> tuple[frozenset[str], bool]:
    """Return the stems of what is said, each opposite as the word it is the opposite of, and whether one was there."""
    meant = _turned_words(said, question)
    words = " ".join(meant.get(word.lower(), word) for word in _WORD.findall(said))
    return content_of(words), len(meant) % 2 == 1


def _turned_words(said: str, question: str) -> dict[str, str]:
    """Return the words that are the opposite of one of the question's, each with that one."""
    asked, told = ({word.lower() for word in _WORD.findall(one)} for one in (question, said))
    last = [word.lower() for word in _WORD.findall(question) if content_of(word)][-1:]
    return {
        one: other
        for one, other in _OTHER_SIDE
        if one in told and other in asked - told and (one not in asked or [other] == last)
    }


# "The road doesn't, but the path does.", where it is asked whether the path does
_IT_ALONE_DOES = regex(
    r"\W*(?:(?:but|and|while|yes,?|no,?)\s+)?(?:the|this|that|its|his|her)\s+(?P<who>[^\W\d_]+)\s+"
    r"(?P<does>does|do|did|is|are|was|were|can|has|have|will)(?P<not>n['’]t|\s+not)?\W*",
    re.IGNORECASE,
)


_COMMA = regex(r",\s")


def _by_subject(text: str, start: int, end: int, question: str) -> Answer | None:
    """Return the answer of a clause that says of the first thing of a question that it does, or does not."""
    begins = [start, *(comma.end() for comma in _COMMA.finditer(text, start, end))]
    parts = zip(begins, [*begins[1:], end], strict=True)
    things = _content_stems(question)
    for alone in filter(None, (_IT_ALONE_DOES.fullmatch(text, *part) for part in parts)):
        if things and stem(alone["who"].lower()) == things[0]:
            return ("no", *alone.span("not")) if alone["not"] else ("yes", *alone.span("does"))
    return None


# "91 is a composite number"
_IS_SO = regex(
    r"\W*(?:(?:so|no|yes|but|therefore|hence|thus),?\s+)?(?P<who>[^,;:.]{1,30}?)\s+(?:is|are|was|were)(?P<not>n['’]t|\s+not|\s+never)?\s+(?:always\s+)?(?:an?\s+|the\s+)?"
    r"(?P<what>[a-z]+)(?:\s+(?P<kind>[a-z]+))?(?=\W*(?:\Z|[,;:.(]))",
    re.IGNORECASE,
)


def _by_opposite(text: str, start: int, end: int, question: str) -> Answer | None:
    """Return the answer of a clause that says of a thing that it is the opposite of what is asked."""
    said = _IS_SO.match(text, start, end)
    if said is None:
        return None
    turned, who = _turned(said["what"], question)[1], content_of(said["who"])
    told, asked = who | content_of(said["kind"] or ""), content_of(question)
    last = _content_stems(question)[-1:]
    if turned and told <= asked:
        return ("yes" if said["not"] else "no"), *said.span("what")
    # "Odd plus odd is even", "which is even"
    if not turned and [stem(said["what"].lower())] == last and not said["kind"] and (who & asked or not who):
        return ("no" if said["not"] else "yes"), *said.span("what")
    return None


_BESIDE = regex(
    r"\b(?:near|outside|past|around|next\s+to|close\s+to|beyond|like|unlike|than|(?:north|south|east|west)\s+of)\s+(?:the\s+)?\Z",
    re.IGNORECASE,
)
# "A triangle can have at most one right angle.", where two are asked for
_AT_MOST_ONE = regex(r"\b(?:at\s+most|only|no\s+more\s+than|just)\s+(?:one|a\s+single|1)\b", re.IGNORECASE)
_SEVERAL = regex(r"\b(?:two|three|four|five|six|several|[2-9])\b", re.IGNORECASE)


_TIME = regex(r"today|tomorrow|yesterday|tonight|now|then", re.IGNORECASE)
_IT = regex(r"\W*(?:(?:so|but|and|because|since|for|yes|no),?\s+)?(?:it|he|she|they|there)\b", re.IGNORECASE)
_OBJECT = regex(r"\s(?:it|them|one|him|her)\W*\Z", re.IGNORECASE)


def _by_statement(text: str, start: int, end: int, question: str) -> Answer | None:
    """Return the answer of a clause that says over again what is asked, as it is or denied."""
    ordered = list(dict.fromkeys(_content_stems(question)))
    turned = _turned_words(text[start:end], question)
    said = [
        (stem(turned.get(word.group().lower(), word.group())), word)
        for word in _WORD.finditer(text, start, end)
        if content_of(word.group())
    ]
    taken = [(one, word) for one, word in said if one in ordered]
    told = {one for one, _ in taken}
    fewer = _AT_MOST_ONE.search(text, start, end) if _SEVERAL.search(question) else None
    least = ceil((LEAST_SHARE - 0.25 * (fewer is not None)) * len(ordered))
    if ordered and ordered[-1] not in told and _OBJECT.search(text, start, end):
        least -= 1  # "The path does cross it."
    told_by_it = _IT.match(text, start, end) is not None and ordered[:1] != [taken[0][0] if taken else ""]
    names_told = names_in(question) <= told | (set(ordered[:1]) if told_by_it else set())
    if (
        len(told) + told_by_it < max(2, least)
        or len(told) < 1
        or not names_told
        or len(said) - len(taken) > MOST_OTHER_WORDS
    ):
        return None
    timeless = [one for one, word in taken if not _TIME.fullmatch(word.group())] or [one for one, _ in taken]
    if ordered.index(timeless[0]) > ordered.index(timeless[-1]):
        return None  # "not every rectangle is a square", where it is asked whether every square is a rectangle
    first, last = taken[0][1].start(), taken[-1][1].end()
    beside = [_BESIDE.search(text, max(start, word.start() - 24), word.start()) for _, word in taken]
    if any(one and not (_ASKS_MORE.search(question) and "than" in one.group().lower()) for one in beside):
        return None
    if taken[-1][1].group().endswith(("'s", "’s")):
        return None  # "Ecuador's neighbour"
    denies = list(_NOT.finditer(text, start, last))
    if denies:
        first = min(first, denies[0].start())
    return ("no" if (len(denies) + len(turned)) % 2 or fewer else "yes"), first, last


_WAYS = (
    _by_exception,
    _by_equality,
    _by_none,
    _by_closed,
    _by_fragment,
    _by_opposite,
    _by_subject,
    _by_statement,
)
