"""Keeping a run within a budget: what may still be spent, with the cost of what is in flight set aside."""

from __future__ import annotations

import asyncio


class Purse:
    """What a run may cost, shared by all entrants; without a budget everything is granted."""

    def __init__(self, budget: float | None = None):
        self.budget = budget
        self.spent = 0.0
        self.set_aside = 0.0
        self.empty = False
        self._settled = asyncio.Event()

    async def take(self, most: float) -> bool:
        """Set aside the most that a request can cost; False when the budget could be passed by it.

        While other requests are in flight their true cost, once known, may leave room: then this waits.
        """
        if self.budget is None:
            return True
        while self.spent + self.set_aside + most > self.budget:
            if not self.set_aside:
                self.empty = True
            if self.empty:
                return False
            self._settled.clear()
            await self._settled.wait()
        self.set_aside += most
        return True

    def settle(self, most: float, cost: float) -> None:
        """Put what was set aside for a request back, and note what it did cost."""
        self.spent += cost
        if self.budget is not None:
            self.set_aside = max(0.0, self.set_aside - most)
            if self.set_aside < 1e-12:
                self.set_aside = 0.0
            self._settled.set()
