"""An order put together from what is said of each thing: "Ives is the youngest, Oda is older than Sol"."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterator
from dataclasses import dataclass
from functools import lru_cache

from dryquarry.marking.reading.asked_lists import things_asked
from dryquarry.marking.reading.echo import is_echo
from dryquarry.marking.reading.extremes import are_opposite
from dryquarry.marking.reading.offers import Mention, mentions_of
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numerals import NUMBER_WORDS
from dryquarry.marking.values.texts import plain_letters

LEAST_THINGS = 3
MOST_THINGS = 8
MOST_MENTIONS = 40
_ASKS_ORDER = regex(r"\b(?:order|sort|sequence|arrange|rank|line\s+up)\b", re.IGNORECASE)
_FROM_TO = regex(
    r"\bfrom\s+(?:the\s+)?(?P<first>[^\W\d_]+est)(?:\s+[^\W\d_]+)?\s+to\s+(?:the\s+)?(?P<last>[^\W\d_]+est)\b"
    r"|\b(?P<only>[^\W\d_]+est)\s+(?:one\s+)?first\b",
    re.IGNORECASE,
)
_ORDINALS_TEXT = "first second third fourth fifth sixth seventh eighth"
_ORDINALS = {word: number for number, word in enumerate(_ORDINALS_TEXT.split(), start=1)}
_ORDINALS |= {
    f"{number}{'st' if number == 1 else 'nd' if number == 2 else 'rd' if number == 3 else 'th'}": number
    for number in range(1, 9)
}
_ORDINAL = "|".join(_ORDINALS)
_VERB = (
    r"(?:is|was|are|ha[ds](?:\s+it)?|comes?|came|goes|went|"
    r"stands|finishes|finished|arrives|arrived|runs|ran|ends|follows?)"
)
_THAN = regex(
    rf"(?:,?\s+(?:who|which|that|and\s+(?:he|she|it)))?(?:['’]s|\s+{_VERB})?(?:\s+(?:even|much|still|a\s+bit|in\s+turn))?"
    r"\s+(?P<more>[^\W\d_]+er)\s+than\s+(?:the\s+)?",
    re.IGNORECASE,
)
# "Sol than Bram", "Bram before Ives": as was said of the two before
_AS_BEFORE = regex(r"\s+(?:than|to)\s+(?:the\s+)?", re.IGNORECASE)
_CLOSE_BY = rf"(?:,?\s+(?:who|which))?(?:\s+{_VERB})?(?:\s+(?:right|just|immediately|directly))?\s+"
_EARLIER = regex(
    rf"{_CLOSE_BY}(?:before|ahead\s+of|in\s+front\s+of|precedes|followed\s+by|(?:and\s+)?(?:gave|passed|handed|gives|passes|hands)\s+it\s+(?:on\s+|over\s+)?to)\s+(?:the\s+)?",
    re.IGNORECASE,
)
_LATER = regex(rf"{_CLOSE_BY}(?:after|behind|follows)\s+(?:the\s+)?", re.IGNORECASE)
_BEFORE_IT = regex(
    rf"[,;.]?\s+(?:and\s+)?before\s+(?:that|him|her|it|them),?\s+(?:{_VERB}\s+)?(?:the\s+)?", re.IGNORECASE
)
_THEN = (
    r"(?:then|next|later|finally|lastly|at\s+last|in\s+the\s+end|after\s+(?:that|him|her|it|them|which|this)|after(?:wards|\s+that)|"
    r"followed\s+by|→|->|=>|[<>])"
)
_NEXT = regex(rf"\s*[,;.]?\s*(?:and\s+)?(?:{_VERB}\s+)?{_THEN},?\s*(?:{_VERB}\s+)?(?:the\s+)?", re.IGNORECASE)
# Nothing but a sign or "and" between two of a list.
_BESIDE = regex(rf"\s*[,;./)–-]?\s*(?:and\s+|with\s+|&\s+)?(?:{_VERB}\s+)?(?:the\s+)?", re.IGNORECASE)
_NUMBERED = r"(?:[(=:#]\s*|\b(?:no\.|number|place|rank)\s*)"
_PLACE_BEHIND = regex(
    rf"\s*(?:['’]s|\s{_VERB}|[,:=(–-])?\s*(?:at\s+|in\s+)?(?:the\s+)?"
    rf"(?:(?P<place>{_ORDINAL}|last|end\b|leads|won|wins|(?:very\s+)?beginning|start)(?:\s+(?P<of>[^\W\d_]+est))?|(?P<most>[^\W\d_]+est))\b(?:\s+one\b|\s+place\b|\s+of\s+all\b)?\)?"
    rf"|\s*(?:\s{_VERB}\s+)?{_NUMBERED}(?P<number>[1-8])(?!\d)\)?",
    re.IGNORECASE,
)
_LABEL = (
    rf"(?:(?P<place>{_ORDINAL}|last(?:\s+of\s+all)?)(?:\s+(?P<of>[^\W\d_]+est))?|(?P<most>[^\W\d_]+est)(?:\s+of\s+all)?"
    r"|(?<![\d.,])\(?(?P<number>[1-8])(?=\s*[.):=]))(?:\s+one|\s+place)?"
)
_PLACE_BEFORE = regex(rf"(?:\bthe\s+|\bin\s+)?{_LABEL},?\s*(?:the\s+)?\Z", re.IGNORECASE)
_SAID_BEFORE = regex(
    rf"(?:\bthe\s+|\bin\s+)?{_LABEL}\s*(?:['’]s|\s{_VERB}|[:=]|(?<=\d)\s?[.)]\s?:?)\s*(?:the\s+)?\Z", re.IGNORECASE
)
# "Before the stamp comes the envelope", "The envelope comes after the paper and before the stamp"
_OPENS_WITH = regex(r"\W*(?:(?P<before>before)|after)\s+(?:the\s+)?\Z", re.IGNORECASE)
_COMES = regex(rf"(?:,?\s+{_VERB}|,)\s+(?:the\s+)?", re.IGNORECASE)
_AND_BEFORE = regex(r",?\s+(?:and|but)\s+(?:(?P<before>before)|after)\s+(?:the\s+)?", re.IGNORECASE)
_UNCERTAIN = regex(r"\b(?:not|no|nor|if|or|perhaps|maybe|might|may|could|would|but|tied?)\b|n['’]t\b|\?", re.IGNORECASE)
LONGEST_LEAD = 40
# "From youngest to oldest: …", "Young to old: …", "Youngest first: …", "Starting with the youngest: …"
_LABELLED = regex(
    r"\b(?:(?:from\s+)?(?:the\s+)?(?P<first>[^\W\d_]+)\s+to\s+(?:the\s+)?[^\W\d_]+|(?P<only>[^\W\d_]+est)\s+(?:one\s+)?first|"
    r"(?:starting|beginning|start|begin)\s+(?:with|from|at)\s+(?:the\s+)?(?P<start>[^\W\d_]+est))\s*[:,]\s*",
    re.IGNORECASE,
)
_IS_NEXT = regex(rf"\s(?:{_VERB}\s+)?(?:next|after\s+(?:that|him|her|it|them))\b(?=\s*[,;.])", re.IGNORECASE)
# "Maro was first, followed by Pil", where Maro is none of the things of the question
_OF_ANOTHER = regex(rf"\b(?:{_ORDINAL}|last|followed|before|after|then|than)\b", re.IGNORECASE)
# One more than the things of the question: no order of them.
_MORE_BEHIND = regex(r"\s*,\s*(?:and\s+)?(?!in\b|of\b|too\b)[^\W\d_]+\W*\Z")
_MORE_AHEAD = regex(r"\A\W*[A-Z][^\W\d_]+\s*(?:,|\band\b|>|→|->)\s*\Z")
_MARKUP = regex(r"\\text\s*\{|(?<!\w)['\"‘“]|['\"’”](?!\w)|[*_$}{\[\]`]|\b[a-h][).]\s")


@dataclass(frozen=True, slots=True)
class Direction:
    """The extremes that an order begins and ends with: "from the oldest to the youngest"; empty where not said."""

    first: str
    last: str

    def of(self, most: str) -> int:
        """Return 1 where a superlative stands at the beginning, -1 where it stands at the end, 0 for another."""
        most = most.lower()
        if most == self.first or (self.last and are_opposite(most, self.last)):
            return 1
        return -1 if most == self.last or (self.first and are_opposite(most, self.first)) else 0


@lru_cache(maxsize=256)
def direction_asked(asked: str) -> Direction | None:
    """Return in which direction a question wants an order; None where it wants none."""
    ends = _FROM_TO.search(asked)
    if ends is None:
        return Direction("", "") if _ASKS_ORDER.search(asked) else None
    return Direction((ends["first"] or ends["only"]).lower(), (ends["last"] or "").lower())


@lru_cache(maxsize=256)
def things_in_order(asked: str) -> tuple[str, ...]:
    """Return the things that a question wants in order: those it lists, else the names in it; none for too many."""
    things = things_asked(asked) or names_told_of(asked)
    if not _are_plain(things):
        things = names_told_of(asked)  # "the Auk at 9:40, the Tern at 8:15"
    plain = _are_plain(things)
    return things if LEAST_THINGS <= len(things) <= MOST_THINGS and plain else ()


def _are_plain(things: tuple[str, ...]) -> bool:
    """Tell whether no thing begins or ends with a number."""
    return not any(thing[-1].isdecimal() or thing[0].isdecimal() for thing in things)


# A name that a sentence begins with, too, is followed by its verb: "Maro finished before Pil", and not "Name the four".
_NAME = regex(
    r"(?<![.?!]\s)(?<!\A)\b[A-Z][^\W\d_]+|(?:(?<=[.?!]\s)|\A)[A-Z][^\W\d_]+(?=\s(?:is|was|has|had|came|ran|won|sat|took|[a-z]+(?:s|ed))\s)"
)


def names_told_of(asked: str) -> tuple[str, ...]:
    """Return the names of whom a question tells something, in small letters and in its order."""
    names = [name.casefold() for name in _NAME.findall(asked) if not is_echo(name, "")]
    return tuple(dict.fromkeys(name for name in names if name not in NUMBER_WORDS))


class _Order:
    """What is known of the places of some things, counted from 1: which are fixed, and which stand before which."""

    def __init__(self, things: tuple[str, ...]) -> None:
        self.things = things
        self.fixed: dict[str, int] = {}
        self.before: set[tuple[str, str]] = set()
        self.sound = True

    def fix(self, thing: str, place: int) -> None:
        """Put a thing at a place; a place said twice and otherwise is no order."""
        place = place if place > 0 else len(self.things) + 1 + place
        self.sound = self.sound and self.fixed.setdefault(thing, place) == place

    def solved(self) -> tuple[str, ...]:
        """Return the one order that fits all that is known; nothing where none fits, or more than one."""
        found: list[tuple[str, ...]] = []
        for order in self._orders((), frozenset(self.things)):
            found.append(order)
            if len(found) > 1:
                return ()
        return found[0] if found and self.sound else ()

    def _orders(self, placed: tuple[str, ...], left: frozenset[str]) -> Iterator[tuple[str, ...]]:
        if not left:
            yield placed
        for thing in sorted(left):
            free = self.fixed.get(thing, len(placed) + 1) == len(placed) + 1
            if free and not any(second == thing and first in left for first, second in self.before):
                yield from self._orders((*placed, thing), left - {thing})


@lru_cache(maxsize=256)
def _forms(things: tuple[str, ...]) -> re.Pattern[str]:
    """Return how things to be done may be named, too: "mixing" for "mix", "let the dough rise" for "let rise"."""
    ways = []
    for number, thing in enumerate(things):
        *first, last = thing.split()
        stem = re.escape(last.removesuffix("e"))
        doing = rf"{stem}(?:{re.escape(last[-1])})?(?:e?s|e?d|e)?(?:ing)?"
        lead = "".join(rf"{re.escape(word)}\s+(?:(?:the|it)\s+)?(?:[^\W\d_]+\s+)??" for word in first)
        ways.append(rf"(?P<_{number}>(?:{lead}){'?' if lead else ''}{doing})")
    return re.compile(rf"(?<![\w-])(?:{'|'.join(ways)})(?![\w-])", re.IGNORECASE)


def _mentions(things: tuple[str, ...], text: str, start: int, end: int) -> list[Mention]:
    """Return the things that a stretch mentions; what is to be done also in other forms of its verb."""
    found = mentions_of(things, text, start, end)
    no_verbs = any(len(thing) < 3 or len(thing.split()) > 2 for thing in things)
    if no_verbs or len({thing for thing, _, _ in found}) == len(things):
        return found
    return [
        (things[int(match.lastgroup[1:])], *match.span())
        for match in _forms(things).finditer(text, start, end)
        if match.lastgroup
    ]


@lru_cache(maxsize=256)
def put_together(text: str, start: int, end: int, asked: str) -> tuple[Mention, ...]:
    """Return the things of a question in the one order that follows from a stretch; nothing where none does.

    Each mention of a thing has to be told its place, or how it stands to the mention before it.
    """
    direction, things = direction_asked(asked), things_in_order(asked)
    return () if direction is None or not things else order_told(text, (start, end), things, direction, asked)


def order_told(
    text: str,
    span: tuple[int, int],
    things: tuple[str, ...],
    direction: Direction,
    asked: str,
) -> tuple[Mention, ...]:
    """Return things in the one order that follows from a stretch, in whose words those of the question say nothing."""
    start, end = span
    if _UNCERTAIN.search(text, start, end):
        return ()
    found = _mentions(things, text, start, end)
    if len({thing for thing, _, _ in found}) != len(things) or len(found) > MOST_MENTIONS:
        return ()
    told = _Told(_Order(things), direction, [thing for thing, _, _ in found])
    bounds = [start, *(bound for _, first, last in found for bound in (first, last)), end]
    gaps = [
        _IN_BRACKETS.sub("", _MARKUP.sub("", text[first:last])).replace("|", ":")
        for first, last in zip(bounds[::2], bounds[1::2], strict=True)
    ]
    gaps = [_WORD.sub(_without_echo(asked), gap) for gap in gaps]
    if _MORE_BEHIND.match(gaps[-1]) or _MORE_AHEAD.match(gaps[0]):
        return ()
    labelled_ahead = _SAID_BEFORE.search(gaps[0]) is not None
    for number, gap in enumerate(gaps):
        told.read(number, gap, labelled_ahead=labelled_ahead)
    places = {thing: (thing, first, last) for thing, first, last in reversed(found)}
    return tuple(places[thing] for thing in told.order_told())


# "The Tern leaves first (8:15)"
_IN_BRACKETS = regex(r"\s?\(\d[\d:.,]*(?:\s?[^\W\d_]{1,12})?\)")
_WORD = regex(r"[^\W\d_]+")
# What tells of an order is kept, also where it is a word of the question.
_OF_ORDER = regex(
    r"(?:first|second|third|fourth|fifth|last|before|after|then|than|next|[^\W\d_]+(?:est|er))\Z", re.IGNORECASE
)


def _without_echo(asked: str) -> Callable[[re.Match[str]], str]:
    """Return what leaves out the words that a question has, so that "left first" is read as "first"."""

    def left(word: re.Match[str]) -> str:
        said = word.group()
        return "" if is_echo(said, asked) and not is_echo(said, "") and not _OF_ORDER.match(said) else said

    return left


class _Told:
    """What the words between the mentions tell, gap by gap."""

    def __init__(self, order: _Order, direction: Direction, mentions: list[str]) -> None:
        self.order, self.direction, self.mentions = order, direction, mentions
        self.firm = [False] * len(mentions)
        self.beside: list[tuple[int, bool]] = []
        self.way: int | None = None
        self.turned = False
        self.opening = 0

    def read(self, number: int, gap: str, *, labelled_ahead: bool) -> None:
        """Take in the gap before mention `number`; the last one stands behind all of them."""
        label = _LABELLED.search(gap)
        if label is not None:
            most = label["first"] or label["only"] or label["start"]
            self.turned = any(
                self.direction.of(one) < 0 for one in (most, f"{most}est", f"{most}st", f"{most}{most[-1]}est")
            )
            gap = gap[label.end() :]
        ahead = None
        if number < len(self.mentions):
            ahead = _SAID_BEFORE.search(gap[-LONGEST_LEAD:]) or (
                _PLACE_BEFORE.search(gap[-LONGEST_LEAD:]) if labelled_ahead else None
            )
            gap = gap[: len(gap) - len(ahead.group())] if ahead else gap
        behind = _PLACE_BEHIND.match(gap) if number and label is None else None
        if behind and self._fix(number - 1, behind):
            gap = gap[behind.end() :]
        if number == 0 and (opens := _OPENS_WITH.search(gap)) is not None:
            self.opening = -1 if opens["before"] else 1
            gap = ""
        if number == 1 and self.opening and _COMES.fullmatch(gap):
            self._before(*((0, 1) if self.opening > 0 else (1, 0)))  # "Before the stamp comes the envelope"
            return
        if number > 1 and (also := _AND_BEFORE.fullmatch(gap)) is not None:
            self._before(*((number - 2, number) if also["before"] else (number, number - 2)))
            return
        if number > 1 and (after := _IS_NEXT.match(gap)) is not None:
            self._before(number - 2, number - 1)
            gap = gap[after.end() :]
        if number == len(self.mentions):
            return
        if ahead is None and (ahead := _PLACE_BEFORE.search(gap)) is not None:
            gap = gap[: ahead.start()]
        if ahead is not None:
            self._fix(number, ahead)
        if number == 0 and _OF_ANOTHER.search(gap):
            self.order.sound = False
        if number and label is None:
            self._link(number, gap)

    def order_told(self) -> tuple[str, ...]:
        """Return the one order that follows; one thing beside another follows it where no place of its own is told."""
        told = list(self.firm)
        for number, turned in self.beside:
            if not self.firm[number] or not self.firm[number - 1]:
                told[number] = told[number - 1] = True
            if not self.firm[number]:
                self._before(*((number, number - 1) if turned else (number - 1, number)), firm=False)
        return self.order.solved() if all(told) else ()

    def _before(self, first: int, second: int, *, firm: bool = True) -> None:
        if self.mentions[first] != self.mentions[second]:
            self.order.before.add((self.mentions[first], self.mentions[second]))
            if firm:
                self.firm[first] = self.firm[second] = True

    def _fix(self, number: int, said: re.Match[str]) -> bool:
        """Fix the place that is said of a mention; tell whether it is one."""
        if said["most"]:
            place = self.direction.of(said["most"])
        elif said["number"]:
            place = int(said["number"])
        else:
            word = plain_letters(said["place"]).lower()
            place = (
                -1
                if word.startswith(("last", "end"))
                else 1
                if word.endswith(("leads", "won", "wins", "beginning", "start"))
                else _ORDINALS[word]
            )
            place = -place if said["of"] and self.direction.of(said["of"]) < 0 else place
        if place:
            self.turned = self.turned or (number == 0 and place < 0)  # "Mars is the farthest, then Earth, …"
            self.order.fix(self.mentions[number], place)
            self.firm[number] = True
        return place != 0

    def _link(self, number: int, between: str) -> None:
        """Note how a mention stands to the one before it."""
        now = 0
        if (than := _THAN.fullmatch(between)) is not None:
            now = self.way = self.direction.of(than["more"][:-2] + "est")
        elif _EARLIER.fullmatch(between):
            now = self.way = 1
        elif _LATER.fullmatch(between):
            now = self.way = -1
        elif _BEFORE_IT.fullmatch(between):
            now = -1
        elif _AS_BEFORE.fullmatch(between):
            now = self.way or int(between.strip().lower() == "to")
        elif _NEXT.fullmatch(between):
            now = -1 if self.turned else 1
        elif _BESIDE.fullmatch(between):
            self.beside.append((number, self.turned))
        if now:
            self._before(*((number - 1, number) if now > 0 else (number, number - 1)))
