"""Ways of putting an answer in words: where in a stretch the words stand that are the answer, whatever they are."""

from __future__ import annotations

import re
from collections.abc import Iterator
from dataclasses import dataclass
from functools import lru_cache

from dryquarry.marking.reading.echo import is_echo
from dryquarry.marking.reading.names_said import (
    ASKS_LETTERED,
    ASKS_NAME,
    CALLED,
    IS_LEFT,
    ITS_NAME_IS,
    KNOWN_AS,
    LETTERED,
    NAME_IS,
    THAT_IS,
    WHAT_CALL,
)
from dryquarry.marking.reading.ranks_said import (
    AND_THE_MOST,
    AND_THE_SECOND,
    ASKS_BIG,
    ASKS_IS,
    ASKS_MORE,
    ASKS_MOST,
    ASKS_SECOND,
    ASKS_TOP,
    AT_THE_TOP,
    CHAIN,
    COMES_FIRST,
    FARTHER,
    IS_NOW,
    LESS_THAN,
    MORE_SO,
    NAME_THE_MOST,
    NO_LONGER,
    NONE_MORE,
    STILL_MORE,
    THEN_COMES,
)
from dryquarry.marking.reading.things_said import (
    AND_THE,
    ASKS_WHAT_IS_THERE,
    ASKS_WHAT_LIES,
    ASKS_WHICH,
    ASKS_WINNER,
    IN_BRACKETS_OF,
    ITS_ONE_IS,
    LIES_THERE,
    ONE_USES,
    RANKED,
    TAKE_IT,
    THERE_IS,
    WHAT_IS_IN,
    WHAT_THEY_DO,
)
from dryquarry.marking.regexes import regex

Span = tuple[int, int]


@dataclass(frozen=True, slots=True)
class Construction:
    """A way of putting an answer: `says` finds it in its group "one", or "other".

    `asks` tells of which questions it is one; with `whole` it accounts for the whole stretch. What it finds in a group
    "what" must be a word of the question. Each has one of its `words` in it, which is quicker to see.
    """

    says: re.Pattern[str]
    asks: re.Pattern[str] | None = None
    whole: bool = False
    words: tuple[str, ...] = ()

    def find(self, stretch: str, asked: str) -> Span | None:
        """Return where the answer stands in a stretch, None where it is not put in this way."""
        if self.words and not any(word in stretch for word in self.words):
            return None
        if self.asks is not None and not _is_asked(self.asks, asked):
            return None
        found = [self.says.fullmatch(stretch)] if self.whole else self.says.finditer(stretch)
        named = "what" in self.says.groupindex
        match = next((one for one in found if one and not (named and not _is_of(one["what"], asked))), None)
        if match is None:
            return None
        return match.span("one" if match["one"] is not None else "other")


def _is_of(word: str, asked: str) -> bool:
    """Tell whether a word is one of the question, "shorter" where the shortest is asked for."""
    return is_echo(word, asked) or (word.endswith("er") and f"{word[:-2]}est" in asked.lower())


@lru_cache(maxsize=1024)
def _is_asked(asks: re.Pattern[str], asked: str) -> bool:
    return asks.search(asked) is not None


