"""Clauses and names that tell of another than the one asked for: what lies the other way, whose daughter she is."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.reading.echo import echo, is_echo, question_in
from dryquarry.marking.reading.possible_answers import parts_of
from dryquarry.marking.regexes import regex
from dryquarry.marking.values.texts import plain_letters

_WAYS = (
    ("north", "south"), ("northern", "southern"), ("east", "west"), ("eastern", "western"), ("left", "right"),
    ("above", "below"), ("upper", "lower"), ("inside", "outside"), ("inner", "outer"), ("upstream", "downstream"),
    ("inland", "seaward"),
)  # fmt: skip
_OTHER_WAYS = {one: other for pair in _WAYS for one, other in (pair, pair[::-1])}
_SIDES = {"northern": "north", "southern": "south", "eastern": "east", "western": "west"}
_WAY = regex(rf"\b(?:{'|'.join(sorted(_OTHER_WAYS, key=len, reverse=True))})\b", re.IGNORECASE)
# "what is left", "the right answer", "as shown above": no way
_NO_WAY = regex(
    r"(?<!on the )(?<!to the )(?<!on its )(?<!on your )\b(?:left|right)\b(?!\s+(?:of|side|hand|bank)\b)|"
    r"\b(?:as|shown|said|stated|mentioned|listed|given|explained|seen|see|from)\s+(?:above|below)\b",
    re.IGNORECASE,
)


def _ways_in(text: str) -> frozenset[str]:
    said = {plain_letters(word).lower() for word in _WAY.findall(_NO_WAY.sub("", text))}
    return frozenset(_SIDES.get(word, word) for word in said)


# "on all other days it opens at nine"
_ON_OTHERS = regex(
    r"\W*(?:on|in|at|for|with)\s+(?:all\s+|any\s+|every\s+|each\s+)?(?:the\s+)?others?\b(?!\s+words?\b)", re.IGNORECASE
)
# "Since Ulle lies in the west, Harn."
_REASON = regex(r"\A\W*(?:since|as|because|while|whereas)\b[^,;]*,\s+(?=\S)", re.IGNORECASE)


_CONTRASTED = regex(r",\s+(?:whereas|while|but|though)\s", re.IGNORECASE)


def lies_the_other_way(text: str, asked: str) -> bool:
    """Tell whether a clause says what lies the other way than asked: "Heron Bay lies south of it", of the north."""
    if _ON_OTHERS.match(text) and "other" not in asked:
        return True
    text = _REASON.sub("", text)
    if (against := _CONTRASTED.search(text)) is not None and not _ways_in(text[: against.start()]):
        return False  # "1 September, whereas in the south it is 1 March"
    wanted, told = _ways_in(question_in(asked)), _ways_in(text)
    if len(wanted) != 1 or not told or wanted & told:
        return False
    return {_OTHER_WAYS[way] for way in wanted} == told


_WORD = regex(r"[^\W_]+(?:['’-][^\W_]+)*")


def _of_way_asked(text: str, start: int, end: int, asked: str) -> tuple[int, int]:
    """Return the part of a clause that tells of the way asked for: "Seal Bay lies south of it, Heron Bay north"."""
    wanted, told = _ways_in(question_in(asked)), _ways_in(text[start:end])
    parts = parts_of(text, start, end) if len(wanted) == 1 and wanted < told else []
    if len(parts) < 2:
        return start, end
    own = [part for part in parts if _ways_in(text[slice(*part)]) == wanted]
    others = [part for part in parts if lies_the_other_way(text[slice(*part)], asked)]
    return own[0] if len(own) == 1 and len(others) == len(parts) - 1 else (start, end)


# "The walls are blue and the door is green", "Door: green; walls: blue", "Blue walls, green door"
_SHORT_PART_WORDS = 6
_ASKS_LOOK = regex(r"\b(?:what|which)\s+(?:colou?r|shade|material|shape)\b", re.IGNORECASE)


_OWNER = regex(r"(?P<owner>[^\W\d_]+)['’]s\b(?!\s+(?:a|an|the|not|been|got)\b)")


def _of_owner_asked(text: str, start: int, end: int, asked: str) -> tuple[int, int]:
    """Return the part of a clause that tells of whose is asked: "The pilot's boat is blue, the baker's is red"."""
    wanted = {one["owner"].casefold() for one in _OWNER.finditer(asked)}
    parts = parts_of(text, start, end) if len(wanted) == 1 else []
    owners = [{one["owner"].casefold() for one in _OWNER.finditer(text, *part)} for part in parts]
    own = [part for part, told in zip(parts, owners, strict=True) if told == wanted]
    return own[0] if len(parts) > 1 and len(own) == 1 and all(owners) else (start, end)


def _of_thing_asked(text: str, start: int, end: int, asked: str) -> tuple[int, int]:
    """Return the one of several short parts that tells of the thing asked about, where its colour is asked for."""
    parts = parts_of(text, start, end) if _ASKS_LOOK.search(asked) else []
    if len(parts) < 2:
        return start, end
    words = [_WORD.findall(text[slice(*part)]) for part in parts]
    if not all(1 < len(said) <= _SHORT_PART_WORDS for said in words):
        return start, end
    told = [sum(is_echo(word, asked) and not is_echo(word, "") for word in said) for said in words]
    nouns = [any(not is_echo(word, "") for word in said[:2]) for said in words]
    own = [part for part, count in zip(parts, told, strict=True) if count]
    return own[0] if len(own) == 1 and all(nouns) else (start, end)


# "The ring? In the drawer. The key? In the teapot."
_FRAGMENT = regex(r"(?:\A|[.!]\s|\n)\W{0,3}(?P<what>(?:[Tt]he\s+|[Hh](?:is|er)\s+)?[^\W\d_]+(?:\s[^\W\d_]+)?)\?(?=\s)")


def part_asked(text: str, start: int, end: int, asked: str) -> tuple[int, int]:
    """Return the part of a clause that tells of the way, of the thing or of the owner that a question asks about."""
    start, end = _of_way_asked(text, start, end, asked)
    start, end = _of_thing_asked(text, start, end, question_in(asked))
    return _of_owner_asked(text, start, end, question_in(asked))


def answers_about_another(text: str, start: int, asked: str) -> bool:
    """Tell whether a sentence stands behind a short question about another thing, where one is about the one asked."""
    fragments = _fragments(text, asked)
    if len(fragments) < 2 or [about for _, about in fragments].count(True) != 1:
        return False
    behind = [about for end, about in fragments if end <= start]
    return bool(behind) and not behind[-1]


@lru_cache(maxsize=64)
def _fragments(text: str, asked: str) -> tuple[tuple[int, bool], ...]:
    """Return where each short question of a reply ends, and whether it is about what is asked."""
    if "?" not in text:
        return ()
    return tuple(
        (one.end(), any(is_echo(word, asked) and not is_echo(word, "") for word in one["what"].split()))
        for one in _FRAGMENT.finditer(text, 0, LONGEST_LOOK)
    )


LONGEST_LOOK = 4000
_ASKS_WHERE = regex(r"\bwhere\b", re.IGNORECASE)
_NOT_IN_IT = regex(
    r"\b(?:next\s+to|beside|under|beneath|below|behind|above|near|opposite|in\s+front\s+of|on\s+top\s+of|outside|between)\s+"
    r"(?:(?:the|an?|his|her|its|their)\s+)?\Z",
    re.IGNORECASE,
)


def is_only_beside(text: str, start: int, end: int, place: int, asked: str) -> bool:
    """Tell whether a thing is only what the place asked for is near to: "the teapot" in "Behind the teapot"."""
    return _ASKS_WHERE.search(question_in(asked)) is not None and _NOT_IN_IT.search(text, start, place) is not None


# "Solveig, with the help of Runa"
WITH_HELP = regex(
    r",?\s+(?:with\s+(?:the\s+)?(?:help|aid|assistance)\s+(?:of|from)|with\s+[^\W\d_]+['’]s\s+help|(?:helped|assisted|aided)\s+by|"
    r"together\s+with)\s",
    re.IGNORECASE,
)
# "Perhaps Solveig, perhaps Runa", "Heron Bay or Seal Bay": several, none of which is decided for
_A_NAME = r"(?:the\s+|an?\s+)?[\w'’-]+(?:\s[\w'’-]+){0,2}"
_UNDECIDED = regex(
    rf"\W*yes\s+and\s+no\W*|\W*it(?:'s|\s+is)\s+a\s+(?:close\s+call|toss-?up)\b.*|\W*(?:perhaps|maybe|possibly)\s+{_A_NAME},?\s+(?:or\s+)?(?:perhaps|maybe|possibly)\s+{_A_NAME}\W*",
    re.IGNORECASE,
)
_ONLY_TWO = regex(rf"\W*(?:either\s+)?{_A_NAME}\s+or\s+{_A_NAME}\W*", re.IGNORECASE)


def is_undecided(text: str, start: int, end: int) -> bool:
    """Tell whether a clause decides nothing: "Perhaps Solveig, perhaps Runa", "Yes and no"."""
    return _UNDECIDED.fullmatch(text, start, end) is not None


def names_only_two(text: str, start: int, end: int) -> bool:
    """Tell whether a clause is nothing but one name or another: "Heron Bay or Seal Bay"."""
    return _ONLY_TWO.fullmatch(text, start, end) is not None


_KIN = (
    r"(?:daughter|son|sister|brother|mother|father|wife|husband|widow|child|cousin|uncle|aunt|nephew|niece|friend|teacher|pupil|"
    r"master|apprentice|tributary|branch|neighbour|neighbor|colleague|servant|assistant|grandmother|grandfather|grandson|granddaughter|boss|heir)s?"
)
_KIN_BEHIND = regex(rf"(?:['’]s?|(?<=['’]s)|(?<=s['’]))\s+(?:[^\W\d_]+\s+)?{_KIN}\b", re.IGNORECASE)
_KIN_BEFORE = regex(rf"\b{_KIN}\s+of\s+(?:the\s+)?\Z", re.IGNORECASE)
_ASKS_FROM = regex(r"\bfrom\s+(?:wh|what)|\bfrom\s*\?", re.IGNORECASE)
_AWAY = regex(r"\b(?:leads?|goes|runs|flows)\s+away\s+from\s+(?:the\s+)?\Z", re.IGNORECASE)
_ASKS_KIN = regex(rf"\bwhose\b|\b{_KIN}\b", re.IGNORECASE)
# Two kinds of place have names of one form.
_KINDS_TEXT = "bay island sea lake river street bridge gate tower hill mountain strait channel point head harbour"
_KINDS = _KINDS_TEXT.split()


def is_whose_kin(text: str, start: int, end: int, asked: str) -> bool:
    """Tell whether a name only says whose relative it is: "Solveig" in "Solveig's daughter"."""
    if _ASKS_KIN.search(question_in(asked)):
        return False
    behind = _KIN_BEHIND.match(text, end) is not None
    away = _AWAY.search(text, max(0, start - 24), start) is not None and not _ASKS_FROM.search(asked)
    return behind or away or _KIN_BEFORE.search(text, max(0, start - 24), start) is not None


def is_of_another_kind(text: str, end: int, asked: str) -> bool:
    """Tell whether a name goes on with a kind of place that is not the kind asked for: "Heron Island" of a bay."""
    behind = re.compile(r"\s([A-Z][a-z]+)\b").match(text, end)
    question = question_in(asked).lower()
    kinds = [kind for kind in _KINDS if re.search(rf"\bwhich\s+{kind}\b", question)]
    return bool(kinds) and behind is not None and behind[1].lower() in _KINDS and behind[1].lower() not in kinds


_RANK = regex(
    r",?\s+(?:(?:is|was|came|comes|finished)\s+)?(?:the\s+)?(?P<rank>second|third|fourth|fifth)(?:\s+one)?(?=\W*(?:\Z|[,.;]|and\b(?!\s+last)))",
    re.IGNORECASE,
)


def is_of_another_rank(text: str, end: int, asked: str) -> bool:
    """Tell whether a name goes on with a rank that is not asked for: "Tamm" of "…, Tamm the second"."""
    rank = _RANK.match(text, end)
    return rank is not None and rank["rank"].lower() not in asked.lower() and _EXTREME_ASKED.search(asked) is not None


_EXTREME_ASKED = regex(r"\b(?:first|last|most|least|[^\W\d_]{2,}est)\b", re.IGNORECASE)


def is_doer(word: str, asked: str) -> bool:
    """Tell whether a word names who does what is asked about: "painter" of "who painted it"."""
    return re.search(r"(?:er|or)\Z", word) is not None and is_echo(word[:-2] + "ed", asked)


LONGEST_LABEL = 48
# "To the south: Seal Bay."
_LABEL_BEFORE = regex(r"(?:\A|(?<=[.;\n]))\s*(?!from\b)[^.;:\n]{2,40}:\s*\Z", re.IGNORECASE)


# "Ulle: west"
_BEHIND_COLON = regex(r":\s[^\n.;:]{1,40}")


def with_label(text: str, first: int, start: int, end: int) -> str:
    """Return a clause with the label that stands before it, or with what stands behind the label that it is."""
    label = _LABEL_BEFORE.search(text[max(first, start - LONGEST_LABEL) : start])
    behind = _BEHIND_COLON.match(text, end)
    return (label.group() if label else "") + text[start : behind.end() if behind else end]


# "It flows into the Tarn, which flows into the Ebb."
_MORE_OF_IT = regex(r"\s(?P<name>[A-Z][^\W\d_]+),\s+(?:which|who|whose|where)\s[^,;:]*\b[A-Z][^\W\d_][^,;:]*\Z")


def without_more_of_it(text: str, start: int, end: int, asked: str) -> int:
    """Return where a clause ends without what it says further of the thing that it names as asked for."""
    more = _MORE_OF_IT.search(text, start, end)
    if more is None or re.search(rf"\b{more['name']}\b", asked):
        return end
    told, further = (
        echo(text[slice(*span)], question_in(asked)) for span in ((start, more.end("name")), (more.end("name"), end))
    )
    return more.end("name") if told >= further and told > 0 else end


# "Which sea does the Volga flow into?"
_ASKS_OF_SUBJECT = regex(
    r"\b(?:(?P<where_first>[Ii]nto|[Tt]o|[Tt]hrough|[Ff]rom)\s+(?:wh(?:at|ich|om|ose)\b[^?,]{0,30}?)\s)?(?:does|do|did)\s+(?:the\s+)?(?P<who>[A-Z][^\W\d_]+)\s+"
    r"(?P<verb>[a-z]{3,})(?:\s+(?P<where>into|to|through|from|towards?)\b|(?(where_first)|(?!)))"
)


_ASKS_WHO_DID = regex(
    r"\b[Ww]ho\s+(?P<verb>[a-z]{3,}ed|taught|saw|met|led|told|sent|gave|brought|found|heard)\s+(?P<whom>[A-Z][^\W\d_]+)\b"
)


def is_turned_about(text: str, start: int, end: int, asked: str) -> bool:
    """Tell whether a clause says the reverse of what is asked: "The Caspian Sea flows into the Volga"."""
    if (who := _ASKS_WHO_DID.search(asked)) is not None:
        # "Lena taught Rike.", where it is asked who taught Lena
        return re.match(rf"\W*{who['whom']}\s+{who['verb']}\s+[A-Z]", text[start:end]) is not None
    asks = _ASKS_OF_SUBJECT.search(asked)
    if asks is None:
        return False
    where = (asks["where"] or asks["where_first"]).lower()
    turned = rf"(?<!\w)[A-Z]\w+(?:\s\w+)?\s+{asks['verb']}(?:s|ed)?\s+{where}\s+(?:the\s+)?{asks['who']}\b"
    return re.search(turned, text[start:end]) is not None


_ASKS_PLACE = regex(
    r"\bwhere\b|\b(?:lies|stands|situated|near|close\s+to|next\s+to|north|south|east|west|beside|opposite|between)\b",
    re.IGNORECASE,
)
# "The capital of Slovenia is near Ljubljana.", "The river north of the Danube"
_NEAR = regex(
    r"\W*[^,;:]{0,60}?(?:\b(?:is|lies)|\b[Tt]he\s+[a-zß-ÿ]+)\s+(?:near|close\s+to|next\s+to|not\s+far\s+from|(?:north|south|east|west)\s+of)\s+"
    r"(?:the\s+)?[A-Z][^,;:]{1,30}\W*"
)
# "Between west and north-west."
_BETWEEN = regex(r"\W*(?:it(?:['’]s|\s+is|\s+lies)\s+)?between\s+\S+\s+and\s+\S+\W*", re.IGNORECASE)


def only_tells_where(text: str, start: int, end: int, asked: str) -> bool:
    """Tell whether a clause names nothing but what is near it, where it is not asked where something is."""
    if text[end : end + 1] in (",", ";", ":"):
        return False
    if _BETWEEN.fullmatch(text, start, end) is not None:
        return re.search(r"\bwhere\b|\bbetween\s+wh", asked, re.IGNORECASE) is None
    return _ASKS_PLACE.search(question_in(asked)) is None and _NEAR.fullmatch(text, start, end) is not None
