"""What may answer a question in words: one of what it offers, or a thing that goes by a name where one is asked for."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.echo import content_of, echo, is_echo, is_verb, names_in, question_in, stem

Span = tuple[int, int]
Reading = tuple[str, int, int]

LONGEST_QUESTION = 2000
LONGEST_NAME_WORDS = 5
_ITEM = r"['\"‘“]?(?:(?:the|an?)\s+)?[^\W\d_][\w’-]*(?:\s(?!or\b|and\b)[\w’-]+){0,2}?['\"’”]?(?:\s\([^()]{1,20}\))?"
_ITEMS = rf"(?P<items>{_ITEM}(?:,\s+{_ITEM})*,?\s+(?:or|and)\s+{_ITEM}|{_ITEM}(?:,\s+{_ITEM})+)"
_ALTERNATIVES = rf"(?P<items>{_ITEM}(?:,\s+{_ITEM})*,?\s+or\s+{_ITEM})"
_OFFERS = tuple(
    re.compile(pattern, re.IGNORECASE)
    for pattern in (
        # "…: oak, ash, rose, elm?"
        rf":\s+(?!['\"‘“][^'\"’”]*,){_ITEMS}\s*\?",
        # "Which is longer, the Elm or the Ash?", "Which bird, the knot, the ruff or the smew, breeds …?"
        rf",\s+{_ALTERNATIVES}\s*(?:\?|,\s)",
        # "Was it a heron or an egret?"
        rf"\b(?:is|was|are|were|be)\s+(?:it\s+|that\s+|this\s+)?{_ALTERNATIVES}\s*\?",
        # "Choose from basalt, gneiss, granite and marble."
        rf"\b(?:choose|pick|select|name)\s+(?:one\s+)?(?:from|of|among|between)\s+(?:these:\s+|the\s+following:\s+)?{_ITEMS}\s*[.?]",
        # "Which metal from 'iron, copper, tin' …?", "Which of the flowers rose, marigold and violet …?"
        rf"\b(?:which|what|who)\s+(?:\w+\s+)?(?:from|among)\s+['\"‘“]{_ITEMS}['\"’”]",
        rf"\b(?:which|who)\s+of\s+(?:the\s+)?(?:\w+\s+)?{_ITEMS}(?=\s)",
    )
)
# "What is the capital of the country that shows a heron: Tarn, Velm or Quist?": none of these is the capital
_ASKS_WHAT_OF_IT = re.compile(r"\bwh(?:at|o)\s+(?:is|was|are|were)\s+(?:the|its)\s+[^\W\d_]+\s+of\b", re.IGNORECASE)
_ARTICLE = re.compile(r"\A(?:the|an?)\s+", re.IGNORECASE)
_NONE_OF_THEM = re.compile(
    r"\b(?:neither|none|nobody|no\s?one|nothing|both|all|each|everyone|either)\b", re.IGNORECASE
)

_NEITHER = re.compile(r"\W*(?:neither|none|nobody|no\s?one|nothing)\b", re.IGNORECASE)


@lru_cache(maxsize=512)
def offered_by(asked: str) -> tuple[str, ...]:
    """Return what a question lets one choose from: "Was it a heron or an egret?" offers two; none where it does not."""
    asked = asked[-LONGEST_QUESTION:]
    if _ASKS_WHAT_OF_IT.search(asked):
        return ()
    for offers in _OFFERS:
        if (match := offers.search(asked)) is not None:
            parts = re.split(r",\s+(?:(?:or|and)\s+)?|\s+(?:or|and)\s+", re.sub(r"\s\([^()]*\)", "", match["items"]))
            items = [_ARTICLE.sub("", part.strip(" '\"‘’“”"), count=1) for part in parts]
            if len(set(map(str.casefold, items))) == len(items) and all(items):
                return tuple(items)
    return ()


@lru_cache(maxsize=512)
def _mention(offered: tuple[str, ...]) -> re.Pattern[str]:
    longest_first = sorted(offered, key=len, reverse=True)
    return re.compile(
        r"(?<![\w-])(?:" + "|".join(re.sub(r"\s+", r"\\s+", re.escape(one)) for one in longest_first) + r")(?:e?s)?(?![\w-])",
        re.IGNORECASE,
    )


@lru_cache(maxsize=512)
def without_offers(asked: str) -> str:
    """Return what a question asks without what it offers, which an answer names without taking up the question."""
    offered = offered_by(asked)
    return _mention(offered).sub("", question_in(asked)) if offered else asked


@lru_cache(maxsize=512)
def _asks_name(asked: str) -> bool:
    """Tell whether a question asks for something that goes by a name: a river, a capital."""
    before = r"\b(?:which|what|name)\s+(?:(?:is|was|are|were|the|an?|its|[\w-]+(?:est|th|nd|rd|st)|most|least|first|last|main|large|made-up)\s+){0,5}"
    return _asks_who(asked) or cue("goes by a name", before).search(question_in(asked)) is not None


@lru_cache(maxsize=512)
def _asks_who(asked: str) -> bool:
    return re.search(r"\bwho(?:m|se)?\b", question_in(asked), re.IGNORECASE) is not None


# "When was it rebuilt?", where the question itself tells of years
_ASKS_YEAR = re.compile(r"\bwhen\b|\b(?:which|what)\s+year\b", re.IGNORECASE)
_YEAR = re.compile(r"(?<![\w.,])[12]\d{3}(?![\w]|[.,]\d)")


@lru_cache(maxsize=512)
def _asks_year(asked: str) -> bool:
    return _ASKS_YEAR.search(question_in(asked)) is not None and _YEAR.search(asked) is not None


_NAME = re.compile(r"[A-Z][\w’-]+(?:\s+(?:(?:of|the|de|von|am|an|la)\s+){0,2}?[A-Z][\w’-]+)*")
# Words that open a sentence and are no names, besides those that are common anywhere.
_OPENERS = frozenset(
    (
        "sun moon answer one two three four five six seven eight several other others people many most some few both all none "
        "everything everyone everybody nothing nobody something someone anything anyone here there today now then once "
        "let though although while whereas since because unless until despite unlike instead far having being without within "
        "during among around behind beyond besides except later earlier next finally first second third last further "
        "perhaps maybe again also just even still yet however therefore thus hence otherwise nevertheless well okay ok sure sorry "
        "oops wait hmm ah oh right wrong correct true false final given suppose assume judging based according contrary "
        "he she they it we you i this that these those who which what yes no ans said put think note remember see look choose pick take never always often sometimes usually"
    ).split()
)
LONGEST_PAUSE = 12
_LETTER = re.compile(r"\w")
_SENTENCE_START = re.compile(r"(?:[.!?:]\s|\n)[\s\"'“‘*(-]*\Z")
_OPENS = re.compile(r"(?:(?:The|An?|In|On|At|Of|For|From|To|By|So|But|And|It|As|With|After|Then|Not|No|Yes|[A-Z]\w+ly)\s+(?=[A-Z]))*")
# What may follow a name that opens a sentence: "Canberra it is", "Skye, …", "Jupiter turns …".
_FOLLOWS_NAME = re.compile(r"[.,;!?()\"*–—]|['’](?:s\b|(?!\w))|(?:it|rather|and|or|again|then|too|alone|only|in|on|at)\b|[a-z]+(?:s|ed)\b")
# "like a heron", "rather than Mull", "a few weeks after December": named, and not as what it is
_BESIDE = re.compile(
    r"(?:(?:\b(?:not|never)|n't)\s(?:\w+\s){0,3}|\b(?:nor|near|like|unlike|than|beyond|from|except|instead of|after|before|until|besides)\s(?:an?\s|the\s|in\s|into\s)?|"
    r"\b(?:after|before|since|until)\s(?:\w+\s){1,3}?(?:of|in)\s)\Z",
    re.IGNORECASE,
)


@lru_cache(maxsize=512)
def _asking(asked: str) -> str:
    """Return the sentences of a question that ask, with the alternatives that they name."""
    parts = re.split(r"(?<=[.?!])[\"'”’)]*\s+", asked.strip())
    return " ".join(part for part in parts if part.rstrip("'\" ").endswith("?")) or asked


def _names(text: str, start: int, end: int, asked: str) -> list[Reading]:
    """Return the names in a stretch that the question has not."""
    asking = content_of(_asking(asked))
    found = []
    for match in _NAME.finditer(text, start, end):
        near = max(start, match.start() - LONGEST_PAUSE)
        before = text[near : match.start()]
        opens = (near == start and not _LETTER.search(before)) or _SENTENCE_START.search(before) is not None
        opening = _OPENS.match(match.group()) if opens else None
        first = match.start() + (opening.end() if opening else 0)
        last = _end_of_name(text, first, match.end(), asking)
        words = re.findall(r"[^\W_]+", text[first:last])
        of_the_question = all(stem(word) in asking or word.islower() for word in words)
        alone = opens and first == match.start() and len(words) == 1
        if not of_the_question and words[0].casefold() not in _OPENERS and not (alone and not _is_name(text, match, end)):
            found.append((text[first:last].casefold(), first, last))
    return found


def _end_of_name(text: str, start: int, end: int, asking: frozenset[str]) -> int:
    """Return where a name ends, without the question's name that it is tied to: "Ljubljana of Slovenia"."""
    of = text.rfind(" of ", start, end)
    return of if of >= 0 and all(stem(word) in asking for word in re.findall(r"[^\W_]+", text[of + 4 : end])) else end


