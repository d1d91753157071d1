"""How what is said is meant: denied, supposed, reported, withdrawn, asked, a bound, an aside, or asserted.

The words around a value decide, within the part of the sentence that they reach; which words those are is data (see
`cues`). The rules are looked at in the order of `_RULES`; the first that holds gives the stance.
"""

from __future__ import annotations

import re
from collections.abc import Callable, Sequence
from dataclasses import dataclass, field
from functools import lru_cache

from dryquarry.marking.cues import cue, last_cue, may_hold
from dryquarry.marking.reading.bounds import FARTHEST_BOUND, bound_in
from dryquarry.marking.reading.claims import Stance
from dryquarry.marking.reading.echo import is_echo, question_in
from dryquarry.marking.regexes import regex

LONGEST_REACH = 160
SHORTEST_CLAUSE = 4
_SENTENCE_END = regex(r"[.!?…]+[\"')\]]*\s+(?=[\"'(\[*]?[A-ZÀ-Þ0-9])|\n")
_PART_END = regex(
    r"[;()\[\]—]|,\s(?=(?:and|or)\s(?:if|had|were|should|another|a\sfurther)\b)|\s[–-]\s|:\s|"
    r",?\s(?=(?:but|however|whereas|although|though|yet|while|so|and so|"
    r"and it|and the answer|and not|sondern|aber|mais|sino|pero)\b)",
    re.IGNORECASE,
)
_QUESTION = regex(r"[^.!?\n]{0,200}\?")
# "It's the tern, isn't it?" asks nothing
TAG_QUESTION = regex(
    r",\s*(?:(?:is|was|are|were|does|do|did|has|have|would|could|can)n't\s+(?:it|that|he|she|they|there|I|we|you)|right|no|correct)\s*\?",
    re.IGNORECASE,
)
# "C? Ivo > Nela > Tom, so yes."
SO_YES = r"[^?\n]{1,80}[,;:–—]\s*(?:so|and so|hence|therefore|then),?\s+yes\W*"
_YES = regex(rf"\?[\"')*]*\s*(?:(?:yes|right|correct|exactly|indeed|ja|oui|sí)\b|{SO_YES}(?:\n|\Z))", re.IGNORECASE)


@dataclass(frozen=True, slots=True)
class Around:
    """A value in its surroundings: the text, the stretch that is looked at, and where in it the value stands.

    `before` and `after` are what stands before and after it in its own sentence. `asked` is the question, `lists`
    tells that a denial reaches through the commas of a list.
    """

    text: str
    low: int
    high: int
    start: int
    end: int
    asked: str = ""
    lists: bool = False
    before: str = field(init=False)
    after: str = field(init=False)

    def __post_init__(self) -> None:
        stretch = self.text[max(self.low, self.start - 400) : self.start]
        ends = list(_SENTENCE_END.finditer(stretch))
        object.__setattr__(self, "before", stretch[ends[-1].end() :] if ends else stretch)
        stretch = self.text[self.end : min(self.high, self.end + 400)]
        end = _SENTENCE_END.search(stretch)
        object.__setattr__(self, "after", stretch[: end.end()] if end else stretch)

    @property
    def sentence(self) -> str:
        """The sentence of the value."""
        return self.before + self.text[self.start : self.end] + self.after

    @property
    def part(self) -> str:
        """The part of the sentence in which the value stands, the value with it."""
        before, after = self.before, self.after
        start = max((match.end() for match in _PART_END.finditer(before)), default=0)
        end = _PART_END.search(after)
        return before[start:] + self.text[self.start : self.end] + (after[: end.start()] if end else after)


# "Everyone says the Caspian Sea, and everyone is right.", "I doubted that it was, but it is."
_CONFIRMED = regex(
    r"\A,\s+(?:and\s+(?:they|everyone|everybody|people|he|she|rightly)(?:\s+(?:is|are|was|were)\s+(?:right|correct)|\s+so)?|"
    r"but\s+it\s+(?:really\s+|actually\s+|indeed\s+)?(?:is|was|does))\W*\Z",
    re.IGNORECASE,
)


def stance_of(around: Around) -> tuple[Stance, str]:
    """Return how a value is meant, and the words that tell it."""
    confirmed = _CONFIRMED.search(around.after) is not None
    for stance, rule in _RULES:
        if confirmed and stance in (Stance.DENIED, Stance.REPORTED):
            continue
        said = rule(around)
        if said:
            return stance, said.strip()
    return Stance.ASSERTED, ""


