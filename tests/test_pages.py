"""Pages, drawings, terminals and windows in replies: opened, used, pictured; and galleries of them."""

from __future__ import annotations

import io
from pathlib import Path
from typing import Any

import pytest

from conftest import Place, completion
from dryquarry.marking.model import Mark, Marking, MarkingFault, Verdict
from dryquarry.marking.registry import prepare, runners_of
from dryquarry.marking.works.jobs import PageJob
from dryquarry.marking.works.model import Work, WorkFile
from dryquarry.marking.works.results import RunResult
from dryquarry.sandbox import pages
from dryquarry.sandbox.performing import Sandbox
from sandboxed import needs_browser, needs_sandbox, needs_windows


@pytest.fixture(scope="module")
def sandbox():
    made = Sandbox()
    yield made
    made.close()


def outcome(sandbox: Sandbox, scheme: str, options: dict[str, Any], reply: str) -> tuple[Mark, RunResult | None]:
    (runner,) = runners_of(Marking(scheme, options=options))
    job = runner.job(reply)
    if isinstance(job, Mark):
        return job, None
    result = sandbox.perform(job)
    return runner.settle(reply, result), result


def page(body: str, head: str = "") -> str:
    return f"```html\n<!DOCTYPE html>\n<html><head><title>Tides</title>{head}</head><body>{body}</body></html>\n```"


BUTTON = "<p id=t>1</p><button id=b>Next</button><input id=i>"
COUNTS = (
    "<script>document.getElementById('b').onclick = () => { document.getElementById('t').textContent = 2; };</script>"
)
CLICKS = {"steps": [{"text": "#t", "is": 1}, {"click": "#b"}, {"changes": True}, {"text": "#t", "is": {"scheme": "number", "key": 2}}]}  # fmt: skip


@needs_browser
@pytest.mark.parametrize(
    "options, body, said",
    [
        (CLICKS, BUTTON + COUNTS, None),
        (CLICKS, BUTTON, "the picture is the same as before"),
        ({"contains": [{"select": "li", "count": 3}]}, "<ul id=u></ul><script>for (let i = 0; i < 3; i++) u.append(document.createElement('li'))</script>", None),
        ({"contains": [{"select": "li", "at_least": 2}]}, "<ul><li>one</li></ul>", "1 of li, at least 2 wanted"),
        ({"contains": [{"select": "h1", "text": "tides"}]}, "<h1>The Tides</h1>", None),
        ({}, "<p>open <b>and <i>crossed</b></i>", "it is not: line 2"),
        ({"well_formed": False}, "<p>open <b>and <i>crossed</b></i>", None),
        ({}, "<script>nothing()</script>", "nothing is not defined"),
        ({}, "<img src='https://elsewhere.test/x.png' alt=x>", "asks for https://elsewhere.test/x.png, which is outside"),
        ({"steps": [{"click": "#b"}, {"wait": 0.5}, {"text": "#t", "is": "closed"}]}, BUTTON + "<script>b.onclick = () => { const w = window.open(''); setInterval(() => { t.textContent = w.closed ? 'closed' : 'open'; }, 50); };</script>", None),
        ({"errors": "allowed"}, "<script>nothing()</script>", None),
        ({"steps": [{"type": "Ada", "into": "#i"}, {"attribute": "value", "of": "#i", "is": "Ada"}]}, BUTTON, None),
        ({"steps": [{"press": "Tab"}, {"press": "Tab"}, {"hover": "#b"}, {"see": "#b"}, {"gone": "#z"}]}, BUTTON, None),
        ({"steps": [{"see": "#far"}]}, "<p id=far style='position:absolute;left:-900px;width:9px'>x</p>", "outside what is shown"),
        ({"steps": [{"moves": 0.8}]}, "<div id=d style='position:absolute;width:40px;height:40px;background:navy'></div><script>let x = 0; setInterval(() => { d.style.left = (x += 7) % 300 + 'px'; }, 40)</script>", None),
        ({"steps": [{"moves": 0.6}]}, BUTTON, "the picture changed in 0 of"),
        ({"steps": [{"click": "#b"}, {"text": "#t", "is": 9}, {"text": "#t", "is": 1}], "partial": True}, BUTTON, "it is '1', '9' was wanted; 1 more"),
    ],
)  # fmt: skip
def test_a_page_is_what_it_shows_and_does(sandbox, options: dict[str, Any], body: str, said: str | None) -> None:
    mark, _ = outcome(sandbox, "page", options, page(body))
    if said is None:
        assert mark.score == 1.0, mark.reason
    else:
        assert mark.verdict is Verdict.FAIL
        assert said in mark.reason