ASKS_WHO = regex(r"\bwh(?:o|om|ose)\b", re.IGNORECASE)
# Whose it is, and who has it: the owner is named either way.
ASKS_WHOSE = regex(r"\b(?:whose|owns?|owned|belongs?|has|have|had)\b", re.IGNORECASE)
# "Ada's coat is blue."
OWNER = regex(r"\b(?P<one>[A-Z]\w+)(?:'s|s')(?!\s+\d)")
# "at 20 °C only mercury is liquid"
ONLY = regex(r"\bonly\s+(?P<one>[^,;]{1,60}?)\s+(?:is|are|was|were|has|have|can|did|does)\b", re.IGNORECASE)
ASKS_WHERE = regex(r"\bwhere\b", re.IGNORECASE)
PLACE_WORD = regex(r"\b(?:in|into|on|onto|at|to|inside|behind|under|near|beside|above|below)\s+(?=\S)", re.IGNORECASE)
# "Three sides make a triangle, four a quadrilateral."
MAKES = regex(
    r"(?<=\w)\s+(?:makes?|forms?|gives?|means?|becomes?|uses?|used|needs?)\s+(?:(?:you|us|one)\s+)?", re.IGNORECASE
)
# "Monday → Tuesday → Wednesday"
ARROW = regex(r"\s*(?:->|→|⇒|=>)\s*")
# The sign alone: to look for it with the blanks before it takes too long where there are many of these.
ARROW_SIGN = regex(r"->|→|⇒|=>")
# "Ada keeps the evening watch", "the bill bends upwards"
DOES = regex(
    r"(?:[A-Z]\w+|(?:the|an?|its|his|her|their) (?:\w+ ){1,4}?)\s?[a-z]{2,}(?:s|ed)\s+(?P<one>\S.*)$", re.DOTALL
)
_ASKS_ODD = regex(
    r"\bodd\b|\b(?:not|n't)\s+(?:belong|fit|match|one\s+of)|n't\s+(?:belong|fit|match)|\bdiffer|\bout\s+of\s+place\b|\bexception\b|"
    r"\b(?:can't|cannot|doesn't|didn't|isn't|wasn't|won't|not|never)\b",
    re.IGNORECASE,
)
# "all are trees except the rose", where the odd one out is asked for
_ODD_ONE = regex(
    r"\b(?:all|every\w*|the\s+(?:others?|rest))\b.*?\b(?:except(?:\s+for)?|but(?:\s+for)?|save|apart\s+from|besides)\s+"
    r"(?P<one>[^,;:.]{1,60}?)(?=[,;:.]|\s*\Z)",
    re.IGNORECASE | re.DOTALL,
)
# "early October", "8 October"
_ASKS_MONTH = regex(r"\bmonth\b", re.IGNORECASE)
_MONTH = regex(
    r"\W*(?:(?:in|on)\s+)?(?:the\s+)?(?:(?:early|late|mid|about|around|the\s+\w+\s+of|\d{1,2}(?:st|nd|rd|th)?(?:\s+of)?)[\s-]+)?"
    r"(?P<one>january|february|march|april|may|june|july|august|september|october|november|december)"
    r"(?:\s+\d{1,2}(?:st|nd|rd|th)?)?\W*",
    re.IGNORECASE,
)
# "on Thursdays", "Thursday morning"
_ASKS_DAY = regex(r"\b(?:day|weekday)\b", re.IGNORECASE)
_DAY = regex(
    r"\W*(?:(?:it\s+(?:is|takes\s+place)\s+)?(?:on|every|each)\s+)?"
    r"(?P<one>(?:mon|tues|wednes|thurs|fri|satur|sun)day)s?"
    r"(?:\s+(?:morning|afternoon|evening|night|noon)s?)?\W*",
    re.IGNORECASE,
)
# "Mercury is.", "then Runa did.", "Piet did, with Orla's match"
_IS_IT = regex(
    r"\W*(?:then\s+)?(?P<one>[^,;:.]{1,50}?)\s+(?:(?:is|was|are|were|did|does|do|has|had|have|can|could|will)\W*|"
    r"(?:did|does|do|can|could),\s+(?:with|when|after|while|before|who|because|since|as|using|by)\b.*)",
    re.IGNORECASE | re.DOTALL,
)
# "the heron is Velm's, whose capital is Harrow"
_WHOSE = regex(
    r"\bwhose\s+(?P<what>[^\W\d_]+)\s+(?:is|was)\s+(?:called\s+)?(?P<one>[^,;:.]{1,60}?)(?=[,;:.]|\s*\Z)", re.IGNORECASE
)
# "the tern is more plausible than the swift"
_PREFERRED = regex(
    r"\W*(?:more\s+(?:likely|probable|plausible)\s+)?(?P<one>[^,;:]{1,60}?)\s+(?:(?:is\s+)?(?:more\s+\w+\s+|makes\s+more\s+sense\s+)?than|beats)\s.*",
    re.IGNORECASE | re.DOTALL,
)
# "only the tern fits", "the swift doesn't fit, the tern does"
_FITS = regex(
    r"\W*(?:only\s+)?(?P<one>[^,;:]{1,60}?)\s+(?:(?:is|was)\s+(?:right|correct)|fits?|remains?|works?|qualifies|holds|matches|is\s+left|makes\s+sense|is\s+(?:more\s+|most\s+)?(?:likely|probable|plausible))\W*",
    re.IGNORECASE,
)
_DOES_NOT = regex(
    r"[^,;:]{1,60}?\s+(?:(?:does|is|can|do|are|could|was|did)(?:n't|\s+not)\b[^,;:]{0,40}|(?:is|was)\s+(?:wrong|false|incorrect|out))"
    r"[,;]\s+(?:but\s+|and\s+)?(?:the\s+answer\s+)?(?P<one>[^,;:]{1,60}?)"
    r"\s+(?:(?:is|was)\s+(?:right|correct|true)|does|is|can|do|are|could|was|did)\W*",
    re.IGNORECASE,
)
# "the evidence favours the tern over the swift", "looks like the tern to me"
_POINTS = regex(
    r"\b(?:favou?rs?|points?\s+to|speaks?\s+for|looks?\s+like|sounds?\s+like|(?:money|bet)\s+on|bet(?:ting)?\s+on|decided\s+on|"
    r"opt(?:ing)?\s+for|(?:let\s+me|i(?:'d|'ll|\s+will|\s+would))\s+(?:go\s+for|take(?!\s+(?:that|it|this)\b)|put\s+down|write\s+down)|(?:ends?|left)\s+up\s+with|works?\s+out\s+(?:as|to\s+be|to|at)|(?:comes|boils)\s+down\s+to|arrives?\s+at|(?<=\A)put\s+down|settled?\s+(?:on|for)|chang(?:ed|ing)\s+(?:it|that|my\s+answer)\s+to|hands\s+down,?|namely|specifically(?:\s+(?:at|in|on))?|that\s+is,|i\.\s?e\.,?)\s+(?P<one>[^,;:.!]{1,60}?)(?=\s+(?:over|rather|to\s+me|instead|and)\b|[,;:.!]|\s*\Z)",
    re.IGNORECASE,
)
# "the swift is the popular answer, the tern the right one"
_RIGHT_ONE = regex(
    r"(?:^|,\s+|;\s+)(?:and\s+)?(?P<one>[^,;:]{1,60}?)\s+(?:is\s+|was\s+)?the\s+(?:right|correct|real|true|actual)\s+(?:one|answer)\W*\Z|"
    r"\bthe\s+(?:right|correct|real|true|actual)\s+(?:one|answer)\s+(?:is|was|being)\s+(?P<other>[^,;:]{1,60}?)(?=[,;:.!]|\s*\Z)",
    re.IGNORECASE,
)
# "they turn it into honey"
_INTO = regex(
    r"\b(?:turn|make|made|change|convert|transform|process)\w*\s+(?:\S+\s+){1,4}?into\s+(?P<one>[^,;:.]{1,60}?)"
    r"(?=[,;:.]|\s+and\b|\s*\Z)",
    re.IGNORECASE,
)
# "Nils's brother Aksel"
_ROLE_AND_NAME = regex(r"(?:\w+'s?|the|his|her|their|an?)\s+(?:[a-z]+\s+){1,3}(?P<one>[A-Z]\w+(?:\s[A-Z]\w+){0,2})")
# "That's what the compass is for."
_WHAT_FOR = regex(r"\bwhat\s+(?P<one>\S.{0,60}?)\s+(?:is|are|was)\s+for\b", re.IGNORECASE)
# "It turns from red to blue."
_FROM_TO = regex(r"\bfrom\s+[^,;]{1,40}?\s+to\s+(?P<one>\S.*)$", re.IGNORECASE | re.DOTALL)
# "It curves upwards."
_OF_IT = regex(
    r"(?:it|they|he|she|this|that|these|we|you|one|i)(?:'d|'ll|\s+(?:can|could|should|may|might|must|will|would))?\s+"
    r"\w+\s+(?P<one>\S.*)$",
    re.IGNORECASE | re.DOTALL,
)
# "In bases it turns blue."
_PLACED_FIRST = regex(
    r"(?:in|at|on|with|under|after|before|among)\s+(?:\w+\s+){1,4}(?=(?:it|they|he|she)\s)", re.IGNORECASE
)

