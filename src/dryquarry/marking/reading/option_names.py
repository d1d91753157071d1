"""Options named otherwise than by letter or text.

By the one word that only they have ("the hall" for "the lantern in the hall"), as the one left, as the one just asked
about.
"""

from __future__ import annotations

import re
from collections.abc import Iterator, Mapping
from functools import lru_cache

from dryquarry.marking.reading.echo import content_of, question_in, stem
from dryquarry.marking.reading.option_texts import letter_pattern
from dryquarry.marking.reading.yes_no import yes_or_no
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.texts import plain_letters

LONGEST_QUESTION = 120
_WORD = regex(r"[^\W\d_]{3,}")
_CLAUSE = regex(r"[^\n;.!?,]+")
_DENIES = regex(r"\b(?:not?|nor|neither|never|none|nobody|without|cannot)\b|n['’]t\b", re.IGNORECASE)
_NEITHER = regex(r"\bneither\b|\bnot\b.*\b(?:nor|not|or)\b", re.IGNORECASE)
_UNSURE = regex(r"\b(?:if|may|might|could|would|perhaps|maybe|or)\b", re.IGNORECASE)
_NOTHING_ELSE = r"\W*(?:(?:the|an?|in|on|at|by|through|to|from|of|it|is|it's|one)\s+)*(?P<word>{word})\W*"
# "The other two can open it."
THE_OTHERS = regex(
    r"\W*(?:so\s+|but\s+)?the\s+other(?:s|\s+(?:two|three|four|ones|options))\b"
    r"(?!\s+(?:(?:do|does|could|are|is|have|has|had|did|were|was)(?:n['’]t|\s+not|\s+no)|can(?:not|['’]t|\s+not))\b)",
    re.IGNORECASE,
)
# "The north gate? Nothing is said against it, so that's the one."
_THAT_ONE = regex(
    r"\b(?:that(?:'s|\s+is|\s+must\s+be)|it(?:'s|\s+is|\s+must\s+be)|this(?:\s+is|\s+must\s+be))\s+"
    r"(?:the\s+(?:right\s+|correct\s+)?one|that\s+one|this\s+one)\W*\Z",
    re.IGNORECASE,
)


@lru_cache(maxsize=256)
def own_words(options: tuple[tuple[str, str], ...]) -> Mapping[str, str]:
    """Return by its word the letter of each option, where every option has just one word that no other has."""
    words = {letter: {stem(word.lower()) for word in _WORD.findall(text)} for letter, text in options}
    own: dict[str, str] = {}
    for letter, mine in words.items():
        others = set().union(*(theirs for other, theirs in words.items() if other != letter))
        if len(mine) < 2 or len(mine - others) != 1:
            return {}
        own[(mine - others).pop()] = letter
    return own


def named_alone(options: tuple[tuple[str, str], ...], text: str) -> tuple[str, int, int] | None:
    """Return the option whose own word is all that a stretch says: its letter, and where the word stands."""
    for match in _WORD.finditer(text):
        letter = own_words(options).get(stem(match.group().lower()))
        if letter and re.fullmatch(_NOTHING_ELSE.format(word=match.group()), text, re.IGNORECASE):
            return letter, *match.span()
    said = _IT_IS.sub("", text.strip(" .!*\n")).casefold()
    own = [letter for letter, option in options if _IT_IS.match(option) and _IT_IS.sub("", option).casefold() == said]
    return (own[0], 0, len(text)) if said and len(own) == 1 else None


# "True." for "It is true"
_IT_IS = regex(r"(?:it|this|that)\s+is\s+", re.IGNORECASE)


