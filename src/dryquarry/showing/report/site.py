"""Pages and files that lead to each other, and how they are put together: as a folder, or as one page."""

from __future__ import annotations

import base64
import hashlib
import mimetypes
import posixpath
from collections.abc import Callable, Iterator, Mapping, Sequence
from dataclasses import dataclass, field
from functools import cached_property, partial
from importlib import resources
from typing import Any
from urllib.parse import quote

from jinja2 import Environment, FunctionLoader, StrictUndefined
from markupsafe import Markup

from dryquarry import __version__
from dryquarry.showing.figures import visible
from dryquarry.showing.report.workers import all_made

STYLE, SCRIPT = "report.css", "report.js"
FOLDER_POLICY = (
    "default-src 'none'; img-src 'self' data:; style-src 'self'; script-src 'self'; "
    "base-uri 'none'; form-action 'none'; frame-src 'none'"
)
# The sign between the parts of ids, which an address may have as it is.
SAFE = ":"
_TEMPLATES = "dryquarry.showing.pages.report"


@dataclass(frozen=True, slots=True)
class Crumb:
    """A step on the way to a page."""

    said: str
    link: str


@dataclass(frozen=True)
class Page:
    """A page: `id` is its name among pages, by which others lead to it, `path` where it stands in the folder.

    `key` says all that it is made of; of the same key it need not be made again. `context` is what its template shows.
    """

    id: str
    path: str
    title: str
    template: str
    key: str
    context: Callable[[], Mapping[str, Any]]
    way: tuple[Crumb, ...] = ()


@dataclass(frozen=True)
class Picture:
    """A picture that is drawn where one of the same `key` is not there already."""

    key: str
    draw: Callable[[], bytes]


@dataclass
class Site:
    """All pages, and the files beside them. A link is a page's id, with "#" and an anchor where it goes further."""

    title: str
    foot: str
    pages: list[Page] = field(default_factory=list)
    files: dict[str, bytes] = field(default_factory=dict)
    pictures: dict[str, Picture] = field(default_factory=dict)
    names: dict[str, str] = field(default_factory=dict)

    def add(
        self,
        id: str,
        path: str,
        title: str,
        template: str,
        made_of: Any,
        context: Callable[[], Mapping[str, Any]] | None = None,
        way: Sequence[Crumb] = (),
    ) -> None:
        """Add a page made of something, which is its context unless that is worked out when it is needed."""
        key = digest_of((__version__, _sources(), self.title, self.foot, id, title, template, tuple(way), made_of))
        self.pages.append(Page(id, path, title, template, key, context or (lambda: made_of), tuple(way)))

    def add_picture(self, path: str, made_of: Any, draw: Callable[[], bytes]) -> None:
        """Add a picture drawn from something."""
        self.pictures[path] = Picture(digest_of((__version__, path, made_of)), draw)

    def name(self, kind: str, name: str) -> str:
        """Return how a thing of a kind is called in paths: by its name, which no other may have in other letters."""
        own = f"{kind}/{name}"
        if own not in self.names:
            taken = {one.casefold() for whole, one in self.names.items() if whole.startswith(f"{kind}/")}
            found, number = name, 2
            while found.casefold() in taken:
                found, number = f"{name}-{number}", number + 1
            self.names[own] = found
        return self.names[own]

    @cached_property
    def paths(self) -> Mapping[str, str]:
        """Where each page stands, by its id."""
        return {page.id: page.path for page in self.pages}

    def folder(self, kept: Mapping[str, str]) -> Iterator[tuple[str, str, bytes | None]]:
        """Yield every file of the folder: its path, key and content; None where one of this key is there already."""
        for name in (STYLE, SCRIPT):
            content = _text(name).encode("utf-8")
            yield name, digest_of(content), content
        for path, content in self.files.items():
            yield path, digest_of(content), content
        makers: dict[str, tuple[str, Callable[[], bytes]]] = {
            path: (picture.key, picture.draw) for path, picture in self.pictures.items()
        }
        makers |= {page.path: (page.key, partial(self._whole, page)) for page in self.pages}
        wanted = [path for path, (key, _) in makers.items() if kept.get(path) != key]
        made = dict(zip(wanted, all_made([makers[path][1] for path in wanted]), strict=True))
        for path, (key, _) in makers.items():
            yield path, key, made.get(path)

    def single(self) -> bytes:
        """Return all pages as one, with the files that they show in it; links to other files are left out."""
        style, script = _text(STYLE), _text(SCRIPT)
        policy = (
            "default-src 'none'; img-src data:; base-uri 'none'; form-action 'none'; frame-src 'none'; "
            f"style-src '{_sha256(style)}'; script-src '{_sha256(script)}'"
        )
        links = _InOne(self)
        pages = [page for page in self.pages if page.template != "search.html"]  # a browser searches one page itself
        bodies = [(page, Markup(self._body(page, links))) for page in pages]
        template = _environment().get_template("single.html")
        return template.render(
            title=self.title,
            foot=self.foot,
            policy=policy,
            style=Markup(style),
            script=Markup(script),
            bodies=bodies,
        ).encode("utf-8", "replace")

    def _whole(self, page: Page) -> bytes:
        links = _InFolder(self, page)
        template = _environment().get_template("layout.html")
        body = Markup(self._body(page, links))
        return template.render(
            page=page,
            title=self.title,
            foot=self.foot,
            policy=FOLDER_POLICY,
            body=body,
            href=links.href,
            file=links.file,
        ).encode("utf-8", "replace")

    def _body(self, page: Page, links: _InFolder | _InOne) -> str:
        template = _environment().get_template(page.template)
        return template.render(page=page, href=links.href, file=links.file, image=links.image, **page.context())


