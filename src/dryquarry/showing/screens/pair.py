"""Two replies to the same question beside each other, blind; one key a vote."""

from __future__ import annotations

from collections.abc import Callable

from rich.markdown import Markdown
from rich.text import Text
from textual import events
from textual.app import ComposeResult
from textual.containers import Container, VerticalScroll
from textual.geometry import Size
from textual.widgets import Input, Static

from dryquarry.showing import figures
from dryquarry.showing.figures import visible
from dryquarry.showing.screens.base import FullScreen
from dryquarry.showing.screens.terminal import WIDE
from dryquarry.standing.votes import Choice
from dryquarry.workspace.ballots import Ballot, VoteSession

KEYS = "1 first better  2 second better  t tie  b both bad  n reason  s skip  u undo  m rendered  space scroll  q quit"
LAST_KEYS = "no pair is left that you have not voted on · u undo  q quit"
VOTES = {"1": Choice.FIRST, "2": Choice.SECOND, "t": Choice.TIE, "b": Choice.BOTH_BAD}


class PairScreen(FullScreen):
    """The question above, the two replies below, in random order and without names."""

    CSS = """
    #head, #keys, #status { height: auto; padding: 0 1; }
    #head { text-style: bold reverse; }
    #keys { text-style: dim; }
    #asked { height: auto; max-height: 30%; border: round $secondary; padding: 0 1; }
    #both { height: 1fr; layout: vertical; }
    #both.wide { layout: horizontal; }
    .reply { height: 1fr; border: heavy $primary; padding: 0 1; }
    .wide .reply { width: 1fr; height: 1fr; }
    #line { display: none; }
    #line.open { display: block; }
    """

    def __init__(self, session: VoteSession):
        super().__init__()
        self.session = session
        self.because: str | None = None
        self.rendered = False
        self.writing = False

    def compose(self) -> ComposeResult:
        """Lay the screen out."""
        yield Static(id="head")
        with VerticalScroll(id="asked", can_focus=False):
            yield Static(id="asked-text")
        with Container(id="both"):
            for name in ("one", "two"):
                with VerticalScroll(id=name, classes="reply", can_focus=False):
                    yield Static(id=f"{name}-text")
        yield Static(id="status")
        yield Input(id="line", disabled=True)
        yield Static(id="keys")

    def on_mount(self) -> None:
        """Show the first pair."""
        self.use_own_colours()
        for name, title in (("asked", "question"), ("one", "1 · first"), ("two", "2 · second")):
            self.query_one(f"#{name}").border_title = title
        self._fit(self.size)
        self._draw()

    def on_resize(self, event: events.Resize) -> None:
        """Put the replies side by side where there is room."""
        self._fit(event.size)

    def _fit(self, size: Size) -> None:
        self.query_one("#both").set_class(size.width >= WIDE, "wide")

    def _draw(self, said: str = "") -> None:
        session, ballot = self.session, self.session.ballot
        votes = figures.plural(len(session.done), "vote")
        name = ballot.question.id if ballot is not None else "the end"
        self._put("head", f"{session.suite.reference} · {name} · {session.person} · {votes}")
        self._put("asked-text", visible(ballot.question.text) if ballot else "")
        for place, reply in zip(("one", "two"), _texts(ballot), strict=True):
            self.query_one(f"#{place}-text", Static).update(Markdown(reply) if self.rendered else Text(reply))
        self._put("status", said or (f"because: {visible(self.because)}" if self.because else ""))
        self._put("keys", KEYS if ballot is not None else LAST_KEYS)

    def _put(self, place: str, text: str) -> None:
        self.query_one(f"#{place}", Static).update(Text(text))

    async def on_key(self, event: events.Key) -> None:
        """Do what a key says."""
        if self.writing:
            if event.key == "escape":
                self._close_line()
            return
        event.prevent_default()
        key = event.character or event.key
        if key in VOTES and self.session.ballot is not None:
            self.session.vote(VOTES[key], self.because)
            self._begin()
        elif (act := self._acts().get(event.key) or self._acts().get(key)) is not None:
            act()

    def _acts(self) -> dict[str, Callable[[], None]]:
        return {
            "q": self.exit,
            "ctrl+c": self.exit,
            "u": self._undo,
            "s": self._skip,
            "n": self._write,
            "m": self._render,
            "space": lambda: self._scroll(1),
            "pagedown": lambda: self._scroll(1),
            "pageup": lambda: self._scroll(-1),
            "tab": lambda: self.query_one("#asked").scroll_page_down(animate=False),
            "shift+tab": lambda: self.query_one("#asked").scroll_home(animate=False),
        }

    def _begin(self) -> None:
        self.because = None
        for name in ("asked", "one", "two"):
            self.query_one(f"#{name}").scroll_home(animate=False)
        self._draw()

    def _scroll(self, pages: int) -> None:
        for name in ("one", "two"):
            reply = self.query_one(f"#{name}")
            (reply.scroll_page_down if pages > 0 else reply.scroll_page_up)(animate=False)

    def _undo(self) -> None:
        undone = self.session.undo()
        self._begin()
        self._draw("taken back; vote anew" if undone else "nothing in this session to undo")

    def _skip(self) -> None:
        self.session.skip()
        self._begin()

    def _render(self) -> None:
        self.rendered = not self.rendered
        self._draw()

    def _write(self) -> None:
        self.writing = True
        self.open_line(self.because or "", "why, kept with the vote")

    def _close_line(self) -> None:
        self.writing = False
        self.shut_line()
        self._draw()

    def on_input_submitted(self, event: Input.Submitted) -> None:
        """Take the reason."""
        self.because = event.value.strip() or None
        self._close_line()


def _texts(ballot: Ballot | None) -> tuple[str, str]:
    if ballot is None:
        return "", ""
    return visible(ballot.first.reply.text), visible(ballot.second.reply.text)