def named_in_clauses(options: tuple[tuple[str, str], ...], text: str, asked: str) -> Iterator[tuple[str, int, int]]:
    """Yield the options whose own word stands in a clause with all that is asked of them: "Red is left for the gate".

    "Which lantern is red?" asks for red of the lanterns at several places.
    """
    own = own_words(options)
    shared = content_of(" ".join(said for _, said in options))
    wanted = content_of(question_in(asked)) - shared
    for clause in _CLAUSE.finditer(text) if own and wanted else ():
        said = clause.group()
        named = [word for word in _WORD.finditer(said) if stem(word.group().lower()) in own]
        out = {own[stem(word.group().lower())] for word in named}
        if len(out) == len(own) - 1 > 1 and wanted <= content_of(said) and _NEITHER.search(said):
            yield next(letter for letter in own.values() if letter not in out), clause.start(), clause.end()
        if len(named) > 1 and ":" in said:  # "The gate's is red: hall blue, stairs green"
            said = said.partition(":")[0]
            named = [word for word in named if word.end() <= len(said)]
        if len(named) == 1 and wanted <= content_of(said) and not _DENIES.search(said) and not _UNSURE.search(said):
            start = clause.start() + named[0].start()
            yield own[stem(named[0].group().lower())], start, start + len(named[0].group())


_ONLY_NAME = regex(r"(?:only|just)\s+(?P<name>[A-Z][^\W\d_]+)")


def only_one_of_two(options: tuple[tuple[str, str], ...], text: str) -> Iterator[tuple[str, int, int]]:
    """Yield "only Rolf" of "Rolf passes and Sina doesn't", where just two are offered so."""
    only = [(letter, name["name"]) for letter, said in options if (name := _ONLY_NAME.fullmatch(said.strip(" .")))]
    if len(only) != 2:
        return
    for (letter, one), (_, other) in (only, only[::-1]):
        fails = rf"\b{other}\s+(?:(?:does|did|is|can|has|was|will|could)(?:n['’]t|\s+not)|cannot|fails|lacks)\b"
        does = rf"\b{one}\s+(?!(?:does|did|is|can|has|was|will|could)(?:n['’]t|\s+not)|cannot|fails|lacks)[a-z]+"
        denied, so = re.search(fails, text), re.search(does, text)
        if denied is not None and so is not None:
            yield letter, *so.span()


LEAST_WORDS = 3


def stated(options: tuple[tuple[str, str], ...], text: str) -> Iterator[tuple[str, int, int]]:
    """Yield the option that a clause states with a word less: "Ivo's must be heavier than Tom's".

    Of an option that is a statement all words but one have to stand there in its order, and of no other option.
    """
    told = {letter: _stems(said) for letter, said in options if len(_stems(said)) >= LEAST_WORDS}
    for clause in _CLAUSE.finditer(text) if len(told) > 1 else ():
        said = _stems(clause.group())
        own = [letter for letter, words in told.items() if _holds_all_but_one(said, words)]
        if len(own) == 1 and not _DENIES.search(clause.group()) and not _UNSURE.search(clause.group()):
            yield own[0], clause.start(), clause.end()


def _stems(text: str) -> list[str]:
    return [stem(word.lower()) for word in _WORD.findall(text) if content_of(word)]


def _holds_all_but_one(said: list[str], words: list[str]) -> bool:
    """Tell whether all words but one stand in what is said, in their order."""
    ways = [words[:number] + words[number + 1 :] for number in range(1, len(words))]
    return any(_in_turn(said, way) for way in (words, *ways))


def _in_turn(said: list[str], words: list[str]) -> bool:
    left = iter(said)
    return all(word in left for word in words)


# "Yes", "No, it doesn't"
_YES_OR_NO = regex(r"\W*(yes|no)(?=\W*\Z|,\s)", re.IGNORECASE)


# "No.", "The answer is no.", where the option is "No, it doesn't"
_BARE_YES_OR_NO = regex(
    r"\W*(?:(?:so|hence|thus|therefore)\s+)?(?:(?:the\s+)?(?:right\s+|correct\s+)?answer\s+is\s+)?(?P<said>yes|no)(?!,?\s+not\s+necessarily)(?=\W*\Z|[,;:.–—]\s|\s+(?:since|because|as)\b)",
    re.IGNORECASE,
)
# where a third option says that it cannot be told
_NOT_NECESSARILY = regex(r"\bnot\s+necessarily\b", re.IGNORECASE)