def _asked(around: Around) -> str | None:
    match = _QUESTION.match(around.after)
    if match and TAG_QUESTION.search(around.text, around.start, around.end + match.end()):
        return None  # "It's the tern, isn't it?"
    answered = match and (
        _YES.match(around.text, around.end + match.end() - 1) or cue("proposes", r"^\W*").match(around.sentence)
    )
    return "?" if match and not answered else None


def _bound(around: Around) -> str | None:
    return bound_in(around.before[-FARTHEST_BOUND:], around.text[around.start : around.end], around.after, around.asked)


# "every metal but copper", unless it is asked which is not so
_EXCEPTED = regex(
    r"\b(?:every|all|any|each)(?!(?:thing|one|body)\selse)\w*(?:\s\w+){0,2}\s(?:but|except(?:\sfor)?|save)\s(?:the\s|an?\s)?\Z",
    re.IGNORECASE,
)
_ASKS_ODD = regex(r"\b(?:not?|odd|never|differ\w*|except\w*|without)\b|n't\b", re.IGNORECASE)


_AS_MANY_THINK = regex(
    r",\s+(?:as|like|which|what)\s+(?:many|most|some|people|one|you|everybody)\b[^:;.]{1,40}[:–—]\s", re.IGNORECASE
)
_THEN_IT_IS = regex(r"\s+[€$£]?\d[\d.,]*\s+(?:it|he|she|they|that|this|there)\s", re.IGNORECASE)


def _denied(around: Around) -> str | None:
    before = around.before
    excepted = _EXCEPTED.search(before)
    if excepted and not _ASKS_ODD.search(around.asked):
        return excepted.group()
    last = last_cue("denies", before) if may_hold("denies", around.sentence) else None
    if last is None or len(before) - last.end() > LONGEST_REACH:
        return None
    reach = before[last.end() :]
    if _AS_MANY_THINK.search(reach):
        return None  # "Not the liver, as many think: the skin."
    if last.group().lower().endswith("from") and re.search(r"\sto\s", reach):
        return None  # "I change my answer from the swift to the tern"
    named = (
        re.fullmatch(r"[^:;.!?—]*:\s+(?:the |an? )?", reach)
        and not _is_another(reach, around.asked)
        and len(around.text[around.start : around.high].split()) <= SHORTEST_CLAUSE
    )
    said_yes = _YES_OR_NO.fullmatch(around.text[around.start : around.end]) and ":" in reach
    if re.search(r"[;.!?:—]\s|\s[–-]\s|\)", reach) and (said_yes or not named):
        return None
    if cue("but", r"(?:,\s*|\s)", r"(?!\w)").search(reach):
        return None
    if last.group().lower() == "instead of" and _THEN_IT_IS.match(reach):
        return None  # "Instead of 80 it costs 68."
    if re.search(r",\s+(?:we|i|you|it|that|this|only)\b(?!\s+(?:or|nor)\b)", reach, re.IGNORECASE):
        return None
    if _ONE_WHO.match(before) and _THEN_IS.search(reach):
        return None  # "the only one who can't is Birk"
    if re.search(r",\s+(?:in\s+other\s+words|that\s+is|i\.e\.|which\s+means)\b", reach, re.IGNORECASE):
        return None
    if reach.startswith(":") and last.group().lower() == "neither":
        return None  # "Her key? Her comb? Neither: her coin."
    if ":" in reach and _NOT_THIS_NOT_THAT.match(before):
        return None  # "Not lead, not zinc: copper"
    if ":" in reach and _IT_IS_BEHIND.match(around.after):
        return None  # "nor that it will not: C it is"
    if re.search(r"\w:\s", reach) and last.group().lower() == "instead of":
        return None  # "It swims instead of flying: the penguin."
    if "," in reach and _INSTEAD.match(last.group()):
        return None  # "unlike the swift, the tern is right"
    if "," in reach and _DOES.match(around.after):
        return None  # "the swift doesn't fit, the tern does"
    relative = _THAT_IS.search(before[: last.start()])
    if ("," in reach and (relative or _SINCE.match(before))) or (relative and re.search(r"\w:\s", reach)):
        return None  # "the only gate that is not shut, the north gate", "since it is not a gannet, a heron"
    if not around.lists and re.search(r",(?!\s*(?:or|nor)\b)", reach):
        return None
    return last.group()


