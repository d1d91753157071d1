"""Several things of which a stretch tells each something of the kind asked for: "8 have three, 12 have two"."""

from __future__ import annotations

import itertools
import re

from dryquarry.marking.reading.chosen import Chosen
from dryquarry.marking.reading.claims import Found
from dryquarry.marking.reading.echo import names_in, question_in, stem
from dryquarry.marking.reading.stretches import Claims, Stretch, how_many
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numerals import NUMBER_WORDS, in_digits

# "How many of them have exactly two painted faces?"
_ASKS_HOW_MANY = regex(
    r"\bhow\s+many\b[^?]*?\b(?P<verb>have|has|show|are|with)\s+(?:exactly\s+|only\s+|just\s+|precisely\s+)?(?P<what>\d+|[^\W\d_]+)\b",
    re.IGNORECASE,
)
_HAVE = regex(
    r"(?P<count>\d+|[^\W\d_]+)\s+(?:of\s+(?:them|these)\s+|[^\W\d_]+\s+)?(?:sit\s[^,;:]{1,30}?\s+and\s+|on\s[^,;:]{1,20}?\s+and\s+|in\s[^,;:]{1,20}?\s+and\s+)?"
    r"(?P<verb>have|has|show|are|is|with)\s+(?:exactly\s+|only\s+|just\s+)?(?P<what>\d+|[^\W\d_]+)\b",
    re.IGNORECASE,
)
_ORDER = regex(
    r"\W*(?:the\s+)?(?:(?:right|correct|alphabetical)\s+)?(?:order|sequence)\s+(?:is|would\s+be)\b|\W*\Z", re.IGNORECASE
)
_BETWEEN = regex(r"[\s,;→<–-]*(?:and\s+|then\s+)?", re.IGNORECASE)
_ASKS_END = regex(r"\b(?:comes?|is|was|are|were|stands?)\s+(?:the\s+)?(?P<end>first|last)\b", re.IGNORECASE)
_IS_END = regex(
    r"[\s)\]*\"']*(?:\([^()]*\)\s*)?(?:comes?|is|was|stands?|goes)?\s*(?:the\s+)?(?P<end>first|last)\b", re.IGNORECASE
)


def count_that_has(text: str, start: int, end: int, asked: str) -> tuple[int, int] | None:
    """Return where the number is of which what is asked is told, of several: 12 of "8 have three, 12 have two"."""
    wanted = _ASKS_HOW_MANY.search(question_in(asked))
    said = [one for one in _HAVE.finditer(text, start, end) if _is_number(one["count"])] if wanted else []
    if wanted is None or len(said) < 2:
        return None
    if len({_is_number(one["what"]) for one in (wanted, *said)}) > 1:
        return None  # "120 cabbages are 3 rows", where it is asked how many are left
    own = [one for one in said if _value(one["what"]) == _value(wanted["what"])]
    return own[0].span("count") if len(own) == 1 else None


def _is_number(word: str) -> bool:
    return word.isdigit() or word.lower() in NUMBER_WORDS


def _value(word: str) -> str:
    """Return a number in digits, any other word in small letters."""
    return in_digits(word.lower())


def of_count_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the number of which what is asked is told, of several of which each has something told."""
    there = count_that_has(stretch.text, stretch.place.start, stretch.place.end, stretch.question.asked)
    return [one for one in claims if there and one.start == there[0]] or claims


# "3 parts of syrup and 12 of water", where it is asked how many parts of syrup
_ASKS_OF = regex(r"\bhow\s+many\s+[^\W\d_]+\s+of\s+(?:the\s+)?(?P<what>[^\W\d_]+)\b(?!\s+and\b)", re.IGNORECASE)
_OF_THAT = regex(r"(?:\s+[^\W\d_]+)?\s+of\s+(?:the\s+)?(?P<what>[^\W\d_]+)", re.IGNORECASE)


def of_kind_of_part(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the number of the parts of what is asked, where others are parts of something else."""
    wanted = _ASKS_OF.search(question_in(stretch.question.asked))
    told = [_OF_THAT.match(stretch.text, one.end) for one in claims] if wanted else []
    if wanted is None or sum(one is not None for one in told) < 2:
        return claims
    own = [
        one
        for one, said in zip(claims, told, strict=True)
        if said is not None and said["what"].lower() == wanted["what"].lower()
    ]
    return own if len(own) == 1 else claims


# "60 % are 72", "after 9 weeks 54"
_PAIR = regex(
    r"(?<![\d.,])(?P<first>\d[\d.,]{0,20}\d|\d)\s?(?P<unit>%|[^\W\d_]+)\s(?:(?!of\b)[^\W\d_]+\s){0,4}?(?P<second>\d[\d.,]{0,20}\d|\d)(?!\s?[\d/·×*+−-])",
    re.IGNORECASE,
)
_NUMBER = regex(r"(?<![\w.,])\d[\d.,]*\d(?![\w])|(?<![\w.,])\d(?![\w])")


