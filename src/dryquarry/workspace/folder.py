"""The workspace's folder: finding it, reading its files, and writing a new one."""

from __future__ import annotations

import gc
import json
import re
from collections.abc import Iterable, Iterator
from contextlib import contextmanager
from importlib import resources
from importlib.abc import Traversable
from pathlib import Path
from typing import TYPE_CHECKING

from dryquarry.asking.entrants import Entrants, read_entrants
from dryquarry.errors import Fault, FaultyFiles, FileFault, UsageFault, closest
from dryquarry.sandbox.settings import SandboxSettings, SettingsFault, read_settings
from dryquarry.suites.located import UnreadableText
from dryquarry.suites.question import DRAFT, Suite
from dryquarry.suites.question_reader import GOOD_NAME
from dryquarry.suites.toml_text import read_toml
from dryquarry.workspace.file_door import Refused, read_file
from dryquarry.workspace.suite_files import SUITE_FILE, SuiteFiles

if TYPE_CHECKING:
    # Made by whoever takes them: a board is read without them.
    from dryquarry.sandbox.performing import Sandbox
    from dryquarry.standin.bank import Bank
    from dryquarry.suites.reader import SuiteRead

MARKER = "dryquarry.toml"
MARKER_FIELDS = ("title", "sandbox", "language")
ENTRANTS = "entrants.toml"
SUITES = "suites"
EDITION_NUMBER = r"[1-9]\d{0,8}"
LARGE_EDITION_BYTES = 5_000_000
LEDGER = Path(".dryquarry") / "ledger.db"


class Folder:
    """The files of one workspace; raises FileFault or UsageFault with what, where and what next."""

    def __init__(self, root: Path):
        self.root = root
        self.sandbox_settings = SandboxSettings()

    @classmethod
    def find(cls, start: Path, *, exactly: bool = False) -> Folder:
        """Return the nearest workspace at or above `start`, or exactly there."""
        start = start.resolve()
        for place in [start] if exactly else [start, *start.parents]:
            if (place / MARKER).is_file():
                folder = cls(place)
                folder._check_marker()
                return folder
        where = f"{start} has no {MARKER}" if exactly else f"no {MARKER} in {start} or any folder above it"
        raise UsageFault(
            f"there is no workspace here: {where}; "
            "go to one, name it with --workspace DIR, or make one with 'dryquarry init DIR'"
        )

    @property
    def ledger_path(self) -> Path:
        """Where the ledger is kept."""
        return self.root / LEDGER

    def suite_names(self) -> list[str]:
        """Return the names of all suites, sorted."""
        folder = self.root / SUITES
        if not folder.is_dir():
            return []
        # A folder of any other name could not be named in a command: "x@1" is an edition of x.
        names = (place.name for place in folder.iterdir() if (place / SUITE_FILE).is_file())
        return sorted(name for name in names if GOOD_NAME.fullmatch(name))

    def files(self, name: str) -> SuiteFiles:
        """Return the files of a suite; raises UsageFault when there is no suite of that name."""
        if name not in self.suite_names():
            path = self.root / SUITES / name / SUITE_FILE
            near = closest(name, self.suite_names())
            raise UsageFault(f"there is no suite '{name}' (no file {self.relative(path)}){near}")
        return SuiteFiles(self.root / SUITES / name, name, f"{SUITES}/{name}")

    def read_draft(self, name: str, *, check_keys: bool = True) -> SuiteRead:
        """Return what the draft's files hold, faults and all; templates are drawn as in the newest edition."""
        from dryquarry.suites.reader import read_suite

        files = self.files(name)
        newest = files.newest()
        with no_garbage_collection():
            return read_suite(files.content(), newest.seed if newest else 1, check_keys=check_keys)

    def suite_to_run(self, reference: str) -> Suite:
        """Return the suite named, with the questions of a very large edition read lazily."""
        files, number = self._sealed(reference)
        if number is not None and files.edition_size(number) > LARGE_EDITION_BYTES:
            return files.edition(number, lazily=True)
        return self.suite(reference)

    def suite(self, reference: str) -> Suite:
        """Return the suite named by `NAME@N`, `NAME@draft`, or `NAME`: the newest edition, or else the draft.

        Raises FaultyFiles when the draft has faults, and EditionFault when an edition was edited.
        """
        name, _, edition = reference.partition("@")
        files = self.files(name)
        if edition not in ("", DRAFT) and not re.fullmatch(EDITION_NUMBER, edition):
            raise UsageFault(f"'{reference}' names no edition; write '{name}@3' or '{name}@{DRAFT}'")
        if edition not in ("", DRAFT):
            return files.edition(int(edition))
        newest = files.newest() if not edition else None
        if newest is not None:
            return newest
        read = self.read_draft(name)
        if read.faults or read.suite is None:
            raise FaultyFiles(f"suite '{name}'", read.faults)
        return read.suite

    def suite_for_standings(self, reference: str) -> Suite:
        """Return the suite named, of a sealed edition only what standings take of its questions."""
        files, number = self._sealed(reference)
        return self.suite(reference) if number is None else files.edition(number, for_standings=True)

    def _sealed(self, reference: str) -> tuple[SuiteFiles, int | None]:
        """Return the files of a suite, and which of its sealed editions a reference means, if one."""
        name, _, edition = reference.partition("@")
        files = self.files(name)
        numbers = files.edition_numbers()
        number = int(edition) if re.fullmatch(EDITION_NUMBER, edition) else (numbers or [0])[-1] if not edition else 0
        return files, number if number in numbers else None

    def entrants(self) -> Entrants:
        """Return who is in entrants.toml."""
        path = self.root / ENTRANTS
        if not path.is_file():
            raise FileFault(f"{path} is missing; it names the models to ask ('dryquarry init' shows an example)")
        return read_entrants(self.bytes_of(path), self.relative(path))

    def bank(self) -> Bank:
        """Return the stand-in's bank: the workspace's own `standin/*.toml`, or else the demo's."""
        from dryquarry.standin.bank import demo_bank, read_bank

        own = sorted((self.root / "standin").glob("*.toml"))
        if not own:
            return demo_bank()
        return read_bank((self.relative(path), self.bytes_of(path)) for path in own)

    def sandbox(self) -> Sandbox:
        """Return the sandbox in which what replies hold is run."""
        from dryquarry.sandbox.performing import Sandbox

        return Sandbox(self.sandbox_settings)

    def relative(self, path: Path) -> str:
        """Return a path as it is shown in messages: from the workspace's root."""
        return path.relative_to(self.root).as_posix() if path.is_relative_to(self.root) else str(path)

    def bytes_of(self, path: Path) -> bytes:
        """Return the content of a file; raises FileFault when it cannot be read."""
        try:
            return read_file(path, within=self.root)
        except Refused as why:
            raise FileFault(f"{self.relative(path)} cannot be read: {why}") from None

    def _check_marker(self) -> None:
        path = self.root / MARKER
        try:
            data = read_toml(self.bytes_of(path), str(path))
        except UnreadableText as error:
            raise FaultyFiles(MARKER, [error.fault]) from None
        for name in data:
            if name not in MARKER_FIELDS:
                fault = Fault("unknown-field", f"unknown field '{name}'{closest(name, MARKER_FIELDS)}", str(path))
                raise FaultyFiles(MARKER, [fault])
        try:
            self.sandbox_settings = read_settings(data)
        except SettingsFault as error:
            raise FaultyFiles(MARKER, [Fault("sandbox", str(error), str(path))]) from None


