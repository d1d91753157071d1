"""Yes and no, said otherwise: "indeed", "it cannot", "every square is a rectangle" where that is asked."""

from __future__ import annotations

import re
from collections.abc import Sequence
from math import ceil

from dryquarry.marking.reading.comparisons import says_more
from dryquarry.marking.reading.echo import asks_yes_or_no, content_of, names_in, question_in, stem
from dryquarry.marking.regexes import regex

Answer = tuple[str, int, int]
LEAST_SHARE = 0.75
MOST_OTHER_WORDS = 6
_WORD = regex(r"[^\W_]+(?:['’-][^\W_]+)*")
_AT_ONCE = regex(
    r"\W*(?:(?P<yes>(?:undoubtedly|surely|naturally|no\s+doubt|(?:there(?:'s|\s+is)\s+)?no\s+doubt\s+about\s+it|without\s+(?:an?y?\s+)?doubt|by\s+all\s+means|you\s+bet(?:\s+(?:it|he|she|they)\s+(?:does|do|is|are))?)(?!\W+not?\b)|"
    r"(?:there(?:'s|\s+is)\s+)?no\s+doubt(?:\s+that)?\s+(?:it|he|she|they)\s+(?:does|do|is|are|can|did|was|has)|yep|yeah|yup|ja|oui|sí|affirmative|that(?:'s|\s+is)\s+(?:right|correct|true|so)|i(?:['’]d|\s+would)?\s+(?:say|think|believe|suppose)\s+so|(?:sure|of\s+course|certainly|indeed)\s+(?:it|he|she|they|there)\s+(?:does|do|is|are|can|did|was|has)|it\s+is\s+one|so\s+it\s+is|indeed|true|correct|certainly|of\s+course|absolutely|definitely|exactly)"
    r"|(?P<no>nope|nah|nein|non|no\s+way|never|false|incorrect|(?:of\s+course|certainly|definitely|absolutely|surely|clearly|probably|obviously)\s+not|in\s+no\s+way|i(?:['’]d|\s+would)?\s+(?:say|think|believe|suppose)\s+not|i\s+don['’]t\s+(?:think|believe)\s+so|not\s+quite|not\s+really|no\s+chance|(?:none(?:\s+of\s+(?:them|these|those))?|nobody|nothing)\s+(?:is|are|was|were|does|do|did|has|have|can)|not\s+at\s+all|by\s+no\s+means|impossible|(?:it(?:'s|\s+is)|just|quite)\s+the\s+other\s+way\s+(?:round|around)|quite\s+the\s+(?:opposite|contrary|reverse)))\b(?=\W*(?:\Z|[,:.!—–-]))",
    re.IGNORECASE,
)
_SO = regex(
    r"\b(?:so|hence|therefore|thus),?\s+(?:(?P<said>yes|no)\b|(?P<not>not)\s+(?:every\w*(?:\s+one)?|all(?:\s+of\s+them)?|always|necessarily|quite|so))"
    r"\W*(?:(?:of\s+course|indeed|certainly|definitely|it\s+(?:does|is))\W*)?\Z",
    re.IGNORECASE,
)
_SO_IT_DOES = regex(
    r"\b(?:so|hence|therefore|thus)\s+(?:it|he|she|they)\s+(?:does|do|is|are|can|did|was|has|must)\W*\Z", re.IGNORECASE
)
# "Since 7 divides it, it cannot be."
_IT_CANNOT = regex(
    r"(?:,|\bso|\bthus|\bhence)\s+(?:it|he|she|they)\s+(?:cannot|can['’]t|can\s+not)(?:\s+be)?\W*\Z", re.IGNORECASE
)
# "it is not prime"
_SAYS_NOT = regex(
    r"\b(?:is|are|was|were|does|do|did|can|has|have)(?:n['’]t|\s+not|not|\s+no)\s+(?:an?\s+|the\s+)?(?P<what>[^,;.()–—]{1,40})",
    re.IGNORECASE,
)
# "Not prime"
_NOT_SO = regex(r"\W*(?:not|no)\s+(?:an?\s+)?(?P<what>[^,;.()–—:]{1,40})", re.IGNORECASE)
_NOT = regex(r"\b(?:not|no|never|none|neither|nor|cannot)\b|n['’]t\b", re.IGNORECASE)
_BESIDE = regex(
    r"\b(?:near|outside|beyond|like|unlike|than|(?:north|south|east|west)\s+of)\s+(?:the\s+)?\Z", re.IGNORECASE
)
# "A triangle can have at most one right angle.", where two are asked for
_AT_MOST_ONE = regex(r"\b(?:at\s+most|only|no\s+more\s+than|just)\s+(?:one|a\s+single|1)\b", re.IGNORECASE)
_SEVERAL = regex(r"\b(?:two|three|four|five|six|several|[2-9])\b", re.IGNORECASE)


