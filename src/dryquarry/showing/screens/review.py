"""The marking desk on the screen: one reply at a time, blind, decided by single keys."""

from __future__ import annotations

from collections.abc import Callable

from rich.markdown import Markdown
from rich.table import Table
from rich.text import Text
from textual import events
from textual.app import ComposeResult
from textual.containers import Container, VerticalScroll
from textual.geometry import Size
from textual.widgets import Input, Static

from dryquarry.marking.judging.by_person import NoDecision
from dryquarry.showing.figures import visible
from dryquarry.showing.papers import asked_said, criteria_said, decision_said, precedents_said, progress_said
from dryquarry.showing.screens.base import FullScreen
from dryquarry.showing.screens.terminal import HIGH, WIDE, open_files, page_of
from dryquarry.suites.ask import Attachment
from dryquarry.workspace.desk import DeskSession, Paper

DECIDING_KEYS = "0-9 points  enter done  p rest full  f rest none  v void  ↑↓ criterion  ←→ ±1  n note"
PLAIN_KEYS = "p pass  f fail  v void  n note"
LOW_KEYS = "0-9 enter p f v ↑↓  n note  s skip  u undo  / find  tab  q"
DECIDED_KEYS = "enter next  c change it  u undo  q quit"
MORE_KEYS = "s skip  u undo  / find  m rendered  o open  space, tab scroll  q quit"
LAST_KEYS = "nothing is left to mark · u undo  q quit"


