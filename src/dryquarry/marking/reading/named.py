"""What a clause may be naming, and which of several clauses answers: the one that turns to it, that puts an answer."""

from __future__ import annotations

import re
from collections.abc import Sequence
from dataclasses import dataclass

from dryquarry.marking.reading.answering import tells_head
from dryquarry.marking.reading.claims import Claim, Place, PlaceKind, Stance
from dryquarry.marking.reading.clauses import two_of_a_kind
from dryquarry.marking.reading.echo import (
    asks_yes_or_no,
    content_of,
    echo,
    is_echo,
    names_in,
    question_in,
    stem,
    without_supposed,
)
from dryquarry.marking.reading.kinds import LEAST_TAKEN_UP, Choice
from dryquarry.marking.reading.names_told import asks_who
from dryquarry.marking.reading.offers import offered_by, without_offers
from dryquarry.marking.reading.possible_answers import GAPPED, is_possible, possible_in
from dryquarry.marking.reading.set_aside import IT_IS
from dryquarry.marking.reading.things_said import ITS_ONE_IS
from dryquarry.marking.reading.told import NEGATION, is_main_verb
from dryquarry.marking.reading.turns import turns
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply

_WORD = regex(r"[^\W_]+(?:['’-][^\W_]+)*")


FAR_LESS = 0.3
# A sentence that takes up so much of what was asked tells of nothing else.
WHOLLY = 0.6
NEARLY_ALL = 0.9
# "It does: …", "No, it isn't."
IT_DOES = regex(
    r"\W*(?:(?:indeed|yes|no|of\s+course|certainly|actually|well),?\s+)?(?P<said>(?:it|he|she|they|that|this|there|you|one|we)\s+(?:does|do|did|is|are|was|were|can|could|will|would|has|have|may|must|should)"
    r"(?P<not>n't|\s+not|not)?)(?=\s*(?:[:;.,!—–-]|\Z)|\s+(?:indeed|in\s+fact|because|since|as)\b|(?<=does)\s+[a-z]|(?<=doesn't)\s+[a-z])",
    re.IGNORECASE,
)
_DESCRIBES = regex(r"\W*(?:the|its|his|her)\s+[^\W\d_]+\s+(?:of|in|on|that|which|who|with|between)\b", re.IGNORECASE)
_IT_IS_YOURS = regex(r"\W*(?:your|my|our|his|her|its)\s+[^\W\d_]+\W*", re.IGNORECASE)
_AND_NOT = regex(r"\W*(?:the\s+|an?\s+)?[^\W\d_]+(?:\s[^\W\d_]+)?,\s+(?:and\s+)?not\s", re.IGNORECASE)
_IT_IS_ONLY = regex(
    r"\W*(?:(?:so|no|then),?\s+)?(?:it|that)(?:'s|\s+(?:is|was))\s+(?:the\s+|an?\s+)?[^\W\d_]+(?:\s[^\W\d_]+)?\W*",
    re.IGNORECASE,
)
_ONLY_A_NAME = regex(r"\W*(?:the\s+)?[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?\W*")
ONLY_MOST = regex(
    r"the\s+(?!(?:pri|for|w|ch|n|gu|harv|inter|t|r|b|v|p|cr|requ|conqu|temp)est\b)[a-z]+est(?:\s+(?:one|of\s+all|of\s+them))?",
    re.IGNORECASE,
)
# "Carbon dioxide; at night, though, they take in oxygen, too."
_ADDS_MORE = regex(r"\b(?:though|too|also|as\s+well)\b", re.IGNORECASE)
MOST_WORDS_ALONE = 3
_HE_HIMSELF = regex(r"\W*(?:he|she|it)\s+(?:himself|herself|itself)\b", re.IGNORECASE)
_BOTH_ARE = regex(
    r"\W*(?:both|all(?:\s+of\s+(?:them|these))?|they|these)\s+(?:are|were|mean)\s+(?:the\s+)?[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?\W*"
)
_DID_SO = regex(r"\b(?:could|did|does|can|has|was)(?:\s+and\s+did)?(?:\s+(?:it|so|that))?\W*\Z", re.IGNORECASE)
_COULD_NOT = regex(r"\b(?:could|can|did|has|was|does)(?:n['’]t|\s+not|not)\b|\bcannot\b", re.IGNORECASE)
_EITHER = regex(r"\beither\s+[^,;]{1,60}?\sor\s|\bbetween\s+[^,;]{1,60}?\sand\s", re.IGNORECASE)
# "I doubted that it was the Caspian Sea, but it is."
_ONLY_IT_IS = regex(r"\W*(?:and\s+|but\s+)?it\s+(?:really\s+|indeed\s+)?(?:is|was|does|did)\W*", re.IGNORECASE)
_WAS = regex(r"\b(?:was|were|used\s+to|had\s+been)\b", re.IGNORECASE)
_IS_NOW = regex(r"\W*(?:(?:and|but)\s+)?(?:(?:it\s+|now\s+)?is\s+(?:now\s+)?|now\s+)[A-Z]")
_I_THINK = regex(
    r"\W*(?:and\s+|but\s+)?(?:I(?:'d|\s+would|\s+do)?\s+(?:think|say|believe|guess|go\s+for)|probably|most\s+likely)\b",
    re.IGNORECASE,
)
_HAS_NOT = regex(r"\A\W*(?:he|she|it|they)\s+(?:\w+n't|\w+\s+not|\w+\s+never)\b", re.IGNORECASE)
_BUT = regex(r"\b(?:which leaves|but|sondern|aber|mais|sino|pero)\W+\Z", re.IGNORECASE)


