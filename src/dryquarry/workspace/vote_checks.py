"""How much a judge of pairs prefers whatever is shown first."""

from __future__ import annotations

from collections import defaultdict
from collections.abc import Sequence

import numpy as np

from dryquarry.ledger.store import Ledger
from dryquarry.ledger.votes import StoredVote, votes_on
from dryquarry.standing.agreement import Estimate, mean_of, nothing
from dryquarry.suites.question import Suite

# What the reply shown first gains by a vote.
GAINS = {"first": 0.5, "second": -0.5, "tie": 0.0, "both-bad": 0.0}


def first_shown_by(ledger: Ledger, suite: Suite, judge: str) -> Estimate:
    """Return by how much more a reply wins when shown first than when shown second, of pairs shown in both orders.

    0 is none; 1 would be a judge that always prefers the first.
    """
    return order_gain([one for one in votes_on(ledger, suite.name) if one.by == judge and one.by_judge])


def order_gain(votes: Sequence[StoredVote]) -> Estimate:
    """Return the mean gain of being shown first over the pairs of replies that were shown in both orders."""
    pairs: dict[tuple[int, int], dict[tuple[int, int], list[float]]] = defaultdict(lambda: defaultdict(list))
    asks: dict[tuple[int, int], int] = {}
    for one in votes:
        key = (min(one.first_id, one.second_id), max(one.first_id, one.second_id))
        pairs[key][one.first_id, one.second_id].append(GAINS[one.choice])
        asks[key] = one.ask_id
    both = {key: orders for key, orders in pairs.items() if len(orders) == 2}
    if not both:
        return nothing()
    gains = np.array([sum(float(np.mean(values)) for values in orders.values()) for orders in both.values()])
    _, groups = np.unique([asks[key] for key in both], return_inverse=True)
    return mean_of(gains, groups.astype(np.intp))
