"""How a sentence in words may answer: it says that it names what is asked for, or it is put in a way that answers."""

from __future__ import annotations

import re

from dryquarry.marking.reading.echo import asks_yes_or_no, question_in, stem
from dryquarry.marking.reading.names_said import ASKS_NAME
from dryquarry.marking.reading.names_told import names_of_kind
from dryquarry.marking.reading.offers import offered_by
from dryquarry.marking.reading.possible_answers import is_possible, names_one, possible_in
from dryquarry.marking.reading.told import echoes_most, is_common, is_of_asked_kind
from dryquarry.marking.reading.yes_no import yes_or_no
from dryquarry.marking.regexes import regex

LONGEST_NAMING_WORDS = 12
_WORD = regex(r"[^\W_]+(?:['’-][^\W_]+)*")
# "Its opposite: plentiful."
_LABEL = regex(r"\W*(?:(?:the|its|his|her|their)\s+)?(?P<what>[^:.]{3,40}):\s+\S")
# How a sentence may answer without a word of the question: "It's the sextant!", "Not Peer, but Agnes", "Runa did."
_ANSWERS = regex(
    "|".join(
        (
            # "it's the sextant", "…, so it has to be green", and not "it's worth knowing"
            r"(?:\A|[,;:–—]\s|\b(?:so|then|and|but|now|today|therefore)\s)\W*(?:it|that|he|she|they)(?:'s|'re|\s+(?:is|are|was|were|"
            r"can\s+only|must|has\s+to|had\s+to|has\s+been|must\s+have|would|will|could\s+only)\b(?:\s+(?:be|been)\b)?)\s+(?!(?:worth|"
            r"important|good|an?\s+(?:good|fun|nice|great)|fun|easy|easier|simple|clear|helpful|useful|why|how|all)\b)\S",
            # "not Peer, but Agnes", "you get salt"
            r"\A\W*(?:not|neither|you\s+get|we\s+get|one\s+gets)\s",
            # "copper (an alloy of …)", "on the left: Jonas", "in Lind, where the ice …"
            r"\A\W*\S+(?:\s\S+){0,2}(?:\s(?:\(|[–—→-]\s)|:\s)",
            r"\A\W*(?:in|at|on|from|by|under|with|to|into|behind)\s(?:the\s)?\S+,\s",
            # "Runa did", "Canberra it is, though", "you know it from a waltz: the Danube"
            r"\s(?:did|does|do|is|was|are|were|has|had)(?:\s+(?:it|so|that))?\W*\Z",
            r"\sit\s+(?:is|was)\b[^,]{0,12}\Z",
            r":\s(?:the\s|an?\s)?[^\s,;:]+(?:\s[^\s,;:]+){0,2}\W*\Z",
            # "the light is green", "the tern is likely", "what remains is salt", "the picture is by Solveig"
            r"\A\W*the\s\S+(?:\s\S+)?\s(?:is|was|are|were)\s(?:the\s)?\S+(?:\s\S+)?\W*\Z",
            r"\s(?:is|was)\s+(?:more\s+|most\s+|very\s+)?(?:likely|probable|plausible|right|correct)\W*\Z",
            r"\bwhat\s[^,;]{1,60}\s(?:is|was|are|were)\s",
            r"(?:\bnot|n't)\b[^;.]{1,60}\sbut\s+(?:in\s+|into\s+|to\s+)?(?:the\s+|an?\s+)?[A-Z]?[^\s,;.]+\W*\Z",
            r"\s(?:is|was|are|were)\s(?:[^\W\d_]+\s)?by\s",
            r"\b(?:therefore|thus|hence|the\s+(?:right|correct|true|real)\s+\w+)\b",
        )
    ),
    re.IGNORECASE,
)


# "Piet is left.", "Only granite remains."
_REMAINS = regex(
    r"\W*(?:(?:so|that|this|which)\s+)?(?:only\s+)?(?P<one>[^,;:]{1,40}?)\s+(?:is\s+(?:the\s+(?:(?:only|last)\s+)?(?:one|person)\s+(?:that(?:'s|\s+is)\s+)?|what(?:'s|\s+is)\s+)?left|remains|fits|it\s+is)(?:\s+over)?\W*",
    re.IGNORECASE,
)


def is_put_as_answer(text: str, question: str) -> bool:
    """Tell whether a sentence is put in a way in which one answers, with a word of the question or without."""
    return _ANSWERS.search(text) is not None or names_one(text, question)


_ASKS_MEANING = regex(
    r"\bwhat\s+(?:does|do|did)\s+(?:[^\W\d_]+\s+){0,3}?['‘\"“]?(?P<what>[^\W\d_]+)['’\"”]?\s+(?:mean|stand\s+for|signify)\b",
    re.IGNORECASE,
)