def said_as_yes_or_no(
    options: tuple[tuple[str, str], ...], text: str, start: int, end: int, asked: str
) -> tuple[str, int, int] | None:
    """Return the option "Yes" or "No" that a stretch says in other words, and where; None where it says none."""
    opens = [(letter, _YES_OR_NO.match(words)) for letter, words in options]
    letters = {match[1].casefold(): letter for letter, match in opens if match is not None}
    if len([match for _, match in opens if match is not None]) != len(letters):
        return None  # "No, it cannot be said" and "No, it doesn't"
    longer = {"yes", "no"} <= letters.keys() and not {"yes", "no"} <= {words.casefold() for _, words in options}
    bare = _BARE_YES_OR_NO.match(text, start, end) if longer else None
    if bare is not None:
        return letters[bare["said"].casefold()], bare.start("said") - start, bare.end("said") - start
    undecided = len(options) > len(letters) and _NOT_NECESSARILY.search(text, start) is not None
    said = yes_or_no(text, start, end, asked) if {"yes", "no"} <= letters.keys() and not undecided else None
    return (letters[said[0]], said[1] - start, said[2] - start) if said is not None else None


def the_one_left(letters: str, said: str) -> str | None:
    """Return the letter left in "not A, not B and not D", "neither A, C nor D"; None where it is not said so."""
    denied = re.fullmatch(
        rf"\W*(?:(?:so\s+)?(?:I|i|we|We|you|You|one|One)(?:'d|\s+(?:can|could|would|may|must))?\s+(?:cross\s+out|rule\s+out|strike\s+out|"
        rf"exclude|eliminate|discard|dismiss|reject)|(?:it(?:'s|\sis)\s+|(?:The|the)\s+(?:right\s+|correct\s+)?answer\s+is\s*)?(?:[Nn]ot|n't|[Nn]either|[Nn]one\s+of))\s+[{letters}](?:(?:\W+(?:and|nor|or|not|neither))*\W+[{letters}])+(?:,?\s+in\s+th\w+\s+order)?\W*",
        said,
    )
    denied = denied or re.fullmatch(
        rf"\W*(?:[Ss]o\s+)?[{letters}](?:\W+(?:and\W+)?[{letters}])+\s+(?:are|can\s+be|must\s+be|fall|drop)\s+(?:all\s+|clearly\s+|both\s+)?"
        r"(?:out|wrong|false|incorrect|impossible|excluded|ruled\s+out|eliminated|dismissed|away)\W*",
        said,
    )
    left = set(letters) - set(letter_pattern(letters).findall(said)) if denied else set()
    return left.pop() if len(left) == 1 else None


def that_one(text: str, start: int, end: int) -> tuple[str, tuple[int, int]] | None:
    """Return the question that stands before "…, so that's the one", and where that is said; None where it is not."""
    said = _THAT_ONE.search(text, start, end)
    before = text[max(0, start - LONGEST_QUESTION) : start].rstrip()
    if said is None or not before.endswith("?"):
        return None
    return re.split(r"[.!?\n](?=\s)", before)[-1], said.span()


def ranges(letters: str, text: str, start: int, end: int) -> Iterator[tuple[frozenset[str], int, int]]:
    """Yield the letters that ranges in a stretch stand for, and where: "B through D"."""
    for match in re.compile(rf"(?<!\w)\(?([{letters}])\)?\s*(?:through|to|–|-)\s*\(?([{letters}])(?!\w)").finditer(
        text, start, end
    ):
        if match[1] < match[2]:
            yield frozenset(letter for letter in letters if match[1] <= letter <= match[2]), *match.span()