# "not C: D", "not the attic: the boathouse", "not the Sea of Azov: the Caspian"
_OTHER_NAMED = regex(
    r"\s*(?:(?:the\s+)?[A-Z0-9]\w*(?:\s+(?:of\s+(?:the\s+)?)?[A-Z]\w*)*|(?:the\s+|an?\s+)?(?!these\b|those\b|one\b|the\b|any\b)[\w'-]+(?:\s(?!of\b|following\b)[\w'-]+)?)\s*:"
)


_ONE_WHO = regex(r"\W*(?:so\s+)?(?:the\s+)?(?:only\s+)?(?:ones?|person|people)\s+(?:who|that|which)\b", re.IGNORECASE)
_THEN_IS = regex(r"\b(?:is|was|are|were)\s+(?:the\s+)?\Z", re.IGNORECASE)
_SINCE = regex(r"\W*(?:since|as|because|given\s+that)\b[^,]*,(?!\s*(?:nor|or|and)\b)", re.IGNORECASE)
_THAT_IS = regex(r"\b(?:that|which|who)\s+(?:(?:is|are|was|were|has|does|can|do)\s*)?\Z", re.IGNORECASE)
_NOT_THIS_NOT_THAT = regex(
    r"\W*(?:not\s+[^,:]{1,40},\s+(?:and\s+)?(?:not|nor)\s+[^,:]{1,40}|neither\s+[^,:]{1,40}\s+nor\s+[^,:]{1,40}):\s",
    re.IGNORECASE,
)
_IT_IS_BEHIND = regex(r"[\"')\s]*it\s+is\b", re.IGNORECASE)
_INSTEAD = regex(r"(?:unlike|instead|rather|far\s+from|as\s+opposed)\b", re.IGNORECASE)
_DOES = regex(
    r"\s+(?:does|is|did|can|do|was|are|were|remains?|stays?|fits?|works?|holds?|wins?)\b(?!n't|\s+not)", re.IGNORECASE
)


# "It isn't called so for nothing: yes."
_YES_OR_NO = regex(r"(?:yes|no)\W*", re.IGNORECASE)


def _is_another(reach: str, asked: str) -> bool:
    """Tell whether what is denied before a colon is another answer, and not what follows: "not C: D"."""
    match = _OTHER_NAMED.match(reach)
    words = match.group().rstrip(": ").split() if match else []
    return bool(words) and not (words[-1].islower() and is_echo(words[-1], asked))


# "−2, at first sight; in fact 8"
_AT_FIRST = regex(
    r"[,\s]+at\s+first\s+(?:sight|glance)\b(?=[^\n]*\b(?:in\s+fact|but|really|actually)\b)", re.IGNORECASE
)
# "✗ 62", "62 (wrong)"
_CROSSED = regex(r"\W*[❌✗✘✖]\s*(?![^\n]*[✅✓✔])")
_WRONG_IN_BRACKETS = regex(r"[\"'\s]*\((?:wrong|incorrect|false|not\s+(?:right|correct|so))\)", re.IGNORECASE)


def _wrong(around: Around) -> str | None:
    """Tell whether it is said right after a value that it is not so, or a cross stands before it."""
    after = around.after
    crossed = _CROSSED.match(around.text, around.low, around.start + 1) or _WRONG_IN_BRACKETS.match(after)
    crossed = crossed or _AT_FIRST.match(after)
    if crossed is not None:
        return crossed.group().strip()
    noun = r"(?:[^\W\d_]+\s){0,2}?" if around.text[around.end - 1].isdecimal() else ""
    if around.text[around.end - 1].isalpha() and (does_not := _DOES_NOT.match(after)) is not None:
        return None if _NOT.search(question_in(around.asked)) else does_not.group()
    match = cue("wrong", rf"^[\"')\]*\s]*{noun}(?:\([^()]{0, 60}\)\s*|[–:-]\s*\w+,\s(?:so\s)?)?", r"").match(after)
    if match and noun and _ARE_NOT.search(match.group()) and _ASKS_WHICH_NOT.search(around.asked):
        return None  # "18 are altos, 102 are not" where it is asked how many are not
    if match and _denies_what_is_asked(after, match, around.asked):
        return None  # "The miller does not work with fire", where it is asked who does not
    return match.group() if match else None


def _denies_what_is_asked(after: str, said: re.Match[str], asked: str) -> bool:
    """Tell whether words deny of a value just what a question asks of whom it is not so."""
    denial = _DENIAL.search(after, said.start(), said.end())
    if denial is None or not _NOT.search(question_in(asked)):
        return False
    words = re.findall(r"[^\W\d_]+", re.split(r"[,;.:]", after[denial.end() :], maxsplit=1)[0])
    told = [word for word in words if not is_echo(word, "")]
    return not told or any(is_echo(word, asked) for word in told)


