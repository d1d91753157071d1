"""The sentence with which a reply begins to answer, and whether it is nothing but an answer."""

from __future__ import annotations

import itertools
import re
from collections.abc import Sequence

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.echo import is_verb
from dryquarry.marking.reading.roles import Role, Told
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.blocks import BlockKind
from dryquarry.marking.reply.structure import Reply, Sentence

LONGEST_BARE_WORDS = 6
SHORTEST_BARE_WORDS = 3
LONGEST_LEAD_WORDS = 14
_WORD = regex(r"[^\W_]+")
# "Mercury is."
_SAYS_IT_IS = regex(
    r"\W*(?!that|this|it|he|she|they|there|so\b)(?:\w+\s+){1,3}(?:is|was|are|were|did|does|do)\W*", re.IGNORECASE
)
_PRONOUNS = frozenset(("they", "he", "she", "we", "you", "these", "those"))
# "Only Ada and Cleo."
_BESIDE_NAMES = frozenset(("only", "just", "both", "and"))
_NO_FIRST = (Role.REMARKS, Role.CHECKS, Role.HEADS, Role.ASKS)


def first_that_may_answer(reply: Reply, roles: Sequence[Told]) -> int | None:
    """Return the sentence with which a reply begins to answer; None where it begins with something else."""
    for number, sentence in enumerate(reply.sentences[:4]):
        headed = reply.blocks[sentence.block].kind is BlockKind.HEADER
        if (not headed and _leads_up(roles[number], sentence, number)) or _ONLY_DENIES.match(sentence.text):
            continue
        return number if roles[number].role not in _NO_FIRST and not headed else None
    return None


def _leads_up(told: Told, sentence: Sentence, number: int) -> bool:
    """Tell whether a sentence stands before the first that may answer: a report, a heading, what was asked."""
    if told.role is Role.HEADS:
        return number == 0
    plain = len(sentence.text.split()) <= LONGEST_LEAD_WORDS and re.search(r"[\d:]", sentence.text) is None
    return told.role is Role.REPORTS or (told.role is Role.ASKS and (told.cue == "?" or plain))


# "It can't be the swift."
_ONLY_DENIES = regex(
    r"\W*(?:it|that|this)(?:\s(?:can't|cannot|isn't|wasn't|won't)(?:\sbe)?|(?:'s|\sis|\swas|\scan|\swill)\snot(?:\sbe)?)\s[^,;:]+\Z",
    re.IGNORECASE,
)


def is_title(reply: Reply, number: int, asked: str) -> bool:
    """Tell whether a line only says over again what is asked for, as a heading: "Capital of Slovenia"."""
    subject = _ASKS_FOR.search(asked)
    said = reply.sentences[number].text.strip("*_#:. \n").casefold()
    return subject is not None and number + 1 < len(reply.sentences) and said == subject["what"].strip().casefold()


# "What is the capital of Slovenia?"
_ASKS_FOR = regex(r"\bwh(?:at|o|ich)\s+(?:is|was|are|were)\s+(?:the\s+)?(?P<what>[^?.,;:]+)\?", re.IGNORECASE)


# "A sketch helps.", "The wording matters here."
_HAS_VERB = regex(
    r"(?:an?|one|this|that|each|every|nothing|nobody)\s(?:\S+\s){1,3}\S*(?:[^su]|[^ai]u)s(?:\s.*)?|\S.*\s(?:here|there|now|again)|"
    r"(?:the|this|that|its|his|her|their|our|my)\s(?:\S+\s){1,2}?\S+s\s(?:an?|the|one|two|three|four|five|six|seven|eight|nine|ten|\d+|its|his|her|their)\s.*",
    re.IGNORECASE,
)


def _begins_bold(reply: Reply, sentence: Sentence) -> bool:
    """Tell whether a sentence begins with words in bold and goes on without: a line with its label."""
    return any(start <= sentence.start < end < sentence.end - 2 for start, end in reply.view.bold)


# Behind these no verb stands: "on the left".
_ARTICLES = frozenset(("the", "a", "an"))


_NUMBER = regex(r"\d+(?:[.,]\d+)*")
# "There are 36.", "It's 36 eggs."
_SAYS_HOW_MANY = regex(
    r"\W*(?:there\s+(?:are|is|were)|it(?:['’]s|\s+is)|(?:you|we|i)\s+(?:get|count))\s+(?:exactly\s+)?"
    r"[€$£]?(?P<count>\d[\d.,]*)(?:\s[^\W\d_]+)?\W*",
    re.IGNORECASE,
)


def says_how_many(reply: Reply, number: int, asked: str) -> bool:
    """Tell whether a sentence says the one number of a reply that is not given, and no more: "There are 36"."""
    sentence = reply.sentences[number]
    said = _SAYS_HOW_MANY.fullmatch(sentence.text)
    if said is None:
        return False
    given = frozenset(_NUMBER.findall(asked))
    return said["count"].rstrip(".,") not in given and given.issuperset(_NUMBER.findall(reply.text, sentence.end))


def is_bare(reply: Reply, number: int) -> bool:
    """Tell whether a sentence is nothing but an answer: a few words, in bold or without a verb."""
    sentence = reply.sentences[number]
    if sentence.text.rstrip().endswith((":", "?")):
        return False
    block = reply.blocks[sentence.block]
    two = reply.sentences[number : number + 2]
    if len(two) > 1 and all(_begins_bold(reply, one) for one in two):
        return False  # "**Kayaks** 252 / **Canoes** 130"
    if block.kind is BlockKind.ITEM or re.search(r"[=≈→]|\w: ", sentence.text):
        return False
    if _SAYS_IT_IS.fullmatch(sentence.text):
        return True
    words = _WORD.findall(sentence.text)
    if len(words) > LONGEST_BARE_WORDS or not words:
        return False
    if len(words) > 2 and words[0].lower() in _PRONOUNS:
        return False  # "They release oxygen."
    if reply.is_bold(sentence.start, sentence.end - 1):
        return True
    told = [word.lower() for before, word in itertools.pairwise(words) if before.lower() not in _ARTICLES]
    if any(map(is_verb, told)) or _HAS_VERB.fullmatch(" ".join(words)):
        return False
    alone = sentence.start == block.start and sentence.end >= block.end
    # "126 crates arrive." has a verb, which no list of verbs need know: a bare amount has a unit and no more
    shortest = SHORTEST_BARE_WORDS - words[0].isdecimal()
    count = sum(word.lower() not in _BESIDE_NAMES for word in words)
    return (alone or count <= shortest) and cue("copula").search(sentence.text) is None
