"""Reports as files: what is written, what leads where, what is kept back, and what is left alone."""

from __future__ import annotations

import json
import re
import shutil
from dataclasses import replace
from pathlib import Path
from urllib.parse import unquote

import pytest
from bs4 import BeautifulSoup

from conftest import Place, completion
from dryquarry.errors import FileFault
from dryquarry.marking.model import Mark, Verdict
from dryquarry.showing import figures
from dryquarry.showing.folders import SIGN, write_folder
from dryquarry.showing.report import site
from dryquarry.showing.report.making import site_of
from dryquarry.showing.report.texts import pieces_of, rendered_markdown
from dryquarry.workspace import Workspace
from dryquarry.workspace.redacting import Redaction
from dryquarry.workspace.selection import Selection
from reports import ALL_SUITES, KINDS


@pytest.fixture(scope="module")
def demo(demo_made: tuple[Path, str], tmp_path_factory: pytest.TempPathFactory) -> Place:
    root = tmp_path_factory.mktemp("reports") / "demo"
    shutil.copytree(demo_made[0], root)
    return Place(root)


@pytest.fixture(scope="module")
def whole(demo: Place) -> Path:
    done = demo.run("report", *ALL_SUITES, "--baseline", "godwit", "--out", "report")
    assert done.exit_code == 0, done.stderr
    return demo.root / "report"


def soup(path: Path) -> BeautifulSoup:
    return BeautifulSoup(path.read_text("utf-8"), "html.parser")


def everything_in(folder: Path) -> str:
    """Return all text of a report, each line once, the packed texts of its search, too."""
    import base64
    import gzip

    texts = [str(path.relative_to(folder)) for path in folder.rglob("*")]
    for path in folder.rglob("*"):
        if path.is_file() and path.suffix in (".html", ".json", ".jsonl", ".js", ".svg", ".txt", ".css"):
            texts.append(path.read_text("utf-8"))
        if path.name == "search.js":
            packed = path.read_text("utf-8").split('"')[1]
            texts.append(gzip.decompress(base64.b64decode(packed)).decode("utf-8"))
    return "\n".join(dict.fromkeys(line for text in texts for line in text.splitlines()))


def test_there_is_a_page_of_every_kind_and_every_link_leads_somewhere(whole: Path) -> None:
    pages = {path: soup(path) for path in whole.rglob("*.html") if "works" not in path.parts}
    assert {whole / path for path in KINDS.values()} <= set(pages)
    ids = {path: {one["id"] for one in page.select("[id]")} for path, page in pages.items()}
    for path, page in pages.items():
        assert len(page.select("[id]")) == len(ids[path]), f"an id stands twice in {path}"
        assert "Content-Security-Policy" in str(page.head)
        for one in page.select("[href], [src]"):
            address, _, anchor = str(one.get("href") or one.get("src")).partition("#")
            target = (path.parent / unquote(address)).resolve() if address else path
            assert target.is_file(), f"{path}: {address}"
            if anchor:
                assert unquote(anchor) in ids[target], f"{path}: {address}#{anchor}"


def test_the_figures_are_those_of_the_board(demo: Place, whole: Path) -> None:
    board = demo.json("board", "tide-sums", "--baseline", "godwit")
    (table,) = soup(whole / "tide-sums" / "index.html").select("table")
    heads = [one.get_text(strip=True) for one in table.select("thead th")]
    rows = [[cell.get_text(strip=True) for cell in row.select("th, td")] for row in table.select("tbody tr")]
    assert len(rows) == len(board["rows"]) == 5
    for shown, row in zip(rows, board["rows"], strict=True):
        told = dict(zip(heads, shown, strict=True))
        assert told["entrant"] == row["entrant"]
        assert told["score"] == figures.percent(row["score"])
        assert told["95 % interval"] == figures.interval(row["low"], row["high"])
        assert told["replies passed"].startswith(f"{row['passed']} of {row['marked']}")
        for name, score in row["categories"].items():
            assert told[name] == figures.percent(score, 0)
    beside = json.loads((whole / "data" / "board-tide-sums.json").read_text("utf-8"))
    assert beside["rows"] == board["rows"]
    replies = [
        json.loads(line) for line in (whole / "data" / "replies-tide-sums.jsonl").read_text("utf-8").splitlines()
    ]
    known = demo.json("replies", "tide-sums")
    assert [one["text"] for one in replies if not one.get("second_try")] == [one["text"] for one in known]