HOSTILE_PAGES = {
    "goes to a port of this machine": "<script>location = 'http://127.0.0.1:{port}/'</script>",
    "sends itself there by a form": "<form id=f action='http://127.0.0.1:{port}/' method=post></form><script>f.submit()</script>",
    "fetches": "<script>fetch('http://127.0.0.1:{port}/', {{mode: 'no-cors'}}).catch(() => 0)</script>",
    "opens a socket": "<script>try {{ new WebSocket('ws://127.0.0.1:{port}/') }} catch (e) {{}}</script>",
    "loads a picture": "<img src='http://127.0.0.1:{port}/x.png'>",
    "opens windows": "<script>for (let i = 0; i < 9; i++) window.open('http://127.0.0.1:{port}/')</script>",
    "asks for a download": "<a id=a download=x href='http://127.0.0.1:{port}/'>x</a><script>a.click()</script>",
    "frames a local file": "<iframe id=f src='file:///etc/passwd'></iframe>",
    "refreshes elsewhere": "<meta http-equiv=refresh content='0;url=http://127.0.0.1:{port}/'>",
    "asks questions without end": "<script>for (let i = 0; i < 50; i++) alert(i)</script>",
}


@needs_browser
@pytest.mark.parametrize("what", HOSTILE_PAGES)
def test_a_page_reaches_nothing(sandbox, what: str) -> None:
    import socket
    import time

    with socket.create_server(("127.0.0.1", 0)) as door:
        door.settimeout(0.2)
        began = time.monotonic()
        options = {"well_formed": False, "seconds": 12, "steps": [{"wait": 0.3}]}
        outcome(sandbox, "page", options, page(HOSTILE_PAGES[what].format(port=door.getsockname()[1])))
        assert time.monotonic() - began < 20
        with pytest.raises(TimeoutError):
            door.accept()


@needs_browser
def test_a_page_that_takes_the_browser_down_ran_out_of_time_and_the_next_finds_one(sandbox) -> None:
    mark, _ = outcome(sandbox, "page", {"seconds": 2}, page("<script>while (true) {}</script>"))
    assert "'opens': did not end in time" in mark.reason
    mark, _ = outcome(sandbox, "page", {}, page("<p>Open at nine.</p>"))
    assert mark.score == 1.0, mark.reason


@needs_browser
def test_after_hostile_pages_the_next_finds_a_browser(sandbox) -> None:
    mark, _ = outcome(sandbox, "page", {}, page("<p>Open at nine.</p>"))
    assert mark.score == 1.0, mark.reason


SVG = "```svg\n<svg xmlns='http://www.w3.org/2000/svg' viewBox='0 0 30 20'>{}</svg>\n```"


@needs_sandbox
@pytest.mark.parametrize(
    "options, inner, said",
    [
        ({"contains": ["rect", {"select": "circle", "count": 0}]}, "<rect width='30' height='20' fill='navy'/>", None),
        ({}, "<rect width='3'>", "it is not"),
        ({"contains": ["circle"]}, "<rect/>", "0 of circle"),
        ({}, "<defs><g id='a0'><path d='M0 0h1'/></g>" + "".join(f"<g id='a{n}'>" + f"<use href='#a{n - 1}'/>" * 10 + "</g>" for n in range(1, 10)) + "</defs><use href='#a9'/>", "cannot be drawn"),
        ({}, "<script>while (true) {}</script><image href='file:///etc/passwd' width='9' height='9'/><image href='http://127.0.0.1/x.png' width='9' height='9'/>", None),
    ],
)  # fmt: skip
def test_a_drawing_is_drawn_without_a_browser(sandbox, options: dict[str, Any], inner: str, said: str | None) -> None:
    mark, result = outcome(sandbox, "page", {"kind": "svg", "size": [60, 60], **options}, SVG.format(inner))
    if said is not None:
        assert mark.verdict is Verdict.FAIL
        assert said in mark.reason
        return
    from PIL import Image

    assert mark.score == 1.0, mark.reason
    assert result is not None
    (png,) = result.images.values()
    assert Image.open(io.BytesIO(png)).size == (60, 40)