@contextmanager
def no_garbage_collection() -> Iterator[None]:
    """Leave garbage alone while many objects are made that all stay: looking for it finds none and takes long."""
    enabled = gc.isenabled()
    gc.disable()
    try:
        yield
    finally:
        if enabled:
            gc.enable()


def write_workspace(target: Path, kind: str) -> list[str]:
    """Write the files of a new workspace (`example` or `demo`), and return their paths.

    Nothing is ever overwritten: raises UsageFault when the folder holds anything already.
    """
    source = _template(kind)
    files = dict(_files_below(source))
    try:
        names = sorted(place.name for place in target.iterdir()) if target.is_dir() else []
        # A fresh folder often holds version control's own files already.
        taken = [name for name in names if not name.startswith(".git")]
        if taken or (target.exists() and not target.is_dir()):
            held = f"it holds {', '.join(taken[:3])}" if taken else "it is a file"
            raise UsageFault(f"{target} is not empty ({held}); name a new or empty folder, nothing was written")
        for path, content in files.items():
            place = target / path
            place.parent.mkdir(parents=True, exist_ok=True)
            place.write_bytes(content)
    except OSError as error:
        raise FileFault(f"{error.filename or target} cannot be written: {error.strerror}") from None
    return sorted(files)


def new_suite(folder: Folder, name: str, title: str) -> str:
    """Write suite.yaml of a new suite and return its path; raises UsageFault for a name that is no name, or taken."""
    if not GOOD_NAME.fullmatch(name):
        raise UsageFault(f"'{name}' is no name for a suite; use letters, digits, '-', '_' and '.'")
    path = folder.root / SUITES / name / SUITE_FILE
    if path.exists():
        raise UsageFault(
            f"there is a suite '{name}' already ({folder.relative(path)}); name another, nothing was written"
        )
    template = (resources.files("dryquarry.workspace") / "new_suite.yaml").read_text("utf-8")
    try:
        path.parent.mkdir(parents=True, exist_ok=True)
        path.write_text(template.replace("TITLE", json.dumps(title, ensure_ascii=False)), encoding="utf-8")
    except OSError as error:
        raise FileFault(f"{folder.relative(path)} cannot be written: {error.strerror}") from None
    return folder.relative(path)


def write_demo(target: Path) -> bool:
    """Write the demo workspace unless it is there, unchanged; tell whether it was written.

    Raises UsageFault when the folder holds something else, or a demo that somebody has changed.
    """
    files = dict(_files_below(_template("demo")))
    if all((target / path).is_file() and (target / path).read_bytes() == files[path] for path in files):
        return False
    write_workspace(target, "demo")
    return True


def _template(kind: str) -> Traversable:
    if kind == "demo":
        return resources.files("dryquarry.standin") / "data" / "demo"
    return resources.files("dryquarry.workspace") / "example"


def _files_below(folder: Traversable, prefix: str = "") -> Iterable[tuple[str, bytes]]:
    for place in sorted(folder.iterdir(), key=lambda one: one.name):
        if place.is_dir():
            yield from _files_below(place, f"{prefix}{place.name}/")
        else:
            yield f"{prefix}{place.name}", place.read_bytes()
