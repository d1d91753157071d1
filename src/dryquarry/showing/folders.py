"""Writing a folder of files whole or not at all; what somebody else put there is never touched."""

from __future__ import annotations

import os
import shutil
import tempfile
from collections.abc import Mapping
from pathlib import Path

from dryquarry.errors import FileFault, UsageFault

SIGN = ".dryquarry-folder"


def kept_in(target: Path, kind: str) -> Mapping[str, str]:
    """Return the keys of files that an earlier writing of the same kind left, by their paths; none for any other."""
    own = target / SIGN
    if not own.is_file():
        return {}
    lines = own.read_text("utf-8").splitlines()
    keyed = (line.partition("\t") for line in lines[1:])
    return {path: key for path, _, key in keyed if key and (target / path).is_file()} if lines[:1] == [kind] else {}


def write_folder(
    target: Path, kind: str, files: Mapping[str, bytes | None], keys: Mapping[str, str] | None = None
) -> None:
    """Write files into a new folder, or in place of one of the same kind that was written before.

    A file without content is one that is there already. `keys` say of what files were made; `kept_in` gives them back.
    Raises UsageFault where the folder holds anything else, FileFault where it cannot be written.
    """
    target = Path(os.path.realpath(target))  # a link stays one, and what it leads to is written
    check_folder(target, kind)
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        made = Path(tempfile.mkdtemp(prefix=f".{target.name}.", dir=target.parent))
        try:
            _write_all(made, target, kind, files, keys or {})
            made.chmod(0o755)
            if target.exists():
                old = made.with_name(f"{made.name}.old")
                os.rename(target, old)
                os.rename(made, target)
                shutil.rmtree(old)
            else:
                os.rename(made, target)
        except BaseException:
            shutil.rmtree(made, ignore_errors=True)
            raise
    except OSError as error:
        raise FileFault(f"{target} cannot be written: {error.strerror or error}") from None


def check_folder(target: Path, kind: str) -> None:
    """Raise UsageFault where a folder is neither new, nor empty, nor one of this kind with nothing else in it."""
    own = target / SIGN
    there = sorted(one.name for one in target.iterdir()) if target.is_dir() else []
    if target.exists() and not target.is_dir():
        raise UsageFault(f"{target} is a file; name a folder")
    if there and not (own.is_file() and own.read_text("utf-8").splitlines()[:1] == [kind]):
        raise UsageFault(
            f"{target} is not empty ({', '.join(there[:3])}) and no {kind} of this tool; name a new or empty folder"
        )
    listed = {line.partition("\t")[0] for line in own.read_text("utf-8").splitlines()[1:]} if there else set()
    foreign = [path for path in _files_below(target) if path not in listed and path != SIGN] if there else []
    if foreign:
        raise UsageFault(
            f"{target} holds {foreign[0]}, which this tool did not write; move it away, or name another folder"
        )


def write_file(target: Path, content: bytes) -> None:
    """Write a file whole or not at all; raises FileFault."""
    try:
        target.parent.mkdir(parents=True, exist_ok=True)
        with tempfile.NamedTemporaryFile(dir=target.parent, prefix=f".{target.name}.", delete=False) as made:
            made.write(content)
        os.chmod(made.name, 0o644)
        os.replace(made.name, target)
    except OSError as error:
        raise FileFault(f"{target} cannot be written: {error.strerror or error}") from None


def _write_all(
    folder: Path, before: Path, kind: str, files: Mapping[str, bytes | None], keys: Mapping[str, str]
) -> None:
    for path, content in files.items():
        place = folder / path
        place.parent.mkdir(parents=True, exist_ok=True)
        if content is None:
            shutil.copy2(before / path, place)
        else:
            place.write_bytes(content)
    lines = (f"{path}\t{keys[path]}" if path in keys else path for path in sorted(files))
    (folder / SIGN).write_text("\n".join([kind, *lines]) + "\n", "utf-8")


def _files_below(folder: Path) -> list[str]:
    return sorted(
        one.relative_to(folder).as_posix() for one in folder.rglob("*") if not one.is_dir() or one.is_symlink()
    )
