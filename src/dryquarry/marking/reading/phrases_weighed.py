"""How likely a sentence is to give an answer in words: how far it takes up what was asked, what else it tells of."""

from __future__ import annotations

import re

from dryquarry.marking.reading.answering import is_put_as_answer, names_it
from dryquarry.marking.reading.claims import Place, PlaceKind, Question
from dryquarry.marking.reading.echo import echo, echo_of_it, question_in, without_supposed
from dryquarry.marking.reading.extremes import extremes, is_in_between, only_compares, tells_other_extreme
from dryquarry.marking.reading.kinds import Weight
from dryquarry.marking.reading.named import WHOLLY
from dryquarry.marking.reading.names_told import asks_name
from dryquarry.marking.reading.offers import offered_by
from dryquarry.marking.reading.possible_answers import only_would_be, possible_in
from dryquarry.marking.reading.rankings import line_of_rank, pair_as_asked
from dryquarry.marking.reading.ranks_said import ASKS_SECOND
from dryquarry.marking.reading.told import NEGATION, of_asked_kind, only_describes
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.blocks import BlockKind
from dryquarry.marking.reply.structure import Reply

_CONTRAST = regex(r"\b(?:by contrast|in contrast|however|meanwhile|on the other hand)\b", re.IGNORECASE)
# "However, there are other gases present in the air, including oxygen …"
_OF_OTHERS = regex(
    r"\W*(?:(?:however|but|also|of\s+course),?\s+)?(?:there\s+(?:are|is)|we\s+also\s+have)\s+(?:also\s+)?(?:many\s+|some\s+|several\s+)?"
    r"(?:others?|another|further)\b",
    re.IGNORECASE,
)
# "Today it's Trondheim.", where the present name is asked for
_ASKS_PRESENT = regex(r"\b(?:present|modern|today|nowadays|current)\b", re.IGNORECASE)
_TODAY = regex(r"\b(?:today|now|nowadays|these\s+days|present)\b", re.IGNORECASE)
# "Fe comes from the Latin ferrum.": where a word comes from
_ORIGIN = regex(
    r"\A[^,;:]*\b(?:comes?|came|derives?|derived|stems?|taken)\s+from\s+(?:the\s+)?(?:Old\s+)?(?:Latin|Greek|French|German|English|Arabic|Norse|Italian|Spanish)\b"
)
_ASKS_OTHERS = regex(r"\b(?:others?|another|further|else)\b", re.IGNORECASE)


def weight_of(reply: Reply, place: Place, question: Question) -> Weight | None:
    """Return how far a sentence takes up what was asked; None where it is of a ranking, of which one line answers."""
    text, asked = reply.text[place.start : place.end], question_in(question.asked)
    ranked = line_of_rank(reply.text, asked)
    if ranked and reply.blocks[reply.sentences[place.sentence].block].kind is BlockKind.ITEM:
        return None
    if pair_as_asked(reply.text, without_supposed(question.asked)) is not None:
        return None
    before = reply.sentences[place.sentence - 1].text if place.sentence else ""
    taken_up = echo(text, question.asked) + echo_of_it(text, before, question.asked)
    named = names_it(text, question.asked) or is_in_between(text, asked)
    named = named or (ASKS_SECOND.search(asked) is not None and _NEXT_COMES.match(text) is not None)
    several = len(reply.sentences) > 1
    of_others = several and _OF_OTHERS.match(text) is not None and not _ASKS_OTHERS.search(asked)
    of_word = several and _ORIGIN.search(text) is not None and not _ORIGIN.search(asked)
    concludes = place.kind is PlaceKind.CONCLUSION
    idle = not (taken_up or named or concludes or is_put_as_answer(text, question.asked))
    bold = any(place.start <= start and end <= place.end + 1 for start, end in reply.view.bold)
    return Weight(
        taken_up
        - 0.5 * _tells_of_else(text, question, taken_up, several=several)
        - (several and only_compares(text, asked))
        - of_others
        - 0.5 * of_word
        + 0.5 * (_ASKS_PRESENT.search(asked) is not None and _TODAY.search(text) is not None)
        - 0.5 * (several and _names_nothing(text, question.asked))
        + 0.5 * named
        - (0.5 + 0.8 * place.sentence / len(reply.sentences)) * idle,
        bold and not _bold_label(reply, place),
    )


def _names_nothing(text: str, asked: str) -> bool:
    """Tell whether a sentence has no name, where something with a name is asked for."""
    if _SAME_ONE.match(text):
        return True
    if not asks_name(asked) or ":" in text or offered_by(asked) or possible_in(text, 0, len(text), asked):
        return False
    return next(of_asked_kind(text, 0, len(text), question_in(asked)), None) is None


# "The same one as in Vienna."
_SAME_ONE = regex(r"\W*(?:it(?:'s|\s+is)\s+)?the\s+same\s+(?:one|[a-z]+)\s+(?:as|that|which)\b", re.IGNORECASE)


def _tells_of_else(text: str, question: Question, taken_up: float, *, several: bool) -> bool:
    """Tell whether a sentence tells of something else: in contrast, of what is so where it is asked what is not."""
    asked = question_in(question.asked)
    other = _OTHER_RANK.match(text)
    if other is not None and extremes(asked) and other["rank"].lower() not in asked.lower():
        return True
    if ASKS_SECOND.search(asked) and _OF_THE_FIRST.fullmatch(text):
        return True
    if _CONTRAST.search(text) and taken_up < WHOLLY and not _names_head(text, asked):
        return True
    if NEGATION.search(asked) and not NEGATION.search(text):
        return True
    return several and (
        tells_other_extreme(text, asked) or only_describes(text, asked) or only_would_be(text, question.asked)
    )


# "Third is Mawenzi.", where the second is asked for
_OTHER_RANK = regex(
    r"\W*(?:(?:the\s+)?(?P<rank>third|fourth|fifth)(?:\s+one)?(?:\s+(?:is|comes|place)|\s*:|,))", re.IGNORECASE
)


_NEXT_COMES = regex(r"\W*(?:next|then|second)\s+(?:in\s+line\s+)?(?:comes|is)\s", re.IGNORECASE)
# "Kilimanjaro is the highest.", where the second is asked for
_OF_THE_FIRST = regex(
    r"(?:(?!\b(?:second|next|then|follow\w*|behind|after|before)\b)[^;])*\bthe\s+[a-z]+est\b[^,;]*", re.IGNORECASE
)


def _names_head(text: str, asked: str) -> bool:
    """Tell whether a sentence is of the thing asked for: "The river that flows through it, however, is the Sill"."""
    noun = _ASKED_NOUN.search(asked)
    head = rf"\W*the\s+(?:[^\W\d_]+\s+)?{noun['noun']}\s+(?:that|which|who|whose|in|on|at|with)\b" if noun else None
    return head is not None and re.match(head, text, re.IGNORECASE) is not None


_ASKED_NOUN = regex(r"\b(?:which|what)\s+(?P<noun>[^\W\d_]{3,})\b", re.IGNORECASE)


def _bold_label(reply: Reply, place: Place) -> bool:
    """Tell whether what is bold in a sentence is only the label that it begins with."""
    spans = [span for span in reply.view.bold if place.start <= span[0] and span[1] <= place.end + 1]
    return all(start == place.start and reply.text[end - 1 : end + 1].rstrip().endswith(":") for start, end in spans)
