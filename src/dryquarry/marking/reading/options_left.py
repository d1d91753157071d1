"""Options that are left where others are put out: "neither the oak nor the elm", "21 and 27 fail, so they are out"."""

from __future__ import annotations

import re
from collections.abc import Callable, Mapping, Sequence

from dryquarry.marking.reading.chosen import Chosen
from dryquarry.marking.reading.claims import Claim, Found, Place
from dryquarry.marking.reading.echo import content_of, question_in
from dryquarry.marking.reading.list_exceptions import ASKS_WHICH_NOT
from dryquarry.marking.reading.option_names import THE_OTHERS
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply

LEAST_OPTIONS = 3
FARTHEST_SENTENCES_BACK = 24
# "Only B is no square, so all the others apply", "A and C are wrong, the other two are true"
ALL_OTHERS = regex(
    r"\bthe\s+other(?:s|\s+(?:two|three|ones))\s+(?:are|do|fit|apply|hold)\b(?!n['’]t|\s+not)|"
    r"\b(?:every|all)(?:\s+of)?(?:\s+the)?\s+others?\b(?:\s+(?:options?|ones?|numbers?))?",
    re.IGNORECASE,
)
# "It's neither the oak nor the beech nor the birch.", its options left out
_NEITHER = regex(
    r"\W*(?:so\s+)?(?:(?:it|that|this|the\s+(?:right\s+|correct\s+)?answer)(?:['’]s|\s+is|\s+was|\s+can(?:not|['’]t)\s+be)\s+)?"
    r"neither(?:\W|\b(?:the|an?|nor|or|and)\b)*(?:(?:has|have|had|is|was|does|did|can|could)\b[^,;.]{0,30}\W*)?",
    re.IGNORECASE,
)
# "Not 21, not 27, but the other two."
_BUT_THE_OTHERS = regex(
    r"(?:\bnot\b|n['’]t\b|\bneither\b).*\bbut\s+(?:rather\s+)?(?:all\s+)?(?:the\s+)?others?\b(?!\s+(?:one\s+)?(?:is|are|does|do)\b)",
    re.IGNORECASE | re.DOTALL,
)
# "21 and 27 can be divided by 3, so they are out."
_SO_THEY_ARE_OUT = regex(
    r"\b(?:so|hence|therefore|thus|which\s+means)\s+(?:that\s+)?(?:they|these|those|both|it|that)(?:['’](?:re|s)|\s+(?:are|is|can\s+be|fall|drop))\s+"
    r"(?:both\s+|all\s+)?(?:out|wrong|excluded|eliminated|ruled\s+out|no\s+good|discarded)\W*\Z",
    re.IGNORECASE,
)
# "It cannot be Monday, Tuesday or Thursday, so only one day is left."
_ONE_IS_LEFT = regex(
    r"\b(?:so|which\s+means|hence)\s+(?:only\s+|just\s+)?one\s+(?:[^\W\d_]+\s+)?(?:is\s+left|remains)\W*\Z",
    re.IGNORECASE,
)
# "Only A is not longer than 100 minutes."
_ONLY_IS_NOT = regex(
    r"\W*only\s+(?:option\s+)?[^,;:.]{1,60}?\s(?:is|are|was|were|does|do|did|can)(?:\s+not|n['’]t)\b", re.IGNORECASE
)
# "Ada's and Cleo's are open, so by elimination it's the other one."
_THE_OTHER_ONE = regex(
    r"\b(?:so|hence|therefore|thus|leaves|elimination)\b[^.;]*?\bthe\s+(?:other|third|fourth|remaining|last)\s+one\b",
    re.IGNORECASE,
)
_DENIES = regex(r"\b(?:not?|none|never|neither|nor|cannot)\b|n['’]t\b", re.IGNORECASE)


# "Of Lina and Marek, one always tells the truth and the other always lies."
_PAIR = regex(r"\bof\s+(?P<one>[A-Z]\w+)\s+and\s+(?P<two>[A-Z]\w+),\s+one\b", re.IGNORECASE)
_THE_OTHER = regex(r"\b(?:the\s+other(?:\s+one)?|his\s+friend|her\s+friend)\s+(?P<does>[^.;:]{3,60})", re.IGNORECASE)