_DRAWS = regex(r"\W*(?:so|hence|therefore|thus)\b(?!\s+(?:far|that|much|many|called)\b)", re.IGNORECASE)
# "isobar – from isos (equal) and baros (weight)"
_ENTRY = regex(
    r"\W*[^\W\d_]+(?:\s[^\W\d_]+)?\s(?:[–—-]|\()\s?(?:from|of|a|an|the|literally|that\s+is|i\.e\.)\s", re.IGNORECASE
)


@dataclass(frozen=True, slots=True)
class Named:
    """What a clause may be naming: readings in the order of how likely each is meant, each with its place.

    `put_so` tells that the clause is put in a way in which answers are put, and others are not; `clause` is its place.
    """

    readings: tuple[tuple[str, int, int], ...]
    put_so: bool = False
    clause: tuple[int, int] = (0, 0)

    @property
    def texts(self) -> tuple[str, ...]:
        """The readings without their places."""
        return tuple(text for text, _, _ in self.readings)


def clause_that_answers(reply: Reply, place: Place, claims: Sequence[Claim[Named]], asked: str) -> Choice[Named]:
    """Return the clause that answers: of a sentence the last that turns to it, of an answer line the first."""
    claims = [claim for claim in claims if claim.value.readings]
    if not claims:
        return Choice(None)
    claims = [claim for claim in claims if claim.stance is not Stance.ASIDE] or claims
    # "Lotte is Oda's mother and so Rhea's grandmother": the words of the question alone name nobody
    named = [
        claim
        for claim in claims
        if not (_only_says_who(claim.value.readings[0][0], asked) or _says_no_more(claim.value.readings, asked))
    ]
    claims = named or claims
    # "…, and therefore the largest": what is asked for said over again names nothing
    claims = [claim for claim in claims if not ONLY_MOST.fullmatch(claim.value.readings[0][0])] or claims
    if not asks_yes_or_no(asked):
        claims = [one for one in claims if not _ONLY_IT_IS.fullmatch(clause_text(reply.text, one))] or claims
    firm = [claim for claim in claims if claim.stance is Stance.ASSERTED] or list(claims)
    if asks_yes_or_no(asked):
        firm = [one for one in firm if one.value.texts[0] in ("yes", "no")] or firm  # "It isn't; it breathes air."
    firm = _not_so(reply.text, firm, asked)
    final = firm[0]
    turned = _turned_to(reply, place, firm, asked)
    own = _of_its_name(reply.text, asked, firm)
    labelled = _with_own_label(reply.text, place, asked, firm)
    if not place.telling and _only_answers(reply.text, firm[0], asked):
        final = firm[0]
    elif labelled is not None and _all_labelled(reply.text, place, firm):
        final = labelled
    elif len(whose := _whose(reply.text, firm, asked)) == 1:
        final = whose[0]
    elif turned:
        final = own if own is not None and own.start > turned[-1].start else turned[-1]
    elif labelled is not None:
        final = labelled
    elif (of_verb := _of_asked_verb(reply.text, asked, firm)) is not None:
        final = of_verb
    elif place.kind is PlaceKind.FIRST_WORDS or (not place.telling and _stands_alone(reply.text, firm[0])):
        final = firm[0]
    elif own is not None and not place.telling and _gapped(clause_text(reply.text, own)):
        final = own  # "Porto lies on the Douro; Lisbon on the Tagus"
    elif (
        not place.telling
        and len(headed := [one for one in firm if tells_head(clause_text(reply.text, one), asked)]) == 1
    ):
        final = headed[0]
    elif not place.telling and (
        is_possible(clause_text(reply.text, firm[0]), asked) or _answers_wholly(reply.text, asked, firm[0], firm[1:])
    ):
        final = firm[0]
    elif not place.telling and (put := _put(reply.text, asked, firm)):
        final = put[-1]
    elif place.start <= 2 and _ENTRY.match(reply.text, place.start, place.end) and len(firm) > 1:
        final = firm[0]
    elif not place.telling and place.kind is not PlaceKind.STATEMENT:
        final = max(firm, key=lambda claim: (round(echo(clause_text(reply.text, claim), asked), 2), -claim.start))
    others = [claim for claim in claims if claim.stance is Stance.HEDGED and claim is not final]
    if place.telling and final is claims[0] and two_of_a_kind(reply.text, place.start, place.end):
        others = claims[1:]
    return Choice(final, tuple(others), ())


