"""What a sentence states, for schemes that compare texts: "The bird is the Arctic tern, which flies furthest."."""

from __future__ import annotations

import re
from collections.abc import Callable, Iterable

from dryquarry.marking.reading import Found, first_sentence
from dryquarry.marking.text import bare

MOST_WORDS_WITHOUT_VERB = 5
_REMARK = re.compile(r"\s*(?:\([^()]*\)|\[[^\[\]]*\])\s*$")
_CLAUSE = re.compile(r"\s*\([^()]*\)|\s+[-–—]\s+.*$|,\s+.*$", re.DOTALL)
_VERB = re.compile(
    r"(?:\b(?:is|are|was|were|be|called|named|known\s+as|written(?:\s+as)?|spelled|means|keeps|has|"
    r"gets|takes|falls(?:\s+on)?|(?:lies|stands)(?:\s+(?:in|on|at))?|curves|bends|turns|points|goes|runs|flows|faces|leads)\b"
    r"|(?<=\w)'s\b|(?<=\w)'re\b)[:\s]+",
    re.IGNORECASE,
)
# What is said about an answer, or for it: "…, which flies furthest", "… because it flies furthest".
_ASIDE = re.compile(
    r"(?:,\s+(?:which|who|whose|where)|,?\s+(?:because|since|as\s+(?:it|they|he|she)))\b(?P<rest>.*)$", re.DOTALL
)
_TAKEN_BACK = re.compile(
    r"\s+(?:is|was)\s+(?:\w+ly\s+)?(?:wrong|false|incorrect|mistaken|untrue|not\s+(?:so|true|right|correct))\b"
)
# What leaves it open whether a sentence names the answer by its first words.
_DOUBT = re.compile(
    r"\b(?:not?|never|nor|wrong|false|incorrect|but|however|or|unlike|instead|rather|second|third|next|say|says|said|"
    r"thinks?|thought|believe[sd]?|may|might|could|perhaps|maybe|candidates?)\b|n't\b|[;?:]",
    re.IGNORECASE,
)
# "One bird flies that far: the Arctic tern"
_NAMED_AT_END = re.compile(r":\s+(?P<name>\w[^:.;,]{1,60})$")
_DENIES = re.compile(r"\b(?:not?|never|nor|nobody|none|wrong\w*|false\w*|incorrect\w*)\b|n't\b", re.IGNORECASE)
# "made by …", "found in …": what the answer does or suffers, before the answer.
_PARTICIPLE = re.compile(
    r"(?:mostly\s+|mainly\s+)?\w+(?:ed|en|de|nt|ne|wn|und|ung|lt|ht)\s+(?:by|in|on|at|after|as)\s+", re.IGNORECASE
)
_DOES = re.compile(r"(?:is|are|was|were|has|have|does|do|did|can|will|\w{3,}s)\s", re.IGNORECASE)
LEAST_SUBJECT = 4
MOST_WORDS_AFTER_SUBJECT = 25


def readings_of(found: Found) -> list[str]:
    """Return the readings of a place, from the whole down to what follows its last verb without remarks.

    A long sentence without such a verb states no answer, and has no readings.
    """
    sentence = bare(first_sentence(found.text))
    readings = [found.text, sentence, *_without_remarks(sentence)]
    aside = _ASIDE.search(sentence)
    if aside and not _TAKEN_BACK.match(aside["rest"]) and not _DENIES.search(sentence, 0, aside.start()):
        sentence = bare(sentence[: aside.start()])
    named = _NAMED_AT_END.search(sentence)
    if named and _DENIES.search(sentence, 0, named.start()):
        named = None
    readings += [named["name"]] if named else []
    verbs = list(_VERB.finditer(sentence))
    if verbs:
        after = bare(sentence[verbs[-1].end() :])
        readings += [_PARTICIPLE.sub("", after, count=1) if _PARTICIPLE.match(after) else "", after]
        readings += _without_remarks(after)
    elif not named and found.read_by == "last sentence" and len(sentence.split()) > MOST_WORDS_WITHOUT_VERB:
        return []
    return list(dict.fromkeys(reading for reading in readings if reading))


def subject_of(found: Found, reply: str, keys: Iterable[str], folded: Callable[[str], str]) -> str | None:
    """Return the (folded) key that the only sentence of a reply speaks of: "The Arctic tern flies furthest."

    None where anything in it is in doubt: that it is not so, or is so of another.
    """
    if found.read_by != "last sentence" or bare(reply) != found.text or _DOUBT.search(found.text):
        return None
    said = folded(found.text)
    if len(said.split()) > MOST_WORDS_AFTER_SUBJECT:
        return None
    return next(
        (
            key
            for key in keys
            if len(key) >= LEAST_SUBJECT and said.startswith(f"{key} ") and _DOES.match(said, len(key) + 1)
        ),
        None,
    )


def _without_remarks(text: str) -> list[str]:
    return [bare(_REMARK.sub("", text)), bare(_CLAUSE.sub("", text))]
