"""Replies that speak to whoever marks them: found and flagged, so that a person looks at the mark."""

from __future__ import annotations

import base64
import binascii
import codecs
import re
import unicodedata
from collections.abc import Iterator, Sequence
from functools import cache

from dryquarry.marking.judging.steering_cues import FULL, GIVE, JUDGE, KINDS, MARKS, TALK, UNSEEN
from dryquarry.marking.regexes import regex

INVISIBLE = "invisible characters"
ENCODED = "encoded words to the judge"
FORGED = "a forged verdict"
TALKS = "talk of how it is marked"
HIDDEN = "hidden text"
FEWEST_NAMED = 2
_FLAGS = re.IGNORECASE | re.MULTILINE
_CODE = regex(r"```.*?(?:```|\Z)", re.DOTALL)
_SENTENCE = regex(r"(?<=[.!?:;])\s+|\n+")
MOST_READ = 200_000
FEWEST_ZERO_WIDTH = 4
_ZERO_WIDTH = "\u200b\u200c\u2060\u2061\u2062\u2063\u2064\ufeff\u00ad\u180e\u034f"
_JOINERS = "\u200d\u200e\u200f\u202a\u202b\u202c\u202d\u202e\u2066\u2067\u2068\u2069"
_TAGS = regex("[\U000e0020-\U000e007f]+")
_FLAG_TAGS = regex("\U0001f3f4[\U000e0020-\U000e007f]+")
_VARIATIONS = regex("[\ufe00-\ufe0e\U000e0100-\U000e01ef]{3,}")
_BASE64 = regex(r"[A-Za-z0-9+/_-]{20,}={0,2}")
_HEX = regex(r"(?:[0-9a-fA-F]{2}[ :]?){12,}")
_SPACED = regex(r"\b(?:\w[ .\-_*]){5,}\w\b")
# Letters of other scripts that look like Latin ones, where they stand within Latin words.
_LOOK_ALIKES = str.maketrans(
    "аеіорсухѕјԁһӏαοενικρτυΑΒΕΖΗΙΚΜΝΟΡΤΥΧАВЕКМНОРСТХ", "aeiopcyxsjdhlaoevikptuABEZHIKMNOPTYXABEKMHOPCTX"
)
_MIXED = regex(r"\b(?=\w*[A-Za-z])(?=\w*[Ͱ-Ͽа-яѐ-ӿА-Я])\w+\b")
_LEET = str.maketrans("013457@$", "oleastas")


def speaks_to_judge(reply: str, question: str = "", criteria: Sequence[str] = ()) -> tuple[str, ...]:
    """Return in which ways a reply speaks to its judge, in words; empty where it does not.

    The text is read as it stands, without invisible characters, with look-alike letters made plain, and what is
    encoded in it is decoded. `criteria` are the ids that a forged verdict would name; words about marking that the
    `question` uses itself are no sign. Of a very long reply both ends are read.
    """
    if len(reply) > MOST_READ:
        reply = reply[: MOST_READ // 2] + "\n" + reply[-MOST_READ // 2 :]
    plain = _made_plain(reply)
    found = dict.fromkeys(_kinds(plain))
    if _names_points(plain, criteria):
        found[FORGED] = None
    if _talks_of_marking(plain, question):
        found[TALKS] = None
    if re.search(UNSEEN, _CODE.sub("", plain), _FLAGS | re.DOTALL):
        found[HIDDEN] = None
    if _hides_characters(reply):
        found[INVISIBLE] = None
    for hidden in _hidden(reply):
        if _speaks(_made_plain(hidden), question, criteria):
            found[ENCODED] = None
            break
    return tuple(found)


def _made_plain(text: str) -> str:
    visible = "".join(char for char in text if char not in _ZERO_WIDTH and char not in _JOINERS)
    folded = unicodedata.normalize("NFKC", visible)
    return _MIXED.sub(lambda match: match.group().translate(_LOOK_ALIKES), folded)


def _speaks(text: str, question: str, criteria: Sequence[str]) -> bool:
    return any(_kinds(text)) or _names_points(text, criteria) or _talks_of_marking(text, question)


def _names_points(text: str, criteria: Sequence[str]) -> bool:
    """Tell whether a text gives numbers to two criteria or more, in whatever form."""
    named = 0
    for name in criteria:
        near = rf"\b{re.escape(name)}\b[^\w\n]{{1,20}}\d|\d[^\w\n]{{0,4}} for {re.escape(name)}\b"
        named += re.search(near, text, re.IGNORECASE) is not None
    return named >= FEWEST_NAMED


def _talks_of_marking(text: str, question: str) -> bool:
    """Tell whether a sentence has words about marking of two groups that the question does not use itself."""
    groups = [group for group in _talk() if not group.search(question)]
    return any(sum(group.search(sentence) is not None for group in groups) > 1 for sentence in _SENTENCE.split(text))


@cache
def _talk() -> tuple[re.Pattern[str], ...]:
    return tuple(re.compile(pattern, re.IGNORECASE) for pattern in TALK.values())


def _kinds(text: str) -> Iterator[str]:
    for kind, patterns in _patterns():
        if any(pattern.search(text) for pattern in patterns):
            yield kind


@cache
def _patterns() -> tuple[tuple[str, tuple[re.Pattern[str], ...]], ...]:
    lists = {"{judge}": JUDGE, "{marks}": MARKS, "{full}": FULL, "{give}": GIVE}

    def compiled(pattern: str) -> re.Pattern[str]:
        for name, words in lists.items():
            pattern = pattern.replace(name, words)
        return re.compile(pattern, _FLAGS)

    return tuple((kind, tuple(compiled(one) for one in patterns)) for kind, patterns in KINDS.items())


def _hides_characters(text: str) -> bool:
    zero_width = sum(text.count(char) for char in _ZERO_WIDTH)
    overrides = sum(text.count(char) for char in "\u202d\u202e")
    tags = _TAGS.search(_FLAG_TAGS.sub("", text))
    return zero_width >= FEWEST_ZERO_WIDTH or overrides > 0 or tags is not None or bool(_VARIATIONS.search(text))


def _hidden(text: str) -> Iterator[str]:
    """Yield the texts that are hidden in a text: in tag characters, in base64, hexadecimal, rotated, spaced out."""
    for match in _TAGS.finditer(text):
        yield "".join(chr(ord(char) - 0xE0000) for char in match.group())
    for match in _BASE64.finditer(re.sub(r"(?<=[A-Za-z0-9+/])\r?\n(?=[A-Za-z0-9+/])", "", text)):
        yield from _decoded(match.group())
    for match in _HEX.finditer(text):
        digits = re.sub(r"[ :]", "", match.group())
        yield from _readable(bytes.fromhex(digits[: len(digits) // 2 * 2]))
    yield codecs.decode(text, "rot13")
    yield text[::-1]
    if _SPACED.search(text):
        yield re.sub(r"(?<=\b\w)[ .\-_*](?=\w\b)", "", re.sub(r"[ .\-_*]{2,}", "\u2003", text)).replace("\u2003", " ")
    if re.search(r"[A-Za-z][0134579@$][A-Za-z]", text):
        yield text.translate(_LEET)


def _decoded(run: str) -> Iterator[str]:
    bare = run.rstrip("=").replace("-", "+").replace("_", "/")
    try:
        yield from _readable(base64.b64decode(bare + "=" * (-len(bare) % 4)))
    except (binascii.Error, ValueError):
        return


def _readable(content: bytes) -> Iterator[str]:
    text = content.decode("utf-8", "replace")
    if text and sum(char.isprintable() and char != "\ufffd" for char in text) >= 0.9 * len(text):
        yield text
