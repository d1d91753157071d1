"""What stands where: "the ice above the snow, and the snow above the rock", and who comes last in a row."""

from __future__ import annotations

import itertools
import re

from dryquarry.marking.reading.constructions import ASKS_WHO, Construction, Span
from dryquarry.marking.reading.echo import is_echo
from dryquarry.marking.reading.ranks_said import ASKS_SECOND
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.numbers import find_terms

_WHERE_TEXT = "above below behind beneath under over beside before after beyond opposite next north south east west"
_FURTHER_WORDS = {"next": "to", "north": "of", "south": "of", "east": "of", "west": "of"}


def _beside(where: str) -> Construction:
    """Return how it is told what is beside a thing: "the ice lies above the snow", where that is asked."""
    words = rf"{where}\s+{_FURTHER_WORDS[where]}" if where in _FURTHER_WORDS else where
    says = re.compile(
        r"(?:\A\W*|[,;]\s+(?:and\s+|but\s+|while\s+)?)(?P<one>(?:the\s+)?[^\W\d_]+)\s+"
        r"(?:(?:lies|is|stands|comes|sits|runs|hangs)\s+)?(?:directly\s+|right\s+|just\s+|immediately\s+)?"
        rf"{words}\s+(?:the\s+)?(?P<what>[^\W\d_]+)(?=[,;.]|\W*\Z)",
        re.IGNORECASE,
    )
    return Construction(says, re.compile(rf"\b{words}\b", re.IGNORECASE), words=(f" {where} ",))


_ASKS_LAST = regex(
    r"\b(?:at\s+(?:the\s+(?:very\s+)?end|last)|in\s+the\s+end|finally|last|now|ends?\s+up)\b", re.IGNORECASE
)
# "Bram had it first, then Ives, and last of all Sol."
_LAST_OF_ALL = regex(
    r"[,;]\s+(?:and\s+|then\s+)?(?:last(?:\s+of\s+all)?|at\s+last|finally|in\s+the\s+end),?\s+(?:by\s+|to\s+)?(?P<one>(?:the\s+)?[^\W\d_]+)\W*\Z",
    re.IGNORECASE,
)
# "It went from Bram to Ives, from Ives to Lotte."
_FROM_TO_LAST = regex(
    r"\bfrom\s+(?:the\s+)?[^\W\d_]+\s+to\s+(?:the\s+)?[^\W\d_]+,\s.*\bto\s+(?P<one>(?:the\s+)?[^\W\d_]+)\W*\Z",
    re.IGNORECASE | re.DOTALL,
)
# "The layer in which the ozone is found, the stratosphere"
_DESCRIBED_BY = regex(
    r"\W*the\s+[^\W\d_]+\s(?:in|on|at|from|that|which|where|who|whose|of|with)\s[^,;:]{2,70},\s+(?P<one>the\s+(?!\w+est\b)[^\W\d_]+(?:\s[^\W\d_]+)?)\W*",
    re.IGNORECASE,
)

# "The Sill and the Orne reach the sea, the Tarn doesn't", where it is asked which doesn't
_ASKS_WHICH_DOES_NOT = regex(r"\b(?:which|who|what)\b[^?]*(?:n['’]t|\snot)\b", re.IGNORECASE)
_ONE_DOES_NOT = regex(
    r"(?:[,;]|\band|\bbut|\bwhile|\bwhereas)\s+(?:(?:and|but|while|whereas|only)\s+)*(?P<one>(?:the\s+)?[^\W\d_]+(?:\s[A-Z][^\W\d_]+)?)\s+"
    r"(?:(?:does|do|did|is|are|was|were|has|have|can)(?:n['’]t|\s+not)|can(?:not|['’]t))\W*\Z",
    re.IGNORECASE,
)

