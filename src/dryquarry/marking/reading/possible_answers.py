"""What may answer a question in words: one of what it offers, or a thing that goes by a name where one is asked for."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

from dryquarry.marking.reading.echo import content_of, echo, is_echo, names_in, question_in
from dryquarry.marking.reading.kinds import LEAST_TAKEN_UP
from dryquarry.marking.reading.names_told import asks_name, asks_who, asks_year, names_told, years_told
from dryquarry.marking.reading.offers import Mention, mentions_of, offered_by
from dryquarry.marking.reading.told import is_main_verb, own_part
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.texts import plain_letters

Span = tuple[int, int]
LONGEST_NAME_WORDS = 5
_NONE_OF_THEM = regex(r"\b(?:neither|none|nobody|no\s?one|nothing|both|all|each|everyone|either)\b", re.IGNORECASE)
_NEITHER = regex(r"\W*(?:neither|none|nobody|no\s?one|nothing)\b", re.IGNORECASE)
# "like a heron", "rather than Mull", "a few weeks after December": named, and not as what it is
_BESIDE = regex(
    r"(?:(?:\b(?:not|never)|n't)\s(?:\w+\s){0,3}|\b(?:nor|near|like|unlike|than|beyond|from|except|instead of|"
    r"after|before|until|besides)\s(?:an?\s|the\s|in\s|into\s)?|"
    r"\b(?:after|before|since|until)\s(?:\w+\s){1,3}?(?:of|in)\s)\Z",
    re.IGNORECASE,
)


# "It dates from 1871."
_DATES_FROM = regex(r"\b(?:dat(?:es|ed|ing)|goes|going)\s+(?:back\s+)?(?:from|to)\s+\Z", re.IGNORECASE)


def possible_in(text: str, start: int, end: int, asked: str) -> list[Mention] | None:
    """Return what in a stretch may answer a question, each with what it is; None where a question tells of nothing.

    Only what the question itself says is heeded: what it offers, or that it asks for something with a name.
    """
    if not offered_by(asked) and not asks_name(asked) and not asks_year(asked):
        return None
    found = _said(text, start, end, asked)
    if not found and (pointed := _POINTS.search(text, start, end)) is not None:
        return _pointed_at(text, pointed, asked)
    return [
        one
        for one in found
        if _DATES_FROM.search(text, max(start, one[1] - 30), one[1])
        or not _BESIDE.search(text, max(start, one[1] - 30), one[1])
    ]


def _said(text: str, start: int, end: int, asked: str) -> list[Mention]:
    """Return what a stretch names of what a question offers, and all names in it where it offers nothing."""
    if not (offered := offered_by(asked)):
        return years_told(text, start, end) if asks_year(asked) else names_told(text, start, end, asked)
    return mentions_of(offered, text, start, end)


# "the latter is longer", "the log matches the first"
_POINTS = regex(
    r"\bthe\s+(?P<which>former|latter|first|last|second|third)(?:\s+one)?(?:\s+(?:of|above|mentioned|named)\b|(?=\s+(?:is|was|has|does|that|which)\b)|\W*\Z)",
    re.IGNORECASE,
)
FARTHEST_BACK = 600
LONGEST_LOOK = 20_000
_OWNS = regex(r"['’]s\s+[a-z]")


def _pointed_at(text: str, pointed: re.Match[str], asked: str) -> list[Mention]:
    """Return which of what was named before is meant by "the former", "the latter", "the first"."""
    begin = max(0, pointed.start() - FARTHEST_BACK)
    before = list(dict.fromkeys(text[first:last] for _, first, last in _said(text, begin, pointed.start(), asked)))
    offered = offered_by(asked)
    before = before if len(before) > 1 or len(offered) != 2 else list(offered)
    places = {"former": -2, "latter": -1, "last": -1, "first": 0, "second": 1, "third": 2}
    place = places[plain_letters(pointed["which"]).lower()]
    if len(before) < 2 or not -len(before) <= place < len(before):
        return []
    return [(before[place].casefold(), *pointed.span())]


_IT_IS_THE = regex(r"\bit(?:['’]s|\s+is|\s+was)\s+the\s+(?P<which>former|latter)\W*\Z", re.IGNORECASE)


def only_possible(text: str, readings: Sequence[Mention], body: Span, whole: Span, asked: str) -> Sequence[Mention]:
    """Return the readings of a clause that name one thing that may answer; all of them where none does.

    Where the body of the clause names only one such thing, that comes first.
    """
    if _NEITHER.match(text, *body):
        return readings
    pointed = _IT_IS_THE.search(text, *whole)
    if pointed is not None and (meant_by_it := _pointed_at(text, pointed, asked)):
        return meant_by_it  # "Of the Caspian Sea and the Black Sea it is the latter."
    found = [possible_in(text, *stretch, asked) or [] for stretch in (body, whole)]
    # "Einar's wife, whose name is Solveig": who owns something is meant only where nobody else is named
    meant = [[one for one in some if not _OWNS.match(text, one[2])] for some in found]
    here = next(filter(None, (*meant, *found)), None)
    if here is None:
        return readings
    if asks_year(asked) and (told_so := _year_of_verb(text, *whole, asked)) is not None:
        return [told_so]
    if asks_year(asked) and (part := own_part(text, *whole, question_in(asked))) != whole:
        told = possible_in(text, *part, asked) or []
        here = told if len(told) == 1 else here  # "was built in 1871 and was rebuilt three years later, in 1902"
    if len(_named(here)) == 1:
        name, first, last = here[0]
        said = text[first:last] if text[first:last].casefold().startswith(name) else name
        return [(said, first, last), *(one for one in readings if one[1] < last and first < one[2])]
    parts = [part for part in parts_of(text, *whole) if names_in(question_in(asked)) & content_of(text[slice(*part)])]
    own = (possible_in(text, *parts[0], asked) or []) if len(parts) == 1 and parts[0] != whole else []
    if len(own) == 1:
        if GAPPED.fullmatch(text, *parts[0]):
            readings = [one for one in readings if parts[0][0] <= one[1] and one[2] <= parts[0][1]]
        return [(text[own[0][1] : own[0][2]], *own[0][1:]), *readings]
    kept = [one for one in readings if len(_named(possible_in(text, one[1], one[2], asked))) == 1]
    return kept or readings


_WORD = regex(r"[^\W\d_]+")


def _year_behind_verb(text: str, start: int, end: int, asked: str) -> Mention | None:
    """Return the one year before which the question's verb stands: "lit in 1872, a year after it was built in 1871"."""
    years = years_told(text, start, end)
    if len(years) < 2:
        return None
    verbs = [
        next((one for one in reversed(_WORD.findall(text[start:at])) if is_main_verb(one)), "") for _, at, _ in years
    ]
    own = [year for year, verb in zip(years, verbs, strict=True) if verb and is_echo(verb, question_in(asked))]
    return (text[own[0][1] : own[0][2]], *own[0][1:]) if len(own) == 1 and all(verbs) else None


