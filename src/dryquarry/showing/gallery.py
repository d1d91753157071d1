"""A folder of what entrants made: their works as files, pages that open without reaching anything, an index, sheets."""

from __future__ import annotations

import html
import re
from collections.abc import Sequence
from dataclasses import dataclass
from importlib import resources

from dryquarry.marking.values.texts import shortened
from dryquarry.showing import figures
from dryquarry.showing.contact_sheet import sheets_of, verdict_sign
from dryquarry.workspace.gallery import Made, Shelf

INDEX = "index.html"
# For a page from a reply, in a frame without an origin.
POLICY = (
    "default-src 'none'; script-src 'unsafe-inline' 'unsafe-eval'; style-src 'unsafe-inline'; img-src data: blob:; "
    "font-src data:; media-src data: blob:; frame-src 'none'; form-action 'none'; base-uri 'none'"
)
_NOT_IN_NAMES = re.compile(r"[^\w.-]+")


@dataclass(frozen=True, slots=True)
class Link:
    """A file of the gallery: where it is, and what it is."""

    path: str
    label: str


@dataclass(frozen=True, slots=True)
class Entry:
    """One entrant's row in the index."""

    title: str
    sign: str
    verdict: str
    reason: str
    links: tuple[Link, ...]


@dataclass(frozen=True, slots=True)
class Section:
    """One question of the index."""

    id: str
    text: str
    sheet: str | None
    entries: tuple[Entry, ...]


def gallery_files(shelves: Sequence[Shelf], title: str, day: str) -> dict[str, bytes]:
    """Return the files of a gallery, by their paths in its folder."""
    files: dict[str, bytes] = {}
    sheets = sheets_of(shelves)
    sections = []
    for shelf in shelves:
        name = safe_name(shelf.question.id)
        if shelf.question.id in sheets:
            files[f"{name}.png"] = sheets[shelf.question.id]
        entries = []
        for made in shelf.made:
            own = _files_of(made)
            folder = f"{name}/{_folder(made)}"
            files |= {f"{folder}/{path}": content for path, content in own.items()}
            entries.append(_entry(made, tuple(Link(f"{folder}/{path}", path) for path in own)))
        sheet = f"{name}.png" if shelf.question.id in sheets else None
        sections.append(Section(shelf.question.id, shelf.question.text, sheet, tuple(entries)))
    files[INDEX] = _index(title, day, sections).encode("utf-8")
    return files


def safe_name(name: str) -> str:
    """Return a name as a file can have it on every system."""
    return _NOT_IN_NAMES.sub("-", name).strip(".-") or "x"


def _folder(made: Made) -> str:
    trial = made.view.reply.held.trial
    return safe_name(made.view.entrant.name) + (f"-trial-{trial}" if trial > 1 else "")


def _entry(made: Made, links: tuple[Link, ...]) -> Entry:
    mark = made.view.mark
    trial = made.view.reply.held.trial
    title = made.view.entrant.title + (f", trial {trial}" if trial > 1 else "")
    verdict = str(mark.verdict) if mark else "none"
    reason = figures.visible(shortened(mark.reason, 300)) if mark else "no mark yet"
    return Entry(title, verdict_sign(mark), verdict, reason, links)


def _files_of(made: Made) -> dict[str, bytes]:
    """Return what one reply made as files: texts under their own names, pages to open, pictures, the reply itself."""
    files: dict[str, bytes] = {}
    for run in made.view.runs:
        for one in run.work.files:
            path = "/".join(safe_name(part) for part in one.path.split("/"))
            if run.work.language in ("html", "svg"):
                # as it stands it could reach the network when it is opened
                files[f"{path}.txt"] = one.text.encode("utf-8", "replace")
                name = path.rpartition(".")[0] or path
                files[f"{name}.html"] = framed(one.text, scripts=False).encode("utf-8")
                if run.work.language == "html":
                    files[f"{name}-with-scripts.html"] = framed(one.text, scripts=True).encode("utf-8")
            else:
                files[path] = one.text.encode("utf-8", "replace")
    for number, picture in enumerate(made.pictures, start=1):
        files[f"{number}-{safe_name(picture.label)[:60]}.png"] = picture.png
    files["reply.txt"] = made.view.reply.text.encode("utf-8", "replace")
    return files


def framed(text: str, *, scripts: bool) -> str:
    """Return a page that shows a page or drawing of a reply in a frame from which nothing is asked of any network.

    With its `scripts` it may name a server, to which a browser may then open a connection, on which it sends nothing.
    """
    sandbox = "allow-scripts" if scripts else ""
    text = _without_embeds(text)
    return (
        f'<!DOCTYPE html>\n<html lang="en"><head><meta charset="utf-8">\n'
        f'<meta http-equiv="Content-Security-Policy" content="{html.escape(POLICY)}">\n'
        "<title>From a reply, in a frame that reaches nothing</title>\n"
        "<style>html, body, iframe {margin: 0; width: 100%; height: 100%; border: 0; display: block}</style></head>\n"
        f'<body><iframe sandbox="{sandbox}" title="From a reply" srcdoc="{html.escape(text)}"></iframe></body></html>\n'
    )


def _without_embeds(text: str) -> str:
    """Return a page without what could only load something from elsewhere: a browser prepares for that unasked."""
    from bs4 import BeautifulSoup

    page = BeautifulSoup(text, "html5lib")
    for found in page.select("iframe, frame, object, embed, portal, base, link, meta[http-equiv]"):
        found.decompose()
    return str(page)


def _index(title: str, day: str, sections: Sequence[Section]) -> str:
    import jinja2

    template = (resources.files("dryquarry.showing.pages") / "gallery.html").read_text("utf-8")
    environment = jinja2.Environment(
        autoescape=True, undefined=jinja2.StrictUndefined, trim_blocks=True, lstrip_blocks=True
    )
    return environment.from_string(template).render(title=title, day=day, sections=sections)