def _other_of_pair(text: str, start: int, end: int, texts: Mapping[str, str], asked: str) -> frozenset[str]:
    """Return the option of whom a stretch names as the other of two, who does what is asked for; none else.

    "Marek must be the liar, and the other tells the truth", where it is asked who tells the truth.
    """
    pair, other = _PAIR.search(asked), _THE_OTHER.search(text, start, end)
    if pair is None or other is None or _DENIES.search(other["does"]):
        return frozenset()
    told = content_of(other["does"])
    said = {name for name in pair.groups() if re.search(rf"\b{name}\b", text[start : other.start()])}
    left = [name for name in pair.groups() if name not in said]
    if len(left) != 1 or not told or not told <= content_of(question_in(asked)):
        return frozenset()
    return frozenset(letter for letter, one in texts.items() if one.strip() == left[0])


def left_over(
    text: str, start: int, end: int, named: Sequence[Found[Chosen]], texts: Mapping[str, str], asked: str
) -> frozenset[str]:
    """Return the letters of the options that are left once a stretch has put out those that it names; none else."""
    if other := _other_of_pair(text, start, end, texts, asked):
        return other
    letters = frozenset(texts)
    out = frozenset(letter for one in named for letter in one.value.letters)
    left = letters - out
    if not out or not left or len(letters) < LEAST_OPTIONS:
        return frozenset()
    alone = len(left) == 1
    bounds = [start, *(place for one in named for place in (one.start, one.end)), end]
    beside = " ".join(text[first:last] for first, last in zip(bounds[::2], bounds[1::2], strict=True))
    neither = alone and _NEITHER.fullmatch(beside) and not _DENIES.search(question_in(asked))
    others = _BUT_THE_OTHERS.search(text, start, end)
    shut_out = (alone or not asks_one(asked)) and _SO_THEY_ARE_OUT.search(text, start, end)
    other_one = alone and _THE_OTHER_ONE.search(text, named[-1].end if named else start, end)
    one_left = alone and _DENIES.search(text, start, end) and _ONE_IS_LEFT.search(text, start, end)
    only = not (asks_one(asked) or ASKS_WHICH_NOT.search(question_in(asked))) and _ONLY_IS_NOT.match(text, start, end)
    return left if neither or others or shut_out or only or one_left or other_one else frozenset()


# "The remaining one it must be.", "That leaves just one."
_ONE_REMAINS = regex(
    r"\b(?:the\s+(?:only\s+)?(?:remaining|last|other)\s+(?:one|option|possibility|choice)|(?:only|just)\s+one\s+(?:[^\W\d_]+\s+)?(?:remains|is\s+left)|"
    r"(?:leaves|leaving)\s+(?:only|just)\s+one|the\s+(?:only\s+)?one\s+(?:that(?:['’]s|\s+is)\s+)?left)\b",
    re.IGNORECASE,
)
_SHUT_OUT = regex(
    r"\b(?:not?|none|never|cannot|wrong|false|incorrect|impossible|out|excluded|eliminated|neither|nor|fails?)\b|n['’]t\b",
    re.IGNORECASE,
)


def left_by_sentences(
    reply: Reply, place: Place, named_in: Callable[[int], frozenset[str]], letters: frozenset[str], asked: str
) -> tuple[frozenset[str], int, int] | None:
    """Return the letters of the options that the sentences before do not shut out, and where a stretch speaks of them.

    "Ben has no key. The other two can.", "A is out, and B is impossible. The remaining one it must be."
    `named_in` tells the letters of the options that a sentence names.
    """
    others = THE_OTHERS.match(reply.text, place.start, place.end)
    remains = None if others else _ONE_REMAINS.search(reply.text, place.start, place.end)
    said = others or remains
    if said is None or (remains and _DENIES.search(reply.text, place.start, place.end)):
        return None
    farthest = 1 if others else FARTHEST_SENTENCES_BACK
    earlier = range(max(0, place.sentence - farthest), place.sentence)
    behind = content_of(reply.text[others.end() : place.end]) if others else frozenset()
    so = bool(behind) and behind <= content_of(question_in(asked))  # "21 and 45 are odd. The other two are even."
    shut_out = [number for number in earlier if so or _SHUT_OUT.search(reply.sentences[number].text)]
    out = frozenset(letter for number in shut_out for letter in named_in(number))
    left = letters - out
    return (left, *said.span()) if out and left and (others or len(left) == 1) else None