# "It starts at the church and ends at the Old Mill", "Its end is the Old Mill", where it is asked where it ends
_ASKS_WHERE_IT_ENDS = regex(r"\bwhere\b[^?]*?\s(?:ends?|ended|leads?|led)\b", re.IGNORECASE)
_ENDS_AT = regex(
    r"\b(?:(?:ends?|ended)\s+(?:up\s+)?(?:at|in|on|near|by)|(?:its|the)\s+end\s+is|(?:leads?|led|gets?|comes?)\s+(?:you\s+)?to(?=[^,;]{0,60}\bin\s+the\s+end\b)|leads?\s+to)\s+"
    r"(?P<one>(?:the\s+)?[^\W\d_]+(?:\s[A-Z][^\W\d_]+)?)(?=[,;.]|\W*\Z|\s+in\s+the\s+end\b)",
    re.IGNORECASE,
)

# "Meteorological autumn runs from September to November.", where its beginning is asked for
_ASKS_BEGINNING = regex(r"\b(?:begins?|starts?|opens?|opening|beginning)\b", re.IGNORECASE)
_ASKS_END = regex(r"\b(?:(?<!the )(?<!at )ends?|closes?|finish(?:es)?|closing)\b", re.IGNORECASE)
_FROM = regex(
    r"\bfrom\s+(?P<one>(?:the\s+)?[^\s,;:.]+(?:\s[^\s,;:.]+)?)\s+(?:to|until|till|through)\s+(?:the\s+)?[^\s,;:.]+",
    re.IGNORECASE,
)
_TO = regex(
    r"\bfrom\s+(?:the\s+)?[^\s,;:.]+(?:\s[^\s,;:.]+)?\s+(?:to|until|till|through)\s+(?P<one>(?:the\s+)?[^\s,;:.]+)",
    re.IGNORECASE,
)

