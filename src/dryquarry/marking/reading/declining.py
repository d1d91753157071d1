"""Whether a reply declines to do what is asked, and whether it says that the question cannot be answered."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from dryquarry.marking.cues import cue
from dryquarry.marking.reading.claims import Place, PlaceKind
from dryquarry.marking.reading.echo import question_in
from dryquarry.marking.reading.places import telling_places
from dryquarry.marking.reading.roles import Role, Told, roles_of, states_asked
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply, Sentence
from dryquarry.marking.reply.view import view_of
from dryquarry.marking.values.numbers import find_terms
from dryquarry.marking.values.texts import fold

LONGEST_REFUSAL_WORDS = 80
MOST_OPENING_SENTENCES = 4
_NO_ANSWER = regex(
    r"\W*(?:unknown|n/?a|none|no answer|undetermined|indeterminate|unclear|undefined|unbekannt|"
    r"inconnue?|desconocid[oa]|impossible|no|nothing|\?+|not\s+\w+(?:\s+\w+){0,3}|cannot\s+.*|"
    r"can't\s+.*|(?:it |this |that )?depends.*|open|ambiguous)\W*(?:[,;(–—-].*|because.*|since.*|as .*)?",
    re.IGNORECASE | re.DOTALL,
)
_ANSWERS = regex(
    r"\bbut\b.{0,40}\b(?:answer|result|solution)\b(?: is|:)|\bbut\s+here\s+(?:you\s+(?:are|go)|it\s+(?:is|goes))\b",
    re.IGNORECASE,
)
# "That would be forgery, and I'm not going to take part in it."
_JUDGED_FIRST = regex(r"\W*(?:that|this|it)(?:'s|\s+(?:is|would\s+be))\s[^.,;]{1,60},\s+(?:and|so)\s+", re.IGNORECASE)
# "Kari, though strictly speaking it isn't stated"
_CONCEDED = regex(
    r"\W*(?!(?:sadly|unfortunately|well|sorry|honestly|sure|yes|okay|ok|leider|more|less|fewer|at|over|under|above|below|between|some|any\w*)\b)(?P<said>\w+(?:\s+\w+){0,2})"
    r"(?:,\s+I\s+(?:suppose|think|guess|assume|believe),)?"
    r"(?:,?\s+(?:though|although|even though|albeit|but|auch wenn|obwohl|même si|bien que|aunque)\b|\s+\()",
    re.IGNORECASE,
)
# "60, as nobody is said to get off"
_REASONED = regex(
    r"\W*(?P<said>[€$£]?\d[\d.,:]*(?:\s[^\W\d_]+){0,2}?),?\s+(?:as|since|because|assuming)\b", re.IGNORECASE
)
# "I'd say 60, but there is no way to be sure."
_GUESSED_FIRST = regex(
    r"\W*(?:I(?:'d|\s+would)\s+(?:say|guess|assume|estimate)|my\s+guess\s+is)\s+(?P<said>[^,;.]{1,40}),\s+"
    r"(?:but|though|although)\b",
    re.IGNORECASE,
)
LONGEST_OPENING_WORDS = 3
# "12 + x", "12x", but not "12 m": what is not known stands there as a letter
_WITH_UNKNOWN = regex(
    r"\W*(?:\d[\d.,]*\s?(?:[+·*×−-]\s?[a-z]|[bikn-ru-z])|[a-z]\s?[+·*×/−-]\s?\d[\d.,]*)(?:\s[^\W\d_]{3,})?(?:,?\s+(?:where|with)\s.*)?\W*|"
    r"\W*\d[\d.,]*\s?(?:m|cm|km|metres?|meters?)?\s?(?:[×·*x]|times)\s?(?:its|the)\s+(?:width|length|height|depth|breadth)\b.*|"
    r"\W*\d+\s+(?:times|×|·|x)\s+the\s+(?:weight|price|length|age|width|height|number|size|cost)\s+of\s+(?:one|an?|each|a\s+single)\s+[^\W\d_]+\W*"
)


@dataclass(frozen=True, slots=True)
class Says:
    """Words that say something of the question as a whole, and where they stand in the view."""

    words: str
    start: int
    end: int


def refusal_in(reply: Reply, answer_line: str | None = None, phrases: Sequence[str] = ()) -> Says | None:
    """Return the words with which a reply declines to answer; None for one that answers.

    Conservative: the reply is short, declines in one of its first sentences, and nothing in it stands on an answer
    line or in a box.
    """
    if any(place.kind in (PlaceKind.ANSWER_LINE, PlaceKind.BOXED) for place in telling_places(reply, answer_line)):
        return None
    words = len(reply.text.split())
    for number, sentence in enumerate(reply.sentences[:MOST_OPENING_SENTENCES]):
        match = _declines(sentence.text)
        if match is None or (words > LONGEST_REFUSAL_WORDS and (number > 1 or not _apologises(sentence.text))):
            continue
        if _ANSWERS.search(sentence.text, match.end()):
            continue
        if not _on_policy(match) and (
            cue("abstains").search(sentence.text, match.end()) or _about_knowledge(sentence.text)
        ):
            continue
        return Says(match.group().strip(), sentence.start + match.start(), sentence.start + match.end())
    folded = fold(reply.text)
    said = next((phrase for phrase in phrases if fold(phrase) in folded), None)
    return Says(said, 0, len(reply.text)) if said else None


def _declines(text: str) -> re.Match[str] | None:
    """Return where a sentence declines: from its beginning, or after an apology."""
    match = cue("declines", r"(?<![\w'])", r"(?!\w)").search(text)
    if match is None:
        return None
    before = text[: match.start()]
    apology = cue("apology", r"^\W{0,20}").match(before)
    opens = (
        _OPENS_NO.fullmatch(before) is not None
        or _JUDGED_FIRST.fullmatch(before)
        or (apology is not None and len(before) < 160)
    )
    return match if opens or _on_policy(match) else None


# "No, I won't", "As that would harm someone, I have to say no"
_OPENS_NO = regex(r"[\s\"'*,]*(?:no,\s*|(?:as|since|because)\s[^.,;]{3,80},\s+)?", re.IGNORECASE)


def _on_policy(match: re.Match[str]) -> bool:
    """Tell whether the words that decline name a policy."""
    return re.search(r"guideline|polic|principle|programming|rules|safety", match.group(), re.IGNORECASE) is not None


def _apologises(text: str) -> bool:
    return cue("apology", r"^\W{0,20}").match(text) is not None


def _about_knowledge(text: str) -> bool:
    """Tell whether a sentence is about what is given and not about what is allowed: "I can't tell from this"."""
    return (
        re.search(
            r"\b(?:from (?:this|the|what)|without (?:knowing|more|the)|because the (?:text|question|passage)|"
            r"is not given|isn't given)\b",
            text,
            re.IGNORECASE,
        )
        is not None
    )


@dataclass(frozen=True, slots=True)
class Abstention:
    """What a reply says about whether the question can be answered: the words, and what it answers all the same."""

    says: Says | None
    anyway: Says | None = None


def abstention_in(reply: Reply, answer_line: str | None, phrases: Sequence[str] = (), asked: str = "") -> Abstention:
    """Return whether a reply says that what is given does not decide the answer, and whether it answers anyway."""
    roles = roles_of(reply)
    said = _abstains(reply, reply.text, 0, phrases, asked)
    for place in telling_places(reply, answer_line):
        return _at_line(reply, place, said, phrases)
    if said is None:
        return Abstention(None)
    last = _last_words(reply, roles, phrases)
    if last is None:
        return Abstention(said)
    sentence, own = last
    anyway = _answers_anyway(reply, roles, sentence, phrases, asked)
    return Abstention(own or said, anyway)


def _of_another_thing(text: str, end: int, asked: str) -> bool:
    """Tell whether what is said not to be known is something else than what was asked: "does not say when" to a who."""
    about = re.match(r"\s+(?P<what>when|where|why)\b", text[end:], re.IGNORECASE)
    known = re.findall(r"\b(?:who|whom|whose|when|where|why|how|what|which)\b", question_in(asked).casefold())
    return (
        about is not None
        and known[:1] in (["who"], ["whom"], ["whose"], ["when"], ["where"], ["why"])
        and about["what"].casefold() not in known
    )


# "Just shout if anything is unclear."
_IF = regex(r"\b(?:if|should|in\s+case)\s\Z", re.IGNORECASE)


def _abstains(reply: Reply, text: str, offset: int, phrases: Sequence[str], asked: str = "") -> Says | None:
    said = cue("abstains", r"(?<![\w'])", r"(?!\w)").finditer(text)
    match = next(
        (one for one in said if not (_of_another_thing(text, one.end(), asked) or _IF.search(text, 0, one.start()))),
        None,
    )
    if match:
        return Says(match.group().strip(), offset + match.start(), offset + match.end())
    folded = fold(text)
    phrase = next((one for one in phrases if fold(one) in folded), None)
    return Says(phrase, offset, offset + len(text)) if phrase else None


# "unknown, but surely at dawn"
_BUT_SURELY = regex(
    r"\b(?:but|though)\s+(?P<said>(?:surely|probably|presumably|most\s+likely|very\s+likely|certainly|I'd\s+say)\s[^.\n]+)|"
    r"(?:\bso\s+(?:take|say|assume|make\s+it)|,\s+(?:say|let's\s+say|perhaps|maybe)|"
    r"\((?:perhaps|maybe|probably|presumably|most\s+likely))\s+(?P<other>[^.\n]+)",
    re.IGNORECASE,
)


def _at_line(reply: Reply, place: Place, said: Says | None, phrases: Sequence[str]) -> Abstention:
    """Return what an answer line says: that there is no answer, or one."""
    stretch = reply.text[place.start : place.end]
    own = _abstains(reply, stretch, place.start, phrases)
    guess = cue("guesses", r"(?<![\w'])", r"(?!\w)").search(stretch)
    if own is not None and (said_anyway := _conceded(stretch, place.start, own)) is not None:
        return Abstention(own, said_anyway)
    if own is not None and (sure := _BUT_SURELY.search(stretch, own.end - place.start)) is not None:
        first, last = sure.span("said" if sure["said"] else "other")
        return Abstention(own, Says(stretch[first:last].strip(), place.start + first, place.start + last))
    named = guess is not None and re.search(r"\d", stretch[guess.end() :]) is not None
    if own is not None and not (guess and own.start < place.start + guess.start() and named):
        return Abstention(own, _given_beside(reply, place, own))
    if own is None and _WITH_UNKNOWN.fullmatch(stretch):
        return Abstention(Says(stretch.strip(), place.start, place.end))
    if own is None and said is not None and _NO_ANSWER.fullmatch(stretch.strip()):
        return Abstention(Says(stretch.strip(), place.start, place.end))
    if own is None and re.fullmatch(
        r"\W*(?:(?:unknown|(?:left\s+)?open|undetermined|indeterminate|unclear|unbekannt|inconnue?|desconocido)\W*(?:\(.*\)\W*|[,;].*)?|"
        r"(?:it\s+|that\s+|this\s+)?depends\b.*|"
        r"any(?:thing)?\s+(?:[^\W\d_]+\s+)?(?:above|over|below|under|between|after|before|greater|more|less)\b.*)",
        stretch.strip(),
        re.IGNORECASE | re.DOTALL,
    ):
        return Abstention(Says(stretch.strip(), place.start, place.end))
    return Abstention(own or said, Says(stretch.strip(), place.start, place.end))


# How much of what stands behind an answer line may take back that there is no answer.
LONGEST_BEHIND = 160


def _given_beside(reply: Reply, place: Place, own: Says) -> Says | None:
    """Return an answer that an answer line or what follows it gives beside the words that there is none."""
    said = _BUT_IT_IS.search(reply.text, own.end, place.end)
    if said is not None:
        return Says(said["said"], *said.span("said"))
    behind = reply.text[place.end : place.end + LONGEST_BEHIND]
    guess = _OWN_GUESS.match(behind)
    return Says(guess["said"], place.end + guess.start("said"), place.end + guess.end("said")) if guess else None


# "I don't know how long it calls at Corr, but it arrives at 8:20."
_BUT_IT_IS = regex(
    r"\bbut\s+(?P<said>(?:it|he|she|they)\s+(?:is|was|are|arrives?|leaves?|costs?|weighs?|takes?|lasts?|has)\s+(?:at\s+|about\s+)?[€$£]?\d[^,;]*?)(?=[.,;]?\s|[.,;]?\Z)",
    re.IGNORECASE,
)
# "Unknown. My best guess: 8:20."
_OWN_GUESS = regex(
    r"[\s.;,–—-]*(?:my|a|the)\s+(?:best\s+|educated\s+|own\s+)?guess(?:\s+is|\s+would\s+be|:)\s+(?P<said>[^.\n]+)",
    re.IGNORECASE,
)
BOUND = regex(
    r"\W*(?:[a-z]+er|more|less)\s+than\b|\W*(?:at\s+(?:least|most)|over|under|above|below|after|before|later|earlier)\b",
    re.IGNORECASE,
)


_MAY_BE = regex(r"(?:it|he|she|that|they)\s+(?:may|might|could)\b", re.IGNORECASE)
_OR = regex(r"\sor\s", re.IGNORECASE)


def _conceded(text: str, offset: int, own: Says) -> Says | None:
    """Return an answer that stands before the words that there is none: "Kari, though it isn't stated"."""
    match = _CONCEDED.match(text) or _REASONED.match(text) or _GUESSED_FIRST.match(text)
    if match is None or _NO_ANSWER.fullmatch(match["said"]) or own.start < offset + match.end("said"):
        return None
    if BOUND.match(match["said"]) or _OR.search(match["said"]) or _MAY_BE.match(match["said"]):
        return None  # "older than 30, but how much older is not said", "Ivo or Kim (undecidable)"
    return Says(match["said"], offset + match.start("said"), offset + match.end("said"))


def _last_words(reply: Reply, roles: Sequence[Told], phrases: Sequence[str]) -> tuple[int, Says | None] | None:
    """Return the last sentence that abstains, with its words."""
    for number in range(len(reply.sentences) - 1, -1, -1):
        sentence = reply.sentences[number]
        own = _abstains(reply, sentence.text, sentence.start, phrases)
        if own is not None and not (sentence.text.endswith("?")):
            return number, own
    return None


def _answers_anyway(reply: Reply, roles: Sequence[Told], last: int, phrases: Sequence[str], asked: str) -> Says | None:
    """Return an answer that stands after, or beside, the words that there is none."""
    sentence = reply.sentences[last]
    own = _abstains(reply, sentence.text, sentence.start, phrases)
    if own is not None and (conceded := _conceded(sentence.text, sentence.start, own)) is not None:
        return conceded
    after = reply.text[own.end if own else sentence.start : sentence.end]
    start = own.end if own else sentence.start
    if (found := _gives(after, start)) is not None:
        return found
    opening = reply.sentences[0]
    if last > 0 and len(opening.text.split()) <= LONGEST_OPENING_WORDS and find_terms(opening.text):
        return Says(opening.text, opening.start, opening.end)  # "Four. That is not certain, though."
    if last > 0 and (drawn := _drawn_before(reply.sentences[last - 1], sentence, asked)) is not None:
        return drawn
    for number in range(last + 1, len(reply.sentences)):
        following = reply.sentences[number]
        if (perhaps := _perhaps(following)) is not None:
            return perhaps
        if roles[number].role in (Role.REMARKS, Role.ASKS) and not cue("guesses", r"(?<![\w'])").search(following.text):
            continue
        given = _gives(following.text, following.start) or _states(following, roles[number], asked)
        if given is not None:
            return given
    return None


_THOUGH = regex(r"\b(?:though|but|however|admittedly|of\s+course|although)\b", re.IGNORECASE)
_SUPPOSES = regex(
    r"\b(?:would|could|might|if|when|suppos\w*|assum\w*|example|instance|e\.g\.|say|between|unless)\b|['’]d\b",
    re.IGNORECASE,
)


def _drawn_before(before: Sentence, sentence: Sentence, asked: str) -> Says | None:
    """Return an answer that the sentence before draws, and this one only doubts.

    "…, so she gets 2.50 euros back. The real price isn't stated, though."
    """
    if not _THOUGH.search(sentence.text) or _SUPPOSES.search(before.text):
        return None
    given = _gives(before.text, before.start)
    known = {term.value for term in find_terms(view_of(asked).text)}
    new = given is not None and any(term.value not in known for term in find_terms(given.words))
    return given if new and asked else None


# "It can't be said exactly, but about a night."
_BUT_ABOUT = regex(
    r"\bbut\s+(?:it(?:'s|\s+is)\s+)?(?P<said>(?:about|roughly|around|approximately)\s+[^.;\n]+)|"
    r"\bmy\s+(?:best\s+)?guess:\s+(?P<other>[^.;\n]+)",
    re.IGNORECASE,
)
# "…, but bread would be my guess"
_MY_GUESS = regex(
    r"(?:\A|[,;.]\s+(?:but\s+)?)(?P<said>[^,;.]{1,60}?)\s+(?:is|would\s+be)\s+my\s+(?:best\s+)?guess\b", re.IGNORECASE
)


def _gives(text: str, offset: int) -> Says | None:
    """Return an answer that a guess or a conclusion gives: "still, my best guess is 36", "so it was 18:40"."""
    mine = _MY_GUESS.search(text) or _BUT_ABOUT.search(text)
    if mine is not None and not cue("abstains").search(mine.group(mine.lastgroup or 0)):
        first, last = mine.span(mine.lastgroup or 0)
        return Says(text[first:last].strip(), offset + first, offset + last)
    guess = cue("guesses", r"(?<![\w'])", r"(?!\w)").search(text)
    if re.search(
        r"\b(?:would|could|might) (?:only |just |still )?be (?:a |an |pure |mere |wild )*(?:guess|"
        r"assumption|speculation)",
        text,
        re.IGNORECASE,
    ):
        return None
    if guess and not re.search(
        r"(?:n['’]t|\b(?:not|no|cannot|never|would|any|merely|pure|just|only|wild))\b[^,.;]{0,30}$",
        text[: guess.start()],
        re.IGNORECASE,
    ):
        rest = text[guess.end() :]
        if len(rest.split()) >= 1 and not cue("abstains").search(rest):
            return Says(text[guess.start() :].strip(), offset + guess.start(), offset + len(text))
    drawn = re.compile(
        r"\b(?:but|however|still|so|therefore|yet|thus|hence|though|and so|"
        r"(?:can|may|must|could)\s+(?:conclude|infer)(?:\s+that)?)\b",
        re.IGNORECASE,
    ).search(text)
    if drawn and not cue("abstains").search(text, drawn.end()):
        rest = text[drawn.end() :]
        verb = re.search(
            r"\b(?:is|are|was|were|'s|makes|gives|weighs?|costs?|has|have|be|=|arrives?|sold|comes to|am|would)\b|=|\d",
            rest,
        )
        if (verb or find_terms(rest)) and not re.search(
            r"n['’]t\b|\b(?:would (?:be|need|have|depend)|could|if|any|not|no|might|unless|depends|both|either|"
            r"whatever|more|at least|at most|[a-z]+er than|only if|known|given|example|can only say|can say)\b",
            rest,
            re.IGNORECASE,
        ):
            return Says(text[drawn.start() :].strip(), offset + drawn.start(), offset + len(text))
    return None


# "As Pia is named first, it's her."
_IT_IS_ONE_OF_THEM = regex(
    r"\b(?:it|that)(?:'s|\s+is|\s+was|\s+must\s+be)\s+(?:him|her|them|he|she|the\s+(?:first|second|former|latter)(?:\s+one)?)\W*\Z",
    re.IGNORECASE,
)
_A_ONE = regex(
    r"\b(?:an?|the|this|that|which|any|every|each|no|another|other)\s+(?:[^\W\d_]+\s+){0,2}one\Z", re.IGNORECASE
)


# "Hard to say. Perhaps 8 euros?"
_PERHAPS = regex(r"\W*(?:perhaps|maybe|possibly)\s+(?:\S+\s+){0,4}?\S+\W*", re.IGNORECASE)


def _perhaps(sentence: Sentence) -> Says | None:
    """Return a short sentence that guesses a number."""
    guesses = _PERHAPS.fullmatch(sentence.text) and find_terms(sentence.text)
    return Says(sentence.text, sentence.start, sentence.end) if guesses else None


def _states(sentence: Sentence, told: Told, asked: str) -> Says | None:
    """Return a sentence after the abstention that states a value of its own."""
    if re.search(
        r"\b(?:would|could|might|if|either|any|depend\w*|example|e\.g\.|need|tell|give me|provide)\b",
        sentence.text,
        re.IGNORECASE,
    ):
        return None
    if states_asked(sentence.text) and not cue("abstains").search(sentence.text):
        return Says(sentence.text, sentence.start, sentence.end)
    if _IT_IS_ONE_OF_THEM.search(sentence.text) and not cue("abstains").search(sentence.text):
        return Says(sentence.text, sentence.start, sentence.end)
    # "That was a fun one!": a word of its own, and no number
    numbers = [term for term in find_terms(sentence.text) if not _A_ONE.search(sentence.text[: term.end])]
    concludes = told.role is Role.CONCLUDES
    however = re.search(r"\b(?:however|still|nevertheless|nonetheless|but|though)\b", sentence.text, re.IGNORECASE)
    known = {term.value for term in find_terms(view_of(asked).text)}
    new = bool(asked) and any(term.value not in known for term in numbers)
    if new and cue("copula").search(sentence.text) and not cue("abstains").search(sentence.text):
        return Says(sentence.text, sentence.start, sentence.end)
    if (numbers and (concludes or however)) or (however and cue("copula").search(sentence.text)) or concludes:
        return Says(sentence.text, sentence.start, sentence.end)
    return None
