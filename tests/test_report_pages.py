"""Reports in a real browser: what a reader sees and does, and what hostile replies do not."""

from __future__ import annotations

import re
import shutil
from collections.abc import Iterator
from pathlib import Path
from typing import Any

import pytest
import yaml_files

from conftest import Place, completion
from reports import ALL_SUITES, KINDS, Watched, a_browser, until, watching
from sandboxed import needs_browser

pytestmark = needs_browser
REPLIES = yaml_files.read(Path(__file__).parent / "data" / "hostile_replies.yaml")
HIT = "window.hit=1"


@pytest.fixture(scope="module")
def report(demo_made: tuple[Path, str], tmp_path_factory: pytest.TempPathFactory) -> Path:
    root = tmp_path_factory.mktemp("pages") / "demo"
    shutil.copytree(demo_made[0], root)
    done = Place(root).run("report", *ALL_SUITES, "--baseline", "godwit", "--out", "report")
    assert done.exit_code == 0, done.stderr
    return root / "report"


@pytest.fixture(scope="module")
def browser() -> Iterator[Any]:
    with a_browser() as made:
        yield made


@pytest.fixture(scope="module")
def reader(browser, report: Path) -> Iterator[Watched]:
    with watching(browser, report) as watched:
        yield watched


def test_every_page_opens_quietly(report: Path, reader: Watched) -> None:
    of_others = ("works", "lamp-logic", "shore-facts")
    pages = [path for path in sorted(report.rglob("*.html")) if not set(of_others) & set(path.parts)]
    assert len(pages) > 80
    for path in pages:
        reader.open(path)
        assert reader.page.title()
    reader.quiet()


@pytest.mark.parametrize("width", [320, 768, 1280])
def test_no_page_scrolls_sideways(browser, report: Path, width: int) -> None:
    with watching(browser, report, viewport={"width": width, "height": 800}) as watched:
        for kind, path in KINDS.items():
            page = watched.open(report / path)
            assert page.evaluate("document.documentElement.scrollWidth") <= width, kind
            if kind == "grid":
                marks = page.locator("tbody tr").first.locator("td a")
                assert marks.nth(2).bounding_box()["x"] < width, "no mark is to be seen"


@pytest.mark.parametrize("scheme", ["light", "dark"])
def test_pages_are_accessible(browser, report: Path, scheme: str, tmp_path: Path) -> None:
    from axe_playwright_python.sync_playwright import Axe

    bad = tmp_path / "bad.html"
    bad.write_text("<!DOCTYPE html><title>x</title><img src=x><p style='color:#ccc;background:#ddd'>faint</p>")
    with watching(browser, report, color_scheme=scheme) as watched:
        found = {one["id"] for one in Axe().run(watched.open(bad)).response["violations"]}
        assert {"image-alt", "color-contrast", "html-has-lang"} <= found
        kinds = (
            KINDS if scheme == "light" else {name: KINDS[name] for name in ("front", "grid", "judged", "made", "pair")}
        )
        for kind, path in kinds.items():
            found = Axe().run(watched.open(report / path)).response["violations"]
            assert [(one["id"], one["nodes"][0]["html"][:200]) for one in found] == [], kind


def test_from_board_to_grid_to_question_to_reply_by_clicks(report: Path, reader: Watched) -> None:
    page = reader.open(report / "index.html")
    page.click("main h2 a >> text=Tide and till sums")
    page.wait_for_url("**/tide-sums/index.html")
    page.click("main >> text=Grid")
    page.wait_for_url("**/tide-sums/grid.html")
    cell = page.locator("tr", has_text="fifth-spring-tide").locator("td a").nth(3)
    assert cell.get_attribute("aria-label") == "no answer"
    page.locator("tr", has_text="tower-steps").locator("td a").nth(2).click()
    target = page.locator(":target")
    assert target.get_attribute("data-entrant") == "dunlin"
    assert "fail" in target.get_attribute("class")
    assert target.bounding_box()["y"] < 800
    page.go_back()
    assert page.locator("h1").inner_text() == "Grid of Tide and till sums"
    reader.quiet()


