"""What a clause sets aside: what it calls wrong, denies or takes back, and what says nothing of the answer at all."""

from __future__ import annotations

import re
from dataclasses import dataclass
from functools import cache

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.claims import Place
from dryquarry.marking.reading.echo import asks_yes_or_no, question_in
from dryquarry.marking.regexes import regex

LONGEST_DENIAL = 60
IT_IS = regex(
    r"\W*(?:it|that|this)(?:'s|\s+(?:is|was|must\s+be|has\s+to\s+be|c(?:an|ould)\s+only\s+(?:be|have\s+been)|must\s+have\s+been))\s",
    re.IGNORECASE,
)
# "They're wrong; Osten's is."
_ONLY_JUDGES = regex(
    r"\W*(?:they|that|this|it|he|she|you|which)(?:'re|'s|\s+(?:is|are|was|were))\s+(?:all\s+|both\s+|quite\s+)?"
    r"(?:wrong|mistaken|false|incorrect|not\s+(?:so|true|right)|untrue)\W*|"
    r"\W*(?:and\s+)?that(?:'s|\s+is)\s+(?:all|it|that|why|how|what\s+was\s+asked)\b.*|\W*(?:(?:yes|and|so),?\s+)?that's\s+(?:right|correct|true)\W*|"
    r"\W*(?:the|this|that|it)\s+(?:\w+\s+)?(?:says?|tells?|shows?|states?)\s+(?:us\s+)?(?:so|it|that|this)\W*|\W*that(?:\s+one)?(?:'s|\s+is)\s+(?:easy|simple|clear|obvious)\W*|\W*(?:it|that|this)(?:\s+(?:is|was)n't|'s\s+not|\s+(?:is|was)\s+not)\W*",
    re.IGNORECASE,
)
# "…, and so does Vienna further down": somebody else of whom the same is so
_SO_DOES = regex(
    r"\W*(?:and\s+)?so\s+(?:do|does|did|is|are|was|were|has|have|had)\s|"
    r"\W*(?:and\s+)?(?:it|he|she|they|that)\s+(?:still|always|also)\s+(?:do|does|did|is|are|was|were|has|have|had)(?:\s+(?:so|today|now))?\W*\Z",
    re.IGNORECASE,
)
# "…, but I'm not entirely sure": says how sure a reply is, and names nothing
_CONFIDENCE = regex(
    r"\W*(?:(?:but|though|although|and)\s+)?(?:i(?:'m| am)\s+(?:not\s+)?"
    r"(?:\w+\s+|\d+\s?%\s+){0,2}?(?:sure|certain|confident|positive)\b(?!,?\s+(?:that\s+)?(?:it|this)(?:'s|\s+is)\s)|"
    r"i (?:could|might|may) be (?:wrong|mistaken)|please (?:check|verify)|don't quote me|that's (?:only|just) a guess)",
    re.IGNORECASE,
)
# "Wrong: the swift"
_CALLED_WRONG = regex(r"(?:^|[.;\n])\W*(?:wrong|incorrect|false)\s*:\s*\Z", re.IGNORECASE)
_IT_IS_NOT = regex(
    r"\W*(?!(?:but|and|though|yet|because|as|so)\b)\S[^,]{0,60}?\sit\s+(?:is|was)(?:n't|\s+not)\W*\Z", re.IGNORECASE
)
# "the swift (wrong), the tern (right)", "first I had the swift, now I have the tern"
_SET_ASIDE = regex(
    r"(?P<said>[^,;:()]{1,60}\s\((?:wrong|incorrect|false)\)|first,?\s+i\s+(?:had|got|thought|wrote|said)\s[^,;:]{1,60})[,;]\s+(?:but\s+|and\s+)?"
    r"(?:now\s+(?:i\s+(?:have|get|think|say)\s+|it's\s+|it\s+is\s+))?(?=\S)",
    re.IGNORECASE,
)
# "The swift is incorrect.", "the swift (wrong)"
_IS_WRONG = regex(
    r"\W*(?:(?:oops|sorry|no|wait|well|hmm+),?\s+)?(?:(?!\s(?:is|was|and|but|or)\s)[^,;:]){1,60}?(?:\s(?:is|was|would\s+be)\s+(?:quite\s+|simply\s+)?(?:wrong|incorrect|false|mistaken|unlikely|impossible|ruled\s+out)|\s\((?:wrong|incorrect|false)\))\W*\Z",
    re.IGNORECASE,
)
# "Canberra until 1927, Melbourne since": what was so is so no longer
_UNTIL_THEN = regex(
    r"[^,;:.]{1,60}\suntil\s[^,;.]{1,40}[,;]\s+(?:and\s+|but\s+)?[^,;.]{1,60}\s(?:since|now|today|nowadays|after\s+that|afterwards|from\s+then\s+on)\W*\Z",
    re.IGNORECASE,
)
# "It would be wrong to say the swift, because the tern flies farther."
_WRONG_BECAUSE = regex(
    r"(?P<wrong>[^,;:]{0,40}?\b(?P<says>(?:wrong|mistake|incorrect|false)\s+to\s+\w+)\s[^,;:]{1,60}?),?\s+(?:because|since|as)\s+",
    re.IGNORECASE,
)
_CROSS = regex("[❌✗✘✖]")
_NEITHER = regex(r"\W*(?:neither|none)(?:\s+of\s+(?:these|those|them))?\W*", re.IGNORECASE)
# "I used to think it's C; it's D."
_USED_TO = regex(
    r"\W*i\s+(?:used\s+to\s+(?:think|believe|say)|(?:first|once|had|initially)\s+(?:thought|believed|said)|thought\s+at\s+first)\b",
    re.IGNORECASE,
)
_ONLY_NO = regex(r"\W*(?:no|nein|non)\W*", re.IGNORECASE)
_FRAGMENT_DENIED = regex(
    r"\W*(?:(?:nope|no|so|thus|hence|then|well),?\s+)?(?:(?:it|that|this|the\s+(?:\w+\s+)?answer)(?:\s+(?:is|was)|'s)(?:n't|\s+not|\s+neither)(?!\s+(?:hard|difficult|surprising))|"
    r"not|no|never|neither|nor|anything but|"
    r"any\w* (?:except|but|other than)|"
    r"everything (?:except|but)|all but|none(?! other than|"
    r"\s+(?:is|lies|comes|goes|stands|are)\b[^,;]*\s(?:than|as)\s)|nicht|kein\w*|pas|ni)\b(?!\s*(?:only|just)\b)(?=\W*\w)",
    re.IGNORECASE,
)