_DENIAL = regex(r"\bnot\b|n't\b|\bcannot\b|\bnever\b", re.IGNORECASE)
# "Harn doesn't."
_DOES_NOT = regex(
    r"\s+(?:does|do|did|has|have|can|could|will|would)(?:n't|\s+not)"
    r"(?:\s+(?:have|own|hold|do|know|fit|match)(?:\s+(?:it|them|one|that|any))?)?\W*\Z",
    re.IGNORECASE,
)
_NOT = regex(r"\bnot?\b|n't\b|\bnever\b|\bcannot\b", re.IGNORECASE)
_ARE_NOT = regex(r"\b(?:are|do|were|did|have|can)(?:n't|\s+not)\W*\Z", re.IGNORECASE)
_ASKS_WHICH_NOT = regex(r"\b(?:are|do|were|did|have|can)(?:n't|\s+not)\b", re.IGNORECASE)


# "62 is what most people say, but it's 50"
_IS_SAID = regex(
    r"[\"')\]*\s]*(?:is|was|would\s+be)\s+(?:just\s+|only\s+)?what\s+(?:most|many|some|a\s+few|people|others|everybody|everyone|one|you|beginners)"
    r"(?:\s+people|\s+others)?\s+(?:(?:would|might|may|often|usually|commonly|first|will)\s+)*(?:say|answer|think|believe|guess|expect|assume|get|claim|reply)s?\b",
    re.IGNORECASE,
)


_AS_SAID = regex(r"\bas\s+\Z", re.IGNORECASE)


def _reported(around: Around) -> str | None:
    before = around.before
    if (said := _IS_SAID.match(around.after)) is not None:
        return said.group().strip()
    last = last_cue("reports", before) if may_hold("reports", around.sentence) else None
    value = around.text[around.start : around.end]
    if last is None and around.lists and len(value.split()) > 2 and (inside := last_cue("reports", value)):
        return inside.group() if inside.start() == 0 else None  # "often thought to be in Rome"
    if last is None or last.start() < len(before) - 2 * LONGEST_REACH:
        return None
    if _DRAWS.search(before[: last.start()]):
        return None  # "so one would expect 100"
    if _AS_SAID.search(before[: last.start()]) and ":" in before[last.end() :]:
        return None  # "not Ost, as one might think: it's Tarn"
    reach = before[last.end() :]
    turned = re.search(
        r"[;—]|[,.]?\s(?:but|however|yet|in fact|actually|in reality|though|sondern|aber|mais|pero)\b|"
        r",\s(?:then|now|until)\s|,\s(?:and\s+)?(?:the\s+)?(?:right|correct|real|true|actual|today)\b|"
        r"\b(?:it|that|he|she|answer)(?:'s| is) (?:really|actually)",
        reach,
        re.IGNORECASE,
    )
    if turned or (_CONCEDES.match(before) and re.search(r",\s", reach)):
        return None
    if _AS_ASIDE.match(last.group()) and re.search(r",\s.*:\s", reach):
        return None  # "Not Mull, as many believe, and not Islay: it's Skye."
    return last.group()


# "While the swift is tempting, it's the tern."
_CONCEDES = regex(
    r"\W*(?:while|whilst|although|though|even though|even if|whereas|despite|contrary to|whatever|no matter)\b",
    re.IGNORECASE,
)
_AS_ASIDE = regex(r"as\s", re.IGNORECASE)
_DRAWS = regex(r"\b(?:so|thus|therefore|hence)\W*\Z", re.IGNORECASE)


# "If I had to choose, I'd say the tern."
_POLITE = regex(r"\bif (?:i (?:had|have) to|i must|you (?:ask|asked) me|i were to|pressed|forced)\b", re.IGNORECASE)


# "its top speed may well be 120 km/h"
_MAY_WELL = regex(
    r"\b(?:may|might|could)\s+well\s+(?:be|have been|reach)\s+(?:about\s+|around\s+)?[€$£]?\Z", re.IGNORECASE
)


