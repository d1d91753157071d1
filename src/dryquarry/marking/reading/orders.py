"""An order that is told in clauses: "Maro was first, followed by Pil; then came Nuno, and Tove was last"."""

from __future__ import annotations

import itertools
import re

from dryquarry.marking.regexes import regex

LEAST_MEMBERS = 3
_LAST = 1000
_PLACE = (
    r"first|second|third|next|fourth|fifth|last|1st|2nd|3rd|[45]th|in\s+the\s+middle|in\s+between|"
    r"between(?=[,;.]|\W*\Z)|the\s+\w+est"
)
# A point ends no name where it stands in a number.
_NAME = r"(?:[^,;.]|(?<=\d)\.(?=\d)){1,40}?"
_PLACED = regex(
    rf"""(?:^|[,;.!]\s+(?:and\s+|so\s+|hence\s+)?|\band\s+)(?:then\s+)?(?:
      (?P<name>{_NAME})\s+
        (?:(?:is|was|has|had|came|comes|went|goes|ran|runs|stands|stood|finished|finishes|arrived|arrives|ended(?:\s+up)?)\s+)?(?:in\s+)?(?:the\s+)?(?P<place>{_PLACE})
    | (?P<most>(?:the\s+)?\w+est)\s+(?:(?:\w+\s+)?(?:is|was)\s+)?(?P<extreme>{_NAME})
    | (?P<where>last|first(?:\s+of\s+all)?)\s+(?:(?:come|comes|came|is|was|goes|went)\s+)?(?P<there>{_NAME})
    | (?P<ahead>{_NAME})\s+before\s+(?:him|her|it|them|that|[A-Z][^\W\d_]*)
    | before\s+(?:that|him|her|them|it)\s+(?:(?:comes?|came|is|was)\s+)?(?P<earlier>{_NAME})
    | (?P<middle>{_NAME})\s+(?:is|lies|stands|comes|falls|sits)\s+
        (?:between\s+(?:them|these|the\s+(?:two|other\s+two))|in\s+between|in\s+the\s+middle)
    | in\s+between\s+(?:come|comes|are|is|run|go)\s+(?P<between>{_NAME})
    | (?:followed\s+by|then(?:\s+(?:came|comes|was|is))?|next(?:\s+(?:came|comes|was|is))?
        |after\s+(?:that|which)\s+(?:came|comes))\s+(?P<next>{_NAME})
    )(?:(?<=est)\s+[^\W\d_]+)?(?=[,;!]|\.(?!\d)|\s+and\b|\s*\Z)""",
    re.IGNORECASE | re.VERBOSE,
)
_AND_MORE = regex(r"\s(?:is|are|was|were|has|have)\s[^,;.]+\Z", re.IGNORECASE)
_ORDINALS = {"first": 1, "1st": 1, "second": 2, "2nd": 2, "third": 3, "3rd": 3, "fourth": 4, "4th": 4, "fifth": 5}


# "Sol hands over to Oda, Oda to Rhea, Rhea to Pim."
_PASSES_ON = regex(
    r"(?P<one>[^\W\d_]+)\s+(?:(?:hands?|passes|gives\s+way)\s+(?:(?:it|the\s+\w+)\s+)?(?:over\s+|on\s+)?)?to\s+(?P<other>[^\W\d_]+)"
)


# "the seed becomes a shoot, the shoot a bud, and the bud a flower"
_BECOMES = regex(
    r"(?:the|an?)\s+(?P<one>[^\W\d_]+)\s+(?P<verb>(?:becomes|turns\s+into|grows\s+into|leads\s+to|is\s+followed\s+by)\s+)?(?:the|an?)\s+(?P<other>[^\W\d_]+)",
    re.IGNORECASE,
)


# "The inn is met before the church and the church before the mill."
_COMES_BEFORE = regex(
    r"(?P<one>[^\W\d_]+)\s+(?:(?:is|are|was|were|comes?|came|goes|lies|stands)\s+(?:[^\W\d_]{3,}\s+)?)?"
    r"(?P<verb>before)\s+(?:the\s+)?(?P<other>[^\W\d_]+)",
    re.IGNORECASE,
)


# "Thursday is followed by Friday, Friday by Saturday, and Saturday by Sunday."
_FOLLOWED_BY = regex(
    r"(?P<one>[^\W\d_]+)\s+(?P<verb>(?:is|are)\s+followed\s+)?by\s+(?:the\s+)?(?P<other>[^\W\d_]+)", re.IGNORECASE
)