class _InFolder:
    """Links of a page in the folder."""

    def __init__(self, site: Site, page: Page):
        self.site = site
        self.here = posixpath.dirname(page.path)
        self.known: dict[str, str] = {}

    def href(self, link: str) -> str:
        """Return the address of a page, from this one."""
        id, sign, anchor = link.partition("#")
        return self._to(self.site.paths[id]) + (f"#{quote(anchor, safe=SAFE)}" if sign else "")

    def file(self, path: str) -> str:
        """Return the address of a file beside the pages."""
        return self._to(path)

    image = file

    def _to(self, path: str) -> str:
        if path not in self.known:
            self.known[path] = quote(posixpath.relpath(path, self.here or "."))
        return self.known[path]


class _InOne:
    """Links within the one page."""

    def __init__(self, site: Site):
        self.site = site
        self._drawn: dict[str, bytes] = {}

    def href(self, link: str) -> str:
        """Return where a page, or an anchor in it, stands in this one."""
        id, _, anchor = link.partition("#")
        return "#" + quote(anchor or id, safe=SAFE)

    def file(self, path: str) -> str:
        """Return nothing: a single page has no files beside it."""
        return ""

    def image(self, path: str) -> str:
        """Return a picture as part of the page."""
        kind = mimetypes.guess_type(path)[0] or "application/octet-stream"
        return f"data:{kind};base64,{base64.b64encode(self._content(path)).decode('ascii')}"

    def _content(self, path: str) -> bytes:
        if path not in self._drawn:
            picture = self.site.pictures.get(path)
            self._drawn[path] = self.site.files[path] if picture is None else picture.draw()
        return self._drawn[path]


def digest_of(made_of: Any) -> str:
    """Return a digest of plain data, by how it shows itself."""
    content = made_of if isinstance(made_of, bytes) else repr(made_of).encode("utf-8", "surrogatepass")
    return hashlib.sha256(content).hexdigest()[:32]


def _sha256(text: str) -> str:
    return "sha256-" + base64.b64encode(hashlib.sha256(text.encode("utf-8")).digest()).decode("ascii")


_read: dict[str, str] = {}


def _text(name: str) -> str:
    if name not in _read:
        _read[name] = (resources.files(_TEMPLATES) / name).read_text("utf-8")
    return _read[name]


def _sources() -> str:
    """Return a digest of all templates."""
    if "" not in _read:
        names = sorted(one.name for one in resources.files(_TEMPLATES).iterdir() if one.name.endswith(".html"))
        _read[""] = digest_of([_text(name) for name in names])
    return _read[""]


_made: list[Environment] = []


def _environment() -> Environment:
    if not _made:
        from dryquarry.showing.report.texts import rendered_markdown

        made = Environment(
            autoescape=True,
            undefined=StrictUndefined,
            trim_blocks=True,
            lstrip_blocks=True,
            loader=FunctionLoader(_text),
            finalize=_seen,
        )
        made.filters["markdown"] = rendered_markdown
        _made.append(made)
    return _made[0]


def _seen(value: Any) -> Any:
    """Return what is put into a page, with control and hidden characters of texts made visible."""
    if not isinstance(value, str) or value.isprintable() or isinstance(value, Markup):
        return value
    return visible(value.replace("\r\n", "\n"))
