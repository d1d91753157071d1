"""How far a sentence takes up what was asked, by the words that both have."""

from __future__ import annotations

import re
from functools import lru_cache

from dryquarry.marking.regexes import regex

_WORD = regex(r"[^\W_]+(?:'[^\W_]+)?")
_COMMON_TEXT = (
    "a an the is are was were be been am do does did has have had will would can could should may "
    "might must of in on at to for "
    "from by with and or not no as it its this that these those there here they them their he she "
    "his her him we us our you your i "
    "me my what which who whom whose how when where why many much long far old often if so than "
    "then each every all any some such "
    "into out up down over under about after before between through give name write state answer "
    "one only please get gets got "
    "der die das den dem ein eine ist sind war und oder nicht wie was welche welcher welches wer wo "
    "von zu im in mit auf für "
    "le la les un une des est sont et ou que quel quelle quels quelles de du en el los las una es "
    "son y cuál qué quién cómo"
)
_COMMON = frozenset(_COMMON_TEXT.split())


_IRREGULAR_TEXT = (
    "built build rebuilt rebuild went go gone go took take taken take lit light sold sell bought "
    "buy paid pay left leave made make "
    "won win ran run wrote write written write gave give given give came come found find held hold kept keep lost lose "
    "met meet said say sent send spent spend stood stand told tell thought think led lead fed feed "
    "grew grow grown grow knew know "
    "known know flew fly flown fly swam swim sang sing drove drive ate eat fell fall felt feel "
    "caught catch taught teach brought bring "
    "broke break broken break chose choose chosen choose drew draw drawn draw hid hide rode ride "
    "rose rise sat sit saw see seen see "
    "shot shoot slept sleep spoke speak stole steal struck strike wore wear lay lie lies lie men "
    "man women woman children child "
    "feet foot teeth tooth mice mouse geese goose people person burnt burn began begin begun begin "
    "bound bind dug dig hung hang "
    "farther far farthest far further far furthest far better good best good worse bad worst bad "
    "less little least little "
    "forgot forget forgotten forget became become drank drink drunk drink threw throw "
    "thrown throw blew blow blown blow froze freeze frozen freeze woke wake tore tear "
    "torn tear shone shine rang ring sank sink sunk sink shook shake bit bite dealt deal "
    "meant mean dreamt dream learnt learn spelt spell slid slide spun spin stuck stick "
    "swept sweep wept weep antonym opposite synonym same died die tied tie"
)
_IRREGULAR = dict(zip(_IRREGULAR_TEXT.split()[::2], _IRREGULAR_TEXT.split()[1::2], strict=True))


_BASES = frozenset(_IRREGULAR.values())


@lru_cache(maxsize=8192)
def stem(word: str) -> str:
    """Return a word without the endings that make it plural, past or a person's."""
    word = word.casefold().removesuffix("'s")
    word = _IRREGULAR.get(word, word)
    for ending in ("tion", "tor", "ing", "ies", "ied", "es", "ed", "s", "ly"):
        if word.endswith(ending) and len(word) - len(ending) >= 3 and not (ending == "s" and word.endswith("ss")):
            word = word[: -len(ending)] + ("y" if ending in ("ies", "ied") else "")
            break
    return word.removesuffix("e") if len(word) > 3 else word


def is_base_of_verb(word: str) -> bool:
    """Tell whether a word is an irregular verb in the form that a dictionary gives: "make"."""
    return word in _BASES


def is_verb(word: str) -> bool:
    """Tell whether a word is the past of an irregular verb, or an auxiliary."""
    return (
        word in _IRREGULAR
        or word.removeprefix("re") in _IRREGULAR
        or word
        in (
            "is",
            "are",
            "was",
            "were",
            "has",
            "had",
            "can",
            "will",
            "must",
            "does",
            "did",
        )
    )


@lru_cache(maxsize=2048)
def content_of(text: str) -> frozenset[str]:
    """Return the stems of the words of a text that say something."""
    return frozenset(stem(word) for word in _WORD.findall(text) if word.casefold() not in _COMMON)


# "…: upwards or downwards?": what may be chosen is not what is asked about
_ALTERNATIVES = regex(r"[:,]\s+[^:,.?]{1,60}(?:,[^:,.?]{1,60}){0,6},?\s+or\s+[^:,.?]{1,60}\?")


# "… according to 'She had a key, a coin and a comb; the coin rolled down the stairs'": what is told is not asked
_STORY = regex(r"(?<!:)\s['‘“\"][^'’”\"]{40,}['’”\"](?=[?.,]|\s|\Z)")


@lru_cache(maxsize=512)
def question_in(asked: str) -> str:
    """Return the sentence of a question that asks; the whole where none has a question mark."""
    return asking_part(_ALTERNATIVES.sub("?", _STORY.sub("", asked)))