TICKS = "import sys, time\nfor n in range(200):\n    sys.stdout.write(f'\\rtick {n} \\x1b[31mred\\x1b[0m')\n    sys.stdout.flush()\n    time.sleep(0.05)\n"
ECHOES = "import sys, termios, tty\ntty.setcbreak(0)\nprint('ready')\nwhile (key := sys.stdin.read(1)) != 'q':\n    print('got', repr(key))\n"


@needs_sandbox
@pytest.mark.parametrize(
    "code, steps, said",
    [
        (ECHOES, [{"shows": "ready"}, {"stays": 0.4}, {"keys": "a"}, {"shows": "got 'a'"}, {"press": "Enter"}, {"changes": True}, {"lacks": "got 'b'"}, {"keys": "q"}, {"ends": True}], None),
        (TICKS, [{"shows": "red"}, {"moves": 0.8}], None),
        (TICKS, [{"stays": 0.5}], "changed by itself"),
        (ECHOES, [{"keys": "x"}, {"ends": True}], "the program goes on"),
        (ECHOES, [{"moves": 0.5}], "the screen changed in 0 of"),
        (ECHOES, [{"shows": "nowhere"}, {"keys": "q"}], "'nowhere' is not on the screen"),
        ("raise SystemExit('no lamp')", [{"shows": "lamp"}, {"keys": "q"}], "no lamp"),
        ("print(1 / 0)", [{"stays": 0.3}], "ZeroDivisionError"),
        ("while True: print('x' * 1000)", [{"stays": 2}], "changed by itself"),
    ],
)  # fmt: skip
def test_a_program_is_used_in_a_terminal(sandbox, code: str, steps: list[Any], said: str | None) -> None:
    options = {"language": "python", "terminal": {"size": [40, 8], "steps": steps}}
    mark, result = outcome(sandbox, "program", options, f"```python\n{code}\n```")
    assert result is not None
    assert result.images
    if said is None:
        assert mark.score == 1.0, mark.reason
    else:
        assert mark.verdict is Verdict.FAIL
        assert said in mark.reason


WINDOW = """import tkinter as tk
root = tk.Tk()
root.geometry("200x120+0+0")
root.configure(bg="white")
tk.Button(root, text="Go", command={}).place(x=50, y=30, width=100, height=60)
root.bind("q", lambda event: root.destroy())
root.mainloop()
"""


@needs_windows
def test_a_program_is_used_in_a_window(sandbox) -> None:
    steps = [
        {"stays": 0.3},
        {"click": [100, 60]},
        {"changes": True},
        {"picture": "after"},
        {"keys": "q"},
        {"ends": True},
    ]
    options = {"language": "python", "seconds": 20, "window": {"size": [200, 120], "steps": steps}}
    good, dead = WINDOW.format('lambda: root.configure(bg="gold")'), WINDOW.format("None")
    mark, result = outcome(sandbox, "program", options, f"```python\n{good}\n```")
    assert mark.score == 1.0, mark.reason
    assert result is not None
    assert len(result.images) == 2
    mark, _ = outcome(sandbox, "program", options, f"```python\n{dead}\n```")
    assert "the screen is the same as before" in mark.reason


@pytest.mark.parametrize(
    "scheme, options, said",
    [
        ("page", {"kind": "pdf"}, "html or svg"),
        ("page", {"size": [800]}, "two numbers of pixels"),
        ("page", {"contains": ["p["]}, "no CSS selector"),
        ("page", {"contains": [{"select": "p", "many": 3}]}, "no field 'many'"),
        ("page", {"steps": [{"clik": "#b"}]}, "one of click"),
        ("page", {"steps": [{"type": "x"}]}, "wants `into`"),
        ("page", {"steps": [{"wait": 99}]}, "up to 30"),
        ("program", {"terminal": {"steps": [{"press": "Return"}]}}, "`keys` types letters"),
        ("program", {"terminal": {"steps": []}}, "list of up to 100 steps"),
        ("program", {"window": {"steps": [{"click": "here"}]}}, "a place such as"),
    ],
)
def test_a_faulty_page_or_screen_is_told_of(scheme: str, options: dict[str, Any], said: str) -> None:
    with pytest.raises(MarkingFault, match=said.replace("[", r"\[")):
        prepare(Marking(scheme, options=options))