# "amber isn't one", where it is asked which is not
_IS_NOT = regex(
    r"\A\W*(?P<one>[^,;:]{1,60}?)\s+(?:is|are|was|were|does|do|can|could)(?:n't|\s+not|not)\b", re.IGNORECASE
)
# "the work of Solveig", "by his wife, Solveig"
_WORK_OF = regex(
    r"\b(?i:work|idea|invention|painting|picture|song|poem|book|doing|deed)\s+of\s+(?P<one>[A-Z]\w+(?:\s[A-Z]\w+)?)|"
    r"\b(?i:by|is|was)\s+(?:his|her|their|the)\s+[a-z]+,\s+(?P<other>[A-Z]\w+(?:\s[A-Z]\w+)?)"
)


# "Through the town flows the Inn."
_TURNED_ROUND = regex(
    r"\A\W*(?:through|in|on|at|from|near|behind|under|over|by|beside|between|among|opposite)\s+[^,;:]{1,50}?\s(?P<what>(?-i:[a-z]+(?:s|ed)))\s+"
    r"(?P<one>(?:the\s+)?(?:river\s+|mount\s+|lake\s+)?[A-Z][^,;:.]{0,40})\W*\Z",
    re.IGNORECASE,
)
# "It was named after a bridge, and that river is the Inn."
_THAT_KIND = regex(
    r"\b(?:that|this)\s+(?P<what>[^\W\d_]{3,})\s+(?:is|was)\s+(?:called\s+)?(?!(?:not|also|the\s+same)\b)(?P<one>[^,;:.]{1,60})",
    re.IGNORECASE,
)
# "The description fits a heron to a T."
_SUITS = regex(
    r"\b(?:description|card|log|text|clues?|hints?|words?|features?|signs?|everything|all\s+(?:this|that|of\s+it))\s+(?:best\s+|only\s+|clearly\s+|exactly\s+)?(?:fits?|matches|match|describes?|suits?|means?)\s+(?:only\s+)?"
    r"(?P<one>(?:an?\s|the\s)[^,;:.]{1,40}?)(?=\s+(?:to|best|well|exactly|perfectly|and|but|only)\b|[,;:.]|\s*\Z)",
    re.IGNORECASE,
)
# "the first of these, Skye"
_POINTED_AT = regex(
    r"\A\W*(?:(?:it(?:'s|\s+is)|that(?:'s|\s+is))\s+)?the\s+(?:first|second|third|last|former|latter|\w+est)\s+(?:one\s+)?(?:(?:of|in|on)\s+(?:these|them|those|this\s+\w+|the\s+(?:list|row|two|three|four)))?[,:]\s+(?P<one>[^,;:.]{1,60})",
    re.IGNORECASE,
)
# "The river that flows there, however, is the Sill."
_HOWEVER_IS = regex(
    r",\s(?:however|though|therefore|of\s+course|in\s+fact|then|indeed|by\s+contrast),\s+(?:is|was|are|were)\s+"
    r"(?:called\s+)?(?P<one>[^,;:.]{1,60})",
    re.IGNORECASE,
)
# "red box, blue lid", where the colour of the lid is asked for
_ASKS_COLOUR = regex(r"\bwhat\s+colou?r\s+(?:is|was|has|are|were)\b|\bwhich\s+colou?r\b", re.IGNORECASE)
_COLOURED = regex(
    r"(?:\A|,\s|;\s|\band\s)\W*(?:an?\s|the\s)?(?P<one>[^\W\d_]+)\s(?P<what>[^\W\d_]+)(?=[,;.]|\s*\Z)", re.IGNORECASE
)
# "After spring comes summer, and after that autumn."
_ASKS_AFTER = regex(r"\b(?:follow|after\b|next\b|behind\b)", re.IGNORECASE)
_COMES_AFTER = regex(
    r"\b(?:after|behind|following)\s+(?P<what>[^\W\d_]+)\s+(?:comes?|follows?|is|stands?|sits)\s+(?P<one>[^,;:.]{1,40}?)"
    r"(?=[,;:.]|\s+and\b|\s*\Z)",
    re.IGNORECASE,
)
# "It means 'good morning' in German.", where it is asked in which language
_ASKS_IN_WHICH = regex(r"\bin\s+(?:which|what)\s", re.IGNORECASE)
_IN_WHICH = regex(r"\b[Ii]n\s+(?P<one>(?:the\s+)?[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?|[12]\d{3})\b")
# "The bread was brought by Ada.", where it is asked what Ada brought
_BROUGHT_BY = regex(
    r"\A\W*(?P<one>[^,;:]{1,60}?)\s+(?:was|were|is|are)\s+[^\W\d_]+\s+by\s+(?:the\s+)?(?P<what>[^\W\d_]+)",
    re.IGNORECASE,
)
# "One goose, two geese.", where the plural is asked for
_ASKS_PLURAL = regex(r"\bplural\b", re.IGNORECASE)
_ONE_AND_TWO = regex(
    r"\b(?:one|an?)\s+[^\W\d_]+,?\s+(?:and\s+)?(?:two|three|many|several)\s+(?P<one>[^\W\d_]+)", re.IGNORECASE
)
# "Ten weeks from the 1st of March is the 10th of May."
_MONTHS = "January|February|March|April|May|June|July|August|September|October|November|December"
_IS_IN_MONTH = regex(
    r"(?:\bis|'s|\bwas|\bin|\bto|\buntil)\s+(?:early\s+|late\s+|mid-?|the\s+\S+\s+of\s+)?"
    rf"(?P<one>{_MONTHS})\b(?!.*\b(?:{_MONTHS})\b)",
    re.DOTALL,
)
# "That rules out three of the four and leaves granite."
_LEAVES = regex(
    r"\b(?:leaves|leaving)\s+(?:us\s+)?(?:with\s+)?(?:only\s+|just\s+)?(?P<one>(?!it\b|that\b|no\b|the\s+question)[^,;:.]{1,40}?)(?=[,;.]|\s*\Z)",
    re.IGNORECASE,
)
# "Of the conifers it's the larch that stands bare."
_CLEFT = regex(
    r"\bit(?:'s|\s+is|\s+was)\s+(?!(?:not|clear|true|likely|possible|said|obvious|known|certain)\b)(?P<one>[^,;:]{1,40}?)\s+(?:that|who|which|whose)\s",
    re.IGNORECASE,
)
# "old → new, ancient → modern"
_PAIRED = regex(r"(?:\A|[,;]\s)\W*(?P<what>[^\W\d_]+)\s*(?:→|->)\s*(?P<one>[^,;→]{1,40}?)(?=[,;.]|\s*\Z)")
# "Slovenia has Ljubljana for its capital."
_HAS_FOR = regex(
    r"\b(?:has|have|had)\s+(?P<one>[^,;:.]{1,60}?)\s+(?:for|as)\s+(?:its|their|his|her|the|an?)\s+(?P<what>[^\W\d_]+)",
    re.IGNORECASE,
)
# "The last of them, 1902, is that of the rebuilding."
_ASKS_YEAR = regex(r"\bwhen\b|\byear\b", re.IGNORECASE)
_YEAR = regex(r",\s(?P<one>[12]\d{3}),\s+(?:is|was)\b")
# "13:50 + 45 min = 14:35", "starboard = right = green"
_EQUALS = regex(r"(?:\d[^=]*|[^=]{1,40}=[^=]{1,40})=\s*(?P<one>[^=,;]{1,40}?)\W*", re.IGNORECASE)