_ASKS_MIDDLE = regex(r"\b(?:middle|between|centre|center)\b", re.IGNORECASE)
# "From left to right: Oda – Sol – Bram."
_IN_A_ROW = regex(
    r"(?:\A|.*:\s)\W*[^\W\d_]+(?:\s*(?:,|[–—→>])\s*|\s-\s)(?P<one>[^\W\d_]+)(?:\s*(?:,|[–—→>])\s*|\s-\s)(?:and\s+)?[^\W\d_]+\W*",
    re.DOTALL,
)
# "Sol has Oda on one side and Bram on the other."
_HAS_BESIDE = regex(
    r"\b(?P<one>[A-Z][^\W\d_]+)\s+(?:has|sees)\s+[A-Z][^\W\d_]+\s+(?:on|to|at)\s[^,;.]{3,20}\sand\s+[A-Z][^\W\d_]+\s+(?:on|to|at)\s"
)
# "Between Oda and Bram sits Sol."
_BETWEEN_THEM = regex(
    r"\A\W*between\s+(?:(?:the\s+)?[^\W\d_]+\s+and\s+(?:the\s+)?[^\W\d_]+|the\s+two|them|these(?:\s+two)?|both),?\s+"
    r"(?:is|was|sits|sat|stands|stood|lies|lay|comes|came|there\s+is|there\s+was|there's)\s+"
    r"(?P<one>(?:the\s+)?[^\W\d_]+)\W*\Z",
    re.IGNORECASE,
)
# "Ulla and Rita sit at the ends, Jens between them."
_IN_BETWEEN = regex(
    r"[,;]\s(?:and\s+|with\s+)?\W*(?P<one>(?:the\s+)?[A-Z][^\W\d_]+)\s+(?:is\s+|sits\s+|stands\s+)?(?:in\s+)?between(?:\s+(?:them|the\s+two|both))?\W*\Z"
)
# "…, and north of it lies Belgium."
_WAY_OF_IT = regex(
    r"(?:\A|[,;]\s(?:and\s+|but\s+)?|\band\s+)\W*(?P<what>(?i:north|south|east|west))\s+of\s+(?:it|that|here|there)\s+(?:lies|is|comes|follows)\s+(?P<one>(?:the\s+)?[A-Z][^\W\d_]+)"
)
# "The first city at which it arrives is Tarn."
_THE_FIRST_AT = regex(
    r"\bthe\s+(?:first|last|only)\s+[^\W\d_]+\s+(?:(?:at|in|to|from|by|with|of|on)\s+which|that|which|who|where)\s+[^,;:]{2,40}?\s+(?:is|was)\s+(?P<one>[A-Z][^,;:.]{1,40}?)(?=[,;:.]|\s*\Z)"
)
# "The signature came from Karl", where it is asked who signed
_CAME_FROM = regex(r"\A\W*[Tt]he\s+[^\W\d_]+\s+(?:comes?|came)\s+from\s+(?P<one>[A-Z][^\W\d_]+)\b")
# "One that doesn't is the cuckoo: …", "…, and the cuckoo is the one who lays it"
_ONE_THAT_IS = regex(
    r"\b[Oo]ne\s+(?:that|who|which)\s+[^,;:]{2,40}?\s(?:is|was)\s+(?P<one>(?:the\s+|an?\s+)?[^\W\d_]+)(?=[,;:.]|\s*\Z)|"
    r"(?:\A|[,;]\s+(?:and\s+|but\s+)?)\W*(?P<other>(?:the\s+)?[^\W\d_]+)\s+(?:is|was)\s+the\s+one\s+(?:who|that|which)\b(?!\s+(?:does|did|is|was|has)(?:n['’]t|\s+not))",
    re.IGNORECASE,
)
# "…, but only the diameter does so evenly"
_BUT_ONLY = regex(
    r"(?:\A\W*|\b(?:but|and)\s+)only\s+(?P<one>(?:the\s+|an?\s+)?[^\W\d_]+)\s+(?:does|do|did|can)\b(?!n['’]t|\s+not)",
    re.IGNORECASE,
)
# "A gosling is a baby goose, a cygnet a baby swan."
_EACH_IS = regex(
    r"(?:\A|,\s+(?:and\s+)?)\W*(?P<one>an?\s+[^\W\d_]+)\s+(?:is\s+)?an?\s+(?:[^\W\d_]+\s+)?(?P<what>[^\W\d_]+)(?=,|\W*\Z)",
    re.IGNORECASE,
)
# "Gold's symbol is Au, silver's Ag."
_ITS = (
    r"\W*(?P<what>(?!(?:it|that|what|he|she|there|here)['’])[^\W\d_]+)['’]s\s+(?:[^\W\d_]+\s+(?:is|was)\s+)?"
    r"(?P<one>[^\s,;]+)(?=,\s+(?:and\s+)?[^\W\d_]+['’]s\s|\W*\Z)"
)
_EACH_HAS = regex(rf"\A{_ITS}", re.IGNORECASE)
_AND_ITS = regex(rf"['’]s\s[^,]{{1,60}},\s+(?:and\s+)?{_ITS}", re.IGNORECASE)

# "Tarn lies farthest north and Quist farthest south."
_FARTHEST = regex(
    r"(?:\A|[,;]\s|\band\s)\W*(?P<one>(?:the\s+)?(?!(?:The|It|That|This|He|She)\b)[A-Z][^\W\d_]+)\s+(?:(?:lies|is|lives|sits|stands)\s+)?(?:the\s+)?(?:farthest|furthest|most)\s+"
    r"(?P<what>[^\W\d_]+)\b"
)
# "Of the three things only the coin got lost."
_ONLY_ONE = regex(
    r"\bonly\s+(?P<one>(?:the\s+|an?\s+)?[^\W\d_]+)\s+(?:got|was|is|were|has\s+been)\s+(?!(?:the|an?|in|at|on|to|it|that)\b)(?P<what>[^\W\d_]+)\b",
    re.IGNORECASE,
)
# "Oda's mother, Lotte."
_RELATED = regex(r"\W*[A-Z][^\W\d_]+['’]s\s+[a-z]+(?:\s[a-z]+)?,\s+(?P<one>[A-Z][^\W\d_]+)\W*")

