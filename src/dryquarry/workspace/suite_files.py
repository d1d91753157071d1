"""The files of one suite: the draft's, those that questions name, and the sealed editions."""

from __future__ import annotations

import hashlib
import os
import re
import tempfile
from collections.abc import Mapping
from functools import lru_cache
from pathlib import Path
from typing import TYPE_CHECKING

from dryquarry.errors import FileFault, UsageFault
from dryquarry.suites.ask import Attachment
from dryquarry.suites.beside import LARGEST_BESIDE, AttachmentFault
from dryquarry.suites.editions import EditionFault, read_edition
from dryquarry.suites.question import Suite
from dryquarry.workspace.file_door import LARGEST_FILE, Refused, read_file

if TYPE_CHECKING:
    from dryquarry.suites.reader import SuiteContent

SUITE_FILE = "suite.yaml"
QUESTIONS = "questions"
EDITIONS = "editions"
LARGEST_ATTACHMENT = 20 * 1024 * 1024
LARGEST_YAML = 20 * 1024 * 1024

MEDIA_TYPES: Mapping[str, str] = {
    ".png": "image/png",
    ".jpg": "image/jpeg",
    ".jpeg": "image/jpeg",
    ".webp": "image/webp",
    ".gif": "image/gif",
    ".txt": "text/plain",
    ".md": "text/markdown",
    ".csv": "text/csv",
    ".json": "application/json",
    ".yaml": "application/yaml",
    ".html": "text/html",
    ".xml": "application/xml",
}


# One command asks for the same edition several times: its content is verified once, and found again by itself.
MOST_KEPT_BYTES = 5_000_000
_read_again = lru_cache(maxsize=4)(read_edition)