# "lit in 1884"
_IN_YEAR = regex(r"\w\s(?:in|since|from|by|until|till)\s\Z", re.IGNORECASE)


def _year_behind_its_words(text: str, start: int, end: int, asked: str) -> Mention | None:
    """Return the one year whose own words are the question's: "Planned in 1878, built in 1880, lit in 1884"."""
    years = years_told(text, start, end)
    bounds = [start, *(last for _, _, last in years)]
    own = [text[bound:first] for bound, (_, first, _) in zip(bounds, years, strict=False)]
    if len(years) < 2 or not all(map(_IN_YEAR.search, own)):
        return None
    shares = [echo(words, question_in(asked)) for words in own]
    best = max(shares)
    return years[shares.index(best)] if best > 0 and shares.count(best) == 1 else None


def _year_of_verb(text: str, start: int, end: int, asked: str) -> Mention | None:
    """Return the year that the question's own verb comes to: "planned 1879, begun 1884, lit 1884 + 4 = 1888"."""
    parts = [part for part in parts_of(text, start, end) if possible_in(text, *part, asked)]
    own = [part for part in parts if echo(text[slice(*part)], asked) > 0]
    by_verb = _year_behind_verb(text, start, end, asked) or _year_behind_its_words(text, start, end, asked)
    if by_verb is not None:
        return by_verb
    if len(own) != 1 or len(parts) < 2 or "=" not in text[slice(*own[0])]:
        return None
    _, first, last = (possible_in(text, *own[0], asked) or [])[-1]
    return text[first:last], first, last


# "…, and the Vltava through Vienna"
GAPPED = regex(
    r"\W*(?:the\s+)?[A-Z]\w+(?:\s[A-Z]\w+)*\s+(?:through|in|of|into|on|at|by|from|for|to)\s+(?:that\s+of\s+)?(?:the\s+)?[A-Z]\w+(?:\s[A-Z]\w+)*\W*"
)
_PART_END = regex(r"[,;]\s+(?:and\s+|but\s+|while\s+|whereas\s+)?|\s+(?:and|but|while|whereas)\s+", re.IGNORECASE)