def _is_name(text: str, word: re.Match[str], end: int) -> bool:
    """Tell whether the word that opens a stretch is a name: a verb or a sign follows it."""
    if text[word.end() : word.end() + 1] == ":" or word.group().endswith(("ing", "ly")):
        return False  # "Decision: Harrow"
    after = text[word.end() : end].lstrip()
    if not after:
        return True
    verb = re.match(r"[a-z]+", after)
    follows = _FOLLOWS_NAME.match(after) is not None or (verb is not None and is_verb(verb.group()))
    return follows and not is_echo(word.group(), "")


def possible_in(text: str, start: int, end: int, asked: str) -> list[Reading] | None:
    """Return what in a stretch may answer a question, each with what it is; None where a question tells of nothing.

    Only what the question itself says is heeded: what it offers, or that it asks for something with a name.
    """
    if not offered_by(asked) and not _asks_name(asked) and not _asks_year(asked):
        return None
    found = _said(text, start, end, asked)
    if not found and (pointed := _POINTS.search(text, start, end)) is not None:
        return _pointed_at(text, pointed, asked)
    return [one for one in found if not _BESIDE.search(text, max(start, one[1] - 30), one[1])]


def _said(text: str, start: int, end: int, asked: str) -> list[Reading]:
    """Return what a stretch names of what a question offers, and all names in it where it offers nothing."""
    if not (offered := offered_by(asked)):
        if _asks_year(asked):
            return [(year.group(), *year.span()) for year in _YEAR.finditer(text, start, end)]
        return _names(text, start, end, asked)
    mentioned = _mention(offered).finditer(text, start, end)
    return [(_offered_one(match.group(), offered), *match.span()) for match in mentioned]