def test_by_keys_alone(report: Path, reader: Watched) -> None:
    page = reader.open(report / "index.html")
    page.keyboard.press("Tab")
    assert page.evaluate("document.activeElement.textContent") == "To the content"
    page.keyboard.press("Enter")
    for _ in range(200):
        page.keyboard.press("Tab")
        if page.evaluate("document.activeElement.textContent.trim()") == "turnstone":
            break
    page.keyboard.press("Enter")
    page.wait_for_url("**/entrants/turnstone.html")
    page.keyboard.press("n")
    first = page.evaluate("document.querySelector('.here').innerText")
    page.keyboard.press("n")
    assert page.evaluate("document.querySelector('.here').innerText") != first
    page.keyboard.press("p")
    assert page.evaluate("document.querySelector('.here').innerText") == first
    page.keyboard.press("Enter")
    page.wait_for_url("**/questions/*.html*")
    reader.quiet()


def test_next_and_previous_failure_lead_over_pages(report: Path, reader: Watched) -> None:
    page = reader.open(report / "tide-sums" / "questions" / "tower-steps.html")
    page.keyboard.press("n")
    assert page.locator(".here").get_attribute("data-entrant") == "dunlin"
    page.keyboard.press("n")
    page.wait_for_url("**/questions/brine-salt.html")
    page.keyboard.press("p")
    page.wait_for_url("**/questions/tower-steps.html")
    page.keyboard.press("/")
    page.wait_for_url("**/search.html")
    page.keyboard.type("n")
    assert page.locator("input").input_value() == "n"
    reader.quiet()


def column(page: Any, place: int, table: str = "tbody tr") -> list[str]:
    rows = page.locator(table).all()
    return [row.locator("th, td").nth(place).inner_text() for row in rows if row.is_visible()]


def test_a_board_is_sorted_by_its_columns(report: Path, reader: Watched) -> None:
    page = reader.open(report / "tide-sums" / "index.html")
    before = column(page, 2)
    page.click("th >> text=cost")
    assert column(page, 2)[-1] == "turnstone"
    assert page.locator("th", has_text="cost").get_attribute("aria-sort") == "descending"
    page.click("th >> text=cost")
    assert column(page, 2)[0] == "turnstone"
    assert "#?sort.suite%3Atide-sums=" in page.url
    page.reload()
    assert column(page, 2)[0] == "turnstone"
    page.click("th >> text=entrant")
    assert column(page, 2) == sorted(before)


def test_a_grid_is_filtered_and_the_address_keeps_it(report: Path, reader: Watched) -> None:
    page = reader.open(report / "tide-sums" / "grid.html")
    rows = len(column(page, 0))
    assert rows == 27
    page.select_option("[name=category]", "time")
    assert set(column(page, 1)) == {"time"}
    page.select_option("[name=category]", "")
    page.select_option("[name=who]", label="curlew")
    page.select_option("[name=other]", label="dunlin")
    shown = column(page, 0)
    assert 0 < len(shown) < rows
    assert all(one != other for one, other in zip(column(page, 2), column(page, 4), strict=True))
    assert page.locator("output").inner_text() == f"{len(shown)} of {rows} shown"
    page.select_option("[name=mark]", "f")
    assert set(column(page, 2)) <= {"□", "□°"}
    address = page.url
    kept = column(page, 0)
    page.goto("about:blank")
    page.goto(address)
    assert column(page, 0) == kept
    assert page.locator("[name=mark]").input_value() == "f"
    page.click("text=Show all")
    until(page, "document.querySelector('output').textContent === ''")
    assert len(column(page, 0)) == rows
    assert "#" not in page.url or "?" not in page.url
    reader.quiet()


def test_an_entrants_failures_and_a_pairs_sides_are_filtered(report: Path, reader: Watched) -> None:
    page = reader.open(report / "entrants" / "plover.html")
    form = page.locator("form[data-filter='entrant:plover:tide-sums:rows']")
    form.locator("[name=kind]").select_option("fail")
    table = page.locator("table[data-rows='entrant:plover:tide-sums:rows'] tbody tr")
    assert {row.get_attribute("data-kind") for row in table.all() if row.is_visible()} == {"fail"}
    page = reader.open(report / "tide-sums" / "pairs" / "curlew--dunlin.html")
    page.locator("select").nth(1).select_option("dunlin better")
    sides = {one.get_attribute("data-side") for one in page.locator(".duel").all() if one.is_visible()}
    assert sides == {"dunlin better"}
    assert page.locator(".duel .two pre").count() >= 2