def test_without_a_browser_a_page_stays_open(monkeypatch, place: Place, service) -> None:
    monkeypatch.setattr(
        "dryquarry.sandbox.performing.browser_missing", lambda: "no browser is installed (Debian's package chromium)"
    )
    one = service(lambda content: (200, completion(page("<h1>Tides</h1>"))))
    place.suite("pages", "title: Pages\nquestions:\n  - {id: p, ask: Make a page., mark: {scheme: page}}\n")
    place.entrant("knot", one.url)
    assert "chromium" in place.run("run", "pages").stderr or "bubblewrap" in place.run("run", "pages").stderr
    assert place.json("replies", "pages")[0]["verdict"] == "open"


@needs_sandbox
def test_a_judge_that_takes_images_is_shown_what_the_reply_drew(place: Place, service) -> None:
    import json

    drawn = SVG.format("<rect width='30' height='20' fill='navy'/>")
    verdict = {"criteria": [{"id": "blue", "points": 2, "why": "it is", "evidence": "fill='navy'"}]}

    def answer(content):
        return 200, completion(json.dumps(verdict) if content["model"] == "heron" else drawn)

    one = service(answer)
    place.suite(
        "flags",
        "title: Flags\nrubrics: {flag: {criteria: [{id: blue, asks: The flag is blue., points: 2}]}}\n"
        "questions:\n  - {id: flag, ask: Draw it., mark: {scheme: page, kind: svg, rubric: flag, contains: [rect]}}\n",
    )
    place.entrant("knot", one.url)
    entrants = place.root / "entrants.toml"
    entrants.write_text(
        entrants.read_text() + f'[judge.heron]\nendpoint = "{one.url}"\nmodel = "heron"\ntraits = {{images = true}}\n'
    )
    assert place.run("run", "flags").exit_code == 0
    request = next(each for each in one.requests if each["model"] == "heron")
    kinds = [part["type"] for part in request["messages"][-1]["content"]]
    assert kinds == ["image_url", "text", "text"]
    assert request["messages"][-1]["content"][0]["image_url"]["url"].startswith("data:image/png;base64,")
    (reply,) = place.json("replies", "flags")
    assert reply["verdict"] == "pass", reply["reason"]
    assert "page passed" in reply["reason"]


def test_the_family_of_a_process_holds_what_its_other_threads_started() -> None:
    import os
    import subprocess
    from concurrent.futures import ThreadPoolExecutor

    from dryquarry.sandbox.processes import family_of

    with ThreadPoolExecutor(1) as thread, thread.submit(subprocess.Popen, ["sleep", "60"]).result() as child:
        assert child.pid in family_of(os.getpid())
        child.kill()


def _name_of(pid: int) -> str:
    try:
        return Path(f"/proc/{pid}/comm").read_text(encoding="utf-8", errors="replace")
    except OSError:
        return ""


@needs_browser
def test_marking_ends_at_once_when_it_is_interrupted_and_goes_on_later(place: Place, service, monkeypatch) -> None:
    import signal
    import time

    from dryquarry.sandbox.processes import family_of

    slow = page("<script>while (true) {}</script>")
    one = service(lambda content: (200, completion(slow)))
    questions = "".join(
        f"  - {{id: p{n}, ask: Make page {n}., mark: {{scheme: page, seconds: 20}}}}\n" for n in range(3)
    )
    place.suite("pages", f"title: Pages\nquestions:\n{questions}")
    place.entrant("knot", one.url)
    with monkeypatch.context() as without:
        without.setattr("dryquarry.sandbox.performing.browser_missing", lambda: "no browser")
        assert "1 program or query not run: no browser" in place.run("run", "pages").stderr
    marking = place.started("mark", "pages")
    until = time.monotonic() + 60  # a busy machine takes its time to start a browser
    while not any("chrom" in _name_of(pid) for pid in family_of(marking.pid)) and time.monotonic() < until:
        time.sleep(0.1)
    time.sleep(1)
    marking.send_signal(signal.SIGINT)
    assert marking.wait(timeout=20) == 130
    assert {reply["verdict"] for reply in place.json("replies", "pages")} == {"open"}
    assert "the ledger is whole" in place.run("ledger", "check").stdout


DRAWINGS = (
    "title: Drawings\nquestions:\n  - {id: flag, ask: Draw a flag., mark: {scheme: page, kind: svg, hand: true}}\n"
)


