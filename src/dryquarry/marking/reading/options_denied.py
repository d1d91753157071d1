"""Options that are denied behind their name, "A isn't, B is", and those that are only weighed: "between C and D"."""

from __future__ import annotations

import re

from dryquarry.marking.reading.chosen import Chosen
from dryquarry.marking.reading.claims import Claim, Found, Place
from dryquarry.marking.reading.echo import echo, is_echo, question_in
from dryquarry.marking.reading.list_exceptions import ASKS_WHICH_NOT
from dryquarry.marking.regexes import regex

# "A isn't", "the turtle is not a mammal", and not "B is not excluded"
_DENIED = regex(
    r"(?:\s*=\s*[^\s;,]+(?:\s[·×*]\s[^\s;,]+)*)?[\s)\]*\"']*\s(?:(?:is|are|was|were|does|do|did|has|have|would|could|will|need|must)(?:n['’]t|\s+not)|"
    r"(?:is|are|was|were)\s+(?:taken\s+out|removed|gone)|can(?:not|['’]t|\s+not)|(?:does|do)(?:n['’]t|\s+not)\s+have\s+to|"
    r"is\s+the\s+[^\W\d_]+\s+(?:that\s+)?(?:s?he|it|one|you|they)\s+(?:cannot|can['’]t|must\s+not))\b"
    r"(?!\s+(?:(?:be|been)\s+)?(?:only|just|excluded|ruled|wrong|out|eliminated|impossible|false|contradicted|denied))",
    re.IGNORECASE,
)
_ASKS_HONEST = regex(r"\b(?:tells?\s+the\s+truth|honest|truthful)\b", re.IGNORECASE)
_LIES = regex(
    r"[\s)]*\s(?:(?:must\s+be|is)\s+(?:the\s+|a\s+)?(?:liar|lying|dishonest)|(?:always\s+|also\s+)?lies|must\s+lie|lied)\b",
    re.IGNORECASE,
)


def without_liars(text: str, claims: list[Claim[Chosen]], asked: str) -> list[Claim[Chosen]]:
    """Leave out who is said to lie, where it is asked who tells the truth: "It's not A. Lina lies as well."."""
    if not _ASKS_HONEST.search(question_in(asked)):
        return claims
    return [claim for claim in claims if not _LIES.match(text, claim.end)]


_ASKS_MORE_THAN = regex(r"\b(?P<more>[^\W\d_]{2,}er)\s+than\b", re.IGNORECASE)


def that_are_more(text: str, claims: list[Claim[Chosen]], asked: str) -> list[Claim[Chosen]]:
    """Keep those of which the question's comparative is told, where another is told of others.

    "B, C and D are shorter than 100 minutes, A is longer", where it is asked which are longer.
    """
    more = _ASKS_MORE_THAN.search(question_in(asked))
    if more is None or len(claims) < 2:
        return claims
    says = [_SAYS_MORE.search(text, claim.end, claim.end + 60) for claim in claims]
    if None in says or len({one["more"].lower() for one in says if one}) < 2:
        return claims
    own = [
        claim for claim, one in zip(claims, says, strict=True) if one and one["more"].lower() == more["more"].lower()
    ]
    return own or claims


_SAYS_MORE = regex(r"\b(?:is|are)\s+(?:all\s+|both\s+)?(?P<more>[^\W\d_]{2,}er)\b", re.IGNORECASE)
# "B is", "the dolphin does": what was denied of the other
_AFFIRMED = regex(r"[\s)\]*\"']*\s(?:is|are|was|were|does|do|did|has|have|can|must)\b(?!\s+not\b|['’]t)", re.IGNORECASE)
_AND = regex(
    r"(?:\s*=\s*[^\s;,]+(?:\s[·×*]\s[^\s;,]+)*)?[\s)\]]*(?:,|,?\s*(?:and|or|nor)|&)\s*[(\[]?(?:the\s+|an?\s+)?",
    re.IGNORECASE,
)
# "C and D remain, and C follows."
_REMAIN = regex(r"[\s)\]]*\s(?:remain|are\s+left|are\s+possible)\b", re.IGNORECASE)
_BETWEEN = regex(r"\bbetween\s+(?:options?\s+|the\s+)?[(\[]?\Z", re.IGNORECASE)


