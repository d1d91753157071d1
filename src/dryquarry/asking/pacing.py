"""How fast one service is asked: so many in flight, requests and tokens a minute, and less when it throttles."""

from __future__ import annotations

import asyncio
import time
from collections.abc import Callable

from dryquarry.asking.entrants import Limits

LEAST_WINDOW = 1.0
# Refusals that come this close together are one sign of throttling, not several.
ONE_SIGN_S = 0.25


class Pace:
    """The pace that one entrant's workers share.

    The window is how many requests may be in flight: the entrant's limit, halved when the service throttles and
    widened again by one for about every window of good replies (additive increase, multiplicative decrease;
    Chiu and Jain, 1989).
    """

    def __init__(self, limits: Limits, clock: Callable[[], float] = time.monotonic):
        self.limits = limits
        self.clock = clock
        self.last_sign = -ONE_SIGN_S
        self.window = float(limits.in_flight)
        self.in_flight = 0
        self.next_start = 0.0
        self.quiet_until = 0.0
        self._room = asyncio.Event()

    async def enter(self) -> None:
        """Wait for room in the window, and for the next start that the limits allow; then count as in flight."""
        while self.in_flight >= self.window:
            self._room.clear()
            await self._room.wait()
        self.in_flight += 1
        now = self.clock()
        start = max(now, self.next_start, self.quiet_until)
        if self.limits.per_minute is not None:
            self.next_start = max(now, self.next_start) + 60.0 / self.limits.per_minute
        if start > now:
            try:
                await asyncio.sleep(start - now)
            except asyncio.CancelledError:
                self.leave()
                raise

    def leave(self) -> None:
        """Count as no longer in flight."""
        self.in_flight -= 1
        self._room.set()

    def went_well(self, tokens: int) -> None:
        """Widen the window a little, and account for the tokens that a reply took."""
        if self.window < self.limits.in_flight:
            self.window = min(float(self.limits.in_flight), self.window + 1.0 / self.window)
            self._room.set()
        if self.limits.tokens_per_minute is not None:
            self.next_start = max(self.clock(), self.next_start) + tokens * 60.0 / self.limits.tokens_per_minute

    def throttled(self, wait_s: float) -> None:
        """Halve the window, and let nobody start before the service wants to be asked again."""
        now = self.clock()
        if now - self.last_sign >= ONE_SIGN_S:
            self.window, self.last_sign = max(LEAST_WINDOW, self.window / 2), now
        self.quiet_until = max(self.quiet_until, now + wait_s)