@needs_sandbox
def test_a_gallery_shows_what_was_made_and_reaches_nothing(place: Place, service) -> None:
    evil = SVG.format("<rect width='30' height='20' fill='navy'/><script>fetch('https://example.org')</script>")
    one = service(lambda content: (200, completion(f"{evil}\n</textarea><script>alert(1)</script>")))
    place.suite("drawings", DRAWINGS)
    place.entrant("knot", one.url)
    assert place.run("run", "drawings").exit_code == 0
    (reply,) = place.json("replies", "drawings")
    assert (reply["verdict"], reply["reason"]) == ("open", "waits for a person to look at it; passed 2 checks")
    out = place.root / "made"
    assert place.run("gallery", "drawings", "--out", str(out)).exit_code == 0
    names = {path.relative_to(out).as_posix() for path in out.rglob("*") if path.is_file()}
    assert {
        "index.html",
        "flag.png",
        "flag/knot/drawing.html",
        "flag/knot/drawing.svg.txt",
        "flag/knot/reply.txt",
    } <= names
    assert not [name for name in names if name.endswith(".svg")]
    framed = (out / "flag/knot/drawing.html").read_text()
    assert "default-src 'none'" in framed.replace("&#x27;", "'")
    assert "<script>" not in framed
    assert place.run("gallery", "drawings", "--out", str(out)).exit_code == 0  # an earlier one is replaced
    (out / "mine.txt").write_text("mine")
    refused = place.run("gallery", "drawings", "--out", str(out))
    assert refused.exit_code == 2
    assert "mine.txt" in refused.stderr
    assert (out / "mine.txt").read_text() == "mine"
    assert place.run("gallery", "drawings", "--out", str(place.root / "suites")).exit_code == 2


@needs_browser
def test_a_page_of_a_gallery_runs_in_a_frame_and_loads_nothing(tmp_path) -> None:
    import socket

    from playwright.sync_api import sync_playwright

    from dryquarry.sandbox.browser import binary
    from dryquarry.showing.gallery import framed

    with socket.create_server(("127.0.0.1", 0)) as door:
        door.settimeout(0.3)
        port = door.getsockname()[1]
        text = (
            f"<p id=t>no</p><script>t.textContent = 'yes'</script><meta http-equiv=refresh content='0;url=http://127.0.0.1:{port}/m'><img src='http://127.0.0.1:{port}/x'>"
            f"<iframe src='http://127.0.0.1:{port}/f'></iframe><script>location = 'http://127.0.0.1:{port}/l'; top.location = 'http://127.0.0.1:{port}/t'</script>"
        )
        path = tmp_path / "page.html"
        path.write_text(framed(text, scripts=False), "utf-8")
        running = tmp_path / "running.html"
        running.write_text(framed("<p id=t>no</p><script>t.textContent = 'yes'</script>", scripts=True), "utf-8")
        with sync_playwright() as driver:
            browser = driver.chromium.launch(executable_path=binary(), args=["--no-sandbox", "--disable-gpu"])
            shown = browser.new_page()
            shown.goto(path.as_uri())
            shown.wait_for_timeout(500)
            assert shown.url == path.as_uri()
            assert shown.frames[1].inner_text("#t") == "no"
            shown.goto(running.as_uri())
            assert shown.frames[1].inner_text("#t") == "yes"
            browser.close()
        with pytest.raises(TimeoutError):
            door.accept()


class BusyCamera:
    """Has no picture ready at first, as a browser on a busy machine."""

    def __init__(
        self, refusals: int, said: str = "Protocol error (Page.captureScreenshot): Unable to capture screenshot"
    ):
        self.refusals, self.said, self.asked = refusals, said, 0

    def send(self, *_: object) -> dict[str, str]:
        self.asked += 1
        if self.asked <= self.refusals:
            raise RuntimeError(self.said)
        return {"data": "cG5n"}


@pytest.mark.parametrize(("refusals", "said", "asked"), [(0, None, 1), (2, None, 3), (9, None, 3), (1, "crashed", 1)])
def test_a_picture_that_is_not_ready_is_taken_again(
    monkeypatch: pytest.MonkeyPatch, refusals: int, said: str | None, asked: int
) -> None:
    monkeypatch.setattr(pages, "SHOTS_AGAIN_AFTER_S", (0.0, 0.0))
    visit = pages._Visit(PageJob(Work("html", "page.html", (WorkFile("page.html", "<p>x", 0, 4),)), (10, 10)))
    visit.camera = camera = BusyCamera(refusals, *([said] if said else []))  # type: ignore[assignment]
    if refusals in (0, 2):
        assert visit._shot() == b"png"
    else:
        with pytest.raises(RuntimeError, match=said or "Unable to capture"):
            visit._shot()
    assert camera.asked == asked