def denied_behind(text: str, claims: list[Claim[Chosen]], asked: str) -> list[Claim[Chosen]]:
    """Keep what is so of "A isn't, B is"; what is not, where it is asked which is not."""
    claims = that_are_more(text, without_liars(text, claims, asked), asked)
    denied = [_DENIED.match(text, claim.end) is not None for claim in claims]
    for number in reversed(range(len(claims) - 1)):  # "A and B aren't"
        joined = _AND.fullmatch(text, claims[number].end, claims[number + 1].start)
        denied[number] = denied[number] or (joined is not None and denied[number + 1])
    if not any(denied) or all(denied):
        return claims
    ends = [*(claim.start for claim in claims[1:]), len(text)]
    affirmed = [
        _AFFIRMED.match(text, claim.end) is not None or (not out and echo(text[claim.end : end], asked) > 0)
        for claim, end, out in zip(claims, ends, denied, strict=True)
    ]
    wanted = ASKS_WHICH_NOT.search(question_in(asked)) is not None
    if wanted and not any(affirmed):
        return claims
    return [claim for claim, one in zip(claims, denied, strict=True) if one == wanted]


_SAYS_NOT = regex(r"\b(?:not?|none|never|neither|nor|only|but|except)\b|n['’]t\b", re.IGNORECASE)


_QUOTED = regex(r"['‘“\"][A-Z][^'’”\"]*['’”\"]")


def left_by_others(text: str, end: int, named: list[Found[Chosen]], letters: frozenset[str], asked: str) -> str | None:
    """Return the one option of which nothing is said in "A, C and D do", where it is asked which does not."""
    if not named or not ASKS_WHICH_NOT.search(_QUOTED.sub("", question_in(asked))):
        return None
    out = letters - {letter for one in named for letter in one.value.letters}
    if len(out) != 1 or len(letters) < 3 or _SAYS_NOT.search(text, named[0].start, end):
        return None
    behind = text[named[-1].end : end]
    return next(iter(out)) if echo(behind, asked) > 0 or _AFFIRMED.match(behind) else None


# "All but B are wrong"
ARE_WRONG = regex(
    r"[\s)]*(?:is|are|can\s+be|must\s+be)\s+(?:\w+\s+)?(?:wrong|false|incorrect|out|excluded|"
    r"eliminated|discarded|impossible|ruled\s+out)\b",
    re.IGNORECASE,
)
# "Every gate but the north one is shut.", where it is asked which of them lets her in
_SHUT_OUT = regex(
    r"[\s)]*(?:one\s+)?(?:is|are)\s+(?:\w+\s+)?(?P<what>shut|closed|locked|blocked|barred|taken|used|occupied|dead|broken|"
    r"missing|false|excluded)\b",
    re.IGNORECASE,
)


def are_shut_out(text: str, start: int, end: int, asked: str) -> bool:
    """Tell whether all but one are something that shuts them out: "Every gate but the north one is shut"."""
    said = _SHUT_OUT.match(text, start, end)
    return said is not None and not is_echo(said["what"], question_in(asked))


def weighed(text: str, place: Place, claims: list[Claim[Chosen]]) -> list[Claim[Chosen]]:
    """Leave out the two between which a stretch decides: "Between C and D, C."."""
    if len(claims) < 3:
        return claims
    for number, claim in enumerate(claims[:-2]):
        left = _REMAIN.match(text, claims[number + 1].end)
        both = _AND.fullmatch(text, claim.end, claims[number + 1].start)
        if both and (left or _BETWEEN.search(text, max(place.start, claim.start - 24), claim.start)):
            return claims[:number] + claims[number + 2 :]
    return claims