# "the latter is longer", "the log matches the first"
_POINTS = re.compile(
    r"\bthe\s+(?P<which>former|latter|first|last|second|third)(?:\s+one)?(?:\s+(?:of|above|mentioned|named)\b|(?=\s+(?:is|was|has|does|that|which)\b)|\W*\Z)",
    re.IGNORECASE,
)
FARTHEST_BACK = 600
_OWNS = re.compile(r"['’]s\s+[a-z]")


def _pointed_at(text: str, pointed: re.Match[str], asked: str) -> list[Reading]:
    """Return which of what was named before is meant by "the former", "the latter", "the first"."""
    begin = max(0, pointed.start() - FARTHEST_BACK)
    before = list(dict.fromkeys(text[first:last] for _, first, last in _said(text, begin, pointed.start(), asked)))
    places = {"former": -2, "latter": -1, "last": -1, "first": 0, "second": 1, "third": 2}
    place = places[pointed["which"].lower()]
    if len(before) < 2 or not -len(before) <= place < len(before):
        return []
    return [(before[place].casefold(), *pointed.span())]


def _offered_one(said: str, offered: tuple[str, ...]) -> str:
    said = " ".join(said.casefold().split())
    return next((one for one in map(str.casefold, offered) if said in (one, f"{one}s", f"{one}es")), said)