@cache
def _taken_back() -> re.Pattern[str]:
    return cue("withdraws", r"\W*", r"(?!\w)[,:;.!–—\s]*(?=\w)")


@dataclass(frozen=True, slots=True)
class Denial:
    """A stretch that is not so, and the words that say it."""

    start: int
    end: int
    said: str


# "are separated by the Bosporus, not by the Strait of Gibraltar"
_DENIED_AT = regex(
    r"(?:\b(?:not|nor|never|rather\s+than|instead\s+of|unlike)|n['’]t)\s+(?!(?:only|just|merely|until|far|but|surprising\w*)\b)"
    r"(?:(?!(?:but|until|only|before|because|as|if|that|when|so|other|than|else|except)\b)[^\W\d_]+\s+){0,4}\Z",
    re.IGNORECASE,
)


def is_denied_at(text: str, start: int, place: int) -> bool:
    """Tell whether what stands at a place of a clause is denied right before it: "not by the Strait of Gibraltar"."""
    return _DENIED_AT.search(text, start, place) is not None


def says_nothing_of_it(text: str, start: int, end: int, *, alone: bool, telling: bool) -> bool:
    """Tell whether a clause names nothing: a bare "no", a verdict on what was said, how sure the reply is."""
    if not alone and _ONLY_NO.fullmatch(text, start, end):
        return True
    if text[end : end + 1] == ":" and _NEITHER.fullmatch(text, start, end):
        return True  # "Her key? Her comb? Neither: her coin."
    if not (alone and telling) and _ONLY_JUDGES.fullmatch(text, start, end):
        return True
    return not alone and (_CONFIDENCE.match(text, start, end) or _SO_DOES.match(text, start, end)) is not None


# "Is it the Bosporus? No.", where it is asked which strait it is
_YES_OR_NO = regex(r"\W*(?:yes|no|nope|yep|yeah|right|wrong|correct)\W*", re.IGNORECASE)
_ASKS_WHICH = regex(r"\b(?:which|what|who|whom|where|when)\b", re.IGNORECASE)
_OFFERS_IT = regex(r"\b(?:yes|no|nope|right|wrong|correct)\b", re.IGNORECASE)
# "Vilnius? That's Lithuania's.", where it is not asked whose it is
_BELONGS = regex(r"\W*(?:that|this|it)(?:['’]s|\s+is|\s+was)\s+(?:the\s+)?[^\W\d_]+['’]s\W*", re.IGNORECASE)
_ASKS_OWNER = regex(r"\b(?:who|whose|which\s+(?:of|one|person|child|keeper))\b", re.IGNORECASE)


