"""The columns of large boards, kept beside the ledger so that the same rows are not read twice.

What is kept is a copy. It counts only for the very state of the ledger that it was read from: its seal, and the size,
place and times of its files, of which the last change of state cannot be set by hand. So what was stored since, an edit
by hand and a copy of the whole folder are all read anew. The folder may be deleted at any time.
"""

from __future__ import annotations

import hashlib
import struct
import zlib
from collections.abc import Iterator, Mapping, Sequence
from contextlib import suppress
from pathlib import Path
from typing import Any

import numpy as np

from dryquarry.ledger.records import Slot
from dryquarry.ledger.seals import ledger_seal
from dryquarry.ledger.standing_rows import Sitter, StandingColumns, read_columns
from dryquarry.ledger.store import Ledger

FOLDER = "columns"
# Below so many replies they are read as fast as a copy of them.
WORTH_KEEPING = 100_000
MOST_KEPT = 4

# How each column of all sitters is kept, one after another; before them a row for each sitter, and the heading.
_COLUMNS = {
    "position": "<i4",
    "trial": "<i4",
    "score": "<f8",
    "seconds": "<f8",
    "first_token_s": "<f8",
    "input_tokens": "<f8",
    "output_tokens": "<f8",
    "outcome": "i1",
    "verdict": "i1",
    "form_kept": "i1",
    "sure": "?",
    "by_person": "?",
}
_SITTERS = np.dtype([("sitter", "<i8"), ("replies", "<i8"), ("older", "<i8")])
# The digest of the ledger's state, a check of what follows, and how many sitters.
_HEADING = struct.Struct("<32sII")


def standing_columns(
    ledger: Ledger,
    slots: Sequence[Slot],
    sitters: Sequence[tuple[int | None, str | None]],
    *,
    answers: bool = False,
) -> Iterator[StandingColumns | None]:
    """Yield for each sitter, given with since when it was asked anew, its replies; None where it has none.

    Raises ValueError for a row that was not stored so.
    """
    known = [(sitter_id, since) for sitter_id, since in sitters if sitter_id is not None]
    if answers or len(known) * len(slots) < WORTH_KEEPING:
        found = read_columns(ledger, slots, known, answers=answers)
    else:
        found = _kept_or_read(ledger, slots, known)
    for sitter_id, _ in sitters:
        yield None if sitter_id is None else found[sitter_id]


def _kept_or_read(
    ledger: Ledger, slots: Sequence[Slot], sitters: Sequence[Sitter]
) -> dict[int, StandingColumns | None]:
    wish = [(slot.position, slot.ask_id, slot.marking_id) for slot in slots], list(sitters)
    path = ledger.path.parent / FOLDER / f"{_digest(wish).hex()[:16]}.columns"
    state = _state(ledger)
    found = _kept(path, state)
    if found is None:
        found = read_columns(ledger, slots, sitters)
        if _state(ledger) == state:  # nothing came in between
            _keep(path, state, found)
    return found


def _state(ledger: Ledger) -> bytes:
    """Return a digest that is another one after anything that could make the columns differ."""
    with ledger.connected() as connection:
        seal = ledger_seal(connection)
    files = []
    for path in (ledger.path, ledger.path.with_name(f"{ledger.path.name}-wal")):
        if path.exists() and (now := path.stat()).st_size:
            files.append((now.st_dev, now.st_ino, now.st_size, now.st_mtime_ns, now.st_ctime_ns))
    return _digest((ledger.tool_version, _COLUMNS, seal, files))


def _digest(content: object) -> bytes:
    return hashlib.sha256(repr(content).encode("utf-8")).digest()


def _kept(path: Path, state: bytes) -> dict[int, StandingColumns | None] | None:
    """Return what was kept of this state, None where nothing was, or where it is damaged."""
    try:
        content = memoryview(path.read_bytes())
        its_state, check, count = _HEADING.unpack_from(content)
    except (OSError, struct.error):
        return None
    body = content[_HEADING.size :]
    if its_state != state or check != zlib.crc32(body):
        return None
    sitters = np.frombuffer(body, _SITTERS, count)
    replies, place = int(sitters["replies"].sum()), sitters.nbytes
    columns = {}
    for name, kind in _COLUMNS.items():
        columns[name] = np.frombuffer(body, kind, replies, place)
        place += columns[name].nbytes
    ends = np.cumsum(sitters["replies"]).tolist()
    return {
        sitter: _part(columns, slice(end - own, end), older) if own else None
        for (sitter, own, older), end in zip(sitters.tolist(), ends, strict=True)
    }


def _part(columns: Mapping[str, np.ndarray[Any, Any]], where: slice, older: int) -> StandingColumns:
    parts = {name: column[where] for name, column in columns.items()}
    wide = {name: parts[name].astype(np.intp) for name in ("position", "trial")}
    return StandingColumns(**parts | wide, older=older)


def _keep(path: Path, state: bytes, found: Mapping[int, StandingColumns | None]) -> None:
    """Keep columns for the next time; where the folder cannot be written there is none."""
    rows = [(sitter, 0, 0) if one is None else (sitter, len(one.position), one.older) for sitter, one in found.items()]
    parts = [np.array(rows, dtype=_SITTERS).tobytes()]
    for name, kind in _COLUMNS.items():
        parts += [getattr(one, name).astype(kind).tobytes() for one in found.values() if one is not None]
    body = b"".join(parts)
    with suppress(OSError):
        path.parent.mkdir(exist_ok=True)
        # of one name, so that what is left by a sudden end is written over; the check tells if two write at once
        part = path.with_suffix(".part")
        try:
            with part.open("wb") as file:
                file.write(_HEADING.pack(state, zlib.crc32(body), len(rows)))
                file.write(body)
            part.replace(path)
        finally:
            part.unlink(missing_ok=True)
        _forget_all_but_the_last(path.parent)


def _forget_all_but_the_last(folder: Path) -> None:
    by_age = sorted(folder.glob("*.columns"), key=lambda path: path.stat().st_mtime_ns)
    for path in by_age[:-MOST_KEPT]:
        path.unlink(missing_ok=True)
