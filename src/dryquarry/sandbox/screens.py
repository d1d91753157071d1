"""A program used step by step in a terminal or a window: what is typed, and what is then to be seen."""

from __future__ import annotations

import hashlib
import time
from collections.abc import Callable
from contextlib import AbstractContextManager
from dataclasses import replace
from typing import Protocol

from dryquarry.marking.works.jobs import Screen, Step
from dryquarry.marking.works.results import Ended, Ran
from dryquarry.sandbox.box import Box
from dryquarry.sandbox.programs import Ready

SEEN_WITHIN_S = 2.0
ENDS_WITHIN_S = 2.0
LOOK_EVERY_S = 0.1
MOVING_SHARE = 0.5
SETTLE_S = 0.3


class Place(Protocol):
    """A terminal or a window with a program in it."""

    def do(self, step: Step) -> None:
        """Type, press or click."""
        ...

    def wait(self, until: Callable[[], bool], seconds: float) -> bool:
        """Let the program go on until something is so, or so long; return whether it is so."""
        ...

    def look(self) -> object:
        """Return what is to be seen now, to be compared with what was before."""
        ...

    def text(self) -> str:
        """Return what is to be seen as text, "" for a window."""
        ...

    def picture(self) -> bytes:
        """Return what is to be seen as a PNG."""
        ...

    @property
    def over(self) -> Ended | None:
        """How the program ended, None while it goes on."""
        ...

    def streams(self) -> tuple[str, str]:
        """Return what it wrote beside what is to be seen, at its end."""
        ...

    @property
    def memory_mb(self) -> float:
        """The most memory that it had."""
        ...


def on_screen(box: Box, ready: Ready, screen: Screen, images: dict[str, bytes]) -> list[Ran]:
    """Return what came of each step; after one that is not so, no other is done. Pictures go into `images`."""
    began = time.monotonic()
    with _entered(box, ready, screen) as place:
        use = _Use(place, images, began + ready.job.limits.seconds)
        place.wait(lambda: place.over is not None, SETTLE_S)
        ran = [use.done(step) for step in screen.steps]
        out, err = place.streams()
        last = replace(ran[-1], pictures=(*ran[-1].pictures, use.pictured()), screens=(*ran[-1].screens, place.text()))
        return [*ran[:-1], replace(last, out=out, err=err, memory_mb=round(place.memory_mb, 1))]


def _entered(box: Box, ready: Ready, screen: Screen) -> AbstractContextManager[Place]:
    from dryquarry.sandbox.terminals import in_terminal
    from dryquarry.sandbox.windows import in_window

    return in_terminal(box, ready, screen) if screen.kind == "terminal" else in_window(box, ready, screen)


class _Use:
    """The use of one program, step after step."""

    def __init__(self, place: Place, images: dict[str, bytes], deadline: float):
        self.place = place
        self.images = images
        self.deadline = deadline
        self.before = place.look()
        self.failed: str | None = None

    def done(self, step: Step) -> Ran:
        """Return what came of one step."""
        began = time.monotonic()
        if self.failed is not None:
            return Ran(step.name, Ended.NOT_RUN, detail=f"for '{self.failed}' was not so")
        why = self._step(step)
        late = why is not None and time.monotonic() > self.deadline
        seconds = round(time.monotonic() - began, 3)
        if why is not None:
            self.failed = step.name
            ended = Ended.TIME if late else Ended.RAISED
            return Ran(
                step.name, ended, detail=why, pictures=(self.pictured(),), screens=(self.place.text(),), seconds=seconds
            )
        seen = step.act == "picture"
        pictures = (self.pictured(),) if seen else ()
        return Ran(
            step.name, Ended.DONE, pictures=pictures, screens=(self.place.text(),) if seen else (), seconds=seconds
        )

    def pictured(self) -> str:
        """Take a picture, and return its digest."""
        png = self.place.picture()
        digest = hashlib.sha256(png).hexdigest()
        self.images[digest] = png
        return digest

    def _step(self, step: Step) -> str | None:
        """Do or look; return why it is not so, or None."""
        place = self.place
        if step.act in ("keys", "press", "click"):
            if place.over is not None:
                return self._had_ended()
            self.before = place.look()
            place.do(step)
            place.wait(lambda: place.look() != self.before or place.over is not None, SETTLE_S)
            return None
        if step.act == "picture":
            return None
        looked: Callable[[Step], str | None] = getattr(self, f"_look_{step.act}")
        why = looked(step)
        return f"{why}; {self._had_ended()}" if why is not None and place.over is not None else why

    def _had_ended(self) -> str:
        """Return that the program had ended, and its last words."""
        said = "\n".join((*self.place.streams(), self.place.text()))
        lines = [line.strip() for line in said.splitlines() if line.strip()]
        return f"the program had ended ({self.place.over})" + (f": {lines[-1][:200]}" if lines else "")

    def _look_wait(self, step: Step) -> str | None:
        self.place.wait(lambda: self.place.over is not None, step.seconds)
        return None

    def _look_shows(self, step: Step) -> str | None:
        found = self.place.wait(lambda: step.text in self.place.text(), SEEN_WITHIN_S)
        return None if found else f"'{step.text}' is not on the screen"

    def _look_lacks(self, step: Step) -> str | None:
        gone = self.place.wait(lambda: step.text not in self.place.text(), SEEN_WITHIN_S)
        if not gone:
            return f"'{step.text}' is on the screen"
        return "nothing is there any more" if self.place.over not in (None, Ended.DONE) else None

    def _look_changes(self, step: Step) -> str | None:
        changed = self.place.wait(lambda: self.place.look() != self.before, SEEN_WITHIN_S)
        return None if changed else "the screen is the same as before"

    def _look_stays(self, step: Step) -> str | None:
        now = self.place.look()
        changed = self.place.wait(lambda: self.place.look() != now, step.seconds)
        if changed:
            return "the screen changed by itself"
        return "nothing is there any more" if self.place.over is not None else None

    def _look_moves(self, step: Step) -> str | None:
        looks, moved, last = 0, 0, self.place.look()
        deadline = time.monotonic() + step.seconds
        while time.monotonic() < deadline:
            self.place.wait(lambda: False, LOOK_EVERY_S)
            now = self.place.look()
            looks, moved, last = looks + 1, moved + (now != last), now
        return None if moved >= MOVING_SHARE * looks else f"the screen changed in {moved} of {looks} looks"

    def _look_ends(self, step: Step) -> str | None:
        ended = self.place.wait(lambda: self.place.over is not None, ENDS_WITHIN_S)
        if not ended:
            return "the program goes on"
        return None if self.place.over is Ended.DONE else "it ended otherwise than well"