# "The storm came after the flood, the fire after the storm."
_COMES_AFTER = regex(
    r"(?P<one>[^\W\d_]+)\s+(?:(?:(?:is|are|was|were|comes?|came|goes|lies|stands)\s+(?:[^\W\d_]{3,}\s+)?)?after|follows|followed)\s+"
    r"(?:the\s+)?(?P<other>[^\W\d_]+)",
    re.IGNORECASE,
)
# "After the horn comes the lamp and after the lamp the bell."
_AFTER_COMES = regex(
    r"\bafter\s+(?:the\s+)?(?P<one>[^\W\d_]+),?\s+(?P<verb>(?:comes?|follows?|is)\s+)?(?:the\s+)?(?P<other>[^\W\d_]+)",
    re.IGNORECASE,
)


def _handed_on(text: str, start: int, end: int) -> tuple[tuple[int, int], ...]:
    """Return a chain in which each hands over to the next; nothing where a link is missing."""
    links = list(_PASSES_ON.finditer(text, start, end))
    for pattern in (_BECOMES, _COMES_BEFORE, _AFTER_COMES, _FOLLOWED_BY):
        further = list(pattern.finditer(text, start, end))
        links = further if any(link["verb"] for link in further) else links
    after = list(_COMES_AFTER.finditer(text, start, end))
    if len(after) > 1 and all(first["one"] == second["other"] for first, second in itertools.pairwise(after)):
        return (after[0].span("other"), *(link.span("one") for link in after))
    linked = all(first["other"] == second["one"] for first, second in itertools.pairwise(links))
    return (links[0].span("one"), *(link.span("other") for link in links)) if len(links) > 1 and linked else ()


# "White is thinner than red, and red is thinner than blue."
_THAN = regex(
    r"(?P<one>[^\W\d_]+)\s+(?:(?:is|are|was|were|weighs|runs|has)\s+)?(?P<more>[^\W\d_]+er)\s+than\s+(?:(?:the|an?)\s+)?(?P<other>[^\W\d_]+)",
    re.IGNORECASE,
)
_FROM_TO = regex(
    r"\bfrom\s+(?:the\s+)?(?P<first>[^\W\d_]+est)\s+to\s+(?:the\s+)?(?P<last>[^\W\d_]+est)\b|(?P<only>[^\W\d_]+est)\s+first\b",
    re.IGNORECASE,
)


# "10 cents is less than 50 cents, 50 cents is less than 1 euro, and …"
_LESS_THAN = regex(
    r"(?:\A|[,;]\s+(?:and\s+)?|\sand\s+)\W*(?P<one>[^,;:.]{1,30}?)\s+(?:is|are)\s+(?P<way>less|more)\s+than\s+(?P<other>[^,;:.]{1,30}?)(?=[,;.]|\sand\s|\s*\Z)",
    re.IGNORECASE,
)
_LOWEST_FIRST = regex(r"\b(?:lowest|smallest|least|cheapest)\b", re.IGNORECASE)


def _less_and_less(text: str, start: int, end: int, asked: str) -> tuple[tuple[int, int], ...]:
    """Return a chain of what is less, or more, than the next, the lowest first where that is asked for."""
    links = list(_LESS_THAN.finditer(text, start, end))
    linked = all(first["other"].casefold() == second["one"].casefold() for first, second in itertools.pairwise(links))
    if len(links) < LEAST_MEMBERS - 1 or not linked or len({link["way"].lower() for link in links}) != 1:
        return ()
    members = (links[0].span("one"), *(link.span("other") for link in links))
    rising = links[0]["way"].lower() == "less"
    return members if rising == (_LOWEST_FIRST.search(asked) is not None) else members[::-1]


def compared_in_order(text: str, start: int, end: int, asked: str) -> tuple[tuple[int, int], ...]:
    """Return the members of a chain of comparisons in the order asked for; nothing where none is told."""
    if chain := _less_and_less(text, start, end, asked):
        return chain
    links = list(_THAN.finditer(text, start, end))
    ends = _FROM_TO.search(asked)
    ways = {link["more"].lower().removesuffix("er") for link in links}
    linked = all(first["other"].casefold() == second["one"].casefold() for first, second in itertools.pairwise(links))
    if len(links) < LEAST_MEMBERS - 1 or len(ways) != 1 or not linked or ends is None:
        return ()
    members = (links[0].span("one"), *(link.span("other") for link in links))
    first = (ends["first"] or ends["only"]).lower().removesuffix("est")
    last = (ends["last"] or "").lower().removesuffix("est")
    way = ways.pop()
    if way not in (first, last):
        return ()
    return members if way == first else members[::-1]


