"""Drawing an audit: a random sample of judged replies with known probabilities, some of every entrant."""

from __future__ import annotations

import math
from collections.abc import Mapping, Sequence
from dataclasses import dataclass

import numpy as np

FEWEST_EACH = 10
DISPUTED_WEIGHT = 2.0


@dataclass(frozen=True, slots=True)
class Auditable:
    """A judged reply that may be drawn: whose it is, how it was judged, and whether the judges disagreed."""

    key: int
    entrant: str
    verdict: str
    disputed: bool
    drawn: bool = False

    @property
    def stratum(self) -> str:
        """The name of the group it is drawn from."""
        return f"{self.entrant} · {self.verdict} · {'apart' if self.disputed else 'agreed'}"


@dataclass(frozen=True, slots=True)
class Drawn:
    """A reply that was drawn, from a stratum of so many, with this probability."""

    key: int
    stratum: str
    stratum_size: int
    probability: float


def draw_audit(replies: Sequence[Auditable], count: int, seed: int) -> list[Drawn]:
    """Return about `count` more replies, drawn by chance: at least ten of every entrant together with earlier draws.

    Within an entrant the draws are shared out over verdicts and agreement, those on which judges disagree drawn twice
    as often; each stratum that is not empty gets one at least. The probability is that of being drawn by now, in this
    audit or an earlier one. The replies come in random order.
    """
    chance = np.random.default_rng(seed)
    entrants = sorted({one.entrant for one in replies})
    drawn: list[Drawn] = []
    for entrant in entrants:
        own = [one for one in replies if one.entrant == entrant]
        before = sum(one.drawn for one in own)
        share = math.ceil(count / len(entrants))
        wanted = min(len(own), max(before + share, FEWEST_EACH))
        strata: dict[str, list[Auditable]] = {}
        for one in own:
            strata.setdefault(one.stratum, []).append(one)
        for name, number in _shared_out(strata, wanted).items():
            members = strata[name]
            fresh = [one for one in members if not one.drawn]
            more = max(0, number - (len(members) - len(fresh)))
            by_now = len(members) - len(fresh) + more
            taken = [fresh[place] for place in chance.permutation(len(fresh))[:more]]
            drawn += [Drawn(one.key, name, len(members), by_now / len(members)) for one in taken]
    return [drawn[place] for place in chance.permutation(len(drawn))]


def _shared_out(strata: Mapping[str, Sequence[Auditable]], wanted: int) -> dict[str, int]:
    """Return how many of each stratum are to be drawn, in all so many or a few more."""
    weights = {
        name: len(members) * (DISPUTED_WEIGHT if members[0].disputed else 1.0) for name, members in strata.items()
    }
    total = sum(weights.values())
    numbers = {name: min(len(strata[name]), max(1, round(wanted * weights[name] / total))) for name in strata}
    for name in sorted(strata, key=lambda one: -weights[one]):
        lacking = wanted - sum(numbers.values())
        if lacking <= 0:
            break
        numbers[name] = min(len(strata[name]), numbers[name] + lacking)
    return numbers