def of_pair_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep the number that stands with one that the question gives, where several pairs are told of the same kind.

    "10 % are 12, so 60 % are 72 and 40 % are 48", where 60 % is asked for; "after 8 weeks 48, after 9 weeks 54".
    """
    text, asked = stretch.text, question_in(stretch.question.asked)
    pairs = list(_PAIR.finditer(text, stretch.place.start, stretch.place.end))
    if len(pairs) < 2 or len({one["unit"].lower() for one in pairs}) > 1:
        return claims
    given = set(_NUMBER.findall(asked))
    firsts = [one for one in pairs if one["first"] in given and _asks_of(one["first"], one["unit"], asked)]
    seconds = [one for one in pairs if one["second"] in given and _asks_many(one["unit"], asked)]
    if len(firsts) + len(seconds) != 1:
        return claims
    there = firsts[0].span("second") if firsts else seconds[0].span("first")
    return [one for one in claims if one.start < there[1] and there[0] < one.end] or claims


def _asks_of(number: str, unit: str, asked: str) -> bool:
    """Tell whether a question gives a number in a unit: "60 % of 120"."""
    return re.search(rf"(?<![\w.,]){re.escape(number)}\s?{re.escape(unit)}", asked, re.IGNORECASE) is not None


def _asks_many(unit: str, asked: str) -> bool:
    """Tell whether a question asks how many of a unit there are."""
    return re.search(rf"\bhow\s+many\s+(?:[^\W\d_]+\s+)?{re.escape(unit)}\b", asked, re.IGNORECASE) is not None


_COUNTED = regex(r"\s+(?P<noun>[^\W\d_]{3,})\b")


def of_end_asked(text: str, start: int, end: int, found: list[Found[Chosen]], asked: str) -> list[Found[Chosen]]:
    """Keep the option that is told to stand where it is asked: D of "D comes last, A first", of "A, B, C, D"."""
    if (there := count_that_has(text, start, end, asked)) is not None:
        return [one for one in found if one.start == there[0]] or found
    if (counted := how_many(asked)) is not None and len(found) > 1:
        behind = [_COUNTED.match(text, one.end, end) for one in found]
        own = [one for one, noun in zip(found, behind, strict=True) if noun and stem(noun["noun"].lower()) == counted]
        if len(own) == 1 and all(behind):
            return own  # "3 pieces need 2 cuts"
    if len(found) == 3 and _ASKS_MIDDLE.search(question_in(asked)):
        return _in_the_middle(text, start, found)
    wanted = _ASKS_END.search(question_in(asked))
    if wanted is None or len(found) < 2:
        return found
    told = [_IS_END.match(text, one.end, end) for one in found]
    own = [
        one
        for one, said in zip(found, told, strict=True)
        if said is not None and said["end"].lower() == wanted["end"].lower()
    ]
    if len(own) == 1:
        return own
    gaps = [text[one.end : other.start] for one, other in itertools.pairwise(found)]
    if len(found) > 2 and all(map(_BETWEEN.fullmatch, gaps)) and _ORDER.match(text, start, found[0].start):
        return [found[0 if wanted["end"].lower() == "first" else -1]]
    return found


_ASKS_MIDDLE = regex(r"\bin\s+(?:the\s+middle|between)\b|\bmiddle\s+one\b", re.IGNORECASE)
_BETWEEN_THESE = regex(r"[^.;]{0,24}\bbetween\s+(?:the\s+)?\Z", re.IGNORECASE)


def _in_the_middle(text: str, start: int, found: list[Found[Chosen]]) -> list[Found[Chosen]]:
    """Keep the one of three that is told to stand between the others: "Bo, between Ada and Cy", "Ada, Bo, Cy"."""
    first, second, _ = found
    if _BETWEEN_THESE.fullmatch(text, first.end, second.start):
        return [first]
    row = all(_BETWEEN.fullmatch(text[one.end : other.start]) for one, other in itertools.pairwise(found))
    return [second] if row and _ORDER.match(text, start, first.start) else found


# "Give Ole his five back: he has 23 and she has 18."
_PRONOUN = regex(
    r"\b(?P<who>he|she)(?:['’]s|\s+(?:has|had|is|was|gets|pays|needs|weighs|earns|owns|keeps|must\s+be))\s+[€$£]?\Z",
    re.IGNORECASE,
)
_NAME = regex(r"\b[A-Z][^\W\d_]+")
_LONGEST_SAID = 24


def of_pronoun_asked(stretch: Stretch, claims: Claims) -> Claims:
    """Keep what is told of "he" or "she" where both have theirs, and the one named before is asked about or not."""
    text, start = stretch.text, stretch.place.start
    said = [_PRONOUN.search(text, max(start, claim.start - _LONGEST_SAID), claim.start) for claim in claims]
    whose = {one["who"].lower() for one in said if one}
    asked = names_in(question_in(stretch.question.asked))
    first = next((one for one in said if one), None)
    if len(whose) < 2 or len(asked) != 1 or first is None:
        return claims
    named = [stem(one.group()) for one in _NAME.finditer(text, start, first.start())]
    named = [one for one in named if one in names_in(stretch.question.asked)]
    if not named:
        return claims
    wanted = first["who"].lower() if named[-1] in asked else ({"he", "she"} - {first["who"].lower()}).pop()
    return [claim for claim, one in zip(claims, said, strict=True) if one and one["who"].lower() == wanted] or claims