def names_it(text: str, question: str) -> bool:
    """Tell whether a sentence names what is asked for: by a label, by its kind, as yes or no, by what is left."""
    asked, label = question_in(question), _LABEL.match(text)
    meant = _ASKS_MEANING.search(asked)
    if meant is not None and label is not None:
        return label["what"].casefold() == meant["what"].casefold()  # "Red: danger. Yellow: sickness."
    if (label is not None and _names_what_is_asked(label["what"], asked)) or is_of_asked_kind(text, asked):
        return True
    if label is not None and label["what"].casefold().strip(" *_") in map(str.casefold, offered_by(question)):
        return True  # "Granite: a plutonic rock.", where it is to be chosen from four
    if (side := _SIDE.match(text)) is not None and re.search(rf"\b{side['side']}\b", asked, re.IGNORECASE):
        return True
    if _tells_what_is_asked(text, asked) or (asks_yes_or_no(question) and _YES_NO.match(text)):
        return True
    if yes_or_no(text, 0, len(text), question) is not None:
        return True
    if names_of_kind(text, asked) or (ASKS_NAME.search(asked) is not None and _NAMES.search(text)):
        return True
    if _ITS_NAME_IS.match(text):
        return True
    remains = _REMAINS.fullmatch(text)
    return is_possible(text, question) or bool(remains and possible_in(text, *remains.span("one"), question))


def may_name_it(text: str, question: str) -> bool:
    """Tell quickly whether `names_it` may say so."""
    if ":" in text or len(text.split()) <= LONGEST_NAMING_WORDS or _ITS_NAME_IS.match(text) or _NAMES.search(text):
        return True
    if yes_or_no(text, 0, len(text), question) is not None:
        return True
    asked = question_in(question)
    return _tells_what_is_asked(text, asked) or is_of_asked_kind(text, asked) or names_of_kind(text, asked)


# "The English name is iron."
_ITS_NAME_IS = regex(
    r"\W*(?:the|its|his|her)\s+(?:English|usual|common|full|proper|present|modern)\s+name\s+(?:\w+\s+\w+\s+)?is\b",
    re.IGNORECASE,
)
# "Against it: Ms Aro.", where it is asked who was against it
_SIDE = regex(r"\W*(?P<side>for|against|above|below|before|after|with|without)\b[^:.]{0,20}:\s", re.IGNORECASE)
_YES_NO = regex(r"\W*(?:yes|no|yep|nope|ja|nein|oui|non|sí|certainly|correct|true|false)\b(?!\s+\w)", re.IGNORECASE)
# "Its opposite is 'modern'", where the opposite is asked for
_ASKS_WHAT_OF = regex(r"\bwh(?:at|o)\s+(?:is|was|are|were)\s+the\s+(?P<noun>[^\W\d_]{3,})\s+of\b", re.IGNORECASE)


def _tells_what_is_asked(text: str, asked: str) -> bool:
    """Tell whether a sentence says what something is of which the question asks for just that."""
    noun = _ASKS_WHAT_OF.search(asked)
    says = rf"\b{noun['noun']}\s+(?:is|was|are|were|would\s+be)\b" if noun else None
    return says is not None and re.search(says, text, re.IGNORECASE) is not None


# "Such a line is known as an isobar", where it is asked what such a line is called
_NAMES = regex(
    r"\b(?:its\s+name(?:,[^,]*,)?\s+is|calls?|called|named|known\s+as|term\s+is|word\s+is|go(?:es)?\s+by|(?:gave|gives|got|has|have|had|bears?)\s(?:[^,;:.]{1,24}\s)?the\s+name)\b",
    re.IGNORECASE,
)


def _names_what_is_asked(label: str, asked: str) -> bool:
    """Tell whether a label is made of the question's words, the first of which is mostly what it asks for."""
    first = next((stem(word) for word in _WORD.findall(asked) if not is_common(word)), None)
    return first in {stem(word) for word in _WORD.findall(label)} and echoes_most(label, asked)


# "Which word is the antonym of 'scarce'?"
_ASKED_HEAD = regex(
    r"\b(?:which\s+[^\W\d_]+|which|what)\s+(?:is|was)\s+(?:the|its|an?)\s+(?P<head>[^\W\d_]+)\b", re.IGNORECASE
)
_HEAD_IS = regex(
    r"\b(?:the|its|an?)\s+(?P<head>[^\W\d_]+)(?:\s+of\s+\S+)?\s+(?:is|was|(?:would|must|has\s+to|will)\s+be)\b",
    re.IGNORECASE,
)


# "'modern' means the opposite"
_IS_THE_HEAD = regex(r"\b(?:is|means|would\s+be|was)\s+(?:the|its)\s+(?P<head>[^\W\d_]+)\W*\Z", re.IGNORECASE)


def tells_head(clause: str, question: str) -> bool:
    """Tell whether a clause says what is the thing that is asked for: "the opposite is 'rare'"."""
    head = _ASKED_HEAD.search(question_in(question))
    said = _HEAD_IS.search(clause) or _IS_THE_HEAD.search(clause)
    return head is not None and said is not None and stem(said["head"]) == stem(head["head"])