# "After 1871", where the year is asked for
_NOT_IN_IT = regex(
    r"\W*(?:(?:some\s+time|shortly|soon|long|not\s+long)\s+)?(?:after|before|since|until)\s+\d{3,4}\W*", re.IGNORECASE
)
_YES_AND_NO = regex(r"\W*yes\s+and\s+no\W*", re.IGNORECASE)
_ASKS_WHICH_YEAR = regex(r"\b(?:which|what)\s+year\b", re.IGNORECASE)


def answers_none_such(text: str, start: int, end: int, asked: str) -> bool:
    """Tell whether a clause answers no question of its kind: a bare "No" none for a name, "Oda's" none for a thing."""
    question = question_in(asked)
    if _YES_AND_NO.fullmatch(text, start, end):
        return True
    if _NOT_IN_IT.fullmatch(text, start, end) and _ASKS_WHICH_YEAR.search(question):
        return True
    if _BELONGS.fullmatch(text, start, end) and not _ASKS_OWNER.search(question):
        return True
    if _YES_OR_NO.fullmatch(text, start, end) is None or asks_yes_or_no(asked):
        return False
    return _ASKS_WHICH.search(question) is not None and not _OFFERS_IT.search(asked)


def behind_withdrawal(text: str, start: int, end: int) -> int:
    """Return where a clause begins behind words that take back what was said before it: "no, wait, the tern"."""
    said = _taken_back().match(text, start, end)
    return said.end() if said and said.end() < end else start


def set_aside(text: str, place: Place, start: int, end: int) -> tuple[list[Denial], int | None]:
    """Return what a clause sets aside, and where what it says instead begins; None where it says nothing else."""
    found = []
    if (first := _SET_ASIDE.match(text, start, end)) is not None:
        found.append(Denial(start, first.end("said"), first["said"]))
        start = first.end()
    # "crane (heron ✗, stork ✗)": what is crossed in brackets is not what stands before them
    beside = text.find("(", start + 1, end)
    before = beside if beside > 0 and text[start:beside].strip() else end
    crossed = _CROSS.search(text, start, before) or _CALLED_WRONG.search(text[place.start : start])
    crossed = crossed or _IT_IS_NOT.match(text[start:end])
    if crossed is None and re.search(r"\w", text[end : place.end]):
        crossed = _USED_TO.match(text, start, end)
    crossed = crossed or _IS_WRONG.match(text, start, end) or _UNTIL_THEN.match(text, start, place.end)
    if crossed is not None:
        return [*found, Denial(start, min(end, start + LONGEST_DENIAL), crossed.group())], None
    if _FRAGMENT_DENIED.match(text, start, end) and not _is_word_no(text[start:end]):
        denies = cue("denies").search(text, start, end)
        said = denies.group() if denies else text[start:end].split()[0]
        found.append(Denial(start, min(end, start + LONGEST_DENIAL), said))
        named = _after_denial(text, start, end)
        if named is None:
            return found, None
        start = named
    if (reason := _WRONG_BECAUSE.match(text, start, end)) is not None:
        found.append(Denial(start, reason.end("wrong"), reason["says"]))
        start = reason.end()
    return found, start


def _is_word_no(text: str) -> bool:
    """Tell whether a clause is the answer "no"."""
    return (
        re.fullmatch(r"\W*(?:no|nein|non|none|neither|never)\W*(?:[,.;:].*)?", text.strip(), re.IGNORECASE | re.DOTALL)
        is not None
    )


def _after_denial(text: str, start: int, end: int) -> int | None:
    """Return where what stands begins after "No," or after the "but" of a denial; None where nothing does."""
    said = re.compile(r"\W*(?:no|nein|non)\b[,.:]\s+", re.IGNORECASE).match(text, start, end)
    if said is None:  # "it isn't the swift, it's the tern"
        said = re.compile(r"[^,;]{1,80}[,;]\s+(?=(?:it|that|this)(?:'s|\s+(?:is|was))\s)", re.IGNORECASE).match(
            text, start, end
        )
    if said is None:
        return None
    it_is = IT_IS.match(text, said.end(), end)
    return it_is.end() if it_is else said.end()
