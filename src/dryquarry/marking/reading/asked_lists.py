"""The things that a question itself lists: "Which of the birds curlew, gannet and swift are waders?"."""

from __future__ import annotations

import re
from collections.abc import Sequence
from functools import lru_cache

from dryquarry.marking.reading.echo import content_of, question_in
from dryquarry.marking.reading.offers import Mention, mentions_of
from dryquarry.marking.regexes import regex

LONGEST_QUESTION = 4000
_THING = r"(?:[^\s,.:;?!]+\s){0,3}?[^\s,.:;?!]+"
_LISTED = regex(
    rf"(?:{_THING},\s*)+{_THING}\s*,?\s(?:and|or)\s+{_THING}|(?<=:)\s+(?:{_THING},\s*){{2,}}{_THING}(?=[?.]|\Z)|"
    r"(?<![\d,.] )(?<!\d)(?:\d{1,4},\s+){2,}\d{1,4}(?=\s+(?:are|is|can|do|does|have|has|divide)\b)",
    re.IGNORECASE,
)
# "Ada and Bo are tall, Cleo and Dag short" lists nothing
_TELLS = regex(r"\s(?:is|are|was|were|has|have|had|does|do|did|can)\s|\bones\Z", re.IGNORECASE)
# Nothing behind the last thing: "mix, let rise."
_ENDS = regex(r"\s*(?:[.?!;:]|\Z)")
_IN_BRACKETS = regex(r"\s*\([^()]{0,60}\)")


def plain_member(member: str) -> str:
    """Return a member without its article, in one case."""
    return re.sub(r"^(?:the|an?)\s+", "", member.casefold().strip())


@lru_cache(maxsize=256)
def listed_in(asked: str) -> tuple[str, ...]:
    """Return the things that a question lists: "Which of the birds curlew, gannet and swift are waders?"."""
    best: list[str] = []
    asked_of = _IN_BRACKETS.sub("", asked[-LONGEST_QUESTION:])
    for match in _LISTED.finditer(asked_of):
        parts = [
            part.strip() for part in re.split(r",\s*(?:and\s+|or\s+)?|\s+(?:and|or)\s+", match.group()) if part.strip()
        ]
        if len(parts) > len(best) and not any(map(_TELLS.search, parts[:-1])):
            width = max((len(part.split()) for part in parts[1:-1]), default=1)
            ends = _ENDS.match(asked_of, match.end()) is not None
            last = parts[-1] if ends else " ".join(parts[-1].split()[:width])
            # "into order: fry the potatoes, peel them, …" begins behind its colon
            whole = asked_of[: match.start()].rstrip().endswith(":")
            first = parts[0] if whole else " ".join(parts[0].split()[-width:])
            best = [first, *parts[1:-1], last]
    return tuple(best)


LONGEST_THING_WORDS = 3
LEAST_THINGS = 3
# What turns the order round, or says of some of them that they are not meant.
_NOT_AS_SAID = regex(
    r"\b(?:not|no|nor|never|neither|none|but|except|without|unlike|instead|rather|while|whereas|though|although|than|before|after(?!\s+that\b)|"
    r"last|only|other|others|or|if|unless|out|also|same|equal\w*|ties?|tied|possibly|perhaps|maybe|might|may)\b|n't\b|\?",
    re.IGNORECASE,
)


# "fry the potatoes, peel them, wash them, cut them"
_DONE_TO_IT = regex(r"(?P<verb>[a-z]{2,})\s+(?:(?P<pronoun>it|them|him|her)|(?:the|an?)\s+[^\W\d_]+|[^\W\d_]+)")


def _verbs_of(things: list[str]) -> list[str]:
    """Return the verbs of steps that are all done to one thing, which pronouns stand for; none for anything else."""
    steps = [_DONE_TO_IT.fullmatch(thing) for thing in things]
    verbs = [step["verb"] for step in steps if step]
    pronouns = [step for step in steps if step and step["pronoun"]]
    return verbs if len(verbs) == len(things) and len(pronouns) >= len(things) - 1 > 0 else []


# "Four friends, Ari, Bea, Cem and Dot, …"
_COUNTED_THINGS = regex(r"\b(?:two|three|four|five|six|seven)\s+(?P<noun>[^\W\d_]+s),\s", re.IGNORECASE)