def only_possible(text: str, readings: Sequence[Reading], body: Span, whole: Span, asked: str) -> Sequence[Reading]:
    """Return the readings of a clause that name one thing that may answer; all of them where none does.

    Where the body of the clause names only one such thing, that comes first.
    """
    if _NEITHER.match(text, *body):
        return readings
    found = [possible_in(text, *stretch, asked) or [] for stretch in (body, whole)]
    # "Einar's wife, whose name is Solveig": who owns something is meant only where nobody else is named
    meant = [[one for one in some if not _OWNS.match(text, one[2])] for some in found]
    here = next(filter(None, (*meant, *found)), None)
    if here is None:
        return readings
    if len({name for name, _, _ in here}) == 1:
        name, first, last = here[0]
        said = text[first:last] if text[first:last].casefold().startswith(name) else name
        return [(said, first, last), *(one for one in readings if one[1] < last and first < one[2])]
    parts = [part for part in _parts(text, *whole) if names_in(question_in(asked)) & content_of(text[slice(*part)])]
    own = (possible_in(text, *parts[0], asked) or []) if len(parts) == 1 and parts[0] != whole else []
    if len(own) == 1:
        return [(text[own[0][1] : own[0][2]], *own[0][1:]), *readings]
    kept = [one for one in readings if len({name for name, _, _ in possible_in(text, one[1], one[2], asked) or ()}) == 1]
    return kept or readings


_PART_END = re.compile(r"[,;]\s+(?:and\s+|but\s+|while\s+|whereas\s+)?|\s+(?:and|but|while|whereas)\s+", re.IGNORECASE)


def _parts(text: str, start: int, end: int) -> list[Span]:
    """Return what commas, "and" and "while" part in a clause: "Slovakia's is Bratislava, Slovenia's is Ljubljana"."""
    bounds = [start, *(place for match in _PART_END.finditer(text, start, end) for place in match.span()), end]
    return list(zip(bounds[::2], bounds[1::2], strict=True))


# "He's the one who lit it": whoever was named before
_PRONOUN = re.compile(r"\W*(?:so\s+|and\s+)?(?:he|she|they)\b", re.IGNORECASE)
# Who takes up so much of a question answers it, with a name or without one.
LEAST_TAKEN_UP = 0.5
_DENIES = re.compile(r"\b(?:not|never)\b|n't\b", re.IGNORECASE)
# "Mull comes second", where the largest is asked for
_OF_ANOTHER_RANK = re.compile(r"\b(?:second|third|fourth|fifth|runner-up)\b(?!\s+(?:thought|look|glance))", re.IGNORECASE)


def names_another(text: str, readings: Sequence[Reading], start: int, end: int, asked: str) -> bool:
    """Tell whether a clause names nothing that may answer, though the whole text does, or only what is of another rank."""
    named = [possible_in(text, first, last, asked) for _, first, last in (("", start, end), *readings)]
    if named[0] is None or _NONE_OF_THEM.search(text, start, end):
        return False
    no_label = text[end : end + 1] != ":" and not _PRONOUN.match(text, start, end)
    if not any(named) and _asks_who(asked) and not offered_by(asked) and no_label:
        return False  # "the porter": who it is may go without a name
    if not any(named):
        pronoun = _PRONOUN.match(text, start, end) is not None
        answers = not pronoun and echo(text[start:end], asked) >= LEAST_TAKEN_UP and not _DENIES.search(text, start, end)
        return not answers and bool(possible_in(text, 0, len(text), asked))
    rank = _OF_ANOTHER_RANK.search(text, start, end)
    ranked = rank is not None and text[start : rank.start()].strip() and rank.group().lower() not in asked.lower()
    return bool(ranked) and len({name for name, _, _ in named[0]}) == 1


_ONLY = re.compile(r"\W*(?:(?:so|then|thus|hence)\s+)?(?:(?:the|an?)\s+)?(?P<one>.+?)(?:,?\s+(?:then|it\s+is(?:,\s+then)?))?\W*", re.IGNORECASE)


def is_possible(text: str, asked: str) -> bool:
    """Tell whether a sentence is one thing that may answer, and nothing else: "Tin.", "A heron, then."."""
    only = _ONLY.fullmatch(text) if len(text.split()) <= LONGEST_NAME_WORDS + 2 else None
    named = possible_in(text, *only.span("one"), asked) if only else None
    return only is not None and bool(named) and [one[1:] for one in named or ()] == [only.span("one")]


# "A heron would be grey."
_WOULD_BE = re.compile(r"\W*(?P<one>[^,;:]{1,40}?)\s+would\s+(?:be|have|not)\b", re.IGNORECASE)


def only_would_be(text: str, asked: str) -> bool:
    """Tell whether a sentence says only what one of the possible answers would be like."""
    said = _WOULD_BE.match(text)
    return said is not None and bool(possible_in(text, said.start("one"), said.end("one"), asked))