_PLACES = {
    "first": 0,
    "1st": 0,
    "second": 1,
    "2nd": 1,
    "third": 2,
    "3rd": 2,
    "fourth": 3,
    "4th": 3,
    "fifth": 4,
    "sixth": 5,
    "last": -1,
}
# "the second last one", "the last but one"
_SECOND_LAST = regex(r"\b(?:second[\s-](?:to[\s-])?last|last\s+but\s+one|penultimate)\b", re.IGNORECASE)
_COUNTS = ("one", "two", "three", "four", "five", "six")
_BY_PLACE = regex(
    rf"\b(?:the\s+|and\s+|or\s+)({'|'.join(_PLACES)})(?:\s+(?:option|choice|answer|statement|"
    rf"alternative|one)s?\b|(?=(?:\s*,?\s*(?:and|or)?\s+(?:the\s+)?(?:first|second|third|fourth|fifth|"
    rf"last)){{1,4}}\s+(?:option|choice|answer|statement|one)s?\b))|\b(?:option|choice|number|"
    rf"no\.)\s+(?:([1-9])|(one|two|three|four|five|six))\b|\b(?:the\s+|and\s+)([1-9])(?:st|nd|rd|th)\b(?!\s+(?!and\b|or\b)\w)",
    re.IGNORECASE,
)
_ENDS_WITH_PLACE = regex(rf",\s+(?:so\s+|hence\s+)?the\s+(?P<place>{'|'.join(_PLACES)})\W*\Z", re.IGNORECASE)
_PLACE_ALONE = regex(rf"\s*(?:the\s+)?(?P<place>{'|'.join(_PLACES)})\b", re.IGNORECASE)
_PLACE = regex(rf"\b(?:{'|'.join(_PLACES)})\b", re.IGNORECASE)
_ONLY_PLACES = regex(
    rf"(?:the\s+)?(?:{'|'.join(_PLACES)})(?:(?:,|,?\s+and|\s*&)\s+(?:the\s+)?(?:{'|'.join(_PLACES)}))*"
    r"(?:\s+(?:one|statement|option)s?)?",
    re.IGNORECASE,
)


def by_place(text: str, start: int, end: int, options: int) -> Iterator[tuple[int, int, int]]:
    """Yield which of so many options are named by their place, and where: "the second option", "no. 3"."""
    if (from_end := _SECOND_LAST.search(text, start, end)) is not None:
        yield options - 2, *from_end.span()
        return
    for match in _BY_PLACE.finditer(text, start, end):
        if match[3]:
            number = _COUNTS.index(match[3].lower())
        else:
            number = _PLACES[plain_letters(match[1]).lower()] if match[1] else int(match[2] or match[4]) - 1
        if -1 <= number < options:
            yield number, *match.span()
    # "As things are, the second."
    if (ends := _ENDS_WITH_PLACE.search(text, start, end)) is not None and _PLACES[
        plain_letters(ends["place"]).lower()
    ] < options:
        yield _PLACES[plain_letters(ends["place"]).lower()], *ends.span("place")


# "I hesitate between C and D. That decides it in favour of the latter."
_OF_TWO = regex(r"\bthe\s+(?P<which>former|latter)\b", re.IGNORECASE)


def former_or_latter(text: str, start: int, end: int) -> tuple[int, tuple[int, int]] | None:
    """Return which of two named before a stretch takes up, 0 or 1, and where it says so; None where it says neither."""
    said = list(_OF_TWO.finditer(text, start, end))
    return (int(said[0]["which"].lower() == "latter"), said[0].span()) if len(said) == 1 else None


def by_place_alone(text: str, start: int, end: int, options: int) -> tuple[int, int, int] | None:
    """Return which option is named by its place and no more, and where: "all but the first"."""
    place = _PLACE_ALONE.match(text, start, end)
    number = _PLACES[plain_letters(place["place"]).lower()] if place else options
    return (number, *place.span("place")) if place and number < options else None


def only_places(text: str, start: int, end: int, options: int) -> list[tuple[int, int, int]]:
    """Return which options a stretch names that is nothing but places, and where: "the first and the third"."""
    if not _ONLY_PLACES.fullmatch(text[start:end].strip(" .!)(\"'*:\n")):
        return []
    named = [(_PLACES[plain_letters(one.group()).lower()], *one.span()) for one in _PLACE.finditer(text, start, end)]
    return [one for one in named if one[0] < options]
