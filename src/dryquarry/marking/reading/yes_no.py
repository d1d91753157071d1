"""Yes and no, said otherwise: "indeed", "it cannot", "every square is a rectangle" where that is asked."""

from __future__ import annotations

import re
from collections.abc import Sequence

from dryquarry.marking.reading.comparisons import says_more
from dryquarry.marking.reading.echo import asks_yes_or_no, content_of, question_in, stem, without_supposed
from dryquarry.marking.reading.said_over import said_over
from dryquarry.marking.regexes import regex

Answer = tuple[str, int, int]
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
    r"\b(?:(?:is|are|was|were|does|do|did|can|has|have)(?:n['’]t|\s+not|not|\s+no)|can['’]t)\s+(?:an?\s+|the\s+)?(?P<what>[^,;.()–—]{1,40})",
    re.IGNORECASE,
)
# "Not prime"
_NOT_SO = regex(r"\W*(?:not|no)\s+(?!(?:all|every\w*|each)\b)(?:an?\s+)?(?P<what>[^,;.()–—:]{1,40})", re.IGNORECASE)
_NOT = regex(r"\b(?:not|no|never|none|neither|nor|cannot)\b|n['’]t\b", re.IGNORECASE)


_THERE = content_of("there here that this it")
# "Sadly not", "I'm afraid it isn't", "It can't: it has lungs", "cannot", "So yes, …"
_LEAD = (
    r"\W*(?:(?:so|hence|thus|therefore|then|well|hm+|and|but|now|sadly|unfortunately|alas|luckily|in\s+short|in\s+fact|actually|clearly|obviously|strictly\s+speaking|basically|in\s+that\s+case|also|"
    r"i['’]?\s?a?m\s+afraid|i\s+(?:fear|think|guess)|i['’]d\s+say|(?:the|my)\s+answer(?:['’]s|\s+is))(?:\s+that)?[,:]?\s+){0,3}"
)
_BE = r"(?:does|do|did|is|are|was|were|can|could|has|have|had|will|would|may|must|should)"
_PLAINLY = regex(
    rf"{_LEAD}(?:(?P<yes>yes|ja\b|(?:(?:it|that|this)(?:['’]s|\s+is)\s+)?possible|(?:it|that|this)\s+can\s+be(?:\s+done)?|(?:you|one|we)\s+can|(?:it|that|this|the\s+(?:statement|claim|sentence))(?:['’]s|\s+is|\s+was)\s+(?:true|correct|right|the\s+case)|the\s+(?:statement|claim|sentence)\s+holds|(?:it|he|she|they|this|that|there)\s+{_BE})|(?P<no>no|nein|not|(?:(?:it|that|this)(?:(?:['’]s|\s+is)\s+not|\s+isn['’]t)\s+|not\s+)possible|(?:(?:it|that|this)(?:['’]s|\s+is)\s+)?impossible|(?:it|that|this)\s+(?:cannot|can['’]t)\s+be\s+(?:done|so)|(?:you|one|we)\s+(?:cannot|can['’]t)|there(?:['’]s|\s+is)\s+no\s+way(?:\s+to\s+do\s+(?:that|it|this|so))?|untrue|wrong|incorrect|(?:it|that|this|the\s+(?:statement|claim|sentence))(?:['’]s|\s+is|\s+was)\s+(?:not\s+(?:true|correct|right|the\s+case)|false|untrue|wrong|incorrect)|the\s+(?:statement|claim|sentence)\s+does(?:n['’]t|\s+not)\s+hold|cannot|can['’]t|not\s+(?:all|every\w*|always|quite|so|necessarily|really|at\s+all|entirely)(?:\s+(?:of\s+them|one))?|"
    rf"(?:it|he|she|they|this|that|there)\s+(?:{_BE}(?:n['’]t|\s+not)|cannot|can['’]t)))(?:\s+(?:indeed|so))?(?=\s*(?:\Z|[,;:.!(–—]|-\s|because\b|since\b|as\b(?!\s+(?:many|much)\b)))",
    re.IGNORECASE,
)
# "Since 0.30 > 0.29, yes."
_IN_THE_END = regex(
    r",\s+(?:(?:it['’]s|it\s+is|so|then|a\s+clear|the\s+answer\s+is)\s+)?(?P<said>yes|no)\W*\Z", re.IGNORECASE
)
# "…, so it doesn't."
_SO_IT_DOES_NOT = regex(
    r"\b(?:so|hence|therefore|thus)\s+(?:it|he|she|they|that)\s+(?P<not>(?:does|do|did|is|are|was|were|can|will|has)(?:n['’]t|\s+not)|cannot)\W*\Z",
    re.IGNORECASE,
)
_OUTRIGHT = regex(r"\W*(?P<said>yes|no)\b(?=\W*(?:\Z|[,;:.!—–-]))", re.IGNORECASE)
_IS_IT_TRUE = regex(r"\b(?:true|correct|right|so|the\s+case)\b", re.IGNORECASE)