# "Tarn is where she was born, and Quist is where she died.", "She left Velm for Quist, where she died."
_IS_WHERE = regex(
    r"(?:\A|[,;]\s+(?:and\s+|but\s+)?)\W*(?P<one>[A-Z][^\W\d_]+)\s+is\s+where\s+(?:[^\W\d_]+\s+){1,3}?(?P<what>[^\W\d_]+)(?=[,;]|\W*\Z)"
)
_WHERE_IT_WAS = regex(
    r"\b(?:to|for|in|at|near)\s+(?P<one>[A-Z][^\W\d_]+),\s+where\s+(?:[^\W\d_]+\s+){1,3}?(?P<what>[^\W\d_]+)(?=[,;]|\W*\Z)"
)
# "But the skin weighs more.", where the heaviest is asked for
_WEIGHS_MORE = regex(
    r"\A\W*(?:but\s+)?(?P<one>(?:the\s+)?[^\W\d_]+)\s+(?:weighs|measures|costs|lasts|covers)\s+(?:even\s+|still\s+|far\s+)?more\W*\Z",
    re.IGNORECASE,
)

# "The priest taught him to read, Bram to row."
_TO_DO = regex(
    r"(?:\A|,\s+(?:and\s+|but\s+)?)\W*(?P<one>(?:the\s+)?[^\W\d_]+)\s+(?:[a-z]+\s+(?:him|her|it|them|me|us)\s+)?to\s+(?P<what>[a-z]+)(?=,|\W*\Z)",
    re.IGNORECASE,
)

# "…; the one against was Ms Aro"
_THE_ONE_WAS = regex(
    r"\bthe\s+(?:only\s+)?one\s+(?P<what>[^\W\d_]{4,})\s+(?:[^\W\d_]+\s+){0,3}?(?:is|was)\s+(?P<one>(?:(?:Ms|Mr|Mrs|Dr)\.?\s+)?[A-Z][^\W\d_]+)"
)
# "Two to one: Lund and Ibsen for, Aro against."
_NAME = r"(?!(?:The|Its?|One|In|At|On|An?|His|Her|This|That|He|She|They|We)\b)[A-Z][^\W\d_]+"
_NAME_AND_WORD = regex(
    rf"(?:\A|[:;]\s)\W*(?P<one>{_NAME})\s+(?P<what>[a-z]{{4,}}),\s+(?:and\s+)?{_NAME}\s+[a-z]{{3,}}\W*\Z"
)
_AND_NAME_AND_WORD = regex(rf"{_NAME}\s+[a-z]{{3,}},\s+(?:and\s+|but\s+)?(?P<one>{_NAME})\s+(?P<what>[a-z]{{4,}})\W*\Z")
# "After Kilimanjaro comes the Rwenzori, then Mount Kenya.", "Kilimanjaro is the highest, followed by Mount Kenya."
_AFTER_FIRST = regex(
    r"\A\W*after\s+(?:the\s+)?[^,;:]{2,40}?\s+(?:comes?|is|follows|ranks)\s+(?P<one>(?:the\s+)?[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?)",
    re.IGNORECASE,
)
_FOLLOWED_BY = regex(
    r"\b(?:highest|largest|longest|biggest|oldest|tallest|first|number\s+one)\b[^;:]{0,10}?,\s+(?:followed\s+by|then)\s+(?P<one>(?:the\s+)?[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?)"
)

# "It was blue and is green now."
_IS_NOW = regex(
    r"\bwas\s+(?:once\s+)?[^\W\d_]+\s+(?:and|but)\s+is\s+(?:now\s+)?(?P<one>[^\W\d_]+)(?:\s+(?:now|today))?\W*\Z",
    re.IGNORECASE,
)
_ASKS_NOW = regex(r"\b(?:is|are)\b")
# "They painted it blue.", "It was painted blue."
_PAINTED = regex(
    r"\b(?:painted|dyed|tarred|varnished|coloured|colored)\s+(?:(?:it|them)\s+)?(?P<one>(?!by\b|in\b|the\b|and\b|over\b)[a-z]+(?:[\s-](?:blue|green|red|grey|gray|brown|white|yellow))?)"
    r"(?=\W*\Z|\s+(?:in|by|on|last)\b|,)",
)
_ASKS_COLOUR = regex(r"\b(?:colou?r|shade)\b", re.IGNORECASE)
# "The teapot holds it."
_HOLDS_IT = regex(
    r"\W*(?P<one>(?:the|an?|her|his)\s+[^\W\d_]+(?:\s[^\W\d_]+)?)\s+(?:holds|contains|hides|keeps)\s+it\W*",
    re.IGNORECASE,
)
_ASKS_WHERE_IT_IS = regex(r"\bwhere\b", re.IGNORECASE)