_TIME = regex(r"today|tomorrow|yesterday|tonight|now|then", re.IGNORECASE)


# "…, so it doesn't."
_SO_IT_DOES_NOT = regex(
    r"\b(?:so|hence|therefore|thus)\s+(?:it|he|she|they|that)\s+(?P<not>(?:does|do|did|is|are|was|were|can|will|has)(?:n['’]t|\s+not)|cannot)\W*\Z",
    re.IGNORECASE,
)


_OUTRIGHT = regex(r"\W*(?P<said>yes|no)\b(?=\W*(?:\Z|[,;:.!—–-]))", re.IGNORECASE)
_IS_IT_TRUE = regex(r"\b(?:true|correct|right|so|the\s+case)\b", re.IGNORECASE)


_YES_OR_NO = regex(
    r"\W*(?:yes|no|not|yep|yeah|nope|true|false|correct|incorrect|right|wrong|ja|nein|oui|non|s[ií])\b", re.IGNORECASE
)


def that_say_yes_or_no(readings: Sequence[Answer]) -> tuple[Answer, ...]:
    """Return those readings of a clause that say yes or no."""
    return tuple(one for one in readings if _YES_OR_NO.match(one[0]))


def yes_or_no(text: str, start: int, end: int, asked: str) -> Answer | None:
    """Return whether a clause says yes or no to a question that wants one of them, and where; None where neither."""
    if not asks_yes_or_no(asked):
        return None
    at_once = _AT_ONCE.match(text, start, end)
    if text[end : end + 1] == ":" and (heads := _OUTRIGHT.fullmatch(text, start, end)) is not None:
        return heads["said"].lower(), *heads.span("said")  # "No: it is divisible by 7."
    if _NOT.search(question_in(asked)):
        # "Is it true that no boat left?": what says yes or no outright, and nothing else, is told by its words
        outright = _OUTRIGHT.match(text, start, end)
        if outright is not None:
            return outright["said"].lower(), *outright.span("said")
        if at_once is None or not _IS_IT_TRUE.search(question_in(asked)):
            return None
        return ("yes" if at_once["yes"] else "no"), *at_once.span(at_once.lastgroup or 0)
    if (more := says_more(text, start, end, asked)) is not None:
        return more, start, end
    if _SO_IT_DOES.search(text, start, end) is not None:
        return "yes", start, end
    if (not_so := _IT_CANNOT.search(text, start, end)) is not None:
        return "no", *not_so.span()
    if (so_not := _SO_IT_DOES_NOT.search(text, start, end)) is not None:
        return "no", *so_not.span("not")
    if (said_so := _SO.search(text, start, end)) is not None:
        return ("no", *said_so.span("not")) if said_so["not"] else (said_so["said"].lower(), *said_so.span("said"))
    if at_once is not None:
        return ("yes" if at_once["yes"] else "no"), *at_once.span(at_once.lastgroup or 0)
    denied = _SAYS_NOT.search(text, start, end) or _NOT_SO.match(text, start, end)
    words = content_of(denied["what"]) if denied else frozenset()
    if denied and words and words <= content_of(question_in(asked)):
        return "no", *denied.span()
    none = _NONE_IS.match(text, start, end)
    if none and content_of(none["what"]) and content_of(none["what"]) <= content_of(question_in(asked)):
        return "no", *none.span()
    if (makes := _MAKES_IT.search(text, start, end)) is not None and _is_asked_last(makes["what"], question_in(asked)):
        return "yes", *makes.span()
    if (does := _IT_DOES.match(text, start, end)) is not None and _is_asked_verb(does["verb"], question_in(asked)):
        return "yes", *does.span("verb")
    return _by_subject(text, start, end, question_in(asked)) or _by_statement(text, start, end, question_in(asked))


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
    things = [stem(word) for word in _WORD.findall(question) if content_of(word)]
    for alone in filter(None, (_IT_ALONE_DOES.fullmatch(text, *part) for part in parts)):
        if things and stem(alone["who"].lower()) == things[0]:
            return ("no", *alone.span("not")) if alone["not"] else ("yes", *alone.span("does"))
    return None


