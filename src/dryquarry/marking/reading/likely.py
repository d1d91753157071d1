"""Which claim of plain prose is likeliest the answer, by weights fitted to replies that people have judged.

The rules of `settling.py` say what each wording means, and know only the wordings that somebody thought of. Here every
claim has features (`likely_features.py`), and a conditional logit (McFadden, 1974) says how likely each is the answer
among those of its reply: the exponential of the sum of its features' weights, divided by the sum over all claims. The
weights are in `marking/fitted/`, a file a kind of value; `benchmarks/fit_weights.py` fits them and says how well.
"""

from __future__ import annotations

import json
import math
from collections.abc import Callable, Hashable, Mapping, Sequence
from dataclasses import dataclass
from functools import cache
from importlib.resources import files
from typing import Generic, TypeVar

from dryquarry.marking.reading.claims import Claim, Found, Question
from dryquarry.marking.reading.likely_features import Features, Scene, features_of, scene_of
from dryquarry.marking.reading.places import sentence_at
from dryquarry.marking.reading.roles import Told
from dryquarry.marking.reply.structure import Reply

Value = TypeVar("Value")
# So many claims of a reply are compared: the last ones.
MOST_COMPARED = 60
BY_SENTENCE = "in the sentence that the rules choose"


@dataclass(frozen=True, slots=True)
class Likelihood(Generic[Value]):
    """How claims of a kind are compared: the file of its weights, when two are one value, and its own features.

    `much` is by how much a claim must be likelier than the one that the rules choose to stand in its place, and
    `piece` makes a value of a piece of a sentence where the rules take a clause as one, and `by_sentence_chosen` says
    that it counts which sentence the rules chose.
    """

    name: str
    token: Callable[[Value], Hashable]
    own: Callable[[Scene[Value]], list[Features]]
    much: float
    piece: Callable[[Reply, int, int], Found[Value] | None] | None = None
    by_sentence_chosen: bool = False


@cache
def weights_of(name: str) -> Mapping[str, float]:
    """Return the fitted weights of a kind of value by feature; none where nothing was fitted yet."""
    file = files("dryquarry.marking").joinpath("fitted", f"{name}.json")
    weights: dict[str, float] = json.loads(file.read_text(encoding="utf-8")) if file.is_file() else {}
    return weights


def compared(
    reply: Reply,
    question: Question,
    roles: Sequence[Told],
    likelihood: Likelihood[Value],
    claims: Sequence[Claim[Value]],
    final: Claim[Value] | None,
) -> tuple[Scene[Value], list[Features]]:
    """Return claims side by side with the features of each; `final` is the one that the rules choose."""
    tokens = [(claim, likelihood.token(claim.value)) for claim in claims[-MOST_COMPARED:]]
    scene = scene_of(reply, question, roles, tokens)
    own = likelihood.own(scene)
    if likelihood.by_sentence_chosen and final is not None:
        chosen = sentence_at(reply, final.start)
        own = [one | {BY_SENTENCE: said.sentence == chosen} for one, said in zip(own, scene.said, strict=True)]
    return scene, features_of(scene, own)


def shares_of(
    scene: Scene[Value], features: Sequence[Features], weights: Mapping[str, float]
) -> list[tuple[Claim[Value], float]]:
    """Return for each value its likeliest claim and how likely the value is, from 0 to 1, the likeliest first."""
    sums = [math.fsum(weights.get(name, 0.0) * strength for name, strength in one.items()) for one in features]
    most = max(sums, default=0.0)
    parts = [math.exp(one - most) for one in sums]
    whole = math.fsum(parts)
    shares: dict[Hashable, float] = {}
    best: dict[Hashable, tuple[float, Claim[Value]]] = {}
    for said, part in zip(scene.said, parts, strict=True):
        shares[said.token] = shares.get(said.token, 0.0) + part / whole
        if said.token not in best or part > best[said.token][0]:
            best[said.token] = (part, said.claim)
    ranked = sorted(shares.items(), key=lambda one: -one[1])
    return [(best[token][1], share) for token, share in ranked]