# "A cobbler makes shoes, a cooper barrels."
_AND_THE_OTHER = regex(
    r"\A\W*(?:an?|the)\s+[^\W\d_]+\s+[a-z]+s\s+[^\W\d_]+(?:,|\s+and)\s+(?:and\s+)?(?P<one>(?:an?|the)\s+[^\W\d_]+)\s+(?P<what>[^\W\d_]+)\W*\Z",
    re.IGNORECASE,
)

_ASKS_DOER = regex(r"\bwh(?:o|at)\b|\bwhich\s+[^\W\d_]+\s+(?!is\b|was\b)", re.IGNORECASE)

# "Everyone is shorter than Aro."
_ALL_ARE_LESS = regex(
    r"\b(?:everyone|everybody|all(?:\s+the)?\s+others?|the\s+others|all\s+of\s+them)(?:\s+else)?\s+(?:is|are)\s+[a-z]+er\s+than\s+(?P<one>[A-Z][^\W\d_]+)\W*\Z",
    re.IGNORECASE,
)
_ASKS_SUPERLATIVE = regex(r"\b[a-z]{3,}est\b")
# "A compass shows the direction, a log the speed, and a sextant the height of the sun."
_A_THING_THE_OTHER = regex(
    r"(?:,|,?\s+and)\s+(?P<one>an?\s+[^\W\d_]+)\s+the\s+(?:[^\W\d_]+\s+){1,4}?(?P<what>[^\W\d_]+)(?=[,;.]|\W*\Z|\s(?:above|below|of|in|on|between)\b)"
)

# "The reddish tint? That's due to copper."
_DUE_TO = regex(
    r"\b(?:due|thanks|owing)\s+to\s+(?P<one>(?:the\s+)?[^\W\d_]+(?:\s[^\W\d_]+)?)(?=\W*\Z|[,;.(]|\s(?:in|that|which|and)\b)",
    re.IGNORECASE,
)
_ASKS_WHAT = regex(r"\b(?:which|what)\b", re.IGNORECASE)

# "To starboard they're green."
_FRONTED = regex(
    r"\A\W*(?:to|on|at|in|by|for|with|from)\s+(?:the\s+)?(?P<what>[^\W\d_]+),?\s+(?:they|it|these|he|she)(?:['’](?:re|s)|\s+(?:are|is|was|were))\s+"
    r"(?P<one>(?:the\s+|an?\s+)?[^\W\d_]+(?:\s[^\W\d_]+)?)\W*\Z",
    re.IGNORECASE,
)