class SuiteFiles:
    """The folder `suites/NAME`; `shown` is how paths in it are told to people."""

    def __init__(self, folder: Path, name: str, shown: str):
        self.folder = folder
        self.name = name
        self.shown = shown
        self._attachments: dict[str, Attachment] = {}

    def content(self) -> SuiteContent:
        """Return the contents of suite.yaml and of all files in questions/, sorted by name."""
        from dryquarry.suites.reader import SuiteContent

        files = tuple((self.path_shown(path), self.bytes_of(path)) for path in self._draft_paths())
        return SuiteContent(self.name, files, self.attachment, self.beside)

    def attachment(self, path: str) -> Attachment:
        """Return what a question's file is; raises AttachmentFault, for one outside the suite's folder too."""
        if path not in self._attachments:
            self._attachments[path] = self._looked_up(path)
        return self._attachments[path]

    def beside(self, path: str) -> bytes:
        """Return what a file by which replies are marked holds; raises AttachmentFault."""
        try:
            return read_file(self._inside(path), within=self.folder, most=LARGEST_BESIDE)
        except Refused as why:
            raise AttachmentFault(f"the file '{path}' cannot be read: {why}") from None

    def load(self, file: Attachment) -> bytes:
        """Return the bytes of a file that goes with a question; raises FileFault when they are not those of the ask."""
        content = self.bytes_of(self.folder / file.path)
        if hashlib.sha256(content).hexdigest() != file.sha256:
            raise FileFault(f"{self.shown}/{file.path} has changed since the edition was sealed; seal a new one")
        return content

    def edition_numbers(self) -> list[int]:
        """Return the numbers of the sealed editions, in order."""
        folder = self.folder / EDITIONS
        names = [path.name for path in folder.iterdir()] if folder.is_dir() else []
        return sorted(int(name[:-6]) for name in names if re.fullmatch(r"[1-9]\d{0,8}\.jsonl", name))

    def edition(self, number: int, *, lazily: bool = False, for_standings: bool = False) -> Suite:
        """Return a sealed edition, verified; raises UsageFault when there is none, EditionFault when edited.

        With `lazily` its questions are read when they are looked at, and not kept; with `for_standings` they have what
        standings take and no more.
        """
        path = self._edition_path(number)
        if not path.is_file():
            known = ", ".join(f"{self.name}@{one}" for one in self.edition_numbers())
            said = f"sealed are {known}" if known else "none is sealed yet"
            raise UsageFault(
                f"suite '{self.name}' has no edition {number}; {said}, and '{self.name}@draft' is the draft"
            )
        content = self.bytes_of(path)
        small = len(content) <= MOST_KEPT_BYTES and not lazily
        reading = _read_again if small else read_edition
        suite = reading(self.name, self.path_shown(path), content, lazily=lazily, for_standings=for_standings)
        if suite.edition != str(number):
            raise EditionFault(
                f"{self.path_shown(path)}:1: the header says edition {suite.edition}; the file was renamed"
            )
        return suite

    def newest(self) -> Suite | None:
        """Return the newest sealed edition, or None."""
        numbers = self.edition_numbers()
        return self.edition(numbers[-1]) if numbers else None

    def edition_size(self, number: int) -> int:
        """Return the size of an edition's file in bytes."""
        return self._edition_path(number).stat().st_size

    def edited_since(self, number: int) -> bool:
        """Tell whether any of the draft's files was written after an edition's file."""
        sealed_at = self._edition_path(number).stat().st_mtime
        return any(path.stat().st_mtime > sealed_at for path in self._draft_paths())

    def edition_bytes(self, number: int) -> bytes:
        """Return the content of an edition's file as it stands."""
        return self.bytes_of(self._edition_path(number))

    def write_edition(self, number: int, content: bytes) -> str:
        """Write a new edition's file and return its path; raises FileFault when that number is there already.

        The file appears whole or not at all, and of two people sealing the same number one wins.
        """
        path = self._edition_path(number)
        try:
            path.parent.mkdir(exist_ok=True)
            partial = _written_aside(path, content)
            try:
                os.link(partial, path)
            finally:
                partial.unlink()
        except FileExistsError:
            raise FileFault(
                f"{self.path_shown(path)} was sealed by somebody else meanwhile; look at it, then seal again"
            ) from None
        except OSError as error:
            raise FileFault(f"{self.path_shown(path)} cannot be written: {error.strerror}") from None
        return self.path_shown(path)

    def replace(self, shown: str, content: bytes) -> None:
        """Replace one of the draft's files, whole or not at all."""
        path = self.folder / Path(shown).relative_to(self.shown)
        try:
            path.parent.mkdir(parents=True, exist_ok=True)
            _written_aside(path, content).replace(path)
        except OSError as error:
            raise FileFault(f"{shown} cannot be written: {error.strerror}") from None

    def path_shown(self, path: Path) -> str:
        """Return a path of this folder as it is told to people."""
        return f"{self.shown}/{path.relative_to(self.folder).as_posix()}"

    def bytes_of(self, path: Path) -> bytes:
        """Return the content of a file; raises FileFault when it cannot be read."""
        most = LARGEST_YAML if path.suffix in (".yaml", ".yml") else LARGEST_FILE
        try:
            return read_file(path, within=self.folder, most=most)
        except Refused as why:
            more = "; questions in .jsonl may be more" if most == LARGEST_YAML and "larger" in str(why) else ""
            raise FileFault(f"{self.path_shown(path)} cannot be read: {why}{more}") from None

    def _draft_paths(self) -> list[Path]:
        more = self.folder / QUESTIONS
        found = more.rglob("*") if more.is_dir() else ()
        return [self.folder / SUITE_FILE, *sorted(path for path in found if path.suffix in (".yaml", ".yml", ".jsonl"))]

    def _edition_path(self, number: int) -> Path:
        return self.folder / EDITIONS / f"{number}.jsonl"

    def _inside(self, path: str) -> Path:
        # Resolved first: neither "..", an absolute path nor a symbolic link may lead out of the folder.
        if "\0" in path:
            raise AttachmentFault(f"the file '{path!r}' has no name that a file can have")
        place = (self.folder / path).resolve()
        if not place.is_relative_to(self.folder.resolve()):
            raise AttachmentFault(f"the file '{path}' lies outside the suite's folder; copy it into {self.shown}/files")
        return place

    def _looked_up(self, path: str) -> Attachment:
        place = self._inside(path)
        media_type = MEDIA_TYPES.get(place.suffix.lower())
        if media_type is None:
            known = ", ".join(suffix[1:] for suffix in MEDIA_TYPES)
            raise AttachmentFault(f"the file '{path}' is of no kind that can be sent; known are {known}")
        try:
            content = read_file(place, within=self.folder, most=LARGEST_ATTACHMENT)
        except Refused as why:
            raise AttachmentFault(f"the file '{path}' cannot be read: {why}") from None
        return Attachment(path, hashlib.sha256(content).hexdigest(), media_type)


def _written_aside(path: Path, content: bytes) -> Path:
    """Return a new file with the content beside the path, named as nobody else names theirs."""
    number, name = tempfile.mkstemp(dir=path.parent, prefix=f".{path.name}.")
    try:
        with os.fdopen(number, "wb") as file:
            file.write(content)
        os.chmod(name, 0o644)
    except OSError:
        Path(name).unlink(missing_ok=True)
        raise
    return Path(name)
