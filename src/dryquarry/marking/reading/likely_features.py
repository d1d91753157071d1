"""What a reply shows of each of its claims that speaks for or against its being the answer: features, not verdicts.

A feature is a name and a strength, mostly 1: a word that stands beside the claim, the place of its sentence, how far
its clause takes up what was asked. What each is worth is fitted, not written here (`likely.py`).
"""

from __future__ import annotations

import re
from collections.abc import Hashable, Sequence
from dataclasses import dataclass
from typing import Generic, TypeVar

from dryquarry.marking.reading.claims import Claim, Question
from dryquarry.marking.reading.echo import content_of, question_in, stem
from dryquarry.marking.reading.places import sentence_at
from dryquarry.marking.reading.roles import Told
from dryquarry.marking.regexes import regex
from dryquarry.marking.reply.structure import Reply

Value = TypeVar("Value")
Features = dict[str, float]
FARTHEST_WORD = 40
FARTHEST = 400
_WORD = regex(r"[^\W\d_]+(?:['’][a-z]+)?|\d+(?:[.,]\d+)*|[^\w\s]")
_PLAIN_WORD = regex(r"[a-z]+")
_CLAUSE_ENDS = regex(r"[,;():]|\s[–—]\s")
# Words that turn, conclude, compare or suppose: where one stands by a claim is for the weights to say.
_TURNING = regex(
    r"\b(?:so|thus|hence|therefore|total|altogether|together|result|makes?|leaves?|gives?|comes?|equals?|remain\w*|left|"
    r"answer|finally|only|then|now|first|next|last|later|rest|sum|difference|if|would|were|was|had|suppose|someone|some|"
    r"others?|wrong|mistake|not|rather|forget\w*|might|may|could|can|cannot|can't|isn't|doesn't|don't|tempt\w*|"
    r"unless|check|example|per|each|every|but|though|however|because|since|for|unlike|while|whereas|than|as|who|which|"
    r"that|where|also|too|more|less|further|right|correct|true|false|mistaken|actually|really|fact|namely|instead)\b",
    re.IGNORECASE,
)


@dataclass(frozen=True, slots=True)
class Said(Generic[Value]):
    """A claim and what stands around it: its sentence, its clause, and the words before and behind it."""

    claim: Claim[Value]
    token: Hashable
    sentence: int
    stretch: tuple[int, int]
    clause: tuple[int, int]
    before: tuple[str, ...]
    behind: tuple[str, ...]


@dataclass(frozen=True, slots=True)
class Scene(Generic[Value]):
    """The claims of a reply, side by side, and what they are claims about."""

    reply: Reply
    question: Question
    roles: Sequence[Told]
    said: tuple[Said[Value], ...]


def scene_of(
    reply: Reply, question: Question, roles: Sequence[Told], claims: Sequence[tuple[Claim[Value], Hashable]]
) -> Scene[Value]:
    """Return claims with what stands around each; a token tells which of them are the same value."""
    return Scene(reply, question, roles, tuple(_said(reply, claim, token) for claim, token in claims))


def _said(reply: Reply, claim: Claim[Value], token: Hashable) -> Said[Value]:
    text, number = reply.text, sentence_at(reply, claim.start)
    sentence = reply.sentences[number]
    # of a sentence without an end only what is near, as each claim is looked at by itself
    low = min(max(sentence.start, claim.start - FARTHEST), claim.start)
    high = max(min(sentence.end, claim.end + FARTHEST), claim.end)
    ends = [match.end() for match in _CLAUSE_ENDS.finditer(text, low, claim.start)]
    behind = _CLAUSE_ENDS.search(text, claim.end, high)
    clause = (ends[-1] if ends else low, behind.start() if behind else high)
    return Said(
        claim,
        token,
        number,
        (low, high),
        clause,
        tuple(word.lower() for word in _WORD.findall(text, max(low, claim.start - FARTHEST_WORD), claim.start)),
        tuple(word.lower() for word in _WORD.findall(text, claim.end, min(high, claim.end + FARTHEST_WORD))),
    )


def features_of(scene: Scene[Value], own: Sequence[Features]) -> list[Features]:
    """Return the features of each claim of a scene, with those that only its kind of value has."""
    taken_up = _taken_up(scene)
    found = []
    for number in range(len(scene.said)):
        features = _words(scene.reply.text, scene.said[number])
        features |= _where(scene, number) | taken_up[number] | own[number]
        features |= {f"{one} & {other}": 1.0 for one, other in _PAIRS if features.get(one) and features.get(other)}
        found.append({name: float(strength) for name, strength in features.items() if strength})
    return found


def _words(text: str, said: Said[Value]) -> Features:
    """Return the words beside a claim, those that open its sentence and clause, and what turns or concludes there."""
    claim, (low, high), (first, last) = said.claim, said.stretch, said.clause
    before, behind = ("^", "^", *said.before), (*said.behind, "$", "$")
    opening = [word.lower() for word in _WORD.findall(text, low, min(high, low + FARTHEST_WORD))]
    clause = [word.lower() for word in _WORD.findall(text, first, min(last, first + FARTHEST_WORD))]
    names = {
        f"before: {before[-1]}",
        f"before: {before[-2]} {before[-1]}",
        f"behind: {behind[0]}",
        f"behind: {behind[0]} {behind[1]}",
        *(f"sentence opens: {' '.join(opening[:count])}" for count in (1, 2) if len(opening) >= count),
        *(f"clause opens: {word}" for word in clause[:1]),
        *(f"sentence has: {word.lower()}" for word in _TURNING.findall(text, low, high)),
        *(f"clause has before: {word.lower()}" for word in _TURNING.findall(text, first, claim.start)),
        *(f"clause has behind: {word.lower()}" for word in _TURNING.findall(text, claim.end, last)),
    }
    return dict.fromkeys(names, 1.0)