# "Three days after Saturday comes Tuesday."
_SO_LONG_AFTER = regex(
    r"\b(?:days?|weeks?|months?|years?|hours?|minutes?)\s+(?:after|from)\s+[^,;:]{1,30}?\s(?:comes|is|follows|we\s+have)\s+(?P<one>[^,;:.]{1,40}?)(?=[,;:.]|\s*\Z)",
    re.IGNORECASE,
)
# "…, while the doors are green"
_ITS_ARE = regex(
    r"(?:\A|,\s|\band\s|\bwhile\s|\bbut\s)\W*(?:the|its|his|her)\s(?P<what>[^\W\d_]+)\s(?:is|are)\s(?P<one>[^\W\d_]+)"
    r"(?=[,;.]|\s(?:and|while|but)\b|\W*\Z)",
    re.IGNORECASE,
)
# "Tallinn is Estonia, Vilnius is Lithuania → Riga."
_LED_TO = regex(r"\w\s[^→⇒]{3,}?(?:,|\sis\s)[^→⇒]*(?:→|⇒|->|=>)\s*(?P<one>[^→⇒,;]{1,40}?)\W*\Z")
# "one goose, two geese", where the singular is asked for
_ASKS_SINGULAR = regex(r"\bsingular\b", re.IGNORECASE)
_ONE_OF_TWO = regex(
    r"\b(?:one|an?)\s+(?P<one>[^\W\d_]+),?\s+(?:and\s+|but\s+)?(?:two|three|many|several)\s+[^\W\d_]+", re.IGNORECASE
)
# "The capital of Norway, Oslo"
_DESCRIBED = regex(r"\W*(?:[Tt]he|[Hh]is|[Hh]er|[Ii]ts)\s+[^,;:A-Z][^,;:]{2,60},\s+(?P<one>[A-Z][^,;:]{0,40}?)\W*")
# "green are its doors"
_ARE_ITS = regex(
    r"(?:\A|,\s|;\s|\band\s)\W*(?P<one>[^\W\d_]+)\s(?:is|are)\s(?:its|the|his|her)\s(?P<what>[^\W\d_]+)(?!\s+of\b)",
    re.IGNORECASE,
)
# "Zagreb is the capital of Croatia, Ljubljana that of Slovenia."
_THAT_OF = regex(
    r"(?:,|;|\band|\bwhile|\bwhereas|\bbut)\s+(?P<one>[^,;:.]{1,40}?)\s+(?:is\s+|was\s+)?(?:that|the\s+one|those)\s+of\s+(?:the\s+)?(?P<what>[^\W\d_]+)",
    re.IGNORECASE,
)
# "…, and with 60 degrees it's a sextant"
_AND_IT_IS = regex(
    r"[,;]\s(?:and|but|so|then)\s[^,;:]{0,40}?\bit(?:'s|\s+is|\s+must\s+be)\s+(?P<one>(?:an?|the)\s+(?!same\b)[^,;:]{1,40}?)\W*\Z",
    re.IGNORECASE,
)