# "How old is Ida if Jon is 13?", "If Jon is 13, how old is Ida?"
_SUPPOSED = regex(
    r"\A\W*(?:if|when|given\s+that)\s[^?]*?,\s+(?=(?:how|what|which|who|whose|when|where)\b)|,?\s(?:if|when|given\s+that|provided)\s.*",
    re.IGNORECASE | re.DOTALL,
)


@lru_cache(maxsize=512)
def without_supposed(asked: str) -> str:
    """Return what a question asks without what it supposes for it."""
    return _SUPPOSED.sub("", question_in(asked))


# "How many pieces are there, and how many cuts are needed? Give the number of cuts."
_GIVE_NUMBER = regex(
    r"\?\s+(?:give|state|name|report|(?:answer|reply)\s+with)\s+(?:only\s+|just\s+)?the\s+number\s+of\s+(?P<what>[^.?!]{3,60})[.!]?\s*\Z",
    re.IGNORECASE,
)


@lru_cache(maxsize=512)
def asking_part(asked: str) -> str:
    """Return the sentences of a question that ask, with the alternatives that they name."""
    if (wanted := _GIVE_NUMBER.search(asked)) is not None:
        return f"How many {wanted['what']}?"
    parts = re.split(r"(?<=[.?!])[\"'”’)]*\s+", asked.strip())
    return " ".join(part for part in parts if part.rstrip("'\" ").endswith("?")) or asked


_ASKS_YES_OR_NO = regex(
    r"(?:\A|[.!:]\s+)(?:is|are|was|were|does|do|did|can|could|will|would|has|have|may|must|should|ist|sind|est-ce|es)\s(?:[^.!?]|\.(?=\d))*\?\W*\Z",
    re.IGNORECASE,
)


# "Could you name the river?", "Do you know who built it?": what is wanted is no yes
_ASKS_POLITELY = regex(
    r"\b(?:can|could|would|will|do|may|might)\s+(?:you|we|i)\s+(?:please\s+|kindly\s+|perhaps\s+)?(?:tell|name|give|say|list|state|write|show|find|"
    r"work\s+out|compute|calculate|determine|identify|explain|help|put|sort|solve|expand|simplify|count|choose|pick|"
    r"complete|translate|spell|ask)\b",
    re.IGNORECASE,
)
_WHETHER_KNOWN = regex(
    r"\b(?:know|known|remember|recall|guess|clear|said|told)\b[^?]*\b(?:who|whom|whose|which|what|where|when|why|how)\b",
    re.IGNORECASE,
)


@lru_cache(maxsize=256)
def asks_yes_or_no(asked: str) -> bool:
    """Tell whether a question wants a yes or a no: "Does the equator run through Ecuador?"."""
    question = question_in(asked)
    other = re.search(r"\bor\b", question) or _ASKS_POLITELY.search(question) or _WHETHER_KNOWN.search(question)
    return _ASKS_YES_OR_NO.search(asked) is not None and not other


def echo(text: str, asked: str) -> float:
    """Return the share of what was asked that a text takes up, from 0 to 1."""
    wanted = content_of(question_in(asked))
    names = names_in(question_in(asked))
    taken = wanted & content_of(text)
    return (len(taken) + len(taken & names)) / (len(wanted) + len(wanted & names)) if wanted else 0.0


_PRONOUN = regex(r"\W*(?:it|he|she|they|this|that|there)\b", re.IGNORECASE)


# What a sentence takes up that answers the question which the reply itself asks before it.
OF_OWN_QUESTION = 0.8


def echo_of_it(text: str, before: str, asked: str) -> float:
    """Return the share of what was asked that a sentence takes up by its "it", for a name in the sentence before."""
    wanted, names = content_of(question_in(asked)), names_in(question_in(asked))
    if before.endswith("?") and wanted:
        # "How many can be sold, then? The other 95 %, i.e. 513."
        return OF_OWN_QUESTION * len((wanted & content_of(before)) - content_of(text)) / len(wanted)
    if not _PRONOUN.match(text):
        return 0.0
    meant = (wanted & names & content_of(before)) - content_of(text)
    return 2 * len(meant) / (len(wanted) + len(wanted & names)) if wanted else 0.0


@lru_cache(maxsize=512)
def names_in(asked: str) -> frozenset[str]:
    """Return the stems of the names in a question, which say more about it than other words."""
    return frozenset(stem(word) for word in re.findall(r"(?<=[a-z,'] )[A-Z][^\W\d_]+", asked))


@lru_cache(maxsize=8192)
def is_echo(word: str, asked: str) -> bool:
    """Tell whether a word says nothing that the question did not say."""
    return word.casefold() in _COMMON or stem(word) in content_of(asked)