POSITIONS = (
    Construction(_FRONTED, words=("'re ", "'s ", "’re ", "’s ", " are ", " is ", " was ", " were ")),
    Construction(_DUE_TO, _ASKS_WHAT, words=("due to", "hanks to", "wing to")),
    Construction(_ALL_ARE_LESS, _ASKS_SUPERLATIVE, words=("er than ",)),
    Construction(_A_THING_THE_OTHER, words=(", a ", ", an ", " and a ", " and an ")),
    Construction(_AND_THE_OTHER, _ASKS_DOER, words=(" a ", " an ", " the ")),
    Construction(_IS_NOW, _ASKS_NOW, words=("was ",)),
    Construction(_PAINTED, _ASKS_COLOUR, words=("painted", "dyed", "tarred", "varnished", "colo")),
    Construction(_HOLDS_IT, _ASKS_WHERE_IT_IS, whole=True, words=(" it",)),
    Construction(_THE_ONE_WAS, words=("the one ", "the only one ")),
    Construction(_NAME_AND_WORD, words=(", ",)),
    Construction(_AND_NAME_AND_WORD, words=(", ",)),
    Construction(_AFTER_FIRST, ASKS_SECOND, words=("fter ",)),
    Construction(_FOLLOWED_BY, ASKS_SECOND, words=("followed by", "then ")),
    Construction(_TO_DO, words=(" to ",)),
    Construction(_IS_WHERE, words=(" where ",)),
    Construction(_WHERE_IT_WAS, words=(", where ",)),
    Construction(_WEIGHS_MORE, regex(r"\b(?:[a-z]+est|most)\b"), words=("more",)),
    Construction(_FARTHEST, words=("farthest", "furthest", "most")),
    Construction(_ONLY_ONE, words=("only ", "Only ")),
    Construction(_RELATED, whole=True, words=("'s ", "’s ")),
    Construction(_IN_A_ROW, _ASKS_MIDDLE, whole=True),
    Construction(_HAS_BESIDE, _ASKS_MIDDLE),
    Construction(_BETWEEN_THEM, _ASKS_MIDDLE, words=("etween",)),
    Construction(_IN_BETWEEN, _ASKS_MIDDLE, words=("etween",)),
    Construction(_WAY_OF_IT, words=("orth of", "outh of", "ast of", "est of")),
    Construction(_THE_FIRST_AT, words=("the first ", "the last ", "the only ")),
    Construction(_CAME_FROM, ASKS_WHO, words=(" from ",)),
    Construction(_ONE_THAT_IS, words=("ne that", "ne who", "ne which")),
    Construction(_BUT_ONLY, words=("only ", "Only ")),
    Construction(_EACH_IS, words=(", a ", ", an ", ", and a ", ", and an ")),
    Construction(_EACH_HAS, words=("'s ", "’s ")),
    Construction(_AND_ITS, words=("'s ", "’s ")),
    Construction(_FROM, _ASKS_BEGINNING, words=("from ", "From ")),
    Construction(_TO, _ASKS_END, words=("from ", "From ")),
    *(_beside(where) for where in _WHERE_TEXT.split()),
    Construction(_LAST_OF_ALL, _ASKS_LAST, words=("last", "final", "in the end")),
    Construction(_FROM_TO_LAST, _ASKS_LAST, words=("from ",)),
    Construction(_ONE_DOES_NOT, _ASKS_WHICH_DOES_NOT, words=("n't", "n’t", "not")),
    Construction(_ENDS_AT, _ASKS_WHERE_IT_ENDS, words=(" at ", " to ", " in ", " end ", " on ", " near ")),
    Construction(_DESCRIBED_BY, whole=True, words=(", the ",)),
)


_ROW = regex(
    r"\bfrom\s+(?:the\s+)?(?P<first>[^\W\d_]+)\s+to\s+(?:the\s+)?(?P<last>[^\W\d_]+)\s*[:,]\s+(?P<row>[^;.\n]+)",
    re.IGNORECASE,
)
_LINK = regex(
    r"(?P<one>[A-Z][^\W\d_]+)\s+(?:(?:is|lies|stands|sits|was)\s+)?(?:even\s+|still\s+)?(?P<what>north|south|east|west|above|below|[a-z]+er)\s+"
    r"(?:(?:of|than)\s+)?(?P<other>[A-Z][^\W\d_]+)"
)
_ASKS_MOST = regex(r"\b(?:[a-z]+est|most)\b")


_MIDDLE = Construction(_IN_A_ROW, _ASKS_MIDDLE, whole=True)


def middle_of_row(text: str, start: int, end: int, asked: str) -> Span | None:
    """Return the middle one of three that a stretch does no more than name in a row: "Ulla – Jens – Rita"."""
    one = _MIDDLE.find(text[start:end], asked)
    return (start + one[0], start + one[1]) if one else None