def test_from_board_to_the_reply_behind_the_number(whole: Path) -> None:
    front = soup(whole / "index.html")
    assert "is told apart above all others" in front.select_one(".conclusion").get_text()
    score = next(
        one
        for one in front.select_one("tbody").select("tr")[-1].select("a")
        if "plover" in one["href"] and "#" in one["href"]
    )
    entrant = soup(whole / score["href"].partition("#")[0])
    link = entrant.select_one("tr.fail a")["href"]
    path, _, anchor = link.partition("#")
    question = soup((whole / "entrants" / path).resolve())
    card = question.find(id=unquote(anchor))
    assert "fail" in card["class"]
    assert card.select_one("pre.text") is not None
    marked = soup(whole / "tide-sums" / "questions" / "fifth-spring-tide.html").select("mark")
    assert "62.08" in [one.get_text() for one in marked]


def test_boards_of_parts_are_those_of_the_command(demo: Place) -> None:
    opened = Workspace.open(demo.root)
    for name in ALL_SUITES:
        for part in opened.report([name]).suites[0].parts:
            chosen = Selection(categories=(part.name,)) if part.kind == "category" else Selection(tags=(part.name,))
            wanted = opened.board([name], selection=chosen)
            assert [(row.entrant, row.score, row.low, row.high, row.rank_low, row.cost) for row in part.board.rows] == [
                (row.entrant, row.score, row.low, row.high, row.rank_low, row.cost) for row in wanted.rows
            ]


def test_written_anew_is_only_what_changed(demo: Place, tmp_path: Path) -> None:
    out = tmp_path / "report"
    first = demo.run("report", "tide-sums", "--out", str(out))
    count = len([path for path in out.rglob("*") if path.is_file()]) - 1
    assert f"wrote {count} files into {out}, {count} of them anew" in first.stderr
    assert ", 0 of them anew" in demo.run("report", "tide-sums", "--out", str(out)).stderr
    assert f", {count} of them anew" in demo.run("report", "tide-sums", "--out", str(out), "--force").stderr
    before = {path: path.read_bytes() for path in out.rglob("*.html")}
    mark = ("mark", "tide-sums", "--question", "lamp-oil", "-e", "plover", "--set", "pass", "--because", "a test")
    assert demo.run(*mark).exit_code == 0
    demo.run("report", "tide-sums", "--out", str(out))
    changed = {path.name for path, content in before.items() if path.read_bytes() != content}
    assert {"index.html", "grid.html", "lamp-oil.html", "plover.html", "curlew--plover.html"} <= changed
    assert not {"ferry-fares.html", "curlew.html", "curlew--godwit.html", "numbers.html"} & changed
    assert demo.run(*mark[:-4], "--take-back").exit_code == 0
    demo.run("report", "tide-sums", "--out", str(out))
    assert {path: path.read_bytes() for path in before} == before


def test_a_folder_of_somebody_else_is_not_touched(demo: Place, tmp_path: Path) -> None:
    theirs = tmp_path / "theirs"
    theirs.mkdir()
    (theirs / "notes.txt").write_text("mine")
    refused = demo.run("report", "tide-sums", "--out", str(theirs))
    assert refused.exit_code != 0
    assert "is not empty (notes.txt) and no report of this tool" in refused.stderr
    out = tmp_path / "report"
    demo.run("report", "tide-sums", "lamp-logic", "--out", str(out))
    assert (out / "lamp-logic").is_dir()
    demo.run("report", "tide-sums", "--out", str(out))
    assert not (out / "lamp-logic").exists()
    (out / "tide-sums" / "mine.html").write_text("mine")
    refused = demo.run("report", "tide-sums", "--out", str(out))
    assert "holds tide-sums/mine.html, which this tool did not write" in refused.stderr
    assert (out / "tide-sums" / "mine.html").read_text() == "mine"


def test_a_link_to_a_folder_stays_one(tmp_path: Path) -> None:
    (tmp_path / "real").mkdir()
    link = tmp_path / "link"
    link.symlink_to(tmp_path / "real")
    for content in (b"first", b"second"):
        write_folder(link, "report", {"a.html": content})
        assert link.is_symlink()
        assert (tmp_path / "real" / "a.html").read_bytes() == content
    assert sorted(path.name for path in tmp_path.iterdir()) == ["link", "real"]