def parts_of(text: str, start: int, end: int) -> list[Span]:
    """Return what commas, "and" and "while" part in a clause: "Slovakia's is Bratislava, Slovenia's is Ljubljana"."""
    bounds = [start, *(place for match in _PART_END.finditer(text, start, end) for place in match.span()), end]
    return list(zip(bounds[::2], bounds[1::2], strict=True))


# "He's the one who lit it": whoever was named before
_PRONOUN = regex(r"\W*(?:so\s+|and\s+)?(?:he|she|they)\b", re.IGNORECASE)
_DENIES = regex(r"\b(?:not|never)\b|n't\b", re.IGNORECASE)
# "Mull comes second", where the largest is asked for
_OF_ANOTHER_RANK = regex(r"\b(?:second|third|fourth|fifth|runner-up)\b(?!\s+(?:thought|look|glance))", re.IGNORECASE)


_ARTICLE = regex(r"\W*(?:the\s+)?", re.IGNORECASE)
_AND_LAST = regex(r"\s+and\s+last\b", re.IGNORECASE)


def names_another(text: str, readings: Sequence[Mention], start: int, end: int, asked: str) -> bool:
    """Tell whether a clause names nothing that may answer, though the whole text does, or what is of another rank."""
    here = possible_in(text, start, end, asked)
    if here is None or _NONE_OF_THEM.search(text, start, end):
        return False
    if here or any(possible_in(text, first, last, asked) for _, first, last in readings):
        return len(_named(here)) == 1 and _of_another_rank(text, start, end, asked)
    pronoun = _PRONOUN.match(text, start, end) is not None
    label = text[end : end + 1] == ":"
    if asks_who(asked) and not offered_by(asked) and not label and not pronoun:
        return False  # "the porter": who it is may go without a name
    takes_up = echo(text[start:end], asked) >= LEAST_TAKEN_UP and not _DENIES.search(text, start, end)
    return (pronoun or not takes_up) and _holds_any(text, asked)


def _named(mentions: Sequence[Mention] | None) -> set[str]:
    return {name for name, _, _ in mentions or ()}


@lru_cache(maxsize=64)
def _holds_any(text: str, asked: str) -> bool:
    """Tell whether a reply names anything that may answer; remembered, as each of its clauses asks for it."""
    return bool(possible_in(text, 0, min(len(text), LONGEST_LOOK), asked))


_IN_THE_WORLD = regex(
    r"\s+(?:[^\W\d_]+\s+)?(?:in|of)\s+the\s+world\b|\s+(?:worldwide|on\s+earth|globally)\b", re.IGNORECASE
)


def _of_another_rank(text: str, start: int, end: int, asked: str) -> bool:
    rank = _OF_ANOTHER_RANK.search(text, start, end)
    if rank is not None and _IN_THE_WORLD.match(text, rank.end()):
        return False  # "Africa's largest lake is Lake Victoria (third in the world)."
    if rank is None or _ARTICLE.fullmatch(text, start, rank.start()) or _AND_LAST.match(text, rank.end()):
        return False  # "the fourth day of the week, Thursday", "the third and last"
    return rank.group().lower() not in asked.lower()


_ONLY = regex(
    r"\W*(?:(?:so|then|thus|hence)\s+)?(?:(?:the|an?)\s+)?(?P<one>.+?)(?:,?\s+(?:then|it\s+is(?:,\s+then)?))?\W*",
    re.IGNORECASE,
)


def is_possible(text: str, asked: str) -> bool:
    """Tell whether a sentence is one thing that may answer, and nothing else: "Tin.", "A heron, then."."""
    only = _ONLY.fullmatch(text) if len(text.split()) <= LONGEST_NAME_WORDS + 2 else None
    if only is None:
        return False
    return [place for _, *place in possible_in(text, *only.span("one"), asked) or ()] == [list(only.span("one"))]


def names_one(text: str, asked: str) -> bool:
    """Tell whether a sentence names just one of what a question offers, and not all such: "Egrets are white"."""
    here = possible_in(text, 0, len(text), asked) if offered_by(asked) else None
    return len(_named(here)) == 1 and all(text[first:last].casefold() == name for name, first, last in here or ())


# "A heron would be grey."
_WOULD_BE = regex(r"\W*(?P<one>[^,;:]{1,40}?)\s+would\s+(?:be|have|not)\b", re.IGNORECASE)


def only_would_be(text: str, asked: str) -> bool:
    """Tell whether a sentence says only what one of the possible answers would be like."""
    said = _WOULD_BE.match(text)
    return said is not None and bool(possible_in(text, said.start("one"), said.end("one"), asked))