# "Corr has 90 days, Brin 180, Dole 200 and Ashe 220.", "A gull has two legs, an ant has six and a crab ten."
_SMALL = ("one", "two", "three", "four", "five", "six", "seven", "eight", "nine", "ten", "eleven", "twelve")
_WITH_NUMBER = regex(
    r"(?:\A|,\s+(?:and\s+)?|\s+and\s+)\W*(?:(?:the|an?)\s+)?(?P<name>(?!(?:first|second|third|fourth|fifth|then|next|last)\b)[^\W\d_]+)\s+"
    r"(?:(?:has|had|takes|took|is|needs|weighs|costs|with)\s+)?"
    rf"(?P<number>\d+(?:\.\d+)?|{'|'.join(_SMALL)})(?:\s[^\W\d_]+)?(?=,|\sand\b|\W*\Z)",
    re.IGNORECASE,
)
_ASKS_ORDER = regex(r"\b(?:order|sort|arrange|rank|from\s+the\s+\w+est\b[^?]*\bto)\b", re.IGNORECASE)


def told_with_numbers(text: str, start: int, end: int, asked: str) -> tuple[tuple[int, int], ...]:
    """Return the names of a sentence that gives each its number, which only rises or falls; nothing for another."""
    if not _ASKS_ORDER.search(asked):
        return ()
    stretch = text[start:end]
    told = list(_WITH_NUMBER.finditer(stretch))
    numbers = [_value(one["number"]) for one in told]
    joined = all(first.end() == second.start() for first, second in itertools.pairwise(told))
    if len(told) < LEAST_MEMBERS or not joined or told[0].start() or stretch[told[-1].end() :].strip(" .!"):
        return ()
    if numbers not in (sorted(numbers), sorted(numbers, reverse=True)) or len(set(numbers)) < len(numbers):
        return ()
    return tuple((start + one.start("name"), start + one.end("name")) for one in told)


def is_told_backwards(text: str, start: int, end: int, asked: str) -> bool:
    """Tell whether a stretch says that its order is the other way round than the one asked for.

    "Vic, Una, Wim, from the oldest to the youngest", where the youngest is to be first.
    """
    said, wanted = _FROM_TO.search(text, start, end), _FROM_TO.search(asked)
    if said is None or wanted is None or not said["last"] or text[said.end() : end].strip(" .!*"):
        return False  # what stands before the list is heeded where the order is put together
    first = (wanted["first"] or wanted["only"]).lower()
    return said["last"].lower() == first and said["first"].lower() != first


def _value(said: str) -> float:
    return float(_SMALL.index(said.lower()) + 1 if said.lower() in _SMALL else said)


def _end_told(said: str, asked: str) -> int | None:
    """Return the place that a superlative has in the order asked for: "the largest" is last of "smallest first"."""
    ends = _FROM_TO.search(asked) if said.startswith("the ") and said.endswith("est") else None
    if ends is None:
        return None
    return 1 if said.removeprefix("the ") == (ends["first"] or ends["only"]).lower() else _LAST


def _with_article(most: str | None) -> str:
    """Return a superlative in small letters, with its article: "the oldest"."""
    return f"the {most.lower().removeprefix('the ')}" if most else ""


def told_in_order(text: str, start: int, end: int, asked: str = "") -> tuple[tuple[int, int], ...]:
    """Return where the members of an order stand, in that order; nothing where a stretch tells none."""
    if chain := _handed_on(text, start, end):
        return chain
    placed: list[tuple[int, tuple[int, int]]] = []
    explicit = at = 0
    found = list(_PLACED.finditer(text[start:end]))
    for match in found:
        said = " ".join((match["place"] or "").lower().split())
        explicit += bool(said)
        if said == "last":
            at = _LAST
        elif (end_told := _end_told(said or _with_article(match["most"]), asked)) is not None:
            at = end_told
        elif match["most"] and placed and explicit:
            at = _LAST  # "the smallest is 3, the largest is 8"
        elif match["where"]:
            at = _LAST if match["where"].lower() == "last" else 1
        elif match["earlier"] or match["ahead"]:
            at -= 1
        elif said.startswith("in ") or said == "between" or match["between"] or match["middle"]:
            at = _LAST // 2
        else:
            at = _ORDINALS.get(said, at + 1)
        explicit += bool(match["most"] or match["where"])
        named = next(
            group
            for group in ("name", "extreme", "there", "earlier", "ahead", "between", "middle", "next")
            if match[group]
        )
        first, last = match.span(named)
        if at == _LAST // 2 and match[named].lower().startswith("with "):
            first += len("with ")  # "…, with Pal in between"
        more = _AND_MORE.search(match[named])  # "The queen is worth most and comes last"
        last = match.start(named) + more.start() if more else last
        placed.append((at, (start + first, start + last)))
    inner = any(match["middle"] or (match["place"] or "").lower().startswith("in ") for match in found)
    turned = any(match["earlier"] or match["ahead"] for match in found)
    if any(match["where"] for match in found) and not turned and not inner:
        return ()  # "first comes the gull, then the ant": a list as any other
    names = {text[first:last].casefold() for _, (first, last) in placed}
    if len(placed) < LEAST_MEMBERS or not explicit or len(names) < len(placed):
        return ()
    return tuple(span for _, span in sorted(placed))