def _whose(text: str, firm: Sequence[Claim[Named]], asked: str) -> list[Claim[Named]]:
    """Return what is said in words such as "and its author is Hypatia", where it is asked who."""
    return [one for one in firm if ITS_ONE_IS.search(clause_text(text, one))] if asks_who(asked) else []


# "The Sill reaches the sea, the Tarn doesn't", where it is asked which doesn't
_DOES_NOT = regex(
    r"\b(?:does|do|did|is|are|was|were|has|have|can)(?:n['’]t|\s+not)\b|\bcan(?:not|['’]t)\b", re.IGNORECASE
)


def _not_so(text: str, firm: list[Claim[Named]], asked: str) -> list[Claim[Named]]:
    """Keep the clause that says what is not so, where that is asked for and one of several says it."""
    if len(firm) < 2 or not _DOES_NOT.search(question_in(asked)):
        return firm
    denied = [claim for claim in firm if _DOES_NOT.search(clause_text(text, claim))]
    return denied if len(denied) == 1 else firm


def _turned_to(reply: Reply, place: Place, firm: list[Claim[Named]], asked: str) -> list[Claim[Named]]:
    """Return the clauses to which a stretch turns after its first: "some took them for two; both are Venus"."""
    turned = [
        claim
        for claim in firm[1:]
        if (turns(reply.text, place.start, claim.start) and not _explains(reply.text, firm[0], claim, asked))
        or any(_BUT.search(reply.text[place.start : start]) for _, start, _ in claim.value.readings)
        or (not place.telling and _is_drawn(reply.text, asked, firm[0], claim))
        or (not place.telling and _draws_head(clause_text(reply.text, claim), asked))
        or (not place.telling and claim.value.put_so and _DRAWS.match(clause_text(reply.text, claim)))
    ]
    if turned and firm[-1] is not turned[-1] and _HAS_NOT.search(clause_text(reply.text, turned[-1])):
        turned = firm[-1:]  # "…, so she didn't have it any more; the porter did"
    if not turned and len(firm) > 1 and _WAS.search(clause_text(reply.text, firm[0])):
        present = not _WAS.search(question_in(asked).partition(", if ")[0])
        now = present and _IS_NOW.match(clause_text(reply.text, firm[-1]))
        turned = firm[-1:] if now else []  # "It was Harrow, and is Tarn."
    if not turned and len(firm) > 1 and _HE_HIMSELF.match(clause_text(reply.text, firm[-1])):
        turned = firm[-1:]  # "His mate is called Holm; he himself is called Lund."
    if not turned and len(firm) > 1 and _I_THINK.match(clause_text(reply.text, firm[-1])):
        either = _EITHER.search(clause_text(reply.text, firm[0])) is not None
        turned = firm[-1:] if either else []  # "It's either Zagreb or Ljubljana; I think it's Ljubljana."
    if len(firm) > 1 and asks_who(asked) and _DID_SO.search(clause_text(reply.text, firm[-1])):
        denied = any(_COULD_NOT.search(clause_text(reply.text, one)) for one in firm[:-1])
        turned = firm[-1:] if denied else turned  # "Ben could not have done it; Ada could and did."
    if not turned and len(firm) > 1 and _BOTH_ARE.fullmatch(clause_text(reply.text, firm[-1])):
        turned = firm[-1:]  # "Some took them for two; both are Venus."
    return turned


# "…, so the sense is vision", where a sense is asked for
_SO_THE_HEAD = regex(
    r"\W*(?:so|hence|therefore|thus)\s+(?:the|its)\s+(?:(?:first|last|only|real|own)\s+)?(?P<head>[^\W\d_]+)\s+(?:is|was|must\s+be)\s",
    re.IGNORECASE,
)