_ASKS_ONE = regex(
    r"\b(?:which|what)\s+(?:one\s+)?(?:of\s+(?:these|them|the\s+following|those)\s+)?(?:[^\W\d_]+\s+)?(?:is|has|was|does|can|must)\s",
    re.IGNORECASE,
)
_ASKS_ALL = regex(r"\ball\s+that\b|\ball\s+which\b|\bwhich\s+(?:ones|two|three)\b", re.IGNORECASE)


def asks_one(asked: str) -> bool:
    """Tell whether just one option is asked for: "Which of these is a conifer?"."""
    return _ASKS_ONE.search(question_in(asked)) is not None and _ASKS_ALL.search(asked) is None


# "oak, beech and birch"
_JOINED = regex(r"[\s)\]]*(?:,|,?\s*(?:and|or|nor)\b|&)\s*[(\[]?(?:the\s+|an?\s+)?", re.IGNORECASE)


def the_single_one(text: str, claims: list[Claim[Chosen]], asked: str) -> list[Claim[Chosen]]:
    """Keep the option named alone beside several that are named together, where one is asked for.

    "Oak, beech and birch shed their leaves; spruce has needles."
    """
    groups: list[list[Claim[Chosen]]] = []
    for claim in claims:
        if groups and _JOINED.fullmatch(text, groups[-1][-1].end, claim.start):
            groups[-1].append(claim)
        else:
            groups.append([claim])
    single = [group for group in groups if len(group) == 1]
    several = len(groups) == 2 and len(single) == 1 and len(claims) > 2
    return single[0] if several and asks_one(asked) else claims


_ASKS_SEVERAL = regex(r"\ball\s+that\s+apply\b|\bwhich\s+of\s+(?:these|the)\s+[^?]*\bare\s", re.IGNORECASE)
_ONLY_SO_MUCH = regex(r"\b(?:is|are|has|takes|makes)\s+(?:only|just|merely)\s+\d", re.IGNORECASE)


def falls_short(sentence: str, asked: str) -> bool:
    """Tell whether a sentence says that an option is too little, where several are asked for: "A is only 90 min."."""
    return _ONLY_SO_MUCH.search(sentence) is not None and _ASKS_SEVERAL.search(asked) is not None


_THAT_IS = regex(r"\W*all\s+(?:but|except)\s[^,;.]{1,60},\s+(?:i\.\s?e\.|that\s+is),?\s+(?=\S)", re.IGNORECASE)


def behind_that_is(text: str, start: int, end: int) -> int:
    """Return where a stretch says in other words what it told: "three" of "all but the lamp, i.e. three"."""
    said = _THAT_IS.match(text, start, end)
    return said.end() if said else start


def lists_texts(text: str, letter: Found[Chosen], one: Found[Chosen], found: Sequence[Found[Chosen]]) -> bool:
    """Tell whether brackets after several letters list the texts of all of them: "A, C, D (9, 25, 36)"."""
    close = text.find(")", one.end)
    within = [other for other in found if one.start <= other.start < close]
    return "(" in text[letter.end : one.start] and len(within) > 1 and all(other.value.by_text for other in within)


_GOES_ON = regex(r"\s+(?:has|have|is|are|was|does|needs|gives|would)\b", re.IGNORECASE)


def tells_of_another(text: str, beside: str, end: int) -> bool:
    """Tell whether the text of an option begins a sentence of its own behind a letter: "C. The hexagon has six."."""
    return beside.startswith(". ") and _GOES_ON.match(text, end) is not None