# What these find leaves no other place to look for an answer.
SURE = (
    Construction(NAME_THE_MOST, words=("est",)),
    Construction(LESS_THAN, ASKS_BIG, words=("er than",)),
    Construction(IS_NOW, ASKS_IS, words=(" is ",)),
    Construction(NO_LONGER, words=(" but ",)),
    Construction(IS_LEFT, words=(" left", " remaining")),
    Construction(RANKED, ASKS_WINNER, whole=True, words=("1", "irst")),
    Construction(THERE_IS, ASKS_WHAT_IS_THERE, words=("here",)),
    Construction(LIES_THERE, ASKS_WHAT_LIES, words=(" l", " s", " h", " b", " ends")),
)
# "With the e it's iron."
_WITH_IT_IS = regex(
    r"\W*(?:with|without)\s[^,;:]{1,30}?,?\s(?:it|that)(?:['’]s|\s+is|\s+must\s+be)\s+(?!not\b)(?P<one>[^,;:]{1,40}?)\W*",
    re.IGNORECASE,
)
# These come before anything else that a clause tells: what they find is put as the answer.
FIRST = (
    *SURE,
    Construction(ITS_ONE_IS, ASKS_WHO, words=(" is ", " was ")),
    Construction(TAKE_IT, ASKS_WHICH, words=("ake ", "oose ", "ick ", "se ", "pen ", "hrough ")),
    Construction(_WITH_IT_IS, whole=True, words=(" it", " that")),
    Construction(MORE_SO, words=("er than",)),
    Construction(IN_BRACKETS_OF, words=("(",)),
    Construction(FARTHER, ASKS_MOST, words=(" of ",)),
    Construction(_SO_LONG_AFTER, words=("fter ", "rom ")),
    Construction(_DESCRIBED, whole=True, words=(", ",)),
    Construction(_LED_TO, words=("→", "⇒", "->", "=>")),
    Construction(_ONE_OF_TWO, _ASKS_SINGULAR),
    Construction(_ITS_ARE, _ASKS_COLOUR, words=(" is ", " are ")),
    Construction(_ARE_ITS, _ASKS_COLOUR, words=(" its ", " the ", " his ", " her ")),
    Construction(WHAT_THEY_DO, words=("what ", "What ")),
    Construction(WHAT_IS_IN, words=("what ", "What ")),
    Construction(NONE_MORE, ASKS_MOST, words=("er than", " as ", "farther", "further")),
    Construction(_THAT_OF, words=(" of ",)),
    Construction(AT_THE_TOP, ASKS_TOP, words=(" at the ", " on top", " in ", " ahead", " leading", " first")),
    Construction(CHAIN, ASKS_MOST, whole=True, words=(">",)),
    Construction(STILL_MORE, ASKS_MORE, whole=True, words=("er",)),
    Construction(STILL_MORE, ASKS_MOST, whole=True, words=("er",)),
    Construction(_TURNED_ROUND),
    Construction(_POINTED_AT, words=("the ", "The ")),
    Construction(
        THEN_COMES, ASKS_SECOND, words=("then", "next", "second", "two", "followed", "Next", "Then", "Second")
    ),
    Construction(_THAT_KIND, words=("hat ", "his ")),
    Construction(_SUITS, words=("fit", "match", "describ", "suit", "mean")),
    Construction(_HOWEVER_IS, words=(", ",)),
    Construction(CALLED, words=("call", "by the name")),
    Construction(LETTERED, ASKS_LETTERED),
    Construction(THAT_IS, whole=True, words=("that is", "i.", "or rather")),
    Construction(WHAT_CALL, words=("call",)),
    Construction(COMES_FIRST, ASKS_TOP, words=("first",)),
    Construction(KNOWN_AS, ASKS_NAME, words=("called", "named", "known", "termed")),
    Construction(NAME_IS, ASKS_NAME, words=("name",)),
    Construction(ITS_NAME_IS, words=("name is", "known as")),
    Construction(_IN_WHICH, _ASKS_IN_WHICH, words=("in ", "In ")),
    Construction(_BROUGHT_BY, words=(" by ",)),
    Construction(_LEAVES, words=(" leav",)),
    Construction(AND_THE, regex(r"\bwhich\s+word\b", re.IGNORECASE)),
    Construction(AND_THE_MOST, words=("est",)),
    Construction(AND_THE_SECOND, ASKS_SECOND, words=("second",)),
    Construction(_ONE_AND_TWO, _ASKS_PLURAL),
    Construction(_IS_IN_MONTH, _ASKS_MONTH),
    Construction(_CLEFT, words=(" that ", " who", " which ")),
    Construction(_PAIRED, words=("→", "->")),
    Construction(_COMES_AFTER, _ASKS_AFTER, words=(" come", " follow", " is ", " stand", " sit")),
    Construction(_HAS_FOR, words=(" for ", " as ")),
    Construction(_YEAR, _ASKS_YEAR, words=(", ",)),
    Construction(_PREFERRED, whole=True, words=("than", "beats")),
    Construction(_DOES_NOT, whole=True),
    Construction(_IS_IT, whole=True),
    Construction(_RIGHT_ONE),
    Construction(_POINTS),
    Construction(_AND_IT_IS, words=("it",)),
    Construction(_WHOSE, words=("whose",)),
    Construction(_ODD_ONE, _ASKS_ODD),
    Construction(_IS_NOT, _ASKS_ODD),
    Construction(_WORK_OF, ASKS_WHO),
)
LATER = (
    Construction(_EQUALS, whole=True, words=("=",)),
    Construction(_COLOURED, _ASKS_COLOUR),
    Construction(_WHAT_FOR, words=("what", "What")),
    Construction(_FITS, whole=True),
    Construction(_INTO, words=("into",)),
    Construction(ONE_USES),
    Construction(_ROLE_AND_NAME, ASKS_WHO, whole=True),
    Construction(_FROM_TO, regex(r"\A(?!.*\bfrom\b)", re.DOTALL)),
)
DATES = (Construction(_DAY, _ASKS_DAY, whole=True), Construction(_MONTH, _ASKS_MONTH, whole=True))


def found_by(constructions: tuple[Construction, ...], text: str, span: Span, asked: str) -> Iterator[Span]:
    """Yield where the answer stands in a stretch of a text, by each construction that it is put in."""
    start, end = span
    for construction in constructions:
        if (one := construction.find(text[start:end], asked)) is not None:
            yield start + one[0], start + one[1]


def of_it(stretch: str) -> int | None:
    """Return where what is said of "it" begins: "it curves upwards", "in bases it turns blue"."""
    said = _OF_IT.search(stretch) if _PLACED_FIRST.match(stretch) else _OF_IT.match(stretch)
    return said.start("one") if said else None