# "None of them is cracked."
_NONE_IS = regex(
    r"\W*none(?:\s+of\s+(?:them|these|those|the\s+[^\W\d_]+))?\s+(?:is|are|was|were|has|have)\s+(?P<what>[^,;.]{1,40})",
    re.IGNORECASE,
)
# "It runs right through it."
_IT_DOES = regex(
    r"\W*(?:yes,\s+)?(?:it|he|she|they)\s+(?P<verb>[a-z]{3,})\b(?!.*(?:\bnot?\b|n['’]t\b|\bnever\b|\bif\b|\bonly\b))",
    re.IGNORECASE,
)


def _is_asked_verb(verb: str, question: str) -> bool:
    """Tell whether a verb is the one of a question that asks whether something does so: "Does the equator run …?"."""
    return _ASKS_DOES.match(question) is not None and stem(verb) in content_of(question)


_ASKS_DOES = regex(r"\W*(?:does|do|did)\s", re.IGNORECASE)


# "…, which makes it a rectangle"
_MAKES_IT = regex(
    r"\bwhich\s+makes\s+(?:it|them|him|her)\s+(?:an?\s+|the\s+)?(?P<what>[^\W\d_]+)(?=\W*(?:\Z|[.;]))", re.IGNORECASE
)


def _is_asked_last(word: str, question: str) -> bool:
    """Tell whether a word is the last one of a question: what it asks something to be."""
    words = [one for one in _WORD.findall(question) if content_of(one)]
    return bool(words) and stem(words[-1]) == stem(word)


_OBJECT = regex(r"\s(?:it|them|one|him|her)\W*\Z", re.IGNORECASE)


def _by_statement(text: str, start: int, end: int, question: str) -> Answer | None:
    """Return the answer of a clause that says over again what is asked, as it is or denied."""
    ordered = list(dict.fromkeys(stem(word) for word in _WORD.findall(question) if content_of(word)))
    said = [(stem(word.group()), word) for word in _WORD.finditer(text, start, end) if content_of(word.group())]
    taken = [(one, word) for one, word in said if one in ordered]
    told = {one for one, _ in taken}
    fewer = _AT_MOST_ONE.search(text, start, end) if _SEVERAL.search(question) else None
    least = ceil((LEAST_SHARE - 0.25 * (fewer is not None)) * len(ordered))
    if ordered and ordered[-1] not in told and _OBJECT.search(text, start, end):
        least -= 1  # "The path does cross it."
    if len(told) < max(2, least) or not names_in(question) <= told or len(said) - len(taken) > MOST_OTHER_WORDS:
        return None
    timeless = [one for one, word in taken if not _TIME.fullmatch(word.group())] or [one for one, _ in taken]
    if ordered.index(timeless[0]) > ordered.index(timeless[-1]):
        return None  # "not every rectangle is a square", where it is asked whether every square is a rectangle
    first, last = taken[0][1].start(), taken[-1][1].end()
    if any(_BESIDE.search(text, max(start, word.start() - 24), word.start()) for _, word in taken):
        return None
    if taken[-1][1].group().endswith(("'s", "’s")):
        return None  # "Ecuador's neighbour"
    denies = list(_NOT.finditer(text, start, last))
    if denies:
        first = min(first, denies[0].start())
    return ("no" if len(denies) % 2 or fewer else "yes"), first, last