def _where(scene: Scene[Value], number: int) -> Features:
    """Return where a claim stands in the reply and among the other claims, and how it is meant."""
    said, reply = scene.said[number], scene.reply
    claim, sentences = said.claim, len(reply.sentences)
    from_end = sentences - 1 - said.sentence
    beside = [other for other, one in enumerate(scene.said) if one.sentence == said.sentence]
    same = [other for other, one in enumerate(scene.said) if one.token == said.token]
    text = reply.text
    return {
        f"stance: {claim.stance}": 1.0,
        f"role: {scene.roles[said.sentence].role}": 1.0,
        f"place: {claim.place.kind}": 1.0,
        f"sentences behind: {min(from_end, 3)}": 1.0,
        f"sentences: {min(sentences, 4)}, behind: {min(from_end, 2)}, before: {min(said.sentence, 1)}": 1.0,
        "how far down": (said.sentence + 1) / sentences,
        "only one of sentence": len(beside) == 1,
        "last of sentence": beside[-1] == number,
        "first of sentence": beside[0] == number,
        "last": number == len(scene.said) - 1,
        "first": number == 0,
        "said again": min(sum(other > number for other in same), 2) / 2,
        "said before": min(sum(other < number for other in same), 2) / 2,
        "bold": reply.is_bold(claim.start, claim.end),
        "in brackets": text.rfind("(", said.stretch[0], claim.start) > text.rfind(")", said.stretch[0], claim.start),
        "to the end of the sentence": claim.end >= said.stretch[1] - 2,
        "from the start of the sentence": claim.start <= said.stretch[0] + 1,
        "in a question": text[said.stretch[0] : said.stretch[1]].rstrip().endswith("?"),
    }


def _stems(text: str) -> frozenset[str]:
    return frozenset(map(stem, _PLAIN_WORD.findall(text.lower())))


def _senses(text: str) -> list[str]:
    """Return the stems of the words of a stretch that say something, in order."""
    return [stem(word) for word in _PLAIN_WORD.findall(text.lower()) if content_of(word)]


def _beside_asked(text: str, said: Said[Value], told: frozenset[str]) -> Features:
    """Return on which side of a claim, and how near, what is asked about stands in its sentence."""
    before = _senses(text[said.stretch[0] : said.claim.start])
    behind = _senses(text[said.claim.end : said.stretch[1]])
    found = {
        "nearest word before is asked about": before[-1:] != [] and before[-1] in told,
        "nearest word behind is asked about": behind[:1] != [] and behind[0] in told,
        "asked about before": len(told & set(before)) / max(1, len(told)),
        "asked about behind": len(told & set(behind)) / max(1, len(told)),
    }
    sides = ("none", "before", "behind", "both")
    side = sides[bool(found["asked about before"]) + 2 * bool(found["asked about behind"])]
    return found | {f"asked about: {side}": 1.0}


def _taken_up(scene: Scene[Value]) -> list[Features]:
    """Return how far sentence and clause of each claim take up what was asked, also against the other claims."""
    text, asked = scene.reply.text, scene.question.asked
    told, wanted = content_of(asked), content_of(question_in(asked))
    by_sentence = [_stems(text[slice(*said.stretch)]) for said in scene.said]
    around = [
        _stems(text[said.clause[0] : said.claim.start] + " " + text[said.claim.end : said.clause[1]])
        for said in scene.said
    ]
    most_told = max((len(words & told) for words in by_sentence), default=0)
    most_wanted = max((len(words & wanted) for words in by_sentence), default=0)
    shares = [len(words & wanted) for words in around]
    best = max(shares, default=0)
    last_best = max((number for number, share in enumerate(shares) if share == best), default=-1)
    found = []
    for number, said in enumerate(scene.said):
        is_best = 0 < best == shares[number]
        found.append(
            {
                "sentence takes up": len(by_sentence[number] & told) / max(1, len(told)),
                "sentence takes up most": 0 < most_told == len(by_sentence[number] & told),
                "sentence takes up most of the question": most_wanted == len(by_sentence[number] & wanted),
                "clause takes up": shares[number] / max(1, len(wanted)),
                "clause takes up most": is_best,
                "only clause that does": is_best and shares.count(best) == 1,
                "last clause that does": is_best and scene.said[last_best].token == said.token,
                "next word is asked about": any(stem(word) in told for word in said.behind[:2]),
                "word before is asked about": any(stem(word) in told for word in said.before[-2:]),
                **_beside_asked(text, said, told),
            }
        )
    return found


# What means more together than one by one.
_PAIRS = (
    ("last", "only one of sentence"),
    ("given", "last of sentence"),
    ("given", "only one of sentence"),
    ("worked out, and not worked on", "last of sentence"),
    ("sentence takes up most", "only one of sentence"),
    ("sentence takes up most", "last of sentence"),
    ("sentence takes up most", "first of sentence"),
    ("sentences behind: 0", "sentence takes up most"),
    ("sentences behind: 0", "last of sentence"),
    ("sentences behind: 0", "first of sentence"),
    ("sentences behind: 0", "given"),
    ("sentences behind: 0", "worked out, and not worked on"),
    ("sentences behind: 0", "is counted"),
    ("sentences behind: 0", "right side"),
    ("sentences behind: 0", "clause takes up most"),
    ("sentences behind: 0", "only clause that does"),
    ("given", "is counted"),
    ("last clause that does", "last of sentence"),
    ("clause takes up most", "given"),
    ("in the question", "said again"),
)