class ReviewScreen(FullScreen):
    """The desk: the question and what it is marked by, the reply, the points, and what the keys do."""

    CSS = """
    #head, #keys, #status { height: auto; padding: 0 1; }
    #head { text-style: bold reverse; }
    #keys { text-style: dim; }
    #middle { height: 1fr; layout: vertical; }
    #middle.wide { layout: horizontal; }
    #asked { height: 2fr; min-height: 4; border: round $secondary; padding: 0 1; }
    #reply { height: 3fr; min-height: 4; border: heavy $primary; padding: 0 1; }
    .wide #asked { width: 2fr; height: 1fr; }
    .wide #reply { width: 3fr; height: 1fr; }
    #points { height: auto; max-height: 35%; padding: 0 1; overflow-y: auto; }
    #line { display: none; }
    #line.open { display: block; }
    """

    def __init__(self, session: DeskSession, load: Callable[[Attachment], bytes]):
        super().__init__()
        self.session = session
        self.load = load
        self.given: dict[str, float] = {}
        self.at = 0
        self.note: str | None = None
        self.state = "deciding"
        self.asking_for = ""
        self.rendered = False
        self.found = ""
        self.low = False
        self.asking_again = False

    def compose(self) -> ComposeResult:
        """Lay the screen out."""
        yield Static(id="head")
        with Container(id="middle"):
            with VerticalScroll(id="asked", can_focus=False):
                yield Static(id="asked-text")
            with VerticalScroll(id="reply", can_focus=False):
                yield Static(id="reply-text")
        yield Static(id="points")
        yield Static(id="status")
        yield Input(id="line", disabled=True)
        yield Static(id="keys")

    def on_mount(self) -> None:
        """Show the first paper."""
        self.query_one("#asked").border_title = "question and what it is marked by"
        self.query_one("#reply").border_title = "reply"
        self.use_own_colours()
        self._fit(self.size)
        self._begin()

    def on_resize(self, event: events.Resize) -> None:
        """Put question and reply side by side where there is room."""
        self._fit(event.size)
        self._draw()

    def _fit(self, size: Size) -> None:
        self.query_one("#middle").set_class(size.width >= WIDE, "wide")
        self.low = size.height < HIGH

    def _begin(self) -> None:
        """Take the next paper in hand."""
        self.given, self.at, self.note, self.found = {}, 0, None, ""
        self.state = "deciding" if self.session.paper is not None else "done"
        self.query_one("#reply").scroll_home(animate=False)
        self.query_one("#asked").scroll_home(animate=False)
        self._draw()

    def _paper(self) -> Paper | None:
        if self.state in ("deciding", "done"):
            return self.session.paper
        return self.session.done[-1][0]

    def _draw(self, said: str = "") -> None:
        paper = self._paper()
        session = self.session
        decided = len({id(one) for one, _ in session.done})
        progress = progress_said(decided, session.remaining, session.seconds_left())
        name = paper.question.id if paper is not None else "the end"
        self._put("head", f"{session.suite.reference} · {name} · {session.person} · {progress}")
        self._put("asked-text", asked_said(paper) if paper else "")
        self._put_reply(paper)
        self._put_points(paper)
        self._put("status", said or (f"note: {visible(self.note)}" if self.note else ""))
        deciding = DECIDING_KEYS if paper is not None and paper.criteria else PLAIN_KEYS
        keys = {
            "deciding": LOW_KEYS if self.low else f"{deciding}  {MORE_KEYS}",
            "decided": DECIDED_KEYS,
            "done": LAST_KEYS,
        }
        self._put("keys", keys[self.state])

    def _put(self, place: str, text: str) -> None:
        self.query_one(f"#{place}", Static).update(Text(text))

    def _put_reply(self, paper: Paper | None) -> None:
        widget = self.query_one("#reply-text", Static)
        if paper is None:
            widget.update(Text(_closing(self.session)))
            return
        said = visible(paper.text)
        if self.rendered:
            widget.update(Markdown(said, hyperlinks=False))
            return
        text = Text(said)
        if self.found:
            text.highlight_words([self.found], "reverse", case_sensitive=False)
        widget.update(text)

    def _put_points(self, paper: Paper | None) -> None:
        lines = Table.grid(padding=(0, 1))
        if self.state == "decided" and paper is not None:
            said = decision_said(self.session.done[-1][1], paper.criteria)
            lines.add_row(Text("decided"), Text(said, "bold"))
            for line in precedents_said(self.session.precedents(paper), paper):
                lines.add_row(Text("before"), Text(line))
        elif paper is not None and self.low and paper.criteria:
            listed = criteria_said(paper.criteria, self.given)
            each = [f"{one.id} {given}" for one, (given, _) in zip(paper.criteria, listed, strict=True)]
            lines.add_row(Text("▸"), Text(listed[self.at][1], "bold"))
            lines.add_row(Text(""), Text("  ".join(each)))
        elif paper is not None:
            for place, (points, asks) in enumerate(criteria_said(paper.criteria, self.given)):
                in_turn = place == self.at
                style = "bold" if in_turn else ""
                lines.add_row(Text("▸" if in_turn else " "), Text(points, style, justify="right"), Text(asks, style))
        self.query_one("#points", Static).update(lines)

    async def on_key(self, event: events.Key) -> None:
        """Do what a key says."""
        if self.asking_for:
            if event.key == "escape":
                self._close_line()
            return
        event.prevent_default()
        act = self._acts().get(event.key) or self._acts().get(event.character or "")
        if act is not None:
            act()
        elif self.state == "deciding" and (event.character or "").isdecimal():
            self._give(int(event.character or "0"))

    def _acts(self) -> dict[str, Callable[[], None]]:
        """Return what each key does in the present state."""
        always: dict[str, Callable[[], None]] = {
            "q": self.exit,
            "ctrl+c": self.exit,
            "u": self._undo,
            "m": self._render,
            "space": lambda: self.query_one("#reply").scroll_page_down(animate=False),
            "pagedown": lambda: self.query_one("#reply").scroll_page_down(animate=False),
            "pageup": lambda: self.query_one("#reply").scroll_page_up(animate=False),
            "tab": lambda: self.query_one("#asked").scroll_page_down(animate=False),
            "shift+tab": lambda: self.query_one("#asked").scroll_home(animate=False),
            "/": lambda: self._write("find"),
            "o": self._open_files,
        }
        deciding: dict[str, Callable[[], None]] = {
            "p": lambda: self._fill(full=True),
            "f": lambda: self._fill(full=False),
            "v": lambda: self._decide("void"),
            "n": lambda: self._write("note"),
            "s": self._skip,
            "up": lambda: self._move(-1),
            "down": lambda: self._move(1),
            "right": lambda: self._change(1),
            "left": lambda: self._change(-1),
            "enter": lambda: self._decide(None),
        }
        decided: dict[str, Callable[[], None]] = {"enter": self._next, "c": self._reconsider}
        return always | {"deciding": deciding, "decided": decided}.get(self.state, {})

    def _give(self, number: int) -> None:
        """Give the criterion in turn so many points, and go on to the next."""
        paper = self.session.paper
        if paper is None or not paper.criteria:
            self._draw("this question is pass or fail: p or f")
            return
        criterion = paper.criteria[self.at]
        if number > criterion.most:
            self._draw(f"'{criterion.id}' gets {criterion.most:g} at most; → and ← change it by one")
            return
        self.given[criterion.id] = float(number)
        self._move(1)

    def _move(self, by: int) -> None:
        paper = self.session.paper
        if paper is not None and paper.criteria:
            self.at = min(len(paper.criteria) - 1, max(0, self.at + by))
        self._draw()

    def _change(self, by: int) -> None:
        paper = self.session.paper
        if paper is not None and paper.criteria:
            criterion = paper.criteria[self.at]
            now = self.given.get(criterion.id, 0.0 if by > 0 else criterion.most)
            self.given[criterion.id] = min(criterion.most, max(0.0, now + by))
        self._draw()

    def _fill(self, *, full: bool) -> None:
        """Pass or fail: of criteria, give those that are not marked yet all or nothing, and decide."""
        paper = self.session.paper
        if paper is None:
            return
        for one in paper.criteria:
            self.given.setdefault(one.id, one.most if full else 0.0)
        self._decide(None if paper.criteria else "pass" if full else "fail")

    def _decide(self, setting: str | None) -> None:
        paper = self._paper()
        if paper is None:
            return
        points = self.given if paper.criteria and setting is None else None
        act = self.session.amend if self.asking_again else self.session.decide
        try:
            act(setting, points, self.note)
        except NoDecision as error:
            self._draw(str(error))
            return
        self.asking_again = False
        self.state = "decided"
        if self.session.precedents(paper):
            self._draw()
        else:
            self._next()

    def _reconsider(self) -> None:
        """Let the decision just made be made anew, with the precedents seen; the first one is kept beside it."""
        decision = self.session.done[-1][1]
        self.given, self.at, self.note = dict(decision.points or {}), 0, decision.note
        self.asking_again = True
        self.state = "deciding"
        self._draw("decide again; your first decision is kept beside this one")

    def _next(self) -> None:
        self.session.next()
        self._begin()

    def _skip(self) -> None:
        self.session.skip()
        self._begin()

    def _undo(self) -> None:
        self.asking_again = False
        if self.session.undo() is None:
            self._draw("nothing in this session to undo")
            return
        self._begin()
        self._draw("taken back; decide it anew")

    def _render(self) -> None:
        self.rendered = not self.rendered
        self._draw()

    def _open_files(self) -> None:
        paper = self._paper()
        if paper is None:
            return
        files = [(one.path, self.load(one)) for one in paper.question.ask.files]
        files += list(page_of(paper.text).items())
        self._draw(open_files(files) if files else "the question has no files, and the reply no page or drawing")

    def _write(self, what: str) -> None:
        self.asking_for = what
        if what == "note":
            self.open_line(self.note or "", "a note, kept with the decision")
        else:
            self.open_line(self.found, "words to find in the reply")

    def _close_line(self) -> None:
        self.asking_for = ""
        self.shut_line()
        self._draw()

    def on_input_submitted(self, event: Input.Submitted) -> None:
        """Take the note, or what to find."""
        if self.asking_for == "note":
            self.note = event.value.strip() or None
        else:
            self.found = event.value.strip()
            self._show_found()
        self._close_line()

    def _show_found(self) -> None:
        """Scroll to the first line of the reply that holds what is looked for."""
        paper = self._paper()
        if paper is None or not self.found:
            return
        place = paper.text.casefold().find(self.found.casefold())
        if place >= 0:
            width = max(1, self.query_one("#reply").size.width - 4)
            above = sum(-(-max(1, len(line)) // width) for line in paper.text[:place].split("\n")[:-1])
            self.query_one("#reply").scroll_to(y=above, animate=False)


def _closing(session: DeskSession) -> str:
    """Return what is said when nothing is left: how many were decided, and how the person agreed with themselves."""
    lines = [f"{len(session.done)} decisions in this session; all are stored."]
    repeats = session.own_drift()
    if repeats:
        same = sum(before.verdict == after.verdict for before, after in repeats)
        lines.append(
            f"{len(repeats)} of your own decisions lay on the desk again: {same} came out with the same verdict."
        )
    return "\n\n".join(lines)