_ASKS_TRUE_OR_FALSE = regex(r"\b(?:true\s+or\s+false|false\s+or\s+true)\b", re.IGNORECASE)
_YES_OR_NO = regex(
    r"\W*(?:yes|no|not|yep|yeah|nope|true|false|correct|incorrect|right|wrong|ja|nein|oui|non|s[ií])\b", re.IGNORECASE
)


def that_say_yes_or_no(readings: Sequence[Answer], asked: str) -> tuple[Answer, ...]:
    """Return those readings of a clause that say yes or no, where that is asked for; all of them where it is not."""
    wanted = asks_yes_or_no(asked) or _ASKS_TRUE_OR_FALSE.search(asked)
    return tuple(one for one in readings if not wanted or _YES_OR_NO.match(one[0]))


# "That's false", "The statement is not true", "F", "…, so false"
_CALLS_TRUE = regex(
    rf"{_LEAD}(?:(?:it|that|this|the\s+(?:statement|claim|sentence))(?:(?:['’]s|\s+is)(?:\s+(?P<not>not))?|\s+(?P<isnt>isn['’]t))\s+|(?P<alone>not)\s+)?"
    r"(?P<said>true|false|correct|incorrect|wrong|right|untrue|yes|no|[tf])\b(?=\s*(?:\Z|[,;:.!(–—]|-\s|because\b|since\b|as\b))",
    re.IGNORECASE,
)
_SO_TRUE = regex(
    r"(?:,|\bso|\bhence|\bthus)\s+(?:(?:it|that|this)(?:['’]s|\s+is)\s+)?(?P<said>true|false)\W*\Z", re.IGNORECASE
)


def _true_or_false(text: str, start: int, end: int) -> Answer | None:
    """Return whether a clause calls a statement true or false, and where."""
    if (last := _SO_TRUE.search(text, start, end)) is not None:
        return last["said"].lower(), *last.span("said")
    said = _CALLS_TRUE.match(text, start, end)
    if said is None:
        return None
    so = said["said"].lower() in ("true", "correct", "right", "yes", "t")
    denied = bool(said["not"] or said["isnt"] or said["alone"])
    return ("true" if so != denied else "false"), *said.span(0 if denied else "said")


def yes_or_no(text: str, start: int, end: int, asked: str) -> Answer | None:
    """Return whether a clause says yes or no to a question that wants one of them, and where; None where neither."""
    if _ASKS_TRUE_OR_FALSE.search(asked):
        return _true_or_false(text, start, end)
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
        at_once = at_once or _PLAINLY.match(text, start, end)
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
    if (said := at_once or _PLAINLY.match(text, start, end)) is not None:
        return ("yes" if said["yes"] else "no"), *said.span(said.lastgroup or 0)
    if (last := _IN_THE_END.search(text, start, end)) is not None:
        return last["said"].lower(), *last.span("said")
    denied = _SAYS_NOT.search(text, start, end) or _NOT_SO.match(text, start, end)
    words = content_of(denied["what"]) - _THERE if denied else frozenset()
    if denied and words and words <= content_of(without_supposed(asked)):
        return "no", *denied.span()
    none = _NONE_IS.match(text, start, end)
    if none and content_of(none["what"]) and content_of(none["what"]) <= content_of(without_supposed(asked)):
        return "no", *none.span()
    if (makes := _MAKES_IT.search(text, start, end)) is not None and _is_asked_last(makes["what"], question_in(asked)):
        return "yes", *makes.span()
    if (does := _IT_DOES.match(text, start, end)) is not None and _is_asked_verb(does["verb"], question_in(asked)):
        return "yes", *does.span("verb")
    return said_over(text, start, end, without_supposed(asked))


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