# "…, so Birger is her grandfather"
_SO_IT_IS_HER = regex(
    r"\W*(?:so|hence|therefore|thus)\s+[A-Z][^\W\d_]+\s+(?:is|was|must\s+be)\s+(?:the|her|his|their|its|[A-Z][^\W\d_]+['’]s)\s+(?P<head>[^\W\d_]+)\b"
)


def _draws_head(clause: str, asked: str) -> bool:
    """Tell whether a clause draws what the thing asked for is."""
    head = _SO_THE_HEAD.match(clause) or _SO_IT_IS_HER.match(clause)
    if head is None or is_echo(head["head"], ""):
        return False
    said, question = head["head"], question_in(asked)
    return is_echo(said, question) or is_echo(said.removesuffix("er"), question)  # "owner", where it is asked who owned


# "At Bergen; the mate only left in Stavanger.", "The right one: starboard is left."
_ONLY_A_PLACE = regex(r"\W*(?i:at|in|on|near|off|by)\s+(?:the\s+)?[A-Z][^\W\d_]+(?:\s[A-Z][^\W\d_]+)?\W*")
_ASKS_WHERE = regex(r"\bwhere\b|\bin\s+which\b|\bat\s+which\b", re.IGNORECASE)
_ONLY_THIS = regex(r"\W*(?:the\s+|an?\s+)?(?P<what>[^;:]+?)(?:\s+(?:one|side|hand))?\W*", re.IGNORECASE)


def _only_answers(text: str, first: Claim[Named], asked: str) -> bool:
    """Tell whether a clause is an answer and no more: a place where one is asked for, one of those offered."""
    start, end = first.value.clause
    clause = text[start:end]
    if text[end : end + 1] not in (";", ":"):
        return False
    only = _ONLY_THIS.fullmatch(clause)
    offered = map(str.casefold, offered_by(asked))
    place = _ASKS_WHERE.search(question_in(asked)) is not None and _ONLY_A_PLACE.fullmatch(clause) is not None
    return place or (only is not None and only["what"].casefold() in offered)


def _stands_alone(text: str, first: Claim[Named]) -> bool:
    """Tell whether a clause answers and what follows only says why: "it's the Sow; …", "the skin, not the liver: …"."""
    start, end = first.value.clause
    if text[end : end + 1] == ";" and len(text[start:end].split()) <= MOST_WORDS_ALONE:
        following = re.compile(r"[^.!?\n]*").match(text, end + 1)
        if following is not None and _ADDS_MORE.search(following.group()):
            return True
    if text[end : end + 1] == ";":
        return _IT_IS_ONLY.fullmatch(text, start, end) is not None
    return text[end : end + 1] == ":" and _AND_NOT.match(text, start) is not None


def _put(text: str, asked: str, claims: Sequence[Claim[Named]]) -> list[Claim[Named]]:
    """Return the clauses that put an answer, but those that take up far less of what was asked than another."""
    shares = [echo(clause_text(text, claim), asked) for claim in claims]
    least = max(shares) - FAR_LESS if offered_by(asked) or max(shares) >= NEARLY_ALL else 0.0
    return [claim for claim, share in zip(claims, shares, strict=True) if claim.value.put_so and share >= least]


def _is_drawn(text: str, asked: str, first: Claim[Named], claim: Claim[Named]) -> bool:
    """Tell whether a clause draws on the first and takes up as much: "…, hence the white one has the salt"."""
    said, opening = clause_text(text, claim), clause_text(text, first)
    return _DRAWS.match(said) is not None and echo(said, asked) >= max(echo(opening, asked), LEAST_TAKEN_UP)


def _of_its_name(text: str, asked: str, claims: Sequence[Claim[Named]]) -> Claim[Named] | None:
    """Return the one clause that has the name of which the question asks: "…; Slovenia's government sits in …"."""
    names = names_in(question_in(asked))
    own = [claim for claim in claims if names & content_of(clause_text(text, claim))]
    return own[0] if len(own) == 1 and possible_in(text, *own[0].value.clause, asked) else None


def _answers_wholly(text: str, asked: str, first: Claim[Named], later: Sequence[Claim[Named]]) -> bool:
    """Tell whether a clause takes up what was asked and names what may answer, and none behind it does as much."""
    asks = without_offers(asked)
    taken_up = [echo(clause_text(text, claim), asks) for claim in (first, *later)]
    named = possible_in(text, first.start, first.end, asked)
    return bool(named) and taken_up[0] >= WHOLLY and taken_up[0] > max(taken_up[1:], default=1.0)