def test_a_half_written_report_replaces_nothing(tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    out = tmp_path / "report"
    write_folder(out, "report", {"a.html": b"old", "b/c.html": b"old"})
    real = Path.write_bytes

    def full(self: Path, content: bytes) -> int:
        if self.name == "c.html":
            raise OSError(28, "No space left on device", str(self))
        return real(self, content)

    monkeypatch.setattr(Path, "write_bytes", full)
    with pytest.raises(FileFault, match="No space left"):
        write_folder(out, "report", {"a.html": b"new", "b/c.html": b"new"})
    monkeypatch.undo()
    assert (out / "a.html").read_bytes() == (out / "b" / "c.html").read_bytes() == b"old"
    assert sorted(path.name for path in tmp_path.iterdir()) == ["report"]


def test_without_questions_no_text_of_any_is_anywhere(demo: Place, tmp_path: Path) -> None:
    opened = Workspace.open(demo.root)
    forbidden: set[str] = set()
    for name in ALL_SUITES:
        for view in opened.replies(name, judged=True):
            texts = [view.question.text, view.question.why or "", *(text for _, text in view.question.marking.choices)]
            texts += [view.reply.text, view.mark.reason if view.mark else "", str(view.question.marking.key or "")]
            texts += [point.evidence for one in view.verdicts for point in one.points or ()]
            forbidden |= {line.strip() for text in texts for line in text.splitlines() if len(line.strip()) > 24}
    assert len(forbidden) > 300
    out = tmp_path / "report"
    assert demo.run("report", *ALL_SUITES, "--without", "questions", "--out", str(out)).exit_code == 0
    said = everything_in(out)
    forms = {form for text in forbidden for form in (text, json.dumps(text)[1:-1])}
    assert [form for form in forms if form in said] == []
    assert "are not part of this report" in (out / "index.html").read_text("utf-8")
    assert not (out / "works").exists()
    assert soup(out / "tide-sums" / "questions" / "lamp-oil.html").select(".reply .sign")


def test_without_replies_questions_are_there_and_no_reply(demo: Place, tmp_path: Path) -> None:
    opened = Workspace.open(demo.root)
    out = tmp_path / "report"
    assert demo.run("report", "tide-sums", "keeper-letters", "--without", "replies", "--out", str(out)).exit_code == 0
    said = everything_in(out)
    asked = " ".join(view.question.text for name in ("tide-sums", "keeper-letters") for view in opened.replies(name))
    lines = {
        line.strip()
        for name in ("tide-sums", "keeper-letters")
        for view in opened.replies(name)
        for line in view.reply.text.splitlines()
    }
    forbidden = {line for line in lines if len(line) > 24 and line not in asked}
    assert len(forbidden) > 100
    assert [text for text in forbidden if text in said] == []
    assert "Spring tides come every 14.77 days." in said


def test_an_anonymous_report_names_nobody(demo: Place, whole: Path, tmp_path: Path) -> None:
    known = Workspace.open(demo.root).entrants()
    out = tmp_path / "report"
    assert "temperature 0.6" in (whole / "index.html").read_text("utf-8")
    done = demo.run("report", "tide-sums", "station-board", "--anonymous", "--baseline", "godwit", "--out", str(out))
    assert done.exit_code == 0
    said = everything_in(out).casefold()
    assert "temperature" not in said
    for one in known.entrants.values():
        for name in (one.name, one.title, one.model):
            assert re.search(rf"\b{re.escape(name.casefold())}\b", said) is None, name
    assert {path.stem for path in (out / "entrants").glob("*.html")} == {"A", "B", "C", "D", "E"}
    assert re.search(r"Against [A-E]<", (out / "index.html").read_text("utf-8"))


def test_a_reply_that_names_its_maker_is_masked_and_its_answer_still_marked(place: Place, service) -> None:
    text = "I am Knot One, made by knot-model. The knot is a bird.\nAnswer: 7"
    one = service(lambda content: (200, completion(text)))
    place.suite(
        "sums",
        'title: S\nask: {answer_line: "Answer:"}\nmark: {scheme: number}\nquestions:\n  - {id: a, ask: Seven?, key: 7}\n  - {id: b, ask: Which bird is a knot?, key: 7}\n',
    )
    place.entrants(f'[entrant.knot]\ntitle = "Knot One"\nendpoint = "{one.url}"\nmodel = "knot-model"\n')
    assert place.run("run", "sums").exit_code == 0
    (first, second) = Workspace.open(place.root).report(["sums"], Redaction(anonymous=True)).suites[0].replies
    assert first.reply.text == "I am [A], made by [A]. The [A] is a bird.\nAnswer: 7"
    assert first.reply.text[first.mark.start : first.mark.end] == "7"
    assert "The knot is a bird" in second.reply.text
    assert first.reply.served_model is None


def test_reasons_that_quote_answers_go_with_the_replies(demo: Place) -> None:
    table = Workspace.open(demo.root).items("shore-facts")
    row = replace(table.rows[0], reason="3 of 5 answer 'swift'")
    shown = Redaction(replies=False).items(replace(table, rows=(row,)))
    assert (shown.rows[0].reason, shown.rows[0].rival, shown.rows[0].worth) == ("", None, row.worth)
    assert Redaction().items(table) is table


def test_with_other_templates_every_page_is_made_anew(demo: Place, monkeypatch: pytest.MonkeyPatch) -> None:
    content = Workspace.open(demo.root).report(["shore-facts"])
    keys = {page.path: page.key for page in site_of(content).pages}
    assert keys == {page.path: page.key for page in site_of(content).pages}
    monkeypatch.setitem(site._read, "", "other templates")
    assert not set(keys.values()) & {page.key for page in site_of(content).pages}


def test_names_are_found_however_they_are_written(place: Place, service) -> None:
    one = service(lambda content: (200, completion("I am GRÖßE (große+), not grösser or große.")))
    place.suite("sums", "title: S\nmark: {scheme: exact}\nquestions:\n  - {id: a, ask: Who?, key: x}\n")
    place.entrants(f'[entrant.knot]\ntitle = "Größe"\nendpoint = "{one.url}"\nmodel = "große+"\n')
    assert place.run("run", "sums").exit_code == 0
    (view,) = Workspace.open(place.root).report(["sums"], Redaction(anonymous=True)).suites[0].replies
    assert view.reply.text == "I am [A] ([A]), not grösser or große."


def test_names_with_dots_are_not_taken_for_others(place: Place, service) -> None:
    one = service(lambda content: (200, completion("```python\nprint(7)\n```\n7")))
    for name in ("a", "a.b"):
        place.suite(
            name,
            "title: S\nmark: {scheme: number}\nquestions:\n  - {id: b.c, ask: Seven?, key: 7}\n  - {id: c, ask: Eight?, key: 8}\n  - {id: b, ask: Nine?, key: 9}\n",
        )
    place.entrants("".join(f'[entrant."{name}"]\nendpoint = "{one.url}"\nmodel = "m{name}"\n' for name in ("k", "c.k")))
    assert place.run("run", "a", "a.b").exit_code == 0
    site = site_of(Workspace.open(place.root).report(["a", "a.b"]))
    assert len(site.paths) == len(site.pages) == len(set(site.paths.values()))
    assert place.run("report", "a", "a.b", "--single", "one.html").exit_code == 0
    ids = [one["id"] for one in soup(place.root / "one.html").select("[id]")]
    assert len(ids) == len(set(ids))


def test_a_pair_is_compared_anew_where_a_weight_or_a_price_changed(place: Place, service) -> None:
    one = service(lambda content: (200, completion("7")))
    suite = "title: S\nmark: {scheme: number}\nquestions:\n  - {id: a, ask: Seven?, key: 7, weight: 1}\n  - {id: b, ask: Eight?, key: 8}\n"
    place.suite("sums", suite)
    people = "".join(f'[entrant.{name}]\nendpoint = "{one.url}"\nmodel = "{name}"\n' for name in ("knot", "tern"))
    place.entrants(people)
    assert place.run("run", "sums").exit_code == 0

    def key() -> str:
        (page,) = [
            page for page in site_of(Workspace.open(place.root).report(["sums"])).pages if page.template == "pair.html"
        ]
        return page.key

    first = key()
    assert key() == first
    place.suite("sums", suite.replace("weight: 1", "weight: 3"))
    weighted = key()
    place.entrants(people + "price = {input = 1.0, output = 2.0}\n")
    assert len({first, weighted, key()}) == 3


def test_pictures_and_documents_of_questions_stand_beside_the_pages(place: Place, service) -> None:
    from PIL import Image

    one = service(lambda content: (200, completion("Answer: 7")))
    place.suite(
        "sums",
        "title: S\nmark: {scheme: number}\nquestions:\n  - {id: a, ask: How many?, key: 7, files: [files/boats.png, files/log.txt]}\n",
    )
    files = place.root / "suites" / "sums" / "files"
    files.mkdir()
    Image.new("RGB", (8, 4)).save(files / "boats.png")
    (files / "log.txt").write_text("<script>seven boats</script>")
    place.entrant("knot", one.url, "traits = {images = true}")
    done = place.run("run", "sums")
    assert done.exit_code == 0, done.stderr
    assert place.run("report", "sums", "--out", "report").exit_code == 0
    page = place.root / "report" / "sums" / "questions" / "a.html"
    (picture,) = soup(page).select(".asked figure img")
    assert (page.parent / picture["src"]).resolve().read_bytes() == (files / "boats.png").read_bytes()
    (link,) = soup(page).select(".asked p a")
    assert (page.parent / link["href"]).resolve().read_bytes() == (files / "log.txt").read_bytes()
    assert link["href"].endswith(".txt")
    assert place.run("report", "sums", "--without", "questions", "--out", "report").exit_code == 0
    assert not (place.root / "report" / "asked").exists()


def test_one_page_holds_all_and_leads_within_itself(demo: Place, tmp_path: Path) -> None:
    out = tmp_path / "one.html"
    assert demo.run("report", "tide-sums", "--single", str(out)).exit_code == 0
    page = soup(out)
    ids = [one["id"] for one in page.select("[id]")]
    assert len(ids) == len(set(ids))
    for link in page.select("a[href]"):
        assert link["href"].startswith("#")
        assert unquote(link["href"][1:]) in ids, link["href"]
    assert all(one["src"].startswith("data:") for one in page.select("img"))
    assert page.select("[src]:not(img)") == page.select("link") == []


@pytest.mark.parametrize(
    "typed, said",
    [
        (("tide-sums",), "name --out DIR for a folder of pages, or --single FILE for one page"),
        (("tide-sums", "--out", "x", "--single", "y"), "name --out DIR"),
        (("tide-sum", "--out", "x"), "did you mean"),
        (("tide-sums", "tide-sums@2", "--out", "x"), "takes each suite once"),
        (("tide-sums", "--baseline", "gdwit", "--out", "x"), "no entrant 'gdwit'"),
        (("tide-sums", "--out", "entrants.toml"), "is a file"),
    ],
)
def test_what_cannot_be_made_is_told(demo: Place, typed: tuple[str, ...], said: str) -> None:
    done = demo.run("report", *typed)
    assert done.exit_code != 0
    assert said in done.stderr


def test_a_suite_without_replies_has_no_report(demo: Place, tmp_path: Path) -> None:
    demo.suite("unasked", "title: S\nmark: {scheme: number}\nquestions:\n  - {id: a, ask: Seven?, key: 7}\n")
    done = demo.run("report", "unasked", "--out", str(tmp_path / "x"))
    shutil.rmtree(demo.root / "suites" / "unasked")
    assert "has no reply yet: 'dryquarry run unasked' asks for them" in done.stderr
    assert not (tmp_path / "x").exists()


def test_a_page_too_large_for_one_is_refused(demo: Place, tmp_path: Path, monkeypatch: pytest.MonkeyPatch) -> None:
    monkeypatch.setattr("dryquarry.cli.report.LARGEST_SINGLE_MB", 0.1)
    done = demo.run("report", "tide-sums", "--single", str(tmp_path / "one.html"))
    assert re.search(r"would be 0\.\d MB, more than 0\.1; use --out DIR", done.stderr)
    assert not (tmp_path / "one.html").exists()


@pytest.mark.parametrize("start, end", [(0, 3), (49_000, 49_010), (99_990, 100_000), (10, 99_000), (None, None)])
def test_of_a_long_text_the_part_around_the_answer_is_shown(start: int | None, end: int | None) -> None:
    text = "".join(f"{number:09} " for number in range(10_000))
    found = pieces_of(text, Mark(1.0, Verdict.PASS, "", start=start, end=end), 2000)
    assert found.cut
    assert len(found.whole) <= 2004
    shown = found.whole.removeprefix("… ").removesuffix(" …")
    assert shown in text
    if start is not None:
        assert found.marked == text[start : min(end, start + 1000)]


def test_markdown_has_no_teeth() -> None:
    shown = str(
        rendered_markdown(
            "# A\n<b onclick=x>b</b> [l](javascript:x) ![i](http://x/y.png) <http://x/>\n\n| a | b |\n|---|---|\n| 1 | 2 |\n\n\u202ex"
        )
    )
    page = BeautifulSoup(shown, "html.parser")
    assert {one.name for one in page.find_all()} <= {"h1", "p", "table", "thead", "tbody", "tr", "th", "td"}
    assert "<b onclick=x>" in page.get_text()
    assert "\\u202e" in shown
    assert SIGN.startswith(".")