def test_questions_and_replies_are_searched(report: Path, reader: Watched) -> None:
    page = reader.open(report / "search.html")
    page.fill("input", "spring tides day")
    page.keyboard.press("Enter")
    until(page, "document.querySelector('output').textContent !== ''")
    found = page.locator(".found li a")
    assert any("fifth-spring-tide" in one for one in found.all_inner_texts())
    page.select_option("[name=where]", "questions")
    page.click("button")
    until(page, "document.querySelectorAll('.found li').length === 1")
    assert "words=spring+tides+day" in page.url
    found.first.click()
    page.wait_for_url("**/questions/fifth-spring-tide.html")
    page.go_back()
    until(page, "document.querySelectorAll('.found li').length === 1")
    reader.quiet()


def test_a_question_is_copied_as_text(browser, report: Path) -> None:
    with watching(browser, report, permissions=["clipboard-read", "clipboard-write"]) as watched:
        page = watched.open(report / "lamp-logic" / "questions" / "black-ball.html")
        page.click("text=Copy as text")
        page.wait_for_selector("text=Copied")
        copied = page.evaluate("navigator.clipboard.readText()")
        assert copied.startswith(page.locator(".asked pre").last.inner_text()[:40])
        assert "\n\n" in copied or page.locator(".options").count() == 0


def test_without_javascript_everything_can_be_read(browser, report: Path) -> None:
    with watching(browser, report, java_script_enabled=False) as watched:
        page = watched.open(report / "tide-sums" / "grid.html")
        assert not page.locator("form").first.is_visible()
        page.locator("tr", has_text="tower-steps").locator("td a").nth(2).click()
        assert page.locator("article.reply:target pre").is_visible()
        page = watched.open(report / "search.html")
        assert "needs JavaScript" in page.inner_text("main")


def test_a_page_is_printed(report: Path, reader: Watched) -> None:
    page = reader.open(report / "tide-sums" / "grid.html")
    printed = page.pdf(format="A4")
    assert printed.startswith(b"%PDF-")
    page.emulate_media(media="print")
    assert not page.locator("form").first.is_visible()
    assert not page.locator("nav.top").is_visible()
    page.emulate_media(media="screen")


def test_the_one_page_works_like_the_folder(browser, report: Path, tmp_path: Path) -> None:
    out = tmp_path / "one.html"
    assert Place(report.parent).run("report", "tide-sums", "--single", str(out)).exit_code == 0
    with watching(browser, out) as watched:
        page = watched.open(out)
        page.locator("[id='grid:tide-sums'] tr", has_text="tower-steps").locator("td a").nth(2).click()
        assert page.locator(":target").get_attribute("data-entrant") == "dunlin"
        assert page.evaluate("document.documentElement.scrollWidth") <= 1280
        page.locator("[id='grid:tide-sums'] [name=category]").select_option("time")
        assert page.locator("[id='grid:tide-sums'] tbody tr:visible").count() == 6
        watched.quiet()