@lru_cache(maxsize=256)
def things_asked(asked: str) -> tuple[str, ...]:
    """Return the short things that a question lists, without their articles; none where one is longer."""
    things = [plain_member(thing).strip(" '\"‘’“”") for thing in listed_in(asked)]
    counted = _COUNTED_THINGS.search(asked)
    if counted is not None and things[:1] == [counted["noun"].casefold()]:
        things = things[1:]
    things = _verbs_of(things) or things
    too_long = any(len(thing.split()) > LONGEST_THING_WORDS for thing in things)
    return () if too_long or len(things) < LEAST_THINGS else tuple(filter(None, things))


def mentioned_in(text: str, start: int, end: int, asked: str) -> list[Mention]:
    """Return the things of a question's list as a stretch mentions them: "A gull has two legs, an ant six".

    Nothing where it mentions one alone or one twice, or may not mean all of them, or not in this order.
    """
    things = things_asked(asked)
    if not things or _NOT_AS_SAID.search(text, start, end):
        return []
    found = mentions_of(things, text, start, end)
    return found if len(found) > 1 and len({thing for thing, _, _ in found}) == len(found) else []


_COUNTS = {"two": 2, "three": 3, "four": 4, "five": 5, "six": 6}
# "The gannet dives, the swift flies. The other three are waders."
_THE_OTHERS = regex(
    r"\b(?P<who>(?:the\s+(?:others?|remaining|rest)|all\s+(?:the\s+)?others)(?:\s+(?P<count>two|three|four|five|six|ones))?)\s+(?:\w+\s+)?"
    r"(?:are|do|have|can|is|stays?\s+in|remains?|fits?|qualif(?:y|ies)|counts?|(?(count)(?!not?\b)[a-z]{3,}))\b(?!n't|\s+not)",
    re.IGNORECASE,
)


_THE_OTHERS_ARE = regex(
    r"\W*(?:so\s+)?(?:all\s+)?the\s+(?:others?|rest)(?:\s+(?:two|three|four|five|ones))?\s+(?:are|do|have|can|is)(?!n['’]t|\s+not?\b)(?:\s+[\w-]+){0,3}\W*",
    re.IGNORECASE,
)


def tells_of_others(sentence: str) -> bool:
    """Tell whether a sentence only says what is so of the others: "The rest are even."."""
    return _THE_OTHERS_ARE.fullmatch(sentence) is not None


FARTHEST_BACK = 200
# "Of the five, only the eggs and the honey don't."
_ONLY_THESE_NOT = regex(r"\bonly\s+[^;:.]{2,80}?\s(?:do|does|are|is|have|has|can)(?:n't|\s+not)\b", re.IGNORECASE)


def things_of(asked: str) -> str:
    """Return the part of a question that lists things: the sentence that asks, else the whole."""
    return question_in(asked) if listed_in(question_in(asked)) else asked


# "Saturn and Neptune have many, the others none.", where it is asked which have none
_THE_OTHERS_NONE = regex(r"\b(?P<who>the\s+(?:others?|rest))\s+(?:(?:have|has)\s+)?none\b", re.IGNORECASE)
_THE_OTHERS_SO = regex(
    r"(?:,|;|\band|\bbut)\s+(?P<who>(?:all\s+)?the\s+(?:others?|rest))\s+(?P<what>\d+|[^\W\d_]{3,})\W*\Z", re.IGNORECASE
)
_ASKS_NONE = regex(r"\b(?:no|none)\b", re.IGNORECASE)
# "Answer: neither Birr nor Sow"
_NEITHER_ALONE = regex(
    r"\W*neither\s[^,;:.]{1,60}?\snor\s[^,;:.]{1,40}\W*|"
    r"\W*not\s[^,;:.]{1,40}(?:,\s+(?:and\s+)?not\s[^,;:.]{1,40}){1,6}\W*",
    re.IGNORECASE,
)