def _supposed(around: Around) -> str | None:
    if (may_well := _MAY_WELL.search(around.before[-40:])) is not None:
        return may_well.group()
    if not _is_hypothetical(around.asked):
        were = _IF_IT_WERE.search(around.before) or _WERE_IT.match(around.before)
        if were is not None:
            return were.group().strip()
    if not may_hold("hypothetical", around.sentence):
        return None
    part = around.part
    if _POLITE.search(part):
        return None
    modal = cue("hypothetical", r"(?<![\w])").search(part)
    if modal is None:
        return None
    if _is_case_asked(part, around.asked):
        return None  # "If it ran for 10 minutes, that would make 120", where that is asked for
    case = cue("otherwise", r"(?<![\w])").search(part)
    if case is None and not _is_hypothetical(around.asked):
        case = cue("supposes", r"(?<![\w])").search(part)
    return f"{case.group()} … {modal.group()}" if case else None


# "If it were spring, green."
_IF_IT_WERE = regex(r"\bif\s+(?:it|he|she|they|this|that)\s+were\s[^,;.]{1,40},\s+(?:the\s+|an?\s+)?\Z", re.IGNORECASE)
# "Were they equal, C.", "Had it rained, the lid would be red"
_WERE_IT = regex(r"\W*(?:(?:and|but)\s+)?(?:were|had|should)\s+(?:\S+\s+){1,8}?\S+,\s[^,;:.]{0,40}\Z", re.IGNORECASE)
_IF = regex(r"\bif\b(?P<case>[^,;.]*\d[^,;.]*),", re.IGNORECASE)
_NUMBER = regex(r"\d+(?:[.,]\d+)*")


def _is_case_asked(part: str, asked: str) -> bool:
    """Tell whether all numbers of a supposition are those of the question."""
    case = _IF.search(part)
    return case is not None and set(_NUMBER.findall(case["case"])) <= set(_NUMBER.findall(asked))


@lru_cache(maxsize=256)
def _is_hypothetical(asked: str) -> bool:
    return cue("hypothetical", r"(?<![\w])").search(asked) is not None or cue("supposes").search(asked) is not None


def _doubted(around: Around) -> str | None:
    match = last_cue("doubts", around.before) if may_hold("doubts", around.sentence) else None
    if match is None or re.search(
        r";|[,:]\s*(?:but|so|i'd|i would|my|the answer)\b", around.before[match.end() :], re.IGNORECASE
    ):
        return None
    return match.group()


def _in_brackets(around: Around) -> str | None:
    before = around.text[around.low : around.start]
    return "( )" if before.count("(") > before.count(")") and ")" in around.text[around.end : around.high] else None


# "the Sea of Azov, I'd say, though some maps would let you think of the Caspian Sea"
_CONCEDED = regex(r"\w\W*,\s(?:though|although|even though|even if|albeit)\s(?:\w+\s)[^,;:]*\Z", re.IGNORECASE)


def _conceded(around: Around) -> str | None:
    return "though" if _CONCEDED.search(around.before) else None


# "I count 36; hope that helps, and feel free to ask about 4 boxes too."
_OFFERED = regex(
    r"(?:[,;.–—(-]|\band)\s*(?:please\s+)?(?:do\s+)?(?P<offer>feel\s+free\s+to|let\s+me\s+know|just\s+(?:ask|say|shout))\b[^.;?!]*\Z",
    re.IGNORECASE,
)


def _offered(around: Around) -> str | None:
    offer = _OFFERED.search(around.before)
    return offer["offer"] if offer else None


# "It used to burn lard", where it is asked what it burns
_USED_TO = regex(r"\bused\s+to\s+(?:be\s+|have\s+)?[^,;:.]*\Z", re.IGNORECASE)
_ASKS_OF_THE_PAST = regex(r"\b(?:was|were|did|used|had|formerly|once|original\w*)\b", re.IGNORECASE)


def _formerly(around: Around) -> str | None:
    formerly = _USED_TO.search(around.before)
    return "used to" if formerly and not _ASKS_OF_THE_PAST.search(question_in(around.asked)) else None


_RULES: Sequence[tuple[Stance, Callable[[Around], str | None]]] = (
    (Stance.ASKED, _asked),
    (Stance.DENIED, _denied),
    (Stance.DENIED, _wrong),
    (Stance.DENIED, _doubted),
    (Stance.DENIED, _formerly),
    (Stance.REPORTED, _reported),
    (Stance.SUPPOSED, _supposed),
    (Stance.BOUND, _bound),
    (Stance.ASIDE, _in_brackets),
    (Stance.ASIDE, _conceded),
    (Stance.ASIDE, _offered),
)