def at_the_end(text: str, start: int, end: int, asked: str) -> Span | None:
    """Return the one at the end that is asked for, of a row with its direction or of a chain; None where none is told.

    "From north to south: Tarn, Velm, Quist", "Velm is south of Tarn, and Quist south of Velm".
    """
    if _ASKS_MOST.search(asked) is None:
        return None
    row = _ROW.search(text, start, end)
    if row is not None and _is_end(row["first"], asked) is not _is_end(row["last"], asked):
        names = list(re.finditer(r"[^\W\d_]+(?:\s(?!and\b)[^\W\d_]+)?", row["row"]))
        names = [name for name in names if name.group() != "and"]
        one = names[0] if _is_end(row["first"], asked) else names[-1]
        return (row.start("row") + one.start(), row.start("row") + one.end()) if len(names) > 1 else None
    links = list(_LINK.finditer(text, start, end))
    ways = {link["what"].lower() for link in links}
    others = {link["other"] for link in links}
    top = [link for link in links if link["one"] not in others]
    return (
        top[0].span("one")
        if len(links) > 1 and len(ways) == 1 and len(top) == 1 and _is_end(ways.pop(), asked)
        else None
    )


# "Jupiter's day lasts 9 h 56 min, Saturn's 10 h 33 min."
_OWN_VALUE = regex(r"(?P<one>[A-Z][^\W\d_]+)['’]s(?:\s+[a-z]+){0,3}\s+(?P<value>\d[\d.,]*\d|\d)\s?(?P<unit>[^\W\d_]+)")
_ASKS_LEAST = regex(r"\b(?:shortest|smallest|lowest|fewest|lightest|cheapest|thinnest|narrowest)\b", re.IGNORECASE)
_ASKS_GREATEST = regex(r"\b(?:longest|largest|highest|heaviest|tallest|biggest|widest|deepest|most)\b", re.IGNORECASE)


# "Saturn takes 10.7 hours, Jupiter 9.9."
_HAS_VALUE = regex(
    r"(?P<one>[A-Z][^\W\d_]+)(?:\s+(?:takes|has|is|lasts|needs|measures|weighs|covers|costs|holds|reaches|gets))?\s+(?:only\s+|about\s+)?"
    r"(?P<value>\d[\d.,]*\d|\d)(?:\s?(?P<unit>[^\W\d_]+[²³]?))?"
)
_NEXT_VALUE = regex(r"(?:,|;|\sand|,\s(?:and|but|while))\s+(?:the\s+)?\Z")


def _each_with_value(text: str, start: int, end: int) -> list[re.Match[str]]:
    """Return names with a number each that follow each other, all in the unit of the first; nothing else."""
    told = list(_HAS_VALUE.finditer(text, start, end))
    row = all(_NEXT_VALUE.fullmatch(text, one.end(), other.start()) for one, other in itertools.pairwise(told))
    same = bool(told) and told[0]["unit"] is not None and {one["unit"] for one in told[1:]} <= {told[0]["unit"], None}
    return told if row and same else []


def by_value(text: str, start: int, end: int, asked: str) -> Span | None:
    """Return whose value is the least or the greatest, as is asked, where a clause gives each of several its own."""
    told = list(_OWN_VALUE.finditer(text, start, end)) or _each_with_value(text, start, end)
    least, greatest = _ASKS_LEAST.search(asked), _ASKS_GREATEST.search(asked)
    if len(told) < 2 or bool(least) is bool(greatest) or len({one["unit"] for one in told} - {None}) != 1:
        return None
    values = [find_terms(one["value"])[0].value for one in told if find_terms(one["value"])]
    best = min(values) if least else max(values)
    return told[values.index(best)].span("one") if len(values) == len(told) and values.count(best) == 1 else None


def _is_end(word: str, asked: str) -> bool:
    """Tell whether a word names the end that is asked for: "south" or "youngest", "older" where the oldest is."""
    return is_echo(word, asked) or (word.lower().endswith("er") and f"{word.lower()[:-2]}est" in asked.lower())