LONGEST_LABEL = 48
# "Through Graz flows the Danube; through Linz, the Mur."
_AT_NAME = regex(
    r"\W*(?:through|in|at|by|on|near|from)\s+[A-Z][^\W\d_]+,\s+(?:the\s+)?[A-Z][^\W\d_]+\W*", re.IGNORECASE
)


def _gapped(clause: str) -> bool:
    return GAPPED.fullmatch(clause) is not None or _AT_NAME.fullmatch(clause) is not None


# "Door: blue; walls: green."
_LABEL = regex(r"(?:\A|[;.,\n]\s*)\W*(?P<what>[^;:.,\n]{2,40}):\s*\Z")


def _with_own_label(text: str, place: Place, asked: str, claims: Sequence[Claim[Named]]) -> Claim[Named] | None:
    """Return the one clause whose label is of the question, where each of several has one."""
    starts = [claim.value.clause[0] for claim in claims]
    labels = [_LABEL.search(text[max(place.start, start - LONGEST_LABEL) : start]) for start in starts]
    told = [label is not None and bool(content_of(label["what"]) & content_of(question_in(asked))) for label in labels]
    several = len([label for label in labels if label is not None]) > 1
    return claims[told.index(True)] if several and told.count(True) == 1 else None


def _all_labelled(text: str, place: Place, claims: Sequence[Claim[Named]]) -> bool:
    """Tell whether a label stands before each of several clauses: "Rebuilt: 1902; built: 1871; burnt: 1899."."""
    starts = [claim.value.clause[0] for claim in claims]
    return all(_LABEL.search(text[max(place.start, start - LONGEST_LABEL) : start]) for start in starts)


def _of_asked_verb(text: str, asked: str, claims: Sequence[Claim[Named]]) -> Claim[Named] | None:
    """Return the one clause with the question's verb, where the first tells what else was done: "Runa carved it; …"."""
    wanted = {stem(word) for word in _WORD.findall(_QUOTED.sub("", question_in(asked))) if is_main_verb(word)}
    told = [_main_verbs(clause_text(text, claim)) for claim in claims]
    own = [claim for claim, verbs in zip(claims, told, strict=True) if verbs & wanted]
    if len(own) != 1 or own[0] is claims[0] or not told[0] or NEGATION.search(clause_text(text, own[0])):
        return None
    return own[0]


def _main_verbs(clause: str) -> set[str]:
    """Return the stems of the verbs near the beginning of a clause: "carved" of "Runa carved it"."""
    return {stem(word) for word in _WORD.findall(clause)[1:4] if is_main_verb(word) and word not in _DOES}


_DOES = frozenset(("does", "did"))
_QUOTED = regex(r"['\"‘“][^'\"’”]{3,}['\"’”]")


def _only_says_who(said: str, asked: str) -> bool:
    """Tell whether a reading is a word of the question in small letters, where somebody with a name is asked for."""
    words = _WORD.findall(said)
    return asks_who(asked) and said.islower() and all(is_echo(word, question_in(asked)) for word in words)


def _says_no_more(readings: Sequence[tuple[str, int, int]], asked: str) -> bool:
    """Tell whether a clause names whom the question names, and has no other word: "Mette isn't the drummer"."""
    question = without_supposed(asked)
    if (
        asks_who(asked)
        or offered_by(asked)
        or not {stem(word) for word in readings[0][0].split()} <= names_in(question)
    ):
        return False
    words = (word for said, _, _ in readings for word in _WORD.findall(said))
    return all(is_echo(word, question) or is_echo(word, "") or word.endswith("n't") for word in words)


def clause_text(text: str, claim: Claim[Named]) -> str:
    """Return the clause in which something is named."""
    return text[slice(*claim.value.clause)]


def _explains(text: str, first: Claim[Named], later: Claim[Named], asked: str) -> bool:
    """Tell whether what stands after a colon explains an answer: "It must be autumn: apples ripen then"."""
    begins = min(start for _, start, _ in first.value.readings)
    if _DESCRIBES.match(text, begins) and _ONLY_A_NAME.fullmatch(clause_text(text, later)):
        return False  # "The neighbour of Bolivia and Chile: Peru."
    if _IT_IS_YOURS.fullmatch(clause_text(text, later)) and IT_IS.match(text, begins):
        return False  # "It's all around you: your skin."
    if _AND_NOT.match(text, first.value.clause[0]):
        return text[: later.start].rstrip().endswith(":")  # "The skin, not the liver: the liver is only …"
    alone = is_possible(text[begins : later.start].rstrip(" :"), asked)
    opens = alone or first.value.put_so or IT_IS.match(text, begins) or IT_DOES.match(text, begins)
    return text[: later.start].rstrip().endswith(":") and bool(opens)