def _tells_of_it(before: str, behind: str, asked: str) -> bool:
    """Tell whether what is said before "the others" takes up more of what is asked than what is said of them."""
    numbers = set(re.findall(r"\d+", question_in(asked)))
    if numbers and set(re.findall(r"\d+", behind)) - numbers:
        return True  # "January does and so does July; the other two have 30 days", of 31
    denies = re.search(r"n't\b|\bnot?\b|\bnone\b", before, re.IGNORECASE)
    wanted = content_of(asked) - {word for thing in things_asked(asked) for word in content_of(thing)}
    return denies is None and len(wanted & content_of(before)) > len(wanted & content_of(behind))


def others_than_said(text: str, start: int, end: int, asked: str) -> tuple[Mention, ...] | None:
    """Return what of a question's list is not said before "the other three are"; None where nothing is put so."""
    neither = _NEITHER_ALONE.fullmatch(text, start, end)
    if neither is not None:
        out = {thing for thing, _, _ in mentions_of(things_asked(asked), text, start, end)}
        return tuple((thing, start, end) for thing in things_asked(asked) if thing not in out) if out else None
    only, others = _ONLY_THESE_NOT.search(text, start, end), _THE_OTHERS.search(text, start, end)
    none = _THE_OTHERS_NONE.search(text, start, end) if _ASKS_NONE.search(asked) else None
    so = _THE_OTHERS_SO.search(text, start, end)  # "June has 30 days, the rest 31."
    if so is not None and re.search(rf"(?<!\w){re.escape(so['what'])}(?!\w)", question_in(asked), re.IGNORECASE):
        none = none or so
    others = others or none
    put = others or only
    things = things_asked(asked)
    if put is None or not things:
        return None
    if others and _tells_of_it(text[start : others.start()], text[others.end() : end], asked):
        return None  # "Jupiter and Saturn are gas giants, the other three are rocky."
    said = {thing for thing, _, _ in mentions_of(things, text, start, put.start() if others else put.end())}
    if not said and others is not None and others.start() - start <= 2:
        # "Two of the five, 51 and 57, are divisible by 3. The other three are primes."
        before = text.rfind(". ", max(0, start - FARTHEST_BACK), max(0, start - 2)) + 1
        said = {thing for thing, _, _ in mentions_of(things, text, max(before, start - FARTHEST_BACK, 0), start)}
    first, last = others.span("who") if others else put.span()
    rest = tuple((thing, first, last) for thing in things if thing not in said)
    so_many = others["count"] if others and others is not none else ""
    counted = _COUNTS.get((so_many or "").lower(), len(rest))
    return rest if said and rest and counted == len(rest) else None


MOST_WORDS_OF_A_MENTION = 5


def short_mentions(sentences: Sequence[str], asked: str) -> list[list[int]]:
    """Return the run of short sentences that each mention another thing asked of: "Two legs: gull. Six: ant."."""
    things = things_asked(asked)
    if not things:
        return []
    said = [
        mentions_of(things, one, 0, len(one)) if len(one.split()) <= MOST_WORDS_OF_A_MENTION else []
        for one in sentences
    ]
    run = [number for number, found in enumerate(said) if len(found) == 1]
    together = bool(run) and run == list(range(run[0], run[-1] + 1))
    each = {said[number][0][0] for number in run}
    return [run] if together and len(run) == len(each) == len(things) else []


_RANKS_TEXT = ("first 1st", "second 2nd", "third 3rd", "fourth 4th")
_RANKS = {word: at for at, words in enumerate(_RANKS_TEXT) for word in words.split()} | {"last": -1}
_ONE_PLACE = rf"(?:the\s+|number\s+)?(?:{'|'.join(_RANKS)})(?:\s+one)?"
_PLACES = regex(rf"\W*{_ONE_PLACE}(?:(?:,|,?\s+and)\s+{_ONE_PLACE})+(?:\s+ones)?\W*", re.IGNORECASE)
_PLACE = regex(rf"\b(?:{'|'.join(_RANKS)})\b", re.IGNORECASE)


def by_places(text: str, start: int, end: int, asked: str) -> list[Mention]:
    """Return what of a question's list a stretch names by its places and nothing else: "the first and the third"."""
    things = things_asked(asked)
    if not things or _PLACES.fullmatch(text, start, end) is None:
        return []
    places = [(_RANKS[one.group().lower()], *one.span()) for one in _PLACE.finditer(text, start, end)]
    return [(things[at], first, last) for at, first, last in places if -len(things) <= at < len(things)]