@pytest.fixture(scope="module")
def hostile(tmp_path_factory: pytest.TempPathFactory, service_of_module) -> Path:
    """A report whose replies, titles and texts all try to do something."""
    place = Place(tmp_path_factory.mktemp("hostile"))
    (place.root / "dryquarry.toml").write_text("")
    replies = {f"t{number}": _filled(text) for number, text in enumerate(REPLIES)}
    bad = service_of_module(lambda content: (200, completion(replies[content["messages"][-1]["content"].split()[-1]])))
    good = service_of_module(lambda content: (200, completion("fine")))
    rows = "".join(
        f"  - {{id: {name}, ask: 'Say fine <script>{HIT}</script> {name}', key: fine, category: '<b>c</b>', tags: ['<i>t</i>', '\"x']}}\n"
        for name in replies
    )
    place.suite(
        "traps",
        f"title: '<script>{HIT}</script> traps'\nabout: '<img src=x onerror={HIT}>'\nmark: {{scheme: exact}}\nquestions:\n{rows}",
    )
    place.entrants(
        f'[entrant.bad]\ntitle = "<script>{HIT}</script>"\nendpoint = "{bad.url}"\nmodel = "<b>m</b>"\n'
        f'[entrant.good]\nendpoint = "{good.url}"\nmodel = "g"\n'
    )
    done = place.program("run", "traps")
    assert done.returncode == 0, done.stderr
    done = place.run("report", "traps", "--title", f"</title><script>{HIT}</script>", "--out", "report")
    assert done.exit_code == 0, done.stderr
    assert place.run("report", "traps", "--single", "one.html").exit_code == 0
    return place.root


def _filled(text: str) -> str:
    return "<b onmouseover=window.hit=1>5 MB</b>\n" * 140_000 if text == "BIG" else text.format(hit=HIT)


def _harmless(watched: Watched, path: Path) -> None:
    page = watched.open(path)
    for summary in page.locator("summary").all():
        summary.click()
    page.mouse.move(300, 500)
    assert page.evaluate("window.hit") is None, path
    own = "document.querySelectorAll('main script, main iframe, main object, main embed, main style, main link, main base, main video, main audio, main math, main svg, main meta, main [onclick], main [onerror], main [onload], main [onfocus], main [onmouseover], main [style]').length"
    assert page.evaluate(own) == 0, path
    links = page.evaluate("[...document.querySelectorAll('main a')].map((one) => one.protocol)")
    assert set(links) <= {"file:"}, path
    assert page.evaluate("document.querySelectorAll('main > h1').length") == 1, path


def test_hostile_replies_stay_texts(browser, hostile: Path) -> None:
    assert len(REPLIES) >= 40
    report = hostile / "report"
    with watching(browser, report) as watched:
        pages = sorted(report.rglob("*.html"))
        assert len(pages) > len(REPLIES)
        for path in pages:
            _harmless(watched, path)
        page = watched.open(report / "search.html")
        page.fill("input", "script")
        page.keyboard.press("Enter")
        until(page, "document.querySelectorAll('.found li').length > 20")
        assert page.evaluate("window.hit") is None
        watched.quiet()


def test_hostile_replies_stay_texts_on_one_page(browser, hostile: Path) -> None:
    with watching(browser, hostile / "one.html") as watched:
        page = watched.open(hostile / "one.html")
        page.wait_for_timeout(300)
        assert page.evaluate("window.hit") is None
        assert page.evaluate("document.querySelectorAll('script').length") == 1
        assert (
            page.evaluate("document.querySelectorAll('main :is(iframe, object, embed, link, meta, base)').length") == 0
        )
        watched.quiet()


def test_a_hostile_reply_is_shown_as_it_was_written(browser, hostile: Path) -> None:
    with watching(browser, hostile / "report") as watched:
        for number, text in enumerate(REPLIES):
            page = watched.open(hostile / "report" / "traps" / "questions" / f"t{number}.html")
            shown = page.locator("[data-entrant=bad] > pre.text").inner_text()
            if text == "BIG":
                assert len(shown) < 21_000
                assert (hostile / "report" / "texts").is_dir()
                assert page.locator("text=The whole reply").is_visible()
                continue
            said = _filled(text)
            if said.isprintable():
                assert shown.strip() == said.strip()
            assert not re.search("[\u202a-\u202e\u2066-\u2069\x00-\x08\x1b\x9b]", shown)


def test_a_work_is_opened_in_a_frame_that_runs_nothing(report: Path) -> None:
    frames = sorted((report / "works").rglob("*.html"))
    plain = [path for path in frames if not path.name.endswith(".scripts.html")]
    assert len(plain) >= 5
    for path in frames:
        text = path.read_text("utf-8")
        wanted = 'sandbox=""' if path in plain else 'sandbox="allow-scripts"'
        assert wanted in text, path
        assert "Content-Security-Policy" in text
